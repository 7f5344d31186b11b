//! Runs callbacks, under the limits of the host contract. Each page has a context of its own, so
//! that nothing that a module keeps leaks from one page to the next.

use std::cell::{Cell, RefCell};
use std::collections::HashMap;
use std::rc::Rc;
use std::sync::Arc;
use std::time::{Duration, Instant};

use minijinja::Value;
use rquickjs::function::Function;
use rquickjs::loader::{ImportAttributes, Loader, Resolver};
use rquickjs::module::Declared;
use rquickjs::{CatchResultExt, CaughtError, Context, Ctx, Error, Exception, Module, Object, Persistent, Runtime};
use rquickjs::{FromJs, Value as JsValue};
use truehook_core::address::Address;
use truehook_core::link::{Callback, Registry, join_import};
use truehook_core::read::FileKind;
use truehook_core::scan::{Limits, Prefix};
use truehook_core::source::FileId;

use crate::fill;
use crate::flow;
use crate::pages::Globals;
use crate::run::{self, Run};
use crate::turns::shown;
use crate::urls;
use crate::values::Bridge;

const PRELUDE: &str = include_str!("prelude.js");
/// How a module gets at what the prelude sets up.
const BUILT_IN: &str = "const { html, place, through, enabled, asset, t, note } = globalThis.truehook;\n\
                        export { html, place, through, enabled, asset, t, note };\n";
/// Room on the stack for callbacks that call themselves, in bytes.
const STACK: usize = 512 * 1024;
/// What the engine itself needs, on top of what a callback may take.
const OWN_MEMORY: u64 = 16 * 1024 * 1024;

/// How long something may still run.
#[derive(Default)]
struct Clock {
    deadline: Cell<Option<Instant>>,
    struck: Cell<bool>,
    spent: Cell<Duration>,
}

/// The engine, without any page.
pub struct Engine {
    runtime: Runtime,
    clock: Rc<Clock>,
    limits: Limits,
}

impl Engine {
    pub fn new(registry: &Arc<Registry>) -> Result<Engine, Error> {
        let runtime = Runtime::new()?;
        let limits = registry.limits;
        runtime.set_max_stack_size(STACK);
        let clock = Rc::new(Clock::default());
        let watched = clock.clone();
        runtime.set_interrupt_handler(Some(Box::new(move || {
            let over = watched.deadline.get().is_some_and(|deadline| Instant::now() > deadline);
            watched.struck.set(watched.struck.get() || over);
            over
        })));
        runtime.set_loader(Names, Sources(registry.clone()));
        Ok(Engine { runtime, clock, limits })
    }

    /// A context for one page.
    pub fn page(&self, globals: &Globals) -> Result<PageEngine, String> {
        self.clock.spent.set(Duration::ZERO);
        let used = self.runtime.memory_usage().malloc_size.max(0) as u64;
        let limit = used + OWN_MEMORY + self.limits.callback_mebibytes * 1024 * 1024;
        self.runtime.set_memory_limit(usize::try_from(limit).unwrap_or(usize::MAX));
        let context = Context::full(&self.runtime).map_err(|error| error.to_string())?;
        let helpers = context.with(|ctx| set_up(&ctx, globals).catch(&ctx).map_err(|error| error.to_string()))?;
        Ok(PageEngine {
            helpers,
            modules: RefCell::default(),
            functions: RefCell::default(),
            clock: self.clock.clone(),
            limits: self.limits,
            spoilt: Cell::new(false),
            context,
        })
    }
}

/// What the prelude gives, kept beyond single calls.
struct Helpers {
    markup: Persistent<Function<'static>>,
    class: Persistent<JsValue<'static>>,
    run: Persistent<Function<'static>>,
    fix: Persistent<Function<'static>>,
    stored: Persistent<Function<'static>>,
}

/// The engine with the context of one page. What it holds has to go before the context does, so the
/// context comes last.
pub struct PageEngine {
    helpers: Helpers,
    modules: RefCell<HashMap<FileId, Persistent<Object<'static>>>>,
    functions: RefCell<HashMap<Callback, Persistent<Function<'static>>>>,
    clock: Rc<Clock>,
    limits: Limits,
    spoilt: Cell<bool>,
    context: Context,
}

/// Why a callback gave no value.
pub struct CallError {
    /// What went wrong.
    pub message: String,
    /// Where: module, line and column from 1, where the engine knows.
    pub place: Option<(String, usize, usize)>,
}

