//! Every key that the scanner knows is explained. The scanner itself says what it knows: a key that no
//! table has is answered with all that are known there.

use truehook_core::address::Kind;
use truehook_core::catalogue::KEYS;
use truehook_core::scan::FlawKind;

use super::facts;

/// No key is anywhere near this.
const STRANGE: &str = "qqqqqqqqqqqqqqqq";

/// Every table of every file, with a strange key in it.
const TABLES: [(&str, &str); 31] = [
    ("truehook.toml", "[theme]\nname = \"marsh\"\nKEY"),
    ("truehook.toml", "[theme]\nname = \"marsh\"\nbase = { path = \"../a\", KEY }"),
    ("truehook.toml", "[theme]\nname = \"marsh\"\nhost = { contract = \"../a\", KEY }"),
    ("truehook.toml", "[theme]\nname = \"marsh\"\ncompanions = [{ path = \"../a\", KEY }]"),
    ("truehook.toml", "KEY\n[theme]\nname = \"marsh\"\n"),
    ("truehook.toml", "[companion]\nname = \"marsh\"\nKEY"),
    ("truehook.toml", "[host]\nname = \"marsh\"\nKEY"),
    ("truehook.toml", "KEY\n[host]\nname = \"marsh\"\n"),
    ("truehook.toml", "[host]\nname = \"marsh\"\n[limits]\nKEY"),
    ("truehook.toml", "[host]\nname = \"marsh\"\n[type.entry]\nlabel = \"E\"\nKEY"),
    ("truehook.toml", "[[attach]]\nto = \"hook:a\"\ncall = \"a.js#f\"\nKEY"),
    ("truehook.toml", "[[detach]]\nfrom = \"hook:a\"\ncall = \"a.js#f\"\nKEY"),
    ("truehook.toml", "[[replace]]\ncall = \"a.js#f\"\nwith = \"a.js#g\"\nKEY"),
    ("truehook.toml", "[adopted.\"page.html\"]\nfrom = \"a\"\nprint = \"0\"\nKEY"),
    ("truehook.toml", "[check]\nKEY"),
    ("truehook.toml", "[[check.ignore]]\nbecause = \"it is\"\nKEY"),
    ("truehook.toml", "[hook.a]\nabout = \"A\"\nKEY"),
    ("truehook.toml", "[filter.a]\nabout = \"A\"\nKEY"),
    ("truehook.toml", "[region.a]\nlabel = \"A\"\nKEY"),
    ("truehook.toml", "[area.a]\nlabel = \"A\"\nKEY"),
    ("truehook.toml", "[menu.a]\nlabel = \"A\"\nKEY"),
    ("truehook.toml", "[partial.a]\nKEY"),
    ("truehook.toml", "[section.a]\nlabel = \"A\"\nKEY"),
    ("truehook.toml", "[piece.a]\nlabel = \"A\"\nKEY"),
    ("truehook.toml", "[template.a]\nKEY"),
    ("truehook.toml", "[style.a]\nfile = \"a.css\"\nKEY"),
    ("truehook.toml", "[script.a]\nfile = \"a.js\"\nKEY"),
    ("truehook.toml", "[bundle.a]\nKEY"),
    ("truehook.toml", "[hook.a]\nabout = \"A\"\nargs.x = { KEY }"),
    ("truehook.toml", "[section.a]\nlabel = \"A\"\noffer = [{ label = \"A\", KEY }]"),
    ("preview/site.toml", "menus.main = [{ label = \"A\", KEY }]"),
];

#[test]
fn every_key_that_is_known_is_explained() {
    let (mut seen, mut missing) = (0, Vec::new());
    for (path, text) in TABLES {
        let text = text.replace("KEY", &format!("{STRANGE} = 1"));
        let named = text.contains("[theme]") || text.contains("[companion]") || text.contains("[host]");
        let text = match path == "truehook.toml" && !named {
            true => format!("[theme]\nname = \"marsh\"\n\n{text}"),
            false => text,
        };
        let facts = facts(path, &text);
        let told = facts.flaws.iter().find(|flaw| flaw.kind == FlawKind::UnknownKey && flaw.message.contains(STRANGE));
        let told = told.unwrap_or_else(|| panic!("no answer to\n{text}\n{:?}", facts.flaws));
        let known = told.label.strip_prefix("known here: ").unwrap_or_else(|| panic!("{}", told.label));
        for key in known.split(", ") {
            seen += 1;
            // Tables of points are explained as kinds.
            if KEYS.iter().all(|about| about.name != key) && Kind::from_word(key).is_none() {
                missing.push((key.to_string(), text.clone()));
            }
        }
    }
    assert!(missing.is_empty(), "not explained: {missing:#?}");
    assert!(seen > 200, "{seen}");
}

#[test]
fn what_is_explained_says_where_and_what() {
    for key in KEYS {
        assert!(!key.of.is_empty() && key.about.ends_with('.'), "{}: {}", key.name, key.about);
        let twice = KEYS.iter().filter(|other| other.name == key.name && other.of == key.of).count();
        assert_eq!(twice, 1, "{}", key.name);
    }
}
