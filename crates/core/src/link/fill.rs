//! What the site brings, and what components offer of themselves: tied to points, types, menus and options.

use rustc_hash::FxHashMap;

use super::arguments::Passed;
use super::conditions::Conditions;
use super::names::Names;
use super::point::ItemUse;
use super::reference::{Link, Meaning, Meant, Outcome, Target, Wanted};
use crate::address::{Address, Kind};
use crate::names;
use crate::scan::{FillContent, Item, Named, PointRef};
use crate::source::{FileId, Place};

/// What holds an item.
#[derive(Clone, Copy)]
enum Holder {
    /// A region, an area or a component.
    Point(Address),
    /// A page, among its sections.
    Page,
    /// Something that is not there; true where it would be an area.
    Nowhere(bool),
    /// A component that is not there, and that may have pieces of its own.
    Missing,
}

impl Holder {
    fn point(self) -> Option<Address> {
        match self {
            Holder::Point(address) => Some(address),
            _ => None,
        }
    }
}

/// What the site puts where.
#[derive(Default)]
pub(super) struct Filled {
    /// By point: the file, and the position among its fills.
    pub fills: FxHashMap<Address, Vec<(FileId, usize)>>,
    /// What each point holds.
    pub items: FxHashMap<Address, Vec<ItemUse>>,
    /// The components that the preview's pages are composed of.
    pub page_sections: Vec<ItemUse>,
    pub passed: Passed,
}

/// Ties what the site brings to points and types, and what components offer.
pub(super) fn fill(conditions: Conditions<'_>) -> Filled {
    let mut filling = Filling { names: conditions.names, conditions, out: Filled::default() };
    filling.preview();
    filling.offers();
    filling.out
}

struct Filling<'f> {
    names: Names<'f>,
    conditions: Conditions<'f>,
    out: Filled,
}

