//! Stubs of callbacks: functions of the right shape that pass on what they get.

use super::{EditError, Plan, line_end, with_line_ends_of};
use crate::address::{Address, Role};
use crate::link::Registry;
use crate::scan::CallRef;
use crate::source::{Edit, Span};

/// Adds a stub for a callback to a plan, where the checked theme has no such function yet. True
/// where one was added.
///
/// # Errors
/// Where the name can't be that of a function, or the module doesn't parse.
pub fn add_stub(registry: &Registry, point: Address, call: &CallRef, plan: &mut Plan) -> Result<bool, EditError> {
    let prints = point.kind.role() == Some(Role::Listener) && !registry.point(point).is_some_and(|at| at.moment);
    add(registry, call, prints, plan, |has_html| stub(registry, point, call.export.as_str(), has_html))
}

/// As [`add_stub`], for a function that renders a component with these inputs.
///
/// # Errors
/// As for [`add_stub`].
pub fn add_renderer(
    registry: &Registry,
    component: Address,
    call: &CallRef,
    inputs: &[String],
    plan: &mut Plan,
) -> Result<bool, EditError> {
    add(registry, call, true, plan, |has_html| {
        let name = component.name.as_str().rsplit('/').next().unwrap_or_default();
        let printed: String = inputs.iter().map(|input| format!("${{{input}}}")).collect::<Vec<_>>().join(" ");
        let body = match has_html {
            true => format!("html`<p class=\"{name}\">{printed}</p>`"),
            false => format!("`{printed}`"),
        };
        let export = &call.export;
        format!(
            "/** Renders {component}. */\nexport function {export}({{ {} }}) {{\n  return {body};\n}}\n",
            inputs.join(", ")
        )
        .replace("({  })", "()")
    })
}

/// Adds a function to a module of the checked theme, which may be new. `text` is asked with whether `html` is
/// there; a new module imports it where the function is one that prints.
fn add(
    registry: &Registry,
    call: &CallRef,
    prints: bool,
    plan: &mut Plan,
    text_of: impl Fn(bool) -> String,
) -> Result<bool, EditError> {
    let name = call.export.as_str();
    let is_name = name.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_' || c == '$')
        && name.chars().all(|c| c.is_ascii_alphanumeric() || c == '_' || c == '$');
    if !is_name {
        return Err(EditError::new(format!("`{name}` can't be the name of a function")));
    }
    let path = format!("code/{}", call.file);
    if !(path.ends_with(".js") || path.ends_with(".mjs")) || path.contains("..") || path.contains("//") {
        return Err(EditError::new(format!("`{}` is not a module; its name ends in .js", call.file)));
    }
    let top = registry.project().top();
    let Some(file) = registry.project().find(top, &path) else {
        let import = if prints { "import { html } from \"truehook\";\n\n" } else { "" };
        plan.created.push((path.into(), format!("{import}{}", text_of(true))));
        return Ok(true);
    };
    let module = registry.module(file).filter(|module| !module.broken);
    let Some(module) = module else {
        return Err(EditError::new(format!("{path} doesn't parse; mend that first (truehook check)")));
    };
    if module.exports.iter().any(|export| export.name == call.export) {
        return Ok(false);
    }
    let has_html = module
        .imports
        .iter()
        .any(|import| import.from.name == "truehook" && import.names.iter().any(|named| named.name == "html"));
    let text = registry.project().file(file).text();
    let end = line_end(text);
    let gap = match (text.trim().is_empty(), text.ends_with('\n')) {
        (true, _) => String::new(),
        (false, true) => end.to_string(),
        (false, false) => format!("{end}{end}"),
    };
    let new = format!("{gap}{}", with_line_ends_of(&text_of(has_html), text));
    plan.edits.push(Edit { file, span: Span::new(text.len(), text.len()), new });
    Ok(true)
}

fn stub(registry: &Registry, point: Address, name: &str, has_html: bool) -> String {
    let about = registry.point(point).and_then(|point| point.about).map(|about| about.to_string());
    let comment = about.map_or_else(|| format!("For {point}."), |about| format!("For {point}: {about}."));
    let comment = comment.replace("*/", "* /").replace("..", ".");
    let moment = registry.point(point).is_some_and(|point| point.moment);
    let body = match (point.kind.role(), has_html) {
        _ if moment => format!("({{ site }}) {{\n  site.store.set(\"{name}\", site.now);\n}}"),
        (Some(Role::Listener), true) => format!("({{ page, site, args }}) {{\n  return html`<p>{name}</p>`;\n}}"),
        (Some(Role::Listener), false) => format!("({{ page, site, args }}) {{\n  return \"{name}\";\n}}"),
        (Some(Role::Filter), _) => "(value, { args }) {\n  return value;\n}".into(),
        (Some(Role::Arranger), _) => "(items, { page }) {\n  return items;\n}".into(),
        (Some(Role::Preparer) | None, _) => "(inputs, { page }) {\n  return { ...inputs };\n}".into(),
    };
    format!("/** {comment} */\nexport function {name}{body}\n")
}
