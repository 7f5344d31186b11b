//! Findings in editors: those of a check, in its words, at its places.

use std::collections::BTreeSet;

use serde_json::{Value, json};

use super::{Editor, usual};
use crate::fixture::{LAYOUT, Terminal};

/// What a check says of a theme: file, line and column from 1, rule, and what is wrong.
fn checked(terminal: &Terminal, theme: &str) -> BTreeSet<(String, u64, u64, String, String)> {
    let said = terminal.types_in(theme, "check --notes --format json");
    let report: Value = serde_json::from_str(&said.stdout).unwrap();
    let name = report["findings"][0]["places"][0]["layer"].as_str().unwrap_or(theme).to_string();
    let own = |place: &&Value| place["layer"] == theme;
    let found = report["findings"].as_array().unwrap().iter().map(|finding| {
        let places = finding["places"].as_array().unwrap();
        let place = places.iter().find(own).unwrap_or(&places[0]);
        (
            format!("{theme}/{}", place["file"].as_str().unwrap()),
            place["line"].as_u64().unwrap(),
            place["column"].as_u64().unwrap(),
            finding["rule"].as_str().unwrap().to_string(),
            finding["message"].as_str().unwrap().to_string(),
        )
    });
    let found = found.collect();
    drop(name);
    found
}

/// The same of what the editor was told.
fn shown(editor: &Editor, theme: &str) -> BTreeSet<(String, u64, u64, String, String)> {
    let mut found = BTreeSet::new();
    for (path, diagnostics) in editor.pushed.iter().filter(|(path, _)| path.starts_with(&format!("{theme}/"))) {
        let text = editor.text(path);
        for diagnostic in diagnostics {
            let start = editor.offset(&text, &diagnostic["range"]["start"]);
            let line = text[..start].matches('\n').count() as u64 + 1;
            let column = text[..start].rsplit('\n').next().unwrap().chars().count() as u64 + 1;
            let message = diagnostic["message"].as_str().unwrap().lines().next().unwrap().to_string();
            found.insert((path.clone(), line, column, diagnostic["code"].as_str().unwrap().to_string(), message));
        }
    }
    found
}

#[test]
fn each_finding_of_a_check_is_shown_once_at_its_place() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    editor.settle();
    for theme in ["saltmarsh-broken", "saltmarsh", "foreshore"] {
        assert_eq!(shown(&editor, theme), checked(&terminal, theme), "{theme}");
    }
    assert!(shown(&editor, "saltmarsh-broken").len() >= 14);
}

#[test]
fn a_finding_says_what_the_check_says_with_places_level_rule_and_mend() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    editor.settle();
    let all: Vec<&Value> = editor.pushed.values().flatten().collect();
    let lost = all.iter().find(|found| found["code"] == "lost-placement").expect("a lost placement");
    assert_eq!((&lost["severity"], &lost["source"]), (&json!(1), &json!("truehook")));
    let message = lost["message"].as_str().unwrap();
    assert!(
        message.contains("mend: truehook place hook:ahead-of-footer --in layout.html --before footer"),
        "{message}"
    );
    let related = lost["relatedInformation"].as_array().unwrap();
    assert!(related.iter().any(|place| place["message"] == "the original has it here"), "{related:?}");
    // The rule leads to what it means.
    let href = lost["codeDescription"]["href"].as_str().unwrap().strip_prefix("file://").unwrap();
    let page = std::fs::read_to_string(href).unwrap();
    assert!(page.starts_with("# lost-placement\n"), "{page}");
    let order = all.iter().find(|found| found["code"] == "order-conflict").expect("a note");
    assert_eq!(order["severity"], 3);
    let conditions = all.iter().filter(|found| found["code"] == "condition-name").count();
    assert_eq!(conditions, 1, "one cause, one diagnostic");
}

#[test]
fn what_is_not_saved_counts_and_what_is_closed_does_not() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let path = "saltmarsh/markup/pieces/fold.html";
    let text = editor.opens(path);
    editor.settle();
    assert!(!editor.pushed.contains_key(path));
    editor.types(path, text.len()..text.len(), "{{ place(\"regon:tide-board\") }}");
    editor.settle();
    let found = editor.pushed.get(path).cloned().unwrap_or_default();
    assert_eq!(found.len(), 1, "{found:?}");
    assert!(found[0]["message"].as_str().unwrap().contains("region:tide-board"), "{found:?}");
    editor.closes(path);
    editor.settle();
    assert!(!editor.pushed.contains_key(path));
    assert_eq!(terminal.read(path), text, "nothing is written");
}

