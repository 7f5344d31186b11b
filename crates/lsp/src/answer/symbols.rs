//! What there is in a file, and in all themes.

use lsp_types::{
    DocumentSymbol, DocumentSymbolParams, DocumentSymbolResponse, Location, SymbolInformation, SymbolKind,
    WorkspaceSymbolParams, WorkspaceSymbolResponse,
};
use truehook_core::address::Kind;
use truehook_core::link::Registry;
use truehook_core::scan::{Attached, ManifestShape, Shape, Verb};
use truehook_core::source::{At, FileId, Span};

use crate::place::Ruler;
use crate::world::World;

/// How many are told of at most.
const MOST: usize = 500;

/// What there is in a file, in its order.
pub fn document(world: &World, params: DocumentSymbolParams) -> Option<DocumentSymbolResponse> {
    let (theme, file) = world.find(&params.text_document.uri)?;
    let registry = &theme.registry;
    let ruler = world.ruler(registry, file);
    let found = symbols(registry, file, &ruler);
    if world.client.nested_symbols {
        return Some(DocumentSymbolResponse::Nested(found));
    }
    let uri = params.text_document.uri;
    let mut flat = Vec::new();
    flatten(&found, None, &uri, &mut flat);
    Some(DocumentSymbolResponse::Flat(flat))
}

fn flatten(symbols: &[DocumentSymbol], within: Option<&str>, uri: &lsp_types::Uri, flat: &mut Vec<SymbolInformation>) {
    for symbol in symbols {
        let location = Location { uri: uri.clone(), range: symbol.selection_range };
        flat.push(information(symbol.name.clone(), symbol.kind, location, within.map(str::to_string)));
        flatten(symbol.children.as_deref().unwrap_or_default(), Some(&symbol.name), uri, flat);
    }
}

fn information(
    name: String,
    kind: SymbolKind,
    location: Location,
    container_name: Option<String>,
) -> SymbolInformation {
    // The old word for a tag still has to be said.
    #[allow(deprecated)]
    SymbolInformation { name, kind, tags: None, deprecated: None, location, container_name }
}

/// What a kind of point is in the words that editors have.
fn kind_of(kind: Kind) -> SymbolKind {
    match kind {
        Kind::Hook | Kind::Filter => SymbolKind::EVENT,
        Kind::Region | Kind::Area | Kind::Menu => SymbolKind::ARRAY,
        Kind::Partial | Kind::Section | Kind::Piece | Kind::Template => SymbolKind::CLASS,
        Kind::Feature => SymbolKind::MODULE,
        Kind::Style | Kind::Script | Kind::Bundle => SymbolKind::FILE,
        Kind::Option => SymbolKind::PROPERTY,
    }
}

fn symbols(registry: &Registry, file: FileId, ruler: &Ruler<'_>) -> Vec<DocumentSymbol> {
    let facts = registry.facts(file);
    let mut found: Vec<(Span, String, SymbolKind, Option<String>)> = Vec::new();
    let mut note = |at: At, name: String, kind: SymbolKind, detail: Option<String>| {
        found.push((facts.span(at), name, kind, detail));
    };
    match &facts.shape {
        Shape::Manifest(shape) => of_manifest(shape, &mut note),
        Shape::Template(shape) => {
            for block in shape.sections.iter().flat_map(|section| &section.blocks) {
                note(block.at, format!("block {}", block.name), SymbolKind::NAMESPACE, None);
            }
            for used in &shape.uses {
                let verb = match used.verb {
                    Verb::Place => "place",
                    Verb::Through => "through",
                    Verb::Filled => "filled",
                    Verb::With => "with",
                };
                note(used.point.at, format!("{verb} {}", used.point.raw), SymbolKind::EVENT, None);
            }
            for outlet in &shape.outlets {
                note(outlet.at, "outlet".to_string(), SymbolKind::ARRAY, None);
            }
        }
        Shape::Module(shape) => {
            for export in &shape.exports {
                let kind = if export.no_function { SymbolKind::VARIABLE } else { SymbolKind::FUNCTION };
                note(export.at, export.name.to_string(), kind, None);
            }
        }
        Shape::Site(shape) => {
            for fill in &shape.fills {
                note(fill.to.at, format!("fill {}", fill.to.raw), SymbolKind::ARRAY, None);
            }
            for menu in &shape.menus {
                note(menu.at, format!("menu {}", menu.name), SymbolKind::ARRAY, None);
            }
            for option in &shape.options {
                note(option.name.at, format!("option {}", option.name.name), SymbolKind::PROPERTY, None);
            }
        }
        Shape::Page(shape) => {
            if let Some(path) = shape.path {
                note(path.at, format!("page {}", path.name), SymbolKind::FILE, None);
            }
            for section in &shape.sections {
                note(section.component.at, section.component.raw.to_string(), SymbolKind::CLASS, None);
            }
        }
        Shape::Words(shape) => {
            for entry in &shape.entries {
                note(entry.at, entry.id.to_string(), SymbolKind::STRING, None);
            }
        }
        Shape::Style(_) | Shape::Script(_) | Shape::Body(_) | Shape::Opaque => {}
    }
    found.sort_by_key(|(span, ..)| *span);
    nested(found.into_iter().map(|(span, name, kind, detail)| symbol(ruler.range(span), name, kind, detail)).collect())
}

