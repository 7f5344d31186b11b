//! The chain of features, assets and options.

use super::answer::{LinkName, LinkState, WhyLine, WhyLink, said};
use super::asking::Asking;
use super::points::declared;
use super::seen::Seen;
use crate::address::{Address, Kind};
use crate::link::{By, Feed, Link, Point, START};
use crate::names::{hint, nearest};
use crate::source::Place;
use crate::view::{AssetView, FeatureView, PlaceView, PresenceView};

/// All links of a feature.
pub(super) fn feature(asking: &Asking<'_>, address: Address) -> Vec<WhyLink> {
    let registry = asking.registry;
    let Some(point) = registry.point(address).filter(|_| registry.offers(address)) else {
        let taken = registry.point(address).and_then(|point| point.feature.as_deref()).zip(address.argument());
        let near = match taken {
            Some((feature, (whole, argument))) => {
                nearest(argument, feature.takes()).map(|name| format!("{whole}.{name}"))
            }
            None => nearest(&address.name, registry.names(address.kind)).map(|name| format!("feature:{name}")),
        };
        return vec![WhyLink::broken(
            LinkName::Offered,
            vec![said("–")],
            format!("the host does not offer it{}", hint(&near)),
        )];
    };
    let first = point.declared.first().map(|offer| asking.line(offer.place, "")).into_iter().collect();
    let mut chain = vec![WhyLink::good(LinkName::Offered, first)];
    let above: Vec<WhyLine> = point.declared.iter().skip(1).map(|one| asking.line(one.place, "")).collect();
    if !registry.is_on(address) {
        let (lines, reason) = match point.dropped {
            Some(By { layer, place }) => {
                let name = registry.project().layer(layer).name;
                (vec![asking.line(place, format!("dropped by {name}"))], format!("{name} has switched it off again"))
            }
            None if above.is_empty() => (vec![said("–")], "no layer switches it on".to_string()),
            None if address.argument().is_some() => (above, "no layer gives it".to_string()),
            None => (above, "no layer gives it an argument, and it does nothing without".to_string()),
        };
        chain.push(WhyLink::broken(LinkName::SwitchedOn, lines, reason));
        return chain;
    }
    chain.push(WhyLink::good(LinkName::SwitchedOn, above));
    let Some(view) = FeatureView::new(registry, point, address) else { return chain };
    let feeds = view.feeds.join(", ");
    let own = point.feature.iter().flat_map(|feature| &feature.feeds).all(|fed| matches!(fed.feed, Feed::Point(_)));
    if view.feeds.is_empty() || own {
        let text =
            if feeds.is_empty() { "it acts by itself".to_string() } else { format!("it acts by itself, in {feeds}") };
        chain.push(WhyLink::idle(LinkName::Used, text));
        return chain;
    }
    let lines = |places: Vec<PlaceView>, text: &str| -> Vec<WhyLine> {
        places.into_iter().map(|place| WhyLine { place: Some(place), text: text.to_string() }).collect()
    };
    if !view.given.is_empty() {
        let given = WhyLink::good(LinkName::Given, lines(view.given, "the site gives it"));
        chain.push(WhyLink { state: LinkState::Idle, ..given });
    }
    let used = lines(view.used, "");
    let asked = address.to_string();
    let told = crate::rules::check(registry).findings.iter().any(|finding| {
        let point = finding.point.as_deref().unwrap_or_default();
        finding.rule == "feature-unshown" && (point == asked || point.starts_with(&format!("{asked}.")))
    });
    chain.push(match (used.is_empty(), told) {
        (false, _) => WhyLink::good(LinkName::Used, used),
        (true, false) => WhyLink::good(LinkName::Used, vec![said(feeds)]),
        (true, true) => {
            WhyLink::broken(LinkName::Used, vec![said("–")], format!("nothing uses what it feeds: {feeds}"))
        }
    });
    chain
}

