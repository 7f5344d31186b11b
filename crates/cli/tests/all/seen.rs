//! What is written as pages to look at.

use crate::fixture::Terminal;

/// A text of a page, as it was before it was escaped.
fn plain(text: &str) -> String {
    text.replace("&lt;", "<")
        .replace("&gt;", ">")
        .replace("&quot;", "\"")
        .replace("&#x27;", "'")
        .replace("&#x2f;", "/")
        .replace("&amp;", "&")
}

/// The commands that a page offers to be copied.
fn commands(page: &str) -> Vec<String> {
    let mut found: Vec<String> =
        page.split("data-copy=\"").skip(1).filter_map(|rest| Some(plain(rest.split_once('"')?.0))).collect();
    found.sort();
    found.dedup();
    found
}

#[test]
fn every_command_on_a_map_does_what_it_says_when_it_is_pasted() {
    let terminal = Terminal::demo();
    let mut all: Vec<String> = Vec::new();
    for page in ["/", "/log/", "/visit/", "/search/"] {
        terminal.types(&format!("map {page} --html ../map.html")).ends(0).says("../map.html");
        all.extend(commands(&terminal.read("map.html")));
    }
    all.sort();
    all.dedup();
    assert!(all.len() > 60, "{all:?}");
    for command in all {
        let typed = command.strip_prefix("truehook ").unwrap_or_else(|| panic!("{command}"));
        let said = terminal.types(&format!("{typed} --dry-run"));
        assert_eq!(said.status, Some(0), "{command}\n{}{}", said.stdout, said.stderr);
        assert!(!said.stdout.is_empty(), "{command}");
    }
}

#[test]
fn a_map_is_a_file_of_its_own_and_leaves_other_files_alone() {
    let terminal = Terminal::demo();
    terminal.types("map --html ../out/front.html").ends(0);
    let first = terminal.read("out/front.html");
    terminal.types("map --html ../out/front.html").ends(0);
    assert_eq!(first, terminal.read("out/front.html"), "twice the same");
    for outside in ["src=\"http", "href=\"http", "url(http", "@import"] {
        let ours = first.split("srcdoc=").next().unwrap();
        assert!(!ours.contains(outside), "{outside}");
    }
    terminal.write("notes.html", "my own notes");
    terminal.types("map --html ../notes.html").ends(2).says("../notes.html").says("none of ours");
    assert_eq!(terminal.read("notes.html"), "my own notes");
    terminal.types("map --html ../out").ends(2).says("is no file");
    terminal.types("map --html markup/map.html").ends(2).says("one of the theme's own files");
    terminal.types("map --html seen/map.html").ends(0);
    terminal.types("check").ends(0);
    terminal.types("map /nowhere/ --html ../x.html").ends(2).says("there is no page /nowhere/");
    terminal.types("map --html ../x.html --depth 2").ends(2);
}

#[test]
fn an_origin_leads_to_the_line_and_its_commands_work() {
    let terminal = Terminal::demo();
    terminal.types("origin / --text Merrowholm").ends(0).is_as_kept("origin");
    let mut commands: Vec<String> = Vec::new();
    for text in
        ["Merrowholm", "Low water at 13:42", "Dogs stay", "Forty redshanks", "Sunday", "3.9 m", "Logbook", "Open"]
    {
        let said = terminal.types(&format!("origin / --text '{text}' --format json")).ends(0);
        let view: serde_json::Value = serde_json::from_str(&said.stdout).unwrap();
        let chain = view["chain"].as_array().unwrap();
        assert_eq!(chain.last().unwrap()["name"], "saltmarsh:front.html", "{text}");
        commands.extend(view["override"].as_array().unwrap().iter().map(|way| way.as_str().unwrap().to_string()));
    }
    commands.sort();
    commands.dedup();
    assert!(commands.len() > 20, "{commands:?}");
    for command in commands {
        let said = terminal.types(&format!("{} --dry-run", command.strip_prefix("truehook ").unwrap()));
        assert_eq!(said.status, Some(0), "{command}\n{}", said.stderr);
    }
}

