//! Code that means harm, on the built program: it is named and left out, and an innocent callback beside it runs on
//! every page.

use crate::fixture::Terminal;

/// What can't be stopped from inside the engine: it works away in one go, and asks nobody.
const ENDLESS: [&str; 12] = [
    "Array(2 ** 32 - 1).reverse()",
    "{ const a = []; a.length = 2 ** 32 - 1; a.join(\"x\"); }",
    "{ const a = []; a.length = 2 ** 32 - 1; a.sort(); }",
    "{ const a = []; a.length = 2 ** 32 - 1; a.copyWithin(1, 0); }",
    "{ const a = []; a.length = 2 ** 32 - 1; a.flat(); }",
    "{ const a = []; a.length = 2 ** 32 - 1; a.unshift(1); }",
    "{ const a = []; a.length = 2 ** 32 - 1; a.indexOf(1); }",
    "{ const a = []; a.length = 2 ** 32 - 1; a.includes(1); }",
    "{ const a = []; a.length = 2 ** 32 - 1; a.lastIndexOf(1); }",
    "{ const a = []; a.length = 2 ** 32 - 1; `${a}`; }",
    "Array.prototype.reverse.call({ length: 2 ** 53 - 1 })",
    "Array.prototype.fill.call({ length: 2 ** 53 - 1 }, 1)",
];

/// What the engine itself stops, or what goes wrong by itself.
const STOPPED: [&str; 24] = [
    "for (;;) {}",
    "while (true) new Array(10)",
    "(function again() { again(); })()",
    "JSON.stringify((() => { const a = {}; a.a = a; return a; })())",
    "const all = []; for (;;) all.push(\"x\".repeat(1e6))",
    "\"x\".repeat(2 ** 29).replaceAll(\"x\", \"xx\")",
    "new Uint8Array(2 ** 31 - 10).fill(1)",
    "new ArrayBuffer(2 ** 40)",
    "(2n ** 60000n) ** 60000n",
    "(7n ** 300000n).toString()",
    "/(a+)+b/.test(\"a\".repeat(40))",
    "Array.from({ length: 2 ** 32 })",
    "\"x\".padEnd(2 ** 30)",
    "Object.prototype.toString = null",
    "globalThis.x = 1",
    "throw null",
    "throw { toString() { for (;;) {} } }",
    "throw new Proxy({}, { get() { throw 1; } })",
    "null.x",
    "import(\"./none.js\").x.y",
    "new Function(\"for (;;) {}\")()",
    "eval(\"1\")",
    "Symbol() + 1",
    "structuredClone(1)",
];

/// What returns something that can't be read.
const RETURNED: [&str; 16] = [
    "{ get a() { throw new Error(\"mine\"); } }",
    "{ get a() { for (;;) {} } }",
    "new Proxy({}, { ownKeys() { throw 1; } })",
    "new Proxy({}, { ownKeys() { for (;;) {} } })",
    "new Proxy([], { get() { for (;;) {} } })",
    "Array(2 ** 32 - 1)",
    "Array(5000000).fill(1)",
    "(() => { let pair = [1]; for (let at = 0; at < 40; at += 1) pair = [pair, pair]; return pair; })()",
    "(() => { let deep = []; for (let at = 0; at < 100000; at += 1) deep = [deep]; return deep; })()",
    "(() => { const one = {}; one.one = one; return one; })()",
    "Promise.reject(1)",
    "new Promise(() => {})",
    "() => 1",
    "Symbol(\"x\")",
    "10n",
    "{ toString() { return \"<script>\"; } }",
];

/// What is done, and whether it certainly fails.
fn harms() -> Vec<(String, bool)> {
    let done = ENDLESS.iter().chain(&STOPPED).map(|harm| (format!("{harm}; return \"harmed\";"), true));
    let all: Vec<(String, bool)> =
        done.chain(RETURNED.iter().map(|value| (format!("return {value};"), false))).collect();
    // Each that the engine stops twice: while it runs, and in a function that another one calls.
    let nested =
        all[ENDLESS.len()..].iter().map(|(body, fails)| (format!("return [1].map(() => {{ {body} }})[0];"), *fails));
    all.iter().cloned().chain(nested).collect()
}

