//! Declarations: those of all layers merged, key by key.

use std::sync::{Arc, Mutex, OnceLock};

use indexmap::IndexMap;
use rustc_hash::{FxBuildHasher, FxHashMap, FxHashSet};

use super::asset::Asset;
use super::feature::Feed;
use super::ground::Ground;
use super::merge::{Breach, Found, changed_type, lay_over, merge};
use super::point::{By, DeclaredAt, Further, Retired, START, Said, TypeInfo};
use super::types::Types;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::read::FileKind;
use crate::scan::{Declaration, FurtherKeys, Limits, PointRef};
use crate::source::{FileId, LayerId, Place};

/// A point that is declared twice in one layer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Repeat {
    /// The point.
    pub point: Address,
    /// Where it is declared first.
    pub first: Place,
    /// Where it is declared again.
    pub again: Place,
}

/// What all layers declare, merged.
#[derive(Default)]
pub(super) struct Declared {
    pub points: IndexMap<Address, Arc<Said>, FxBuildHasher>,
    pub types: Vec<TypeInfo>,
    pub limits: Limits,
    /// Points declared twice in one layer: the second place, then the first.
    pub repeats: Vec<Repeat>,
    /// Redeclarations that the layers below can't live with.
    pub breaches: Vec<Breach>,
    /// What follows from all that, worked out once it is asked for.
    pub followed: Followed,
}

/// What is asked of declarations again and again.
#[derive(Default)]
pub(super) struct Followed {
    /// All that features feed.
    pub feeds: OnceLock<Vec<(Address, Feed)>>,
    /// The types of pages on which each condition may hold, by its text.
    pub types: Mutex<FxHashMap<Name, Types>>,
    /// Can each condition ever hold, by its text?
    pub holding: Mutex<FxHashMap<Name, bool>>,
}

/// Merges the declarations of all layers, lowest first.
pub(super) fn declare(ground: &Ground) -> Declared {
    let mut declaring =
        Declaring { ground, points: IndexMap::default(), types: Vec::new(), repeats: Vec::new(), breaches: Vec::new() };
    let mut limits = Limits::default();
    for (layer, file) in ground.manifests() {
        let Some(manifest) = ground.manifest(file) else { continue };
        limits = manifest.limits.unwrap_or(limits);
        for (at, declaration) in manifest.declarations.iter().enumerate() {
            // Those of a further file come after those of the files before it.
            declaring.add(layer, file, declaration, file.0 << 16 | at as u32);
        }
        for page_type in &manifest.types {
            let (name, place) = (page_type.name.name, Place { file, at: page_type.name.at });
            declaring.types.retain(|known| known.name != name);
            declaring.types.push(TypeInfo { name, place, keys: page_type.keys.clone(), templates: Vec::new() });
        }
    }
    declaring.choose_page_templates();
    let Declaring { points, types, repeats, breaches, .. } = declaring;
    Declared { points, types, limits, repeats, breaches, followed: Followed::default() }
}

struct Declaring<'g> {
    ground: &'g Ground,
    points: IndexMap<Address, Arc<Said>, FxBuildHasher>,
    types: Vec<TypeInfo>,
    repeats: Vec<Repeat>,
    breaches: Vec<Breach>,
}

impl Declaring<'_> {
    fn add(&mut self, layer: LayerId, file: FileId, declaration: &Declaration, position: u32) {
        let place = Place { file, at: declaration.at };
        let (address, extend) = (declaration.address, declaration.extend);
        let point = Arc::make_mut(self.points.entry(address).or_insert_with(|| Arc::new(Said::new(address))));
        if let Some(first) = point.declared.iter().find(|declared| declared.layer == layer) {
            self.repeats.push(Repeat { point: address, first: first.place, again: place });
        }
        let again = !point.declared.is_empty();
        if !again {
            // Few points are declared in more than one layer.
            point.declared.reserve_exact(1);
        }
        point.declared.push(DeclaredAt { layer, place });
        point.label = declaration.label.or(point.label);
        point.about = declaration.about.or(point.about);
        point.required = declaration.required.unwrap_or(point.required);
        point.moment = declaration.moment.unwrap_or(point.moment);
        point.reserved = declaration.reserved.unwrap_or(point.reserved);
        if let Some(keys) = &declaration.further {
            let last = declaration.last.unwrap_or(false);
            further(point).add(layer, file, keys, extend, last);
        }
        if let Some(keys) = &declaration.asset {
            let asset = point.asset.get_or_insert_with(|| Box::new(Asset::new()));
            asset.add(place, (**keys).clone(), extend, position);
        }
        if let Some(keys) = &declaration.feature {
            point.feature.get_or_insert_default().add(layer, place, keys, extend);
        }
        let found = schemas(point, place, again, declaration, extend);
        let breach = |(kind, place, before)| Breach { point: address, kind, place, before };
        self.breaches.extend(found.into_iter().map(breach));
    }

    /// `TYPE.html` from the highest layer that has one, then `page.html`.
    fn choose_page_templates(&mut self) {
        let names: Vec<Name> = self.types.iter().map(|page_type| page_type.name).collect();
        for (at, name) in names.iter().enumerate() {
            let own = self.ground.files_named(FileKind::Template, &format!("{name}.html")).iter().rev();
            let shared = self.ground.files_named(FileKind::Template, "page.html").iter().rev();
            let mut templates: Vec<FileId> = own.chain(shared).copied().collect();
            let mut seen = FxHashSet::default();
            templates.retain(|file| seen.insert(*file));
            self.types[at].templates = templates;
        }
        let page: Name = "page".into();
        for name in names.into_iter().chain([page]) {
            let files = self.ground.files_named(FileKind::Template, &format!("{name}.html")).to_vec();
            if files.is_empty() {
                continue;
            }
            let address = Address::new(Kind::Template, name);
            let point = Arc::make_mut(self.points.entry(address).or_insert_with(|| Arc::new(Said::new(address))));
            let layers = files.iter().map(|file| (self.ground.project.file(*file).layer, *file));
            let declared = layers.map(|(layer, file)| DeclaredAt { layer, place: Place { file, at: START } });
            point.declared.extend(declared);
            point.declared.sort_by_key(|declared| declared.layer);
        }
    }
}

