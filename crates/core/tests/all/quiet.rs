//! No noise: things that look odd and are right, or that nobody can tell. None of these may give an
//! error or a warning.

use truehook_core::link::Registry;
use truehook_core::read::Project;
use truehook_core::rules::{self, Example, Level};

#[track_caller]
fn quiet(example: Example) {
    let registry = example.registry().unwrap();
    let findings = rules::check(&registry).findings;
    let told: Vec<String> =
        findings.iter().filter(|f| f.level > Level::Note).map(|f| format!("[{}] {}", f.rule, f.message)).collect();
    assert_eq!(told, [""; 0]);
}

/// A page with something below its text.
macro_rules! page {
    ($text:literal) => {
        (
            "markup/page.html",
            concat!("{% extends \"layout.html\" %}\n{% block main %}{{ super() }}", $text, "{% endblock %}\n"),
        )
    };
}

#[test]
fn optional_points_of_the_host_are_nobodys_business() {
    quiet(Example(&[]));
}

#[test]
fn local_names_are_known_where_they_are() {
    quiet(Example(&[page!(
        "{% set a = 1 %}{{ a }}{% for k, v in site.data | items %}{{ k }}{{ v.x }}{{ loop.index }}{% endfor %}\
         {% with b = page.title, c = b %}{{ c }}{% endwith %}{% set d %}text{% endset %}{{ d }}\
         {% if page.title is defined and page['title'] %}{% set e = 2 %}{% endif %}{{ e }}{{ page.data[a].anything }}"
    )]));
}

#[test]
fn an_include_sees_what_its_includer_sees() {
    quiet(Example(&[
        ("truehook.toml", "[partial.card]\ninputs.text = { type = \"string\", default = \"\" }\n"),
        ("markup/partials/card.html", "{% set colour = \"red\" %}{% include \"shared/inner.html\" %}\n"),
        ("markup/shared/inner.html", "<p class=\"{{ colour }}\">{{ text }}</p>\n"),
        page!("{{ place(\"partial:card\", text=\"x\") }}"),
    ]));
}

#[test]
fn a_layout_sees_what_its_pages_set() {
    quiet(Example(&[
        (
            "markup/layout.html",
            "<head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head><body class=\"{{ shape }}\">{% block main %}{{ place(\"region:main\") }}{% endblock %}{{ place(\"hook:document-end\") }}</body>\n",
        ),
        ("markup/page.html", "{% extends \"layout.html\" %}{% set shape = \"wide\" %}\n"),
    ]));
}

#[test]
fn macros_are_followed_through_imports() {
    quiet(Example(&[
        ("truehook.toml", "[region.a]\nlabel = \"A\"\n\n[region.b]\nlabel = \"B\"\n\n[region.c]\nlabel = \"C\"\n"),
        (
            "markup/macros.html",
            "{% macro one(x) %}{{ x }}{{ place(\"region:a\") }}{% endmacro %}\n{% macro two() %}{{ place(\"region:b\") }}{% endmacro %}\n{% macro frame() %}<div>{{ caller() }}</div>{% endmacro %}\n",
        ),
        page!(
            "{% import \"macros.html\" as m %}{% from \"macros.html\" import two as zwei %}{{ m.one(page.title) }}{{ zwei() }}{% call m.frame() %}{{ place(\"region:c\") }}{% endcall %}"
        ),
    ]));
}

#[test]
fn conditional_and_optional_templates() {
    quiet(Example(&[
        ("markup/a.html", "<p>a</p>\n"),
        page!(
            "{% include \"none.html\" ignore missing %}{% include [\"special.html\", \"a.html\"] %}{{ place(\"region:aside\") if page.title else \"\" }}"
        ),
    ]));
}

#[test]
fn a_component_may_place_itself_where_a_condition_ends_it() {
    quiet(Example(&[
        ("truehook.toml", "[partial.branch]\ninputs.items = { type = \"array\", default = [] }\n"),
        (
            "markup/partials/branch.html",
            "<ul>{% for item in items %}<li>{{ place(\"partial:branch\", items=item) }}</li>{% endfor %}</ul>\n",
        ),
        page!("{{ place(\"partial:branch\", items=[[], [[]]]) }}"),
    ]));
}

#[test]
fn a_base_theme_may_hold_what_only_others_use() {
    quiet(Example(&[
        (
            "truehook.toml",
            "[theme]\nname = \"example\"\nlabel = \"example\"\nopen = true\n\n[filter.spare]\nabout = \"For others\"\n\n[partial.spare]\nabout = \"For others\"\n",
        ),
        ("markup/partials/spare.html", "<p>spare</p>\n"),
        ("markup/spare.html", "<p>spare</p>\n"),
        ("code/spare.js", "export function spare() {}\n"),
    ]));
}

