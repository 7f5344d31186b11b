//! Findings, and how much was checked.

use serde::Serialize;

use super::PlaceView;
use crate::link::Registry;
use crate::rules::{Checked, Finding, Level};

/// A place that a finding shows.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct FindingPlaceView {
    /// Where.
    #[serde(flatten)]
    pub place: PlaceView,
    /// What to say there.
    pub label: String,
    /// Is it the place to look at first?
    pub primary: bool,
}

/// A replacement of some bytes of a file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct EditView {
    /// The layer's name.
    pub layer: String,
    /// The path below the layer's folder.
    pub file: String,
    /// The first byte that goes.
    pub start: u32,
    /// The byte after the last one that goes.
    pub end: u32,
    /// What comes in their place.
    pub new: String,
}

/// How to mend a finding.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct MendView {
    /// For people.
    pub text: String,
    /// Can the edits be made without asking?
    pub safe: bool,
    /// The edits.
    pub edits: Vec<EditView>,
}

/// A finding.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct FindingView {
    /// The theme that was checked, where several were.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub theme: Option<String>,
    /// The rule's name.
    pub rule: String,
    /// `error`, `warning` or `note`.
    pub level: String,
    /// The point that it is about.
    pub point: Option<String>,
    /// What is wrong.
    pub message: String,
    /// Where.
    pub places: Vec<FindingPlaceView>,
    /// How to mend it.
    pub mend: Option<MendView>,
}

impl FindingView {
    /// One finding.
    pub fn new(registry: &Registry, finding: &Finding) -> FindingView {
        let places = finding.places.iter().enumerate().map(|(at, place)| FindingPlaceView {
            place: PlaceView::new(registry, place.file, place.span),
            label: place.label.clone(),
            primary: at == 0,
        });
        let edit = |edit: &crate::source::Edit| {
            let file = registry.project().file(edit.file);
            let layer = registry.project().layer(file.layer).name.to_string();
            let (start, end) = (edit.span.start, edit.span.end);
            EditView { layer, file: file.path.to_string(), start, end, new: edit.new.clone() }
        };
        FindingView {
            theme: None,
            rule: finding.rule.to_string(),
            level: finding.level.word().to_string(),
            point: finding.point.clone(),
            message: finding.message.clone(),
            places: places.collect(),
            mend: finding.mend.as_ref().map(|mend| MendView {
                text: mend.text.clone(),
                safe: mend.safe,
                edits: mend.edits.iter().map(edit).collect(),
            }),
        }
    }
}

/// How much was checked, and what came of it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Summary {
    /// Findings that are errors.
    pub errors: usize,
    /// Findings that are warnings.
    pub warnings: usize,
    /// Findings that are notes, listed or not.
    pub notes: usize,
    /// Findings that the theme ignores.
    pub ignored: usize,
    /// Errors and warnings that concern lower layers alone.
    pub below: usize,
    /// Points of all layers.
    pub points: usize,
    /// Placements in all layers.
    pub placements: usize,
    /// Attachments of all layers.
    pub attachments: usize,
    /// Files of all layers.
    pub files: usize,
}

impl Summary {
    /// Counts.
    pub fn new(registry: &Registry, checked: &Checked) -> Summary {
        Summary {
            errors: checked.count(Level::Error),
            warnings: checked.count(Level::Warning),
            notes: checked.count(Level::Note),
            ignored: checked.ignored,
            below: checked.below,
            points: registry.point_count(),
            placements: registry.points().map(|point| point.uses.len()).sum(),
            attachments: registry.points().map(|point| point.slots.len()).sum(),
            files: registry.project().files.len(),
        }
    }

    /// Adds the counts of another theme.
    pub fn add(&mut self, other: Summary) {
        self.errors += other.errors;
        self.ignored += other.ignored;
        self.warnings += other.warnings;
        self.notes += other.notes;
        self.below += other.below;
        self.points += other.points;
        self.placements += other.placements;
        self.attachments += other.attachments;
        self.files += other.files;
    }
}

/// What `check --format json` prints.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct CheckView {
    /// [`VERSION`].
    pub version: u32,
    /// The findings, in the order of their files.
    pub findings: Vec<FindingView>,
    /// The counts.
    pub summary: Summary,
}
