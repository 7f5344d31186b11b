//! What several rules need: findings for references that lead nowhere, and for flaws of one file.

use super::{Finding, Mend, Rule};
use crate::address::{Address, Role};
use crate::command_line;
use crate::edit::declare::in_words;
use crate::link::{
    Callback, Miss, Outcome, Point, Reference, Registry, Renderer, Runs, START, Target, Wanted, component_template,
};
use crate::scan::FlawKind;
use crate::source::{Edit, FileId, LayerId, Place};

/// The misses that a rule reports.
pub fn misses<'r>(registry: &'r Registry, rule: &'static Rule) -> impl Iterator<Item = &'r Miss> {
    registry.misses().iter().filter(|miss| rule.links.contains(&miss.link))
}

/// How a missed reference is written where it is to be mended first.
pub fn written(registry: &Registry, miss: &Miss) -> &'static str {
    registry.references()[miss.references[0]].written.as_str()
}

/// A finding for something that is missing: every place that asks for it, what was most likely
/// meant, and the mend that writes that.
pub fn miss_finding(registry: &Registry, rule: &Rule, miss: &Miss, message: String, otherwise: &str) -> Finding {
    let mut finding = Finding::new(rule, miss.layer, message);
    let meant = miss.meant.map(|meant| meant.written);
    let first = match meant {
        Some(written) => format!("did you mean `{written}`?"),
        None => otherwise.to_string(),
    };
    for (at, reference) in miss.references.iter().enumerate() {
        let label = if at == 0 { first.clone() } else { "and here".to_string() };
        finding = finding.at(registry, registry.references()[*reference].from, label);
    }
    if let Some(target) = miss.meant.map(|meant| meant.target)
        && let Some(place) = target_place(registry, target)
    {
        finding = finding.at(registry, place, there(target));
    }
    if let Some(meant) = miss.meant {
        let edits = miss.references.iter().map(|at| {
            let reference = &registry.references()[*at];
            let near = match reference.outcome {
                Outcome::Missing { meant: Some(own), .. } => own.written,
                _ => meant.written,
            };
            rewrite(registry, reference.from, &reference.written, &near)
        });
        let renamed = meant.certain.then(|| declared_otherwise(registry, miss, meant.target)).flatten();
        finding.mend = Some(match renamed {
            Some(command) => Mend { text: command, ..Mend::default() },
            None if meant.certain && stands_for_more(registry, miss, meant.target) => {
                writing(&meant.written, true, edits)
            }
            None => Mend { text: format!("write `{}`, if that was meant", meant.written), ..Mend::default() },
        });
    }
    finding
}

/// The command that renames a declaration which alone has its spelling: nothing else is written like it, and what asks
/// for it agrees, or the template that would render it has the other name.
fn declared_otherwise(registry: &Registry, miss: &Miss, target: Target) -> Option<String> {
    let (Wanted::Point(name), Target::Point(declared)) = (miss.wanted, target) else { return None };
    let asked: Address = name.as_str().parse().ok()?;
    let asked = match (declared.inner(), asked.inner()) {
        (Some((section, _)), None) => Address::new(asked.kind, format!("{}/{}", section.name, asked.name).as_str()),
        _ => asked,
    };
    let point = registry.point(declared)?;
    let top = registry.project().top();
    let is_own = point.declared.iter().all(|at| at.layer == top) && miss.layer == top && asked.kind == declared.kind;
    let is_used = registry.references().iter().any(|reference| reference.outcome == Outcome::Found(target));
    let rendered = |address: Address| {
        let template = component_template(address);
        address.kind.is_component() && registry.project().find(top, &format!("markup/{template}")).is_some()
    };
    let agrees = miss.references.len() > 1 && !rendered(declared) || rendered(asked) && point.renderer.is_none();
    (is_own && !is_used && agrees).then(|| command_line!["rename", declared, asked])
}

/// Is it the reference that is misspelt, and not what it refers to? Where several agree with each other, more have to
/// agree with the declaration, or a layer below has to declare it, too.
fn stands_for_more(registry: &Registry, miss: &Miss, target: Target) -> bool {
    if miss.references.len() < 2 {
        return true;
    }
    if let Target::Point(address) = target
        && registry
            .point(address)
            .and_then(|point| point.declared.first())
            .is_some_and(|first| first.layer != miss.layer)
    {
        return true;
    }
    let found = registry.references().iter().filter(|reference| reference.outcome == Outcome::Found(target));
    found.count() + 1 > miss.references.len()
}

