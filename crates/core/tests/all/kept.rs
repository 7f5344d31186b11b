//! A theme that is checked again after an edit says what one says that is read from the beginning.

use camino::Utf8PathBuf;
use proptest::prelude::*;
use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::rules::{self, Finding};

const ROOT: &str = "/site/marsh";

fn theme() -> MemoryFiles {
    let mut files = MemoryFiles::new();
    let manifest = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\n\n[region.aside]\nlabel = \"Aside\"\n\n[feature.colours]\npalette.mud = { value = \"#463a30\" }\n\n[style.marsh]\nfile = \"marsh.css\"\n\n[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#start\"\n\n[feature.translations]\n";
    let layout = "<head>{{ place(\"hook:document-head\") }}</head><body>{{ place(\"hook:document-start\") }}{% block main %}<main>{{ place(\"region:main\") }}</main>{% endblock %}{{ \"Low water\" | t }}{{ place(\"region:aside\") }}{{ place(\"hook:document-end\") }}</body>\n";
    for (path, text) in [
        ("truehook.toml", manifest),
        ("markup/layout.html", layout),
        ("markup/page.html", "{% extends \"layout.html\" %}\n"),
        ("code/a.js", "export const start = ({ page }) => page.title;\n"),
        ("media/marsh.css", "body { color: var(--colour-mud); background: url(a.svg); }\n"),
        ("media/a.svg", "<svg/>"),
        ("words/de.po", "msgid \"\"\nmsgstr \"Language: de\\n\"\n\nmsgid \"Low water\"\nmsgstr \"Niedrigwasser\"\n"),
        ("preview/site.toml", "title = \"S\"\n"),
    ] {
        files.insert(format!("{ROOT}/{path}"), text);
    }
    files
}

fn open(files: &MemoryFiles) -> Project {
    Project::open(files, ROOT.into()).unwrap()
}

fn told(registry: &Registry) -> Vec<Finding> {
    rules::check(registry).findings
}

/// One edit: a file, and the text that comes in the place of another one.
const EDITS: [(&str, &str, &str); 9] = [
    ("markup/layout.html", "region:aside", "region:asied"),
    ("markup/page.html", "layout.html", "layuot.html"),
    ("code/a.js", "start", "begin"),
    ("code/a.js", "=> page", "=> ("),
    ("media/marsh.css", "colour-mud", "colour-mdu"),
    ("media/marsh.css", "a.svg", "b.svg"),
    ("words/de.po", "Low water", "High water"),
    ("preview/site.toml", "title", "titel"),
    ("truehook.toml", "[region.aside]", "[region.beside]"),
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(120))]

    #[test]
    fn kept_facts_say_what_facts_from_scratch_say(edits in prop::collection::vec(0..EDITS.len(), 1..8)) {
        let mut files = theme();
        let mut kept = Registry::new(open(&files));
        prop_assert!(told(&kept).is_empty(), "{:?}", told(&kept));
        for at in edits {
            let (path, one, other) = EDITS[at];
            let path = Utf8PathBuf::from(format!("{ROOT}/{path}"));
            let text = String::from_utf8(files.get(&path).unwrap().to_vec()).unwrap();
            // Done a second time, an edit is taken back.
            let new = if text.contains(one) { text.replacen(one, other, 1) } else { text.replacen(other, one, 1) };
            files.insert(path.clone(), new);
            kept = match kept.edited(&files, &[path]) {
                Ok(registry) => registry,
                Err(known) => Registry::again(*known, open(&files)),
            };
            let anew = Registry::new(open(&files));
            prop_assert_eq!(told(&kept), told(&anew));
        }
    }
}

#[test]
fn new_and_missing_files_are_seen() {
    let mut files = theme();
    let kept = Registry::new(open(&files));
    files.insert(format!("{ROOT}/markup/new.html"), "{{ nobody }}\n");
    files.remove(format!("{ROOT}/media/a.svg").as_str().into());
    let kept = kept.edited(&files, &[format!("{ROOT}/markup/new.html").into()]).err().expect("a new file");
    let again = Registry::again(*kept, open(&files));
    let anew = told(&Registry::new(open(&files)));
    assert_eq!(told(&again), anew);
    assert!(anew.iter().any(|finding| finding.rule == "broken-address"));
    assert!(anew.iter().any(|finding| finding.rule == "unreached-template"));
}
