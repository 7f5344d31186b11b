//! What a site would bring: its pages and its own data, from the preview or, where there is none,
//! one page of each type.

use std::sync::{Arc, LazyLock};

use minijinja::Value;
use pulldown_cmark::{Options, Parser, html};
use serde_json::Value as Json;
use truehook_core::address::Kind;
use truehook_core::link::{PAGE_KEYS, Registry, SITE_KEYS, THEME_KEYS};
use truehook_core::name::Name;
use truehook_core::read::DiskFiles;
use truehook_core::scan::{PageShape, Shape, scan_file};
use truehook_core::schema::misfit;
use truehook_core::source::{FileId, LayerId};

use crate::features;
use crate::feed::{self, FeedEntry};
use crate::moments;
use crate::values::{KnownTable, Values, from_json};

/// A page, as lists show it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PageInfo {
    /// Its path.
    pub path: String,
    /// Its type.
    pub page_type: String,
    /// Its title.
    pub title: String,
}

/// The values of one page and its site.
#[derive(Clone, Debug)]
pub struct Globals {
    pub page: Value,
    pub site: Value,
    pub theme: Value,
    pub options: Value,
}

impl Globals {
    /// The page with some of its values changed.
    pub fn page_with(&self, changed: Vec<(&str, Value)>) -> Value {
        let Some(table) = self.page.downcast_object_ref::<KnownTable>() else { return self.page.clone() };
        let mut values = table.values.clone();
        for (key, value) in changed {
            match values.iter_mut().find(|(known, _)| *known == *key) {
                Some((_, known)) => *known = value,
                None => values.push((key.into(), value)),
            }
        }
        Value::from_object(KnownTable { name: table.name, values, known: table.known.clone() })
    }
}

/// A page of the site. What else there is to it is read when it is rendered, so that many pages take
/// little room.
struct Page {
    info: PageInfo,
    date: String,
    file: Option<FileId>,
    body: Option<FileId>,
    /// What its file says, where all of that is kept.
    shape: Option<Arc<PageShape>>,
}

pub struct Pages {
    pages: Vec<Page>,
    site: Value,
    theme: Value,
    options: Value,
    page_keys: Arc<[Name]>,
    /// The keys that features which are not switched on would add to pages.
    unfed: Vec<Name>,
    /// Do pages know the way that leads to them?
    has_trail: bool,
    /// The attributes of the html element, where no filter changes them.
    root: Value,
}

impl Pages {
    pub fn new(registry: &Registry, language: Option<&str>) -> Pages {
        let mut pages: Vec<Page> = registry
            .pages()
            .filter_map(|(file, shape)| {
                let text = |key: &str| shape.value.get(key).and_then(Json::as_str).unwrap_or_default().to_string();
                let (path, page_type) = (shape.path?.name.to_string(), text("type"));
                let body = shape.body.and_then(|body| registry.body_file(file, &body.name));
                let info = PageInfo { path, page_type, title: text("title") };
                let kept = (!registry.partly).then(|| Arc::new(shape.clone()));
                Some(Page { info, date: text("date"), file: Some(file), body, shape: kept })
            })
            .collect();
        if pages.is_empty() {
            pages = registry.types.iter().map(|page_type| sample(page_type.name.as_str())).collect();
        }
        pages.sort_by(|a, b| a.info.path.cmp(&b.info.path));
        let keys = registry.types.iter().flat_map(|page_type| &page_type.keys).map(|field| field.name);
        let page_keys = PAGE_KEYS.iter().map(Name::from).chain(keys).chain(registry.fed_keys("page")).collect();
        let on = registry.fed_keys_on("page");
        let unfed = registry.fed_keys("page").into_iter().filter(|key| !on.contains(key)).collect();
        let (theme, options) = (theme(registry), options(registry));
        let strings = |keys: &[&str]| keys.iter().map(Name::from).collect();
        let option_names = options.iter().map(|(name, _)| *name).collect();
        let site_keys = SITE_KEYS.iter().map(Name::from).chain(registry.fed_keys("site")).collect();
        let mut values = site_values(registry, &theme);
        if let Some(language) = language {
            values.retain(|(key, _)| *key != "language");
            values.push(("language".into(), Value::from(language)));
        }
        let site = table("site", values, site_keys);
        let language = Value::from_pairs([("lang", site.get_attr("language").unwrap_or_default())]);
        Pages {
            pages,
            root: Value::from_safe_string(moments::attributes(&language)),
            site,
            theme: table("theme", theme, strings(&THEME_KEYS)),
            options: table("options", options, option_names),
            page_keys,
            unfed,
            has_trail: registry.arguments("breadcrumbs").is_some(),
        }
    }

