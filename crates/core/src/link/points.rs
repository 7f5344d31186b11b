//! Points: their declarations merged over the layers, what is attached to them and what fills them.

use super::reference::{Meant, Wanted};
use super::*;
use crate::names;
use crate::read::{FileKind, Trouble};
use crate::scan::{Attached, Attachment, Declaration, Item, PointRef, Prefix};

impl Registry {
    pub(super) fn link_layers(&mut self) {
        for link in self.project.links.clone() {
            let from = Place { file: self.project.layer(link.layer).manifest, at: link.at };
            let written = self.project.layer(link.found).name;
            self.refer(Link::LayerToLayer, from, written, Outcome::Found(Target::Layer(link.found)));
        }
        let pictures: Vec<_> = (0..self.project.layers.len())
            .filter_map(|at| {
                let manifest = self.project.layers[at].manifest;
                let picture = self.manifest(manifest)?.identity.as_ref()?.picture?;
                Some((Place { file: manifest, at: picture.at }, picture.name, LayerId(at as u16)))
            })
            .collect();
        for (from, picture, layer) in pictures {
            self.link_asset(from, picture, layer);
        }
    }

    /// Merges the declarations of all layers, lowest first.
    pub(super) fn declare(&mut self) {
        for (layer, file) in self.manifests() {
            let Some(manifest) = self.manifest(file) else { continue };
            let (declarations, types, limits) =
                (manifest.declarations.clone(), manifest.types.clone(), manifest.limits);
            if let Some(limits) = limits {
                self.limits = limits;
            }
            for declaration in declarations {
                self.add_declaration(layer, file, declaration);
            }
            for page_type in types {
                let place = Place { file, at: page_type.name.at };
                let name = page_type.name.name;
                self.types.retain(|known| known.name != name);
                self.types.push(TypeInfo { name, place, keys: page_type.keys, templates: Vec::new() });
            }
        }
        self.choose_page_templates();
        self.choose_renderers();
    }

    fn add_declaration(&mut self, layer: LayerId, file: FileId, declaration: Declaration) {
        let place = Place { file, at: declaration.at };
        let address = declaration.address;
        let point = self.points.entry(address).or_insert_with(|| Point::new(address));
        if let Some(first) = point.declared.iter().find(|declared| declared.layer == layer) {
            self.repeats.push((address, place, first.place));
        }
        point.declared.push(Declared { layer, place });
        point.label = declaration.label.or(point.label);
        point.about = declaration.about.or(point.about);
        point.required = declaration.required.unwrap_or(point.required);
        point.value = declaration.value.or(point.value.take());
        merge(&mut point.inputs, declaration.inputs, file);
        merge(&mut point.args, declaration.args, file);
    }

    /// `TYPE.html` from the highest layer that has one, then `page.html`.
    fn choose_page_templates(&mut self) {
        let names: Vec<Name> = self.types.iter().map(|page_type| page_type.name).collect();
        for (at, name) in names.iter().enumerate() {
            let own = self.files_named(FileKind::Template, &format!("{name}.html")).iter().rev();
            let shared = self.files_named(FileKind::Template, "page.html").iter().rev();
            let mut templates: Vec<FileId> = own.chain(shared).copied().collect();
            let mut seen = HashSet::default();
            templates.retain(|file| seen.insert(*file));
            self.types[at].templates = templates;
        }
        let page: Name = "page".into();
        for name in names.into_iter().chain([page]) {
            let files = self.files_named(FileKind::Template, &format!("{name}.html")).to_vec();
            if files.is_empty() {
                continue;
            }
            let address = Address::new(Kind::Template, name);
            let point = self.points.entry(address).or_insert_with(|| Point::new(address));
            point.renderer = files.last().map(|file| Renderer::Template(*file));
            let layers = files.iter().map(|file| (self.project.files[file.index()].layer, *file));
            let declared = layers.map(|(layer, file)| Declared { layer, place: Place { file, at: START } });
            point.declared.extend(declared);
            point.declared.sort_by_key(|declared| declared.layer);
        }
    }

