//! What commands show of a registry, as data: one form for tables, trees and JSON.
//!
//! These shapes are documented; they change only together with [`VERSION`].

use serde::Serialize;

use crate::address::{Kind, Role};
use crate::link::{Point, Registry, Renderer, Runs, START, Slot, UseId, body_partial, body_region};
use crate::rules::{Checked, Finding, Level};
use crate::scan::Verb;
use crate::source::{FileId, LineIndex, Place, Span};

/// The version of all shapes in here.
pub const VERSION: u32 = 1;

/// A place in a file. Lines and columns count from 1, columns in Unicode characters; the end is
/// exclusive.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct PlaceView {
    /// The layer's name.
    pub layer: String,
    /// The path below the layer's folder.
    pub file: String,
    /// The first line.
    pub line: usize,
    /// The first column.
    pub column: usize,
    /// The last line.
    pub end_line: usize,
    /// The column after the last one.
    pub end_column: usize,
}

impl PlaceView {
    /// A span of a file.
    pub fn new(registry: &Registry, file: FileId, span: Span) -> PlaceView {
        let source = registry.project.file(file);
        let index = LineIndex::new(source.text());
        let ((line, column), (end_line, end_column)) = (index.position(span.start), index.position(span.end));
        let layer = registry.project.layer(source.layer).name.to_string();
        PlaceView { layer, file: source.path.to_string(), line, column, end_line, end_column }
    }

    fn of(registry: &Registry, place: Place) -> PlaceView {
        PlaceView::new(registry, place.file, registry.span(place))
    }
}

/// A placement of a point.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct PlacementView {
    /// Where.
    #[serde(flatten)]
    pub place: PlaceView,
    /// The types of pages that get there.
    pub reached_by: Vec<String>,
}

/// One attachment.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct SlotView {
    /// The callback's name, or the partial's address.
    pub callback: String,
    /// What it does.
    pub role: String,
    /// Lower runs earlier.
    pub priority: u8,
    /// The layer that attaches it.
    pub layer: String,
    /// `on`, or why it is not: `broken`.
    pub state: String,
    /// What it has to run before.
    pub before: Vec<String>,
    /// What it has to run after.
    pub after: Vec<String>,
    /// The condition.
    pub when: Option<String>,
    /// Where it is attached.
    pub place: PlaceView,
}

/// An item that the site put into a point.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct FillView {
    /// The component's address.
    pub component: String,
    /// The condition.
    pub when: Option<String>,
    /// Where it is filled in.
    pub place: PlaceView,
}

/// A point that holds a component: as an item, or attached in place of a callback.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct HolderView {
    /// The holder's address.
    pub point: String,
    /// Where it is said.
    pub place: PlaceView,
}

/// A variable: an input of a component, or an argument.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct FieldView {
    /// Its name.
    pub name: String,
    /// Its type, in the words of JSON Schema.
    #[serde(rename = "type")]
    pub type_word: Option<String>,
    /// Its value where none is given.
    pub default: Option<serde_json::Value>,
    /// One sentence.
    pub about: Option<String>,
}

/// A point.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct PointView {
    /// Its address.
    pub address: String,
    /// For people.
    pub label: Option<String>,
    /// One sentence.
    pub about: Option<String>,
    /// The highest layer that declares it.
    pub layer: String,
    /// Where that is.
    pub declared: PlaceView,
    /// What renders it: a file, or a callback.
    pub renderer: Option<String>,
    /// The inputs of a component or template, the arguments of anything else.
    pub inputs: Vec<FieldView>,
    /// Where it is placed, or sent through.
    pub placements: Vec<PlacementView>,
    /// The points that hold it, for components.
    pub held_by: Vec<HolderView>,
    /// What is attached, in running order.
    pub slots: Vec<SlotView>,
    /// What fills it.
    pub fills: Vec<FillView>,
    /// The types of pages that get to it.
    pub reached_by: Vec<String>,
}

/// All points, or some.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct PointsView {
    /// [`VERSION`].
    pub version: u32,
    /// The points.
    pub points: Vec<PointView>,
}

impl PointsView {
    /// The points of a registry that a filter lets through, by kind and name.
    pub fn new(registry: &Registry, mut wanted: impl FnMut(&PointView) -> bool) -> PointsView {
        let mut points: Vec<&Point> = registry.points.values().filter(|point| !point.declared.is_empty()).collect();
        points.sort_by_key(|point| point.address);
        let points = points.into_iter().map(|point| PointView::new(registry, point));
        PointsView { version: VERSION, points: points.filter(|point| wanted(point)).collect() }
    }
}

