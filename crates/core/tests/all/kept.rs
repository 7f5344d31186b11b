//! A theme that is checked again after an edit says what one says that is read from the beginning.

use std::fmt::Debug;

use camino::{Utf8Path, Utf8PathBuf};
use proptest::prelude::*;
use proptest::sample::Index;
use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::rules::{self, Finding};

const ROOT: &str = "/site/marsh";

fn theme() -> MemoryFiles {
    let mut files = MemoryFiles::new();
    let manifest = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\n\n[region.aside]\nlabel = \"Aside\"\n\n[feature.colours]\npalette.mud = { value = \"#463a30\" }\n\n[style.marsh]\nfile = \"marsh.css\"\n\n[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#start\"\n\n[feature.translations]\n\n[partial.tide]\nlabel = \"Tide\"\ninputs.height = { type = \"integer\" }\n\n[option.unit]\nlabel = \"Unit\"\ntype = \"string\"\nenum = [\"m\", \"ft\"]\ndefault = \"m\"\n\n[type.list]\nlabel = \"A list\"\n";
    let layout = "<head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head><body>{{ place(\"hook:document-start\") }}{% block main %}<main>{{ place(\"region:main\") }}</main>{% endblock %}{{ \"Low water\" | t }}{{ place(\"region:aside\") }}{{ place(\"hook:document-end\") }}</body>\n";
    for (path, text) in [
        ("truehook.toml", manifest),
        ("markup/layout.html", layout),
        ("markup/page.html", "{% extends \"layout.html\" %}\n"),
        (
            "markup/list.html",
            "{% extends \"layout.html\" %}\n{% block main %}{{ super() }}{% include \"row.html\" %}{{ place(\"partial:tide\", height=3) }}{% endblock %}\n",
        ),
        (
            "markup/row.html",
            "{% from \"dots.html\" import dot %}{% set mark = page.title %}<p>{{ dot() }}{{ mark }}</p>\n",
        ),
        ("markup/dots.html", "{% macro dot() %}<i>{{ asset(\"media/a.svg\") }}</i>{% endmacro %}\n"),
        (
            "markup/partials/tide.html",
            "<b>{{ height }} {{ options.unit }}</b>{% if enabled(\"feature:colours\") %}!{% endif %}\n",
        ),
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
const EDITS: [(&str, &str, &str); 30] = [
    // What changes no name.
    ("markup/layout.html", "<main>", "<main class=\"wide\">"),
    ("markup/list.html", "{% block", "{# truehook: ignore unknown-variable because it is given #}{% block"),
    ("code/a.js", "({ page })", "( { page } )"),
    // What no other template sees.
    ("markup/layout.html", "region:main", "region:mian"),
    ("markup/layout.html", "Low water", "High water"),
    ("markup/list.html", "height=3", "heigth=3"),
    ("markup/list.html", "{{ place(\"partial:tide\"", "{{ nobody }}{{ place(\"partial:tide\""),
    ("markup/partials/tide.html", "height", "heihgt"),
    ("markup/partials/tide.html", "options.unit", "options.untis"),
    ("markup/partials/tide.html", "feature:colours", "feature:colors"),
    ("markup/partials/tide.html", "</b>", "</b>{{ place(\"partial:tide\", height=1) }}"),
    ("markup/partials/tide.html", "</b>", "</b><script>tideClock(1)</script>"),
    ("markup/dots.html", "media/a.svg", "media/b.svg"),
    // What others see.
    ("markup/list.html", "block main", "block mian"),
    ("markup/list.html", "row.html", "rows.html"),
    ("markup/row.html", "import dot", "import dots"),
    ("markup/row.html", "set mark", "set marks"),
    ("markup/dots.html", "macro dot", "macro spot"),
    ("markup/layout.html", "block main", "block middle"),
    // What templates read.
    ("truehook.toml", "inputs.height", "inputs.depth"),
    ("truehook.toml", "[option.unit]", "[option.units]"),
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
            agree(&kept, &anew)?;
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

/// The demo, in memory.
fn demo() -> MemoryFiles {
    let root = Utf8Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo"));
    let mut files = MemoryFiles::new();
    let mut open = vec![root.to_path_buf()];
    while let Some(folder) = open.pop() {
        for entry in folder.read_dir_utf8().unwrap().map(Result::unwrap) {
            match entry.file_type().unwrap().is_dir() {
                true => open.push(entry.path().to_path_buf()),
                false => files.insert(
                    Utf8Path::new("/demo").join(entry.path().strip_prefix(root).unwrap()),
                    std::fs::read(entry.path()).unwrap(),
                ),
            }
        }
    }
    files
}

/// One step of somebody who edits: what is done, to which file, and at which two places in it.
type Step = (u8, Index, Index, Index);

/// What a text is after a step: names changed and moved, lines doubled, cut, emptied and pasted, and things left
/// half-typed.
fn typed(text: &str, what: u8, one: Index, other: Index) -> String {
    let lines: Vec<&str> = text.split_inclusive('\n').collect();
    let words: Vec<&str> = text.split(|c: char| !c.is_alphanumeric() && c != '-' && c != '_').collect();
    let words: Vec<&str> = words.into_iter().filter(|word| word.len() > 2).collect();
    if lines.is_empty() || words.is_empty() {
        return format!("{text}\n");
    }
    let (line, word, with) = (one.index(lines.len()), *one.get(&words), *other.get(&words));
    let without = |from: usize, to: usize| lines[..from].concat() + &lines[to..].concat();
    match what {
        0 => text.replacen(word, with, 1),
        1 => text.replace(word, with),
        2 => text.replacen(word, &word[..word.char_indices().next_back().map_or(0, |(at, _)| at)], 1),
        3 => lines[..line].concat() + "\n" + &lines[line..].concat(),
        4 => without(line, line + 1),
        5 => lines[..line].concat() + lines[other.index(lines.len())] + &lines[line..].concat(),
        6 => {
            let cut = one.index(text.len() + 1);
            let cut = (0..=cut).rev().find(|at| text.is_char_boundary(*at)).unwrap_or(0);
            text[..cut].to_string()
        }
        _ => text.replacen(word, &format!("{word}\u{e9}"), 1),
    }
}

/// All that two registries say must be the same.
fn agree(kept: &Registry, anew: &Registry) -> Result<(), TestCaseError> {
    fn same<T: PartialEq + Debug>(what: &str, one: T, other: T) -> Result<(), TestCaseError> {
        prop_assert!(one == other, "{what}: {one:?}\nfrom scratch: {other:?}");
        Ok(())
    }
    same("findings", told(kept), told(anew))?;
    same("references", kept.references(), anew.references())?;
    same("absences", kept.absences(), anew.absences())?;
    same("misses", kept.misses(), anew.misses())?;
    let points = |registry: &Registry| {
        let tied = registry.points().map(|point| {
            let slots: Vec<_> = point.slots.iter().map(|slot| slot.place).collect();
            (point.address, slots, point.uses.clone(), point.items.clone(), point.reached, point.renderer)
        });
        tied.collect::<Vec<_>>()
    };
    same("points", points(kept), points(anew))?;
    let files = kept.project().file_ids();
    let texts = |registry: &Registry, file| (registry.facts(file).spans.clone(), registry.template_types(file));
    files.into_iter().try_for_each(|file| same("a file", texts(kept, file), texts(anew, file)))
}

fn sessions() -> ProptestConfig {
    let wanted = std::env::var("TRUEHOOK_SESSIONS").ok().and_then(|wanted| wanted.parse().ok());
    ProptestConfig::with_cases(wanted.unwrap_or(12))
}

proptest! {
    #![proptest_config(sessions())]

    #[test]
    fn a_long_session_of_edits_is_followed_to_its_end(
        steps in prop::collection::vec((0..12u8, any::<Index>(), any::<Index>(), any::<Index>()), 1..24)
    ) {
        const TOP: &str = "/demo/saltmarsh";
        let mut files = demo();
        let open = |files: &MemoryFiles| Project::open(files, TOP.into());
        let mut kept = Registry::new(open(&files).unwrap());
        let mut undo: Vec<(Utf8PathBuf, Option<Vec<u8>>)> = Vec::new();
        for (what, file, one, other) in steps {
            let step: Step = (what, file, one, other);
            let all: Vec<Utf8PathBuf> = files.iter().map(|(path, _)| path.to_path_buf()).collect();
            let path = step.1.get(&all).clone();
            let before = files.get(&path).map(<[u8]>::to_vec);
            let mut changed = vec![path.clone()];
            match step.0 {
                // Taken back, renamed, removed.
                8 | 9 => {
                    let Some((path, text)) = undo.pop() else { continue };
                    match text {
                        Some(text) => files.insert(path.clone(), text),
                        None => files.remove(&path),
                    }
                    changed = vec![path];
                }
                10 => {
                    let to = path.with_file_name(format!("new-{}", path.file_name().unwrap()));
                    undo.extend([(path.clone(), before.clone()), (to.clone(), None)]);
                    files.insert(to.clone(), before.unwrap());
                    files.remove(&path);
                    changed.push(to);
                }
                11 => {
                    undo.push((path.clone(), before));
                    files.remove(&path);
                }
                what => {
                    let Ok(text) = String::from_utf8(before.clone().unwrap()) else { continue };
                    undo.push((path.clone(), before));
                    files.insert(path, typed(&text, what, step.2, step.3));
                }
            }
            let Ok(project) = open(&files) else {
                // Without a manifest there is no theme; the next step may bring it back.
                let Some((path, Some(text))) = undo.pop() else { break };
                files.insert(path, text);
                continue;
            };
            kept = match kept.edited(&files, &changed) {
                Ok(registry) => registry,
                Err(known) => Registry::again(*known, open(&files).unwrap()),
            };
            agree(&kept, &Registry::new(project))?;
        }
    }
}
