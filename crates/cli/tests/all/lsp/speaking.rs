//! The protocol itself: how it begins and ends, and what is said to what is no question.

use std::time::Duration;

use serde_json::{Value, json};

use super::{Editor, usual};
use crate::fixture::Terminal;

#[test]
fn it_begins_and_ends_as_the_protocol_has_it() {
    let terminal = Terminal::demo();
    let mut editor = Editor::silent(&terminal, "");
    let refused = editor.ask_whole("textDocument/hover", json!({}));
    assert_eq!(refused["error"]["code"], -32002, "{refused}");
    let params = json!({ "processId": null, "rootUri": editor.uri(""), "capabilities": {} });
    let began = editor.ask("initialize", params);
    assert_eq!(began["serverInfo"]["name"], "truehook");
    assert_eq!(began["capabilities"]["positionEncoding"], "utf-16");
    assert_eq!(began["capabilities"]["textDocumentSync"]["change"], 2);
    assert_eq!(began["capabilities"]["diagnosticProvider"], Value::Null, "who does not pull is pushed to");
    editor.tell("initialized", json!({}));
    assert_eq!(editor.ends(), Some(0));
}

#[test]
fn an_editor_that_goes_without_a_word_ends_it_too() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    editor.hangs_up();
    assert_eq!(editor.waits(), Some(1));
    let mut editor = Editor::of(&terminal);
    editor.tell("exit", Value::Null);
    assert_eq!(editor.waits(), Some(1), "exit without shutdown is an error, by the protocol");
}

#[test]
fn after_shutdown_nothing_more_is_answered() {
    let terminal = Terminal::new();
    let mut editor = Editor::of(&terminal);
    editor.ask("shutdown", Value::Null);
    let refused = editor.ask_whole("workspace/symbol", json!({ "query": "" }));
    assert_eq!(refused["error"]["code"], -32600, "{refused}");
    editor.tell("exit", Value::Null);
    assert_eq!(editor.waits(), Some(0));
}

#[test]
fn what_is_no_question_is_refused_and_nothing_breaks() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let unknown = editor.ask_whole("textDocument/noSuchThing", json!({}));
    assert_eq!(unknown["error"]["code"], -32601);
    let wrong = editor.ask_whole("textDocument/hover", json!({ "textDocument": 3 }));
    assert_eq!(wrong["error"]["code"], -32602);
    let nowhere =
        json!({ "textDocument": { "uri": "file:///no/such/file.toml" }, "position": { "line": 0, "character": 0 } });
    assert_eq!(editor.ask("textDocument/hover", nowhere.clone()), Value::Null);
    assert_eq!(editor.ask("textDocument/completion", nowhere), Value::Null);
    let untitled =
        json!({ "textDocument": { "uri": "untitled:Untitled-1" }, "position": { "line": 0, "character": 0 } });
    assert_eq!(editor.ask("textDocument/definition", untitled), Value::Null);
    // Far outside of a text is its end.
    editor.opens("saltmarsh/truehook.toml");
    let far = json!({ "textDocument": { "uri": editor.uri("saltmarsh/truehook.toml") }, "position": { "line": 9999, "character": 9999 } });
    editor.ask("textDocument/hover", far.clone());
    editor.ask("textDocument/completion", far);
    editor.tell("textDocument/didChange", json!({ "nonsense": true }));
    editor.tell("$/noSuchNotice", json!({}));
    let unknown = editor.ask_whole("workspace/executeCommand", json!({ "command": "no.such", "arguments": [] }));
    assert_eq!(unknown["error"]["code"], -32602);
    assert_eq!(editor.ends(), Some(0));
}

