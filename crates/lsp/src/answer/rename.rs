//! New names: what `rename` does, in the theme whose file it is, and in others of the workspace where people agree.

use lsp_server::ErrorCode;
use lsp_types::{PrepareRenameResponse, RenameParams, TextDocumentPositionParams};
use truehook_core::edit::rename::{follow, rename};
use truehook_core::link::{Callback, Registry, Target};
use truehook_core::mentions::Mention;
use truehook_core::read::FileKind;

use crate::answer::edits::Gathered;
use crate::answer::goto::targets;
use crate::answer::{Answer, Answered, Aside};
use crate::theme::Theme;
use crate::world::{Spot, World};

/// Can what stands there get another name? Its range, and how it is called.
pub fn prepare(world: &World, params: TextDocumentPositionParams) -> Result<Option<PrepareRenameResponse>, String> {
    let Some(spot) = world.spot(&params.text_document.uri, params.position) else { return Ok(None) };
    let Some((mention, _)) = named(&spot) else { return Ok(None) };
    let registry = &spot.theme.registry;
    let range = world.ruler(registry, spot.file).range(mention.span);
    let written = &registry.project().file(spot.file).text()[mention.span.range()];
    Ok(Some(PrepareRenameResponse::RangeWithPlaceholder { range, placeholder: written.to_string() }))
}

/// What stands there, and how `rename` calls it.
fn named(spot: &Spot<'_>) -> Option<(Mention, String)> {
    let registry = &spot.theme.registry;
    targets(spot).into_iter().find_map(|mention| {
        let name = name_of(registry, mention.target)?;
        Some((mention, name))
    })
}

fn name_of(registry: &Registry, target: Target) -> Option<String> {
    Some(match target {
        Target::Point(address) => address.to_string(),
        Target::Input(address, name) => format!("{address}.{name}"),
        Target::Export(file, export) => {
            // Seen from its own layer, it needs no prefix.
            let name = registry.callback_name(Callback { file, export });
            name.rsplit(':').next().unwrap_or(&name).to_string()
        }
        Target::File(file) if registry.project().file(file).kind == FileKind::Template => {
            registry.project().file(file).name().to_string()
        }
        _ => return None,
    })
}

/// The folder of the layer that declares it.
fn home(registry: &Registry, target: Target) -> Option<&camino::Utf8Path> {
    let layer = match target {
        Target::Point(address) => registry.point(address)?.declared.first()?.layer,
        Target::Input(..) => {
            let place = truehook_core::rules::target_place(registry, target)?;
            registry.layer_of(place)
        }
        Target::Export(file, _) | Target::File(file) => registry.project().file(file).layer,
        _ => return None,
    };
    let layer = registry.project().layer(layer);
    (!layer.built_in).then_some(layer.root.as_path())
}

/// Gives something another name, wherever it is spoken of.
pub fn change(world: &World, params: RenameParams) -> Answered {
    let mut asides = Vec::new();
    let result = changed(world, params, &mut asides).map_err(|message| (ErrorCode::RequestFailed, message));
    Answered { result: result.and_then(encode), asides }
}

fn encode(edit: lsp_types::WorkspaceEdit) -> Answer {
    serde_json::to_value(edit).map_err(|error| (ErrorCode::InternalError, error.to_string()))
}

fn changed(world: &World, params: RenameParams, asides: &mut Vec<Aside>) -> Result<lsp_types::WorkspaceEdit, String> {
    let asked = &params.text_document_position;
    let spot = world.spot(&asked.text_document.uri, asked.position).ok_or("this file is of no theme")?;
    let (mention, from) = named(&spot).ok_or("nothing stands here whose name could be changed")?;
    let to = full(&from, &params.new_name);
    // What a lower layer declares is renamed there, where the workspace has it.
    let folder = home(&spot.theme.registry, mention.target);
    let declaring = folder.and_then(|folder| world.themes.iter().find(|theme| theme.folder == folder));
    let theme = declaring.unwrap_or(spot.theme);
    // What was known before a manifest broke says nothing of where things stand in it now.
    if theme.held.is_some() || spot.theme.held.is_some() {
        return Err("a manifest names layers that can't be followed; mend that first".to_string());
    }
    let renaming = rename(&theme.registry, &from, &to).map_err(|error| error.to_string())?;
    let mut gathered = Gathered::new(world);
    gathered.plan(&theme.registry, &renaming.plan, None)?;
    let mut told = renaming.told;
    let others = world.themes.iter().filter(|other| other.folder != theme.folder && uses(other, theme));
    let mut left = Vec::new();
    for other in others {
        let followed = follow(&other.registry, &theme.folder, &from, &to).map_err(|error| error.to_string())?;
        if followed.plan.edits.is_empty() && followed.plan.created.is_empty() {
            continue;
        }
        let name = other.folder.file_name().unwrap_or_default().to_string();
        if world.client.annotations && other.held.is_none() {
            let about =
                format!("{name} builds on {}, and speaks of `{from}`", theme.folder.file_name().unwrap_or_default());
            gathered.annotate(&name, &format!("also in {name}"), &about);
            gathered.plan(&other.registry, &followed.plan, Some(&name))?;
        } else {
            left.push(name);
        }
    }
    // What was said of places in a lower layer is about those that follow.
    told.retain(|line| !line.contains(" stays as it is: "));
    if !left.is_empty() {
        told.push(format!("{} speak of `{from}`, too, and stay as they are", left.join(", ")));
    }
    if !told.is_empty() {
        let message = serde_json::json!({ "type": 3, "message": told.join("\n") });
        asides.push(Aside::Tell("window/showMessage", message));
    }
    Ok(gathered.edit())
}

/// Does a theme have another one among its layers?
fn uses(theme: &Theme, below: &Theme) -> bool {
    theme.registry.project().layers.iter().any(|layer| layer.root == below.folder)
}

/// A new name in the form of the old one, however it was typed.
fn full(from: &str, typed: &str) -> String {
    let typed = typed.trim();
    let (head, end) = match from {
        _ if from.contains('#') => (from.split('#').next().unwrap_or_default(), '#'),
        _ if from.ends_with(".html") => return typed.strip_prefix("markup/").unwrap_or(typed).to_string(),
        _ if from.contains('.') => (from.split('.').next().unwrap_or_default(), '.'),
        _ => (from.split(':').next().unwrap_or_default(), ':'),
    };
    match typed.rsplit_once(end) {
        // A whole address where only a name of one was asked for.
        Some(_) => typed.to_string(),
        None if from.contains('/') && end == ':' => {
            let holder = from.rsplit_once('/').map_or(from, |(holder, _)| holder);
            match typed.contains('/') {
                true => format!("{head}:{typed}"),
                false => format!("{holder}/{typed}"),
            }
        }
        None => format!("{head}{end}{typed}"),
    }
}
