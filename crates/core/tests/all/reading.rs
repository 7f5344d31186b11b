//! What callbacks read, name and return: each way of reading is followed, and what can't be followed is not
//! told of.

use super::restraint::{page, told};

/// What is told of a theme with an option, a hook with an argument that a listener is attached to, and a partial
/// with an input that a preparer is attached to.
fn with(code: &str) -> Vec<String> {
    told(&[
        (
            "truehook.toml",
            "[option.scheme]\nlabel = \"S\"\ntype = \"string\"\ndefault = \"day\"\n\n[hook.notice]\nargs.tide = { type = \"string\", default = \"\" }\n\n\
             [partial.card]\ninputs.season = { type = \"string\", enum = [\"winter\", \"summer\"], default = \"winter\" }\n\n\
             [piece.note]\nlabel = \"N\"\noffer = [{ label = \"A note\" }]\n\n[region.aside]\nlabel = \"A\"\n\n\
             [[attach]]\nto = \"hook:notice\"\ncall = \"a.js#listen\"\n\n[[attach]]\nto = \"partial:card\"\ncall = \"a.js#prepare\"\n\n\
             [[attach]]\nto = \"region:aside\"\ncall = \"a.js#arrange\"\n"
                .into(),
        ),
        ("code/a.js", format!("import {{ html }} from \"truehook\";\nconst shown = html`<i>x</i>`;\nconst LISTEN = () => shown;\nconst PREPARE = (inputs) => inputs;\nconst ARRANGE = (items) => items;\n{code}\n{}", others(code))),
        ("markup/partials/card.html", "<p>{{ season }}</p>\n".into()),
        ("markup/pieces/note.html", "<p>x</p>\n".into()),
        ("markup/page.html", page("{{ place(\"hook:notice\") }}{{ place(\"partial:card\") }}{{ place(\"region:aside\") }}{{ options.scheme }}")),
    ])
}

/// The callbacks that a case does not write.
fn others(code: &str) -> String {
    let all = [("listen", "LISTEN"), ("prepare", "PREPARE"), ("arrange", "ARRANGE")];
    let missing = all.iter().filter(|(name, _)| !code.contains(name));
    missing.map(|(name, given)| format!("export const {name} = {given};\n")).collect()
}

#[test]
fn a_property_is_followed_however_it_is_read() {
    let paths = [
        ("page", "title", "titel"),
        ("site", "motto", "moto"),
        ("options", "scheme", "shceme"),
        ("theme", "version", "versoin"),
        ("args", "tide", "tied"),
    ];
    for (root, right, wrong) in paths {
        for way in [
            "({ ROOT }) => ROOT.KEY",
            "({ ROOT: r }) => r.KEY",
            "({ ROOT = {} }) => ROOT.KEY",
            "({ ROOT: { KEY } }) => KEY",
            "({ ROOT: { KEY: k = 1 } }) => k",
            "({ ROOT: { KEY = 1 } }) => KEY",
            "(c) => c.ROOT.KEY",
            "(c) => c[\"ROOT\"][\"KEY\"]",
            "(c) => c?.ROOT?.KEY",
            "(c) => (c.ROOT).KEY.length",
            "(c) => { const { ROOT } = c; return ROOT.KEY; }",
            "(c) => { const { ROOT: { KEY } } = c; return KEY; }",
            "(c) => { const r = c.ROOT; return [1].map(() => r.KEY)[0]; }",
            "(c) => { let k = c.ROOT; const { KEY } = k; return KEY; }",
            "function ({ ROOT }) { if (ROOT.KEY) { return `${ROOT.KEY}`; } return \"\"; }",
            "({ ROOT, ...rest }) => ROOT?.KEY ?? \"\"",
        ] {
            let code = |key: &str| format!("export const listen = {};", way.replace("ROOT", root).replace("KEY", key));
            assert_eq!(with(&code(right)), [""; 0], "{}", code(right));
            assert_eq!(with(&code(wrong)), ["unknown-property"], "{}", code(wrong));
        }
    }
}

