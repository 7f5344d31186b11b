//! Selectors against a tree that the test builds: how many elements fit, and which.

use proptest::prelude::*;
use truehook_core::edit::template::{self, Placement};
use truehook_core::edit::{Position, Selector};
use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};

/// An element of the test's own tree.
#[derive(Clone, Debug)]
struct Node {
    tag: &'static str,
    id: Option<&'static str>,
    classes: Vec<&'static str>,
    inside: Vec<Node>,
}

/// Where an element's start tag stands, and what it and all around it are.
struct Found<'n> {
    start: usize,
    way: Vec<&'n Node>,
}

const TAGS: [&str; 4] = ["div", "section", "p", "br"];
const IDS: [&str; 2] = ["top", "end"];
const CLASSES: [&str; 3] = ["wide", "note", "tide-line"];

impl Node {
    fn write<'n>(&'n self, way: &[&'n Node], html: &mut String, found: &mut Vec<Found<'n>>) {
        let way: Vec<&Node> = way.iter().copied().chain([self]).collect();
        found.push(Found { start: html.len(), way: way.clone() });
        html.push_str(&format!("<{}", self.tag));
        if let Some(id) = self.id {
            html.push_str(&format!(" id=\"{id}\""));
        }
        if !self.classes.is_empty() {
            html.push_str(&format!(" class='{}'", self.classes.join("  ")));
        }
        html.push('>');
        if self.tag == "br" {
            return;
        }
        html.push_str("text {{ page.title }}<!-- <div class=wide> -->");
        for node in &self.inside {
            node.write(&way, html, found);
        }
        html.push_str(&format!("</{}>", self.tag));
    }

    fn fits(&self, step: &Step) -> bool {
        step.tag.is_none_or(|tag| tag == self.tag)
            && step.id.is_none_or(|id| self.id == Some(id))
            && step.classes.iter().all(|class| self.classes.contains(class))
    }
}

/// One step of a selector.
#[derive(Clone, Debug)]
struct Step {
    /// Has it to be right inside of the step before it?
    child: bool,
    tag: Option<&'static str>,
    id: Option<&'static str>,
    classes: Vec<&'static str>,
}

impl Step {
    fn written(&self) -> String {
        let id = self.id.map(|id| format!("#{id}")).unwrap_or_default();
        let classes: String = self.classes.iter().map(|class| format!(".{class}")).collect();
        format!("{}{id}{classes}", self.tag.unwrap_or_default())
    }
}

/// Is there an element for each step on the way, in their order, with the last for the last?
fn fits(way: &[&Node], steps: &[Step]) -> bool {
    match (way.split_last(), steps.split_last()) {
        (Some((node, above)), Some((step, rest))) => {
            let first = if step.child { above.len().saturating_sub(1) } else { 0 };
            node.fits(step) && (rest.is_empty() || (first..above.len()).any(|end| fits(&above[..=end], rest)))
        }
        _ => false,
    }
}

fn node() -> impl Strategy<Value = Node> {
    let one = (
        prop::sample::select(&TAGS[..]),
        prop::option::weighted(0.3, prop::sample::select(&IDS[..])),
        prop::sample::subsequence(&CLASSES[..], 0..=2),
    );
    let leaf = one.clone().prop_map(|(tag, id, classes)| Node { tag, id, classes, inside: Vec::new() });
    leaf.prop_recursive(4, 14, 3, move |inner| {
        (one.clone(), prop::collection::vec(inner, 0..3)).prop_map(|((tag, id, classes), inside)| Node {
            tag,
            id,
            classes,
            inside,
        })
    })
}

fn steps() -> impl Strategy<Value = Vec<Step>> {
    let step = (
        any::<bool>(),
        prop::option::of(prop::sample::select(&TAGS[..])),
        prop::option::weighted(0.2, prop::sample::select(&IDS[..])),
        prop::sample::subsequence(&CLASSES[..], 0..=1),
    );
    let step = step.prop_map(|(child, tag, id, classes)| Step { child, tag, id, classes });
    let step = step.prop_filter("says nothing", |step| !step.written().is_empty());
    prop::collection::vec(step, 1..4)
}

fn open(markup: &str) -> Registry {
    let mut files = MemoryFiles::new();
    files.insert("/t/marsh/truehook.toml", "[theme]\nname = \"marsh\"\n");
    files.insert("/t/marsh/markup/page.html", markup);
    Registry::new(Project::open(&files, "/t/marsh".into()).unwrap())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_selector_finds_what_it_says(nodes in prop::collection::vec(node(), 1..4), steps in steps()) {
        let (mut html, mut all) = (String::from("x"), Vec::new());
        for node in &nodes {
            node.write(&[], &mut html, &mut all);
        }
        let mut written = steps[0].written();
        for step in &steps[1..] {
            written += if step.child { " > " } else { " " };
            written += &step.written();
        }
        let wanted: Vec<usize> = all.iter().filter(|found| fits(&found.way, &steps)).map(|found| found.start).collect();
        let registry = open(&html);
        let file = template::own_template(&registry, "page.html").unwrap();
        let selector: Selector = written.parse().unwrap();
        let calls = vec!["{{ place(\"hook:here\") }}".to_string()];
        let at = Some((Position::Before, selector));
        let told = template::place(&registry, &Placement { file, calls, points: Vec::new(), at, block: None, guard: false });
        match (wanted.as_slice(), told) {
            ([start], Ok(edits)) => prop_assert_eq!(edits[0].span.start as usize, *start, "{} in {}", written, html),
            ([], Err(why)) => prop_assert!(why.0.starts_with("nothing in markup/page.html fits"), "{}", why),
            (many, Err(why)) => {
                let told = format!("`{written}` fits {} elements in markup/page.html", many.len());
                prop_assert!(why.0.starts_with(&told), "{} in {}", why, html);
            }
            (wanted, told) => prop_assert!(false, "{written} in {html}: {wanted:?} and {told:?}"),
        }
    }

    #[test]
    fn whatever_is_written_is_a_selector_or_none(text in "[a-c#. >:é\\[\\]*]{0,12}") {
        let parsed = text.parse::<Selector>();
        // What an element does, and what stands beside it, no file tells.
        prop_assert!(parsed.is_err() || !text.contains(':') && !text.trim().is_empty(), "{text}");
        let plain = text.chars().all(|c| c.is_ascii_alphabetic() || c == ' ') && !text.trim().is_empty();
        prop_assert!(!plain || text.parse::<Selector>().is_ok(), "{text}");
    }
}
