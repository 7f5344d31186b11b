//! The same break in other places than a rule's own example has it: each is told by its rule, where it stands,
//! and nothing else is told beside it.

use truehook_core::rules::{self, Example, Level};
use truehook_core::source::LineIndex;

/// All errors and warnings, as `rule file:line`.
fn told(files: &'static [(&'static str, &'static str)]) -> Vec<String> {
    let registry = Example(files).registry().unwrap();
    let mut found: Vec<String> = rules::check(&registry)
        .findings
        .iter()
        .filter(|finding| finding.level > Level::Note)
        .map(|finding| {
            let place = &finding.places[0];
            let line = LineIndex::new(registry.project().file(place.file).text()).position(place.span.start).0;
            format!("{} {}:{line}", finding.rule, registry.project().shown(place.file))
        })
        .collect();
    found.sort();
    found
}

#[track_caller]
pub fn breaks(files: &'static [(&'static str, &'static str)], wanted: &[&str]) {
    assert_eq!(told(files), wanted);
}

/// A page with something below its text, on its third line.
macro_rules! page {
    ($text:literal) => {
        (
            "markup/page.html",
            concat!("{% extends \"layout.html\" %}\n{% block main %}{{ super() }}\n", $text, "\n{% endblock %}\n"),
        )
    };
}

macro_rules! manifest {
    ($text:literal) => {
        ("truehook.toml", $text)
    };
}

// A manifest comes after the four lines of `[theme]` and a blank one: its first line is the sixth.

