//! A callback is attached to something that nothing shows

use crate::address::{Address, Kind};
use crate::link::{KEPT_BY_FILTERS, Registry, Target};
use crate::name::Name;
use crate::rules::{Example, Finding, Level, Rule};
use crate::scan::{Shape, Taken};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "attached-in-vain",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "A callback is attached to something that nothing shows",
    explanation: "A preparer runs where its component is rendered. A component that nothing places, holds, attaches or offers is never rendered, and neither is a page's template that no type of page takes; a partial of the host's that the theme writes by hand instead isn't, either. What a filter of the host's makes of the page's heading, summary or root attributes shows only where something prints that.",
    wrong: Example(&[
        (
            "code/pictures.js",
            r##"export function withCaption(inputs) { return { ...inputs, alt: inputs.alt.trim() }; }
"##,
        ),
        (
            "truehook.toml",
            r##"[[attach]]
to = "partial:picture"
call = "pictures.js#withCaption"
"##,
        ),
    ]),
    right: Example(&[
        (
            "markup/page.html",
            r##"{% extends "layout.html" %}
{% block main %}
  <main>{{ place("region:main") }}</main>
  {{ place("partial:picture", file="media/egret.svg", alt="An egret") }}
{% endblock %}
"##,
        ),
        ("media/egret.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"/>\n"),
    ]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    if registry.blind().placements {
        return;
    }
    for (filter, key, features) in KEPT_BY_FILTERS {
        found.extend(unread(registry, filter, key, features));
    }
    for point in registry.points().filter(|point| !point.slots.is_empty() && point.reached.is_empty()) {
        let kind = point.address.kind;
        let idle = match kind {
            Kind::Template => true,
            // What is used where no page gets is told there.
            _ if kind.is_component() => point.uses.is_empty() && !is_used(registry, point.address),
            _ => false,
        };
        if !idle || point.dropped.is_some() || registry.is_meant(Target::Point(point.address)) {
            continue;
        }
        let Some(layer) = point.slots.iter().map(|slot| slot.layer).max().filter(|layer| layer.index() > 0) else {
            continue;
        };
        // A component that an open theme or a companion brings is there for others.
        if point
            .declared
            .iter()
            .any(|declared| registry.project().layer(declared.layer).open && declared.layer == layer)
        {
            continue;
        }
        let why = match kind {
            Kind::Template => "no type of page takes that template",
            _ => "nothing places, holds, attaches or offers it",
        };
        let message = format!("what is attached to `{}` never runs: {why}", point.address);
        let mut finding = Finding::new(&RULE, layer, message).about(point.address);
        let mut slots: Vec<_> = point.slots.iter().collect();
        slots.sort_by_key(|slot| slot.layer != layer);
        for slot in slots {
            finding = finding.at(registry, slot.place, format!("`{}` is attached here", registry.slot_name(slot)));
        }
        finding = finding.at_declaration(registry, point.address, "declared here");
        found.push(finding.mend(match kind {
            Kind::Template => "attach it to a template that pages take, or take it away".to_string(),
            _ => format!("place it: {{{{ place(\"{}\") }}}}, or take the attachment away", point.address),
        }));
    }
}

/// A finding where callbacks change a key of the page that nothing shows.
fn unread(registry: &Registry, filter: &str, key: &str, features: &[&str]) -> Option<Finding> {
    let point = registry.point(Address::new(Kind::Filter, filter)).filter(|point| registry.is_fired(point))?;
    let slots = || point.slots.iter().filter(|slot| slot.layer.index() > 0);
    let layer = slots().map(|slot| slot.layer).max()?;
    let of_host = point.declared.first().is_some_and(|declared| declared.layer.index() == 0);
    let shown = features.iter().any(|feature| registry.is_enabled(feature)) || is_read(registry, key);
    if !of_host || shown || registry.project().layer(layer).open {
        return None;
    }
    let message = format!("what is attached to `{}` changes `page.{key}`, which nothing shows", point.address);
    let mut finding = Finding::new(&RULE, layer, message).about(point.address);
    for slot in slots() {
        finding = finding.at(registry, slot.place, format!("`{}` is attached here", registry.slot_name(slot)));
    }
    Some(
        finding
            .at_declaration(registry, point.address, "declared here")
            .mend(format!("print {{{{ page.{key} }}}} in a template, or take the attachment away")),
    )
}

/// Does a template or callback read a key of the page, or take the page as a whole?
fn is_read(registry: &Registry, key: &str) -> bool {
    let is_it = |path: &mut dyn Iterator<Item = Name>| {
        path.next().is_some_and(|root| root == "page") && path.next().is_none_or(|read| read == *key)
    };
    // What was most likely meant by a misspelt name is read.
    let is_meant = |written: Name| written == *key || written.strip_prefix("page.") == Some(key);
    if registry.misses().iter().filter_map(|miss| miss.meant).any(|meant| is_meant(meant.written)) {
        return true;
    }
    registry.all_facts().iter().any(|facts| match &facts.shape {
        Shape::Template(template) => {
            template.broken || template.reads.iter().any(|read| is_it(&mut read.path.iter().map(|named| named.name)))
        }
        Shape::Module(module) => {
            let mut taken = module.exports.iter().flat_map(|export| &export.takes);
            module.broken
                || taken.any(|taken| match taken.path.len() {
                    0 | 1 => taken.whole && (taken.path.is_empty() || is_it(&mut names_of(taken))),
                    _ => is_it(&mut names_of(taken)),
                })
        }
        _ => false,
    })
}

fn names_of(taken: &Taken) -> impl Iterator<Item = Name> {
    taken.path.iter().map(|step| step.named.name)
}

/// Is a component an item of something, or attached to a hook?
fn is_used(registry: &Registry, component: crate::address::Address) -> bool {
    let item = registry.items().iter().any(|placed| !placed.offered && placed.component == Some(component));
    let attached = registry
        .points()
        .flat_map(|point| point.slots.iter())
        .any(|slot| matches!(slot.runs, crate::link::Runs::Partial(partial, _) if partial == component));
    item || attached
}
