//! Declarations of points.

use std::sync::{Arc, LazyLock};

use super::identity::version;
use super::schema::{SCHEMA_WORDS, TYPE_WORDS, schema};
use super::*;
use crate::address::Address;
use crate::keys::{self, is_common, keys_of};
use crate::scan::items::offered;
use crate::scan::toml::{Title, json};
use crate::scan::wrap;

/// A declaration, and those of the inner pieces that stand in it.
pub(super) fn declaration<'t>(
    kind: Kind,
    point: &'t str,
    at: At,
    node: &'t Node<'t>,
    notes: &mut Notes,
) -> Vec<Declaration> {
    let (good, how) = match kind {
        Kind::Option => (names::is_snake(point), names::SNAKE),
        _ => (names::is_kebab(point), names::KEBAB),
    };
    check_name(point, at, good, how, notes);
    let Some(table) = Table::from(node, Title::Point(kind, point), notes) else { return Vec::new() };
    let mut found = vec![one(Address::new(kind, point), at, node, &table, notes)];
    if kind != Kind::Section {
        return found;
    }
    let Some(pieces) = table.table("piece", notes) else { return found };
    for (own, span, node) in pieces.entries() {
        let at = notes.at(span.start, span.end);
        check_name(own, at, names::is_kebab(own), names::KEBAB, notes);
        let title = format!("[section.{point}.piece.{own}]");
        let Some(table) = Table::from(node, title, notes) else { continue };
        let address = Address::new(Kind::Piece, format!("{point}/{own}").as_str());
        found.push(one(address, at, node, &table, notes));
    }
    found
}

fn one<'t>(address: Address, key: At, node: &'t Node<'t>, table: &Table<'t>, notes: &mut Notes) -> Declaration {
    let kind = address.kind;
    if kind != Kind::Feature {
        let words: &[&str] = if kind == Kind::Option { &SCHEMA_WORDS } else { &[] };
        let known: Vec<&str> = keys_of(kind).map(|shape| shape.name).chain(words.iter().copied()).collect();
        table.known(&known, notes);
    }
    let span = node.span();
    // A table that was never opened by a header of its own has its key for a place.
    let header = span.len() > address.name.len();
    let at = if header { notes.at(span.start, span.end) } else { key };
    let value = match kind {
        Kind::Option => Some((option_schema(node, table, notes), at)),
        Kind::Feature => None,
        _ => table.get("value").map(|node| {
            schema(node, "value", notes);
            (json(node.get_ref()), notes.at(node.span().start, node.span().end))
        }),
    };
    Declaration {
        address,
        at,
        label: table.string("label", notes).map(|label| label.name),
        about: table.string("about", notes).map(|about| about.name),
        reserved: table.boolean("reserved", notes),
        extend: table.boolean("extend", notes).unwrap_or(false),
        required: table.boolean("required", notes),
        moment: table.boolean("moment", notes),
        last: table.boolean("last", notes),
        inputs: fields(table, "inputs", notes),
        args: fields(table, "args", notes),
        further: further(address, at, value, table, notes).kept(),
        asset: kind.is_asset().then(|| Box::new(asset(table, notes))),
        feature: (kind == Kind::Feature).then(|| Box::new(feature(key, node, table, notes))),
    }
}

/// What few declarations say.
fn further(
    address: Address,
    at: At,
    value: Option<(serde_json::Value, At)>,
    table: &Table<'_>,
    notes: &mut Notes,
) -> FurtherKeys {
    let wrap_of = |key: &str, holes: &[&str], notes: &mut Notes| {
        let (text, at) = table.text(key, notes)?;
        wrap::check(key, text, at, holes, notes);
        Some(Named { name: name(text), at })
    };
    let body: &[&str] = if address.kind == Kind::Area { &["body", "title", "id", "kind"] } else { &["body"] };
    let points = |key: &str, notes: &mut Notes| {
        table.get(key)?;
        let named = table.strings(key, notes);
        Some(named.into_iter().map(|named| PointRef::new(&named.name, named.at)).collect())
    };
    FurtherKeys {
        since: version(table, "since", notes).map(|(version, _)| version),
        retired: version(table, "retired", notes),
        instead: table.text("instead", notes).map(|(text, at)| PointRef::new(text, at)),
        dropped: table.boolean("dropped", notes).map(|dropped| (dropped, table.place("dropped", notes).unwrap_or(at))),
        inside: inside(table, notes),
        value,
        render: table.text("render", notes).and_then(|(text, at)| call(text, at, notes)),
        levels: levels(table, notes),
        wrap: wrap_of("wrap", body, notes),
        wrap_title: wrap_of("wrap-title", &["text", "id"], notes),
        holds: points("holds", notes),
        offer: table.get("offer").map(|_| offers(address, table, notes)),
        needs: points("needs", notes),
    }
}

