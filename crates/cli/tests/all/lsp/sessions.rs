//! Long sessions of random edits: what is kept has to say what a server that has just been started says.

use std::collections::BTreeMap;

use fastrand::Rng;
use serde_json::{Value, json};

use super::{Editor, usual};
use crate::fixture::Terminal;

/// How many edits are made; `TRUEHOOK_EDITS` says otherwise.
fn edits() -> usize {
    std::env::var("TRUEHOOK_EDITS").ok().and_then(|number| number.parse().ok()).unwrap_or(150)
}

fn seed() -> u64 {
    let given = std::env::var("TRUEHOOK_SEED").ok().and_then(|number| number.parse().ok());
    let seed = given.unwrap_or_else(|| fastrand::u64(..));
    println!("TRUEHOOK_SEED={seed}");
    seed
}

const FILES: [&str; 14] = [
    "saltmarsh/truehook.toml",
    "saltmarsh/points/species.toml",
    "saltmarsh/points/front.toml",
    "saltmarsh/markup/front.html",
    "saltmarsh/markup/pieces/fold.html",
    "saltmarsh/code/masthead.js",
    "saltmarsh/code/species.js",
    "saltmarsh/media/saltmarsh.css",
    "saltmarsh/media/fold-memory.js",
    "saltmarsh/words/de.po",
    "saltmarsh/preview/site.toml",
    "saltmarsh/preview/pages/species.toml",
    "foreshore/truehook.toml",
    "foreshore/markup/layout.html",
];

const PIECES: [&str; 24] = [
    "\"",
    "'",
    "{{",
    "}}",
    "{%",
    "%}",
    "[",
    "]",
    "]]",
    "}",
    "\n",
    "=",
    ".",
    "é😀",
    "place(\"hook:",
    "\n[[attach]]\nto = \"hook:under-masthead\"\ncall = \"masthead.js#wel",
    "hook:under-masthead",
    "{{ page.",
    "| through(\"",
    "\n[hook.new-one]\nabout = \"x\"\n",
    "export function ",
    "{% block ",
    "#",
    "\u{301}",
];

struct Session {
    terminal: Terminal,
    editor: Editor,
    undo: Vec<(String, String)>,
    rng: Rng,
}

impl Session {
    fn file(&mut self) -> String {
        self.rng.choice(FILES).unwrap().to_string()
    }

    fn opened(&mut self) -> String {
        let path = self.file();
        if !self.editor.open.contains_key(&path) {
            match self.terminal.path(&path).exists() {
                true => drop(self.editor.opens(&path)),
                false => self.editor.opens_as(&path, ""),
            }
        }
        path
    }

    fn boundary(&mut self, text: &str) -> usize {
        let mut at = self.rng.usize(0..=text.len());
        while !text.is_char_boundary(at) {
            at -= 1;
        }
        at
    }

    fn told_of(&mut self, path: &str, kind: u8) {
        let uri = self.editor.uri(path);
        self.editor.tell("workspace/didChangeWatchedFiles", json!({ "changes": [{ "uri": uri, "type": kind }] }));
    }

    /// Does something that people do, and says what.
    fn step(&mut self) -> String {
        match self.rng.u8(0..20) {
            0..=7 => {
                let path = self.opened();
                let text = self.editor.text(&path);
                let at = self.boundary(&text);
                let piece = *self.rng.choice(PIECES.as_slice()).unwrap();
                self.undo.push((path.clone(), text));
                self.editor.types(&path, at..at, piece);
                format!("types {piece:?} into {path} at {at}")
            }
            8..=10 => {
                let path = self.opened();
                let text = self.editor.text(&path);
                let (one, other) = (self.boundary(&text), self.boundary(&text));
                let mut end = one.max(other).min(one.min(other) + 40);
                while !text.is_char_boundary(end) {
                    end -= 1;
                }
                let range = one.min(other)..end;
                self.undo.push((path.clone(), text));
                self.editor.types(&path, range.clone(), "");
                format!("deletes {range:?} of {path}")
            }
            11 => {
                let path = self.opened();
                let from = self.opened();
                let text = self.editor.text(&path);
                let other = self.editor.text(&from);
                let (one, end) = (self.boundary(&other), self.boundary(&other));
                let at = self.boundary(&text);
                let piece = other[one.min(end)..one.max(end)].to_string();
                self.undo.push((path.clone(), text));
                self.editor.types(&path, at..at, &piece);
                format!("pastes {} bytes of {from} into {path}", piece.len())
            }
            12..=15 => match self.undo.pop() {
                Some((path, text)) if self.editor.open.contains_key(&path) => {
                    self.editor.becomes(&path, &text);
                    format!("takes back what was done to {path}")
                }
                _ => "nothing to take back".into(),
            },
            16 => {
                let open: Vec<String> = self.editor.open.keys().cloned().collect();
                let Some(path) = self.rng.choice(&open).cloned() else { return "nothing to close".into() };
                self.editor.closes(&path);
                format!("closes {path}")
            }
            17 => {
                self.editor.saves();
                "saves all".into()
            }
            18 => {
                // A file gets another name on the disk, or its own again.
                let (one, other) = ("saltmarsh/code/species.js", "saltmarsh/code/birds.js");
                let (from, to) = if self.terminal.path(one).exists() { (one, other) } else { (other, one) };
                std::fs::rename(self.terminal.path(from), self.terminal.path(to)).unwrap();
                self.told_of(from, 3);
                self.told_of(to, 1);
                format!("{from} becomes {to}")
            }
            _ => {
                // Another branch: many files at once are as they are in the other theme, or as they were.
                let broken = self.rng.bool();
                let source = if broken { "saltmarsh-broken" } else { "fresh" };
                for path in FILES.iter().filter(|path| path.starts_with("saltmarsh/")) {
                    let below = path.strip_prefix("saltmarsh/").unwrap();
                    let text = match broken {
                        true => self.terminal.bytes(&format!("{source}/{below}")),
                        false => std::fs::read(format!("{}/../../demo/{path}", env!("CARGO_MANIFEST_DIR"))).unwrap(),
                    };
                    let text = String::from_utf8(text).unwrap().replace("saltmarsh-broken", "saltmarsh");
                    self.terminal.write(path, text);
                    self.told_of(path, 2);
                }
                format!("another branch: {source}")
            }
        }
    }

