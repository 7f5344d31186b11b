//! Addresses in pages: what each leads to, and how a theme writes it.

use std::collections::{BTreeMap, BTreeSet};
use std::ops::Range;

use super::html::{Kind, Token};
use crate::loads::{candidates, urls};

/// Where an address leads.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Leads {
    /// To one of the pages, with what stands behind its path: `#part`.
    Page(String, String),
    /// To a file beside the pages, from their common folder.
    File(String),
    /// To a file that is not there.
    Nowhere(String),
    /// Elsewhere, or to a place on the same page.
    Away,
}

/// Where a piece of markup is to stand.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Into {
    /// In a template, where `asset()` gives addresses.
    Template,
    /// In the text of a page, where they count from the theme's folder.
    Body,
}

/// The site that pages are taken from: what there is.
pub struct Site<'s> {
    /// The paths of the pages' files from the common folder, with the paths that they get.
    pub pages: BTreeMap<String, String>,
    /// Is a file there, by its path from the common folder?
    pub is_there: &'s dyn Fn(&str) -> bool,
    /// The places on pages to which links of other pages lead: `/#contact`.
    pub anchors: BTreeSet<String>,
}

/// What was met on the way.
#[derive(Default)]
pub struct Met {
    /// Files that are to come along.
    pub files: BTreeSet<String>,
    /// Addresses that lead nowhere: as written, and the place.
    pub broken: Vec<(String, usize)>,
}

/// Attributes that lead to something that is loaded, or followed.
const ADDRESSES: [&str; 9] =
    ["href", "src", "poster", "data", "background", "action", "cite", "longdesc", "formaction"];
const SETS: [&str; 2] = ["srcset", "imagesrcset"];

impl Site<'_> {
    /// Where an address leads that stands in the file of a page.
    pub fn leads(&self, from: &str, address: &str) -> Leads {
        let address = address.trim();
        let scheme = address.split(['/', '?', '#']).next().unwrap_or_default().contains(':');
        if address.is_empty() || address.starts_with('#') || address.starts_with("//") || scheme {
            return Leads::Away;
        }
        let end = address.find(['?', '#']).unwrap_or(address.len());
        let (path, rest) = address.split_at(end);
        let path = decode(path);
        // A query alone asks for the same page.
        let target = if path.is_empty() { Some(from.to_string()) } else { joined(from, &path) };
        let Some(path) = target else {
            // What pages load from beside their folder comes along, too.
            let Some(path) = outside(from, &path).filter(|path| is_loaded(path)) else { return Leads::Away };
            return if (self.is_there)(&path) { Leads::File(path) } else { Leads::Nowhere(path) };
        };
        let index = if path.is_empty() || path.ends_with('/') { format!("{path}index.html") } else { path.clone() };
        for page in [&index, &format!("{path}/index.html")] {
            if let Some(known) = self.pages.get(page) {
                return Leads::Page(known.clone(), rest.to_string());
            }
        }
        match (self.is_there)(&path) {
            true => Leads::File(path),
            false if path.is_empty() => Leads::Away,
            false => Leads::Nowhere(path),
        }
    }

    /// How an address is written in the theme; nothing where it stays as it is.
    fn written(&self, from: &str, address: &str, into: Into, at: usize, met: &mut Met) -> Option<String> {
        match self.leads(from, address) {
            Leads::Away => None,
            Leads::Page(path, rest) => Some(format!("{path}{rest}")),
            Leads::Nowhere(_) => {
                met.broken.push((address.trim().to_string(), at));
                None
            }
            Leads::File(path) => {
                met.files.insert(path.clone());
                let rest = address.trim().find('#').map_or("", |start| &address.trim()[start..]);
                let path = placed(&path);
                Some(match into {
                    Into::Template => format!("{{{{ asset(\"media/{path}\") }}}}{rest}"),
                    Into::Body => format!("media/{path}{rest}"),
                })
            }
        }
    }

    /// The replacements of addresses in a token: where, and by what.
    pub fn replacements(
        &self,
        from: &str,
        text: &str,
        token: &Token,
        into: Into,
        met: &mut Met,
    ) -> Vec<(Range<usize>, String)> {
        let Kind::Start { name, attributes } = &token.kind else { return Vec::new() };
        let mut found = Vec::new();
        for attribute in attributes {
            let Some(range) = attribute.range.clone() else { continue };
            let key = attribute.name.as_str();
            if ADDRESSES.contains(&key) && name != "base" {
                let new = self.written(from, &attribute.value, into, range.start, met);
                found.extend(new.map(|new| (range, new)));
            } else if SETS.contains(&key) {
                for part in candidates(&text[range.clone()]) {
                    let part = range.start + part.start..range.start + part.end;
                    let new = self.written(from, &text[part.clone()], into, part.start, met);
                    found.extend(new.map(|new| (part, new)));
                }
            } else if key == "style" {
                for part in urls(&text[range.clone()]) {
                    let part = range.start + part.start..range.start + part.end;
                    let new = self.written(from, &text[part.clone()], into, part.start, met);
                    found.extend(new.map(|new| (part, new)));
                }
            }
        }
        found
    }

    /// The replacements in a text that is CSS.
    pub fn in_css(
        &self,
        from: &str,
        css: &str,
        start: usize,
        into: Into,
        met: &mut Met,
    ) -> Vec<(Range<usize>, String)> {
        let mut found = Vec::new();
        for part in urls(css) {
            let new = self.written(from, &css[part.clone()], into, start + part.start, met);
            found.extend(new.map(|new| (start + part.start..start + part.end, new)));
        }
        found
    }
}

