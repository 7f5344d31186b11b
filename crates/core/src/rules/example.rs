//! Examples: small themes that show a rule, one wrong and one right. They run as tests, and they are
//! what people read.

use crate::link::Registry;
use crate::read::{MemoryFiles, OpenError, Project};

/// Files of a small theme, by path. What is not given is as in [`MANIFEST`], [`LAYOUT`] and
/// [`PAGE`]. A `truehook.toml` without a `[theme]` table comes after the usual one. Paths that begin
/// with `../` lie beside the theme. A file without a text is not there.
#[derive(Clone, Copy, Debug)]
pub struct Example(pub &'static [(&'static str, &'static str)]);

/// Who the theme of an example is.
pub const MANIFEST: &str = "[theme]\nname = \"example\"\nlabel = \"Example\"\nversion = \"1.0.0\"\n";

/// A layout with all that a page needs.
pub const LAYOUT: &str = r#"<!doctype html>
<html lang="en">
<head><title>{{ page.title }}</title>{{ place("hook:document-head") }}</head>
<body>
{% block main %}<main>{{ place("region:main") }}</main>{% endblock %}
{{ place("hook:document-end") }}
</body>
</html>
"#;

/// A page with that layout.
pub const PAGE: &str = "{% extends \"layout.html\" %}\n";

impl Example {
    /// The example's files in memory; the theme lies in `/site/example`.
    pub fn files(&self) -> MemoryFiles {
        files_of(self.0.iter())
    }

    /// The example's theme, linked.
    ///
    /// # Errors
    /// Where the example has no manifest.
    pub fn registry(&self) -> Result<Registry, OpenError> {
        Ok(Registry::new(Project::open(&self.files(), "/site/example".into())?))
    }

    /// This theme's files, with those of another example in their place.
    pub fn changed(&self, by: Example) -> MemoryFiles {
        let kept = self.0.iter().filter(|(path, _)| !by.0.iter().any(|(other, _)| other == path));
        files_of(kept.chain(by.0))
    }
}

fn files_of<'e>(given: impl Iterator<Item = &'e (&'static str, &'static str)>) -> MemoryFiles {
    let mut files = MemoryFiles::new();
    let place = |path: &str| match path.strip_prefix("../") {
        Some(beside) => format!("/site/{beside}"),
        None => format!("/site/example/{path}"),
    };
    for (path, text) in [("truehook.toml", MANIFEST), ("markup/layout.html", LAYOUT), ("markup/page.html", PAGE)] {
        files.insert(place(path), text);
    }
    for (path, text) in given {
        match (*path, text.is_empty()) {
            (path, true) => files.remove(place(path).as_str().into()),
            ("truehook.toml", false) if !text.contains("[theme]") => {
                files.insert(place(path), format!("{MANIFEST}\n{text}"));
            }
            (path, false) => files.insert(place(path), *text),
        }
    }
    files
}
