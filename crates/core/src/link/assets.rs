//! Assets: what needs which, in which order they come, and which files they name.

use rustc_hash::{FxHashMap, FxHashSet};

use super::asset::NeedCycle;
use super::conditions::Conditions;
use super::feature::Feed;
use super::names::Names;
use super::point::Said;
use super::reference::Link;
use super::refs::Refs;
use super::sort::{Edge, sort};
use crate::address::{Address, Kind};

/// What comes with pages: assets, in order.
#[derive(Default)]
pub(super) struct Carried {
    /// All assets in the order in which they come on a page.
    pub order: Vec<Address>,
    /// Assets that need each other in a circle.
    pub cycles: Vec<NeedCycle>,
    /// The assets that a component needs, directly or through others.
    demanded: FxHashSet<Address>,
    pub refs: Refs,
}

/// Ties what components and assets need, and the files of assets.
pub(super) fn carry(conditions: Conditions<'_>) -> Carried {
    let names = conditions.names;
    let mut refs = Refs::default();
    for (needed, place) in names.declared.all().flat_map(|point| &point.needs) {
        let outcome = names.find_point(*needed, Kind::is_asset);
        refs.refer(names.ground, Link::NeedToAsset, *place, needed.raw, outcome);
    }
    let assets = || names.declared.all().filter_map(|point| point.asset.as_ref());
    for (file, place) in assets().filter_map(|asset| asset.file) {
        names.link_file(&mut refs, place, file, names.ground.layer_of(place), "media/");
    }
    for asset in assets() {
        if let (Some(file), Some(when)) = (asset.when_file, &asset.when) {
            conditions.link(&mut refs, file, when);
        }
    }
    let (order, cycle) = in_order(names);
    let components = names.declared.all().filter(|point| point.address.kind.is_component());
    let demanded = components.flat_map(|component| names.all_needs(component)).collect();
    Carried { order, cycles: cycle.into_iter().collect(), demanded, refs }
}

impl Carried {
    /// Is an asset on every page where its condition holds, whether a component asks for it or not? Those
    /// of the host are only where something needs them, or a feature that is on feeds them.
    pub fn is_on_all_pages(&self, names: Names<'_>, point: &Said) -> bool {
        let fed = |other: &Said| {
            let feeds = other.feature.iter().flat_map(|feature| &feature.feeds);
            feeds.into_iter().any(|fed| fed.feed == Feed::Point(point.address)) && names.declared.is_on(other.address)
        };
        let hosts = point.declared.first().is_none_or(|first| first.layer.index() == 0);
        match hosts {
            true => names.declared.all().any(fed),
            false => !self.demanded.contains(&point.address),
        }
    }
}

/// Puts all assets in the order in which they come on a page.
fn in_order(names: Names<'_>) -> (Vec<Address>, Option<NeedCycle>) {
    let assets: Vec<&Said> = names.declared.all().filter(|point| point.asset.is_some()).collect();
    let places: FxHashMap<Address, usize> = assets.iter().enumerate().map(|(at, point)| (point.address, at)).collect();
    let at = |address: Address| places.get(&address).copied();
    let mut edges = Vec::new();
    for (second, point) in assets.iter().enumerate() {
        for (needed, constraint) in &point.needs {
            if let Some(first) = needed.address.and_then(at) {
                edges.push(Edge { first, second, constraint: *constraint });
            }
        }
    }
    let key = |point: &Said| {
        let asset = point.asset.as_ref();
        let layer = point.declared.first().map(|declared| declared.layer);
        (asset.map(|asset| asset.priority), layer, asset.map(|asset| asset.position))
    };
    let keys: Vec<_> = assets.iter().map(|point| key(point)).collect();
    let (order, cycle) = match sort(&keys, &edges) {
        Ok(order) => (order, None),
        Err(circle) => {
            let steps = circle.iter().map(|edge| (edge.constraint, assets[edge.first].address)).collect();
            let mut order: Vec<usize> = (0..assets.len()).collect();
            order.sort_by_key(|at| keys[*at]);
            (order, Some(NeedCycle { steps }))
        }
    };
    (order.into_iter().map(|at| assets[at].address).collect(), cycle)
}