    /// Puts what can't be read, and says which layers there are, as it was at first.
    fn right_layers(&mut self) {
        for theme in ["saltmarsh", "foreshore"] {
            let path = format!("{theme}/truehook.toml");
            let text = std::fs::read_to_string(format!("{}/../../demo/{path}", env!("CARGO_MANIFEST_DIR"))).unwrap();
            self.terminal.write(&path, &text);
            self.told_of(&path, 2);
            if self.editor.open.contains_key(&path) {
                self.editor.becomes(&path, &text);
            }
        }
    }

    /// Says a server that has just been started the same? Nothing where it can't be said.
    fn compare(&mut self, done: &[String]) -> bool {
        self.editor.settle();
        let mut fresh = Editor::with(&self.terminal, "", watching());
        for (path, text) in self.editor.open.clone() {
            fresh.opens_as(&path, &text);
        }
        fresh.settle();
        // Where the lines for the layers lead nowhere, one of them has a stack from before, and the other has none.
        let lost = |pushed: &BTreeMap<String, Vec<Value>>| {
            let manifests = pushed.iter().filter(|(path, _)| path.ends_with("/truehook.toml"));
            let found = manifests.flat_map(|(_, found)| found);
            let rules = ["base-missing", "base-cycle", "host-missing", "manifest-syntax"];
            found.clone().any(|found| rules.contains(&found["code"].as_str().unwrap()))
        };
        if lost(&fresh.pushed) || lost(&self.editor.pushed) {
            return false;
        }
        let last = done[done.len().saturating_sub(12)..].join("\n");
        for path in fresh.pushed.keys().chain(self.editor.pushed.keys()) {
            let known = serde_json::to_string_pretty(&self.editor.pushed.get(path)).unwrap();
            let new = serde_json::to_string_pretty(&fresh.pushed.get(path)).unwrap();
            assert_eq!(known, new, "{path}, after\n{last}");
        }
        for _ in 0..4 {
            let path = self.file();
            if !self.terminal.path(&path).exists() && !self.editor.open.contains_key(&path) {
                continue;
            }
            let text = self.editor.text(&path);
            let at = self.boundary(&text);
            let position = self.editor.position(&text, at);
            let context = json!({ "includeDeclaration": true, "triggerKind": 1 });
            let document = json!({ "uri": self.editor.uri(&path) });
            let asked = json!({ "textDocument": document, "position": position, "context": context });
            for method in
                ["textDocument/definition", "textDocument/references", "textDocument/hover", "textDocument/completion"]
            {
                let (known, new) = (self.editor.ask(method, asked.clone()), fresh.ask(method, asked.clone()));
                assert_eq!(known, new, "{method} in {path} at {at}, after\n{last}");
            }
        }
        assert_eq!(fresh.ends(), Some(0));
        true
    }
}

fn watching() -> Value {
    let mut said = usual();
    said["workspace"]["didChangeWatchedFiles"] = json!({ "dynamicRegistration": true });
    said
}

#[test]
fn after_any_edit_it_says_what_one_that_was_just_started_says() {
    let terminal = Terminal::demo();
    let editor = Editor::with(&terminal, "", watching());
    let mut session = Session { terminal, editor, undo: Vec::new(), rng: Rng::with_seed(seed()) };
    let mut done = Vec::new();
    let mut compared = 0;
    for at in 0..edits() {
        done.push(session.step());
        if at % 5 == 4 && !session.compare(&done) {
            // Once the layers are there again, all is as it would be without that.
            session.right_layers();
            done.push("the layers are as they were".into());
            compared += usize::from(session.compare(&done));
        }
    }
    println!("{compared} times after the layers had been lost");
}

/// How much memory a server takes, in kilobytes.
#[cfg(target_os = "linux")]
fn memory(editor: &Editor) -> usize {
    let status = std::fs::read_to_string(format!("/proc/{}/status", editor.child.id())).unwrap();
    let line = status.lines().find(|line| line.starts_with("VmRSS:")).unwrap();
    line.split_whitespace().nth(1).unwrap().parse().unwrap()
}

#[test]
#[cfg(target_os = "linux")]
fn many_edits_take_no_more_memory_than_a_few() {
    let terminal = Terminal::demo();
    let mut editor = Editor::with(&terminal, "", watching());
    let path = "saltmarsh/markup/front.html";
    let text = editor.opens(path);
    let edit = |editor: &mut Editor, number: usize| {
        for at in 0..number {
            // Names that are there, and none: templates are linked again and again.
            let word = ["{{ page.title }}", "{{ nothing_of_that }}", "{{ place(\"hook:under-tides\") }}"][at % 3];
            let end = editor.text(path).len();
            editor.types(path, end..end, word);
            editor.settle();
            editor.becomes(path, &text);
        }
        editor.settle();
    };
    edit(&mut editor, 60);
    let before = memory(&editor);
    edit(&mut editor, edits().max(150) * 2);
    let after = memory(&editor);
    assert!(after < before + before / 4 + 8192, "{before} kB became {after} kB");
}
