//! Items: uses of components as content, in the preview and in offers.

use super::condition;
use super::toml::{Node, Table, json, wrong};
use super::*;
use crate::address::Address;

/// A list of items.
pub(super) fn items(node: &Node<'_>, title: &str, notes: &mut Notes) -> Vec<Item> {
    let Some(array) = node.get_ref().as_array() else {
        wrong(node, title, "a list of items", notes);
        return Vec::new();
    };
    array.iter().filter_map(|node| item(node, title, notes)).collect()
}

fn item(node: &Node<'_>, title: &str, notes: &mut Notes) -> Option<Item> {
    let table = Table::from(node, format!("each of {title}"), notes)?;
    let at = notes.at(node.span().start, node.span().end);
    table.needs("use", at, notes);
    let component = table.text("use", notes).map(|(text, at)| PointRef::new(text, at));
    let (when, when_broken) = condition::read(&table, notes);
    let (inputs, holds) = contents(&table, notes);
    Some(Item { component: component?, inputs, holds, when, when_broken })
}

/// What a component offers of itself: an item that need not say which component it uses.
pub(super) fn offered(address: Address, at: At, node: Option<&Node<'_>>, notes: &mut Notes) -> Option<Item> {
    let component = PointRef::new(&address.to_string(), at);
    let plain = Item { component, inputs: Vec::new(), holds: Vec::new(), when: None, when_broken: false };
    let Some(node) = node else { return Some(plain) };
    let table = Table::from(node, "`item`", notes)?;
    for key in ["use", "when"] {
        if let Some(node) = table.get(key) {
            let at = notes.at(node.span().start, node.span().end);
            let message = format!("an offer has no `{key}`");
            notes.flaw(FlawKind::UnknownKey, at, message, "what is offered is this component itself");
        }
    }
    let (inputs, holds) = contents(&table, notes);
    Some(Item { inputs, holds, ..plain })
}

fn contents(table: &Table<'_>, notes: &mut Notes) -> (Vec<Given>, Vec<Item>) {
    let mut inputs = Vec::new();
    let mut holds = Vec::new();
    for (word, span, node) in table.entries() {
        match word {
            "use" | "when" => {}
            "holds" => holds = items(node, "`holds`", notes),
            _ => inputs.push(given(word, span, node, notes)),
        }
    }
    (inputs, holds)
}

/// A value that is given to an input or option.
pub(super) fn given(word: &str, span: std::ops::Range<usize>, node: &Node<'_>, notes: &mut Notes) -> Given {
    let key = notes.at(span.start, span.end);
    let at = notes.at(node.span().start, node.span().end);
    Given { name: Named { name: name(word), at: key }, value: json(node.get_ref()), at }
}
