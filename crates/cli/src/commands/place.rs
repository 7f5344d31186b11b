//! `place`: puts points into a template, beside an element.

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_core::address::Kind;
use truehook_core::edit::{Plan, Position, Selector, template};

use crate::Outcome;
use crate::args::PlaceArgs;
use crate::workshop;

pub fn run(theme: Option<&Utf8Path>, args: &PlaceArgs) -> Result<Outcome> {
    let registry = workshop::open(&workshop::find_theme(theme)?)?;
    let (position, selector) = match (&args.before, &args.after, &args.inside) {
        (Some(selector), _, _) => (Position::Before, selector),
        (_, Some(selector), _) => (Position::After, selector),
        (_, _, Some(selector)) => (Position::Inside, selector),
        _ => bail!("say where: --before, --after or --inside an element"),
    };
    let mut points = Vec::new();
    for text in &args.addresses {
        let point = workshop::declared(&registry, text)?;
        match point.kind {
            kind if kind.is_placed() => points.push(point),
            Kind::Filter => {
                bail!("a filter isn't placed; write {{{{ value | through(\"{point}\") }}}} where the value is")
            }
            kind => bail!("a {kind} isn't placed; the page's type chooses it"),
        }
    }
    let parsed: Selector = selector.parse()?;
    let file = template::own_template(&registry, &args.template)?;
    let edit = template::place(&registry, file, &points, position, &parsed, selector)?;
    let plan = Plan { edits: vec![edit], created: Vec::new() };
    workshop::carry_out(&registry, &plan, &points, &args.edit)?;
    Ok(Outcome::Clean)
}