/// What an asset says of itself.
fn asset(table: &Table<'_>, notes: &mut Notes) -> AssetKeys {
    let (when, when_broken) = condition::read(table, notes);
    let head = table.string("at", notes).and_then(|word| match word.name.as_str() {
        "head" => Some(true),
        "end" => Some(false),
        other => {
            let message = format!("`{other}` is no place of a script");
            notes.flaw(FlawKind::ManifestSyntax, word.at, message, "\"head\" or \"end\" belongs here");
            None
        }
    });
    AssetKeys {
        file: table.string("file", notes),
        gives: table.get("gives").map(|_| table.strings("gives", notes)),
        media: table.string("media", notes).map(|media| media.name),
        head,
        priority: table.get("priority").map(|_| priority(table, notes)),
        when,
        when_broken,
    }
}

/// What a feature says of itself.
fn feature(name: At, node: &Node<'_>, table: &Table<'_>, notes: &mut Notes) -> FeatureKeys {
    let mut arguments = json(node.get_ref());
    if let Some(arguments) = arguments.as_object_mut() {
        arguments.retain(|key, _| !is_common(key));
    }
    let key = |key: &str| table.get(key).map(|node| json(node.get_ref()));
    let mut feeds: Vec<(Option<Name>, Named)> = Vec::new();
    match table.get("feeds").map(|node| node.get_ref()) {
        Some(value) if value.as_array().is_some() => {
            feeds.extend(table.strings("feeds", notes).into_iter().map(|feed| (None, feed)));
        }
        Some(value) if value.as_table().is_some() => {
            let by_argument = table.table("feeds", notes);
            for (argument, _, _) in by_argument.iter().flat_map(Table::entries) {
                let of = by_argument.iter().flat_map(|table| table.strings(argument, notes)).collect::<Vec<_>>();
                feeds.extend(of.into_iter().map(|feed| (Some(super::name(argument)), feed)));
            }
        }
        _ => {}
    }
    let mut texts = Vec::new();
    for (key, _, node) in table.entries().filter(|(key, _, _)| !is_common(key)) {
        if let Some(text) = node.get_ref().as_str() {
            let at = notes.at(node.span().start, node.span().end);
            texts.push(TextArgument { key: super::name(key), value: Named { name: super::name(text), at } });
        }
    }
    FeatureKeys { arguments, texts, name, schema: key("arguments"), default: key("default"), feeds }
}

/// All that an option may be. What else its table says is not part of that.
fn option_schema(node: &Node<'_>, table: &Table<'_>, notes: &mut Notes) -> serde_json::Value {
    super::schema::type_word(table, notes);
    let mut schema = json(node.get_ref());
    if let Some(schema) = schema.as_object_mut() {
        schema.retain(|key, _| !is_common(key) || key == "about" || key == "label");
    }
    schema
}

fn inside(table: &Table<'_>, notes: &mut Notes) -> Option<Named> {
    let inside = table.string("inside", notes)?;
    if ["head", "body"].contains(&inside.name.as_str()) {
        return Some(inside);
    }
    let message = format!("`{}` is not an element that a hook has to be inside of", inside.name);
    notes.flaw(FlawKind::ManifestSyntax, inside.at, message, "\"head\" or \"body\" belongs here");
    None
}

fn levels(table: &Table<'_>, notes: &mut Notes) -> Option<u64> {
    let (number, at) = table.integer("levels", notes)?;
    if number < 1 {
        let message = format!("a menu spot can't have {number} levels");
        notes.flaw(FlawKind::ManifestSyntax, at, message, "a number above 0 belongs here");
        return None;
    }
    Some(number as u64)
}

