//! Callbacks that mean harm, or mean well and go wrong: what they do stays theirs, and an innocent one beside
//! them runs on every page.

use truehook_stage::Failure;

use crate::small::{stage, theme};

/// A page with two listeners: one as given, in a module with all that is given, and an innocent one after it.
fn beside(module: &str) -> (String, Vec<Failure>) {
    let manifest = "[[attach]]\nto = \"hook:document-end\"\ncall = \"bad.js#bad\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"good.js#good\"\n";
    let innocent = "import { html } from \"truehook\";\nexport const good = ({ page }) => html`<i title=\"${page.title}\">${[\"<\", 1, html`<b>`]}</i>${new Date(0).getTime()} ${/a(b)/.exec(\"ab\")[1]} ${[3, 1, 2].toSorted().join(\"\")}`;\n";
    let stage = stage(&theme(&[
        ("truehook.toml", manifest),
        ("code/bad.js", module),
        ("code/good.js", innocent),
        ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"A & B\"\n"),
    ]));
    let page = stage.render("/").expect("the page is there");
    (page.html, page.failures)
}

const INNOCENT: &str = "<i title=\"A &amp; B\">&lt;1<b></i>0 b 123";

#[test]
fn whatever_a_callback_returns_its_neighbour_runs() {
    for (returned, told) in [
        ("{ get a() { throw new Error(\"mine\"); } }", "throws when it is read: Error: mine"),
        ("[1, { get a() { throw 3; } }]", "throws when it is read: 3"),
        ("new Proxy({}, { ownKeys() { throw new Error(\"keys\"); } })", "keys"),
        ("new Proxy([], { get() { throw new Error(\"get\"); } })", ""),
        ("{ toString() { throw new Error(\"text\"); } }", ""),
        ("{ get a() { for (;;) {} } }", "too long to read"),
        ("Array(2 ** 32 - 1)", "a list of more than"),
        (
            "(() => { let pair = [1]; for (let at = 0; at < 40; at += 1) pair = [pair, pair]; return pair; })()",
            "more than 200000 values",
        ),
        (
            "(() => { let pair = []; for (let at = 0; at < 100; at += 1) pair = [pair]; return pair; })()",
            "nested more than 64 deep",
        ),
        ("(() => { const one = {}; one.one = one; return one; })()", "nested more than 64 deep"),
        ("Array(40).fill(\"x\".repeat(1024 * 1024))", ""),
        ("Promise.resolve(1)", "a promise"),
        ("Symbol(\"x\")", "a symbol"),
        ("10n", "a BigInt"),
        ("() => 1", "a function"),
        ("new Error(\"x\")", ""),
        ("new Map([[1, 2]])", ""),
    ] {
        let (html, failures) = beside(&format!("export const bad = () => ({returned});\n"));
        assert!(html.ends_with(INNOCENT), "{returned}: {html}");
        let blamed: Vec<_> = failures.iter().map(|failure| failure.source.clone().unwrap_or_default()).collect();
        assert!(blamed.iter().all(|source| source == "bad.js#bad"), "{returned}: {failures:?}");
        // On a busy machine, reading it may take too long before it is too much.
        let is_told = |message: &str| message.contains(told) || message.contains("takes too long to read");
        assert!(failures.iter().any(|failure| is_told(&failure.message)), "{returned}: {failures:?}");
    }
}

