//! From a mention of something to what it is, and to all other mentions.

use std::collections::HashSet;

use camino::Utf8Path;
use lsp_types::{
    DocumentHighlight, DocumentHighlightKind, DocumentHighlightParams, GotoDefinitionParams, GotoDefinitionResponse,
    Location, Position, Range, ReferenceParams,
};
use truehook_core::link::{Callback, Point, Registry, Renderer, Runs, Target};
use truehook_core::mentions::{self, Mention};
use truehook_core::rules::target_place;
use truehook_core::source::Span;

use crate::paths::uri_of;
use crate::world::{Spot, World};

/// What is spoken of at a place.
pub fn targets(spot: &Spot<'_>) -> Vec<Mention> {
    mentions::at(&spot.theme.registry, spot.file, spot.offset)
}

/// Where what is spoken of is declared, in the layer that counts.
pub fn definition(world: &World, params: GotoDefinitionParams) -> Option<GotoDefinitionResponse> {
    lead(world, params, |registry, target| {
        let declared = mentions::declarations(registry, target);
        declared.into_iter().take(1).collect()
    })
}

/// Where it is declared in all layers, the highest first.
pub fn declaration(world: &World, params: GotoDefinitionParams) -> Option<GotoDefinitionResponse> {
    lead(world, params, mentions::declarations)
}

/// What makes it: a point's callbacks in running order, and what renders it.
pub fn implementation(world: &World, params: GotoDefinitionParams) -> Option<GotoDefinitionResponse> {
    lead(world, params, |registry, target| match target {
        Target::Point(address) => registry.point(address).map(|point| makers(registry, point)).unwrap_or_default(),
        Target::Input(address, _) => registry.point(address).map(|point| makers(registry, point)).unwrap_or_default(),
        target => mentions::declarations(registry, target),
    })
}

fn makers(registry: &Registry, point: &Point) -> Vec<Mention> {
    let called = point.slots.iter().filter_map(|slot| match slot.runs {
        Runs::Callback(_, callback) => callback.map(export),
        Runs::Partial(address, _) => match registry.point(address)?.renderer? {
            Renderer::Template(file) => Some(Target::File(file)),
            Renderer::Callback(callback) => Some(export(callback)),
        },
    });
    let renders = point.renderer.map(|renderer| match renderer {
        Renderer::Template(file) => Target::File(file),
        Renderer::Callback(callback) => export(callback),
    });
    called.chain(renders).flat_map(|target| mentions::declarations(registry, target)).collect()
}

fn export(callback: Callback) -> Target {
    Target::Export(callback.file, callback.export)
}

fn lead(
    world: &World,
    params: GotoDefinitionParams,
    to: impl Fn(&Registry, Target) -> Vec<Mention>,
) -> Option<GotoDefinitionResponse> {
    let asked = params.text_document_position_params;
    let spot = world.spot(&asked.text_document.uri, asked.position)?;
    let registry = &spot.theme.registry;
    let found = targets(&spot).into_iter().flat_map(|mention| match mention.target {
        // What is not read is a place all the same: where it lies, whole.
        Target::Media(path) => {
            let start = Range { start: Position::new(0, 0), end: Position::new(0, 0) };
            uri_of(Utf8Path::new(path.as_str())).map(|uri| Location { uri, range: start }).into_iter().collect()
        }
        target => {
            let places = to(registry, target).into_iter();
            places.filter_map(|mention| world.location_of(registry, &mention)).collect::<Vec<_>>()
        }
    });
    let mut locations: Vec<Location> = found.collect();
    dedup(&mut locations);
    (!locations.is_empty()).then_some(GotoDefinitionResponse::Array(locations))
}

/// All mentions, in all themes of the workspace that have the file in one of their layers.
pub fn references(world: &World, params: ReferenceParams) -> Option<Vec<Location>> {
    let asked = &params.text_document_position;
    let (_, path) =
        world.find(&asked.text_document.uri).map(|(theme, file)| (theme, theme.registry.project().path_of(file)))?;
    let mut locations = Vec::new();
    // The theme whose own it is comes first.
    let own = world.spot(&asked.text_document.uri, asked.position)?;
    let others = world.themes.iter().filter(|theme| theme.folder != own.theme.folder);
    for theme in std::iter::once(own.theme).chain(others) {
        let Some(file) = theme.file_at(&path) else { continue };
        let spot = Spot { theme, file, offset: own.offset };
        for mention in targets(&spot) {
            let all = mentions::of(&theme.registry, mention.target).into_iter();
            let wanted = all.filter(|mention| params.context.include_declaration || !mention.declares);
            locations.extend(wanted.filter_map(|mention| world.location_of(&theme.registry, &mention)));
        }
    }
    dedup(&mut locations);
    (!locations.is_empty()).then_some(locations)
}

/// All mentions in the same file.
pub fn highlights(world: &World, params: DocumentHighlightParams) -> Option<Vec<DocumentHighlight>> {
    let asked = params.text_document_position_params;
    let spot = world.spot(&asked.text_document.uri, asked.position)?;
    let registry = &spot.theme.registry;
    let ruler = world.ruler(registry, spot.file);
    let all = targets(&spot).into_iter().flat_map(|mention| mentions::of(registry, mention.target));
    let mut spans: Vec<(Span, bool)> =
        all.filter(|mention| mention.file == spot.file).map(|mention| (mention.span, mention.declares)).collect();
    spans.sort();
    spans.dedup_by_key(|(span, _)| *span);
    let found: Vec<DocumentHighlight> = spans
        .into_iter()
        .map(|(span, declares)| DocumentHighlight {
            range: ruler.range(span),
            kind: Some(if declares { DocumentHighlightKind::WRITE } else { DocumentHighlightKind::READ }),
        })
        .collect();
    (!found.is_empty()).then_some(found)
}

/// Keeps the first of those that are alike.
fn dedup(locations: &mut Vec<Location>) {
    let mut seen = HashSet::with_capacity(locations.len());
    let key = |range: &Range| (range.start.line, range.start.character, range.end.line, range.end.character);
    locations.retain(|location| seen.insert((location.uri.as_str().to_string(), key(&location.range))));
}

/// Where a target is, as a mention of it.
pub fn place_of(registry: &Registry, target: Target) -> Option<Mention> {
    target_place(registry, target)?;
    mentions::declarations(registry, target).into_iter().next()
}
