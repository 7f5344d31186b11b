//! From one mention to all others, and what is told of each.

use std::collections::BTreeSet;

use proptest::prelude::*;
use serde_json::{Value, json};

use super::{Editor, usual};
use crate::fixture::Terminal;

fn definition(editor: &mut Editor, path: &str, piece: &str, into: usize) -> Vec<(String, u64, String)> {
    let asked = editor.at(path, piece, into);
    let answer = editor.ask("textDocument/definition", asked);
    editor.places(&answer)
}

#[test]
fn each_kind_of_mention_leads_to_what_it_means() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let all = [
        // From a template to the manifest, of another layer too.
        (
            "foreshore/markup/layout.html",
            "place(\"hook:under-masthead",
            10,
            "foreshore/truehook.toml",
            "under-masthead",
        ),
        // From an attachment to the callback, and to the point.
        ("saltmarsh/truehook.toml", "masthead.js#lowWaterNotice", 12, "saltmarsh/code/masthead.js", "lowWaterNotice"),
        ("saltmarsh/truehook.toml", "hook:under-masthead", 8, "foreshore/truehook.toml", "under-masthead"),
        // What is detached is attached below.
        ("saltmarsh/truehook.toml", "foreshore:masthead.js#themeRibbon", 24, "foreshore/truehook.toml", ""),
        // A module's export, from the component that it renders.
        ("saltmarsh/truehook.toml", "station.js#openingHours", 12, "saltmarsh/code/station.js", "openingHours"),
        // A template that another one builds on.
        ("saltmarsh/markup/front.html", "layout.html", 3, "foreshore/markup/layout.html", ""),
        // What a component needs.
        ("saltmarsh/points/species.toml", "script:fold-memory", 9, "saltmarsh/points/species.toml", "fold-memory"),
        // A file that is not read, and a file in a style sheet.
        ("saltmarsh/truehook.toml", "media/cover.svg", 8, "saltmarsh/media/cover.svg", ""),
        ("saltmarsh/media/saltmarsh.css", "waves.svg", 3, "saltmarsh/media/waves.svg", ""),
        // A message to its translation.
        ("saltmarsh/code/masthead.js", "Winter: the northern", 3, "saltmarsh/words/de.po", ""),
        // A variable to the input, an item's key likewise.
        ("saltmarsh/markup/pieces/fold.html", "heading", 2, "saltmarsh/points/species.toml", "heading"),
    ];
    for (path, piece, into, leads, said) in all {
        let found = definition(&mut editor, path, piece, into);
        assert_eq!(found.len(), 1, "{path} {piece}: {found:?}");
        assert_eq!(found[0].0, leads, "{path} {piece}");
        assert!(said.is_empty() || found[0].2 == said, "{path} {piece}: {found:?}");
    }
    // A point of the host leads to a copy of its contract.
    let host = definition(&mut editor, "foreshore/markup/layout.html", "hook:document-head", 8);
    assert!(host[0].0.starts_with("caches/truehook/") && host[0].0.ends_with("/standard/truehook.toml"), "{host:?}");
    assert_eq!(host[0].2, "document-head");
}

#[test]
fn all_mentions_are_found_in_every_theme_of_the_workspace() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let asked = editor.at("foreshore/truehook.toml", "[hook.under-masthead]", 8);
    let asked = json!({ "textDocument": asked["textDocument"], "position": asked["position"], "context": { "includeDeclaration": true } });
    let answer = editor.ask("textDocument/references", asked);
    let found: BTreeSet<(String, u64)> =
        editor.places(&answer).into_iter().map(|(path, line, _)| (path, line)).collect();
    // By hand: every line that names it, outside of comments, in themes that have this layer.
    let mut wanted = BTreeSet::new();
    for theme in ["foreshore", "saltmarsh", "saltmarsh-broken"] {
        for entry in walk(&terminal.path(theme)) {
            let path =
                entry.strip_prefix(terminal.path("").to_str().unwrap()).unwrap().trim_start_matches('/').to_string();
            let Ok(text) = std::fs::read_to_string(&entry) else { continue };
            for (at, line) in text.lines().enumerate() {
                let named = line.contains("\"hook:under-masthead\"") || line.contains("[hook.under-masthead]");
                if named && !line.trim_start().starts_with(['#', '*', '/']) {
                    wanted.insert((path.clone(), at as u64 + 1));
                }
            }
        }
    }
    assert_eq!(found, wanted);
    assert!(found.len() >= 8, "{found:?}");
}

