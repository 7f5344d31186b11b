//! What the features of the standard contract do by themselves. A contract of one's own that offers a
//! feature of the same name gets the same.

use minijinja::Value;
use serde_json::Value as Json;
use truehook_core::link::Registry;
use truehook_core::name::Name;

use crate::assets;
use crate::flow::Caller;
use crate::pages::PageInfo;
use crate::run::Run;
use crate::values::{escape, from_json};

/// The file of the feed, at the site's root.
pub const FEED: &str = "feed.xml";

/// What features and the theme's assets put into the head, before anything that is attached there.
pub fn head(run: &Run, styles: &str, caller: Caller<'_>) -> String {
    let mut head = title(run);
    head.push_str(&colour_schemes(&run.registry));
    head.push_str(&share_cards(run, caller));
    if run.registry.arguments("feeds").is_some() {
        let title = escape(&text(run, "site", "title"));
        let up = assets::up(&run.path);
        head.push_str(&format!(
            "<link rel=\"alternate\" type=\"application/atom+xml\" title=\"{title}\" href=\"{up}{FEED}\">\n"
        ));
    }
    head.push_str(&properties(&run.registry));
    head.push_str(styles);
    if let Some(print) = file(&run.registry, "print", "file") {
        let href = escape(&assets::input_address(run, &print, caller));
        head.push_str(&format!("<link rel=\"stylesheet\" href=\"{href}\" media=\"print\">\n"));
    }
    head
}

/// A value of `page` or `site` as text.
fn text(run: &Run, root: &str, key: &str) -> String {
    let globals = run.globals();
    let of = if root == "page" { &globals.page } else { &globals.site };
    let value = of.get_attr(key).unwrap_or_default();
    if value.is_none() || value.is_undefined() { String::new() } else { value.to_string() }
}

fn file(registry: &Registry, feature: &str, key: &str) -> Option<String> {
    Some(registry.arguments(feature)?.get(key)?.as_str()?.to_string())
}

fn title(run: &Run) -> String {
    let Some(arguments) = run.registry.arguments("page-titles") else { return String::new() };
    let separator = arguments.get("separator").and_then(Json::as_str).unwrap_or(" · ");
    let (heading, site) = (text(run, "page", "heading"), text(run, "site", "title"));
    let parts: Vec<&str> = match heading == site {
        true => vec![&heading],
        false => [heading.as_str(), &site].into_iter().filter(|part| !part.is_empty()).collect(),
    };
    format!("<title>{}</title>\n", escape(&parts.join(separator)))
}

fn colour_schemes(registry: &Registry) -> String {
    let Some(arguments) = registry.arguments("colour-schemes") else { return String::new() };
    let schemes = arguments.get("schemes").and_then(Json::as_array).into_iter().flatten().filter_map(Json::as_str);
    let schemes: Vec<&str> = schemes.collect();
    format!("<meta name=\"color-scheme\" content=\"{}\">\n", escape(&schemes.join(" ")))
}

/// Open Graph properties (ogp.me): what other places show of a link to this page.
fn share_cards(run: &Run, caller: Caller<'_>) -> String {
    if run.registry.arguments("share-cards").is_none() {
        return String::new();
    }
    let lead = run.globals().page.get_attr("lead").and_then(|lead| lead.get_attr("file")).ok();
    let lead = lead.and_then(|file| file.as_str().map(str::to_string));
    let picture = lead.or_else(|| file(&run.registry, "share-cards", "picture"));
    let kind = if text(run, "page", "date").is_empty() { "website" } else { "article" };
    let properties = [
        ("title", text(run, "page", "heading")),
        ("type", kind.to_string()),
        ("site_name", text(run, "site", "title")),
        ("description", text(run, "page", "summary")),
        ("image", picture.map(|picture| assets::input_address(run, &picture, caller)).unwrap_or_default()),
    ];
    let properties = properties.iter().filter(|(_, content)| !content.is_empty());
    properties
        .map(|(name, content)| format!("<meta property=\"og:{name}\" content=\"{}\">\n", escape(content)))
        .collect()
}

