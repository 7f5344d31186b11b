//! What feeds on features: variables, inputs, custom properties, messages, items.

use rustc_hash::{FxHashMap, FxHashSet};

use super::feature::{Feed, extent_steps};
use super::names::Names;
use super::offers::Offered;
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use crate::address::Address;
use crate::name::Name;
use crate::names::{certain, nearest};
use crate::scan::{Named, Shape};
use crate::source::{At, FileId, Place};

/// What asks for features, and what feeds on them.
#[derive(Default)]
pub(super) struct Feeds {
    /// Questions for features, file by file.
    pub questions: Refs,
    /// What feeds on them, file by file.
    pub fed: Refs,
    /// What items feed on.
    pub items: Refs,
}

/// Ties all that asks for features, and feeds on them, to those that are switched on.
pub(super) fn link_feeds(names: Names<'_>, offered: &Offered) -> Feeds {
    let mut out = Feeds::default();
    let mut feeding = Feeding::new(names);
    for (file, _) in names.ground.files() {
        out.feed_in(names, offered, &mut feeding, file);
        out.questions.end_file();
        out.fed.end_file();
    }
    feeding.items(names);
    feeding.link(names, offered, &mut out.items);
    out
}

impl Feeds {
    /// What is in one file alone.
    pub fn of(names: Names<'_>, offered: &Offered, file: FileId) -> Feeds {
        let mut out = Feeds::default();
        out.feed_in(names, offered, &mut Feeding::new(names), file);
        out
    }

    fn feed_in(&mut self, names: Names<'_>, offered: &Offered, feeding: &mut Feeding<'_>, file: FileId) {
        let shape = &names.ground.facts(file).shape;
        for asked in shape.asked() {
            offered.link_question(names, &mut self.questions, file, *asked, true);
        }
        for asked in shape.asked_off() {
            offered.link_question(names, &mut self.questions, file, *asked, false);
        }
        if names.ground.project.file(file).layer.index() > 0 {
            feeding.file(file, shape);
            feeding.link(names, offered, &mut self.fed);
        }
    }
}

/// What was found to feed on features.
struct Feeding<'d> {
    feeds: &'d [(Address, Feed)],
    /// The features that feed keys, by the key: of `page` or of `site`.
    keys: FxHashMap<Name, Vec<(&'static str, Address)>>,
    /// The features that feed inputs.
    inputs: FxHashMap<(Address, Name), Address>,
    /// The feature that feeds messages.
    messages: Option<Address>,
    /// The custom properties that style sheets set by themselves.
    set: FxHashSet<Name>,
    /// The feature, where it is fed on, and what is written there.
    found: Vec<(Address, Place, Name)>,
}

