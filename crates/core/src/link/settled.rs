//! What is settled before anything in a template is looked at: by manifests, modules and the site. Where only
//! templates change, it stays as it is.

use rustc_hash::FxHashMap;

use super::assets::{Carried, carry};
use super::attach::attach;
use super::conditions::Conditions;
use super::declare::{Declared, declare};
use super::fill::{Filled, fill};
use super::ground::Ground;
use super::holds::hold;
use super::known::Known;
use super::layers::link_layers;
use super::modules::import;
use super::names::Names;
use super::offers::{Offered, offer};
use super::point::{Said, TypeInfo};
use super::properties::{named_components, read_properties};
use super::reference::Target;
use super::refs::Refs;
use super::render::{Rendered, render};
use super::slots::Attached;
use super::templates::adopted;
use super::variables::shown_by;
use crate::address::Address;
use crate::name::Name;
use crate::parallel;
use crate::source::FileId;

/// What steps have found out that look at no template but its name.
pub(super) struct Settled {
    pub declared: Declared,
    pub offered: Offered,
    pub known: Known,
    pub rendered: Rendered,
    pub attached: Attached,
    pub filled: Filled,
    pub carried: Carried,
    /// The points that each template renders.
    pub shown_by: FxHashMap<FileId, Vec<Address>>,
    /// Templates that were taken over.
    pub adopted: Refs,
    /// What layers ask of each other.
    pub layers: Refs,
    /// What components may hold.
    pub held: Refs,
    /// What modules import.
    pub imported: Refs,
    /// What callbacks read and return.
    pub properties: Refs,
}

impl Settled {
    /// Takes those steps.
    pub fn of(ground: &Ground) -> Settled {
        let declared = declare(ground);
        let names = Names { ground, declared: &declared };
        let offered = offer(names);
        let known = Known::learn(names);
        let conditions = Conditions { names, known: &known, offered: &offered };
        let attached = || {
            let rendered = render(names);
            let attached = attach(conditions, &rendered);
            (rendered, attached)
        };
        let brought = || (fill(conditions), carry(conditions), import(names));
        let ((rendered, attached), (filled, carried, imported)) = parallel::both(ground.facts.len(), attached, brought);
        let read = || {
            let mut properties = read_properties(conditions, &attached);
            named_components(conditions, &mut properties);
            properties
        };
        let others = || (link_layers(names), hold(names), shown_by(names, &attached.renderers), adopted(names));
        let (properties, (layers, held, shown_by, adopted)) = parallel::both(ground.facts.len(), read, others);
        Settled {
            shown_by,
            adopted,
            declared,
            offered,
            known,
            rendered,
            attached,
            filled,
            carried,
            layers,
            held,
            imported,
            properties,
        }
    }

    /// What names are looked up in.
    pub fn names<'s>(&'s self, ground: &'s Ground) -> Names<'s> {
        Names { ground, declared: &self.declared }
    }

    /// What counts as referred to beside that to which references lead.
    pub fn referred(&self) -> impl Iterator<Item = Target> {
        let steps = [&self.rendered.refs, &self.attached.refs, &self.imported];
        steps.into_iter().flat_map(|refs| refs.referred.iter().copied())
    }

    /// What conditions are held against.
    pub fn conditions<'s>(&'s self, ground: &'s Ground) -> Conditions<'s> {
        Conditions { names: self.names(ground), known: &self.known, offered: &self.offered }
    }
}

/// Do both hold the same that variables are held against?
pub(super) fn read_alike(one: &Settled, other: &Settled) -> bool {
    let point_alike = |one: &Said, other: &Said| {
        fn inputs(said: &Said) -> impl Iterator<Item = Name> {
            said.inputs.iter().map(|input| input.field.name)
        }
        (one.address, one.retired.is_some()) == (other.address, other.retired.is_some())
            && inputs(one).eq(inputs(other))
    };
    let type_alike = |one: &TypeInfo, other: &TypeInfo| one.name == other.name && one.templates == other.templates;
    let (types, others) = (&one.declared.types, &other.declared.types);
    one.known == other.known
        && one.shown_by == other.shown_by
        && types.len() == others.len()
        && types.iter().zip(others).all(|(one, other)| type_alike(one, other))
        && one.declared.points.len() == other.declared.points.len()
        && one.declared.all().zip(other.declared.all()).all(|(one, other)| point_alike(one, other))
}
