// Sets up a page's context, and gives the engine what it needs to call callbacks. `native` holds the
// functions that reach back to the stage, and the page's values, which are frozen here.
(function (native) {
  "use strict";

  class Markup {
    constructor(text) {
      this.text = text;
    }
    toString() {
      return this.text;
    }
  }

  const escapes = { "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;", "'": "&#39;" };
  const escape = (text) => text.replace(/[&<>"']/g, (c) => escapes[c]);

  function print(value) {
    if (value === null || value === undefined || value === false) return "";
    if (value instanceof Markup) return value.text;
    if (Array.isArray(value)) return value.map(print).join("");
    if (typeof value === "object" || typeof value === "function" || typeof value === "symbol") {
      throw new TypeError(`html can't print ${Object.prototype.toString.call(value).slice(8, -1).toLowerCase()} values`);
    }
    return escape(String(value));
  }

  // Where a value begins an address, it must not be one that runs as code.
  const opensAddress =
    /\s(?:href|src|action|formaction|poster|cite|data|ping|background|xlink:href|manifest)\s*=\s*(?:"\s*|'\s*|)$/i;

  function mayOpenAddress(text) {
    const last = text.charCodeAt(text.length - 1);
    // A quote, an equals sign or a blank: most values stand behind something else.
    if (last !== 34 && last !== 39 && last !== 61 && last > 32) return false;
    return opensAddress.test(text.slice(-48));
  }

  function html(strings, ...values) {
    if (!Array.isArray(strings) || !strings.raw) {
      throw new TypeError("html goes right before a template literal: html`<p>…</p>`");
    }
    let text = strings[0];
    for (let at = 0; at < values.length; at += 1) {
      const value = print(values[at]);
      text += (mayOpenAddress(text) ? native.address(value) : value) + strings[at + 1];
    }
    return new Markup(text);
  }

  function freeze(value) {
    if (typeof value === "object" && value !== null && !Object.isFrozen(value)) {
      Object.freeze(value);
      for (const key of Object.keys(value)) freeze(value[key]);
    }
    return value;
  }

  // The only clock is the site's.
  const now = Date.parse(native.now);
  const Real = Date;
  globalThis.Date = class Date extends Real {
    constructor(...parts) {
      if (parts.length === 0) super(now);
      else super(...parts);
    }
    static now() {
      return now;
    }
  };
  Real.now = () => now;
  delete globalThis.performance;

  // No code is made from text.
  const refuse = function () {
    throw new EvalError("code can't be made from text here");
  };
  for (const made of [function () {}, async function () {}, function* () {}, async function* () {}]) {
    Object.defineProperty(Object.getPrototypeOf(made), "constructor", { value: refuse });
  }
  globalThis.Function = refuse;
  globalThis.eval = refuse;

  globalThis.truehook = {
    html,
    place: (address, args) => new Markup(native.place(String(address), args ?? {})),
    through: (address, value, args) => native.through(String(address), value, args ?? {}),
    enabled: (address) => native.enabled(String(address)),
    asset: (path) => native.asset(String(path)),
    t: (text, args) => native.t(String(text), args ?? {}),
    note: (value) => native.note(value),
  };

  const store = new Map();
  let fixed = {};
  // Where nothing is passed on, all callbacks of a point get the same context.
  const contexts = new Map();
  const none = Object.freeze({});

  function contextOf(point, args, moment) {
    const known = args === undefined ? contexts.get(point) : undefined;
    if (known !== undefined) return known;
    const { page, options, theme } = fixed;
    const site = moment ? Object.freeze({ ...fixed.site, store }) : fixed.site;
    const context = Object.freeze({ page, site, options, theme, args: args === undefined ? none : freeze(args), point });
    if (args === undefined) contexts.set(point, context);
    return context;
  }

  return {
    Markup,
    markup: (text) => new Markup(text),
    fix: (page, site, options, theme) => {
      fixed = freeze({ page, site, options, theme });
      contexts.clear();
    },
    run: (callback, piped, value, args, point, moment) => {
      const context = contextOf(point, args, moment);
      return piped ? callback(freeze(value), context) : callback(context);
    },
    stored: () => Object.fromEntries(store),
  };
});
