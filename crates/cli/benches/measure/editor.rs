//! How long an editor waits: for its themes to be read, for diagnostics after a key, and for answers.

use std::io::{self, BufRead, BufReader, Read, Write};
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::time::{Duration, Instant};

use camino::Utf8Path;
use serde_json::{Value, json};

use crate::again::KINDS;
use crate::tree::write;
use crate::{LARGE, run};

/// How many times each is done.
const TIMES: usize = 9;

/// What is wanted, in milliseconds: for each kind of edit, then for the rest.
const EDITS: [u64; 3] = [50, 70, 160];

/// An editor that asks for diagnostics.
struct Editor {
    child: Child,
    to: ChildStdin,
    from: BufReader<ChildStdout>,
    number: i64,
}

impl Editor {
    fn begin(program: &str, root: &Utf8Path) -> io::Result<Editor> {
        let mut child = Command::new(program).arg("lsp").stdin(Stdio::piped()).stdout(Stdio::piped()).spawn()?;
        let to = child.stdin.take().ok_or(io::ErrorKind::BrokenPipe)?;
        let from = BufReader::new(child.stdout.take().ok_or(io::ErrorKind::BrokenPipe)?);
        let mut editor = Editor { child, to, from, number: 0 };
        let capabilities = json!({
            "textDocument": { "diagnostic": {} },
            "workspace": { "didChangeWatchedFiles": { "dynamicRegistration": true } }
        });
        editor.ask(
            "initialize",
            json!({ "processId": null, "rootUri": format!("file://{root}"), "capabilities": capabilities }),
        )?;
        editor.tell("initialized", json!({}))?;
        editor.ask("workspace/symbol", json!({ "query": "no such thing" }))?;
        Ok(editor)
    }

    fn send(&mut self, message: &Value) -> io::Result<()> {
        let text = message.to_string();
        write!(self.to, "Content-Length: {}\r\n\r\n{text}", text.len())?;
        self.to.flush()
    }

    fn tell(&mut self, method: &str, params: Value) -> io::Result<()> {
        self.send(&json!({ "jsonrpc": "2.0", "method": method, "params": params }))
    }

    fn ask(&mut self, method: &str, params: Value) -> io::Result<Value> {
        self.number += 1;
        let id = self.number;
        self.send(&json!({ "jsonrpc": "2.0", "id": id, "method": method, "params": params }))?;
        loop {
            let mut length = 0;
            loop {
                let mut line = String::new();
                if self.from.read_line(&mut line)? == 0 {
                    return Err(io::ErrorKind::UnexpectedEof.into());
                }
                match line.trim_end().strip_prefix("Content-Length: ") {
                    Some(number) => length = number.parse().unwrap_or(0),
                    None if line.trim_end().is_empty() => break,
                    None => {}
                }
            }
            let mut bytes = vec![0; length];
            self.from.read_exact(&mut bytes)?;
            let message: Value = serde_json::from_slice(&bytes)?;
            if message["id"] == id && message.get("method").is_none() {
                return Ok(message["result"].clone());
            }
        }
    }
}

fn sorted(mut times: Vec<Duration>) -> Vec<Duration> {
    times.sort();
    times
}

/// Prints a table.
///
/// # Errors
/// Where the system refuses.
pub fn print(folder: &Utf8Path, seed: u64) -> io::Result<()> {
    let program = env!("CARGO_BIN_EXE_truehook");
    let root = folder.join("large");
    write(&root, LARGE, seed)?;
    let pattern = r"place\(|through\(";
    let grep = run(Command::new("grep").env("LC_ALL", "C").args(["-rcE", pattern, root.as_str()]));
    println!(
        "| the large tree; grep took {:.0} ms | wanted | median of {TIMES} | least | most |",
        grep.time.as_secs_f64() * 1e3
    );
    println!("| --- | --- | --- | --- | --- |");
    let show = |what: &str, wanted: u64, times: Vec<Duration>| {
        let times = sorted(times);
        let ms = |at: usize| format!("{:.1} ms", times[at].as_secs_f64() * 1e3);
        println!("| {what} | {wanted} ms | {} | {} | {} |", ms(times.len() / 2), ms(0), ms(times.len() - 1));
    };
    let mut started = Vec::new();
    for _ in 0..3 {
        let begun = Instant::now();
        let mut editor = Editor::begin(program, &root)?;
        started.push(begun.elapsed());
        editor.child.kill()?;
        editor.child.wait()?;
    }
    show("from its start to its first answer", 600, started);
    let mut editor = Editor::begin(program, &root)?;
    for ((name, file, one, other), wanted) in KINDS.into_iter().zip(EDITS) {
        show(
            &format!("from the key to the diagnostics: {name}"),
            wanted,
            edited(&mut editor, &root, file, one, other)?,
        );
    }
    for (what, wanted, times) in answered(&mut editor, &root)? {
        show(what, wanted, times);
    }
    editor.child.kill()?;
    editor.child.wait()?;
    Ok(())
}

