//! Whatever is done to a theme's files, nothing panics: it is read, linked, checked, shown and
//! rendered, and every finding points into its file.

use std::sync::Arc;

use crate::grown::{grow, link};
use fastrand::Rng;
use truehook_core::address::Address;
use truehook_core::edit::adopt::{Manner, adopt};
use truehook_core::edit::declare::declare;
use truehook_core::edit::fill::{self, Holder, Step};
use truehook_core::edit::rename::rename;
use truehook_core::edit::replace::{Replacing, replace};
use truehook_core::edit::template::{Placement, place};
use truehook_core::edit::withdraw::{Way, withdraw};
use truehook_core::edit::{EditError, Plan, Position};
use truehook_core::link::Registry;
use truehook_core::read::{FileKind, MemoryFiles};
use truehook_core::rules;
use truehook_core::view::{FindingView, PointsView};
use truehook_stage::Stage;

/// How many themes are mangled on each change.
const THEMES: u64 = 400;

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

/// Plans of commands on a theme, whatever it is like: some can't be made, and none panics.
fn edited(registry: &Registry, rng: &mut Rng) {
    let points: Vec<Address> = registry.points().map(|point| point.address).collect();
    let any = |rng: &mut Rng| points[rng.usize(..points.len())];
    let plan = |plan: Result<Plan, EditError>| {
        if let Ok(plan) = plan {
            let _ = plan.changes(registry.project());
        }
    };
    for _ in 0..3 {
        let (one, other) = (any(rng), any(rng));
        plan(rename(registry, &one.to_string(), "zugzwang").map(|renaming| renaming.plan));
        for input in registry.point(one).map(|point| point.inputs.as_slice()).unwrap_or_default() {
            plan(rename(registry, &format!("{one}.{}", input.field.name), "zugzwang").map(|renaming| renaming.plan));
        }
        for way in [Way::Alone, Way::Along, Way::To(other)] {
            plan(withdraw(registry, one, way).map(|withdrawn| withdrawn.plan));
        }
        plan(declare(registry, one, &[("about".into(), "x".into()), ("label".into(), String::new())]));
        let item = serde_json::json!({ "use": other.to_string() });
        for step in [Step::Add(item, Some(vec![0, 0])), Step::Remove(vec![0]), Step::Move(vec![0], vec![1])] {
            plan(fill::change(registry, &Holder::Point(one), &[step]).map(|filled| filled.plan));
        }
    }
    for (file, source) in registry.project().files_of(registry.project().top()) {
        match source.kind {
            FileKind::Template => {
                let at = Some((Position::Inside, "main, body, p, div, [class]".parse().unwrap()));
                let calls = vec!["{{ place(\"region:aside\") }}".to_string()];
                let points = vec![any(rng)];
                for (at, block, guard) in
                    [(at, None, true), (None, Some("main".to_string()), false), (None, None, true)]
                {
                    let new = Placement { file, calls: calls.clone(), points: points.clone(), at, block, guard };
                    plan(place(registry, &new).map(Plan::of));
                }
                plan(adopt(registry, &MemoryFiles::new(), source.name(), &Manner::Copy).map(|taken| taken.plan));
                plan(rename(registry, source.name(), "other.html").map(|renaming| renaming.plan));
            }
            FileKind::Module => {
                for export in registry.module(file).map(|module| module.exports.as_slice()).unwrap_or_default() {
                    plan(
                        rename(registry, &format!("{}#{}", source.name(), export.name), "zugzwang")
                            .map(|renaming| renaming.plan),
                    );
                }
            }
            _ => {}
        }
    }
    for slot in registry.points().flat_map(|point| point.slots.iter()).take(4) {
        let call = registry.slot_name(slot);
        for copy in [true, false] {
            let new = Replacing { call: &call, with: "made.js#made", within: None, copy };
            plan(replace(registry, &new).map(|(plan, _)| plan));
        }
    }
}

#[test]
fn nothing_panics() {
    // TRUEHOOK_THEMES asks for that many, of a fresh seed.
    let asked = std::env::var("TRUEHOOK_THEMES").ok().and_then(|text| text.parse::<u64>().ok());
    let first = if asked.is_some() { fastrand::u64(1 << 20..1 << 32) } else { 0 };
    let count = asked.unwrap_or(THEMES);
    println!("{count} themes from seed {first}");
    let mut findings = 0;
    for seed in first..first + count {
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
        if seed % 3 == 1 {
            edited(&registry, &mut rng);
        }
        if seed % 3 == 0 {
            let language = (seed % 2 == 0).then_some("de");
            let stage = Stage::in_language(Arc::new(registry), language);
            for page in stage.pages() {
                let rendered = stage.render(&page.path).expect("the page is there");
                assert!(!rendered.html.contains('\u{fdd0}') && rendered.tree.text() == rendered.html, "seed {seed}");
            }
        }
    }
    assert!(findings > count, "only {findings} findings: that was too gentle");
}