#[test]
fn a_question_can_be_taken_back() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    editor.settle();
    let asked = editor.at("saltmarsh/truehook.toml", "hook:under-masthead", 3);
    let mut both = String::new();
    let question = json!({ "jsonrpc": "2.0", "id": 900, "method": "textDocument/hover", "params": asked });
    let cancel = json!({ "jsonrpc": "2.0", "method": "$/cancelRequest", "params": { "id": 900 } });
    for message in [question, cancel] {
        let text = message.to_string();
        both.push_str(&format!("Content-Length: {}\r\n\r\n{text}", text.len()));
    }
    editor.send_raw(both.as_bytes());
    assert_eq!(editor.answer_to(900)["error"]["code"], -32800);
}

#[test]
fn reading_the_themes_is_shown_and_files_are_watched_by_whoever_can() {
    let terminal = Terminal::demo();
    let mut said = usual();
    said["window"] = json!({ "workDoneProgress": true });
    said["workspace"]["didChangeWatchedFiles"] = json!({ "dynamicRegistration": true });
    let mut editor = Editor::with(&terminal, "", said);
    editor.settle();
    let methods: Vec<&str> = editor.asked.iter().filter_map(|message| message["method"].as_str()).collect();
    assert!(methods.contains(&"client/registerCapability"), "{methods:?}");
    assert!(methods.contains(&"window/workDoneProgress/create"), "{methods:?}");
    let kinds: Vec<&str> = editor
        .asked
        .iter()
        .filter(|message| message["method"] == "$/progress")
        .filter_map(|message| message["params"]["value"]["kind"].as_str())
        .collect();
    assert_eq!((kinds.first(), kinds.last()), (Some(&"begin"), Some(&"end")), "{kinds:?}");
    // Told of a change on the disk, it reads the file again.
    let file = "saltmarsh/markup/front.html";
    let text = terminal.read(file);
    terminal.write(file, format!("{text}{{{{ place(\"hook:nowhere\") }}}}\n"));
    let change = json!({ "uri": editor.uri(file), "type": 2 });
    editor.tell("workspace/didChangeWatchedFiles", json!({ "changes": [change] }));
    editor.settle();
    assert!(editor.pushed.contains_key(file), "{:?}", editor.pushed.keys());
}

#[test]
fn where_the_editor_does_not_watch_files_it_does_so_itself() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    editor.settle();
    editor.listen(Duration::from_millis(300));
    let file = "saltmarsh/markup/front.html";
    assert!(!editor.pushed.contains_key(file));
    let text = terminal.read(file);
    terminal.write(file, format!("{text}{{{{ place(\"hook:nowhere\") }}}}\n"));
    for _ in 0..100 {
        editor.listen(Duration::from_millis(100));
        if editor.pushed.contains_key(file) {
            return;
        }
    }
    panic!("nothing was heard of a change on the disk");
}

#[test]
fn a_theme_that_is_named_is_open_wherever_the_workspace_is() {
    let terminal = Terminal::demo();
    terminal.types_in("", "-C nowhere lsp").ends(2).says("there is no truehook.toml in nowhere");
    let mut editor = Editor::begun(&terminal, "foreshore", "-C saltmarsh-broken lsp");
    editor.initialize(usual());
    editor.settle();
    assert!(!editor.pushed.is_empty());
}

#[test]
fn folders_come_and_go() {
    let terminal = Terminal::demo();
    let mut editor = Editor::with(&terminal, "foreshore", usual());
    editor.settle();
    assert!(editor.pushed.is_empty(), "{:?}", editor.pushed);
    let root = terminal.path("").canonicalize().unwrap();
    let broken = format!("file://{}/saltmarsh-broken", root.to_str().unwrap());
    let folder = json!({ "uri": broken, "name": "broken" });
    editor.tell("workspace/didChangeWorkspaceFolders", json!({ "event": { "added": [folder], "removed": [] } }));
    editor.settle();
    assert!(!editor.pushed.is_empty());
    editor.tell("workspace/didChangeWorkspaceFolders", json!({ "event": { "added": [], "removed": [folder] } }));
    editor.settle();
    assert!(editor.pushed.is_empty(), "what is gone says nothing more: {:?}", editor.pushed.keys());
}
