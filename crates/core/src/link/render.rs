//! What renders each component and template: the highest layer that gives a `render` or a template decides.

use rustc_hash::FxHashMap;

use super::names::Names;
use super::paths::component_template;
use super::point::Renderer;
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use crate::address::{Address, Kind};
use crate::names;
use crate::parallel;
use crate::read::{FileKind, Trouble};
use crate::scan::CallRef;
use crate::source::{FileId, LayerId, Place};

/// A component with two renderers in one layer.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct TwoRenderers {
    /// The component.
    pub component: Address,
    /// The `render` key, which decides.
    pub render: Place,
    /// The template, which is idle.
    pub template: FileId,
}

/// What renders each point, before higher layers replace any of it.
#[derive(Default)]
pub(super) struct Rendered {
    pub renderers: FxHashMap<Address, Renderer>,
    /// Components with two renderers in one layer: the `render` key, and the template.
    pub two_renderers: Vec<TwoRenderers>,
    pub refs: Refs,
}

/// The `render` keys, by component and layer.
type Renders = FxHashMap<(Address, LayerId), (Place, CallRef)>;

/// Chooses what renders each component and template.
pub(super) fn render(names: Names<'_>) -> Rendered {
    let mut renders = Renders::default();
    for (layer, file) in names.ground.manifests() {
        for declaration in names.ground.manifest(file).into_iter().flat_map(|manifest| &manifest.declarations) {
            if let Some(render) = declaration.render {
                renders.insert((declaration.address, layer), (Place { file, at: render.at }, render));
            }
        }
    }
    // Each by itself, several at a time; what was found is noted in their order.
    let addresses: Vec<Address> = names.declared.points.keys().copied().collect();
    let pieces: Vec<&[Address]> = addresses.chunks(PIECE).collect();
    let found = parallel::map_many(pieces.len(), addresses.len() / parallel::LIGHT, |at| {
        let mut choosing = Choosing { names, out: Rendered::default() };
        pieces[at].iter().for_each(|address| choosing.choose_any(*address, &renders));
        choosing.out
    });
    let mut out = Rendered::default();
    out.refs.make_room(found.iter().map(|piece| &piece.refs));
    out.renderers.reserve(found.iter().map(|piece| piece.renderers.len()).sum());
    for piece in found {
        out.renderers.extend(piece.renderers);
        out.two_renderers.extend(piece.two_renderers);
        out.refs.append(piece.refs);
    }
    out
}

/// How many components are looked at in one go.
const PIECE: usize = 512;

struct Choosing<'n> {
    names: Names<'n>,
    out: Rendered,
}

impl Choosing<'_> {
    fn choose_any(&mut self, address: Address, renders: &Renders) {
        match address.kind {
            kind if kind.is_component() => self.choose(address, renders),
            Kind::Template => {
                let files = self.names.ground.files_named(FileKind::Template, &component_template(address));
                let template = files.last().map(|file| (address, Renderer::Template(*file)));
                self.out.renderers.extend(template);
            }
            _ => {}
        }
    }

    fn choose(&mut self, address: Address, renders: &Renders) {
        let name = component_template(address);
        let files = self.names.ground.files_named(FileKind::Template, &name);
        let mut chosen = None;
        let mut given = false;
        for at in 0..self.names.ground.project.layers.len() {
            let layer = LayerId(at as u16);
            let file = files.iter().copied().find(|file| self.names.ground.project.file(*file).layer == layer);
            let render = renders.get(&(address, layer)).copied();
            if let (Some((place, _)), Some(file)) = (render, file) {
                self.out.two_renderers.push(TwoRenderers { component: address, render: place, template: file });
                self.out.refs.referred.push(Target::File(file));
            }
            if let Some((place, render)) = render {
                let (outcome, callback) = self.names.find_callback(&render, layer);
                self.out.refs.refer(self.names.ground, Link::RenderToCallback, place, render.raw, outcome);
                (chosen, given) = (callback.map(Renderer::Callback), true);
            } else if let Some(file) = file {
                self.out.refs.referred.push(Target::File(file));
                (chosen, given) = (Some(Renderer::Template(file)), true);
            }
        }
        let declared = self.names.declared.points[&address].declared.last().map(|declared| declared.place);
        if let (false, Some(from)) = (given, declared) {
            self.out.refs.refer(
                self.names.ground,
                Link::ComponentToTemplate,
                from,
                name.as_str().into(),
                self.missing_markup(address, &name),
            );
        } else if let (Some(Renderer::Template(file)), Some(from)) = (chosen, declared) {
            self.out.refs.refer(
                self.names.ground,
                Link::ComponentToTemplate,
                from,
                name.as_str().into(),
                Outcome::Found(Target::File(file)),
            );
        }
        if let Some(chosen) = chosen {
            self.out.renderers.insert(address, chosen);
        }
    }

    fn missing_markup(&self, address: Address, name: &str) -> Outcome {
        if self.names.ground.project.troubles.iter().any(|trouble| !matches!(trouble.trouble, Trouble::Version { .. }))
        {
            return Outcome::Unknown;
        }
        let folder = name.rsplit_once('/').map_or("", |(folder, _)| folder);
        let free = self.names.ground.project.files.iter().enumerate().filter(|(_, file)| {
            let declared = file.path.file_stem().map(|stem| Address::new(address.kind, stem));
            file.kind == FileKind::Template
                && file.name().starts_with(folder)
                && declared.is_none_or(|declared| !self.names.declared.has(declared))
        });
        let free: Vec<(FileId, &str)> = free.map(|(at, file)| (FileId(at as u32), file.name())).collect();
        let near = names::nearest(name, free.iter().map(|(_, name)| *name));
        let meant = near.and_then(|near| free.iter().find(|(_, name)| *name == near));
        let meant = meant.map(|(file, name)| {
            Meant::from(Meaning { written: (*name).into(), target: Target::File(*file), certain: false })
        });
        Outcome::Missing { wanted: Wanted::Markup(address), meant }
    }
}
