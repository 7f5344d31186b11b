//! Completion in a shell: commands and options, and the names of the theme at hand.

use std::collections::BTreeMap;
use std::ffi::OsStr;

use anyhow::{Context, Result};
use camino::{Utf8Path, Utf8PathBuf};
use clap::{Command, CommandFactory};
use clap_complete::CompleteEnv;
use clap_complete::engine::{ArgValueCompleter, CompletionCandidate};
use clap_complete::env::Shells;
use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, FileKind, Files, Listed, Project, Unreadable};
use truehook_core::rules;
use truehook_core::scan::Shape;

use crate::args::{Arguments, Shell};
use crate::workshop;

/// The variable in which a shell says that it wants to complete.
const VARIABLE: &str = "COMPLETE";

/// Answers a shell that wants to complete, where one asks. Answers whether it did.
pub fn answered() -> bool {
    if std::env::var_os(VARIABLE).is_none() {
        return false;
    }
    let current = std::env::current_dir().ok();
    let asked = CompleteEnv::with_factory(command).try_complete(std::env::args_os(), current.as_deref());
    // A shell in the middle of a line is no place for an error.
    asked.unwrap_or(true)
}

/// Words put together again that bash takes apart.
const WHOLE_WORDS: &str = include_str!("completing.bash");

/// What a shell has to read to complete.
pub fn script(shell: Shell) -> Result<Vec<u8>> {
    let name = match shell {
        Shell::Bash => "bash",
        Shell::Zsh => "zsh",
        Shell::Fish => "fish",
    };
    let known = Shells::builtins();
    let completer = known.completer(name).context("this shell can't complete")?;
    let mut text = Vec::new();
    completer.write_registration(VARIABLE, "truehook", "truehook", "truehook", &mut text)?;
    if matches!(shell, Shell::Bash) {
        text.extend_from_slice(WHOLE_WORDS.as_bytes());
    }
    Ok(text)
}

/// What an argument is, where the theme knows its values.
fn completer(command: &str, argument: &str) -> Option<fn(&OsStr) -> Vec<CompletionCandidate>> {
    Some(match (command, argument) {
        ("attach", "what" | "before" | "after") | ("detach" | "replace", "callback") | ("replace", "with") => callbacks,
        (_, "address" | "addresses" | "point") | ("withdraw", "to") => addresses,
        ("why", "what") | ("rename", "from") => addresses_and_callbacks,
        ("place" | "adopt" | "list", "template") => templates,
        (_, "page" | "pages") => pages,
        ("explain", "word") => words,
        _ => return None,
    })
}

/// The command line, with what the theme knows.
fn command() -> Command {
    let mut whole = Arguments::command();
    let names: Vec<String> = whole.get_subcommands().map(|command| command.get_name().to_string()).collect();
    for name in names {
        whole = whole.mut_subcommand(&name, |command| {
            command.mut_args(|argument| match completer(&name, argument.get_id().as_str()) {
                Some(known) => argument.add(ArgValueCompleter::new(known)),
                None => argument,
            })
        });
    }
    whole
}

/// The theme that the line is about, as far as some of its folders tell: the one behind `-C`, else the nearest upwards.
fn project(parts: &'static [&'static str]) -> Option<Project> {
    let words: Vec<String> = std::env::args().collect();
    let named = words.iter().position(|word| word == "-C").and_then(|at| words.get(at + 1));
    let folder: Utf8PathBuf = workshop::find_theme(named.map(Utf8Path::new)).ok()?;
    Project::open(&Only(parts), &folder).ok()
}

/// Who waits for a key needs no more of a large theme than its answer does.
struct Only(&'static [&'static str]);

const MANIFESTS: &[&str] = &["truehook.toml", "points"];
const CALLBACKS: &[&str] = &["truehook.toml", "points", "code"];
const TEMPLATES: &[&str] = &["truehook.toml", "markup"];
const PAGES: &[&str] = &["truehook.toml", "preview"];