/// A callback's argument that is piped through, its named arguments and its point.
pub struct Call<'v> {
    pub callback: Callback,
    pub piped: Option<&'v Value>,
    pub args: &'v [(String, Value)],
    pub point: Address,
}

impl PageEngine {
    /// Calls a callback, from outside any other.
    pub fn call(&self, run: &Run, call: &Call<'_>) -> Result<Value, CallError> {
        self.context.with(|ctx| self.call_in(&ctx, run, call))
    }

    /// Calls a callback from inside another one.
    pub fn call_in<'js>(&self, ctx: &Ctx<'js>, run: &Run, call: &Call<'_>) -> Result<Value, CallError> {
        let page_limit = Duration::from_millis(self.limits.page_milliseconds);
        if self.clock.spent.get() > page_limit {
            let message = format!("not run: the callbacks of this page took longer than {page_limit:?} together");
            return Err(CallError { message, place: None });
        }
        let outer = self.clock.deadline.get();
        let begun = Instant::now();
        let own = begun + Duration::from_millis(self.limits.callback_milliseconds);
        self.clock.deadline.set(Some(outer.map_or(own, |outer| outer.min(own))));
        self.clock.struck.set(false);
        let result = self.attempt(ctx, run, call);
        self.clock.deadline.set(outer);
        if outer.is_none() {
            self.clock.spent.set(self.clock.spent.get() + begun.elapsed());
        }
        result
    }

    /// Hands over values that have changed.
    pub fn fix(&self, globals: &Globals) -> Result<(), String> {
        self.context.with(|ctx| {
            let fixed = || {
                let fix = self.helpers.fix.clone().restore(&ctx)?;
                fix_globals(&ctx, &self.bridge(&ctx)?, &fix, globals)
            };
            fixed().catch(&ctx).map_err(|error| error.to_string())
        })
    }

    /// What listeners at moments have stored.
    pub fn stored(&self) -> Result<Value, String> {
        self.context.with(|ctx| {
            let stored = || -> Result<_, Error> {
                let value: JsValue<'_> = self.helpers.stored.clone().restore(&ctx)?.call(())?;
                Ok((self.bridge(&ctx)?, value))
            };
            let (bridge, value) = stored().catch(&ctx).map_err(|error| error.to_string())?;
            bridge.value_of(&value).map_err(|what| format!("the store holds {what}"))
        })
    }

    fn attempt<'js>(&self, ctx: &Ctx<'js>, run_under_way: &Run, call: &Call<'_>) -> Result<Value, CallError> {
        let caught = |error: Error| self.explain(ctx, error);
        let callback = self.function(ctx, run_under_way, call.callback)?;
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
        let moment = run_under_way.registry.point(call.point).is_some_and(|point| point.moment);
        let result: JsValue<'js> =
            run.call((callback, is_piped, piped, args, call.point.to_string(), moment)).map_err(caught)?;
        bridge.value_of(&result).map_err(|what| CallError { message: format!("returned {what}"), place: None })
    }

    /// The function that a callback names; each is looked up once a page.
    fn function<'js>(&self, ctx: &Ctx<'js>, run: &Run, callback: Callback) -> Result<Function<'js>, CallError> {
        let known = self.functions.borrow().get(&callback).cloned();
        if let Some(known) = known {
            return known.restore(ctx).map_err(|error| self.explain(ctx, error));
        }
        let module = self.module(ctx, run, callback.file).map_err(|error| {
            self.never_free();
            self.explain(ctx, error)
        })?;
        let value: JsValue<'js> = module.get(callback.export.as_str()).map_err(|error| self.explain(ctx, error))?;
        let Some(function) = value.into_function() else {
            let message = format!("`{}` is not a function", callback.export);
            return Err(CallError { message, place: None });
        };
        self.functions.borrow_mut().insert(callback, Persistent::save(ctx, function.clone()));
        Ok(function)
    }

    /// Keeps the engine's memory for good. After a module that could not be linked, or a callback that
    /// was stopped, the engine can lose track of a few of its objects, and it ends the whole program
    /// when it is to free itself and finds them.
    fn never_free(&self) {
        if !self.spoilt.replace(true) {
            std::mem::forget(self.context.runtime().clone());
        }
    }

    /// A module's exports; each module is loaded once a page.
    fn module<'js>(&self, ctx: &Ctx<'js>, run: &Run, file: FileId) -> Result<Object<'js>, Error> {
        let known = self.modules.borrow().get(&file).cloned();
        if let Some(known) = known {
            return known.restore(ctx);
        }
        let source = run.registry.project.file(file);
        let name = format!("{}:{}", run.registry.project.layer(source.layer).name, source.name());
        let module: Object<'js> = Module::import(ctx, name)?.finish()?;
        self.modules.borrow_mut().insert(file, Persistent::save(ctx, module.clone()));
        Ok(module)
    }

    pub fn bridge<'js>(&self, ctx: &Ctx<'js>) -> Result<Bridge<'js>, Error> {
        Ok(Bridge {
            markup: self.helpers.markup.clone().restore(ctx)?,
            class: self.helpers.class.clone().restore(ctx)?,
        })
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
        let limits = &self.limits;
        if self.clock.struck.get() || message.contains("out of memory") {
            self.never_free();
        }
        let message = match () {
            () if self.clock.struck.get() => format!("stopped after {} ms, its limit", limits.callback_milliseconds),
            () if message.contains("out of memory") => {
                format!("stopped at {} MiB of memory, its limit", limits.callback_mebibytes)
            }
            () if message.contains("call stack size") || message.contains("stack overflow") => {
                "stopped because it calls itself too deep".to_string()
            }
            () => message,
        };
        CallError { message, place: place_in(&stack) }
    }
}

