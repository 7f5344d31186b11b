//! Pages of ours, and what is added to those of the site.

use truehook_sheets::PALETTE;

const SCRIPTS: &str = concat!(
    include_str!("pages/morph.js"),
    include_str!("pages/style.js"),
    include_str!("pages/drawer.js"),
    include_str!("pages/live.js")
);

/// The script that keeps a page alive: it redraws it, and shows the drawer, in the colours of the sheets.
pub fn script() -> String {
    SCRIPTS.replace("@palette@", &PALETTE.replace(":root", ":host"))
}

const TROUBLE: &str = include_str!("pages/trouble.html");

/// A page with that script at its end, and the number of the state that it shows.
pub fn live(html: &str, number: u64) -> String {
    let at = html.rfind("</body>").unwrap_or(html.len());
    let script = format!("<script src=\"/-/live.js\" defer data-truehook=\"{number}\"></script>");
    format!("{}{script}{}", &html[..at], &html[at..])
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;").replace('\'', "&#39;")
}

fn page(title: &str, body: &str, number: u64) -> String {
    live(&TROUBLE.replace("@palette@", PALETTE).replace("@title@", &escaped(title)).replace("@body@", body), number)
}

/// Says what is wrong. The page goes on by itself once that is mended.
pub fn trouble(title: &str, why: &str, number: u64) -> String {
    page(title, &format!("<p>{}</p>", escaped(why)), number)
}

/// Says that there is no such page, and which there are.
pub fn no_page(path: &str, known: &[&str], number: u64) -> String {
    let links: String = known.iter().map(|path| format!("<li><a href=\"{0}\">{0}</a></li>", escaped(path))).collect();
    page(&format!("There is no page {path}"), &format!("<p>There are:</p><ul>{links}</ul>"), number)
}