    /// The highest layer that gives a `render` or a template decides.
    fn choose_renderers(&mut self) {
        let mut renders: Index<(Address, LayerId), (Place, CallRef)> = Index::default();
        for (layer, file) in self.manifests() {
            for declaration in self.manifest(file).into_iter().flat_map(|manifest| &manifest.declarations) {
                if let Some(render) = declaration.render {
                    renders.insert((declaration.address, layer), (Place { file, at: render.at }, render));
                }
            }
        }
        let components: Vec<Address> =
            self.points.keys().filter(|address| address.kind.is_component()).copied().collect();
        for address in components {
            self.choose_renderer(address, &renders);
        }
    }

    fn choose_renderer(&mut self, address: Address, renders: &Index<(Address, LayerId), (Place, CallRef)>) {
        let name = component_template(address);
        let files = self.files_named(FileKind::Template, &name).to_vec();
        let mut chosen = None;
        let mut given = false;
        for at in 0..self.project.layers.len() {
            let layer = LayerId(at as u16);
            let file = files.iter().copied().find(|file| self.project.file(*file).layer == layer);
            let render = renders.get(&(address, layer)).copied();
            if let (Some((place, _)), Some(file)) = (render, file) {
                self.two_renderers.push((address, place, file));
                self.referred.insert(Target::File(file));
            }
            if let Some((place, render)) = render {
                let (outcome, callback) = self.find_callback(&render, layer);
                self.refer(Link::RenderToCallback, place, render.raw, outcome);
                (chosen, given) = (callback.map(Renderer::Callback), true);
            } else if let Some(file) = file {
                self.referred.insert(Target::File(file));
                (chosen, given) = (Some(Renderer::Template(file)), true);
            }
        }
        let declared = self.points[&address].declared.last().map(|declared| declared.place);
        if let (false, Some(from)) = (given, declared) {
            self.refer(Link::ComponentToTemplate, from, name.as_str().into(), self.missing_markup(address, &name));
        } else if let (Some(Renderer::Template(file)), Some(from)) = (chosen, declared) {
            self.refer(Link::ComponentToTemplate, from, name.as_str().into(), Outcome::Found(Target::File(file)));
        }
        self.points[&address].renderer = chosen;
    }

    fn missing_markup(&self, address: Address, name: &str) -> Outcome {
        if self.project.troubles.iter().any(|trouble| !matches!(trouble.trouble, Trouble::Version { .. })) {
            return Outcome::Unknown;
        }
        let folder = name.rsplit_once('/').map_or("", |(folder, _)| folder);
        let free = self.project.files.iter().enumerate().filter(|(_, file)| {
            let declared = file.path.file_stem().map(|stem| Address::new(address.kind, stem));
            file.kind == FileKind::Template
                && file.name().starts_with(folder)
                && declared.is_none_or(|declared| !self.points.contains_key(&declared))
        });
        let free: Vec<(FileId, &str)> = free.map(|(at, file)| (FileId(at as u32), file.name())).collect();
        let near = names::nearest(name, free.iter().map(|(_, name)| *name));
        let meant = near.and_then(|near| free.iter().find(|(_, name)| *name == near));
        let meant =
            meant.map(|(file, name)| Meant { written: (*name).into(), target: Target::File(*file), certain: false });
        Outcome::Missing { wanted: Wanted::Markup(address), meant }
    }

