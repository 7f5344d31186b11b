//! A realm: the engine with its built-ins, which no module can change. Pages have their turn in it one after the
//! other, each with modules of its own, so that nothing that a module keeps leaks from one page to the next.

use std::cell::{Cell, RefCell};
use std::rc::{Rc, Weak};
use std::sync::Arc;

use minijinja::Value;
use rquickjs::function::Function;
use rquickjs::{CatchResultExt, Context, Ctx, Error, Module, Object, Persistent, Runtime};
use rquickjs::{String as JsString, Value as JsValue};
use rustc_hash::FxHashMap;
use truehook_core::address::Address;
use truehook_core::link::{Callback, Registry};
use truehook_core::source::FileId;

use super::bridge::Bridge;
use super::limits::Clock;
use super::modules::{Asked, BUILT_IN, Literals, Names, Sources, keeps_nothing};
use super::natives::{Current, natives};
use crate::site::globals::{Globals, KnownTable, Values};

const PRELUDE: &str = include_str!("prelude.js");

/// Room on the stack for callbacks that call themselves, in bytes.
const STACK: usize = 512 * 1024;
/// What the engine itself needs, on top of what a callback may take.
const OWN_MEMORY: u64 = 16 * 1024 * 1024;
/// How many pages have their turn in one realm: their modules stay in its memory.
const PAGES: usize = 64;
/// After how many of them it is counted what the realm holds.
const COUNTED: usize = 8;

/// What the prelude gives, kept beyond single calls.
struct Helpers {
    markup: Persistent<Function<'static>>,
    text_of: Persistent<Function<'static>>,
    run: Persistent<Function<'static>>,
    begin: Persistent<Function<'static>>,
    fix: Persistent<Function<'static>>,
    renew: Persistent<Function<'static>>,
    stored: Persistent<Function<'static>>,
}

/// A realm. What it holds has to go before the context does, so that comes last.
pub struct Realm {
    helpers: Helpers,
    /// Callbacks whose modules keep nothing, so that all pages can have the same.
    pub functions: RefCell<FxHashMap<Callback, Persistent<Function<'static>>>>,
    /// The addresses of points, as callbacks are told, and whether the host fires them.
    points: RefCell<FxHashMap<Address, (Persistent<JsString<'static>>, bool)>>,
    /// Which modules keep nothing.
    lasting: RefCell<FxHashMap<FileId, bool>>,
    pub current: Current,
    pub asked: Asked,
    pub clock: Rc<Clock>,
    pages: Cell<usize>,
    /// What was handed over of the site, the options and the theme, which seldom differ from page to page.
    shared: RefCell<[Option<Arc<Values>>; 3]>,
    spoilt: Cell<bool>,
    /// Has a callback left things to be done that don't come to an end?
    abandoned: Cell<bool>,
    context: Context,
    runtime: Runtime,
}

impl Realm {
    /// A new realm for a theme's callbacks.
    ///
    /// # Errors
    /// Where the engine can't be started, most likely for lack of memory.
    pub fn new(registry: &Arc<Registry>, clock: &Rc<Clock>) -> Result<Realm, Error> {
        let runtime = Runtime::new()?;
        runtime.set_max_stack_size(STACK);
        let watched = clock.clone();
        runtime.set_interrupt_handler(Some(Box::new(move || watched.is_over())));
        let (asked, current) = (Asked::default(), Current::default());
        let literals = Rc::new(Literals::new(registry));
        runtime.set_loader(Names(asked.clone()), Sources(literals.clone()));
        let context = Context::full(&runtime)?;
        let helpers = context.with(|ctx| set_up(&ctx, &asked, &current, &literals))?;
        let (pages, shared) = (Cell::new(0), RefCell::default());
        let (spoilt, abandoned) = (Cell::new(false), Cell::new(false));
        let (functions, points, lasting) = (RefCell::default(), RefCell::default(), RefCell::default());
        Ok(Realm {
            helpers,
            functions,
            points,
            lasting,
            current,
            asked,
            clock: clock.clone(),
            pages,
            shared,
            spoilt,
            abandoned,
            context,
            runtime,
        })
    }

    /// Makes ready for a page, and answers which it is in this realm; nothing where it has to have a new one.
    pub fn begin(&self, globals: &Globals, mebibytes: u64) -> Option<usize> {
        self.current.replace(Weak::new());
        // What a page before left to be done is never done: this one gets a realm of its own.
        if self.spoilt.get() || self.pages.get() == PAGES || self.runtime.is_job_pending() {
            return None;
        }
        // The engine counts all that it holds when it is asked, which takes as long as a small page.
        if self.pages.get().is_multiple_of(COUNTED) {
            let used = self.runtime.memory_usage().malloc_size.max(0) as u64;
            let limit = used + OWN_MEMORY + mebibytes * 1024 * 1024;
            self.runtime.set_memory_limit(usize::try_from(limit).unwrap_or(usize::MAX));
        }
        self.pages.set(self.pages.get() + 1);
        let (time, seed) = (globals.site_text("now"), seed(&globals.page_text("path")));
        let begun = self.enter(|ctx| self.helpers.begin.clone().restore(ctx)?.call::<_, ()>((time, seed)));
        begun.ok().map(|()| self.pages.get())
    }

    /// Can all pages of this realm have the same module, since nothing that it does outlasts a call?
    pub fn keeps_nothing(&self, registry: &Registry, file: FileId) -> bool {
        *self.lasting.borrow_mut().entry(file).or_insert_with(|| keeps_nothing(registry, file))
    }

