//! The callbacks of grown themes, and what the theme detaches and replaces.

use super::*;

impl Grower {
    /// Attaches callbacks to points of all layers that are there.
    pub(super) fn attachments(&mut self, layers: &mut [Layer]) {
        for at in 0..layers.len() {
            let targets = targets(layers, at);
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
        let body = match (to, to.split(':').next()) {
            ("hook:page-ready", _) => format!("({{ site }}) {{\n  site.store.set(\"{name}\", {lender});\n}}"),
            ("filter:root-attributes", _) => format!("(value) {{\n  return {{ ...value, id: \"{name}\" }};\n}}"),
            (_, Some("hook")) => match layer.partials.first().cloned() {
                Some(partial) if self.yes() => {
                    let placed = self.placed_partial(&partial, false);
                    format!("({{ page }}) {{\n  return html`<p>${{page.title}}{placed}</p>`;\n}}")
                }
                _ => format!("() {{\n  return html`<p>${{{lender}}}</p>`;\n}}"),
            },
            (_, Some("filter")) => format!("(value) {{\n  return `${{value}}{name}`;\n}}"),
            (_, Some("region" | "area" | "menu")) => "(items) {\n  return items.toReversed();\n}".to_string(),
            _ => "(inputs) {\n  return { ...inputs };\n}".to_string(),
        };
        let role = match to.split(':').next() {
            Some("hook") => "Listener",
            Some("filter") => "Filter",
            Some("region" | "area" | "menu") => "Arranger",
            _ => "Preparer",
        };
        format!("\n/** @type {{import(\"truehook\").{role}<\"{to}\">}} */\nexport function {name}{body}\n")
    }

    fn attachment(&mut self, at: usize, to: String, call: String, layers: &[Layer]) -> Attachment {
        let mut conditions: Vec<String> = [
            "page.type == 'front'",
            "site.data.flag",
            "not page.data.quiet",
            "page.type in ['front', 'page']",
            "site.title != '' and page.path != '/none/'",
        ]
        .map(str::to_string)
        .to_vec();
        // A companion can't know the theme's options.
        let options = layers[..=at].iter().flat_map(|layer| &layer.options);
        conditions.extend(options.map(|option| format!("options.{option} == 'two'")));
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
        let when = if self.rng.u8(..) < 90 { self.pick(&conditions) } else { None };
        Attachment { layer: at, to, call, priority, after, when, sealed: false, detached: false, replaced: None }
    }

    /// Lets the theme detach and replace some of what the layers below it attach; some of the rest is
    /// sealed.
    pub(super) fn override_below(&mut self, layers: &mut [Layer]) {
        let top = layers.len() - 1;
        let mut text = "import { html, place } from \"truehook\";\n".to_string();
        let (module, lender) = (self.word(), "\"…\"");
        for at in 0..top {
            for index in 0..layers[at].attachments.len() {
                let name = self.word();
                let to = layers[at].attachments[index].to.clone();
                match self.some(5) {
                    0 => layers[at].attachments[index].detached = true,
                    1 => {
                        let function = self.function(&to, &name, lender, &layers[top]);
                        text.push_str(&function);
                        layers[at].attachments[index].replaced = Some(format!("{module}.js#{name}"));
                    }
                    2 => layers[at].attachments[index].sealed = true,
                    _ => {}
                }
            }
        }
        if text.contains("export") {
            layers[top].modules.push((module, text));
        }
    }
}

/// What a layer can attach callbacks to.
fn targets(layers: &[Layer], at: usize) -> Vec<String> {
    let own = ["hook:document-end", "region:main", "hook:page-ready", "filter:page-heading", "filter:root-attributes"];
    let mut targets: Vec<String> = own.map(str::to_string).to_vec();
    if at + 1 == layers.len() {
        targets.push("template:page".to_string());
    }
    for layer in &layers[..=at] {
        targets.extend(layer.hooks.iter().map(|hook| format!("hook:{}", hook.name)));
        targets.extend(layer.filters.iter().map(|filter| format!("filter:{filter}")));
        targets.extend(layer.regions.iter().map(|region| format!("region:{region}")));
        targets.extend(layer.areas.iter().map(|area| format!("area:{area}")));
        targets.extend(layer.menus.iter().map(|menu| format!("menu:{menu}")));
        let components = [&layer.partials, &layer.sections, &layer.pieces].into_iter().flatten();
        targets.extend(components.map(Component::address));
    }
    targets
}
