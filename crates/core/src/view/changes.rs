//! What a command writes.

use std::collections::BTreeMap;

use serde::Serialize;

use super::VERSION;
use crate::edit::Plan;
use crate::read::Project;

/// A replacement of some bytes of a file, as it was before.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, schemars::JsonSchema)]
pub struct SpliceView {
    /// The first byte that goes.
    pub start: u32,
    /// The byte after the last one that goes.
    pub end: u32,
    /// What comes in their place.
    pub new: String,
}

/// What becomes of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Fate {
    /// It is new.
    New,
    /// It is there, before and after.
    Changed,
    /// It goes.
    Gone,
}

/// A file that is changed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct ChangeView {
    /// The path below the theme's folder.
    pub file: String,
    /// What becomes of it.
    pub fate: Fate,
    /// The replacements, in their order. A new file is one that replaces nothing; one that goes has none.
    pub edits: Vec<SpliceView>,
}

/// All that a command writes, or would write.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct ChangesView {
    /// The version of this shape.
    pub version: u32,
    /// The files, in the order of their paths.
    pub changes: Vec<ChangeView>,
    /// What people are to know beside.
    pub told: Vec<String>,
    /// The commands for what is still lacking, or may be done next.
    pub next: Vec<String>,
    /// What is still lacking and no one command does.
    pub advice: Vec<String>,
}

impl ChangesView {
    /// Files that are all new.
    pub fn of_new(files: Vec<(camino::Utf8PathBuf, String)>, next: Vec<String>) -> ChangesView {
        let mut changes: Vec<ChangeView> = files
            .into_iter()
            .map(|(path, text)| ChangeView {
                file: path.into_string(),
                fate: Fate::New,
                edits: vec![SpliceView { start: 0, end: 0, new: text }],
            })
            .collect();
        changes.sort_by(|a, b| a.file.cmp(&b.file));
        ChangesView { version: VERSION, changes, told: Vec::new(), next, advice: Vec::new() }
    }

    /// What a plan comes to.
    pub fn new(project: &Project, plan: &Plan, told: Vec<String>, next: Vec<String>) -> ChangesView {
        let mut files: BTreeMap<String, ChangeView> = BTreeMap::new();
        for edit in &plan.edits {
            let file = project.file(edit.file).path.to_string();
            let view = files.entry(file.clone()).or_insert(ChangeView { file, fate: Fate::Changed, edits: Vec::new() });
            view.edits.push(SpliceView { start: edit.span.start, end: edit.span.end, new: edit.new.clone() });
        }
        for new in ChangesView::of_new(plan.created.clone(), Vec::new()).changes {
            files.insert(new.file.clone(), new);
        }
        for beside in &plan.beside {
            let file = beside.path.to_string();
            let end = beside.before.as_ref().map_or(0, |text| text.len() as u32);
            let fate = match (&beside.before, &beside.after) {
                (_, None) => Fate::Gone,
                (None, _) => Fate::New,
                _ => Fate::Changed,
            };
            let edits = beside.after.iter().map(|after| SpliceView { start: 0, end, new: after.clone() }).collect();
            files.insert(file.clone(), ChangeView { file, fate, edits });
        }
        for file in &plan.removed {
            let file = project.file(*file).path.to_string();
            files.insert(file.clone(), ChangeView { file, fate: Fate::Gone, edits: Vec::new() });
        }
        let mut changes: Vec<ChangeView> = files.into_values().collect();
        for change in &mut changes {
            change.edits.sort();
            change.edits.dedup();
        }
        ChangesView { version: VERSION, changes, told, next, advice: Vec::new() }
    }
}
