//! Origins: what is changed where an origin leads changes that text, and no other.

use std::ops::Range;
use std::sync::Arc;

use truehook_core::address::{Address, Kind};
use truehook_core::link::{Registry, Renderer};
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::source::{FileId, Span};
use truehook_stage::origin::{self, LinkKind, Piece, Traced};
use truehook_stage::{Manner, Origin, Printed, Rendered, Stage, map};

use crate::demo::demo;

fn open(files: &MemoryFiles) -> Arc<Registry> {
    Arc::new(Registry::new(Project::open(files, "/demo/saltmarsh".into()).unwrap()))
}

/// What an origin leads to.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Led {
    Template(FileId, Span, Printed),
    Callback(String),
    Host,
}

/// A stretch of text that people read, and where it leads.
struct Unit {
    text: String,
    led: Led,
}

fn led(registry: &Registry, page: &Rendered, piece: &Piece, range: &Range<usize>) -> Led {
    if let Some(source) = piece.source_of(range) {
        return Led::Template(source.file, source.span, source.printed);
    }
    match &page.tree.get(piece.segment).origin {
        Origin::Callback(name) => Led::Callback(name.to_string()),
        Origin::Point(point) => match registry.point(*point).and_then(|point| point.renderer) {
            Some(Renderer::Callback(callback)) => Led::Callback(registry.callback_name(callback)),
            _ => Led::Host,
        },
        _ => Led::Host,
    }
}

fn units(registry: &Registry, page: &Rendered) -> Vec<Unit> {
    let pieces = origin::pieces(page);
    let mut found = Vec::new();
    for text in origin::texts(&page.html) {
        for piece in pieces.iter().filter(|piece| piece.range.start < text.end && text.start < piece.range.end) {
            let range = piece.range.start.max(text.start)..piece.range.end.min(text.end);
            let read = page.html[range.clone()].split_whitespace().collect::<Vec<_>>().join(" ");
            if !read.is_empty() {
                found.push(Unit { text: read, led: led(registry, page, piece, &range) });
            }
        }
    }
    found
}

/// A page, where something of it leads, and all its texts: do they lead there?
type Work = (String, Led, Vec<(String, bool)>);

const NEW: &str = "Zzz";

/// The same files, with something else where an origin leads.
fn changed(files: &MemoryFiles, registry: &Registry, led: &Led) -> MemoryFiles {
    let project = registry.project();
    let mut files = files.clone();
    match led {
        Led::Template(file, span, printed) => {
            let source = project.file(*file);
            let layer = project.layer(source.layer);
            let mut text = source.text().to_string();
            match printed {
                Printed::AsWritten => text.replace_range(span.range(), NEW),
                Printed::ByExpression => text.replace_range(span.range(), &format!("\"{NEW}\"")),
                _ => {
                    // The markup that goes around a title, in the table that the origin leads to.
                    let at = span.start as usize;
                    let table = text[at..].find("\n[").map_or(text.len(), |end| at + end);
                    let new = text[at..table].replace("{{ text }}", NEW);
                    text.replace_range(at..table, &new);
                }
            }
            // What the host has can be had by the theme, too.
            let folder = if layer.built_in { "/demo/saltmarsh".to_string() } else { format!("/demo/{}", layer.name) };
            files.insert(format!("{folder}/{}", source.path), text);
        }
        Led::Callback(name) => {
            let callback = registry.callback_named(name, project.top()).unwrap();
            let source = project.file(callback.file);
            let extent = truehook_core::edit::replace::extent(registry, callback).unwrap();
            let mut text = source.text().to_string();
            text.replace_range(
                extent.range(),
                &format!("export function {}() {{ return \"{NEW}\"; }}", callback.export),
            );
            files.insert(format!("/demo/{}/{}", project.layer(source.layer).name, source.path), text);
        }
        Led::Host => unreachable!("what the host adds is nobody's to change"),
    }
    files
}