impl<'d> Feeding<'d> {
    fn new(names: Names<'d>) -> Feeding<'d> {
        let feeds = names.declared.feeds();
        let mut set: FxHashSet<Name> = FxHashSet::default();
        for (_, facts) in names.ground.files() {
            if let Shape::Style(style) = &facts.shape {
                set.extend(style.sets.iter().copied());
            }
        }
        let (mut keys, mut inputs, mut messages) = (FxHashMap::default(), FxHashMap::default(), None);
        for (feature, feed) in feeds {
            match feed {
                Feed::Variable(whole) => {
                    if let Some((root, key)) = whole.as_str().split_once('.') {
                        keys.entry(key.into()).or_insert_with(Vec::new).push((root, *feature));
                    }
                }
                Feed::Input(point, name) => {
                    inputs.entry((*point, *name)).or_insert(*feature);
                }
                Feed::Messages => messages = messages.or(Some(*feature)),
                _ => {}
            }
        }
        Feeding { feeds, keys, inputs, messages, set, found: Vec::new() }
    }

    /// The feature that feeds something. What is fed by its own name is not one of several.
    fn fed(&self, wanted: &dyn Fn(&Feed) -> bool) -> Option<Address> {
        let found = self.feeds.iter().filter(|(_, feed)| wanted(feed));
        found.min_by_key(|(_, feed)| matches!(feed, Feed::Property(_, true))).map(|(feature, _)| *feature)
    }

    /// Notes that a key of `page` or `site` is read or given, where a feature has to do with it.
    fn key(&mut self, file: FileId, root: &str, key: Name, at: At) {
        let found = self.keys.get(&key).and_then(|found| found.iter().find(|(of, _)| *of == root));
        if let Some((_, feature)) = found.copied() {
            let whole = format!("{root}.{key}").as_str().into();
            self.found.push((feature, Place { file, at }, whole));
        }
    }

    fn add(&mut self, file: FileId, feature: Option<Address>, named: Named) {
        self.found.extend(feature.map(|feature| (feature, Place { file, at: named.at }, named.name)));
    }

    /// What one file feeds on.
    fn file(&mut self, file: FileId, shape: &Shape) {
        match shape {
            Shape::Template(template) => {
                for read in &template.reads {
                    let [root, key, ..] = read.path.as_slice() else { continue };
                    self.key(file, &root.name, key.name, root.at);
                }
            }
            Shape::Module(module) => {
                for taken in module.exports.iter().flat_map(|export| &export.takes) {
                    let [root, key, ..] = taken.path.as_slice() else { continue };
                    let (root, key) = (root.named, key.named);
                    self.key(file, &root.name, key.name, key.at);
                }
            }
            Shape::Style(style) => {
                for read in &style.reads {
                    let own = self.set.contains(&read.name);
                    self.add(file, self.fed(&|feed| !own && feed.is_property(&read.name)), *read);
                }
            }
            Shape::Page(page) => {
                for Named { name, at } in page.keys.iter().map(|given| given.name) {
                    self.key(file, "page", name, at);
                }
            }
            Shape::Site(site) => {
                for Named { name, at } in site.keys.iter().map(|given| given.name) {
                    self.key(file, "site", name, at);
                }
            }
            _ => {}
        }
        for message in shape.messages() {
            self.add(file, self.messages, message.id);
        }
        for used in shape.uses() {
            let Some(point) = used.point.address else { continue };
            for arg in &used.args {
                self.add(file, self.inputs.get(&(point, arg.name)).copied(), *arg);
            }
        }
    }

    /// Ties what was found to the features.
    fn link(&mut self, names: Names<'_>, offered: &Offered, refs: &mut Refs) {
        for (feature, from, written) in self.found.drain(..) {
            match lacking_property(names, feature, written) {
                Some(meant) => {
                    let outcome = Outcome::Missing { wanted: Wanted::Property(feature, written), meant };
                    refs.refer(names.ground, Link::FeedToFeature, from, written, outcome);
                }
                None => offered.link_feed(names, refs, feature, from, written),
            }
        }
    }

    /// What items feed on.
    fn items(&mut self, names: Names<'_>) {
        for placed in names.items() {
            let Some(component) = placed.component else { continue };
            for given in &placed.item.inputs {
                let own = self.inputs.get(&(component, given.name.name)).copied();
                let wide = given.name.name == "extent" && names.declared.takes_extent(component);
                let feature = own.or_else(|| wide.then(extent_steps));
                let place = Place { file: placed.file, at: given.name.at };
                self.found.extend(feature.map(|feature| (feature, place, given.name.name)));
            }
        }
    }
}

/// For a custom property that a feature which is on does not set: what was most likely meant by it.
fn lacking_property(names: Names<'_>, asked: Address, property: Name) -> Option<Option<Meant>> {
    let (_, argument) = asked.argument().filter(|_| names.declared.is_on(asked))?;
    let feature = names.declared.point(asked)?.feature.as_ref()?;
    let lead = feature.feeds.iter().find_map(|fed| match fed.feed {
        Feed::Property(lead, true) if fed.argument == Some(argument.into()) && fed.feed.is_property(&property) => {
            Some(lead.as_str())
        }
        _ => None,
    })?;
    let entries = feature.argument(argument)?;
    let names_of = entries.as_object()?.iter().filter(|(_, entry)| entry.is_object());
    let known: Vec<String> = names_of.map(|(name, _)| format!("{lead}{name}")).collect();
    let words = || known.iter().map(String::as_str);
    if words().any(|name| property == name) {
        return None;
    }
    Some(nearest(&property, words()).map(|near| {
        Meant::from(Meaning {
            written: near.into(),
            target: Target::Point(asked),
            certain: certain(&property, words()).is_some(),
        })
    }))
}
