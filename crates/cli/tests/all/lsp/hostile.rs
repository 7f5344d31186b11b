//! Whatever is sent and whatever is typed: the server goes on and answers. It ends when it is told to, or when the
//! process that it works for is gone.

use std::process::{Command, Stdio};
use std::time::Duration;

use serde_json::json;

use super::{Editor, usual};
use crate::fixture::{Terminal, eventually};

#[test]
fn what_is_no_message_is_told_and_ends_nothing() {
    let terminal = Terminal::demo();
    let mut editor = Editor::silent(&terminal, "");
    // Also before anything was said.
    let frames = ["[1, 2]", "7", "null", "{", "{\"jsonrpc\":\"2.0\",\"method\":1}", "\"\\ud800\""];
    let broken = |editor: &mut Editor| {
        for text in frames {
            editor.send_raw(format!("Content-Length: {}\r\n\r\n{text}", text.len()).as_bytes());
        }
        editor.send_raw(b"no header at all\r\n\r\nContent-Length: what\r\n\r\n");
    };
    broken(&mut editor);
    editor.initialize(usual());
    broken(&mut editor);
    editor.settle();
    let told = editor.asked.iter().filter(|message| message["method"] == "window/logMessage");
    let told: Vec<&str> = told.filter_map(|message| message["params"]["message"].as_str()).collect();
    assert!(told.len() >= 2 * frames.len() && told.iter().all(|text| text.contains("can't read")), "{told:?}");
    // A message of more than it takes is skipped, and takes no memory.
    let length = (64 << 20) + 1;
    editor.send_raw(format!("Content-Length: {length}\r\n\r\n").as_bytes());
    for _ in 0..65 {
        editor.send_raw(&[b' '; 1 << 20][..if length % 2 == 1 { 1 << 20 } else { 0 }]);
    }
    editor.send_raw(b"\r\n\r\n");
    editor.settle();
    let told = editor.asked.iter().filter_map(|message| message["params"]["message"].as_str());
    assert!(told.filter(|text| text.contains("are the most")).count() == 1);
}

#[test]
fn half_a_surrogate_pair_is_a_character_like_any_other() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    let path = "saltmarsh/code/masthead.js";
    let text = editor.opens(path);
    let uri = editor.uri(path);
    let end = editor.position(&text, text.len());
    // As an editor sends it whose texts are UTF-16: half of a pair that is being typed.
    for (number, half) in ["// \\ud83e\\n", "// \\udd80 more\\n", "const never = '\\ud83e';\\n"].into_iter().enumerate()
    {
        let change = format!(
            "{{\"jsonrpc\":\"2.0\",\"method\":\"textDocument/didChange\",\"params\":{{\"textDocument\":{{\"uri\":\"{uri}\",\"version\":{}}},\
             \"contentChanges\":[{{\"range\":{{\"start\":{end},\"end\":{end}}},\"text\":\"{half}\"}}]}}}}",
            number + 2
        );
        editor.send_raw(format!("Content-Length: {}\r\n\r\n{change}", change.len()).as_bytes());
    }
    editor.settle();
    // All three are in the text: they were put in at one place, the last one first.
    let diagnostics = editor.pushed.get(path).cloned().unwrap_or_default();
    assert!(diagnostics.is_empty(), "{diagnostics:?}");
    // Text that is typed after it has the same offset in the server as in the editor.
    let now = format!("{text}const never = '\u{fffd}';\n// \u{fffd} more\n// \u{fffd}\n");
    editor.open.insert(path.to_string(), now.clone());
    editor.types(path, now.len()..now.len(), "export const broken = ;\n");
    editor.settle();
    let line = now.matches('\n').count();
    assert_eq!(editor.pushed[path][0]["range"]["start"]["line"], line, "{:?}", editor.pushed[path]);
}

