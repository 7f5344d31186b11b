//! `demo`: writes the demo themes, and walks through the main job on them with real commands.

use std::fs;
use std::io::{IsTerminal, Write};
use std::process::Command;
use truehook_core::command_line;
use truehook_core::shell::{self, word};

use anyhow::{Context, Result, bail};
use camino::{Utf8Path, Utf8PathBuf};
use include_dir::{Dir, include_dir};

use crate::Outcome;
use crate::args::DemoArgs;
use crate::output::{stream, style, table};
use crate::site_folder::outside_themes;

static DEMO: Dir = include_dir!("$CARGO_MANIFEST_DIR/../../demo");

/// How many lines of a command's output are shown: what fits on a screen together with what is said.
const SCREEN: usize = 32;

/// A step of the walk: what it shows, and the command that shows it. `@` stands for the folder.
struct Step {
    about: &'static str,
    command: &'static [&'static str],
}

const WALK: &[Step] = &[
    Step {
        about: "A theme begins with one command: the layout as a sketch, one name for each part. What comes out\n\
                passes every check, and shows something in each part of three pages.",
        command: &["new", "ferry", "--sketch", "masthead masthead / main aside / footer footer", "--into", "@"],
    },
    Step {
        about: "Its pages, in a folder to open in a browser.",
        command: &["-C", "@/ferry", "render", "--into", "@/ferry-site"],
    },
    Step {
        about: "saltmarsh is the site of a tidal field station. It builds on the base theme foreshore, with\n\
                the companion tide-kit beside it. These are the points that it works with: where each is\n\
                placed, and what runs there.",
        command: &["-C", "@/saltmarsh", "list", "--layer", "saltmarsh"],
    },
    Step {
        about: "One point in full. Callbacks run in this order, whichever layer they come from.",
        command: &["-C", "@/saltmarsh", "show", "hook:under-masthead"],
    },
    Step {
        about: "Is every point in use declared, placed and reached? In these themes, yes.",
        command: &["check", "@/foreshore", "@/tide-kit", "@/saltmarsh"],
    },
    Step {
        about: "saltmarsh-broken is the same theme with mistakes that people really make. None of them\n\
                gives an error message on a live site: things are just not there.",
        command: &["check", "@/saltmarsh-broken"],
    },
    Step {
        about: "Why does one of them not show? The chain from its declaration to the page, with the link\n\
                that is broken.",
        command: &["-C", "@/saltmarsh-broken", "why", "region:tide-board"],
    },
    Step {
        about: "A mend is often a command. This one would place the region that nothing places;\n\
                with --dry-run it only shows the difference.",
        command: &[
            "-C",
            "@/saltmarsh-broken",
            "place",
            "region:tide-board",
            "--in",
            "front.html",
            "--inside",
            ".board-card",
            "--dry-run",
        ],
    },
    Step {
        about: "What is sure can be mended in one go: all of it or nothing, and here only shown.",
        command: &["-C", "@/saltmarsh-broken", "check", "--fix", "--dry-run"],
    },
    Step {
        about: "What ran at one point of a page, with what each callback was given and what it made of it.",
        command: &["-C", "@/saltmarsh", "trace", "/", "--point", "filter:site-line"],
    },
    Step {
        about: "Where did that line on the page come from? Back from the words to what printed them, through\n\
                all that had a turn, and out to the page.",
        command: &["-C", "@/saltmarsh", "origin", "/", "--text", "Merrowholm"],
    },
    Step {
        about: "The page itself, with every point outlined where it stands, what runs there in order, and\n\
                the commands that change it.",
        command: &["-C", "@/saltmarsh", "map", "/", "--html", "@/map.html"],
    },
    Step {
        about: "A script of the companion: which pages get it, and who asked for it. Nothing is on a page\n\
                that does not need it.",
        command: &["-C", "@/saltmarsh", "show", "script:clock-hand"],
    },
    Step {
        about: "The pages, rendered with all layers and callbacks, and the files that they use.",
        command: &["-C", "@/saltmarsh", "render", "--into", "@/site"],
    },
    Step {
        about: "The same site with the theme's words in German.",
        command: &["-C", "@/saltmarsh", "render", "/", "/log/", "--language", "de", "--into", "@/site-de"],
    },
];

