//! What the stage does with points, values and failures.

use std::sync::Arc;

use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_stage::{Origin, Rendered, Stage, StepState};

/// A theme in memory: a layout that shows `page.title` and all required points, and more files.
fn theme(more: &[(&str, &str)]) -> MemoryFiles {
    let mut files = MemoryFiles::new();
    let usual = [
        ("truehook.toml", "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\n"),
        (
            "markup/layout.html",
            "<head>{{ place(\"hook:document-head\") }}</head>{% block main %}<main>{{ place(\"region:main\") }}</main>{% endblock %}{{ place(\"hook:document-end\") }}",
        ),
        ("markup/page.html", "{% extends \"layout.html\" %}"),
    ];
    for (path, text) in usual.iter().chain(more) {
        let path = format!("/t/marsh/{path}");
        match (path.ends_with("truehook.toml"), text.contains("[theme]")) {
            (true, false) => files.insert(path, format!("{}\n{text}", usual[0].1)),
            _ => files.insert(path, *text),
        }
    }
    files
}

fn stage(files: &MemoryFiles) -> Stage {
    let registry = Registry::new(Project::open(files, "/t/marsh".into()).unwrap());
    Stage::new(Arc::new(registry))
}

fn front(more: &[(&str, &str)]) -> Rendered {
    stage(&theme(more)).render("/").unwrap()
}

#[track_caller]
fn shows(more: &[(&str, &str)], wanted: &str) -> Rendered {
    let rendered = front(more);
    assert_eq!(rendered.failures, []);
    assert!(rendered.html.contains(wanted), "{}", rendered.html);
    rendered
}

#[track_caller]
fn fails(more: &[(&str, &str)], message: &str) -> Rendered {
    let rendered = front(more);
    assert!(rendered.failures.iter().any(|failure| failure.message.contains(message)), "{:#?}", rendered.failures);
    rendered
}

/// A page with this in its main block.
macro_rules! page {
    ($text:literal) => {
        (
            "markup/front.html",
            concat!("{% extends \"layout.html\" %}{% block main %}", $text, "{{ super() }}{% endblock %}"),
        )
    };
}

#[test]
fn without_a_preview_there_is_a_page_of_each_type() {
    let pages = stage(&theme(&[])).pages();
    let paths: Vec<(&str, &str)> = pages.iter().map(|page| (page.path.as_str(), page.page_type.as_str())).collect();
    assert_eq!(
        paths,
        [
            ("/", "front"),
            ("/entry/", "entry"),
            ("/list/", "list"),
            ("/missing/", "missing"),
            ("/page/", "page"),
            ("/search/", "search")
        ]
    );
    let rendered = shows(
        &[page!("{{ site.title }}|{{ site.language }}|{{ theme.version }}|{{ theme.about }}|{{ page.type }}")],
        "Marsh|en|1.0.0||front",
    );
    assert!(rendered.html.contains("<main></main>"), "a page without a body has no body item");
}

#[test]
fn bodies_are_markdown_or_html() {
    let more = [
        ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\nbody = \"a.md\"\n"),
        ("preview/pages/a.md", "# Heading\n\n| a |\n| - |\n| b |\n\n~~gone~~\n"),
        ("preview/pages/b.toml", "path = \"/b/\"\ntype = \"page\"\ntitle = \"B\"\nbody = \"b.html\"\n"),
        ("preview/pages/b.html", "<p class=\"own\">{{ not a template }}</p>"),
    ];
    let stage = stage(&theme(&more));
    let first = stage.render("/").unwrap();
    assert!(
        first.html.contains("<h1>Heading</h1>")
            && first.html.contains("<td>b</td>")
            && first.html.contains("<del>gone</del>"),
        "{}",
        first.html
    );
    assert!(stage.render("/b").unwrap().html.contains("<main><p class=\"own\">{{ not a template }}</p>"));
    assert!(stage.render("/c/").is_none());
}

