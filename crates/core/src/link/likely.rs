//! What a reference that leads nowhere may have led to before something was renamed or lost.

use std::cell::{OnceCell, RefCell};

use camino::Utf8Path;
use rustc_hash::{FxHashMap, FxHashSet};

use super::missed::Missed;
use super::names::Names;
use super::paths::component_template;
use super::point::{Callback, Renderer, Said};
use super::reference::{Meaning, Meant, Reference, Target, Wanted};
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::read::FileKind;
use crate::scan::{Attached, Prefix, SectionKind};
use crate::source::{FileId, LayerId, Place};

/// The search for what was most likely meant.
pub(super) struct Likely<'l> {
    pub names: Names<'l>,
    pub renderers: &'l FxHashMap<Address, Renderer>,
    pub references: &'l [Reference],
    pub out: Missed,
    /// Assets by the names of their files.
    pub filed: OnceCell<FxHashMap<&'static str, Vec<Address>>>,
    /// What nothing referred to, of each set that was asked for. What is referred to once is so for good, so each of a
    /// set is looked at once or twice, however often the set is asked for.
    pub free: RefCell<FxHashMap<Set, Vec<Target>>>,
}

/// Things among which one may be the only one that nothing refers to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum Set {
    Points(Kind),
    /// Those that nothing renders.
    Bare(Kind),
    Options,
    Menus,
    Inputs(Address),
    Exports(FileId),
    Macros(FileId),
    Files(FileKind),
    /// The modules of a layer.
    Modules(LayerId),
    Messages,
}

