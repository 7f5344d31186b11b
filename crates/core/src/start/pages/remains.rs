//! What stays as it was because it is not the theme's: what comes from elsewhere, leads nowhere, or to a page that was not
//! named, and what scripts look for by themselves.

use std::collections::BTreeSet;
use std::sync::LazyLock;

use regex::Regex;

use super::address::Leads;
use super::html::Token;
use super::parts::Page;
use super::{Beside, Fate, Taken, Whole};

/// Tells all of it, each once.
pub fn tell(whole: &Whole<'_>, beside: &dyn Beside, files: &BTreeSet<String>, taken: &mut Taken) {
    let mut known: BTreeSet<(String, String)> = BTreeSet::new();
    for page in &whole.pages {
        // What a head, or the scripts at the end, load from elsewhere is told with them.
        let own = page.tokens[page.body.clone()].iter().chain(&page.tokens[page.after.clone()]);
        let tokens = own.chain(page.menus.iter().flat_map(|menu| &menu.tokens));
        for token in tokens {
            let Some((what, now)) = of_element(whole, page, token) else { continue };
            if known.insert((what.clone(), now.clone())) {
                taken.left.push(Fate { file: page.file.clone(), line: page.line_at(token.range.start), what, now });
            }
        }
    }
    for file in files.iter().filter(|file| file.ends_with(".js")) {
        let Some(text) = beside.read(file).and_then(|bytes| String::from_utf8(bytes).ok()) else { continue };
        let mut names: Vec<&str> =
            FILES.captures_iter(&text).filter_map(|found| Some(found.get(1)?.as_str())).collect();
        names.retain(|name| !files.contains(*name) && beside.has(name));
        names.sort_unstable();
        names.dedup();
        for name in names {
            let now = "a script looks for it beside the page, where the theme has no files: it does not come along";
            let line = text[..text.find(name).unwrap_or(0)].matches('\n').count() + 1;
            taken.left.push(Fate { file: file.clone(), line, what: name.to_string(), now: now.to_string() });
        }
    }
}

/// Names of files in the texts of a script.
static FILES: LazyLock<Regex> = LazyLock::new(|| {
    #[expect(clippy::expect_used, reason = "the pattern is written out here")]
    Regex::new(r#"["'`=\\(]((?:[\w-]+/)*[\w.-]+\.(?:png|jpe?g|gif|svg|webp|avif|css|js|json|html?|mp[34]|webm|woff2?))["'`\\)]"#)
        .expect("a pattern")
});

fn of_element(whole: &Whole<'_>, page: &Page, token: &Token) -> Option<(String, String)> {
    let element = token.starts()?;
    let attribute = match element {
        "a" | "area" => "href",
        "form" => "action",
        "iframe" | "embed" | "frame" => "src",
        "script" => "src",
        "link" => "href",
        _ => return None,
    };
    let address = token.attribute(attribute).map(str::trim).unwrap_or_default();
    let is_elsewhere = ["http:", "https:", "//"].iter().any(|scheme| address.starts_with(scheme));
    let is_sheet = token.attribute("rel").is_some_and(|rel| rel.to_ascii_lowercase().contains("stylesheet"));
    let told = |what: &str, now: &str| Some((what.to_string(), now.to_string()));
    match (element, whole.site.leads(&page.file, address)) {
        ("iframe" | "embed" | "frame", _) if is_elsewhere => {
            told(&format!("a frame, {address}"), "it comes from elsewhere")
        }
        ("script", _) if is_elsewhere => told(&format!("a script, {address}"), "it comes from elsewhere"),
        ("link", _) if is_elsewhere && is_sheet => {
            told(&format!("a style sheet, {address}"), "it comes from elsewhere")
        }
        ("script" | "link", _) => None,
        ("form", Leads::Nowhere(path)) => {
            told(&format!("a form, for {path}"), "that is not there; who answers it is not the theme's to say")
        }
        (_, Leads::Nowhere(path)) => told(&format!("a link to {path}"), "that is not there, as before"),
        ("a" | "area", Leads::File(path)) if [".html", ".htm", ".php"].iter().any(|end| path.ends_with(end)) => {
            told(&format!("a link to {path}"), "that page was not named; it comes along as a file, as it is")
        }
        _ => None,
    }
}
