//! Variables: is every name that a template reads there?

use std::sync::LazyLock;

use rustc_hash::{FxHashMap, FxHashSet};

use super::chains::{Chains, MeantTemplates};
use super::conditions::Conditions;
use super::ground::Ground;
use super::known::{Stray, given, joined, missing, named_at, stray};
use super::names::Names;
use super::point::Renderer;
use super::reference::{Link, Meaning, Meant, Outcome, Reference, Target, Wanted};
use super::refs::Refs;
use crate::address::Address;
use crate::name::Name;
use crate::names;
use crate::parallel;
use crate::scan::{FUNCTIONS, Named, Read, SectionKind, Shape, TemplateVerb};
use crate::source::{At, FileId, Place};

/// Who includes or extends each template: a template, and which of the references in it.
pub(super) type Users = FxHashMap<FileId, Vec<(FileId, u32)>>;

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

/// The points that each template renders.
pub(super) fn shown_by(names: Names<'_>, renderers: &FxHashMap<Address, Renderer>) -> FxHashMap<FileId, Vec<Address>> {
    let mut shown_by: FxHashMap<FileId, Vec<Address>> = FxHashMap::default();
    for address in names.declared.points.keys() {
        if let Some(Renderer::Template(file)) = renderers.get(address) {
            shown_by.entry(*file).or_default().push(*address);
        }
    }
    shown_by
}

/// What variables are held against.
pub(super) struct Reading<'r> {
    pub names: Names<'r>,
    pub conditions: Conditions<'r>,
    pub users: &'r Users,
    /// The points that each template renders.
    pub shown_by: &'r FxHashMap<FileId, Vec<Address>>,
    pub meant_macros: &'r FxHashSet<(FileId, Name)>,
}

impl Reading<'_> {
    /// Resolves the variables that all templates read, each by itself.
    pub fn read(&self) -> Refs {
        let files = self.names.ground.facts.len();
        Refs::by_file(parallel::rows(files, files, |at, found| self.read_in(FileId(at as u32), found)))
    }

    /// Resolves the variables that one template reads.
    pub fn read_in(&self, file: FileId, found: &mut Vec<Reference>) {
        let ground = self.names.ground;
        let reads = ground.template(file).map_or(&[][..], |shape| &shape.reads);
        let layer = ground.project.file(file).layer;
        found.extend(reads.iter().map(|read| {
            let (from, written, outcome) = self.resolve(file, read);
            Reference { link: Link::VariableToName, from, layer, written, outcome }
        }));
    }

    /// The templates that show another one, each with the names that it hands on.
    fn users(&self, file: FileId) -> impl Iterator<Item = (FileId, &[Name], &[Name])> {
        self.users.get(&file).into_iter().flatten().filter_map(|(user, at)| {
            let shape = self.names.ground.template(*user)?;
            let visible = match &shape.refs[*at as usize] {
                reference if reference.verb == TemplateVerb::Include => reference.visible.as_slice(),
                _ => &shape.assigned,
            };
            Some((*user, visible, shape.assigned.as_slice()))
        })
    }

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
        for (user, visible, assigned) in self.users(file) {
            if visible.contains(&name) || assigned.contains(&name) {
                supply = Supply::Local;
                continue;
            }
            match self.supply(user, name, seen) {
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
        let handed = self.users(file).flat_map(|(_, visible, _)| visible.iter().copied());
        let words: Vec<Name> = inputs().chain(assigned).chain(handed).collect();
        let words = || words.iter().map(|word| word.as_str()).chain(names::GLOBALS).chain(FUNCTIONS);
        let meant = names::nearest(&name, words()).map(|near| {
            let owner = points.iter().find(|address| {
                self.names.declared.points[*address].inputs.iter().any(|input| input.field.name == near)
            });
            let target = owner.map_or(Target::Given, |address| Target::Input(*address, near.into()));
            Meant::from(Meaning { written: near.into(), target, certain: names::certain(&name, words()).is_some() })
        });
        let wanted = match points {
            [address] => Wanted::Input(*address, name),
            _ => Wanted::Variable(file, name),
        };
        Outcome::Missing { wanted, meant }
    }
}

/// Who includes or extends each template.
pub(super) fn users(ground: &Ground) -> Users {
    let mut users = Users::default();
    for (file, facts) in ground.files() {
        let Shape::Template(shape) = &facts.shape else { continue };
        let layer = ground.project.file(file).layer;
        for (at, reference) in shape.refs.iter().enumerate() {
            let Some(target) = reference.target.and_then(|target| ground.resolve_template(&target, layer)) else {
                continue;
            };
            if reference.verb != TemplateVerb::Import {
                users.entry(target).or_default().push((file, at as u32));
            }
        }
    }
    users
}

fn stray_outcome(file: FileId, path: &[Named], stray: Stray) -> (At, Outcome) {
    let at = path[stray.step].at;
    let wanted = Wanted::Variable(file, joined(&path[..=stray.step]));
    (at, missing(path, stray, wanted))
}