impl Filling<'_> {
    fn preview(&mut self) {
        let ground = self.names.ground;
        for (file, at, fill) in ground.fills() {
            let outcome = self.names.find_point(fill.to, Kind::is_filled);
            self.out.passed.refs.refer(ground, Link::FillToPoint, Place { file, at: fill.to.at }, fill.to.raw, outcome);
            let point = match outcome {
                Outcome::Found(Target::Point(address)) => Some(address),
                _ => None,
            };
            if let Some(address) = point {
                self.out.fills.entry(address).or_default().push((file, at));
            }
            match &fill.content {
                FillContent::Menu(menu) => self.link_menu(file, *menu, fill.to.address),
                FillContent::Items(items) => {
                    let is_area = fill.to.address.is_some_and(|to| to.kind == Kind::Area);
                    let holder = point.map_or(Holder::Nowhere(is_area), Holder::Point);
                    items.iter().for_each(|item| self.link_item(file, item, holder));
                }
            }
        }
        for (file, given) in ground.choices() {
            let outcome = self.names.find_option(given.name.name);
            let from = Place { file, at: given.name.at };
            self.out.passed.refs.refer(ground, Link::ChoiceToOption, from, given.name.name, outcome);
        }
        for (file, page) in self.names.ground.pages() {
            if let Some(page_type) = page.page_type {
                let outcome = self.names.find_type(page_type.name);
                let from = Place { file, at: page_type.at };
                self.out.passed.refs.refer(self.names.ground, Link::PageToType, from, page_type.name, outcome);
            }
            if let Some(body) = page.body {
                let outcome = self.names.find_body(file, body.name);
                let from = Place { file, at: body.at };
                self.out.passed.refs.refer(self.names.ground, Link::PageToBody, from, body.name, outcome);
            }
            for item in &page.sections {
                self.link_item(file, item, Holder::Page);
            }
        }
    }

    fn offers(&mut self) {
        let declared = self.names.declared;
        for point in declared.all() {
            for (file, offer) in point.offers.iter().flatten() {
                self.link_inputs(*file, &offer.item, point.address, false);
                let holder = Holder::Point(point.address);
                offer.item.holds.iter().for_each(|held| self.link_item(*file, held, holder));
            }
        }
    }

    fn link_menu(&mut self, file: FileId, menu: Named, spot: Option<Address>) {
        if spot.is_some_and(|spot| spot.kind != Kind::Menu) {
            return;
        }
        let known = self.names.ground.menus();
        let words = || known.iter().map(|(menu, _)| menu.name.as_str());
        let place = |name: &str| known.iter().find(|(menu, _)| menu.name == *name).map(|(_, place)| *place);
        let outcome = match place(&menu.name) {
            Some(place) => Outcome::Found(Target::Menu(place)),
            None => {
                let near = names::nearest(&menu.name, words());
                let certain = names::certain(&menu.name, words()).is_some();
                let meant = near.and_then(|near| {
                    Some(Meant::from(Meaning { written: near.into(), target: Target::Menu(place(near)?), certain }))
                });
                Outcome::Missing { wanted: Wanted::Menu(menu.name), meant }
            }
        };
        self.out.passed.refs.refer(
            self.names.ground,
            Link::FillToMenu,
            Place { file, at: menu.at },
            menu.name,
            outcome,
        );
    }

    fn link_item(&mut self, file: FileId, item: &Item, holder: Holder) {
        let found = self.names.item_component(&item.component.raw, holder.point());
        let outcome = match found {
            Some(address) => Outcome::Found(Target::Point(address)),
            None => match (holder, self.names.find_point(item.component, Kind::is_component)) {
                (Holder::Missing, Outcome::Missing { .. }) => Outcome::Unknown,
                (Holder::Point(holder), Outcome::Missing { wanted, meant }) => {
                    let own = self.meant_inner(holder, item.component);
                    Outcome::Missing { wanted, meant: own.or(meant) }
                }
                (_, outcome) => outcome,
            },
        };
        let place = Place { file, at: item.component.at };
        self.out.passed.refs.refer(self.names.ground, Link::ItemToComponent, place, item.component.raw, outcome);
        let mut sure = item.when.is_none() && !item.when_broken;
        if let Some(when) = &item.when {
            sure &= self.conditions.link(&mut self.out.passed.refs, file, when);
        }
        let held =
            ItemUse { place, component: found, sure, types: self.names.declared.types_where(item.when.as_ref()) };
        match holder {
            Holder::Point(holder) => self.out.items.entry(holder).or_default().push(held),
            Holder::Page => self.out.page_sections.push(held),
            Holder::Nowhere(_) | Holder::Missing => {}
        }
        if let Some(address) = found {
            let in_area = match holder {
                Holder::Nowhere(is_area) => is_area,
                holder => holder.point().is_some_and(|holder| holder.kind == Kind::Area),
            };
            self.link_inputs(file, item, address, in_area);
        }
        let inner = found.map_or(Holder::Missing, Holder::Point);
        item.holds.iter().for_each(|held| self.link_item(file, held, inner));
    }

    /// The section's own piece that a misspelt item was most likely meant to be.
    fn meant_inner(&self, holder: Address, written: PointRef) -> Option<Meant> {
        let name = written.raw.as_str().strip_prefix("piece:")?;
        let own = || {
            self.names
                .declared
                .points
                .keys()
                .filter_map(|known| known.inner())
                .filter(|(section, _)| *section == holder)
        };
        let near = names::nearest(name, own().map(|(_, own)| own))?;
        let certain = names::certain(name, own().map(|(_, own)| own)).is_some();
        let target = Target::Point(Address::new(Kind::Piece, format!("{}/{near}", holder.name).as_str()));
        Some(Meant::from(Meaning { written: format!("piece:{near}").as_str().into(), target, certain }))
    }

    /// The inputs that an item sets. Directly in an area, `title` is the item's own.
    fn link_inputs(&mut self, file: FileId, item: &Item, address: Address, in_area: bool) {
        let has_title = self.names.declared.points[&address].inputs.iter().any(|input| input.field.name == "title");
        let given = item.inputs.iter().map(|given| given.name);
        let takes_extent = self.names.declared.takes_extent(address);
        let given: Vec<Named> = given
            .filter(|named| has_title || !in_area || named.name != "title")
            .filter(|named| !takes_extent && !self.names.ground.blind.declarations || named.name != "extent")
            .collect();
        let from = Place { file, at: item.component.at };
        self.names.link_arguments(&mut self.out.passed, Link::ItemKeyToInput, address, from, &given, false);
    }
}
