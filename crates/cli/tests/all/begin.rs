//! `new`: from an empty folder to a theme that is clean and shows something.

use std::fs;
use std::io::{BufRead, BufReader};
use std::process::Stdio;

use crate::fixture::Terminal;

/// A terminal in a folder without any theme.
fn empty() -> Terminal {
    let terminal = Terminal::new();
    fs::create_dir(terminal.path("empty")).unwrap();
    terminal
}

/// A command typed in that folder.
fn types(terminal: &Terminal, command: &str) -> crate::fixture::Said {
    terminal.types_in("empty", command)
}

/// A preview says where it is, and goes on until it is ended.
fn begins_to_serve(terminal: &Terminal, preview: &str) {
    let mut child = terminal.command("empty", preview).stdout(Stdio::piped()).spawn().unwrap();
    let mut said = String::new();
    BufReader::new(child.stdout.as_mut().unwrap()).read_line(&mut said).unwrap();
    assert!(said.starts_with("http://localhost:"), "{said}");
    assert!(child.try_wait().unwrap().is_none());
    child.kill().unwrap();
    child.wait().unwrap();
}

#[test]
fn one_command_gives_a_theme_that_is_clean_and_renders() {
    let terminal = empty();
    for (name, sketch) in [
        ("ferry", ""),
        ("mill", " --sketch 'menu:site menu:site / left main / hook:after-text hook:after-text'"),
        ("kiln", " --sketch main"),
        ("weir", " --sketch 'masthead masthead / nav main / area:a area:b / footer footer'"),
    ] {
        let said = types(&terminal, &format!("new {name}{sketch}")).ends(0);
        types(&terminal, &format!("check --notes {name}")).ends(0).says("nothing wrong");
        // What it says comes next works as it is printed.
        for next in said.stdout.lines().filter_map(|line| line.strip_prefix("next: truehook ")) {
            let next = next.split("  #").next().unwrap();
            match next.strip_suffix(" --open") {
                Some(preview) => begins_to_serve(&terminal, preview),
                None => drop(types(&terminal, next).ends(0)),
            }
        }
        assert!(terminal.path(&format!("empty/{name}-site/index.html")).is_file());
        // So do the steps that its own page shows.
        let page = fs::read_to_string(terminal.path(&format!("empty/{name}/preview/pages/first-steps.md"))).unwrap();
        for step in page.lines().filter_map(|line| line.strip_prefix("truehook ")).skip(1) {
            types(&terminal, &format!("-C {name} {step}")).ends(0);
        }
        types(&terminal, &format!("check --notes {name}")).ends(0).says("nothing wrong");
        types(&terminal, &format!("-C {name} why hook:under-text")).ends(0);
    }
}

#[test]
fn a_sketch_may_come_from_a_file_and_a_theme_may_build_on_another() {
    let terminal = empty().file("empty/layout.txt", "header header\nmain   aside\n");
    types(&terminal, "new ferry --sketch-file layout.txt --into themes").ends(0);
    let sheet = fs::read_to_string(terminal.path("empty/themes/ferry/media/ferry.css")).unwrap();
    assert!(sheet.contains("\"header header\"\n      \"main aside\";"), "{sheet}");
    types(&terminal, "new skiff --on themes/ferry").ends(0).says("region:aside").says("menu:site");
    let manifest = fs::read_to_string(terminal.path("empty/skiff/truehook.toml")).unwrap();
    assert!(manifest.contains("path = \"../themes/ferry\", version = \"^0.1.0\""), "{manifest}");
    assert!(!terminal.path("empty/skiff/markup").exists());
    types(&terminal, "check --notes skiff").ends(0).says("nothing wrong");
    types(&terminal, "-C skiff render /").ends(0).says("This is region:aside.");
}

#[test]
fn what_can_not_be_begun_is_refused_and_nothing_is_written() {
    let terminal = empty().file("empty/full/note.txt", "mine");
    for (command, part) in [
        ("new Ferry_Two", "truehook new ferry-two would do"),
        ("new host", "truehook new my-host would do"),
        ("new full", "full is there already, and not empty"),
        ("new ferry --sketch 'a main a'", "row 1, column 2 of the sketch: `a` is no rectangle"),
        ("new ferry --sketch 'header / footer'", "it has no `main`"),
        ("new ferry --sketch-file nowhere.txt", "nowhere.txt can't be read"),
        ("new ferry --on nowhere", "there is no theme in nowhere"),
        ("new ferry --on full --sketch main", "cannot be used with"),
        ("new ferry --into ../marsh", "lies in the theme's own folder"),
    ] {
        let said = types(&terminal, command).ends(2);
        assert!(said.stderr.contains(part), "{command}: {}", said.stderr);
    }
    let left: Vec<_> = fs::read_dir(terminal.path("empty")).unwrap().flatten().map(|entry| entry.file_name()).collect();
    assert_eq!(left, ["full"]);
    types(&terminal, "new ferry --dry-run").ends(0).says("ferry/markup/layout.html");
    assert!(!terminal.path("empty/ferry").exists());
}

