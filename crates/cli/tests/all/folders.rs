//! What is written where: pages into folders that may be written, and manifests by several commands at once.

use std::fs;

use crate::fixture::{Terminal, eventually};

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
    assert_eq!(terminal.journals(), Vec::new());
}

/// A command that is ended while it writes: it waits for a lock that this test holds on a pipe in the way, and is
/// killed. What it leaves is made here by hand from a journal of its own.
fn left_begun(terminal: &Terminal, before: &str, after: &str) {
    // The journal's name is the program's to choose: one that waits for its turn shows it.
    let mut child = terminal.command("marsh", "declare hook:begun");
    let path = loop {
        let mut running =
            child.stdout(std::process::Stdio::null()).stderr(std::process::Stdio::null()).spawn().unwrap();
        let seen = std::iter::repeat_with(|| {
            std::thread::sleep(std::time::Duration::from_micros(200));
            terminal.journals().pop()
        });
        let found = seen.take(20_000).flatten().next();
        drop(running.kill());
        running.wait().unwrap();
        terminal.write("marsh/truehook.toml", before);
        if let Some((path, _)) = found {
            break path;
        }
    };
    let entry = serde_json::json!({ "path": "truehook.toml", "shown": "truehook.toml", "before": before, "after": after, "in_place": false });
    let page = serde_json::json!({ "process": 1, "command": "declare hook:begun", "record": { "folders": [], "entries": [entry] } });
    fs::write(&path, format!("{page}\nall\n")).unwrap();
    #[cfg(unix)]
    fs::set_permissions(&path, std::os::unix::fs::PermissionsExt::from_mode(0o600)).unwrap();
}

#[test]
fn what_a_command_left_begun_is_seen_by_one_that_reads_and_finished_by_one_that_writes() {
    let terminal = Terminal::new();
    let before = terminal.read("marsh/truehook.toml");
    let after = format!("{before}\n[hook.begun]\nabout = \"B\"\n");
    left_begun(&terminal, &before, &after);
    // A command that only reads writes nothing. It shows the files as they will be once the journal is applied.
    for command in ["list hook", "show hook:begun", "render", "declare hook:other --dry-run"] {
        terminal.types(command).says("`truehook declare hook:begun` was ended before it was done");
        assert_eq!(terminal.read("marsh/truehook.toml"), before);
        assert_eq!(terminal.journals().len(), 1);
    }
    terminal.types("list hook").ends(0).says("hook:begun");
    terminal.types("declare hook:other").ends(0).says("it is finished now");
    let now = terminal.read("marsh/truehook.toml");
    assert!(now.starts_with(&after) && now.contains("[hook.other]"), "{now}");
    assert_eq!(terminal.journals(), Vec::new());
    // What somebody has changed since is theirs.
    terminal.write("marsh/truehook.toml", &before);
    left_begun(&terminal, &before, &after);
    let mine = format!("{before}\n# Mine.\n");
    terminal.write("marsh/truehook.toml", &mine);
    terminal.types("list hook").ends(0).never_says("hook:begun ");
    terminal.types("declare hook:other").ends(0).says("what it had written is undone");
    assert!(terminal.read("marsh/truehook.toml").starts_with(&mine));
}

/// What comes with a clone is nobody's word: it names what a command would carry out.
#[test]
fn a_journal_that_comes_with_a_theme_is_never_carried_out() {
    let terminal = Terminal::new();
    let config = "[core]\n\trepositoryformatversion = 0\n";
    terminal.write("marsh/.git/config", config);
    let after = format!("{config}\tfsmonitor = \"touch pwned\"\n");
    for path in [".git/config".to_string(), terminal.path("marsh/.git/config").display().to_string()] {
        let entry =
            serde_json::json!({ "path": path, "shown": "x", "before": config, "after": after, "in_place": false });
        let page = serde_json::json!({ "process": 1, "command": "x", "record": { "folders": [], "entries": [entry] } });
        terminal.write("marsh/.truehook-journal", format!("{page}\nall\n"));
        for command in ["list hook", "check", "check --fix", "render", "declare hook:a", "withdraw hook:a"] {
            terminal.types(command);
            assert_eq!(terminal.read("marsh/.git/config"), config, "{command}");
        }
    }
}

#[cfg(unix)]
#[test]
fn nothing_is_written_through_a_link_into_hidden_folders() {
    let terminal = Terminal::new();
    terminal.write("marsh/.git/HEAD", "ref: x\n");
    fs::create_dir_all(terminal.path("marsh/.git/hooks")).unwrap();
    fs::create_dir(terminal.path("marsh/code")).unwrap();
    std::os::unix::fs::symlink("../.git/hooks", terminal.path("marsh/code/hooks")).unwrap();
    terminal.types("attach hook:document-end hooks/notes.js#run").ends(2).says("those are never written");
    assert_eq!(fs::read_dir(terminal.path("marsh/.git/hooks")).unwrap().count(), 0);
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
    // What somebody has changed since is theirs, too.
    terminal.write("taken/index.html", "mine by now\n");
    terminal.types("render --into ../taken").ends(2).says("not as render wrote it");
    assert_eq!(terminal.read("taken/index.html"), "mine by now\n");
}

