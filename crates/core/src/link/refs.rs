//! What steps find out about references.

use super::ground::Ground;
use super::reference::{Link, Outcome, Reference, Target};
use crate::name::Name;
use crate::rows::Rows;
use crate::source::{FileId, Place};

/// The references that a step resolved, in order, and what else counts as referred to.
#[derive(Default)]
pub(super) struct Refs {
    pub all: Vec<Reference>,
    pub referred: Vec<Target>,
    /// Where those of each file end, if the step goes file by file.
    ends: Vec<u32>,
}

impl Refs {
    /// Those that were found file by file.
    pub fn by_file(found: Rows<Reference>) -> Refs {
        let (all, ends) = found.into_parts();
        Refs { all, ends, ..Refs::default() }
    }

    pub fn refer(&mut self, ground: &Ground, link: Link, from: Place, written: Name, outcome: Outcome) {
        self.all.push(Reference { link, from, layer: ground.layer_of(from), written, outcome });
    }

    /// Gets room for all that is to be added.
    pub fn make_room<'r>(&mut self, more: impl Iterator<Item = &'r Refs>) {
        let (all, ends) = more.fold((0, 0), |(all, ends), refs| (all + refs.all.len(), ends + refs.ends.len()));
        self.all.reserve_exact(all);
        self.ends.reserve_exact(ends);
    }

    /// Adds what was found after that.
    pub fn append(&mut self, mut more: Refs) {
        let before = self.all.len() as u32;
        self.all.append(&mut more.all);
        self.referred.append(&mut more.referred);
        self.ends.extend(more.ends.into_iter().map(|end| before + end));
    }

    /// Notes that what comes now is of the next file.
    pub fn end_file(&mut self) {
        self.ends.push(self.all.len() as u32);
    }
}

/// The steps that resolve references, in the order in which these are joined.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Step {
    /// What renders components.
    Rendered,
    /// What layers ask of each other.
    Layers,
    /// What templates ask of each other, file by file.
    Included,
    /// Templates that were taken over.
    Adopted,
    /// What components may hold.
    Held,
    /// What is attached.
    Attached,
    /// Uses of points, file by file.
    Used,
    /// What modules import.
    Imported,
    /// What the site puts into points.
    Filled,
    /// What assets and components need.
    Carried,
    /// What scripts and style sheets ask of each other.
    Asked,
    /// Features, and what the host offers.
    Offered,
    /// Questions for features, file by file.
    Questions,
    /// What feeds on features, file by file.
    Fed,
    /// What items feed on.
    FedItems,
    /// Messages and their translations.
    Translated,
    /// The variables that templates read, file by file.
    Variables,
    /// The properties that callbacks read.
    Properties,
    /// The values that uses of points name, file by file.
    Given,
    /// The values that all else names.
    Named,
    /// What scripts in the markup ask for.
    Inline,
}

impl Step {
    const COUNT: usize = Step::Inline as usize + 1;
}

/// All references: step by step, and within some steps file by file.
#[derive(Default)]
pub(super) struct References {
    rows: Rows<Reference>,
    /// The first row of each step.
    first: [u32; Step::COUNT],
}

impl References {
    /// Joins what the steps found, in their order.
    pub fn joined(steps: &[(Step, &Refs); Step::COUNT]) -> References {
        let things = steps.iter().map(|(_, refs)| refs.all.len()).sum();
        let mut references = References {
            rows: Rows::with_room(steps.iter().map(|(_, refs)| refs.ends.len().max(1)).sum(), things),
            first: [0; Step::COUNT],
        };
        for (step, refs) in steps {
            references.first[*step as usize] = references.rows.len() as u32;
            match refs.ends.is_empty() {
                true => references.rows.push(refs.all.iter().copied()),
                false => references.rows.extend(&refs.all, &refs.ends),
            }
        }
        references
    }

    /// All of them.
    pub fn all(&self) -> &[Reference] {
        self.rows.all()
    }

    /// What a step found that goes file by file.
    pub fn of_step(&self, step: Step, files: usize) -> Refs {
        let first = self.first[step as usize] as usize;
        Refs::by_file(self.rows.part(first..first + files))
    }

    /// What a step found: in a file, or in all.
    pub fn found(&self, step: Step, file: Option<FileId>) -> &[Reference] {
        self.rows.row(self.row_of(step, file))
    }

    /// Puts what a step found now in the place of what it found before: of a file, or of all.
    pub fn replace(&mut self, step: Step, file: Option<FileId>, with: Vec<Reference>) {
        self.rows.replace(self.row_of(step, file), with);
    }

    fn row_of(&self, step: Step, file: Option<FileId>) -> usize {
        self.first[step as usize] as usize + file.map_or(0, FileId::index)
    }
}
