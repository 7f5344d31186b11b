//! Callbacks: the engine that runs them, under the limits of the host contract.

mod bridge;
mod context;
mod limits;
mod modules;
mod natives;

use std::cell::OnceCell;
use std::rc::{Rc, Weak};
use std::sync::Arc;

use minijinja::Value;
use rquickjs::{Ctx, Error, Runtime};
use truehook_core::link::Registry;
use truehook_core::scan::Limits;

use crate::host::{Call, CallError, Calls, Scene};
use crate::rendering::Rendering;
use context::PageContext;
use limits::Clock;
use modules::{Asked, Names, Sources};

/// Room on the stack for callbacks that call themselves, in bytes.
const STACK: usize = 512 * 1024;
/// What the engine itself needs, on top of what a callback may take.
const OWN_MEMORY: u64 = 16 * 1024 * 1024;

/// The engine, without any page. It stays on one thread.
pub struct Engine {
    runtime: Runtime,
    clock: Rc<Clock>,
    asked: Asked,
    limits: Limits,
}

impl Engine {
    /// An engine for a theme's callbacks.
    ///
    /// # Errors
    /// Where it can't be started, most likely for lack of memory.
    pub fn new(registry: &Arc<Registry>) -> Result<Engine, Error> {
        let runtime = Runtime::new()?;
        let limits = *registry.limits();
        runtime.set_max_stack_size(STACK);
        let clock = Rc::new(Clock::new(limits));
        let watched = clock.clone();
        runtime.set_interrupt_handler(Some(Box::new(move || watched.is_over())));
        let asked = Asked::default();
        runtime.set_loader(Names(asked.clone()), Sources(registry.clone()));
        Ok(Engine { runtime, clock, asked, limits })
    }

    /// Makes ready for the next page.
    fn begin_page(&self) {
        self.clock.begin_page();
        let used = self.runtime.memory_usage().malloc_size.max(0) as u64;
        let limit = used + OWN_MEMORY + self.limits.callback_mebibytes * 1024 * 1024;
        self.runtime.set_memory_limit(usize::try_from(limit).unwrap_or(usize::MAX));
    }
}

/// Calls callbacks of one page from outside any other. The page's context is made when the first is called.
pub struct Outside {
    engine: Rc<Engine>,
    scene: Weak<Scene>,
    own: Weak<Outside>,
    context: OnceCell<PageContext>,
}

impl Outside {
    /// For the page of a scene.
    pub fn new(engine: Rc<Engine>, scene: Weak<Scene>) -> Rc<Outside> {
        Rc::new_cyclic(|own| Outside { engine, scene, own: own.clone(), context: OnceCell::new() })
    }

    fn context(&self) -> Result<&PageContext, String> {
        if let Some(known) = self.context.get() {
            return Ok(known);
        }
        let scene = self.scene.upgrade().ok_or("no page is being rendered")?;
        self.engine.begin_page();
        let context = PageContext::new(&self.engine, &scene.page.globals(), &self.own)?;
        Ok(self.context.get_or_init(|| context))
    }
}

impl Calls for Outside {
    fn call(&self, call: &Call<'_>) -> Result<Value, CallError> {
        let context = self.context().map_err(CallError::new)?;
        let scene = self.scene.upgrade().ok_or_else(|| CallError::new("no page is being rendered"))?;
        context.enter(|ctx| context.call(ctx, &scene.page, call))
    }

    fn renew(&self) {
        let (Some(context), Some(scene)) = (self.context.get(), self.scene.upgrade()) else { return };
        // Values that can't be handed over stay as they were: what made them has failed by itself.
        let _ = context.enter(|ctx| context.fix(ctx, &scene.page.globals()));
    }

    fn stored(&self) -> Option<Value> {
        let context = self.context.get()?;
        context.enter(|ctx| context.stored(ctx)).ok()
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

    fn renew(&self) {
        let _ = self.context.fix(self.ctx, &self.page.globals());
    }

    fn stored(&self) -> Option<Value> {
        self.context.stored(self.ctx).ok()
    }
}
