//! Changes from an editor: new names, mends, and what commands do.

use std::collections::BTreeMap;

use serde_json::{Value, json};

use super::{Editor, usual};
use crate::fixture::Terminal;

/// All files below a folder of the terminal, with their texts.
fn tree(terminal: &Terminal, folder: &str) -> BTreeMap<String, Vec<u8>> {
    fn walk(root: &std::path::Path, folder: &std::path::Path, found: &mut BTreeMap<String, Vec<u8>>) {
        for entry in std::fs::read_dir(folder).unwrap().flatten() {
            let path = entry.path();
            let name = path.strip_prefix(root).unwrap().to_str().unwrap().to_string();
            match path.is_dir() {
                true => walk(root, &path, found),
                // The locks of commands stay behind.
                false if name.contains(".truehook") => {}
                false => drop(found.insert(name, std::fs::read(&path).unwrap())),
            }
        }
    }
    let mut found = BTreeMap::new();
    let root = terminal.path(folder);
    walk(&root, &root, &mut found);
    found
}

fn rename(editor: &mut Editor, path: &str, piece: &str, into: usize, new: &str) -> Value {
    let asked = editor.at(path, piece, into);
    let params = json!({ "textDocument": asked["textDocument"], "position": asked["position"], "newName": new });
    editor.ask_whole("textDocument/rename", params)
}

#[test]
fn a_new_name_does_what_the_command_does() {
    let all = [
        // In the theme whose file it is: a point by its header and by a mention, a callback by its module, an input.
        ("saltmarsh/truehook.toml", "[region.tide-board]", 9, "ebb-board", "rename region:tide-board region:ebb-board"),
        (
            "saltmarsh/preview/site.toml",
            "region:tide-board",
            9,
            "region:ebb-board",
            "rename region:tide-board region:ebb-board",
        ),
        (
            "saltmarsh/code/masthead.js",
            "winterNotice",
            3,
            "coldNotice",
            "rename masthead.js#winterNotice masthead.js#coldNotice",
        ),
        (
            "saltmarsh/truehook.toml",
            "masthead.js#winterNotice",
            15,
            "masthead.js#coldNotice",
            "rename masthead.js#winterNotice masthead.js#coldNotice",
        ),
        ("saltmarsh/markup/pieces/fold.html", "heading", 3, "words", "rename piece:fold.heading piece:fold.words"),
        ("saltmarsh/points/species.toml", "[piece.fold]", 8, "leaf", "rename piece:fold piece:leaf"),
    ];
    for (path, piece, into, new, command) in all {
        let (terminal, other) = (Terminal::demo(), Terminal::demo());
        let mut editor = Editor::of(&terminal);
        let answer = rename(&mut editor, path, piece, into, new);
        assert!(answer.get("error").is_none(), "{command}: {answer}");
        editor.makes(&answer["result"]);
        other.types(command).ends(0);
        assert_eq!(tree(&terminal, "saltmarsh"), tree(&other, "saltmarsh"), "{command}");
    }
}

#[test]
fn what_a_base_declares_is_renamed_there_and_above_where_people_agree() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let answer = rename(&mut editor, "saltmarsh/truehook.toml", "hook:under-masthead", 8, "hook:beneath-banner");
    assert!(answer.get("error").is_none(), "{answer}");
    let edit = &answer["result"];
    let annotations = edit["changeAnnotations"].as_object().unwrap();
    let mut names: Vec<&String> = annotations.keys().collect();
    names.sort();
    assert_eq!(names, ["saltmarsh", "saltmarsh-broken"]);
    assert!(annotations.values().all(|annotation| annotation["needsConfirmation"] == true));
    for operation in edit["documentChanges"].as_array().unwrap() {
        let path = editor.path(operation["textDocument"]["uri"].as_str().unwrap());
        let theme = path.split('/').next().unwrap();
        for change in operation["edits"].as_array().unwrap() {
            let wanted = if theme == "foreshore" { Value::Null } else { json!(theme) };
            assert_eq!(change["annotationId"], wanted, "{path}");
        }
    }
    editor.makes(edit);
    for theme in ["foreshore", "saltmarsh"] {
        terminal.types_in(theme, "check").ends(0).says("nothing wrong");
        for (path, text) in tree(&terminal, theme) {
            let text = String::from_utf8_lossy(&text).into_owned();
            assert!(!text.contains("hook:under-masthead"), "{theme}/{path}");
        }
    }
}

