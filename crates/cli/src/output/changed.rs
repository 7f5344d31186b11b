//! What changed in a list or table, change by change.

use serde_json::{Map, Value};
use similar::{Algorithm, DiffOp, capture_diff_slices};

use super::cut;

/// How many changes are told one by one.
const MOST: usize = 12;

/// What changed between two values in JSON, a line for each change, no longer than that; nothing where they are no
/// lists or tables.
pub fn lines(before: &str, after: &str, width: usize) -> Option<Vec<String>> {
    let [before, after] = [before, after].map(|text| serde_json::from_str::<Value>(text).ok());
    let mut found = Vec::new();
    match (before?, after?) {
        (Value::Array(before), Value::Array(after)) => list("", &before, &after, &mut found),
        (Value::Object(before), Value::Object(after)) => table("", &before, &after, &mut found),
        _ => return None,
    }
    let more = found.len().saturating_sub(MOST);
    found.truncate(MOST);
    if more > 0 {
        found.push(format!("and {more} more"));
    }
    Some(found.into_iter().map(|line| cut(&line, width)).collect())
}

fn table(path: &str, before: &Map<String, Value>, after: &Map<String, Value>, found: &mut Vec<String>) {
    let named = |key: &str| if path.is_empty() { key.to_string() } else { format!("{path}.{key}") };
    for (key, new) in after {
        match before.get(key) {
            None => found.push(format!("added {} = {}", named(key), text(new))),
            Some(old) if old != new => value(&named(key), old, new, found),
            Some(_) => {}
        }
    }
    for (key, old) in before.iter().filter(|(key, _)| !after.contains_key(*key)) {
        found.push(format!("removed {} = {}", named(key), text(old)));
    }
}

fn value(path: &str, before: &Value, after: &Value, found: &mut Vec<String>) {
    match (before, after) {
        (Value::Object(before), Value::Object(after)) => table(path, before, after, found),
        (Value::Array(before), Value::Array(after)) => list(path, before, after, found),
        _ => found.push(format!("changed {path}: {} → {}", text(before), text(after))),
    }
}

/// What went, came, moved and changed in a list. An item that has the same name as one that went is that, changed.
fn list(path: &str, before: &[Value], after: &[Value], found: &mut Vec<String>) {
    let (mut gone, mut come): (Vec<usize>, Vec<usize>) = (Vec::new(), Vec::new());
    let keys = |all: &[Value]| all.iter().map(Value::to_string).collect::<Vec<String>>();
    for op in capture_diff_slices(Algorithm::Myers, &keys(before), &keys(after)) {
        match op {
            DiffOp::Equal { .. } => {}
            DiffOp::Delete { old_index, old_len, .. } => gone.extend(old_index..old_index + old_len),
            DiffOp::Insert { new_index, new_len, .. } => come.extend(new_index..new_index + new_len),
            DiffOp::Replace { old_index, old_len, new_index, new_len } => {
                gone.extend(old_index..old_index + old_len);
                come.extend(new_index..new_index + new_len);
            }
        }
    }
    let of = if path.is_empty() { String::new() } else { format!("{path}: ") };
    for at in come {
        let new = &after[at];
        if let Some(place) = gone.iter().position(|old| before[*old] == *new) {
            let old = gone.remove(place);
            found.push(format!("moved {of}{}, from {} to {}", name(new), old + 1, at + 1));
        } else if let Some(place) = gone.iter().position(|old| is_same(&before[*old], new)) {
            let old = gone.remove(place);
            let inner = if path.is_empty() { name(new) } else { format!("{path}[{}]", name(new)) };
            value(&inner, &before[old], new, found);
        } else {
            found.push(format!("added {of}{}, at {}", name(new), at + 1));
        }
    }
    for at in gone {
        found.push(format!("removed {of}{}, from {}", name(&before[at]), at + 1));
    }
}

/// Keys by which people tell items apart, those that say most first.
const NAMES: [&str; 6] = ["use", "path", "href", "label", "title", "name"];

fn is_same(a: &Value, b: &Value) -> bool {
    let known = NAMES.iter().filter(|key| a.get(**key).is_some() || b.get(**key).is_some());
    let mut known = known.peekable();
    known.peek().is_some() && known.take(1).all(|key| a.get(*key) == b.get(*key))
}

/// What people call an item.
fn name(item: &Value) -> String {
    let word = |key: &str| item.get(key).and_then(Value::as_str);
    match (word("use"), word("label").or(word("title")).or(word("heading"))) {
        (Some(component), Some(label)) => format!("{component} “{label}”"),
        (Some(component), None) => component.to_string(),
        (None, Some(label)) => format!("“{label}”"),
        (None, None) => match NAMES.iter().find_map(|key| word(key)) {
            Some(known) => known.to_string(),
            None => text(item),
        },
    }
}

fn text(value: &Value) -> String {
    cut(&value.to_string(), 60)
}

#[cfg(test)]
mod tests {
    use super::lines;

    fn told(before: &str, after: &str) -> Vec<String> {
        lines(before, after, 100).unwrap()
    }

    #[test]
    fn lists_tell_what_moved_came_went_and_changed() {
        let before = r#"[{"use":"a","x":1},{"use":"b"},{"use":"c"}]"#;
        assert_eq!(told(before, r#"[{"use":"b"},{"use":"c"},{"use":"a","x":1}]"#), ["moved a, from 1 to 3"]);
        let after = r#"[{"use":"a","x":2},{"use":"b"},{"use":"d","label":"D"}]"#;
        assert_eq!(told(before, after), ["changed a.x: 1 → 2", "added d “D”, at 3", "removed c, from 3"]);
        assert_eq!(told("[]", r#"[{"label":"Low"}]"#), ["added “Low”, at 1"]);
        assert_eq!(told("[1,2,3]", "[1,3]"), ["removed 2, from 2"]);
    }

    #[test]
    fn tables_tell_their_keys_also_those_of_tables_in_them() {
        let told = told(r#"{"a":1,"b":{"c":"x","d":2},"e":[1]}"#, r#"{"a":1,"b":{"c":"y","d":2},"e":[1,2],"f":null}"#);
        assert_eq!(told, ["changed b.c: \"x\" → \"y\"", "added e: 2, at 2", "added f = null"]);
    }

    #[test]
    fn what_is_no_list_is_told_as_it_is() {
        for (before, after) in [("\"a\"", "\"b\""), ("<p>", "<b>"), ("[]", "\"a\""), ("1", "2")] {
            assert_eq!(lines(before, after, 80), None);
        }
        let many: Vec<usize> = (0..40).collect();
        let told = told("[]", &serde_json::to_string(&many).unwrap());
        assert_eq!((told.len(), told.last().unwrap().as_str()), (13, "and 28 more"));
    }
}