impl PointView {
    /// One point.
    pub fn new(registry: &Registry, point: &Point) -> PointView {
        let types = |types| registry.type_names(types).into_iter().map(str::to_string).collect::<Vec<_>>();
        let declared = point.declared.last().map(|declared| declared.place);
        let start = Place { file: FileId(0), at: START };
        let declared = PlaceView::of(registry, declared.unwrap_or(start));
        let inputs = if point.address.kind == Kind::Template { &point.inputs } else { point.passed() };
        let placement = |id: &UseId| PlacementView {
            place: PlaceView::of(registry, registry.use_place(*id)),
            reached_by: types(registry.use_reached(*id)),
        };
        PointView {
            address: point.address.to_string(),
            label: point.label.map(|label| label.to_string()),
            about: point.about.map(|about| about.to_string()),
            layer: declared.layer.clone(),
            declared,
            renderer: point.renderer.map(|renderer| match renderer {
                Renderer::Template(file) => registry.project.shown(file),
                Renderer::Callback(callback) => registry.callback_name(callback),
            }),
            inputs: inputs.iter().map(|input| FieldView::new(&input.field)).collect(),
            placements: point
                .uses
                .iter()
                .filter(|id| registry.use_of(**id).verb != Verb::Filled)
                .map(placement)
                .collect(),
            held_by: if point.address.kind.is_component() { holders(registry, point) } else { Vec::new() },
            slots: point.slots.iter().map(|slot| SlotView::new(registry, point, slot)).collect(),
            fills: fills(registry, point),
            reached_by: types(point.reached),
        }
    }
}

impl FieldView {
    fn new(field: &crate::scan::Field) -> FieldView {
        FieldView {
            name: field.name.to_string(),
            type_word: field.type_word().map(str::to_string),
            default: field.default().cloned(),
            about: field.schema.get("about").and_then(|about| about.as_str()).map(str::to_string),
        }
    }
}

impl SlotView {
    fn new(registry: &Registry, point: &Point, slot: &Slot) -> SlotView {
        let there = matches!(slot.runs, Runs::Callback(_, Some(_)) | Runs::Partial(_, true));
        SlotView {
            callback: registry.slot_name(slot),
            role: match slot.runs {
                Runs::Partial(..) => "partial".into(),
                Runs::Callback(..) => point.address.kind.role().word().into(),
            },
            priority: slot.priority,
            layer: registry.project.layer(slot.layer).name.to_string(),
            state: if there && !slot.switched_off { "on" } else { "broken" }.into(),
            before: slot.before.iter().map(|name| name.to_string()).collect(),
            after: slot.after.iter().map(|name| name.to_string()).collect(),
            when: slot.when.as_ref().map(|when| when.text.to_string()),
            place: PlaceView::of(registry, slot.place),
        }
    }

    /// Does this slot hold a callback of that role?
    pub fn is(&self, role: Role) -> bool {
        self.role == role.word()
    }
}

fn holders(registry: &Registry, component: &Point) -> Vec<HolderView> {
    let mut holders = Vec::new();
    let mut hold = |point: &Point, place: Place| {
        holders.push(HolderView { point: point.address.to_string(), place: PlaceView::of(registry, place) });
    };
    for point in registry.points.values() {
        for (file, at) in &point.fills {
            let items = registry.fill_of(*file, *at).map_or(&[][..], |fill| &fill.items);
            for item in items.iter().filter(|item| item.component.address == Some(component.address)) {
                hold(point, Place { file: *file, at: item.component.at });
            }
        }
        for slot in &point.slots {
            if matches!(slot.runs, Runs::Partial(address, _) if address == component.address) {
                hold(point, slot.place);
            }
        }
    }
    if component.address == body_partial()
        && let Some(point) = registry.point(body_region())
        && let Some(declared) = point.declared.last()
    {
        hold(point, declared.place);
    }
    holders
}

fn fills(registry: &Registry, point: &Point) -> Vec<FillView> {
    let mut fills = Vec::new();
    for (file, at) in &point.fills {
        for item in registry.fill_of(*file, *at).into_iter().flat_map(|fill| &fill.items) {
            fills.push(FillView {
                component: item.component.raw.to_string(),
                when: item.when.as_ref().map(|when| when.text.to_string()),
                place: PlaceView::of(registry, Place { file: *file, at: item.component.at }),
            });
        }
    }
    fills
}

/// A place that a finding shows.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
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
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
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
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct MendView {
    /// For people.
    pub text: String,
    /// Can the edits be made without asking?
    pub safe: bool,
    /// The edits.
    pub edits: Vec<EditView>,
}

/// A finding.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
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
            let file = registry.project.file(edit.file);
            let layer = registry.project.layer(file.layer).name.to_string();
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
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Summary {
    /// Findings that are errors.
    pub errors: usize,
    /// Findings that are warnings.
    pub warnings: usize,
    /// Findings that are notes, listed or not.
    pub notes: usize,
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
            below: checked.below,
            points: registry.points.len(),
            placements: registry.points.values().map(|point| point.uses.len()).sum(),
            attachments: registry.points.values().map(|point| point.slots.len()).sum(),
            files: registry.project.files.len(),
        }
    }

    /// Adds the counts of another theme.
    pub fn add(&mut self, other: Summary) {
        self.errors += other.errors;
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
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct CheckView {
    /// [`VERSION`].
    pub version: u32,
    /// The findings, in the order of their files.
    pub findings: Vec<FindingView>,
    /// The counts.
    pub summary: Summary,
}
