//! References that lead nowhere, grouped: one thing that is missing is one finding, however many
//! places ask for it.

use camino::Utf8Path;

use super::declare::component_template;
use super::reference::{Meant, Wanted};
use super::*;
use crate::read::FileKind;
use crate::scan::Prefix;

/// One thing that is asked for and isn't there.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Miss {
    /// What is asked for.
    pub wanted: Wanted,
    /// How it is asked for first; this decides the rule.
    pub link: Link,
    /// The references, as positions in [`Registry::references`]; the first is the one to mend first.
    pub references: Vec<usize>,
    /// What was most likely meant.
    pub meant: Option<Meant>,
    /// The highest layer that asks for it.
    pub layer: LayerId,
}

impl Registry {
    /// Groups what is missing. What was most likely meant counts as referred to.
    pub(super) fn group_misses(&mut self) {
        let mut groups: IndexMap<Wanted, Vec<usize>> = IndexMap::default();
        for (at, reference) in self.references.iter().enumerate() {
            if let Outcome::Missing { wanted, .. } = reference.outcome {
                groups.entry(wanted).or_default().push(at);
            }
        }
        // The same callback is asked for, whether it is said at which point or not.
        let anywhere: Vec<Wanted> =
            groups.keys().filter(|wanted| matches!(wanted, Wanted::AnySlot(_))).copied().collect();
        for wanted in anywhere {
            let Wanted::AnySlot(name) = wanted else { continue };
            let at_point = |other: &Wanted| matches!(other, Wanted::Slot(_, known) if *known == name);
            let same = groups.keys().find(|other| at_point(other)).copied();
            if let Some(same) = same
                && let Some(references) = groups.shift_remove(&wanted)
            {
                groups[&same].extend(references);
            }
        }
        for (wanted, mut references) in groups {
            references.sort_by_key(|at| {
                let reference = &self.references[*at];
                // Who declares or shows something knows more of it than who takes it away.
                let overrides = matches!(reference.link, Link::DetachToSlot | Link::ReplaceToSlot);
                (std::cmp::Reverse(reference.layer), overrides, reference.link, reference.from)
            });
            let first = self.references[references[0]];
            let Outcome::Missing { meant, .. } = first.outcome else { continue };
            // What nothing else asks for is a better guess than what is asked for elsewhere.
            let meant = match meant {
                Some(near) if near.certain || !self.is_referred(near.target) => Some(near),
                near => self.orphan(wanted).or(near),
            };
            self.spare_what_was_left(wanted, meant);
            if let Some(meant) = meant {
                self.referred.insert(meant.target);
                if let (Wanted::Template(written), Target::File(file)) = (wanted, meant.target) {
                    self.meant_templates.insert(written, file);
                }
            } else {
                // What is missing could have placed anything.
                let holds = matches!(
                    wanted,
                    Wanted::Export(..)
                        | Wanted::Module(..)
                        | Wanted::Template(_)
                        | Wanted::Markup(_)
                        | Wanted::Macro(..)
                );
                self.blind.placements |= holds;
                self.blind.imports |= matches!(wanted, Wanted::Module(..));
            }
            self.misses.push(Miss { wanted, link: first.link, references, meant, layer: first.layer });
        }
        self.join_renamed_components();
        self.join_renamed_features();
        for (at, miss) in self.misses.iter().enumerate() {
            self.missed.insert(miss.wanted, at);
            if let Some(meant) = miss.meant {
                let placed = matches!(miss.link, Link::PlaceToPoint | Link::ThroughToFilter);
                *self.meant.entry(meant.target).or_default() |= placed;
            }
        }
    }

    /// What is missing of that sort, if it is.
    pub fn miss_of(&self, wanted: Wanted) -> Option<&Miss> {
        self.missed.get(&wanted).map(|at| &self.misses[*at])
    }

    /// Was this most likely meant by something that leads nowhere?
    pub fn is_meant(&self, target: Target) -> bool {
        self.meant.contains_key(&target)
    }

    /// Was this most likely meant by a placement, or by a value that is sent through it?
    pub(super) fn is_meant_to_be_placed(&self, point: Address) -> bool {
        self.meant.get(&Target::Point(point)).copied().unwrap_or(false)
    }

