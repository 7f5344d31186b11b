//! The templates of the sheets, with the styles and scripts that come with them.

use std::borrow::Cow;

use minijinja::value::Serde;
use minijinja::{Environment, HtmlEscape, Value, escape_formatter};
use serde::Serialize;
use truehook_core::css::{colour_fault, length_fault};
use truehook_core::shell;
use truehook_core::visible::visible;

use crate::SheetError;
use crate::signs;

macro_rules! page {
    ($file:literal) => {
        include_str!(concat!("../pages/", $file))
    };
}

const TEMPLATES: [(&str, &str); 8] = [
    ("sheet.html", page!("sheet.html")),
    ("parts.html", page!("parts.html")),
    ("map.html", page!("map.html")),
    ("desk.html", page!("desk.html")),
    ("writing.html", page!("writing.html")),
    ("atlas.html", page!("atlas.html")),
    ("atlas.md", page!("atlas.md")),
    ("shelf.html", page!("shelf.html")),
];

/// The colours of all that is ours, as custom properties of the root.
pub const PALETTE: &str = page!("palette.css");

const TEXTS: [(&str, &str); 11] = [
    ("palette", PALETTE),
    ("sheet_style", page!("sheet.css")),
    ("sheet_script", page!("sheet.js")),
    ("frames_script", page!("frames.js")),
    ("map_style", page!("map.css")),
    ("map_script", page!("map.js")),
    ("desk_style", page!("desk.css")),
    ("desk_script", page!("desk.js")),
    ("atlas_style", page!("atlas.css")),
    ("atlas_script", page!("atlas.js")),
    ("shelf_style", page!("shelf.css")),
];

/// What the sheets may load: nothing from elsewhere. All that they show is in them, also the files of the pages in their
/// frames, which have the same policy (Content Security Policy 3).
pub const POLICY: &str = "default-src 'none'; script-src 'unsafe-inline' data: blob:; style-src 'unsafe-inline' data:; \
    img-src data: blob:; font-src data:; media-src data: blob:; frame-src data: blob:; base-uri 'none'; form-action 'none'";

/// Fills a template of ours.
pub fn fill(template: &str, data: &impl Serialize) -> Result<String, SheetError> {
    fill_with(template, Value::from(Serde(data)))
}

/// Fills a template of ours with values of the engine's own.
pub fn fill_with(template: &str, data: Value) -> Result<String, SheetError> {
    let mut environment = Environment::new();
    environment.add_filter("json", |value: Value| serde_json::to_string(&value).unwrap_or_default());
    // A page in a frame stays as it is.
    environment.add_filter("page", |html: &str| Value::from_safe_string(HtmlEscape(html).to_string()));
    environment.add_filter("command", |words: Vec<String>| shell::line(words));
    // What is no colour or length doesn't reach a style.
    environment.add_filter("css_colour", |value: &str| match colour_fault(value) {
        None => value.to_string(),
        Some(_) => "transparent".to_string(),
    });
    environment.add_filter("css_length", |value: &str| match length_fault(value) {
        None => value.to_string(),
        Some(_) => "1em".to_string(),
    });
    environment.set_formatter(|out, state, value| match value.as_str().map(visible) {
        Some(Cow::Owned(text)) if !value.is_safe() => escape_formatter(out, state, &Value::from(text)),
        _ => escape_formatter(out, state, value),
    });
    for (name, text) in TEMPLATES {
        environment.add_template(name, text)?;
    }
    for (name, text) in TEXTS {
        environment.add_global(name, Value::from_safe_string(text.to_string()));
    }
    environment.add_global("policy", POLICY);
    environment.add_global("signs", Value::from(Serde(signs::SIGNS)));
    environment.add_global("paths", Value::from_pairs(signs::SIGNS.map(|sign| (sign.kind, Value::from(sign.path)))));
    environment.add_global("states", Value::from(Serde(signs::STATES)));
    Ok(environment.get_template(template)?.render(data)?)
}