    /// Ties attachments to their points.
    pub(super) fn attach(&mut self) {
        let mut waiting: IndexMap<Address, Vec<(Slot, Attachment)>> = IndexMap::default();
        let mut positions: Index<LayerId, u32> = Index::default();
        for (layer, file) in self.manifests() {
            let attachments = self.manifest(file).map(|manifest| manifest.attachments.clone()).unwrap_or_default();
            for attachment in attachments {
                let position = positions.entry(layer).or_default();
                *position += 1;
                let slot = self.slot(layer, file, *position, &attachment);
                let outcome = self.find_point(attachment.to, |_| true);
                let from = Place { file, at: attachment.to.at };
                self.refer(Link::AttachmentToPoint, from, attachment.to.raw, outcome);
                if let Outcome::Missing { meant: Some(meant), .. } = outcome {
                    self.strayed.push((meant.target, layer, attachment.clone()));
                }
                let Outcome::Found(Target::Point(address)) = outcome else { continue };
                if matches!(attachment.what, Attached::Use(_)) && !address.kind.takes_partials() {
                    self.wrong_kinds.push((address, slot.place));
                    continue;
                }
                waiting.entry(address).or_default().push((slot, attachment));
            }
        }
        for (address, slots) in waiting {
            let slots: Vec<_> = slots.iter().map(|(slot, attachment)| (slot.clone(), attachment)).collect();
            let slots = self.put_in_order(address, slots);
            self.points[&address].slots = slots;
        }
    }

    fn slot(&mut self, layer: LayerId, file: FileId, position: u32, attachment: &Attachment) -> Slot {
        let runs = match attachment.what {
            Attached::Call(call) => {
                let (outcome, callback) = self.find_callback(&call, layer);
                self.refer(Link::AttachmentToCallback, Place { file, at: call.at }, call.raw, outcome);
                Runs::Callback(call, callback)
            }
            Attached::Use(point) => {
                let outcome = self.find_point(point, Kind::is_component);
                self.refer(Link::AttachmentToPartial, Place { file, at: point.at }, point.raw, outcome);
                let address = point.address.unwrap_or(Address::new(Kind::Partial, point.raw));
                Runs::Partial(address, matches!(outcome, Outcome::Found(_)))
            }
        };
        let mut switched_off = attachment.when_broken;
        if let Some(when) = &attachment.when {
            switched_off |= !self.link_condition(file, when);
        }
        Slot {
            layer,
            place: Place { file, at: attachment.at },
            position,
            priority: attachment.priority,
            runs,
            before: attachment.before.iter().map(|named| named.name).collect(),
            after: attachment.after.iter().map(|named| named.name).collect(),
            when: attachment.when.clone(),
            switched_off,
        }
    }

    /// The point that a reference means, among the kinds that fit there.
    pub(super) fn find_point(&self, point: PointRef, fits: impl Fn(Kind) -> bool) -> Outcome {
        if let Some(address) = point.address
            && fits(address.kind)
            && self.points.contains_key(&address)
        {
            return Outcome::Found(Target::Point(address));
        }
        if self.blind.declarations {
            return Outcome::Unknown;
        }
        let meant = self.meant_point(point, fits);
        Outcome::Missing { wanted: Wanted::Point(point.raw), meant }
    }

    fn meant_point(&self, point: PointRef, fits: impl Fn(Kind) -> bool) -> Option<Meant> {
        let fitting = || self.points.keys().filter(|address| fits(address.kind));
        // The same name of another kind is nearer than another name of the same kind.
        let (_, name) = point.raw.split_once(':').unwrap_or(("", &point.raw));
        let same_name = fitting().find(|address| address.name == name);
        let same_kind = || fitting().filter(|address| point.address.is_none_or(|written| written.kind == address.kind));
        let (near, certain) = match same_name {
            Some(address) => (*address, false),
            None => {
                let near = names::nearest(name, same_kind().map(|address| address.name.as_str()))?;
                let certain = names::certain(name, same_kind().map(|address| address.name.as_str())).is_some();
                (*same_kind().find(|address| address.name == near)?, certain && point.address.is_some())
            }
        };
        Some(Meant { written: near.to_string().as_str().into(), target: Target::Point(near), certain })
    }