/// All links of a style, script or bundle.
pub(super) fn asset(asking: &Asking<'_>, address: Address) -> Vec<WhyLink> {
    let registry = asking.registry;
    let Some(point) = registry.point(address) else {
        let near = nearest(&address.name, registry.names(address.kind)).map(|name| format!("{}:{name}", address.kind));
        return vec![WhyLink::broken(
            LinkName::Declared,
            vec![said("–")],
            format!("no layer declares it{}", hint(&near)),
        )];
    };
    let mut chain = vec![declared(asking, point)];
    if address.kind != Kind::Bundle {
        chain.push(match registry.asset_file(point) {
            Some(file) => WhyLink::good(LinkName::File, vec![asking.line(Place { file, at: START }, "")]),
            None => WhyLink::broken(LinkName::File, vec![said("–")], "its file is not there"),
        });
    }
    let asked = AssetView::new(registry, point).map(|view| view.asked_by).unwrap_or_default();
    let lines: Vec<WhyLine> = asked
        .into_iter()
        .map(|asked| {
            let by = if asked.by == "theme" { "the theme itself, for every page".to_string() } else { asked.by };
            WhyLine { place: Some(asked.place), text: by }
        })
        .collect();
    if lines.is_empty() {
        chain.push(WhyLink::broken(LinkName::AskedFor, vec![said("–")], "no component and no other asset needs it"));
        return chain;
    }
    chain.push(WhyLink::good(LinkName::AskedFor, lines));
    let pages = PresenceView::of_point(registry, point).pages("pages of type ");
    let hook = registry.loading_hook(point);
    chain.push(match (asking.on_page(registry.point_types(point)), asking.on_page(point.reached), hook) {
        (true, ..) => WhyLink::good(LinkName::Reached, vec![said(format!("by {pages}"))]),
        (false, true, Some(hook)) => {
            let reason = format!("the host loads it in `{hook}`, which is not on {}", asking.here());
            WhyLink::broken(LinkName::Reached, vec![said("–")], reason)
        }
        _ => {
            let reason = format!("nothing that asks for it is on {}", asking.here());
            WhyLink::broken(LinkName::Reached, vec![said("–")], reason)
        }
    });
    chain.push(loaded(asking, point));
    chain
}

/// The host's hook that loads an asset, where a page doesn't have it.
fn lacking_hook(asking: &Asking<'_>, point: &Point, seen: &Seen) -> Option<Address> {
    asking.registry.loading_hook(point).filter(|hook| !seen.points.contains(hook))
}

/// Does a page load an asset that is asked for?
fn loaded(asking: &Asking<'_>, point: &Point) -> WhyLink {
    let when = point.asset.as_ref().and_then(|asset| asset.when.as_ref()).map(|when| when.text);
    match (point.dropped, asking.seen(), when) {
        (Some(By { layer, place }), _, _) => {
            let name = asking.registry.project().layer(layer).name;
            WhyLink::broken(
                LinkName::On,
                vec![asking.line(place, format!("dropped by {name}"))],
                format!("{name} has dropped it"),
            )
        }
        (None, None, _) => WhyLink::idle(LinkName::On, "name a page with --page, and it is rendered to see"),
        (None, Some(seen), _) if let Some(hook) = lacking_hook(asking, point, seen) => WhyLink::broken(
            LinkName::On,
            vec![said(format!("{hook} is not on the page"))],
            format!("the page has no {hook}, where the host would load it"),
        ),
        (None, Some(seen), _) if seen.assets.contains(&point.address) => {
            WhyLink::good(LinkName::On, vec![said("the page loads it")])
        }
        (None, Some(_), Some(when)) => WhyLink::broken(
            LinkName::On,
            vec![said(format!("when {when}"))],
            format!("its condition `{when}` does not hold there"),
        ),
        (None, Some(_), None) => {
            let reason = "no component that asks for it is on the page as it was rendered";
            WhyLink::broken(LinkName::On, vec![said("not loaded when the page was rendered")], reason)
        }
    }
}

/// All links of an option.
pub(super) fn option(asking: &Asking<'_>, address: Address) -> Vec<WhyLink> {
    let registry = asking.registry;
    let Some(point) = registry.point(address) else {
        let near = nearest(&address.name, registry.names(address.kind)).map(|name| format!("option:{name}"));
        return vec![WhyLink::broken(
            LinkName::Declared,
            vec![said("–")],
            format!("no layer declares it{}", hint(&near)),
        )];
    };
    let mut chain = vec![declared(asking, point)];
    let choices = registry.option_references(address, true);
    let chosen: Vec<WhyLine> = choices.into_iter().map(|one| asking.line(one.from, "the site chooses it")).collect();
    chain.push(match chosen.is_empty() {
        true => WhyLink::idle(LinkName::Chosen, "the site chooses nothing, so its default counts"),
        false => WhyLink::good(LinkName::Chosen, chosen),
    });
    let read = registry.option_references(address, false).into_iter();
    let text = |link| if link == Link::PropertyToName { "a callback reads it" } else { "" };
    let mut lines: Vec<WhyLine> = read.map(|one| asking.line(one.from, text(one.link))).collect();
    lines.dedup_by_key(|line| line.place.as_ref().map(|place| (place.file.clone(), place.line)));
    chain.push(match lines.is_empty() {
        true => WhyLink::broken(LinkName::Read, vec![said("–")], "no template, callback or condition reads it"),
        false => WhyLink::good(LinkName::Read, lines),
    });
    chain
}
