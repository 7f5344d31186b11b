//! Any bytes as an expression of which a callback returns the value.

use std::sync::Arc;

use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_stage::Stage;

const MANIFEST: &str = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\n
[hook.one]\nlabel = \"One\"\n
[partial.note]\ninputs.text = { type = \"string\", default = \"\" }\n
[[attach]]\nto = \"hook:one\"\ncall = \"a.js#shown\"\n
[[attach]]\nto = \"partial:note\"\ncall = \"a.js#prepared\"\n
[[attach]]\nto = \"hook:one\"\ncall = \"b.js#innocent\"\n";

/// The page is rendered, and whoever is innocent runs.
pub fn returned(bytes: &[u8]) {
    let Ok(text) = std::str::from_utf8(bytes) else { return };
    let module = format!(
        "import {{ html, place, through, t, asset }} from \"truehook\";\nfunction it(page, site, args) {{ return (\n{text}\n); }}\n\
         export function shown({{ page, site, args }}) {{ return it(page, site, args); }}\n\
         export function prepared(inputs, {{ page, site }}) {{ return it(page, site, inputs); }}\n"
    );
    let layout = "<head>{{ place(\"hook:document-head\") }}</head>{% block main %}<main>{{ place(\"region:main\") }}\
                  {{ place(\"hook:one\") }}{{ place(\"partial:note\") }}</main>{% endblock %}{{ place(\"hook:document-end\") }}";
    let mut files = MemoryFiles::new();
    for (path, text) in [
        ("truehook.toml", MANIFEST),
        ("markup/layout.html", layout),
        ("markup/page.html", "{% extends \"layout.html\" %}"),
        ("markup/partials/note.html", "<p>{{ text }}</p>"),
        ("code/a.js", &module),
        ("code/b.js", "export function innocent() { return \"all is well\"; }"),
    ] {
        files.insert(format!("/t/marsh/{path}"), text);
    }
    let project = Project::open(&files, "/t/marsh".into()).expect("the theme is there");
    let stage = Stage::new(Arc::new(Registry::new(project)));
    let page = stage.render("/").expect("the page is there");
    assert!(page.html.contains("all is well"), "{}", page.html);
}