fn filed(names: Names<'_>) -> FxHashMap<&'static str, Vec<Address>> {
    let mut filed: FxHashMap<&'static str, Vec<Address>> = FxHashMap::default();
    for point in names.declared.all() {
        if let Some((file, _)) = point.asset.as_ref().and_then(|asset| asset.file)
            && let Some(stem) = Utf8Path::new(file.as_str()).file_stem()
        {
            filed.entry(stem).or_default().push(point.address);
        }
    }
    filed
}

impl Likely<'_> {
    /// What belongs to a missing thing and is still there is not idle: its loss is the same mistake.
    pub fn spare_what_was_left(&mut self, wanted: Wanted, meant: Option<Meant>) {
        match wanted {
            Wanted::Point(raw) => {
                let Ok(address) = raw.parse::<Address>() else { return };
                let left = self.names.ground.files_named(FileKind::Template, &component_template(address)).to_vec();
                self.out.spared.extend(left.into_iter().map(Target::File));
            }
            Wanted::Slot(_, name) => {
                // The callback is there, but not attached.
                let found = self.names.callback_named(&name, self.names.ground.project.top());
                self.out.spared.extend(found.map(|callback| Target::Export(callback.file, callback.export)));
            }
            Wanted::Module(..) => {
                // All that is asked of a module which was renamed.
                let target = meant.map(|meant| meant.target);
                let Some(Target::Export(file, _) | Target::File(file)) = target else { return };
                let exports = self.names.ground.module(file).map(|module| module.exports.clone()).unwrap_or_default();
                self.out.spared.extend(exports.iter().map(|export| Target::Export(file, export.name)));
            }
            _ => {}
        }
    }

    /// The only one of a set that nothing refers to; nothing where there are several or none. `all` is what is in it.
    fn only_free(&self, set: Set, all: impl FnOnce() -> Vec<Target>) -> Option<Target> {
        let mut known = self.free.borrow_mut();
        let left = known.entry(set).or_insert_with(all);
        let mut at = 0;
        while at < left.len() && at < 2 {
            match self.is_free_of_all(set, left[at]) {
                true => at += 1,
                false => drop(left.swap_remove(at)),
            }
        }
        if let [one] = left[..] { Some(one) } else { None }
    }

    fn is_free_of_all(&self, set: Set, target: Target) -> bool {
        let (true, Set::Modules(_), Target::File(file)) = (self.is_free(target), set, target) else {
            return self.is_free(target);
        };
        let exports = self.names.ground.module(file).map_or(&[][..], |module| &module.exports);
        exports.iter().all(|export| self.is_free(Target::Export(file, export.name)))
    }

    /// What a reference that leads nowhere may have led to before it was renamed: the only thing of
    /// its kind that nothing refers to. `written` is what it says.
    pub fn orphan(&self, wanted: Wanted, written: Name) -> Option<Meant> {
        let ground = self.names.ground;
        match wanted {
            Wanted::Point(raw) => self.orphan_point(raw),
            Wanted::Option(_) => {
                let is_option = |point: &&Said| point.address.kind == Kind::Option;
                let options = || self.names.declared.all().filter(is_option).map(|point| Target::Point(point.address));
                let alone = self.only_free(Set::Options, || options().collect())?;
                let Target::Point(address) = alone else { return None };
                Some(meant(address.name, alone))
            }
            Wanted::Menu(_) => {
                let menus = ground.menus();
                let all = || menus.iter().map(|(_, place)| Target::Menu(*place)).collect();
                let alone = self.only_free(Set::Menus, all)?;
                let (menu, _) = menus.iter().find(|(_, place)| Target::Menu(*place) == alone)?;
                Some(meant(menu.name, alone))
            }
            Wanted::Input(address, _) => {
                let point = self.names.declared.point(address)?;
                let inputs = || point.passed().iter().map(|input| Target::Input(address, input.field.name));
                let alone = self.only_free(Set::Inputs(address), || inputs().collect())?;
                let Target::Input(_, name) = alone else { return None };
                Some(meant(name, alone))
            }
            Wanted::Export(file, _) => {
                let module = ground.module(file)?;
                let exports = || module.exports.iter().map(|export| Target::Export(file, export.name));
                let alone = self.only_free(Set::Exports(file), || exports().collect())?;
                let Target::Export(_, name) = alone else { return None };
                let now = match written.split_once('#') {
                    Some((module, _)) => format!("{module}#{name}"),
                    None => name.to_string(),
                };
                Some(meant(now, alone))
            }
            Wanted::Template(raw) if Prefix::split(&raw).0 != Prefix::None => None,
            Wanted::Template(_) | Wanted::Markup(_) => self.orphan_file(FileKind::Template),
            Wanted::File(_, written) => {
                let kind = FileKind::of(Utf8Path::new(&format!("media/{written}")));
                self.orphan_file(kind.filter(|kind| *kind != FileKind::Media)?)
            }
            Wanted::Message(_) => self.orphan_message(),
            Wanted::Macro(file, _) => {
                let template = ground.template(file)?;
                let macros = || {
                    template.sections.iter().filter_map(|section| match section.kind {
                        SectionKind::Macro(name) => Some(Target::Macro(file, name)),
                        _ => None,
                    })
                };
                let alone = self.only_free(Set::Macros(file), || macros().collect())?;
                let Target::Macro(_, name) = alone else { return None };
                Some(meant(name, alone))
            }
            Wanted::Module(layer, raw) => self.orphan_module(layer, raw, written),
            Wanted::Slot(address, written) => self.orphan_slot(Some(address), written),
            Wanted::AnySlot(written) => self.orphan_slot(None, written),
            _ => None,
        }
    }

    fn is_free(&self, target: Target) -> bool {
        !self.out.is_referred(target)
    }

    /// Of several points, the one that lost its template when it was given another name, or whose file still
    /// has the old one.
    fn orphan_point(&self, raw: Name) -> Option<Meant> {
        let kind = raw.parse::<Address>().ok().map(|address| address.kind).filter(|kind| *kind != Kind::Feature)?;
        let accepted = OnceCell::new();
        let is_own = |point: &&Said| {
            // What the theme accepts as it is was never asked for.
            let own = point.layer().is_some_and(|layer| layer.index() > 0);
            own && point.address.kind == kind
                && !accepted.get_or_init(|| self.names.ground.accepted()).contains(&point.address)
        };
        let own = || self.names.declared.all().filter(is_own);
        let bare = |point: &&Said| !self.renderers.contains_key(&point.address);
        let targets = |points: &mut dyn Iterator<Item = &Said>| -> Vec<Target> {
            points.map(|point| Target::Point(point.address)).collect()
        };
        let old = raw.as_str().split_once(':').map_or("", |(_, name)| name);
        let filed = || {
            let filed = self.filed.get_or_init(|| filed(self.names)).get(old).into_iter().flatten();
            let points = filed.filter_map(|address| self.names.declared.point(*address)).filter(is_own);
            points.map(|point| Target::Point(point.address)).filter(|target| self.is_free(*target))
        };
        let bared = || match kind.is_component() {
            true => self.only_free(Set::Bare(kind), || targets(&mut own().filter(bare))),
            false => None,
        };
        let alone = self.only_free(Set::Points(kind), || targets(&mut own()));
        let alone = alone.or_else(bared).or_else(|| only(filed()))?;
        let Target::Point(address) = alone else { return None };
        Some(meant(address.to_string(), alone))
    }

    /// Of the callbacks that a layer attaches, the only one of the same module that nothing takes away, replaces or
    /// orders.
    fn orphan_slot(&self, point: Option<Address>, written: Name) -> Option<Meant> {
        let (Prefix::Layer(layer), rest) = Prefix::split(&written) else { return None };
        let (module, _) = rest.split_once('#')?;
        let ground = self.names.ground;
        let own = ground.manifests().into_iter().filter(|(of, _)| ground.project.layer(*of).name == layer);
        let attachments =
            own.filter_map(|(_, file)| Some((file, ground.manifest(file)?))).flat_map(|(file, manifest)| {
                manifest.attachments.iter().map(move |attachment| (Place { file, at: attachment.at }, attachment))
            });
        let found = attachments.filter_map(|(place, attachment)| match attachment.what {
            Attached::Call(call) if call.prefix == Prefix::None && call.file == *module => {
                let there = point.is_none_or(|point| attachment.to.address == Some(point));
                (there && self.is_free(Target::Slot(place))).then_some((place, call.raw))
            }
            _ => None,
        });
        let (place, call) = only(found)?;
        Some(meant(format!("{layer}:{call}"), Target::Slot(place)))
    }

    fn orphan_message(&self) -> Option<Meant> {
        let ground = self.names.ground;
        let all = || {
            let words = ground.translations().into_iter().filter_map(|(file, _)| Some((file, ground.words(file)?)));
            let mut seen = FxHashSet::default();
            let entries = words.flat_map(|(file, words)| {
                words.entries.iter().map(move |entry| (Place { file, at: entry.at }, entry.id))
            });
            let free = entries.filter(|(place, _)| self.is_free(Target::Entry(*place)));
            free.filter(|(_, id)| seen.insert(*id)).map(|(place, _)| Target::Entry(place)).collect()
        };
        let alone = self.only_free(Set::Messages, all)?;
        let Target::Entry(place) = alone else { return None };
        let entry = ground.words(place.file)?.entries.iter().find(|entry| entry.at == place.at)?;
        Some(meant(entry.id, alone))
    }

    fn orphan_module(&self, layer: LayerId, raw: Name, written: Name) -> Option<Meant> {
        let all = || self.files_of(FileKind::Module, Some(layer));
        let alone = self.only_free(Set::Modules(layer), all)?;
        let Target::File(file) = alone else { return None };
        let name = self.names.ground.project.file(file).name();
        match written.split_once('#').map(|(_, export)| export) {
            Some(export) => {
                self.names.ground.export(Callback { file, export: export.into() })?;
                Some(meant(format!("{name}#{export}"), Target::Export(file, export.into())))
            }
            None if raw.starts_with('.') => Some(meant(format!("./{name}"), alone)),
            None => None,
        }
    }

    fn orphan_file(&self, kind: FileKind) -> Option<Meant> {
        let alone = self.only_free(Set::Files(kind), || self.files_of(kind, None))?;
        let Target::File(file) = alone else { return None };
        Some(meant(self.names.ground.project.file(file).name(), alone))
    }

    /// The files of layers above the host, or of one layer, that no page and no other file hides.
    fn files_of(&self, kind: FileKind, layer: Option<LayerId>) -> Vec<Target> {
        let ground = self.names.ground;
        let files = ground.project.files.iter().enumerate().filter(|(_, file)| file.kind == kind);
        let own = files.filter(|(_, file)| layer.map_or(file.layer.index() > 0, |layer| layer == file.layer));
        let ids = own.map(|(at, file)| (FileId(at as u32), file));
        let seen = ids.filter(|(id, file)| ground.files_named(kind, file.name()).last().is_none_or(|last| last == id));
        seen.filter(|(id, _)| !self.names.is_page_template(*id)).map(|(id, _)| Target::File(id)).collect()
    }
}

fn meant(written: impl std::fmt::Display, target: Target) -> Meant {
    Meant::from(Meaning { written: written.to_string().as_str().into(), target, certain: false })
}

/// The only one, where there is just one.
pub(super) fn only<T>(mut found: impl Iterator<Item = T>) -> Option<T> {
    let first = found.next()?;
    found.next().is_none().then_some(first)
}
