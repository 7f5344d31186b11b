//! Lists in a TOML text, changed item by item. What was added and is taken away again leaves the bytes as they were.

use std::ops::Range;

use toml::de::{DeArray, DeTable, DeValue};

use super::{EditError, tree};

/// A list in a TOML text, and the key by which its items hold further ones.
#[derive(Clone, Debug)]
pub struct List<'l> {
    /// The keys that lead to it.
    pub keys: Vec<String>,
    /// What an item calls the list of what it holds.
    pub inner: &'l str,
}

/// Where an item stands, counted from 0: the last number in its list, those before it the items around.
pub type Steps<'s> = &'s [usize];

/// What is left without an item.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Removed {
    pub text: String,
    /// The item, as it stood there.
    pub item: String,
    /// Was the list made for that item, so that it may go, too?
    pub list_too: bool,
}

/// A list as it stands in the text.
struct Found {
    /// With its brackets.
    whole: Range<usize>,
    items: Vec<Range<usize>>,
}

/// The list in which an item stands, or the end of the table that could hold it.
enum Spot {
    List(Found),
    /// The item has no list yet: behind its last value.
    Behind(usize),
}

impl List<'_> {
    /// How many items it has; nothing where it isn't there.
    pub fn count(&self, text: &str) -> Option<usize> {
        match self.spot(text, &[]) {
            Ok(Spot::List(found)) => Some(found.items.len()),
            _ => None,
        }
    }

    /// The list as JSON; nothing where it isn't there.
    pub fn value(&self, text: &str) -> Option<serde_json::Value> {
        let table: toml::Table = text.parse().ok()?;
        let (first, rest) = self.keys.split_first()?;
        let list = rest.iter().try_fold(table.get(first)?, |value, key| value.get(key))?;
        serde_json::to_value(list).ok()
    }

    /// The text with an item in it; without a place at the list's end. The list itself has to be there.
    ///
    /// # Errors
    /// Where no item can stand there.
    pub fn insert(&self, text: &str, at: Option<Steps<'_>>, item: &str) -> Result<String, EditError> {
        let (around, number) = match at {
            Some([around @ .., number]) => (around, Some(*number)),
            _ => (&[] as Steps<'_>, None),
        };
        match self.spot(text, around)? {
            Spot::Behind(end) => match number.unwrap_or(0) {
                0 => Ok(spliced(text, end..end, &format!(", {} = [ {item} ]", self.inner))),
                number => Err(there_are(number, 0)),
            },
            Spot::List(found) => {
                let number = number.unwrap_or(found.items.len());
                if number > found.items.len() {
                    return Err(there_are(number, found.items.len()));
                }
                Ok(found.insert(text, number, item))
            }
        }
    }

    /// The text without an item.
    ///
    /// # Errors
    /// Where no item stands there.
    pub fn remove(&self, text: &str, at: Steps<'_>) -> Result<Removed, EditError> {
        let Some((number, around)) = at.split_last() else { return Err(EditError::new("items are counted from 1")) };
        let Spot::List(found) = self.spot(text, around)? else { return Err(there_are(*number, 0)) };
        let Some(item) = found.items.get(*number).cloned() else { return Err(there_are(*number, found.items.len())) };
        let gone = text[item.clone()].to_string();
        let removed = |text: String, list_too: bool| Removed { text, item: gone.clone(), list_too };
        if found.items.len() > 1 {
            return Ok(removed(found.remove(text, *number), false));
        }
        // The only one of a list that was made for it takes the list along.
        let made = text[found.whole.start + 1..item.start] == *" " && text[item.end..found.whole.end - 1] == *" ";
        let behind = format!(", {} = ", self.inner);
        if made && !around.is_empty() && text[..found.whole.start].ends_with(&behind) {
            return Ok(removed(spliced(text, found.whole.start - behind.len()..found.whole.end, ""), false));
        }
        let comma = usize::from(text[item.end..].starts_with(','));
        let list = found.whole.start + 1..found.whole.end - 1;
        let on_lines = |part: &str| part.trim().is_empty() && part.contains('\n');
        // A list of which nothing is left takes no lines.
        let gone = match on_lines(&text[list.start..item.start]) && on_lines(&text[item.end + comma..list.end]) {
            true => list,
            false => item.start..item.end + comma,
        };
        Ok(removed(spliced(text, gone, ""), made && around.is_empty()))
    }

    /// The text with some keys of an item set, and those without a value taken away.
    ///
    /// # Errors
    /// Where no item with keys stands there, or a key that is to go isn't there.
    pub fn set(&self, text: &str, at: Steps<'_>, keys: &[(String, Option<String>)]) -> Result<String, EditError> {
        let Some((number, around)) = at.split_last() else { return Err(EditError::new("items are counted from 1")) };
        let Spot::List(found) = self.spot(text, around)? else { return Err(there_are(*number, 0)) };
        let Some(span) = found.items.get(*number).cloned() else { return Err(there_are(*number, found.items.len())) };
        let mut item = tree::value(&text[span.clone()])?;
        let no_keys = || EditError::new("what stands there has no keys");
        let table = item.as_inline_table_mut().ok_or_else(no_keys)?;
        for (key, value) in keys {
            match value {
                Some(value) => tree::set(table, &[key], tree::value(value)?)?,
                None if tree::unset(table, &[key]) => {}
                None => return Err(EditError::new(format!("what stands there has no `{key}`"))),
            }
        }
        Ok(spliced(text, span, item.decorated("", "").to_string().as_str()))
    }

    fn spot(&self, text: &str, around: Steps<'_>) -> Result<Spot, EditError> {
        let parsed =
            DeTable::parse(text).map_err(|_| EditError::new("it is not TOML; mend that first (truehook check)"))?;
        let missing = || EditError::new(format!("there is no list `{}`", self.keys.join(".")));
        let mut node: Option<&toml::Spanned<DeValue<'_>>> = None;
        for key in &self.keys {
            let table = match node {
                None => Some(parsed.get_ref()),
                Some(node) => node.get_ref().as_table(),
            };
            node = Some(table.and_then(|table| table.get(key.as_str())).ok_or_else(missing)?);
        }
        let mut list = node.ok_or_else(missing)?;
        for number in around {
            let items = array(list, text)?;
            let Some(item) = items.get(*number) else { return Err(there_are(*number, items.len())) };
            let Some(table) = item.get_ref().as_table() else {
                return Err(EditError::new("what stands there can't hold anything"));
            };
            match table.get(self.inner) {
                Some(held) => list = held,
                None => {
                    let end = table.iter().map(|(_, value)| value.span().end).max();
                    return Ok(Spot::Behind(end.unwrap_or(item.span().start + 1)));
                }
            }
        }
        let items = array(list, text)?.iter().map(|item| item.span()).collect();
        Ok(Spot::List(Found { whole: list.span(), items }))
    }
}

