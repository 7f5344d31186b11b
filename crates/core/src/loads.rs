//! What HTML and CSS load: the addresses in sets of pictures and in style sheets.

use std::ops::Range;

/// The addresses in a set of pictures, `a.png 1x, b.png 2x` (HTML, 4.8.4.2.1).
pub fn candidates(text: &str) -> Vec<Range<usize>> {
    let mut found = Vec::new();
    let mut at = 0;
    let bytes = text.as_bytes();
    while at < text.len() {
        while at < text.len() && (bytes[at].is_ascii_whitespace() || bytes[at] == b',') {
            at += 1;
        }
        let start = at;
        while at < text.len() && !bytes[at].is_ascii_whitespace() {
            at += 1;
        }
        let end = start + text[start..at].trim_end_matches(',').len();
        if start < end {
            found.push(start..end);
        }
        // What follows up to the next comma is a width or density.
        if end == at {
            while at < text.len() && bytes[at] != b',' {
                at += 1;
            }
        }
    }
    found
}

/// The addresses in CSS: of url() and of @import.
pub fn urls(css: &str) -> Vec<Range<usize>> {
    let mut found = Vec::new();
    collect(&mut cssparser::Parser::new(css), css, &mut found);
    found
}

fn collect(parser: &mut cssparser::Parser<'_>, css: &str, found: &mut Vec<Range<usize>>) {
    use cssparser::Token as Css;
    let mut imports = false;
    loop {
        let before = parser.position().byte_index();
        let token = match parser.next_including_whitespace_and_comments() {
            Ok(token) => token.clone(),
            Err(_) => return,
        };
        let after = parser.position().byte_index();
        let inside = |value: &str| {
            let start = css[before..after].find(value).map(|at| before + at);
            start.map(|start| start..start + value.len())
        };
        match token {
            Css::UnquotedUrl(url) => found.extend(inside(&url)),
            Css::QuotedString(text) if imports => found.extend(inside(&text)),
            Css::AtKeyword(name) => {
                imports = name.eq_ignore_ascii_case("import");
                continue;
            }
            Css::WhiteSpace(_) | Css::Comment(_) => continue,
            Css::Function(name) if name.eq_ignore_ascii_case("url") || name.eq_ignore_ascii_case("src") => {
                let _ = parser.parse_nested_block(|parser| -> Result<(), cssparser::ParseError<()>> {
                    let before = parser.position().byte_index();
                    if let Ok(text) = parser.expect_string() {
                        let text = text.to_string();
                        let after = parser.position().byte_index();
                        found.extend(css[before..after].find(&text).map(|at| before + at..before + at + text.len()));
                    }
                    while parser.next().is_ok() {}
                    Ok(())
                });
            }
            Css::Function(_) | Css::ParenthesisBlock | Css::SquareBracketBlock | Css::CurlyBracketBlock => {
                let _ = parser.parse_nested_block(|parser| -> Result<(), cssparser::ParseError<()>> {
                    collect(parser, css, found);
                    Ok(())
                });
            }
            _ => {}
        }
        imports = false;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sets_and_sheets_give_their_addresses() {
        let text = "a.png 1x, b.png 2x,c.png";
        assert_eq!(candidates(text).into_iter().map(|at| &text[at]).collect::<Vec<_>>(), ["a.png", "b.png", "c.png"]);
        let css = "@import \"a.css\"; b { c: url(d.png) } @font-face { src: url('e.woff2') format('woff2'), url(\"f.woff\") } /* url(g) */ h { i: 'j' }";
        assert_eq!(
            urls(css).into_iter().map(|at| &css[at]).collect::<Vec<_>>(),
            ["a.css", "d.png", "e.woff2", "f.woff"]
        );
    }
}