#[test]
fn an_editor_that_can_not_ask_leaves_the_other_themes_and_says_so() {
    let terminal = Terminal::demo();
    let mut said = usual();
    said["workspace"]["workspaceEdit"]["changeAnnotationSupport"] = Value::Null;
    let mut editor = Editor::with(&terminal, "", said);
    let answer = rename(&mut editor, "foreshore/truehook.toml", "[hook.under-masthead]", 8, "beneath-banner");
    editor.listen(std::time::Duration::from_millis(50));
    for operation in answer["result"]["documentChanges"].as_array().unwrap() {
        let path = editor.path(operation["textDocument"]["uri"].as_str().unwrap());
        assert!(path.starts_with("foreshore/"), "{path}");
    }
    let told = editor.asked.iter().find(|message| message["method"] == "window/showMessage").expect("a message");
    let told = told["params"]["message"].as_str().unwrap();
    assert!(told.contains("saltmarsh, saltmarsh-broken speak of `hook:under-masthead`"), "{told}");
}

#[test]
fn a_name_that_can_not_be_changed_is_refused_with_the_reason() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let refused = rename(&mut editor, "foreshore/markup/layout.html", "hook:document-head", 8, "hook:head");
    assert!(refused["error"]["message"].as_str().unwrap().contains("is the host's"), "{refused}");
    let taken = rename(&mut editor, "saltmarsh/truehook.toml", "[region.tide-board]", 9, "aside");
    assert!(taken["error"]["message"].as_str().unwrap().contains("is there already"), "{taken}");
    let wrong = rename(&mut editor, "saltmarsh/truehook.toml", "[region.tide-board]", 9, "No Name");
    assert!(wrong["error"]["message"].as_str().unwrap().contains("is not a name"), "{wrong}");
    let asked = editor.at("saltmarsh/truehook.toml", "[region.tide-board]", 9);
    let prepared = editor.ask("textDocument/prepareRename", asked);
    assert_eq!(prepared["placeholder"], "tide-board");
}

fn actions(editor: &mut Editor, path: &str, range: &Value, only: Option<&str>) -> Vec<Value> {
    let context = json!({ "diagnostics": [], "only": only.map(|only| vec![only]) });
    let params = json!({ "textDocument": { "uri": editor.uri(path) }, "range": range, "context": context });
    editor.ask("textDocument/codeAction", params).as_array().unwrap().clone()
}

fn point_at(editor: &Editor, path: &str, piece: &str, into: usize) -> Value {
    let at = editor.at(path, piece, into)["position"].clone();
    json!({ "start": at, "end": at })
}

#[test]
fn each_mend_that_an_editor_offers_takes_its_finding_away() {
    let first = Terminal::demo();
    let mut editor = Editor::of(&first);
    editor.settle();
    let all: Vec<(String, Value)> = editor
        .pushed
        .iter()
        .filter(|(path, _)| path.starts_with("saltmarsh-broken/"))
        .flat_map(|(path, found)| found.iter().map(move |found| (path.clone(), found.clone())))
        .collect();
    drop(editor);
    let mut mended = Vec::new();
    for (path, finding) in all {
        let terminal = Terminal::demo();
        let mut editor = Editor::of(&terminal);
        let offered = actions(&mut editor, &path, &finding["range"], Some("quickfix"));
        let own = offered.iter().find(|action| action["diagnostics"][0]["message"] == finding["message"]);
        let Some(action) = own else { continue };
        editor.makes(&action["edit"]);
        let left = terminal.types_in("saltmarsh-broken", "check --notes --format json").stdout;
        let message = finding["message"].as_str().unwrap().lines().next().unwrap();
        let encoded = serde_json::to_string(message).unwrap();
        assert!(!left.contains(&encoded), "{} leaves: {message}", action["title"]);
        mended.push(finding["code"].as_str().unwrap().to_string());
    }
    for rule in
        ["lost-placement", "unplaced-point", "unknown-variable", "broken-address", "undeclared-point", "fill-target"]
    {
        assert!(mended.iter().any(|mended| mended == rule), "{rule}: {mended:?}");
    }
}

#[test]
fn all_that_is_safe_is_mended_as_check_does_it() {
    let (terminal, other) = (Terminal::demo(), Terminal::demo());
    let mut editor = Editor::of(&terminal);
    let path = "saltmarsh-broken/truehook.toml";
    let range = point_at(&editor, path, "[theme]", 0);
    let offered = actions(&mut editor, path, &range, Some("source.fixAll"));
    assert_eq!(offered.len(), 1, "{offered:?}");
    editor.makes(&offered[0]["edit"]);
    other.types_in("saltmarsh-broken", "check --fix").ends(1);
    assert_eq!(tree(&terminal, "saltmarsh-broken"), tree(&other, "saltmarsh-broken"));
    // Among all that is offered it is a command, which asks the editor to make the same edit.
    let third = Terminal::demo();
    let mut editor = Editor::of(&third);
    let offered = actions(&mut editor, path, &range, None);
    let command = &offered.iter().find(|action| action["kind"] == "source.fixAll").unwrap()["command"];
    editor.ask("workspace/executeCommand", json!({ "command": command["command"], "arguments": command["arguments"] }));
    editor.listen(std::time::Duration::from_millis(100));
    let asked =
        editor.asked.iter().find(|message| message["method"] == "workspace/applyEdit").expect("an edit").clone();
    editor.makes(&asked["params"]["edit"]);
    assert_eq!(tree(&third, "saltmarsh-broken"), tree(&other, "saltmarsh-broken"));
}

