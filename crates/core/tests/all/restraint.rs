//! What the rules about callbacks, conditions, placements and components must not report, beside what
//! they must: each pair differs in what matters, and in nothing else.

use truehook_core::link::Registry;
use truehook_core::read::Project;
use truehook_core::rules::{self, Example, Level};

pub fn told(files: &[(&'static str, String)]) -> Vec<String> {
    let mut all = Example(&[]).files();
    for (path, text) in files {
        let text = match *path == "truehook.toml" {
            true => format!("{}\n{text}", rules::example::MANIFEST),
            false => text.clone(),
        };
        all.insert(format!("/site/example/{path}"), text);
    }
    let registry = Registry::new(Project::open(&all, "/site/example".into()).unwrap());
    let findings = rules::check(&registry).findings;
    findings.iter().filter(|found| found.level > Level::Note).map(|found| found.rule.to_string()).collect()
}

/// What is told of a filter with this function.
fn filter(function: &str) -> Vec<String> {
    told(&[
        ("truehook.toml", "[filter.words]\nvalue = { type = \"string\" }\nargs.n = { type = \"integer\", default = 1 }\n\n[[attach]]\nto = \"filter:words\"\ncall = \"a.js#f\"\n".into()),
        ("code/a.js", function.to_string()),
        ("markup/page.html", page("{{ page.title | through(\"filter:words\") }}")),
    ])
}

pub fn page(text: &str) -> String {
    format!("{{% extends \"layout.html\" %}}\n{{% block main %}}{{{{ super() }}}}{text}{{% endblock %}}\n")
}

#[test]
fn every_way_that_ends_with_a_value_or_an_error_is_fine() {
    for fine in [
        "export function f(value) { return value; }",
        "export const f = (value) => value;",
        "export const f = function (value) { return value; };",
        "function g(value) { return value; }\nexport { g as f };",
        "export function f(value) { if (value) { return 1; } else { return 2; } }",
        "export function f(value) { if (!value) return \"\"; return value; }",
        "export function f(value) { if (!value) throw new Error(\"no\"); return value; }",
        "export function f(value) { switch (value) { case 1: return 1; default: return 2; } }",
        "export function f(value) { try { return value; } catch { return \"\"; } }",
        "export function f(value) { try { JSON.parse(value); } finally { return value; } }",
        "export function f(value) { for (;;) { if (value) return value; } }",
        "export function f(value) { while (true) { return value; } }",
        "export function f(value) { do { return value; } while (value); }",
        "export function f(value) { [1].forEach(() => { return; }); return value; }",
        "export function f(value) { outer: { return value; } }",
    ] {
        let told = filter(fine);
        let silent = told.iter().all(|rule| rule != "returns-nothing");
        assert!(silent, "{fine}: {told:?}");
    }
}

#[test]
fn a_way_without_a_value_is_told() {
    for wrong in [
        "export function f(value) {}",
        "export function f(value) { value; }",
        "export const f = (value) => { value; };",
        "export function f(value) { if (value) return value; }",
        "export function f(value) { if (value) return; return value; }",
        "export function f(value) { for (const c of value) { return c; } }",
        "export function f(value) { while (value) { return value; } }",
        "export function f(value) { switch (value) { case 1: return value; } }",
        "export function f(value) { switch (value) { case 1: break; default: return value; } }",
        "export function f(value) { try { return JSON.parse(value); } catch {} }",
        "function g(value) {}\nexport { g as f };",
    ] {
        assert_eq!(filter(wrong), ["returns-nothing"], "{wrong}");
    }
}

#[test]
fn a_callback_may_take_less_than_it_gets_and_more_with_defaults() {
    for fine in [
        "export function f() { return \"\"; }",
        "export function f(value, context) { return value; }",
        "export function f(value, { page, site, options, theme, args, point }) { return value; }",
        "export function f(value, { args: { n } }) { return value; }",
        "export function f(value, { page, ...rest }) { return value; }",
        "export function f(value, context, more = 1) { return value; }",
        "export function f(...all) { return \"\"; }",
    ] {
        assert_eq!(filter(fine), [""; 0], "{fine}");
    }
    for wrong in [
        "export function f(value, context, more) { return value; }",
        "export const f = (value, context, more, ...rest) => value;",
        "function g(value, context, more) { return value; }\nexport { g as f };",
    ] {
        assert_eq!(filter(wrong), ["unfit-signature"], "{wrong}");
    }
}

#[test]
fn only_what_can_never_hold_is_constant() {
    let with = |when: &str| {
        told(&[
            (
                "truehook.toml",
                format!(
                    "[option.scheme]\nlabel = \"S\"\ntype = \"string\"\nenum = [\"day\", \"night\"]\ndefault = \"day\"\n\n[option.wide]\nlabel = \"W\"\ntype = \"boolean\"\ndefault = false\n\n[option.word]\nlabel = \"O\"\ntype = \"string\"\ndefault = \"\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\nwhen = \"{when}\"\n"
                ),
            ),
            ("code/a.js", "export const f = () => \"f\";\n".into()),
            ("markup/page.html", page("{{ options.scheme }}{{ options.wide }}{{ options.word }}")),
        ])
    };
    for fine in [
        "page.type == 'front'",
        "page.type != 'front' and page.type != 'list'",
        "page.type in ['front', 'list']",
        "not page.type in ['front']",
        "page.title == 'x' and page.title == 'y'",
        "options.scheme == 'night' or page.type == 'front'",
        "options.wide",
        "not options.wide and options.scheme != 'day'",
        "options.word == 'anything'",
        "site.title < 'x'",
    ] {
        assert_eq!(with(fine), [""; 0], "{fine}");
    }
    for never in [
        "page.type == 'home'",
        "page.type == 'front' and page.type == 'list'",
        "page.type in ['home', 'blog']",
        "options.scheme == 'dusk'",
        "options.wide and not options.wide",
        "false",
        "1 > 2 or page.type == 'home'",
        "options.scheme == 'day' and options.scheme == 'night' and page.title",
    ] {
        assert_eq!(with(never), ["condition-constant"], "{never}");
    }
    for partly in [
        "page.type in ['front', 'nowhere']",
        "options.scheme == 'nigth' or page.type == 'front'",
        "options.scheme != 'nigth'",
        "'fornt' != page.type",
        "options.word == 3 or options.wide",
        "not (options.wide == 'yes')",
    ] {
        assert_eq!(with(partly), ["input-value"], "{partly}");
    }
}

#[test]
fn what_an_option_or_a_type_never_is() {
    let with = |text: &str, code: &str| {
        told(&[
            ("truehook.toml", "[option.scheme]\nlabel = \"S\"\ntype = \"string\"\nenum = [\"day\", \"night\"]\ndefault = \"day\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n".into()),
            ("code/a.js", format!("export const f = {code};\n")),
            ("markup/page.html", page(&format!("{{{{ options.scheme }}}}{text}"))),
        ])
    };
    for (text, code, wanted) in [
        ("{% if options.scheme == \"night\" and page.type in [\"front\", \"list\"] %}x{% endif %}", "() => 1", &[][..]),
        ("{% if options.scheme == \"nigth\" %}x{% endif %}", "() => \"\"", &["input-value"]),
        ("{{ \"x\" if page.type not in [\"fornt\", \"list\"] }}", "() => \"\"", &["input-value"]),
        ("{% if page.title and \"fornt\" == page.type %}x{% endif %}", "() => \"\"", &["input-value"]),
        ("{% for page in [{\"type\": \"x\"}] %}{% if page.type == \"x\" %}y{% endif %}{% endfor %}", "() => \"\"", &[]),
        ("", "({ options }) => (options.scheme === \"night\" ? \"a\" : \"b\")", &[]),
        ("", "({ options }) => (options.scheme !== \"nigth\" ? \"a\" : \"b\")", &["input-value"]),
        ("", "({ page: { type } }) => (\"fornt\" === type ? \"a\" : \"b\")", &["input-value"]),
        (
            "",
            "({ page }) => { switch (page.type) { case \"front\": return \"a\"; case \"lits\": return \"b\"; default: return \"\"; } }",
            &["input-value"],
        ),
    ] {
        assert_eq!(with(text, code), wanted, "{text} {code}");
    }
}

#[test]
fn an_element_is_empty_only_around_nothing_but_what_may_be_empty() {
    let with = |text: &str| told(&[("markup/page.html", page(text))]);
    for fine in [
        "{{ place(\"region:aside\") }}",
        "<p>Beside</p>{{ place(\"region:aside\") }}",
        "<aside><h2>Beside</h2>{{ place(\"region:aside\") }}</aside>",
        "<aside>{{ place(\"region:aside\") }}{{ page.title }}</aside>",
        "{% if filled(\"region:aside\") %}<aside>{{ place(\"region:aside\") }}</aside>{% endif %}",
        "<aside>{{ place(\"hook:document-start\") }}</aside>",
        "<br>{{ place(\"region:aside\") }}</p>",
        "<!-- beside -->{{ place(\"region:aside\") }}",
    ] {
        assert_eq!(with(fine), [""; 0], "{fine}");
    }
    for empty in
        ["<aside>{{ place(\"region:aside\") }}</aside>", "<div class=\"a\">\n  {{ place(\"region:aside\") }}\n</div>"]
    {
        assert_eq!(with(empty), ["empty-wrapper"], "{empty}");
    }
}

#[test]
fn a_region_is_repeated_only_where_both_placements_show() {
    let with = |text: &str| told(&[("markup/page.html", page(text))]);
    for fine in [
        "{% if page.title %}{{ place(\"region:aside\") }}{% else %}{{ place(\"region:aside\") }}{% endif %}",
        "{% if filled(\"region:aside\") %}{{ place(\"region:aside\") }}{% endif %}",
        "{{ place(\"partial:link\", href=\"/\", text=\"a\") }}{{ place(\"partial:link\", href=\"/\", text=\"b\") }}",
        "{{ place(\"hook:document-start\") }}{{ place(\"hook:document-start\") }}",
    ] {
        assert_eq!(with(fine), [""; 0], "{fine}");
    }
    assert_eq!(with("{{ place(\"region:aside\") }}{{ place(\"region:aside\") }}"), ["repeated-placement"]);
    // One of each on different types of pages.
    let apart = told(&[
        ("markup/page.html", page("{{ place(\"region:aside\") }}")),
        ("markup/front.html", page("{{ place(\"region:aside\") }}")),
    ]);
    assert_eq!(apart, [""; 0]);
}

#[test]
fn hooks_of_the_host_are_looked_for_where_the_template_says_head_and_body() {
    let with = |layout: &str| told(&[("markup/layout.html", layout.to_string())]);
    let main = "{% block main %}{{ place(\"region:main\") }}{% endblock %}";
    let (head, end) = ("{{ place(\"hook:document-head\") }}", "{{ place(\"hook:document-end\") }}");
    for fine in [
        format!("<head><title>x</title>{head}</head><body>{main}{end}</body>"),
        format!(
            "<head lang=\"en\">\n{head}<title>x</title></head><body>{main}{end}\n<!-- the end -->{{% if page.title %}}{{% endif %}}</body>"
        ),
        format!("<header>x</header>{head}{main}{end}"),
    ] {
        assert_eq!(with(&fine), [""; 0], "{fine}");
    }
    for wrong in [
        format!("<head><title>x</title></head><body>{head}{main}{end}</body>"),
        format!("{head}<head><title>x</title></head><body>{main}{end}</body>"),
        format!("<head><title>x</title>{head}</head><body>{main}{end}<p>x</p></body>"),
        format!("<head><title>x</title>{head}</head><body>{end}{main}</body>"),
    ] {
        assert_eq!(with(&wrong), ["wrong-spot"], "{wrong}");
    }
}
