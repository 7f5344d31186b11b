//! `place`: puts points into a template, beside an element.

use anyhow::{Result, bail};
use camino::Utf8Path;
use truehook_core::address::Kind;
use truehook_core::edit::{Plan, Position, Selector, template};
use truehook_core::scan::OutletKind;

use crate::Outcome;
use crate::args::PlaceArgs;
use crate::workshop;

pub fn run(theme: Option<&Utf8Path>, args: &PlaceArgs) -> Result<Outcome> {
    let (registry, lock) = workshop::open_to_edit(theme, &args.edit)?;
    if workshop::is_blind(&registry) {
        return Ok(Outcome::Findings);
    }
    let (position, selector) = match (&args.before, &args.after, &args.inside) {
        (Some(selector), _, _) => (Position::Before, selector),
        (_, Some(selector), _) => (Position::After, selector),
        (_, _, Some(selector)) => (Position::Inside, selector),
        _ => bail!("say where: --before, --after or --inside an element"),
    };
    let mut points = Vec::new();
    let mut written = Vec::new();
    for text in &args.addresses {
        written.push(text.clone());
        if OutletKind::from_word(text).is_some() {
            continue;
        }
        let point = workshop::declared(&registry, text)?;
        match point.kind {
            Kind::Hook if registry.point(point).is_some_and(|point| point.moment) => {
                bail!("{point} is a moment: the host fires it, and nothing places it")
            }
            kind if kind.is_placed() => points.push(point),
            Kind::Filter => {
                bail!("a filter isn't placed; write {{{{ value | through(\"{point}\") }}}} where the value is")
            }
            Kind::Option => bail!("an option isn't placed; write {{{{ options.{} }}}}", point.name),
            kind => bail!("a {kind} isn't placed; the page's type chooses it"),
        }
    }
    let parsed: Selector = selector.parse()?;
    let file = template::own_template(&registry, &args.template)?;
    let edit = template::place(&registry, file, &written, position, &parsed, selector)?;
    let plan = Plan { edits: vec![edit], created: Vec::new() };
    workshop::carry_out(&registry, &plan, &points, lock)?;
    Ok(Outcome::Clean)
}
