//! Every command that is printed to mend something is one that can be pasted: it succeeds, what it is printed
//! for is gone, and what it leaves to be done it says itself.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::Path;

use fastrand::Rng;
use serde_json::Value;
use truehook_core::rules::ALL;

use crate::fixture::Terminal;

/// The commands in what is printed. Those with a word in capitals, or dots, ask for something of the reader's.
fn commands(text: &str) -> Vec<String> {
    let mut found = Vec::new();
    for (at, _) in text.match_indices("truehook ") {
        if text[..at].ends_with(|c: char| c.is_alphanumeric() || "/.-`".contains(c)) {
            continue;
        }
        let rest = &text[at + "truehook ".len()..];
        let end = ["\n", "; ", "   (", ", or", ", and", ")"].iter().filter_map(|end| rest.find(end)).min();
        let command = rest[..end.unwrap_or(rest.len())].trim().to_string();
        let asks = |word: &str| word.contains('…') || word.chars().all(|c| c.is_ascii_uppercase() || ":#.".contains(c));
        let typed = command.split(' ').next().is_some_and(|verb| verb.chars().all(|c| c.is_ascii_lowercase()));
        if typed && !command.split([' ', ':', '#', '.']).any(|word| !word.is_empty() && asks(word)) {
            found.push(command);
        }
    }
    found
}

/// Findings, as rule and message.
type Told = BTreeSet<(String, String)>;

/// What `check` finds.
fn findings(terminal: &Terminal, folder: &str) -> Vec<Value> {
    let said = terminal.types_in(folder, "check --format json");
    let told: Value = serde_json::from_str(&said.stdout).unwrap_or_else(|_| panic!("{}{}", said.stdout, said.stderr));
    told["findings"].as_array().expect("findings").clone()
}

fn told(findings: &[Value]) -> Told {
    let text = |value: &Value| value.as_str().unwrap_or_default().to_string();
    findings.iter().map(|finding| (text(&finding["rule"]), text(&finding["message"]))).collect()
}

/// Follows a command, and what it says is to be done next, in a copy of a theme, of which `before` is told. What is
/// wrong with that, if anything.
fn follow(terminal: &Terminal, folder: &str, command: &str, before: &Told, about: &(String, String)) -> Option<String> {
    let looks = ["show", "list", "explain", "why"].iter().any(|verb| command.starts_with(verb));
    let mut waiting = vec![command.to_string()];
    let (mut done, mut advice) = (Vec::new(), BTreeSet::new());
    while let Some(next) = waiting.pop() {
        if done.contains(&next) || done.len() > 6 {
            continue;
        }
        let said = terminal.types_in(folder, &next);
        done.push(next.clone());
        if said.status == Some(2) || said.status.is_none() {
            return Some(format!("`truehook {next}` fails: {}{}", said.stdout, said.stderr));
        }
        let after: Vec<&str> = said.stdout.lines().filter(|line| line.trim_start().starts_with("next:")).collect();
        if let Some(prose) = after.iter().find(|line| !line.trim_start().starts_with("next: truehook ")) {
            return Some(format!("`truehook {next}` calls this the next command: {prose}"));
        }
        waiting.extend(after.into_iter().flat_map(commands));
        advice.extend(said.stdout.lines().filter_map(|line| line.strip_prefix("advice: ")).map(str::to_string));
    }
    if looks {
        return None;
    }
    let left = findings(terminal, folder);
    let after = told(&left);
    if after.contains(about) {
        return Some(format!("it is still told after {done:?}"));
    }
    // What the command leaves to people it says itself.
    let is_said = |finding: &Value| advice.contains(finding["mend"]["text"].as_str().unwrap_or_default());
    let said = told(&left.into_iter().filter(is_said).collect::<Vec<_>>());
    let new: Vec<_> = after.difference(before).filter(|new| !said.contains(new)).collect();
    (!new.is_empty()).then(|| format!("after {done:?} there is more: {new:#?}"))
}