/// The text without the item of a list that holds a place, the innermost one. Nothing where none does.
pub fn without(text: &str, at: usize) -> Option<String> {
    let (found, number) = around(text, at)?;
    if found.items.len() > 1 {
        return Some(found.remove(text, number));
    }
    let item = found.items.get(number)?.clone();
    let comma = usize::from(text[item.end..].starts_with(','));
    let inner = text[found.whole.start + 1..item.start].trim().is_empty()
        && text[item.end + comma..found.whole.end - 1].trim().is_empty();
    Some(match inner {
        true => spliced(text, found.whole, "[]"),
        false => spliced(text, item.start..item.end + comma, ""),
    })
}

/// Does the list in which a place is hold another text, too?
pub fn has_beside(text: &str, at: usize, other: &str) -> bool {
    let is_other = |item: &Range<usize>| {
        let table: Option<toml::Table> = format!("x = {}", &text[item.clone()]).parse().ok();
        table.is_some_and(|table| table.get("x").and_then(toml::Value::as_str) == Some(other))
    };
    around(text, at).is_some_and(|(found, _)| found.items.iter().any(is_other))
}

/// The innermost list with an item that holds a place.
fn around(text: &str, at: usize) -> Option<(Found, usize)> {
    let parsed = DeTable::parse(text).ok()?;
    let mut open: Vec<&toml::Spanned<DeValue<'_>>> = parsed.get_ref().values().collect();
    let mut innermost: Option<(Found, usize)> = None;
    while let Some(node) = open.pop() {
        match node.get_ref() {
            DeValue::Table(table) => open.extend(table.values()),
            DeValue::Array(items) => {
                open.extend(items.iter());
                let spans: Vec<Range<usize>> = items.iter().map(|item| item.span()).collect();
                let inline = spans.iter().all(|span| !text[span.clone()].starts_with("[["));
                if let Some(number) = spans.iter().position(|span| span.contains(&at)).filter(|_| inline) {
                    let smaller = innermost.as_ref().is_none_or(|(found, _)| node.span().len() < found.whole.len());
                    if smaller {
                        innermost = Some((Found { whole: node.span(), items: spans }, number));
                    }
                }
            }
            _ => {}
        }
    }
    innermost
}

