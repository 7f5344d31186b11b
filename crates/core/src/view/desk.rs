//! What site editors get: the spots that they fill, what they can put there, and the theme's choices.

use serde::Serialize;
use serde_json::Value;

use super::PointView;
use crate::address::{Address, Kind};
use crate::edit::fill::offered;
use crate::link::{Input, Point, Registry};

/// What a form shows for an input.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum Control {
    /// A line of text.
    Line,
    /// Longer text, with markup.
    Markup,
    /// A number.
    Number,
    /// Yes or no.
    Switch,
    /// One of several.
    Choice,
    /// One of the theme's colours.
    Colour,
    /// Several values, or what has parts.
    List,
    /// A file of the site.
    File,
    /// A page of the site.
    Page,
    /// A day.
    Date,
}

/// Something that can be chosen.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct ChoiceView {
    /// What is written for it.
    pub name: String,
    /// For people.
    pub label: String,
    /// What it stands for, where that is something else: a colour, a length.
    pub value: Option<String>,
}

/// A field of a form.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct FormFieldView {
    /// The input's name.
    pub name: String,
    /// For people.
    pub label: Option<String>,
    /// What a form shows.
    pub control: Control,
    /// One sentence.
    pub about: Option<String>,
    /// The value where none is given; where there is none, one has to be given.
    pub default: Option<Value>,
    /// What can be chosen.
    pub choices: Vec<ChoiceView>,
}

/// What can be picked.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct OfferView {
    /// For people.
    pub label: String,
    /// The item that it puts there.
    pub item: Value,
    /// How it looks; nothing where it could not be rendered.
    pub html: Option<String>,
}

/// A component that can be picked.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct DeskComponentView {
    /// Its address.
    pub address: String,
    /// For people.
    pub label: Option<String>,
    /// One sentence.
    pub about: Option<String>,
    /// Its inputs, as a form shows them.
    pub inputs: Vec<FormFieldView>,
    /// What can be picked of it.
    pub offers: Vec<OfferView>,
}

/// An option.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct OptionView {
    /// Its address.
    pub address: String,
    /// For people.
    pub label: Option<String>,
    /// How a form shows it.
    pub field: FormFieldView,
}

/// Something that site editors are not offered.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct HiddenView {
    /// Its address.
    pub address: String,
    /// Why.
    pub reason: String,
}

/// What site editors get.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct DeskView {
    /// The regions, areas and menu spots that they fill.
    pub spots: Vec<PointView>,
    /// What they can put there.
    pub components: Vec<DeskComponentView>,
    /// What they can choose for the whole site.
    pub options: Vec<OptionView>,
    /// The theme's colours.
    pub palette: Vec<ChoiceView>,
    /// May they go beyond those?
    pub palette_is_open: bool,
    /// The sizes of letters.
    pub sizes: Vec<ChoiceView>,
    /// How wide an item may be.
    pub extents: Vec<ChoiceView>,
    /// How wide pictures are, in pixels.
    pub widths: Vec<(String, u64)>,
    /// The pictures that a site, or a page, can have beside its content.
    pub pictures: Vec<PictureView>,
    /// The style sheet in which they write.
    pub writing_view: Option<String>,
    /// What they are not offered, and why.
    pub hidden: Vec<HiddenView>,
}

/// A picture that editors can give beside the content.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct PictureView {
    /// What templates read, as in `site.emblem`.
    pub name: String,
    /// What it is, for people.
    pub label: String,
    /// What it may be.
    pub about: String,
}

/// The pictures that a feature lets a site and its pages have.
fn pictures(registry: &Registry) -> Vec<PictureView> {
    let mut found = Vec::new();
    let mut add = |name: &str, label: &str, about: String| {
        found.push(PictureView { name: name.into(), label: label.into(), about });
    };
    if let Some(size) = registry.argument("pictures", "emblem") {
        let side = |at: usize| size.get(at).and_then(serde_json::Value::as_u64).unwrap_or_default();
        add("site.emblem", "Emblem", format!("a picture of the site, at most {} × {} pixels", side(0), side(1)));
    }
    if registry.argument("pictures", "lead").is_some() {
        add("page.lead", "Leading picture", "a picture of each page".to_string());
    }
    if let Some(folder) = registry.argument("pictures", "banners") {
        let folder = folder.as_str().unwrap_or_default().to_string();
        add("site.banners", "Banners", format!("every picture in {folder}"));
    }
    found
}

