//! A page as one file: what it loads from the theme is in it.

use std::collections::HashMap;

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};
use truehook_core::read::Project;
use truehook_stage::{MediaFile, Rendered};

/// How deep style sheets may import each other.
const DEEPEST: usize = 8;

/// The files of a page, as addresses that hold all of them (RFC 2397).
pub struct Embedding<'p> {
    project: &'p Project,
    files: HashMap<&'p str, &'p MediaFile>,
    known: HashMap<String, String>,
    /// Each file once, where pages share them.
    shared: Option<Vec<String>>,
}

impl<'p> Embedding<'p> {
    /// The files that some pages refer to: of what one has told, the others may be silent.
    pub fn new(project: &'p Project, pages: impl IntoIterator<Item = &'p Rendered>) -> Embedding<'p> {
        let files =
            pages.into_iter().flat_map(|page| &page.media).map(|(target, file)| (target.as_str(), file)).collect();
        Embedding { project, files, known: HashMap::new(), shared: None }
    }

    /// Pages get numbers in the place of files: `truehook-asset-3-`. Each file is held once.
    pub fn shared(self) -> Embedding<'p> {
        Embedding { shared: Some(Vec::new()), ..self }
    }

    /// The files that pages have numbers for, by those.
    pub fn assets(self) -> Vec<String> {
        self.shared.unwrap_or_default()
    }

    /// A style sheet of that folder, with what it refers to in it.
    pub fn style(&mut self, text: &str, folder: &str) -> String {
        self.replaced(text, "", folder, 1)
    }

    /// A page of that path with its files in it.
    pub fn page(&mut self, html: &str, path: &str) -> String {
        let up = "../".repeat(path.matches('/').count().saturating_sub(1));
        let mut out = String::with_capacity(html.len() * 2);
        let mut done = 0;
        let mut emitter = DefaultEmitter::<usize>::new_with_span();
        emitter.naively_switch_states(true);
        let mut style: Option<usize> = None;
        for token in Tokenizer::new_with_emitter(html, emitter) {
            let Ok(token) = token;
            let stretch = match token {
                Token::StartTag(tag) => {
                    if *tag.name == b"style"[..] {
                        style = Some(tag.span.end);
                    }
                    tag.span.start..tag.span.end
                }
                Token::EndTag(tag) => match style.take() {
                    Some(begun) if *tag.name == b"style"[..] => begun..tag.span.start,
                    _ => continue,
                },
                _ => continue,
            };
            if stretch.start < done {
                continue;
            }
            out.push_str(&html[done..stretch.start]);
            done = stretch.end;
            let replaced = self.replaced(&html[stretch], &up, "", 0);
            out.push_str(&replaced);
        }
        out.push_str(&html[done..]);
        out
    }

    /// A text in which the addresses of files hold those. They begin with `up` where they lead from the site's root,
    /// and else from `folder`.
    fn replaced(&mut self, text: &str, up: &str, folder: &str, depth: usize) -> String {
        let mut out = String::with_capacity(text.len());
        let mut rest = text;
        // Addresses stand in quotes, brackets and lists.
        let ends = |c: char| c.is_whitespace() || matches!(c, '"' | '\'' | '(' | ')' | '<' | '>' | ',' | '=');
        while let Some(start) = rest.find(|c| !ends(c)) {
            out.push_str(&rest[..start]);
            rest = &rest[start..];
            let end = rest.find(ends).unwrap_or(rest.len());
            // A print stands behind `=`.
            let print = rest[..end].ends_with("?print").then(|| {
                let digits = |c: char| c == '=' || c.is_ascii_hexdigit();
                end + rest[end..].find(|c| !digits(c)).unwrap_or(rest.len() - end)
            });
            let word = &rest[..print.unwrap_or(end)];
            match self.address(word, up, folder, depth) {
                Some(address) => out.push_str(&address),
                None => out.push_str(word),
            }
            rest = &rest[word.len()..];
        }
        out.push_str(rest);
        out
    }

    fn address(&mut self, word: &str, up: &str, folder: &str, depth: usize) -> Option<String> {
        let written = word.split(['?', '#']).next()?.replace("&amp;", "&");
        let fragment = word.split_once('#').map(|(_, fragment)| format!("#{fragment}")).unwrap_or_default();
        let target = match folder {
            "" => written.strip_prefix(up)?.to_string(),
            folder => joined(folder, &written)?,
        };
        let plain = percent_encoding::percent_decode_str(&target).decode_utf8().ok()?.into_owned();
        let file = *self.files.get(target.as_str()).or_else(|| self.files.get(plain.as_str()))?;
        // In a style a file is held as it is.
        let key = format!("{}{target}", if depth > 0 && self.shared.is_some() { "in a style: " } else { "" });
        if let Some(known) = self.known.get(&key) {
            return Some(format!("{known}{fragment}"));
        }
        let kind = kind(&target)?;
        let bytes = match &file.text {
            Some(text) => text.as_bytes().to_vec(),
            None => self.project.media(file.layer, &file.path).ok()?,
        };
        let bytes = match std::str::from_utf8(&bytes) {
            Ok(text) if kind == "text/css" && depth < DEEPEST => {
                let folder = target.rsplit_once('/').map_or("", |(folder, _)| folder);
                self.replaced(text, "", folder, depth + 1).into_bytes()
            }
            _ => bytes,
        };
        let address = format!("data:{kind};base64,{}", STANDARD.encode(bytes));
        let address = match &mut self.shared {
            // Styles hold what they refer to.
            Some(shared) if depth == 0 => {
                shared.push(address);
                format!("truehook-asset-{}-", shared.len() - 1)
            }
            _ => address,
        };
        self.known.insert(key, address.clone());
        Some(format!("{address}{fragment}"))
    }
}

/// A file as an address that holds all of it.
pub fn whole(path: &str, bytes: &[u8]) -> Option<String> {
    Some(format!("data:{};base64,{}", kind(path)?, STANDARD.encode(bytes)))
}

/// The way from a folder to a file.
fn joined(folder: &str, written: &str) -> Option<String> {
    let mut parts: Vec<&str> = folder.split('/').collect();
    for part in written.split('/') {
        match part {
            "." | "" => {}
            ".." => {
                parts.pop()?;
            }
            part => parts.push(part),
        }
    }
    Some(parts.join("/"))
}

/// The media type of a file (RFC 6838), by its ending; of an unknown one, that of any bytes.
pub fn media_type(path: &str) -> &'static str {
    kind(path).unwrap_or("application/octet-stream")
}

fn kind(path: &str) -> Option<&'static str> {
    Some(match path.rsplit_once('.')?.1.to_ascii_lowercase().as_str() {
        "css" => "text/css",
        "js" | "mjs" => "text/javascript",
        "svg" => "image/svg+xml",
        "png" => "image/png",
        "jpg" | "jpeg" => "image/jpeg",
        "gif" => "image/gif",
        "webp" => "image/webp",
        "avif" => "image/avif",
        "ico" => "image/x-icon",
        "woff2" => "font/woff2",
        "woff" => "font/woff",
        "ttf" => "font/ttf",
        "otf" => "font/otf",
        "mp4" => "video/mp4",
        "webm" => "video/webm",
        "mp3" => "audio/mpeg",
        "ogg" => "audio/ogg",
        "json" | "webmanifest" => "application/json",
        "pdf" => "application/pdf",
        "txt" => "text/plain",
        "html" => "text/html",
        _ => "application/octet-stream",
    })
}
