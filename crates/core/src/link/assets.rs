//! Assets: what needs which, in which order they come, and which global names scripts use of each other.

use super::order::{Edge, sort};
use super::reference::{Meant, Wanted};
use super::*;
use crate::names;
use crate::scan::{AssetKeys, Named, Prefix};

/// What is known of a style, script or bundle.
#[derive(Clone, Debug, Default)]
pub struct Asset {
    /// Its file, below `media/`, and where that is said.
    pub file: Option<(Name, Place)>,
    /// Global names that other scripts may use.
    pub gives: Vec<(Name, Place)>,
    /// Where a style applies.
    pub media: Option<Name>,
    /// Does a script belong in the head?
    pub head: bool,
    /// Lower comes earlier.
    pub priority: u8,
    /// The pages that it is on.
    pub when: Option<Condition>,
    /// The file that says so.
    pub(crate) when_file: Option<FileId>,
    /// Is its condition broken, so that it is on none?
    pub switched_off: bool,
    /// The position among the declarations of its layer.
    position: u32,
}

/// Assets that need each other in a circle: each place says that it needs the next one.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NeedCycle {
    /// Where it is said, and the asset that is needed there.
    pub steps: Vec<(Place, Address)>,
}

impl Asset {
    pub(super) fn add(&mut self, place: Place, keys: AssetKeys, extend: bool, position: u32) {
        let here = |at| Place { file: place.file, at };
        self.file = keys.file.map(|file| (file.name, here(file.at))).or(self.file);
        if let Some(gives) = keys.gives {
            let known = if extend { std::mem::take(&mut self.gives) } else { Vec::new() };
            let added = gives.into_iter().map(|name| (name.name, here(name.at)));
            self.gives = known.into_iter().chain(added).collect();
        }
        self.media = keys.media.or(self.media);
        self.head = keys.head.unwrap_or(self.head);
        self.priority = keys.priority.unwrap_or(self.priority);
        self.switched_off |= keys.when_broken;
        if keys.when.is_some() {
            (self.when, self.when_file) = (keys.when, Some(place.file));
        }
        self.position = position;
    }

    /// One that nothing is known of yet.
    pub(super) fn new() -> Asset {
        Asset { priority: 50, ..Asset::default() }
    }
}

impl Registry {
    /// Ties what components and assets need, the files of assets, and what scripts use of each other.
    pub(super) fn link_assets(&mut self) {
        let needs: Vec<(PointRef, Place)> = self.points.values().flat_map(|point| point.needs.clone()).collect();
        for (needed, place) in needs {
            let outcome = self.find_point(needed, Kind::is_asset);
            self.refer(Link::NeedToAsset, place, needed.raw, outcome);
        }
        let named = self.points.values().filter_map(|point| point.asset.as_ref()?.file);
        for (file, place) in named.collect::<Vec<_>>() {
            let layer = self.layer_of(place);
            self.link_file(place, file, layer, "media/");
        }
        let conditions: Vec<(FileId, Condition)> = self
            .points
            .values()
            .filter_map(|point| {
                let asset = point.asset.as_ref()?;
                Some((asset.when_file?, asset.when.clone()?))
            })
            .collect();
        for (file, when) in conditions {
            self.link_condition(file, &when);
        }
        self.put_assets_in_order();
        self.find_demanded();
        self.link_globals();
        self.link_addresses();
    }

    /// The file of an asset.
    pub fn asset_file(&self, point: &Point) -> Option<FileId> {
        let (written, place) = point.asset.as_ref()?.file?;
        let (layer, path) = self.find_media_file(&format_media(&written, "media/"), self.layer_of(place))?;
        self.project.find(layer, path.as_str())
    }

    /// What an asset needs directly.
    pub fn needs_of(&self, point: &Point) -> Vec<Address> {
        let there =
            |(needed, _): &(PointRef, Place)| needed.address.filter(|address| self.points.contains_key(address));
        point.needs.iter().filter_map(there).filter(|address| address.kind.is_asset()).collect()
    }

    /// All that an asset or component needs, directly or through others, without itself.
    pub fn all_needs(&self, point: &Point) -> Vec<Address> {
        let mut found = self.needs_of(point);
        let mut at = 0;
        while let Some(needed) = found.get(at).copied() {
            let further = self.needs_of(&self.points[&needed]);
            found.extend(
                further.into_iter().filter(|next| *next != point.address && !found.contains(next)).collect::<Vec<_>>(),
            );
            at += 1;
        }
        let mut seen = HashSet::default();
        found.retain(|address| seen.insert(*address));
        found
    }

