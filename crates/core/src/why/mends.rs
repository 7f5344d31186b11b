//! What may help where the chain is broken.

use super::answer::{LinkName, LinkState, WhyCallback, WhyLink};
use super::asking::Asking;
use super::subject::Subject;
use crate::address::{Address, Kind};
use crate::command_line;
use crate::edit::suggest::Places;
use crate::names::nearest;
use crate::read::FileKind;
use crate::rules::{self, Level, switch_on};
use crate::source::{FileId, LineIndex, Span};
use crate::view::PlaceView;

/// What findings about the subject say, and else what the broken link suggests.
pub fn mends(
    asking: &Asking<'_>,
    point: Option<Address>,
    subject: Subject,
    chain: &[WhyLink],
    callbacks: &[WhyCallback],
) -> Vec<String> {
    let is_callback = matches!(subject, Subject::Callback(_));
    let tables: Vec<(FileId, Span)> = callbacks.iter().filter_map(|callback| table_of(asking, callback)).collect();
    let name = point.filter(|_| !is_callback).map_or_else(|| subject.name(asking.registry), |point| point.to_string());
    let quoted = format!("`{name}`");
    let about = |finding: &&rules::Finding| {
        let named =
            finding.point.as_deref() == Some(name.as_str()) && !is_callback || finding.message.contains(&quoted);
        let attached = is_callback
            && finding.places.first().is_some_and(|place| {
                let within = |(file, table): &(FileId, Span)| {
                    place.file == *file && table.start <= place.span.start && place.span.end <= table.end
                };
                tables.iter().any(within)
            });
        (named || attached) && finding.level > Level::Note
    };
    let findings = rules::check(asking.registry).findings;
    let mut mends: Vec<String> = Vec::new();
    // What is told at the broken link is its cause.
    let broken = chain.iter().find(|link| link.state == LinkState::Broken);
    let places: Vec<&PlaceView> =
        broken.iter().flat_map(|link| &link.lines).filter_map(|line| line.place.as_ref()).collect();
    let is_here = |finding: &&rules::Finding| {
        finding.level > Level::Note
            && finding.places.first().is_some_and(|place| {
                let view = PlaceView::new(asking.registry, place.file, place.span);
                places.iter().any(|known| known.file == view.file && known.line == view.line)
            })
    };
    findings
        .iter()
        .filter(is_here)
        .filter_map(|finding| finding.mend.as_ref())
        .for_each(|mend| add(&mut mends, mend.printed().1));
    if mends.is_empty() {
        let told = findings.iter().filter(about).filter_map(|finding| finding.mend.as_ref());
        told.for_each(|mend| add(&mut mends, mend.printed().1));
    }
    if mends.is_empty() {
        // Somebody may have meant it, and written another name.
        let meant = findings.iter().filter(|finding| finding.level > Level::Note).filter_map(|finding| {
            let mend = finding.mend.as_ref().filter(|mend| mend.text.contains(&quoted))?;
            let place = finding.places.first()?;
            let view = PlaceView::new(asking.registry, place.file, place.span);
            Some(mend.command().unwrap_or_else(|| format!("{} ({}:{})", mend.text, view.file, view.line)))
        });
        mends.extend(meant);
    }
    if mends.is_empty() {
        mends.extend(point.and_then(|point| suggestion(asking, point, chain)));
    }
    mends
}

fn add(mends: &mut Vec<String>, text: String) {
    if !mends.contains(&text) {
        mends.push(text);
    }
}

/// The bytes of the table that attaches a callback.
fn table_of(asking: &Asking<'_>, callback: &WhyCallback) -> Option<(FileId, Span)> {
    let project = &asking.registry.project();
    let file = project.find(project.layer_named(&callback.place.layer)?, &callback.place.file)?;
    let text = project.file(file).text();
    let start = LineIndex::new(text).lines(callback.place.line, callback.place.line).start;
    let end = text[start..].find("\n[").map_or(text.len(), |end| start + end);
    Some((file, Span::new(start, end)))
}

/// What may help where no finding tells.
fn suggestion(asking: &Asking<'_>, address: Address, chain: &[WhyLink]) -> Option<String> {
    let registry = asking.registry;
    let broken = chain.iter().find(|link| link.state == LinkState::Broken)?;
    let template =
        asking.page.and_then(|page| page.page_type).and_then(|at| registry.types()[at].templates.first().copied());
    let own = template.filter(|file| registry.project().file(*file).layer == registry.project().top());
    let own = own.or_else(|| registry.files_named(FileKind::Template, "layout.html").last().copied());
    match (broken.name, address.kind) {
        (LinkName::Declared, kind) => Some(match nearest(&address.name, registry.names(kind)) {
            Some(near) => format!("write `{kind}:{near}`, if that was meant; or {}", command_line!["declare", address]),
            None => command_line!["declare", address],
        }),
        (LinkName::Attached, kind) if kind.role().is_some() => {
            Some(command_line!["attach", address, crate::view::unused(registry, address, "show")])
        }
        (LinkName::Filled, Kind::Menu) => match registry.menus().first() {
            Some((menu, _)) => Some(command_line!["fill", address, menu.name]),
            None => Some("give the site a menu, under [menus] in preview/site.toml".to_string()),
        },
        (LinkName::Filled, _) => match crate::view::offers(registry, address).first() {
            Some((component, _)) => Some(command_line!["fill", address, component]),
            None => Some(format!("declare a component with an offer that `{address}` may hold")),
        },
        (LinkName::Placed, kind) if kind.is_placed() => Some(Places::of(registry).command(address, own)),
        (LinkName::Sent, _) => Some(Places::of(registry).command(address, own)),
        (LinkName::Reached, _) => {
            let hook = registry.loading_hook(registry.point(address)?)?;
            registry.point(hook)?.reached.is_empty().then(|| Places::of(registry).command(hook, own))
        }
        (LinkName::SwitchedOn, _) => Some(switch_on(registry, address)),
        _ => None,
    }
}
