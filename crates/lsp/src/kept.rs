//! Texts of ours that editors can open: the built-in contract, and what rules mean. They are written where programs
//! keep what they can make again, once somebody is led there.

use std::cell::RefCell;
use std::collections::HashMap;

use camino::{Utf8Path, Utf8PathBuf};
use lsp_types::Uri;
use truehook_core::edit::save;
use truehook_core::read::SourceFile;
use truehook_core::rules::{Example, Rule};

use crate::paths::{true_path, uri_of};

/// The folder for them.
pub struct Kept {
    folder: Option<Utf8PathBuf>,
    /// What has been written, or found as it should be, by its path there.
    known: RefCell<HashMap<String, Uri>>,
}

impl Kept {
    /// The user's folder for such things, as the XDG Base Directory Specification has it.
    pub fn new() -> Kept {
        let named = |name: &str| std::env::var(name).ok().filter(|path| !path.is_empty()).map(Utf8PathBuf::from);
        let caches = named("XDG_CACHE_HOME").filter(|path| path.is_absolute());
        let caches = caches.or_else(|| Some(named("HOME")?.join(".cache")));
        let folder = caches.map(|caches| caches.join("truehook").join(env!("CARGO_PKG_VERSION")));
        Kept { folder: folder.map(|folder| true_path(&folder)), known: RefCell::default() }
    }

    /// Is this one of these texts?
    pub fn holds(&self, path: &Utf8Path) -> bool {
        self.folder.as_ref().is_some_and(|folder| path.starts_with(folder))
    }

    /// The file of the built-in contract that is kept at a path: its path below the contract's folder.
    pub fn built_in_at<'p>(&self, path: &'p Utf8Path) -> Option<&'p Utf8Path> {
        path.strip_prefix(self.folder.as_ref()?.join("standard")).ok()
    }

    /// A file of the built-in contract.
    pub fn built_in(&self, source: &SourceFile) -> Option<Uri> {
        self.keep(&format!("standard/{}", source.path), source.text())
    }

    /// What a rule means.
    pub fn rule(&self, rule: &Rule) -> Option<Uri> {
        let path = format!("rules/{}.md", rule.name);
        if let Some(known) = self.known.borrow().get(&path) {
            return Some(known.clone());
        }
        let level = rule.level.word();
        let mut text = format!("# {}\n\n*{level}* – {}.\n\n{}\n", rule.name, rule.summary, rule.explanation);
        for (title, example) in [("Wrong", &rule.wrong), ("Right, where it differs", &rule.right)] {
            text.push_str(&format!("\n## {title}\n"));
            text.push_str(&shown(example));
        }
        self.keep(&path, &text)
    }

    fn keep(&self, below: &str, text: &str) -> Option<Uri> {
        let path = self.folder.as_ref()?.join(below);
        let there = || std::fs::read_to_string(&path).is_ok_and(|known| known == text);
        if !there() {
            std::fs::create_dir_all(path.parent()?).ok()?;
            save(&path, text.as_bytes()).ok()?;
        }
        let uri = uri_of(&path)?;
        self.known.borrow_mut().insert(below.to_string(), uri.clone());
        Some(uri)
    }
}

fn shown(example: &Example) -> String {
    let files = example.0.iter().map(|(path, text)| match text.is_empty() {
        true => format!("\n`{path}` is not there.\n"),
        false => format!("\n`{path}`\n\n````\n{}\n````\n", text.trim_end_matches('\n')),
    });
    files.collect()
}
