//! Small correct themes, grown from a seed: they use everything, with a base, a companion or without,
//! with copies of templates, conditions, orders, macros and includes.

mod callbacks;
mod features;
mod site;
mod templates;

use std::fmt::Write;

use fastrand::Rng;
use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};

/// Where grown themes lie.
pub const ROOT: &str = "/grown/site";
const BASE: &str = "/grown/shore";
const KIT: &str = "/grown/kit";

/// Words that no slip of the pen turns into each other.
const WORDS: &str = "lantern harbour meadow granite orchard copper willow saffron pebble juniper marble cobalt velvet \
                     timber basalt falcon cinder hazel rowan bramble clover sorrel fennel bracken gully plateau canyon \
                     glacier lagoon estuary pontoon jetty quay breaker dune skerry voyage compass sextant anchor rudder \
                     bosun purser signal beacon foghorn tackle winch hawser bollard mooring keel stern binnacle capstan \
                     deckhand topsail yardarm crosstree abacus dolphin wigwam orbit gypsum umbra walnut oxbow ivory kayak \
                     yucca pyrite mistral zephyr gazebo trellis pergola cottage thatch chimney gable mortar plaster \
                     lintel parquet veranda cellar attic bannister larder scullery sideboard buttery hallway vestibule \
                     almanac dossier ledger papyrus vellum parchment folio codex quarto pamphlet gazette bulletin \
                     cymbal bassoon clarinet oboe timpani viola piccolo zither mandolin ukulele harmonica xylophone";

/// One attachment, as the theme's author thinks of it.
#[derive(Clone, Debug)]
pub struct Attachment {
    /// The position of its layer.
    pub layer: usize,
    /// The point's address.
    pub to: String,
    /// `file.js#name`, in the attaching layer.
    pub call: String,
    /// The priority.
    pub priority: u8,
    /// Names of callbacks of the same point that this one runs after.
    pub after: Vec<String>,
    /// The condition.
    pub when: Option<String>,
    /// Is it left alone by all above?
    pub sealed: bool,
    /// Does the theme take it away?
    pub detached: bool,
    /// What the theme puts in its place.
    pub replaced: Option<String>,
}

/// A grown theme.
pub struct Theme {
    /// All its files, and those of its layers.
    pub files: MemoryFiles,
    /// The attachments, each layer's in the order of its manifest, the lowest layer's first.
    pub attachments: Vec<Attachment>,
    /// The names of the layers above the host, the lowest first.
    pub layers: Vec<&'static str>,
}

impl Theme {
    /// The theme, linked.
    pub fn registry(&self) -> Registry {
        link(&self.files)
    }
}

/// Links files that lie where grown themes do.
pub fn link(files: &MemoryFiles) -> Registry {
    match Project::open(files, ROOT.into()) {
        Ok(project) => Registry::new(project),
        Err(error) => panic!("the grown theme can't be opened: {error}"),
    }
}

/// A layer while it grows.
#[derive(Default)]
struct Layer {
    name: &'static str,
    root: &'static str,
    declarations: Vec<String>,
    hooks: Vec<Hook>,
    filters: Vec<String>,
    regions: Vec<String>,
    areas: Vec<String>,
    menus: Vec<String>,
    options: Vec<String>,
    partials: Vec<Component>,
    sections: Vec<Component>,
    pieces: Vec<Component>,
    /// Modules: their names and their texts.
    modules: Vec<(String, String)>,
    attachments: Vec<Attachment>,
    attached_partials: Vec<String>,
}

impl Layer {
    fn is_companion(&self) -> bool {
        self.name == "kit"
    }
}

#[derive(Clone)]
struct Hook {
    name: String,
    arg: Option<String>,
}

#[derive(Clone)]
struct Component {
    kind: &'static str,
    name: String,
    /// Names, and whether there is a default.
    inputs: Vec<(String, bool)>,
    /// What it may hold: an address, or `piece:*`.
    holds: Option<String>,
    /// Its own piece.
    inner: Option<String>,
}

impl Component {
    fn address(&self) -> String {
        format!("{}:{}", self.kind, self.name)
    }
}

struct Grower {
    rng: Rng,
    words: Vec<&'static str>,
    /// Words for what layers ship and switch on.
    further: Vec<&'static str>,
    files: MemoryFiles,
    /// What the pages of the theme show of its features.
    markup: String,
}

/// Grows a theme from a seed; the same seed gives the same theme.
pub fn grow(seed: u64) -> Theme {
    let mut rng = Rng::with_seed(seed);
    let mut words: Vec<&'static str> = WORDS.split_ascii_whitespace().collect();
    rng.shuffle(&mut words);
    let mut grower = Grower { rng, words, further: Vec::new(), files: MemoryFiles::new(), markup: String::new() };
    let has_kit = grower.rng.u8(..) < 130;
    let has_base = grower.rng.u8(..) < 200;
    let mut layers = Vec::new();
    if has_kit {
        layers.push(grower.layer("kit", KIT));
    }
    if has_base {
        layers.push(grower.layer("shore", BASE));
    }
    layers.push(grower.layer("site", ROOT));
    grower.features(&mut layers);
    grower.templates(&layers);
    grower.attachments(&mut layers);
    grower.override_below(&mut layers);
    grower.preview(&layers);
    grower.manifests(&layers);
    let attachments = layers.iter().flat_map(|layer| layer.attachments.clone()).collect();
    Theme { files: grower.files, attachments, layers: layers.iter().map(|layer| layer.name).collect() }
}

impl Grower {
    fn word(&mut self) -> String {
        self.words.pop().unwrap_or("spare").to_string()
    }

    fn some(&mut self, most: usize) -> usize {
        self.rng.usize(..=most)
    }

    fn yes(&mut self) -> bool {
        self.rng.bool()
    }

