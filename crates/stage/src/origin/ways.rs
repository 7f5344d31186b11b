//! The commands that would change what is traced.

use truehook_core::address::Kind;
use truehook_core::command_line;
use truehook_core::link::Point;
use truehook_core::scan::{Given, Item};
use truehook_core::source::Place;
use truehook_core::view::{PlaceView, WayView, ways};

use super::LinkKind;
use super::chain::Tracing;

impl Tracing<'_> {
    /// The commands that would change it: those about the points, the innermost first, and the template's own.
    pub fn ways(&self) -> Vec<WayView> {
        let registry = self.registry();
        let mut found: Vec<WayView> = Vec::new();
        let mut add = |way: WayView| {
            if found.iter().all(|known| known.command != way.command) {
                found.push(way);
            }
        };
        let value = self.chain.iter().find(|link| link.what == LinkKind::Value).and_then(|link| link.place.as_ref());
        value.and_then(|place| self.change_of(place)).into_iter().for_each(&mut add);
        // Of what runs at a point, only what is in the chain.
        let about = |way: &WayView, point: &Point| {
            let others = point
                .slots
                .iter()
                .map(|slot| registry.first_name(slot))
                .chain(point.slots.iter().map(|slot| registry.slot_name(slot)));
            let mut others = others.filter(|name| way.command.split(' ').any(|word| word == name));
            others.next().is_none_or(|name| {
                self.chain.iter().any(|link| link.name == name)
                    || others.any(|name| self.chain.iter().any(|link| link.name == name))
            })
        };
        // What the host prints is changed by what the host is told, and not at its hook.
        let of_host = self.chain.iter().any(|link| link.what == LinkKind::Host);
        for (at, address) in self.points.iter().filter(|point| !of_host || point.kind != Kind::Hook).enumerate() {
            let Some(point) = registry.point(*address) else { continue };
            ways(registry, point).into_iter().filter(|way| about(way, point)).for_each(&mut add);
            // What is further out concerns more than this text.
            if at > 0 {
                break;
            }
        }
        let printed = self.chain.first().filter(|link| matches!(link.what, LinkKind::Text | LinkKind::Expression));
        if let Some((layer, file)) =
            printed.and_then(|link| link.place.as_ref()).map(|place| (&place.layer, &place.file))
        {
            let own = registry.project().layer(registry.project().top()).name;
            let name = file.strip_prefix("markup/").unwrap_or(file);
            let has_own = registry.project().find(registry.project().top(), file).is_some();
            if *layer != own.as_str() && !has_own {
                let what = "write that template anew, from a copy".to_string();
                add(WayView { what, command: command_line!["adopt", name, "--copy"] });
            }
        }
        found
    }

    /// The command that sets the input of an item where a value stands in the preview of this theme, with that value.
    fn change_of(&self, place: &PlaceView) -> Option<WayView> {
        let registry = self.registry();
        let top = registry.project().top();
        let fills = registry.fills().into_iter().filter(|(file, ..)| {
            let file = registry.project().file(*file);
            file.layer == top && file.path == place.file
        });
        let (to, path, given) = fills.into_iter().find_map(|(file, _, fill)| {
            let holds = |given: &Given| {
                let (line, column) = registry.lines(file).position(registry.span(Place { file, at: given.at }).start);
                line == place.line
                    && column <= place.column
                    && given.value.as_str().is_some_and(|value| value.contains(&self.text))
            };
            let (path, given) = find(fill.items(), &mut Vec::new(), &holds)?;
            Some((fill.to.address?, path, given))
        })?;
        let numbers: Vec<String> = path.iter().map(|at| (at + 1).to_string()).collect();
        let pair = format!("{}={}", given.name.name, given.value.as_str()?);
        let command = command_line!["fill", to, "--set", numbers.join("."), pair];
        Some(WayView { what: format!("change the {} of this item: write another one", given.name.name), command })
    }
}

/// The input of an item for which something holds, with the numbers that lead to the item.
fn find<'i>(
    items: &'i [Item],
    path: &mut Vec<usize>,
    holds: &dyn Fn(&Given) -> bool,
) -> Option<(Vec<usize>, &'i Given)> {
    items.iter().enumerate().find_map(|(at, item)| {
        path.push(at);
        let own = item.inputs.iter().find(|given| holds(given)).map(|given| (path.clone(), given));
        let found = own.or_else(|| find(&item.holds, path, holds));
        path.pop();
        found
    })
}