#[test]
fn what_can_not_be_followed_is_not_told_of() {
    for fine in [
        "(c) => { let p = c.page; p = { titel: 1 }; return p.titel; }",
        "({ page }) => { const of = (page) => page.titel; return of({ titel: page.title }); }",
        "({ page }) => Object.keys(page).length",
        "({ page }) => page[`ti${\"tel\"}`]",
        "({ args }) => args.hasOwnProperty(\"tide\")",
        "({ page, ...rest }) => rest.anything",
        "({ page }) => page.title.anything",
        "({ point }) => point.anything",
    ] {
        assert_eq!(with(&format!("export const listen = {fine};")), [""; 0], "{fine}");
    }
}

#[test]
fn the_context_holds_what_it_holds() {
    for wrong in ["({ tide }) => tide", "({ pgae }) => pgae.title", "(c) => c.item", "({ request = 1 }) => request"] {
        assert_eq!(with(&format!("export const listen = {wrong};")), ["unknown-property"], "{wrong}");
    }
}

#[test]
fn preparers_read_and_return_inputs() {
    for (code, wanted) in [
        ("(inputs) => ({ ...inputs, season: \"summer\" })", &[][..]),
        ("({ season }) => ({ season })", &[]),
        ("(inputs) => ({ ...inputs, seasn: \"summer\" })", &["unknown-input"]),
        (
            "(inputs) => { if (inputs.season) { return { season: \"summer\", colour: 1 }; } return inputs; }",
            &["unknown-input"],
        ),
        ("(inputs) => ({ ...inputs, season: \"autumn\" })", &["input-value"]),
        ("(inputs) => (inputs.season ? { season: 3 } : inputs)", &["input-value"]),
        ("(inputs) => ({ ...inputs, season: inputs.seasn })", &["unknown-property"]),
        ("({ seasn, ...others }) => ({ ...others, season: seasn })", &["unknown-property"]),
        ("(inputs, { args }) => ({ season: args.tide })", &["unknown-property"]),
    ] {
        assert_eq!(with(&format!("export const prepare = {code};")), wanted, "{code}");
    }
}

#[test]
fn components_that_code_names() {
    for (code, wanted) in [
        ("(items) => [...items, { use: \"piece:note\" }]", &[][..]),
        ("(items) => [...items, { use: \"piece:noet\" }]", &["undeclared-point"]),
        ("(items) => [...items, { use: \"peice:note\" }]", &["undeclared-point"]),
        ("(items) => items.filter((item) => item.use !== \"partial:card\")", &[]),
        ("(items) => items.filter((item) => item.use !== \"partial:crad\")", &["undeclared-point"]),
        ("(items) => items.filter((item) => \"partial:crad\" === item?.use)", &["undeclared-point"]),
        ("(items) => items.filter(({ title }) => title !== \"partial:crad\")", &[]),
        (
            "(items) => { for (const item of items) { switch (item.use) { case \"piece:nots\": return []; } } return items; }",
            &["undeclared-point"],
        ),
    ] {
        assert_eq!(with(&format!("export const arrange = {code};")), wanted, "{code}");
    }
}

#[test]
fn names_that_nothing_gives() {
    for (code, wanted) in [
        ("() => Math.max(...[1, 2].map((n) => parseInt(n)))", &[][..]),
        ("() => (typeof window === \"undefined\" ? \"\" : \"x\")", &[]),
        ("() => { try { return JSON.stringify({}); } catch (error) { return String(error); } }", &[]),
        ("() => window.title", &["undeclared-name"]),
        ("() => place(\"region:aside\")", &["undeclared-name"]),
        ("() => lsiten", &["undeclared-name"]),
        ("() => { setTimeout(() => {}, 1); return console.log(1); }", &["undeclared-name", "undeclared-name"]),
    ] {
        assert_eq!(with(&format!("export const listen = {code};")), wanted, "{code}");
    }
    let alone = "export function listen() { return html`<p>x</p>`; }\nexport const prepare = (i) => i;\nexport const arrange = (i) => i;";
    let theme = [
        ("truehook.toml", "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#listen\"\n".to_string()),
        ("code/a.js", alone.replace("export const", "const")),
    ];
    assert_eq!(told(&theme), ["undeclared-name"]);
}

