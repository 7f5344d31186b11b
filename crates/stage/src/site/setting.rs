//! What all pages of a site have in common, worked out once: who the theme is, what the site says of itself,
//! which options it chose, what it puts into points, and which pages there are.

use rustc_hash::FxHashMap;
use std::sync::{Arc, LazyLock};

use minijinja::Value;
use serde_json::{Map, Value as Json};
use truehook_core::address::{Address, Kind};
use truehook_core::link::{PAGE_KEYS, Registry, SITE_KEYS, THEME_KEYS};
use truehook_core::name::Name;
use truehook_core::schema::misfit;
use truehook_core::source::LayerId;

use super::feed::{self, FeedEntry};
use super::globals::{Globals, KnownTable, Strays, Values};
use super::{PageContent, PageInfo, Site};
use crate::value::{as_attributes, empty_table, from_json};

/// What the site puts into one point.
#[derive(Debug)]
pub enum Filled {
    Items(Vec<Json>),
    Menu(Vec<Json>),
}

/// A table whose values and keys are the same on all pages.
struct Shared {
    values: Arc<Values>,
    known: Arc<[Name]>,
}

impl Shared {
    fn new(values: Values, known: impl Iterator<Item = Name>) -> Shared {
        Shared { values: Arc::new(values), known: known.collect() }
    }

    fn table(&self, name: &'static str, strays: &Arc<Strays>) -> Value {
        let (values, known, strays) = (self.values.clone(), self.known.clone(), strays.clone());
        Value::from_object(KnownTable { name, values, known, strays })
    }

    fn get(&self, key: &str) -> Option<&Value> {
        self.values.iter().find(|(name, _)| *name == *key).map(|(_, value)| value)
    }
}

pub struct Setting {
    pages: Vec<PageInfo>,
    fills: FxHashMap<Address, Filled>,
    site: Shared,
    theme: Shared,
    options: Shared,
    page_keys: Arc<[Name]>,
    /// The keys that features which are not switched on would add to pages.
    unfed: Vec<Name>,
    /// What the way to a page begins with, where pages know it.
    home: Option<Value>,
    /// The attributes of the html element, where no filter changes them.
    root: Value,
}

impl Setting {
    /// `language` takes the place of what the site says of its own.
    pub fn new(registry: &Registry, site: &dyn Site, language: Option<&str>) -> Setting {
        let mut said = site.values();
        if let Some(language) = language {
            said.insert("language".into(), language.into());
        }
        let mut pages = site.pages();
        pages.sort_by(|a, b| a.path.cmp(&b.path));
        let page_keys = PAGE_KEYS.iter().map(Name::from).chain(registry.type_keys()).chain(registry.fed_keys("page"));
        let on = registry.fed_keys_on("page");
        let unfed = registry.fed_keys("page").into_iter().filter(|key| !on.contains(key)).collect();
        let (theme, options) = (theme(registry), options(registry, &said));
        let option_names: Vec<Name> = options.iter().map(|(name, _)| *name).collect();
        let site_keys = SITE_KEYS.iter().map(Name::from).chain(registry.fed_keys("site"));
        let site = Shared::new(site_values(registry, &theme, &said), site_keys);
        let language = Value::from_pairs([("lang", site.get("language").cloned().unwrap_or_default())]);
        let home = registry.argument("breadcrumbs", "home");
        Setting {
            pages,
            fills: fills(&said),
            root: Value::from_safe_string(as_attributes(&language)),
            site,
            theme: Shared::new(theme, THEME_KEYS.iter().map(Name::from)),
            options: Shared::new(options, option_names.into_iter()),
            page_keys: page_keys.collect(),
            unfed,
            home: home.as_ref().map(from_json),
        }
    }

    /// The language of the site.
    pub fn language(&self) -> String {
        self.site_text("language")
    }

    fn site_text(&self, key: &str) -> String {
        self.site.get(key).map(|value| value.to_string()).unwrap_or_default()
    }

    pub fn pages(&self) -> &[PageInfo] {
        &self.pages
    }

    /// The page of that path, with or without the slash at its end.
    pub fn find(&self, path: &str) -> Option<&PageInfo> {
        let with_slash = format!("{}/", path.trim_end_matches('/'));
        self.pages.iter().find(|page| page.path == path || page.path == with_slash)
    }

    /// What the site puts into a point.
    pub fn fill(&self, point: Address) -> Option<&Filled> {
        self.fills.get(&point)
    }

