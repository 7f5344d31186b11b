//! Messages of the theme in the page's language, and what is put into them.

use std::collections::HashMap;
use std::sync::Arc;

use minijinja::Value;
use truehook_core::link::Registry;
use truehook_core::name::Name;
use truehook_core::scan::Plurals;

use crate::value::as_markup;

/// The translations of one language, those of all layers together.
#[derive(Default)]
pub struct Words {
    entries: HashMap<Name, (Vec<Name>, Arc<Plurals>)>,
    source: Plurals,
}

impl Words {
    /// The words of a language: its own, or those of the language that it is a kind of, as `de` is for
    /// `de-AT` (RFC 4647, 3.4). None where translations are not switched on.
    pub fn new(registry: &Registry, language: &str) -> Words {
        let mut words = Words::default();
        if !registry.is_enabled("translations") {
            return words;
        }
        let mut range = language.replace('_', "-");
        loop {
            let is = |own: &str| own.replace('_', "-").eq_ignore_ascii_case(&range);
            let files: Vec<_> = registry.translations().into_iter().filter(|(_, own)| is(own)).collect();
            for (file, _) in &files {
                let Some(shape) = registry.words(*file) else { continue };
                let plurals = Arc::new(shape.plurals.clone());
                let good = shape.entries.iter().filter(|entry| entry.is_translated());
                words.entries.extend(good.map(|entry| (entry.id, (entry.forms.clone(), plurals.clone()))));
            }
            match range.rfind('-') {
                Some(end) if files.is_empty() => range.truncate(end),
                _ => return words,
            }
        }
    }

    /// A message with its placeholders filled: the translation, or the text of the theme where there is
    /// none. `count` chooses the form. It is markup as soon as something in it is.
    pub fn message(&self, id: &str, plural: Option<&str>, args: &[(String, Value)]) -> Value {
        let count = args.iter().find(|(name, _)| name == "count").map(|(_, count)| count);
        let number = count.and_then(|count| f64::try_from(count.clone()).ok()).map_or(1, |count| count.abs() as u64);
        let known = Name::known(id).and_then(|id| self.entries.get(&id));
        let text = match (known, plural) {
            (Some((forms, _)), _) if forms.len() == 1 => forms[0].as_str(),
            (Some((forms, plurals)), _) => {
                forms.get(plurals.form(number)).or(forms.last()).map_or(id, |form| form.as_str())
            }
            (None, Some(plural)) if self.source.form(number) == 1 => plural,
            (None, _) => id,
        };
        filled(text, args)
    }
}

/// Puts values into the placeholders of a text. A placeholder that nothing is given for stays.
fn filled(text: &str, args: &[(String, Value)]) -> Value {
    let is_markup = args.iter().any(|(_, value)| value.is_safe());
    let shown = |value: &Value| if is_markup { as_markup(value) } else { value.to_string() };
    let mut done = String::with_capacity(text.len());
    let mut rest = text;
    let plain = |text: &str| if is_markup { as_markup(&Value::from(text)) } else { text.to_string() };
    while let Some(open) = rest.find('{') {
        let given = rest[open..].find('}').and_then(|close| {
            let name = &rest[open + 1..open + close];
            args.iter().find(|(known, _)| known == name).map(|(_, value)| (value, open + close + 1))
        });
        let Some((value, end)) = given else {
            done.push_str(&plain(&rest[..=open]));
            rest = &rest[open + 1..];
            continue;
        };
        done.push_str(&plain(&rest[..open]));
        done.push_str(&shown(value));
        rest = &rest[end..];
    }
    done.push_str(&plain(rest));
    if is_markup { Value::from_safe_string(done) } else { Value::from(done) }
}
