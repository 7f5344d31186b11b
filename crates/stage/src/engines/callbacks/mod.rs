//! Callbacks: the engine that runs them, under the limits of the host contract.

mod bridge;
mod context;
mod limits;
mod modules;
mod natives;
mod realm;

use std::cell::RefCell;
use std::rc::{Rc, Weak};
use std::sync::Arc;

use minijinja::Value;
use rquickjs::{Ctx, Error};
use truehook_core::link::Registry;
use truehook_core::scan::Limits;

use crate::host::{Call, CallError, Calls, Scene};
use crate::rendering::Rendering;
use crate::site::globals::Globals;
use context::PageContext;
use limits::Clock;
use realm::Realm;

/// The engine, without any page. It stays on one thread.
pub struct Engine {
    registry: Arc<Registry>,
    clock: Rc<Clock>,
    limits: Limits,
    realm: RefCell<Option<Rc<Realm>>>,
}

impl Engine {
    /// An engine for a theme's callbacks. It starts when the first of them is called.
    pub fn new(registry: &Arc<Registry>) -> Engine {
        let limits = *registry.limits();
        Engine { registry: registry.clone(), clock: Rc::new(Clock::new(limits)), limits, realm: RefCell::default() }
    }

    /// Makes ready for a page.
    fn begin(&self, globals: &Globals) -> Result<PageContext, Error> {
        let of_page = |realm: &Rc<Realm>| {
            let page = realm.begin(globals, self.limits.callback_mebibytes)?;
            Some(PageContext::new(realm.clone(), page, self.limits))
        };
        let known = self.realm.borrow().as_ref().and_then(of_page);
        if let Some(known) = known {
            return Ok(known);
        }
        let realm = Rc::new(Realm::new(&self.registry, &self.clock)?);
        self.realm.replace(Some(realm.clone()));
        of_page(&realm).ok_or(Error::Unknown)
    }
}

/// Calls callbacks of one page from outside any other. The page's modules are loaded when the first is called.
pub struct Outside {
    engine: Rc<Engine>,
    scene: Weak<Scene>,
    own: Weak<Outside>,
    context: RefCell<Option<Rc<PageContext>>>,
}

impl Outside {
    /// For the page of a scene.
    pub fn new(engine: Rc<Engine>, scene: Weak<Scene>) -> Rc<Outside> {
        engine.clock.begin_page();
        Rc::new_cyclic(|own| Outside { engine, scene, own: own.clone(), context: RefCell::default() })
    }

    /// The page's modules. Where a callback has left its realm unusable, the rest of the page gets others.
    fn context(&self) -> Result<Rc<PageContext>, String> {
        if let Some(known) = self.known() {
            return Ok(known);
        }
        let scene = self.scene.upgrade().ok_or("no page is being rendered")?;
        let globals = scene.page.globals();
        let context = self.engine.begin(&globals).map_err(|error| error.to_string())?;
        context.realm.current.replace(self.own.clone());
        context.realm.enter(|ctx| context.realm.fix(ctx, &globals)).map_err(|error| error.to_string())?;
        let context = Rc::new(context);
        self.context.replace(Some(context.clone()));
        Ok(context)
    }

    /// The modules of which one is running.
    fn running(&self) -> Result<Rc<PageContext>, String> {
        self.context.borrow().clone().ok_or_else(|| "no page is being rendered".to_string())
    }

    fn known(&self) -> Option<Rc<PageContext>> {
        self.context.borrow().as_ref().filter(|context| !context.realm.is_abandoned()).cloned()
    }
}

impl Calls for Outside {
    fn call(&self, call: &Call<'_>) -> Result<Value, CallError> {
        let context = self.context().map_err(CallError::new)?;
        let scene = self.scene.upgrade().ok_or_else(|| CallError::new("no page is being rendered"))?;
        context.realm.enter(|ctx| context.call(ctx, &scene.page, call))
    }

    fn renew(&self, changed: &[(&str, Value)]) {
        let Some(context) = self.known() else { return };
        // Values that can't be handed over stay as they were: what made them has failed by itself.
        let _ = context.realm.enter(|ctx| context.realm.renew(ctx, changed));
    }

    fn stored(&self) -> Option<Value> {
        let context = self.known()?;
        context.realm.enter(|ctx| context.realm.stored(ctx)).ok()
    }
}

/// Calls callbacks from inside one that is running. Made by the functions that callbacks call, and by nobody
/// else, so that a context is never entered twice.
struct Inside<'c, 'js> {
    context: &'c PageContext,
    ctx: &'c Ctx<'js>,
    page: &'c Rendering,
}

impl Calls for Inside<'_, '_> {
    fn call(&self, call: &Call<'_>) -> Result<Value, CallError> {
        self.context.call(self.ctx, self.page, call)
    }

    fn renew(&self, changed: &[(&str, Value)]) {
        let _ = self.context.realm.renew(self.ctx, changed);
    }

    fn stored(&self) -> Option<Value> {
        self.context.realm.stored(self.ctx).ok()
    }
}