    /// The address of a point, as callbacks are told, and whether the host fires it.
    pub fn point<'js>(
        &self,
        ctx: &Ctx<'js>,
        registry: &Registry,
        point: Address,
    ) -> Result<(JsString<'js>, bool), Error> {
        if let Some((known, moment)) = self.points.borrow().get(&point) {
            return Ok((known.clone().restore(ctx)?, *moment));
        }
        let written = JsString::from_str(ctx.clone(), &point.to_string())?;
        let moment = registry.point(point).is_some_and(|point| point.moment);
        self.points.borrow_mut().insert(point, (Persistent::save(ctx, written.clone()), moment));
        Ok((written, moment))
    }

    /// Enters the realm. Whoever is in it already has a [`Ctx`], and must not enter again.
    pub fn enter<T>(&self, act: impl FnOnce(&Ctx<'_>) -> T) -> T {
        self.context.with(|ctx| act(&ctx))
    }

    /// Hands over the values of a page.
    pub fn fix(&self, ctx: &Ctx<'_>, globals: &Globals) -> Result<(), Error> {
        let fixed = self.hand_over(ctx, globals);
        if fixed.is_err() {
            // Nobody knows how much of it has arrived.
            self.shared.take();
        }
        fixed
    }

    fn hand_over(&self, ctx: &Ctx<'_>, globals: &Globals) -> Result<(), Error> {
        let bridge = self.bridge(ctx)?;
        let mut shared = self.shared.borrow_mut();
        let mut root = |at: usize, value: &Value| {
            let values = value.downcast_object_ref::<KnownTable>().map(|table| table.values.clone());
            let known = match (&values, &shared[at]) {
                (Some(values), Some(known)) => Arc::ptr_eq(values, known),
                _ => false,
            };
            shared[at] = values;
            if known { Ok(JsValue::new_undefined(ctx.clone())) } else { bridge.to_js(ctx, value) }
        };
        let roots = (root(0, &globals.site)?, root(1, &globals.options)?, root(2, &globals.theme)?);
        let fix = self.helpers.fix.clone().restore(ctx)?;
        fix.call((bridge.to_js(ctx, &globals.page)?, roots.0, roots.1, roots.2))
    }

    /// Hands over values of the page that have changed since.
    pub fn renew(&self, ctx: &Ctx<'_>, changed: &[(&str, Value)]) -> Result<(), Error> {
        let bridge = self.bridge(ctx)?;
        let values = Object::new(ctx.clone())?;
        for (key, value) in changed {
            values.set(*key, bridge.to_js(ctx, value)?)?;
        }
        self.helpers.renew.clone().restore(ctx)?.call((values,))
    }

    /// What listeners at moments have stored.
    pub fn stored(&self, ctx: &Ctx<'_>) -> Result<Value, String> {
        let stored = || -> Result<_, Error> {
            let value: JsValue<'_> = self.helpers.stored.clone().restore(ctx)?.call(())?;
            Ok((self.bridge(ctx)?, value))
        };
        let (bridge, value) = stored().catch(ctx).map_err(|error| error.to_string())?;
        bridge.value_of(&value).map_err(|what| format!("the store holds {what}"))
    }

    /// What conversions need.
    pub fn bridge<'js>(&self, ctx: &Ctx<'js>) -> Result<Bridge<'js>, Error> {
        Ok(Bridge {
            markup: self.helpers.markup.clone().restore(ctx)?,
            text_of: self.helpers.text_of.clone().restore(ctx)?,
            clock: self.clock.clone(),
        })
    }

    /// What calls a callback with its context.
    pub fn run<'js>(&self, ctx: &Ctx<'js>) -> Result<Function<'js>, Error> {
        self.helpers.run.clone().restore(ctx)
    }

    /// Is there something left to be done that nobody who comes after is to pay for? Then they get another realm.
    pub fn is_abandoned(&self) -> bool {
        self.abandoned.get()
    }

    /// A callback has left things to be done that don't come to an end.
    pub fn abandon(&self) {
        self.abandoned.set(true);
        self.never_free();
    }

    /// Keeps the engine's memory for good, and has no more pages in it. After a module that could not be linked, or
    /// a callback that was stopped, the engine can lose track of a few of its objects, and it ends the whole program
    /// when it is to free itself and finds them.
    pub fn never_free(&self) {
        if !self.spoilt.replace(true) {
            std::mem::forget(self.runtime.clone());
        }
    }
}

/// Evaluates the prelude, and fastens what all pages share.
fn set_up<'js>(ctx: &Ctx<'js>, asked: &Asked, current: &Current, literals: &Rc<Literals>) -> Result<Helpers, Error> {
    let prelude: Function<'js> = ctx.eval(PRELUDE)?;
    let api: Object<'js> = prelude.call((natives(ctx, current, literals)?,))?;
    // The built-in module takes its functions, and then nothing leads to them but an import.
    ctx.globals().set(BUILT_IN, api.get::<_, Object<'js>>("names")?)?;
    asked.ask(BUILT_IN);
    Module::import(ctx, BUILT_IN)?.finish::<Object<'js>>()?;
    ctx.globals().remove(BUILT_IN)?;
    api.get::<_, Function<'js>>("fasten")?.call::<_, ()>(())?;
    let kept = |name: &str| Ok::<_, Error>(Persistent::save(ctx, api.get::<_, Function<'js>>(name)?));
    Ok(Helpers {
        markup: kept("markup")?,
        text_of: kept("textOf")?,
        run: kept("run")?,
        begin: kept("begin")?,
        fix: kept("fix")?,
        renew: kept("renew")?,
        stored: kept("stored")?,
    })
}

/// What chance begins with on a page: always the same for the same path (FNV-1a).
fn seed(path: &str) -> i32 {
    path.bytes().fold(0x811c_9dc5_u32, |hash, byte| (hash ^ u32::from(byte)).wrapping_mul(0x0100_0193)).cast_signed()
}
