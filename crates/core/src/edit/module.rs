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

/// What a stub takes after.
#[derive(Clone, Debug, Default)]
pub struct Shaped {
    /// The parameters, with their parentheses.
    pub params: Option<String>,
    /// The callback in whose place it comes.
    pub like: Option<String>,
}

/// As [`add_stub`], for a function in the place of another one.
///
/// # Errors
/// As for [`add_stub`].
pub fn add_shaped(
    registry: &Registry,
    point: Address,
    call: &CallRef,
    shaped: &Shaped,
    plan: &mut Plan,
) -> Result<bool, EditError> {
    let renders = point.kind.is_component() && registry.point(point).is_none_or(|at| at.slots.is_empty());
    let prints =
        renders || point.kind.role() == Some(Role::Listener) && !registry.point(point).is_some_and(|at| at.moment);
    add(registry, call, prints, plan, |has_html| shaped_stub(registry, point, call.export.as_str(), shaped, has_html))
}

/// A stub in the place of another callback.
pub(super) fn shaped_stub(
    registry: &Registry,
    point: Address,
    export: &str,
    shaped: &Shaped,
    has_html: bool,
) -> String {
    let renders = point.kind.is_component() && registry.point(point).is_none_or(|at| at.slots.is_empty());
    let own = match renders {
        true => renderer(point, export, &[], has_html),
        false => stub(registry, point, export, has_html),
    };
    let about = shaped.like.as_ref().map(|like| format!("/** In the place of {like}. */"));
    let (comment, function) = own.split_once('\n').unwrap_or(("", &own));
    let function = shaped.params.as_ref().and_then(|params| with_params(function, params));
    let rest = own.split_once('\n').map_or("", |(_, rest)| rest);
    format!("{}\n{}", about.as_deref().unwrap_or(comment), function.as_deref().unwrap_or(rest))
}

/// A stub with other parameters, where its body needs none but those.
fn with_params(function: &str, params: &str) -> Option<String> {
    let open = function.find('(')?;
    let close = function.find(") {\n")?;
    let body = &function[close + 1..];
    // A body that passes on what comes first has to have it by that name.
    let first = function[open + 1..close].split([',', ' ']).next().unwrap_or_default();
    let passes_on = !first.is_empty() && !first.starts_with('{') && body.contains(first);
    let named = params.trim_start_matches('(').split([',', ' ', ')']).next().unwrap_or_default();
    let body = match passes_on {
        false => body.to_string(),
        true if named.chars().all(|c| c.is_ascii_alphanumeric() || c == '_' || c == '$') && !named.is_empty() => body
            .replace(&format!("return {first};"), &format!("return {named};"))
            .replace(&format!("...{first}"), &format!("...{named}")),
        true => return None,
    };
    let needs = ["site.", "page."].iter().any(|name| body.contains(name)) && !params.contains("site");
    (!needs).then(|| format!("{}{params}{body}", &function[..open]))
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
    add(registry, call, true, plan, |has_html| renderer(component, call.export.as_str(), inputs, has_html))
}

/// What a new module begins with where its function prints.
pub(super) const IMPORT: &str = "import { html } from \"truehook\";\n\n";

pub(super) fn renderer(component: Address, export: &str, inputs: &[String], has_html: bool) -> String {
    let name = component.name.as_str().rsplit('/').next().unwrap_or_default();
    let printed: String = inputs.iter().map(|input| format!("${{{input}}}")).collect::<Vec<_>>().join(" ");
    let body = match has_html {
        true => format!("html`<p class=\"{name}\">{printed}</p>`"),
        false => format!("`{printed}`"),
    };
    let inputs = inputs.join(", ");
    format!("/** Renders {component}. */\nexport function {export}({{ {inputs} }}) {{\n  return {body};\n}}\n")
        .replace("({  })", "()")
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
        let import = if prints { IMPORT } else { "" };
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
    let written = with_line_ends_of(&text_of(has_html), text);
    // A text without a last line end stays one.
    let bare = !text.is_empty() && !text.ends_with('\n');
    let new = format!("{gap}{}", if bare { written.trim_end_matches(['\r', '\n']) } else { &written });
    plan.edits.push(Edit { file, span: Span::new(text.len(), text.len()), new });
    Ok(true)
}

pub(super) fn stub(registry: &Registry, point: Address, name: &str, has_html: bool) -> String {
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