    /// The feed of the newest pages, where the theme has one.
    pub fn feed(&self, registry: &Registry, site: &dyn Site) -> Option<String> {
        let of = registry.argument("newsfeed", "of")?;
        let of: Vec<&str> = of.as_array()?.iter().filter_map(Json::as_str).collect();
        let count = registry.argument("newsfeed", "count").and_then(|count| count.as_u64()).unwrap_or(20);
        let wanted = |page: &&PageInfo| of.contains(&page.page_type.as_str()) && !page.sample;
        let mut found: Vec<&PageInfo> = self.pages.iter().filter(wanted).collect();
        found.sort_by(|a, b| (&b.date, &a.path).cmp(&(&a.date, &b.path)));
        let entry = |page: &PageInfo| {
            let content = site.page(&page.path).unwrap_or_default();
            let summary = content.values.get("summary").and_then(Json::as_str).unwrap_or_default().to_string();
            let date = if page.date.is_empty() { self.site_text("now") } else { page.date.clone() };
            FeedEntry { path: page.path.clone(), title: page.title.clone(), date, summary }
        };
        let entries: Vec<FeedEntry> = found.into_iter().take(count as usize).map(entry).collect();
        let name = registry.project().layer(registry.project().top()).name;
        feed::atom(&name, &self.site_text("title"), &self.site_text("now"), &entries).ok()
    }

    /// The values of a page and of its site.
    pub fn globals(&self, info: &PageInfo, content: &PageContent, site: &dyn Site) -> Globals {
        let strays = Arc::new(Strays::default());
        let mut values = page_values(info, &content.values);
        values.retain(|(key, _)| !self.unfed.contains(key));
        values.extend(self.trail(info).map(|trail| ("trail".into(), trail)));
        values.push(("root".into(), self.root.clone()));
        if let Some(body) = &content.body {
            values.push(("body".into(), Value::from_safe_string(body.clone())));
        }
        if info.page_type == "list" {
            values.push(("entries".into(), self.entries(&info.path, site, &strays)));
        }
        Globals {
            page: self.page_table(values, &strays),
            site: self.site.table("site", &strays),
            theme: self.theme.table("theme", &strays),
            options: self.options.table("options", &strays),
            strays,
        }
    }

    fn page_table(&self, values: Values, strays: &Arc<Strays>) -> Value {
        let (known, strays) = (self.page_keys.clone(), strays.clone());
        Value::from_object(KnownTable { name: "page", values: Arc::new(values), known, strays })
    }

    /// The entry pages below a path, newest first.
    fn entries(&self, path: &str, site: &dyn Site, strays: &Arc<Strays>) -> Value {
        let below = |info: &&PageInfo| {
            info.page_type == "entry" && info.path.starts_with(path) && info.path != path && !info.sample
        };
        let mut entries: Vec<&PageInfo> = self.pages.iter().filter(below).collect();
        entries.sort_by(|a, b| (&b.date, &b.path).cmp(&(&a.date, &a.path)));
        let entry = |info: &PageInfo| {
            let content = site.page(&info.path).unwrap_or_default();
            self.page_table(page_values(info, &content.values), strays)
        };
        entries.into_iter().map(entry).collect()
    }

    /// The way to a page, that page last; nothing where the theme has no use for it.
    fn trail(&self, info: &PageInfo) -> Option<Value> {
        let step = |label: Value, path: &str| Value::from_pairs([("label", label), ("href", Value::from(path))]);
        let mut steps = vec![step(self.home.clone()?, "/")];
        let is_above = |page: &&PageInfo| {
            page.path != "/" && page.path.ends_with('/') && info.path.starts_with(page.path.as_str()) && !page.sample
        };
        let mut above: Vec<&PageInfo> =
            self.pages.iter().filter(is_above).filter(|page| page.path != info.path).collect();
        above.sort_by_key(|page| page.path.len());
        if info.path != "/" {
            above.push(info);
        }
        steps.extend(above.into_iter().map(|page| step(Value::from(page.title.as_str()), &page.path)));
        Some(Value::from(steps))
    }
}

/// What every page has.
static OWN_KEYS: LazyLock<[Name; 4]> = LazyLock::new(|| ["path", "type", "title", "heading"].map(|key| key.into()));

fn page_values(info: &PageInfo, said: &Map<String, Json>) -> Values {
    let mut values: Values = said
        .iter()
        .filter(|(key, _)| !matches!(key.as_str(), "body" | "path" | "type" | "title"))
        .map(|(key, value)| (key.as_str().into(), from_json(value)))
        .collect();
    let own = [&info.path, &info.page_type, &info.title, &info.title];
    values.extend(OWN_KEYS.iter().zip(own).map(|(key, value)| (*key, Value::from(value.as_str()))));
    if !values.iter().any(|(key, _)| *key == "data") {
        values.push(("data".into(), empty_table()));
    }
    values
}