impl Files for Only {
    fn folder(&self, path: &Utf8Path) -> Option<Utf8PathBuf> {
        DiskFiles.folder(path)
    }

    fn folders(&self, path: &Utf8Path) -> Vec<String> {
        DiskFiles.folders(path)
    }

    fn list(&self, root: &Utf8Path, part: &str) -> Vec<Listed> {
        let wanted = self.0.iter().any(|known| Utf8Path::new(part).starts_with(known));
        if wanted { DiskFiles.list(root, part) } else { Vec::new() }
    }

    fn read(&self, path: &Utf8Path) -> Result<Vec<u8>, Unreadable> {
        DiskFiles.read(path)
    }
}

/// Candidates that begin as what is typed does.
fn fitting(typed: &OsStr, all: impl IntoIterator<Item = Named>) -> Vec<CompletionCandidate> {
    let typed = typed.to_string_lossy();
    let fits = all.into_iter().filter(|(name, _)| name.starts_with(&*typed));
    fits.map(|(name, about)| CompletionCandidate::new(name).help(about.map(Into::into))).collect()
}

/// A name, and what it is.
type Named = (String, Option<String>);

/// What is declared, in whatever layer; the highest says what it is.
fn points(project: &Project) -> Vec<Named> {
    let mut found: BTreeMap<String, Option<String>> = BTreeMap::new();
    for facts in Registry::scan(project) {
        let Shape::Manifest(manifest) = facts.shape else { continue };
        for declared in manifest.declarations {
            let about = declared.label.or(declared.about).map(|about| about.to_string());
            let known = found.entry(declared.address.to_string()).or_default();
            *known = about.or(known.take());
        }
    }
    found.into_iter().collect()
}

/// What modules export, as it is called from the theme.
fn exports(project: &Project) -> Vec<Named> {
    let mut found = Vec::new();
    for (file, facts) in project.files.iter().zip(Registry::scan(project)) {
        let Shape::Module(module) = facts.shape else { continue };
        let layer = project.layer(file.layer).name;
        let prefix = if file.layer == project.top() { String::new() } else { format!("{layer}:") };
        let named = module.exports.iter().map(|export| format!("{prefix}{}#{}", file.name(), export.name));
        found.extend(named.map(|name| (name, Some(layer.to_string()))));
    }
    found
}

fn markup(project: &Project) -> Vec<Named> {
    let files = project.files.iter().filter(|file| file.kind == FileKind::Template);
    files.map(|file| (file.name().to_string(), Some(project.layer(file.layer).name.to_string()))).collect()
}

fn paths(project: &Project) -> Vec<Named> {
    let pages = Registry::scan(project).into_iter().filter_map(|facts| {
        let Shape::Page(page) = facts.shape else { return None };
        let title = page.value.get("title").and_then(|title| title.as_str()).map(str::to_string);
        Some((page.path?.name.to_string(), title))
    });
    pages.collect()
}

fn addresses(typed: &OsStr) -> Vec<CompletionCandidate> {
    fitting(typed, project(MANIFESTS).iter().flat_map(points))
}

fn callbacks(typed: &OsStr) -> Vec<CompletionCandidate> {
    fitting(typed, project(CALLBACKS).iter().flat_map(exports))
}

fn addresses_and_callbacks(typed: &OsStr) -> Vec<CompletionCandidate> {
    let known = project(CALLBACKS);
    fitting(typed, known.iter().flat_map(|project| points(project).into_iter().chain(exports(project))))
}

fn templates(typed: &OsStr) -> Vec<CompletionCandidate> {
    fitting(typed, project(TEMPLATES).iter().flat_map(markup))
}

fn pages(typed: &OsStr) -> Vec<CompletionCandidate> {
    fitting(typed, project(PAGES).iter().flat_map(paths))
}

fn words(typed: &OsStr) -> Vec<CompletionCandidate> {
    fitting(typed, rules::ALL.iter().map(|rule| (rule.name.to_string(), Some(rule.summary.to_string()))))
}
