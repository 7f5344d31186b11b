//! Conditions: the expressions of `when`, each compiled once.

use rustc_hash::FxHashMap;
use std::sync::{Arc, LazyLock, Mutex, PoisonError};

use minijinja::{Environment, Expression, UndefinedBehavior, Value};
use truehook_core::name::Name;

use super::functions::{enabled, filled};

/// How many steps a condition may take.
const STEPS: u64 = 100_000;

static PLAIN: LazyLock<Environment<'static>> = LazyLock::new(|| {
    let mut environment = Environment::empty();
    environment.set_undefined_behavior(UndefinedBehavior::Chainable);
    environment.add_function("enabled", enabled);
    environment.add_function("filled", filled);
    environment.set_fuel(Some(STEPS));
    environment
});

/// The conditions that were asked for: each is asked on every page, and is the same text each time.
#[derive(Default)]
pub struct Conditions(Mutex<FxHashMap<Name, Arc<Expression<'static, 'static>>>>);

impl Conditions {
    pub fn holds(&self, when: Name, root: Value) -> Result<bool, String> {
        let value = self.compiled(when)?.eval(root).map_err(|error| error.to_string())?;
        Ok(value.is_true())
    }

    fn compiled(&self, when: Name) -> Result<Arc<Expression<'static, 'static>>, String> {
        let mut known = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = known.get(&when) {
            return Ok(known.clone());
        }
        let compiled = PLAIN.compile_expression(when.as_str()).map_err(|error| error.to_string())?;
        let compiled = Arc::new(compiled);
        known.insert(when, compiled.clone());
        Ok(compiled)
    }
}
