//! What manifests and previews say of a point that goes.

use super::super::lists::{self, List};
use super::super::tables::{removed, tables};
use super::super::tree;
use super::super::words::{Word, words};
use super::{Going, Way, holds};
use crate::address::Kind;
use crate::edit::EditError;

impl Going<'_> {
    /// A manifest without its declaration, and what hangs on it moved or taken away.
    pub(super) fn in_manifest(&self, plain: &str, moves: bool) -> Result<String, EditError> {
        let mut text = self.undeclared(plain)?;
        if moves {
            text = self.each(text, |going, text, word| going.change(text, word))?;
        }
        Ok(text)
    }

    /// A preview in which nothing leads to it.
    pub(super) fn in_preview(&self, plain: &str) -> Result<String, EditError> {
        self.each(plain.to_string(), |going, text, word| {
            if word.path.first().is_some_and(|key| key == "data") {
                return Ok(None);
            }
            going.change(text, word)
        })
    }

    fn undeclared(&self, plain: &str) -> Result<String, EditError> {
        let keys = self.keys();
        let mut text = plain.to_string();
        while let Some(table) = tables(&text).unwrap_or_default().into_iter().rev().find(|table| table.is_below(&keys))
        {
            text.replace_range(removed(&text, table.start..table.end), "");
        }
        // It may be declared without a table of its own.
        if words(&text).iter().any(|word| word.is_key && word.is_at(&keys)) {
            text = tree::changed(&text, |document| {
                tree::unset(document.as_table_mut(), &keys);
                Ok(())
            })?;
        }
        Ok(text)
    }

    /// Changes a text word by word, until nothing in it changes any more.
    fn each(
        &self,
        mut text: String,
        change: impl Fn(&Self, &str, &Word) -> Result<Option<String>, EditError>,
    ) -> Result<String, EditError> {
        // What can't be changed is passed by.
        let mut passed = 0;
        loop {
            let meant: Vec<Word> = words(&text).into_iter().filter(|word| self.is_meant(word)).collect();
            let Some(word) = meant.get(passed) else { return Ok(text) };
            match change(self, &text, word)? {
                Some(changed) => text = changed,
                None => passed += 1,
            }
        }
    }

    fn is_meant(&self, word: &Word) -> bool {
        let chosen =
            self.address.kind == Kind::Option && word.is_key && word.is_at(&["options", self.address.name.as_str()]);
        let for_people = word.path.last().is_some_and(|key| key == "label" || key == "about");
        chosen || !for_people && self.gone.iter().any(|gone| gone.to_string() == word.text)
    }

    fn change(&self, text: &str, word: &Word) -> Result<Option<String>, EditError> {
        if word.is_key {
            return self.change_key(text, word);
        }
        let path: Vec<&str> = word.path.iter().map(String::as_str).collect();
        let at = word.span.start as usize;
        let is_table = matches!(path[..], ["attach" | "detach" | "replace", _] | ["check", "ignore", _]);
        let Way::To(to) = self.way else {
            return Ok(if is_table { without_table(text, word) } else { lists::without(text, at) });
        };
        let doubled = match path[..] {
            ["attach", "to"] => self.is_attached_twice(text, word, &to.to_string()),
            ["check", "ignore", _] => false,
            _ => lists::has_beside(text, at, &to.to_string()),
        };
        match doubled {
            true if is_table => Ok(without_table(text, word)),
            true => Ok(lists::without(text, at)),
            false => Ok(Some(with(text, word, &self.address.to_string(), &to.to_string()))),
        }
    }

    /// A fill, or the choice of an option.
    fn change_key(&self, text: &str, word: &Word) -> Result<Option<String>, EditError> {
        let path: Vec<&str> = word.path.iter().map(String::as_str).collect();
        let without = |text: &str| {
            tree::changed(text, |document| {
                tree::unset(document.as_table_mut(), &path);
                Ok(())
            })
        };
        let Way::To(to) = self.way else { return without(text).map(Some) };
        let [table, _] = path[..] else { return Ok(None) };
        let (old, new) = match self.address.kind {
            Kind::Option => (self.address.name.to_string(), to.name.to_string()),
            _ => (self.address.to_string(), to.to_string()),
        };
        let list = |key: &str| List { keys: vec![table.to_string(), key.to_string()], inner: "holds" };
        if !words(text).iter().any(|word| word.is_key && word.is_at(&[table, &new])) {
            return Ok(Some(with(text, word, &old, &new)));
        }
        // Both are filled: the items of one come behind those of the other.
        let mut text = text.to_string();
        while list(&old).count(&text).is_some_and(|count| count > 0) && list(&new).count(&text).is_some() {
            let gone = list(&old).remove(&text, &[0])?;
            text = list(&new).insert(&gone.text, None, &gone.item)?;
        }
        without(&text).map(Some)
    }

    /// Is the same thing attached to the other point already?
    fn is_attached_twice(&self, text: &str, word: &Word, to: &str) -> bool {
        let all = words(text);
        let tables = tables(text).unwrap_or_default();
        let what = |start: usize, end: usize| {
            let inside = all.iter().filter(|other| holds(start, end, other.span) && !other.is_key);
            inside
                .filter(|other| other.is_at(&["attach", "call"]) || other.is_at(&["attach", "use"]))
                .map(|other| &other.text)
                .next()
        };
        let own = tables.iter().find(|table| holds(table.start, table.end, word.span));
        let Some(own) = own.and_then(|own| what(own.start, own.end)) else { return false };
        tables.iter().any(|table| {
            let goes = |other: &&Word| {
                holds(table.start, table.end, other.span) && other.is_at(&["attach", "to"]) && !other.is_key
            };
            all.iter().find(goes).is_some_and(|other| other.text == to) && what(table.start, table.end) == Some(own)
        })
    }
}

fn without_table(text: &str, word: &Word) -> Option<String> {
    let table = tables(text)?.into_iter().find(|table| holds(table.start, table.end, word.span))?;
    let gone = removed(text, table.start..table.end);
    Some(format!("{}{}", &text[..gone.start], &text[gone.end..]))
}

fn with(text: &str, word: &Word, old: &str, new: &str) -> String {
    let range = word.span.range();
    format!("{}{}{}", &text[..range.start], word.rewritten(text, old, new), &text[range.end..])
}
