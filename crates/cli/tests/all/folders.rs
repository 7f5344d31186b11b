//! What is written where: pages into folders that may be written, and manifests by several commands at once.

use std::fs;

use crate::fixture::Terminal;

#[test]
fn twenty_commands_at_once_all_come_to_their_turn() {
    let terminal = Terminal::new();
    let commands: Vec<_> = (0..20).map(|at| terminal.command("marsh", &format!("declare hook:writer-{at}"))).collect();
    let children: Vec<_> = commands
        .into_iter()
        .map(|mut command| {
            command.stdout(std::process::Stdio::null()).stderr(std::process::Stdio::piped()).spawn().unwrap()
        })
        .collect();
    for child in children {
        let output = child.wait_with_output().unwrap();
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    }
    let manifest = terminal.read("marsh/truehook.toml");
    for at in 0..20 {
        assert_eq!(manifest.matches(&format!("[hook.writer-{at}]")).count(), 1, "{manifest}");
    }
    assert!(!terminal.path("marsh/.truehook-journal").exists());
}

#[test]
fn what_a_command_left_begun_is_finished_by_the_next_one_that_only_reads() {
    let terminal = Terminal::new();
    let path = terminal.path("marsh/truehook.toml").canonicalize().unwrap();
    let before = terminal.read("marsh/truehook.toml");
    let after = format!("{before}\n[hook.begun]\nabout = \"B\"\n");
    let entry = serde_json::json!({ "path": path, "shown": "truehook.toml", "before": before, "after": after, "in_place": false });
    let page = serde_json::json!({ "process": 1, "command": "declare hook:begun", "record": { "folders": [], "entries": [entry] } });
    let journal = format!("{page}\nall\n");
    // One that was not written to its end was not begun.
    for (journal, finished) in [(journal.trim_end_matches("all\n"), false), (journal.as_str(), true)] {
        terminal.write("marsh/.truehook-journal", journal);
        let said = terminal.types("list hook").ends(0);
        assert_eq!(said.stdout.contains("hook:begun"), finished, "{}", said.stdout);
        assert_eq!(
            said.stderr.contains("`truehook declare hook:begun` was ended before it was done; it is finished now"),
            finished
        );
        assert!(!terminal.path("marsh/.truehook-journal").exists());
    }
    // What somebody has changed since is theirs.
    let mine = format!("{before}\n# Mine.\n");
    terminal.write("marsh/truehook.toml", &mine);
    terminal.write("marsh/.truehook-journal", &journal);
    let said = terminal.types("list hook").ends(0);
    assert!(said.stderr.contains("what it had written is undone"), "{}", said.stderr);
    assert_eq!(terminal.read("marsh/truehook.toml"), mine);
}

#[test]
fn a_site_goes_where_it_may() {
    let terminal = Terminal::demo();
    terminal.write("taken/notes.txt", "mine\n");
    for (into, told) in [
        (".", "is the theme's own folder"),
        ("site", "lies in the theme's own folder"),
        ("../foreshore/site/deep", "lies in the theme's own folder"),
        ("''", "--into needs the name of a folder"),
        ("truehook.toml", "is no folder"),
        ("../taken", "holds other files"),
    ] {
        terminal.types(&format!("render --into {into}")).ends(2).says(told);
    }
    assert_eq!(fs::read_dir(terminal.path("taken")).unwrap().count(), 1, "nothing was written");
    terminal.types("render --into ../taken --over").ends(0);
    assert_eq!(terminal.read("taken/notes.txt"), "mine\n");
    // Once it is ours, it can be written again; what is not ours stays.
    terminal.write("taken/visit.html", "mine, too\n");
    terminal.types("render --into ../taken").ends(0);
    assert_eq!(terminal.read("taken/visit.html"), "mine, too\n");
}

#[test]
fn what_is_not_needed_any_more_is_named_and_taken_away_where_that_is_asked_for() {
    let terminal = Terminal::demo();
    terminal.types("render --into ../site").ends(0);
    fs::remove_file(terminal.path("saltmarsh/preview/pages/visit.toml")).unwrap();
    terminal.write("site/mine.txt", "mine\n");
    terminal.types("render / --into ../site").never_says("no longer needed");
    terminal.types("render --into ../site").says("site/visit/index.html  no longer needed; --clean takes it away");
    assert!(terminal.path("site/visit/index.html").exists());
    terminal.types("render --into ../site --clean").says("site/visit/index.html  taken away");
    assert!(!terminal.path("site/visit").exists() && terminal.path("site/mine.txt").exists());
    terminal.types("render --into ../site --clean").never_says("taken away");
}

#[cfg(unix)]
#[test]
fn pages_are_never_written_through_links() {
    let terminal = Terminal::demo();
    terminal.types("render --into ../site").ends(0);
    fs::create_dir(terminal.path("elsewhere")).unwrap();
    fs::remove_dir_all(terminal.path("site/log")).unwrap();
    std::os::unix::fs::symlink(terminal.path("elsewhere"), terminal.path("site/log")).unwrap();
    terminal.types("render --into ../site").ends(2).says("is a link");
    assert_eq!(fs::read_dir(terminal.path("elsewhere")).unwrap().count(), 0);
}

#[cfg(unix)]
#[test]
fn a_list_from_somebody_else_takes_nothing_away_elsewhere() {
    let terminal = Terminal::demo();
    terminal.types("render --into ../site").ends(0);
    terminal.write("elsewhere/mine.txt", "mine\n");
    std::os::unix::fs::symlink(terminal.path("elsewhere"), terminal.path("site/linked")).unwrap();
    let whole = terminal.path("elsewhere/mine.txt");
    let list = format!(
        "{}../elsewhere/mine.txt\nlinked/mine.txt\n{}\n",
        terminal.read("site/.truehook-site"),
        whole.display()
    );
    terminal.write("site/.truehook-site", list);
    terminal.types("render --into ../site --clean").ends(0).never_says("mine.txt");
    assert_eq!(terminal.read("elsewhere/mine.txt"), "mine\n");
}

#[test]
fn links_between_pages_lead_from_file_to_file() {
    let terminal = Terminal::demo();
    terminal.types("render --into ../site").ends(0);
    // Every address that people follow leads to a file, from each page.
    let mut followed = 0;
    let mut open = vec![terminal.path("site")];
    while let Some(folder) = open.pop() {
        for entry in fs::read_dir(folder).unwrap().flatten() {
            let path = entry.path();
            if path.is_dir() {
                open.push(path);
                continue;
            }
            if path.extension().is_none_or(|extension| extension != "html") {
                continue;
            }
            let text = fs::read_to_string(&path).unwrap();
            for (at, _) in text.match_indices("href=\"") {
                let address = text[at + 6..].split(['"', '#', '?']).next().unwrap();
                assert!(!address.starts_with('/'), "{path:?}: {address}");
                if !address.is_empty() && !address.contains(':') {
                    followed += 1;
                    assert!(path.parent().unwrap().join(address).is_file(), "{path:?}: {address}");
                }
            }
        }
    }
    assert!(followed > 80, "{followed}");
    terminal.types("render --into ../served --absolute").ends(0);
    assert!(terminal.read("served/index.html").contains("href=\"/log/\""));
}

#[test]
fn themes_are_named_in_one_place() {
    let terminal = Terminal::demo();
    terminal.types_in(".", "-C saltmarsh check foreshore").ends(2).says("either with -C or behind check");
    terminal.types_in(".", "-C saltmarsh check").ends(0);
}
