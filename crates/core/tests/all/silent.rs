//! What breaks without a word on the page: each is told, and what only looks alike is not.

use super::restraint::{page, told};

/// What is told of a page with this markup, of a theme with this manifest.
fn with(manifest: &str, markup: &str, more: &[(&'static str, &str)]) -> Vec<String> {
    let mut files = vec![("truehook.toml", manifest.to_string()), ("markup/page.html", page(markup))];
    files.extend(more.iter().map(|(path, text)| (*path, text.to_string())));
    told(&files)
}

#[test]
fn an_area_s_wrap_prints_titles_and_writes_no_id_out() {
    let area = |wrap: &str| {
        format!(
            "[area.notes]\nlabel = \"N\"\nwrap = '{wrap}'\n\n[piece.note]\nlabel = \"Note\"\noffer = [{{ label = \"A\" }}]\n"
        )
    };
    let with = |wrap: &str, items: &str| {
        let site = format!("[fill]\n\"area:notes\" = [ {items} ]\n");
        with(
            &area(wrap),
            "{% if filled(\"area:notes\") %}<aside>{{ place(\"area:notes\") }}</aside>{% endif %}",
            &[("markup/pieces/note.html", "<p>x</p>\n"), ("preview/site.toml", site.as_str())],
        )
    };
    let (one, titled) = ("{ use = \"piece:note\" }", "{ use = \"piece:note\", title = \"T\" }");
    for (wrap, items, wanted) in [
        ("<p>{{ body }}</p>", one.to_string(), &[][..]),
        ("<p>{{ body }}</p>", titled.to_string(), &["wrap-body"]),
        ("<p>{{title}}{{ body }}</p>", titled.to_string(), &[]),
        ("<p>{{ title }}{{ body }}</p>", format!("{one}, {titled}"), &[]),
        ("<p id=x>{{ title }}{{ body }}</p>", one.to_string(), &[]),
        ("<p id=x>{{ title }}{{ body }}</p>", format!("{one}, {one}"), &["wrap-body"]),
        ("<p id=\"{{ id }}\">{{ title }}{{ body }}</p>", format!("{one}, {one}"), &[]),
        ("<p id=\"x-{{ id }}\">{{ title }}{{ body }}</p>", format!("{one}, {one}"), &[]),
    ] {
        assert_eq!(with(wrap, &items), wanted, "{wrap}: {items}");
    }
}

#[test]
fn what_is_given_can_not_be_changed() {
    let with = |role: &str, code: &str| {
        let manifest = format!(
            "[partial.card]\ninputs.text = {{ type = \"string\", default = \"\" }}\ninputs.list = {{ type = \"array\", default = [] }}\n\n\
             [[attach]]\nto = \"{role}\"\ncall = \"a.js#f\"\n"
        );
        with(
            &manifest,
            "{{ place(\"partial:card\") }}",
            &[("markup/partials/card.html", "{{ text }}{{ list | length }}\n"), ("code/a.js", code)],
        )
    };
    for wrong in [
        "export function f(inputs) { inputs.text = \"x\"; return inputs; }",
        "export function f(inputs) { inputs[\"text\"] += \"x\"; return inputs; }",
        "export function f(inputs) { delete inputs.text; return inputs; }",
        "export function f(inputs) { inputs.list.push(1); return inputs; }",
        "export function f(inputs) { const { list } = inputs; list.sort(); return inputs; }",
        "export function f(inputs, { page }) { page.title++; return inputs; }",
    ] {
        assert_eq!(with("partial:card", wrong), ["frozen-value"], "{wrong}");
    }
    for fine in [
        "export function f(inputs) { const own = { ...inputs }; own.text = \"x\"; return own; }",
        "export function f(inputs) { const list = [...inputs.list]; list.push(1); return { ...inputs, list }; }",
        "export function f(inputs) { const list = inputs.list.slice(); list.sort(); return { ...inputs, list }; }",
        "export function f(inputs) { inputs = { ...inputs, text: \"x\" }; return inputs; }",
        "export function f(inputs) { return { ...inputs, list: inputs.list.toSorted() }; }",
    ] {
        assert_eq!(with("partial:card", fine), [""; 0], "{fine}");
    }
    assert_eq!(
        with("region:main", "export const f = (items) => { items.reverse(); return items; };"),
        ["frozen-value"]
    );
}

#[test]
fn callbacks_return_what_their_point_takes() {
    let with = |to: &str, code: &str| {
        let manifest = format!(
            "[partial.card]\ninputs.text = {{ type = \"string\", default = \"\" }}\n\n[[attach]]\nto = \"{to}\"\ncall = \"a.js#f\"\n"
        );
        with(
            &manifest,
            "{{ place(\"partial:card\") }}",
            &[("markup/partials/card.html", "{{ text }}\n"), ("code/a.js", code)],
        )
    };
    let import = "import { html } from \"truehook\";\n";
    for (to, code, wanted) in [
        ("hook:document-end", "export const f = () => [html`a`, html`b`];", &["unfit-return"][..]),
        (
            "hook:document-end",
            "export const f = ({ site }) => site.title.split(\"\").map((c) => html`<i>${c}</i>`);",
            &["unfit-return"],
        ),
        ("hook:document-end", "export const f = () => ({ a: html`a` });", &["unfit-return"]),
        ("hook:document-end", "export const f = ({ page }) => page.title && html`a`;", &[]),
        ("hook:document-end", "export const f = () => html`${[1, 2].map((n) => html`<i>${n}</i>`)}`;", &[]),
        ("region:main", "export const f = () => html`a` && { a: 1 };", &["unfit-return"]),
        ("region:main", "export const f = (items) => [...items, { use: \"partial:card\" }];", &[]),
        ("partial:card", "export const f = () => html`a` && [1];", &["unfit-return"]),
        ("partial:card", "export const f = (inputs) => ({ ...inputs, text: String(html`a`) });", &[]),
        ("hook:page-ready", "export const f = () => html`a` && \"x\";", &["unfit-return"]),
    ] {
        assert_eq!(with(to, &format!("{import}{code}")), wanted, "{to}: {code}");
    }
}

#[test]
fn files_that_nothing_loads_are_told_once() {
    let sheet = [("media/tide.css", "p { color: red }\n")];
    assert_eq!(with("", "", &sheet), ["idle-file"]);
    assert_eq!(with("[style.tide]\nfile = \"tide.css\"\n", "", &sheet), [""; 0]);
    assert_eq!(with("", "<p title=\"tide.css\">x</p>", &sheet), [""; 0], "its name stands somewhere");
    let imported = [sheet[0], ("media/all.css", "@import \"tide.css\";\n")];
    assert_eq!(with("[style.all]\nfile = \"all.css\"\n", "", &imported), [""; 0]);
    assert_eq!(with("", "", &[("media/tide.svg", "<svg/>")]), [""; 0], "pictures may be there for editors");
    assert_eq!(with("[style.tide]\nfile = \"tdie.css\"\n", "", &sheet), ["missing-file"], "one cause, one finding");
}

#[test]
fn links_in_templates_and_callbacks_lead_to_pages() {
    let site = [
        ("preview/pages/front.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"F\"\n"),
        ("preview/pages/log.toml", "path = \"/log/\"\ntype = \"page\"\ntitle = \"L\"\n"),
    ];
    for (link, wanted) in [
        ("<a href=\"/log/\">x</a>", &[][..]),
        ("<a href='/log#low'>x</a>", &[]),
        ("<a href=\"/nowhere/\">x</a>", &["missing-page"]),
        ("<a class=\"x\" href=\"/nowhere/?a=1\">x</a>", &["missing-page"]),
        ("<!-- <a href=\"/nowhere/\">x</a> -->", &[]),
        ("{# <a href=\"/nowhere/\">x</a> #}", &[]),
        ("<a href=\"/feed.xml\">x</a>", &[]),
        ("<a href=\"{{ page.path }}\">x</a>", &[]),
        ("<a href=\"//example.org/x\">x</a>", &[]),
    ] {
        assert_eq!(with("", link, &site), wanted, "{link}");
    }
    let attach = "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n";
    let with_code = |code: &'static str| with(attach, "", &[site[0], site[1], ("code/a.js", code)]);
    let head = "import { html } from \"truehook\";\n";
    assert!(head.starts_with("import"));
    assert_eq!(
        with_code("import { html } from \"truehook\";\nexport const f = () => html`<a href=\"/log/\">x</a>`;"),
        [""; 0]
    );
    assert_eq!(
        with_code(
            "import { html } from \"truehook\";\nexport const f = () => html`<b>${1}</b><a href=\"/nowhere/\">x</a>`;"
        ),
        ["missing-page"]
    );
}

#[test]
fn pictures_of_the_site_are_printed_by_their_address() {
    let features = "[feature.pictures]\nlead = true\nemblem = true\nbanners = true\n";
    let banner = [("media/banners/a.svg", "<svg/>")];
    for (markup, wanted) in [
        ("<img src=\"{{ page.lead.file }}\" alt=\"\">", 1),
        ("<img src=\"{{ site.emblem.file }}\" alt=\"\">", 1),
        ("{% for b in site.banners %}<img src=\"{{ b.file }}\" alt=\"\">{% endfor %}", 1),
        ("{% for b in site.banners[:2] %}<p style=\"background: url({{ b.file }})\"></p>{% endfor %}", 1),
        ("{{ place(\"partial:picture\", file=page.lead.file, alt=page.lead.alt) }}", 0),
        ("{% for b in page.data.list %}<img src=\"{{ b.file }}\" alt=\"\">{% endfor %}", 0),
    ] {
        let told = with(features, markup, &banner);
        assert_eq!(told.iter().filter(|rule| *rule == "broken-address").count(), wanted, "{markup}: {told:?}");
    }
}

#[test]
fn what_is_shown_twice_or_not_at_all() {
    let band = "[section.band]\nlabel = \"B\"\nholds = [\"piece:*\"]\noffer = [{ label = \"A\" }]\n\n[piece.note]\nlabel = \"N\"\noffer = [{ label = \"A\" }]\n";
    let held = |markup: &'static str| {
        with(
            band,
            "{{ place(\"sections\") }}",
            &[("markup/sections/band.html", markup), ("markup/pieces/note.html", "x\n")],
        )
    };
    assert_eq!(held("<p>{{ place(\"held\") }}</p>\n"), [""; 0]);
    assert_eq!(held("<p>{{ place(\"held\") }}{{ place(\"held\") }}</p>\n"), ["repeated-placement"]);
    let two = "{% if page.title %}{{ place(\"held\") }}{% else %}<b>{{ place(\"held\") }}</b>{% endif %}\n";
    assert_eq!(held(two), [""; 0]);
    let whole = |text: &str| {
        told(&[(
            "markup/page.html",
            format!("{{% extends \"layout.html\" %}}{{% block main %}}{text}{{% endblock %}}\n"),
        )])
    };
    assert_eq!(whole("{{ super() }}"), [""; 0]);
    assert_eq!(whole("{{ super() }}{{ super() }}"), ["repeated-placement"]);
    let called = |body: &str| {
        with(
            "",
            &format!(
                "{{% macro box(a) %}}<b>{{{{ a }}}}{body}</b>{{% endmacro %}}{{% call box(1) %}}text{{% endcall %}}"
            ),
            &[],
        )
    };
    assert_eq!(called("{{ caller() }}"), [""; 0]);
    assert_eq!(called(""), ["lost-block"]);
}

#[test]
fn entries_have_the_keys_that_they_have() {
    let menu = "[menu.top]\nlabel = \"T\"\n\n[partial.rows]\ninputs.entries = { type = \"array\", default = [] }\n";
    let rows = |text: &'static str| {
        with(
            menu,
            "{% if filled(\"menu:top\") %}<nav>{{ place(\"menu:top\", with=\"partial:rows\") }}</nav>{% endif %}",
            &[("markup/partials/rows.html", text)],
        )
    };
    assert_eq!(rows("{% for e in entries %}{{ e.label }}{% if e.current %}x{% endif %}{% endfor %}\n"), [""; 0]);
    assert_eq!(
        rows("{% for e in entries %}{{ e.label }}{% if e.curent %}x{% endif %}{% endfor %}\n"),
        ["unknown-variable"]
    );
    assert_eq!(
        rows("{% for e in entries %}{{ e.icon }}{{ e.label }}{% endfor %}\n"),
        [""; 0],
        "an arranger may add it"
    );
    let trail = |key: &str| {
        with("[feature.breadcrumbs]\n", &format!("{{% for s in page.trail %}}{{{{ s.{key} }}}}{{% endfor %}}"), &[])
    };
    assert_eq!(trail("label"), [""; 0]);
    assert_eq!(trail("lable"), ["unknown-variable"]);
}