#[test]
fn no_layer_changes_what_others_stand_on() {
    for harm in [
        "String.prototype.replace = () => \"forged\";",
        "Array.prototype.map = () => [\"forged\"];",
        "Array.isArray = () => false;",
        "Array.prototype[Symbol.iterator] = function* () { yield \"forged\"; };",
        "Object.prototype.toString = () => \"forged\";",
        "Object.prototype.forged = 1;",
        "Object.defineProperty(Object.prototype, \"raw\", { value: [] });",
        "RegExp.prototype.exec = () => null;",
        "RegExp.prototype[Symbol.replace] = () => \"forged\";",
        "Map.prototype.get = () => ({});",
        "Date.prototype.getTime = () => 1;",
        "globalThis.Date = class {};",
        "globalThis.String = () => \"forged\";",
        "globalThis.mine = 1;",
        "Function.prototype.call = () => \"forged\";",
        "Object.setPrototypeOf(Array.prototype, { toSorted: () => [\"forged\"] });",
        "Object.getPrototypeOf([].values()).next = () => ({ done: true });",
        "Object.getPrototypeOf(async function () {}).forged = 1;",
        "JSON.parse = () => \"forged\";",
        "Math.random = () => 0;",
        "Reflect.construct = () => ({});",
        "import { html } from \"truehook\"; html.forged = 1;",
        "import { html } from \"truehook\"; Object.getPrototypeOf(html``).toString = () => \"forged\";",
    ] {
        // At the module's top level, and while the callback runs.
        for module in [format!("{harm}\nexport const bad = () => \"\";\n"), inside(harm)] {
            let (html, failures) = beside(&module);
            assert!(html.ends_with(INNOCENT), "{harm}: {html}");
            assert!(failures.iter().all(|failure| failure.source.as_deref() == Some("bad.js#bad")), "{failures:?}");
            assert!(!failures.is_empty(), "{harm}: a built-in can be changed");
        }
    }
}

/// The harm as what a callback does.
fn inside(harm: &str) -> String {
    let (import, rest) = match harm.split_once("; ") {
        Some((import, rest)) if import.starts_with("import") => (format!("{import};\n"), rest),
        _ => (String::new(), harm),
    };
    format!("{import}export const bad = () => {{ {rest} return \"\"; }};\n")
}

#[test]
fn ordinary_code_is_not_in_the_way_of_what_is_fixed() {
    for (code, shown) in [
        ("const table = {}; table.toString = () => \"mine\"; return String(table);", "mine"),
        ("class A { toString() { return \"a\"; } } return `${new A()}`;", "a"),
        (
            "class A extends Error {} const e = new A(\"x\"); e.name = \"Mine\"; e.message = \"m\"; return `${e}`;",
            "Mine: m",
        ),
        (
            "function Old() {} Old.prototype.toString = function () { return \"old\"; }; return String(new Old());",
            "old",
        ),
        (
            "function Old() {} Old.prototype = { constructor: Old, valueOf() { return 4; } }; return `${new Old() + 1}`;",
            "5",
        ),
        (
            "const o = Object.assign({}, { constructor: 1, hasOwnProperty: 2 }); return `${o.constructor}${o.hasOwnProperty}`;",
            "12",
        ),
        ("const list = [1, 2]; list.extra = 3; list.toString = () => \"l\"; return `${list}`;", "l"),
        ("const m = new Map(); m.name = \"x\"; m.set(1, 2); return `${m.name}${m.get(1)}`;", "x2"),
        (
            "class D extends Date { days() { return this.getTime() / 86400000; } } return `${new D(86400000).days()}`;",
            "1",
        ),
        (
            "return `${new Date(2026, 2, 1).getFullYear()}${typeof Date.now()}${new Date() instanceof Date}`;",
            "2026numbertrue",
        ),
        ("return `${(() => 1) instanceof Function}${[] instanceof Object}`;", "truetrue"),
        (
            "return JSON.stringify(JSON.parse('{\"constructor\":1,\"a\":{\"toString\":2}}'));",
            "{&quot;constructor&quot;:1,&quot;a&quot;:{&quot;toString&quot;:2}}",
        ),
        ("let name = 1; var message = 2; return `${name}${message}`;", "12"),
    ] {
        let (html, failures) = beside(&format!("export function bad() {{ {code} }}\n"));
        assert_eq!(failures, [], "{code}");
        assert!(html.contains(&format!("{shown}<i title")), "{code}: {html}");
    }
}

