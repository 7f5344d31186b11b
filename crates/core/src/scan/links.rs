//! Links that are written out in markup, and begin with a slash.

use std::ops::Range;
use std::sync::LazyLock;

use memchr::memmem::Finder;

static HREF: LazyLock<Finder> = LazyLock::new(|| Finder::new("href="));

/// The addresses of `a` elements that begin with one slash, and hold nothing that is printed.
pub(super) fn root_links(text: &str) -> Vec<Range<usize>> {
    let mut found: Vec<Range<usize>> = HREF.find_iter(text.as_bytes()).filter_map(|at| root_link(text, at)).collect();
    if !found.is_empty() {
        for (start, end) in [("<!--", "-->"), ("{#", "#}")] {
            for comment in comments(text, start, end) {
                found.retain(|link| !comment.contains(&link.start));
            }
        }
    }
    found
}

fn root_link(text: &str, at: usize) -> Option<Range<usize>> {
    let tag = &text[text[..at].rfind('<')? + 1..at];
    let is_link =
        tag.len() > 1 && tag.as_bytes()[0].eq_ignore_ascii_case(&b'a') && tag.as_bytes()[1].is_ascii_whitespace();
    let start = at + "href=".len() + 1;
    let quote = text[at + "href=".len()..].chars().next().filter(|quote| ['"', '\''].contains(quote))?;
    let end = start + text[start..].find(quote)?;
    let address = &text[start..end];
    let is_root =
        address.starts_with('/') && !address.starts_with("//") && !address.contains(['{', '}', '<', '\n', '&']);
    (is_link && !tag.contains('>') && is_root).then_some(start..end)
}

fn comments(text: &str, start: &str, end: &str) -> Vec<Range<usize>> {
    let mut found = Vec::new();
    let mut at = 0;
    while let Some(begin) = text[at..].find(start).map(|begin| at + begin) {
        at = text[begin..].find(end).map_or(text.len(), |stop| begin + stop + end.len());
        found.push(begin..at);
    }
    found
}

#[cfg(test)]
mod tests {
    use super::root_links;

    #[test]
    fn links_from_the_root_are_found_and_nothing_else() {
        let text = r#"<a href="/a/">A</a> <a class=x href='/b/?c#d'>B</a> <A HREF="/big/">, <link href="/l.css">
            <a href="{{ x }}"> <a href="/{{ x }}/"> <a href="//host/"> <a href="e/"> <!-- <a href="/f/"> --> {# <a href="/g/"> #}
            <abbr href="/h/"> x > href="/i/" <a title="1 > 0" href="/j/">"#;
        let found: Vec<&str> = root_links(text).into_iter().map(|at| &text[at]).collect();
        assert_eq!(found, ["/a/", "/b/?c#d"]);
    }
}