#[test]
fn the_body_s_filter_and_arranger_have_their_say() {
    let more = [
        (
            "truehook.toml",
            "[partial.note]\ninputs.text = { type = \"string\" }\n\n[[attach]]\nto = \"filter:article-markup\"\ncall = \"a.js#frame\"\n\n[[attach]]\nto = \"region:main\"\ncall = \"a.js#bodyLast\"\n",
        ),
        (
            "code/a.js",
            "import { html } from \"truehook\";\nexport const frame = (value) => html`<article>${value}</article>`;\nexport const bodyLast = (items) => [...items.slice(1), items[0]];\n",
        ),
        ("markup/partials/note.html", "<i>{{ text }}</i>"),
        ("preview/site.toml", "[fill]\n\"region:main\" = [ { use = \"partial:note\", text = \"first\" } ]\n"),
        ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\nbody = \"a.md\"\n"),
        ("preview/pages/a.md", "words\n"),
    ];
    shows(&more, "<main><i>first</i><article><p>words</p>\n</article>");
}

#[test]
fn lists_hold_their_entries_newest_first() {
    let more = [
        (
            "markup/list.html",
            "{% extends \"layout.html\" %}{% block main %}{% for e in page.entries %}[{{ e.title }} {{ e.date }} {{ e.path }}]{% endfor %}{% endblock %}",
        ),
        ("preview/pages/list.toml", "path = \"/log/\"\ntype = \"list\"\ntitle = \"Log\"\n"),
        ("preview/pages/a.toml", "path = \"/log/a/\"\ntype = \"entry\"\ntitle = \"A\"\ndate = 2025-05-01\n"),
        ("preview/pages/b.toml", "path = \"/log/b/\"\ntype = \"entry\"\ntitle = \"B\"\ndate = 2026-01-02\n"),
        ("preview/pages/c.toml", "path = \"/other/c/\"\ntype = \"entry\"\ntitle = \"C\"\ndate = 2026-01-03\n"),
    ];
    let rendered = stage(&theme(&more)).render("/log/").unwrap();
    assert!(
        rendered.html.contains("[B 2026-01-02 /log/b/][A 2025-05-01 /log/a/]") && !rendered.html.contains("[C"),
        "{}",
        rendered.html
    );
}

#[test]
fn holes_work_in_blocks_macros_includes_and_markup_of_callbacks() {
    let more = [
        (
            "truehook.toml",
            "[partial.dot]\ninputs.text = { type = \"string\", default = \"•\" }\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#both\"\n",
        ),
        ("markup/partials/dot.html", "<b>{{ text }}</b>"),
        ("markup/bits.html", "{% macro framed(x) %}<u>{{ x }}{{ place(\"partial:dot\", text=x) }}</u>{% endmacro %}"),
        ("markup/inner.html", "<s>{{ place(\"partial:dot\") }}</s>"),
        (
            "code/a.js",
            "import { html, place } from \"truehook\";\nexport function both() { const one = place(\"partial:dot\", { text: \"<1>\" }); return html`<p>${[one, one]}</p>`; }\n",
        ),
        page!("{% from \"bits.html\" import framed %}{{ framed(\"a&b\") }}{% include \"inner.html\" %}"),
    ];
    let rendered = shows(&more, "<u>a&amp;b<b>a&amp;b</b></u><s><b>•</b></s>");
    assert!(rendered.html.contains("<p><b>&lt;1&gt;</b><b>&lt;1&gt;</b></p>"), "{}", rendered.html);
}

#[test]
fn the_head_is_filled_last() {
    let more = [
        (
            "truehook.toml",
            "[[attach]]\nto = \"hook:document-head\"\ncall = \"a.js#head\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#end\"\n",
        ),
        (
            "code/a.js",
            "let seen = \"\";\nexport function head() { return `seen: ${seen}`; }\nexport function end() { seen += \"end\"; }\n",
        ),
    ];
    shows(&more, "<head>seen: end</head>");
}

