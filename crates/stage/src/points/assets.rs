//! The assets that a page gets.

use truehook_core::address::{Address, Kind};

use crate::host::Here;
use crate::points::media;
use crate::record::trace::Failure;
use crate::value::escape;

/// The assets of a page, as elements.
#[derive(Debug, Default)]
pub struct Elements {
    /// Those of the head.
    pub head: String,
    /// Those of the page's end.
    pub end: String,
}

/// Chooses a page's assets, once all of its components are known.
pub fn elements(here: &Here<'_>) -> Elements {
    let chosen = chosen(here);
    here.page.assets.replace(chosen.clone());
    let in_head = head_scripts(here, &chosen);
    let mut elements = Elements::default();
    let registry = here.page.registry();
    for address in &chosen {
        let Some(point) = registry.point(*address) else { continue };
        let Some(asset) = &point.asset else { continue };
        let Some(href) = media::address(here, &address.to_string(), registry.project().top()) else {
            if address.kind != Kind::Bundle {
                here.page.fail(Failure::at(address, "its file is not there"));
            }
            continue;
        };
        let href = escape(&href);
        match address.kind {
            Kind::Style => {
                let media = asset.media.filter(|media| *media != "all");
                let media = media.map(|media| format!(" media=\"{}\"", escape(&media))).unwrap_or_default();
                elements.head.push_str(&format!("<link rel=\"stylesheet\" href=\"{href}\"{media}>\n"));
            }
            _ => {
                let file = registry.asset_file(point).and_then(|file| registry.script(file));
                let module = if file.is_some_and(|script| script.module) { " type=\"module\"" } else { "" };
                let script = format!("<script{module} src=\"{href}\"></script>\n");
                let part = if in_head.contains(address) { &mut elements.head } else { &mut elements.end };
                part.push_str(&script);
            }
        }
    }
    elements
}

/// The assets that are on a page, in the order in which they come: those on every page whose condition
/// holds, those that its components need, and all that these need in turn.
fn chosen(here: &Here<'_>) -> Vec<Address> {
    let registry = here.page.registry();
    let mut wanted: Vec<Address> = Vec::new();
    let everywhere = registry.points().filter(|point| point.asset.is_some() && registry.is_on_all_pages(point));
    wanted.extend(everywhere.map(|point| point.address));
    for shown in here.page.trace.borrow().points.iter().filter(|shown| shown.kind.is_component()) {
        let needs = registry.point(*shown).map(|point| registry.needs_of(point)).unwrap_or_default();
        wanted.extend(needs);
    }
    let mut on: Vec<Address> = Vec::new();
    for address in wanted {
        let Some(point) = registry.point(address) else { continue };
        if on.contains(&address) || !holds(here, address) {
            continue;
        }
        on.push(address);
        on.extend(registry.all_needs(point));
    }
    let there = |address: &&Address| {
        on.contains(address) && registry.point(**address).is_some_and(|point| point.dropped.is_none())
    };
    registry.asset_order().iter().filter(there).copied().collect()
}

/// Does the condition of an asset hold on this page?
fn holds(here: &Here<'_>, address: Address) -> bool {
    let Some(asset) = here.page.registry().point(address).and_then(|point| point.asset.as_ref()) else {
        return false;
    };
    if asset.switched_off {
        here.page.fail(Failure::at(address, "its condition can't be understood, so it is on no page"));
        return false;
    }
    asset.when.as_ref().is_none_or(|when| {
        here.host.holds(here, when.text).unwrap_or_else(|message| {
            here.page.fail(Failure::at(address, message));
            false
        })
    })
}

/// The scripts that have to be in the head: those that say so, and what they need. Where the host has no
/// hook for the page's end, all of them.
fn head_scripts(here: &Here<'_>, chosen: &[Address]) -> Vec<Address> {
    let registry = here.page.registry();
    let no_end = registry.end_hook().is_none();
    let mut found: Vec<Address> = Vec::new();
    for address in chosen.iter().filter(|address| address.kind == Kind::Script) {
        let Some(point) = registry.point(*address) else { continue };
        if no_end || point.asset.as_ref().is_some_and(|asset| asset.head) {
            found.push(*address);
            found.extend(registry.all_needs(point));
        }
    }
    found
}