fn walk(folder: &std::path::Path) -> Vec<String> {
    let mut found = Vec::new();
    for entry in std::fs::read_dir(folder).unwrap().flatten() {
        let path = entry.path();
        match path.is_dir() {
            true => found.extend(walk(&path)),
            false => found.push(path.to_str().unwrap().to_string()),
        }
    }
    found
}

#[test]
fn what_makes_a_point_comes_in_running_order() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let asked = editor.at("foreshore/markup/layout.html", "place(\"hook:under-masthead", 10);
    editor.settle();
    let answer = editor.ask("textDocument/implementation", asked);
    let names: Vec<String> = editor.places(&answer).into_iter().map(|(_, _, said)| said).collect();
    // Seen from the base theme itself, only its own callbacks run there.
    assert_eq!(names, ["welcome", "themeRibbon"], "{names:?}");
    let asked = editor.at("saltmarsh/truehook.toml", "hook:under-masthead", 10);
    let answer = editor.ask("textDocument/implementation", asked);
    let names: Vec<String> = editor.places(&answer).into_iter().map(|(_, _, said)| said).collect();
    let shown = terminal.types("show hook:under-masthead").stdout;
    let position = |name: &str| shown.find(&format!("#{name}")).unwrap_or_else(|| panic!("{name}: {shown}"));
    let mut sorted = names.clone();
    sorted.sort_by_key(|name| position(name));
    assert_eq!(names, sorted, "{shown}");
    assert_eq!(names.len(), 3);
}

#[test]
fn hovering_tells_what_show_tells() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let mut hover = |path: &str, piece: &str, into: usize| {
        let asked = editor.at(path, piece, into);
        let answer = editor.ask("textDocument/hover", asked);
        answer["contents"]["value"].as_str().unwrap_or_default().to_string()
    };
    let hook = hover("saltmarsh/truehook.toml", "hook:under-masthead", 8);
    for piece in [
        "Right below the masthead",
        "foreshore:truehook.toml:10",
        "placed once",
        "every page",
        "1. `masthead.js#welcome`",
    ] {
        assert!(hook.contains(piece), "{piece}: {hook}");
    }
    let call = hover("saltmarsh/truehook.toml", "masthead.js#winterNotice", 14);
    assert!(call.contains("listener of `hook:under-masthead`, 2nd of 3"), "{call}");
    let input = hover("saltmarsh/markup/pieces/fold.html", "heading", 2);
    assert!(input.contains("input of `piece:fold`") && input.contains("string"), "{input}");
    let key = hover("saltmarsh/truehook.toml", "priority = 40", 3);
    assert!(key.contains("lower runs earlier"), "{key}");
    let kind = hover("saltmarsh/truehook.toml", "[region.tide-board]", 3);
    assert!(kind.contains("holds items"), "{kind}");
    let message = hover("saltmarsh/code/masthead.js", "Winter: the northern", 3);
    assert!(message.contains("- de: “"), "{message}");
}

