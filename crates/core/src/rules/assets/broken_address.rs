//! An address leads to no file

use crate::link::{Link, Registry, relative_path};
use crate::name::Name;
use crate::rules::telling::{miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Mend, Rule};
use crate::scan::{Element, ElementKind, Facts, Shape};
use crate::source::{Edit, FileId, Place};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "broken-address",
    level: Level::Error,
    links: &[Link::AddressToFile],
    awaited: false,
    summary: "An address leads to no file",
    explanation: "Addresses in a style sheet are relative to it. In a template a file of the theme is asked for with asset(), since every page lies somewhere else; an address that is written out leads nowhere from most of them.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[style.tide]
file = "tide.css"
"##,
        ),
        ("media/tide.css", "body { background: url(creak.svg); }\n"),
        ("media/creek.svg", "<svg/>"),
    ]),
    right: Example(&[("media/tide.css", "body { background: url(creek.svg); }\n")]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for miss in misses(registry, &RULE) {
        let message = format!("`{}` leads to no file of the theme", written(registry, miss));
        found.push(miss_finding(registry, &RULE, miss, message, "nothing of that name is there"));
    }
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let Shape::Template(template) = &facts.shape else { continue };
        let file = FileId(at as u32);
        for element in &template.elements {
            found.extend(written_out(registry, file, element));
            found.extend(printed_file(registry, file, element));
        }
    }
}

/// Does one of the theme's scripts read this `data-` attribute?
fn reads_data(registry: &Registry, data: Name) -> bool {
    let reads = |facts: &Facts| matches!(&facts.shape, Shape::Script(script) if script.data.contains(&data));
    registry.all_facts().iter().any(reads)
}

/// Is this the path of a picture or another file that pages load?
fn looks_like_file(path: &str) -> bool {
    const ENDINGS: [&str; 14] =
        ["svg", "png", "jpg", "jpeg", "gif", "webp", "avif", "mp4", "webm", "mp3", "json", "css", "js", "pdf"];
    let ending = path.rsplit_once('.').map_or("", |(_, ending)| ending);
    !path.contains(char::is_whitespace) && ENDINGS.contains(&ending)
}

/// A file of the theme whose address a template writes out.
fn written_out(registry: &Registry, file: FileId, element: &Element) -> Option<Finding> {
    let address = element.address.filter(|_| !element.printed)?;
    let plain = address.name.as_str().trim_start_matches("./").trim_start_matches("../");
    let path = relative_path("page", plain)?;
    let known = |path: &str| registry.find_media_file(path, registry.project().top()).is_some();
    let inside = format!("media/{path}");
    let path = if known(&inside) && !known(&path) { inside } else { path };
    let ours = match element.kind {
        ElementKind::Resource => true,
        ElementKind::Data(data) => reads_data(registry, data) && looks_like_file(&path),
        // Where people are led is the site's, unless it is clearly a file of ours.
        ElementKind::Link => path.starts_with("media/") || known(&path),
        // These are told as what they are: assets that are not declared.
        ElementKind::StyleSheet | ElementKind::Script => !(path.starts_with("media/") || known(&path)),
        _ => false,
    };
    if !ours {
        return None;
    }
    let place = Place { file, at: address.at };
    let near = if known(&path) { None } else { registry.near_file(&path) };
    let (target, sure) = match &near {
        Some((near, sure)) => (Some(near.as_str()), *sure),
        None => (Some(path.as_str()).filter(|path| known(path)), true),
    };
    let message = match known(&path) {
        true => format!("`{}` leads nowhere from most pages; asset() gives its address", address.name),
        false => format!("`{}` leads to no file of the theme", address.name),
    };
    let label = match target.filter(|_| !known(&path)) {
        Some(near) => format!("did you mean `{near}`?"),
        None if known(&path) => "written out".to_string(),
        None => "nothing of that name is there".to_string(),
    };
    let mut finding = Finding::new(&RULE, registry.layer_of(place), message).at(registry, place, label);
    finding.mend = target.map(|target| {
        let new = format!("{{{{ asset(\"{target}\") }}}}");
        let text = format!("write {new}");
        Mend { text, safe: sure, edits: vec![Edit { file, span: registry.span(place), new }] }
    });
    Some(finding)
}

/// A file of the theme that is printed where its address belongs: `src="{{ page.lead.file }}"`.
fn printed_file(registry: &Registry, file: FileId, element: &Element) -> Option<Finding> {
    let address = element.address.filter(|_| element.printed)?;
    let printed = address.name.as_str().strip_prefix("{{")?.strip_suffix("}}")?.trim_matches(['-', ' ']);
    let picture = printed.strip_suffix(".file")?;
    let text = registry.project().file(file).text();
    // A variable of a loop stands for one of the pictures of a list.
    let begins = format!("for {picture} in ");
    let list = text.match_indices(&begins).map(|(at, found)| {
        let rest = &text[at + found.len()..];
        &rest[..rest.find(|c: char| !c.is_ascii_alphanumeric() && !"._".contains(c)).unwrap_or(rest.len())]
    });
    let is_picture = |path: &str| match path.split_once('.') {
        Some((root @ ("page" | "site"), key)) => {
            registry.fed_keys(root).iter().any(|known| *known == *key) && key != "trail"
        }
        _ => false,
    };
    if !is_picture(picture) && !list.into_iter().any(is_picture) {
        return None;
    }
    let place = Place { file, at: address.at };
    let message = format!("`{printed}` is the name of a file, and not its address");
    let finding = Finding::new(&RULE, registry.layer_of(place), message).at(registry, place, "this leads nowhere");
    let partial = format!("{{{{ place(\"partial:picture\", file={printed}, alt={picture}.alt) }}}}");
    Some(finding.mend(format!("write {partial} in the place of the element")))
}
