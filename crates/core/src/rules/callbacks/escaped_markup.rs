//! A callback returns markup as a text, which is escaped

use rustc_hash::FxHashSet;

use crate::address::{Kind, Role};
use crate::link::Registry;
use crate::rules::telling::callbacks;
use crate::rules::{Example, Finding, Level, Mend, Rule};
use crate::scan::Returned;
use crate::source::{Edit, Place, Span};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "escaped-markup",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A callback returns markup as a text, which is escaped",
    explanation: "A text that a listener returns, or a callback that renders a component, is shown as it is, with its angle brackets. Markup comes from html`…`, which escapes what is put into it. A filter of markup has to return markup, too.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"import { html } from "truehook";
export const other = () => html`<p>Low water</p>`;
export function today({ page }) { return `<p>${page.title}</p>`; }
"##,
        ),
        (
            "truehook.toml",
            r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"

[[attach]]
to = "hook:document-end"
call = "notes.js#other"
"##,
        ),
    ]),
    right: Example(&[(
        "code/notes.js",
        r##"import { html } from "truehook";
export const other = () => html`<p>Low water</p>`;
export function today({ page }) { return html`<p>${page.title}</p>`; }
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let mut told = FxHashSet::default();
    for (callback, point, role) in callbacks(registry) {
        let markup = point.schema().and_then(|schema| schema.get("type")).is_some_and(|word| word == "markup");
        let shows = match role {
            Some(Role::Listener) => !point.moment,
            Some(Role::Filter) => point.address.kind == Kind::Filter && markup,
            Some(_) => false,
            None => true,
        };
        let Some(export) = registry.export(callback).filter(|_| shows) else { continue };
        for returned in &export.returns {
            let Returned::Text(at, instead) = returned else { continue };
            let place = Place { file: callback.file, at: *at };
            if told.contains(&place) {
                continue;
            }
            told.insert(place);
            let name = registry.callback_name(callback);
            let message =
                format!("`{name}` returns markup as a text, which `{}` shows with its brackets", point.address);
            let layer = registry.project().file(callback.file).layer;
            let mut finding = Finding::new(&RULE, layer, message).about(point.address);
            finding = finding.at(registry, place, "this is a text");
            finding = finding.at_declaration(registry, point.address, "this is what it runs at");
            let module = registry.module(callback.file);
            let imports =
                module.iter().flat_map(|module| &module.imports).filter(|import| import.from.name == "truehook");
            let has_html = imports.flat_map(|import| &import.names).any(|named| named.name == "html");
            let begins = registry.span(place).start as usize;
            let edits = match instead {
                Some(tag) if has_html => {
                    vec![Edit { file: callback.file, span: Span::new(begins, begins), new: tag.clone() }]
                }
                _ => Vec::new(),
            };
            finding.mend = Some(Mend { text: "write html`…`".to_string(), safe: false, edits });
            found.push(finding);
        }
    }
}