#[test]
fn lenses_hints_links_and_symbols_say_what_is_so() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let document = |editor: &Editor, path: &str| json!({ "textDocument": { "uri": editor.uri(path) } });
    let asked = document(&editor, "foreshore/truehook.toml");
    let lenses = editor.ask("textDocument/codeLens", asked);
    let text = editor.text("foreshore/truehook.toml");
    let line = text.lines().position(|line| line == "[hook.under-masthead]").unwrap() as u64;
    let lens = lenses.as_array().unwrap().iter().find(|lens| lens["range"]["start"]["line"] == line).unwrap();
    assert_eq!(lens["command"]["title"], "placed once · 2 callbacks · reached by every page");
    let shown = editor.ask(
        "workspace/executeCommand",
        json!({ "command": lens["command"]["command"], "arguments": lens["command"]["arguments"] }),
    );
    assert!(shown.as_str().unwrap().contains("hook:under-masthead"), "{shown}");
    let whole = json!({ "start": { "line": 0, "character": 0 }, "end": { "line": 9999, "character": 0 } });
    let asked = json!({ "textDocument": { "uri": editor.uri("foreshore/markup/layout.html") }, "range": whole });
    let hints = editor.ask("textDocument/inlayHint", asked);
    let labels: Vec<&str> = hints.as_array().unwrap().iter().map(|hint| hint["label"].as_str().unwrap()).collect();
    assert!(labels.contains(&"masthead.js#welcome, masthead.js#themeRibbon"), "{labels:?}");
    let asked = json!({ "textDocument": { "uri": editor.uri("saltmarsh/truehook.toml") }, "range": whole });
    let hints = editor.ask("textDocument/inlayHint", asked);
    let labels: Vec<&str> = hints.as_array().unwrap().iter().map(|hint| hint["label"].as_str().unwrap()).collect();
    assert!(labels.contains(&"2nd of 3") && labels.contains(&"3rd of 3"), "{labels:?}");
    let asked = document(&editor, "saltmarsh/truehook.toml");
    let links = editor.ask("textDocument/documentLink", asked);
    for link in links.as_array().unwrap() {
        let target = link["target"].as_str().unwrap().strip_prefix("file://").unwrap();
        assert!(std::path::Path::new(target).is_file(), "{link}");
    }
    let said: Vec<String> =
        links.as_array().unwrap().iter().map(|link| editor.said("saltmarsh/truehook.toml", &link["range"])).collect();
    for wanted in ["media/cover.svg", "saltmarsh.css", "../foreshore", "../tide-kit"] {
        assert!(said.iter().any(|said| said == wanted), "{wanted}: {said:?}");
    }
    let asked = document(&editor, "saltmarsh/points/species.toml");
    let symbols = editor.ask("textDocument/documentSymbol", asked);
    let fold = symbols.as_array().unwrap().iter().find(|symbol| symbol["name"] == "piece:fold").unwrap();
    assert_eq!(fold["children"][0]["name"], "heading");
    let found = editor.ask("workspace/symbol", json!({ "query": "openhours" }));
    let names: Vec<&str> = found.as_array().unwrap().iter().map(|symbol| symbol["name"].as_str().unwrap()).collect();
    assert!(names.contains(&"partial:opening-hours") && names.contains(&"station.js#openingHours"), "{names:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// Whatever stands before it on its line and above, a mention is where this editor counts it to be.
    #[test]
    fn positions_are_right_among_any_letters(lines in proptest::collection::vec("[a-zé→😀𝒯ü\u{301} \t]{0,12}", 0..5), utf8 in any::<bool>()) {
        let terminal = Terminal::new().manifest("[partial.tide]\nabout = \"The tide\"\n\n[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:tide\"\n");
        let text = format!("<p>{}{{{{ place(\"partial:tide\") }}}} 😀{{{{ hight }}}}</p>\n", lines.join("\n"));
        terminal.write("marsh/markup/page.html", format!("{{% extends \"layout.html\" %}}{{% block main %}}{{{{ super() }}}}{text}{{% endblock %}}\n"));
        terminal.write("marsh/markup/partials/tide.html", "<p>Tide</p>\n");
        let mut said = usual();
        if utf8 {
            said["general"] = json!({ "positionEncodings": ["utf-8", "utf-16"] });
        }
        let mut editor = Editor::with(&terminal, "", said);
        let wanted = if utf8 { "utf-8" } else { "utf-16" };
        prop_assert_eq!(&editor.offered["capabilities"]["positionEncoding"], &json!(wanted));
        let path = "marsh/markup/page.html";
        editor.opens(path);
        editor.settle();
        let found = &editor.pushed[path];
        prop_assert_eq!(found.len(), 1);
        prop_assert_eq!(editor.said(path, &found[0]["range"]), "hight");
        let places = definition(&mut editor, path, "partial:tide", 4);
        prop_assert_eq!(&places[0].2, "tide");
        let asked = editor.at(path, "partial:tide", 4);
        let marks = editor.ask("textDocument/documentHighlight", asked);
        prop_assert_eq!(editor.said(path, &marks[0]["range"]), "partial:tide");
        // An edit arrives where it was made.
        let at = editor.text(path).find("hight").unwrap();
        editor.types(path, at..at + 5, "page.title");
        editor.settle();
        prop_assert!(!editor.pushed.contains_key(path), "{:?}", editor.pushed.get(path));
    }
}

#[test]
fn of_what_means_nothing_nothing_is_told() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let asked = editor.at("saltmarsh/truehook.toml", "# What the layers below", 5);
    assert_eq!(editor.ask("textDocument/definition", asked.clone()), Value::Null);
    assert_eq!(editor.ask("textDocument/hover", asked.clone()), Value::Null);
    assert_eq!(editor.ask("textDocument/prepareRename", asked), Value::Null);
}