/// Runs all that `check` and `why` print about a theme; how many that were, and what went wrong.
fn all_of(theme: &dyn Fn() -> Terminal, folder: &str, complaints: &mut Vec<String>) -> usize {
    let terminal = theme();
    let found = findings(&terminal, folder);
    let before = told(&found);
    let text = terminal.types_in(folder, "check --notes").stdout;
    let prose = text.lines().filter(|line| line.contains("= mend: ") && !line.contains("= mend: truehook "));
    complaints.extend(prose.map(|line| format!("this is called a mend: {line}")));
    let mut count = 0;
    let mut tried = BTreeSet::new();
    for finding in &found {
        let text = |key: &str| finding[key].as_str().unwrap_or_default().to_string();
        let (rule, message, point) = (text("rule"), text("message"), text("point"));
        let mut printed = finding["mend"]["text"].as_str().unwrap_or_default().to_string();
        if finding["mend"]["safe"] == true {
            printed.push_str("\ntruehook check --fix");
        }
        if !point.is_empty() {
            let why = terminal.types_in(folder, &format!("why {point}"));
            let mends = why.stdout.lines().filter(|line| line.contains("mend: ") || line.contains("or: "));
            printed.extend(mends.flat_map(|line| ["\n", line]));
        }
        for command in commands(&printed) {
            if tried.insert((command.clone(), rule.clone(), message.clone())) {
                count += 1;
                let about = (rule.clone(), message.clone());
                let complaint = follow(&theme(), folder, &command, &before, &about);
                complaints.extend(complaint.map(|why| format!("[{rule}] {message}\n  truehook {command}: {why}")));
            }
        }
    }
    count
}

#[test]
fn every_command_that_is_printed_as_a_mend_can_be_pasted() {
    let mut complaints = Vec::new();
    let mut count = all_of(&Terminal::demo, "saltmarsh-broken", &mut complaints);
    for rule in ALL {
        let theme = || {
            let terminal = Terminal::new();
            for (path, bytes) in rule.wrong.files().iter() {
                terminal.write(path.as_str().strip_prefix("/site/").expect("below the site"), bytes);
            }
            terminal
        };
        count += all_of(&theme, "example", &mut complaints);
    }
    assert!(complaints.is_empty(), "{} of {count}:\n{}", complaints.len(), complaints.join("\n"));
}

/// The demo without one line: of the theme's own files, and of the layout that it builds on.
#[test]
fn what_is_printed_where_a_line_is_lost_can_be_pasted() {
    let mut complaints = Vec::new();
    let mut count = 0;
    let files = [
        "saltmarsh/truehook.toml",
        "saltmarsh/points/species.toml",
        "saltmarsh/markup/front.html",
        "saltmarsh/markup/sections/spotlight.html",
        "saltmarsh/preview/site.toml",
        "foreshore/truehook.toml",
        "foreshore/markup/layout.html",
        "foreshore/markup/partials/masthead.html",
    ];
    let demo = Terminal::demo();
    let mut tried = BTreeSet::new();
    for file in files {
        let text = demo.read(file);
        // Without a whole layer there is no end of what is to be declared.
        let stack = |line: &str| line.starts_with("base ") || line.starts_with("companions ");
        for (at, line) in text.lines().enumerate().filter(|(_, line)| !line.trim().is_empty() && !stack(line)) {
            let without: String = text
                .lines()
                .enumerate()
                .filter(|(other, _)| *other != at)
                .map(|(_, line)| format!("{line}\n"))
                .collect();
            demo.write(file, &without);
            let said = demo.types("check");
            demo.write(file, &text);
            // The same command, for the same rule, is tried once.
            if commands(&said.stdout).into_iter().any(|command| tried.insert((file, command))) {
                let theme = || Terminal::demo().file(file, &without);
                let before = complaints.len();
                count += all_of(&theme, "saltmarsh", &mut complaints);
                complaints[before..].iter_mut().for_each(|why| *why = format!("{file}:{} `{line}`: {why}", at + 1));
            }
        }
    }
    assert!(complaints.is_empty(), "{} of {count}:\n{}", complaints.len(), complaints.join("\n"));
    assert!(count > 10, "only {count} commands were printed");
}

/// The files of the correct themes of the stage's tests, by their path below one folder.
fn correct_themes() -> BTreeMap<String, Vec<u8>> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../stage/tests/themes");
    let mut files = BTreeMap::new();
    let mut open = vec![root.clone()];
    while let Some(folder) = open.pop() {
        for path in fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()) {
            if path.is_dir() {
                open.push(path);
            } else {
                let below = path.strip_prefix(&root).unwrap().to_str().unwrap().replace('\\', "/");
                files.insert(below, fs::read(&path).unwrap());
            }
        }
    }
    files
}

/// A text without one of its lines, or with two letters of a word in another order; which line that was.
fn flawed(rng: &mut Rng, text: &str) -> Option<(usize, String)> {
    let mut lines: Vec<String> = text.split_inclusive('\n').map(str::to_string).collect();
    let at = rng.usize(..lines.len());
    let line = &mut lines[at];
    if rng.bool() {
        line.clear();
    } else {
        let is_letter = |at: &usize| line[*at..].starts_with(|c: char| c.is_ascii_lowercase());
        let places: Vec<usize> = (0..line.len()).filter(|at| line.is_char_boundary(*at)).collect();
        let pairs = places.into_iter().filter(|at| is_letter(at) && is_letter(&(at + 1)));
        let pairs: Vec<usize> = pairs.filter(|at| line.as_bytes()[*at] != line.as_bytes()[at + 1]).collect();
        let pair = *pairs.get(rng.usize(..pairs.len().max(1)))?;
        let swapped: String = [&line[pair + 1..pair + 2], &line[pair..pair + 1]].concat();
        line.replace_range(pair..pair + 2, &swapped);
    }
    Some((at + 1, lines.concat()))
}

