//! How what one layer says is laid over what the layers below it say.

use std::sync::Arc;

use serde_json::Value;

use super::point::Input;
use crate::address::Address;
use crate::name::Name;
use crate::scan::Field;
use crate::source::{FileId, Place};

/// How a redeclaration breaks what the layers below count on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum BreachKind {
    /// The type of an input or argument is another one; without a name, that of the whole value.
    Type {
        /// The input or argument.
        name: Option<Name>,
        /// Its type below.
        old: Name,
        /// Its type here.
        new: Name,
    },
    /// A new input has no default, and nothing below passes it on.
    NoDefault(Name),
}

impl BreachKind {
    fn named(self, of: Name) -> BreachKind {
        match self {
            BreachKind::Type { old, new, .. } => BreachKind::Type { name: Some(of), old, new },
            other => other,
        }
    }
}

/// A redeclaration that the layers below can't live with.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Breach {
    /// The point.
    pub point: Address,
    /// What is wrong.
    pub kind: BreachKind,
    /// Where it is redeclared.
    pub place: Place,
    /// Where it was declared below.
    pub before: Place,
}

/// What the layers below can't live with: how, where it is said, and where it was said below.
pub(super) type Found = (BreachKind, Place, Place);

/// Adds fields to those of the layers below, key by key. Answers what those can't live with; `late` is
/// given where a new field needs a default.
pub(super) fn merge(
    fields: &mut Vec<Input>,
    added: &[Field],
    file: FileId,
    extend: bool,
    late: Option<Place>,
) -> Vec<Found> {
    let mut breaches = Vec::new();
    // Few points are declared in more than one layer: there it has just the room that is needed.
    if fields.is_empty() {
        fields.reserve_exact(added.len());
    }
    for field in added {
        let place = Place { file, at: field.at };
        match fields.iter_mut().find(|known| known.field.name == field.name) {
            Some(known) => {
                let kind = changed_type(&known.field.schema, &field.schema);
                let named = kind.map(|kind| kind.named(field.name));
                breaches.extend(named.map(|kind| (kind, place, known.place)));
                let (below, over) = ((*known.field.schema).clone(), (*field.schema).clone());
                let schema = Arc::new(lay_over(below, over, extend));
                *known = Input { field: Field { schema, ..field.clone() }, place };
            }
            None => {
                if let (Some(before), None) = (late, field.default()) {
                    breaches.push((BreachKind::NoDefault(field.name), place, before));
                }
                fields.push(Input { field: field.clone(), place });
            }
        }
    }
    breaches
}

/// Is a type given up for another one? Every whole number is a number.
pub(super) fn changed_type(old: &Value, new: &Value) -> Option<BreachKind> {
    let word = |schema: &Value| schema.get("type").and_then(Value::as_str).map(Name::from);
    let (old, new) = (word(old)?, word(new)?);
    let narrower = old == "number" && new == "integer";
    (old != new && !narrower).then_some(BreachKind::Type { name: None, old, new })
}

/// Merges two tables key by key; lists are replaced, or made longer.
pub(super) fn lay_over(mut below: Value, over: Value, extend: bool) -> Value {
    let (Some(table), Value::Object(over)) = (below.as_object_mut(), over) else { return below };
    for (key, over) in over {
        match (table.get_mut(&key), over) {
            (Some(Value::Array(known)), Value::Array(more)) if extend => known.extend(more),
            (_, over) => {
                table.insert(key, over);
            }
        }
    }
    below
}
