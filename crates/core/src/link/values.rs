//! What values name: files, pages, and the entries of features.

use rustc_hash::FxHashMap;

use super::feature::Feed;
use super::names::Names;
use super::paths::relative_path;
use super::point::{Input, Runs, Said};
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use super::slots::Attached;
use crate::name::Name;
use crate::name_sets::NameSet;
use crate::names::{certain, nearest};
use crate::scan::{Given, Named, Prefix, Shape};
use crate::source::{FileId, FileKind, Place};

/// Ties the values that are written out to the files, pages and entries that they name: those in uses of points,
/// file by file, and all others.
pub(super) fn name_values(names: Names<'_>, attached: &Attached) -> (Refs, Refs) {
    let mut naming = Naming { names, paths: paths(names), refs: Refs::default() };
    for (file, _) in names.ground.files() {
        naming.uses(file);
        naming.refs.end_file();
    }
    let given = std::mem::take(&mut naming.refs);
    for placed in names.items() {
        let Some(point) = placed.component.and_then(|component| names.declared.point(component)) else { continue };
        for given in &placed.item.inputs {
            naming.given(placed.file, given, point, &point.inputs);
            if given.name.name == "extent" && names.declared.takes_extent(point.address) {
                naming.entry(placed.file, given, |feed| matches!(feed, Feed::Format(word) if *word == "extent"));
            }
        }
    }
    naming.defaults();
    naming.returned(attached);
    naming.preview();
    (given, naming.refs)
}

/// The values in the uses of points in one file alone.
pub(super) fn values_in(names: Names<'_>, file: FileId) -> Refs {
    let mut naming = Naming { names, paths: paths(names), refs: Refs::default() };
    naming.uses(file);
    naming.refs
}

struct Naming<'n> {
    names: Names<'n>,
    /// The paths of all pages, with their files; nothing where that can't be known.
    paths: Option<Paths>,
    refs: Refs,
}

/// The paths of all pages.
struct Paths {
    /// The page at each, by its path without the last slash.
    pages: FxHashMap<String, Option<FileId>>,
    /// Those that the preview says.
    known: NameSet,
}

/// The paths of the site's pages, and of those that stand in for types without one.
fn paths(names: Names<'_>) -> Option<Paths> {
    let ground = names.ground;
    if ground.blind.site || ground.pages().next().is_none() {
        return None;
    }
    let own = ground.pages().filter_map(|(file, page)| Some((page.path?.name.to_string(), Some(file))));
    // A page stands in for each type that no page has.
    let has = |name: Name| ground.pages().any(|(_, page)| page.page_type.is_some_and(|own| own.name == name));
    let without = names.declared.types.iter().filter(|page_type| !has(page_type.name));
    let samples = without.map(|page_type| match page_type.name.as_str() {
        "front" => ("/".to_string(), None),
        name => (format!("/{name}/"), None),
    });
    let all: Vec<(String, Option<FileId>)> = own.chain(samples).collect();
    let known = NameSet::new(all.iter().filter(|(_, page)| page.is_some()).map(|(path, _)| path.as_str()));
    let mut paths = Paths { pages: FxHashMap::default(), known };
    for (path, page) in all {
        paths.pages.entry(path.trim_end_matches('/').to_string()).or_insert(page);
    }
    Some(paths)
}

