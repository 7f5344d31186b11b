//! What pages show of templates that extend, include and override each other: what is lost on the way, what is on
//! a page twice, and what only pages of other types have.

use super::breaks::breaks;

macro_rules! manifest {
    ($text:literal) => {
        ("truehook.toml", $text)
    };
}

#[test]
fn what_no_page_shows_of_a_template_that_extends() {
    const LAYOUT: (&str, &str) = (
        "markup/layout.html",
        "<!doctype html>\n<html lang=\"en\"><head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head><body>\n{% block main %}<main>{{ place(\"region:main\") }}</main>{% endblock %}\n{% block beside %}{% endblock %}\n{{ place(\"hook:document-end\") }}</body></html>\n",
    );
    // A block under another name, whatever stands in it, is one mistake.
    breaks(
        &[LAYOUT, ("markup/page.html", "{% extends \"layout.html\" %}\n{% block besid %}x{% endblock %}\n")],
        &["lost-block markup/page.html:2"],
    );
    breaks(
        &[
            LAYOUT,
            manifest!("[region.aside]\nlabel = \"A\"\n"),
            (
                "markup/page.html",
                "{% extends \"layout.html\" %}\n{% block kiosk %}{{ place(\"region:aside\") }}{% endblock %}\n",
            ),
        ],
        &["lost-block markup/page.html:2"],
    );
    // Blocks inside of blocks are there for others to fill.
    breaks(
        &[
            LAYOUT,
            (
                "markup/page.html",
                "{% extends \"layout.html\" %}\n{% block beside %}{% block inner %}x{% endblock %}{% endblock %}\n",
            ),
        ],
        &[],
    );
    for outside in
        ["<p>x</p>", "{{ page.title }}", "{% if page.title %}x{% endif %}", "{{ place(\"hook:document-end\") }}"]
    {
        let page = format!("{{% extends \"layout.html\" %}}\n{{% block beside %}}x{{% endblock %}}\n{outside}\n");
        assert_eq!(
            super::restraint::told(&[(LAYOUT.0, LAYOUT.1.into()), ("markup/page.html", page)]),
            ["lost-block"],
            "{outside}"
        );
    }
    for fine in [
        "{% set x = 1 %}",
        "{# note #}",
        "{% macro m() %}x{% endmacro %}",
        "{% set x %}<p>y</p>{% endset %}",
        "{% import \"parts.html\" as parts %}",
    ] {
        let page = format!("{{% extends \"layout.html\" %}}\n{fine}\n{{% block beside %}}x{{% endblock %}}\n");
        let parts = ("markup/parts.html", "{% macro p() %}x{% endmacro %}".to_string());
        let files = [(LAYOUT.0, LAYOUT.1.into()), ("markup/page.html", page), parts];
        let files = if fine.contains("import") { &files[..] } else { &files[..2] };
        assert_eq!(super::restraint::told(files), [""; 0], "{fine}");
    }
    // What stands before it shows.
    let before = "<!-- x -->{% extends \"layout.html\" %}\n".to_string();
    assert_eq!(super::restraint::told(&[(LAYOUT.0, LAYOUT.1.into()), ("markup/page.html", before)]), [""; 0]);
}