    fn pick<T: Clone>(&mut self, items: &[T]) -> Option<T> {
        if items.is_empty() { None } else { Some(items[self.rng.usize(..items.len())].clone()) }
    }

    /// Declares the points of a layer.
    fn layer(&mut self, name: &'static str, root: &'static str) -> Layer {
        let mut layer = Layer { name, root, ..Layer::default() };
        for _ in 0..1 + self.some(1) {
            let hook = Hook { name: self.word(), arg: self.yes().then(|| self.word()) };
            let args = hook.arg.iter().map(|arg| format!("args.{arg} = {{ type = \"string\" }}\n")).collect::<String>();
            layer.declarations.push(format!("[hook.{}]\nabout = \"A hook\"\n{args}", hook.name));
            layer.hooks.push(hook);
        }
        for _ in 0..self.some(2) {
            let filter = self.word();
            layer.declarations.push(format!("[filter.{filter}]\nvalue = {{ type = \"string\" }}\n"));
            layer.filters.push(filter);
        }
        for _ in 0..1 + self.some(1) {
            let region = self.word();
            let reserved = if self.rng.u8(..) < 40 { "reserved = true\n" } else { "" };
            layer.declarations.push(format!("[region.{region}]\nlabel = \"A region\"\n{reserved}"));
            layer.regions.push(region);
        }
        if self.yes() {
            let area = self.word();
            let wrap = if self.yes() { "wrap = '<div>{{ title }}{{ body }}</div>'\n" } else { "" };
            layer.declarations.push(format!("[area.{area}]\nlabel = \"An area\"\n{wrap}"));
            layer.areas.push(area);
        }
        if self.yes() {
            let menu = self.word();
            layer.declarations.push(format!("[menu.{menu}]\nlabel = \"A menu\"\nlevels = {}\n", 1 + self.some(2)));
            layer.menus.push(menu);
        }
        if self.yes() && !layer.is_companion() {
            let option = self.word();
            layer.declarations.push(format!(
                "[option.{option}]\nlabel = \"A choice\"\ntype = \"string\"\nenum = [\"one\", \"two\"]\ndefault = \"one\"\n"
            ));
            layer.options.push(option);
        }
        for _ in 0..1 + self.some(1) {
            self.component(&mut layer, "partial");
        }
        for kind in ["piece", "section"] {
            if self.yes() {
                self.component(&mut layer, kind);
            }
        }
        layer
    }

    fn component(&mut self, layer: &mut Layer, kind: &'static str) {
        let name = self.word();
        let inputs: Vec<(String, bool)> = (0..self.some(2)).map(|_| (self.word(), self.yes())).collect();
        let own_piece = layer.pieces.first().map(|piece| piece.address());
        let holds = match kind {
            "section" if self.yes() => Some(own_piece.unwrap_or("piece:*".into())),
            "section" => Some("piece:*".to_string()),
            _ => None,
        };
        let inner = (kind == "section" && self.yes()).then(|| self.word());
        let component = Component { kind, name, inputs, holds, inner };
        let mut table = format!("[{kind}.{}]\nabout = \"A component\"\n", component.name);
        if kind != "partial" {
            table.push_str("label = \"A component\"\n");
            // An offer has to give what has no default.
            let given = component.inputs.iter().filter(|(_, default)| !default);
            let given: Vec<String> = given.map(|(input, _)| format!("{input} = \"offered\"")).collect();
            let _ = writeln!(table, "offer = [{{ label = \"One\", item = {{ {} }} }}]", given.join(", "));
            if self.yes() {
                table.push_str("wrap = '<div>{{ body }}</div>'\n");
            }
        }
        if let Some(holds) = &component.holds {
            let _ = writeln!(table, "holds = [\"{holds}\"]");
        }
        for (input, has_default) in &component.inputs {
            let default = if *has_default { ", default = \"…\"" } else { "" };
            let _ = writeln!(table, "inputs.{input} = {{ type = \"string\"{default} }}");
        }
        if kind == "partial" && self.rng.u8(..) < 60 {
            let (module, function) = (self.word(), self.word());
            let reads: String = component.inputs.iter().map(|(input, _)| format!("${{inputs.{input}}}")).collect();
            let text = format!(
                "import {{ html }} from \"truehook\";\n\n/** @type {{import(\"truehook\").Renderer<\"{}\">}} */\nexport function {function}(inputs) {{\n  return html`<b>{reads}</b>`;\n}}\n",
                component.address()
            );
            let _ = writeln!(table, "render = \"{module}.js#{function}\"");
            layer.modules.push((module, text));
        } else {
            self.component_template(layer.root, &component);
        }
        if let Some(inner) = &component.inner {
            let _ = write!(table, "[section.{}.piece.{inner}]\nlabel = \"Its own\"\n", component.name);
            let path = format!("{}/markup/sections/{}/{inner}.html", layer.root, component.name);
            self.files.insert(path, "<small>own</small>\n");
        }
        layer.declarations.push(table);
        match kind {
            "section" => layer.sections.push(component),
            "piece" => layer.pieces.push(component),
            _ => layer.partials.push(component),
        }
    }

    fn component_template(&mut self, root: &str, component: &Component) {
        let prints: String = component.inputs.iter().map(|(input, _)| format!("<i>{{{{ {input} }}}}</i>")).collect();
        let held = match (&component.holds, self.yes()) {
            (None, _) => "",
            (Some(_), true) => "{{ place(\"held\") }}",
            (Some(_), false) => "{% if filled(\"held\") %}<p>{{ place(\"held\") }}</p>{% endif %}",
        };
        let path = format!("{root}/markup/{}s/{}.html", component.kind, component.name);
        self.files.insert(path, format!("<section>{prints}{held}</section>\n"));
    }
}