fn array<'a, 'd>(node: &'a toml::Spanned<DeValue<'d>>, text: &str) -> Result<&'a DeArray<'d>, EditError> {
    let Some(array) = node.get_ref().as_array() else { return Err(EditError::new("what stands there is no list")) };
    if array.iter().any(|item| text[item.span()].starts_with("[[")) {
        return Err(EditError::new(
            "the list is written as [[…]] tables; commands change it once it is written as [ … ]",
        ));
    }
    Ok(array)
}

fn there_are(number: usize, count: usize) -> EditError {
    let there = match count {
        0 => "there is nothing".to_string(),
        1 => "there is one item".to_string(),
        _ => format!("there are {count}"),
    };
    EditError::new(format!("there is no place {}: {there}", number + 1))
}

impl Found {
    /// What stands before an item: blanks, or the line's end and an indent.
    fn lead<'t>(&self, text: &'t str, number: usize) -> &'t str {
        let start = self.items[number].start;
        let before = &text[..start];
        let blank = before.len() - before.trim_end_matches([' ', '\t']).len();
        let lead = &before[before.len() - blank..];
        match before[..before.len() - blank].strip_suffix('\n') {
            Some(rest) => &text[rest.strip_suffix('\r').unwrap_or(rest).len()..start],
            None => lead,
        }
    }

    /// What stands between two items, beside the comma.
    fn gap<'t>(&self, text: &'t str) -> &'t str {
        let lead = match self.items.len() {
            0 => "",
            1 => self.lead(text, 0),
            _ => self.lead(text, 1),
        };
        match lead.is_empty() || self.items.len() == 1 && !lead.contains('\n') {
            true => " ",
            false => lead,
        }
    }

    fn insert(&self, text: &str, number: usize, item: &str) -> String {
        if self.items.is_empty() {
            // No blanks around it tell, when it goes, that the empty list was there before.
            let start = self.whole.start + 1;
            let comma = if text[start..self.whole.end - 1].trim().is_empty() { "" } else { "," };
            return spliced(text, start..start, &format!("{item}{comma}"));
        }
        let gap = self.gap(text);
        if let Some(next) = self.items.get(number) {
            return spliced(text, next.start..next.start, &format!("{item},{gap}"));
        }
        match self.comma_behind(text, number - 1) {
            Some(end) => spliced(text, end..end, &format!("{gap}{item},")),
            None => {
                let end = self.items[number - 1].end;
                spliced(text, end..end, &format!(",{gap}{item}"))
            }
        }
    }

    fn remove(&self, text: &str, number: usize) -> String {
        let item = &self.items[number];
        if let Some(next) = self.items.get(number + 1) {
            // What is said of the next one, in lines above it, stays.
            let end = self.comma_behind(text, number).unwrap_or(item.end);
            let to = if text[end..next.start].trim().is_empty() { next.start } else { end + self.lead_len(text, end) };
            return spliced(text, item.start..to, "");
        }
        match self.comma_behind(text, number) {
            Some(end) => {
                let from = self.comma_behind(text, number - 1).unwrap_or(self.items[number - 1].end);
                spliced(text, from..end, "")
            }
            None => spliced(text, self.items[number - 1].end..item.end, ""),
        }
    }

    fn lead_len(&self, text: &str, at: usize) -> usize {
        let rest = &text[at..];
        rest.len() - rest.trim_start().len()
    }

    /// The end of the comma behind an item, and of a comment on its line.
    fn comma_behind(&self, text: &str, number: usize) -> Option<usize> {
        let end = self.items[number].end;
        let limit = self.items.get(number + 1).map_or(self.whole.end - 1, |next| next.start);
        let rest = &text[end..limit];
        let comma = rest.find(',').filter(|at| rest[..*at].trim().is_empty())?;
        let behind = &rest[comma + 1..];
        let line = behind.lines().next().unwrap_or_default();
        let comment = if line.trim_start().starts_with('#') { line.len() } else { 0 };
        Some(end + comma + 1 + comment)
    }
}