#[test]
fn a_point_that_nobody_declares() {
    for (files, wanted) in [
        (&[page!("{{ place(\"region:kiosk\") }}")] as &'static [_], "undeclared-point markup/page.html:3"),
        (&[page!("{{ place(\"area:kiosk\") }}")], "undeclared-point markup/page.html:3"),
        (&[page!("{{ place(\"menu:kiosk\") }}")], "undeclared-point markup/page.html:3"),
        (&[page!("{{ place(\"hook:kiosk\") }}")], "undeclared-point markup/page.html:3"),
        (&[page!("{{ place(\"partial:kiosk\") }}")], "undeclared-point markup/page.html:3"),
        (&[page!("{{ page.title | through(\"filter:kiosk\") }}")], "undeclared-point markup/page.html:3"),
        (&[page!("{% if filled(\"region:kiosk\") %}x{% endif %}")], "undeclared-point markup/page.html:3"),
        (&[page!("{% if enabled(\"feature:kiosk\") %}x{% endif %}")], "unknown-feature markup/page.html:3"),
        (&[page!("<p title=\"{{ place('hook:kiosk') }}\">x</p>")], "undeclared-point markup/page.html:3"),
        (
            &[page!("{% macro m() %}{{ place('hook:kiosk') }}{% endmacro %}{{ m() }}")],
            "undeclared-point markup/page.html:3",
        ),
        (&[manifest!("[[attach]]\nto = \"hook:kiosk\"\nuse = \"partial:link\"\n")], "undeclared-point truehook.toml:7"),
        (&[("preview/site.toml", "[fill]\n\"region:kiosk\" = []\n")], "fill-target preview/site.toml:2"),
    ] {
        breaks(files, &[wanted]);
    }
}

#[test]
fn a_callback_that_is_not_there() {
    for (files, wanted) in [
        (
            &[manifest!("[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n")] as &'static [_],
            "missing-callback truehook.toml:8",
        ),
        (
            &[
                manifest!(
                    "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#g\"\n"
                ),
                ("code/a.js", "export const g = () => \"\";\n"),
            ],
            "missing-callback truehook.toml:8",
        ),
        (
            &[
                manifest!("[partial.card]\nrender = \"a.js#card\"\n"),
                page!("{{ place(\"partial:card\") }}"),
                ("code/a.js", "const card = () => \"\";\n"),
            ],
            "missing-callback truehook.toml:7",
        ),
        (
            &[
                manifest!("[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n"),
                ("code/a.js", "export { f } from \"./b.js\";\n"),
            ],
            "missing-import code/a.js:1",
        ),
        (
            &[
                manifest!("[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n"),
                ("code/a.js", "import { g } from \"./b.js\";\nexport const f = () => g();\n"),
                ("code/b.js", "export const h = () => \"\";\n"),
            ],
            "missing-import code/a.js:1",
        ),
    ] {
        breaks(files, &[wanted]);
    }
}

#[test]
fn what_is_exported_and_never_attached() {
    breaks(
        &[("code/a.js", "export function f() { return \"\"; }\nexport const g = () => \"\";\n")],
        &["idle-callback code/a.js:1", "idle-callback code/a.js:2"],
    );
    breaks(
        &[
            manifest!("[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n"),
            ("code/a.js", "export const f = () => \"\";\nexport const spare = () => \"\";\n"),
        ],
        &["idle-callback code/a.js:2"],
    );
}

#[test]
fn a_variable_that_is_not_there() {
    for (files, wanted) in [
        (&[page!("{{ page.tite }}")] as &'static [_], "unknown-variable markup/page.html:3"),
        (&[page!("{{ site.mottto }}")], "unknown-variable markup/page.html:3"),
        (&[page!("{{ theme.nmae }}")], "unknown-variable markup/page.html:3"),
        (&[page!("{{ options.colour }}")], "unknown-variable markup/page.html:3"),
        (&[page!("{{ pgae.title }}")], "unknown-variable markup/page.html:3"),
        (&[page!("{% for e in page.data.list %}{{ el }}{% endfor %}")], "unknown-variable markup/page.html:3"),
        (&[page!("{% set a = 1 %}{% if b %}x{% endif %}{{ a }}")], "unknown-variable markup/page.html:3"),
        (&[page!("{% macro m(x) %}{{ y }}{{ x }}{% endmacro %}{{ m(1) }}")], "unknown-variable markup/page.html:3"),
        (
            &[
                manifest!("[partial.card]\ninputs.text = { type = \"string\", default = \"\" }\n"),
                ("markup/partials/card.html", "\n{{ text }}{{ txt }}\n"),
                page!("{{ place(\"partial:card\") }}"),
            ],
            "unknown-variable markup/partials/card.html:2",
        ),
    ] {
        breaks(files, &[wanted]);
    }
}

#[test]
fn what_is_passed_on_and_not_taken() {
    for (files, wanted) in [
        (
            &[
                manifest!("[partial.card]\ninputs.text = { type = \"string\", default = \"\" }\n"),
                ("markup/partials/card.html", "{{ text }}\n"),
                page!("{{ place(\"partial:card\", txet=\"a\") }}"),
            ] as &'static [_],
            "unknown-argument markup/page.html:3",
        ),
        (
            &[
                manifest!("[hook.mid]\nabout = \"M\"\nargs.low = { type = \"string\", default = \"\" }\n"),
                page!("{{ place(\"hook:mid\", high=\"a\") }}"),
            ],
            "unknown-argument markup/page.html:3",
        ),
        (
            &[
                manifest!("[hook.mid]\nabout = \"M\"\nargs.low = { type = \"string\" }\n"),
                page!("{{ place(\"hook:mid\") }}"),
            ],
            "missing-argument markup/page.html:3",
        ),
        (
            &[
                manifest!("[partial.card]\ninputs.text = { type = \"string\" }\n"),
                ("markup/partials/card.html", "{{ text }}\n"),
                ("preview/site.toml", "[fill]\n\"region:main\" = [\n  { use = \"partial:card\" },\n]\n"),
            ],
            "missing-argument preview/site.toml:3",
        ),
        (
            &[
                manifest!("[partial.card]\ninputs.size = { type = \"integer\", default = 1, maximum = 3 }\n"),
                ("markup/partials/card.html", "{{ size }}\n"),
                ("preview/site.toml", "[fill]\n\"region:main\" = [ { use = \"partial:card\", size = 4 } ]\n"),
            ],
            "input-value preview/site.toml:2",
        ),
        (
            &[
                manifest!("[partial.card]\ninputs.size = { type = \"integer\", default = 1 }\n"),
                ("markup/partials/card.html", "{{ size }}\n"),
                ("preview/site.toml", "[fill]\n\"region:main\" = [ { use = \"partial:card\", sice = 4 } ]\n"),
            ],
            "unknown-input preview/site.toml:2",
        ),
        (
            &[
                manifest!("[option.mood]\nlabel = \"M\"\nenum = [\"a\", \"b\"]\ndefault = \"a\"\n"),
                page!("{{ options.mood }}"),
                ("preview/site.toml", "[options]\nmood = \"c\"\n"),
            ],
            "input-value preview/site.toml:2",
        ),
    ] {
        breaks(files, &[wanted]);
    }
}

#[test]
fn a_point_that_no_page_shows() {
    for (files, wanted) in [
        (&[manifest!("[region.kiosk]\nlabel = \"K\"\n")] as &'static [_], "unplaced-point truehook.toml:6"),
        (&[manifest!("[area.kiosk]\nlabel = \"K\"\n")], "unplaced-point truehook.toml:6"),
        (&[manifest!("[menu.kiosk]\nlabel = \"K\"\n")], "unplaced-point truehook.toml:6"),
        (&[manifest!("[hook.kiosk]\nabout = \"K\"\n")], "unplaced-point truehook.toml:6"),
        (
            &[manifest!("[region.kiosk]\nlabel = \"K\"\n"), page!("{# {{ place('region:kiosk') }} #}")],
            "unplaced-point truehook.toml:6",
        ),
        (
            &[manifest!("[region.kiosk]\nlabel = \"K\"\n"), page!("{% raw %}{{ place('region:kiosk') }}{% endraw %}")],
            "unplaced-point truehook.toml:6",
        ),
    ] {
        breaks(files, &[wanted]);
    }
    // Placed where no page gets to: the template is told, and the placement, not the point.
    breaks(
        &[manifest!("[region.kiosk]\nlabel = \"K\"\n"), ("markup/spare.html", "{{ place(\"region:kiosk\") }}\n")],
        &["unreached-template markup/spare.html:1"],
    );
}

#[test]
fn conditions_that_never_hold_or_ask_for_what_is_not_there() {
    for (files, wanted) in [
        (
            &[manifest!(
                "[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:search-box\"\nwhen = \"page.type == 'fornt'\"\n"
            )] as &'static [_],
            "condition-constant truehook.toml:9",
        ),
        (
            &[manifest!(
                "[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:search-box\"\nwhen = \"page.typ == 'front'\"\n"
            )],
            "condition-name truehook.toml:9",
        ),
        (
            &[manifest!(
                "[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:search-box\"\nwhen = \"options.mood\"\n"
            )],
            "condition-name truehook.toml:9",
        ),
        (
            &[manifest!(
                "[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:search-box\"\nwhen = \"page.title ~ 'x'\"\n"
            )],
            "condition-syntax truehook.toml:9",
        ),
        (
            &[
                manifest!("[style.marsh]\nfile = \"a.css\"\nwhen = \"page.type ==\"\n"),
                ("media/a.css", "p { color: red; }\n"),
            ],
            "condition-syntax truehook.toml:8",
        ),
        (
            &[(
                "preview/site.toml",
                "[fill]\n\"region:main\" = [ { use = \"partial:search-box\", when = \"page.typ\" } ]\n",
            )],
            "condition-name preview/site.toml:2",
        ),
        (
            &[manifest!(
                "[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:search-box\"\nwhen = \"enabled('feature:kiosk')\"\n"
            )],
            "unknown-feature truehook.toml:9",
        ),
    ] {
        breaks(files, &[wanted]);
    }
}

#[test]
fn templates_and_files_that_lead_nowhere() {
    for (files, wanted) in [
        (&[page!("{% include \"none.html\" %}")] as &'static [_], "missing-file markup/page.html:3"),
        (&[page!("{% import \"none.html\" as m %}{{ m.x() }}")], "missing-file markup/page.html:3"),
        (&[("markup/page.html", "{% extends \"laoyut.html\" %}\n")], "missing-file markup/page.html:1"),
        (&[page!("<img src=\"{{ asset('media/none.svg') }}\" alt=\"\">")], "missing-file markup/page.html:3"),
        (&[manifest!("[style.marsh]\nfile = \"none.css\"\n")], "missing-file truehook.toml:7"),
        (&[manifest!("[script.marsh]\nfile = \"none.js\"\n")], "missing-file truehook.toml:7"),
        (
            &[manifest!("[style.marsh]\nfile = \"a.css\"\n"), ("media/a.css", "@import \"none.css\";\n")],
            "broken-address media/a.css:1",
        ),
        (
            &[manifest!("[style.marsh]\nfile = \"a.css\"\n"), ("media/a.css", "\np { background: url(none.svg); }\n")],
            "broken-address media/a.css:2",
        ),
        (
            &[("preview/pages/a.toml", "path = \"/a/\"\ntype = \"page\"\ntitle = \"A\"\nbody = \"none.md\"\n")],
            "missing-file preview/pages/a.toml:4",
        ),
        (&[page!("{% include \"../../x.html\" %}")], "outside-theme markup/page.html:3"),
        (&[manifest!("[style.marsh]\nfile = \"../a.css\"\n")], "outside-theme truehook.toml:7"),
    ] {
        breaks(files, &[wanted]);
    }
}

#[test]
fn the_order_of_callbacks() {
    const CODE: (&str, &str) =
        ("code/a.js", "export const f = () => \"\";\nexport const g = () => \"\";\nexport const h = () => \"\";\n");
    breaks(
        &[
            manifest!(
                "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\nbefore = [\"a.js#g\"]\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#g\"\nbefore = [\"a.js#h\"]\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#h\"\nbefore = [\"a.js#f\"]\n"
            ),
            CODE,
        ],
        &["order-cycle truehook.toml:9"],
    );
    breaks(
        &[
            manifest!(
                "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\nafter = [\"a.js#f\"]\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#g\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#h\"\n"
            ),
            CODE,
        ],
        &["order-cycle truehook.toml:9"],
    );
    breaks(
        &[
            manifest!(
                "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\nafter = [\"a.js#gg\"]\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#g\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#h\"\n"
            ),
            CODE,
        ],
        &["order-target truehook.toml:9"],
    );
    breaks(
        &[
            manifest!(
                "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\npriority = -1\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#g\"\npriority = 101\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#h\"\npriority = 100\n"
            ),
            CODE,
        ],
        &["priority-range truehook.toml:14", "priority-range truehook.toml:9"],
    );
    breaks(
        &[
            manifest!(
                "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\npriority = 10\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#g\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#h\"\n"
            ),
            CODE,
        ],
        &["doubled-attachment truehook.toml:10"],
    );
}

#[test]
fn what_may_be_attached_where() {
    for (files, wanted) in [
        (
            &[manifest!("[[attach]]\nto = \"feature:pictures\"\nuse = \"partial:link\"\n")] as &'static [_],
            "attach-kind truehook.toml:6",
        ),
        (
            &[manifest!("[[attach]]\nto = \"region:main\"\nuse = \"partial:search-box\"\n")],
            "attach-kind truehook.toml:6",
        ),
        (
            &[
                manifest!(
                    "[filter.word]\nabout = \"W\"\n\n[[attach]]\nto = \"filter:word\"\nuse = \"partial:search-box\"\n"
                ),
                page!("{{ 'a' | through('filter:word') }}"),
            ],
            "attach-kind truehook.toml:9",
        ),
    ] {
        breaks(files, &[wanted]);
    }
}

#[test]
fn callbacks_that_do_not_fit() {
    const TIED: (&str, &str) = manifest!(
        "[filter.word]\nabout = \"W\"\nvalue = { type = \"string\" }\n\n[[attach]]\nto = \"filter:word\"\ncall = \"a.js#f\"\n"
    );
    const SENT: (&str, &str) = page!("{{ 'a' | through('filter:word') }}");
    breaks(
        &[TIED, SENT, ("code/a.js", "export function f(value) { if (value) { return value; } }\n")],
        &["returns-nothing code/a.js:1"],
    );
    breaks(
        &[TIED, SENT, ("code/a.js", "export const f = (value) => { value.trim(); };\n")],
        &["returns-nothing code/a.js:1"],
    );
    breaks(
        &[TIED, SENT, ("code/a.js", "export const f = (value, { pgae }) => value + pgae;\n")],
        &["unknown-property code/a.js:1"],
    );
    breaks(
        &[TIED, SENT, ("code/a.js", "export const f = (value, context, more) => value + more;\n")],
        &["unfit-signature code/a.js:1"],
    );
    breaks(
        &[
            TIED,
            SENT,
            (
                "code/a.js",
                "import { note } from \"truehook\";\nexport const f = (value) => {\n  note(value);\n  return value;\n};\n",
            ),
        ],
        &["left-over-note code/a.js:3"],
    );
    breaks(&[TIED, SENT, ("code/a.js", "export const f = (value) => value +;\n")], &["code-syntax code/a.js:1"]);
    breaks(&[TIED, SENT, ("code/a.js", "export const f = (value) => value;\n")], &[]);
}

#[test]
fn circles() {
    breaks(
        &[("markup/page.html", "{% extends \"page.html\" %}\n")],
        &["template-cycle markup/page.html:1", "unreached-template markup/layout.html:1"],
    );
    breaks(
        &[
            page!("{% include \"a.html\" %}"),
            ("markup/a.html", "{% include \"b.html\" %}\n"),
            ("markup/b.html", "{% include \"a.html\" %}\n"),
        ],
        &["template-cycle markup/b.html:1"],
    );
    breaks(
        &[
            manifest!("[partial.a]\nabout = \"A\"\n\n[partial.b]\nabout = \"B\"\n"),
            ("markup/partials/a.html", "{{ place(\"partial:b\") }}\n"),
            ("markup/partials/b.html", "{{ place(\"partial:a\") }}\n"),
            page!("{{ place(\"partial:a\") }}"),
        ],
        &["placement-cycle markup/partials/a.html:1"],
    );
    breaks(
        &[
            manifest!(
                "[script.a]\nfile = \"a.js\"\nneeds = [\"script:b\"]\n\n[script.b]\nfile = \"b.js\"\nneeds = [\"script:a\"]\n"
            ),
            ("media/a.js", "let a = 1;\n"),
            ("media/b.js", "let b = 1;\n"),
        ],
        &["asset-cycle truehook.toml:12"],
    );
}

#[test]
fn layers_above_others() {
    const BASE: (&str, &str) = (
        "../reed/truehook.toml",
        "[theme]\nname = \"reed\"\nlabel = \"Reed\"\nversion = \"1.0.0\"\nopen = true\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#g\"\nsealed = true\n",
    );
    const CODE: (&str, &str) = ("../reed/code/a.js", "export const f = () => \"\";\nexport const g = () => \"\";\n");
    macro_rules! above {
        ($text:literal) => {
            ("truehook.toml", concat!("[theme]\nname = \"example\"\nlabel = \"E\"\nversion = \"1.0.0\"\nbase = { path = \"../reed\" }\n\n", $text))
        };
    }
    breaks(&[BASE, CODE, above!("[[detach]]\nfrom = \"hook:document-end\"\ncall = \"reed:a.js#f\"\n")], &[]);
    breaks(
        &[BASE, CODE, above!("[[detach]]\nfrom = \"hook:document-end\"\ncall = \"reed:a.js#ff\"\n")],
        &["detach-target truehook.toml:9"],
    );
    breaks(
        &[BASE, CODE, above!("[[detach]]\nfrom = \"hook:document-end\"\ncall = \"reed:a.js#g\"\n")],
        &["sealed-callback truehook.toml:7"],
    );
    breaks(
        &[
            BASE,
            CODE,
            above!("[[replace]]\ncall = \"reed:a.js#x\"\nwith = \"b.js#h\"\n"),
            ("code/b.js", "export const h = () => \"\";\n"),
        ],
        &["replace-target truehook.toml:8"],
    );
    breaks(
        &[
            BASE,
            CODE,
            above!("[[replace]]\ncall = \"reed:a.js#g\"\nwith = \"b.js#h\"\n"),
            ("code/b.js", "export const h = () => \"\";\n"),
        ],
        &["sealed-callback truehook.toml:7"],
    );
    breaks(
        &[BASE, CODE, above!("[region.aside]\ndropped = true\n"), page!("{{ place(\"region:aside\") }}")],
        &["dropped-in-use markup/page.html:3"],
    );
    breaks(&[above!("")], &["base-missing truehook.toml:5"]);
    breaks(
        &[
            (
                "truehook.toml",
                "[theme]\nname = \"example\"\nlabel = \"E\"\nversion = \"1.0.0\"\nbase = { path = \"../reed\", version = \"^3\" }\n",
            ),
            BASE,
            CODE,
        ],
        &["base-version truehook.toml:5"],
    );
}

#[test]
fn what_the_site_brings() {
    for (files, wanted) in [
        (
            &[("preview/site.toml", "[fill]\n\"hook:document-end\" = []\n")] as &'static [_],
            "fill-target preview/site.toml:2",
        ),
        (
            &[
                manifest!("[menu.top]\nlabel = \"T\"\n"),
                page!("{{ place(\"menu:top\") }}"),
                ("preview/site.toml", "[fill]\n\"menu:top\" = \"mian\"\n\n[menus]\nmain = []\n"),
            ],
            "menu-unfilled preview/site.toml:2",
        ),
        (
            &[("preview/site.toml", "[fill]\n\"region:main\" = \"main\"\n\n[menus]\nmain = []\n")],
            "fill-kind preview/site.toml:2",
        ),
        (
            &[("preview/pages/a.toml", "path = \"/a/\"\ntype = \"pgae\"\ntitle = \"A\"\n")],
            "page-template preview/pages/a.toml:2",
        ),
        (
            &[("preview/site.toml", "[fill]\n\"region:main\" = [ { use = \"partial:serach-box\" } ]\n")],
            "undeclared-point preview/site.toml:2",
        ),
        (&[("preview/site.toml", "titel = \"A\"\n")], "unknown-key preview/site.toml:1"),
        (&[("preview/site.toml", "title = \n")], "manifest-syntax preview/site.toml:1"),
    ] {
        breaks(files, &[wanted]);
    }
}

#[test]
fn names_and_tables_that_can_not_be() {
    for (files, wanted) in [
        (&[manifest!("[region.Kiosk]\nlabel = \"K\"\n")] as &'static [_], "bad-name truehook.toml:6"),
        (
            &[manifest!("[option.two-words]\nlabel = \"K\"\ntype = \"string\"\ndefault = \"\"\n")],
            "bad-name truehook.toml:6",
        ),
        (&[manifest!("[region.main]\nlabel = 3\n")], "manifest-syntax truehook.toml:7"),
        (&[manifest!("[regoin.kiosk]\nlabel = \"K\"\n")], "unknown-key truehook.toml:6"),
        (&[manifest!("[region.main]\nlable = \"K\"\n")], "unknown-key truehook.toml:7"),
        (
            &[manifest!("[option.mood]\nlabel = \"M\"\ntype = \"string\"\n"), page!("{{ options.mood }}")],
            "option-default truehook.toml:6",
        ),
        (
            &[
                manifest!("[option.mood]\nlabel = \"M\"\nenum = [\"a\"]\ndefault = \"b\"\n"),
                page!("{{ options.mood }}"),
            ],
            "option-default truehook.toml:9",
        ),
        (&[page!("{{ place(page.title) }}")], "dynamic-point markup/page.html:3"),
        (&[page!("{{ page.title | uper }}")], "markup-syntax markup/page.html:3"),
        (&[page!("{% if page.title %}")], "markup-syntax markup/page.html:4"),
    ] {
        breaks(files, &[wanted]);
    }
}

#[test]
fn values_written_out_in_templates_and_callbacks() {
    const CARD: (&str, &str) = manifest!(
        "[partial.card]\ninputs.size = { type = \"integer\", default = 1, maximum = 3 }\ninputs.mood = { enum = [\"calm\", \"wild\"], default = \"calm\" }\ninputs.tags = { type = \"array\", items = { type = \"string\" }, default = [] }\n\n\
         [hook.mid]\nabout = \"M\"\nargs.low = { type = \"string\", default = \"\", maxLength = 5 }\n\n[filter.word]\nabout = \"W\"\nargs.count = { type = \"integer\", default = 1 }\n\n\
         [[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n"
    );
    const SHOWN: (&str, &str) = ("markup/partials/card.html", "{{ size }}{{ mood }}{{ tags }}\n");
    const CODE: (&str, &str) = (
        "code/a.js",
        "import { place, through } from \"truehook\";\nexport const f = () => place(\"partial:card\", { size: 2, mood: `calm`, tags: [\"a\"] });\nexport const g = () => through(\"filter:word\", \"a\", { count: 2 });\n",
    );
    macro_rules! with {
        ($text:literal) => {
            [CARD, SHOWN, CODE, page!($text)]
        };
    }
    const FITS: [(&str, &str); 4] = with!(
        "{{ place('hook:mid', low='13:42') }}{{ 'a' | through('filter:word', count=1) }}{{ place('partial:card', size=3, mood='wild', tags=['a', 'b']) }}{{ place('partial:card', size=page.data.size, tags=[page.title]) }}"
    );
    const IDLE: &str = "idle-callback code/a.js:3";
    breaks(&FITS, &[IDLE]);
    const SIZE: [(&str, &str); 4] =
        with!("{{ place('hook:mid') }}{{ 'a' | through('filter:word') }}{{ place('partial:card', size='big') }}");
    breaks(&SIZE, &[IDLE, "input-value markup/page.html:3"]);
    const MOST: [(&str, &str); 4] =
        with!("{{ place('hook:mid') }}{{ 'a' | through('filter:word') }}{{ place('partial:card', size=4) }}");
    breaks(&MOST, &[IDLE, "input-value markup/page.html:3"]);
    const MOOD: [(&str, &str); 4] =
        with!("{{ place('hook:mid') }}{{ 'a' | through('filter:word') }}{{ place('partial:card', mood='wlid') }}");
    breaks(&MOOD, &[IDLE, "input-value markup/page.html:3"]);
    const TAGS: [(&str, &str); 4] =
        with!("{{ place('hook:mid') }}{{ 'a' | through('filter:word') }}{{ place('partial:card', tags=['a', 1]) }}");
    breaks(&TAGS, &[IDLE, "input-value markup/page.html:3"]);
    const LOW: [(&str, &str); 4] =
        with!("{{ place('hook:mid', low='13:42:00') }}{{ 'a' | through('filter:word', count='two') }}");
    breaks(&LOW, &[IDLE, "input-value markup/page.html:3", "input-value markup/page.html:3"]);
    const SENT: (&str, &str) = manifest!(
        "[filter.height]\nabout = \"H\"\nvalue = { type = \"number\", minimum = 0 }\n\n[[attach]]\nto = \"filter:height\"\ncall = \"a.js#f\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#g\"\n"
    );
    const THROUGH: (&str, &str) = (
        "code/a.js",
        "import { through } from \"truehook\";\nexport const f = (value) => value;\nexport const g = () => `${through(\"filter:height\", \"3.9\")}`;\n",
    );
    breaks(
        &[SENT, THROUGH, page!("{{ 3.9 | through('filter:height') }}{{ page.title | through('filter:height') }}")],
        &["input-value code/a.js:3"],
    );
    breaks(
        &[SENT, THROUGH, page!("{{ '3.9' | through('filter:height') }}{{ (-1) | through('filter:height') }}")],
        &["input-value code/a.js:3", "input-value markup/page.html:3", "input-value markup/page.html:3"],
    );
    const PAGE: (&str, &str) = page!("{{ place('hook:mid') }}{{ 'a' | through('filter:word') }}");
    for (code, line) in [
        ("import { place } from \"truehook\";\nexport const f = () => place(\"partial:card\", { size: -1.5 });\n", 2),
        (
            "import { place } from \"truehook\";\nexport const f = () =>\n  place(\"partial:card\", { mood: \"wlid\" });\n",
            3,
        ),
        (
            "import { place } from \"truehook\";\nexport const f = () => place(\"partial:card\", { tags: [\"a\", { b: null }] });\n",
            2,
        ),
        (
            "import { through } from \"truehook\";\nexport const f = () => through(\"filter:word\", \"a\", { count: true });\n",
            2,
        ),
    ] {
        let files: &'static [(&str, &str)] = vec![CARD, SHOWN, PAGE, ("code/a.js", code)].leak();
        let mut found = told(files);
        // What only the callback placed is not placed by every one of these.
        found.retain(|told| !told.starts_with("unplaced"));
        assert_eq!(found, [format!("input-value code/a.js:{line}")], "{code}");
    }
}