/// What to say at the place of something that is there.
fn there(target: Target) -> &'static str {
    match target {
        Target::Export(..) => "exported here",
        Target::Slot(_) => "attached here",
        Target::File(_) | Target::Macro(..) | Target::Media(_) => "this file is there",
        Target::Global(..) => "this script is there",
        Target::Entry(_) => "this entry is there",
        Target::Layer(_) => "this layer is there",
        Target::Menu(_) => "the site's menu",
        Target::Block(..) => "the block is here",
        Target::Point(_) | Target::Input(..) | Target::PageType(_) | Target::Given => "declared here",
    }
}

/// The edit that writes something else in the place of what is written there, or of its last part; quotes stay. Nothing
/// where that isn't what stands in the file, as where it is written with escapes.
pub fn rewrite(registry: &Registry, place: Place, old: &str, new: &str) -> Option<Edit> {
    let text = registry.project().file(place.file).text();
    let span = registry.span(place).unquoted(text);
    let there = &text[span.range()];
    let is_part = old.split(['.', ':', '#', '/']).any(|part| part == there);
    let plain = !new.contains(['"', '\'', '\\']) && !there.is_empty();
    (plain && (there == old || is_part || old.ends_with(there) && there.contains([':', '.', '#', '/']))).then(|| Edit {
        file: place.file,
        span,
        new: new.to_string(),
    })
}

/// The mend that writes something else where a name stands: safe where it is sure, and all places are what they seem.
pub fn writing(near: &str, sure: bool, edits: impl IntoIterator<Item = Option<Edit>>) -> Mend {
    let edits: Option<Vec<Edit>> = edits.into_iter().collect();
    let edits = edits.filter(|_| sure).unwrap_or_default();
    Mend { text: format!("write `{near}`"), safe: !edits.is_empty(), edits }
}

/// The command that sets a key of a declaration, where that is the checked theme's own. `value` makes the value of what
/// the point's name is in words.
pub fn declaring(
    registry: &Registry,
    layer: LayerId,
    address: Address,
    key: &str,
    value: impl Fn(&str) -> String,
) -> Option<String> {
    let own = |declared: &crate::link::DeclaredAt| declared.layer == layer;
    let declared = registry.point(address)?.declared.iter().any(own);
    let words = in_words(address.name.rsplit('/').next().unwrap_or_default());
    (declared && layer == registry.project().top())
        .then(|| command_line!["declare", address, format!("{key}={}", value(&words))])
}

/// Where something is that can be referred to.
pub fn target_place(registry: &Registry, target: Target) -> Option<Place> {
    let start = |file: FileId| Place { file, at: START };
    match target {
        Target::Point(address) => registry.point(address)?.declared.last().map(|declared| declared.place),
        Target::Input(address, name) => {
            let inputs = registry.point(address)?.passed().iter().chain(&registry.point(address)?.inputs);
            inputs.into_iter().find(|input| input.field.name == name).map(|input| input.place)
        }
        Target::Export(file, export) => {
            let found = registry.module(file)?.exports.iter().find(|known| known.name == export)?;
            Some(Place { file, at: found.at })
        }
        Target::Macro(file, _) | Target::File(file) => Some(start(file)),
        Target::Block(file, name) => {
            let mut blocks = registry.template(file)?.sections.iter().flat_map(|section| &section.blocks);
            blocks.find(|block| block.name == name).map(|block| Place { file, at: block.at })
        }
        Target::Layer(layer) => Some(start(registry.project().layer(layer).manifest)),
        Target::Slot(place) | Target::Menu(place) | Target::Entry(place) => Some(place),
        Target::Global(file, _) => Some(start(file)),
        Target::PageType(name) => {
            registry.types().iter().find(|page_type| page_type.name == name).map(|page_type| page_type.place)
        }
        Target::Given | Target::Media(_) => None,
    }
}