    /// The language of the site.
    pub fn language(&self) -> String {
        self.site.get_attr("language").map(|language| language.to_string()).unwrap_or_default()
    }

    /// The feed of the newest pages, where the theme has one.
    pub fn feed(&self, registry: &Registry) -> Option<String> {
        let arguments = registry.arguments("feeds")?;
        let of: Vec<&str> = arguments.get("of").and_then(Json::as_array)?.iter().filter_map(Json::as_str).collect();
        let count = arguments.get("count").and_then(Json::as_u64).unwrap_or(20);
        let mut found: Vec<(usize, &Page)> =
            self.pages.iter().enumerate().filter(|(_, page)| of.contains(&page.info.page_type.as_str())).collect();
        found.sort_by(|(_, a), (_, b)| (&b.date, &a.info.path).cmp(&(&a.date, &b.info.path)));
        let site = |key: &str| self.site.get_attr(key).map(|value| value.to_string()).unwrap_or_default();
        let entry = |(at, page): (usize, &Page)| {
            let shape = self.shape(at, registry);
            let said = |key: &str| shape.as_ref()?.value.get(key)?.as_str().map(str::to_string);
            let date = if page.date.is_empty() { site("now") } else { page.date.clone() };
            let (path, title) = (page.info.path.clone(), page.info.title.clone());
            FeedEntry { path, title, date, summary: said("summary").unwrap_or_default() }
        };
        let entries: Vec<FeedEntry> = found.into_iter().take(count as usize).map(entry).collect();
        let name = registry.project.layer(registry.project.top()).name;
        feed::atom(&name, &site("title"), &site("now"), &entries).ok()
    }

    pub fn list(&self) -> Vec<PageInfo> {
        self.pages.iter().map(|page| page.info.clone()).collect()
    }

    pub fn position(&self, path: &str) -> Option<usize> {
        let with_slash = format!("{}/", path.trim_end_matches('/'));
        self.pages.iter().position(|page| page.info.path == path || page.info.path == with_slash)
    }

    pub fn info(&self, position: usize) -> &PageInfo {
        &self.pages[position].info
    }

    /// The file of a page's body.
    pub fn body(&self, position: usize) -> Option<FileId> {
        self.pages[position].body
    }

    /// All that a page's file says.
    pub fn shape(&self, position: usize, registry: &Registry) -> Option<Arc<PageShape>> {
        if let Some(known) = &self.pages[position].shape {
            return Some(known.clone());
        }
        match scan_file(&registry.project.with_text(&DiskFiles, self.pages[position].file?)).shape {
            Shape::Page(shape) => Some(Arc::from(shape)),
            _ => None,
        }
    }

    /// The values of a page and of its site.
    pub fn globals(&self, position: usize, shape: Option<&PageShape>, registry: &Registry) -> Globals {
        let Page { info, body, .. } = &self.pages[position];
        let mut values = page_values(info, shape);
        values.retain(|(key, _)| !self.unfed.contains(key));
        if self.has_trail {
            let trail = features::trail(registry, info, &self.above(&info.path));
            values.extend(trail.map(|trail| ("trail".into(), trail)));
        }
        values.push(("root".into(), self.root.clone()));
        if let Some(body) = body {
            values.push(("body".into(), body_markup(registry, *body)));
        }
        if info.page_type == "list" {
            values.push(("entries".into(), self.entries(&info.path, registry)));
        }
        Globals {
            page: table("page", values, self.page_keys.clone()),
            site: self.site.clone(),
            theme: self.theme.clone(),
            options: self.options.clone(),
        }
    }

    /// The pages that a path leads through.
    fn above(&self, path: &str) -> Vec<PageInfo> {
        self.pages.iter().map(|page| &page.info).filter(|page| path.starts_with(page.path.as_str())).cloned().collect()
    }

    /// The entry pages below a path, newest first.
    fn entries(&self, path: &str, registry: &Registry) -> Value {
        let below = |info: &PageInfo| info.page_type == "entry" && info.path.starts_with(path) && info.path != path;
        let found = self.pages.iter().enumerate().filter(|(_, page)| below(&page.info));
        let mut entries: Vec<(&str, usize)> = found.map(|(at, page)| (page.date.as_str(), at)).collect();
        entries.sort_by(|a, b| b.cmp(a));
        let entry = |at: usize| {
            let values = page_values(&self.pages[at].info, self.shape(at, registry).as_deref());
            table("page", values, self.page_keys.clone())
        };
        entries.into_iter().map(|(_, at)| entry(at)).collect()
    }
}

