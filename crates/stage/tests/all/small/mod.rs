//! A small theme in memory, for tests of what the stage does.

use std::sync::Arc;

use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_stage::{Rendered, Stage};

const MANIFEST: &str = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\n";
const LAYOUT: &str = "<head>{{ place(\"hook:document-head\") }}</head>{% block main %}<main>{{ place(\"region:main\") }}</main>{% endblock %}{{ place(\"hook:document-end\") }}";

/// A theme with a layout that shows all required points. A manifest without a `[theme]` table comes
/// after the usual one; paths that begin with `../` lie beside the theme.
pub fn theme(more: &[(&str, &str)]) -> MemoryFiles {
    let mut files = MemoryFiles::new();
    let usual = [
        ("truehook.toml", MANIFEST),
        ("markup/layout.html", LAYOUT),
        ("markup/page.html", "{% extends \"layout.html\" %}"),
    ];
    for (path, text) in usual.iter().chain(more) {
        let place = match path.strip_prefix("../") {
            Some(beside) => format!("/t/{beside}"),
            None => format!("/t/marsh/{path}"),
        };
        match *path == "truehook.toml" && !text.contains("[theme]") {
            true => files.insert(place, format!("{MANIFEST}\n{text}")),
            false => files.insert(place, *text),
        }
    }
    files
}

pub fn stage(files: &MemoryFiles) -> Stage {
    Stage::new(Arc::new(registry(files)))
}

pub fn registry(files: &MemoryFiles) -> Registry {
    Registry::new(Project::open(files, "/t/marsh".into()).unwrap())
}

pub fn render(more: &[(&str, &str)], path: &str) -> Rendered {
    stage(&theme(more)).render(path).unwrap()
}

/// The main block of the front page with this in it.
pub fn front(text: &str) -> String {
    format!("{{% extends \"layout.html\" %}}{{% block main %}}{text}{{% endblock %}}")
}

/// What the front page shows between `[` and `]`, where nothing fails.
#[track_caller]
pub fn shown(more: &[(&str, &str)]) -> String {
    let rendered = render(more, "/");
    assert_eq!(rendered.failures, [], "{}", rendered.html);
    between(&rendered.html)
}

#[track_caller]
pub fn between(html: &str) -> String {
    let start = html.find('[').unwrap_or_else(|| panic!("no [ in {html}"));
    let end = html.rfind(']').unwrap_or_else(|| panic!("no ] in {html}"));
    html[start + 1..end].to_string()
}

/// The messages of all that failed on the front page, and what it shows between `[` and `]`.
pub fn failing(more: &[(&str, &str)]) -> (Vec<String>, String) {
    let rendered = render(more, "/");
    (rendered.failures.iter().map(|failure| failure.message.clone()).collect(), between(&rendered.html))
}
