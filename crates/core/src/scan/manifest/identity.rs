//! Who a layer is, and which other layers it asks for.

use semver::{Version, VersionReq};

use super::toml::text;
use super::*;
use crate::source::{LayerRequest, Versions};

pub(super) const IDENTITY_TABLES: [LayerRole; 3] = [LayerRole::Theme, LayerRole::Companion, LayerRole::Host];

pub(super) fn identity(root: &Table<'_>, notes: &mut Notes) -> Option<Identity> {
    let role = IDENTITY_TABLES.into_iter().find(|role| root.get(role.word()).is_some());
    let Some(role) = role else {
        let at = notes.at(0, 0);
        let message = "the manifest does not say who the theme is";
        notes.flaw(FlawKind::ManifestSyntax, at, message, "open it with a [theme] table");
        return None;
    };
    let span = root.get(role.word())?.span();
    let at = notes.at(span.start, span.end);
    let table = root.table(role.word(), notes)?;
    match role {
        LayerRole::Theme => table.known(&keys::names(&keys::THEME), notes),
        LayerRole::Companion => table.known(&keys::names(&keys::COMPANION), notes),
        LayerRole::Host => table.known(&keys::names(&keys::HOST), notes),
    }
    table.needs("name", at, notes);
    let name = table.string("name", notes);
    if let Some(Named { name, at }) = name {
        check_name(&name, at, names::is_kebab(&name), names::KEBAB, notes);
        if names::RESERVED_LAYERS.contains(&name.as_str()) {
            let message = format!("`{name}` can't be the name of a layer: it has a meaning of its own");
            notes.flaw(FlawKind::BadName, at, message, "choose another name");
        }
    }
    let host = table.table("host", notes).and_then(|table| request(&table, "contract", notes));
    let base = table.table("base", notes).and_then(|table| request(&table, "path", notes));
    let companions = companions(&table, notes);
    let asked = table.array("companions", &mut Notes::default()).len();
    let unsure = table.get("host").is_some() && host.is_none()
        || table.get("base").is_some() && base.is_none()
        || companions.len() < asked
        || asks_by_another_name(&table);
    Some(Identity {
        role,
        at,
        name,
        label: table.string("label", notes).map(|label| label.name),
        about: table.string("about", notes).map(|about| about.name),
        version: version(&table, "version", notes).map(|(version, _)| version),
        picture: table.string("picture", notes),
        open: table.boolean("open", notes).unwrap_or(false),
        host,
        base,
        companions,
        unsure,
    })
}

/// Is there a key that was most likely meant to ask for a layer?
fn asks_by_another_name(table: &Table<'_>) -> bool {
    let known = keys::names(&keys::THEME);
    let near = |word: &str| names::nearest(word, known.iter().copied());
    let unknown = table.entries().filter(|(word, ..)| !known.contains(word));
    unknown.into_iter().any(|(word, ..)| near(word).is_some_and(|near| ["host", "base", "companions"].contains(&near)))
}

fn companions(table: &Table<'_>, notes: &mut Notes) -> Vec<LayerRequest> {
    let nodes = table.array("companions", notes);
    let tables: Vec<_> =
        nodes.into_iter().filter_map(|node| Table::from(node, "each of `companions`", notes)).collect();
    tables.iter().filter_map(|table| request(table, "path", notes)).collect()
}

pub(super) fn version(table: &Table<'_>, key: &str, notes: &mut Notes) -> Option<(Version, At)> {
    let (text, at) = table.text(key, notes)?;
    let version = Version::parse(text).ok();
    if version.is_none() {
        let message = format!("`{text}` is not a semantic version");
        notes.flaw(FlawKind::ManifestSyntax, at, message, "three numbers belong here, as in \"1.3.0\"");
    }
    version.map(|version| (version, at))
}

fn request(table: &Table<'_>, key: &str, notes: &mut Notes) -> Option<LayerRequest> {
    table.known(&[key, "version"], notes);
    let target = table.string(key, notes)?;
    // One range, or several of which any will do.
    let mut count = 1;
    let written: Vec<(&str, At)> = match table.get("version").is_some_and(|node| node.get_ref().as_array().is_some()) {
        true => {
            let nodes = table.array("version", notes);
            count = nodes.len();
            nodes.into_iter().filter_map(|node| text(node, || "each of `version`".to_string(), notes)).collect()
        }
        false => table.text("version", notes).into_iter().collect(),
    };
    let ranges = written.into_iter().filter_map(|(text, at)| {
        let range = VersionReq::parse(text).ok();
        if range.is_none() {
            let message = format!("`{text}` does not say which versions are wanted");
            notes.flaw(FlawKind::ManifestSyntax, at, message, "as in \"^2\" or \">=1.2, <3\"");
        }
        range
    });
    let ranges: Vec<VersionReq> = ranges.collect();
    // Of what can't be read nobody knows which versions it would allow.
    let versions = (ranges.len() == count && count > 0).then_some(Versions(ranges));
    Some(LayerRequest { target: target.name, at: target.at, versions })
}
