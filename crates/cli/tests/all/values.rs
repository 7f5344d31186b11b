//! Whatever a callback gives, throws or returns: the page comes in time, what failed is named, and the innocent callback
//! beside it has run. Values are made at random from pieces that have broken something once, or might.

use std::time::Instant;

use crate::fixture::{LONGEST, Terminal};

/// Values that are hard to pass on, as expressions.
const VALUES: [&str; 34] = [
    "\"\\ud800\"",
    "\"a\\0b\"",
    "\"\\u202e\\u001b[31m\"",
    "{ \"\\ud800\": 1 }",
    "{ \"a\\0b\": 1, \"a\": 2 }",
    "{ \"\\udc00\\ud800\": { \"\\ud800\": \"\\udfff\" } }",
    "[\"\\ud83d\", \"\\ude00\"]",
    "Symbol(\"x\")",
    "{ [Symbol.iterator]: 1 }",
    "Object.create(null)",
    "Object.create({ inherited: 1 })",
    "Object.assign(Object.create(null), { toString: 1 })",
    "NaN",
    "-0",
    "2 ** 53",
    "1e308 * 10",
    "10n",
    "null",
    "undefined",
    "\"x\".repeat(1 << 20)",
    "Array(1000).fill(\"\\ud800\")",
    "Array(300000)",
    "deep(62)",
    "deep(200)",
    "deep(100000)",
    "{ get a() { throw Symbol(\"x\"); } }",
    "{ toString() { throw Object.create(null); } }",
    "{ [Symbol.toPrimitive]() { throw 1; } }",
    "Object.defineProperty(new Error(\"x\"), \"name\", { get() { throw 1; } })",
    "Object.defineProperty(new Error(\"x\"), \"message\", { get() { throw Symbol(\"y\"); } })",
    "Object.defineProperty(new Error(\"x\"), \"stack\", { get() { throw new Error(\"z\"); } })",
    "Object.assign(new Error(\"\\ud800\"), { name: \"\\ud800\", stack: \"\\ud800\" })",
    "Object.assign(new Error(), { message: { toString() { throw 2; } } })",
    "new Proxy(function () {}, { get() { throw Symbol(\"p\"); } })",
];

/// What is done with a value.
const DEEDS: [&str; 14] = [
    "return VALUE;",
    "throw VALUE;",
    "note(VALUE);",
    "place(\"hook:one\", VALUE);",
    "place(\"hook:one\", { a: VALUE });",
    "place(VALUE);",
    "through(\"filter:one\", VALUE);",
    "through(\"filter:one\", 1, VALUE);",
    "through(VALUE, 1);",
    "t(\"one\", VALUE);",
    "t(VALUE);",
    "asset(VALUE);",
    "return html`<p>${VALUE}</p>`;",
    "return [VALUE].map((it) => { throw it; });",
];

const HELP: &str = "import { html, place, through, t, note, asset } from \"truehook\";\n\
    const deep = (levels) => { let it = 1; for (let at = 0; at < levels; at += 1) it = { it }; return it; };\n";

/// A theme with a page on which each of these bodies runs, with an innocent callback after it.
fn theme(bodies: &[String]) -> Terminal {
    let mut code = HELP.to_string();
    let mut manifest =
        "[hook.one]\nabout = \"O\"\nargs = { a = {} }\n\n[filter.one]\nabout = \"O\"\nvalue = {}\n\n".to_string();
    for (at, body) in bodies.iter().enumerate() {
        code.push_str(&format!(
            "export const bad{at} = () => {{ {body} }};\nexport const good{at} = () => \"ok{at}.\";\n"
        ));
        for name in ["bad", "good"] {
            manifest.push_str(&format!("[[attach]]\nto = \"hook:document-end\"\ncall = \"all.js#{name}{at}\"\n\n"));
        }
    }
    Terminal::new().manifest(&manifest).file("marsh/code/all.js", code)
}

#[test]
fn whatever_a_callback_does_with_any_value_its_neighbours_run() {
    let all: Vec<String> =
        DEEDS.iter().flat_map(|deed| VALUES.iter().map(|value| deed.replace("VALUE", &format!("({value})")))).collect();
    for bodies in all.chunks(80) {
        let terminal = theme(bodies);
        let said = terminal.types("render /page/ --format json");
        let told: serde_json::Value = serde_json::from_str(&said.stdout).expect("JSON");
        let html = told["pages"][0]["html"].as_str().expect("a page");
        let failures = told["pages"][0]["failures"].as_array().expect("failures");
        for (at, body) in bodies.iter().enumerate() {
            assert!(html.contains(&format!("ok{at}.")), "beside `{body}`: {failures:#?}");
        }
        for failure in failures {
            let source = failure["source"].as_str().unwrap_or_default();
            let named = source.starts_with("all.js#bad")
                || failure["point"].as_str().is_some_and(|it| !it.starts_with("hook:document"));
            assert!(named, "{failure:#}");
            let message = failure["message"].as_str().unwrap_or_default();
            assert!(message.len() < 5000 && !message.contains("worker"), "{message}");
        }
    }
}