#[test]
fn a_file_that_is_not_saved_yet_is_there_and_one_that_is_gone_is_not() {
    let terminal = Terminal::new().manifest(
        "[partial.tide]\nabout = \"The tide\"\n\n[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:tide\"\n",
    );
    let mut editor = Editor::of(&terminal);
    editor.settle();
    let rules = |editor: &Editor| -> Vec<String> {
        editor.pushed.values().flatten().map(|found| found["code"].as_str().unwrap().to_string()).collect()
    };
    assert_eq!(rules(&editor), ["missing-markup"]);
    editor.opens_as("marsh/markup/partials/tide.html", "<p>{{ hight }}</p>\n");
    editor.settle();
    assert_eq!(rules(&editor), ["unknown-variable"]);
    editor.closes("marsh/markup/partials/tide.html");
    editor.settle();
    assert_eq!(rules(&editor), ["missing-markup"]);
}

#[test]
fn who_pulls_is_not_pushed_to_and_hears_only_what_is_new() {
    let terminal = Terminal::demo();
    let mut said = usual();
    said["textDocument"]["diagnostic"] = json!({});
    said["workspace"]["diagnostics"] = json!({ "refreshSupport": true });
    let mut editor = Editor::with(&terminal, "", said);
    editor.settle();
    assert!(editor.pushed.is_empty());
    assert_eq!(editor.offered["capabilities"]["diagnosticProvider"]["interFileDependencies"], true);
    let path = "saltmarsh-broken/markup/pieces/fold.html";
    let document = json!({ "uri": editor.uri(path) });
    let report = editor.ask("textDocument/diagnostic", json!({ "textDocument": document }));
    assert_eq!(report["kind"], "full");
    assert_eq!(report["items"][0]["code"], "unknown-variable");
    let again = json!({ "textDocument": document, "previousResultId": report["resultId"] });
    assert_eq!(editor.ask("textDocument/diagnostic", again)["kind"], "unchanged");
    let whole = editor.ask("workspace/diagnostic", json!({ "previousResultIds": [] }));
    let items = whole["items"].as_array().unwrap();
    let number: usize = items.iter().map(|item| item["items"].as_array().unwrap().len()).sum();
    let broken = checked(&terminal, "saltmarsh-broken").len();
    assert_eq!(number, broken + checked(&terminal, "saltmarsh").len());
    let known: Vec<Value> = items.iter().map(|item| json!({ "uri": item["uri"], "value": item["resultId"] })).collect();
    // Mended, a file is told of once more, as empty.
    let text = editor.opens(path);
    editor.becomes(path, &text.replace("haeding", "heading"));
    let whole = editor.ask("workspace/diagnostic", json!({ "previousResultIds": known }));
    let new: Vec<&Value> = whole["items"].as_array().unwrap().iter().filter(|item| item["kind"] == "full").collect();
    assert_eq!(new.len(), 1, "{new:?}");
    assert_eq!(
        (new[0]["uri"].as_str(), new[0]["items"].as_array().map(Vec::len)),
        (Some(editor.uri(path).as_str()), Some(0))
    );
}

#[test]
fn while_the_lines_for_the_layers_lead_nowhere_the_last_stack_stays() {
    let terminal = Terminal::demo();
    let mut editor = Editor::with(&terminal, "", usual());
    let path = "saltmarsh/truehook.toml";
    let text = editor.opens(path);
    editor.settle();
    let before = editor.pushed.clone();
    for (broken, rule) in [
        (text.replace("../foreshore", "../foresh"), "base-missing"),
        (
            text.replace("base       = { path = \"../foreshore\"", "base       = { path = \"../foreshore"),
            "manifest-syntax",
        ),
        (text.replace("base       = {", "base       = "), "manifest-syntax"),
    ] {
        assert_ne!(broken, text);
        editor.becomes(path, &broken);
        editor.settle();
        let here: Vec<&str> = editor.pushed[path].iter().map(|found| found["code"].as_str().unwrap()).collect();
        assert_eq!(here, [rule]);
        let others = |all: &std::collections::BTreeMap<String, Vec<Value>>| {
            all.iter()
                .filter(|(known, _)| *known != path)
                .map(|(path, found)| (path.clone(), found.clone()))
                .collect::<Vec<_>>()
        };
        assert_eq!(others(&editor.pushed), others(&before), "{rule}: what else is said stays");
        // What is placed in the base is still known.
        let hover = editor.at("saltmarsh/markup/front.html", "extends \"", 10);
        assert_ne!(editor.ask("textDocument/definition", hover), Value::Null);
        // Edits would go where things stood before, so there are none.
        let asked = editor.at("foreshore/truehook.toml", "[hook.under-masthead]", 8);
        let renamed =
            json!({ "textDocument": asked["textDocument"], "position": asked["position"], "newName": "other" });
        let answer = editor.ask("textDocument/rename", renamed);
        assert!(!answer.to_string().contains("saltmarsh/truehook.toml"), "{answer}");
        let range = json!({ "start": { "line": 0, "character": 0 }, "end": { "line": 99, "character": 0 } });
        let asked =
            json!({ "textDocument": { "uri": editor.uri(path) }, "range": range, "context": { "diagnostics": [] } });
        assert_eq!(editor.ask("textDocument/codeAction", asked), Value::Null);
        // Another file is still followed.
        editor.becomes(path, &text);
        editor.settle();
        assert_eq!(editor.pushed, before, "{rule}: mended, all is as before");
    }
}