pub fn run(args: &DemoArgs) -> Result<Outcome> {
    outside_themes(&args.into)?;
    let mut files = Vec::new();
    collect(&DEMO, &mut files);
    write_files(&args.into, &files)?;
    let mut out = crate::output::stream::stdout();
    let (on, off) = (style::POINT.render(), style::POINT.render_reset());
    writeln!(
        out,
        "{on}True Hook{off}  The demo is in {}: {} files of three themes and a companion.\n",
        args.into,
        files.len()
    )?;
    for (at, step) in WALK.iter().enumerate() {
        writeln!(out, "{on}{} of {}{off}  {}\n", at + 1, WALK.len(), step.about.replace('\n', "\n        "))?;
        show(&mut out, step, &args.into)?;
    }
    writeln!(out, "{on}Now look at{off}")?;
    for (file, what) in [
        ("ferry-site/index.html", "the theme that was just begun"),
        ("map.html", "the front page of saltmarsh with all its points"),
        ("site/index.html", "the same page, as visitors see it"),
        ("site-de/index.html", "the same, in German"),
        ("saltmarsh/truehook.toml", "what the theme declares and attaches"),
        ("saltmarsh/code/masthead.js", "callbacks"),
        ("saltmarsh/words/de.po", "a translation"),
        ("foreshore/markup/layout.html", "a template with placements"),
    ] {
        writeln!(out, "  {:<46} {what}", args.into.join(file))?;
    }
    writeln!(out, "{on}and try{off}")?;
    for command in [
        "check",
        "list listener",
        "show region:aside",
        "show feature:colours",
        "emit messages",
        "desk --html desk.html",
        "fire section:spotlight",
        "why masthead.js#lowWaterNotice --page /",
        "explain unplaced-point",
        "render / > front.html",
        "declare hook:over-tides",
    ] {
        writeln!(out, "  truehook -C {} {command}", word(&args.into.join("saltmarsh")))?;
    }
    writeln!(out, "{on}and leave open while you edit{off}")?;
    writeln!(out, "  {}", command_line!["-C", args.into.join("saltmarsh"), "preview", "--open"])?;
    out.flush()?;
    Ok(Outcome::Clean)
}

fn collect(dir: &'static Dir<'static>, files: &mut Vec<(Utf8PathBuf, &'static [u8])>) {
    for file in dir.files() {
        if let Some(path) = file.path().to_str() {
            files.push((path.into(), file.contents()));
        }
    }
    dir.dirs().for_each(|dir| collect(dir, files));
}

/// Writes the demo's files. Files that are there already and say something else are somebody's work.
fn write_files(into: &Utf8Path, files: &[(Utf8PathBuf, &'static [u8])]) -> Result<()> {
    let changed = files.iter().find(|(path, bytes)| fs::read(into.join(path)).is_ok_and(|known| known != *bytes));
    if let Some((path, _)) = changed {
        bail!(
            "{} was changed since the demo was written, and would be lost; say --into another folder",
            into.join(path)
        );
    }
    for (path, bytes) in files {
        let target = into.join(path);
        let folder = target.parent().unwrap_or(into);
        fs::create_dir_all(folder).with_context(|| format!("{folder} can't be made"))?;
        fs::write(&target, bytes).with_context(|| format!("{target} can't be written"))?;
    }
    Ok(())
}

/// Runs the real command, and shows what it really prints.
fn show(out: &mut impl Write, step: &Step, into: &Utf8Path) -> Result<()> {
    let mut words: Vec<String> = step.command.iter().map(|word| word.replace('@', into.as_str())).collect();
    // A theme that is there from the last time is somebody's by now.
    if let ["new", name, ..] = step.command
        && into.join(name).exists()
    {
        let other = (2..).map(|number| format!("{name}-{number}")).find(|name| !into.join(name).exists());
        words[1] = other.unwrap_or_else(|| name.to_string());
    }
    let typed = shell::line(words.iter().cloned());
    writeln!(out, "{}${} {typed}\n", style::NEXT.render(), style::NEXT.render_reset())?;
    let program = std::env::current_exe().context("the program can't find itself")?;
    let mut command = Command::new(program);
    // What it prints stands four columns further in.
    command.args(&words).env("COLUMNS", table::width().saturating_sub(4).to_string());
    // What it prints goes through this program, which knows whether there is a terminal.
    if std::io::stdout().is_terminal() && std::env::var_os("NO_COLOR").is_none() {
        command.env("CLICOLOR_FORCE", "1");
    }
    let done = command.output().context("the program can't run itself")?;
    let said = [&done.stdout, &done.stderr].map(|text| String::from_utf8_lossy(text).into_owned()).concat();
    // The escapes are those of this very program.
    let said = stream::own(&said);
    let lines: Vec<&str> = said.lines().collect();
    for line in lines.iter().take(SCREEN) {
        writeln!(out, "    {line}")?;
    }
    if lines.len() > SCREEN {
        let (on, off) = (style::QUIET.render(), style::QUIET.render_reset());
        // A line that was cut in the middle of a colour must not colour what follows.
        writeln!(out, "    {off}{on}… {} more lines; type it yourself to see them{off}", lines.len() - SCREEN)?;
    }
    writeln!(out)?;
    Ok(())
}
