// Sets up a realm, and gives the engine what it needs to call callbacks. `native` holds the functions that reach
// back to the stage. Pages come one after the other; what modules see of each is handed over frozen, and what they
// all share, the built-ins, can't be changed by any.
(function (native) {
  "use strict";

  // All built-ins are fastened before any module runs: see `fasten`.

  const { freeze: freezeOne, isFrozen, keys: keysOf } = Object;

  // Markup is known by what only this class can put into it.
  class Markup {
    #text;
    constructor(text) {
      this.#text = text;
    }
    toString() {
      return this.#text;
    }
    static textOf(value) {
      return typeof value === "object" && value !== null && #text in value ? value.#text : undefined;
    }
    // Runs a callback. Most give back a short piece of markup: a sign in front of its text tells what it is, so that
    // nobody has to ask. A text that begins as if it were one gets a sign of its own.
    static run(callback, piped, value, args, point, moment) {
      let context = args === undefined && point === lastPoint ? lastContext : undefined;
      context ??= args === undefined ? sameContext(point, moment) : contextOf(point, args, moment);
      const given = piped ? callback(freeze(value), context) : callback(context);
      if (typeof given === "string") return given >= "\u0003" ? given : "\u0002" + given;
      if (typeof given !== "object" || given === null || !(#text in given)) return given;
      return given.#text.length < long ? "\u0001" + given.#text : given;
    }
  }
  const { textOf, run } = Markup;
  const long = 4096;
  delete Markup.prototype.constructor;
  delete Markup.textOf;
  delete Markup.run;

  // Most texts need none, for which it says nothing.
  const { escape } = native;

  function print(value) {
    if (typeof value === "string") return escape(value) ?? value;
    if (value === null || value === undefined || value === false) return "";
    const markup = textOf(value);
    if (markup !== undefined) return markup;
    if (Array.isArray(value)) return value.map(print).join("");
    if (typeof value === "object" || typeof value === "function" || typeof value === "symbol") {
      throw new TypeError(`html can't print ${Object.prototype.toString.call(value).slice(8, -1).toLowerCase()} values`);
    }
    const text = String(value);
    return escape(text) ?? text;
  }

  // Where a value begins an address, it must not be one that runs as code.
  const opensAddress =
    /\s(?:href|src|action|formaction|poster|cite|data|ping|background|xlink:href|manifest)\s*=\s*(?:"\s*|'\s*|)$/i;

  const opens = (text) => opensAddress.test(text.slice(-48));

  // Whether an address begins behind a piece of a literal, where the piece alone tells: what begins one ends with a
  // quote, an equals sign or a blank, and holds no sign of an element.
  function opensBehind(piece) {
    if (piece === "") return undefined;
    const last = piece.charCodeAt(piece.length - 1);
    if (last !== 34 && last !== 39 && last !== 61 && last > 32) return false;
    return piece.includes("<") || piece.includes(">") ? opens(piece) : undefined;
  }

  // The pieces of a literal are one object, the same each time, which nobody can change.
  const known = new WeakMap();

  // Anything can look like the pieces of a literal. They count where a literal of these pieces stands in a module, and
  // are taken from a copy that nobody else has.
  function piecesOf(strings) {
    if (!Array.isArray(strings) || !strings.raw) throw noLiteral();
    const texts = [];
    for (let at = 0; at < strings.length; at += 1) {
      if (typeof strings[at] !== "string" || texts.push(strings[at]) > 100000) throw noLiteral();
    }
    if (!native.isLiteral(texts)) throw noLiteral();
    const pieces = { texts, addresses: texts.map(opensBehind), documents: /srcdoc/i.test(texts.join("")) };
    if (isFrozen(strings)) known.set(strings, pieces);
    return pieces;
  }

  const noLiteral = () => new TypeError("html goes right before a template literal: html`<p>…</p>`");

  // Whether a text ends in a document that is the value of an attribute: what is in there is read twice.
  const inDocument = (text) => /\ssrcdoc\s*=\s*(?:"[^"]*|'[^']*|[^\s"'>]*)$/i.test(text);

  function html(strings, ...values) {
    const { texts, addresses, documents } = known.get(strings) ?? piecesOf(strings);
    let text = texts[0];
    for (let at = 0; at < values.length; at += 1) {
      // Most are texts.
      const given = values[at];
      let value = typeof given === "string" ? (escape(given) ?? given) : print(given);
      if (documents && inDocument(text)) value = escape(value) ?? value;
      text += (addresses[at] ?? opens(text) ? native.address(value) : value) + texts[at + 1];
    }
    return new Markup(text);
  }

  function freeze(value) {
    if (typeof value !== "object" || value === null || isFrozen(value)) return value;
    freezeOne(value);
    const keys = keysOf(value);
    for (let at = 0; at < keys.length; at += 1) {
      const part = value[keys[at]];
      if (typeof part === "object" && part !== null) freeze(part);
    }
    return value;
  }

  // The only clock is the site's. What makes dates stays hidden behind what stands for it.
  let now = 0;
  const Real = Date;
  function SiteDate(...parts) {
    if (new.target === undefined) return String(new Real(now));
    return Reflect.construct(Real, parts.length === 0 ? [now] : parts, new.target);
  }
  Object.defineProperty(SiteDate, "name", { value: "Date" });
  for (const [name, value] of Object.entries({ now: () => now, parse: Real.parse, UTC: Real.UTC })) {
    Object.defineProperty(SiteDate, name, { value, writable: true, configurable: true });
  }
  Object.defineProperty(SiteDate, "prototype", { value: Real.prototype });
  Object.defineProperty(Real.prototype, "constructor", { value: SiteDate, writable: true, configurable: true });
  globalThis.Date = SiteDate;

  // Chance is the same in every run: it begins with the page.
  let chance = 0;
  Math.random = () => {
    chance = (chance + 0x6d2b79f5) | 0;
    let mixed = Math.imul(chance ^ (chance >>> 15), 1 | chance);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  };

  // Other clocks, and what tells when memory is freed.
  for (const name of ["performance", "Atomics", "SharedArrayBuffer", "WeakRef", "FinalizationRegistry"]) {
    delete globalThis[name];
  }

  // No code is made from text.
  const Function_ = Object.getPrototypeOf(function () {});
  const refuse = function () {
    throw new EvalError("code can't be made from text here");
  };
  Object.defineProperty(refuse, "prototype", { value: Function_ });
  for (const made of [function () {}, async function () {}, function* () {}, async function* () {}]) {
    Object.defineProperty(Object.getPrototypeOf(made), "constructor", { value: refuse });
  }
  globalThis.Function = refuse;
  globalThis.eval = refuse;

  const names = {
    html,
    place: (address, args) => new Markup(native.place(String(address), args ?? {})),
    through: (address, value, args) => native.through(String(address), value, args ?? {}),
    enabled: (address) => native.enabled(String(address)),
    asset: (path) => native.asset(String(path)),
    t: (message, args) => native.t(String(message), args ?? {}),
    note: (value) => native.note(value),
  };

  // What a module assigns to an object of its own, as `error.message = …` or `table.toString = …`, has to work
  // although the same name is fixed further up: such names turn into pairs of functions that do it.
  function yielding(object, name, was) {
    const { value } = was;
    const pair = {
      get: () => value,
      set(given) {
        if (this === object) throw new TypeError(`${String(name)} of a built-in can't be changed`);
        Object.defineProperty(this, name, { value: given, writable: true, enumerable: true, configurable: true });
      },
    };
    Object.freeze(pair.get);
    Object.freeze(pair.set);
    Object.defineProperty(object, name, { ...pair, enumerable: was.enumerable, configurable: false });
  }

  // Built-ins are the same for all layers, and stay so.
  function fasten() {
    const { getPrototypeOf, getOwnPropertyDescriptor, freeze } = Object;
    const { ownKeys } = Reflect;
    const seen = new Set();
    const waiting = [globalThis, Markup.prototype, ...Object.values(names)];
    // What no name leads to.
    const iterators = [[].values(), new Map().values(), new Set().values(), "".matchAll(/x/g), ""[Symbol.iterator]()];
    const functions = [function () {}, async function () {}, function* () {}, async function* () {}];
    for (const made of [...iterators, ...functions]) waiting.push(getPrototypeOf(made));
    while (waiting.length > 0) {
      const object = waiting.pop();
      if (seen.has(object)) continue;
      seen.add(object);
      const above = getPrototypeOf(object);
      if (above !== null) waiting.push(above);
      const keys = ownKeys(object);
      for (let at = 0; at < keys.length; at += 1) {
        const { value, get, set } = getOwnPropertyDescriptor(object, keys[at]);
        if (typeof value === "function" || (typeof value === "object" && value !== null)) waiting.push(value);
        if (get !== undefined) waiting.push(get);
        if (set !== undefined) waiting.push(set);
      }
    }
    const errors = [Error, EvalError, RangeError, ReferenceError, SyntaxError, TypeError, URIError, AggregateError];
    const classes = [Object, Array, Map, Set, Promise, Real, RegExp, ...errors];
    const assigned = ["constructor", "message", "name", "toString", "toLocaleString", "valueOf", "toJSON"];
    for (const object of [Function_, ...classes.map((known) => known.prototype)]) {
      const all = Object.getOwnPropertyDescriptors(object);
      const names = object === Object.prototype ? Object.keys(all) : assigned;
      for (const name of names) {
        if (all[name]?.configurable && "value" in all[name]) yielding(object, name, all[name]);
      }
    }
    for (const object of seen) freeze(object);
  }
  const store = new Map();
  const rootNames = ["site", "options", "theme"];
  let fixed = {};
  // Where nothing is passed on, all callbacks of a point get the same context.
  const contexts = new Map();
  const none = Object.freeze({});
  // Mostly it is the point of the callback before.
  let lastPoint;
  let lastContext;

  function forget() {
    contexts.clear();
    lastPoint = lastContext = undefined;
  }

  function contextOf(point, args, moment) {
    const { page, options, theme } = fixed;
    const site = moment ? Object.freeze({ ...fixed.site, store }) : fixed.site;
    const context = Object.freeze({ page, site, options, theme, args: args === undefined ? none : freeze(args), point });
    if (args === undefined) contexts.set(point, context);
    return context;
  }

  function sameContext(point, moment) {
    lastContext = contexts.get(point) ?? contextOf(point, undefined, moment);
    lastPoint = point;
    return lastContext;
  }

  return {
    // Begins a page: nothing of the one before is left.
    begin: (time, seed) => {
      now = Real.parse(time);
      chance = seed | 0;
      fixed = { ...fixed, page: undefined };
      store.clear();
      forget();
    },
    markup: (text) => new Markup(text),
    // What is not handed over is as it was on the page before.
    fix: (page, ...roots) => {
      const [site, options, theme] = roots.map((root, at) => root ?? fixed[rootNames[at]]);
      fixed = freeze({ page, site, options, theme });
      forget();
    },
    // Some values of the page that is there are others now.
    renew: (changed) => {
      fixed = freeze({ ...fixed, page: { ...fixed.page, ...changed } });
      forget();
    },
    run,
    stored: () => Object.fromEntries(store),
    textOf,
    names,
    fasten,
  };
});
