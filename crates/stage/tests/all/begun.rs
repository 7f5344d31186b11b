//! Themes that just began: whatever is sketched, they pass every check and show something in each part.

use std::sync::Arc;

use proptest::prelude::*;
use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::rules;
use truehook_core::start::{Sketch, files};
use truehook_stage::Stage;

/// Sketches: a grid that is cut into rectangles again and again, one of them the page's own text.
fn sketch() -> impl Strategy<Value = String> {
    let names = [
        "header",
        "footer",
        "aside",
        "nav",
        "masthead",
        "left",
        "area:notes",
        "menu:site",
        "menu:small-print",
        "hook:after-text",
        "area:shelf",
        "right-hand",
        ".",
    ];
    let cuts = proptest::collection::vec((any::<bool>(), 1usize..4, any::<prop::sample::Index>()), 0..6);
    (1usize..5, 1usize..5, cuts, Just(names.to_vec()).prop_shuffle()).prop_map(|(rows, columns, cuts, names)| {
        let mut parts = vec![(0, 0, rows, columns)];
        for (upright, at, which) in cuts {
            let (row, column, height, width) = parts[which.index(parts.len())];
            let which = parts.iter().position(|part| *part == (row, column, height, width)).unwrap();
            match upright {
                true if width > at => {
                    parts[which].3 = at;
                    parts.push((row, column + at, height, width - at));
                }
                false if height > at => {
                    parts[which].2 = at;
                    parts.push((row + at, column, height - at, width));
                }
                _ => {}
            }
        }
        let mut cells = vec![vec![String::new(); columns]; rows];
        for (at, (row, column, height, width)) in parts.iter().enumerate() {
            let name = if at == parts.len() / 2 { "main" } else { names[at % names.len()] };
            for line in &mut cells[*row..row + height] {
                line[*column..column + width].fill(name.to_string());
            }
        }
        cells.iter().map(|row| row.join(" ")).collect::<Vec<_>>().join(" / ")
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]
    #[test]
    fn whatever_is_sketched_is_clean_and_shows_each_part(text in sketch()) {
        let sketch = Sketch::parse(&text).unwrap();
        let mut all = MemoryFiles::new();
        for (path, text) in files("ferry", &sketch) {
            all.insert(format!("/t/ferry/{path}"), text);
        }
        let registry = Registry::new(Project::open(&all, "/t/ferry".into()).unwrap());
        let findings = rules::check(&registry).findings;
        prop_assert_eq!(findings.len(), 0, "{}: {:#?}", text, findings);
        let page = Stage::new(Arc::new(registry)).render("/").unwrap();
        prop_assert_eq!(&page.failures, &[]);
        for part in &sketch.parts {
            let open = format!("class=\"{}\"", part.name());
            let inside = page.html.split(&open).nth(1).and_then(|rest| rest.split("\n    </").next()).unwrap_or_default();
            prop_assert!(!inside.split_once('>').is_none_or(|(_, inside)| inside.trim().is_empty()), "{}: {} in {}", text, part.address, page.html);
        }
        prop_assert!(page.html.contains("aria-current=\"page\">Welcome</a>"), "{}", page.html);
    }
}
