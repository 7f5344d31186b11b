//! Previews, layered: pages by path, fills by point, the rest of the site key by key; the higher layer decides.

use rustc_hash::FxHashSet;
use serde_json::{Map, Value};

use super::ground::Ground;
use crate::name::Name;
use crate::scan::{Fill, Given, Named, PageShape, Shape, SiteShape};
use crate::source::{FileId, LayerId, Place};

/// Tables of a site that are merged entry by entry.
const MERGED: [&str; 4] = ["options", "menus", "fill", "data"];

impl Ground {
    /// What each layer's preview says of the site, the lowest first.
    pub fn sites(&self) -> impl DoubleEndedIterator<Item = (FileId, &SiteShape)> {
        let all = self.all_facts().iter().enumerate().filter_map(|(at, facts)| match &facts.shape {
            Shape::Site(site) => Some((FileId(at as u32), &**site)),
            _ => None,
        });
        all.collect::<Vec<_>>().into_iter()
    }

    /// The fills that count, with their positions in their file: of each point those of the highest layer.
    pub fn fills(&self) -> Vec<(FileId, usize, &Fill)> {
        let mut seen: FxHashSet<Name> = FxHashSet::default();
        let mut found = Vec::new();
        for (file, site) in self.sites().rev() {
            let own = site.fills.iter().enumerate().filter(|(_, fill)| !seen.contains(&fill.to.raw));
            found.extend(own.map(|(at, fill)| (file, at, fill)).collect::<Vec<_>>());
            seen.extend(site.fills.iter().map(|fill| fill.to.raw));
        }
        found
    }

    /// The menus that count, with their places.
    pub fn menus(&self) -> Vec<(Named, Place)> {
        let mut found: Vec<(Named, Place)> = Vec::new();
        for (file, site) in self.sites().rev() {
            for menu in &site.menus {
                if found.iter().all(|(known, _)| known.name != menu.name) {
                    found.push((*menu, Place { file, at: menu.at }));
                }
            }
        }
        found
    }

    /// The options that the site chooses, with their files.
    pub fn choices(&self) -> Vec<(FileId, &Given)> {
        let mut found: Vec<(FileId, &Given)> = Vec::new();
        for (file, site) in self.sites().rev() {
            for given in &site.options {
                if found.iter().all(|(_, known)| known.name.name != given.name.name) {
                    found.push((file, given));
                }
            }
        }
        found
    }

    /// What all previews together say of the site, as JSON; dates are RFC 3339 text.
    pub fn site_values(&self) -> Map<String, Value> {
        let mut all = Map::new();
        for (key, value) in self.sites().filter_map(|(_, site)| site.value.as_object()).flatten() {
            match (all.get_mut(key), value) {
                (Some(Value::Object(below)), Value::Object(over)) if MERGED.contains(&key.as_str()) => {
                    below.extend(over.clone());
                }
                _ => {
                    all.insert(key.clone(), value.clone());
                }
            }
        }
        all
    }

    /// The pages that count: of each path that of the highest layer, unless it takes the page away.
    pub fn pages(&self) -> impl Iterator<Item = (FileId, &PageShape)> {
        let all = self.all_facts().iter().enumerate().filter_map(|(at, facts)| match &facts.shape {
            Shape::Page(page) => Some((FileId(at as u32), &**page)),
            _ => None,
        });
        let all: Vec<(FileId, &PageShape)> = all.collect();
        let layer = |file: FileId| self.project().file(file).layer;
        let top = all.last().map(|(file, _)| layer(*file));
        let lower = all.iter().any(|(file, _)| Some(layer(*file)) != top);
        let mut seen = FxHashSet::default();
        if lower {
            // Higher layers come later; two pages of one layer with the same path are told by themselves.
            seen.extend(all.iter().filter_map(|(file, page)| Some((page.path?.name, layer(*file)))));
        }
        let layers = self.project().layers.len() as u16;
        let hidden = move |file: FileId, page: &PageShape| {
            let own = layer(file).0;
            page.path
                .is_some_and(|path| lower && (own + 1..layers).any(|above| seen.contains(&(path.name, LayerId(above)))))
        };
        all.into_iter().filter(move |(file, page)| !page.dropped && !hidden(*file, page))
    }
}
