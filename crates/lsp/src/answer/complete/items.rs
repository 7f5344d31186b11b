//! Items: components as content, with what they are given. Also what a placement passes on.

use lsp_types::CompletionItemKind as Shape;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Input, MENU_ARGUMENTS, Registry};
use truehook_core::scan::Field;

use super::condition::value_item;
use super::{Item, names};
use crate::answer::words;

/// Components that a holder may hold; where that is not known, all that there are.
pub fn components(registry: &Registry, holder: Option<Address>) -> Vec<Item> {
    let known = holder.filter(|holder| registry.point(*holder).is_some());
    names::points(registry, |point| {
        let held = |holder: Address| registry.may_hold(holder, point.address);
        point.address.kind.is_component() && known.is_none_or(held)
    })
}

/// The names of what a point takes, without those that are given already.
pub fn fields(registry: &Registry, point: Address, given: &[String], write: impl Fn(&Field) -> String) -> Vec<Item> {
    let Some(said) = registry.point(point) else { return Vec::new() };
    let needed = |field: &Field| field.default().is_none();
    let open = |input: &&Input| !given.iter().any(|given| input.field.name == *given.as_str());
    let mut found: Vec<Item> = said
        .passed()
        .iter()
        .filter(open)
        .map(|input| {
            let rank = u8::from(!needed(&input.field));
            let detail = input.field.type_word().unwrap_or("anything").to_string();
            Item::new(input.field.name.as_str(), Shape::FIELD, rank)
                .detail(detail)
                .about(Some(words::field(&input.field)))
                .insert(write(&input.field))
        })
        .collect();
    if point.kind == Kind::Menu {
        found.extend(MENU_ARGUMENTS.map(|name| Item::new(name, Shape::FIELD, 2).insert(format!("{name}="))));
    }
    found
}

/// The values that an input can have, where they are few.
pub fn values(registry: &Registry, point: Address, input: &str) -> Vec<Item> {
    let Some(said) = registry.point(point) else { return Vec::new() };
    let field = said.passed().iter().find(|known| known.field.name == *input).map(|known| &known.field);
    field.map(|field| values_of(registry, field)).unwrap_or_default()
}

/// The values that a field can have.
pub fn values_of(registry: &Registry, field: &Field) -> Vec<Item> {
    let mut found: Vec<Item> = Vec::new();
    if let Some(choices) = field.schema.get("enum").and_then(|choices| choices.as_array()) {
        found.extend(choices.iter().map(|choice| value_item(choice, 0)));
    }
    match (field.type_word(), field.format()) {
        (Some("boolean"), _) => {
            found.extend(["true", "false"].map(|word| Item::new(word, Shape::VALUE, 0).insert(word)));
        }
        (_, Some("path")) => found.extend(names::media(registry, "", |_| true)),
        _ => {}
    }
    found
}
