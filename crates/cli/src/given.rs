//! Values as people type them: `days=2`.

use anyhow::{Result, bail};
use serde_json::Value;
use truehook_core::link::Said;
use truehook_core::names::{hint, nearest};
use truehook_core::schema::misfit;

/// The inputs or arguments of a point as they were typed, each as what it is declared to be. Others may be given
/// too, each with what it may be, where that is said.
pub fn to_point(point: &Said, typed: &[&str], also: &[(&str, Option<&Value>)]) -> Result<Vec<(String, Value)>> {
    let mut given: Vec<(String, Value)> = Vec::new();
    let address = point.address;
    for pair in typed {
        let Some((name, text)) = pair.split_once('=') else { bail!("`{pair}` is no NAME=VALUE, as in days=2") };
        let declared = point.passed().iter().find(|input| input.field.name == *name).map(|input| &*input.field.schema);
        let further = || also.iter().find(|(known, _)| *known == name).map(|(_, schema)| *schema);
        let Some(schema) = declared.map(Some).or_else(further) else {
            let known = point.passed().iter().map(|input| input.field.name.as_str());
            let known: Vec<&str> = known.chain(also.iter().map(|(name, _)| *name)).collect();
            let there = if known.is_empty() {
                "it takes nothing".to_string()
            } else {
                format!("it takes {}", known.join(", "))
            };
            bail!("{address} takes no `{name}`{}; {there}", hint(&nearest(name, known.iter().copied())));
        };
        let value = typed_value(text, schema);
        if let Some(wrong) = schema.and_then(|schema| misfit(schema, &value)) {
            bail!("`{name}` does not fit: {}", wrong.message);
        }
        match given.iter_mut().find(|(known, _)| known == name) {
            Some((_, held)) => *held = value,
            None => given.push((name.to_string(), value)),
        }
    }
    Ok(given)
}

/// A value as it was typed: a text where one belongs there, else JSON where it is some.
pub fn typed_value(text: &str, schema: Option<&Value>) -> Value {
    let word = schema.and_then(|schema| schema.get("type")?.as_str());
    if matches!(word, Some("string" | "markup")) {
        return Value::from(text);
    }
    serde_json::from_str(text).unwrap_or_else(|_| Value::from(text))
}
