//! Declarations: those of all layers merged, key by key, and what renders each component.

use serde_json::Value;

use super::reference::{Meant, Wanted};
use super::*;
use crate::names;
use crate::read::{FileKind, Trouble};
use crate::scan::Declaration;

/// How a redeclaration breaks what the layers below count on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum BreachKind {
    /// The type of an input or argument is another one; without a name, that of the whole value.
    Type {
        /// The input or argument.
        name: Option<Name>,
        /// Its type below.
        old: Name,
        /// Its type here.
        new: Name,
    },
    /// A new input has no default, and nothing below passes it on.
    NoDefault(Name),
}

impl BreachKind {
    fn named(self, of: Name) -> BreachKind {
        match self {
            BreachKind::Type { old, new, .. } => BreachKind::Type { name: Some(of), old, new },
            other => other,
        }
    }
}

/// A redeclaration that the layers below can't live with.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Breach {
    /// The point.
    pub point: Address,
    /// What is wrong.
    pub kind: BreachKind,
    /// Where it is redeclared.
    pub place: Place,
    /// Where it was declared below.
    pub before: Place,
}

impl Registry {
    /// Merges the declarations of all layers, lowest first.
    pub(super) fn declare(&mut self) {
        for (layer, file) in self.manifests() {
            let Some(manifest) = self.manifest(file) else { continue };
            let (declarations, types, limits) =
                (manifest.declarations.clone(), manifest.types.clone(), manifest.limits);
            if let Some(limits) = limits {
                self.limits = limits;
            }
            for (at, declaration) in declarations.into_iter().enumerate() {
                // Those of a further file come after those of the files before it.
                self.add_declaration(layer, file, declaration, file.0 << 16 | at as u32);
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

    fn add_declaration(&mut self, layer: LayerId, file: FileId, declaration: Declaration, position: u32) {
        let place = Place { file, at: declaration.at };
        let here = |at| Place { file, at };
        let address = declaration.address;
        let point = self.points.entry(address).or_insert_with(|| Point::new(address));
        if let Some(first) = point.declared.iter().find(|declared| declared.layer == layer) {
            self.repeats.push((address, place, first.place));
        }
        let again = !point.declared.is_empty();
        point.declared.push(Declared { layer, place });
        point.label = declaration.label.or(point.label);
        point.about = declaration.about.or(point.about);
        point.required = declaration.required.unwrap_or(point.required);
        point.moment = declaration.moment.unwrap_or(point.moment);
        point.reserved = declaration.reserved.unwrap_or(point.reserved);
        point.since = declaration.since.or(point.since.take());
        point.instead = declaration.instead.or(point.instead);
        point.levels = declaration.levels.or(point.levels);
        point.wrap = declaration.wrap.map(|wrap| wrap.name).or(point.wrap);
        point.wrap_title = declaration.wrap_title.map(|wrap| wrap.name).or(point.wrap_title);
        if let Some((version, at)) = declaration.retired {
            point.retired = Some((version, layer, here(at)));
        }
        match declaration.dropped {
            Some((true, at)) => point.dropped = Some((layer, here(at))),
            Some((false, _)) => point.dropped = None,
            None => {}
        }
        let last = declaration.last.unwrap_or(false);
        point.inside = declaration.inside.map(|inside| (inside.name, last)).or(point.inside);
        if let Some(holds) = declaration.holds {
            let known = if declaration.extend { std::mem::take(&mut point.holds) } else { Vec::new() };
            point.holds = known.into_iter().chain(holds.into_iter().map(|held| (held, here(held.at)))).collect();
        }
        if let Some(offers) = declaration.offer {
            let known = if declaration.extend { point.offers.take().unwrap_or_default() } else { Vec::new() };
            point.offers = Some(known.into_iter().chain(offers.into_iter().map(|offer| (file, offer))).collect());
        }
        if let Some(needs) = declaration.needs {
            let known = if declaration.extend { std::mem::take(&mut point.needs) } else { Vec::new() };
            point.needs = known.into_iter().chain(needs.into_iter().map(|needed| (needed, here(needed.at)))).collect();
        }
        if let Some(keys) = declaration.asset {
            let asset = point.asset.get_or_insert_with(|| Box::new(Asset::new()));
            asset.add(place, *keys, declaration.extend, position);
        }
        if let Some(keys) = declaration.feature {
            point.feature.get_or_insert_default().add(layer, place, &keys, declaration.extend);
        }
        let mut breaches = Vec::new();
        if let Some((schema, at)) = declaration.value {
            let new = here(at);
            let merged = match point.value.take() {
                Some((old, before)) => {
                    breaches.extend(changed_type(&old, &schema).map(|kind| (kind, new, before)));
                    lay_over(old, schema, declaration.extend)
                }
                None => schema,
            };
            point.value = Some((merged, new));
        }
        for (known, added, needed) in
            [(&mut point.inputs, declaration.inputs, again), (&mut point.args, declaration.args, false)]
        {
            breaches.extend(merge(known, added, file, declaration.extend, needed.then_some(place)));
        }
        let breach = |(kind, place, before)| Breach { point: address, kind, place, before };
        self.breaches.extend(breaches.into_iter().map(breach));
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
}

impl Point {
    pub(super) fn new(address: Address) -> Point {
        Point {
            address,
            declared: Vec::new(),
            label: None,
            about: None,
            required: false,
            moment: false,
            inside: None,
            reserved: false,
            dropped: None,
            since: None,
            retired: None,
            instead: None,
            levels: None,
            wrap: None,
            wrap_title: None,
            holds: Vec::new(),
            offers: None,
            inputs: Vec::new(),
            args: Vec::new(),
            value: None,
            slots: Vec::new(),
            detached: Vec::new(),
            uses: Vec::new(),
            fills: Vec::new(),
            items: Vec::new(),
            renderer: None,
            render_replaced: None,
            needs: Vec::new(),
            asset: None,
            feature: None,
            reached: Types::default(),
        }
    }
}

/// Adds fields to those of the layers below, key by key. Answers what those can't live with; `late` is
/// given where a new field needs a default.
fn merge(
    fields: &mut Vec<Input>,
    added: Vec<Field>,
    file: FileId,
    extend: bool,
    late: Option<Place>,
) -> Vec<(BreachKind, Place, Place)> {
    let mut breaches = Vec::new();
    for field in added {
        let place = Place { file, at: field.at };
        match fields.iter_mut().find(|known| known.field.name == field.name) {
            Some(known) => {
                let kind = changed_type(&known.field.schema, &field.schema);
                let named = kind.map(|kind| kind.named(field.name));
                breaches.extend(named.map(|kind| (kind, place, known.place)));
                let schema = lay_over(std::mem::take(&mut known.field.schema), field.schema, extend);
                *known = Input { field: Field { schema, ..field }, place };
            }
            None => {
                if let (Some(before), None) = (late, field.default()) {
                    breaches.push((BreachKind::NoDefault(field.name), place, before));
                }
                fields.push(Input { field, place });
            }
        }
    }
    breaches
}

/// Is a type given up for another one? Every whole number is a number.
fn changed_type(old: &Value, new: &Value) -> Option<BreachKind> {
    let word = |schema: &Value| schema.get("type").and_then(Value::as_str).map(Name::from);
    let (old, new) = (word(old)?, word(new)?);
    let narrower = old == "number" && new == "integer";
    (old != new && !narrower).then_some(BreachKind::Type { name: None, old, new })
}

/// Merges two tables key by key; lists are replaced, or made longer.
fn lay_over(mut below: Value, over: Value, extend: bool) -> Value {
    let (Some(table), Value::Object(over)) = (below.as_object_mut(), over) else { return below };
    for (key, over) in over {
        match (table.get_mut(&key), over) {
            (Some(Value::Array(known)), Value::Array(more)) if extend => known.extend(more),
            (_, over) => {
                table.insert(key, over);
            }
        }
    }
    below
}

/// Where the template of a component lies, below `markup/`.
pub fn component_template(address: Address) -> String {
    match (address.kind, address.inner()) {
        (Kind::Template, _) => format!("{}.html", address.name),
        (_, Some(_)) => format!("sections/{}.html", address.name),
        (kind, None) => format!("{kind}s/{}.html", address.name),
    }
}