#[test]
fn a_brace_of_a_sheet_that_is_not_closed_is_told() {
    let style = "[style.tide]\nfile = \"tide.css\"\n";
    for (css, wanted) in [
        ("p { color: red }\n", &[][..]),
        ("p { color: red\n", &["code-syntax"]),
        ("p { color: red; .a { color: blue } }\n", &[]),
        ("@media print { p { color: red } \nb { color: red }\n", &["code-syntax"]),
        ("/* { */ p::before { content: \"{\" }\n", &[]),
        ("p { --x: {}; }\n", &[]),
    ] {
        assert_eq!(with(style, "", &[("media/tide.css", css)]), wanted, "{css}");
    }
}

#[test]
fn words_from_elsewhere_are_known() {
    use truehook_core::rules::{self, Example};
    let said = |markup: &str| {
        let mut files = Example(&[]).files();
        files.insert("/site/example/markup/page.html".to_string(), page(markup));
        let project = truehook_core::read::Project::open(&files, "/site/example".into()).unwrap();
        let findings = rules::check(&truehook_core::link::Registry::new(project)).findings;
        findings
            .iter()
            .filter_map(|finding| finding.mend.as_ref())
            .map(|mend| mend.text.clone())
            .collect::<Vec<_>>()
            .join("; ")
    };
    for (markup, meant) in [
        ("{{ page.header }}", "`heading`"),
        ("{{ page.url }}", "`path`"),
        ("{{ site.description }}", "`motto`"),
        ("{{ place(\"partial:picture\", src=\"x\", alt=\"\") }}", "`file`"),
        ("{{ place(\"partial:link\", url=\"/\", text=\"x\") }}", "`href`"),
        ("{{ place(\"partial:image\", file=\"x\", alt=\"\") }}", "`partial:picture`"),
    ] {
        let told = said(markup);
        assert!(told.contains(meant), "{markup}: {told}");
    }
}

#[test]
fn one_of_several_ranges_of_versions_will_do() {
    let theme = |host: &str| told(&[("truehook.toml", format!("host = {host}\n"))]);
    assert_eq!(theme("{ contract = \"standard\", version = \"1\" }"), [""; 0]);
    assert_eq!(theme("{ contract = \"standard\", version = [\"^9\", \"1\"] }"), [""; 0]);
    assert_eq!(theme("{ contract = \"standard\", version = [\"^8\", \"^9\"] }"), ["host-version"]);
    assert_eq!(theme("{ contract = \"standard\", version = [\"^8\", 9] }")[..1], ["manifest-syntax"]);
}
