//! Variables: is every name that a template reads there?

use std::sync::LazyLock;

use rustc_hash::{FxHashMap, FxHashSet};

use super::chains::{Chains, MeantTemplates};
use super::conditions::Conditions;
use super::ground::Ground;
use super::known::{Stray, given, joined, missing, named_at, stray};
use super::names::Names;
use super::point::Renderer;
use super::reference::{Link, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use crate::address::Address;
use crate::name::Name;
use crate::names;
use crate::parallel;
use crate::scan::{FUNCTIONS, Named, Read, SectionKind, Shape, TemplateVerb};
use crate::source::{At, FileId, Place};

/// A template that shows another one, with what that one sees of it.
struct User {
    file: FileId,
    visible: Vec<Name>,
}

/// Whether a name reaches a template from those who show it.
enum Supply {
    /// As an input of this point.
    Input(Address),
    /// As a local name of a template that shows it.
    Local,
    /// Somebody who shows it does not have the name.
    Lacking,
    /// Nobody shows it.
    Nobody,
}

/// Resolves the variables that templates read.
pub(super) fn read(
    conditions: Conditions<'_>,
    renderers: &FxHashMap<Address, Renderer>,
    meant_macros: &FxHashSet<(FileId, Name)>,
) -> Refs {
    let names = conditions.names;
    let ground = names.ground;
    let mut shown_by: FxHashMap<FileId, Vec<Address>> = FxHashMap::default();
    for address in names.declared.points.keys() {
        if let Some(Renderer::Template(file)) = renderers.get(address) {
            shown_by.entry(*file).or_default().push(*address);
        }
    }
    let reading = Reading { names, conditions, users: users(ground), shown_by, meant_macros };
    // Each template by itself, several at a time; what was found is noted in their order.
    let found = parallel::map(ground.facts.len(), |at| match &ground.facts[at].shape {
        Shape::Template(shape) => shape.reads.iter().map(|read| reading.resolve(FileId(at as u32), read)).collect(),
        _ => Vec::new(),
    });
    let mut refs = Refs::default();
    for (from, written, outcome) in found.into_iter().flatten() {
        refs.refer(ground, Link::VariableToName, from, written, outcome);
    }
    refs
}

struct Reading<'r> {
    names: Names<'r>,
    conditions: Conditions<'r>,
    users: FxHashMap<FileId, Vec<User>>,
    /// The points that each template renders.
    shown_by: FxHashMap<FileId, Vec<Address>>,
    meant_macros: &'r FxHashSet<(FileId, Name)>,
}

