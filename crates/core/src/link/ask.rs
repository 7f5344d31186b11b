//! What can be asked of the registry.

use super::*;

impl Registry {
    /// The layers and files.
    pub fn project(&self) -> &Project {
        &self.project
    }

    /// All points, in the order in which they are declared.
    pub fn points(&self) -> impl Iterator<Item = &Point> {
        self.points.values()
    }

    /// The types of pages.
    pub fn types(&self) -> &[TypeInfo] {
        &self.types
    }

    /// The keys that types of pages add to `page`.
    pub fn type_keys(&self) -> impl Iterator<Item = Name> {
        self.types.iter().flat_map(|page_type| &page_type.keys).map(|field| field.name)
    }

    /// The limits of the host contract.
    pub fn limits(&self) -> &Limits {
        &self.limits
    }

    /// Every reference from one place to another, resolved.
    pub fn references(&self) -> &[Reference] {
        &self.references
    }

    /// The references that lead nowhere, grouped by what they ask for.
    pub fn misses(&self) -> &[Miss] {
        &self.misses
    }

    /// Where to be careful with what seems not to be there.
    pub fn blind(&self) -> Blind {
        self.blind
    }

    /// The facts of each file, in the order of [`Project::files`].
    pub fn all_facts(&self) -> &[Facts] {
        &self.facts
    }

    /// All assets in the order in which they come on a page.
    pub fn asset_order(&self) -> &[Address] {
        &self.asset_order
    }

    /// Were parts of the preview's pages left out?
    pub fn partly(&self) -> bool {
        self.partly
    }

    /// What the preview says of the site.
    pub fn site_values(&self) -> serde_json::Map<String, serde_json::Value> {
        self.site().and_then(|(_, site)| site.value.as_object().cloned()).unwrap_or_default()
    }

    /// The point at an address.
    pub fn point(&self, address: Address) -> Option<&Point> {
        self.points.get(&address.whole())
    }

    /// The facts of a file.
    pub fn facts(&self, file: FileId) -> &Facts {
        &self.facts[file.index()]
    }

    /// What a template says.
    pub fn template(&self, file: FileId) -> Option<&TemplateShape> {
        match &self.facts(file).shape {
            Shape::Template(shape) => Some(shape),
            _ => None,
        }
    }

    /// What a module says.
    pub fn module(&self, file: FileId) -> Option<&ModuleShape> {
        match &self.facts(file).shape {
            Shape::Module(shape) => Some(shape),
            _ => None,
        }
    }

    /// What a manifest says.
    pub fn manifest(&self, file: FileId) -> Option<&ManifestShape> {
        match &self.facts(file).shape {
            Shape::Manifest(shape) => Some(shape),
            _ => None,
        }
    }

    /// What the checked theme's own manifest says.
    pub fn top_manifest(&self) -> Option<&ManifestShape> {
        self.manifest(self.project.layer(self.project.top()).manifest)
    }

    /// The uses of points in a file.
    pub fn uses_in(&self, file: FileId) -> &[Use] {
        self.facts(file).shape.uses()
    }

    /// One use of a point.
    pub fn use_of(&self, id: UseId) -> &Use {
        &self.uses_in(id.file)[id.index as usize]
    }

    /// One fill.
    pub fn fill_of(&self, file: FileId, index: usize) -> Option<&Fill> {
        match &self.facts(file).shape {
            Shape::Site(site) => site.fills.get(index),
            _ => None,
        }
    }

    /// The export that a callback names.
    pub fn export(&self, callback: Callback) -> Option<&Export> {
        self.module(callback.file)?.exports.iter().find(|export| export.name == callback.export)
    }

    /// How a callback is written from the checked theme: with the layer's name where it is another's.
    pub fn callback_name(&self, callback: Callback) -> String {
        let file = self.project.file(callback.file);
        let name = format!("{}#{}", file.name(), callback.export);
        if file.layer == self.project.top() {
            return name;
        }
        format!("{}:{name}", self.project.layer(file.layer).name)
    }

