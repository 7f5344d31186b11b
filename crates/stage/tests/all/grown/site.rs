//! The preview and the manifests of grown themes.

use std::fmt::Write;

use truehook_core::source::print_of;

use super::*;

impl Grower {
    /// An item that uses a component, with what it holds.
    fn item(&mut self, component: &Component, pieces: &[Component], more: &str) -> String {
        let mut item = format!("{{ use = \"{}\"", component.address());
        for (input, _) in &component.inputs {
            let _ = write!(item, ", {input} = \"x\"");
        }
        let mut held: Vec<String> = Vec::new();
        if let Some(inner) = &component.inner {
            held.push(format!("{{ use = \"piece:{inner}\" }}"));
        }
        let admitted: Vec<Component> = match component.holds.as_deref() {
            Some("piece:*") => pieces.to_vec(),
            Some(one) => pieces.iter().filter(|piece| piece.address() == one).cloned().collect(),
            None => Vec::new(),
        };
        if let Some(piece) = self.pick(&admitted) {
            held.push(self.item(&piece, &[], ""));
        }
        if !held.is_empty() {
            let _ = write!(item, ", holds = [ {} ]", held.join(", "));
        }
        format!("{item}{more} }}")
    }

    /// A site with a page of several types, items in regions and areas, menus and options.
    pub(super) fn preview(&mut self, layers: &[Layer]) {
        let mut site = "title = \"A site\"\nlanguage = \"en\"\n".to_string();
        let all =
            |of: fn(&Layer) -> &Vec<Component>| -> Vec<Component> { layers.iter().flat_map(of).cloned().collect() };
        let (partials, pieces, sections) =
            (all(|layer| &layer.partials), all(|layer| &layer.pieces), all(|layer| &layer.sections));
        let options: Vec<String> = layers.iter().flat_map(|layer| &layer.options).cloned().collect();
        site.push_str("\n[options]\n");
        options.iter().filter(|_| self.yes()).for_each(|option| {
            let _ = writeln!(site, "{option} = \"two\"");
        });
        let menu = self.word();
        let _ = write!(
            site,
            "\n[menus]\n{menu} = [ {{ label = \"Front\", href = \"/\" }}, {{ label = \"Log\", href = \"/log/\", entries = [ {{ label = \"First\", href = \"/log/first/\" }} ] }} ]\n\n[fill]\n"
        );
        let items: Vec<Component> = partials.iter().chain(&pieces).chain(&sections).cloned().collect();
        for region in layers.iter().flat_map(|layer| layer.regions.clone()).collect::<Vec<_>>() {
            let Some(component) = self.pick(&items) else { continue };
            let when = if self.yes() { ", when = \"page.type != 'entry'\"" } else { "" };
            let item = self.item(&component, &pieces, when);
            let _ = writeln!(site, "\"region:{region}\" = [ {item} ]");
        }
        for area in layers.iter().flat_map(|layer| layer.areas.clone()).collect::<Vec<_>>() {
            let Some(component) = self.pick(&partials) else { continue };
            let item = self.item(&component, &pieces, ", title = \"A title\"");
            let _ = writeln!(site, "\"area:{area}\" = [ {item} ]");
        }
        for spot in layers.iter().flat_map(|layer| layer.menus.clone()).collect::<Vec<_>>() {
            let _ = writeln!(site, "\"menu:{spot}\" = \"{menu}\"");
        }
        site.push_str("\n[data]\nflag = true\n");
        self.files.insert(format!("{ROOT}/preview/site.toml"), site);
        for (page_type, path) in [("front", "/"), ("page", "/about/"), ("entry", "/log/first/"), ("list", "/log/")] {
            let composed = match self.pick(&sections) {
                Some(section) if self.yes() => format!("sections = [ {} ]\n", self.item(&section, &pieces, "")),
                _ => String::new(),
            };
            let text = format!(
                "path = \"{path}\"\ntype = \"{page_type}\"\ntitle = \"A {page_type}\"\nbody = \"{page_type}.md\"\n{composed}\n[data]\nquiet = {}\n",
                self.yes()
            );
            self.files.insert(format!("{ROOT}/preview/pages/{page_type}.toml"), text);
            self.files.insert(format!("{ROOT}/preview/pages/{page_type}.md"), "Some *words*.\n");
        }
    }

    pub(super) fn manifests(&mut self, layers: &[Layer]) {
        let top = layers.len() - 1;
        let has = |name: &str| layers.iter().any(|layer| layer.name == name);
        for (at, layer) in layers.iter().enumerate() {
            let table = if layer.is_companion() { "companion" } else { "theme" };
            let mut text = format!("[{table}]\nname = \"{}\"\nlabel = \"A layer\"\nversion = \"1.0.0\"\n", layer.name);
            if at == top && has("shore") {
                text.push_str("base = { path = \"../shore\" }\n");
            }
            if at == top && has("kit") {
                text.push_str("companions = [{ path = \"../kit\", version = \"^1\" }]\n");
            }
            if at < top && !layer.is_companion() {
                text.push_str("open = true\n");
            }
            let _ = write!(text, "\n{}", layer.declarations.join("\n"));
            layer.attachments.iter().for_each(|attachment| write_attachment(&mut text, attachment));
            for partial in &layer.attached_partials {
                let _ = write!(text, "\n[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:{partial}\"\n");
            }
            if at == top && has("shore") {
                let copy = self.files.get(format!("{ROOT}/markup/layout.html").as_str().into());
                let original = self.files.get("/grown/shore/markup/layout.html".into()).map(<[u8]>::to_vec);
                // A copy that was taken over whole remembers what it was taken from.
                if let (Some(copy), Some(original)) = (copy, original)
                    && copy.starts_with(b"<!doctype")
                {
                    let print = print_of(&String::from_utf8(original).expect("it is text"));
                    let _ =
                        write!(text, "\n[adopted]\n\"layout.html\" = {{ from = \"shore\", print = \"{print}\" }}\n");
                }
            }
            if at == top {
                self.write_overrides(&mut text, &layers[..top]);
            }
            self.files.insert(format!("{}/truehook.toml", layer.root), text);
            for (name, text) in &layer.modules {
                self.files.insert(format!("{}/code/{name}.js", layer.root), text.as_str());
            }
        }
    }

    fn write_overrides(&mut self, text: &mut String, below: &[Layer]) {
        for layer in below {
            for attachment in &layer.attachments {
                let (to, call) = (&attachment.to, format!("{}:{}", layer.name, attachment.call));
                if attachment.detached {
                    let _ = write!(text, "\n[[detach]]\nfrom = \"{to}\"\ncall = \"{call}\"\n");
                }
                if let Some(with) = &attachment.replaced {
                    let within = if self.yes() { format!("in = \"{to}\"\n") } else { String::new() };
                    let _ = write!(text, "\n[[replace]]\n{within}call = \"{call}\"\nwith = \"{with}\"\n");
                }
            }
        }
    }
}

fn write_attachment(text: &mut String, attachment: &Attachment) {
    let _ = write!(text, "\n[[attach]]\nto = \"{}\"\ncall = \"{}\"\n", attachment.to, attachment.call);
    if attachment.priority != 50 {
        let _ = writeln!(text, "priority = {}", attachment.priority);
    }
    if !attachment.after.is_empty() {
        let _ = writeln!(text, "after = [\"{}\"]", attachment.after.join("\", \""));
    }
    if let Some(when) = &attachment.when {
        let _ = writeln!(text, "when = \"{when}\"");
    }
    if attachment.sealed {
        text.push_str("sealed = true\n");
    }
}