    /// A feature that is switched on under a name which the host does not know, and one that is missed
    /// wherever something feeds on it: one mistake.
    fn join_renamed_features(&mut self) {
        let is_unknown = |miss: &&mut Miss| {
            matches!(miss.wanted, Wanted::Point(_)) && miss.link == Link::FeatureToOffer && miss.meant.is_none()
        };
        let missed = only(self.misses.iter().filter(|miss| matches!(miss.wanted, Wanted::Feature(_))).cloned());
        let Some(Miss { wanted: Wanted::Feature(asked), references, .. }) = missed else { return };
        let Some(unknown) = only(self.misses.iter_mut().filter(is_unknown)) else { return };
        let feature = asked.whole();
        let written = feature.name;
        if let Wanted::Point(raw) = unknown.wanted
            && references.iter().any(|at| self.references[*at].layer > unknown.layer)
        {
            // Who misses it sees where it is switched on under another name.
            let target = raw.parse().ok().map(Target::Point);
            let missed = self.misses.iter_mut().find(|miss| miss.wanted == Wanted::Feature(asked));
            if let (Some(target), Some(missed)) = (target, missed) {
                missed.meant = Some(Meant { written: raw, target, certain: false });
            }
            return;
        }
        unknown.meant = Some(Meant { written, target: Target::Point(feature), certain: false });
        unknown.references.extend(references);
        self.misses.retain(|miss| miss.wanted != Wanted::Feature(asked));
    }

    /// What belongs to a missing thing and is still there is not idle: its loss is the same mistake.
    fn spare_what_was_left(&mut self, wanted: Wanted, meant: Option<Meant>) {
        match wanted {
            Wanted::Point(raw) => {
                let Ok(address) = raw.parse::<Address>() else { return };
                let left = self.files_named(FileKind::Template, &component_template(address)).to_vec();
                self.referred.extend(left.into_iter().map(Target::File));
            }
            Wanted::Slot(_, name) => {
                // The callback is there, but not attached.
                let found = self.callback_named(&name, self.project.top());
                self.referred.extend(found.map(|callback| Target::Export(callback.file, callback.export)));
            }
            Wanted::Module(..) => {
                // All that is asked of a module which was renamed.
                let Some(Meant { target: Target::Export(file, _) | Target::File(file), .. }) = meant else { return };
                let exports = self.module(file).map(|module| module.exports.clone()).unwrap_or_default();
                self.referred.extend(exports.iter().map(|export| Target::Export(file, export.name)));
            }
            _ => {}
        }
    }

    /// A component that was renamed lacks a template, and its old name is asked for: one mistake.
    fn join_renamed_components(&mut self) {
        let renamed: Vec<Address> = self
            .misses
            .iter()
            .filter(|miss| matches!(miss.wanted, Wanted::Point(_)))
            .filter_map(|miss| match miss.meant?.target {
                Target::Point(address) => Some(address),
                _ => None,
            })
            .collect();
        self.misses.retain(|miss| !matches!(miss.wanted, Wanted::Markup(address) if renamed.contains(&address)));
    }

