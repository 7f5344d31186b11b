//! What scripts in the markup itself ask of those in files: global names that are there when they run.

use rustc_hash::FxHashSet;

use super::assets::Carried;
use super::globals::{Giving, templates_with};
use super::ground::Ground;
use super::names::Names;
use super::point::Renderer;
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use super::refs::Refs;
use super::slots::Attached;
use crate::address::{Address, Kind};
use crate::names::certain;
use crate::scan::{Named, TemplateRef, TemplateVerb};
use crate::source::{FileId, Place};

/// Ties the global names that the scripts in templates use to the scripts that give them.
pub(super) fn link_inline(names: Names<'_>, attached: &Attached, carried: &Carried) -> Refs {
    let mut refs = Refs::default();
    if !templates_with(names.ground).any(|_| true) {
        return refs;
    }
    let giving = Giving::learn(names);
    let everywhere = everywhere(names, carried);
    for file in templates_with(names.ground).filter(|file| names.ground.project.file(*file).layer.index() > 0) {
        let Some(template) = names.ground.template(file) else { continue };
        let included = is_included(names.ground, file);
        let mut there = everywhere.clone();
        for (address, _) in attached.renderers.iter().filter(|(_, by)| **by == Renderer::Template(file)) {
            there.extend(names.declared.point(*address).into_iter().flat_map(|point| names.all_needs(point)));
        }
        for used in template.scripts.iter().flat_map(|inline| &inline.script.uses) {
            let from = Place { file, at: used.at };
            let outcome = match giving.givers(used.name) {
                _ if giving.inline.contains(&used.name) => continue,
                givers if givers.is_empty() => match slip(&giving, &there, used) {
                    Some(meant) => missing(file, used, meant),
                    None => match giving.undeclared(used.name) {
                        Some(script) => {
                            let target = Target::Global(script, used.name);
                            missing(file, used, Meant::from(Meaning { written: used.name, target, certain: false }))
                        }
                        None => continue,
                    },
                },
                givers => match givers.iter().find(|giver| included || there.contains(giver)) {
                    Some(giver) => Outcome::Found(Target::Point(*giver)),
                    None => {
                        let written = givers[0].to_string().as_str().into();
                        missing(
                            file,
                            used,
                            Meant::from(Meaning { written, target: Target::Point(givers[0]), certain: false }),
                        )
                    }
                },
            };
            refs.refer(names.ground, Link::GlobalToScript, from, used.name, outcome);
        }
    }
    refs
}

fn missing(file: FileId, used: &Named, meant: Meant) -> Outcome {
    Outcome::Missing { wanted: Wanted::Global(file, used.name), meant: Some(meant) }
}

/// A name that is almost one of a script which is there.
fn slip(giving: &Giving, there: &FxHashSet<Address>, used: &Named) -> Option<Meant> {
    let mut given = giving.said.iter().filter(|(_, script)| there.contains(script));
    let near = certain(&used.name, given.clone().map(|(name, _)| name.as_str()))?;
    let (name, script) = given.find(|(name, _)| name.as_str() == near)?;
    Some(Meant::from(Meaning { written: *name, target: Target::Point(*script), certain: true }))
}

/// The scripts that every page loads, whatever is on it.
fn everywhere(names: Names<'_>, carried: &Carried) -> FxHashSet<Address> {
    let scripts = names.declared.all().filter(|point| point.address.kind.is_asset());
    let own = scripts.filter(|point| carried.is_on_all_pages(names, point));
    own.flat_map(|point| std::iter::once(point.address).chain(names.all_needs(point)))
        .filter(|address| address.kind == Kind::Script)
        .collect()
}

/// Does another template take it in? Then it is there for whatever that one renders.
fn is_included(ground: &Ground, file: FileId) -> bool {
    let name = ground.project.file(file).path.as_str().strip_prefix("markup/").unwrap_or_default().to_string();
    let includes = |other: FileId| {
        let refs = ground.template(other).into_iter().flat_map(|template| &template.refs);
        let named = |one: &TemplateRef| one.target.is_some_and(|target| target.ends_with(name.as_str()));
        refs.into_iter().any(|one| one.verb != TemplateVerb::Extends && named(one))
    };
    ground.files().any(|(other, _)| other != file && includes(other))
}
