//! `emit schema`: the forms of files and of JSON outputs.

use anyhow::{Context, Result, bail};
use camino::Utf8Path;
use serde_json::{Map, Value, json};
use truehook_core::edit;
use truehook_core::forms::{DIALECT, Form};
use truehook_core::link::Registry;
use truehook_core::names::{hint, nearest};
use truehook_core::view::{ChangesView, CheckView, PointsView};
use truehook_core::why::Why;

use super::print;
use crate::Outcome;
use crate::args::SchemaArgs;
use crate::commands::{atlas, desk, explain, fire, map, origin, render, shelf, show, trace};
use crate::output::form as form_of;
use crate::workshop;

/// The commands that write, whose outputs are alike.
const WRITING: [&str; 11] =
    ["adopt", "attach", "declare", "detach", "fill", "new", "place", "rename", "replace", "withdraw", "changes"];

/// The form of a command's output.
fn output(name: &str) -> Option<Value> {
    let one = |schema: schemars::Schema| schema.to_value();
    Some(match name {
        "check" => one(form_of::<CheckView>()),
        "why" => one(form_of::<Why>()),
        "list" => one(form_of::<PointsView>()),
        "explain" => one(explain::form()),
        "show" => either(show::forms()),
        "map" => one(map::form()),
        "desk" => one(desk::form()),
        "atlas" => one(atlas::form()),
        "shelf" => one(shelf::form()),
        "origin" => one(origin::form()),
        "render" => either(render::forms()),
        "fire" => one(fire::form()),
        "trace" => one(trace::form()),
        name if WRITING.contains(&name) => one(form_of::<ChangesView>()),
        _ => return None,
    })
}

/// All commands with an output of their own.
const OUTPUTS: [&str; 14] = [
    "check", "why", "list", "explain", "show", "map", "desk", "atlas", "shelf", "origin", "render", "fire", "trace",
    "changes",
];

/// One of several forms.
fn either<const N: usize>(forms: [schemars::Schema; N]) -> Value {
    let mut definitions = Map::new();
    let forms = forms.map(|form| {
        let mut form = form.to_value();
        if let Some(table) = form.as_object_mut() {
            table.remove("$schema");
            if let Some(Value::Object(inner)) = table.remove("$defs") {
                definitions.extend(inner);
            }
        }
        form
    });
    json!({ "$schema": DIALECT, "anyOf": forms.to_vec(), "$defs": definitions })
}

fn form(name: &str, theme: Option<&Registry>) -> Option<Value> {
    match Form::from_word(name) {
        Some(form) => Some(form.schema(theme)),
        None => output(name),
    }
}

fn names() -> Vec<&'static str> {
    Form::ALL.iter().map(|form| form.word()).chain(OUTPUTS).collect()
}

pub fn run(args: &SchemaArgs) -> Result<Outcome> {
    let theme = args.of.as_deref().map(workshop::open).transpose()?;
    let wanted: Vec<&str> = match args.name.as_deref() {
        None | Some("all") => names(),
        Some(name) => match form(name, None) {
            Some(_) => vec![name],
            None => {
                let near = nearest(name, names().into_iter().chain(WRITING)).map(str::to_string);
                bail!("there is no schema {name}{}; there are {}", hint(&near), names().join(", "));
            }
        },
    };
    let made = wanted.iter().filter_map(|name| Some((name.to_string(), form(name, theme.as_ref())?)));
    let made: Vec<(String, Value)> = made.collect();
    match (&args.into, made.as_slice()) {
        (Some(into), made) => written(into, made)?,
        (None, [(_, one)]) => print(text(one)?.as_bytes())?,
        (None, many) => print(text(&whole(many))?.as_bytes())?,
    }
    Ok(theme.as_ref().map_or(Outcome::Clean, |theme| workshop::outcome(theme, true)))
}

fn text(schema: &Value) -> Result<String> {
    Ok(serde_json::to_string_pretty(schema)? + "\n")
}

fn written(into: &Utf8Path, made: &[(String, Value)]) -> Result<()> {
    std::fs::create_dir_all(into).with_context(|| format!("{into} can't be made"))?;
    for (name, schema) in made {
        edit::save(&into.join(format!("{name}.json")), text(schema)?.as_bytes())?;
    }
    let names: Vec<String> = made.iter().map(|(name, _)| format!("{name}.json")).collect();
    print(format!("{} in {into}\n", names.join(", ")).as_bytes())
}

/// All in one document: each under its name, with what it refers to.
fn whole(many: &[(String, Value)]) -> Value {
    let mut definitions = Map::new();
    for (name, schema) in many {
        let mut schema = schema.clone();
        let prefix = format!("#/$defs/{name}/$defs/");
        refer(&mut schema, &prefix);
        definitions.insert(name.clone(), schema);
    }
    json!({ "$schema": DIALECT, "title": "What True Hook reads and prints", "$defs": definitions })
}

/// Points references of a document at where its definitions are in the whole.
fn refer(schema: &mut Value, prefix: &str) {
    match schema {
        Value::Object(table) => {
            table.remove("$schema");
            for (key, inner) in table.iter_mut() {
                match inner {
                    Value::String(target) if key == "$ref" => {
                        if let Some(name) = target.strip_prefix("#/$defs/") {
                            *target = format!("{prefix}{name}");
                        }
                    }
                    inner => refer(inner, prefix),
                }
            }
        }
        Value::Array(all) => all.iter_mut().for_each(|inner| refer(inner, prefix)),
        _ => {}
    }
}