fn site_values(registry: &Registry, theme: &Values, said: &Map<String, Json>) -> Values {
    let on = registry.fed_keys_on("site");
    let known = |key: &str| SITE_KEYS.contains(&key) || on.iter().any(|fed| *fed == *key);
    let said = said.iter().filter(|(key, _)| known(key));
    let mut values: Values = said.map(|(key, value)| (key.as_str().into(), from_json(value))).collect();
    values.extend(banners(registry).map(|banners| ("banners".into(), banners)));
    let mut otherwise = |key: &str, value: Value| {
        if !values.iter().any(|(known, _)| *known == *key) {
            values.push((key.into(), value));
        }
    };
    let label = theme.iter().find(|(key, _)| *key == "label").map(|(_, label)| label.clone());
    otherwise("title", label.unwrap_or_default());
    otherwise("motto", Value::from(""));
    otherwise("language", Value::from("en"));
    // A page must look the same whenever it is rendered, so a site that names no time has this one.
    otherwise("now", Value::from("2026-01-01T00:00:00Z"));
    for key in ["menus", "data"] {
        otherwise(key, empty_table());
    }
    values
}

/// Every picture of the folder that the theme names for that.
fn banners(registry: &Registry) -> Option<Value> {
    let folder = registry.argument("pictures", "banners")?;
    let folder = format!("{}/", folder.as_str()?.trim_end_matches('/'));
    let mut found: Vec<&str> = Vec::new();
    for layer in &registry.project().layers {
        let pictures = layer.media.iter().map(|path| path.as_str()).filter(|path| path.starts_with(&folder));
        found.extend(pictures.filter(|path| is_picture(path)));
    }
    found.sort_unstable();
    found.dedup();
    let banner = |path: &str| {
        let stem = path.rsplit('/').next().and_then(|name| name.rsplit_once('.')).map_or(path, |(stem, _)| stem);
        Value::from_pairs([("file", path.to_string()), ("alt", stem.replace(['-', '_'], " "))])
    };
    Some(found.into_iter().map(banner).collect())
}

fn is_picture(path: &str) -> bool {
    let ending = path.rsplit_once('.').map(|(_, ending)| ending.to_ascii_lowercase());
    matches!(ending.as_deref(), Some("svg" | "png" | "jpg" | "jpeg" | "gif" | "webp" | "avif"))
}

/// What the site puts into points: lists of items, and menus by their names.
fn fills(said: &Map<String, Json>) -> FxHashMap<Address, Filled> {
    let menus = said.get("menus").and_then(Json::as_object);
    let all = said.get("fill").and_then(Json::as_object).into_iter().flatten();
    all.filter_map(|(point, content)| {
        let filled = match content {
            Json::Array(items) => Filled::Items(items.clone()),
            Json::String(menu) => Filled::Menu(menus?.get(menu)?.as_array()?.clone()),
            _ => return None,
        };
        Some((point.parse().ok()?, filled))
    })
    .collect()
}

/// The options of the theme: what the site chose where that fits, else their defaults.
fn options(registry: &Registry, said: &Map<String, Json>) -> Values {
    let chosen = said.get("options").and_then(Json::as_object);
    let declared = registry.points().filter(|point| point.address.kind == Kind::Option);
    declared
        .map(|point| {
            let schema = point.schema();
            let given = chosen.and_then(|chosen| chosen.get(point.address.name.as_str()));
            let given = given.filter(|value| schema.is_none_or(|schema| misfit(schema, value).is_none()));
            let value = given.or_else(|| schema?.get("default")).map_or(Value::from(()), from_json);
            (point.address.name, value)
        })
        .collect()
}

/// Who the theme is. What it does not say of itself, its base says.
fn theme(registry: &Registry) -> Values {
    let project = registry.project();
    let top = project.top();
    let identity = |layer: LayerId| {
        registry.manifest(project.layer(layer).manifest).and_then(|manifest| manifest.identity.as_ref())
    };
    let own = identity(top);
    let themes: Vec<_> = registry.bases().into_iter().filter_map(identity).collect();
    let name = project.layer(top).name;
    let label = own.and_then(|identity| identity.label).unwrap_or(name);
    let mut values: Values =
        vec![("name".into(), Value::from(name.as_str())), ("label".into(), Value::from(label.as_str()))];
    let about = themes.iter().find_map(|identity| identity.about);
    values.extend(about.map(|about| ("about".into(), Value::from(about.as_str()))));
    let picture = themes.iter().find_map(|identity| identity.picture);
    values.extend(picture.map(|picture| ("picture".into(), Value::from(picture.name.as_str()))));
    if let Some(version) = own.and_then(|identity| identity.version.as_ref()) {
        values.push(("version".into(), Value::from(version.to_string())));
    }
    values
}