#[test]
fn what_commands_do_is_done_at_the_place() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let path = "saltmarsh/truehook.toml";
    let text = editor.opens(path);
    let added = "\n[[attach]]\nto = \"hook:quiet-corner\"\ncall = \"corner.js#light\"\n";
    editor.types(path, text.len()..text.len(), added);
    let titles = |offered: &[Value]| {
        offered.iter().map(|action| action["title"].as_str().unwrap().to_string()).collect::<Vec<_>>()
    };
    let take = |offered: &[Value], title: &str| {
        let found = offered.iter().find(|action| action["title"] == title);
        found.unwrap_or_else(|| panic!("{title}: {:?}", titles(offered)))["edit"].clone()
    };
    // Declare what is attached to, write what is attached, place what is declared.
    let range = point_at(&editor, path, "hook:quiet-corner", 4);
    let offered = actions(&mut editor, path, &range, None);
    editor.makes(&take(&offered, "declare `hook:quiet-corner`"));
    let range = point_at(&editor, path, "corner.js#light", 9);
    let offered = actions(&mut editor, path, &range, None);
    editor.makes(&take(&offered, "write the stub of `corner.js#light`"));
    editor.saves();
    assert!(terminal.read("saltmarsh/code/corner.js").contains("export function light("));
    terminal.types("check").ends(1).says("`hook:quiet-corner`").says("no template places it");
    // Take the layout over, and place it there.
    let range = point_at(&editor, "saltmarsh/markup/front.html", "layout.html", 3);
    let offered = actions(&mut editor, "saltmarsh/markup/front.html", &range, None);
    editor.makes(&take(&offered, "adopt `layout.html` into saltmarsh: as a copy"));
    editor.tell(
        "workspace/didChangeWatchedFiles",
        json!({ "changes": [{ "uri": editor.uri("saltmarsh/markup/layout.html"), "type": 1 }] }),
    );
    assert!(terminal.path("saltmarsh/adopted/foreshore/layout.html").exists());
    editor.settle();
    let found = editor.pushed[path].iter().find(|found| found["code"] == "unplaced-point").expect("not placed").clone();
    let offered = actions(&mut editor, path, &found["range"], Some("quickfix"));
    let place =
        offered.iter().find(|action| action["title"].as_str().unwrap().starts_with("truehook place hook:quiet-corner"));
    editor.makes(&place.unwrap_or_else(|| panic!("{:?}", titles(&offered)))["edit"]);
    editor.saves();
    terminal.types("check").ends(0).says("nothing wrong");
    // At a point, a callback can be attached with its stub.
    let range = point_at(&editor, path, "[hook.quiet-corner]", 8);
    let offered = actions(&mut editor, path, &range, Some("refactor"));
    editor.makes(&take(&offered, "attach a new callback `hook.js#quietCorner` to `hook:quiet-corner`"));
    editor.saves();
    terminal.types("show hook:quiet-corner").ends(0).says("hook.js#quietCorner");
    terminal.types("check").ends(0);
}

#[test]
fn an_editor_that_can_not_make_files_is_offered_nothing_that_needs_them() {
    let terminal = Terminal::demo();
    let mut said = usual();
    said["workspace"]["workspaceEdit"] = json!({});
    let mut editor = Editor::with(&terminal, "", said);
    let path = "saltmarsh/markup/front.html";
    let range = point_at(&editor, path, "layout.html", 3);
    let offered = actions(&mut editor, path, &range, None);
    assert!(!offered.iter().any(|action| action["title"].as_str().unwrap().starts_with("adopt")), "{offered:?}");
    // What needs none comes as plain changes.
    let path = "saltmarsh-broken/markup/pieces/fold.html";
    let range = point_at(&editor, path, "haeding", 3);
    let offered = actions(&mut editor, path, &range, Some("quickfix"));
    assert!(offered[0]["edit"]["changes"].is_object(), "{offered:?}");
    editor.makes(&offered[0]["edit"]);
    assert!(!terminal.read(path).contains("haeding"));
}
