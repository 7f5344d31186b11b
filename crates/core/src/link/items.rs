//! Items, wherever they stand.

use super::names::Names;
use crate::address::Address;
use crate::scan::Item;
use crate::source::FileId;

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

impl<'n> Names<'n> {
    /// All items of the preview and of offers.
    pub fn items(&self) -> Vec<PlacedItem<'n>> {
        let mut found = Vec::new();
        for (file, _, fill) in self.ground.fills() {
            let holder = fill.to.address.filter(|to| self.declared.has(*to));
            fill.items().iter().for_each(|item| self.collect_items(file, item, holder, 1, &mut found));
        }
        for (file, page) in self.ground.pages() {
            page.sections.iter().for_each(|item| self.collect_items(file, item, None, 1, &mut found));
        }
        for point in self.declared.all() {
            for (file, offer) in point.offers.iter().flatten() {
                let (file, item, component) = (*file, &offer.item, Some(point.address));
                found.push(PlacedItem { file, item, holder: None, component, depth: 1, offered: true });
                item.holds.iter().for_each(|held| self.collect_items(file, held, component, 2, &mut found));
            }
        }
        found
    }

    fn collect_items(
        &self,
        file: FileId,
        item: &'n Item,
        holder: Option<Address>,
        depth: u64,
        found: &mut Vec<PlacedItem<'n>>,
    ) {
        let component = self.item_component(&item.component.raw, holder);
        found.push(PlacedItem { file, item, holder, component, depth, offered: false });
        item.holds.iter().for_each(|held| self.collect_items(file, held, component, depth + 1, found));
    }
}