/// What is said of few points, of one of them.
fn further(point: &mut Said) -> &mut Further {
    point.further.get_or_insert_with(|| Box::new(Further::none()))
}

impl Further {
    /// Lays what a layer says over what is said below, all but the value. `last` is said of what the point has to be
    /// inside of.
    fn add(&mut self, layer: LayerId, file: FileId, keys: &FurtherKeys, extend: bool, last: bool) {
        let here = |at| Place { file, at };
        self.since = keys.since.clone().or(self.since.take());
        self.instead = keys.instead.or(self.instead);
        self.levels = keys.levels.or(self.levels);
        self.wrap = keys.wrap.map(|wrap| wrap.name).or(self.wrap);
        self.wrap_title = keys.wrap_title.map(|wrap| wrap.name).or(self.wrap_title);
        self.inside = keys.inside.map(|inside| (inside.name, last)).or(self.inside);
        if let Some((version, at)) = &keys.retired {
            self.retired = Some(Retired { since: version.clone(), by: By { layer, place: here(*at) } });
        }
        match keys.dropped {
            Some((true, at)) => self.dropped = Some(By { layer, place: here(at) }),
            Some((false, _)) => self.dropped = None,
            None => {}
        }
        let listed = |known: &mut Vec<(PointRef, Place)>, more: &Option<Vec<PointRef>>| {
            let Some(more) = more else { return };
            known.truncate(if extend { known.len() } else { 0 });
            known.extend(more.iter().map(|named| (*named, here(named.at))));
        };
        listed(&mut self.holds, &keys.holds);
        listed(&mut self.needs, &keys.needs);
        if let Some(offers) = &keys.offer {
            let known = if extend { self.offers.take().unwrap_or_default() } else { Vec::new() };
            self.offers = Some(known.into_iter().chain(offers.iter().map(|offer| (file, offer.clone()))).collect());
        }
    }
}

/// Lays what a layer says of a point's value, inputs and arguments over what is said below. Answers what the
/// layers below can't live with; `again` is true where they know the point.
fn schemas(point: &mut Said, place: Place, again: bool, declaration: &Declaration, extend: bool) -> Vec<Found> {
    let mut breaches = Vec::new();
    if let Some((schema, at)) = declaration.value.clone() {
        let new = Place { file: place.file, at };
        let known = &mut further(point).value;
        let merged = match known.take() {
            Some((old, before)) => {
                breaches.extend(changed_type(&old, &schema).map(|kind| (kind, new, before)));
                lay_over(old, schema, extend)
            }
            None => schema,
        };
        *known = Some((merged, new));
    }
    for (known, added, needed) in
        [(&mut point.inputs, &declaration.inputs, again), (&mut point.args, &declaration.args, false)]
    {
        breaches.extend(merge(known, added, place.file, extend, needed.then_some(place)));
    }
    breaches
}

impl Declared {
    /// What is said of a point; of an argument, what is said of the feature.
    pub fn point(&self, address: Address) -> Option<&Said> {
        self.points.get(&address.whole()).map(|said| &**said)
    }

    pub fn has(&self, address: Address) -> bool {
        self.points.contains_key(&address)
    }

    /// All points.
    pub fn all(&self) -> impl Iterator<Item = &Said> {
        self.points.values().map(|said| &**said)
    }

    /// All names of points of one kind.
    pub fn names(&self, kind: Kind) -> impl Iterator<Item = &'static str> {
        self.points.keys().filter(move |address| address.kind == kind).map(|address| address.name.as_str())
    }
}