impl Naming<'_> {
    fn uses(&mut self, file: FileId) {
        for used in self.names.ground.uses_in(file) {
            let point = used.point.address.and_then(|address| self.names.declared.point(address));
            let Some(point) = point else { continue };
            used.given.iter().for_each(|given| self.given(file, given, point, point.passed()));
        }
        // Where a base's own links lead is told where that is checked.
        let project = &self.names.ground.project;
        if project.file(file).layer == project.top() {
            let links: &[Named] = match &self.names.ground.facts(file).shape {
                Shape::Template(template) => &template.links,
                Shape::Module(module) => &module.links,
                _ => &[],
            };
            links.iter().for_each(|link| self.page(file, *link));
        }
    }

    fn returned(&mut self, attached: &Attached) {
        for point in self.names.declared.all().filter(|point| point.address.kind.is_component()) {
            let slots = attached.slots.get(&point.address).into_iter().flat_map(|slots| slots.on.iter());
            let called = slots.filter_map(|slot| match slot.runs {
                Runs::Callback(_, callback) => callback,
                Runs::Partial(..) => None,
            });
            for callback in called {
                let export = self.names.ground.export(callback);
                let given = export.into_iter().flat_map(|export| &export.returns).flat_map(|returned| returned.given());
                given.for_each(|given| self.given(callback.file, given, point, &point.inputs));
            }
        }
    }

    /// What inputs have where nothing is given.
    fn defaults(&mut self) {
        for point in self.names.declared.all() {
            for input in &point.inputs {
                if let (Some(default), true) = (input.field.default(), input.field.default_at.is_some()) {
                    let at = input.field.default_at.unwrap_or_default();
                    let name = Named { name: input.field.name, at };
                    let given = Given { name, value: default.clone(), at };
                    self.given(input.place.file, &given, point, &point.inputs);
                }
            }
        }
    }

    /// The files and pages that the preview names beside items.
    fn preview(&mut self) {
        for (file, facts) in self.names.ground.files() {
            let (files, links): (&[Named], &[Named]) = match &facts.shape {
                Shape::Site(site) => (&site.files, &site.links),
                Shape::Page(page) => (&page.files, &[]),
                Shape::Body(body) => (&body.files, &body.links),
                _ => continue,
            };
            files.iter().for_each(|named| self.file(file, *named));
            for link in links {
                match link.name.as_str() {
                    path if path.starts_with("media/") => self.file(file, *link),
                    _ => self.page(file, *link),
                }
            }
        }
    }

    /// A value that is given to an input.
    fn given(&mut self, file: FileId, given: &Given, point: &Said, inputs: &[Input]) {
        let Some(text) = given.value.as_str().filter(|text| !text.is_empty()) else { return };
        let named = Named { name: text.into(), at: given.at };
        let Some(input) = inputs.iter().find(|input| input.field.name == given.name.name) else { return };
        match input.field.format() {
            Some("path") => self.file(file, named),
            Some("page") => self.page(file, named),
            Some(word) => self.entry(file, given, |feed| matches!(feed, Feed::Format(known) if *known == *word)),
            None => {
                let (address, name) = (point.address, given.name.name);
                self.entry(file, given, |feed| *feed == Feed::Input(address, name));
            }
        }
    }

    /// A file of the theme, as far as it is one.
    fn file(&mut self, file: FileId, named: Named) {
        let written = named.name.as_str();
        let (prefix, path) = Prefix::split(written);
        let layer = matches!(prefix, Prefix::Layer(name) if self.names.ground.project.layer_named(&name).is_none());
        // A page is not at the root of its address space: a file of the theme is named from the theme's folder.
        if let Some(inside) = path.strip_prefix('/').filter(|inside| inside.starts_with("media/")) {
            let ground = self.names.ground;
            let found = ground.find_media_file(inside, ground.project.top());
            let meant = found.map(|(layer, path)| {
                let target = ground.media_target(layer, &path);
                Meant::from(Meaning { written: inside.into(), target, certain: true })
            });
            let layer = ground.project.file(file).layer;
            let outcome = Outcome::Missing { wanted: Wanted::File(layer, named.name), meant };
            return self.refs.refer(ground, Link::AssetToFile, Place { file, at: named.at }, named.name, outcome);
        }
        let foreign = layer || path.starts_with('/') || written.contains("://") || written.contains("?print=");
        if foreign || relative_path("page", path).is_none() {
            return;
        }
        let source = self.names.ground.project.file(file);
        // In a text it is an address: percent-encoded, perhaps with a query or fragment.
        let ground = self.names.ground;
        let decoded = relative_path("page", path).filter(|decoded| source.kind == FileKind::Body && decoded != path);
        if let Some((layer, path)) = decoded.and_then(|path| ground.find_media_file(&path, ground.project.top())) {
            let outcome = Outcome::Found(ground.media_target(layer, &path));
            return self.refs.refer(ground, Link::AssetToFile, Place { file, at: named.at }, named.name, outcome);
        }
        // Templates and callbacks ask from the top, as the stage does.
        let layer = match source.kind {
            FileKind::Template | FileKind::Module => self.names.ground.project.top(),
            _ => source.layer,
        };
        self.names.link_file(&mut self.refs, Place { file, at: named.at }, named.name, layer, "");
    }

    /// A page of the site, by its path.
    fn page(&mut self, file: FileId, named: Named) {
        let written = named.name.as_str().split(['?', '#']).next().unwrap_or_default();
        let last = written.trim_end_matches('/').rsplit('/').next().unwrap_or_default();
        let Some(paths) = &self.paths else { return };
        if !written.starts_with('/') || written.starts_with("//") || last.contains('.') {
            return;
        }
        let outcome = match paths.pages.get(written.trim_end_matches('/')) {
            Some(page) => Outcome::Found(page.map_or(Target::Given, Target::File)),
            None => {
                let meant = paths.known.nearest(written).and_then(|near| {
                    let (certain, near) = (near.certain, near.written);
                    let page = *paths.pages.get(near.trim_end_matches('/'))?;
                    let rest = &named.name.as_str()[written.len()..];
                    let target = page.map_or(Target::Given, Target::File);
                    Some(Meant::from(Meaning { written: format!("{near}{rest}").as_str().into(), target, certain }))
                });
                Outcome::Missing { wanted: Wanted::Page(named.name), meant }
            }
        };
        self.refs.refer(self.names.ground, Link::ValueToPage, Place { file, at: named.at }, named.name, outcome);
    }

    /// An entry of what a feature is switched on with, as a width of pictures.
    fn entry(&mut self, file: FileId, given: &Given, fed: impl Fn(&Feed) -> bool) {
        let Some(text) = given.value.as_str().filter(|text| !text.is_empty()) else { return };
        let Some((asked, entries)) = self.names.declared.entries_for(fed) else { return };
        let words = || entries.iter().map(|entry| entry.as_str());
        let target = Target::Point(asked.whole());
        let named: Name = text.into();
        let outcome = match words().any(|word| word == text) {
            true => Outcome::Found(target),
            false => {
                let meant = nearest(text, words()).map(|near| {
                    Meant::from(Meaning { written: near.into(), target, certain: certain(text, words()).is_some() })
                });
                Outcome::Missing { wanted: Wanted::Entry(asked, named), meant }
            }
        };
        self.refs.refer(self.names.ground, Link::ValueToEntry, Place { file, at: given.at }, named, outcome);
    }
}
