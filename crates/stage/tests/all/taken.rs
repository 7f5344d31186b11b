//! Themes made of plain pages: rendered, each page has the elements and the text that it had.

use std::collections::BTreeMap;
use std::path::Path;
use std::sync::Arc;

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};
use proptest::prelude::*;
use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::rules;
use truehook_core::start::pages::{Beside, Source, Taken, from_pages};
use truehook_stage::{Rendered, Stage};

/// A site's files, by their paths.
struct Site(BTreeMap<String, Vec<u8>>);

impl Beside for Site {
    fn read(&self, path: &str) -> Option<Vec<u8>> {
        self.0.get(path).cloned()
    }
}

impl Site {
    fn of(name: &str) -> Site {
        let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/sites").join(name);
        let mut files = BTreeMap::new();
        let mut open = vec![root.clone()];
        while let Some(folder) = open.pop() {
            for entry in std::fs::read_dir(folder).unwrap().flatten() {
                match entry.path() {
                    path if path.is_dir() => open.push(path),
                    path => {
                        let below = path.strip_prefix(&root).unwrap().to_str().unwrap().to_string();
                        files.insert(below, std::fs::read(path).unwrap());
                    }
                }
            }
        }
        Site(files)
    }

    fn pages(&self) -> Vec<Source> {
        let pages = self.0.iter().filter(|(path, _)| path.ends_with(".html") && *path != "frame.html");
        let text = |bytes: &[u8]| String::from_utf8(bytes.to_vec()).unwrap();
        pages.map(|(path, bytes)| Source { file: path.clone(), text: text(bytes) }).collect()
    }
}

/// Attributes that lead somewhere, which is elsewhere by now.
const ADDRESSES: [&str; 7] = ["href", "src", "srcset", "style", "background", "action", "poster"];
/// Elements that the host writes in its own way.
const LOADED: [&str; 6] = ["script", "link", "style", "meta", "title", "head"];

/// What a page holds: its elements with what they say of themselves, and its text.
fn held(html: &str) -> Vec<String> {
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    let mut found = Vec::new();
    let mut skipped: Option<String> = None;
    let mut said = String::new();
    for token in Tokenizer::new_with_emitter(html.trim_start_matches('\u{feff}'), emitter) {
        let Ok(token) = token;
        let utf8 = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
        match token {
            Token::StartTag(tag) => {
                let name = utf8(&tag.name);
                if ["script", "style", "title"].contains(&name.as_str()) {
                    skipped = Some(name.clone());
                }
                if LOADED.contains(&name.as_str()) {
                    continue;
                }
                let own = tag.attributes.iter().filter(|(key, _)| !ADDRESSES.contains(&utf8(key).as_str()));
                let own: Vec<String> =
                    own.map(|(key, value)| format!("{}={}", utf8(key), utf8(&value.value))).collect();
                let words = said.split_whitespace().collect::<Vec<_>>().join(" ");
                said.clear();
                found.push(words);
                found.push(format!("<{name} {}>", own.join(" ")));
            }
            Token::EndTag(tag) if skipped.as_deref() == Some(&utf8(&tag.name)) => skipped = None,
            Token::EndTag(tag) if !LOADED.contains(&utf8(&tag.name).as_str()) => {
                let words = said.split_whitespace().collect::<Vec<_>>().join(" ");
                found.push(words);
                said.clear();
                found.push(format!("</{}>", utf8(&tag.name)));
            }
            Token::String(text) if skipped.is_none() => said.push_str(&utf8(&text.value)),
            _ => {}
        }
    }
    found.push(said.split_whitespace().collect::<Vec<_>>().join(" "));
    found.retain(|part| !part.is_empty());
    found
}

/// The title of a page, as browsers show it.
fn title(html: &str) -> Option<String> {
    let start = html.to_ascii_lowercase().find("<title>")? + "<title>".len();
    let end = start + html[start..].to_ascii_lowercase().find("</title>")?;
    let words =
        html[start..end].replace("&amp;", "&").replace("&quot;", "\"").replace("&#x27;", "'").replace("&#39;", "'");
    Some(words.split_whitespace().collect::<Vec<_>>().join(" "))
}

fn open(taken: &Taken, name: &str) -> Arc<Registry> {
    let mut files = MemoryFiles::new();
    for (path, bytes) in &taken.files {
        files.insert(format!("/{name}/{path}"), bytes.clone());
    }
    Arc::new(Registry::new(Project::open(&files, format!("/{name}").as_str().into()).unwrap()))
}

