//! What the features of the standard contract put into the head by themselves. A contract of one's own that
//! offers a feature of the same name gets the same.

use serde_json::Value as Json;
use truehook_core::link::Registry;

use crate::host::Here;
use crate::points::media::input_address;
use crate::site::feed::FEED;
use crate::site::media::up;
use crate::value::escape;

/// What features and the theme's assets put into the head, before anything that is attached there.
pub fn head(here: &Here<'_>, assets: &str) -> String {
    let registry = here.page.registry();
    let mut head = title(here);
    head.push_str(&colour_schemes(registry));
    head.push_str(&share_cards(here));
    if registry.is_enabled("newsfeed") {
        let title = escape(&here.page.globals().site_text("title"));
        let up = up(&here.page.path);
        head.push_str(&format!(
            "<link rel=\"alternate\" type=\"application/atom+xml\" title=\"{title}\" href=\"{up}{FEED}\">\n"
        ));
    }
    head.push_str(&properties(registry));
    head.push_str(assets);
    if let Some(print) = text_argument(registry, "sheets", "print") {
        let href = escape(&input_address(here, &print));
        head.push_str(&format!("<link rel=\"stylesheet\" href=\"{href}\" media=\"print\">\n"));
    }
    head
}

fn text_argument(registry: &Registry, feature: &str, argument: &str) -> Option<String> {
    Some(registry.argument(feature, argument)?.as_str()?.to_string())
}

fn title(here: &Here<'_>) -> String {
    let registry = here.page.registry();
    if !registry.is_enabled("page-titles") {
        return String::new();
    }
    let separator = text_argument(registry, "page-titles", "separator").unwrap_or_default();
    let globals = here.page.globals();
    let (heading, site) = (globals.page_text("heading"), globals.site_text("title"));
    let parts: Vec<&str> = match heading == site {
        true => vec![&heading],
        false => [heading.as_str(), &site].into_iter().filter(|part| !part.is_empty()).collect(),
    };
    format!("<title>{}</title>\n", escape(&parts.join(&separator)))
}

fn colour_schemes(registry: &Registry) -> String {
    let Some(schemes) = registry.argument("colours", "schemes") else { return String::new() };
    let schemes: Vec<&str> = schemes.as_array().into_iter().flatten().filter_map(Json::as_str).collect();
    format!("<meta name=\"color-scheme\" content=\"{}\">\n", escape(&schemes.join(" ")))
}

/// Open Graph properties (ogp.me): what other places show of a link to this page.
fn share_cards(here: &Here<'_>) -> String {
    let registry = here.page.registry();
    if !registry.is_enabled("share-cards") {
        return String::new();
    }
    let globals = here.page.globals();
    let lead = globals.page.get_attr("lead").and_then(|lead| lead.get_attr("file")).ok();
    let lead = lead.and_then(|file| file.as_str().map(str::to_string));
    let picture = lead.or_else(|| text_argument(registry, "share-cards", "picture"));
    let kind = if globals.page_text("date").is_empty() { "website" } else { "article" };
    let properties = [
        ("title", globals.page_text("heading")),
        ("type", kind.to_string()),
        ("site_name", globals.site_text("title")),
        ("description", globals.page_text("summary")),
        ("image", picture.map(|picture| input_address(here, &picture)).unwrap_or_default()),
    ];
    let properties = properties.iter().filter(|(_, content)| !content.is_empty());
    properties
        .map(|(name, content)| format!("<meta property=\"og:{name}\" content=\"{}\">\n", escape(content)))
        .collect()
}

/// The custom properties that the palette, the sizes of lettering and the extents of the theme set.
fn properties(registry: &Registry) -> String {
    let mut set = Vec::new();
    let measure = text_argument(registry, "lettering", "measure");
    set.extend(measure.map(|width| ("--lettering-measure".to_string(), width)));
    let tables =
        [("colours", "palette", "--colour-"), ("lettering", "sizes", "--lettering-"), ("extent", "steps", "--extent-")];
    for (feature, argument, lead) in tables {
        let entries = registry.argument(feature, argument).unwrap_or_default();
        for (name, entry) in entries.as_object().into_iter().flatten() {
            let value = entry.get("value").and_then(Json::as_str);
            set.extend(value.map(|value| (format!("{lead}{name}"), value.to_string())));
        }
    }
    // What could leave the element, or the declaration, is no value.
    set.retain(|(name, value)| !format!("{name}{value}").contains(['<', '>', '{', '}', ';']));
    if set.is_empty() {
        return String::new();
    }
    let set: Vec<String> = set.iter().map(|(name, value)| format!("{name}: {value};")).collect();
    format!("<style>:root {{ {} }}</style>\n", set.join(" "))
}
