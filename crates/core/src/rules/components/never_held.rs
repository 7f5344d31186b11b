//! A piece that nothing may hold

use std::collections::HashSet;

use crate::address::{Address, Kind};
use crate::link::{Registry, Target};
use crate::rules::telling::declaring;
use crate::rules::{Example, Finding, Level, Rule};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "never-held",
    level: Level::Warning,
    links: &[],
    awaited: true,
    summary: "A piece that nothing may hold",
    explanation: "A piece shows where a section or another piece holds it, where a region or area does, or where a template places it. Nothing lets this one in, and it is not offered to site editors.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[piece.note]
label = "Note"
"##,
        ),
        (
            "markup/pieces/note.html",
            r##"<p>Boots needed.</p>
"##,
        ),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[piece.note]
label = "Note"
offer = [{ label = "A note" }]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let top = registry.project().top();
    let items: HashSet<Address> = registry.items().iter().filter_map(|item| item.component).collect();
    for point in registry.points().filter(|point| point.address.kind == Kind::Piece) {
        let own = point.declared.last().filter(|declared| declared.layer == top);
        let Some(declared) = own.filter(|_| !registry.project().layer(top).open && point.dropped.is_none()) else {
            continue;
        };
        let used = !point.uses.is_empty() || items.contains(&point.address);
        let offered = point.is_offered();
        let held = registry.points().any(|holder| {
            holder.address != point.address
                && holder.address.kind.is_component()
                && holder.dropped.is_none()
                && registry.may_hold(holder.address, point.address)
        });
        if used || offered || held || registry.is_referred(Target::Point(point.address)) {
            continue;
        }
        let message = format!("nothing may hold `{}`, and it is not offered", point.address);
        let finding = Finding::new(&RULE, top, message).about(point.address);
        let finding = finding.at(registry, declared.place, "this never shows");
        let mend =
            declaring(registry, declared.layer, point.address, "offer", |words| format!("[{{ label = \"{words}\" }}]"));
        found.push(finding.mend(mend.unwrap_or_else(|| "offer = [{ label = \"…\" }]".into())));
    }
}
