//! Small correct themes, grown from a seed: they use everything, with a base or without, with copies of
//! templates, conditions, orders, macros and includes.

#![allow(dead_code)] // Each test file uses what it needs.

use std::fmt::Write;

use fastrand::Rng;
use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};

/// Where grown themes lie.
pub const ROOT: &str = "/grown/site";
const BASE: &str = "/grown/shore";

/// Words that no slip of the pen turns into each other.
const WORDS: &str = "lantern harbour meadow granite orchard copper willow saffron pebble juniper marble cobalt velvet \
                     timber basalt falcon cinder hazel rowan bramble clover sorrel fennel bracken gully plateau canyon \
                     glacier lagoon estuary pontoon jetty quay breaker dune skerry voyage compass sextant anchor rudder \
                     bosun purser signal beacon foghorn tackle winch hawser bollard mooring keel stern binnacle capstan \
                     deckhand topsail yardarm crosstree abacus dolphin wigwam orbit quartz umbra walnut oxbow ivory kayak \
                     yucca pyrite mistral";

/// One attachment, as the theme's author thinks of it.
#[derive(Clone, Debug)]
pub struct Attachment {
    /// `shore` or `site`.
    pub layer: usize,
    /// The point's address.
    pub to: String,
    /// `file.js#name`, in the attaching layer.
    pub call: String,
    /// The priority.
    pub priority: u8,
    /// Full names of callbacks of the same point that this one runs after.
    pub after: Vec<String>,
    /// The condition.
    pub when: Option<&'static str>,
}

/// A grown theme.
pub struct Theme {
    /// All its files, and those of its base.
    pub files: MemoryFiles,
    /// Its attachments and its base's, each layer's in the order of its manifest, the base's first.
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
    partials: Vec<Partial>,
    /// Modules: their names and their texts.
    modules: Vec<(String, String)>,
    attachments: Vec<Attachment>,
    attached_partials: Vec<String>,
}

#[derive(Clone)]
struct Hook {
    name: String,
    arg: Option<String>,
}

#[derive(Clone)]
struct Partial {
    name: String,
    /// Names, and whether there is a default.
    inputs: Vec<(String, bool)>,
}

struct Grower {
    rng: Rng,
    words: Vec<&'static str>,
    files: MemoryFiles,
}

