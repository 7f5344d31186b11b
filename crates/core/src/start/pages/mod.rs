//! A theme made of plain pages: their layout, menus, assets and texts, such that each page, rendered, is what it was.
//!
//! ```text
//! files ──▶ Page (tokens) ──▶ Group (what is alike) ──▶ templates, preview, assets, manifest
//! ```

mod address;
mod assets;
mod common;
mod entries;
mod html;
mod markup;
mod menu;
mod needs;
mod parts;
mod preview;
mod remains;
mod settle;
mod varied;

use std::collections::{BTreeMap, BTreeSet};

use camino::Utf8PathBuf;

use crate::edit::declare::in_words;
use crate::names;
use address::{Met, Site};
use assets::Assets;
use common::{Group, groups, menu_key};
use markup::Writing;
use parts::Page;

/// A page that is taken from.
#[derive(Clone, Debug)]
pub struct Source {
    /// Its path from the pages' common folder, with `/`.
    pub file: String,
    /// What it holds.
    pub text: String,
}

/// The files beside the pages.
pub trait Beside {
    /// The bytes of a file, by its path from the common folder; nothing where there is none.
    fn read(&self, path: &str) -> Option<Vec<u8>>;

    /// Is there a file of that path?
    fn has(&self, path: &str) -> bool {
        self.read(path).is_some()
    }
}

/// What became of a piece of a page.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fate {
    /// The page's file.
    pub file: String,
    /// The line, from 1.
    pub line: usize,
    /// What it was.
    pub what: String,
    /// What it became; or why it was left.
    pub now: String,
}

/// A theme that came of pages.
#[derive(Clone, Debug, Default)]
pub struct Taken {
    /// Its files.
    pub files: Vec<(Utf8PathBuf, Vec<u8>)>,
    /// What was turned into something.
    pub turned: Vec<Fate>,
    /// What was left as it was, and why.
    pub left: Vec<Fate>,
}

/// Why pages can't be taken apart.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PagesError {
    /// There are none.
    #[error("say which pages to take apart")]
    None,
    /// A page has no text.
    #[error("{0} is empty; there is nothing to take apart")]
    Empty(String),
    /// A file that a page loads can't be had.
    #[error("{0} can't be read, or is too large to come along; leave it out of the pages first")]
    Unread(String),
    /// Two pages would get one path.
    #[error("{0} and {1} would be one page, {2}; leave out one of them")]
    Same(String, String, String),
    /// What came of it is no theme that passes its checks.
    #[error("{file}:{line}: {message}")]
    Check {
        /// A file of the theme.
        file: String,
        /// The line in it.
        line: usize,
        /// What is wrong there.
        message: String,
    },
}

/// What is known of all pages together.
struct Whole<'s> {
    name: &'s str,
    site: Site<'s>,
    pages: Vec<Page>,
    groups: Vec<Group>,
    /// What the menus say that are taken as menus, each with its name.
    menus: Vec<(String, String)>,
    /// The pages whose texts hold scripts: no host lets those stay in what people write into pages.
    scripted: Vec<usize>,
}

/// Makes a theme of that name out of plain pages.
///
/// # Errors
/// Where there are no pages, one is empty, or two would be the same.
pub fn from_pages(name: &str, sources: Vec<Source>, beside: &dyn Beside) -> Result<Taken, PagesError> {
    let first = take(name, sources.clone(), beside, Manner { menus: true, lenient: false });
    let Err(PagesError::Check { file, line, message }) = first else { return first };
    // What doesn't come out clean stays as it was: the menus, where they are why; and what is left then is told.
    if let Ok(mut taken) = take(name, sources.clone(), beside, Manner { menus: false, lenient: false }) {
        let now = format!("they stay as they were: with menus in their place, {message}");
        taken.left.push(Fate { file, line, what: "the lists of links".to_string(), now });
        return Ok(taken);
    }
    take(name, sources, beside, Manner { menus: true, lenient: true })
}

/// How pages are taken apart.
#[derive(Clone, Copy)]
struct Manner {
    /// Do lists of links become menus?
    menus: bool,
    /// Is what is wrong with the result told, and no reason to give up?
    lenient: bool,
}