impl DeskView {
    /// What site editors get of a theme; how offers look is still to be said.
    pub fn new(registry: &Registry) -> DeskView {
        let mut points: Vec<&Point> = registry.points().filter(|point| !point.declared.is_empty()).collect();
        points.sort_by_key(|point| point.address);
        let mut hidden = Vec::new();
        let (mut spots, mut components, mut options) = (Vec::new(), Vec::new(), Vec::new());
        for point in points {
            if let Some(reason) = why_hidden(registry, point) {
                hidden.push(HiddenView { address: point.address.to_string(), reason });
                continue;
            }
            match point.address.kind {
                Kind::Region | Kind::Area | Kind::Menu => spots.push(PointView::new(registry, point)),
                Kind::Option => options.push(option(registry, point)),
                kind if kind.is_component() && point.is_offered() => components.push(component(registry, point)),
                _ => {}
            }
        }
        let widths = registry.argument("pictures", "widths").unwrap_or_default();
        let widths = widths.as_object().into_iter().flatten();
        let is_open = registry.argument("colours", "others").and_then(|others| others.as_bool());
        DeskView {
            spots,
            components,
            options,
            palette: choices(registry, "colours", "palette"),
            palette_is_open: is_open.unwrap_or(false),
            sizes: choices(registry, "lettering", "sizes"),
            extents: choices(registry, "extent", "steps"),
            widths: widths.filter_map(|(name, width)| Some((name.clone(), width.as_u64()?))).collect(),
            pictures: pictures(registry),
            writing_view: registry.argument("sheets", "writing").and_then(|file| Some(file.as_str()?.to_string())),
            hidden,
        }
    }
}

impl DeskView {
    /// What site editors are not offered, by the reason.
    pub fn hidden_by_reason(&self) -> Vec<(&str, Vec<&str>)> {
        let mut found: Vec<(&str, Vec<&str>)> = Vec::new();
        for hidden in &self.hidden {
            match found.iter_mut().find(|(reason, _)| *reason == hidden.reason) {
                Some((_, addresses)) => addresses.push(&hidden.address),
                None => found.push((&hidden.reason, vec![&hidden.address])),
            }
        }
        found
    }
}

/// Why site editors are not offered a point that is of a kind that they get; nothing where they are.
fn why_hidden(registry: &Registry, point: &Point) -> Option<String> {
    let kind = point.address.kind;
    let is_spot = matches!(kind, Kind::Region | Kind::Area | Kind::Menu);
    if !is_spot && !kind.is_component() && kind != Kind::Option {
        return None;
    }
    if let Some(by) = point.dropped {
        return Some(format!("dropped by {}", registry.project().layer(by.layer).name));
    }
    if point.reserved {
        return Some("reserved by the theme".into());
    }
    if is_spot && registry.type_names(point.reached).is_empty() {
        return Some("no page shows it".into());
    }
    // A partial is for templates; few are offered to editors, too.
    let has_offers = point.offers.as_ref().is_some_and(|offers| !offers.is_empty());
    if kind == Kind::Partial && !has_offers {
        return None;
    }
    if kind.is_component() && !has_offers {
        return Some(match point.address.inner() {
            Some((owner, _)) => format!("it has no offer; {owner} holds it"),
            None => "it has no offer".into(),
        });
    }
    if kind.is_component() && point.renderer.is_none() {
        return Some("nothing renders it".into());
    }
    None
}

