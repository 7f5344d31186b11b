//! An editor that speaks with a server, as far as tests need it.

use std::collections::BTreeMap;
use std::io::{BufRead, BufReader, Write};
use std::path::PathBuf;
use std::process::{Child, ChildStdin, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::time::{Duration, Instant};

use serde_json::{Value, json};

use crate::fixture::{LONGEST, Terminal};

/// An editor that speaks with a server.
pub struct Editor {
    pub child: Child,
    to: Option<ChildStdin>,
    from: Receiver<Value>,
    pub root: PathBuf,
    number: i64,
    version: i64,
    /// What was answered when it began.
    pub offered: Value,
    /// What was pushed, by file.
    pub pushed: BTreeMap<String, Vec<Value>>,
    /// What the server asked for, or told of.
    pub asked: Vec<Value>,
    /// The texts that are open.
    pub open: BTreeMap<String, String>,
    utf8: bool,
}

/// What most editors can do.
pub fn usual() -> Value {
    json!({
        "workspace": {
            "workspaceEdit": {
                "documentChanges": true,
                "resourceOperations": ["create", "rename", "delete"],
                "changeAnnotationSupport": {}
            }
        },
        "textDocument": {
            "publishDiagnostics": {
                "relatedInformation": true,
                "tagSupport": { "valueSet": [1, 2] },
                "codeDescriptionSupport": true
            },
            "documentSymbol": { "hierarchicalDocumentSymbolSupport": true },
            "completion": { "completionItem": { "snippetSupport": true } }
        }
    })
}

impl Editor {
    /// An editor whose workspace is the terminal's folder.
    pub fn of(terminal: &Terminal) -> Editor {
        Editor::with(terminal, "", usual())
    }

    /// An editor that can do some things, in a part of the terminal's folder.
    pub fn with(terminal: &Terminal, part: &str, capabilities: Value) -> Editor {
        let mut editor = Editor::silent(terminal, part);
        editor.initialize(capabilities);
        editor
    }

    /// Says at first what it can do.
    pub fn initialize(&mut self, capabilities: Value) {
        self.utf8 = capabilities["general"]["positionEncodings"][0] == "utf-8";
        let folder = json!({ "uri": self.uri(""), "name": "workspace" });
        let params =
            json!({ "processId": null, "rootUri": null, "capabilities": capabilities, "workspaceFolders": [folder] });
        self.offered = self.ask("initialize", params);
        self.tell("initialized", json!({}));
    }

    /// An editor that has not said anything yet.
    pub fn silent(terminal: &Terminal, part: &str) -> Editor {
        Editor::begun(terminal, part, "lsp")
    }

    /// The same, where the server is started by a command.
    pub fn begun(terminal: &Terminal, part: &str, typed: &str) -> Editor {
        let root = terminal.path("").canonicalize().unwrap();
        let mut command = terminal.command("", typed);
        command.env("XDG_CACHE_HOME", terminal.path("caches"));
        let mut child = command.stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().unwrap();
        let (send, from) = channel();
        let mut out = BufReader::new(child.stdout.take().unwrap());
        std::thread::spawn(move || {
            while let Some(message) = message(&mut out) {
                if send.send(message).is_err() {
                    return;
                }
            }
        });
        Editor {
            to: child.stdin.take(),
            child,
            from,
            root: if part.is_empty() { root } else { root.join(part) },
            number: 0,
            version: 1,
            offered: Value::Null,
            pushed: BTreeMap::new(),
            asked: Vec::new(),
            open: BTreeMap::new(),
            utf8: false,
        }
    }

    pub fn uri(&self, path: &str) -> String {
        let whole = if path.is_empty() { self.root.clone() } else { self.root.join(path) };
        format!("file://{}", whole.to_str().unwrap())
    }

    /// The path below the workspace of a file that the server names.
    pub fn path(&self, uri: &str) -> String {
        let root = format!("file://{}/", self.root.to_str().unwrap());
        uri.strip_prefix(&root).unwrap_or(uri).to_string()
    }

    pub fn send(&mut self, message: &Value) {
        let text = message.to_string();
        self.send_raw(format!("Content-Length: {}\r\n\r\n{text}", text.len()).as_bytes());
    }

    pub fn send_raw(&mut self, bytes: &[u8]) {
        let to = self.to.as_mut().unwrap();
        to.write_all(bytes).and_then(|()| to.flush()).unwrap();
    }

    pub fn tell(&mut self, method: &str, params: Value) {
        self.send(&json!({ "jsonrpc": "2.0", "method": method, "params": params }));
    }

    /// Asks, and gives the whole answer.
    pub fn ask_whole(&mut self, method: &str, params: Value) -> Value {
        self.number += 1;
        let id = self.number;
        self.send(&json!({ "jsonrpc": "2.0", "id": id, "method": method, "params": params }));
        self.answer_to(id)
    }

    /// What comes back for a number.
    pub fn answer_to(&mut self, id: i64) -> Value {
        let begun = Instant::now();
        loop {
            let left = LONGEST.saturating_sub(begun.elapsed());
            let message = self.from.recv_timeout(left).unwrap_or_else(|error| panic!("no answer to {id}: {error}"));
            if message["id"] == id && message.get("method").is_none() {
                return message;
            }
            self.hear(message);
        }
    }

    /// Asks, and gives what was answered; there has to be an answer.
    #[track_caller]
    pub fn ask(&mut self, method: &str, params: Value) -> Value {
        let mut answer = self.ask_whole(method, params);
        assert!(answer.get("error").is_none(), "{method}: {answer}");
        answer["result"].take()
    }

    fn hear(&mut self, message: Value) {
        if message["method"] == "textDocument/publishDiagnostics" {
            let path = self.path(message["params"]["uri"].as_str().unwrap());
            let found = message["params"]["diagnostics"].as_array().unwrap().clone();
            match found.is_empty() {
                true => drop(self.pushed.remove(&path)),
                false => drop(self.pushed.insert(path, found)),
            }
            return;
        }
        if message.get("id").is_some() {
            let answer = match message["method"].as_str() {
                Some("workspace/applyEdit") => json!({ "applied": true }),
                _ => Value::Null,
            };
            self.send(&json!({ "jsonrpc": "2.0", "id": message["id"], "result": answer }));
        }
        self.asked.push(message);
    }

    /// Hears what else comes, until it is quiet.
    pub fn listen(&mut self, quiet: Duration) {
        loop {
            match self.from.recv_timeout(quiet) {
                Ok(message) => self.hear(message),
                Err(RecvTimeoutError::Timeout) => return,
                Err(RecvTimeoutError::Disconnected) => return,
            }
        }
    }

    /// Until all that was said is taken into account.
    pub fn settle(&mut self) {
        // What has to know of every change is answered after all of them.
        self.ask("workspace/symbol", json!({ "query": "no such thing anywhere" }));
    }

    /// Opens a file, as it is on the disk.
    pub fn opens(&mut self, path: &str) -> String {
        let text = std::fs::read_to_string(self.root.join(path)).unwrap();
        self.opens_as(path, &text);
        text
    }

    pub fn opens_as(&mut self, path: &str, text: &str) {
        let uri = self.uri(path);
        let document = json!({ "uri": uri, "languageId": "text", "version": 1, "text": text });
        self.tell("textDocument/didOpen", json!({ "textDocument": document }));
        self.open.insert(path.to_string(), text.to_string());
    }

    pub fn closes(&mut self, path: &str) {
        self.tell("textDocument/didClose", json!({ "textDocument": { "uri": self.uri(path) } }));
        self.open.remove(path);
    }

    /// Puts another text in the place of a stretch of bytes.
    pub fn types(&mut self, path: &str, range: std::ops::Range<usize>, new: &str) {
        let before = self.open[path].clone();
        let change = json!({
            "range": { "start": self.position(&before, range.start), "end": self.position(&before, range.end) },
            "text": new
        });
        let mut after = before;
        after.replace_range(range, new);
        self.version += 1;
        let document = json!({ "uri": self.uri(path), "version": self.version });
        self.tell("textDocument/didChange", json!({ "textDocument": document, "contentChanges": [change] }));
        self.open.insert(path.to_string(), after);
    }

    /// Puts another text in the place of all.
    pub fn becomes(&mut self, path: &str, text: &str) {
        self.version += 1;
        let document = json!({ "uri": self.uri(path), "version": self.version });
        self.tell("textDocument/didChange", json!({ "textDocument": document, "contentChanges": [{ "text": text }] }));
        self.open.insert(path.to_string(), text.to_string());
    }

    /// Where a byte of a text is: its line, and its letters as this editor counts them.
    pub fn position(&self, text: &str, offset: usize) -> Value {
        let before = &text[..offset];
        let line = before.matches('\n').count();
        let rest = before.rsplit('\n').next().unwrap();
        let character = if self.utf8 { rest.len() } else { rest.encode_utf16().count() };
        json!({ "line": line, "character": character })
    }

    /// The byte at a place of a text.
    pub fn offset(&self, text: &str, place: &Value) -> usize {
        let line = place["line"].as_u64().unwrap() as usize;
        let start: usize = text.split_inclusive('\n').take(line).map(str::len).sum();
        let wanted = place["character"].as_u64().unwrap() as usize;
        let mut column = 0;
        for (at, letter) in text[start..].char_indices() {
            if column >= wanted {
                return start + at;
            }
            column += if self.utf8 { letter.len_utf8() } else { letter.len_utf16() };
        }
        text.len()
    }

    /// What a range of a file's text says.
    pub fn said(&self, path: &str, range: &Value) -> String {
        let text = self.text(path);
        text[self.offset(&text, &range["start"])..self.offset(&text, &range["end"])].to_string()
    }

    /// A file's text, as it is open or on the disk.
    pub fn text(&self, path: &str) -> String {
        self.open.get(path).cloned().unwrap_or_else(|| std::fs::read_to_string(self.root.join(path)).unwrap())
    }

    /// The place of the `nth` piece of a file's text, so many bytes into it.
    #[track_caller]
    pub fn at(&self, path: &str, piece: &str, into: usize) -> Value {
        let text = self.text(path);
        let at = text.find(piece).unwrap_or_else(|| panic!("{path} holds no {piece}"));
        json!({ "textDocument": { "uri": self.uri(path) }, "position": self.position(&text, at + into) })
    }

    /// Where an answer leads: the file, the line from 1, and what stands there.
    pub fn places(&self, answer: &Value) -> Vec<(String, u64, String)> {
        let all = answer.as_array().cloned().unwrap_or_default();
        all.iter()
            .map(|place| {
                let path = self.path(place["uri"].as_str().unwrap());
                let line = place["range"]["start"]["line"].as_u64().unwrap() + 1;
                let said = match path.starts_with("file:") {
                    true => String::new(),
                    false => self.said(&path, &place["range"]),
                };
                (path, line, said)
            })
            .collect()
    }

    /// Makes an edit, in the texts that are open and on the disk.
    pub fn makes(&mut self, edit: &Value) {
        let operations = edit["documentChanges"].as_array().cloned().unwrap_or_else(|| {
            let changes = edit["changes"].as_object().cloned().unwrap_or_default();
            let edits =
                changes.into_iter().map(|(uri, edits)| json!({ "textDocument": { "uri": uri }, "edits": edits }));
            edits.collect()
        });
        for operation in operations {
            match operation["kind"].as_str() {
                Some("create") => {
                    let path = self.root.join(self.path(operation["uri"].as_str().unwrap()));
                    assert!(!path.exists(), "{} is there already", path.display());
                    std::fs::create_dir_all(path.parent().unwrap()).unwrap();
                    std::fs::write(path, "").unwrap();
                }
                Some("rename") => {
                    let from = self.path(operation["oldUri"].as_str().unwrap());
                    let to = self.path(operation["newUri"].as_str().unwrap());
                    let text = self.text(&from);
                    self.open.remove(&from);
                    std::fs::remove_file(self.root.join(&from)).unwrap();
                    let to = self.root.join(to);
                    std::fs::create_dir_all(to.parent().unwrap()).unwrap();
                    std::fs::write(to, text).unwrap();
                }
                Some("delete") => {
                    let path = self.path(operation["uri"].as_str().unwrap());
                    std::fs::remove_file(self.root.join(path)).unwrap();
                }
                _ => self.edits(&operation),
            }
        }
    }

    fn edits(&mut self, operation: &Value) {
        let path = self.path(operation["textDocument"]["uri"].as_str().unwrap());
        let mut text = self.text(&path);
        let mut edits: Vec<(usize, usize, String)> = operation["edits"]
            .as_array()
            .unwrap()
            .iter()
            .map(|edit| {
                let (start, end) = (&edit["range"]["start"], &edit["range"]["end"]);
                let new = edit["newText"].as_str().unwrap().to_string();
                (self.offset(&text, start), self.offset(&text, end), new)
            })
            .collect();
        // From the end, so that what comes before stays where it is.
        edits.sort_by_key(|(start, ..)| std::cmp::Reverse(*start));
        for (start, end, new) in edits {
            text.replace_range(start..end, &new);
        }
        match self.open.contains_key(&path) {
            true => self.becomes(&path, &text),
            false => std::fs::write(self.root.join(&path), text).unwrap(),
        }
    }

    /// Saves all that is open.
    pub fn saves(&mut self) {
        for (path, text) in self.open.clone() {
            std::fs::write(self.root.join(&path), text).unwrap();
            self.tell("textDocument/didSave", json!({ "textDocument": { "uri": self.uri(&path) } }));
        }
    }

    /// Ends it as editors do, and gives its exit status.
    pub fn ends(mut self) -> Option<i32> {
        self.ask("shutdown", Value::Null);
        self.tell("exit", Value::Null);
        self.waits()
    }

    pub fn waits(&mut self) -> Option<i32> {
        let begun = Instant::now();
        while begun.elapsed() < LONGEST {
            if let Some(status) = self.child.try_wait().unwrap() {
                return status.code();
            }
            std::thread::sleep(Duration::from_millis(5));
        }
        panic!("it does not end");
    }

    /// Goes away without a word.
    pub fn hangs_up(&mut self) {
        self.to = None;
    }
}

impl Drop for Editor {
    fn drop(&mut self) {
        drop(self.child.kill());
        drop(self.child.wait());
    }
}

fn message(out: &mut impl BufRead) -> Option<Value> {
    let mut length = None;
    loop {
        let mut line = String::new();
        if out.read_line(&mut line).ok()? == 0 {
            return None;
        }
        match line.trim_end() {
            "" => break,
            line => {
                if let Some(number) = line.strip_prefix("Content-Length: ") {
                    length = number.parse().ok();
                }
            }
        }
    }
    let mut bytes = vec![0; length?];
    out.read_exact(&mut bytes).ok()?;
    serde_json::from_slice(&bytes).ok()
}
