//! The commands in the README and the guide do what these say.
//!
//! A fence `toml file=PATH` writes that file; with `replace`, its one line `OLD => NEW` changes it. In a
//! fence `console dir=DIR` each line that begins with `$ ` is typed there, and what follows is what it
//! prints: `…` stands for anything on a line, a line `...` for any lines.

use crate::fixture::Terminal;

/// A fenced block: the words of its first line, and its text.
fn blocks(document: &str) -> Vec<(Vec<&str>, String)> {
    let mut blocks = Vec::new();
    let mut lines = document.lines();
    while let Some(line) = lines.next() {
        if let Some(words) = line.strip_prefix("```") {
            let text: Vec<&str> = lines.by_ref().take_while(|line| !line.starts_with("```")).collect();
            blocks.push((words.split_whitespace().collect(), text.join("\n") + "\n"));
        }
    }
    blocks
}

fn word<'w>(words: &[&'w str], key: &str) -> Option<&'w str> {
    words.iter().find_map(|word| word.strip_prefix(key)?.strip_prefix('='))
}

fn run(document: &str) -> usize {
    let terminal = Terminal::new();
    let mut typed = 0;
    for (words, text) in blocks(document) {
        if let Some(path) = word(&words, "file") {
            match words.contains(&"replace") {
                true => {
                    let (old, new) = text.trim().split_once(" => ").expect("OLD => NEW");
                    let before = terminal.read(path);
                    assert!(before.contains(old), "{path} holds no {old}");
                    terminal.write(path, before.replacen(old, new, 1));
                }
                false => terminal.write(path, text),
            }
        } else if let Some(folder) = word(&words, "dir") {
            std::fs::create_dir_all(terminal.path(folder)).expect("a folder for the session");
            for session in text.split("$ truehook ").skip(1) {
                let (command, wanted) = session.split_once('\n').expect("a command ends with its line");
                let said = terminal.types_in(folder, command);
                typed += 1;
                let status: i32 = word(&words, "status").map_or(0, |status| status.parse().expect("a number"));
                let told = |text: &str| -> String {
                    let lines = text.lines().map(str::trim_end).filter(|line| !line.is_empty());
                    lines.map(|line| format!("{line}\n")).collect()
                };
                let wanted = format!("$ truehook {command}\n{}", told(wanted).replace('…', "[..]"));
                let got = format!("$ truehook {command}\n{}", told(&said.stdout));
                snapbox::assert_data_eq!(got, wanted);
                said.ends(status);
            }
        }
    }
    typed
}

#[test]
fn the_readme_says_what_happens() {
    assert!(run(include_str!("../../../../README.md")) >= 6);
}

#[test]
fn the_guide_says_what_happens() {
    assert!(run(include_str!("../../../../docs/guide.md")) >= 6);
}

#[test]
fn the_page_on_pages_says_what_happens() {
    assert!(run(include_str!("../../../../docs/from-a-page.md")) >= 3);
}

#[test]
fn the_page_on_features_says_what_happens() {
    assert!(run(include_str!("../../../../docs/features.md")) >= 7);
}

#[test]
fn the_page_on_whole_themes_says_what_happens() {
    assert!(run(include_str!("../../../../docs/whole-theme.md")) >= 5);
}

#[test]
fn the_page_on_mending_says_what_happens() {
    assert!(run(include_str!("../../../../docs/mending.md")) >= 7);
}