/// The list is written ahead of the files: a folder that was left in the middle is known to be ours.
#[test]
fn a_site_that_was_ended_in_the_middle_is_gone_on_with() {
    let terminal = Terminal::demo();
    let whole = terminal.types("render --into ../whole").ends(0);
    let files = whole.stdout.lines().count();
    let mut ended = 0;
    for at in 0..12 {
        let into = format!("site-{at}");
        let mut child = terminal.command("saltmarsh", &format!("render --into ../{into}"));
        let mut child = child.stdout(std::process::Stdio::null()).stderr(std::process::Stdio::null()).spawn().unwrap();
        eventually("it begins", || terminal.path(&into).join(".truehook-site").exists());
        std::thread::sleep(std::time::Duration::from_millis(4 * at));
        drop(child.kill());
        child.wait().unwrap();
        let written = |file: &str| terminal.path(&into).join(file).exists();
        ended += usize::from(!written("visit/index.html") || !written("media/site.css"));
        terminal.types(&format!("render --into ../{into} --clean")).ends(0);
        let tree = |folder: &str| {
            let mut found: Vec<_> = walkdir(&terminal.path(folder));
            found.sort();
            found
        };
        assert_eq!(tree(&into), tree("whole"), "{into}");
    }
    assert!(ended > 0 && files > 5, "none was ended in the middle");
}

/// The files below a folder, without the list and what a killed one left in the making.
fn walkdir(folder: &std::path::Path) -> Vec<String> {
    let mut found = Vec::new();
    let mut open = vec![folder.to_path_buf()];
    while let Some(next) = open.pop() {
        for entry in fs::read_dir(next).unwrap().flatten() {
            match entry.path().is_dir() {
                true => open.push(entry.path()),
                false => found.push(entry.path().strip_prefix(folder).unwrap().display().to_string()),
            }
        }
    }
    found
}

#[test]
fn a_list_that_somebody_forged_takes_nothing_away() {
    let terminal = Terminal::demo();
    terminal.types("render --into ../site").ends(0);
    terminal.write("site/.git/config", "mine\n");
    terminal.write("site/mine.txt", "mine\n");
    // The hash of an empty file, of another text, and lines that are none.
    let empty = "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855";
    let list = terminal.read("site/.truehook-site");
    let lines = [".git/config", "mine.txt", "../whole", "/etc/passwd"].map(|path| format!("{empty}  {path}\n{path}\n"));
    terminal.write("site/.truehook-site", format!("{list}{}", lines.concat()));
    terminal.types("render --into ../site --clean").ends(0).never_says("taken away");
    assert_eq!(terminal.read("site/.git/config"), "mine\n");
    assert_eq!(terminal.read("site/mine.txt"), "mine\n");
}

#[test]
fn a_new_theme_that_was_ended_in_the_middle_is_finished() {
    let terminal = Terminal::empty("themes");
    fs::create_dir(terminal.path("themes")).unwrap();
    let mut left = 0;
    for at in 0..10 {
        let name = format!("ferry-{at}");
        let mut child = terminal.command("themes", &format!("new {name}"));
        let mut child = child.stdout(std::process::Stdio::null()).stderr(std::process::Stdio::null()).spawn().unwrap();
        while terminal.journals().is_empty() && child.try_wait().unwrap().is_none() {}
        std::thread::sleep(std::time::Duration::from_millis(at));
        drop(child.kill());
        child.wait().unwrap();
        left += terminal.journals().len();
        terminal.types(&format!("new {name}"));
        terminal.types(&format!("check --notes {name}")).ends(0);
        let beside: Vec<_> =
            fs::read_dir(terminal.path("themes")).unwrap().flatten().map(|entry| entry.file_name()).collect();
        assert_eq!(beside.len(), at as usize + 1, "{beside:?}");
        assert!(walkdir(&terminal.path("themes")).iter().all(|path| !path.contains("truehook-")));
    }
    assert!(left > 0, "none was ended in the middle");
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
    // The hash of `mine` and a line's end.
    let hash = "fcbc800db3f1867000b852f1ce0044b8f1584f76ade1ed6e65189824f95c3cda";
    let line = |path: &str| format!("{hash}  {path}\n");
    let lines = ["../elsewhere/mine.txt", "linked/mine.txt", whole.to_str().unwrap()].map(line);
    let list = format!("{}{}", terminal.read("site/.truehook-site"), lines.concat());
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