fn path_of(file: &str) -> String {
    match file.strip_suffix("index.html") {
        Some(folder) => format!("/{folder}"),
        None => format!("/{file}"),
    }
}

/// Takes pages apart and renders them; each has to be what it was.
fn same(name: &str, pages: Vec<Source>, beside: &dyn Beside) -> Result<(Taken, Vec<Rendered>), String> {
    let before = pages.clone();
    let taken = from_pages(name, pages, beside).map_err(|error| error.to_string())?;
    let registry = open(&taken, name);
    let findings = rules::check(&registry).findings;
    if let Some(finding) = findings.iter().find(|finding| finding.level > rules::Level::Note) {
        return Err(format!("[{}] {}", finding.rule, finding.message));
    }
    let stage = Stage::new(registry);
    let mut all = Vec::new();
    for page in before {
        let rendered = stage.render(&path_of(&page.file)).ok_or_else(|| format!("{} is gone", page.file))?;
        let (was, is) = (held(&page.text), held(&rendered.html));
        if was != is {
            let at = was.iter().zip(&is).take_while(|(was, is)| was == is).count();
            let around = |all: &[String]| all[at.saturating_sub(2)..all.len().min(at + 4)].join(" ");
            return Err(format!("{}: was {} and is {}\n{}", page.file, around(&was), around(&is), rendered.html));
        }
        if title(&page.text) != title(&rendered.html) {
            return Err(format!("{}: the title {:?} is {:?}", page.file, title(&page.text), title(&rendered.html)));
        }
        all.push(rendered);
    }
    Ok((taken, all))
}

#[test]
fn whole_sites_become_themes_that_show_the_same_pages() {
    for (name, broken) in [("hut", 0), ("ferry-house", 1), ("corner", 1), ("field-notes", 0), ("odd", 2)] {
        let site = Site::of(name);
        let (taken, pages) = same(name, site.pages(), &site).unwrap_or_else(|why| panic!("{name}: {why}"));
        let failures: Vec<String> =
            pages.iter().flat_map(|page| &page.failures).map(|failure| failure.message.clone()).collect();
        assert!(failures.len() <= broken, "{name}: {failures:?}");
        // Every file that a page loads came along, as it was but for addresses from the root.
        for (path, bytes) in &taken.files {
            if let Some(file) = path.as_str().strip_prefix("media/")
                && let Some(was) = site.0.get(file)
            {
                assert!(bytes == was || file.ends_with(".css"), "{name}: {path}");
            }
        }
    }
}

fn manifest(name: &str) -> String {
    let site = Site::of(name);
    let taken = from_pages(name, site.pages(), &site).unwrap();
    let (_, bytes) = taken.files.iter().find(|(path, _)| path == "truehook.toml").unwrap();
    String::from_utf8(bytes.clone()).unwrap()
}

#[test]
fn scripts_need_what_they_use_and_what_extends_it() {
    let hut = manifest("hut");
    assert!(hut.contains("[script.bell]\nfile  = \"js/bell.js\"\ngives = [\"Bell\"]\n"), "{hut}");
    assert!(hut.contains("file  = \"js/bell.ring.js\"\nneeds = [\"script:bell\"]\n"), "{hut}");
    assert!(hut.contains("file  = \"hut-1.js\"\nneeds = [\"script:bell\", \"script:bell-ring\"]\n"), "{hut}");
    let notes = manifest("field-notes");
    // Only where they were: a gallery's style comes between those of all pages.
    let at = |word: &str| notes.find(word).unwrap_or_else(|| panic!("{word} in {notes}"));
    assert!(at("[style.reset]") < at("[style.gallery]") && at("[style.gallery]") < at("[style.field]"));
    assert!(notes.contains("when  = \"page.path in ['/places/p1.html', "), "{notes}");
    assert!(notes.contains("[type.poster]"), "{notes}");
    assert!(notes.contains("separator = \" – \""), "{notes}");
}

