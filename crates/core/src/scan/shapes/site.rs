//! What a site would bring.

use serde_json::Value;

use super::{Named, PointRef};
use crate::scan::Condition;
use crate::source::At;

/// A value that is given to an input or option.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Given {
    /// The input's name.
    pub name: Named,
    /// The value.
    pub value: Value,
    /// Where the value stands.
    pub at: At,
}

/// A value that is written out in a template or module.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Written {
    /// The value.
    pub value: Value,
    /// Where it stands.
    pub at: At,
}

/// One use of a component as content.
#[derive(Clone, Debug, PartialEq)]
pub struct Item {
    /// The component.
    pub component: PointRef,
    /// Its inputs. In an area, the one called `title` is the item's title.
    pub inputs: Vec<Given>,
    /// What it holds.
    pub holds: Vec<Item>,
    /// Where this holds.
    pub when: Option<Condition>,
    /// Was there a `when` that doesn't parse?
    pub when_broken: bool,
}

impl Item {
    /// The item and all that it holds, each with how deep it is nested, from 1.
    pub fn all(&self) -> Vec<(&Item, usize)> {
        let mut found = vec![(self, 1)];
        let mut at = 0;
        while let Some((item, depth)) = found.get(at).copied() {
            found.extend(item.holds.iter().map(|held| (held, depth + 1)));
            at += 1;
        }
        found
    }
}

/// What a point is filled with.
#[derive(Clone, Debug, PartialEq)]
pub enum FillContent {
    /// Items, in their order.
    Items(Vec<Item>),
    /// One of the site's menus.
    Menu(Named),
}

/// What the site puts into one point.
#[derive(Clone, Debug, PartialEq)]
pub struct Fill {
    /// The point.
    pub to: PointRef,
    /// What it is filled with.
    pub content: FillContent,
}

impl Fill {
    /// Its items; none where it is a menu.
    pub fn items(&self) -> &[Item] {
        match &self.content {
            FillContent::Items(items) => items,
            FillContent::Menu(_) => &[],
        }
    }
}

/// `preview/site.toml`
#[derive(Clone, Debug, PartialEq, Default)]
pub struct SiteShape {
    /// Could it not be understood at all?
    pub broken: bool,
    /// What fills the points.
    pub fills: Vec<Fill>,
    /// The names of its menus.
    pub menus: Vec<Named>,
    /// The options that it chooses.
    pub options: Vec<Given>,
    /// The further keys, which features may have.
    pub keys: Vec<Given>,
    /// The files that further keys name, as the site's emblem.
    pub files: Vec<Named>,
    /// Where the entries of its menus lead.
    pub links: Vec<Named>,
    /// All of it, as JSON; dates are RFC 3339 text.
    pub value: Value,
}

/// The text of a page, in Markdown or HTML.
#[derive(Clone, Debug, PartialEq, Eq, Default)]
pub struct BodyShape {
    /// Where people are led.
    pub links: Vec<Named>,
    /// What is loaded with the page, as pictures.
    pub files: Vec<Named>,
    /// What a browser would carry out.
    pub scripts: Vec<Named>,
}

/// One of `preview/pages/*.toml`.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct PageShape {
    /// Could it not be understood at all?
    pub broken: bool,
    /// `path`
    pub path: Option<Named>,
    /// `type`
    pub page_type: Option<Named>,
    /// `body`: a file beside it.
    pub body: Option<Named>,
    /// Does it take away the page of that path in a lower layer's preview?
    pub dropped: bool,
    /// `sections`: what it is composed of.
    pub sections: Vec<Item>,
    /// The further keys, which its type of page may have.
    pub keys: Vec<Given>,
    /// The files that further keys name, as the page's leading picture.
    pub files: Vec<Named>,
    /// All of it, as JSON; dates are RFC 3339 text.
    pub value: Value,
}
