//! What a theme says never steers a terminal, and no command that is printed carries out what a file is called.

use std::process::Command;

use crate::fixture::Terminal;

/// An escape sequence, a bell, C1, what turns the direction of writing, and a carriage return by itself.
const STEERS: &str = "\\u001b[31mred\\u0007\\u009b2J\\u202eback\\u2066\\r";

/// A theme in which everything that can be named or described tries to steer what shows it.
fn steering() -> Terminal {
    let raw = "\u{1b}[2Jraw\u{7}\u{9b}31m\u{202e}";
    Terminal::new()
        .manifest(&format!(
            "[region.aside]\nlabel = \"Aside {STEERS}\"\nabout = \"About {STEERS}\"\n\n[hook.one]\nabout = \"{STEERS}\"\n\n[piece.note]\n\
             label = \"Note {STEERS}\"\ninputs.text = {{ type = \"string\", label = \"{STEERS}\", default = \"{STEERS}\" }}\n\
             offer = [{{ label = \"Offer {STEERS}\", item = {{ text = \"{STEERS}\" }} }}]\n\n[option.scheme]\nlabel = \"{STEERS}\"\ntype = \"string\"\n\
             enum = [\"a\", \"{STEERS}\"]\ndefault = \"a\"\n\n[[attach]]\nto = \"hook:one\"\ncall = \"notes.js#shown\"\nwhen = \"page.title != '{STEERS}'\"\n\n\
             [[attach]]\nto = \"hook:one{STEERS}\"\ncall = \"notes.js#{STEERS}\"\n\n[[attach]]\nto = \"hook:one\"\ncall = \"no {STEERS}.js#shown\"\n\n[{STEERS:?}]\n"
        ))
        .file("marsh/code/notes.js", format!("export const shown = () => {{ throw new Error(\"{raw}\"); }};\nexport const idle = 1;\n"))
        .file(&format!("marsh/code/{raw}.js"), format!("export const {{ {raw}\n"))
        .file("marsh/markup/pieces/note.html", format!("<p>{{{{ text }}}} {raw} {{{{ place(\"hook:{raw}\") }}}} {{{{ unknown }}}}</p>\n"))
        .file(&format!("marsh/markup/{raw}.html"), "<p>x</p>\n")
        .replace("marsh/markup/layout.html", "{% block main %}", "{{ place(\"hook:one\") }}{{ place(\"region:aside\") }}{% block main %}")
        .file("marsh/preview/site.toml", format!("title = \"Site {STEERS}\"\n[fill]\n\"region:aside\" = [{{ use = \"piece:note\", text = \"{STEERS}\" }}, {{ use = \"piece:{STEERS}\" }}]\n"))
        .file("marsh/preview/pages/front.toml", format!("path = \"/\"\ntype = \"front\"\ntitle = \"Front {STEERS}\"\nbody = \"front.md\"\n"))
        .file("marsh/preview/pages/front.md", format!("Words {raw} of the page.\n"))
        .file("marsh/preview/pages/odd.toml", format!("path = \"/odd{STEERS}/\"\ntype = \"no {STEERS}\"\ntitle = \"O\"\n"))
}

const COMMANDS: [&str; 40] = [
    "check --notes",
    "check --notes --format json",
    "check --notes --format sarif",
    "check --notes --format junit",
    "check --fix --dry-run",
    "list",
    "list --all",
    "list listener",
    "list --format json",
    "list --page /",
    "show",
    "show region:aside",
    "show hook:one",
    "show piece:note --source",
    "show option:scheme",
    "show piece:note --format json",
    "why region:aside",
    "why region:aside --page /",
    "why hook:one --page /",
    "why notes.js#shown --page /",
    "why hook:none",
    "map",
    "map / --format json",
    "desk",
    "desk --format json",
    "origin / --text words",
    "origin / --text of",
    "render / --format json",
    "render --into ../out",
    "render / --without hook:one",
    "trace /",
    "trace / --format json",
    "fire hook:one",
    "fire piece:note",
    "explain region:aside",
    "explain piece:note",
    "declare region:new --dry-run",
    "fill region:aside piece:note --dry-run",
    "withdraw piece:note",
    "rename notes.js#shown news",
];

/// What is printed there would steer a terminal, where it isn't the program's own.
fn steers(text: &str) -> Option<String> {
    // What the program itself prints: colours and the like, never anything else.
    // A line may end with a carriage return, too.
    let text = &text.replace("\r\n", "\n");
    let mut rest = text.as_str();
    while let Some(at) = rest.find(|c: char| c.is_control() && !"\n\t".contains(c) || "\u{202e}\u{2066}".contains(c)) {
        let here = &rest[at..];
        let own = here.strip_prefix("\u{1b}[").and_then(|after| {
            let end = after.find(|c: char| !c.is_ascii_digit() && c != ';')?;
            after[end..].strip_prefix('m')
        });
        match own {
            Some(after) => rest = after,
            None => return Some(here[..here.floor_char_boundary(60)].to_string()),
        }
    }
    None
}

#[test]
fn nothing_of_a_theme_steers_the_terminal() {
    let terminal = steering();
    for command in COMMANDS {
        // As on a terminal with colours.
        let mut command = terminal.command("marsh", command);
        let output = command.env_remove("NO_COLOR").env("CLICOLOR_FORCE", "1").output().unwrap();
        for printed in [output.stdout, output.stderr] {
            let text = String::from_utf8(printed).unwrap();
            assert_eq!(steers(&text), None, "{command:?}");
            assert!(!text.contains("panicked"), "{text}");
            // The colours are the program's: those of the theme are text.
            assert!(!text.contains("\u{1b}[31mred") && !text.contains("\u{1b}[2J"), "{command:?}");
        }
    }
    // What it says is there to be read all the same.
    terminal.types("show region:aside").says("\\u001b[31mred\\u0007\\u009b2J\\u202eback");
}

