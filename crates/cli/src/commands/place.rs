//! `place`: puts points into a template, beside an element or into a block.

use anyhow::{Result, bail};
use camino::Utf8Path;
use serde_json::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::edit::template::{self, Placement};
use truehook_core::edit::{self, Plan, Position, Selector};
use truehook_core::link::{MENU_ARGUMENTS, Registry};
use truehook_core::scan::OutletKind;

use crate::Outcome;
use crate::args::PlaceArgs;
use crate::writing::{self, Work};
use crate::{given, workshop};

pub fn run(theme: Option<&Utf8Path>, args: &PlaceArgs) -> Result<Outcome> {
    let at = position(args)?;
    let (given, addresses): (Vec<&str>, Vec<&str>) =
        args.addresses.iter().map(String::as_str).partition(|text| text.contains('='));
    match (addresses.len(), given.is_empty()) {
        (0, _) => bail!("say which point, as in region:aside"),
        (1, _) | (_, true) => {}
        _ => bail!("arguments go with one point; place {} by themselves", addresses.len()),
    }
    writing::edit(theme, &args.edit, |registry| {
        let mut points = Vec::new();
        let mut calls = Vec::new();
        for text in &addresses {
            let mut call = format!("{{{{ place(\"{text}\"");
            if OutletKind::from_word(text).is_none() {
                let point = placeable(registry, text)?;
                call.push_str(&arguments(registry, point, &given)?);
                points.push(point);
            }
            calls.push(call + ") }}");
        }
        let file = template::own_template(registry, &args.template)?;
        let block = args.block.clone();
        let new = Placement { file, calls, points: points.clone(), at, block, guard: args.guard };
        let plan = Plan::of(template::place(registry, &new)?);
        // Asked once that is known to work.
        let next = edit::beside_cell(registry, &new).ok().flatten().into_iter().collect();
        Ok(Work { next, ..Work::new(plan, points) })
    })
}

/// Beside which element.
fn position(args: &PlaceArgs) -> Result<Option<(Position, Selector)>> {
    let given = [
        (Position::Before, &args.before),
        (Position::After, &args.after),
        (Position::Inside, &args.inside),
        (Position::Instead, &args.instead),
    ];
    match given.into_iter().find_map(|(position, selector)| Some((position, selector.as_ref()?))) {
        Some((position, selector)) => Ok(Some((position, selector.parse()?))),
        None if args.block.is_some() || args.guard => Ok(None),
        None => bail!("say where: --before, --after, --inside or --instead an element, or at the end of a --block"),
    }
}

/// A point that can be placed.
fn placeable(registry: &Registry, text: &str) -> Result<Address> {
    let point = workshop::declared(registry, text)?;
    match point.kind {
        Kind::Hook if registry.point(point).is_some_and(|point| point.moment) => {
            bail!("{point} is a moment: the host fires it, and nothing places it")
        }
        kind if kind.is_placed() => Ok(point),
        Kind::Filter => bail!("a filter isn't placed; write {{{{ value | through(\"{point}\") }}}} where the value is"),
        Kind::Option => bail!("an option isn't placed; write {{{{ options.{} }}}}", point.name),
        kind => bail!("a {kind} isn't placed; the page's type chooses it"),
    }
}

/// Arguments as a placement passes them on: `, days=2`.
fn arguments(registry: &Registry, point: Address, typed: &[&str]) -> Result<String> {
    let Some(said) = registry.point(point) else { return Ok(String::new()) };
    let menu = if point.kind == Kind::Menu { MENU_ARGUMENTS.as_slice() } else { &[] };
    let also: Vec<(&str, Option<&Value>)> = menu.iter().map(|name| (*name, None)).collect();
    let given = given::to_point(said, typed, &also)?;
    let written = given.iter().map(|(name, value)| match value {
        Value::String(text) => format!(", {name}={}", template_text(text)),
        other => format!(", {name}={other}"),
    });
    Ok(written.collect())
}

/// A text as a template writes it.
fn template_text(text: &str) -> String {
    let escaped = text.replace('\\', "\\\\").replace('\n', "\\n").replace('\t', "\\t");
    match escaped.contains('"') && !escaped.contains('\'') {
        true => format!("'{escaped}'"),
        false => format!("\"{}\"", escaped.replace('"', "\\\"")),
    }
}
