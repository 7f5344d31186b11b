//! The functions of templates and callbacks, by what happens at points.

use std::rc::{Rc, Weak};
use std::sync::Arc;

use minijinja::Value;
use truehook_core::address::{Address, Kind};
use truehook_core::link::MENU_ARGUMENTS;
use truehook_core::name::Name;
use truehook_core::scan::OutletKind;
use truehook_core::source::LayerId;

use crate::engines::templates::Templates;
use crate::host::{Here, Host, Scene};
use crate::points::{contents, filters, media};
use crate::record::holes::Hole;
use crate::record::trace::Failure;
use crate::value::{Given, shown};

/// The host of one page.
pub struct PageHost {
    pub templates: Arc<Templates>,
    /// The page, which owns this.
    pub scene: Weak<Scene>,
}

impl PageHost {
    fn scene(&self) -> Option<Rc<Scene>> {
        self.scene.upgrade()
    }
}

/// Says which arguments a point does not take, so that they are lost.
fn note_strangers(here: &Here<'_>, address: Address, args: &[(String, Value)]) {
    let Some(point) = here.page.registry().point(address).filter(|_| !args.is_empty()) else { return };
    let takes = |name: &str| match address.kind {
        Kind::Menu => MENU_ARGUMENTS.contains(&name),
        _ => point.passed().iter().any(|input| input.field.name == *name),
    };
    for (name, _) in args.iter().filter(|(name, _)| !takes(name)) {
        here.page.fail(Failure::at(address, format!("it takes no `{name}`, which is lost")));
    }
}

impl Host for PageHost {
    fn place(&self, here: &Here<'_>, address: &str, args: Given) -> String {
        let page = here.page;
        let fail = |message: String| {
            page.fail(Failure::at(address, message));
            String::new()
        };
        match OutletKind::from_word(address) {
            Some(OutletKind::Sections) => return page.leave_hole(Hole::Sections),
            Some(OutletKind::Held) => {
                return match page.frame() {
                    Some(frame) => page.leave_hole(Hole::Held(frame)),
                    None => fail("only a component holds something".into()),
                };
            }
            None => {}
        }
        if let Some(point) = page.shared.names.placed.get(address) {
            note_strangers(here, *point, &args);
            return page.leave_hole(Hole::Point { point: *point, args, held: Vec::new() });
        }
        match address.parse::<Address>() {
            Ok(point) if point.kind.is_placed() => page.leave_hole(Hole::Point { point, args, held: Vec::new() }),
            Ok(point) => fail(format!("{} can't be placed", point.kind.one())),
            Err(error) => fail(error.to_string()),
        }
    }

    fn through(&self, here: &Here<'_>, address: &str, value: Value, args: &[(String, Value)]) -> Value {
        if let Ok(point) = address.parse() {
            note_strangers(here, point, args);
        }
        filters::send_through(here, address, value, args)
    }

    fn filled(&self, here: &Here<'_>, address: &str) -> bool {
        contents::is_filled(here, address)
    }

    fn enabled(&self, here: &Here<'_>, address: &str) -> bool {
        let registry = here.page.registry();
        let found = address.parse::<Address>().ok().filter(|address| address.kind == Kind::Feature);
        let offered = found.filter(|address| registry.offers(*address));
        if offered.is_none() {
            here.page.fail(Failure::at(address, "the host offers no such feature"));
        }
        offered.is_some_and(|address| registry.is_on(address))
    }

    fn holds(&self, _: &Here<'_>, when: Name) -> Result<bool, String> {
        let scene = self.scene().ok_or("no page is being rendered")?;
        self.templates.holds(&scene, when)
    }

    fn asset(&self, here: &Here<'_>, written: &str, from: LayerId) -> Option<String> {
        media::address(here, written, from)
    }

    fn translated(&self, here: &Here<'_>, message: &str, mut args: Given) -> Value {
        let plural = args.iter().position(|(name, _)| name == "plural").map(|at| args.remove(at).1);
        here.page.words.message(message, plural.as_ref().and_then(Value::as_str), &args)
    }

    fn note(&self, here: &Here<'_>, value: &Value) {
        here.page.trace.borrow_mut().note(shown(value));
    }

    fn refuse(&self, here: &Here<'_>, address: &str) {
        let shown: String = address.chars().take(40).collect();
        let message = format!("the address `{shown}` would run as code, so it was left out");
        here.page.fail(Failure::of(here.page.template_name(), message));
    }
}
