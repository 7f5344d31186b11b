//! Links between pages, as they lead from one file to another: for a site that is opened from disk.

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};

/// The file of a page below the site's folder: `/` is `index.html`, `/log/` is `log/index.html`, `/visit` is
/// `visit.html`.
pub fn page_file(path: &str) -> String {
    let parts: Vec<&str> = path.split('/').filter(|part| !part.is_empty() && !matches!(*part, "." | "..")).collect();
    let joined = parts.join("/");
    match (path.ends_with('/'), joined.as_str()) {
        (_, "") => "index.html".to_string(),
        (true, joined) => format!("{joined}/index.html"),
        (false, joined) if joined.rsplit('/').next().is_some_and(|last| last.contains('.')) => joined.to_string(),
        (false, joined) => format!("{joined}.html"),
    }
}

/// A page whose links to others of the site lead to their files. `known` finds the true path of what is written.
pub fn linked_by_file(html: &str, path: &str, known: impl Fn(&str) -> Option<String>) -> String {
    let mut out = String::with_capacity(html.len());
    let mut done = 0;
    let from = page_file(path);
    for (start, path) in links(html) {
        let to = known(&path).filter(|_| path.starts_with('/') && !path.starts_with("//"));
        let Some(to) = to.filter(|_| start >= done) else { continue };
        out.push_str(&html[done..start]);
        out.push_str(&between(&from, &page_file(&to)));
        done = start + path.len();
    }
    out.push_str(&html[done..]);
    out
}

/// The addresses that people follow, and those of forms, in order: where each begins, and its path, without what
/// may follow that.
fn links(html: &str) -> Vec<(usize, String)> {
    let mut found = Vec::new();
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    for token in Tokenizer::new_with_emitter(html, emitter) {
        let Ok(Token::StartTag(tag)) = token else { continue };
        let key: &[u8] = match tag.name.as_slice() {
            b"a" | b"area" => b"href",
            b"form" => b"action",
            _ => continue,
        };
        let Some(value) = tag.attributes.get(key) else { continue };
        let written = String::from_utf8_lossy(&value.value);
        let path = written.split(['?', '#']).next().unwrap_or_default();
        // Values are searched for from where the library says they are: unquoted ones are off by one.
        let from = value.span.start.saturating_sub(1).max(tag.span.start);
        let start = html.get(from..tag.span.end).and_then(|rest| rest.find(path)).filter(|_| !path.is_empty());
        found.extend(start.map(|start| (from + start, path.to_string())));
    }
    found
}

/// How one file leads to another.
fn between(from: &str, to: &str) -> String {
    let (from, to): (Vec<&str>, Vec<&str>) = (from.split('/').collect(), to.split('/').collect());
    let folders = from.len().min(to.len()) - 1;
    let same = from.iter().zip(&to).take(folders).take_while(|(a, b)| a == b).count();
    format!("{}{}", "../".repeat(from.len() - 1 - same), to[same..].join("/"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn links_lead_from_file_to_file() {
        let known = |path: &str| {
            let pages = ["/", "/log/", "/log/spring/", "/visit"];
            pages
                .iter()
                .find(|page| page.trim_end_matches('/') == path.trim_end_matches('/'))
                .map(|page| page.to_string())
        };
        for (from, written, wanted) in [
            ("/", "/", "index.html"),
            ("/", "/log/", "log/index.html"),
            ("/log/", "/", "../index.html"),
            ("/log/", "/log/", "index.html"),
            ("/log/spring/", "/log/?a=1#b", "../index.html?a=1#b"),
            ("/log/spring/", "/visit", "../../visit.html"),
            ("/visit", "/log", "log/index.html"),
            ("/visit", "/log/?a=1&amp;b=2", "log/index.html?a=1&amp;b=2"),
            ("/", "/none/", "/none/"),
            ("/", "//elsewhere/log/", "//elsewhere/log/"),
            ("/", "https://elsewhere/log/", "https://elsewhere/log/"),
            ("/", "#top", "#top"),
        ] {
            let page =
                |address: &str| format!("<a class=x href=\"{address}\">{address}</a><form action={address}></form>");
            assert_eq!(
                linked_by_file(&page(written), from, known).replace(&format!(">{written}<"), "><"),
                page(wanted).replace(&format!(">{wanted}<"), "><"),
                "{from} {written}"
            );
        }
    }
}
