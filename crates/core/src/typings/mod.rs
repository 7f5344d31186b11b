//! What callbacks are given and give back, as declarations for TypeScript: one type for each role, by the address of
//! the point.

mod shapes;

use std::fmt::Write;

use serde_json::Value;

use crate::address::Kind;
use crate::link::{Input, Point, Registry};
use crate::scan::{Field as Declared, Shape};
use shapes::{Field, key, of_schema, of_values, table, union};

/// What is the same for every theme.
const COMMON: &str = include_str!("common.d.ts");

/// The declarations of a theme: the module `truehook`.
pub fn declarations(registry: &Registry) -> String {
    let name = registry.project().layer(registry.project().top()).name;
    let mut text = format!(
        "// What callbacks of {name} are given and give back. Made by `truehook emit types`; make it again when\n\
         // declarations change.\n\ndeclare module \"truehook\" {{\n"
    );
    for line in COMMON.lines() {
        let _ = writeln!(text, "{}{line}", if line.is_empty() { "" } else { "  " });
    }
    for (name, about, fields) in [
        ("Page", "The page at hand.", page(registry)),
        ("Site", "The site.", site(registry)),
        ("Options", "What the site chooses of the theme's options.", options(registry)),
    ] {
        let _ = write!(text, "\n  /** {about} */\n  interface {name} {{\n");
        lines(&mut text, &fields);
        text.push_str("  }\n");
    }
    let _ = write!(text, "\n  /** The points, by what is given and given back there. */\n  interface Points {{\n");
    for point in registry.points().filter(|point| !point.declared.is_empty()) {
        if let Some(of) = of_point(point) {
            if let Some(about) = point.about {
                let _ = writeln!(text, "    /** {} */", about.as_str().replace("*/", "* /"));
            }
            let _ = writeln!(text, "    {}: {of};", key(&point.address.to_string()));
        }
    }
    text.push_str("  }\n");
    let features = registry.points().filter(|point| point.address.kind == Kind::Feature);
    let features = union(features.map(|point| Value::from(point.address.to_string()).to_string()));
    let _ = write!(text, "\n  /** The features that the host offers. */\n  type FeatureAddress = {features};\n}}\n");
    text
}

fn lines(text: &mut String, fields: &[Field]) {
    for Field { name, optional, of, about } in fields {
        if let Some(about) = about {
            let _ = writeln!(text, "    /** {} */", about.replace("*/", "* /"));
        }
        let _ = writeln!(text, "    {}{}: {of};", key(name), if *optional { "?" } else { "" });
    }
}

fn field(name: &str, of: &str) -> Field {
    Field { name: name.into(), optional: false, of: of.into(), about: None }
}

/// A declared field. One without a default has to be given.
fn declared(field: &Declared) -> Field {
    let about = ["about", "label"].iter().find_map(|word| field.schema.get(word)?.as_str());
    Field {
        name: field.name.to_string(),
        optional: false,
        of: of_schema(&field.schema),
        about: about.map(str::to_string),
    }
}

fn page(registry: &Registry) -> Vec<Field> {
    let types = registry.types().iter().map(|known| Value::from(known.name.as_str()).to_string());
    let pages: Vec<_> = registry.project().file_ids().filter_map(|file| registry.page(file)).collect();
    let any = !pages.is_empty();
    let data: Vec<&Value> = pages.iter().filter_map(|page| page.value.get("data")).collect();
    let mut fields = vec![
        field("path", "string"),
        field("type", &union(types)),
        field("title", "string"),
        field("heading", "string"),
        field("body", "Markup"),
        field("root", "string"),
        field("sections", "Item[]"),
        field("data", &if any { some_of(&data) } else { "{ [key: string]: any }".into() }),
    ];
    for key in registry.types().iter().flat_map(|known| &known.keys) {
        if !fields.iter().any(|known| key.name == *known.name.as_str()) {
            fields.push(Field { optional: true, ..declared(key) });
        }
    }
    for key in registry.fed_keys("page") {
        if !fields.iter().any(|known| key == *known.name.as_str()) {
            fields.push(Field { optional: true, ..field(&key, "any") });
        }
    }
    fields
}

/// Data, any part of which a page may lack.
fn some_of(data: &[&Value]) -> String {
    let mut with_none = data.to_vec();
    let none = Value::Object(serde_json::Map::new());
    with_none.push(&none);
    of_values(&with_none)
}

fn site(registry: &Registry) -> Vec<Field> {
    let sites = || {
        registry.project().file_ids().filter_map(|file| match &registry.facts(file).shape {
            Shape::Site(site) => Some(&site.value),
            _ => None,
        })
    };
    let any = sites().next().is_some();
    // The sites of all layers are laid over each other, so that all of their data are there.
    let mut data = serde_json::Map::new();
    for given in sites().filter_map(|site| site.get("data")?.as_object()) {
        data.extend(given.iter().map(|(name, value)| (name.clone(), value.clone())));
    }
    let mut fields = vec![
        field("title", "string"),
        field("motto", "string"),
        field("language", "string"),
        field("now", "string"),
        field("menus", "{ [name: string]: Entry[] }"),
        // Without a preview, nobody knows what a site has.
        field("data", &if any { of_values(&[&Value::Object(data)]) } else { "{ [key: string]: any }".into() }),
    ];
    for key in registry.fed_keys("site") {
        if !fields.iter().any(|known| key == *known.name.as_str()) {
            fields.push(Field { optional: true, ..field(&key, "any") });
        }
    }
    fields
}

fn options(registry: &Registry) -> Vec<Field> {
    let options = registry.points().filter(|point| point.address.kind == Kind::Option);
    let fields = options.map(|point| {
        let schema = point.schema().cloned().unwrap_or_default();
        Field {
            name: point.address.name.to_string(),
            optional: schema.get("default").is_none(),
            of: of_schema(&schema),
            about: point.label.or(point.about).map(|about| about.to_string()),
        }
    });
    fields.collect()
}

/// What is given at a point, and given back.
fn of_point(point: &Point) -> Option<String> {
    let fields = |inputs: &[Input]| inputs.iter().map(|input| declared(&input.field)).collect::<Vec<_>>();
    let args = || table(&fields(&point.args), false);
    Some(match point.address.kind {
        Kind::Hook if point.moment => format!("{{ moment: true; args: {} }}", args()),
        Kind::Hook => format!("{{ hook: true; args: {} }}", args()),
        Kind::Filter => {
            // What a filter of markup gives back has to be markup.
            let is_markup = |schema: &Value| schema.get("type").is_some_and(|word| word == "markup");
            let value = match point.schema() {
                Some(schema) if is_markup(schema) => "Markup".to_string(),
                Some(schema) => of_schema(schema),
                None => "any".to_string(),
            };
            format!("{{ value: {value}; args: {} }}", args())
        }
        Kind::Region | Kind::Area => "{ items: Item; args: {} }".into(),
        Kind::Menu => "{ items: Entry; args: { class?: string; bare?: boolean; with?: string } }".into(),
        Kind::Partial | Kind::Section | Kind::Piece | Kind::Template => {
            let given = fields(&point.inputs);
            let passed = given.iter().zip(&point.inputs).map(|(field, input)| Field {
                name: field.name.clone(),
                optional: input.field.default().is_some(),
                of: field.of.clone(),
                about: None,
            });
            let passed = table(&passed.collect::<Vec<_>>(), false);
            format!("{{ inputs: {}; passed: {passed}; args: {{}} }}", table(&given, false))
        }
        Kind::Feature | Kind::Style | Kind::Script | Kind::Bundle | Kind::Option => return None,
    })
}