    /// Is an asset on every page where its condition holds, whether a component asks for it or not? Those
    /// of the host are only where something needs them, or a feature that is on feeds them.
    pub fn is_on_all_pages(&self, point: &Point) -> bool {
        let fed = |other: &Point| {
            let feeds = other.feature.iter().flat_map(|feature| &feature.feeds);
            feeds.into_iter().any(|fed| fed.feed == Feed::Point(point.address)) && self.is_on(other.address)
        };
        let hosts = point.declared.first().is_none_or(|first| first.layer.index() == 0);
        match hosts {
            true => self.points.values().any(fed),
            false => !self.demanded.contains(&point.address),
        }
    }

    fn find_demanded(&mut self) {
        let components = self.points.values().filter(|point| point.address.kind.is_component());
        self.demanded = components.flat_map(|component| self.all_needs(component)).collect();
    }

    /// Puts all assets in the order in which they come on a page.
    fn put_assets_in_order(&mut self) {
        let assets: Vec<&Point> = self.points.values().filter(|point| point.asset.is_some()).collect();
        let at = |address: Address| assets.iter().position(|point| point.address == address);
        let mut edges = Vec::new();
        for (second, point) in assets.iter().enumerate() {
            for (needed, constraint) in &point.needs {
                if let Some(first) = needed.address.and_then(at) {
                    edges.push(Edge { first, second, constraint: *constraint });
                }
            }
        }
        let key = |point: &Point| {
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
        let order = order.into_iter().map(|at| assets[at].address).collect();
        self.asset_order = order;
        self.need_cycles.extend(cycle);
    }

    /// Ties the global names that scripts use to the scripts that give them, and what scripts say that
    /// they give to what their files define.
    fn link_globals(&mut self) {
        let scripts: Vec<(Address, FileId)> = self
            .points
            .values()
            .filter(|point| point.address.kind == Kind::Script)
            .filter_map(|point| Some((point.address, self.asset_file(point)?)))
            .collect();
        let mut found: Vec<(Place, Name, Outcome)> = Vec::new();
        for (address, file) in &scripts {
            let Some(script) = self.script(*file).filter(|script| !script.broken) else { continue };
            let point = &self.points[address];
            for (given, place) in point.asset.iter().flat_map(|asset| &asset.gives) {
                let outcome = match script.defines.contains(given) {
                    true => Outcome::Found(Target::Global(*file, *given)),
                    false if script.dynamic => Outcome::Unknown,
                    false => self.undefined(*file, *given),
                };
                found.push((*place, *given, outcome));
            }
            // Where a need leads nowhere, nobody can say what it would give.
            if point
                .needs
                .iter()
                .any(|(needed, _)| needed.address.is_none_or(|address| !self.points.contains_key(&address)))
            {
                continue;
            }
            let needs = self.all_needs(point);
            for used in &script.uses {
                let outcome = self.find_global(*address, *file, &needs, used, &scripts);
                found.extend(outcome.map(|outcome| (Place { file: *file, at: used.at }, used.name, outcome)));
            }
        }
        for (from, written, outcome) in found {
            self.refer(Link::GlobalToScript, from, written, outcome);
        }
    }

    /// What a script says that it gives, and its file does not define.
    fn undefined(&self, file: FileId, given: Name) -> Outcome {
        let defines = || self.script(file).into_iter().flat_map(|script| &script.defines).map(|name| name.as_str());
        let near = names::nearest(&given, defines()).or_else(|| {
            let mut all = defines();
            all.next().filter(|_| all.next().is_none())
        });
        let certain = names::certain(&given, defines()).is_some();
        let meant = near.map(|near| Meant { written: near.into(), target: Target::Global(file, near.into()), certain });
        Outcome::Missing { wanted: Wanted::Global(file, given), meant }
    }

    /// The script that gives a global name; nothing where no script does, as it is the browser's.
    fn find_global(
        &self,
        script: Address,
        file: FileId,
        needs: &[Address],
        used: &Named,
        scripts: &[(Address, FileId)],
    ) -> Option<Outcome> {
        let gives = |other: &Address, file: FileId, name: &str| {
            let asset = self.points[other].asset.as_ref();
            let said = asset.is_some_and(|asset| asset.gives.iter().any(|(given, _)| *given == *name));
            said || self.script(file).is_some_and(|script| script.defines.iter().any(|known| *known == *name))
        };
        let others = || scripts.iter().filter(|(other, of)| *other != script && *of != file);
        let givers: Vec<&(Address, FileId)> = others().filter(|(other, of)| gives(other, *of, &used.name)).collect();
        if let Some((needed, _)) = givers.iter().find(|(other, _)| needs.contains(other)) {
            return Some(Outcome::Found(Target::Point(*needed)));
        }
        if let Some((other, _)) = givers.first() {
            let written = other.to_string().as_str().into();
            let meant = Some(Meant { written, target: Target::Point(*other), certain: false });
            return Some(Outcome::Missing { wanted: Wanted::Global(file, used.name), meant });
        }
        // A slip of the pen in a name of a script that is needed, and otherwise not used.
        let uses = self.script(file)?.uses.iter().map(|used| used.name).collect::<Vec<_>>();
        let idle = others().filter(|(other, _)| needs.contains(other)).find_map(|(other, _)| {
            let given = self.points[other].asset.iter().flat_map(|asset| &asset.gives).map(|(name, _)| *name);
            let given: Vec<Name> = given.collect();
            let near = names::certain(&used.name, given.iter().map(|name| name.as_str()))?;
            let unused = given.iter().all(|name| !uses.contains(name));
            unused.then_some((*other, near))
        });
        let (other, near) = idle?;
        let meant = Some(Meant { written: near.into(), target: Target::Point(other), certain: true });
        Some(Outcome::Missing { wanted: Wanted::Global(file, used.name), meant })
    }

    /// Ties the addresses in style sheets to the files of the theme.
    fn link_addresses(&mut self) {
        let all = self.facts.clone();
        for (at, facts) in all.iter().enumerate() {
            let Shape::Style(style) = &facts.shape else { continue };
            let file = FileId(at as u32);
            for address in &style.addresses {
                let source = self.project.file(file);
                let Some(path) = relative_path(source.path.as_str(), &address.name) else { continue };
                let layer = source.layer;
                let folder = source.path.parent().map_or("", |folder| folder.as_str());
                let outcome = match self.find_media_file(&path, layer) {
                    Some((layer, path)) => Outcome::Found(self.media_target(layer, &path)),
                    None => {
                        let known =
                            || self.project.layers.iter().flat_map(|layer| &layer.media).map(|path| path.as_str());
                        let certain = names::certain(&path, known()).is_some();
                        let meant = names::nearest(&path, known()).map(|near| {
                            let written = path_from(folder, near);
                            Meant { written: written.as_str().into(), target: self.media_named(near), certain }
                        });
                        Outcome::Missing { wanted: Wanted::Address(file, address.name), meant }
                    }
                };
                self.refer(Link::AddressToFile, Place { file, at: address.at }, address.name, outcome);
            }
        }
    }

    /// A file in `media/` as something that can be referred to.
    pub(super) fn media_target(&self, layer: LayerId, path: &str) -> Target {
        match self.project.find(layer, path) {
            Some(file) => Target::File(file),
            None => Target::Media(self.project.layer(layer).root.join(path).as_str().into()),
        }
    }

    fn media_named(&self, path: &str) -> Target {
        match self.find_media_file(path, self.project.top()) {
            Some((layer, path)) => self.media_target(layer, &path),
            None => Target::Media(path.into()),
        }
    }

    /// What a script says.
    pub fn script(&self, file: FileId) -> Option<&ScriptShape> {
        match &self.facts(file).shape {
            Shape::Script(script) => Some(script),
            _ => None,
        }
    }

    /// What a style sheet says.
    pub fn style(&self, file: FileId) -> Option<&StyleShape> {
        match &self.facts(file).shape {
            Shape::Style(style) => Some(style),
            _ => None,
        }
    }
}

/// A path that stands below a folder, with the layer that it names in front.
pub(super) fn format_media(written: &str, folder: &str) -> String {
    match Prefix::split(written) {
        (Prefix::None, path) => format!("{folder}{path}"),
        (_, path) => format!("{}{folder}{path}", &written[..written.len() - path.len()]),
    }
}

/// The path below a layer's folder that an address in one of its files means; nothing where the
/// address is no relative one, or leaves the folder.
pub fn relative_path(from: &str, address: &str) -> Option<String> {
    let path = address.split(['?', '#']).next().unwrap_or_default().trim();
    let scheme = path.find(':').is_some_and(|at| !path[..at].contains('/'));
    if path.is_empty() || path.starts_with('/') || scheme {
        return None;
    }
    let mut parts: Vec<&str> = from.split('/').collect();
    parts.pop();
    for part in path.split('/') {
        match part {
            "." | "" => {}
            ".." => drop(parts.pop()?),
            part => parts.push(part),
        }
    }
    Some(parts.join("/"))
}

/// A path as it is written in a file of another folder.
fn path_from(folder: &str, path: &str) -> String {
    let (from, to): (Vec<&str>, Vec<&str>) = (folder.split('/').collect(), path.split('/').collect());
    let same = from.iter().zip(&to).take_while(|(a, b)| a == b).count();
    let up = "../".repeat(from.len() - same);
    format!("{up}{}", to[same..].join("/"))
}