/// Grows a theme from a seed; the same seed gives the same theme.
pub fn grow(seed: u64) -> Theme {
    let mut rng = Rng::with_seed(seed);
    let mut words: Vec<&'static str> = WORDS.split_ascii_whitespace().collect();
    rng.shuffle(&mut words);
    let mut grower = Grower { rng, words, files: MemoryFiles::new() };
    let has_base = grower.rng.u8(..) < 200;
    let mut layers = Vec::new();
    if has_base {
        layers.push(grower.layer("shore", BASE, &[]));
    }
    let site = grower.layer("site", ROOT, &layers);
    layers.push(site);
    grower.templates(&mut layers);
    grower.attachments(&mut layers);
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
    fn layer(&mut self, name: &'static str, root: &'static str, _below: &[Layer]) -> Layer {
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
            layer.declarations.push(format!("[region.{region}]\nlabel = \"A region\"\n"));
            layer.regions.push(region);
        }
        for _ in 0..1 + self.some(1) {
            self.partial(&mut layer);
        }
        layer
    }

    fn partial(&mut self, layer: &mut Layer) {
        let partial =
            Partial { name: self.word(), inputs: (0..self.some(2)).map(|_| (self.word(), self.yes())).collect() };
        let mut table = format!("[partial.{}]\nabout = \"A partial\"\n", partial.name);
        for (input, has_default) in &partial.inputs {
            let default = if *has_default { ", default = \"…\"" } else { "" };
            let _ = writeln!(table, "inputs.{input} = {{ type = \"string\"{default} }}");
        }
        let prints: String = partial.inputs.iter().map(|(input, _)| format!("<i>{{{{ {input} }}}}</i>")).collect();
        if self.rng.u8(..) < 60 {
            let (module, function) = (self.word(), self.word());
            let reads: String = partial.inputs.iter().map(|(input, _)| format!("${{inputs.{input}}}")).collect();
            let text = format!(
                "import {{ html }} from \"truehook\";\n\nexport function {function}(inputs) {{\n  return html`<b>{reads}</b>`;\n}}\n"
            );
            let _ = writeln!(table, "render = \"{module}.js#{function}\"");
            layer.modules.push((module, text));
        } else {
            let path = format!("{}/markup/partials/{}.html", layer.root, partial.name);
            self.files.insert(path, format!("<section>{prints}</section>\n"));
        }
        layer.declarations.push(table);
        layer.partials.push(partial);
    }

    fn placed_partial(&mut self, partial: &Partial, quote: bool) -> String {
        let args = partial.inputs.iter().filter(|(_, has_default)| !has_default);
        match quote {
            true => {
                let args: String = args.map(|(input, _)| format!(", {input}=page.title")).collect();
                format!("{{{{ place(\"partial:{}\"{args}) }}}}", partial.name)
            }
            false => {
                let args: Vec<String> = args.map(|(input, _)| format!("{input}: page.title")).collect();
                format!("${{place(\"partial:{}\", {{ {} }})}}", partial.name, args.join(", "))
            }
        }
    }

    fn placed_hook(hook: &Hook) -> String {
        let arg = hook.arg.iter().map(|arg| format!(", {arg}=page.title")).collect::<String>();
        format!("{{{{ place(\"hook:{}\"{arg}) }}}}", hook.name)
    }

    /// Writes a layout that places all that the lower layers have, page templates that place the rest,
    /// an include and a macro.
    fn templates(&mut self, layers: &mut [Layer]) {
        let top = layers.len() - 1;
        let layout = self.layout(&layers[0]);
        self.files.insert(format!("{}/markup/layout.html", layers[0].root), layout.clone());
        if top > 0 {
            match self.some(2) {
                0 => {}
                1 => self
                    .files
                    .insert(format!("{ROOT}/markup/layout.html"), layout.replace("<main>", "<main class=\"copy\">")),
                _ => {
                    let text = "{% extends \"below:layout.html\" %}\n{% block lead %}{{ super() }}<hr>{% endblock %}\n";
                    self.files.insert(format!("{ROOT}/markup/layout.html"), text);
                }
            }
        }
        let mut own = String::new();
        if top > 0 {
            let site = &layers[top];
            let hooks: Vec<String> = site.hooks.iter().map(Self::placed_hook).collect();
            let regions: Vec<String> =
                site.regions.iter().map(|region| format!("{{{{ place(\"region:{region}\") }}}}")).collect();
            own = format!("{}\n{}", hooks.join("\n"), regions.join("\n"));
        }
        for filter in layers.iter().flat_map(|layer| layer.filters.clone()).collect::<Vec<_>>() {
            let _ = write!(own, "\n<em>{{{{ page.title | through(\"filter:{filter}\") }}}}</em>");
        }
        let partials: Vec<Partial> = layers.iter().flat_map(|layer| layer.partials.clone()).collect();
        for partial in &partials {
            let placed = self.placed_partial(partial, true);
            let _ = match self.some(2) {
                0 => write!(own, "\n{{% if site.data.flag %}}{placed}{{% endif %}}"),
                _ => write!(own, "\n{placed}"),
            };
        }
        own.push_str(&self.include_and_macro());
        let page = format!(
            "{{% extends \"layout.html\" %}}\n{{% block main %}}\n{{{{ super() }}}}\n{own}\n{{% endblock %}}\n"
        );
        self.files.insert(format!("{ROOT}/markup/page.html"), page.clone());
        if self.yes() {
            self.files.insert(format!("{ROOT}/markup/front.html"), page.replace("<em>", "<em class=\"front\">"));
        }
        if self.yes() {
            self.files.insert(format!("{ROOT}/media/cover.svg"), "<svg/>");
            let text = "{% extends \"page.html\" %}\n{% block lead %}{{ super() }}<img src=\"{{ asset(\"media/cover.svg\") }}\">{% endblock %}\n";
            self.files.insert(format!("{ROOT}/markup/entry.html"), text);
        }
    }

    fn layout(&mut self, layer: &Layer) -> String {
        let hooks: Vec<String> = layer.hooks.iter().map(Self::placed_hook).collect();
        let regions: String = layer
            .regions
            .iter()
            .map(|region| match self.yes() {
                true => format!("{{% if filled(\"region:{region}\") %}}<div>{{{{ place(\"region:{region}\") }}}}</div>{{% endif %}}\n"),
                false => format!("{{{{ place(\"region:{region}\") }}}}\n"),
            })
            .collect();
        format!(
            "<!doctype html>\n<html lang=\"{{{{ site.language }}}}\">\n<head>{{{{ place(\"hook:document-head\") }}}}</head>\n<body>\n\
             {{% block lead %}}{}{{% endblock %}}\n<main>{{% block main %}}{{{{ place(\"region:main\") }}}}{{% endblock %}}</main>\n{regions}\
             {{{{ place(\"hook:document-end\") }}}}\n</body>\n</html>\n",
            hooks.join("\n")
        )
    }

    fn include_and_macro(&mut self) -> String {
        let mut own = String::new();
        if self.yes() {
            let (file, local) = (self.word(), self.word());
            self.files.insert(
                format!("{ROOT}/markup/{file}.html"),
                format!("<p>{{{{ {local} }}}} {{{{ page.title }}}}</p>\n"),
            );
            let _ = write!(own, "\n{{% set {local} = site.title %}}{{% include \"{file}.html\" %}}");
        }
        if self.yes() {
            let (file, name, argument) = (self.word(), self.word(), self.word());
            let text = format!("{{% macro {name}({argument}) %}}<u>{{{{ {argument} }}}}</u>{{% endmacro %}}\n");
            self.files.insert(format!("{ROOT}/markup/{file}.html"), text);
            let _ = write!(own, "\n{{% from \"{file}.html\" import {name} %}}{{{{ {name}(page.title) }}}}");
        }
        own
    }

    /// Attaches callbacks to points of all layers that are there.
    fn attachments(&mut self, layers: &mut [Layer]) {
        for at in 0..layers.len() {
            let mut targets = vec!["hook:document-end".to_string(), "region:main".to_string()];
            if at + 1 == layers.len() {
                targets.push("template:page".to_string());
            }
            for layer in &layers[..=at] {
                targets.extend(layer.hooks.iter().map(|hook| format!("hook:{}", hook.name)));
                targets.extend(layer.filters.iter().map(|filter| format!("filter:{filter}")));
                targets.extend(layer.regions.iter().map(|region| format!("region:{region}")));
                targets.extend(layer.partials.iter().map(|partial| format!("partial:{}", partial.name)));
            }
            let module = self.word();
            let (helper, lender) = (self.word(), self.word());
            let mut text =
                format!("import {{ html, place }} from \"truehook\";\nimport {{ {lender} }} from \"./{helper}.js\";\n");
            for _ in 0..2 + self.some(4) {
                let Some(to) = self.pick(&targets) else { continue };
                let name = self.word();
                text.push_str(&self.function(&to, &name, &lender, &layers[at]));
                let attachment = self.attachment(at, to, format!("{module}.js#{name}"), layers);
                layers[at].attachments.push(attachment);
            }
            let layer = &mut layers[at];
            layer.modules.push((module, text));
            layer.modules.push((helper, format!("export const {lender} = \"…\";\n")));
            let without_needs =
                layer.partials.iter().find(|partial| partial.inputs.iter().all(|(_, default)| *default));
            layer.attached_partials.extend(without_needs.map(|partial| partial.name.clone()));
        }
    }

    fn function(&mut self, to: &str, name: &str, lender: &str, layer: &Layer) -> String {
        let body = match to.split(':').next() {
            Some("hook") => match layer.partials.first().cloned() {
                Some(partial) if self.yes() => {
                    let placed = self.placed_partial(&partial, false);
                    format!("({{ page }}) {{\n  return html`<p>${{page.title}}{placed}</p>`;\n}}")
                }
                _ => format!("() {{\n  return html`<p>${{{lender}}}</p>`;\n}}"),
            },
            Some("filter") => format!("(value) {{\n  return `${{value}}{name}`;\n}}"),
            Some("region") => "(items) {\n  return items.toReversed();\n}".to_string(),
            _ => "(inputs) {\n  return { ...inputs };\n}".to_string(),
        };
        format!("\nexport function {name}{body}\n")
    }

    fn attachment(&mut self, at: usize, to: String, call: String, layers: &[Layer]) -> Attachment {
        const CONDITIONS: [&str; 5] = [
            "page.type == 'front'",
            "site.data.flag",
            "not page.data.quiet",
            "page.type in ['front', 'page']",
            "site.title != '' and page.path != '/none/'",
        ];
        let earlier: Vec<String> = layers[..=at]
            .iter()
            .enumerate()
            .flat_map(|(layer, found)| found.attachments.iter().map(move |attachment| (layer, attachment)))
            .filter(|(_, attachment)| attachment.to == to)
            .map(|(layer, attachment)| match layer == at {
                true => attachment.call.clone(),
                false => format!("{}:{}", layers[layer].name, attachment.call),
            })
            .collect();
        let after = if self.rng.u8(..) < 100 { self.pick(&earlier).into_iter().collect() } else { Vec::new() };
        let priority = if self.yes() { 50 } else { self.rng.u8(0..=100) };
        let when = if self.rng.u8(..) < 90 { self.pick(&CONDITIONS) } else { None };
        Attachment { layer: at, to, call, priority, after, when }
    }

    /// A site with a page of several types, and items in regions.
    fn preview(&mut self, layers: &[Layer]) {
        let mut site = "title = \"A site\"\nlanguage = \"en\"\n\n[fill]\n".to_string();
        let partials: Vec<Partial> = layers.iter().flat_map(|layer| layer.partials.clone()).collect();
        for region in layers.iter().flat_map(|layer| layer.regions.clone()).collect::<Vec<_>>() {
            let Some(partial) = self.pick(&partials) else { continue };
            let inputs: String = partial.inputs.iter().map(|(input, _)| format!(", {input} = \"x\"")).collect();
            let when = if self.yes() { ", when = \"page.type != 'entry'\"" } else { "" };
            let _ = writeln!(site, "\"region:{region}\" = [ {{ use = \"partial:{}\"{inputs}{when} }} ]", partial.name);
        }
        site.push_str("\n[data]\nflag = true\n");
        self.files.insert(format!("{ROOT}/preview/site.toml"), site);
        for (page_type, path) in [("front", "/"), ("page", "/about/"), ("entry", "/log/first/"), ("list", "/log/")] {
            let text = format!(
                "path = \"{path}\"\ntype = \"{page_type}\"\ntitle = \"A {page_type}\"\nbody = \"{page_type}.md\"\n\n[data]\nquiet = {}\n",
                self.yes()
            );
            self.files.insert(format!("{ROOT}/preview/pages/{page_type}.toml"), text);
            self.files.insert(format!("{ROOT}/preview/pages/{page_type}.md"), "Some *words*.\n");
        }
    }

    fn manifests(&mut self, layers: &[Layer]) {
        for (at, layer) in layers.iter().enumerate() {
            let base = if at > 0 { "base = { path = \"../shore\" }\n" } else { "" };
            let open = if at + 1 < layers.len() { "open = true\n" } else { "" };
            let mut text =
                format!("[theme]\nname = \"{}\"\nlabel = \"A theme\"\nversion = \"1.0.0\"\n{open}{base}\n", layer.name);
            text.push_str(&layer.declarations.join("\n"));
            for attachment in &layer.attachments {
                let _ = write!(text, "\n[[attach]]\nto = \"{}\"\ncall = \"{}\"\n", attachment.to, attachment.call);
                if attachment.priority != 50 {
                    let _ = writeln!(text, "priority = {}", attachment.priority);
                }
                if !attachment.after.is_empty() {
                    let _ = writeln!(text, "after = [\"{}\"]", attachment.after.join("\", \""));
                }
                if let Some(when) = attachment.when {
                    let _ = writeln!(text, "when = \"{when}\"");
                }
            }
            for partial in &layer.attached_partials {
                let _ = write!(text, "\n[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:{partial}\"\n");
            }
            self.files.insert(format!("{}/truehook.toml", layer.root), text);
            for (name, text) in &layer.modules {
                self.files.insert(format!("{}/code/{name}.js", layer.root), text.as_str());
            }
        }
    }
}
