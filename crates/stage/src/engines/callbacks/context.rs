//! The context of one page, in which its callbacks run: nothing that a module keeps leaks from one page to
//! the next.

use std::cell::RefCell;
use std::rc::Rc;
use std::sync::PoisonError;
use std::sync::atomic::Ordering;
use std::time::Duration;

use minijinja::Value;
use rquickjs::function::Function;
use rquickjs::{CaughtError, Ctx, Error, FromJs, Module, Object, Persistent};
use rquickjs::{Value as JsValue, prelude::Coerced};
use rustc_hash::FxHashMap;
use truehook_core::link::Callback;
use truehook_core::scan::Limits;
use truehook_core::source::FileId;

use super::bridge::marked;
use super::modules::{ALL_PAGES, module_name, without_page};
use super::realm::Realm;
use crate::host::{Call, CallError};
use crate::rendering::Rendering;
use crate::watch::Code;

/// How often a callback is stopped before it is not run any more.
const PATIENCE: usize = 3;
/// How many things a callback may put off until it has returned.
const JOBS: usize = 1000;

/// The modules of one page, and the functions that they export. What this holds has to go before its realm does,
/// so that comes last.
pub struct PageContext {
    modules: RefCell<FxHashMap<FileId, Persistent<Object<'static>>>>,
    functions: RefCell<FxHashMap<Callback, Persistent<Function<'static>>>>,
    limits: Limits,
    /// Which page of its realm this is.
    page: usize,
    pub realm: Rc<Realm>,
}

impl PageContext {
    /// For a page that has begun in a realm.
    pub fn new(realm: Rc<Realm>, page: usize, limits: Limits) -> PageContext {
        PageContext { modules: RefCell::default(), functions: RefCell::default(), limits, page, realm }
    }

