//! What is said above a declaration: how often it is placed, what runs there, who gets to it.

use lsp_types::{CodeLens, CodeLensParams, Command, Position, Range};
use truehook_core::address::Kind;
use truehook_core::link::{Point, Registry};
use truehook_core::scan::Verb;
use truehook_core::view::PresenceView;

use crate::answer::SHOW;
use crate::answer::words::{count, times};
use crate::world::World;

/// The lenses of a manifest.
pub fn lenses(world: &World, params: CodeLensParams) -> Option<Vec<CodeLens>> {
    let (theme, file) = world.find(&params.text_document.uri)?;
    let registry = &theme.registry;
    let manifest = registry.manifest(file)?;
    let ruler = world.ruler(registry, file);
    let lenses = manifest.declarations.iter().filter_map(|declaration| {
        let point = registry.point(declaration.address)?;
        let title = told(registry, point)?;
        let line = ruler.range(registry.facts(file).span(declaration.at)).start.line;
        let at = Position::new(line, 0);
        let arguments = Some(vec![theme.folder.as_str().into(), declaration.address.to_string().into()]);
        let command = Command { title, command: SHOW.to_string(), arguments };
        Some(CodeLens { range: Range::new(at, at), command: Some(command), data: None })
    });
    Some(lenses.collect())
}

/// `placed 3 times · 4 callbacks · reached by every page`.
fn told(registry: &Registry, point: &Point) -> Option<String> {
    let kind = point.address.kind;
    let uses = |verbs: &[Verb]| point.uses.iter().filter(|id| verbs.contains(&registry.use_of(**id).verb)).count();
    let mut parts = Vec::new();
    match kind {
        Kind::Hook | Kind::Region | Kind::Area | Kind::Menu | Kind::Filter => {
            let number = uses(&[Verb::Place, Verb::Through, Verb::With]);
            parts.push(match (number, point.moment) {
                (0, true) => "fired by the host".to_string(),
                (0, false) => format!("{} nowhere", kind.verb()),
                (number, _) => format!("{} {}", kind.verb(), times(number)),
            });
        }
        Kind::Partial | Kind::Section | Kind::Piece => {
            let number = uses(&[Verb::Place, Verb::With]);
            if number > 0 {
                parts.push(format!("placed {}", times(number)));
            }
            if !point.items.is_empty() || number == 0 {
                parts.push(
                    match registry.items().iter().filter(|item| item.component == Some(point.address)).count() {
                        0 if number == 0 => "used nowhere".to_string(),
                        0 => String::new(),
                        items => format!("used {} as content", times(items)),
                    },
                );
            }
        }
        Kind::Option | Kind::Style | Kind::Script | Kind::Bundle | Kind::Template | Kind::Feature => {}
    }
    if kind.role().is_some() {
        parts.push(match point.slots.len() {
            0 => "no callbacks".to_string(),
            number => count(number, "callback"),
        });
    }
    if !point.fills.is_empty() {
        parts.push("filled".to_string());
    }
    let presence = PresenceView::of_point(registry, point);
    if !presence.is_nowhere() {
        parts.push(format!("reached by {}", presence.pages("pages of type ")));
    }
    parts.retain(|part| !part.is_empty());
    (!parts.is_empty()).then(|| parts.join(" · "))
}