#[test]
fn nothing_leaks_from_one_page_to_the_next() {
    let more = [
        ("truehook.toml", "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#count\"\n"),
        ("code/a.js", "let times = 0;\nexport function count() { times += 1; return `${times}/${Math.random()}`; }\n"),
    ];
    let stage = stage(&theme(&more));
    for _ in 0..3 {
        let rendered = stage.render("/").unwrap();
        assert!(rendered.html.contains("1/0."), "{}", rendered.html);
    }
    assert_eq!(stage.render("/").unwrap().html, stage.render("/").unwrap().html);
}

#[test]
fn whatever_a_module_tries_to_keep_is_gone_on_the_next_page() {
    // Each counts in another way; all of them would tell more than 1 if something was left.
    for code in [
        "let n = 0;\nexport const f = () => String(++n);",
        "const all = [];\nexport const f = () => String(all.push(1));",
        "const all = {};\nexport const f = () => { all.n = (all.n ?? 0) + 1; return String(all.n); };",
        "const all = { n: 0 };\nexport const f = () => { all.n += 1; return String(all.n); };",
        "const all = { n: 0 };\nexport const f = () => { all[\"n\"]++; return String(all.n); };",
        "const all = { n: 0 };\nexport const f = () => { [all.n] = [all.n + 1]; return String(all.n); };",
        "const all = { n: 0 };\nexport const f = () => { ({ n: all.n } = { n: all.n + 1 }); return String(all.n); };",
        "const all = { n: 0 };\nexport const f = () => { for (all.n of [all.n + 1]); return String(all.n); };",
        "const all = { n: 0 };\nconst add = (what) => { what.n += 1; };\nexport const f = () => { add(all); return String(all.n); };",
        "const all = [0];\nexport const f = () => { all.forEach((one, at, own) => { own[at] = one + 1; }); return String(all[0]); };",
        "const all = [0];\nexport const f = () => { all.map(function () { arguments[2][0] += 1; }); return String(all[0]); };",
        "const all = [0];\nexport const f = () => { const own = all.concat(0) && all; own[0] += 1; return String(own[0]); };",
        "export function f() { f.n = (f.n ?? 0) + 1; return String(f.n); }",
        "function g() {}\nexport const f = () => { g.n = (g.n ?? 0) + 1; return String(g.n); };",
        "function g() {}\nconst of = (what) => { what.n = (what.n ?? 0) + 1; return String(what.n); };\nexport const f = () => of(g);",
        "function g() {}\nexport const f = () => { const p = new g().constructor; p.n = (p.n ?? 0) + 1; return String(p.n); };",
        "function* g() {}\nexport const f = () => { const p = Object.getPrototypeOf(g()); p.n = (p.n ?? 0) + 1; return String(p.n); };",
        "class Count { static n = 0; }\nexport const f = () => String(++Count.n);",
        "const count = (() => { let n = 0; return () => ++n; })();\nexport const f = () => String(count());",
        "const known = new Map();\nexport const f = () => { known.set(known.size, 1); return String(known.size); };",
        "export const f = function g() { g.n = (g.n ?? 0) + 1; return String(g.n); };",
        "export const f = () => { import.meta.n = (import.meta.n ?? 0) + 1; return String(import.meta.n); };",
        "const word = /a/g;\nexport const f = () => { word.test(\"aaa\"); return String(word.lastIndex); };",
        "import { kept } from \"./b.js\";\nexport const f = () => String(kept.push(1));",
        "import * as b from \"./b.js\";\nexport const f = () => String(b.kept.push(1));",
        "import { count } from \"./b.js\";\nexport const f = () => String(count());",
        "import { plain } from \"./b.js\";\nexport const f = () => { plain.n = (plain.n ?? 0) + 1; return String(plain.n); };",
        "import { plain } from \"./c.js\";\nlet all = 0;\nexport const f = () => { plain.n = (plain.n ?? 0) + 1; all += 1; return String(plain.n); };",
        "export { count as f } from \"./b.js\";",
        "var n = 0;\nexport const f = () => String(++n);",
        "export let n = 0;\nexport const f = () => String(++n);",
    ] {
        let more = [
            ("truehook.toml", "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n"),
            ("code/a.js", code),
            (
                "code/b.js",
                "export const kept = [];\nlet n = 0;\nexport const count = () => String(++n);\nexport const plain = () => 1;\n",
            ),
            ("code/c.js", "export const plain = () => 1;\n"),
        ];
        let stage = stage(&theme(&more));
        for _ in 0..3 {
            let rendered = stage.render("/").unwrap();
            assert_eq!(rendered.failures, [], "{code}");
            assert!(rendered.html.ends_with('1'), "{code}\n{}", rendered.html);
        }
    }
}

