//! Names of what there is: points, callbacks, files, types of pages.

use lsp_types::CompletionItemKind as Shape;
use truehook_core::address::{Address, Kind, Role};
use truehook_core::link::{Callback, Point, Registry, Runs};
use truehook_core::read::FileKind;
use truehook_core::source::{FileId, LayerId, Span};

use super::{Found, Item, Typing};
use crate::answer::words::ordinal;

/// How far behind what is retired comes.
const RETIRED: u8 = 20;

/// Points of some kinds, the theme's own before those of the layers below, and those of the host last.
pub fn points(registry: &Registry, wanted: impl Fn(&Point) -> bool) -> Vec<Item> {
    let all = registry.points().filter(|point| !point.declared.is_empty() && point.dropped.is_none());
    all.filter(|point| wanted(point)).map(|point| point_item(registry, point, 0)).collect()
}

/// One point as it is offered.
pub fn point_item(registry: &Registry, point: &Point, before: u8) -> Item {
    let about = point.about.map(|about| about.to_string());
    let label = point.label.map(|label| label.to_string()).unwrap_or_default();
    let layer = point.layer().unwrap_or(LayerId(0));
    let name = registry.project().layer(layer).name;
    let detail = if label.is_empty() { name.to_string() } else { format!("{label} · {name}") };
    // What should not be used any more comes last.
    let (before, detail) = match point.retired.is_some() {
        true => (before + RETIRED, format!("{detail} · retired")),
        false => (before, detail),
    };
    Item::new(point.address.to_string(), Shape::REFERENCE, before + rank(registry, layer)).detail(detail).about(about)
}

/// Near layers before far ones.
fn rank(registry: &Registry, layer: LayerId) -> u8 {
    let top = registry.project().top();
    match layer {
        layer if layer == top => 0,
        LayerId(0) => 2,
        _ => 1,
    }
}

/// What callbacks can be attached to: moments and values before places, and those before components.
pub fn attachable(registry: &Registry) -> Vec<Item> {
    let all = registry
        .points()
        .filter(|point| point.address.kind.role().is_some() && point.dropped.is_none() && !point.declared.is_empty());
    let group = |kind: Kind| match kind.role() {
        Some(Role::Listener | Role::Filter) => 0,
        Some(Role::Arranger) => 3,
        _ => 6,
    };
    all.map(|point| point_item(registry, point, group(point.address.kind))).collect()
}

/// What can be placed; what vanishes as long as nothing places it comes first. A text in which somebody is typing need
/// not parse, so that what it names counts as placed.
pub fn placeable(registry: &Registry, text: &str) -> Vec<Item> {
    let all = registry.points().filter(|point| {
        point.address.kind.is_placed() && !point.moment && point.dropped.is_none() && !point.declared.is_empty()
    });
    let made = all.map(|point| {
        let lacking = point.address.kind.needs_placement()
            && point.uses.is_empty()
            && point.layer() != Some(LayerId(0))
            && !text.contains(&format!("\"{}\"", point.address));
        // Partials are placed again and again, other points once.
        let group = match point.address.kind {
            _ if lacking => 0,
            Kind::Partial => 3,
            kind if kind.needs_placement() => 6,
            _ => 9,
        };
        point_item(registry, point, group)
    });
    made.chain(
        [("sections", "the page's sections"), ("held", "what the component at hand holds")]
            .map(|(word, detail)| Item::new(word, Shape::KEYWORD, 9).detail(detail)),
    )
    .collect()
}

/// Callbacks for a point, or for anything where that is not known: those that nothing uses yet come first, those of
/// another form last.
pub fn callbacks(registry: &Registry, point: Option<Address>, renders: bool) -> Vec<Item> {
    let top = registry.project().top();
    let role = point.and_then(|point| point.kind.role());
    let most = match role {
        _ if renders => 2,
        Some(Role::Listener) => 1,
        _ => 2,
    };
    let mut found = Vec::new();
    for (at, source) in registry.project().files.iter().enumerate().filter(|(_, file)| file.kind == FileKind::Module) {
        let file = FileId(at as u32);
        for export in registry.module(file).map(|module| module.exports.as_slice()).unwrap_or_default() {
            if export.no_function || export.name == *"default" {
                continue;
            }
            let callback = Callback { file, export: export.name };
            let params = export.signature.as_ref().map_or(0, |signature| signature.params.len());
            let used = registry.is_referred(truehook_core::link::Target::Export(file, export.name));
            let rank = match (source.layer == top, used, params > most) {
                (true, false, false) => 0,
                (true, true, false) => 1,
                (true, _, true) => 2,
                (false, ..) => 3,
            };
            let detail = if used { "in use already" } else { "attached to nothing" };
            found.push(Item::new(registry.callback_name(callback), Shape::FUNCTION, rank).detail(detail));
        }
    }
    found
}

