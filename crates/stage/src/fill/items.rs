//! Items and menus: what a region, an area, an outlet or a menu spot shows.

use minijinja::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Point, menu_partial};

use super::Filler;
use crate::engines::templates::Wrap;
use crate::points::{components, contents};
use crate::record::holes::Hole;
use crate::record::trace::Failure;
use crate::record::tree::SegmentId;
use crate::value::{Given, as_markup, escape, pairs};

impl Filler<'_> {
    /// Adds an item, in the wrapping of its area.
    pub(super) fn item(&mut self, item: &Value, holder: Option<&Point>, segment: SegmentId) {
        let name = item.get_attr("use").map(|name| name.to_string()).unwrap_or_default();
        let by = holder.map(|holder| holder.address);
        let fail = |message: String| {
            let point = by.map_or_else(|| "sections".to_string(), |by| by.to_string());
            self.fail(Failure::at(point, message));
        };
        let registry = self.registry();
        let Some(component) = registry.item_component(&name, by) else {
            return fail(format!("an item uses `{name}`, which is no component"));
        };
        if by.is_some_and(|by| !registry.may_hold(by, component)) {
            return fail(format!("it may not hold `{component}`"));
        }
        if by.is_none() && component.kind != Kind::Section {
            return fail(format!("a page is composed of sections, and `{component}` is none"));
        }
        let Some(table) = pairs(item) else { return };
        let find = |key: &str| table.iter().find(|(known, _)| known == key).map(|(_, value)| value.clone());
        let held = find("holds").and_then(|held| held.try_iter().ok()?.collect::<Vec<_>>().into()).unwrap_or_default();
        let extent = find("extent").filter(|_| registry.takes_extent(component));
        let extent = extent.and_then(|name| self.extent(component, &name));
        let title = find("title");
        let args: Given = table.into_iter().filter(|(key, _)| key != "use" && key != "holds").collect();
        let hole = self.scene.page.leave_hole(Hole::Point { point: component, args, held });
        let markup = match holder.filter(|holder| holder.address.kind == Kind::Area) {
            Some(area) => self.in_area(area, component, title, hole),
            None => hole,
        };
        self.put(
            segment,
            match extent {
                Some(name) => format!("<div class=\"extent-{}\">{markup}</div>", escape(&name)),
                None => markup,
            },
        );
    }

    /// How wide an item is to be, where the theme has a step of that name.
    pub(super) fn extent(&self, component: Address, name: &Value) -> Option<String> {
        let name = name.as_str()?;
        let steps = self.registry().argument("extent", "steps")?;
        if steps.get(name).is_some() {
            return Some(name.to_string());
        }
        self.fail(Failure::at(component, format!("the theme has no extent `{name}`")));
        None
    }

    /// The wrapping of an item in an area.
    pub(super) fn in_area(&mut self, area: &Point, component: Address, title: Option<Value>, body: String) -> String {
        let count = self.shown.entry(area.address).or_default();
        *count += 1;
        let id = Value::from(format!("{}-{count}", area.address.name));
        let title = title.filter(|title| !title.is_none() && !title.is_undefined() && title.as_str() != Some(""));
        let title = title.and_then(|text| match area.wrap_title {
            Some(_) => self.wrapped(Wrap::Title, area, vec![("text", text), ("id", id.clone())]),
            None => Some(format!("<h3>{}</h3>", as_markup(&text))),
        });
        let title = title.unwrap_or_default();
        if area.wrap.is_none() {
            return format!("{title}{body}");
        }
        let kind = component.inner().map_or(component.name.as_str(), |(_, own)| own);
        let values = vec![
            ("title", Value::from_safe_string(title)),
            ("body", Value::from_safe_string(body)),
            ("id", id),
            ("kind", Value::from(kind)),
        ];
        self.wrapped(Wrap::Whole, area, values).unwrap_or_default()
    }

    /// Renders the menu that fills a spot; nothing where there is none.
    pub(super) fn menu(&mut self, point: &Point, args: &Given, segment: SegmentId) {
        let entries = contents::contents(&self.here(), point);
        if entries.is_empty() {
            return;
        }
        let with = args.iter().find(|(key, _)| key == "with").map(|(_, with)| with.to_string());
        let component = match with {
            None => menu_partial(),
            Some(written) => written.parse().unwrap_or_else(|_| Address::new(Kind::Partial, written.as_str())),
        };
        let inputs = components::menu_inputs(self.registry(), component, point, Value::from(entries.to_vec()), args);
        let hole = self.scene.page.leave_hole(Hole::Point { point: component, args: inputs, held: Vec::new() });
        self.put(segment, hole);
    }
}
