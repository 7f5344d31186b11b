//! What those need who build on a theme: its points, what runs there by default, and how each is used.

use serde::Serialize;

use super::{PointView, ThemeView, offers};
use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Point, Registry, Renderer, Runs, Slot};
use crate::source::LayerId;

/// A callback that runs at a point by default.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct DefaultView {
    /// As layers above call it.
    pub callback: String,
    /// Lower runs earlier.
    pub priority: u8,
    /// The condition.
    pub when: Option<String>,
    /// The command that takes it away in a theme above; nothing where it is sealed.
    pub detach: Option<String>,
}

/// How a point is used.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct ExampleView {
    /// What it is written in: `sh`, `html` or `toml`.
    pub language: &'static str,
    /// The text.
    pub text: String,
}

/// A point, for those who build on it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct AtlasPointView {
    /// What the layers say of it.
    #[serde(flatten)]
    pub point: PointView,
    /// Its kind.
    pub kind: String,
    /// What runs there, in running order.
    pub defaults: Vec<DefaultView>,
    /// One example of use.
    pub example: Option<ExampleView>,
    /// Of a component that a template renders: the command by which a theme above writes that anew.
    pub anew: Option<String>,
}

/// A template that can be built on, or copied.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct TemplateView {
    /// Its name, below markup/.
    pub name: String,
    /// The layer that has it.
    pub layer: String,
    /// Its blocks, which can be written anew.
    pub blocks: Vec<String>,
    /// The types of pages that show it.
    pub types: Vec<String>,
}

/// The reference of a theme.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct AtlasView {
    /// The theme.
    pub theme: ThemeView,
    /// Its points by kind and name, those of the layers below with it.
    pub points: Vec<AtlasPointView>,
    /// Its templates, by name.
    pub templates: Vec<TemplateView>,
}

impl AtlasView {
    /// The reference of the checked theme of a registry: all points but those of the host that no layer above it uses.
    pub fn new(registry: &Registry) -> AtlasView {
        let mut points: Vec<&Point> = registry.points().filter(|point| is_part(registry, point)).collect();
        points.sort_by_key(|point| point.address);
        let project = registry.project();
        let mut templates: Vec<TemplateView> = Vec::new();
        for (at, layer) in project.layers.iter().enumerate().filter(|(_, layer)| !layer.built_in) {
            for (file, source) in project.files_of(LayerId(at as u16)) {
                if registry.template(file).is_none() {
                    continue;
                }
                templates.retain(|known| known.name != source.name());
                templates.push(TemplateView {
                    name: source.name().to_string(),
                    layer: layer.name.to_string(),
                    blocks: crate::edit::block_names(source.text()),
                    types: registry.type_names(registry.template_types(file)).into_iter().map(str::to_string).collect(),
                });
            }
        }
        templates.sort_by(|a, b| a.name.cmp(&b.name));
        AtlasView {
            theme: ThemeView::new(registry, None),
            points: points.into_iter().map(|point| of_point(registry, point)).collect(),
            templates,
        }
    }
}

/// Does a point belong to the theme, or is one of the host's that it uses?
fn is_part(registry: &Registry, point: &Point) -> bool {
    let is_above = |layer: LayerId| !registry.project().layer(layer).built_in;
    let declared = point.declared.iter().any(|declared| is_above(declared.layer));
    let used = point.uses.iter().any(|used| is_above(registry.project().file(used.file).layer));
    let attached = point.slots.iter().any(|slot| is_above(slot.layer));
    point.dropped.is_none() && !point.declared.is_empty() && (declared || used || attached)
}

fn of_point(registry: &Registry, point: &Point) -> AtlasPointView {
    AtlasPointView {
        kind: point.address.kind.word().to_string(),
        defaults: point.slots.iter().map(|slot| default_of(registry, point.address, slot)).collect(),
        example: example(registry, point),
        anew: anew(registry, point),
        point: PointView::new(registry, point),
    }
}

/// The command by which a theme above takes the template of a component over, as a copy.
fn anew(registry: &Registry, point: &Point) -> Option<String> {
    let Some(Renderer::Template(file)) = point.renderer.filter(|_| point.address.kind.is_component()) else {
        return None;
    };
    Some(command_line!["adopt", registry.project().file(file).name(), "--copy"])
}

fn default_of(registry: &Registry, address: Address, slot: &Slot) -> DefaultView {
    let layer_of = |runs: &Runs| match runs {
        Runs::Callback(_, Some(callback)) => Some(registry.project().file(callback.file).layer),
        _ => None,
    };
    // Layers above say whose callback they mean.
    let seen = |name: String, runs: &Runs| match (layer_of(runs), name.contains(':')) {
        (Some(layer), false) => format!("{}:{name}", registry.project().layer(layer).name),
        _ => name,
    };
    let first = slot.replaced.map_or(slot.runs, |replaced| replaced.first);
    let called = seen(registry.first_name(slot), &first);
    DefaultView {
        callback: seen(registry.slot_name(slot), &slot.runs),
        priority: slot.priority,
        when: slot.when.as_ref().map(|when| when.text.to_string()),
        detach: (!slot.sealed).then(|| command_line!["detach", address, called]),
    }
}

fn example(registry: &Registry, point: &Point) -> Option<ExampleView> {
    let address = point.address;
    let module = address.name.rsplit('/').next().unwrap_or_default();
    let sh = |text: String| Some(ExampleView { language: "sh", text });
    match address.kind {
        Kind::Hook => sh(command_line!["attach", address, format!("{module}.js#show")]),
        Kind::Filter => sh(command_line!["attach", address, format!("{module}.js#change")]),
        Kind::Region | Kind::Area => match offers(registry, address).first() {
            Some((component, label)) => sh(command_line!["fill", address, component, "--offer", label]),
            None => sh(command_line!["attach", address, format!("{module}.js#arrange")]),
        },
        Kind::Menu => sh(command_line!["fill", address, "Home=/"]),
        Kind::Option => {
            let text = format!("{{{{ options[\"{}\"] }}}}", address.name);
            Some(ExampleView { language: "html", text })
        }
        Kind::Style | Kind::Script | Kind::Bundle => {
            Some(ExampleView { language: "toml", text: format!("needs = [\"{address}\"]") })
        }
        Kind::Feature => {
            Some(ExampleView { language: "html", text: format!("{{% if enabled(\"{address}\") %}}…{{% endif %}}") })
        }
        kind if kind.is_component() && address.inner().is_none() => {
            let inputs = point.inputs.iter().filter(|input| input.field.default().is_none());
            let given: Vec<String> = inputs.map(|input| format!(", {}=…", input.field.name)).collect();
            let text = match kind {
                Kind::Partial => format!("{{{{ place(\"{address}\"{}) }}}}", given.concat()),
                _ => return sh(command_line!["attach", address, format!("{module}.js#prepare")]),
            };
            Some(ExampleView { language: "html", text })
        }
        _ => None,
    }
}
