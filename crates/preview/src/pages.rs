//! Pages of ours, and what is added to those of the site.

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};
use truehook_sheets::PALETTE;

const SHELL: &str = include_str!("pages/shell.html");
const SHELL_SCRIPTS: &str = concat!(
    include_str!("pages/changes.js"),
    include_str!("pages/style.js"),
    include_str!("pages/drawer.js"),
    include_str!("pages/shell.js")
);
/// In a function of its own: the theme's scripts may use the same names.
const PAGE_SCRIPTS: &str = concat!(
    "(() => {\n",
    include_str!("pages/changes.js"),
    include_str!("pages/morph.js"),
    include_str!("pages/page.js"),
    "})();\n"
);
const TROUBLE: &str = include_str!("pages/trouble.html");

/// The page that shows all others in a frame, and the drawer beside them. `site` is the port of the others.
pub fn shell(site: u16) -> String {
    SHELL.replace("@site@", &site.to_string())
}

/// The script of that page, in the colours of the sheets.
pub fn shell_script() -> String {
    SHELL_SCRIPTS.replace("@palette@", &PALETTE.replace(":root", ":host"))
}

/// The script that keeps a page of the site alive: it redraws it when something has changed.
pub fn page_script() -> &'static str {
    PAGE_SCRIPTS
}

/// A page of the site with that script in it, the number of the state that it shows, and the port of the shell.
pub fn live(html: &str, number: u64, shell: u16) -> String {
    let at = script_place(html);
    let script =
        format!("<script src=\"/-/page.js\" defer data-truehook=\"{number}\" data-shell=\"{shell}\"></script>");
    format!("{}{script}{}", &html[..at], &html[at..])
}

/// Where a script of ours goes: before the end of the body, as a browser sees it; where there is none, behind the tag
/// that begins the head, else at the end.
fn script_place(html: &str) -> usize {
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    let (mut head, mut body) = (None, None);
    for token in Tokenizer::new_with_emitter(html, emitter) {
        let Ok(token) = token;
        match token {
            Token::StartTag(tag) if *tag.name == b"head"[..] && head.is_none() => head = Some(tag.span.end),
            Token::EndTag(tag) if *tag.name == b"body"[..] => body = Some(tag.span.start),
            _ => {}
        }
    }
    body.or(head).unwrap_or(html.len())
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;").replace('\'', "&#39;")
}

fn page(title: &str, body: &str, number: u64, shell: u16) -> String {
    let text = TROUBLE.replace("@palette@", PALETTE).replace("@title@", &escaped(title)).replace("@body@", body);
    live(&text, number, shell)
}

/// Says what is wrong. The page goes on by itself once that is mended.
pub fn trouble(title: &str, why: &str, number: u64, shell: u16) -> String {
    page(title, &format!("<p>{}</p>", escaped(why)), number, shell)
}

/// Says that there is no such page, and which there are.
pub fn no_page(path: &str, known: &[&str], number: u64, shell: u16) -> String {
    let links: String = known.iter().map(|path| format!("<li><a href=\"{0}\">{0}</a></li>", escaped(path))).collect();
    page(&format!("There is no page {path}"), &format!("<p>There are:</p><ul>{links}</ul>"), number, shell)
}

#[cfg(test)]
mod tests {
    use super::live;

    #[test]
    fn the_script_stands_where_a_browser_runs_it() {
        let script = "<script src=\"/-/page.js\" defer data-truehook=\"7\" data-shell=\"1\"></script>";
        for (before, after) in [
            ("<html><body><p>x</p>", "</body></html>"),
            ("<html><body>x", "</body></html><!-- </body> -->"),
            ("<html><body><textarea></body></textarea>", "</body>"),
            ("<html><head>", "<title>x</title></head><body>x<!-- open </body>"),
            ("<p>a piece", ""),
        ] {
            assert_eq!(live(&format!("{before}{after}"), 7, 1), format!("{before}{script}{after}"));
        }
    }
}
