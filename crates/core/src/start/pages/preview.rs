//! The preview of a theme that came of pages: their texts, and the site.

use std::fmt::Write;

use super::address::Into;
use super::common::own;
use super::markup::{File, Writing};
use super::{Fate, title_of};
use crate::edit::toml_text;

impl Writing<'_, '_> {
    /// The pages and the site of the preview.
    pub fn previews(&mut self) -> Vec<File> {
        let mut files: Vec<File> = vec![("preview/site.toml".into(), self.site().into_bytes())];
        let titles = self.whole.titles();
        for (number, group) in self.whole.groups.iter().enumerate() {
            let _ = number;
            for at in &group.pages {
                let page = &self.whole.pages[*at];
                let name = self.whole.preview_of(*at);
                let title = title_of(page);
                let ending = titles.as_ref().map(|(by, site)| format!("{by}{site}")).unwrap_or_default();
                let title = title.strip_suffix(&ending).unwrap_or(&title).to_string();
                let mut toml = format!(
                    "path  = {}\ntype  = \"{}\"\ntitle = {}\n",
                    toml_text(&page.path),
                    self.whole.type_of(*at),
                    toml_text(&title)
                );
                let scripted = self.whole.scripted.contains(at);
                let into = if scripted { Into::Template } else { Into::Body };
                let body = self.markup(page, own(page, group), into);
                if scripted {
                    let partial = self.whole.text_of(*at);
                    let now = format!("partial:{partial}, since what people write into pages holds no scripts");
                    let (file, line) = (page.file.clone(), page.line(own(page, group).start));
                    self.taken.turned.push(Fate { file, line, what: "a text with scripts in it".into(), now });
                    files.push((format!("markup/partials/{partial}.html").into(), body.into_bytes()));
                } else if !body.trim().is_empty() {
                    let _ = writeln!(toml, "body  = \"{name}.html\"");
                    files.push((format!("preview/pages/{name}.html").into(), body.into_bytes()));
                }
                let data = self.whole.data(*at, group);
                if !data.is_empty() {
                    toml.push_str("\n[data]\n");
                    for (key, value) in &data {
                        let _ = writeln!(toml, "{key} = {}", toml_text(value));
                    }
                }
                files.push((format!("preview/pages/{name}.toml").into(), toml.into_bytes()));
            }
        }
        files
    }

    fn site(&self) -> String {
        let page = &self.whole.pages[0];
        let title = self.whole.titles().map_or_else(|| title_of(page), |(_, site)| site);
        let language = page.attribute("html", "lang").filter(|code| !code.is_empty()).unwrap_or("en");
        let mut text = format!("title    = {}\nlanguage = {}\n", toml_text(&title), toml_text(language));
        let mut fills = String::new();
        if !self.whole.scripted.is_empty() {
            let item = |at: &usize| {
                let when = self.whole.condition(&[*at]);
                format!("  {{ use = \"partial:{}\", when = {} }},\n", self.whole.text_of(*at), toml_text(&when))
            };
            let items: String = self.whole.scripted.iter().map(item).collect();
            let _ = write!(fills, "\"region:main\" = [\n{items}]\n");
        }
        if self.whole.menus.is_empty() {
            if !fills.is_empty() {
                let _ = write!(text, "\n[fill]\n{fills}");
            }
            return text;
        }
        text.push_str("\n[menus]\n");
        let entries = |says: &str| says.split_once(' ').map(|(_, entries)| entries.to_string()).unwrap_or_default();
        let mut known: Vec<(String, &String)> = Vec::new();
        for (says, name) in &self.whole.menus {
            let says = entries(says);
            if let Some((_, same)) = known.iter().find(|(known, _)| *known == says) {
                let _ = writeln!(fills, "\"menu:{name}\" = \"{same}\"");
                continue;
            }
            let _ = writeln!(fills, "\"menu:{name}\" = \"{name}\"");
            let _ = writeln!(text, "{name} = [");
            for entry in says.split('\n') {
                let (label, href) = entry.split_once('=').unwrap_or((entry, ""));
                let _ = writeln!(text, "  {{ label = {}, href = {} }},", toml_text(label), toml_text(href));
            }
            text.push_str("]\n");
            known.push((says, name));
        }
        let _ = write!(text, "\n[fill]\n{fills}");
        text
    }
}
