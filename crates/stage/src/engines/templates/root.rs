//! What a template sees, and how its functions find the page that they are called on: by a value in its
//! root that no template can name.

use std::rc::{Rc, Weak};
use std::sync::Arc;

use fragile::Fragile;
use minijinja::value::{Object, ObjectRepr};
use minijinja::{State, Value};
use truehook_core::names::{GLOBALS, nearest};
use truehook_core::scan::{FILTERS, FUNCTIONS, TESTS};

use super::Inputs;
use crate::addresses;
use crate::host::Scene;
use crate::site::globals::Globals;

/// The key under which the page stands in the root. No name in a template holds a blank.
pub const KEY: &str = "the page";

/// Names that the engine looks up by itself.
const ENGINE_NAMES: [&str; 4] = ["super", "caller", "loop", "self"];

/// The way back to a page, which stays on the thread where the page is made.
struct Way(Fragile<Weak<Scene>>);

impl std::fmt::Debug for Way {
    fn fmt(&self, out: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        out.write_str("the page")
    }
}

impl Object for Way {}

/// What stands under [`KEY`].
pub fn key(scene: &Rc<Scene>) -> Value {
    let way = || Value::from_object(Way(Fragile::new(Rc::downgrade(scene))));
    scene.key.get_or_init(way).clone()
}

/// The page on which a function is called.
pub fn scene(state: &State) -> Option<Rc<Scene>> {
    let value = state.lookup(KEY)?;
    value.downcast_object_ref::<Way>()?.0.try_get().ok()?.upgrade()
}

/// The globals, and the inputs of the component or template at hand.
#[derive(Debug)]
pub struct Root {
    globals: Arc<Globals>,
    inputs: Inputs,
    key: Value,
}

impl Root {
    pub fn value(scene: &Rc<Scene>, inputs: Inputs) -> Value {
        Value::from_object(Root { globals: scene.page.globals(), inputs, key: key(scene) })
    }
}

impl Object for Root {
    fn repr(self: &Arc<Self>) -> ObjectRepr {
        ObjectRepr::Map
    }

    fn get_value(self: &Arc<Self>, key: &Value) -> Option<Value> {
        let key = key.as_str()?;
        if key == KEY {
            return Some(self.key.clone());
        }
        let input = || self.inputs.iter().find(|(name, _)| *name == key).map(|(_, value)| value);
        if let Some(value) = self.globals.root(key).or_else(input) {
            return Some(value.clone());
        }
        let given = key == addresses::CHECK
            || FUNCTIONS.contains(&key)
            || ENGINE_NAMES.contains(&key)
            || FILTERS.contains(&key)
            || TESTS.contains(&key);
        if !given {
            let near = nearest(key, self.inputs.iter().map(|(name, _)| *name).chain(GLOBALS));
            self.globals.strays.add(key.to_string(), near);
        }
        None
    }
}