/// What somebody may have typed, by mistake or by a tool: very much of one thing.
fn texts() -> Vec<(&'static str, String)> {
    let toml = "saltmarsh/truehook.toml";
    let page = "saltmarsh/markup/front.html";
    let code = "saltmarsh/code/masthead.js";
    let site = "saltmarsh/preview/site.toml";
    vec![
        (toml, format!("x = {}", "[".repeat(300_000))),
        (toml, format!("x = {}", "{a=".repeat(120_000))),
        (toml, format!("x = {}", "[{a=[".repeat(60_000))),
        (toml, format!("[{}", "a.".repeat(200_000))),
        (toml, "[[attach]]\n".repeat(20_000)),
        (site, format!("[fill]\n\"region:aside\" = {}", "[{ use = \"".repeat(40_000))),
        (site, format!("x = {}", "{".repeat(300_000))),
        (page, format!("{{{{ page{}", ".b".repeat(100_000))),
        (page, format!("{{{{ {}", "(".repeat(300_000))),
        (page, format!("{{{{ {}", "f(a=".repeat(80_000))),
        (page, "{% if x %}".repeat(40_000)),
        (page, format!("{{{{ \"{}", "\\".repeat(300_000))),
        (page, "<div ".repeat(60_000)),
        (code, format!("export const a = {}", "[".repeat(300_000))),
        (code, format!("a{}", "?.b".repeat(100_000))),
        (code, format!("a = {}", "`${".repeat(100_000))),
        (code, format!("export function a({{{}", "a: {".repeat(80_000))),
        ("saltmarsh/media/saltmarsh.css", format!("a {{ color: {}", "var(".repeat(100_000))),
        ("saltmarsh/words/de.po", "msgid \"a\"\n".repeat(20_000)),
    ]
}

/// How much processor time a process has taken, to hundredths of a second. The clock would count what else the
/// machine does. Zero where the system doesn't tell.
fn worked(process: u32) -> Duration {
    let told = std::fs::read_to_string(format!("/proc/{process}/stat")).unwrap_or_default();
    // After the program's name, which is in brackets: the 12th and 13th field.
    let fields = told.rsplit(')').next().unwrap_or_default().split_whitespace().skip(11).take(2);
    Duration::from_millis(fields.filter_map(|field| field.parse::<u64>().ok()).sum::<u64>() * 10)
}

#[test]
fn whatever_is_typed_is_answered() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    for (path, text) in texts() {
        let before = editor.opens(path);
        editor.becomes(path, &text);
        for offset in [text.len(), text.floor_char_boundary(text.len() / 2)] {
            let place = editor.position(&text, offset);
            for method in ["textDocument/completion", "textDocument/hover"] {
                let begun = worked(editor.child.id());
                let asked = json!({ "textDocument": { "uri": editor.uri(path) }, "position": place });
                editor.ask(method, asked);
                let took = worked(editor.child.id()) - begun;
                // The build of the tests takes some ten times as long as what people install.
                assert!(took < Duration::from_secs(20), "{method} {path}: {text:.40} took {took:?}");
            }
        }
        editor.becomes(path, &before);
        editor.settle();
        editor.closes(path);
    }
}

#[cfg(unix)]
#[test]
fn it_ends_when_its_editor_is_gone() {
    let terminal = Terminal::demo();
    let mut editor = Editor::silent(&terminal, "");
    let mut parent = Command::new("sleep").arg("600").stdin(Stdio::null()).spawn().unwrap();
    let folder = json!({ "uri": editor.uri(""), "name": "workspace" });
    let params = json!({ "processId": parent.id(), "rootUri": null, "capabilities": {}, "workspaceFolders": [folder] });
    editor.ask("initialize", params);
    editor.tell("initialized", json!({}));
    editor.settle();
    assert!(editor.child.try_wait().unwrap().is_none());
    parent.kill().unwrap();
    parent.wait().unwrap();
    // Its input stays open all the while.
    eventually("it ends", || editor.child.try_wait().unwrap().is_some());
}