    /// Calls a callback.
    pub fn call<'js>(&self, ctx: &Ctx<'js>, page: &Rendering, call: &Call<'_>) -> Result<Value, CallError> {
        let shared = &page.shared;
        let code = Code::callback(&shared.registry, call.callback);
        if let Some(why) = page.barred(code) {
            return Err(CallError::new(why));
        }
        let stopped = || shared.stopped.lock().unwrap_or_else(PoisonError::into_inner);
        // As a rule none was.
        let any = shared.any_stopped.load(Ordering::Relaxed);
        if any && stopped().get(&call.callback).is_some_and(|times| *times >= PATIENCE) {
            return Err(CallError::new(format!("not run: it had to be stopped {PATIENCE} times before")));
        }
        let limit = Duration::from_millis(self.limits.callback_milliseconds);
        let result = shared.watch.during(code, limit, || {
            let result = self.realm.clock.run(|| self.attempt(ctx, page, call));
            // Whatever was thrown while somebody looked at what was thrown belongs to nobody who comes after.
            drop(ctx.catch());
            result
        });
        match result {
            Err(limit) => {
                Err(CallError::new(format!("not run: the callbacks of this page took longer than {limit:?} together")))
            }
            Ok(result) => {
                if result.is_err() && self.realm.clock.has_struck() {
                    *stopped().entry(call.callback).or_default() += 1;
                    shared.any_stopped.store(true, Ordering::Relaxed);
                }
                result
            }
        }
    }

    fn attempt<'js>(&self, ctx: &Ctx<'js>, page: &Rendering, call: &Call<'_>) -> Result<Value, CallError> {
        let caught = |error: Error| self.explain(ctx, error);
        let callback = self.function(ctx, page, call.callback)?;
        let piped = call.piped.map(|value| self.realm.bridge(ctx)?.to_js(ctx, value)).transpose().map_err(caught)?;
        let args = self.arguments(ctx, call).map_err(caught)?;
        let run = self.realm.run(ctx).map_err(caught)?;
        let is_piped = piped.is_some();
        let (point, moment) = self.realm.point(ctx, page.registry(), call.point).map_err(caught)?;
        let result: JsValue<'js> = run.call((callback, is_piped, piped, args, point, moment)).map_err(caught)?;
        self.settle(ctx)?;
        match marked(&result) {
            Some(value) => Ok(value),
            None => {
                let value = self.realm.bridge(ctx).map_err(caught)?.value_of(&result);
                value.map_err(|what| CallError::new(format!("returned {what}")))
            }
        }
    }

    /// What is passed on with a call, where that is anything.
    fn arguments<'js>(&self, ctx: &Ctx<'js>, call: &Call<'_>) -> Result<Option<Object<'js>>, Error> {
        if call.args.is_empty() {
            return Ok(None);
        }
        let bridge = self.realm.bridge(ctx)?;
        let all = Object::new(ctx.clone())?;
        for (name, value) in call.args {
            all.set(name.as_str(), bridge.to_js(ctx, value)?)?;
        }
        Ok(Some(all))
    }

    /// Does what a callback has put off until later, in its own time: nobody who comes after pays for it.
    fn settle(&self, ctx: &Ctx<'_>) -> Result<(), CallError> {
        // What one that this one called has left behind is told of that one.
        if self.realm.is_abandoned() {
            return Ok(());
        }
        let clock = &self.realm.clock;
        let done = (0..JOBS).take_while(|_| !clock.is_over() && ctx.execute_pending_job()).count();
        let over = clock.is_over() || clock.has_struck();
        if !over && done < JOBS {
            return Ok(());
        }
        self.realm.abandon();
        Err(CallError::new(match over {
            true => format!("{}, in what it had put off until later", clock.reason()),
            false => "puts off more and more until later; callbacks have to come to an end".to_string(),
        }))
    }

    /// The function that a callback names; each is looked up once a page.
    fn function<'js>(&self, ctx: &Ctx<'js>, page: &Rendering, callback: Callback) -> Result<Function<'js>, CallError> {
        let lasting = self.realm.keeps_nothing(page.registry(), callback.file);
        let functions = if lasting { &self.realm.functions } else { &self.functions };
        let known = functions.borrow().get(&callback).cloned();
        if let Some(known) = known {
            return known.restore(ctx).map_err(|error| self.explain(ctx, error));
        }
        let module = self.module(ctx, page, callback.file).map_err(|error| {
            self.realm.never_free();
            self.explain(ctx, error)
        })?;
        let value: JsValue<'js> = module.get(callback.export.as_str()).map_err(|error| self.explain(ctx, error))?;
        let Some(function) = value.into_function() else {
            return Err(CallError::new(format!("`{}` is not a function", callback.export)));
        };
        functions.borrow_mut().insert(callback, Persistent::save(ctx, function.clone()));
        Ok(function)
    }

    /// A module's exports; each module is loaded once a page, those that keep nothing once for all pages of a realm.
    fn module<'js>(&self, ctx: &Ctx<'js>, page: &Rendering, file: FileId) -> Result<Object<'js>, Error> {
        let known = self.modules.borrow().get(&file).cloned();
        if let Some(known) = known {
            return known.restore(ctx);
        }
        let project = page.registry().project();
        let source = project.file(file);
        let lasting = self.realm.keeps_nothing(page.registry(), file);
        let page = if lasting { ALL_PAGES } else { self.page };
        let name = module_name(page, &format!("{}:{}", project.layer(source.layer).name, source.name()));
        self.realm.asked.ask(&name);
        let module: Object<'js> = Module::import(ctx, name)?.finish()?;
        self.modules.borrow_mut().insert(file, Persistent::save(ctx, module.clone()));
        Ok(module)
    }

    /// What went wrong, in words for people. Asking what was thrown can run the theme's code, which can throw in turn.
    fn explain(&self, ctx: &Ctx<'_>, error: Error) -> CallError {
        let (message, stack) = match CaughtError::from_error(ctx, error) {
            CaughtError::Exception(exception) => {
                let field = |name: &str| {
                    let value = exception.as_object().get::<_, JsValue<'_>>(name).ok();
                    let text = value.filter(|value| !value.is_undefined()).and_then(|value| text_of(ctx, value));
                    drop(ctx.catch());
                    text
                };
                let name = field("name").unwrap_or_else(|| "Error".into());
                (format!("{name}: {}", field("message").unwrap_or_default()), field("stack").unwrap_or_default())
            }
            CaughtError::Value(value) => (format!("threw {}", describe(ctx, value)), String::new()),
            CaughtError::Error(Error::WouldBlock) => {
                ("its module waits for something at its top level".into(), String::new())
            }
            CaughtError::Error(error) => (error.to_string(), String::new()),
        };
        let (limits, struck) = (&self.limits, self.realm.clock.has_struck());
        let without_memory = message.contains("out of memory");
        if struck || without_memory {
            self.realm.never_free();
        }
        let message = match () {
            () if struck => self.realm.clock.reason(),
            () if without_memory => format!("stopped at {} MiB of memory, its limit", limits.callback_mebibytes),
            () if message.contains("call stack size") || message.contains("stack overflow") => {
                "stopped because it calls itself too deep".to_string()
            }
            () => message.replace(&module_name(self.page, ""), ""),
        };
        CallError { message, place: place_in(&stack) }
    }
}

/// A value that was thrown as a text; nothing where it can't be one.
fn text_of<'js>(ctx: &Ctx<'js>, value: JsValue<'js>) -> Option<String> {
    if value.is_symbol() {
        return None;
    }
    let text = Coerced::<String>::from_js(ctx, value).ok().map(|text| text.0);
    drop(ctx.catch());
    text
}

fn describe<'js>(ctx: &Ctx<'js>, value: JsValue<'js>) -> String {
    match text_of(ctx, value) {
        Some(text) => format!("`{text}`, which is no Error"),
        None => "something that is no Error".into(),
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
        Some((without_page(module).to_string(), line.parse().ok()?, column.parse().ok()?))
    })
}
