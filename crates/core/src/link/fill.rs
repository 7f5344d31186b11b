//! What the site brings, and what components offer and hold: tied to points, types, menus and options.

use super::reference::{Meant, Wanted};
use super::*;
use crate::names;
use crate::read::FileKind;
use crate::scan::{FillContent, Item, Named};

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

/// One use of a component as content.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ItemUse {
    /// Where the component is named.
    pub place: Place,
    /// The component, where it is there.
    pub component: Option<Address>,
    /// Is it there in any case?
    pub sure: bool,
    /// The types of pages on which it may be there.
    pub types: Types,
}

/// An item wherever it stands: in the preview, or in what a component offers.
#[derive(Clone, Copy, Debug)]
pub struct PlacedItem<'r> {
    /// The file.
    pub file: FileId,
    /// The item.
    pub item: &'r Item,
    /// What holds it: a region, area or component; nothing for a page's sections.
    pub holder: Option<Address>,
    /// The component that it uses, where it is there.
    pub component: Option<Address>,
    /// How deep it is nested, from 1.
    pub depth: u64,
    /// Is it the component itself that makes the offer?
    pub offered: bool,
}

impl Registry {
    /// All items of the preview and of offers.
    pub fn items(&self) -> Vec<PlacedItem<'_>> {
        let mut found = Vec::new();
        if let Some((file, site)) = self.site() {
            for fill in &site.fills {
                let holder = fill.to.address.filter(|to| self.points.contains_key(to));
                fill.items().iter().for_each(|item| self.collect_items(file, item, holder, 1, &mut found));
            }
        }
        for (file, page) in self.pages() {
            page.sections.iter().for_each(|item| self.collect_items(file, item, None, 1, &mut found));
        }
        for point in self.points.values() {
            for (file, offer) in point.offers.iter().flatten() {
                let (file, item, component) = (*file, &offer.item, Some(point.address));
                found.push(PlacedItem { file, item, holder: None, component, depth: 1, offered: true });
                item.holds.iter().for_each(|held| self.collect_items(file, held, component, 2, &mut found));
            }
        }
        found
    }

    fn collect_items<'r>(
        &'r self,
        file: FileId,
        item: &'r Item,
        holder: Option<Address>,
        depth: u64,
        found: &mut Vec<PlacedItem<'r>>,
    ) {
        let component = self.item_component(&item.component.raw, holder);
        found.push(PlacedItem { file, item, holder, component, depth, offered: false });
        item.holds.iter().for_each(|held| self.collect_items(file, held, component, depth + 1, found));
    }

    /// Ties what the site brings to points and types.
    pub(super) fn fill(&mut self) {
        if let Some((file, site)) = self.site() {
            let (fills, options) = (site.fills.clone(), site.options.clone());
            for (at, fill) in fills.iter().enumerate() {
                let outcome = self.find_point(fill.to, Kind::is_filled);
                self.refer(Link::FillToPoint, Place { file, at: fill.to.at }, fill.to.raw, outcome);
                let point = match outcome {
                    Outcome::Found(Target::Point(address)) => Some(address),
                    _ => None,
                };
                if let Some(address) = point {
                    self.points[&address].fills.push((file, at));
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
            for given in options {
                let outcome = self.find_option(given.name.name);
                self.refer(Link::ChoiceToOption, Place { file, at: given.name.at }, given.name.name, outcome);
            }
        }
        let pages: Vec<_> =
            self.pages().map(|(file, page)| (file, page.page_type, page.body, page.sections.clone())).collect();
        for (file, page_type, body, sections) in pages {
            if let Some(page_type) = page_type {
                let outcome = self.find_type(page_type.name);
                self.refer(Link::PageToType, Place { file, at: page_type.at }, page_type.name, outcome);
            }
            if let Some(body) = body {
                let outcome = self.find_body(file, body.name);
                self.refer(Link::PageToBody, Place { file, at: body.at }, body.name, outcome);
            }
            for item in &sections {
                self.link_item(file, item, Holder::Page);
            }
        }
    }

    /// Ties what components may hold.
    pub(super) fn link_holds(&mut self) {
        let patterns: Vec<(PointRef, Place)> = self.points.values().flat_map(|point| point.holds.clone()).collect();
        for (point, place) in patterns {
            let outcome = match point.raw.as_str().split_once(':') {
                Some((word, "*")) if Kind::from_word(word).is_some_and(Kind::is_component) => continue,
                _ => self.find_point(point, Kind::is_component),
            };
            self.refer(Link::HoldsToComponent, place, point.raw, outcome);
        }
    }

    /// Ties what components offer of themselves.
    pub(super) fn link_offers(&mut self) {
        let offers: Vec<(Address, FileId, Offer)> = self
            .points
            .values()
            .flat_map(|point| {
                let offers = point.offers.iter().flatten();
                offers.map(|(file, offer)| (point.address, *file, offer.clone()))
            })
            .collect();
        for (address, file, offer) in offers {
            self.link_inputs(file, &offer.item, address, false);
            offer.item.holds.iter().for_each(|held| self.link_item(file, held, Holder::Point(address)));
        }
    }

    fn link_menu(&mut self, file: FileId, menu: Named, spot: Option<Address>) {
        if spot.is_some_and(|spot| spot.kind != Kind::Menu) {
            return;
        }
        let known = self.site().map(|(_, site)| site.menus.clone()).unwrap_or_default();
        let words = || known.iter().map(|menu| menu.name.as_str());
        let place = |name: &str| known.iter().find(|menu| menu.name == *name).map(|menu| Place { file, at: menu.at });
        let outcome = match place(&menu.name) {
            Some(place) => Outcome::Found(Target::Menu(place)),
            None => {
                let near = names::nearest(&menu.name, words());
                let certain = names::certain(&menu.name, words()).is_some();
                let meant = near
                    .and_then(|near| Some(Meant { written: near.into(), target: Target::Menu(place(near)?), certain }));
                Outcome::Missing { wanted: Wanted::Menu(menu.name), meant }
            }
        };
        self.refer(Link::FillToMenu, Place { file, at: menu.at }, menu.name, outcome);
    }

    fn find_option(&self, name: Name) -> Outcome {
        let address = Address::new(Kind::Option, name);
        if self.points.contains_key(&address) {
            return Outcome::Found(Target::Point(address));
        }
        if self.blind.declarations {
            return Outcome::Unknown;
        }
        let near = names::nearest(&name, self.names(Kind::Option));
        let certain = names::certain(&name, self.names(Kind::Option)).is_some();
        let target = |near: &str| Target::Point(Address::new(Kind::Option, near));
        let meant = near.map(|near| Meant { written: near.into(), target: target(near), certain });
        Outcome::Missing { wanted: Wanted::Option(name), meant }
    }

    fn find_type(&self, name: Name) -> Outcome {
        if self.types.iter().any(|page_type| page_type.name == name) {
            return Outcome::Found(Target::PageType(name));
        }
        if self.blind.declarations {
            return Outcome::Unknown;
        }
        let known = || self.types.iter().map(|page_type| page_type.name.as_str());
        let meant = names::nearest(&name, known()).map(|near| Meant {
            written: near.into(),
            target: Target::PageType(near.into()),
            certain: names::certain(&name, known()).is_some(),
        });
        Outcome::Missing { wanted: Wanted::PageType(name), meant }
    }

    /// The file of a page's body, which lies beside the page.
    pub fn body_file(&self, page: FileId, name: &str) -> Option<FileId> {
        let page = self.project.file(page);
        let path = page.path.parent()?.join(name);
        let found = self.project.find(page.layer, path.as_str())?;
        (self.project.file(found).kind == FileKind::Body).then_some(found)
    }

    fn find_body(&self, page: FileId, name: Name) -> Outcome {
        if let Some(file) = self.body_file(page, &name) {
            return Outcome::Found(Target::File(file));
        }
        let layer = self.project.file(page).layer;
        let bodies: Vec<(FileId, &str)> = self
            .project
            .files_of(layer)
            .filter(|(_, file)| file.kind == FileKind::Body)
            .map(|(id, file)| (id, file.name()))
            .collect();
        let near = names::nearest(&name, bodies.iter().map(|(_, name)| *name));
        let meant = near.and_then(|near| bodies.iter().find(|(_, name)| *name == near)).map(|(file, near)| Meant {
            written: (*near).into(),
            target: Target::File(*file),
            certain: names::certain(&name, bodies.iter().map(|(_, name)| *name)).is_some(),
        });
        Outcome::Missing { wanted: Wanted::File(layer, name), meant }
    }

    /// The component that an item uses, seen from what holds it: a section's own pieces come before
    /// shared ones.
    pub fn item_component(&self, written: &str, holder: Option<Address>) -> Option<Address> {
        let own = holder.filter(|holder| holder.kind == Kind::Section);
        if let (Some(own), Some(name)) = (own, written.strip_prefix("piece:")) {
            let inner = Address::new(Kind::Piece, format!("{}/{name}", own.name).as_str());
            if self.points.contains_key(&inner) {
                return Some(inner);
            }
        }
        let (word, name) = written.split_once(':')?;
        let address = Address::new(Kind::from_word(word).filter(|kind| kind.is_component())?, name);
        self.points.contains_key(&address).then_some(address)
    }

    /// May a component be an item of that holder? Regions and areas hold whatever is no inner piece.
    pub fn may_hold(&self, holder: Address, held: Address) -> bool {
        if let Some((own, _)) = held.inner() {
            return own == holder;
        }
        if holder.kind.holds_items() {
            return true;
        }
        let fits = |pattern: &PointRef| match pattern.raw.as_str().split_once(':') {
            Some((word, "*")) => word == held.kind.word(),
            _ => pattern.address == Some(held),
        };
        self.point(holder).is_some_and(|point| point.holds.iter().any(|(pattern, _)| fits(pattern)))
    }

    fn link_item(&mut self, file: FileId, item: &Item, holder: Holder) {
        let found = self.item_component(&item.component.raw, holder.point());
        let outcome = match found {
            Some(address) => Outcome::Found(Target::Point(address)),
            None => match (holder, self.find_point(item.component, Kind::is_component)) {
                (Holder::Missing, Outcome::Missing { .. }) => Outcome::Unknown,
                (Holder::Point(holder), Outcome::Missing { wanted, meant }) => {
                    let own = self.meant_inner(holder, item.component);
                    Outcome::Missing { wanted, meant: own.or(meant) }
                }
                (_, outcome) => outcome,
            },
        };
        let place = Place { file, at: item.component.at };
        self.refer(Link::ItemToComponent, place, item.component.raw, outcome);
        let mut sure = item.when.is_none() && !item.when_broken;
        if let Some(when) = &item.when {
            sure &= self.link_condition(file, when);
        }
        let held = ItemUse { place, component: found, sure, types: self.types_where(item.when.as_ref()) };
        match holder {
            Holder::Point(holder) => self.points[&holder].items.push(held),
            Holder::Page => self.page_sections.push(held),
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
        let own = || self.points.keys().filter_map(|known| known.inner()).filter(|(section, _)| *section == holder);
        let near = names::nearest(name, own().map(|(_, own)| own))?;
        let certain = names::certain(name, own().map(|(_, own)| own)).is_some();
        let target = Target::Point(Address::new(Kind::Piece, format!("{}/{near}", holder.name).as_str()));
        Some(Meant { written: format!("piece:{near}").as_str().into(), target, certain })
    }

    /// The inputs that an item sets. Directly in an area, `title` is the item's own.
    fn link_inputs(&mut self, file: FileId, item: &Item, address: Address, in_area: bool) {
        let has_title = self.points[&address].inputs.iter().any(|input| input.field.name == "title");
        let given = item.inputs.iter().map(|given| given.name);
        let takes_extent = self.takes_extent(address);
        let given: Vec<Named> = given
            .filter(|named| has_title || !in_area || named.name != "title")
            .filter(|named| !takes_extent && !self.blind.declarations || named.name != "extent")
            .collect();
        let from = Place { file, at: item.component.at };
        self.link_arguments(Link::ItemKeyToInput, address, from, &given, false);
    }
}