#[test]
fn modules_that_keep_nothing_are_read_once_and_say_the_same_on_every_page() {
    let code = "import { html } from \"truehook\";\nimport { word } from \"./b.js\";\nconst MONTHS = [\"Jan\", \"Feb\"];\nconst SIGNS = { a: \"-\", b: \"+\" };\nconst twice = (text) => text + text;\n\
                export function f({ page }) { const all = MONTHS.map((month, at) => `${at}${month}`); return html`${twice(all.join(SIGNS.b))}${SIGNS[\"a\"]}${word(page.path)}${[...MONTHS].length}`; }\n";
    let more = [
        ("truehook.toml", "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n"),
        ("code/a.js", code),
        ("code/b.js", "export const word = (path) => `at ${path} `;\n"),
        ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\n"),
        ("preview/pages/b.toml", "path = \"/b/\"\ntype = \"page\"\ntitle = \"B\"\n"),
    ];
    let files = theme(&more);
    let registry = Registry::new(Project::open(&files, "/t/marsh".into()).unwrap());
    for file in ["code/a.js", "code/b.js"] {
        let file = registry.project().find(registry.project().top(), file).unwrap();
        assert!(registry.module(file).unwrap().keeps_nothing);
    }
    let stage = stage(&files);
    for _ in 0..2 {
        for path in ["/", "/b/"] {
            let html = stage.render(path).unwrap().html;
            assert!(html.ends_with(&format!("0Jan+1Feb0Jan+1Feb-at {path} 2")), "{html}");
        }
    }
}

#[test]
fn conditions_see_the_page_the_site_and_absent_keys() {
    let with = |when: &str| {
        let manifest = format!("[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\nwhen = \"{when}\"\n");
        let more = [
            ("truehook.toml", manifest.as_str()),
            ("code/a.js", "export const f = () => \"on\";\n"),
            ("preview/site.toml", "title = \"S\"\n[data]\nlevel = 3\nlist = [\"a\", \"b\"]\n"),
            ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\n"),
            ("preview/pages/b.toml", "path = \"/b/\"\ntype = \"page\"\ntitle = \"B\"\n[data]\nrare = true\n"),
        ];
        let rendered = front(&more);
        assert_eq!(rendered.failures, [], "{when}");
        rendered.html.ends_with("on")
    };
    for (when, on) in [
        ("page.type == 'front'", true),
        ("page.type != 'front'", false),
        ("site.data.level > 2 and site.data.level <= 3", true),
        ("'b' in site.data.list", true),
        ("'c' in site.data.list", false),
        ("page.type in ['front', 'list']", true),
        ("page.data.rare", false),
        ("not page.data.rare", true),
        ("page.data.rare == true or page.title == 'A'", true),
        ("page.summary", false),
        ("-1 < 0", true),
    ] {
        assert_eq!(with(when), on, "{when}");
    }
}