fn table(name: &'static str, values: Values, known: Arc<[Name]>) -> Value {
    Value::from_object(KnownTable { name, values, known })
}

fn empty() -> Value {
    Value::from_pairs(Vec::<(String, Value)>::new())
}

/// What every page has.
static OWN_KEYS: LazyLock<[Name; 4]> = LazyLock::new(|| ["path", "type", "title", "heading"].map(|key| key.into()));

fn page_values(info: &PageInfo, shape: Option<&PageShape>) -> Values {
    let said = shape.and_then(|shape| shape.value.as_object()).into_iter().flatten();
    let mut values: Values = said
        .filter(|(key, _)| !matches!(key.as_str(), "body" | "path" | "type" | "title"))
        .map(|(key, value)| (key.as_str().into(), from_json(value)))
        .collect();
    let own = [&info.path, &info.page_type, &info.title, &info.title];
    values.extend(OWN_KEYS.iter().zip(own).map(|(key, value)| (*key, Value::from(value.as_str()))));
    if !values.iter().any(|(key, _)| *key == "data") {
        values.push(("data".into(), empty()));
    }
    values
}

fn site_values(registry: &Registry, theme: &Values) -> Values {
    let said = registry.site().and_then(|(_, site)| site.value.as_object()).into_iter().flatten();
    let on = registry.fed_keys_on("site");
    let known = |key: &str| SITE_KEYS.contains(&key) || on.iter().any(|fed| *fed == *key);
    let said = said.filter(|(key, _)| known(key));
    let mut values: Values = said.map(|(key, value)| (key.as_str().into(), from_json(value))).collect();
    values.extend(features::site_values(registry));
    let mut otherwise = |key: &str, value: Value| {
        if !values.iter().any(|(known, _)| *known == *key) {
            values.push((key.into(), value));
        }
    };
    let label = theme.iter().find(|(key, _)| *key == "label").map(|(_, label)| label.clone());
    otherwise("title", label.unwrap_or_default());
    otherwise("language", Value::from("en"));
    // A page must look the same whenever it is rendered, so a site that names no time has this one.
    otherwise("now", Value::from("2026-01-01T00:00:00Z"));
    for key in ["menus", "data"] {
        otherwise(key, empty());
    }
    values
}

fn sample(page_type: &str) -> Page {
    let path = if page_type == "front" { "/".to_string() } else { format!("/{page_type}/") };
    let title = format!("A page of type {page_type}");
    let info = PageInfo { path, page_type: page_type.into(), title };
    Page { info, date: String::new(), file: None, body: None, shape: None }
}

/// The options of the theme: what the site chose where that fits, else their defaults.
fn options(registry: &Registry) -> Values {
    let chosen = registry.site().map(|(_, site)| site.options.as_slice()).unwrap_or_default();
    let declared = registry.points.values().filter(|point| point.address.kind == Kind::Option);
    declared
        .map(|point| {
            let schema = point.schema();
            let given = chosen.iter().find(|given| given.name.name == point.address.name).map(|given| &given.value);
            let given = given.filter(|value| schema.is_none_or(|schema| misfit(schema, value).is_none()));
            let value = given.or_else(|| schema?.get("default")).map_or(Value::from(()), from_json);
            (point.address.name, value)
        })
        .collect()
}

/// Who the theme is. What it does not say of itself, its base says.
fn theme(registry: &Registry) -> Values {
    let top = registry.project.top();
    let identity = |layer: LayerId| {
        registry.manifest(registry.project.layer(layer).manifest).and_then(|manifest| manifest.identity.as_ref())
    };
    let own = identity(top);
    let themes: Vec<_> = registry.bases().into_iter().filter_map(identity).collect();
    let name = registry.project.layer(top).name;
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

/// A page's body as markup: Markdown (CommonMark with tables, footnotes and strikethrough), or HTML
/// as it is.
fn body_markup(registry: &Registry, file: FileId) -> Value {
    let source = registry.project.file(file);
    if source.path.extension() == Some("html") {
        return Value::from_safe_string(source.text().to_string());
    }
    let options = Options::ENABLE_TABLES | Options::ENABLE_FOOTNOTES | Options::ENABLE_STRIKETHROUGH;
    let mut markup = String::new();
    html::push_html(&mut markup, Parser::new_ext(source.text(), options));
    Value::from_safe_string(markup)
}
