//! `declare`: adds the declaration of a point to the manifest.

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_core::address::Kind;
use truehook_core::edit::declare;

use crate::Outcome;
use crate::args::DeclareArgs;
use crate::workshop;

pub fn run(theme: Option<&Utf8Path>, args: &DeclareArgs) -> Result<Outcome> {
    let address = workshop::address(&args.address)?;
    let (registry, lock) = workshop::open_to_edit(theme, &args.edit)?;
    if workshop::is_blind(&registry) {
        return Ok(Outcome::Findings);
    }
    let top = registry.project().top();
    let own = registry.point(address).and_then(|point| point.declared.iter().find(|declared| declared.layer == top));
    if own.is_some() && address.kind != Kind::Template {
        bail!("{address} is declared in this theme already; truehook show {address}");
    }
    let mut keys = Vec::new();
    for (key, value) in [("label", &args.label), ("about", &args.about)] {
        keys.extend(value.iter().map(|value| (key.to_string(), quote(value))));
    }
    for pair in &args.keys {
        let Some((key, value)) = pair.split_once('=') else {
            bail!("`{pair}` is no KEY=VALUE, as in inputs.days.type=integer");
        };
        keys.push((key.to_string(), value.to_string()));
    }
    let plan = declare::declare(&registry, address, &keys)?;
    workshop::carry_out(&registry, &plan, &[address], lock)?;
    Ok(Outcome::Clean)
}

/// A label is a string, even where it looks like a number.
fn quote(text: &str) -> String {
    serde_json::Value::from(text).to_string()
}
