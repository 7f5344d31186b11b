//! Mentions: what stands at a place of a file, and where else it is spoken of.
//!
//! Each is a declaration, or a reference as linking has resolved it; nothing is looked up by its letters.

use crate::link::{Feed, Link, Outcome, Reference, Registry, START, Target};
use crate::rules::target_place;
use crate::scan::{Field, Shape};
use crate::source::{FileId, Place, Span};

/// Something that is spoken of at a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Mention {
    /// The file.
    pub file: FileId,
    /// The bytes in it, without quotes.
    pub span: Span,
    /// What is spoken of.
    pub target: Target,
    /// Is it declared here, and not referred to?
    pub declares: bool,
}

/// What is spoken of at a byte of a file: all that stands in the shortest stretch there.
pub fn at(registry: &Registry, file: FileId, offset: u32) -> Vec<Mention> {
    let holds = |mention: &Mention| mention.span.start <= offset && offset <= mention.span.end;
    let mut found: Vec<Mention> = in_file(registry, file).into_iter().filter(holds).collect();
    let length = |mention: &Mention| mention.span.end - mention.span.start;
    let shortest = found.iter().map(length).min();
    found.retain(|mention| Some(length(mention)) == shortest);
    // Of two that touch here, the one that begins here is meant.
    let latest = found.iter().map(|mention| mention.span.start).max();
    found.retain(|mention| Some(mention.span.start) == latest);
    found
}

/// All that is spoken of in a file, in the order in which it stands there.
pub fn in_file(registry: &Registry, file: FileId) -> Vec<Mention> {
    let referred = registry.references().iter().filter(|reference| reference.from.file == file);
    let mut found: Vec<Mention> = referred.filter_map(|reference| referring(registry, reference)).collect();
    found.extend(declared(registry, file));
    found.extend(named(registry, file));
    found.sort();
    found.dedup();
    found
}

/// Wherever something is spoken of, its declarations first.
pub fn of(registry: &Registry, target: Target) -> Vec<Mention> {
    let targets = siblings(registry, target);
    let mut found = Vec::new();
    for target in &targets {
        found.extend(declarations(registry, *target));
    }
    let leads = |reference: &&Reference| reference.outcome.target().is_some_and(|found| targets.contains(&found));
    let referred = registry.references().iter().filter(leads);
    let mut referred: Vec<Mention> = referred.filter_map(|reference| referring(registry, reference)).collect();
    let manifests = registry.manifests().into_iter().flat_map(|(_, file)| named(registry, file));
    referred.extend(manifests.filter(|mention| targets.contains(&mention.target)));
    referred.sort();
    referred.retain(|mention| !found.iter().any(|known| (known.file, known.span) == (mention.file, mention.span)));
    referred.dedup();
    found.extend(referred);
    found
}

/// All that is one with a target: a message has an entry in each translation.
fn siblings(registry: &Registry, target: Target) -> Vec<Target> {
    let Target::Entry(place) = target else { return vec![target] };
    let entries = |reference: &&Reference| reference.link == Link::MessageToEntry;
    let own = registry.references().iter().filter(entries).find(|known| known.outcome == Outcome::Found(target));
    let Some(message) = own.map(|reference| reference.written) else { return vec![Target::Entry(place)] };
    let same = registry.references().iter().filter(entries).filter(|known| known.written == message);
    let mut all: Vec<Target> = same.filter_map(|reference| reference.outcome.target()).collect();
    all.sort();
    all.dedup();
    all
}

/// Where something is declared, in all layers, the highest first.
pub fn declarations(registry: &Registry, target: Target) -> Vec<Mention> {
    let places: Vec<Place> = match target {
        Target::Point(address) => {
            let declared = registry.point(address).map(|point| point.declared.as_slice()).unwrap_or_default();
            declared.iter().rev().map(|declared| declared.place).collect()
        }
        _ => target_place(registry, target).into_iter().collect(),
    };
    places.into_iter().map(|place| mention(registry, place, target, true)).collect()
}

