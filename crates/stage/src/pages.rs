//! What a site would bring: its pages and its own data, from the preview or, where there is none,
//! one page of each type.

use minijinja::Value;
use pulldown_cmark::{Options, Parser, html};
use serde_json::{Map, Value as Json};
use truehook_core::link::{PAGE_KEYS, Registry, SITE_KEYS, THEME_KEYS};
use truehook_core::source::FileId;

use crate::values::{KnownTable, from_json};

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
pub struct Globals {
    pub page: Value,
    pub site: Value,
    pub theme: Value,
    pub options: Value,
}

pub struct Pages {
    pages: Vec<(PageInfo, Map<String, Json>, Option<FileId>)>,
    site: Json,
    theme: Vec<(String, Value)>,
    page_keys: Vec<String>,
}

impl Pages {
    pub fn new(registry: &Registry) -> Pages {
        let mut pages: Vec<_> = registry
            .pages()
            .filter_map(|(file, shape)| {
                let table = shape.value.as_object()?.clone();
                let text = |key: &str| table.get(key).and_then(Json::as_str).unwrap_or_default().to_string();
                let (path, page_type) = (shape.path?.name.to_string(), text("type"));
                let title = text("title");
                let body = shape.body.and_then(|body| registry.body_file(file, &body.name));
                Some((PageInfo { path, page_type, title }, table, body))
            })
            .collect();
        if pages.is_empty() {
            pages = registry.types.iter().map(|page_type| sample(page_type.name.as_str())).collect();
        }
        pages.sort_by(|a, b| a.0.path.cmp(&b.0.path));
        let site = registry.site().map(|(_, site)| site.value.clone()).unwrap_or_default();
        let keys = registry.types.iter().flat_map(|page_type| &page_type.keys).map(|field| field.name.to_string());
        let page_keys = PAGE_KEYS.iter().map(|key| key.to_string()).chain(keys).collect();
        Pages { pages, site, theme: theme(registry), page_keys }
    }

    pub fn list(&self) -> Vec<PageInfo> {
        self.pages.iter().map(|(info, _, _)| info.clone()).collect()
    }

    pub fn position(&self, path: &str) -> Option<usize> {
        let with_slash = format!("{}/", path.trim_end_matches('/'));
        self.pages.iter().position(|(info, _, _)| info.path == path || info.path == with_slash)
    }

    pub fn info(&self, position: usize) -> &PageInfo {
        &self.pages[position].0
    }

    /// The file of a page's body.
    pub fn body(&self, position: usize) -> Option<FileId> {
        self.pages[position].2
    }

    /// The values of a page and of its site.
    pub fn globals(&self, position: usize, registry: &Registry) -> Globals {
        let (info, _, body) = &self.pages[position];
        let mut values = self.page_values(position);
        if let Some(body) = body {
            values.push(("body".into(), body_markup(registry, *body)));
        }
        if info.page_type == "list" {
            values.push(("entries".into(), self.entries(&info.path)));
        }
        let table = |name, values, known: Vec<String>| Value::from_object(KnownTable { name, values, known });
        let strings = |keys: &[&str]| keys.iter().map(|key| key.to_string()).collect();
        Globals {
            page: table("page", values, self.page_keys.clone()),
            site: table("site", self.site_values(), strings(&SITE_KEYS)),
            theme: table("theme", self.theme.clone(), strings(&THEME_KEYS)),
            options: table("options", Vec::new(), Vec::new()),
        }
    }

    fn page_values(&self, position: usize) -> Vec<(String, Value)> {
        let (info, table, _) = &self.pages[position];
        let mut values: Vec<(String, Value)> = table
            .iter()
            .filter(|(key, _)| !matches!(key.as_str(), "body" | "path" | "type" | "title"))
            .map(|(key, value)| (key.clone(), from_json(value)))
            .collect();
        for (key, value) in
            [("path", &info.path), ("type", &info.page_type), ("title", &info.title), ("heading", &info.title)]
        {
            values.push((key.into(), Value::from(value.as_str())));
        }
        if !table.contains_key("data") {
            values.push(("data".into(), Value::from_pairs(Vec::<(String, Value)>::new())));
        }
        values
    }

    /// The entry pages below a path, newest first.
    fn entries(&self, path: &str) -> Value {
        let below = |(info, _, _): &&(PageInfo, Map<String, Json>, Option<FileId>)| {
            info.page_type == "entry" && info.path.starts_with(path) && info.path != path
        };
        let mut entries: Vec<(String, usize)> = Vec::new();
        for (at, page) in self.pages.iter().enumerate().filter(|(_, page)| below(page)) {
            entries.push((page.1.get("date").and_then(Json::as_str).unwrap_or_default().to_string(), at));
        }
        entries.sort_by(|a, b| b.cmp(a));
        let entry = |at: usize| {
            let (values, known) = (self.page_values(at), self.page_keys.clone());
            Value::from_object(KnownTable { name: "page", values, known })
        };
        entries.into_iter().map(|(_, at)| entry(at)).collect()
    }

    fn site_values(&self) -> Vec<(String, Value)> {
        let mut values: Vec<(String, Value)> = Vec::new();
        let table = self.site.as_object();
        for (key, value) in table.into_iter().flatten().filter(|(key, _)| SITE_KEYS.contains(&key.as_str())) {
            values.push((key.clone(), from_json(value)));
        }
        let mut otherwise = |key: &str, value: Value| {
            if !values.iter().any(|(known, _)| known == key) {
                values.push((key.into(), value));
            }
        };
        let label = self.theme.iter().find(|(key, _)| key == "label").map(|(_, label)| label.clone());
        otherwise("title", label.unwrap_or_default());
        otherwise("language", Value::from("en"));
        // A page must look the same whenever it is rendered, so a site that names no time has this one.
        otherwise("now", Value::from("2026-01-01T00:00:00Z"));
        for key in ["menus", "data"] {
            otherwise(key, Value::from_pairs(Vec::<(String, Value)>::new()));
        }
        values
    }
}

fn sample(page_type: &str) -> (PageInfo, Map<String, Json>, Option<FileId>) {
    let path = if page_type == "front" { "/".to_string() } else { format!("/{page_type}/") };
    let title = format!("A page of type {page_type}");
    (PageInfo { path, page_type: page_type.into(), title }, Map::new(), None)
}

fn theme(registry: &Registry) -> Vec<(String, Value)> {
    let identity = registry.top_manifest().and_then(|manifest| manifest.identity.as_ref());
    let name = registry.project.layer(registry.project.top()).name;
    let label = identity.and_then(|identity| identity.label).unwrap_or(name);
    let mut values = vec![("name".into(), Value::from(name.as_str())), ("label".into(), Value::from(label.as_str()))];
    if let Some(about) = identity.and_then(|identity| identity.about) {
        values.push(("about".into(), Value::from(about.as_str())));
    }
    if let Some(version) = identity.and_then(|identity| identity.version.as_ref()) {
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
