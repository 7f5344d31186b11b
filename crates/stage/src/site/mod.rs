//! What a site brings: its own values, its pages, and what it puts into the points of its theme. Where
//! these are kept is the site's business: see [`Site`].

pub mod feed;
pub mod globals;
pub mod links;
pub mod media;
pub mod menus;
pub mod preview;
pub mod setting;
pub mod texts;
pub mod words;

use serde_json::{Map, Value as Json};

/// A site: where its pages come from. The theme's own preview is one ([`Preview`](crate::Preview)); a
/// publishing system gives its own.
///
/// What it gives has the shape of the preview's files, as JSON: dates are RFC 3339 text.
pub trait Site: Send + Sync {
    /// What `preview/site.toml` would hold: `title`, `motto`, `language`, `now`, `options`, `menus`, `fill`
    /// and `data`, and the keys of the features that are switched on.
    fn values(&self) -> Map<String, Json>;

    /// All pages.
    fn pages(&self) -> Vec<PageInfo>;

    /// All that there is to one page; nothing where there is none of that path.
    fn page(&self, path: &str) -> Option<PageContent>;
}

/// A page, as lists show it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct PageInfo {
    /// Its path, as in `/log/`.
    pub path: String,
    /// Its type.
    pub page_type: String,
    /// Its title.
    pub title: String,
    /// When it was written, as RFC 3339 text; empty where that is not known.
    pub date: String,
    /// Does it only stand in for a type that no page has? Then it is in no list and no feed.
    pub sample: bool,
}

impl PageInfo {
    /// A page of some type.
    pub fn new(path: impl Into<String>, page_type: impl Into<String>, title: impl Into<String>) -> PageInfo {
        let (path, page_type, title) = (path.into(), page_type.into(), title.into());
        PageInfo { path, page_type, title, ..PageInfo::default() }
    }

    /// With the date on which it was written.
    pub fn written(self, date: impl Into<String>) -> PageInfo {
        PageInfo { date: date.into(), ..self }
    }
}

/// What there is to one page.
#[derive(Clone, Debug, Default, PartialEq)]
#[non_exhaustive]
pub struct PageContent {
    /// What its file in `preview/pages/` would hold, without its body.
    pub values: Map<String, Json>,
    /// Its text, as markup.
    pub body: Option<String>,
}

impl PageContent {
    /// A page with these values.
    pub fn new(values: Map<String, Json>) -> PageContent {
        PageContent { values, body: None }
    }

    /// With a text, which is markup.
    pub fn with_body(self, markup: impl Into<String>) -> PageContent {
        PageContent { body: Some(markup.into()), ..self }
    }
}