/// What a file declares.
fn declared(registry: &Registry, file: FileId) -> Vec<Mention> {
    let mut found = Vec::new();
    let mut note = |at, target| found.push(mention(registry, Place { file, at }, target, true));
    match &registry.facts(file).shape {
        Shape::Manifest(manifest) => {
            for declaration in &manifest.declarations {
                note(declaration.at, Target::Point(declaration.address));
                let fields: [&[Field]; 2] = [&declaration.inputs, &declaration.args];
                for field in fields.into_iter().flatten() {
                    note(field.at, Target::Input(declaration.address, field.name));
                }
            }
            for page_type in &manifest.types {
                note(page_type.name.at, Target::PageType(page_type.name.name));
            }
        }
        Shape::Template(template) => {
            for block in template.sections.iter().flat_map(|section| &section.blocks) {
                note(block.at, Target::Block(file, block.name));
            }
        }
        Shape::Module(module) => {
            for export in &module.exports {
                note(export.at, Target::Export(file, export.name));
            }
        }
        Shape::Site(site) => {
            for menu in &site.menus {
                note(menu.at, Target::Menu(Place { file, at: menu.at }));
            }
        }
        Shape::Words(words) => {
            for entry in &words.entries {
                note(entry.at, Target::Entry(Place { file, at: entry.at }));
            }
        }
        _ => {}
    }
    found
}

/// Points that a manifest names without needing them: from where it detaches, in what it replaces, of what it wants
/// nothing said, what is to be used in the place of another.
fn named(registry: &Registry, file: FileId) -> Vec<Mention> {
    let Some(manifest) = registry.manifest(file) else { return Vec::new() };
    let detached = manifest.detachments.iter().map(|detachment| detachment.from);
    let replaced = manifest.replacements.iter().filter_map(|replacement| replacement.within);
    let ignored = manifest.check.ignores.iter().filter_map(|ignore| ignore.point);
    let instead = manifest.declarations.iter().filter_map(|declaration| declaration.instead);
    let points = detached.chain(replaced).chain(ignored).chain(instead);
    let there = points.filter_map(|point| {
        let address = point.address.filter(|address| registry.point(*address).is_some())?;
        Some(mention(registry, Place { file, at: point.at }, Target::Point(address), false))
    });
    there.collect()
}

fn referring(registry: &Registry, reference: &Reference) -> Option<Mention> {
    let target = reference.outcome.target()?;
    // A message is translated by a feature, but doesn't speak of it.
    if reference.link == Link::FeedToFeature && translates(registry, target) {
        return None;
    }
    // A whole file refers to something by its being there.
    (reference.from.at != START).then(|| mention(registry, reference.from, target, false))
}

fn translates(registry: &Registry, target: Target) -> bool {
    let Target::Point(address) = target else { return false };
    let feature = registry.point(address).and_then(|point| point.feature.as_ref());
    feature.is_some_and(|feature| feature.feeds.iter().any(|fed| fed.feed == Feed::Messages))
}

fn mention(registry: &Registry, place: Place, target: Target, declares: bool) -> Mention {
    let text = registry.project().file(place.file).text();
    let span = if place.at == START { Span::default() } else { registry.span(place).unquoted(text) };
    let span = if declares { name_in(text, span, target) } else { span };
    Mention { file: place.file, span, target, declares }
}

/// Of what declares something, the part that is its name.
fn name_in(text: &str, span: Span, target: Target) -> Span {
    let name = match target {
        Target::Point(address) => match address.inner() {
            Some((_, own)) => own,
            None => address.name.as_str(),
        },
        Target::Input(_, name) | Target::Block(_, name) | Target::Export(_, name) => name.as_str(),
        _ => return span,
    };
    match text.get(span.range()).and_then(|whole| whole.rfind(name)) {
        Some(at) => Span::new(span.start as usize + at, span.start as usize + at + name.len()),
        None => span,
    }
}