/// The custom properties that the palette, the sizes of text and the widths of the theme set.
fn properties(registry: &Registry) -> String {
    let mut set = Vec::new();
    for (feature, key, lead) in [("palette", "colours", "--colour-"), ("text-sizes", "sizes", "--lettering-")] {
        let arguments = registry.arguments(feature).unwrap_or_default();
        for (name, entry) in arguments.get(key).and_then(Json::as_object).into_iter().flatten() {
            let value = entry.get("value").and_then(Json::as_str);
            set.extend(value.map(|value| (format!("{lead}{name}"), value.to_string())));
        }
    }
    for (feature, name) in [("measure", "--extent-text"), ("breakout", "--breakout")] {
        set.extend(file(registry, feature, "width").map(|width| (name.to_string(), width)));
    }
    // What could leave the element, or the declaration, is no value.
    set.retain(|(name, value)| !format!("{name}{value}").contains(['<', '>', '{', '}', ';']));
    if set.is_empty() {
        return String::new();
    }
    let set: Vec<String> = set.iter().map(|(name, value)| format!("{name}: {value};")).collect();
    format!("<style>:root {{ {} }}</style>\n", set.join(" "))
}

/// The values that features add to `site`.
pub fn site_values(registry: &Registry) -> Vec<(Name, Value)> {
    let Some(folder) = file(registry, "banner-folder", "folder") else { return Vec::new() };
    let folder = format!("{}/", folder.trim_end_matches('/'));
    let mut found: Vec<&str> = Vec::new();
    for layer in &registry.project.layers {
        let pictures = layer.media.iter().map(|path| path.as_str()).filter(|path| path.starts_with(&folder));
        found.extend(pictures.filter(|path| is_picture(path)));
    }
    found.sort_unstable();
    found.dedup();
    let banner = |path: &str| {
        let stem = path.rsplit('/').next().and_then(|name| name.rsplit_once('.')).map_or(path, |(stem, _)| stem);
        Value::from_pairs([("file", path.to_string()), ("alt", stem.replace(['-', '_'], " "))])
    };
    vec![("banners".into(), found.into_iter().map(banner).collect())]
}

fn is_picture(path: &str) -> bool {
    let ending = path.rsplit_once('.').map(|(_, ending)| ending.to_ascii_lowercase());
    matches!(ending.as_deref(), Some("svg" | "png" | "jpg" | "jpeg" | "gif" | "webp" | "avif"))
}

/// The way to a page, that page last; nothing where the theme has no use for it.
pub fn trail(registry: &Registry, info: &PageInfo, all: &[PageInfo]) -> Option<Value> {
    let arguments = registry.arguments("breadcrumbs")?;
    let home = arguments.get("home").cloned().unwrap_or_else(|| "Home".into());
    let step = |label: Value, path: &str| Value::from_pairs([("label", label), ("href", Value::from(path))]);
    let mut steps = vec![step(from_json(&home), "/")];
    let mut above: Vec<&PageInfo> = all
        .iter()
        .filter(|page| page.path != "/" && page.path.ends_with('/') && info.path.starts_with(page.path.as_str()))
        .filter(|page| page.path != info.path)
        .collect();
    above.sort_by_key(|page| page.path.len());
    if info.path != "/" {
        above.push(info);
    }
    steps.extend(above.into_iter().map(|page| step(Value::from(page.title.as_str()), &page.path)));
    Some(Value::from(steps))
}

/// How wide a picture of a named width is; nothing where the name is none of the theme's.
pub fn width(registry: &Registry, name: &str) -> Option<i64> {
    registry.arguments("picture-widths")?.get("widths")?.get(name)?.as_i64()
}

/// The names of the theme's widths.
pub fn widths(registry: &Registry) -> Vec<String> {
    let arguments = registry.arguments("picture-widths").unwrap_or_default();
    arguments.get("widths").and_then(Json::as_object).into_iter().flatten().map(|(name, _)| name.clone()).collect()
}