    /// The callback that a reference means.
    pub(super) fn find_callback(&self, call: &CallRef, layer: LayerId) -> (Outcome, Option<Callback>) {
        let Some(file) = self.resolve(FileKind::Module, call.prefix, &call.file, layer, true) else {
            return (self.missing_module(call, layer), None);
        };
        let (outcome, found) = self.find_export(file, call.export);
        let found = found.map(|export| Callback { file, export });
        match outcome {
            Outcome::Missing { wanted, meant } => {
                let meant = meant.map(|meant| {
                    let (whole, _) = call.raw.split_once('#').unwrap_or((&call.raw, ""));
                    Meant { written: format!("{whole}#{}", meant.written).as_str().into(), ..meant }
                });
                (Outcome::Missing { wanted, meant }, None)
            }
            outcome => (outcome, found),
        }
    }

    /// The callback of that name, seen from a layer.
    pub fn callback_named(&self, name: &str, layer: LayerId) -> Option<Callback> {
        self.find_callback(&CallRef::parse(name, At::default())?, layer).1
    }

    fn missing_module(&self, call: &CallRef, layer: LayerId) -> Outcome {
        if let Prefix::Layer(name) = call.prefix
            && self.project.layer_named(&name).is_none()
            && self.blind.declarations
        {
            return Outcome::Unknown;
        }
        let own = self.project.files_of(layer).filter(|(_, file)| file.kind == FileKind::Module);
        let known: Vec<(FileId, &str)> = own.map(|(id, file)| (id, file.name())).collect();
        let near = names::nearest(&call.file, known.iter().map(|(_, name)| *name));
        let meant = near.filter(|_| call.prefix == Prefix::None).and_then(|near| {
            let (file, _) = known.iter().find(|(_, name)| *name == near)?;
            let written = format!("{near}#{}", call.export).as_str().into();
            let certain = names::certain(&call.file, known.iter().map(|(_, name)| *name)).is_some();
            self.find_export(*file, call.export).1?;
            Some(Meant { written, target: Target::Export(*file, call.export), certain })
        });
        Outcome::Missing { wanted: Wanted::Module(layer, call.file), meant }
    }

    /// An export of a module, its own or one that it passes on.
    pub(super) fn find_export(&self, file: FileId, name: Name) -> (Outcome, Option<Name>) {
        let Some(module) = self.module(file).filter(|module| !module.broken) else { return (Outcome::Unknown, None) };
        if module.exports.iter().any(|export| export.name == name && !export.no_function) {
            return (Outcome::Found(Target::Export(file, name)), Some(name));
        }
        for passed in module.imports.iter().filter(|import| import.passes_on) {
            if let Some(other) = self.resolve_import(file, &passed.from.name)
                && let (Outcome::Found(_), found) = self.find_export(other, name)
            {
                return (Outcome::Found(Target::Export(other, name)), found);
            }
        }
        let known: Vec<&str> =
            module.exports.iter().filter(|export| !export.no_function).map(|export| export.name.as_str()).collect();
        let meant = names::nearest(&name, known.iter().copied()).map(|near| Meant {
            written: near.into(),
            target: Target::Export(file, near.into()),
            certain: names::certain(&name, known.iter().copied()).is_some(),
        });
        (Outcome::Missing { wanted: Wanted::Export(file, name), meant }, None)
    }

    /// Ties what the site brings to points and types.
    pub(super) fn fill(&mut self) {
        if let Some((file, site)) = self.site() {
            let fills = site.fills.clone();
            for (at, fill) in fills.iter().enumerate() {
                let outcome = self.find_point(fill.to, Kind::is_filled);
                self.refer(Link::FillToPoint, Place { file, at: fill.to.at }, fill.to.raw, outcome);
                if let Outcome::Found(Target::Point(address)) = outcome {
                    self.points[&address].fills.push((file, at));
                }
                for item in &fill.items {
                    self.link_item(file, item);
                }
            }
        }
        let pages: Vec<_> = self.pages().map(|(file, page)| (file, page.page_type, page.body)).collect();
        for (file, page_type, body) in pages {
            if let Some(page_type) = page_type {
                let outcome = self.find_type(page_type.name);
                self.refer(Link::PageToType, Place { file, at: page_type.at }, page_type.name, outcome);
            }
            if let Some(body) = body {
                let outcome = self.find_body(file, body.name);
                self.refer(Link::PageToBody, Place { file, at: body.at }, body.name, outcome);
            }
        }
    }

