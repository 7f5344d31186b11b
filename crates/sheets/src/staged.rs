//! Offers, each on a page where it may stand.

use truehook_core::address::Address;
use truehook_core::link::Registry;
use truehook_core::view::{DeskView, holder_for};
use truehook_stage::workers::{WorkerError, Workers};
use truehook_stage::{Manner, PageInfo, Rendered, Stage};

use crate::desk::Shown;

/// An offer on a page.
pub struct Staged {
    offer: (usize, usize),
    component: Address,
    holder: Address,
    path: String,
    page: Rendered,
}

impl Staged {
    /// Each offer on a page of the first container that may hold it, as all that this holds.
    ///
    /// # Errors
    /// Where there can be no worker.
    pub fn all(
        registry: &Registry,
        stage: &Stage,
        workers: &Workers,
        view: &DeskView,
    ) -> Result<Vec<Staged>, WorkerError> {
        let pages = stage.pages();
        let mut found = Vec::new();
        for (at, component) in view.components.iter().enumerate() {
            let Ok(address) = component.address.parse::<Address>() else { continue };
            let Some((holder, types)) = holder_for(registry, address) else { continue };
            let of_type = |page: &&PageInfo| types.contains(&page.page_type.as_str());
            let Some(page) = pages.iter().find(of_type) else { continue };
            for (nth, offer) in component.offers.iter().enumerate() {
                let manner = Manner::with_only(holder, offer.item.clone());
                let Some(rendered) = workers.page(&page.path, &manner)? else { continue };
                let path = page.path.clone();
                found.push(Staged { offer: (at, nth), component: address, holder, path, page: rendered });
            }
        }
        Ok(found)
    }

    /// Which component of the desk it is of, and which of its offers, by their positions.
    pub fn position(&self) -> (usize, usize) {
        self.offer
    }

    /// It, as the desk shows it.
    pub fn shown(&self) -> Shown<'_> {
        let Staged { offer, component, holder, path, page } = self;
        Shown { offer: *offer, component: *component, holder: *holder, path, page }
    }
}