/// Reports the flaws of one kind.
pub fn flaws(registry: &Registry, rule: &Rule, kind: FlawKind, found: &mut Vec<Finding>) {
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let file = FileId(at as u32);
        for flaw in facts.flaws.iter().filter(|flaw| flaw.kind == kind) {
            let place = Place { file, at: flaw.at };
            // What can't be read in a lower layer blinds the check of this one.
            let blinds = facts.shape.is_broken() && registry.project().file(file).layer.index() > 0;
            let layer = if blinds { registry.project().top() } else { registry.project().file(file).layer };
            let mut finding = Finding::new(rule, layer, flaw.message.clone()).at(registry, place, flaw.label.clone());
            if let Some(instead) = &flaw.instead {
                let old = registry.project().file(file).text();
                let old = &old[registry.span(place).unquoted(old).range()];
                finding.mend = Some(writing(instead, true, [rewrite(registry, place, old, instead)]));
            }
            found.push(finding);
        }
    }
}

/// Adds the places that need a point: what declares it, what is attached to it, what fills it.
pub fn needing_places(registry: &Registry, mut finding: Finding, address: Address) -> Finding {
    let Some(point) = registry.point(address) else { return finding };
    let kind = address.kind;
    let mut places: Vec<(Place, String)> = Vec::new();
    for slot in point.slots.iter() {
        places.push((slot.place, format!("`{}` is attached to it", registry.slot_name(slot))));
    }
    for (file, at) in &point.fills {
        if let Some(fill) = registry.fill_of(*file, *at) {
            places.push((Place { file: *file, at: fill.to.at }, "it is filled here".into()));
        }
    }
    for declared in &point.declared {
        places.push((declared.place, format!("the {kind} is declared here")));
    }
    // What belongs to the finding's own layer comes first, and so is the primary place.
    places.sort_by_key(|(place, _)| registry.layer_of(*place) != finding.layer);
    for (place, label) in places {
        finding = finding.at(registry, place, label);
    }
    finding
}

/// The callbacks that are attached and that render components, each once for each use: with its point,
/// and its role; no role for what renders.
pub fn callbacks(registry: &Registry) -> Vec<(Callback, &Point, Option<Role>)> {
    let mut found = Vec::new();
    for point in registry.points() {
        for slot in point.slots.iter() {
            if let Runs::Callback(_, Some(callback)) = slot.runs {
                found.push((callback, point, point.address.kind.role()));
            }
        }
        if let (Some(Renderer::Callback(callback)), true) = (point.renderer, point.address.kind.is_component()) {
            found.push((callback, point, None));
        }
    }
    found
}

/// The references that lead to a point, from a layer on upwards.
pub fn references_from(registry: &Registry, point: Address, layer: LayerId) -> Vec<&Reference> {
    let leads = |found: &&Reference| found.outcome == Outcome::Found(Target::Point(point)) && found.layer >= layer;
    registry.references().iter().filter(leads).collect()
}

/// `a`, `a and b`, `a, b and c`.
pub fn list(words: &[impl AsRef<str>]) -> String {
    match words {
        [] => String::new(),
        [one] => one.as_ref().to_string(),
        [first @ .., last] => {
            let first: Vec<&str> = first.iter().map(AsRef::as_ref).collect();
            format!("{} and {}", first.join(", "), last.as_ref())
        }
    }
}

/// The section, and its own piece, that a short name of a piece means, where no shared one has that name.
pub fn inner_named(registry: &Registry, written: &str) -> Option<(Address, Address)> {
    let name = written.strip_prefix("piece:")?;
    let inner = registry.addresses().filter_map(|address| Some((address.inner()?, *address)));
    inner.into_iter().find(|((_, own), _)| *own == name).map(|((section, _), address)| (section, address))
}

/// Is a key of a declaration misspelt? What follows from that is no finding of its own.
pub fn misspells(registry: &Registry, point: &Point, key: &str) -> bool {
    point.declared.iter().any(|declared| {
        let file = declared.place.file;
        let start = registry.span(declared.place).start as usize;
        let text = &registry.project().file(file).text()[start..];
        let end = start + text.find("\n[").unwrap_or(text.len());
        registry.facts(file).flaws.iter().any(|flaw| {
            let at = registry.span(Place { file, at: flaw.at }).start as usize;
            flaw.instead.as_deref() == Some(key) && (start..end).contains(&at)
        })
    })
}