fn offers(address: Address, table: &Table<'_>, notes: &mut Notes) -> Vec<Offer> {
    let mut found = Vec::new();
    for node in table.array("offer", notes) {
        let Some(offer) = Table::from(node, "each of `offer`", notes) else { continue };
        let at = notes.at(node.span().start, node.span().end);
        offer.known(&keys::names(&keys::OFFERED), notes);
        let label = offer.string("label", notes).map(|label| label.name);
        let item = offered(address, at, offer.get("item"), notes);
        found.extend(item.map(|item| Offer { label, at, item }));
    }
    found
}

pub(super) fn check_name(name: &str, at: At, good: bool, how: &str, notes: &mut Notes) {
    if !good {
        notes.flaw(FlawKind::BadName, at, format!("`{name}` is not a name"), how);
    }
}

pub(super) fn fields<'t>(table: &Table<'t>, key: &'t str, notes: &mut Notes) -> Vec<Field> {
    let Some(table) = table.table(key, notes) else { return Vec::new() };
    let mut fields = Vec::new();
    for (word, span, node) in table.entries() {
        let at = notes.at(span.start, span.end);
        check_name(word, at, names::is_snake(word), names::SNAKE, notes);
        let reserved: [&[&str]; 4] =
            [&names::RESERVED_INPUTS, &names::GLOBALS, &names::TEMPLATE_WORDS, &crate::scan::FUNCTIONS];
        if key == "inputs" && reserved.iter().any(|words| words.contains(&word)) {
            let message = format!("`{word}` can't be the name of an input: it has a meaning of its own");
            notes.flaw(FlawKind::BadName, at, message, "choose another name");
        }
        schema(node, word, notes);
        let said = notes.at(node.span().start, node.span().end);
        let default = node.get_ref().as_table().and_then(|table| table.get("default"));
        let default = default.filter(|default| default.get_ref().as_str().is_some());
        let default_at = default.map(|default| notes.at(default.span().start, default.span().end));
        fields.push(Field { name: name(word), at, schema: said_once(node), said, default_at });
    }
    fields
}

/// A schema; one that says nothing but a type, as most do, is the same for all.
fn said_once(node: &Node<'_>) -> Arc<serde_json::Value> {
    plain(node).unwrap_or_else(|| Arc::new(json(node.get_ref())))
}

/// A schema that says a type, and one of the most usual defaults, or none.
fn plain(node: &Node<'_>) -> Option<Arc<serde_json::Value>> {
    static BARE: LazyLock<[Arc<serde_json::Value>; 8]> =
        LazyLock::new(|| TYPE_WORDS.map(|word| Arc::new(serde_json::json!({ "type": word }))));
    static USUAL: LazyLock<[[Arc<serde_json::Value>; 3]; 8]> = LazyLock::new(|| {
        let with = |word, default| Arc::new(serde_json::json!({ "type": word, "default": default }));
        TYPE_WORDS.map(|word| [with(word, false.into()), with(word, true.into()), with(word, serde_json::json!(""))])
    });
    let table = node.get_ref().as_table()?;
    let word = table.get("type")?.get_ref().as_str()?;
    let at = TYPE_WORDS.iter().position(|known| *known == word)?;
    match table.len() {
        1 => Some(BARE[at].clone()),
        2 => {
            // In the order in which it is written, since that is shown.
            let (key, _, default) = table.iter().nth(1)?;
            let default = default.get_ref();
            let usual = match (default.as_bool(), default.as_str()) {
                (Some(default), _) => usize::from(default),
                (_, Some("")) => 2,
                _ => return None,
            };
            (key == "default").then(|| USUAL[at][usual].clone())
        }
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::catalogue::KEYS;

    #[test]
    fn every_key_of_every_kind_is_explained() {
        let keys = Kind::ALL.into_iter().flat_map(keys_of).map(|shape| shape.name).chain(SCHEMA_WORDS);
        let missing: Vec<_> = keys.filter(|key| KEYS.iter().all(|known| known.name != *key)).collect();
        assert!(missing.is_empty(), "not explained: {missing:?}");
    }
}