#[test]
fn without_a_theme_every_command_says_how_to_begin_one() {
    let terminal = empty();
    for command in ["list", "check", "show region:main", "why region:main", "render /", "declare hook:one", "trace /"] {
        let said = types(&terminal, command).ends(2);
        assert!(said.stderr.contains("truehook new NAME"), "{command}: {}", said.stderr);
    }
}

/// A small site, drawn by hand.
fn drawn() -> Terminal {
    let page = |name: &str, here: [&str; 2], text: &str| {
        format!(
            "<!doctype html>\n<html lang=\"en\">\n<head>\n<title>{name} | Hut</title>\n<link rel=\"stylesheet\" href=\"hut.css\">\n\
             </head>\n<body>\n<nav><ul>\n<li{}><a href=\"index.html\">Home</a></li>\n<li{}><a href=\"rooms.html\">Rooms</a></li>\n\
             </ul></nav>\n<main>{text}</main>\n</body>\n</html>\n",
            here[0], here[1]
        )
    };
    Terminal::new()
        .file("drawn/index.html", page("Home", [" class=\"here\"", ""], "<h1>Home</h1><img src=\"i/a.svg\" alt=\"\">"))
        .file("drawn/rooms.html", page("Rooms", ["", " class=\"here\""], "<h1>Rooms</h1><p>{{ page.title }}</p>"))
        .file("drawn/hut.css", "nav { background: url(i/a.svg) }\n")
        .file("drawn/i/a.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"/>\n")
}

#[test]
fn plain_pages_become_a_theme_and_their_folder_stays_as_it_is() {
    let terminal = drawn();
    let before: Vec<Vec<u8>> =
        ["index.html", "rooms.html", "hut.css"].map(|file| terminal.bytes(&format!("drawn/{file}"))).into();
    terminal
        .types_in("", "new hut --from drawn/index.html drawn/rooms.html")
        .ends(0)
        .says("hut is there, with 12 files.")
        .says("menu:site, filled with")
        .says("a declared style, media/hut.css  (2 times)");
    terminal.types_in("", "check --notes hut").never_says("error").never_says("warning");
    terminal.types_in("", "-C hut render --into hut-site").ends(0).never_says("failed");
    let rooms = terminal.read("hut-site/rooms.html");
    for part in [
        "<title>Rooms | Hut</title>",
        "<p>{{ page.title }}</p>",
        "<li class=\"here\"><a href=\"rooms.html\">Rooms</a></li>",
        "<li><a href=\"index.html\">Home</a></li>",
    ] {
        assert!(rooms.contains(part), "{part} in {rooms}");
    }
    let after: Vec<Vec<u8>> =
        ["index.html", "rooms.html", "hut.css"].map(|file| terminal.bytes(&format!("drawn/{file}"))).into();
    assert_eq!(before, after);
    // What came of it is a theme like any other.
    terminal.types_in("hut", "rename menu:site menu:top").ends(0).never_says("next:").never_says("advice:");
    terminal.types_in("hut", "fill menu:top Way=/rooms.html --at 1").ends(0);
    terminal.types_in("hut", "check").ends(0);
}

#[test]
fn what_is_no_page_is_refused_and_nothing_is_made() {
    let terminal = drawn()
        .file("drawn/empty.html", " \n")
        .file("drawn/bytes.html", b"\xff\xfe<p>")
        .file("drawn/index.htm", "<p>x");
    for (typed, why) in [
        ("--from drawn/nothing.html", "can't be found"),
        ("--from drawn/hut.css", "is no page"),
        ("--from drawn/empty.html", "empty.html is empty"),
        ("--from drawn/bytes.html", "is not UTF-8"),
        ("--from drawn/index.html drawn/index.html", "is named twice"),
        ("--from drawn/index.html drawn/index.htm", "would be one page, /"),
        ("--from drawn/index.html --sketch main", "cannot be used with"),
    ] {
        terminal.types_in("", &format!("new hut {typed}")).ends(2).says(why);
        assert!(!terminal.path("hut").exists(), "{typed}");
    }
    let said = terminal.types_in("", "new hut --from drawn/index.html --dry-run --format json").ends(0);
    let told: serde_json::Value = serde_json::from_str(&said.stdout).unwrap();
    assert!(told["changes"].as_array().unwrap().iter().any(|change| change["file"] == "markup/layout.html"));
    assert!(!told["told"].as_array().unwrap().is_empty() && !terminal.path("hut").exists());
}