#[test]
fn what_is_on_one_page_twice() {
    const ASIDE: &str = "{{ place(\"region:aside\") }}";
    let told = |page: &str, layout: &str, partial: &str, code: &str| {
        let attached =
            if code.is_empty() { "" } else { "\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n" };
        let page =
            format!("{{% extends \"layout.html\" %}}\n{{% block main %}}{{{{ super() }}}}{page}{{% endblock %}}\n");
        let layout = format!(
            "<!doctype html>\n<html lang=\"en\"><head><title>{{{{ page.title }}}}</title>{{{{ place(\"hook:document-head\") }}}}</head><body>\n{{% block main %}}<main>{{{{ place(\"region:main\") }}}}</main>{layout}{{% endblock %}}\n{{{{ place(\"hook:document-end\") }}}}</body></html>\n"
        );
        let mut files = vec![
            (
                "truehook.toml",
                format!(
                    "[region.aside]\nlabel = \"A\"\n\n[partial.box]\nabout = \"B\"\n\n[option.wide]\nlabel = \"W\"\ntype = \"boolean\"\ndefault = false\n{attached}"
                ),
            ),
            ("markup/page.html", format!("{page}{{# {{ options.wide }} #}}")),
            ("markup/layout.html", layout),
            ("markup/partials/box.html", format!("<div>{partial}</div>\n")),
        ];
        if !code.is_empty() {
            files.push(("code/a.js", code.to_string()));
        }
        super::restraint::told(&files).into_iter().filter(|rule| rule == "repeated-placement").count()
    };
    let guarded = "{% if filled(\"region:aside\") %}<aside>{{ place(\"region:aside\") }}</aside>{% endif %}";
    let boxed = "{{ place(\"partial:box\") }}";
    let shown = "import { place } from \"truehook\";\nexport const f = () => place(\"region:aside\");\n";
    for (page, layout, partial, code, wanted) in [
        (ASIDE.to_string(), "", "", "", 0),
        (format!("{ASIDE}{ASIDE}"), "", "", "", 1),
        (format!("{guarded}{guarded}"), "", "", "", 1),
        (format!("{guarded}{{{{ place(\"region:aside\") if page.title }}}}"), "", "", "", 1),
        // The parent's block, which super() shows, too.
        (ASIDE.into(), ASIDE, "", "", 1),
        (boxed.repeat(2), "", ASIDE, "", 1),
        (format!("{boxed}{ASIDE}"), "", ASIDE, "", 1),
        (boxed.into(), "", ASIDE, "", 0),
        (format!("{{% for n in [1, 2] %}}{ASIDE}{{% endfor %}}"), "", "", "", 1),
        (format!("{{% for n in [1, 2] %}}{boxed}{{% endfor %}}"), "", ASIDE, "", 1),
        (ASIDE.into(), "", "", shown, 1),
        ("".into(), "", "", shown, 0),
        (
            ASIDE.into(),
            "",
            "",
            "import { place } from \"truehook\";\nexport const f = ({ page }) => { if (page.type === \"page\") return \"\"; return place(\"region:aside\"); };\n",
            0,
        ),
        ("{{ place(\"sections\") }}{{ place(\"sections\") }}".into(), "", "", "", 1),
        ("{% if filled(\"sections\") %}{{ place(\"sections\") }}{% endif %}".into(), "", "", "", 0),
        // One or the other.
        (format!("{{% if page.title %}}{ASIDE}{{% else %}}<p>{ASIDE}</p>{{% endif %}}"), "", "", "", 0),
        (
            format!(
                "{{% if options.wide == true %}}{ASIDE}{{% endif %}}{{% if options.wide == false %}}{ASIDE}{{% endif %}}"
            ),
            "",
            "",
            "",
            0,
        ),
        (
            format!("{{% if page.title %}}{ASIDE}{{% endif %}}{{% if not page.title %}}{ASIDE}{{% endif %}}"),
            "",
            "",
            "",
            0,
        ),
        (format!("{{% macro m() %}}{ASIDE}{{% endmacro %}}{{{{ m() }}}}"), "", "", "", 0),
    ] {
        assert_eq!(told(&page, layout, partial, code), wanted, "{page} | {layout} | {partial} | {code}");
    }
}

/// A base theme with a region in its layout, a hook in an included part, and a block with another region.
macro_rules! on_shingle {
    ($($own:expr),* $(,)?) => {
        &[
            manifest!("[theme]\nname = \"example\"\nlabel = \"Example\"\nbase = { path = \"../shingle\" }\n"),
            (
                "../shingle/truehook.toml",
                "[theme]\nname = \"shingle\"\nlabel = \"Shingle\"\nopen = true\n\n[region.board]\nlabel = \"Board\"\n\n[region.side]\nlabel = \"Side\"\n\n[hook.part]\nabout = \"P\"\n\n[[attach]]\nto = \"hook:part\"\ncall = \"a.js#f\"\n",
            ),
            ("../shingle/code/a.js", "export const f = () => \"part\";\n"),
            (
                "../shingle/markup/layout.html",
                "<!doctype html>\n<html lang=\"en\"><head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head><body>\n<header>Tides {{ place(\"region:board\") }}</header>\n{% block main %}<main>{{ place(\"region:main\") }}</main>\n<aside>Beside {{ place(\"region:side\") }}</aside>{% endblock %}\n{% include \"parts/foot.html\" %}\n{{ place(\"hook:document-end\") }}</body></html>\n",
            ),
            ("../shingle/markup/page.html", "{% extends \"layout.html\" %}\n"),
            ("../shingle/markup/parts/foot.html", "<footer>Foot {{ place(\"hook:part\") }}</footer>\n"),
            $($own),*
        ]
    };
}

