//! Whatever is done to a theme's files, nothing panics: it is read, linked, checked, shown and
//! rendered, and every finding points into its file.

use std::sync::Arc;

use crate::grown::{grow, link};
use fastrand::Rng;
use truehook_core::rules;
use truehook_core::view::{FindingView, PointsView};
use truehook_stage::Stage;

/// Pieces that mean something to one of the parsers.
const PIECES: &[&str] = &[
    "{{",
    "}}",
    "{%",
    "%}",
    "{#",
    "#}",
    "\"",
    "'",
    "[",
    "]",
    "[[attach]]\n",
    "=",
    "\n",
    "é",
    "🐦",
    "\u{feff}",
    "\r\n",
    "{",
    "}",
    "(",
    ")",
    "`",
    "${",
    "region:",
    "hook:",
    "partial:",
    "place(",
    "| through(",
    "#",
    "<main>",
    "</p>",
    "0",
    "-1",
    "true",
    "null",
    "export ",
    "import ",
    "extends",
    "block a",
    "{% extends \"page.html\" %}",
    "{% include \"layout.html\" %}",
    "when = \"page\"\n",
    "after = [\"\"]\n",
    "base = { path = \".\" }\n",
    "\\",
    "\u{fdd0}",
    "url(",
    "var(--colour-",
    "/*",
    "@import \"a.css\";",
    "window.",
    "typeof ",
    "msgid \"",
    "msgid \"\"\n",
    "msgstr \"x\"\n",
    "msgstr[1] \"",
    "#, fuzzy\n",
    "Plural-Forms: nplurals=0; plural=;",
    " | t(count=1)",
    "feature:colours",
    "needs = [\"style:plain\"]\n",
    "<link rel=\"stylesheet\" href=\"media/a.css\">",
];

/// The text with one thing done to it.
fn mangle(text: &str, rng: &mut Rng) -> String {
    let places: Vec<usize> = text.char_indices().map(|(at, _)| at).chain([text.len()]).collect();
    let mut two = [places[rng.usize(..places.len())], places[rng.usize(..places.len())]];
    two.sort();
    let [start, end] = two;
    let near = places.iter().copied().find(|at| *at >= (start + 12).min(end)).unwrap_or(end);
    match rng.u8(..5) {
        0 => format!("{}{}", &text[..start], &text[near..]),
        1 => format!("{}{}{}", &text[..near], &text[start..near], &text[near..]),
        2 => format!("{}{}", &text[..start], &text[end..]),
        _ => format!("{}{}{}", &text[..start], PIECES[rng.usize(..PIECES.len())], &text[start..]),
    }
}

#[test]
fn nothing_panics() {
    let mut findings = 0;
    for seed in 0..1500 {
        let mut rng = Rng::with_seed(seed);
        let mut files = grow(seed % 40).files;
        for _ in 0..1 + rng.usize(..3) {
            let all: Vec<_> = files.iter().map(|(path, _)| path.to_path_buf()).collect();
            let path = all[rng.usize(..all.len())].clone();
            let text = String::from_utf8_lossy(files.get(&path).unwrap_or_default()).into_owned();
            match rng.u8(..20) {
                0 => files.remove(&path),
                1 => files.insert(path, vec![0xff, 0xfe, 0x00]),
                2 => files.insert(path, ""),
                _ => files.insert(path, mangle(&text, &mut rng)),
            }
        }
        if files.get("/grown/site/truehook.toml".into()).is_none() {
            continue;
        }
        let registry = link(&files);
        let checked = rules::check(&registry);
        for finding in &checked.findings {
            let view = FindingView::new(&registry, finding);
            assert!(!view.places.is_empty() && !view.message.is_empty(), "seed {seed}: {finding:?}");
            findings += 1;
        }
        let _ = PointsView::new(&registry, |_| true);
        if seed % 3 == 0 {
            let language = (seed % 2 == 0).then_some("de");
            let stage = Stage::in_language(Arc::new(registry), language);
            for page in stage.pages() {
                let rendered = stage.render(&page.path).expect("the page is there");
                assert!(!rendered.html.contains('\u{fdd0}') && rendered.tree.text() == rendered.html, "seed {seed}");
            }
        }
    }
    assert!(findings > 1000, "only {findings} findings: that was too gentle");
}