/// A path seen from the folder of a file, from the common folder; nothing where it leads out of that.
pub fn joined(from: &str, path: &str) -> Option<String> {
    let folder = from.rsplit_once('/').map_or("", |(folder, _)| folder);
    let whole = match path.strip_prefix('/') {
        Some(rest) => rest.to_string(),
        None if folder.is_empty() => path.to_string(),
        None => format!("{folder}/{path}"),
    };
    let mut parts: Vec<&str> = Vec::new();
    for part in whole.split('/') {
        match part {
            "." => {}
            "" => {}
            ".." => drop(parts.pop()?),
            part => parts.push(part),
        }
    }
    let mut joined = parts.join("/");
    if whole.ends_with('/') && !joined.is_empty() {
        joined.push('/');
    }
    Some(joined)
}

/// A path that leads out of the common folder, as one from there: `../css/site.css`.
fn outside(from: &str, path: &str) -> Option<String> {
    let mut parts: Vec<&str> = from.split('/').collect();
    parts.pop();
    for part in path.split('/') {
        match part {
            "." | "" => {}
            ".." if parts.last().is_some_and(|last| *last != "..") => drop(parts.pop()),
            part if part.starts_with('.') && part != ".." => return None,
            part => parts.push(part),
        }
    }
    (!path.starts_with('/') && parts.first() == Some(&"..")).then(|| parts.join("/"))
}

/// Is this a file of a kind that pages load?
fn is_loaded(path: &str) -> bool {
    const ENDINGS: [&str; 22] = [
        "css", "js", "mjs", "png", "jpg", "jpeg", "gif", "svg", "webp", "avif", "ico", "woff", "woff2", "ttf", "otf",
        "eot", "mp4", "webm", "mp3", "ogg", "json", "map",
    ];
    path.rsplit_once('.').is_some_and(|(_, ending)| ENDINGS.contains(&ending.to_ascii_lowercase().as_str()))
}

/// Where a file comes to lie, below `media/`: what was beside the pages' folder comes into it.
pub fn placed(path: &str) -> &str {
    path.trim_start_matches("../")
}

/// A path as a file of another folder writes it.
pub fn relative(from: &str, to: &str) -> String {
    let folder: Vec<&str> = from.split('/').rev().skip(1).collect::<Vec<_>>().into_iter().rev().collect();
    let target: Vec<&str> = to.split('/').collect();
    let same = folder.iter().zip(&target).take_while(|(one, other)| one == other).count();
    format!("{}{}", "../".repeat(folder.len() - same), target[same..].join("/"))
}

/// A path without percent signs.
fn decode(path: &str) -> String {
    percent_encoding::percent_decode_str(path).decode_utf8().map_or_else(|_| path.to_string(), |path| path.into_owned())
}

/// A piece of a text with some stretches replaced; they must not overlap.
pub fn replaced(text: &str, range: Range<usize>, new: Vec<(Range<usize>, String)>) -> String {
    rewritten(text, range, new, str::to_string)
}

/// As [`replaced`], with something done to what stays.
pub fn rewritten(
    text: &str,
    range: Range<usize>,
    mut new: Vec<(Range<usize>, String)>,
    kept: impl Fn(&str) -> String,
) -> String {
    new.sort_by_key(|(range, _)| range.start);
    let mut out = String::new();
    let mut at = range.start;
    for (part, new) in new {
        if part.start >= at && part.end <= range.end {
            out.push_str(&kept(&text[at..part.start]));
            out.push_str(&new);
            at = part.end;
        }
    }
    out.push_str(&kept(&text[at..range.end]));
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_lead_where_browsers_go() {
        let pages = BTreeMap::from([("index.html".into(), "/".into()), ("log/a.html".into(), "/log/a.html".into())]);
        let site = Site { pages, is_there: &|path| path == "img/a b.png", anchors: BTreeSet::new() };
        let page = |path: &str, rest: &str| Leads::Page(path.into(), rest.into());
        for (from, address, wanted) in [
            ("log/a.html", "../index.html#x", page("/", "#x")),
            ("log/a.html", "../", page("/", "")),
            ("index.html", "log/a.html?b", page("/log/a.html", "?b")),
            ("log/a.html", "?b#c", page("/log/a.html", "?b#c")),
            ("log/a.html", "/img/a%20b.png", Leads::File("img/a b.png".into())),
            ("log/a.html", "img/a.png", Leads::Nowhere("log/img/a.png".into())),
            ("index.html", "https://example.org/", Leads::Away),
            ("index.html", "//example.org/", Leads::Away),
            ("index.html", "mailto:a@b", Leads::Away),
            ("index.html", "#x", Leads::Away),
            ("index.html", "../out.png", Leads::Nowhere("../out.png".into())),
            ("index.html", "../out.txt", Leads::Away),
            ("index.html", "../.ssh/x.png", Leads::Away),
        ] {
            assert_eq!(site.leads(from, address), wanted, "{from} {address}");
        }
    }
}
