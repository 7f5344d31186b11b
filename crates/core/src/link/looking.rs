//! What is looked at where something does not show.

use super::chains::Chains;
use super::ground::Ground;
use super::missed::Missed;
use super::point::Said;
use super::reach::Reached;
use super::reference::Reference;
use super::ties::Ties;
use super::types::Types;
use crate::source::FileId;

/// All that is known by the time that absences are looked for.
pub(super) struct Looking<'l> {
    pub ties: Ties<'l>,
    pub chains: Chains<'l>,
    pub missed: &'l Missed,
    pub reached: &'l Reached,
    pub references: &'l [Reference],
}

impl<'l> Looking<'l> {
    pub fn ground(&self) -> &'l Ground {
        self.ties.names.ground
    }

    pub fn points(&self) -> impl Iterator<Item = &'l Said> {
        self.ties.names.declared.all()
    }

    pub fn template_types(&self, file: FileId) -> Types {
        self.reached.template_types(self.ground(), file)
    }
}