fn describe<'js>(ctx: &Ctx<'js>, value: JsValue<'js>) -> String {
    match rquickjs::Coerced::<String>::from_js(ctx, value) {
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
fn set_up<'js>(ctx: &Ctx<'js>, globals: &Globals) -> Result<Helpers, Error> {
    let native = Object::new(ctx.clone())?;
    native.set("place", Function::new(ctx.clone(), native_place)?)?;
    native.set("through", Function::new(ctx.clone(), native_through)?)?;
    native.set("asset", Function::new(ctx.clone(), native_asset)?)?;
    native.set("enabled", Function::new(ctx.clone(), native_enabled)?)?;
    native.set("t", Function::new(ctx.clone(), native_t)?)?;
    native.set("note", Function::new(ctx.clone(), native_note)?)?;
    native.set("address", Function::new(ctx.clone(), native_address)?)?;
    let now = globals.site.get_attr("now").map(|now| now.to_string()).unwrap_or_default();
    native.set("now", now)?;
    let prelude: Function<'js> = ctx.eval(PRELUDE)?;
    let api: Object<'js> = prelude.call((native,))?;
    let bridge = Bridge { markup: api.get("markup")?, class: api.get("Markup")? };
    let fix: Function<'js> = api.get("fix")?;
    fix_globals(ctx, &bridge, &fix, globals)?;
    let run: Function<'js> = api.get("run")?;
    Ok(Helpers {
        markup: Persistent::save(ctx, bridge.markup),
        class: Persistent::save(ctx, bridge.class),
        run: Persistent::save(ctx, run),
        fix: Persistent::save(ctx, fix),
        stored: Persistent::save(ctx, api.get::<_, Function<'js>>("stored")?),
    })
}

fn fix_globals<'js>(ctx: &Ctx<'js>, bridge: &Bridge<'js>, fix: &Function<'js>, globals: &Globals) -> Result<(), Error> {
    let value = |value: &Value| bridge.to_js(ctx, value);
    fix.call::<_, ()>((value(&globals.page)?, value(&globals.site)?, value(&globals.options)?, value(&globals.theme)?))
}

/// The run that is under way, and its engine, for functions that callbacks call.
fn with_run<'js, T>(
    ctx: &Ctx<'js>,
    act: impl FnOnce(&Rc<Run>, &PageEngine, Bridge<'js>) -> Result<T, String>,
) -> Result<T, Error> {
    let outcome = run::current(|run| {
        let engine = run.engine.get().ok_or("no page is being rendered")?;
        let bridge = engine.bridge(ctx).map_err(|error| error.to_string())?;
        act(run, engine, bridge)
    });
    match outcome {
        Some(Ok(value)) => Ok(value),
        Some(Err(message)) => Err(Exception::throw_type(ctx, &message)),
        None => Err(Exception::throw_type(ctx, "no page is being rendered")),
    }
}

fn arguments<'js>(bridge: &Bridge<'js>, args: &JsValue<'js>) -> Result<Vec<(String, Value)>, String> {
    let args = bridge.value_of(args).map_err(|what| format!("an argument is {what}"))?;
    fill::pairs(&args).ok_or_else(|| "arguments are passed on as an object: { name: value }".to_string())
}

