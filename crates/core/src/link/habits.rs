//! Words that people are used to from elsewhere, and what is called so here: what a name most likely means that is no slip
//! of the pen. Never certain.

/// Keys of `page` and `site`.
const KEYS: [(&str, &str); 16] = [
    ("header", "heading"),
    ("headline", "heading"),
    ("name", "title"),
    ("content", "body"),
    ("text", "body"),
    ("url", "path"),
    ("link", "path"),
    ("permalink", "path"),
    ("slug", "path"),
    ("image", "lead"),
    ("thumbnail", "lead"),
    ("excerpt", "summary"),
    ("description", "motto"),
    ("tagline", "motto"),
    ("logo", "emblem"),
    ("lang", "language"),
];

/// Inputs of components.
const INPUTS: [(&str, &str); 12] = [
    ("src", "file"),
    ("path", "file"),
    ("image", "file"),
    ("url", "href"),
    ("link", "href"),
    ("to", "href"),
    ("label", "text"),
    ("title", "heading"),
    ("content", "text"),
    ("body", "text"),
    ("classes", "class"),
    ("items", "entries"),
];

/// Names of points of the host.
const POINTS: [(&str, &str); 10] = [
    ("image", "picture"),
    ("img", "picture"),
    ("nav", "menu"),
    ("navigation", "menu"),
    ("pagination", "pager"),
    ("search", "search-box"),
    ("content", "body"),
    ("sidebar", "aside"),
    ("head", "document-head"),
    ("foot", "document-end"),
];

/// What a key of `page` or `site` most likely means, as far as that is there.
pub fn key<'k>(written: &str, known: &[&'k str]) -> Option<&'k str> {
    among(&KEYS, written, known)
}

/// What an input most likely means, as far as the component has that.
pub fn input<'k>(written: &str, known: &[&'k str]) -> Option<&'k str> {
    among(&INPUTS, written, known)
}

/// What the name of a point most likely means.
pub fn point(written: &str) -> impl Iterator<Item = &'static str> {
    POINTS.into_iter().filter(move |(word, _)| *word == written).map(|(_, here)| here)
}

fn among<'k>(habits: &[(&str, &str)], written: &str, known: &[&'k str]) -> Option<&'k str> {
    let meant = habits.iter().filter(|(word, _)| *word == written).map(|(_, here)| *here);
    meant.filter_map(|here| known.iter().copied().find(|known| *known == here)).next()
}
