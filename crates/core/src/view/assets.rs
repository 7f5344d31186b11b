//! Assets and features: what they need, who asks for them, what feeds on them.

use serde::Serialize;

use super::PlaceView;
use crate::address::Address;
use crate::link::{Feature, Feed, Link, Outcome, Point, Registry, Target};
use crate::source::Place;

/// What is known of a style, script or bundle.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct AssetView {
    /// Its file, from the theme's folder, in the highest layer that has it.
    pub file: Option<String>,
    /// Global names that other scripts may use.
    pub gives: Vec<String>,
    /// Where a style applies.
    pub media: Option<String>,
    /// Where a script is: in the `head`, or at the `end`.
    pub at: Option<String>,
    /// Lower comes earlier.
    pub priority: u8,
    /// The condition.
    pub when: Option<String>,
    /// Who asks for it.
    pub asked_by: Vec<AskedView>,
}

/// Somebody who asks for an asset.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct AskedView {
    /// A component, an asset or a feature; `theme` where it is on every page by itself.
    pub by: String,
    /// Where it is said.
    pub place: PlaceView,
}

/// What is known of a feature.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct FeatureView {
    /// Has the theme switched it on?
    pub on: bool,
    /// What it is switched on with, defaults included.
    pub arguments: serde_json::Value,
    /// Which layer says each of them, by its name; `table.entry` for the entries of tables.
    pub set_by: Vec<(String, String)>,
    /// By what it shows.
    pub feeds: Vec<String>,
    /// Where the site, or a page of it, gives something for it.
    pub given: Vec<PlaceView>,
    /// Where what it feeds is shown.
    pub used: Vec<PlaceView>,
}

impl AssetView {
    /// One asset; nothing where the point is none.
    pub fn new(registry: &Registry, point: &Point) -> Option<AssetView> {
        let asset = point.asset.as_ref()?;
        let script = point.address.kind == crate::address::Kind::Script;
        Some(AssetView {
            file: registry.asset_file(point).map(|file| registry.project().shown(file)),
            gives: asset.gives.iter().map(|(name, _)| name.to_string()).collect(),
            media: asset.media.map(|media| media.to_string()),
            at: script.then(|| if asset.head { "head" } else { "end" }.to_string()),
            priority: asset.priority,
            when: asset.when.as_ref().map(|when| when.text.to_string()),
            asked_by: asked_by(registry, point),
        })
    }
}

fn asked_by(registry: &Registry, point: &Point) -> Vec<AskedView> {
    let mut asked = Vec::new();
    let mut ask = |by: String, place: Place| asked.push(AskedView { by, place: PlaceView::of(registry, place) });
    for other in registry.points() {
        for (_, place) in other.needs.iter().filter(|(needed, _)| needed.address == Some(point.address)) {
            ask(other.address.to_string(), *place);
        }
        let feeds = other.feature.iter().flat_map(|feature| &feature.feeds);
        let fed = feeds.into_iter().any(|fed| fed.feed == Feed::Point(point.address));
        if let (true, Some(declared)) = (fed && registry.is_on(other.address), other.declared.last()) {
            ask(other.address.to_string(), declared.place);
        }
    }
    let hosts = point.declared.first().is_none_or(|declared| declared.layer.index() == 0);
    if let (true, false, Some(declared)) = (registry.is_on_all_pages(point), hosts, point.declared.last()) {
        ask("theme".to_string(), declared.place);
    }
    asked
}

impl FeatureView {
    /// A feature, or of one argument what gives and what shows; nothing where the point is none.
    pub fn new(registry: &Registry, point: &Point, asked: Address) -> Option<FeatureView> {
        let feature = point.feature.as_ref()?;
        Some(FeatureView {
            on: registry.is_on(point.address),
            set_by: set_by(registry, feature),
            arguments: feature.effective().into(),
            feeds: feature.feeds.iter().map(|fed| fed.to_string()).collect(),
            given: fed_on(registry, asked, true),
            used: fed_on(registry, asked, false),
        })
    }
}

/// The highest layer that says each argument; what a feature has in any case is the host's.
fn set_by(registry: &Registry, feature: &Feature) -> Vec<(String, String)> {
    let mut found = Vec::new();
    let said = |path: &[&str]| {
        let says = |given: &&crate::link::Given| {
            path.iter().try_fold(&given.arguments, |value, key| value.get(*key)).is_some()
        };
        let given = feature.given.iter().rev().find(says);
        given.map_or("host".to_string(), |given| PlaceView::of(registry, given.place).layer)
    };
    for (key, value) in feature.effective() {
        match value.as_object().filter(|table| !table.is_empty()) {
            Some(table) => {
                let entries = table.keys().map(|entry| (format!("{key}.{entry}"), said(&[&key, entry])));
                found.extend(entries);
            }
            None => found.push((key.clone(), said(&[&key]))),
        }
    }
    found
}

/// The places that give something for a feature, or show it, each line once.
fn fed_on(registry: &Registry, feature: Address, given: bool) -> Vec<PlaceView> {
    let leads = |found: &&crate::link::Reference| {
        found.link == Link::FeedToFeature
            && matches!(found.outcome, Outcome::Found(Target::Point(asked)) if asked == feature || asked.whole() == feature)
            && registry.is_given(found) == given
    };
    let mut places: Vec<PlaceView> = Vec::new();
    for reference in registry.references().iter().filter(leads) {
        let place = PlaceView::of(registry, reference.from);
        let same =
            |known: &PlaceView| (&known.layer, &known.file, known.line) == (&place.layer, &place.file, place.line);
        if !places.iter().any(same) {
            places.push(place);
        }
    }
    places
}