#[test]
fn filled_knows_what_will_show() {
    let more = [
        (
            "truehook.toml",
            "[region.a]\nlabel = \"A\"\n\n[region.b]\nlabel = \"B\"\n\n[region.c]\nlabel = \"C\"\n\n[hook.d]\nabout = \"D\"\n\n[hook.e]\nabout = \"E\"\n\n[partial.note]\nabout = \"N\"\n\n\
             [[attach]]\nto = \"region:c\"\ncall = \"a.js#none\"\n\n[[attach]]\nto = \"hook:d\"\ncall = \"a.js#f\"\nwhen = \"page.type == 'list'\"\n\n[[attach]]\nto = \"hook:e\"\nuse = \"partial:note\"\n",
        ),
        ("code/a.js", "export const none = () => [];\nexport const f = () => \"f\";\n"),
        ("markup/partials/note.html", "n"),
        (
            "preview/site.toml",
            "[fill]\n\"region:a\" = [ { use = \"partial:note\" } ]\n\"region:b\" = [ { use = \"partial:note\", when = \"page.type == 'list'\" } ]\n\"region:c\" = [ { use = \"partial:note\" } ]\n",
        ),
        page!(
            "[{{ filled(\"region:a\") }} {{ filled(\"region:b\") }} {{ filled(\"region:c\") }} {{ filled(\"hook:d\") }} {{ filled(\"hook:e\") }} {{ filled(\"region:aside\") }}]"
        ),
    ];
    shows(&more, "[true false false false true false]");
}

#[test]
fn preparers_prepare_partials_and_templates() {
    let more = [
        (
            "truehook.toml",
            "[partial.card]\ninputs.text = { type = \"string\", default = \"d\" }\ninputs.size = { type = \"integer\", default = 2 }\n\n[template.front]\ninputs.greeting = { type = \"string\", default = \"Hello\" }\n\n\
             [[attach]]\nto = \"partial:card\"\ncall = \"a.js#twice\"\n\n[[attach]]\nto = \"template:front\"\ncall = \"a.js#greet\"\n",
        ),
        (
            "code/a.js",
            "export const twice = (inputs, { point }) => ({ ...inputs, size: inputs.size * 2, text: inputs.text + point, extra: 1 });\nexport const greet = (inputs, { page }) => ({ greeting: `${inputs.greeting} ${page.type}` });\n",
        ),
        ("markup/partials/card.html", "<b>{{ text }} {{ size + 1 }}</b>"),
        page!("{{ greeting }}!{{ place(\"partial:card\", text=\"x\") }}"),
    ];
    shows(&more, "Hello front!<b>xpartial:card 5</b>");
}

#[test]
fn the_trace_tells_what_ran_in_which_order() {
    let more = [
        (
            "truehook.toml",
            "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#late\"\npriority = 60\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#early\"\npriority = 40\n\n\
             [[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#off\"\nwhen = \"page.type == 'list'\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#bad\"\n",
        ),
        (
            "code/a.js",
            "import { note } from \"truehook\";\nexport const late = () => \"late\";\nexport const early = ({ site }) => { note({ seen: site.title }); return \"early \"; };\nexport const off = () => \"off\";\nexport const bad = () => { throw new Error(\"x\"); };\n",
        ),
        page!("{{ note(page.title) }}"),
    ];
    let rendered = front(&more);
    let steps: Vec<(&str, StepState)> = rendered.trace.steps.iter().map(|step| (&*step.name, step.state)).collect();
    use StepState::{Failed, Off, Ran};
    assert_eq!(steps, [("a.js#early", Ran), ("a.js#off", Off), ("a.js#bad", Failed), ("a.js#late", Ran)]);
    assert!(rendered.html.ends_with("early late"), "{}", rendered.html);
    assert_eq!(rendered.trace.notes.len(), 2, "{:?}", rendered.trace.notes);
    let callbacks =
        rendered.tree.segments.iter().filter(|segment| matches!(&segment.origin, Origin::Callback(_))).count();
    assert_eq!(callbacks, 2);
    assert_eq!(rendered.tree.text(), rendered.html);
}

#[test]
fn components_nested_too_deep_are_cut_off() {
    let more = [
        ("truehook.toml", "[partial.box]\ninputs.depth = { type = \"integer\" }\n"),
        (
            "markup/partials/box.html",
            "({{ depth }}{% if depth < 50 %}{{ place(\"partial:box\", depth=depth + 1) }}{% endif %})",
        ),
        page!("{{ place(\"partial:box\", depth=1) }}"),
    ];
    let rendered = fails(&more, "nested more than 12 deep");
    assert!(rendered.html.contains("(12)") && !rendered.html.contains("(13"), "{}", rendered.html);
}