/// Renders a page with some of them, one attached after the other, and an innocent one after each.
fn rendered(harms: &[(String, bool)]) {
    let (mut code, mut manifest) = (String::new(), String::new());
    for (at, (body, _)) in harms.iter().enumerate() {
        code.push_str(&format!(
            "export const bad{at} = () => {{ {body} }};\nexport const good{at} = () => \"ok{at}.\";\n"
        ));
        for name in ["bad", "good"] {
            manifest.push_str(&format!("[[attach]]\nto = \"hook:document-end\"\ncall = \"all.js#{name}{at}\"\n\n"));
        }
    }
    let terminal = Terminal::new().manifest(&manifest).file("marsh/code/all.js", code);
    let said = terminal.types("render /page/ --format json").ends(1);
    let told: serde_json::Value = serde_json::from_str(&said.stdout).expect("JSON");
    let page = &told["pages"][0];
    let html = page["html"].as_str().expect("a page");
    let failures = page["failures"].as_array().expect("failures");
    for (at, (body, fails)) in harms.iter().enumerate() {
        assert!(html.contains(&format!("ok{at}.")), "beside `{body}`: {html}\n{failures:#?}");
        let told = failures.iter().filter(|failure| failure["source"] == format!("all.js#bad{at}")).count();
        assert!(told == 1 || !fails && told == 0, "`{body}` is told {told} times: {failures:#?}");
    }
    assert!(failures.iter().all(|failure| failure["source"].as_str().is_some_and(|one| one.starts_with("all.js#bad"))));
    assert!(failures.iter().all(|failure| failure["line"].as_u64().is_some()), "{failures:#?}");
    assert!(!html.contains("harmed") && !html.contains("<script>"), "{html}");
}

#[test]
fn a_hundred_hostile_callbacks_stop_no_innocent_one() {
    let harms = harms();
    assert!(harms.len() >= 90, "{}", harms.len());
    // A page has five seconds for all its callbacks.
    std::thread::scope(|scope| {
        for half in 0..2 {
            let harms = &harms;
            scope.spawn(move || harms.chunks(8).skip(half).step_by(2).for_each(rendered));
        }
    });
}

#[test]
fn what_ends_workers_again_and_again_is_left_out_of_the_rest() {
    let mut terminal = Terminal::new()
        .manifest("[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#bad\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#good\"\n")
        .file("marsh/code/a.js", format!("export const bad = () => {{ {}; }};\nexport const good = () => \"innocent\";\n", ENDLESS[0]));
    for at in 0..12 {
        let page = format!("path = \"/p{at}/\"\ntype = \"page\"\ntitle = \"P\"\n");
        terminal = terminal.file(&format!("marsh/preview/pages/p{at}.toml"), page);
    }
    let said = terminal.types("render --into ../out --jobs 1").ends(1);
    let text = said.stderr.replace("\n        ", " ");
    let lines: Vec<&str> = text.lines().collect();
    assert_eq!(lines.len(), 12, "a failure on each page: {}", said.stderr);
    let left = lines.iter().filter(|line| line.contains("left out, for it has ended 3 workers")).count();
    assert_eq!(
        (left, lines.iter().filter(|line| line.contains("250 ms of processor time, its limit")).count()),
        (9, 12),
        "{}",
        said.stderr
    );
    for at in 0..12 {
        assert!(terminal.read(&format!("out/p{at}/index.html")).contains("innocent"), "p{at}");
    }
}

#[test]
fn templates_that_take_too_much_are_named() {
    for (template, told) in [
        (
            "{% set a = namespace(a=\"xxxxxxxxxx\") %}{% for i in range(40) %}{% set a.a = a.a ~ a.a %}{% endfor %}",
            "more memory than a worker has",
        ),
        (
            "{% for i in range(100000) %}{% for j in range(1000) %}a line of forty bytes, again and again....\n{% endfor %}{% endfor %}",
            "it prints more than 16 MiB",
        ),
        ("{{ \"%4000000000d\" | format(1) }}", "the template can't be rendered"),
        ("{% macro m() %}{{ m() }}{% endmacro %}{{ m() }}", "the template can't be rendered"),
    ] {
        let terminal = Terminal::new()
            .manifest("[partial.bad]\nabout = \"B\"\n\n[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:bad\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#good\"\n")
            .file("marsh/markup/partials/bad.html", template)
            .file("marsh/code/a.js", "export const good = () => \"innocent\";\n");
        let said = terminal.types("render /page/").ends(1);
        assert!(said.stdout.contains("innocent"), "{template}: {}", said.stdout);
        assert!(
            said.stderr.contains(told) && said.stderr.contains("markup/partials/bad.html:1:"),
            "{template}: {}",
            said.stderr
        );
    }
}

#[test]
fn fire_trace_and_why_run_code_in_workers_too() {
    let terminal = Terminal::new()
        .manifest("[hook.note]\nabout = \"N\"\n\n[[attach]]\nto = \"hook:note\"\ncall = \"a.js#bad\"\n\n[[attach]]\nto = \"hook:note\"\ncall = \"a.js#good\"\n")
        .file("marsh/code/a.js", format!("export const bad = () => {{ {}; }};\nexport const good = () => \"innocent\";\n", ENDLESS[0]))
        .replace("marsh/markup/layout.html", "{% block main %}", "{{ place(\"hook:note\") }}{% block main %}");
    let fired = terminal.types("fire hook:note").ends(1).says("innocent");
    assert!(fired.stderr.contains("a.js#bad"), "{}", fired.stderr);
    let traced = terminal.types("trace /page/").ends(1).says("a.js#good");
    assert!(traced.stderr.contains("250 ms of processor time, its limit"), "{}", traced.stderr);
    terminal.types("why a.js#bad --page /page/").ends(1).says("failed").says("← here");
    terminal.types("why a.js#good --page /page/").ends(0);
}
