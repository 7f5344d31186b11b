//! What templates and callbacks can ask for while a page is made, and how callbacks are called from where
//! one is.

use std::cell::OnceCell;
use std::rc::Rc;

use minijinja::Value;
use truehook_core::address::Address;
use truehook_core::link::Callback;
use truehook_core::name::Name;
use truehook_core::source::LayerId;

use crate::rendering::Rendering;
use crate::value::Given;

/// The functions that stand in templates and callbacks.
pub trait Host {
    /// Leaves a hole for a point or outlet; nothing but a failure where the address is neither.
    fn place(&self, here: &Here<'_>, address: &str, args: Given) -> String;

    /// Sends a value through a filter.
    fn through(&self, here: &Here<'_>, address: &str, value: Value, args: &[(String, Value)]) -> Value;

    /// Will anything show at a point?
    fn filled(&self, here: &Here<'_>, address: &str) -> bool;

    /// Has the theme switched a feature on?
    fn enabled(&self, here: &Here<'_>, address: &str) -> bool;

    /// Does a condition hold on this page?
    ///
    /// # Errors
    /// Where it can't be evaluated, as when it compares what has no order.
    fn holds(&self, here: &Here<'_>, when: Name) -> Result<bool, String>;

    /// The address of a file or asset, as the page shows it; nothing where there is no such file.
    fn asset(&self, here: &Here<'_>, written: &str, from: LayerId) -> Option<String>;

    /// A message in the page's language.
    fn translated(&self, here: &Here<'_>, message: &str, args: Given) -> Value;

    /// Writes a value into the trace.
    fn note(&self, here: &Here<'_>, value: &Value);

    /// Notes an address that was left out, because it would run as code.
    fn refuse(&self, here: &Here<'_>, address: &str);
}

/// How a callback is called. From outside an engine that is another thing than from inside a callback that
/// is running; see the two types that do it.
pub trait Calls {
    /// Calls a callback.
    ///
    /// # Errors
    /// Where it gives no value.
    fn call(&self, call: &Call<'_>) -> Result<Value, CallError>;

    /// Hands over values of the page that have changed since they were handed over.
    fn renew(&self, changed: &[(&str, Value)]);

    /// What listeners at moments have stored; nothing where none ran.
    fn stored(&self) -> Option<Value>;
}

/// One call of a callback: what is piped through it, its named arguments, and its point.
pub struct Call<'v> {
    pub callback: Callback,
    pub piped: Option<&'v Value>,
    pub args: &'v [(String, Value)],
    pub point: Address,
}

/// Why a callback gave no value.
#[derive(Clone, Debug)]
pub struct CallError {
    /// What went wrong.
    pub message: String,
    /// Where: module, line and column from 1, where the engine knows.
    pub place: Option<(String, usize, usize)>,
}

impl CallError {
    pub fn new(message: impl Into<String>) -> CallError {
        CallError { message: message.into(), place: None }
    }

    /// What to say of a callback that returned the wrong type.
    pub fn wrong_type(wanted: &str, got: impl std::fmt::Display) -> CallError {
        CallError::new(format!("returned {got} where {wanted} belongs"))
    }
}

/// Where something is asked for: on which page, of which host, and how callbacks are called from there.
#[derive(Clone, Copy)]
pub struct Here<'h> {
    pub page: &'h Rendering,
    pub host: &'h dyn Host,
    pub calls: &'h dyn Calls,
}

/// A page with all that it takes to make it: its host, and the engine in which its callbacks run, called
/// from outside.
pub struct Scene {
    pub page: Rendering,
    pub host: Box<dyn Host>,
    pub calls: Rc<dyn Calls>,
    /// By what templates find their way back to it.
    pub key: OnceCell<Value>,
}

impl Scene {
    pub fn here(&self) -> Here<'_> {
        Here { page: &self.page, host: &*self.host, calls: &*self.calls }
    }
}