    fn find_type(&self, name: Name) -> Outcome {
        if self.types.iter().any(|page_type| page_type.name == name) {
            return Outcome::Found(Target::PageType(name));
        }
        if self.blind.declarations {
            return Outcome::Unknown;
        }
        let known = || self.types.iter().map(|page_type| page_type.name.as_str());
        let meant = names::nearest(&name, known()).map(|near| Meant {
            written: near.into(),
            target: Target::PageType(near.into()),
            certain: names::certain(&name, known()).is_some(),
        });
        Outcome::Missing { wanted: Wanted::PageType(name), meant }
    }

    /// The file of a page's body, which lies beside the page.
    pub fn body_file(&self, page: FileId, name: &str) -> Option<FileId> {
        let page = self.project.file(page);
        let path = page.path.parent()?.join(name);
        let found = self.project.find(page.layer, path.as_str())?;
        (self.project.file(found).kind == FileKind::Body).then_some(found)
    }

    fn find_body(&self, page: FileId, name: Name) -> Outcome {
        if let Some(file) = self.body_file(page, &name) {
            return Outcome::Found(Target::File(file));
        }
        let layer = self.project.file(page).layer;
        let bodies: Vec<(FileId, &str)> = self
            .project
            .files_of(layer)
            .filter(|(_, file)| file.kind == FileKind::Body)
            .map(|(id, file)| (id, file.name()))
            .collect();
        let near = names::nearest(&name, bodies.iter().map(|(_, name)| *name));
        let meant = near.and_then(|near| bodies.iter().find(|(_, name)| *name == near)).map(|(file, near)| Meant {
            written: (*near).into(),
            target: Target::File(*file),
            certain: names::certain(&name, bodies.iter().map(|(_, name)| *name)).is_some(),
        });
        Outcome::Missing { wanted: Wanted::File(layer, name), meant }
    }

    fn link_item(&mut self, file: FileId, item: &Item) {
        let outcome = self.find_point(item.component, Kind::is_component);
        self.refer(Link::ItemToComponent, Place { file, at: item.component.at }, item.component.raw, outcome);
        if let Some(when) = &item.when {
            self.link_condition(file, when);
        }
        if let Outcome::Found(Target::Point(address)) = outcome {
            let given: Vec<_> = item.inputs.iter().map(|(named, _)| *named).collect();
            let from = Place { file, at: item.component.at };
            self.link_arguments(Link::ItemKeyToInput, address, from, &given, false);
        }
    }
}

impl Point {
    pub(super) fn new(address: Address) -> Point {
        Point {
            address,
            declared: Vec::new(),
            label: None,
            about: None,
            required: false,
            inputs: Vec::new(),
            args: Vec::new(),
            value: None,
            slots: Vec::new(),
            uses: Vec::new(),
            fills: Vec::new(),
            renderer: None,
            reached: Types::default(),
        }
    }
}

/// Adds fields to those of the layers below; one of the same name takes its place.
fn merge(fields: &mut Vec<Input>, added: Vec<Field>, file: FileId) {
    for field in added {
        let place = Place { file, at: field.at };
        match fields.iter_mut().find(|known| known.field.name == field.name) {
            Some(known) => *known = Input { field, place },
            None => fields.push(Input { field, place }),
        }
    }
}

/// Where the template of a component lies, below `markup/`.
pub fn component_template(address: Address) -> String {
    match address.kind {
        Kind::Partial => format!("partials/{}.html", address.name),
        _ => format!("{}.html", address.name),
    }
}
