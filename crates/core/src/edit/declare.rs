//! What a new declaration comes with: a label, the template of a component or the stub of what renders it, the
//! file of a style or script.

use camino::Utf8PathBuf;

use super::{EditError, Plan, manifest, module};
use crate::address::{Address, Kind};
use crate::link::{Registry, component_template};
use crate::read::FileKind;
use crate::scan::{CallRef, Prefix};
use crate::source::{At, Edit, FileId};

/// Declares several points in the checked theme, each as [`declare`] does.
///
/// # Errors
/// As [`declare`].
pub fn declare_all(registry: &Registry, addresses: &[Address], keys: &[(String, String)]) -> Result<Plan, EditError> {
    let mut plan = Plan::default();
    for address in addresses {
        let mut next = declare(registry, *address, keys)?;
        // What comes to the same place is one insertion, in the order in which it was asked for.
        next.edits.retain(|edit| {
            let same = |known: &&mut Edit| {
                edit.span.start == edit.span.end && (known.file, known.span) == (edit.file, edit.span)
            };
            let known = plan.edits.iter_mut().find(same);
            let is_new = known.is_none();
            known.into_iter().for_each(|known| known.new.push_str(&edit.new));
            is_new
        });
        plan.join(next);
    }
    Ok(plan)
}

/// Declares a point in the checked theme, with what it needs to exist, as far as that isn't there yet. Keys come
/// as they are to stand in the manifest: `label`, `inputs.days.type`. Where the theme declares it already, these keys
/// of it are set, and those without a value taken away.
///
/// # Errors
/// Where the manifest or a module can't be edited, or a key is none.
pub fn declare(registry: &Registry, address: Address, keys: &[(String, String)]) -> Result<Plan, EditError> {
    let mut plan = Plan::default();
    let mut keys = keys.to_vec();
    let has = |keys: &[(String, String)], word: &str| keys.iter().any(|(key, _)| key == word);
    let known = registry.point(address).filter(|point| !point.declared.is_empty());
    if address.kind.is_labelled() && !has(&keys, "label") && known.is_none() {
        keys.insert(0, ("label".into(), in_words(last_name(address))));
    }
    let dropped = keys.iter().any(|(key, value)| key == "dropped" && value == "true");
    if address.kind.is_component() && known.and_then(|point| point.renderer).is_none() && !dropped {
        match keys.iter().find(|(key, _)| key == "render") {
            Some((_, render)) => {
                let call = CallRef::parse(render.trim_matches(['"', '\'']), At::default());
                if let Some(call) = call.filter(|call| call.prefix == Prefix::None) {
                    module::add_renderer(registry, address, &call, &inputs_of(&keys), &mut plan)?;
                }
            }
            None => {
                let path = Utf8PathBuf::from("markup").join(component_template(address));
                let mut inputs = inputs_of(&keys);
                let declared = known.map(|point| point.inputs.as_slice()).unwrap_or_default();
                for input in declared.iter().map(|input| input.field.name.to_string()) {
                    if !inputs.contains(&input) {
                        inputs.push(input);
                    }
                }
                let holds = keys.iter().any(|(key, value)| key == "holds" && value != "[]")
                    || known.is_some_and(|point| !point.holds.is_empty());
                create(registry, &mut plan, path, component(address, &inputs, holds));
            }
        }
    }
    if let Some((ending, text)) = of_asset(address).filter(|_| known.is_none() && !dropped) {
        if !has(&keys, "file") {
            keys.push(("file".into(), format!("{}.{ending}", address.name)));
        }
        let file = keys.iter().find(|(key, _)| key == "file").map(|(_, file)| file.trim_matches(['"', '\'']));
        let plain = |file: &&str| !file.contains([':', '\\']) && !file.split('/').any(|part| matches!(part, "" | ".."));
        if let Some(file) = file.filter(plain) {
            create(registry, &mut plan, Utf8PathBuf::from("media").join(file), text);
        }
    }
    let top = registry.project().top();
    // A template that is a file declares itself; what is said of it stands in a manifest.
    let in_manifest = |file: FileId| registry.project().file(file).kind == FileKind::Manifest;
    let declared = registry.point(address).map(|point| point.declared.as_slice()).unwrap_or_default();
    let own = declared.iter().find(|declared| declared.layer == top && in_manifest(declared.place.file));
    match own {
        None => plan.edits.push(manifest::declare(registry.project(), address, &keys)?),
        Some(own) => plan.edits.extend(manifest::change(registry.project(), own.place.file, address, &keys)?),
    }
    Ok(plan)
}

/// A file of the checked theme, where none of its layers has it.
fn create(registry: &Registry, plan: &mut Plan, path: Utf8PathBuf, text: String) {
    let project = registry.project();
    let media = |path: &Utf8PathBuf| project.layers.iter().any(|layer| layer.media.iter().any(|known| known == path));
    if !project.files.iter().any(|file| file.path == path) && !media(&path) {
        plan.created.push((path, text));
    }
}

/// The last part of a point's name: of `spotlight/caption`, what stands behind the stroke.
fn last_name(address: Address) -> &'static str {
    let name = address.name.as_str();
    name.rsplit('/').next().unwrap_or(name)
}

/// A name in words: `small-print` is "Small print".
pub fn in_words(name: &str) -> String {
    let words = name.replace(['-', '_'], " ");
    let mut letters = words.chars();
    letters.next().map(|first| first.to_uppercase().chain(letters).collect()).unwrap_or_default()
}

/// The inputs that the keys of a declaration name, in their order.
fn inputs_of(keys: &[(String, String)]) -> Vec<String> {
    let mut found: Vec<String> = Vec::new();
    for (key, _) in keys {
        let mut parts = key.split('.');
        if let (Some("inputs"), Some(name)) = (parts.next(), parts.next())
            && !found.iter().any(|known| known == name)
        {
            found.push(name.to_string());
        }
    }
    found
}

/// The ending of a style's or script's file, and the text of one that was just declared.
pub(super) fn of_asset(address: Address) -> Option<(&'static str, String)> {
    match address.kind {
        Kind::Style => Some(("css", format!("/* {} */\n", in_words(last_name(address))))),
        Kind::Script => Some(("js", format!("// {}\n", in_words(last_name(address))))),
        _ => None,
    }
}

/// The template of a component that was just declared: it prints what it is given, and what it holds.
pub(super) fn component(address: Address, inputs: &[String], holds: bool) -> String {
    let mut text = format!("<div class=\"{}\">\n", last_name(address));
    for input in inputs {
        text.push_str(&format!("  {{% if {input} %}}<p>{{{{ {input} }}}}</p>{{% endif %}}\n"));
    }
    if holds {
        text.push_str("  {{ place(\"held\") }}\n");
    }
    if inputs.is_empty() && !holds {
        text.push_str(&format!("  <p>{}</p>\n", in_words(last_name(address))));
    }
    text.push_str("</div>\n");
    text
}