#[test]
fn a_flood_of_placements_ends() {
    let more = [
        (
            "truehook.toml",
            "[theme]\nname = \"marsh\"\nhost = { contract = \"../quay\" }\n\n[partial.dot]\nabout = \"A dot\"\n",
        ),
        (
            "../quay/truehook.toml",
            "[host]\nname = \"quay\"\n\n[limits]\nholes = 100\n\n[type.front]\nlabel = \"Front\"\n",
        ),
        ("markup/partials/dot.html", "."),
        ("markup/page.html", "{% for n in range(500) %}{{ place(\"partial:dot\") }}{% endfor %}"),
    ];
    let mut files = theme(&more);
    files.insert("/t/quay/truehook.toml", more[1].1);
    let rendered = stage(&files).render("/").unwrap();
    assert_eq!(rendered.html, ".".repeat(100));
    assert!(rendered.failures[0].message.contains("more than 100 placements"), "{:?}", rendered.failures);
}

#[test]
fn a_template_without_end_is_stopped() {
    let mut files = theme(&[
        ("truehook.toml", "[theme]\nname = \"marsh\"\nhost = { contract = \"../quay\" }\n"),
        ("markup/page.html", "{% for a in range(5000) %}{% for b in range(5000) %}x{% endfor %}{% endfor %}"),
    ]);
    files.insert(
        "/t/quay/truehook.toml",
        "[host]\nname = \"quay\"\n\n[limits]\ntemplate-steps = 10000\n\n[type.front]\nlabel = \"Front\"\n",
    );
    let rendered = stage(&files).render("/").unwrap();
    assert!(
        rendered.failures.iter().any(|failure| failure.message.contains("can't be rendered")),
        "{:?}",
        rendered.failures
    );
}

#[test]
fn one_broken_component_leaves_the_others() {
    let more = [
        (
            "truehook.toml",
            "[partial.bad]\nabout = \"B\"\n\n[partial.worse]\nabout = \"W\"\nrender = \"a.js#worse\"\n\n[partial.good]\nabout = \"G\"\n",
        ),
        ("markup/partials/bad.html", "before {{ 1 // 0 }} after"),
        ("markup/partials/good.html", "good"),
        ("code/a.js", "export function worse() { return { not: \"markup\" }; }\n"),
        page!("[{{ place(\"partial:bad\") }}|{{ place(\"partial:worse\") }}|{{ place(\"partial:good\") }}]"),
    ];
    let rendered = fails(&more, "returned object where markup or text belongs");
    assert!(rendered.html.contains("[||good]"), "{}", rendered.html);
    let bad = rendered.failures.iter().find(|failure| failure.point.as_deref() == Some("partial:bad")).unwrap();
    assert_eq!(bad.place.as_ref().map(|(file, line, _)| (file.as_str(), *line)), Some(("markup/partials/bad.html", 1)));
}

#[test]
fn what_is_not_there_prints_nothing_and_is_told() {
    for (text, message) in [
        ("{{ place(\"region:gone\") }}", "no layer declares it"),
        ("{{ 1 | through(\"filter:gone\") }}", "no such filter"),
        ("{{ filled(\"region:gone\") }}", "no layer declares it"),
        ("{{ place(\"filter:article-markup\") }}", "a filter can't be placed"),
        ("{{ gone }}", "`gone` is not there"),
        ("{{ site.titel }}", "did you mean `title`?"),
        ("{{ asset(\"media/gone.svg\") }}", "there is no file `media/gone.svg`"),
    ] {
        let template = format!("{{% extends \"layout.html\" %}}{{% block main %}}{text}<i>rest</i>{{% endblock %}}");
        let rendered = fails(&[("markup/front.html", &template)], message);
        assert!(rendered.html.contains("<i>rest</i>"), "{text}: {}", rendered.html);
    }
}