#[test]
fn what_nothing_uses_and_what_is_retired_is_marked() {
    let shingle = "[theme]\nname = \"shingle\"\nlabel = \"Shingle\"\nversion = \"2.1.0\"\nopen = true\n\n\
        [hook.under-text]\nabout = \"Below the text\"\nretired = \"2.0.0\"\n";
    let layout = LAYOUT.replace("{% endblock %}", "{% endblock %}{{ place(\"hook:under-text\") }}");
    let option = "[option.tone]\nlabel = \"Tone\"\ntype = \"string\"\ndefault = \"a\"\n";
    let attached = "[[attach]]\nto = \"hook:under-text\"\ncall = \"notes.js#today\"\n";
    let marsh = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\nbase = { path = \"../shingle\" }\n";
    let terminal = Terminal::empty("marsh")
        .file("shingle/truehook.toml", shingle)
        .file("shingle/markup/layout.html", layout)
        .file("shingle/markup/page.html", "{% extends \"layout.html\" %}\n")
        .file("marsh/truehook.toml", format!("{marsh}\n{option}\n{attached}"))
        .file("marsh/code/notes.js", "export function today() { return \"Low water\"; }\n");
    let mut editor = Editor::of(&terminal);
    editor.settle();
    let all = &editor.pushed["marsh/truehook.toml"];
    let tags: Vec<(&str, &Value)> = all.iter().map(|found| (found["code"].as_str().unwrap(), &found["tags"])).collect();
    assert!(tags.contains(&("idle-option", &json!([1]))), "{tags:?}");
    assert!(tags.contains(&("retired-point", &json!([2]))), "{tags:?}");
}

#[test]
fn huge_and_unreadable_files_give_findings_and_nothing_breaks() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let path = "saltmarsh/markup/front.html";
    let text = editor.opens(path);
    for (broken, said) in [
        ("{{ page.title }}\n".repeat(300_000), "more than the 4 MiB that are read"),
        ("{{ [".repeat(20_000), "nested"),
        ("{% if".to_string(), ""),
        ("\u{0}".to_string(), "NUL"),
    ] {
        editor.becomes(path, &broken);
        editor.settle();
        let found = &editor.pushed[path];
        assert!(found.iter().any(|found| found["message"].as_str().unwrap().contains(said)), "{said}: {found:?}");
    }
    editor.becomes(path, &text);
    editor.settle();
    assert!(!editor.pushed.contains_key(path));
    // A folder in the place of a file, and a file that is no text.
    std::fs::write(terminal.path("saltmarsh/code/masthead.js"), [0xff, 0xfe, 0x00]).unwrap();
    editor.tell(
        "workspace/didChangeWatchedFiles",
        json!({ "changes": [{ "uri": editor.uri("saltmarsh/code/masthead.js"), "type": 2 }] }),
    );
    editor.settle();
    assert!(editor.pushed["saltmarsh/code/masthead.js"][0]["message"].as_str().unwrap().contains("this is"));
    assert_eq!(editor.ends(), Some(0));
}

#[test]
fn a_theme_begins_as_its_manifest_comes() {
    let terminal = Terminal::demo().file("wharf/markup/page.html", "{{ place(\"hook:x\") }}\n");
    let mut editor = Editor::of(&terminal);
    editor.settle();
    assert!(!editor.pushed.keys().any(|path| path.starts_with("wharf")));
    editor.opens_as("wharf/truehook.toml", "[theme]\nname = \"wharf\"\nlabel = \"Wharf\"\nversion = \"1.0.0\"\n");
    editor.settle();
    assert!(editor.pushed.contains_key("wharf/markup/page.html"), "{:?}", editor.pushed.keys());
}