fn component(registry: &Registry, point: &Point) -> DeskComponentView {
    let offers = point.offers.iter().flatten().map(|(_, offer)| OfferView {
        label: offer.label.map(|label| label.to_string()).unwrap_or_default(),
        item: offered(&offer.item),
        html: None,
    });
    DeskComponentView {
        address: point.address.to_string(),
        label: point.label.map(|label| label.to_string()),
        about: point.about.map(|about| about.to_string()),
        inputs: point.inputs.iter().map(|input| field(registry, input)).collect(),
        offers: offers.collect(),
    }
}

fn option(registry: &Registry, point: &Point) -> OptionView {
    let empty = Value::Null;
    let schema = point.schema().unwrap_or(&empty);
    OptionView {
        address: point.address.to_string(),
        label: point.label.or(point.about).map(|label| label.to_string()),
        field: of_schema(registry, point.address.name.as_str(), schema),
    }
}

fn field(registry: &Registry, input: &Input) -> FormFieldView {
    of_schema(registry, input.field.name.as_str(), &input.field.schema)
}

fn of_schema(registry: &Registry, name: &str, schema: &Value) -> FormFieldView {
    let word = |key: &str| schema.get(key).and_then(Value::as_str);
    let plain = |value: &Value| value.as_str().map_or_else(|| value.to_string(), str::to_string);
    let named = schema.get("enum").and_then(Value::as_array).map(|all| {
        let choice = |value: &Value| ChoiceView { name: plain(value), label: plain(value), value: None };
        all.iter().map(choice).collect::<Vec<_>>()
    });
    let (control, choices) = match (word("format"), word("type"), named) {
        (_, _, Some(choices)) => (Control::Choice, choices),
        (Some("palette"), ..) => (Control::Colour, choices(registry, "colours", "palette")),
        (Some("lettering"), ..) => (Control::Choice, choices(registry, "lettering", "sizes")),
        (Some("extent"), ..) => (Control::Choice, choices(registry, "extent", "steps")),
        (Some("path"), ..) => (Control::File, Vec::new()),
        (Some("page"), ..) => (Control::Page, Vec::new()),
        (Some("date" | "date-time"), ..) => (Control::Date, Vec::new()),
        (_, Some("markup"), _) => (Control::Markup, Vec::new()),
        (_, Some("integer" | "number"), _) => (Control::Number, Vec::new()),
        (_, Some("boolean"), _) => (Control::Switch, Vec::new()),
        (_, Some("array" | "object"), _) => (Control::List, Vec::new()),
        _ => (Control::Line, Vec::new()),
    };
    FormFieldView {
        name: name.to_string(),
        label: word("label").map(str::to_string),
        control,
        about: word("about").map(str::to_string),
        default: schema.get("default").cloned(),
        choices,
    }
}

/// The entries of a feature's table, each with its label and value.
fn choices(registry: &Registry, feature: &str, argument: &str) -> Vec<ChoiceView> {
    let table = registry.argument(feature, argument).unwrap_or_default();
    let entries = table.as_object().into_iter().flatten();
    let entry = |(name, entry): (&String, &Value)| {
        let value = entry.get("value")?.as_str()?.to_string();
        let label = entry.get("label").and_then(Value::as_str).unwrap_or(name).to_string();
        Some(ChoiceView { name: name.clone(), label, value: Some(value) })
    };
    entries.filter_map(entry).collect()
}

/// Where an offer is shown to be looked at: the first region, else whatever may hold it, with the types of pages that
/// show that; nothing where it can stand nowhere by itself.
pub fn holder_for(registry: &Registry, component: Address) -> Option<(Address, Vec<&'static str>)> {
    let mut holders: Vec<&Point> = registry.points().filter(|point| point.address.kind.holds_items()).collect();
    let main = |point: &Point| point.address != crate::link::body_region();
    holders.sort_by_key(|point| (point.address.kind, main(point), point.address));
    let shown = |point: &&Point| {
        !registry.type_names(point.reached).is_empty()
            && point.dropped.is_none()
            && registry.may_hold(point.address, component)
    };
    let holder = holders.into_iter().find(shown)?;
    Some((holder.address, registry.type_names(holder.reached)))
}