impl Reading<'_> {
    fn chains(&self) -> Chains<'_> {
        static NONE: LazyLock<MeantTemplates> = LazyLock::new(MeantTemplates::default);
        Chains { ground: self.names.ground, meant: &NONE, parents: None }
    }

    fn resolve(&self, file: FileId, read: &Read) -> (Place, Name, Outcome) {
        let project = &self.names.ground.project;
        let top = project.file(file).layer == project.top();
        let (at, outcome) = if !names::GLOBALS.contains(&read.path[0].name.as_str()) {
            (read.path[0].at, self.find_variable(file, read))
        } else {
            match stray(self.names, self.conditions.known, &read.path, top) {
                None => (named_at(&read.path), Outcome::Found(given(&read.path))),
                Some(stray) if self.conditions.hidden(&read.path, &stray) => (read.path[0].at, Outcome::Unknown),
                Some(stray) => stray_outcome(file, &read.path, stray),
            }
        };
        (Place { file, at }, joined(&read.path), outcome)
    }

    fn find_variable(&self, file: FileId, read: &Read) -> Outcome {
        let name = read.path[0].name;
        let Some(template) = self.names.ground.template(file) else { return Outcome::Unknown };
        let section = &template.sections[usize::from(read.section.0)];
        let in_macro = matches!(section.kind, SectionKind::Macro(_));
        if self.meant_macros.contains(&(file, name)) {
            return Outcome::Found(Target::Given);
        }
        if FUNCTIONS.contains(&name.as_str()) || (!in_macro && template.assigned.contains(&name)) {
            return Outcome::Found(Target::Given);
        }
        if let SectionKind::Block(block) = section.kind
            && self.chains().chain(file).iter().skip(1).any(|parent| self.block_sees(*parent, block, name))
        {
            return Outcome::Found(Target::Given);
        }
        if self.names.ground.blind.declarations {
            return Outcome::Unknown;
        }
        let supply = if in_macro { Supply::Lacking } else { self.supply(file, name, &mut Vec::new()) };
        match supply {
            Supply::Input(address) => Outcome::Found(Target::Input(address, name)),
            Supply::Local => Outcome::Found(Target::Given),
            Supply::Nobody => Outcome::Unknown,
            Supply::Lacking => self.missing_variable(file, name),
        }
    }

    fn block_sees(&self, file: FileId, block: Name, name: Name) -> bool {
        self.names.ground.template(file).is_some_and(|template| {
            let part =
                self.names.ground.block_in(file, block).map(|section| &template.sections[usize::from(section.0)]);
            template.assigned.contains(&name) || part.is_some_and(|part| part.visible.contains(&name))
        })
    }

    fn supply(&self, file: FileId, name: Name, seen: &mut Vec<FileId>) -> Supply {
        if seen.contains(&file) {
            return Supply::Nobody;
        }
        seen.push(file);
        let mut supply = Supply::Nobody;
        for address in self.shown_by.get(&file).into_iter().flatten() {
            if self.names.declared.points[address].inputs.iter().all(|input| input.field.name != name) {
                return Supply::Lacking;
            }
            supply = Supply::Input(*address);
        }
        if !self.shown_by.contains_key(&file) && self.names.is_page_template(file) {
            return Supply::Lacking;
        }
        for user in self.users.get(&file).into_iter().flatten() {
            if user.visible.contains(&name)
                || self.names.ground.template(user.file).is_some_and(|template| template.assigned.contains(&name))
            {
                supply = Supply::Local;
                continue;
            }
            match self.supply(user.file, name, seen) {
                Supply::Lacking => return Supply::Lacking,
                Supply::Nobody => {}
                found => supply = found,
            }
        }
        supply
    }

    fn missing_variable(&self, file: FileId, name: Name) -> Outcome {
        let points = self.shown_by.get(&file).map_or(&[][..], Vec::as_slice);
        let inputs = || {
            points.iter().flat_map(|address| &self.names.declared.points[address].inputs).map(|input| input.field.name)
        };
        let assigned = self.names.ground.template(file).map(|template| template.assigned.clone()).unwrap_or_default();
        let handed = self.users.get(&file).into_iter().flatten().flat_map(|user| user.visible.clone());
        let words: Vec<Name> = inputs().chain(assigned).chain(handed).collect();
        let words = || words.iter().map(|word| word.as_str()).chain(names::GLOBALS).chain(FUNCTIONS);
        let meant = names::nearest(&name, words()).map(|near| {
            let owner = points.iter().find(|address| {
                self.names.declared.points[*address].inputs.iter().any(|input| input.field.name == near)
            });
            let target = owner.map_or(Target::Given, |address| Target::Input(*address, near.into()));
            Meant { written: near.into(), target, certain: names::certain(&name, words()).is_some() }
        });
        let wanted = match points {
            [address] => Wanted::Input(*address, name),
            _ => Wanted::Variable(file, name),
        };
        Outcome::Missing { wanted, meant }
    }
}

/// Who includes or extends each template, and what they hand on.
fn users(ground: &Ground) -> FxHashMap<FileId, Vec<User>> {
    let mut users: FxHashMap<FileId, Vec<User>> = FxHashMap::default();
    for (file, facts) in ground.files() {
        let Shape::Template(shape) = &facts.shape else { continue };
        let layer = ground.project.file(file).layer;
        for reference in &shape.refs {
            let Some(target) = reference.target.and_then(|target| ground.resolve_template(&target, layer)) else {
                continue;
            };
            let visible = match reference.verb {
                TemplateVerb::Include => reference.visible.clone(),
                TemplateVerb::Extends => shape.assigned.clone(),
                TemplateVerb::Import => continue,
            };
            users.entry(target).or_default().push(User { file, visible });
        }
    }
    users
}

fn stray_outcome(file: FileId, path: &[Named], stray: Stray) -> (At, Outcome) {
    let at = path[stray.step].at;
    let wanted = Wanted::Variable(file, joined(&path[..=stray.step]));
    (at, missing(path, stray, wanted))
}