/// A theme on a base whose files are called as commands.
fn luring() -> Terminal {
    let name = "x$(touch pwned).js";
    Terminal::empty("marsh")
        .file("base/truehook.toml", format!(
            "[theme]\nname = \"base\"\nlabel = \"Base\"\nversion = \"1.0.0\"\nopen = true\n\n[hook.one]\nabout = \"O\"\n\n[region.aside]\nlabel = \"Aside\"\n\n\
             [piece.note]\nlabel = \"Note\"\nrender = \"{name}#note\"\noffer = [{{ label = \"$(touch pwned) `touch pwned`\", item = {{}} }}]\n\n\
             [partial.card]\nabout = \"C\"\n\n[[attach]]\nto = \"hook:one\"\ncall = \"{name}#shown\"\n"))
        .file(&format!("base/code/{name}"), "export const shown = () => \"shown\";\nexport const note = () => \"a note\";\nexport const idle = () => \"x\";\n")
        .file("base/markup/layout.html", crate::fixture::LAYOUT.replace("{% block main %}", "{{ place(\"hook:one\") }}<div id=\"a;touch pwned\">{{ place(\"region:aside\") }}</div>{% include \"y;touch pwned;.html\" %}{% block main %}"))
        .file("base/markup/page.html", "{% extends \"layout.html\" %}\n")
        .file("base/markup/y;touch pwned;.html", "<footer>words to find {{ place(\"hook:one\") }}</footer>\n")
        .file("base/markup/partials/card.html", "<p>c</p>\n")
        .file("base/preview/site.toml", "title = \"S\"\n[fill]\n\"region:aside\" = [{ use = \"piece:note\" }]\n")
        .file("marsh/truehook.toml", format!(
            "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\nbase = {{ path = \"../base\", version = \"^1\" }}\n\n\
             [[detach]]\nfrom = \"hook:one\"\ncall = \"base:x$(touch pwnd).js#shown\"\n\n[[attach]]\nto = \"hook:$(touch pwned)\"\ncall = \"{name}#shown\"\n"))
        .file(&format!("marsh/code/{name}"), "export const shown = () => \"shown\";\nexport const idle = () => \"x\";\n")
        .file("marsh/markup/z;touch pwned;.html", "<p>{{ place(\"hook:`touch pwned`\") }}{{ options.a }}</p>\n")
        .file("marsh/media/w&touch pwned&.js", "window.Tide = 1;\n")
}

/// The commands in what was printed: from the program's name to the end of the line, or of the quotes around it.
fn commands(text: &str) -> Vec<String> {
    let mut found = Vec::new();
    let text = text.replace("\\\n", " ");
    for line in text.lines() {
        let mut rest = line;
        while let Some(at) = rest.find("truehook ") {
            let (before, from) = rest.split_at(at);
            rest = &from["truehook ".len()..];
            if before.ends_with(['/', '.', '-', '<']) || before.ends_with("from \"") {
                continue;
            }
            found.push(from.trim_end_matches(['`', ')', ',']).to_string());
        }
    }
    found
}

#[test]
fn no_printed_command_carries_out_what_a_file_is_called() {
    let terminal = luring();
    let mut tried = 0;
    let mut all = String::new();
    for command in [
        "check --notes",
        "show hook:one",
        "show region:aside",
        "show piece:note",
        "list",
        "list --all",
        "list listener",
        "map",
        "map --html ../map.html",
        "atlas --md ../atlas.md",
        "atlas --html ../atlas.html",
        "desk",
        "desk --html ../desk.html",
        "origin / --text shown",
        "origin / --text \"a note\"",
        "origin / --text words",
        "origin / --text shown --format json",
        "why hook:one",
        "why base:x$(touch pwned).js#shown",
        "why region:aside --page /",
        "explain hook:one",
        "trace /",
        "declare region:kiosk",
        "withdraw region:kiosk",
        "adopt page.html --copy",
        "check --notes --format json",
        "render /",
        "map --format json",
    ] {
        let mut command = terminal.command("marsh", command);
        let output = command.env("COLUMNS", "200").output().unwrap();
        all.push_str(&String::from_utf8_lossy(&output.stdout));
        all.push_str(&String::from_utf8_lossy(&output.stderr));
    }
    for file in ["map.html", "atlas.md", "atlas.html", "desk.html"] {
        // As a page shows it, and as its copy buttons take it.
        let text = terminal.read(file);
        all.push_str(
            &text
                .replace("&#x27;", "'")
                .replace("&#39;", "'")
                .replace("&quot;", "\"")
                .replace("&gt;", ">")
                .replace("&lt;", "<")
                .replace("&amp;", "&"),
        );
    }
    let all = all.replace("\\\"", "\"").replace("\\\\", "\\");
    std::fs::create_dir(terminal.path("paste")).unwrap();
    for command in commands(&all) {
        // As far as the first quote that closes what was said around it, or as far as it goes: whatever a shell makes of
        // it, nothing of a name is carried out.
        let line = command.split('"').next().unwrap_or_default().split("</").next().unwrap_or_default();
        if !["touch", "`", "$("].iter().any(|lure| line.contains(lure)) {
            continue;
        }
        tried += 1;
        let script = format!("truehook() {{ :; }}\n{line}\n");
        let done = Command::new("sh").args(["-c", &script]).current_dir(terminal.path("paste")).output().unwrap();
        let pwned = std::fs::read_dir(terminal.path("paste")).unwrap().next().is_some();
        assert!(!pwned, "{line}\n{}", String::from_utf8_lossy(&done.stderr));
    }
    assert!(tried > 20, "only {tried} commands");
}