    /// What a reference that leads nowhere may have led to before it was renamed: the only thing of
    /// its kind that nothing refers to.
    fn orphan(&self, wanted: Wanted) -> Option<Meant> {
        let meant = |written: String, target| Meant { written: written.as_str().into(), target, certain: false };
        match wanted {
            Wanted::Point(raw) => {
                let kind = raw.parse::<Address>().ok()?.kind;
                if kind == Kind::Feature {
                    return None;
                }
                let free = || {
                    self.points.values().filter(|point| {
                        let own = point.layer().is_some_and(|layer| layer.index() > 0);
                        own && point.address.kind == kind && !self.is_referred(Target::Point(point.address))
                    })
                };
                // Of several, the one that lost its template when it was given another name, or whose file
                // still has the old one.
                let bare = |point: &&Point| kind.is_component() && point.renderer.is_none();
                let old = raw.as_str().split_once(':').map_or("", |(_, name)| name);
                let filed = |point: &&Point| {
                    let file = point.asset.as_ref().and_then(|asset| asset.file);
                    file.is_some_and(|(file, _)| Utf8Path::new(file.as_str()).file_stem() == Some(old))
                };
                let alone =
                    only(free()).or_else(|| only(free().filter(bare))).or_else(|| only(free().filter(filed)))?;
                Some(meant(alone.address.to_string(), Target::Point(alone.address)))
            }
            Wanted::Option(_) => {
                let options = self.points.values().filter(|point| point.address.kind == Kind::Option);
                let alone = only(options.filter(|point| !self.is_referred(Target::Point(point.address))))?;
                Some(meant(alone.address.name.to_string(), Target::Point(alone.address)))
            }
            Wanted::Menu(_) => {
                let (file, site) = self.site()?;
                let place = |menu: &&crate::scan::Named| Target::Menu(Place { file, at: menu.at });
                let alone = only(site.menus.iter().filter(|menu| !self.is_referred(place(menu))))?;
                Some(meant(alone.name.to_string(), place(&alone)))
            }
            Wanted::Input(address, _) => {
                let inputs = self.points.get(&address)?.passed().iter();
                let alone = only(inputs.filter(|input| !self.is_referred(Target::Input(address, input.field.name))))?;
                Some(meant(alone.field.name.to_string(), Target::Input(address, alone.field.name)))
            }
            Wanted::Export(file, _) => {
                let exports = self.module(file)?.exports.iter();
                let alone = only(exports.filter(|export| !self.is_referred(Target::Export(file, export.name))))?;
                let written = match wanted_by_call(self, wanted) {
                    Some(call) => format!("{}#{}", call.split_once('#')?.0, alone.name),
                    None => alone.name.to_string(),
                };
                Some(meant(written, Target::Export(file, alone.name)))
            }
            Wanted::Template(raw) if Prefix::split(&raw).0 == Prefix::None => {
                let (file, name) = only(self.orphan_files(FileKind::Template, None))?;
                Some(meant(name, Target::File(file)))
            }
            Wanted::Markup(_) => {
                let (file, name) = only(self.orphan_files(FileKind::Template, None))?;
                Some(meant(name, Target::File(file)))
            }
            Wanted::File(_, written)
                if FileKind::of(Utf8Path::new(&format!("media/{written}")))
                    .is_some_and(|kind| kind != FileKind::Media) =>
            {
                let kind = FileKind::of(Utf8Path::new(&format!("media/{written}")))?;
                let (file, name) = only(self.orphan_files(kind, None))?;
                Some(meant(name, Target::File(file)))
            }
            Wanted::Message(_) => {
                let entries = self.translations().into_iter().filter_map(|(file, _)| Some((file, self.words(file)?)));
                let entries = entries.flat_map(|(file, words)| {
                    words.entries.iter().map(move |entry| (Place { file, at: entry.at }, entry.id))
                });
                let mut free: Vec<(Place, Name)> =
                    entries.filter(|(place, _)| !self.is_referred(Target::Entry(*place))).collect();
                free.dedup_by_key(|(_, id)| *id);
                let (place, id) = only(free.into_iter())?;
                Some(meant(id.to_string(), Target::Entry(place)))
            }
            Wanted::Macro(file, _) => {
                let template = self.template(file)?;
                let macros = template.sections.iter().filter_map(|section| match section.kind {
                    crate::scan::SectionKind::Macro(name) => Some(name),
                    _ => None,
                });
                let alone = only(macros.filter(|name| !self.is_referred(Target::Macro(file, *name))))?;
                Some(meant(alone.to_string(), Target::Macro(file, alone)))
            }
            Wanted::Module(layer, raw) => {
                let (file, name) = only(self.orphan_modules(layer))?;
                match wanted_by_call(self, wanted)
                    .and_then(|call| call.as_str().split_once('#').map(|(_, export)| export))
                {
                    Some(export) => {
                        self.export(Callback { file, export: export.into() })?;
                        Some(meant(format!("{name}#{export}"), Target::Export(file, export.into())))
                    }
                    None if raw.starts_with('.') => Some(meant(format!("./{name}"), Target::File(file))),
                    None => None,
                }
            }
            _ => None,
        }
    }

    /// The templates of layers above the host that nothing refers to.
    fn orphan_files(&self, kind: FileKind, layer: Option<LayerId>) -> impl Iterator<Item = (FileId, String)> {
        self.project.files.iter().enumerate().filter_map(move |(at, file)| {
            let id = FileId(at as u32);
            let own = layer.map_or(file.layer.index() > 0, |layer| layer == file.layer);
            let named = self.files_named(kind, file.name()).last();
            let hidden = named.is_some_and(|last| *last != id);
            let free = !hidden && !self.is_referred(Target::File(id)) && !self.is_page_template(id);
            (own && file.kind == kind && free).then(|| (id, file.name().to_string()))
        })
    }

    /// The modules of a layer of which nothing is used.
    fn orphan_modules(&self, layer: LayerId) -> impl Iterator<Item = (FileId, String)> {
        self.orphan_files(FileKind::Module, Some(layer)).filter(|(file, _)| {
            let exports = self.module(*file).map_or(&[][..], |module| &module.exports);
            exports.iter().all(|export| !self.is_referred(Target::Export(*file, export.name)))
        })
    }
}

/// How a callback that is missing was written.
fn wanted_by_call(registry: &Registry, wanted: Wanted) -> Option<Name> {
    let asks =
        |reference: &&Reference| matches!(reference.outcome, Outcome::Missing { wanted: other, .. } if other == wanted);
    registry.references.iter().find(asks).map(|reference| reference.written).filter(|written| written.contains('#'))
}

/// The only one, where there is just one.
fn only<T>(mut found: impl Iterator<Item = T>) -> Option<T> {
    let first = found.next()?;
    found.next().is_none().then_some(first)
}