/// What a manifest says, each with its place, name and kind, and a few words.
fn of_manifest(shape: &ManifestShape, note: &mut impl FnMut(At, String, SymbolKind, Option<String>)) {
    if let Some(identity) = &shape.identity {
        let name = identity.name.map(|name| name.name.to_string()).unwrap_or_default();
        note(identity.at, format!("{} {name}", identity.role.word()), SymbolKind::NAMESPACE, None);
    }
    for declaration in &shape.declarations {
        let label = declaration.label.map(|label| label.to_string());
        note(declaration.at, declaration.address.to_string(), kind_of(declaration.address.kind), label);
        for field in declaration.inputs.iter().chain(&declaration.args) {
            let word = field.type_word().map(str::to_string);
            note(field.at, format!("{}.{}", declaration.address, field.name), SymbolKind::FIELD, word);
        }
    }
    for attachment in &shape.attachments {
        let what = match attachment.what {
            Attached::Call(call) => call.raw,
            Attached::Use(point) => point.raw,
        };
        let name = format!("{what} → {}", attachment.to.raw);
        note(attachment.at, name, SymbolKind::METHOD, Some(attachment.priority.to_string()));
    }
    for detachment in &shape.detachments {
        let name = format!("without {}", detachment.what.name);
        note(detachment.at, name, SymbolKind::METHOD, Some(detachment.from.raw.to_string()));
    }
    for replacement in &shape.replacements {
        let name = format!("{} in place of {}", replacement.with.raw, replacement.call.name);
        note(replacement.with.at, name, SymbolKind::METHOD, None);
    }
    for page_type in &shape.types {
        note(page_type.name.at, format!("type {}", page_type.name.name), SymbolKind::ENUM_MEMBER, None);
    }
}

fn symbol(range: lsp_types::Range, name: String, kind: SymbolKind, detail: Option<String>) -> DocumentSymbol {
    #[allow(deprecated)]
    DocumentSymbol { name, detail, kind, tags: None, deprecated: None, range, selection_range: range, children: None }
}

/// What lies within another one becomes part of it; a field goes to its point.
fn nested(all: Vec<DocumentSymbol>) -> Vec<DocumentSymbol> {
    let mut found: Vec<DocumentSymbol> = Vec::new();
    for mut symbol in all {
        let holder = found.iter_mut().rev().find(|held| {
            let field = symbol.kind == SymbolKind::FIELD && symbol.name.starts_with(&format!("{}.", held.name));
            let within = held.range.end >= symbol.range.end && held.range != symbol.range;
            field || within && held.range.start <= symbol.range.start
        });
        match holder {
            Some(holder) => {
                if let Some(rest) = symbol.name.strip_prefix(&format!("{}.", holder.name)) {
                    symbol.name = rest.to_string();
                }
                holder.range.end = holder.range.end.max(symbol.range.end);
                holder.children.get_or_insert_default().push(symbol);
            }
            None => found.push(symbol),
        }
    }
    found
}

/// Points, callbacks and templates of all themes, by a part of their names.
pub fn workspace(world: &World, params: WorkspaceSymbolParams) -> Option<WorkspaceSymbolResponse> {
    let wanted = params.query.to_lowercase();
    let fits = |name: &str| {
        // All letters, in their order.
        let name = name.to_lowercase();
        let mut letters = name.chars();
        wanted.chars().all(|letter| letters.any(|known| known == letter))
    };
    let mut found = Vec::new();
    for theme in &world.themes {
        let registry = &theme.registry;
        let top = registry.project().top();
        let within = theme.folder.file_name().map(str::to_string);
        for point in registry.points().filter(|point| fits(&point.address.to_string())) {
            let own = point.declared.iter().find(|declared| declared.layer == top);
            let Some(declared) = own else { continue };
            let span = registry.span(declared.place);
            let location = world.location(registry, declared.place.file, span);
            let name = point.address.to_string();
            found.extend(
                location.map(|location| information(name, kind_of(point.address.kind), location, within.clone())),
            );
        }
        for (file, source) in registry.project().files_of(top) {
            for export in registry.module(file).map(|module| module.exports.as_slice()).unwrap_or_default() {
                let name = format!("{}#{}", source.name(), export.name);
                let location = world.location(registry, file, registry.facts(file).span(export.at));
                let location = location.filter(|_| fits(&name));
                found
                    .extend(location.map(|location| information(name, SymbolKind::FUNCTION, location, within.clone())));
            }
            if registry.template(file).is_some() && fits(source.name()) {
                let location = world.location(registry, file, Span::default());
                let name = source.name().to_string();
                found.extend(location.map(|location| information(name, SymbolKind::FILE, location, within.clone())));
            }
        }
    }
    found.truncate(MOST);
    Some(WorkspaceSymbolResponse::Flat(found))
}
