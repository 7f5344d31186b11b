//! The functions of the built-in module that reach back to the stage.

use std::cell::RefCell;
use std::rc::{Rc, Weak};

use minijinja::Value;
use rquickjs::function::Function;
use rquickjs::{Ctx, Error, Exception, Object, String as JsString, Value as JsValue};
use truehook_core::scan::Prefix;
use truehook_core::source::LayerId;

use super::bridge::Bridge;
use super::modules::{Literals, without_page};
use super::{Inside, Outside};
use crate::addresses;
use crate::host::Here;
use crate::value::{escape, is_plain};

/// The page on whose behalf callbacks run, if any.
pub type Current = Rc<RefCell<Weak<Outside>>>;

/// What the prelude gets. The way back leads to whichever page has its turn.
pub fn natives<'js>(ctx: &Ctx<'js>, way: &Current, literals: &Rc<Literals>) -> Result<Object<'js>, Error> {
    let native = Object::new(ctx.clone())?;
    let back = way.clone();
    let place = move |ctx: Ctx<'js>, address: String, args: JsValue<'js>| {
        at(&back, &ctx, |here, bridge| Ok(here.host.place(here, &address, bridge.arguments(&args)?)))
    };
    native.set("place", Function::new(ctx.clone(), place)?)?;
    let back = way.clone();
    let through = move |ctx: Ctx<'js>, address: String, value: JsValue<'js>, args: JsValue<'js>| {
        let (value, bridge) = at(&back, &ctx, |here, bridge| {
            let args = bridge.arguments(&args)?;
            let value = bridge.value_of(&value).map_err(|what| format!("the value is {what}"))?;
            Ok((here.host.through(here, &address, value, &args), bridge))
        })?;
        bridge.to_js(&ctx, &value)
    };
    native.set("through", Function::new(ctx.clone(), through)?)?;
    let back = way.clone();
    let asset = move |ctx: Ctx<'js>, path: String| {
        at(&back, &ctx, |here, _| {
            let found = here.host.asset(here, &path, layer_of(&ctx, here));
            found.ok_or_else(|| format!("there is no file `{path}`"))
        })
    };
    native.set("asset", Function::new(ctx.clone(), asset)?)?;
    let back = way.clone();
    let enabled =
        move |ctx: Ctx<'js>, address: String| at(&back, &ctx, |here, _| Ok(here.host.enabled(here, &address)));
    native.set("enabled", Function::new(ctx.clone(), enabled)?)?;
    let back = way.clone();
    let t = move |ctx: Ctx<'js>, text: String, args: JsValue<'js>| {
        let (value, bridge) =
            at(&back, &ctx, |here, bridge| Ok((here.host.translated(here, &text, bridge.arguments(&args)?), bridge)))?;
        bridge.to_js(&ctx, &value)
    };
    native.set("t", Function::new(ctx.clone(), t)?)?;
    let back = way.clone();
    let note = move |ctx: Ctx<'js>, value: JsValue<'js>| {
        at(&back, &ctx, |here, bridge| {
            here.host.note(here, &bridge.value_of(&value).unwrap_or_else(Value::from));
            Ok(())
        })
    };
    native.set("note", Function::new(ctx.clone(), note)?)?;
    let back = way.clone();
    // An address that goes into an attribute, escaped already.
    let address = move |ctx: Ctx<'js>, escaped: String| match addresses::is_safe(&escaped) {
        true => Ok(escaped),
        false => at(&back, &ctx, |here, _| {
            here.host.refuse(here, &escaped);
            Ok(addresses::HARMLESS.to_string())
        }),
    };
    native.set("address", Function::new(ctx.clone(), address)?)?;
    let literals = literals.clone();
    // Are these the pieces of a template literal that stands in a module of the theme?
    let is_literal = move |pieces: Vec<String>| literals.has(&pieces);
    native.set("isLiteral", Function::new(ctx.clone(), is_literal)?)?;
    // Looking at each letter takes the engine itself many times as long.
    let escaped = |ctx: Ctx<'js>, text: JsString<'js>| {
        let unreadable = |_| Exception::throw_type(&ctx, "html can't print a string that is not Unicode text");
        let text = text.to_string().map_err(unreadable)?;
        Ok::<_, Error>((!is_plain(&text)).then(|| escape(&text)))
    };
    native.set("escape", Function::new(ctx.clone(), escaped)?)?;
    Ok(native)
}

/// Does something for the page on which a function is called, from inside the callback that calls it.
fn at<'js, T>(
    way: &Current,
    ctx: &Ctx<'js>,
    act: impl FnOnce(&Here<'_>, Bridge<'js>) -> Result<T, String>,
) -> Result<T, Error> {
    let outside: Option<Rc<Outside>> = way.borrow().upgrade();
    let scene = outside.as_ref().and_then(|outside| outside.scene.upgrade());
    let (Some(outside), Some(scene)) = (outside, scene) else {
        return Err(Exception::throw_type(ctx, "no page is being rendered"));
    };
    // Whoever calls is running in a realm, and stays in that.
    let outcome = outside.running().and_then(|context| {
        let bridge = context.realm.bridge(ctx).map_err(|error| error.to_string())?;
        let inside = Inside { context: &context, ctx, page: &scene.page };
        act(&Here { page: &scene.page, host: &*scene.host, calls: &inside }, bridge)
    });
    outcome.map_err(|message| Exception::throw_type(ctx, &message))
}

/// The layer of the module that calls.
fn layer_of(ctx: &Ctx<'_>, here: &Here<'_>) -> LayerId {
    let module = ctx.script_or_module_name(1).and_then(|name| name.to_string().ok()).unwrap_or_default();
    let project = here.page.registry().project();
    let layer = match Prefix::split(without_page(&module)) {
        (Prefix::Layer(name), _) => project.layer_named(&name),
        _ => None,
    };
    layer.unwrap_or_else(|| project.top())
}
