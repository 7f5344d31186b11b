//! Menus: the lists of links that can be some, and what their entries look like.

use std::collections::BTreeMap;

use super::address::{Leads, Site};
use super::markup::{File, Writing};
use super::menu::{Menu, mark_names};
use super::parts::Page;
use super::{Fate, Taken, said};
use crate::names;

/// Which entries of a menu are marked on a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum State {
    Plain,
    Current,
    Ancestor,
}

/// The lists of links that can be menus: what each says, and its name. Others are told.
pub fn menus(site: &Site<'_>, pages: &[Page], taken: &mut Taken) -> Vec<(String, String)> {
    let mut found: Vec<(String, String)> = Vec::new();
    let mut told: Vec<String> = Vec::new();
    for page in pages {
        for at in 0..page.menus.len() {
            let says = said(site, page, at);
            if found.iter().any(|(known, _)| *known == says) || told.contains(&says) {
                continue;
            }
            if marks(site, pages, &says).is_some() {
                let name = free_name(&page.menus[at], &found);
                found.push((says, name));
                continue;
            }
            let line = page.line_at(page.menus[at].lead.start);
            let now =
                "the layout writes it out, since its entries are marked in more ways than a menu knows".to_string();
            taken.left.push(Fate { file: page.file.clone(), line, what: "a list of links".into(), now });
            told.push(says);
        }
    }
    found
}

fn free_name(menu: &Menu, known: &[(String, String)]) -> String {
    let own = menu.nav.iter().find_map(|words| names::kebab(words)).filter(|name| name.len() < 24);
    let name = own.unwrap_or_else(|| "site".into());
    let free = |name: &String| known.iter().all(|(_, known)| known != name);
    let names = (1..).map(|number| if number == 1 { name.clone() } else { format!("{name}-{number}") });
    names.into_iter().find(free).unwrap_or(name.clone())
}

/// How the entries of a menu are marked, by what they are to the page: the same on all pages that have it, or nothing.
fn marks(site: &Site<'_>, pages: &[Page], says: &str) -> Option<Marks> {
    let mut found: BTreeMap<State, Vec<Option<String>>> = BTreeMap::new();
    let mut unlinked: Option<String> = None;
    let mut shape: Option<(String, String)> = None;
    for page in pages {
        for (at, menu) in page.menus.iter().enumerate().filter(|(at, _)| said(site, page, *at) == says) {
            let _ = at;
            let around = (page.text[menu.lead.clone()].to_string(), page.text[menu.trail.clone()].to_string());
            if shape.get_or_insert_with(|| around.clone()) != &around {
                return None;
            }
            for item in &menu.items {
                let Some(href) = &item.href else {
                    let written = item.unlinked(&page.text, "{{ entry.label }}");
                    if unlinked.get_or_insert_with(|| written.clone()) != &written {
                        return None;
                    }
                    continue;
                };
                let state = state(site, page, href);
                let marks = item.marks();
                if found.entry(state).or_insert_with(|| marks.clone()) != &marks {
                    return None;
                }
            }
        }
    }
    // Where the page at hand is no link, it is one nowhere.
    let twofold = unlinked.is_some() && found.contains_key(&State::Current);
    (!twofold).then_some(Marks { states: found, unlinked })
}

/// What an entry is to a page, as menus see it.
fn state(site: &Site<'_>, page: &Page, href: &str) -> State {
    let Leads::Page(path, rest) = site.leads(&page.file, href) else { return State::Plain };
    let (href, own) = (format!("{path}{rest}"), page.path.trim_end_matches('/'));
    let href = href.trim_end_matches('/');
    match href == own {
        true => State::Current,
        false if !href.is_empty() && own.strip_prefix(href).is_some_and(|rest| rest.starts_with('/')) => {
            State::Ancestor
        }
        false => State::Plain,
    }
}

/// How the entries of a menu are marked.
struct Marks {
    states: BTreeMap<State, Vec<Option<String>>>,
    /// The entry of the page at hand, where that is no link.
    unlinked: Option<String>,
}

impl Writing<'_, '_> {
    /// What the entries of each menu look like.
    pub fn partials(&mut self) -> Vec<File> {
        let mut files = Vec::new();
        for (says, name) in &self.whole.menus {
            let found = self.whole.pages.iter().find_map(|page| {
                let at = (0..page.menus.len()).find(|at| said(&self.whole.site, page, *at) == *says)?;
                Some((page, &page.menus[at]))
            });
            let (Some((page, menu)), Some(marks)) = (found, marks(&self.whole.site, &self.whole.pages, says)) else {
                continue;
            };
            let Some(link) = menu.items.iter().find(|item| item.href.is_some()) else { continue };
            let item = link.written(&page.text, &marked(menu, &marks.states), "{{ entry.href }}", "{{ entry.label }}");
            let item = match &marks.unlinked {
                Some(unlinked) => format!("{{% if entry.current %}}{unlinked}{{% else %}}{item}{{% endif %}}"),
                None => item,
            };
            let gap = menu.gap.clone().map(|gap| page.text[gap].to_string()).unwrap_or_default();
            let gap = if gap.is_empty() { gap } else { format!("{{% if not loop.last %}}{gap}{{% endif %}}") };
            let text = format!(
                "{}{{% for entry in entries %}}{item}{gap}{{% endfor %}}{}",
                &page.text[menu.lead.clone()],
                &page.text[menu.trail.clone()]
            );
            files.push((format!("markup/partials/{name}-entries.html").into(), text.into_bytes()));
        }
        files
    }
}

/// The marks of a menu's entries as a template writes them.
fn marked(menu: &Menu, marks: &BTreeMap<State, Vec<Option<String>>>) -> Vec<String> {
    let plain = marks.get(&State::Plain).or_else(|| marks.values().next());
    mark_names(&menu.items)
        .into_iter()
        .enumerate()
        .map(|(number, name)| {
            let of = |state: State| {
                let value = marks.get(&state).or(plain).and_then(|values| values.get(number)).cloned().flatten();
                value.map(|value| format!(" {name}=\"{}\"", value.replace('&', "&amp;").replace('"', "&quot;"))).unwrap_or_default()
            };
            let (plain, current, above) = (of(State::Plain), of(State::Current), of(State::Ancestor));
            match (current == plain, above == plain) {
                (true, true) => plain,
                (false, true) if plain.is_empty() => format!("{{% if entry.current %}}{current}{{% endif %}}"),
                (false, true) => format!("{{% if entry.current %}}{current}{{% else %}}{plain}{{% endif %}}"),
                _ => format!("{{% if entry.current %}}{current}{{% elif entry.ancestor %}}{above}{{% else %}}{plain}{{% endif %}}"),
            }
        })
        .collect()
}
