//! What can't be seen, and so might be anything.

use crate::read::{Project, Trouble};
use crate::scan::{Facts, Shape};

/// What could be hidden in something that is missing or can't be understood.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Blind {
    /// Points, types and attachments may be declared where we can't see them.
    pub declarations: bool,
    /// Points may be placed where we can't see it.
    pub placements: bool,
    /// Callbacks may be imported where we can't see it.
    pub imports: bool,
    /// The site's data can't be seen.
    pub site: bool,
}

impl Blind {
    /// What can't be understood could hold anything.
    pub(super) fn of(project: &Project, facts: &[Facts]) -> Blind {
        let is_missing = |trouble: &Trouble| !matches!(trouble, Trouble::Version { .. });
        let declarations = project.troubles.iter().any(|trouble| is_missing(&trouble.trouble));
        let mut blind = Blind { declarations, placements: declarations, ..Blind::default() };
        for facts in facts {
            match &facts.shape {
                // It may name a base, and with that templates.
                Shape::Manifest(manifest) => {
                    let broken = manifest.broken || manifest.identity.as_ref().is_some_and(|identity| identity.unsure);
                    blind.declarations |= broken;
                    blind.placements |= broken;
                }
                Shape::Template(template) => blind.placements |= template.broken || template.dynamic,
                Shape::Module(module) => {
                    blind.placements |= module.broken || module.dynamic;
                    blind.imports |= module.broken;
                }
                Shape::Site(site) => blind.site |= site.broken,
                Shape::Page(page) => blind.site |= page.broken,
                Shape::Style(_) | Shape::Script(_) | Shape::Words(_) | Shape::Body(_) | Shape::Opaque => {}
            }
        }
        blind
    }
}