fn take(name: &str, sources: Vec<Source>, beside: &dyn Beside, manner: Manner) -> Result<Taken, PagesError> {
    let mut pages: Vec<Page> = Vec::new();
    for source in sources {
        if source.text.trim().is_empty() {
            return Err(PagesError::Empty(source.file));
        }
        let path = path_of(&source.file);
        if let Some(other) = pages.iter().find(|page| page.path == path) {
            return Err(PagesError::Same(other.file.clone(), source.file, path));
        }
        let text = source.text.trim_start_matches('\u{feff}').to_string();
        pages.push(Page::new(source.file, path, text, &|_| manner.menus));
    }
    // The front page first: what is said once, it says.
    pages.sort_by_key(|page| (page.path != "/", page.path.clone()));
    if pages.is_empty() {
        return Err(PagesError::None);
    }
    let known: BTreeMap<String, String> = pages.iter().map(|page| (page.file.clone(), page.path.clone())).collect();
    let is_there = |path: &str| !path.ends_with('/') && beside.has(path);
    let mut site = Site { pages: known, is_there: &is_there, anchors: BTreeSet::new() };
    site.anchors = anchors(&site, &pages);
    let mut taken = Taken::default();
    let menus = entries::menus(&site, &pages, &mut taken);
    // What can be no menu is compared link by link.
    let says: Vec<&str> = menus.iter().filter_map(|(key, _)| Some(key.split_once(' ')?.1)).collect();
    let pages: Vec<Page> = pages
        .into_iter()
        .map(|page| {
            let kept: Vec<String> = (0..page.menus.len()).map(|at| common::entries(&site, &page, at)).collect();
            let is_menu = |menu: &menu::Menu| {
                let known = page.menus.iter().position(|own| own.lead.start == menu.lead.start);
                known.is_some_and(|at| says.contains(&kept[at].as_str()))
            };
            Page::new(page.file.clone(), page.path.clone(), page.text.clone(), &is_menu)
        })
        .collect();
    let keys: Vec<String> = menus.iter().map(|(key, _)| key.clone()).collect();
    let groups = groups(&site, &pages, &keys);
    let mut whole = Whole { name, site, pages, groups, menus, scripted: Vec::new() };
    whole.find_scripts();
    whole.keep_menus(&mut taken);
    let mut met = Met::default();
    let mut assets = Assets::collect(&whole, &mut met, &mut taken);
    let mut writing = Writing { whole: &whole, met: &mut met, taken: &mut taken, group: None };
    let templates = writing.templates(&assets);
    let partials = writing.partials();
    let previews = writing.previews();
    taken.files.extend(templates.into_iter().chain(partials).chain(previews));
    whole.copy(beside, &mut met, &mut taken)?;
    remains::tell(&whole, beside, &met.files, &mut taken);
    assets.find_needs(&taken.files);
    settle::settle(&whole, &assets, &met, &mut taken, manner.lenient)?;
    taken.files.sort();
    Ok(taken)
}

/// The places on pages to which links of other pages lead.
fn anchors(site: &Site<'_>, pages: &[Page]) -> BTreeSet<String> {
    let mut found = BTreeSet::new();
    for page in pages {
        let links = page.menus.iter().flat_map(|menu| &menu.items).filter_map(|item| item.href.as_deref());
        for href in links.filter(|href| !href.starts_with('#') && href.contains('#')) {
            if let address::Leads::Page(path, rest) = site.leads(&page.file, href) {
                found.insert(format!("{path}{rest}"));
            }
        }
    }
    found
}

/// The path that a page gets: its own, with `/` for an index.
fn path_of(file: &str) -> String {
    match file.strip_suffix("index.html").or_else(|| file.strip_suffix("index.htm")) {
        Some(folder) if folder.is_empty() || folder.ends_with('/') => format!("/{folder}"),
        _ => format!("/{file}"),
    }
}

