//! The context of one page, in which its callbacks run: nothing that a module keeps leaks from one page to
//! the next.

use std::cell::{Cell, RefCell};
use std::collections::HashMap;
use std::rc::{Rc, Weak};

use minijinja::Value;
use rquickjs::function::Function;
use rquickjs::{CatchResultExt, CaughtError, Context, Ctx, Error, FromJs, Module, Object, Persistent};
use rquickjs::{Value as JsValue, prelude::Coerced};
use truehook_core::link::Callback;
use truehook_core::source::FileId;

use super::bridge::Bridge;
use super::modules::BUILT_IN;
use super::natives::natives;
use super::{Engine, Outside};
use crate::host::{Call, CallError};
use crate::rendering::Rendering;
use crate::site::globals::Globals;

const PRELUDE: &str = include_str!("prelude.js");

/// What the prelude gives, kept beyond single calls.
struct Helpers {
    markup: Persistent<Function<'static>>,
    class: Persistent<JsValue<'static>>,
    text_of: Persistent<Function<'static>>,
    run: Persistent<Function<'static>>,
    fix: Persistent<Function<'static>>,
    stored: Persistent<Function<'static>>,
}

/// The context of one page. What it holds has to go before the context does, so that comes last.
pub struct PageContext {
    helpers: Helpers,
    modules: RefCell<HashMap<FileId, Persistent<Object<'static>>>>,
    functions: RefCell<HashMap<Callback, Persistent<Function<'static>>>>,
    engine: Rc<Engine>,
    spoilt: Cell<bool>,
    context: Context,
}

impl PageContext {
    /// A context with the values of a page; `way` leads back to that page.
    pub fn new(engine: &Rc<Engine>, globals: &Globals, way: &Weak<Outside>) -> Result<PageContext, String> {
        let context = Context::full(&engine.runtime).map_err(|error| error.to_string())?;
        let helpers = context.with(|ctx| set_up(&ctx, engine, globals, way).catch(&ctx).map_err(|error| error.to_string()))?;
        Ok(PageContext {
            helpers,
            modules: RefCell::default(),
            functions: RefCell::default(),
            engine: engine.clone(),
            spoilt: Cell::new(false),
            context,
        })
    }

    /// Enters the context. Whoever is in it already has a [`Ctx`], and must not enter again.
    pub fn enter<T>(&self, act: impl FnOnce(&Ctx<'_>) -> T) -> T {
        self.context.with(|ctx| act(&ctx))
    }

    /// Calls a callback.
    pub fn call<'js>(&self, ctx: &Ctx<'js>, page: &Rendering, call: &Call<'_>) -> Result<Value, CallError> {
        self.engine.clock.run(|| self.attempt(ctx, page, call)).unwrap_or_else(|limit| {
            Err(CallError::new(format!("not run: the callbacks of this page took longer than {limit:?} together")))
        })
    }

    /// Hands over values that have changed.
    pub fn fix(&self, ctx: &Ctx<'_>, globals: &Globals) -> Result<(), Error> {
        let fix = self.helpers.fix.clone().restore(ctx)?;
        fix_globals(ctx, &self.bridge(ctx)?, &fix, globals)
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

    pub fn bridge<'js>(&self, ctx: &Ctx<'js>) -> Result<Bridge<'js>, Error> {
        Ok(Bridge {
            markup: self.helpers.markup.clone().restore(ctx)?,
            class: self.helpers.class.clone().restore(ctx)?,
            text_of: self.helpers.text_of.clone().restore(ctx)?,
            clock: self.engine.clock.clone(),
        })
    }

    fn attempt<'js>(&self, ctx: &Ctx<'js>, page: &Rendering, call: &Call<'_>) -> Result<Value, CallError> {
        let caught = |error: Error| self.explain(ctx, error);
        let callback = self.function(ctx, page, call.callback)?;
        let bridge = self.bridge(ctx).map_err(caught)?;
        let piped = call.piped.map(|value| bridge.to_js(ctx, value)).transpose().map_err(caught)?;
        let mut args = None;
        for (name, value) in call.args {
            let value = bridge.to_js(ctx, value).map_err(caught)?;
            let all = match &args {
                Some(all) => all,
                None => args.insert(Object::new(ctx.clone()).map_err(caught)?),
            };
            all.set(name.as_str(), value).map_err(caught)?;
        }
        let run: Function<'js> = self.helpers.run.clone().restore(ctx).map_err(caught)?;
        let is_piped = piped.is_some();
        let moment = page.registry().point(call.point).is_some_and(|point| point.moment);
        let result: JsValue<'js> =
            run.call((callback, is_piped, piped, args, call.point.to_string(), moment)).map_err(caught)?;
        bridge.value_of(&result).map_err(|what| CallError::new(format!("returned {what}")))
    }

    /// The function that a callback names; each is looked up once a page.
    fn function<'js>(&self, ctx: &Ctx<'js>, page: &Rendering, callback: Callback) -> Result<Function<'js>, CallError> {
        let known = self.functions.borrow().get(&callback).cloned();
        if let Some(known) = known {
            return known.restore(ctx).map_err(|error| self.explain(ctx, error));
        }
        let module = self.module(ctx, page, callback.file).map_err(|error| {
            self.never_free();
            self.explain(ctx, error)
        })?;
        let value: JsValue<'js> = module.get(callback.export.as_str()).map_err(|error| self.explain(ctx, error))?;
        let Some(function) = value.into_function() else {
            return Err(CallError::new(format!("`{}` is not a function", callback.export)));
        };
        self.functions.borrow_mut().insert(callback, Persistent::save(ctx, function.clone()));
        Ok(function)
    }

    /// A module's exports; each module is loaded once a page.
    fn module<'js>(&self, ctx: &Ctx<'js>, page: &Rendering, file: FileId) -> Result<Object<'js>, Error> {
        let known = self.modules.borrow().get(&file).cloned();
        if let Some(known) = known {
            return known.restore(ctx);
        }
        let project = page.registry().project();
        let source = project.file(file);
        let name = format!("{}:{}", project.layer(source.layer).name, source.name());
        self.engine.asked.ask(&name);
        let module: Object<'js> = Module::import(ctx, name)?.finish()?;
        self.modules.borrow_mut().insert(file, Persistent::save(ctx, module.clone()));
        Ok(module)
    }

    /// Keeps the engine's memory for good. After a module that could not be linked, or a callback that
    /// was stopped, the engine can lose track of a few of its objects, and it ends the whole program
    /// when it is to free itself and finds them.
    fn never_free(&self) {
        if !self.spoilt.replace(true) {
            std::mem::forget(self.context.runtime().clone());
        }
    }

    /// What went wrong, in words for people.
    fn explain(&self, ctx: &Ctx<'_>, error: Error) -> CallError {
        let (message, stack) = match CaughtError::from_error(ctx, error) {
            CaughtError::Exception(exception) => {
                let name: String = exception.as_object().get("name").unwrap_or_else(|_| "Error".into());
                let message = exception.message().unwrap_or_default();
                (format!("{name}: {message}"), exception.stack().unwrap_or_default())
            }
            CaughtError::Value(value) => (format!("threw {}", describe(ctx, value)), String::new()),
            CaughtError::Error(Error::WouldBlock) => {
                ("its module waits for something at its top level".into(), String::new())
            }
            CaughtError::Error(error) => (error.to_string(), String::new()),
        };
        let (limits, struck) = (&self.engine.limits, self.engine.clock.has_struck());
        let without_memory = message.contains("out of memory");
        if struck || without_memory {
            self.never_free();
        }
        let message = match () {
            () if struck => format!("stopped after {} ms, its limit", limits.callback_milliseconds),
            () if without_memory => format!("stopped at {} MiB of memory, its limit", limits.callback_mebibytes),
            () if message.contains("call stack size") || message.contains("stack overflow") => {
                "stopped because it calls itself too deep".to_string()
            }
            () => message,
        };
        CallError { message, place: place_in(&stack) }
    }
}