#[test]
fn an_origin_can_be_asked_of_an_element_and_says_what_is_not_there() {
    let terminal = Terminal::demo();
    terminal
        .types("origin / --select '.board > img'")
        .ends(0)
        .says("component  partial:picture  markup/front.html:5")
        .says("template   saltmarsh:front.html");
    terminal.types("origin / --select footer --text Open").ends(0).says("area:footer-notes").never_says("region:aside");
    terminal.types("origin / --text 'not to be found'").ends(2).says("“not to be found” is not on /");
    terminal.types("origin / --select 'aside.none'").ends(2).says("no element of / fits `aside.none`");
    terminal.types("origin / --select 'a:hover'").ends(2).says("is no selector");
    terminal.types("origin /").ends(2);
    terminal.types("origin /lgo/ --text a").ends(2).says("did you mean `/log/`?");
}

#[test]
fn no_line_of_an_origin_is_wider_than_the_window() {
    let terminal = Terminal::demo();
    for width in ["60", "80"] {
        for text in ["Merrowholm", "Low water at 13:42", "3.9 m", "Logbook", "Forty redshanks"] {
            let said = terminal
                .command("saltmarsh", &format!("origin / --text '{text}'"))
                .env("COLUMNS", width)
                .output()
                .unwrap();
            let out = String::from_utf8(said.stdout).unwrap();
            let wide: Vec<&str> =
                out.lines().filter(|line| line.chars().count() > width.parse::<usize>().unwrap()).collect();
            assert_eq!(wide, [""; 0]);
        }
    }
}

#[test]
fn a_desk_tells_what_site_editors_get_and_what_not() {
    let terminal = Terminal::demo();
    terminal.types("desk").ends(0).is_as_kept("desk");
    let json = terminal.types("desk --format json").ends(0);
    let view: serde_json::Value = serde_json::from_str(&json.stdout).unwrap();
    let components = view["components"].as_array().unwrap();
    let note = components.iter().find(|one| one["address"] == "piece:note").unwrap();
    assert_eq!(note["offers"][0]["label"], "A note");
    assert!(note["offers"][0]["html"].as_str().unwrap().contains("class=\"note\""), "{note}");
    assert_eq!(view["palette"][0]["value"], "#463a30");
    let hidden = view["hidden"].as_array().unwrap();
    let board = hidden.iter().find(|one| one["address"] == "region:tide-board").unwrap();
    assert_eq!(board["reason"], "reserved by the theme");
    assert!(view["spots"].as_array().unwrap().iter().all(|spot| spot["address"] != "region:tide-board"));
    terminal.types("desk --html ../desk.html").ends(0).says("../desk.html");
    let page = terminal.read("desk.html");
    let ours = page.split("id=\"frames\"").next().unwrap();
    for said in ["The desk of", "Spotlight with a note", "reserved by the theme", "Beside the text"] {
        assert!(ours.contains(said), "{said}");
    }
    // Each file is held once, however many offers show it.
    let picture = terminal.bytes("saltmarsh/media/emblem.svg");
    let encoded = base64(&picture[..300]);
    assert_eq!(page.matches(&encoded).count(), 1);
}

/// The first whole groups of base64 (RFC 4648).
fn base64(bytes: &[u8]) -> String {
    let letters: Vec<char> = ('A'..='Z').chain('a'..='z').chain('0'..='9').chain(['+', '/']).collect();
    let group = |bytes: &[u8]| {
        let number = bytes.iter().fold(0usize, |number, byte| number << 8 | usize::from(*byte));
        [18, 12, 6, 0].map(|shift| letters[number >> shift & 63])
    };
    bytes.chunks_exact(3).flat_map(group).collect()
}

/// The commands between backquotes or in blocks of a text.
fn written_commands(text: &str) -> Vec<String> {
    let inline = text.split('`').filter(|part| part.starts_with("truehook ") && !part.contains(['\n', '<']));
    let blocks = text.lines().filter(|line| line.starts_with("truehook "));
    let mut found: Vec<String> = inline.chain(blocks).map(str::to_string).collect();
    found.retain(|command| command != "truehook atlas --md");
    found.sort();
    found.dedup();
    found
}