impl Whole<'_> {
    /// Keeps the menus that stand in a layout: what stands in the text of a page stays there.
    fn keep_menus(&mut self, taken: &mut Taken) {
        let mut used: Vec<(String, Fate)> = Vec::new();
        for group in &self.groups {
            let page = &self.pages[group.pages[0]];
            let own = common::own(page, group);
            for at in (page.body.start..own.start).chain(own.end..page.body.end) {
                let html::Kind::Menu(menu) = page.tokens[at].kind else { continue };
                let says = menu_key(&self.site, page, menu);
                let known = self.menus.iter().find(|(known, _)| *known == says);
                if let Some((_, name)) = known.filter(|_| used.iter().all(|(known, _)| *known != says)) {
                    let now = format!("menu:{name}, filled with the menu {name} of the preview");
                    let what = "a list of links".to_string();
                    used.push((says, Fate { file: page.file.clone(), line: page.line(at), what, now }));
                }
            }
        }
        self.menus.retain(|(says, _)| used.iter().any(|(known, _)| known == says));
        taken.turned.extend(used.into_iter().map(|(_, fate)| fate));
    }

    /// Finds the pages whose texts hold scripts.
    fn find_scripts(&mut self) {
        for group in &self.groups {
            for at in &group.pages {
                let page = &self.pages[*at];
                let own = &page.tokens[common::own(page, group)];
                let (Some(first), Some(last)) = (own.first(), own.last()) else { continue };
                if !crate::html::scripts(&page.text[first.range.start..last.range.end]).is_empty() {
                    self.scripted.push(*at);
                }
            }
        }
        self.scripted.sort_unstable();
    }

    /// The partial that holds the text of a page.
    fn text_of(&self, at: usize) -> String {
        format!("{}-text", self.preview_of(at))
    }

    /// The type of a page.
    fn type_of(&self, at: usize) -> String {
        let page = &self.pages[at];
        let own = self.groups.iter().skip(1).any(|group| group.pages.contains(&at));
        match page.path.as_str() {
            "/" if !own => "front".into(),
            path if path.ends_with("404.html") && !own => "missing".into(),
            _ if !own => "page".into(),
            _ => self.template_of(at),
        }
    }

    /// The name of the template and type of a page that has its own.
    fn template_of(&self, at: usize) -> String {
        let own = |at: usize| {
            let file = self.pages[at].file.trim_end_matches(".html").trim_end_matches(".htm").replace('/', "-");
            names::kebab(&file).unwrap_or_else(|| format!("page-{at}"))
        };
        let name = own(at);
        let taken = ["front", "page", "list", "entry", "search", "missing", "layout"].contains(&name.as_str())
            || (0..at).any(|other| own(other) == name);
        if taken { format!("{name}-{}", at + 1) } else { name }
    }

    /// The name of a page's files in the preview.
    fn preview_of(&self, at: usize) -> String {
        let page = &self.pages[at];
        let stem = page.file.trim_end_matches(".html").trim_end_matches(".htm");
        let stem = if page.path == "/" { "front" } else { stem };
        names::kebab(&stem.replace('/', "-"))
            .filter(|name| self.is_alone(at, name))
            .unwrap_or_else(|| format!("page-{}", at + 1))
    }

    fn is_alone(&self, at: usize, name: &str) -> bool {
        let other = |page: &Page| names::kebab(&page.file.trim_end_matches(".html").replace('/', "-"));
        self.pages
            .iter()
            .enumerate()
            .all(|(number, page)| number == at || page.path == "/" || other(page).as_deref() != Some(name))
    }

    /// What all titles end with, and what parts that from the rest: where they have one ending.
    fn titles(&self) -> Option<(String, String)> {
        let titles: Vec<&str> = self.pages.iter().map(Page::title).collect::<Option<_>>()?;
        let parted =
            titles.iter().find_map(|title| SEPARATORS.into_iter().find_map(|by| Some((by, title.rsplit_once(by)?.1))));
        let (by, site) = parted?;
        let ending = format!("{by}{site}");
        let fits = |title: &&str| {
            *title == site || title.strip_suffix(&ending).is_some_and(|head| !head.is_empty() && head != site)
        };
        (titles.iter().all(fits) && !site.is_empty()).then(|| (by.to_string(), site.to_string()))
    }

    /// Copies what pages load, and what that loads in turn.
    fn copy(&self, beside: &dyn Beside, met: &mut Met, taken: &mut Taken) -> Result<(), PagesError> {
        let mut done: BTreeSet<String> = BTreeSet::new();
        while let Some(path) = met.files.iter().find(|path| !done.contains(*path)).cloned() {
            done.insert(path.clone());
            let Some(bytes) = beside.read(&path) else { return Err(PagesError::Unread(path)) };
            let bytes = match (path.ends_with(".css"), String::from_utf8(bytes)) {
                (true, Ok(text)) => self.sheet(&path, &text, met).into_bytes(),
                (_, Ok(text)) => text.into_bytes(),
                (_, Err(error)) => error.into_bytes(),
            };
            let file: Utf8PathBuf = format!("media/{}", address::placed(&path)).into();
            if taken.files.iter().any(|(known, _)| *known == file) {
                let now = "a file of that name is there already, so this one does not come along".to_string();
                taken.left.push(Fate { file: path.clone(), line: 1, what: path, now });
                continue;
            }
            taken.files.push((file, bytes));
        }
        Ok(())
    }

    /// A style sheet as it is in the theme: the same, but for addresses from the site's root.
    fn sheet(&self, path: &str, text: &str, met: &mut Met) -> String {
        let mut new = Vec::new();
        for range in crate::loads::urls(text) {
            let written = &text[range.clone()];
            match self.site.leads(path, written) {
                address::Leads::File(file) => {
                    met.files.insert(file.clone());
                    let (from, to) = (address::placed(path), address::placed(&file));
                    let leads = address::joined(from, written.split(['?', '#']).next().unwrap_or_default());
                    if written.starts_with('/') || leads.as_deref() != Some(to) {
                        let end = written.find(['?', '#']).unwrap_or(written.len());
                        new.push((range, format!("{}{}", address::relative(from, to), &written[end..])));
                    }
                }
                address::Leads::Nowhere(_) => met.broken.push((format!("{path}: {written}"), 0)),
                _ => {}
            }
        }
        address::replaced(text, 0..text.len(), new)
    }
}

/// What parts the site's title from that of a page.
const SEPARATORS: [&str; 9] = [" | ", " · ", " – ", " — ", " - ", " :: ", " : ", ": ", " / "];

/// A title for people where a page has none.
fn title_of(page: &Page) -> String {
    let stem = page.file.rsplit('/').next().unwrap_or_default().trim_end_matches(".html");
    // One that is there and says nothing stays that.
    page.title().map_or_else(|| in_words(stem), str::to_string)
}

/// What a menu on a page says.
fn said(whole: &Site<'_>, page: &Page, at: usize) -> String {
    menu_key(whole, page, at)
}