#[test]
fn markup_cannot_be_forged() {
    const FORGED: &str = "<script>x</script>";
    for forge in [
        "const { constructor } = html``; return new constructor(FORGED);",
        "return Object.assign(Object.create(Object.getPrototypeOf(html``)), { text: FORGED });",
        "return new Proxy(html``, { get: () => FORGED });",
        "return html`${Object.create(html``, { text: { value: FORGED } })}`;",
        "return html`${{ toString: () => FORGED }}`;",
        "const raw = [FORGED]; raw.raw = raw; return `${FORGED}`;",
        "return place(\"partial:none\", { text: FORGED });",
    ] {
        let code = forge.replace("FORGED", &format!("\"{FORGED}\""));
        let (html, _) =
            beside(&format!("import {{ html, place }} from \"truehook\";\nexport function bad() {{ {code} }}\n"));
        assert!(!html.contains(FORGED), "{forge}: {html}");
        assert!(html.ends_with(INNOCENT), "{forge}: {html}");
    }
}

#[test]
fn there_is_no_clock_and_no_chance() {
    let read = "export function bad() { const real = [Object.getPrototypeOf(Date), Date.prototype.constructor, Object.getPrototypeOf(class extends Date {})].map((made) => { try { return new made().getTime(); } catch { return \"none\"; } }); return [Date(), Date.now(), new Date().getTime(), Reflect.construct(Date, []).getTime(), ...real, Math.random(), Math.random(), typeof performance].join(\" \"); }\n";
    let (first, failures) = beside(read);
    assert_eq!(failures, []);
    std::thread::sleep(std::time::Duration::from_millis(30));
    assert_eq!(first, beside(read).0);
    assert!(first.contains("Thu Jan 01 2026") && first.contains("undefined"), "{first}");
}

#[test]
fn a_page_leaves_nothing_to_those_that_follow() {
    // What one keeps in its modules, and what it puts off until later.
    let module = "let times = 0;\nexport function bad({ page }) {\n  times += 1;\n  Promise.resolve().then(() => { times = 9; });\n  return `${times}`;\n}\n";
    let stage = stage(&theme(&[
        ("truehook.toml", "[[attach]]\nto = \"hook:document-end\"\ncall = \"bad.js#bad\"\n"),
        ("code/bad.js", module),
        ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\n"),
        ("preview/pages/b.toml", "path = \"/b/\"\ntype = \"page\"\ntitle = \"B\"\n"),
    ]));
    for _ in 0..80 {
        for path in ["/b/", "/"] {
            let page = stage.render(path).expect("the page is there");
            assert_eq!(page.failures, [], "{path}");
            assert!(page.html.ends_with("1"), "{path}: {}", page.html);
        }
    }
}

#[test]
fn what_is_put_off_until_later_is_its_maker_s_business() {
    for (later, told) in [
        ("Promise.resolve().then(() => { for (;;) {} });", "in what it had put off until later"),
        ("const again = () => Promise.resolve().then(again); again();", "puts off more and more"),
        ("queueMicrotask(() => { for (;;) {} });", "in what it had put off until later"),
        ("(async () => { for (;;) await 1; })();", "puts off more and more"),
    ] {
        let (html, failures) = beside(&format!("export const bad = () => {{ {later} return \"\"; }};\n"));
        assert!(html.ends_with(INNOCENT), "{later}: {html} {failures:?}");
        assert!(
            failures.len() == 1
                && failures[0].source.as_deref() == Some("bad.js#bad")
                && failures[0].message.contains(told),
            "{later}: {failures:?}"
        );
    }
    // What throws later, or is refused, is nobody's.
    for later in [
        "Promise.reject(new Error(\"x\"));",
        "Promise.resolve().then(() => { throw 1; });",
        "(async () => { await null; throw 2; })();",
    ] {
        let (html, failures) = beside(&format!("export const bad = () => {{ {later} return \"\"; }};\n"));
        assert!(html.ends_with(INNOCENT) && failures.is_empty(), "{later}: {html} {failures:?}");
    }
}
