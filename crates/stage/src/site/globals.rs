//! What templates, callbacks and conditions read: `page`, `site`, `theme` and `options`, and which keys
//! these can have.

use std::sync::{Arc, Mutex, PoisonError};

use minijinja::Value;
use minijinja::value::{Enumerator, Object, ObjectRepr};
use truehook_core::name::Name;
use truehook_core::names::nearest;

/// Values by their names.
pub type Values = Vec<(Name, Value)>;

/// A name that was read and isn't there, with the nearest one that is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Stray {
    pub name: String,
    pub near: Option<String>,
}

/// The strays of one page that nobody has looked at yet.
#[derive(Debug, Default)]
pub struct Strays(Mutex<Vec<Stray>>);

impl Strays {
    pub fn add(&self, name: String, near: Option<&str>) {
        let stray = Stray { name, near: near.map(str::to_string) };
        self.0.lock().unwrap_or_else(PoisonError::into_inner).push(stray);
    }

    pub fn take(&self) -> Vec<Stray> {
        std::mem::take(&mut *self.0.lock().unwrap_or_else(PoisonError::into_inner))
    }
}

/// A table of which it is known which keys it can have.
///
/// A known key that is not set is none. Any other is a stray, and prints nothing.
#[derive(Clone, Debug)]
pub struct KnownTable {
    /// How templates call it.
    pub name: &'static str,
    /// What is set.
    pub values: Arc<Values>,
    /// What can be set.
    pub known: Arc<[Name]>,
    /// Who hears of strays.
    pub strays: Arc<Strays>,
}

impl Object for KnownTable {
    fn repr(self: &Arc<Self>) -> ObjectRepr {
        ObjectRepr::Map
    }

    fn get_value(self: &Arc<Self>, key: &Value) -> Option<Value> {
        let key = key.as_str()?;
        if let Some((_, value)) = self.values.iter().find(|(name, _)| *name == *key) {
            return Some(value.clone());
        }
        if self.known.iter().any(|name| *name == *key) {
            return Some(Value::from(()));
        }
        let near = nearest(key, self.known.iter().map(|name| name.as_str()));
        self.strays.add(format!("{}.{key}", self.name), near);
        None
    }

    fn enumerate(self: &Arc<Self>) -> Enumerator {
        Enumerator::Values(self.values.iter().map(|(name, _)| Value::from(name.as_str())).collect())
    }
}

/// The values of one page and its site.
#[derive(Clone, Debug)]
pub struct Globals {
    pub page: Value,
    pub site: Value,
    pub theme: Value,
    pub options: Value,
    /// What was read of them and isn't there.
    pub strays: Arc<Strays>,
}

impl Globals {
    /// The value of a root, by its name.
    pub fn root(&self, name: &str) -> Option<&Value> {
        match name {
            "page" => Some(&self.page),
            "site" => Some(&self.site),
            "theme" => Some(&self.theme),
            "options" => Some(&self.options),
            _ => None,
        }
    }

    /// The page with some of its values changed.
    pub fn page_with(&self, changed: Vec<(&str, Value)>) -> Value {
        let Some(table) = self.page.downcast_object_ref::<KnownTable>() else { return self.page.clone() };
        let mut values = (*table.values).clone();
        for (key, value) in changed {
            match values.iter_mut().find(|(known, _)| *known == *key) {
                Some((_, known)) => *known = value,
                None => values.push((key.into(), value)),
            }
        }
        Value::from_object(KnownTable { values: Arc::new(values), ..table.clone() })
    }

    /// A value of the page as text; empty where it is not there.
    pub fn page_text(&self, key: &str) -> String {
        text(&self.page, key)
    }

    /// A value of the site as text; empty where it is not there.
    pub fn site_text(&self, key: &str) -> String {
        text(&self.site, key)
    }
}

fn text(of: &Value, key: &str) -> String {
    let value = of.get_attr(key).unwrap_or_default();
    if value.is_none() || value.is_undefined() { String::new() } else { value.to_string() }
}
