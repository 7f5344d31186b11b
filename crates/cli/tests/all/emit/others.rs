//! Shell completions, manual pages, and the contract.

use std::process::{Command, Stdio};

use crate::fixture::Terminal;

/// What a shell offers for a line.
fn bash(terminal: &Terminal, line: &str) -> Vec<String> {
    let words: Vec<String> = line.split(' ').map(str::to_string).collect();
    bash_of(terminal, line, &words)
}

/// What it offers where it takes words apart at colons, as it does while somebody types.
fn bash_apart(terminal: &Terminal, line: &str) -> Vec<String> {
    let apart = line.replace(':', " : ");
    let mut words: Vec<String> = apart.split(' ').map(str::to_string).collect();
    // Behind a colon nothing stands yet.
    if line.ends_with(':') {
        words.pop();
    }
    bash_of(terminal, line, &words)
}

fn bash_of(terminal: &Terminal, line: &str, words: &[String]) -> Vec<String> {
    let words: Vec<String> = words.iter().map(|word| format!("{word:?}")).collect();
    let program = assert_cmd::cargo::cargo_bin!("truehook");
    let folder = program.parent().unwrap().to_str().unwrap();
    let script = format!(
        "export PATH={folder}:$PATH; source <(truehook emit completions bash); line={line:?}; \
         COMP_WORDS=({words}); COMP_CWORD=$((${{#COMP_WORDS[@]}} - 1)); COMP_LINE=\"$line\"; \
         COMP_POINT=${{#line}}; COMP_TYPE=9; f=$(complete -p truehook | sed 's/.*-F \\([^ ]*\\).*/\\1/'); \
         $f truehook \"${{COMP_WORDS[COMP_CWORD]}}\" \"\" ; printf '%s\\n' \"${{COMPREPLY[@]}}\"",
        words = words.join(" ")
    );
    let output = Command::new("bash")
        .args(["-c", &script])
        .current_dir(terminal.path("saltmarsh"))
        .stdin(Stdio::null())
        .output()
        .unwrap();
    let said = String::from_utf8(output.stdout).unwrap();
    assert!(output.stderr.is_empty(), "{}", String::from_utf8_lossy(&output.stderr));
    said.lines().map(|line| line.trim().to_string()).filter(|line| !line.is_empty()).collect()
}

#[test]
fn a_shell_knows_commands_and_the_names_of_the_theme_at_hand() {
    let terminal = Terminal::demo();
    for shell in ["bash", "zsh", "fish"] {
        let said = terminal.types(&format!("emit completions {shell}")).ends(0).stdout;
        assert!(said.contains("truehook"), "{said}");
    }
    let commands = bash(&terminal, "truehook ch");
    assert!(commands.iter().any(|word| word == "check"), "{commands:?}");
    let points = bash(&terminal, "truehook attach hook:under-m");
    assert!(points.iter().any(|word| word.ends_with("under-masthead")), "{points:?}");
    let callbacks = bash(&terminal, "truehook attach hook:under-masthead mast");
    assert!(callbacks.iter().any(|word| word == "masthead.js#welcome"), "{callbacks:?}");
    let templates = bash(&terminal, "truehook adopt lay");
    assert!(templates.iter().any(|word| word == "layout.html"), "{templates:?}");
    let pages = bash(&terminal, "truehook trace /l");
    assert!(pages.iter().any(|word| word == "/log/"), "{pages:?}");
    for (line, wanted) in [
        ("truehook attach hook:under-m", "under-masthead"),
        ("truehook attach hook:", "under-masthead"),
        ("truehook why region:asi", "aside"),
        ("truehook attach hook:under-masthead mast", "masthead.js#welcome"),
        ("truehook ch", "check"),
    ] {
        let found = bash_apart(&terminal, line);
        assert!(found.iter().any(|word| word == wanted), "{line}: {found:?}");
    }
    let elsewhere = bash(&Terminal::empty("saltmarsh").file("saltmarsh/x", ""), "truehook attach hook:");
    assert!(!elsewhere.iter().any(|word| word.contains("masthead")), "{elsewhere:?}");
}

#[test]
fn manual_pages_tell_every_command() {
    let terminal = Terminal::demo();
    let page = terminal.types("emit man").ends(0).stdout;
    assert!(page.contains(".TH truehook 1") && page.contains("extension points"), "{page}");
    terminal.types("emit man --into pages").ends(0).says("pages in pages");
    let check = terminal.read("saltmarsh/pages/truehook-check.1");
    assert!(check.contains("\\-\\-baseline") && check.contains(".TH truehook-check"), "{check}");
}

#[test]
fn the_contract_is_a_beginning_of_ones_own() {
    let terminal = Terminal::new();
    terminal.types("emit host --into ../harbour").ends(0).says("built-in contract");
    terminal.types_in("harbour", "check").ends(0).says("nothing wrong");
    terminal.types("emit host --into ../harbour").ends(2).says("is there already");
    let manifest = terminal
        .read("marsh/truehook.toml")
        .replace("version = \"1.0.0\"\n", "version = \"1.0.0\"\nhost = { contract = \"../harbour\" }\n");
    terminal.write("marsh/truehook.toml", manifest);
    terminal.types("check").ends(0).says("nothing wrong");
    let contract = terminal.read("harbour/truehook.toml").replace("Inside the head element", "In the harbour's head");
    terminal.write("harbour/truehook.toml", contract);
    terminal.types("show hook:document-head").ends(0).says("In the harbour's head");
}
