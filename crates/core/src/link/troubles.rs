//! What can be asked of the registry about what is wrong beside references that lead nowhere.

use super::absence::Absence;
use super::arguments::MissingArgument;
use super::asset::NeedCycle;
use super::declare::Repeat;
use super::merge::Breach;
use super::reach::Cycle;
use super::registry::Registry;
use super::render::TwoRenderers;
use super::slots::{Ambiguous, OrderTrouble, SealedHit, WrongKind};

/// What is wrong beside references that lead nowhere.
impl Registry {
    /// Points that are needed and don't show.
    pub fn absences(&self) -> &[Absence] {
        &self.absences
    }

    /// Templates and placements that lead back to themselves.
    pub fn cycles(&self) -> &[Cycle] {
        &self.reached.cycles
    }

    /// Assets that need each other in a circle.
    pub fn need_cycles(&self) -> &[NeedCycle] {
        &self.settled.carried.cycles
    }

    /// Points declared twice in one layer.
    pub fn repeats(&self) -> &[Repeat] {
        &self.settled.declared.repeats
    }

    /// Redeclarations that the layers below can't live with.
    pub fn breaches(&self) -> &[Breach] {
        &self.settled.declared.breaches
    }

    /// Components with two renderers in one layer.
    pub fn two_renderers(&self) -> &[TwoRenderers] {
        &self.settled.rendered.two_renderers
    }

    /// Points whose order can't be as asked.
    pub fn order_troubles(&self) -> &[OrderTrouble] {
        &self.settled.attached.order_troubles
    }

    /// Attachments of a kind that their point does not take.
    pub fn wrong_kinds(&self) -> &[WrongKind] {
        &self.settled.attached.wrong_kinds
    }

    /// Attempts to detach or replace what is sealed.
    pub fn sealed_hits(&self) -> &[SealedHit] {
        &self.settled.attached.sealed_hits
    }

    /// Replacements that could mean several attachments.
    pub fn ambiguous(&self) -> &[Ambiguous] {
        &self.settled.attached.ambiguous
    }

    /// Inputs and arguments that a use has to pass on and doesn't.
    pub fn missing_arguments(&self) -> impl Iterator<Item = &MissingArgument> {
        self.found.lacking.iter().chain(&self.found.missing)
    }
}
