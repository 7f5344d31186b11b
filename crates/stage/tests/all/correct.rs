//! Correct themes, however unusual: written by hand from the references of the languages (HTML, CSS, ECMAScript, the
//! template language, TOML, gettext). Nothing is said of them, each page renders, and what is said of a placement is what
//! the page shows.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use camino::Utf8PathBuf;
use truehook_core::address::{Address, Kind};
use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, Project};
use truehook_core::rules::{self, Level};
use truehook_stage::Stage;

/// The folders with a manifest, below `tests/themes/`.
fn themes() -> Vec<Utf8PathBuf> {
    let mut found = Vec::new();
    let mut open = vec![Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/themes")];
    while let Some(folder) = open.pop() {
        if folder.join("truehook.toml").is_file() {
            found.push(Utf8PathBuf::from_path_buf(folder).unwrap());
            continue;
        }
        let inside = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
        open.extend(inside.filter(|path: &PathBuf| path.is_dir()));
    }
    found.sort();
    found
}

fn registry(folder: &Utf8PathBuf) -> Registry {
    Registry::new(Project::open(&DiskFiles, folder).unwrap())
}

#[test]
fn nothing_is_said_of_correct_themes() {
    let themes = themes();
    assert!(themes.len() >= 20, "{themes:?}");
    for folder in &themes {
        let found = rules::check(&registry(folder)).findings;
        let found: Vec<String> = found
            .iter()
            .filter(|finding| finding.level > Level::Note)
            .map(|finding| format!("{}: {}", finding.rule, finding.message))
            .collect();
        assert_eq!(found, [""; 0], "{folder}");
    }
}

#[test]
fn correct_themes_render_and_show_what_is_said_of_them() {
    let (mut pages, mut compared) = (0, 0);
    for folder in themes() {
        let registry = Arc::new(registry(&folder));
        if registry.types().iter().all(|page_type| page_type.templates.is_empty()) {
            continue;
        }
        let stage = Stage::new(registry.clone());
        for page in stage.pages() {
            let rendered = stage.render(&page.path).expect("the page is there");
            assert_eq!(rendered.failures, [], "{folder}, {}", page.path);
            let html = rendered.html.to_ascii_lowercase();
            assert!(html.contains("<title>") && !html.contains("undefined"), "{folder}, {}: {html}", page.path);
            let at = registry.types().iter().position(|known| known.name == *page.page_type).expect("a known type");
            let shown: BTreeSet<Address> = rendered.trace.points.iter().copied().collect();
            for point in registry.points().filter(|point| point.address.kind.is_placed()) {
                let reached = point.reached.has(at);
                let sure = point.uses.iter().any(|id| {
                    let conditions = registry.use_conditions(*id);
                    registry.use_sure(*id).has(at) && !conditions.iter().any(|group| group.types.has(at))
                });
                assert!(
                    reached || !shown.contains(&point.address),
                    "{folder}: {} shows on {}",
                    point.address,
                    page.path
                );
                // What nothing fills may stand behind the question whether something does.
                let sure = sure && (point.address.kind == Kind::Hook || !point.fills.is_empty());
                assert!(!sure || shown.contains(&point.address), "{folder}: {} is not on {}", point.address, page.path);
                compared += 1;
            }
            pages += 1;
        }
    }
    assert!(pages > 60 && compared > 1000, "only {pages} pages, and {compared} points on them");
}