/// Puts one flaw anywhere in the files, as often as is asked, and pastes what is printed then. A theme is the files below
/// one folder.
fn paste_all(files: &BTreeMap<String, Vec<u8>>, flaws: usize, rng: &mut Rng, complaints: &mut Vec<String>) -> usize {
    let kinds = [".toml", ".html", ".js", ".css", ".po"];
    let texts: Vec<&String> = files.keys().filter(|path| kinds.iter().any(|kind| path.ends_with(kind))).collect();
    // Only what was right has no more wrong with it than the flaw.
    let whole = Terminal::new();
    files.iter().for_each(|(path, bytes)| whole.write(path, bytes));
    let folders = files.keys().filter_map(|path| path.strip_suffix("/truehook.toml"));
    let right: BTreeSet<&str> = folders.filter(|folder| whole.types_in(folder, "check").status == Some(0)).collect();
    let mut count = 0;
    for _ in 0..flaws {
        let path = texts[rng.usize(..texts.len())];
        let text = String::from_utf8(files[path].clone()).unwrap();
        let Some((line, text)) = flawed(rng, &text) else { continue };
        let name = path.split('/').next().unwrap();
        let own = files.iter().filter(|(path, _)| path.starts_with(&format!("{name}/")));
        let own: Vec<(&String, &Vec<u8>)> = own.collect();
        let theme = || {
            let terminal = Terminal::new();
            own.iter().for_each(|(path, bytes)| terminal.write(path, bytes));
            terminal.write(path, &text);
            terminal
        };
        let folders = own.iter().filter_map(|(path, _)| path.strip_suffix("/truehook.toml"));
        for folder in folders.filter(|folder| right.contains(folder)) {
            let before = complaints.len();
            count += all_of(&theme, folder, complaints);
            complaints[before..].iter_mut().for_each(|why| *why = format!("{folder}, {path}:{line}: {why}"));
        }
    }
    count
}

/// `TRUEHOOK_SEED` takes other flaws, and other themes.
fn seed() -> u64 {
    std::env::var("TRUEHOOK_SEED").ok().and_then(|seed| seed.parse().ok()).unwrap_or(1)
}

#[test]
fn what_is_printed_of_a_flaw_in_a_correct_theme_can_be_pasted() {
    let mut complaints = Vec::new();
    let count = paste_all(&correct_themes(), 150, &mut Rng::with_seed(seed()), &mut complaints);
    assert!(complaints.is_empty(), "{} of {count}:\n{}", complaints.len(), complaints.join("\n"));
    assert!(count > 10, "only {count} commands were printed");
}

#[test]
fn what_is_printed_of_a_flaw_in_a_grown_theme_can_be_pasted() {
    let (mut complaints, mut count) = (Vec::new(), 0);
    for seed in seed()..seed() + 3 {
        let grown = crate::grown::grow(seed);
        let below = grown.files.iter().map(|(path, bytes)| (path.as_str().trim_start_matches('/'), bytes));
        let files = below.map(|(path, bytes)| (path.to_string(), bytes.to_vec())).collect();
        count += paste_all(&files, 50, &mut Rng::with_seed(seed), &mut complaints);
    }
    assert!(complaints.is_empty(), "{} of {count}:\n{}", complaints.len(), complaints.join("\n"));
    assert!(count > 10, "only {count} commands were printed");
}

#[test]
fn a_file_that_nobody_declares_is_declared_as_it_is_printed() {
    let page = "{% extends \"layout.html\" %}\n{% block main %}{{ super() }}<script>addEventListener(\"load\", () => Dial.turn());</script>{% endblock %}\n";
    for (file, by_command) in [("js/tide-dial.js", true), ("Dial.min.js", false), ("my dial.js", false)] {
        let theme = || {
            let terminal = Terminal::new().file(&format!("marsh/media/{file}"), "window.Dial = { turn() {} };\n");
            terminal.file("marsh/markup/page.html", page)
        };
        let mut complaints = Vec::new();
        theme().types("check").ends(1).says("which no script declares");
        assert_eq!(all_of(&theme, "marsh", &mut complaints), usize::from(by_command), "{file}");
        assert_eq!(complaints, [""; 0], "{file}");
    }
}