#[test]
fn what_is_changed_where_an_origin_leads_changes_that_text_and_no_other() {
    let files = demo();
    let registry = open(&files);
    let stage = Stage::new(registry.clone());
    let (mut tried, mut texts) = (Vec::<Led>::new(), 0);
    let mut work: Vec<Work> = Vec::new();
    for page in stage.pages() {
        let rendered = stage.rendered(&page.path, Manner::sourced()).unwrap();
        let all = units(&registry, &rendered);
        texts += all.len();
        let of_host: Vec<&str> =
            all.iter().filter(|unit| unit.led == Led::Host).map(|unit| unit.text.as_str()).collect();
        assert!(
            of_host.len() <= 1 && rendered.html.contains(&format!("<title>{}</title>", of_host.concat())),
            "{of_host:?}"
        );
        for unit in &all {
            if unit.led != Led::Host && !tried.contains(&unit.led) {
                tried.push(unit.led.clone());
                let list = all.iter().map(|other| (other.text.clone(), other.led == unit.led)).collect();
                work.push((page.path.clone(), unit.led.clone(), list));
            }
        }
    }
    assert!(texts > 400 && work.len() > 50, "{texts} {}", work.len());
    let next = std::sync::atomic::AtomicUsize::new(0);
    std::thread::scope(|scope| {
        let one = || {
            while let Some((path, led, before)) = work.get(next.fetch_add(1, std::sync::atomic::Ordering::Relaxed)) {
                let files = changed(&files, &registry, led);
                let registry = open(&files);
                let rendered = Stage::new(registry.clone()).rendered(path, Manner::sourced()).unwrap();
                let after: Vec<String> = units(&registry, &rendered).into_iter().map(|unit| unit.text).collect();
                assert!(after.iter().any(|text| text == NEW), "{path} {led:?} changes nothing");
                let rest: Vec<&String> = after.iter().filter(|text| *text != NEW).collect();
                let wanted: Vec<&String> = before.iter().filter(|(_, is)| !is).map(|(text, _)| text).collect();
                assert_eq!(rest, wanted, "{path} {led:?}");
            }
        };
        scope.spawn(one);
        scope.spawn(one);
    });
}

#[test]
fn pages_are_the_same_when_it_is_kept_what_printed_them() {
    let registry = open(&demo());
    let stage = Stage::new(registry.clone());
    for page in stage.pages() {
        let plain = stage.rendered(&page.path, Manner::watched()).unwrap();
        let sourced = stage.rendered(&page.path, Manner::sourced()).unwrap();
        assert_eq!(plain.html, sourced.html, "{}", page.path);
        assert_eq!(origin::pieces(&sourced).iter().map(|piece| piece.range.len()).sum::<usize>(), plain.html.len());
    }
}

/// The chain of a text of the front page.
fn chain(registry: &Arc<Registry>, text: &str) -> origin::Chain {
    let page = Stage::new(registry.clone()).rendered("/", Manner::sourced()).unwrap();
    let root = map::map(registry, &page);
    let at = page.html.find(text).unwrap_or_else(|| panic!("{text} is not on the page"));
    let range = at..at + text.len();
    let pieces = origin::pieces_in(&page, &range);
    origin::origin(Traced { registry, path: "/", page: &page, root: &root }, &pieces[0], &range)
}

fn words(chain: &origin::Chain) -> Vec<(LinkKind, String)> {
    chain.chain.iter().map(|link| (link.what, link.name.clone())).collect()
}

#[test]
fn a_chain_leads_from_what_printed_a_text_to_the_page_with_all_that_had_a_turn() {
    let registry = open(&demo());
    // A value that was sent through a filter.
    let line = chain(&registry, "Tides, mud and birds, Merrowholm");
    let named = words(&line);
    assert_eq!(named[0].0, LinkKind::Expression);
    assert_eq!(named[1], (LinkKind::Filter, "masthead.js#withPlace".into()));
    assert_eq!(line.chain[1].before.as_deref(), Some("Tides, mud and birds"));
    assert_eq!(line.chain[1].after.as_deref(), Some("Tides, mud and birds, Merrowholm"));
    assert!(named.contains(&(LinkKind::Component, "partial:masthead".into())), "{named:?}");
    assert!(
        line.ways.iter().any(|way| way.command.starts_with("truehook attach filter:site-line ")),
        "{:?}",
        line.ways
    );
    // What a listener printed.
    let notice = chain(&registry, "Winter: the northern hides");
    let named = words(&notice);
    assert_eq!(named[0], (LinkKind::Callback, "masthead.js#winterNotice".into()));
    assert_eq!(named[1], (LinkKind::Attachment, "50 saltmarsh".into()));
    let place = notice.chain[1].place.as_ref().unwrap();
    assert_eq!((place.file.as_str(), place.line), ("truehook.toml", 76));
    assert_eq!(named[2], (LinkKind::Point, "hook:under-masthead".into()));
    assert_eq!(named.last().unwrap(), &(LinkKind::Template, "saltmarsh:front.html".into()));
    let detach = "truehook detach hook:under-masthead masthead.js#winterNotice";
    assert!(notice.ways.iter().any(|way| way.command == detach), "{:?}", notice.ways);
    assert!(notice.ways.iter().all(|way| !way.command.contains("lowWaterNotice")), "{:?}", notice.ways);
    // The words of an item, which stand in the preview.
    let item = chain(&registry, "Dogs stay on the lead");
    let value = item.chain.iter().find(|link| link.what == LinkKind::Value).unwrap();
    assert!(value.place.as_ref().unwrap().file.starts_with("preview/pages/front"), "{value:?}");
    let around =
        [Address::new(Kind::Piece, "note"), Address::new(Kind::Section, "banded")].map(|point| point.to_string());
    let named: Vec<String> =
        words(&item).into_iter().filter(|(what, _)| *what == LinkKind::Component).map(|(_, name)| name).collect();
    assert_eq!(named, around);
}