    /// What a slot is called: its callback's name, or its partial's address.
    pub fn slot_name(&self, slot: &Slot) -> String {
        self.runs_name(&slot.runs)
    }

    /// What a slot was called before a higher layer put another callback in its place.
    pub fn first_name(&self, slot: &Slot) -> String {
        self.runs_name(slot.replaced.as_ref().map_or(&slot.runs, |(first, _, _)| first))
    }

    fn runs_name(&self, runs: &Runs) -> String {
        match *runs {
            Runs::Callback(_, Some(callback)) => self.callback_name(callback),
            Runs::Callback(written, None) => written.raw.to_string(),
            Runs::Partial(address, _) => address.to_string(),
        }
    }

    /// The layer of a place.
    pub fn layer_of(&self, place: Place) -> LayerId {
        self.project.file(place.file).layer
    }

    /// The span of a place.
    pub fn span(&self, place: Place) -> Span {
        self.facts(place.file).span(place.at)
    }

    /// The place of a use.
    pub fn use_place(&self, id: UseId) -> Place {
        Place { file: id.file, at: self.use_of(id).point.at }
    }

    /// Is anything there that refers to this? What was most likely meant by a reference that leads
    /// nowhere counts as referred to.
    pub fn is_referred(&self, target: Target) -> bool {
        self.referred.contains(&target)
    }

    /// The preview's site, if the checked theme has one.
    pub fn site(&self) -> Option<(FileId, &SiteShape)> {
        self.project.files_of(self.project.top()).find_map(|(id, _)| match &self.facts(id).shape {
            Shape::Site(site) => Some((id, &**site)),
            _ => None,
        })
    }

    /// One page of the preview.
    pub fn page(&self, file: FileId) -> Option<&PageShape> {
        match &self.facts(file).shape {
            Shape::Page(page) => Some(page),
            _ => None,
        }
    }

    /// The checked theme and the themes that it builds on, the nearest first.
    pub fn bases(&self) -> Vec<LayerId> {
        let is_theme = |layer: &LayerId| self.project.layer(*layer).role == crate::source::LayerRole::Theme;
        (0..self.project.layers.len()).rev().map(|at| LayerId(at as u16)).filter(is_theme).collect()
    }

    /// The preview's pages, in the order of their files.
    pub fn pages(&self) -> impl Iterator<Item = (FileId, &PageShape)> {
        self.project.files_of(self.project.top()).filter_map(|(id, _)| match &self.facts(id).shape {
            Shape::Page(page) => Some((id, &**page)),
            _ => None,
        })
    }

    /// All manifests, in the order in which they apply.
    pub fn manifests(&self) -> Vec<(LayerId, FileId)> {
        let mut found = Vec::new();
        for (at, layer) in self.project.layers.iter().enumerate() {
            let id = LayerId(at as u16);
            found.push((id, layer.manifest));
            let further = self.project.files_of(id).map(|(file, _)| file);
            let further = further.filter(|file| *file != layer.manifest && self.manifest(*file).is_some());
            found.extend(further.map(|file| (id, file)));
        }
        found
    }

    /// The host's hook inside the head element.
    pub fn head_hook(&self) -> Option<Address> {
        self.hook_inside("head", false)
    }

    /// The host's hook at the page's end: the last thing in the body.
    pub fn end_hook(&self) -> Option<Address> {
        self.hook_inside("body", true)
    }

    fn hook_inside(&self, element: &str, last: bool) -> Option<Address> {
        let hooks = self.points.values().filter(|point| point.address.kind == Kind::Hook);
        let found = hooks.filter(|point| point.inside.is_some_and(|(name, at_end)| name == *element && at_end == last));
        found.map(|point| point.address).next()
    }

    /// All names of points of one kind.
    pub fn names(&self, kind: Kind) -> impl Iterator<Item = &'static str> {
        self.points.keys().filter(move |address| address.kind == kind).map(|address| address.name.as_str())
    }
}