#[test]
fn notes_steps_and_messages_have_a_limit_too() {
    let terminal = theme(&[
        "for (;;) note(1);".into(),
        "for (;;) note(\"x\".repeat(1 << 20));".into(),
        "throw new Error(\"x\".repeat(50 << 20 >> 1));".into(),
        "for (;;) place(\"hook:\" + \"x\".repeat(1 << 16));".into(),
        "for (let at = 0; ; at += 1) through(\"filter:none\" + at, 1);".into(),
    ]);
    let said = terminal.types("trace /page/ --format json").ends(1);
    assert!(said.stdout.len() < 40 << 20, "{} bytes", said.stdout.len());
    assert!(said.stdout.contains("more than 10000 notes") && said.stderr.len() < 8 << 20, "{}", said.stderr.len());
    let page = terminal.types("render /page/");
    assert!((0..5).all(|at| page.stdout.contains(&format!("ok{at}."))), "{}", page.stdout);
}

#[test]
fn data_of_a_page_may_be_nested_as_deeply_as_its_file() {
    let nested = format!("{}1{}", "[".repeat(400), "]".repeat(400));
    let terminal = theme(&["note(1);".into()])
        .file(
            "marsh/preview/pages/deep.toml",
            format!("path = \"/deep/\"\ntype = \"page\"\ntitle = \"D\"\n[data]\nnested = {nested}\n"),
        )
        .replace(
            "marsh/markup/page.html",
            "{% extends \"layout.html\" %}",
            "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ note(page) }}{% endblock %}",
        );
    let said = terminal.types("render /deep/");
    assert!(said.stdout.contains("ok0."), "{}{}", said.stdout, said.stderr);
}

/// The bytes of a page don't hang on what else the machine does: limits are of work.
#[test]
fn twenty_renders_at_once_are_the_same_bytes_as_one_alone() {
    let steps = "let sum = 0; for (let at = 0; at < 300000; at += 1) sum = (sum * 31 + at) % 1000003;";
    let terminal = theme(&[
        format!("{steps} return html`<b>${{sum}}</b>`;"),
        "return html`<i>${Array.from({ length: 20000 }, (_, at) => (at * 7919) % 20011).toSorted((a, b) => a - b).length}</i>`;".into(),
        "for (;;) {}".into(),
    ]);
    let alone = terminal.types("render /page/ --format json").ends(1).stdout;
    assert!(alone.contains("<b>") && alone.contains("<i>"), "{alone}");
    let children: Vec<_> = (0..20)
        .map(|_| {
            let mut command = terminal.command("marsh", "render /page/ --format json");
            command.stdout(std::process::Stdio::piped()).stderr(std::process::Stdio::null()).spawn().unwrap()
        })
        .collect();
    for child in children {
        assert_eq!(String::from_utf8(child.wait_with_output().unwrap().stdout).unwrap(), alone);
    }
}

/// Worker processes of a command.
#[cfg(target_os = "linux")]
fn workers_of(process: u32) -> Vec<u32> {
    let path = format!("/proc/{process}/task");
    let tasks = std::fs::read_dir(path).into_iter().flatten().flatten();
    let children = tasks.filter_map(|task| std::fs::read_to_string(task.path().join("children")).ok());
    children.flat_map(|list| list.split_whitespace().filter_map(|id| id.parse().ok()).collect::<Vec<u32>>()).collect()
}

#[cfg(target_os = "linux")]
#[test]
fn a_worker_that_is_stopped_is_replaced() {
    let terminal = theme(&["for (let at = 0; at < 3e6; at += 1);".into()]);
    let mut command = terminal.command("marsh", "render /page/");
    let child = command.stdout(std::process::Stdio::piped()).stderr(std::process::Stdio::piped()).spawn().unwrap();
    // Stopped before it is a program of its own, it would hold up the one that begins it, in the system itself.
    let typed = |pid: u32| std::fs::read(format!("/proc/{pid}/cmdline")).unwrap_or_default();
    let is_program = |pid: &u32| !typed(*pid).is_empty() && typed(*pid) != typed(child.id());
    let first = std::iter::repeat_with(|| workers_of(child.id()).into_iter().find(is_program)).take(1_000_000);
    let first = first.flatten().next();
    let stopped = std::process::Command::new("kill").args(["-STOP", &first.expect("a worker").to_string()]).status();
    assert!(stopped.unwrap().success());
    let begun = Instant::now();
    let said = child.wait_with_output().unwrap();
    let html = String::from_utf8(said.stdout).unwrap();
    assert!(html.contains("ok0.") && begun.elapsed() < LONGEST, "{html}");
}
