//! The themes of a folder, each with its picture.

use serde::Serialize;
use truehook_core::view::ShelvedView;

use crate::SheetError;
use crate::embed::whole;
use crate::pages;

/// The shelf, ready to be written.
#[derive(Serialize)]
pub struct ShelfSheet<'s> {
    folder: String,
    themes: Vec<Card<'s>>,
}

#[derive(Serialize)]
struct Card<'s> {
    #[serde(flatten)]
    view: &'s ShelvedView,
    title: &'s str,
    /// The picture, as an address that holds it.
    shown: Option<String>,
}

impl ShelfSheet<'_> {
    /// The themes of a folder; `picture` reads the picture of one.
    pub fn new<'s>(
        folder: &str,
        themes: &'s [ShelvedView],
        picture: impl Fn(&ShelvedView) -> Option<Vec<u8>>,
    ) -> ShelfSheet<'s> {
        let card = |view: &'s ShelvedView| Card {
            title: view.theme.title(),
            shown: view.theme.picture.as_ref().and_then(|path| whole(path, &picture(view)?)),
            view,
        };
        ShelfSheet { folder: folder.to_string(), themes: themes.iter().map(card).collect() }
    }

    /// The sheet, as HTML.
    ///
    /// # Errors
    /// Where a template of ours can't be filled.
    pub fn html(&self) -> Result<String, SheetError> {
        pages::fill("shelf.html", self)
    }
}