#[test]
fn modules_stay_inside_their_folder_and_clocks_stand_still() {
    let with = |code: &str| {
        let more = [
            ("truehook.toml", "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n"),
            ("code/lib/b.js", "export const b = \"b\";\nexport { c } from \"../c.js\";\n"),
            ("code/c.js", "export const c = \"c\";\n"),
            ("preview/site.toml", "title = \"S\"\nnow = 2026-03-01T06:10:00Z\n"),
            ("code/a.js", code),
        ];
        front(&more)
    };
    let good = with(
        "import { b, c } from \"./lib/b.js\";\nexport const f = () => `${b}${c} ${new Date().toISOString()} ${Date.now() === +new Date()} ${new Date(0).getTime()}`;\n",
    );
    assert_eq!(good.failures, []);
    assert!(good.html.ends_with("bc 2026-03-01T06:10:00.000Z true 0"), "{}", good.html);
    for code in [
        "import x from \"../../secret.js\";\nexport const f = () => x;\n",
        "import x from \"fs\";\nexport const f = () => x;\n",
        "import { gone } from \"truehook\";\nexport const f = () => gone;\n",
        "import { gone } from \"./lib/b.js\";\nexport const f = () => gone;\n",
        "import { f as g } from \"./a.js\";\nimport \"./gone.js\";\nexport const f = () => g;\n",
        "await new Promise(() => {});\nexport const f = () => \"late\";\n",
        "for (;;) {}\nexport const f = () => \"late\";\n",
        "export const f = () => new Function(\"return 1\")();\n",
        "export const f = () => (() => {}).constructor(\"return 1\")();\n",
        "export const f = () => performance.now();\n",
    ] {
        let rendered = with(code);
        assert_eq!(rendered.failures.len(), 1, "{code}: {:?}", rendered.failures);
        assert!(rendered.html.contains("<main></main>"), "{code}");
    }
}

#[test]
fn what_goes_in_is_frozen_all_the_way_down() {
    let with = |body: &str| {
        let code = format!("export function f({{ page, site, args }}) {{ {body}; return \"done\"; }}\n");
        front(&[
            (
                "truehook.toml",
                "[hook.note]\nabout = \"N\"\nargs.list = { type = \"array\" }\n\n[[attach]]\nto = \"hook:note\"\ncall = \"a.js#f\"\n",
            ),
            ("code/a.js", code.as_str()),
            ("preview/site.toml", "title = \"S\"\n[data]\ndeep.list = [{ a = 1 }]\n"),
            page!("{{ place(\"hook:note\", list=[1, [2]]) }}"),
        ])
    };
    for body in [
        "page.title = \"x\"",
        "site.data.deep.list.push(1)",
        "site.data.deep.list[0].a = 2",
        "args.list[1][0] = 3",
        "args.more = 1",
    ] {
        let rendered = with(body);
        assert!(
            rendered.failures.iter().any(|failure| failure.message.contains("TypeError")),
            "{body}: {:?}",
            rendered.failures
        );
    }
    assert_eq!(with("JSON.stringify(args)").failures, []);
}

#[test]
fn a_placement_that_is_processed_further_is_lost_and_told() {
    for text in [
        "{{ place(\"region:main\") | upper }}",
        "{% filter replace(\":\", \";\") %}{{ place(\"region:main\") }}{% endfilter %}",
    ] {
        let rendered = fails(&[("markup/front.html", &format!("a{text}b"))], "is lost");
        assert_eq!(rendered.html, "ab", "{text}");
    }
}

#[test]
fn numbers_that_can_not_pass_exactly_fail() {
    let more = |value: &'static str| {
        [
            ("truehook.toml", "[filter.same]\nabout = \"S\"\n\n[[attach]]\nto = \"filter:same\"\ncall = \"a.js#f\"\n"),
            ("code/a.js", "export const f = (value) => value;\n"),
            ("markup/front.html", value),
        ]
    };
    shows(&more("{{ 9007199254740992 | through(\"filter:same\") }}"), "9007199254740992");
    let rendered = fails(&more("{{ 9007199254740993 | through(\"filter:same\") }}"), "too large to pass on exactly");
    assert!(rendered.html.contains("9007199254740993"));
}