fn spliced(text: &str, range: Range<usize>, new: &str) -> String {
    format!("{}{new}{}", &text[..range.start], &text[range.end..])
}

#[cfg(test)]
mod tests {
    use super::*;

    const LIST: fn() -> List<'static> = || List { keys: vec!["a".into()], inner: "holds" };

    #[test]
    fn what_is_added_anywhere_and_taken_away_leaves_the_bytes_as_they_were() {
        let texts = [
            "a = []\n",
            "a = [ 1 ]",
            "a = [ ]\n",
            "a = [ # none yet\n]\n",
            "a = [1, 2]\n",
            "a = [ 1, 2, 3 ]\n",
            "a = [\n  1,\n  2,\n]\n",
            "a = [\n  1,\n  2\n]\n",
            "a = [\n\t1, # one\n\t# of two\n\t2, # two\n]\nb = 3\n",
            "a = [\n  1, # one\n]\n",
        ];
        for text in texts {
            let count = LIST().count(text).unwrap();
            for at in 0..=count {
                let with = LIST().insert(text, Some(&[at]), "{ x = \"y\" }").unwrap();
                assert_eq!(LIST().count(&with), Some(count + 1), "{with}");
                let removed = LIST().remove(&with, &[at]).unwrap();
                assert_eq!((removed.text.as_str(), removed.item.as_str()), (text, "{ x = \"y\" }"), "{at}: {with}");
                assert!(!removed.list_too || count > 0 || text.contains("[ 1 ]"), "{text}");
            }
        }
    }

    #[test]
    fn what_items_hold_is_reached_by_their_numbers() {
        let text = "a = [ { use = \"x\" }, { use = \"y\", holds = [ { use = \"z\" } ] } ]\n";
        let with = LIST().insert(text, Some(&[0, 0]), "{ use = \"n\" }").unwrap();
        assert!(with.starts_with("a = [ { use = \"x\", holds = [ { use = \"n\" } ] }, "), "{with}");
        assert_eq!(LIST().remove(&with, &[0, 0]).unwrap().text, text);
        let with = LIST().insert(text, Some(&[1, 1]), "{ use = \"n\" }").unwrap();
        assert!(with.contains("[ { use = \"z\" }, { use = \"n\" } ]"), "{with}");
        assert_eq!(LIST().remove(&with, &[1, 1]).unwrap().text, text);
        assert_eq!(LIST().insert(text, Some(&[2, 0]), "{}").unwrap_err().0, "there is no place 3: there are 2");
        assert_eq!(LIST().remove(text, &[0, 0]).unwrap_err().0, "there is no place 1: there is nothing");
    }

    #[test]
    fn comments_stay_when_an_item_goes() {
        let text = "a = [\n  1, # one\n  # of two\n  2,\n]\n";
        assert_eq!(LIST().remove(text, &[0]).unwrap().text, "a = [\n  # of two\n  2,\n]\n");
        assert_eq!(LIST().remove(text, &[1]).unwrap().text, "a = [\n  1, # one\n]\n");
    }
}
