//! Variables and conditions: is every name that is read there?

use serde_json::{Map, Value};

use super::reference::{Meant, Wanted};
use super::*;
use crate::names;
use crate::read::FileKind;
use crate::scan::{FUNCTIONS, Named, Read, SectionKind, TemplateVerb};

/// The keys of `page`, beside those of single types.
pub const PAGE_KEYS: [&str; 8] = ["path", "type", "title", "heading", "body", "root", "sections", "data"];
/// The keys of `site`.
pub const SITE_KEYS: [&str; 6] = ["title", "motto", "language", "now", "menus", "data"];
/// The keys of `theme`.
pub const THEME_KEYS: [&str; 5] = ["name", "label", "about", "version", "picture"];

/// What is known of the values that templates and conditions read.
#[derive(Default)]
pub(super) struct Known {
    page: Vec<Name>,
    site: Vec<Name>,
    options: Vec<Name>,
    page_data: Option<Value>,
    site_data: Option<Value>,
}

/// A name on a path that isn't there: its position, and what was most likely meant.
struct Stray {
    step: usize,
    near: Option<String>,
    certain: bool,
}

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

impl Registry {
    /// Resolves the variables that templates read.
    pub(super) fn link_variables(&mut self) {
        let users = self.users();
        let shown_by = self.shown_by();
        let all = self.facts.clone();
        // Each template by itself, several at a time; what was found is noted in their order.
        let found = parallel::map(all.len(), |at| {
            let Shape::Template(shape) = &all[at].shape else { return Vec::new() };
            let file = FileId(at as u32);
            let top = self.project.file(file).layer == self.project.top();
            let resolve = |read: &Read| {
                let (at, outcome) = if !names::GLOBALS.contains(&read.path[0].name.as_str()) {
                    (read.path[0].at, self.find_variable(file, read, &users, &shown_by))
                } else {
                    match stray(self.known(), &read.path, top) {
                        None => (named_at(&read.path), Outcome::Found(given(&read.path))),
                        Some(stray) if self.hidden(&read.path, &stray) => (read.path[0].at, Outcome::Unknown),
                        Some(stray) => self.stray_outcome(file, &read.path, stray),
                    }
                };
                (Place { file, at }, joined(&read.path), outcome)
            };
            shape.reads.iter().map(resolve).collect()
        });
        for (from, written, outcome) in found.into_iter().flatten() {
            self.refer(Link::VariableToName, from, written, outcome);
        }
    }

    /// Resolves the names of a condition; false where one isn't there, so that it can't be evaluated.
    pub(super) fn link_condition(&mut self, file: FileId, when: &Condition) -> bool {
        let top = self.project.file(file).layer == self.project.top();
        let mut good = true;
        for path in &when.reads {
            let written = joined(path);
            let root = path[0];
            let (at, outcome) = if !Condition::has_root(&root.name) {
                let near = names::nearest(&root.name, ["page", "site", "options"]).map(str::to_string);
                let certain = names::certain(&root.name, ["page", "site", "options"]).is_some();
                (root.at, missing_name(path, Stray { step: 0, near, certain }))
            } else {
                match stray(self.known(), path, top) {
                    None => (named_at(path), Outcome::Found(given(path))),
                    Some(stray) if self.hidden(path, &stray) => (root.at, Outcome::Unknown),
                    Some(found) => (path[found.step].at, missing_name(path, found)),
                }
            };
            good &= !matches!(outcome, Outcome::Missing { .. });
            self.refer(Link::ConditionToName, Place { file, at }, written, outcome);
        }
        for asked in &when.asked {
            self.link_question(file, *asked);
        }
        good
    }

    /// Is this an option, or a key of a page or site, that may be declared where we can't see it?
    fn hidden(&self, path: &[Named], stray: &Stray) -> bool {
        path[0].name != "theme" && stray.step == 1 && self.blind.declarations
    }

    fn known(&self) -> &Known {
        self.known.get_or_init(|| self.learn_names())
    }

    fn learn_names(&self) -> Known {
        let keys = self.types.iter().flat_map(|page_type| &page_type.keys).map(|field| field.name);
        let page = PAGE_KEYS.iter().map(Name::from).chain(keys).chain(self.fed_keys("page")).collect();
        let site = SITE_KEYS.iter().map(Name::from).chain(self.fed_keys("site")).collect();
        let has_preview = self.site().is_some() || self.pages().next().is_some();
        let seen = has_preview && !self.blind.site;
        let mut page_data = Value::Object(Map::new());
        for (_, shape) in self.pages() {
            lay_over(&mut page_data, shape.value.get("data"));
        }
        let mut site_data = Value::Object(Map::new());
        lay_over(&mut site_data, self.site().and_then(|(_, site)| site.value.get("data")));
        let options = self.names(Kind::Option).map(Name::from).collect();
        Known { page, site, options, page_data: seen.then_some(page_data), site_data: seen.then_some(site_data) }
    }

