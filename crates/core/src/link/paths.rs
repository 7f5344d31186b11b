//! Paths as files write them of each other.

use std::borrow::Cow;

use percent_encoding::{AsciiSet, CONTROLS, percent_decode_str, utf8_percent_encode};

use camino::{Utf8Path, Utf8PathBuf};

use crate::address::{Address, Kind};
use crate::scan::Prefix;

/// The path below `code/` that a relative import in a module means; nothing where it leaves.
pub fn join_import(from: &str, written: &str) -> Option<Utf8PathBuf> {
    if !written.starts_with("./") && !written.starts_with("../") {
        return None;
    }
    let mut path = Utf8Path::new(from).parent()?.to_path_buf();
    for part in written.split('/') {
        match part {
            "." | "" => {}
            ".." => {
                if !path.pop() {
                    return None;
                }
            }
            part => path.push(part),
        }
    }
    Some(path)
}

/// How one module imports another.
pub fn relative(from: &str, to: &str) -> String {
    let depth = from.matches('/').count();
    let (from_folder, _) = from.rsplit_once('/').unwrap_or(("", from));
    match to.strip_prefix(from_folder).and_then(|rest| rest.strip_prefix('/').or(Some(rest).filter(|_| depth == 0))) {
        Some(rest) => format!("./{rest}"),
        None => format!("{}{to}", "../".repeat(depth)),
    }
}

/// A path that stands below a folder, with the layer that it names in front.
pub(super) fn format_media(written: &str, folder: &str) -> String {
    match Prefix::split(written) {
        (Prefix::None, path) => format!("{folder}{path}"),
        (_, path) => format!("{}{folder}{path}", &written[..written.len() - path.len()]),
    }
}

/// The path below a layer's folder that an address in one of its files means; nothing where the
/// address is no relative one, or leaves the folder.
pub fn relative_path(from: &str, address: &str) -> Option<String> {
    let path = address.split(['?', '#']).next().unwrap_or_default().trim();
    let scheme = path.find(':').is_some_and(|at| !path[..at].contains('/'));
    if path.is_empty() || path.starts_with('/') || scheme {
        return None;
    }
    let mut parts: Vec<Cow<'_, str>> = from.split('/').map(Cow::Borrowed).collect();
    parts.pop();
    for part in path.split('/') {
        match &*decoded(part) {
            "." | "" => {}
            ".." => drop(parts.pop()?),
            _ => parts.push(decoded(part)),
        }
    }
    Some(parts.join("/"))
}

/// A part of an address as the name of a file: `a%20b` is `a b`. One that names no file stays as it is.
fn decoded(part: &str) -> Cow<'_, str> {
    match percent_decode_str(part).decode_utf8() {
        Ok(decoded) if !decoded.contains(['/', '\0']) => decoded,
        _ => Cow::Borrowed(part),
    }
}

/// A path as an address (WHATWG URL, "URL writing"), also where a `srcset` or `url()` takes it without quotes.
pub fn address_of(path: &str) -> String {
    const APART: AsciiSet = CONTROLS
        .add(b' ')
        .add(b'"')
        .add(b'#')
        .add(b'%')
        .add(b'<')
        .add(b'>')
        .add(b'?')
        .add(b'`')
        .add(b'{')
        .add(b'}')
        .add(b'\\')
        .add(b'^')
        .add(b'|')
        .add(b'[')
        .add(b']')
        .add(b',')
        .add(b'(')
        .add(b')')
        .add(b'\'')
        .add(b';')
        .add(b'&');
    utf8_percent_encode(path, &APART).to_string()
}

/// A path as it is written in a file of another folder.
pub(super) fn path_from(folder: &str, path: &str) -> String {
    let (from, to): (Vec<&str>, Vec<&str>) = (folder.split('/').collect(), path.split('/').collect());
    let same = from.iter().zip(&to).take_while(|(a, b)| a == b).count();
    let up = "../".repeat(from.len() - same);
    format!("{up}{}", to[same..].join("/"))
}

/// Where the template of a component lies, below `markup/`.
pub fn component_template(address: Address) -> String {
    let folder: &[&str] = match (address.kind, address.inner()) {
        (Kind::Template, _) => &[],
        (_, Some(_)) => &["sections/"],
        (kind, None) => &[kind.word(), "s/"],
    };
    [folder, &[address.name.as_str(), ".html"]].concat().concat()
}

/// The file's own name, at the end of its path.
pub(super) fn file_name(path: &str) -> &str {
    path.rsplit(['/', ':']).next().unwrap_or(path)
}