#[test]
fn who_took_it_away() {
    const PAGE: (&str, &str) = ("markup/page.html", "{% extends \"layout.html\" %}\n");
    const LAYOUT: &str = "<!doctype html>\n<html lang=\"en\"><head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head><body>\n<header>Tides {{ place(\"region:board\") }}</header>\n{% block main %}<main>{{ place(\"region:main\") }}</main>\n<aside>Beside {{ place(\"region:side\") }}</aside>{% endblock %}\n{% include \"parts/foot.html\" %}\n{{ place(\"hook:document-end\") }}</body></html>\n";
    breaks(on_shingle![PAGE, ("markup/layout.html", LAYOUT)], &[]);
    // A copy without a region that editors are offered: where it stood.
    breaks(
        on_shingle![
            PAGE,
            (
                "markup/layout.html",
                "<!doctype html>\n<html lang=\"en\"><head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head><body>\n{% block main %}<main>{{ place(\"region:main\") }}</main>\n<aside>Beside {{ place(\"region:side\") }}</aside>{% endblock %}\n{% include \"parts/foot.html\" %}\n{{ place(\"hook:document-end\") }}</body></html>\n"
            )
        ],
        &["unseen-offer markup/layout.html:2"],
    );
    // A copy without the part that holds a hook to which something is attached.
    breaks(
        on_shingle![
            PAGE,
            (
                "markup/layout.html",
                "<!doctype html>\n<html lang=\"en\"><head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head><body>\n<header>Tides {{ place(\"region:board\") }}</header>\n{% block main %}<main>{{ place(\"region:main\") }}</main>\n<aside>Beside {{ place(\"region:side\") }}</aside>{% endblock %}\n{{ place(\"hook:document-end\") }}</body></html>\n"
            )
        ],
        &["lost-placement markup/layout.html:5"],
    );
    // A block without super().
    breaks(
        on_shingle![
            ("markup/layout.html", LAYOUT),
            (
                "markup/page.html",
                "{% extends \"layout.html\" %}\n{% block main %}<main>{{ place(\"region:main\") }}</main>{% endblock %}\n"
            )
        ],
        &["unseen-offer markup/page.html:2"],
    );
    breaks(
        on_shingle![
            ("markup/layout.html", LAYOUT),
            (
                "markup/page.html",
                "{% extends \"layout.html\" %}\n{% block main %}<p>{{ page.title }}</p><aside>Beside {{ place(\"region:side\") }}</aside>{% endblock %}\n"
            )
        ],
        &["required-point markup/page.html:2"],
    );
    // On one type of page alone.
    breaks(
        on_shingle![
            ("markup/layout.html", LAYOUT),
            PAGE,
            (
                "markup/list.html",
                "{% extends \"layout.html\" %}\n{% block main %}<p>{{ page.title }}</p>{% endblock %}\n"
            )
        ],
        &["required-point markup/list.html:2"],
    );
    breaks(
        on_shingle![
            ("markup/layout.html", LAYOUT),
            PAGE,
            (
                "markup/list.html",
                "{% extends \"layout.html\" %}\n{% block main %}{{ super() }}<p>{{ page.title }}</p>{% endblock %}\n"
            )
        ],
        &[],
    );
    // A copied layout without a block that others fill.
    breaks(
        on_shingle![
            (
                "markup/page.html",
                "{% extends \"layout.html\" %}\n{% block main %}{{ super() }}<p>{{ page.title }}</p>{% endblock %}\n"
            ),
            (
                "markup/layout.html",
                "<!doctype html>\n<html lang=\"en\"><head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head><body>\n<header>Tides {{ place(\"region:board\") }}</header>\n<main>{{ place(\"region:main\") }}</main>\n<aside>Beside {{ place(\"region:side\") }}</aside>\n{% include \"parts/foot.html\" %}\n{{ place(\"hook:document-end\") }}</body></html>\n"
            ),
        ],
        &["lost-block markup/page.html:2"],
    );
}

#[test]
fn what_only_pages_of_other_types_have() {
    let told = |page: &str, list: &str, when: &str, code: &str| {
        let mut files = vec![
            ("truehook.toml", format!("[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n{when}\n")),
            ("code/a.js", format!("export const f = {code};\n")),
            (
                "markup/page.html",
                format!("{{% extends \"layout.html\" %}}\n{{% block main %}}{{{{ super() }}}}{page}{{% endblock %}}\n"),
            ),
        ];
        if !list.is_empty() {
            files.push((
                "markup/list.html",
                format!("{{% extends \"layout.html\" %}}\n{{% block main %}}{{{{ super() }}}}{list}{{% endblock %}}\n"),
            ));
        }
        super::restraint::told(&files)
    };
    const PLAIN: &str = "() => \"x\"";
    for (page, list, when, code, wanted) in [
        ("{{ page.date }}", "", "", PLAIN, &[][..]),
        ("{{ page.entries | length }}", "<p>x</p>", "", PLAIN, &["unknown-variable"]),
        ("", "{{ page.entries | length }}", "", PLAIN, &[]),
        ("", "{{ page.date }}", "", PLAIN, &["unknown-variable"]),
        ("{% if page.type == \"front\" %}x{% endif %}", "<p>x</p>", "", PLAIN, &[]),
        ("", "{% if page.type == \"front\" %}x{% endif %}", "", PLAIN, &["input-value"]),
        ("{% if page.type != \"list\" %}x{% endif %}", "<p>x</p>", "", PLAIN, &["input-value"]),
        ("", "", "", "({ page }) => page.date ?? \"\"", &[]),
        ("", "", "when = \"page.type == 'front'\"", "({ page }) => page.date ?? \"\"", &["unknown-property"]),
        ("", "", "when = \"page.type != 'front'\"", "({ page }) => page.date ?? \"\"", &[]),
    ] {
        assert_eq!(told(page, list, when, code), wanted, "{page} {list} {when} {code}");
    }
}