#[test]
fn a_value_exported_for_another_module_is_no_callback() {
    quiet(Example(&[
        ("truehook.toml", "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n"),
        (
            "code/a.js",
            "import { half, SIZE } from \"./lib/b.js\";\nimport * as all from \"./c.js\";\nexport function f() { return half(SIZE) + all.h(); }\n",
        ),
        ("code/lib/b.js", "export const SIZE = 3;\nexport const half = (x) => `${x / 2}`;\n"),
        ("code/c.js", "export function h() { return \"h\"; }\n"),
    ]));
}

#[test]
fn points_placed_by_callbacks_are_placed() {
    quiet(Example(&[
        (
            "truehook.toml",
            "[region.kiosk]\nlabel = \"Kiosk\"\n\n[filter.words]\nvalue = { type = \"string\" }\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n\n[[attach]]\nto = \"filter:words\"\ncall = \"a.js#g\"\n",
        ),
        (
            "code/a.js",
            "import { html, place as put, through } from \"truehook\";\nconst helper = (x) => through(\"filter:words\", x);\nexport function f({ page }) { return html`${put(\"region:kiosk\")}${helper(page.title)}`; }\nexport const g = (value) => value;\n",
        ),
    ]));
}

#[test]
fn a_shadowed_name_is_no_built_in_function() {
    quiet(Example(&[
        ("truehook.toml", "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n"),
        (
            "code/a.js",
            "import { place } from \"truehook\";\nexport function f() { return [1].map((place) => place + 1).join() + String(place(\"region:aside\")); }\n",
        ),
    ]));
}

#[test]
fn data_that_only_some_pages_have_is_known() {
    quiet(Example(&[
        ("preview/site.toml", "[data]\ntides.low = \"13:42\"\n"),
        ("preview/pages/a.toml", "path = \"/a/\"\ntype = \"page\"\ntitle = \"A\"\n[data]\nbird.name = \"curlew\"\n"),
        ("preview/pages/b.toml", "path = \"/b/\"\ntype = \"entry\"\ntitle = \"B\"\ndate = 2026-03-01\n"),
        page!("{{ page.data.bird.name }}{{ site.data.tides.low }}{{ page.date }}{{ page.entries }}"),
    ]));
}

#[test]
fn without_a_preview_data_can_not_be_told() {
    quiet(Example(&[page!("{{ page.data.whatever.it.is }}{{ site.data.x }}")]));
}

#[test]
fn a_filter_that_nobody_uses_and_nobody_attaches_to() {
    quiet(Example(&[("truehook.toml", "[filter.spare]\nabout = \"Some day\"\n")]));
}

#[test]
fn what_stands_in_a_file_that_does_not_parse_is_not_missed() {
    let example = Example(&[
        (
            "truehook.toml",
            "[region.kiosk]\nlabel = \"Kiosk\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n",
        ),
        ("markup/front.html", "{% if %}{{ place(\"region:kiosk\") }}"),
        ("code/a.js", "export function f( { return 1; }\n"),
    ]);
    let findings = rules::check(&example.registry().unwrap()).findings;
    let told: Vec<&str> = findings.iter().map(|finding| finding.rule).collect();
    assert_eq!(told, ["code-syntax", "markup-syntax"]);
}

#[test]
fn one_missing_thing_is_one_finding_however_often_it_is_asked_for() {
    let example = Example(&[
        (
            "truehook.toml",
            "[[attach]]\nto = \"region:gone\"\ncall = \"a.js#f\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#missing\"\n\n[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#missing\"\n",
        ),
        ("code/a.js", "export function f(items) { return items; }\n"),
        (
            "markup/front.html",
            "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ place(\"region:gone\") }}{{ place(\"region:gone\") }}{{ place(\"hook:document-start\") }}{% endblock %}\n",
        ),
        ("preview/site.toml", "[fill]\n\"region:gone\" = []\n"),
    ]);
    let findings = rules::check(&example.registry().unwrap()).findings;
    let told: Vec<(&str, usize)> = findings.iter().map(|finding| (finding.rule, finding.places.len())).collect();
    assert_eq!(told, [("undeclared-point", 4), ("missing-callback", 3)]);
}