/// What runs at a point, by the names that order and detachments use.
pub fn slots(registry: &Registry, point: Address, wanted: impl Fn(LayerId) -> bool) -> Vec<Item> {
    let Some(point) = registry.point(point) else { return Vec::new() };
    let slots = point.slots.iter().enumerate().filter(|(_, slot)| wanted(slot.layer));
    let made = slots.map(|(at, slot)| {
        let kind = if matches!(slot.runs, Runs::Partial(..)) { Shape::REFERENCE } else { Shape::FUNCTION };
        let detail = format!("{} of {}, at {}", ordinal(at + 1), point.slots.len(), slot.priority);
        Item::new(registry.first_name(slot), kind, at.min(200) as u8).detail(detail)
    });
    made.collect()
}

/// Callbacks of lower layers that are attached somewhere.
pub fn below(registry: &Registry) -> Vec<Item> {
    let top = registry.project().top();
    let all = registry.points().map(|point| point.address);
    all.flat_map(|point| slots(registry, point, |layer| layer != top)).collect()
}

/// Files in `media/`, as they are named from a folder.
pub fn media(registry: &Registry, folder: &str, wanted: impl Fn(&str) -> bool) -> Vec<Item> {
    let project = registry.project();
    let all = project
        .layers
        .iter()
        .enumerate()
        .flat_map(|(at, layer)| layer.media.iter().map(move |path| (LayerId(at as u16), path.as_str())));
    let made = all.filter(|(_, path)| wanted(path)).filter_map(|(layer, path)| {
        let named = path.strip_prefix(folder)?;
        let detail = project.layer(layer).name.to_string();
        Some(Item::new(named, Shape::FILE, rank(registry, layer)).detail(detail))
    });
    made.collect()
}

/// Templates, by the names that others use.
pub fn templates(registry: &Registry, without: FileId) -> Vec<Item> {
    let files = registry.project().files.iter().enumerate();
    let all = files.filter(|(at, file)| file.kind == FileKind::Template && *at != without.index());
    let made = all.map(|(_, file)| {
        let layer = registry.project().layer(file.layer).name.to_string();
        // What others build on stands at the top of the folder.
        let deep = u8::from(file.name().contains('/')) * 3;
        Item::new(file.name(), Shape::FILE, deep + rank(registry, file.layer)).detail(layer)
    });
    made.collect()
}

/// Types of pages.
pub fn types(registry: &Registry) -> Vec<Item> {
    registry.types().iter().map(|known| Item::new(known.name.as_str(), Shape::ENUM_MEMBER, 0)).collect()
}

/// Pages of the preview, by their paths.
pub fn pages(registry: &Registry) -> Vec<Item> {
    let files = registry.project().file_ids().filter_map(|file| registry.page(file));
    let made = files.filter_map(|page| {
        let title = page.value.get("title").and_then(|title| title.as_str()).unwrap_or_default().to_string();
        Some(Item::new(page.path?.name.as_str(), Shape::FILE, 0).detail(title))
    });
    made.collect()
}

/// The menus of the site.
pub fn menus(registry: &Registry) -> Vec<Item> {
    let sites = registry.project().file_ids().filter_map(|file| match &registry.facts(file).shape {
        truehook_core::scan::Shape::Site(site) => Some(site),
        _ => None,
    });
    sites.flat_map(|site| &site.menus).map(|menu| Item::new(menu.name.as_str(), Shape::VALUE, 0)).collect()
}

/// Messages that translations have.
pub fn messages(registry: &Registry) -> Vec<Item> {
    let files = registry.project().file_ids().filter_map(|file| registry.words(file));
    let entries = files.flat_map(|words| &words.entries).filter(|entry| !entry.id.is_empty());
    entries
        .map(|entry| {
            let text = entry.forms.first().map(|form| form.to_string()).unwrap_or_default();
            Item::new(entry.id.as_str(), Shape::TEXT, 4).detail(text)
        })
        .collect()
}

/// In a style sheet: the files that `url()` can name, as they are named from there.
pub fn in_style(typing: &Typing<'_>) -> Option<Found> {
    let before = &typing.text[..typing.offset];
    let open = before.rfind("url(")? + "url(".len();
    let typed = before[open..].trim_start_matches(['"', '\'']);
    if typed.contains([')', '\n', '"', '\'']) {
        return None;
    }
    let start = typing.offset - typed.len();
    let registry = typing.registry();
    let own = registry.project().file(typing.file).path.parent()?.to_string();
    let items = media(registry, "media/", |path| !path.ends_with(".css") && !path.ends_with(".js"));
    let made = items.into_iter().map(|item| {
        let whole = camino::Utf8Path::new("media").join(&item.label);
        Item { label: relative(&own, whole.as_str()), ..item }
    });
    Some(Found { items: made.collect(), span: Span::new(start, typing.offset) })
}

/// A path as it is named from a folder.
pub fn relative(folder: &str, path: &str) -> String {
    let from: Vec<&str> = folder.split('/').filter(|part| !part.is_empty()).collect();
    let to: Vec<&str> = path.split('/').collect();
    let same = from.iter().zip(&to).take_while(|(one, other)| one == other).count();
    let up = std::iter::repeat_n("..", from.len() - same);
    up.chain(to[same..].iter().copied()).collect::<Vec<_>>().join("/")
}

/// Addresses of one kind, or of several.
pub fn of_kinds(registry: &Registry, kinds: &[Kind]) -> Vec<Item> {
    points(registry, |point| kinds.contains(&point.address.kind))
}