#[test]
fn whatever_is_done_to_pages_nothing_panics() {
    const BITS: [&str; 16] = [
        "<", ">", "\"", "'", "<!--", "-->", "</", "<main>", "</nav>", "<nav>", "<li>", "{{", "%}", "=", "<script>", "é",
    ];
    let (mut made, mut refused) = (0, Vec::new());
    for seed in 0..200u64 {
        let mut rng = fastrand::Rng::with_seed(seed);
        let site = Site::of(["hut", "ferry-house", "corner", "odd"][rng.usize(..4)]);
        let mut pages = site.pages();
        for _ in 0..1 + rng.usize(..4) {
            let number = rng.usize(..pages.len());
            let text = &mut pages[number].text;
            let places: Vec<usize> = text.char_indices().map(|(at, _)| at).chain([text.len()]).collect();
            let at = places[rng.usize(..places.len())];
            match rng.bool() {
                true => text.insert_str(at, BITS[rng.usize(..BITS.len())]),
                false => {
                    let end = places.iter().copied().find(|end| *end >= at + 9).unwrap_or(text.len());
                    text.replace_range(at..end, "");
                }
            }
        }
        match from_pages("mangled", pages, &site) {
            Ok(_) => made += 1,
            Err(error) => refused.push(format!("{seed}: {error}")),
        }
    }
    println!("{made} made, {} refused: {refused:#?}", refused.len());
    assert!(made > refused.len() * 10, "{refused:#?}");
}

#[test]
fn nothing_is_made_of_nothing() {
    let none = Site(BTreeMap::new());
    let source = |file: &str, text: &str| Source { file: file.into(), text: text.into() };
    assert!(from_pages("x", Vec::new(), &none).unwrap_err().to_string().contains("which pages"));
    assert!(from_pages("x", vec![source("a.html", " \n")], &none).unwrap_err().to_string().contains("a.html is empty"));
    let twice = vec![source("a/index.html", "x"), source("a/index.htm", "y")];
    assert!(from_pages("x", twice, &none).unwrap_err().to_string().contains("would be one page, /a/"));
}

/// Pieces that pages are made of, also such as nobody should write.
const PIECES: [&str; 26] = [
    "<p>one",
    "<p>two</p>",
    "<div>",
    "</div>",
    "<main>",
    "</main>",
    "<ul><li>a<li>b</ul>",
    "<h1>Title</h1>",
    "{{ x }}",
    "{% y %}",
    "<a href=\"b.html\">b</a>",
    "<a href=#x>x</a>",
    "<img src=i.png alt=i>",
    "<img src=\"none.png\">",
    "<!-- c -->",
    "<b><i>m</b></i>",
    "<nav><ul><li><a href=\"index.html\">A</a></li><li><a href=\"b.html\">B</a></li></ul></nav>",
    "<nav><ul><li class=on><a href=\"index.html\">A</a></li><li><a href=\"b.html\">B</a></li></ul></nav>",
    "<table><tr><td>t</table>",
    "<footer>f</footer>",
    "<script>var a = 1;</script>",
    "<script src=\"s.js\"></script>",
    "<style>p { color: red }</style>",
    "text &amp; more ",
    "<br>",
    "<textarea><p>t</textarea>",
];

fn page() -> impl Strategy<Value = String> {
    let body = proptest::collection::vec(proptest::sample::select(&PIECES[..]), 0..9);
    let head = proptest::sample::subsequence(
        vec![
            "<title>T | S</title>",
            "<link rel=stylesheet href=s.css>",
            "<meta name=description content=d>",
            "<script src=s.js></script>",
        ],
        0..=4,
    );
    (head, body, 0..4u8).prop_map(|(head, body, form)| {
        let (head, body) = (head.concat(), body.concat());
        match form {
            0 => format!("<!doctype html><html><head>{head}</head><body>{body}</body></html>"),
            1 => format!("<!doctype html>\n{head}\n<body class=b>\n{body}\n"),
            2 => format!("{head}{body} "),
            _ => format!("<html>\n<head>\n{head}\n</head>\n<body>\n<header><p>H</p></header>\n{body}\n<footer><p>F</p></footer>\n</body>\n</html>\n"),
        }
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, failure_persistence: None, ..ProptestConfig::default() })]
    #[test]
    fn whatever_pages_are_made_of_they_stay_what_they_are(pages in proptest::collection::vec(page(), 1..4)) {
        let files = [("i.png", "i"), ("s.css", "p { margin: 0 }\n"), ("s.js", "var s = 1;\n")];
        let site = Site(files.into_iter().map(|(path, text)| (path.to_string(), text.into())).collect());
        let names = ["index.html", "b.html", "c/d.html"];
        let sources: Vec<Source> = pages
            .iter()
            .zip(names)
            .map(|(text, file)| Source { file: file.into(), text: text.clone() })
            .collect();
        prop_assume!(sources.iter().all(|source| !source.text.trim().is_empty()));
        if let Err(why) = same("soup", sources, &site) {
            prop_assert!(false, "{why}\n{pages:#?}");
        }
    }
}
