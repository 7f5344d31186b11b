//! What a reference that leads nowhere may have led to before something was renamed or lost.

use std::cell::OnceCell;

use camino::Utf8Path;
use rustc_hash::FxHashMap;

use super::missed::Missed;
use super::names::Names;
use super::paths::component_template;
use super::point::{Callback, Renderer, Said};
use super::reference::{Meaning, Meant, Outcome, Reference, Target, Wanted};
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

    /// What a reference that leads nowhere may have led to before it was renamed: the only thing of
    /// its kind that nothing refers to.
    pub fn orphan(&self, wanted: Wanted) -> Option<Meant> {
        match wanted {
            Wanted::Point(raw) => self.orphan_point(raw),
            Wanted::Option(_) => {
                let options = self.names.declared.all().filter(|point| point.address.kind == Kind::Option);
                let alone = only(options.filter(|point| self.is_free(Target::Point(point.address))))?;
                Some(meant(alone.address.name, Target::Point(alone.address)))
            }
            Wanted::Menu(_) => {
                let menus = self.names.ground.menus().into_iter();
                let (menu, place) = only(menus.filter(|(_, place)| self.is_free(Target::Menu(*place))))?;
                Some(meant(menu.name, Target::Menu(place)))
            }
            Wanted::Input(address, _) => {
                let inputs = self.names.declared.point(address)?.passed().iter().map(|input| input.field.name);
                let alone = only(inputs.filter(|input| self.is_free(Target::Input(address, *input))))?;
                Some(meant(alone, Target::Input(address, alone)))
            }
            Wanted::Export(file, _) => {
                let exports = self.names.ground.module(file)?.exports.iter().map(|export| export.name);
                let alone = only(exports.filter(|export| self.is_free(Target::Export(file, *export))))?;
                let written = match wanted_by_call(self.references, wanted) {
                    Some(call) => format!("{}#{alone}", call.split_once('#')?.0),
                    None => alone.to_string(),
                };
                Some(meant(written, Target::Export(file, alone)))
            }
            Wanted::Template(raw) if Prefix::split(&raw).0 != Prefix::None => None,
            Wanted::Template(_) | Wanted::Markup(_) => {
                let (file, name) = only(self.orphan_files(FileKind::Template, None))?;
                Some(meant(name, Target::File(file)))
            }
            Wanted::File(_, written) => {
                let kind = FileKind::of(Utf8Path::new(&format!("media/{written}")));
                let kind = kind.filter(|kind| *kind != FileKind::Media)?;
                let (file, name) = only(self.orphan_files(kind, None))?;
                Some(meant(name, Target::File(file)))
            }
            Wanted::Message(_) => self.orphan_message(),
            Wanted::Macro(file, _) => {
                let template = self.names.ground.template(file)?;
                let macros = template.sections.iter().filter_map(|section| match section.kind {
                    SectionKind::Macro(name) => Some(name),
                    _ => None,
                });
                let alone = only(macros.filter(|name| self.is_free(Target::Macro(file, *name))))?;
                Some(meant(alone, Target::Macro(file, alone)))
            }
            Wanted::Module(layer, raw) => self.orphan_module(wanted, layer, raw),
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
        let accepted = self.names.ground.accepted();
        let is_free = |point: &&Said| {
            // What the theme accepts as it is was never asked for.
            let own = point.layer().is_some_and(|layer| layer.index() > 0) && !accepted.contains(&point.address);
            own && point.address.kind == kind && self.is_free(Target::Point(point.address))
        };
        let free = || self.names.declared.all().filter(is_free);
        let bare = |point: &&Said| !self.renderers.contains_key(&point.address);
        let old = raw.as_str().split_once(':').map_or("", |(_, name)| name);
        let filed = || {
            let filed = self.filed.get_or_init(|| filed(self.names)).get(old).into_iter().flatten();
            filed.filter_map(|address| self.names.declared.point(*address)).filter(is_free)
        };
        let bared = || if kind.is_component() { only(free().filter(bare)) } else { None };
        let alone = only(free()).or_else(bared).or_else(|| only(filed()))?;
        Some(meant(alone.address.to_string(), Target::Point(alone.address)))
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
        let words = ground.translations().into_iter().filter_map(|(file, _)| Some((file, ground.words(file)?)));
        let entries = words
            .flat_map(|(file, words)| words.entries.iter().map(move |entry| (Place { file, at: entry.at }, entry.id)));
        let mut free: Vec<(Place, Name)> = entries.filter(|(place, _)| self.is_free(Target::Entry(*place))).collect();
        free.dedup_by_key(|(_, id)| *id);
        let (place, id) = only(free.into_iter())?;
        Some(meant(id, Target::Entry(place)))
    }

    fn orphan_module(&self, wanted: Wanted, layer: LayerId, raw: Name) -> Option<Meant> {
        let (file, name) = only(self.orphan_modules(layer))?;
        let call = wanted_by_call(self.references, wanted);
        match call.and_then(|call| call.as_str().split_once('#').map(|(_, export)| export)) {
            Some(export) => {
                self.names.ground.export(Callback { file, export: export.into() })?;
                Some(meant(format!("{name}#{export}"), Target::Export(file, export.into())))
            }
            None if raw.starts_with('.') => Some(meant(format!("./{name}"), Target::File(file))),
            None => None,
        }
    }

    /// The templates of layers above the host that nothing refers to.
    fn orphan_files(&self, kind: FileKind, layer: Option<LayerId>) -> impl Iterator<Item = (FileId, String)> {
        self.names.ground.project.files.iter().enumerate().filter_map(move |(at, file)| {
            let id = FileId(at as u32);
            let own = layer.map_or(file.layer.index() > 0, |layer| layer == file.layer);
            let named = self.names.ground.files_named(kind, file.name()).last();
            let hidden = named.is_some_and(|last| *last != id);
            let free = !hidden && !self.out.is_referred(Target::File(id)) && !self.names.is_page_template(id);
            (own && file.kind == kind && free).then(|| (id, file.name().to_string()))
        })
    }

    /// The modules of a layer of which nothing is used.
    fn orphan_modules(&self, layer: LayerId) -> impl Iterator<Item = (FileId, String)> {
        self.orphan_files(FileKind::Module, Some(layer)).filter(|(file, _)| {
            let exports = self.names.ground.module(*file).map_or(&[][..], |module| &module.exports);
            exports.iter().all(|export| !self.out.is_referred(Target::Export(*file, export.name)))
        })
    }
}

fn meant(written: impl std::fmt::Display, target: Target) -> Meant {
    Meant::from(Meaning { written: written.to_string().as_str().into(), target, certain: false })
}

/// How a callback that is missing was written.
fn wanted_by_call(references: &[Reference], wanted: Wanted) -> Option<Name> {
    let asks =
        |reference: &&Reference| matches!(reference.outcome, Outcome::Missing { wanted: other, .. } if other == wanted);
    references.iter().find(asks).map(|reference| reference.written).filter(|written| written.contains('#'))
}

/// The only one, where there is just one.
pub(super) fn only<T>(mut found: impl Iterator<Item = T>) -> Option<T> {
    let first = found.next()?;
    found.next().is_none().then_some(first)
}
