//! The seeing views, of the theme as it is now.

use std::ops::Range;

use serde::Deserialize;
use serde_json::{Value, json};
use truehook_core::edit::{Selector, find_in_page};
use truehook_core::view::{AtlasView, DeskView};
use truehook_sheets::{AtlasSheet, DeskSheet, MapSheet, PlannedPage, Samples, Shown as OnDesk, Staged};
use truehook_stage::map::{self, Node};
use truehook_stage::origin::{self, Traced};
use truehook_stage::{Manner, Stage};

use crate::room::{Room, Theme};
use crate::view::View;

/// The map of a page.
pub fn map(room: &Room, theme: &Theme, path: &str, view: &View) -> Result<String, String> {
    let path = found(theme, path)?;
    let view = view.fitting(&theme.registry);
    let stand = room.stand(theme, &view)?;
    let shown = room.page(theme, &path, &view)?;
    let samples = Samples::of(&stand.registry, &shown.root);
    let filled = match samples.is_empty() {
        true => None,
        false => stand.workers.page(&path, &Manner::with_samples(samples)).map_err(|error| error.to_string())?,
    };
    let filled = filled.map(|page| (map::map(&stand.registry, &page), page));
    let filled = filled.as_ref().map(|(root, page)| (page, root));
    let page = room.files.whole(&shown.page);
    let sheet = MapSheet::new(&stand.registry, &path, (&page, &shown.root), filled);
    sheet.html().map_err(|error| error.to_string())
}

fn found(theme: &Theme, path: &str) -> Result<String, String> {
    theme.find(path).map(|page| page.path.clone()).ok_or_else(|| format!("there is no page {path}"))
}

/// What site editors get.
pub fn desk(room: &Room, theme: &Theme, view: &View) -> Result<String, String> {
    let view = view.fitting(&theme.registry);
    let stand = room.stand(theme, &view)?;
    let desk = DeskView::new(&stand.registry);
    let stage = Stage::new(stand.registry.clone());
    let staged = Staged::all(&stand.registry, &stage, &stand.workers, &desk).map_err(|error| error.to_string())?;
    let first = theme.site().pages.iter().find(|page| page.path == "/").or(theme.site().pages.first());
    let path = first.map(|page| page.path.clone()).ok_or("the theme has no page")?;
    let shown = room.page(theme, &path, &view)?;
    let page = room.files.whole(&shown.page);
    let offers: Vec<OnDesk<'_>> = staged.iter().map(Staged::shown).collect();
    let sheet = DeskSheet::new(&stand.registry, &desk, (&path, &page, &shown.root), &offers);
    sheet.html().map_err(|error| error.to_string())
}

/// The reference for those who build on the theme.
pub fn atlas(room: &Room, theme: &Theme, view: &View) -> Result<String, String> {
    let view = view.fitting(&theme.registry);
    let atlas = AtlasView::new(&theme.registry);
    let mut mapped: Vec<(String, Node)> = Vec::new();
    for page_type in &atlas.theme.types {
        let Some(page) = theme.site().pages.iter().find(|page| page.page_type == *page_type) else { continue };
        let shown = room.page(theme, &page.path, &view)?;
        mapped.push((page_type.clone(), shown.root.clone()));
    }
    let planned: Vec<PlannedPage<'_>> =
        mapped.iter().map(|(page_type, root)| PlannedPage { page_type: page_type.clone(), root }).collect();
    AtlasSheet::new(&atlas, &planned).html().map_err(|error| error.to_string())
}

/// An element of a page, as somebody sees it in the browser.
#[derive(Debug, Default, Deserialize)]
#[serde(default)]
pub struct Picked {
    pub page: String,
    /// Its name.
    tag: String,
    /// Its classes and its id, as they stand there.
    class: String,
    id: String,
    /// The letters in it, without blanks.
    text: String,
    /// How many before it are the same in all that.
    nth: usize,
}

impl Picked {
    /// The bytes of its start tag. Scripts may have given it classes; then the words must do.
    fn find(&self, html: &str) -> Option<Range<usize>> {
        let plain = |word: &&str| word.chars().all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_');
        let classes = self.class.split_whitespace().filter(plain).map(|class| format!(".{class}"));
        let id = Some(self.id.as_str()).filter(|id| !id.is_empty() && plain(id)).map(|id| format!("#{id}"));
        let whole = format!("{}{}{}", self.tag, id.unwrap_or_default(), classes.collect::<String>());
        [whole, self.tag.clone()].iter().find_map(|selector| {
            let selector: Selector = selector.parse().ok()?;
            let same =
                find_in_page(html, &selector).into_iter().filter(|(_, all)| words(&html[all.range()]) == self.text);
            let all: Vec<Range<usize>> = same.map(|(open, _)| open.range()).collect();
            all.get(self.nth).or(all.first()).cloned()
        })
    }
}

/// The letters of some markup, as a browser tells them.
fn words(html: &str) -> String {
    let texts = origin::texts(html).into_iter().map(|range| &html[range]).collect::<Vec<_>>().concat();
    let plain = [
        ("&lt;", "<"),
        ("&gt;", ">"),
        ("&quot;", "\""),
        ("&#39;", "'"),
        ("&#x27;", "'"),
        ("&#x2f;", "/"),
        ("&nbsp;", " "),
        ("&amp;", "&"),
    ];
    let text = plain.iter().fold(texts, |text, (name, sign)| text.replace(name, sign));
    text.chars().filter(|c| !c.is_whitespace()).take(LETTERS).collect()
}

/// So many letters of an element are compared.
const LETTERS: usize = 120;

/// Where an element of a page came from.
pub fn origin(room: &Room, theme: &Theme, picked: &Picked, view: &View) -> Result<Value, String> {
    let path = found(theme, &picked.page)?;
    let view = view.fitting(&theme.registry);
    let shown = room.page(theme, &path, &view)?;
    let open = picked.find(&shown.page.html);
    let open = open.ok_or("a script has put that there, or it is not on the page any more")?;
    let stand = room.stand(theme, &view)?;
    let traced = Traced { registry: &stand.registry, path: &path, page: &shown.page, root: &shown.root };
    let chains = origin::chains(traced, &open);
    let chains: Vec<Value> = chains
        .into_iter()
        .map(|chain| {
            let ways: Vec<Value> =
                chain.ways.iter().map(|way| json!({ "what": way.what, "command": way.command })).collect();
            json!({ "text": chain.text, "chain": chain.chain, "ways": ways })
        })
        .collect();
    Ok(json!({ "page": path, "chains": chains }))
}