fn native_place<'js>(ctx: Ctx<'js>, address: String, args: JsValue<'js>) -> Result<String, Error> {
    with_run(&ctx, |run, _, bridge| Ok(fill::leave_hole(run, &address, arguments(&bridge, &args)?)))
}

fn native_through<'js>(
    ctx: Ctx<'js>,
    address: String,
    value: JsValue<'js>,
    args: JsValue<'js>,
) -> Result<JsValue<'js>, Error> {
    let value = with_run(&ctx, |run, engine, bridge| {
        let args = arguments(&bridge, &args)?;
        let value = bridge.value_of(&value).map_err(|what| format!("the value is {what}"))?;
        let mut call = |call: &Call<'_>| engine.call_in(&ctx, run, call);
        Ok((flow::send_through(run, &address, value, &args, &mut call), bridge))
    })?;
    value.1.to_js(&ctx, &value.0)
}

fn native_asset(ctx: Ctx<'_>, path: String) -> Result<String, Error> {
    let module = ctx.script_or_module_name(1).and_then(|name| name.to_string().ok()).unwrap_or_default();
    with_run(&ctx, |run, engine, _| {
        let layer = Prefix::split(&module);
        let layer = match layer {
            (Prefix::Layer(name), _) => run.registry.project.layer_named(&name),
            _ => None,
        };
        let layer = layer.unwrap_or_else(|| run.registry.project.top());
        let mut call = |call: &Call<'_>| engine.call_in(&ctx, run, call);
        flow::asset(run, &path, layer, &mut call).ok_or_else(|| format!("there is no file `{path}`"))
    })
}

fn native_enabled(ctx: Ctx<'_>, address: String) -> Result<bool, Error> {
    with_run(&ctx, |run, _, _| Ok(flow::enabled(run, &address)))
}

fn native_t<'js>(ctx: Ctx<'js>, text: String, args: JsValue<'js>) -> Result<JsValue<'js>, Error> {
    let (value, bridge) = with_run(&ctx, |run, _, bridge| {
        let mut args = arguments(&bridge, &args)?;
        let plural = args.iter().position(|(name, _)| name == "plural").map(|at| args.remove(at).1);
        Ok((run.words.message(&text, plural.as_ref().and_then(Value::as_str), &args), bridge))
    })?;
    bridge.to_js(&ctx, &value)
}

/// An address that goes into an attribute, escaped already.
fn native_address(escaped: String) -> String {
    match urls::is_safe(&escaped) {
        true => escaped,
        false => {
            run::current(|run| urls::refuse(run, &escaped));
            urls::HARMLESS.to_string()
        }
    }
}

fn native_note<'js>(ctx: Ctx<'js>, value: JsValue<'js>) -> Result<(), Error> {
    with_run(&ctx, |run, _, bridge| {
        let value = bridge.value_of(&value).unwrap_or_else(Value::from);
        run.trace.borrow_mut().note(shown(&value));
        Ok(())
    })
}

/// Works out which module an import means.
struct Names;

impl Resolver for Names {
    fn resolve<'js>(
        &mut self,
        _ctx: &Ctx<'js>,
        base: &str,
        name: &str,
        _attributes: Option<ImportAttributes<'js>>,
    ) -> Result<String, Error> {
        if name == "truehook" || !base.contains(':') {
            return Ok(name.to_string());
        }
        let (layer, from) = base.split_once(':').unwrap_or(("", base));
        let path = join_import(from, name).ok_or_else(|| Error::new_resolving(base, name))?;
        Ok(format!("{layer}:{path}"))
    }
}

/// Gives the source of a module.
struct Sources(Arc<Registry>);

impl Loader for Sources {
    fn load<'js>(
        &mut self,
        ctx: &Ctx<'js>,
        name: &str,
        _attributes: Option<ImportAttributes<'js>>,
    ) -> Result<Module<'js, Declared>, Error> {
        if name == "truehook" {
            return Module::declare(ctx.clone(), name, BUILT_IN);
        }
        let (prefix, path) = Prefix::split(name);
        let file = self.0.resolve(FileKind::Module, prefix, path, self.0.project.top(), false);
        let file = file.ok_or_else(|| Error::new_loading(name))?;
        Module::declare(ctx.clone(), name, self.0.project.file(file).text())
    }
}