#[test]
fn a_macro_that_places_something_is_printed_as_it_is() {
    let with = |call: &'static str| {
        let page = format!(
            "{{% extends \"layout.html\" %}}{{% from \"m.html\" import m, n %}}{{% block main %}}{{{{ super() }}}}{call}{{% endblock %}}"
        );
        let mut files = Example(&[(
            "markup/m.html",
            "{% macro m() %}{{ place(\"region:aside\") }}{% endmacro %}{% macro n() %}n{% endmacro %}\n",
        )])
        .files();
        files.insert("/site/example/markup/page.html", page);
        let registry = Registry::new(Project::open(&files, "/site/example".into()).unwrap());
        rules::check(&registry).findings.iter().map(|finding| finding.rule).collect::<Vec<_>>()
    };
    for fine in ["{{ m() }}", "{{ n() | upper }}{{ m() }}", "{{ m() if page.title }}"] {
        assert_eq!(with(fine), [""; 0], "{fine}");
    }
    for lost in ["{{ m() | upper }}", "{% set x = m() %}{{ x }}", "{% filter upper %}{{ m() }}{% endfilter %}"] {
        assert_eq!(with(lost), ["dynamic-point"], "{lost}");
    }
}

#[test]
fn mends_remove_the_finding_and_add_none() {
    let mut tried = 0;
    for rule in rules::ALL {
        let files = rule.wrong.files();
        let registry = rule.wrong.registry().unwrap();
        let findings = rules::check(&registry).findings;
        let edits = |finding: &rules::Finding| finding.mend.clone().filter(|mend| !mend.edits.is_empty());
        let Some(mend) = findings.iter().find_map(edits) else { continue };
        let plan = truehook_core::edit::Plan::of(mend.edits.clone());
        let mut mended = files.clone();
        for change in plan.changes(registry.project()).unwrap() {
            mended.insert(change.path, change.after.unwrap());
        }
        let after = Registry::new(Project::open(&mended, "/site/example".into()).unwrap());
        let left: Vec<String> =
            rules::check(&after).findings.iter().filter(|f| f.level > Level::Note).map(|f| f.message.clone()).collect();
        assert_eq!(left, [""; 0], "{}", rule.name);
        tried += 1;
    }
    assert!(tried >= 8, "only {tried} rules have a mend with edits");
}

#[test]
fn a_rule_that_is_off_hides_nothing_else() {
    use super::restraint::{page, told};
    let with = |off: &str| {
        let off = if off.is_empty() { String::new() } else { format!("\n[check]\nrules = {{ {off} = \"off\" }}\n") };
        told(&[
            ("truehook.toml", format!("[region.aside]\nlabel = \"A\"\n{off}")),
            ("markup/page.html", page("{{ place(\"region:asid\") }}")),
        ])
    };
    assert_eq!(with(""), ["undeclared-point"]);
    assert_eq!(with("undeclared-point"), ["unplaced-point"]);
    let stray = |off: &str| {
        let off = if off.is_empty() { String::new() } else { format!("\n[check]\nrules = {{ {off} = \"off\" }}\n") };
        told(&[
            ("truehook.toml", format!("[region.aside]\nlabel = \"A\"\n{off}")),
            ("markup/spare.html", "<p>Spare {{ place(\"region:aside\") }}</p>\n".into()),
        ])
    };
    assert_eq!(stray(""), ["unreached-template"]);
    assert_eq!(stray("unreached-template"), ["unreached-placement"]);
    let block = |off: &str| {
        let off = if off.is_empty() { String::new() } else { format!("\n[check]\nrules = {{ {off} = \"off\" }}\n") };
        told(&[
            ("truehook.toml", format!("[region.aside]\nlabel = \"A\"\n{off}")),
            (
                "markup/page.html",
                "{% extends \"layout.html\" %}\n{% block nowhere %}{{ place(\"region:aside\") }}{% endblock %}\n"
                    .into(),
            ),
        ])
    };
    assert_eq!(block(""), ["lost-block"]);
    assert_eq!(block("lost-block"), ["unreached-placement"]);
}

#[test]
fn an_ignore_is_not_idle_where_the_rule_can_not_see() {
    use super::restraint::{page, told};
    let with = |layout: &str| {
        let text = "[region.kiosk]\nlabel = \"K\"\n\n[[check.ignore]]\nrule = \"unplaced-point\"\npoint = \"region:kiosk\"\nbecause = \"placed by the kiosk\"\n";
        told(&[("truehook.toml", text.into()), ("markup/page.html", page(layout))])
    };
    assert_eq!(with(""), [""; 0]);
    assert_eq!(with("{% include page.title %}").iter().filter(|rule| *rule == "idle-ignore").count(), 0);
}
