//! `declare`: adds the declaration of a point to the manifest.

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_core::address::Kind;
use truehook_core::command_line;
use truehook_core::edit::declare;

use crate::Outcome;
use crate::args::DeclareArgs;
use crate::workshop;
use crate::writing::{self, Work};

pub fn run(theme: Option<&Utf8Path>, args: &DeclareArgs) -> Result<Outcome> {
    let mut addresses = vec![workshop::address(&args.address)?];
    let mut keys = Vec::new();
    for (key, value) in [("label", &args.label), ("about", &args.about)] {
        keys.extend(value.iter().map(|value| (key.to_string(), quote(value))));
    }
    for pair in &args.keys {
        if !pair.contains('=') && pair.contains(':') {
            let address = workshop::address(pair)?;
            addresses.extend((!addresses.contains(&address)).then_some(address));
            continue;
        }
        let Some((key, value)) = pair.split_once('=') else {
            bail!("`{pair}` is no KEY=VALUE, as in inputs.days.type=integer");
        };
        keys.push((key.to_string(), value.to_string()));
    }
    writing::edit(theme, &args.edit, |registry| {
        let plan = declare::declare_all(registry, &addresses, &keys)?;
        let top = registry.project().top();
        for address in addresses.iter().copied() {
            let declared = registry.point(address).map(|point| point.declared.as_slice()).unwrap_or_default();
            let stands = declared.iter().any(|declared| declared.layer == top);
            // What lacks its template, or its file, gets that.
            if stands && keys.is_empty() && plan.created.is_empty() && address.kind != Kind::Template {
                bail!(
                    "{address} is declared in this theme already; KEY=VALUE changes that, KEY= takes a key away, and \
                     truehook show {address} tells what there is"
                );
            }
            if !stands && let Some((key, _)) = keys.iter().find(|(_, value)| value.is_empty()) {
                bail!(
                    "{address} is not declared in this theme, so there is no `{key}` to take away; {}",
                    command_line!["show", address]
                );
            }
        }
        Ok(Work::new(plan, addresses))
    })
}

/// A label is a string, even where it looks like a number.
fn quote(text: &str) -> String {
    serde_json::Value::from(text).to_string()
}
