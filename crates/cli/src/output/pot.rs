//! The texts of a theme as a template for translations: a gettext .pot file.

use std::io::BufWriter;

use anyhow::Result;
use polib::catalog::Catalog;
use polib::message::Message;
use polib::metadata::CatalogMetadata;
use polib::po_file;
use truehook_core::address::{Address, Kind};
use truehook_core::link::Registry;

/// One text, with the places where it stands.
struct Text {
    id: String,
    plural: Option<String>,
    places: Vec<String>,
}

/// The texts of the checked theme's own files.
pub fn of(registry: &Registry) -> Result<String> {
    let mut catalog = Catalog::new(metadata(registry));
    for text in texts(registry) {
        let source = text.places.join("\n");
        let message = match text.plural {
            Some(plural) => Message::build_plural()
                .with_source(source)
                .with_msgid(text.id)
                .with_msgid_plural(plural)
                .with_msgstr_plural(vec![String::new(); 2])
                .done(),
            None => Message::build_singular().with_source(source).with_msgid(text.id).done(),
        };
        catalog.append_or_update(message);
    }
    let mut bytes = Vec::new();
    po_file::write(&catalog, &mut BufWriter::new(&mut bytes))?;
    Ok(String::from_utf8(bytes)?)
}

fn metadata(registry: &Registry) -> CatalogMetadata {
    let identity = registry.top_manifest().and_then(|manifest| manifest.identity.as_ref());
    let name =
        own_domain(registry).unwrap_or_else(|| registry.project().layer(registry.project().top()).name.to_string());
    let version = identity.and_then(|identity| identity.version.as_ref()).map(ToString::to_string).unwrap_or_default();
    let mut metadata = CatalogMetadata::new();
    metadata.project_id_version = format!("{name} {version}").trim_end().to_string();
    metadata.mime_version = "1.0".into();
    metadata.content_type = "text/plain; charset=UTF-8".into();
    metadata.content_transfer_encoding = "8bit".into();
    metadata.plural_rules.nplurals = 2;
    metadata.plural_rules.expr = "(n != 1)".into();
    metadata
}

/// What the theme itself calls its texts; what its base calls those of the base is another matter.
fn own_domain(registry: &Registry) -> Option<String> {
    let feature = registry.point(Address::new(Kind::Feature, "translations"))?.feature.as_ref()?;
    let given = feature.given.last().filter(|given| registry.layer_of(given.place) == registry.project().top())?;
    Some(given.arguments.get("domain")?.as_str()?.to_string())
}

fn texts(registry: &Registry) -> Vec<Text> {
    let top = registry.project().top();
    let mut found: Vec<Text> = Vec::new();
    for used in registry.messages().filter(|used| registry.project().file(used.file).layer == top) {
        let file = registry.project().file(used.file);
        let span = registry.facts(used.file).span(used.message.id.at);
        let (line, _) = registry.lines(used.file).position(span.start);
        let place = format!("{}:{line}", file.path);
        let (id, plural) =
            (used.message.id.name.to_string(), used.message.plural.map(|plural| plural.name.to_string()));
        match found.iter_mut().find(|text| text.id == id) {
            Some(known) => {
                known.plural = known.plural.take().or(plural);
                known.places.push(place);
            }
            None => found.push(Text { id, plural, places: vec![place] }),
        }
    }
    found
}
