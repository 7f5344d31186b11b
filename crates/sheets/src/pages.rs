//! The templates of the sheets, with the styles and scripts that come with them.

use minijinja::value::Serde;
use minijinja::{Environment, Value};
use serde::Serialize;

use crate::SheetError;
use crate::signs;

const TEMPLATES: [(&str, &str); 3] = [
    ("sheet.html", include_str!("../pages/sheet.html")),
    ("parts.html", include_str!("../pages/parts.html")),
    ("map.html", include_str!("../pages/map.html")),
];

const TEXTS: [(&str, &str); 4] = [
    ("sheet_style", include_str!("../pages/sheet.css")),
    ("sheet_script", include_str!("../pages/sheet.js")),
    ("map_style", include_str!("../pages/map.css")),
    ("map_script", include_str!("../pages/map.js")),
];

/// Fills a template of ours.
pub fn fill(template: &str, data: &impl Serialize) -> Result<String, SheetError> {
    let mut environment = Environment::new();
    environment.add_filter("json", |value: Value| serde_json::to_string(&value).unwrap_or_default());
    for (name, text) in TEMPLATES {
        environment.add_template(name, text)?;
    }
    for (name, text) in TEXTS {
        environment.add_global(name, Value::from_safe_string(text.to_string()));
    }
    environment.add_global("signs", Value::from(Serde(signs::SIGNS)));
    environment.add_global("paths", Value::from_pairs(signs::SIGNS.map(|sign| (sign.kind, Value::from(sign.path)))));
    environment.add_global("states", Value::from(Serde(signs::STATES)));
    Ok(environment.get_template(template)?.render(Serde(data))?)
}
