//! A theme as a whole: what it is, what it builds on, and what it has.

use camino::Utf8PathBuf;
use serde::Serialize;

use crate::address::Kind;
use crate::link::Registry;
use crate::rules::Checked;
use crate::source::{LayerId, LayerRole};

/// A layer of a theme.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct LayerView {
    /// Its name.
    pub name: String,
    /// `theme`, `base`, `companion` or `host`.
    pub role: String,
    /// For people.
    pub label: Option<String>,
    /// Its version.
    pub version: Option<String>,
    /// The versions that the checked theme asks for.
    pub wanted: Option<String>,
}

/// How many points a layer adds, of a kind.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct CountView {
    /// The kind.
    pub kind: String,
    /// How many the theme declares itself.
    pub own: usize,
    /// How many there are in all layers.
    pub all: usize,
}

/// A theme.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct ThemeView {
    /// Its name.
    pub name: String,
    /// For people.
    pub label: Option<String>,
    /// One sentence.
    pub about: Option<String>,
    /// Its version.
    pub version: Option<String>,
    /// Its picture, a file below its folder or, where a base has it, below that one's.
    pub picture: Option<String>,
    /// The folder that this is in: the theme's, or that of the base from which it is inherited.
    #[serde(skip)]
    pub picture_root: Utf8PathBuf,
    /// `theme`, `companion` or `host`.
    pub role: String,
    /// Do other themes build on it?
    pub open: bool,
    /// The layers, the theme itself first, the host last.
    pub layers: Vec<LayerView>,
    /// Its points, by kind.
    pub counts: Vec<CountView>,
    /// How many attachments it makes, how many of lower layers it replaces, and how many it takes away.
    pub attachments: [usize; 3],
    /// How many templates it has.
    pub templates: usize,
    /// The types of pages that it shows.
    pub types: Vec<String>,
    /// Errors, warnings and notes, where it was checked.
    pub findings: Option<[usize; 3]>,
}

impl ThemeView {
    /// The checked theme of a registry, with what a check found.
    pub fn new(registry: &Registry, checked: Option<&Checked>) -> ThemeView {
        let project = registry.project();
        let top = project.top();
        let identity = registry.manifest(project.layer(top).manifest).and_then(|manifest| manifest.identity.as_ref());
        let picture = registry.bases().into_iter().find_map(|layer| {
            let identity = registry.manifest(project.layer(layer).manifest)?.identity.as_ref()?;
            Some((identity.picture.as_ref()?.name.to_string(), project.layer(layer).root.clone()))
        });
        let (picture, picture_root) = picture.unzip();
        let layers = (0..project.layers.len() as u16).rev().map(|at| layer(registry, LayerId(at))).collect();
        let count = |kind: Kind| {
            let points =
                || registry.points().filter(move |point| point.address.kind == kind && !point.declared.is_empty());
            let own = points().filter(|point| point.declared.iter().any(|declared| declared.layer == top)).count();
            CountView { kind: kind.word().into(), own, all: points().count() }
        };
        let slots = || registry.points().flat_map(|point| point.slots.iter().chain(point.detached.iter()));
        let attached = slots().filter(|slot| slot.layer == top).count();
        let replaced = slots().filter(|slot| slot.replaced.is_some_and(|replaced| replaced.by.layer == top)).count();
        let detached = slots().filter(|slot| slot.detached.is_some_and(|by| by.layer == top)).count();
        let templates = project.files_of(top).filter(|(file, _)| registry.template(*file).is_some()).count();
        let text = |name: crate::name::Name| name.to_string();
        ThemeView {
            name: project.layer(top).name.to_string(),
            label: identity.and_then(|identity| identity.label).map(text),
            about: identity.and_then(|identity| identity.about).map(text),
            version: identity.and_then(|identity| identity.version.as_ref()).map(ToString::to_string),
            picture,
            picture_root: picture_root.unwrap_or_default(),
            role: project.layer(top).role.word().to_string(),
            open: project.layer(top).open,
            layers,
            counts: Kind::ALL.into_iter().map(count).filter(|count| count.all > 0).collect(),
            attachments: [attached, replaced, detached],
            templates,
            types: registry.type_names(registry.templated_types()).into_iter().map(str::to_string).collect(),
            findings: checked.map(|checked| {
                use crate::rules::Level;
                [Level::Error, Level::Warning, Level::Note]
                    .map(|level| checked.findings.iter().filter(|finding| finding.level == level).count())
            }),
        }
    }

    /// What people call it: its label, else its name.
    pub fn title(&self) -> &str {
        self.label.as_deref().unwrap_or(&self.name)
    }
}

fn layer(registry: &Registry, id: LayerId) -> LayerView {
    let project = registry.project();
    let layer = project.layer(id);
    let identity_of =
        |id: LayerId| registry.manifest(project.layer(id).manifest).and_then(|manifest| manifest.identity.as_ref());
    let identity = identity_of(id);
    let own = identity_of(project.top());
    let requests = own.into_iter().flat_map(|own| own.host.iter().chain(&own.base).chain(&own.companions));
    let named = |target: &str| target == layer.name.as_str() || target.rsplit('/').next() == Some(layer.name.as_str());
    let is_host = layer.role == LayerRole::Host;
    let mut wanted = requests.filter(|request| {
        let of_host = own.and_then(|own| own.host.as_ref()).is_some_and(|host| host.at == request.at);
        if is_host { of_host } else { !of_host && named(request.target.as_str()) }
    });
    LayerView {
        name: layer.name.to_string(),
        role: match layer.role {
            LayerRole::Host => "host",
            LayerRole::Companion => "companion",
            LayerRole::Theme if id == project.top() => "theme",
            LayerRole::Theme => "base",
        }
        .to_string(),
        label: identity.and_then(|identity| identity.label).map(|label| label.to_string()),
        version: identity.and_then(|identity| identity.version.as_ref()).map(ToString::to_string),
        wanted: wanted.next().and_then(|request| request.versions.as_ref()).map(ToString::to_string),
    }
}
