//! What somebody looks at otherwise than the preview's files say: for that browser alone, until it is kept.

use percent_encoding::percent_decode_str;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};
use truehook_core::address::{Address, Kind};
use truehook_core::edit::{EditError, Plan, fill};
use truehook_core::link::Registry;
use truehook_core::schema::misfit;

/// The cookie in which a browser keeps it.
pub const COOKIE: &str = "truehook-view";
/// How long that may be, in bytes.
const LONGEST: usize = 4096;

/// Choices of one browser.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct View {
    /// The language.
    pub language: Option<String>,
    /// Options, by their names.
    pub options: Map<String, Value>,
    /// Menus, by the spots that they fill.
    pub menus: Map<String, Value>,
}

impl View {
    /// What a request's cookies say. Whatever is none is as if it was not there.
    pub fn of_cookies(cookies: &str) -> View {
        let own = cookies.split(';').filter_map(|cookie| cookie.trim().split_once('='));
        let value =
            own.filter(|(name, value)| *name == COOKIE && value.len() <= LONGEST).map(|(_, value)| value).next();
        let text = value.and_then(|value| percent_decode_str(value).decode_utf8().ok());
        text.and_then(|text| serde_json::from_str(&text).ok()).unwrap_or_default()
    }

    /// By what it is known.
    pub fn key(&self) -> String {
        serde_json::to_string(self).unwrap_or_default()
    }

    /// Without what a theme doesn't have, or what doesn't fit.
    pub fn fitting(&self, registry: &Registry) -> View {
        let language = self.language.clone().filter(|code| {
            let good = |c: char| c.is_ascii_alphanumeric() || c == '-' || c == '_';
            !code.is_empty() && code.len() < 32 && code.chars().all(good)
        });
        let fits = |name: &str, value: &Value| {
            let option = registry.point(Address::new(Kind::Option, name));
            option.is_some_and(|option| option.schema().is_none_or(|schema| misfit(schema, value).is_none()))
        };
        let options = self.options.iter().filter(|(name, value)| fits(name, value));
        let is_menu = |spot: &str, menu: &Value| {
            let spot = spot.parse::<Address>().ok().filter(|spot| spot.kind == Kind::Menu);
            let known = |menu: &str| menus(registry).iter().any(|known| known == menu);
            spot.is_some_and(|spot| registry.point(spot).is_some()) && menu.as_str().is_some_and(known)
        };
        let menus = self.menus.iter().filter(|(spot, menu)| is_menu(spot, menu));
        let own = |(key, value): (&String, &Value)| (key.clone(), value.clone());
        View { language, options: options.map(own).collect(), menus: menus.map(own).collect() }
    }

    /// What would make the preview's files say the same.
    ///
    /// # Errors
    /// Where they can't be edited.
    pub fn plan(&self, registry: &Registry) -> Result<Plan, EditError> {
        let options: Vec<(&str, &Value)> = self.options.iter().map(|(name, value)| (name.as_str(), value)).collect();
        let spot = |(spot, menu): (&String, &Value)| Some((spot.parse().ok()?, menu.as_str()?.to_string()));
        let menus: Vec<(Address, String)> = self.menus.iter().filter_map(spot).collect();
        fill::say(registry, self.language.as_deref(), &options, &menus)
    }

    /// Does it differ from the files in anything that these could say?
    pub fn is_plain(&self) -> bool {
        self.options.is_empty() && self.menus.is_empty()
    }
}

/// The site's menus.
pub fn menus(registry: &Registry) -> Vec<String> {
    let site = registry.site_values();
    let menus = site.get("menus").and_then(Value::as_object);
    menus.map(|menus| menus.keys().cloned().collect()).unwrap_or_default()
}