#[test]
fn every_command_of_an_atlas_works_in_a_theme_that_builds_on_it() {
    let terminal = Terminal::demo();
    for base in ["foreshore", "saltmarsh"] {
        terminal.types(&format!("-C ../{base} atlas --md ../{base}.md")).ends(0);
        terminal.types(&format!("new on-{base} --on ../{base} --into ..")).ends(0);
        let commands = written_commands(&terminal.read(&format!("{base}.md")));
        assert!(commands.len() > 20, "{commands:?}");
        for command in commands {
            let typed = command.strip_prefix("truehook ").unwrap();
            let said = terminal.types_in(&format!("on-{base}"), &format!("{typed} --dry-run"));
            assert_eq!(said.status, Some(0), "{base}: {command}\n{}", said.stderr);
        }
    }
}

#[test]
fn an_atlas_changes_only_where_its_theme_does() {
    let terminal = Terminal::demo();
    let write = |name: &str| {
        terminal.types(&format!("-C ../foreshore atlas --md ../{name}.md --html ../{name}.html")).ends(0);
        (terminal.read(&format!("{name}.md")), terminal.read(&format!("{name}.html")))
    };
    let first = write("first");
    assert_eq!(first, write("again"));
    let manifest = terminal.read("foreshore/truehook.toml");
    terminal
        .write("foreshore/truehook.toml", format!("{manifest}\n[hook.beside-trail]\nabout = \"Beside the trail\"\n"));
    let second = write("second");
    let (before, after): (Vec<&str>, Vec<&str>) = (first.0.lines().collect(), second.0.lines().collect());
    let at = before.iter().zip(&after).position(|(before, after)| before != after).unwrap();
    let added = after.len() - before.len();
    assert_eq!(before[at..], after[at + added..], "all else stays");
    let new = after[at..at + added].join("\n");
    assert!(new.contains("`hook:beside-trail`") && new.contains("Beside the trail"), "{new}");
    terminal.write("foreshore/truehook.toml", manifest);
    terminal.types("-C ../foreshore atlas").ends(2);
    let json = terminal.types("-C ../foreshore atlas --format json").ends(0);
    let view: serde_json::Value = serde_json::from_str(&json.stdout).unwrap();
    let hook =
        view["points"].as_array().unwrap().iter().find(|point| point["address"] == "hook:under-masthead").unwrap();
    assert_eq!(hook["defaults"][0]["detach"], "truehook detach hook:under-masthead foreshore:masthead.js#welcome");
    // Beside the theme it may stand, and is its own to be written again.
    terminal.types("-C ../foreshore atlas --md ../foreshore/ATLAS.md").ends(0);
    terminal.types("-C ../foreshore atlas --md ../foreshore/ATLAS.md").ends(0);
    terminal.types("-C ../foreshore check").ends(0);
}

#[test]
fn a_shelf_tells_what_each_theme_builds_on_and_whether_it_fits() {
    let terminal = Terminal::demo();
    terminal.types("shelf ..").ends(0).is_as_kept("shelf");
    let far = terminal.read("saltmarsh/truehook.toml").replace("../foreshore", "../nowhere");
    terminal.write("far/truehook.toml", far.replace("name = \"saltmarsh\"", "name = \"far\""));
    terminal.types("shelf ..").ends(1).says("far/").says("nowhere");
    let json = terminal.types("shelf .. --format json").ends(1);
    let view: serde_json::Value = serde_json::from_str(&json.stdout).unwrap();
    let fits: Vec<(&str, bool)> = view["themes"]
        .as_array()
        .unwrap()
        .iter()
        .map(|theme| (theme["folder"].as_str().unwrap(), theme["fits"].as_bool().unwrap()))
        .collect();
    let wanted =
        [("far", false), ("foreshore", true), ("saltmarsh", true), ("saltmarsh-broken", true), ("tide-kit", true)];
    assert_eq!(fits, wanted);
    terminal.types("shelf .. --html ../shelf.html").ends(1);
    let page = terminal.read("shelf.html");
    assert!(page.contains("Does not fit") && page.contains("data:image&#x2f;svg+xml;base64,"), "{page}");
    terminal.types("shelf ../foreshore").ends(2).says("has a truehook.toml");
    terminal.types("shelf ../nothing").ends(2).says("can't be looked into");
    terminal.types("-C . shelf ..").ends(2);
}