/// Makes an edit and takes it back in turn, and asks for the diagnostics each time.
fn edited(editor: &mut Editor, root: &Utf8Path, file: &str, one: &str, other: &str) -> io::Result<Vec<Duration>> {
    let path = root.join(file);
    let uri = format!("file://{path}");
    let text = std::fs::read_to_string(&path)?;
    let document = json!({ "uri": uri, "languageId": "text", "version": 1, "text": text });
    editor.tell("textDocument/didOpen", json!({ "textDocument": document }))?;
    editor.ask("textDocument/diagnostic", json!({ "textDocument": { "uri": uri } }))?;
    let mut times = Vec::new();
    for at in 0..TIMES {
        let new = if at % 2 == 0 { text.replacen(one, other, 1) } else { text.clone() };
        let begun = Instant::now();
        let document = json!({ "uri": uri, "version": at + 2 });
        editor
            .tell("textDocument/didChange", json!({ "textDocument": document, "contentChanges": [{ "text": new }] }))?;
        editor.ask("textDocument/diagnostic", json!({ "textDocument": { "uri": uri } }))?;
        times.push(begun.elapsed());
        // People don't type faster than this.
        std::thread::sleep(Duration::from_millis(60));
    }
    editor.tell("textDocument/didClose", json!({ "textDocument": { "uri": uri } }))?;
    Ok(times)
}

/// Completion right after a key; hover, definition and references with nothing to catch up with.
fn answered(editor: &mut Editor, root: &Utf8Path) -> io::Result<Vec<(&'static str, u64, Vec<Duration>)>> {
    let file = "markup/partials/p7.html";
    let path = root.join(file);
    let uri = format!("file://{path}");
    let text = std::fs::read_to_string(&path)?;
    let document = json!({ "uri": uri, "languageId": "text", "version": 1, "text": text });
    editor.tell("textDocument/didOpen", json!({ "textDocument": document }))?;
    let lines = text.lines().count();
    let mut completed = Vec::new();
    for at in 0..TIMES {
        let new = format!("{text}\n{{{{ place(\"{}", &"partial:p"[..at]);
        let begun = Instant::now();
        let document = json!({ "uri": uri, "version": at + 2 });
        editor
            .tell("textDocument/didChange", json!({ "textDocument": document, "contentChanges": [{ "text": new }] }))?;
        let position = json!({ "line": lines + 1, "character": 10 + at });
        let asked = json!({ "textDocument": { "uri": uri }, "position": position });
        let answer = editor.ask("textDocument/completion", asked)?;
        completed.push(begun.elapsed());
        if answer["items"].as_array().is_none_or(Vec::is_empty) {
            return Err(io::Error::other("nothing is offered"));
        }
        std::thread::sleep(Duration::from_millis(150));
    }
    let document = json!({ "uri": uri, "version": 100 });
    editor.tell("textDocument/didChange", json!({ "textDocument": document, "contentChanges": [{ "text": text }] }))?;
    let at = text.find("place(\"").map_or(0, |at| at + 9);
    let line = text[..at].matches('\n').count();
    let column = at - text[..at].rfind('\n').map_or(0, |before| before + 1);
    let position = json!({ "line": line, "character": column });
    let asked =
        json!({ "textDocument": { "uri": uri }, "position": position, "context": { "includeDeclaration": true } });
    let mut all = vec![("completion right after a key", 20, completed)];
    for (what, method, wanted) in [
        ("hover", "textDocument/hover", 5),
        ("definition", "textDocument/definition", 5),
        ("references", "textDocument/references", 20),
    ] {
        editor.ask(method, asked.clone())?;
        let mut times = Vec::new();
        for _ in 0..TIMES {
            let begun = Instant::now();
            editor.ask(method, asked.clone())?;
            times.push(begun.elapsed());
        }
        all.push((what, wanted, times));
    }
    Ok(all)
}