fn describe<'js>(ctx: &Ctx<'js>, value: JsValue<'js>) -> String {
    match Coerced::<String>::from_js(ctx, value) {
        Ok(text) => format!("`{}`, which is no Error", text.0),
        Err(_) => "something that is no Error".into(),
    }
}

/// The first place of a stack that lies in a layer's module: `at today (saltmarsh:notes.js:3:9)`.
fn place_in(stack: &str) -> Option<(String, usize, usize)> {
    stack.lines().find_map(|line| {
        let inside = line.rsplit_once('(').map_or(line.trim().trim_start_matches("at "), |(_, rest)| rest);
        let inside = inside.trim_end().trim_end_matches(')');
        let (rest, column) = inside.rsplit_once(':')?;
        let (module, line) = rest.rsplit_once(':')?;
        module.contains(':').then_some(())?;
        Some((module.to_string(), line.parse().ok()?, column.parse().ok()?))
    })
}

/// Evaluates the prelude and hands the page's values over.
fn set_up<'js>(ctx: &Ctx<'js>, engine: &Engine, globals: &Globals, way: &Weak<Outside>) -> Result<Helpers, Error> {
    let native = natives(ctx, way)?;
    native.set("now", globals.site_text("now"))?;
    native.set("seed", seed(&globals.page_text("path")))?;
    let prelude: Function<'js> = ctx.eval(PRELUDE)?;
    let api: Object<'js> = prelude.call((native,))?;
    let (clock, text_of) = (engine.clock.clone(), api.get("textOf")?);
    let bridge = Bridge { markup: api.get("markup")?, class: api.get("Markup")?, text_of, clock };
    // The built-in module takes its functions, and then nothing leads to them but an import.
    ctx.globals().set(BUILT_IN, api.get::<_, Object<'js>>("names")?)?;
    engine.asked.ask(BUILT_IN);
    Module::import(ctx, BUILT_IN)?.finish::<Object<'js>>()?;
    ctx.globals().remove(BUILT_IN)?;
    api.get::<_, Function<'js>>("fasten")?.call::<_, ()>(())?;
    let fix: Function<'js> = api.get("fix")?;
    fix_globals(ctx, &bridge, &fix, globals)?;
    let run: Function<'js> = api.get("run")?;
    Ok(Helpers {
        markup: Persistent::save(ctx, bridge.markup),
        class: Persistent::save(ctx, bridge.class),
        text_of: Persistent::save(ctx, bridge.text_of),
        run: Persistent::save(ctx, run),
        fix: Persistent::save(ctx, fix),
        stored: Persistent::save(ctx, api.get::<_, Function<'js>>("stored")?),
    })
}

/// What chance begins with on a page: always the same for the same path (FNV-1a).
fn seed(path: &str) -> i32 {
    path.bytes().fold(0x811c_9dc5_u32, |hash, byte| (hash ^ u32::from(byte)).wrapping_mul(0x0100_0193)).cast_signed()
}

fn fix_globals<'js>(ctx: &Ctx<'js>, bridge: &Bridge<'js>, fix: &Function<'js>, globals: &Globals) -> Result<(), Error> {
    let value = |value: &Value| bridge.to_js(ctx, value);
    fix.call::<_, ()>((value(&globals.page)?, value(&globals.site)?, value(&globals.options)?, value(&globals.theme)?))
}
