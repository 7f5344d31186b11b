//! Files that a file names, as links.

use camino::Utf8Path;
use lsp_types::{DocumentLink, DocumentLinkParams, Uri};
use truehook_core::link::{Link, Outcome, Registry, Target};

use crate::paths::uri_of;
use crate::world::World;

/// The links of a file.
pub fn links(world: &World, params: DocumentLinkParams) -> Option<Vec<DocumentLink>> {
    let (theme, file) = world.find(&params.text_document.uri)?;
    let registry = &theme.registry;
    let ruler = world.ruler(registry, file);
    let text = registry.project().file(file).text();
    let here = registry.references().iter().filter(|reference| reference.from.file == file);
    let mut found: Vec<DocumentLink> = here
        .filter_map(|reference| {
            let Outcome::Found(target) = reference.outcome else { return None };
            // A component's name stands for its template, but is no path.
            if reference.link == Link::ComponentToTemplate {
                return None;
            }
            let span = registry.span(reference.from).unquoted(text);
            let target = address(world, registry, target)?;
            Some(DocumentLink { range: ruler.range(span), target: Some(target), tooltip: None, data: None })
        })
        .filter(|link| link.range.start != link.range.end)
        .collect();
    found.dedup();
    Some(found)
}

fn address(world: &World, registry: &Registry, target: Target) -> Option<Uri> {
    match target {
        Target::File(file) => world.uri(registry, file),
        // Where it lies, whole.
        Target::Media(path) => uri_of(Utf8Path::new(path.as_str())),
        Target::Layer(layer) => world.uri(registry, registry.project().layer(layer).manifest),
        _ => None,
    }
}
