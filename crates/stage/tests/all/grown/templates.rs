//! The templates of grown themes: a layout, pages, copies, an include and a macro.

use std::fmt::Write;

use super::*;

impl Grower {
    pub(super) fn placed_partial(&mut self, partial: &Component, quote: bool) -> String {
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

    /// Placements of all that a layer has and that needs one.
    fn placements(&mut self, layer: &Layer) -> (String, String) {
        let hooks: Vec<String> = layer
            .hooks
            .iter()
            .map(|hook| {
                let arg = hook.arg.iter().map(|arg| format!(", {arg}=page.title")).collect::<String>();
                format!("{{{{ place(\"hook:{}\"{arg}) }}}}", hook.name)
            })
            .collect();
        let mut spots: Vec<(String, String)> = Vec::new();
        spots.extend(layer.regions.iter().map(|region| (format!("region:{region}"), String::new())));
        spots.extend(layer.areas.iter().map(|area| (format!("area:{area}"), String::new())));
        for menu in &layer.menus {
            let args = match (self.some(2), layer.partials.iter().find(|partial| partial.inputs.is_empty())) {
                (0, _) => ", class=\"nav\"".to_string(),
                (1, _) => ", bare=true".to_string(),
                (_, Some(partial)) => format!(", with=\"partial:{}\"", partial.name),
                _ => String::new(),
            };
            spots.push((format!("menu:{menu}"), args));
        }
        let guarded = |(spot, args): &(String, String), guard: bool| match guard {
            true => format!("{{% if filled(\"{spot}\") %}}<div>{{{{ place(\"{spot}\"{args}) }}}}</div>{{% endif %}}\n"),
            false => format!("{{{{ place(\"{spot}\"{args}) }}}}\n"),
        };
        let spots: String = spots.iter().map(|spot| guarded(spot, self.yes())).collect();
        (hooks.join("\n"), spots)
    }

    /// Writes a layout that places all that the lower layers have, page templates that place the rest,
    /// an include and a macro.
    pub(super) fn templates(&mut self, layers: &[Layer]) {
        let top = layers.len() - 1;
        let lowest = layers.iter().position(|layer| !layer.is_companion()).unwrap_or(top);
        let layout = self.layout(&layers[lowest]);
        self.files.insert(format!("{}/markup/layout.html", layers[lowest].root), layout.clone());
        if lowest < top {
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
        for layer in layers.iter().filter(|layer| layer.name != layers[lowest].name) {
            let (hooks, spots) = self.placements(layer);
            let _ = write!(own, "{hooks}\n{spots}");
        }
        for filter in layers.iter().flat_map(|layer| layer.filters.clone()).collect::<Vec<_>>() {
            let _ = write!(own, "\n<em>{{{{ page.title | through(\"filter:{filter}\") }}}}</em>");
        }
        for option in layers.iter().flat_map(|layer| layer.options.clone()).collect::<Vec<_>>() {
            let _ = write!(own, "\n<s>{{{{ options.{option} }}}}</s>");
        }
        let partials: Vec<Component> = layers.iter().flat_map(|layer| layer.partials.clone()).collect();
        for partial in &partials {
            let placed = self.placed_partial(partial, true);
            let _ = match self.some(2) {
                0 => write!(own, "\n{{% if site.data.flag %}}{placed}{{% endif %}}"),
                _ => write!(own, "\n{placed}"),
            };
        }
        own.push_str(&self.include_and_macro());
        own.push_str(&self.markup);
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
        let (hooks, spots) = self.placements(layer);
        let sections = match self.yes() {
            true => "{{ place(\"sections\") }}",
            false => "{% if filled(\"sections\") %}<div>{{ place(\"sections\") }}</div>{% endif %}",
        };
        format!(
            "<!doctype html>\n<html {{{{ page.root }}}}>\n<head>{{{{ place(\"hook:document-head\") }}}}</head>\n<body>\n\
             {{% block lead %}}{hooks}{{% endblock %}}\n<main>{{% block main %}}{{{{ place(\"region:main\") }}}}{{% endblock %}}</main>\n{spots}{sections}\n{{% if page.type == \"list\" %}}{{% for entry in page.entries %}}<a href=\"{{{{ entry.path }}}}\">{{{{ entry.title }}}}</a>{{% endfor %}}{{% endif %}}\n\
             {{{{ place(\"hook:document-end\") }}}}\n</body>\n</html>\n"
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
}