    /// Who includes or extends each template, and what they hand on.
    fn users(&self) -> Index<FileId, Vec<User>> {
        let mut users: Index<FileId, Vec<User>> = Index::default();
        for (at, facts) in self.facts.iter().enumerate() {
            let Shape::Template(shape) = &facts.shape else { continue };
            let file = FileId(at as u32);
            let layer = self.project.file(file).layer;
            for reference in &shape.refs {
                let Some(target) = reference.target.and_then(|target| self.resolve_template(&target, layer)) else {
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

    /// The points that each template renders.
    fn shown_by(&self) -> Index<FileId, Vec<Address>> {
        let mut shown: Index<FileId, Vec<Address>> = Index::default();
        for point in self.points.values() {
            if let Some(Renderer::Template(file)) = point.renderer {
                shown.entry(file).or_default().push(point.address);
            }
        }
        shown
    }

    fn find_variable(
        &self,
        file: FileId,
        read: &Read,
        users: &Index<FileId, Vec<User>>,
        shown_by: &Index<FileId, Vec<Address>>,
    ) -> Outcome {
        let name = read.path[0].name;
        let Some(template) = self.template(file) else { return Outcome::Unknown };
        let section = &template.sections[usize::from(read.section.0)];
        let in_macro = matches!(section.kind, SectionKind::Macro(_));
        if self.meant_macros.contains(&(file, name)) {
            return Outcome::Found(Target::Given);
        }
        if FUNCTIONS.contains(&name.as_str()) || (!in_macro && template.assigned.contains(&name)) {
            return Outcome::Found(Target::Given);
        }
        if let SectionKind::Block(block) = section.kind
            && self.chain(file).iter().skip(1).any(|parent| self.block_sees(*parent, block, name))
        {
            return Outcome::Found(Target::Given);
        }
        if self.blind.declarations {
            return Outcome::Unknown;
        }
        let supply = if in_macro { Supply::Lacking } else { self.supply(file, name, users, shown_by, &mut Vec::new()) };
        match supply {
            Supply::Input(address) => Outcome::Found(Target::Input(address, name)),
            Supply::Local => Outcome::Found(Target::Given),
            Supply::Nobody => Outcome::Unknown,
            Supply::Lacking => self.missing_variable(file, name, users, shown_by),
        }
    }

    fn block_sees(&self, file: FileId, block: Name, name: Name) -> bool {
        self.template(file).is_some_and(|template| {
            let part = template.block(block).map(|section| &template.sections[usize::from(section.0)]);
            template.assigned.contains(&name) || part.is_some_and(|part| part.visible.contains(&name))
        })
    }

    fn supply(
        &self,
        file: FileId,
        name: Name,
        users: &Index<FileId, Vec<User>>,
        shown_by: &Index<FileId, Vec<Address>>,
        seen: &mut Vec<FileId>,
    ) -> Supply {
        if seen.contains(&file) {
            return Supply::Nobody;
        }
        seen.push(file);
        let mut supply = Supply::Nobody;
        for address in shown_by.get(&file).into_iter().flatten() {
            if self.points[address].inputs.iter().all(|input| input.field.name != name) {
                return Supply::Lacking;
            }
            supply = Supply::Input(*address);
        }
        if shown_by.get(&file).is_none() && self.is_page_template(file) {
            return Supply::Lacking;
        }
        for user in users.get(&file).into_iter().flatten() {
            if user.visible.contains(&name)
                || self.template(user.file).is_some_and(|template| template.assigned.contains(&name))
            {
                supply = Supply::Local;
                continue;
            }
            match self.supply(user.file, name, users, shown_by, seen) {
                Supply::Lacking => return Supply::Lacking,
                Supply::Nobody => {}
                found => supply = found,
            }
        }
        supply
    }

    /// Is this the template of a type of page, in any layer?
    pub fn is_page_template(&self, file: FileId) -> bool {
        self.types.iter().any(|page_type| page_type.templates.contains(&file))
            || self.files_named(FileKind::Template, "page.html").contains(&file)
    }

    fn missing_variable(
        &self,
        file: FileId,
        name: Name,
        users: &Index<FileId, Vec<User>>,
        shown_by: &Index<FileId, Vec<Address>>,
    ) -> Outcome {
        let points = shown_by.get(&file).map_or(&[][..], Vec::as_slice);
        let inputs = || points.iter().flat_map(|address| &self.points[address].inputs).map(|input| input.field.name);
        let assigned = self.template(file).map(|template| template.assigned.clone()).unwrap_or_default();
        let handed = users.get(&file).into_iter().flatten().flat_map(|user| user.visible.clone());
        let words: Vec<Name> = inputs().chain(assigned).chain(handed).collect();
        let words = || words.iter().map(|word| word.as_str()).chain(names::GLOBALS).chain(FUNCTIONS);
        let meant = names::nearest(&name, words()).map(|near| {
            let owner =
                points.iter().find(|address| self.points[*address].inputs.iter().any(|input| input.field.name == near));
            let target = owner.map_or(Target::Given, |address| Target::Input(*address, near.into()));
            Meant { written: near.into(), target, certain: names::certain(&name, words()).is_some() }
        });
        let wanted = match points {
            [address] => Wanted::Input(*address, name),
            _ => Wanted::Variable(file, name),
        };
        Outcome::Missing { wanted, meant }
    }

    fn stray_outcome(&self, file: FileId, path: &[Named], stray: Stray) -> (At, Outcome) {
        let at = path[stray.step].at;
        let wanted = Wanted::Variable(file, joined(&path[..=stray.step]));
        (at, missing(path, stray, wanted))
    }
}

fn missing_name(path: &[Named], stray: Stray) -> Outcome {
    let wanted = Wanted::Name(joined(&path[..=stray.step]));
    missing(path, stray, wanted)
}

/// A name that isn't there. An option is asked for in many ways, and is one thing.
fn missing(path: &[Named], stray: Stray, wanted: Wanted) -> Outcome {
    let option = stray.step == 1 && path[0].name == "options";
    let target = |near: &str| match option {
        true => Target::Point(Address::new(Kind::Option, near)),
        false => Target::Given,
    };
    let meant =
        stray.near.map(|near| Meant { written: near.as_str().into(), target: target(&near), certain: stray.certain });
    let wanted = if option { Wanted::Option(path[1].name) } else { wanted };
    Outcome::Missing { wanted, meant }
}

/// What a name that is there leads to.
fn given(path: &[Named]) -> Target {
    match path {
        [root, option, ..] if root.name == "options" && !option.name.is_empty() => {
            Target::Point(Address::new(Kind::Option, option.name))
        }
        _ => Target::Given,
    }
}

/// Where the name stands that leads there.
fn named_at(path: &[Named]) -> At {
    if matches!(given(path), Target::Point(_)) { path[1].at } else { path[0].at }
}

/// The first name on a path that isn't there.
fn stray(known: &Known, path: &[Named], top: bool) -> Option<Stray> {
    let step = path.get(1).filter(|step| !step.name.is_empty())?;
    // Most names are there; only for one that isn't are all of them gathered.
    let known_page = |name: Name| known.page.contains(&name);
    let there = match path[0].name.as_str() {
        "page" => known_page(step.name),
        "site" => known.site.contains(&step.name),
        "theme" => THEME_KEYS.contains(&step.name.as_str()),
        "options" => known.options.contains(&step.name),
        _ => false,
    };
    let keys: Vec<&str> = match path[0].name.as_str() {
        _ if there => Vec::new(),
        "page" => known.page.iter().map(|key| key.as_str()).collect(),
        "site" => known.site.iter().map(|key| key.as_str()).collect(),
        "theme" => THEME_KEYS.to_vec(),
        _ => known.options.iter().map(|name| name.as_str()).collect(),
    };
    if !there {
        return Some(stray_among(1, &step.name, &keys));
    }
    if step.name != "data" || !top {
        return None;
    }
    let mut value = match path[0].name.as_str() {
        "page" => known.page_data.as_ref()?,
        _ => known.site_data.as_ref()?,
    };
    for (at, step) in path.iter().enumerate().skip(2) {
        let table = value.as_object()?;
        if step.name.is_empty() {
            return None;
        }
        let keys: Vec<&str> = table.keys().map(String::as_str).collect();
        match table.get(step.name.as_str()) {
            Some(next) => value = next,
            None => return Some(stray_among(at, &step.name, &keys)),
        }
    }
    None
}

fn stray_among(step: usize, name: &str, keys: &[&str]) -> Stray {
    let near = names::nearest(name, keys.iter().copied()).map(str::to_string);
    Stray { step, near, certain: names::certain(name, keys.iter().copied()).is_some() }
}

/// Merges the tables of a value into those of another.
fn lay_over(value: &mut Value, over: Option<&Value>) {
    let (Some(table), Some(Value::Object(over))) = (value.as_object_mut(), over) else { return };
    for (key, over) in over {
        match table.get_mut(key) {
            Some(known) if known.is_object() => lay_over(known, Some(over)),
            _ => {
                table.insert(key.clone(), over.clone());
            }
        }
    }
}

fn joined(path: &[Named]) -> Name {
    if let [one] = path {
        return one.name;
    }
    let steps: Vec<&str> = path.iter().map(|step| step.name.as_str()).filter(|step| !step.is_empty()).collect();
    steps.join(".").as_str().into()
}
