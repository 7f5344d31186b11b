//! Maps: each point is where it stands in the document.

use std::sync::Arc;

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};
use truehook_core::address::{Address, Kind};
use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_stage::map::{self, Node, State, What};
use truehook_stage::{Manner, Origin, Stage};

use crate::demo::demo;

fn open(files: &MemoryFiles) -> Arc<Registry> {
    Arc::new(Registry::new(Project::open(files, "/demo/saltmarsh".into()).unwrap()))
}

/// All nodes, each with the names of the elements around it, the outermost first.
fn all<'n>(node: &'n Node, around: &[String], found: &mut Vec<(&'n Node, Vec<String>)>) {
    found.push((node, around.to_vec()));
    let mut around = around.to_vec();
    if node.what == What::Element {
        around.push(node.name.clone());
    }
    node.children.iter().for_each(|child| all(child, &around, found));
}

/// The elements around a text of a page, of those that divide it: worked out from the page alone.
fn around(html: &str, mark: &str) -> Vec<String> {
    let dividing = ["head", "body", "header", "nav", "main", "aside", "footer", "article", "section", "form", "dialog"];
    let at = html.find(mark).unwrap_or_else(|| panic!("{mark} is not on the page"));
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    let mut open: Vec<String> = Vec::new();
    for token in Tokenizer::new_with_emitter(html, emitter) {
        let Ok(token) = token;
        match token {
            Token::StartTag(tag) if tag.span.start < at => {
                let name = String::from_utf8_lossy(&tag.name).into_owned();
                open.extend(dividing.contains(&name.as_str()).then_some(name));
            }
            Token::EndTag(tag) if tag.span.start < at => {
                let name = String::from_utf8_lossy(&tag.name).into_owned();
                if open.last() == Some(&name) {
                    open.pop();
                }
            }
            _ => {}
        }
    }
    open
}

#[test]
fn every_hook_is_in_the_elements_in_which_a_mark_in_it_comes_out() {
    let files = demo();
    let registry = open(&files);
    let hooks: Vec<Address> = registry
        .points()
        .filter(|point| point.address.kind == Kind::Hook && !point.moment && point.dropped.is_none())
        .map(|point| point.address)
        .collect();
    let mut marked = files.clone();
    let manifest = String::from_utf8(files.get("/demo/saltmarsh/truehook.toml".into()).unwrap().to_vec()).unwrap();
    let mut tables = manifest;
    let mut code = String::from("import { html } from \"truehook\";\n");
    for (at, hook) in hooks.iter().enumerate() {
        tables.push_str(&format!("\n[[attach]]\nto = \"{hook}\"\ncall = \"marks.js#mark{at}\"\npriority = 100\n"));
        code.push_str(&format!("export function mark{at}() {{ return html`<!--MARK-{at}-->`; }}\n"));
    }
    marked.insert("/demo/saltmarsh/truehook.toml", tables);
    marked.insert("/demo/saltmarsh/code/marks.js", code);
    let registry = open(&marked);
    let stage = Stage::new(registry.clone());
    let mut seen = 0;
    for page in stage.pages() {
        let rendered = stage.rendered(&page.path, Manner::watched()).unwrap();
        let root = map::map(&registry, &rendered);
        let mut nodes = Vec::new();
        all(&root, &[], &mut nodes);
        for (at, hook) in hooks.iter().enumerate() {
            let mark = format!("<!--MARK-{at}-->");
            let mapped: Vec<_> = nodes.iter().filter(|(node, _)| node.name == hook.to_string()).collect();
            assert_eq!(mapped.is_empty(), !rendered.html.contains(&mark), "{} {hook}", page.path);
            if let Some((node, elements)) = mapped.first() {
                assert_eq!(*elements, around(&rendered.html, &mark), "{} {hook}", page.path);
                assert_eq!(node.state, State::Shows, "{} {hook}", page.path);
                seen += 1;
            }
        }
    }
    assert!(seen > 30, "only {seen}");
}

#[test]
fn every_point_of_a_page_is_on_its_map_in_the_order_of_the_document() {
    let registry = open(&demo());
    let stage = Stage::new(registry.clone());
    for page in stage.pages() {
        let rendered = stage.rendered(&page.path, Manner::watched()).unwrap();
        let root = map::map(&registry, &rendered);
        let mut nodes = Vec::new();
        all(&root, &[], &mut nodes);
        let filter = |name: &str| name.starts_with("filter:") || name == "sections";
        let mapped: Vec<String> = nodes
            .iter()
            .filter(|(node, _)| node.name.contains(':') && !node.name.contains('#') && node.what != What::Template)
            .map(|(node, _)| node.name.clone())
            .filter(|name| !filter(name))
            .collect();
        let mut wanted: Vec<String> = rendered
            .tree
            .segments
            .iter()
            .filter_map(|segment| match segment.origin {
                Origin::Point(point) => Some(point.to_string()),
                _ => None,
            })
            .collect();
        let mut sorted = mapped.clone();
        sorted.sort();
        wanted.sort();
        assert_eq!(sorted, wanted, "{}", page.path);
        // An item is where somebody filled it in.
        for (node, _) in nodes.iter().filter(|(node, _)| node.what == What::Item) {
            let Some(place) = &node.place else { continue };
            let layer = registry.project().layer_named(&place.layer).unwrap();
            let file = registry.project().find(layer, &place.file).unwrap();
            let line = registry.project().file(file).text().lines().nth(place.line - 1).unwrap();
            let name = node.name.replace("piece:spotlight/", "piece:");
            assert!(
                line.contains(&format!("use = \"{name}\"")),
                "{}: {} at {}:{line}",
                page.path,
                node.name,
                place.file
            );
        }
        // What shows stands in the order of what it prints.
        for step in nodes.iter().filter(|(node, _)| node.what == What::Step) {
            assert!(step.0.label.is_some() && step.0.place.is_some(), "{}: {:?}", page.path, step.0.name);
            assert_eq!(
                step.0.state == State::Off,
                step.0.reason.is_some() && step.0.state != State::Detached,
                "{:?}",
                step.0
            );
        }
    }
}