#[test]
fn markup_as_text() {
    for (code, wanted) in [
        ("() => html`<p>x</p>`", &[][..]),
        ("() => \"a < b and b > c\"", &[]),
        ("() => `1 <2 and ${3}> 1`", &[]),
        ("() => [\"<p>\", \"</p>\"]", &["unfit-return"]),
        ("() => \"<p>x</p>\"", &["escaped-markup"]),
        ("({ page }) => `<a href=\"${page.path}\">x</a>`", &["escaped-markup"]),
        ("({ page }) => \"<b>\" + page.title + \"</b>\"", &["escaped-markup"]),
        ("({ page }) => { if (page.title) { return \"<br>\"; } return \"\"; }", &["escaped-markup"]),
        ("({ page }) => page.title && \"x<br/>y\"", &["escaped-markup"]),
        ("({ page }) => { if (page.title) html`<p>x</p>`; return \"\"; }", &["unused-markup"]),
        ("({ page }) => { page.title ? html`<p>x</p>` : null; return \"\"; }", &["unused-markup"]),
        ("({ page }) => { const x = html`<p>x</p>`; return x; }", &[]),
        ("() => { String.raw`<p>x</p>`; return \"\"; }", &[]),
    ] {
        assert_eq!(with(&format!("export const listen = {code};")), wanted, "{code}");
    }
    // A preparer's texts go into inputs, and those of an arranger into items.
    assert_eq!(with("export const prepare = () => ({ season: \"summer\" });"), [""; 0]);
}

#[test]
fn what_a_filter_writes_out_fits_its_value() {
    let with = |value: &str, returned: &str| {
        told(&[
            (
                "truehook.toml",
                format!("[filter.words]\nvalue = {value}\n\n[[attach]]\nto = \"filter:words\"\ncall = \"a.js#f\"\n"),
            ),
            ("code/a.js", format!("export const f = (value) => {returned};\n")),
            ("markup/page.html", page("{{ page.title | through(\"filter:words\") }}")),
        ])
    };
    let text = "{ type = \"string\" }";
    for (value, returned) in [
        (text, "3"),
        (text, "(value ? value : true)"),
        (text, "[\"a\"]"),
        (text, "({ a: 1 })"),
        ("{ type = \"string\", enum = [\"ebb\", \"flood\"] }", "\"eb\""),
        ("{ type = \"integer\", minimum = 1 }", "0"),
        ("{ type = \"object\", properties.low = { type = \"string\" } }", "({ low: 4 })"),
    ] {
        assert_eq!(with(value, returned), ["input-value"], "{value}: {returned}");
    }
    for (value, returned) in [
        (text, "`${value} m`"),
        (text, "\"x\""),
        (text, "(value ? \"a\" : `b`)"),
        ("{ type = \"markup\" }", "\"<b>x</b>\""),
        ("{ type = \"number\" }", "-3.5"),
        ("{ type = \"object\" }", "({ low: 4 })"),
    ] {
        let told = with(value, returned);
        assert!(!told.iter().any(|rule| rule == "input-value"), "{value}: {returned}: {told:?}");
    }
}

#[test]
fn what_the_host_s_filters_make_has_to_be_printed() {
    let with = |filter: &str, print: &str, more: &str| {
        let title = if more.contains("page-titles") { "" } else { "<title>{{ page.title }}</title>" };
        told(&[
            ("truehook.toml", format!("{more}\n[[attach]]\nto = \"filter:{filter}\"\ncall = \"a.js#f\"\n")),
            ("code/a.js", "export const f = (value) => value;\n".into()),
            (
                "markup/layout.html",
                format!(
                    "<!doctype html>\n<html lang=\"en\"><head>{title}{{{{ place(\"hook:document-head\") }}}}</head><body>{print}{{% block main %}}<main>{{{{ place(\"region:main\") }}}}</main>{{% endblock %}}{{{{ place(\"hook:document-end\") }}}}</body></html>\n"
                ),
            ),
        ])
    };
    for (filter, key) in [("page-heading", "heading"), ("summary", "summary"), ("root-attributes", "root")] {
        assert_eq!(with(filter, "", ""), ["attached-in-vain"], "{filter}");
        let read = format!("{{{{ page.{key} }}}}");
        assert_eq!(with(filter, &read, ""), Vec::<String>::new(), "{filter}");
    }
    assert_eq!(with("page-heading", "", "[feature.page-titles]\n"), Vec::<String>::new());
    assert_eq!(with("summary", "", "[feature.share-cards]\n"), Vec::<String>::new());
}
