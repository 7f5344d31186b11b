//! What comes from outside stays what it is: text can't become markup, an attribute, code or a
//! template, and values survive the way through callbacks.

use crate::small::{between, failing, front, render, shown};
use crate::small::{stage, theme};

/// Texts that try to get out of where they are put.
const ATTACKS: [&str; 12] = [
    "<script>alert(1)</script>",
    "\"><b>x</b>",
    "' onmouseover='x",
    "\" onmouseover=\"x",
    "{{ 7 * 7 }}",
    "{% if true %}x{% endif %}",
    "{# gone #}",
    "&lt;b&gt;",
    "-->x<!--",
    "</title><b>",
    "\u{fdd0}0:1\u{fdd1}",
    "`${7 * 7}`",
];
/// Addresses that would run as code.
const CODES: [&str; 6] = [
    "javascript:alert(1)",
    " JaVaScRiPt:alert(1)",
    "java\tscript:alert(1)",
    "\u{1}javascript:alert(1)",
    "vbscript:x",
    "data:text/html,<script>alert(1)</script>",
];
/// Every way on which a text gets to a page: preview data, inputs, arguments and callbacks, in text,
/// in attributes and in addresses.
const MANIFEST: &str = "[partial.card]\ninputs.text = { type = \"string\", default = \"\" }\n\n[partial.made]\ninputs.text = { type = \"string\", default = \"\" }\nrender = \"a.js#made\"\n\n[area.notes]\nlabel = \"Notes\"\nwrap = '<div>{{ title }}{{ body }}</div>'\nwrap-title = '<h4>{{ text }}</h4>'\n\n\
    [menu.top]\nlabel = \"Top\"\n\n[hook.mid]\nabout = \"M\"\nargs.text = { type = \"string\" }\n\n[filter.same]\nabout = \"S\"\n\n[option.word]\nlabel = \"W\"\ntype = \"string\"\ndefault = \"\"\n\n\
    [[attach]]\nto = \"hook:mid\"\ncall = \"a.js#mid\"\n\n[[attach]]\nto = \"hook:mid\"\ncall = \"a.js#plain\"\n\n[[attach]]\nto = \"filter:same\"\ncall = \"a.js#same\"\n\n[[attach]]\nto = \"filter:root-attributes\"\ncall = \"a.js#root\"\n";
const CODE: &str = "import { html, place } from \"truehook\";\nexport const made = ({ text }) => html`<p title=\"${text}\" data-a='${[text]}'><a href=\"${text}\">${text}</a></p>`;\nexport const mid = ({ args }) => html`<a href='${args.text}'>${args.text}</a>${place(\"partial:card\", { text: args.text })}`;\nexport const plain = ({ args }) => args.text;\nexport const same = (value) => value;\nexport const root = (all, { page }) => ({ ...all, title: page.title });\n";
const CARD: &str = "<p title=\"{{ text }}\"><a href=\"{{ text }}\">{{ text }}</a><img src='{{ text }}' alt=\"\"></p>";
const PAGE: &str = "{{ page.title }}<i {{ page.root }} title=\"{{ page.title }}\">{{ page.data.text }}{{ site.data.text | through(\"filter:same\") }}{{ options.word }}</i><a href=\"{{ page.title }}\">x</a>\
    {{ place(\"hook:mid\", text=page.title) }}{{ place(\"partial:card\", text=page.title) }}{{ place(\"partial:made\", text=page.title) }}{{ place(\"area:notes\") }}{{ place(\"menu:top\") }}{{ place(\"partial:link\", href=page.title, text=page.title, class=page.title, rel=page.title) }}{{ place(\"partial:picture\", file=page.title, alt=page.title) }}{{ place(\"partial:search-box\", action=page.title, label=page.title) }}{{ place(\"partial:pager\", newer=page.title, older=page.title) }}";

fn page_with(text: &str) -> String {
    let toml = serde_json::Value::from(text).to_string().replace('\u{1}', "\\u0001");
    let page = front(PAGE);
    let site = format!(
        "options = {{ word = {toml} }}\n\n[menus]\nmain = [ {{ label = {toml}, href = {toml} }} ]\n\n[fill]\n\"menu:top\" = \"main\"\n\"area:notes\" = [ {{ use = \"partial:card\", title = {toml}, text = {toml} }}, {{ use = \"partial:made\", text = {toml} }} ]\n\n[data]\ntext = {toml}\n"
    );
    let front = format!("path = \"/\"\ntype = \"front\"\ntitle = {toml}\n\n[data]\ntext = {toml}\n");
    let files = [
        ("truehook.toml", MANIFEST),
        ("code/a.js", CODE),
        ("markup/front.html", page.as_str()),
        ("markup/partials/card.html", CARD),
        ("preview/site.toml", site.as_str()),
        ("preview/pages/a.toml", front.as_str()),
    ];
    render(&files, "/").html
}

/// The tags of a page, each with the names of its attributes.
fn skeleton(html: &str) -> Vec<String> {
    let mut found = Vec::new();
    let mut rest = html;
    while let Some(start) = rest.find('<') {
        let mut quote = None;
        let end = rest[start..].char_indices().find(|(_, c)| match (quote, *c) {
            (None, '>') => true,
            (None, '"' | '\'') => {
                quote = Some(*c);
                false
            }
            (Some(open), c) if c == open => {
                quote = None;
                false
            }
            _ => false,
        });
        let Some((end, _)) = end else { break };
        let tag = &rest[start..start + end + 1];
        let mut names = String::new();
        let mut inside = None;
        for c in tag.chars() {
            match inside {
                Some(open) if c == open => inside = None,
                Some(_) => {}
                None if c == '"' || c == '\'' => inside = Some(c),
                None => names.push(c),
            }
        }
        found.push(names);
        rest = &rest[start + end + 1..];
    }
    found
}

#[test]
fn text_from_anywhere_stays_text() {
    let plain = skeleton(&page_with("plain"));
    assert!(plain.len() > 40, "{plain:?}");
    for attack in ATTACKS {
        let html = page_with(attack);
        assert_eq!(skeleton(&html), plain, "{attack}\n{html}");
        assert!(!html.contains("49"), "{attack} was computed");
        assert!(!html.contains('\u{fdd0}'), "{attack} was taken for a placement");
        let kept = attack.contains(['<', '"', '\'', '{', '`']);
        if kept && !attack.contains('\u{fdd0}') {
            let escaped = attack
                .replace('&', "&amp;")
                .replace('<', "&lt;")
                .replace('>', "&gt;")
                .replace('"', "&quot;")
                .replace('\'', "&#39;");
            assert!(html.matches(&escaped).count() > 20, "{attack} is not there as it was:\n{html}");
        }
    }
}

#[test]
fn addresses_never_run_as_code() {
    for code in CODES {
        let html = page_with(code);
        let addresses = ["href=\"", "href='", "src=\"", "src='", "action=\""];
        for attribute in addresses {
            for (at, _) in html.match_indices(attribute) {
                let value: String = html[at + attribute.len()..].chars().take(40).collect();
                let plain: String = value.chars().filter(|c| !c.is_whitespace() && !c.is_control()).collect();
                let plain = plain.to_lowercase();
                let bad = ["javascript:", "vbscript:", "data:text"].iter().any(|scheme| plain.starts_with(scheme));
                assert!(!bad, "{code}: {attribute}{value}");
            }
        }
        assert!(html.matches("=\"#\"").count() + html.matches("='#'").count() > 8, "{code}:\n{html}");
    }
}

#[test]
fn an_address_that_was_left_out_is_told() {
    let page = front("[<a href=\"{{ page.title }}\">x</a>]");
    let site = ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"javascript:x\"\n");
    let (failures, html) = failing(&[("markup/front.html", &page), site]);
    assert_eq!(html, "<a href=\"#\">x</a>");
    assert!(failures[0].contains("would run as code"), "{failures:?}");
}

#[test]
fn a_failure_behind_a_checked_address_is_shown_at_its_own_place() {
    let page = "<p>\n  <a href=\"{{ page.title }}\">{{ 1 // 0 }}</a>\n</p>";
    let rendered = render(&[("markup/front.html", page)], "/");
    let place = rendered.failures[0].place.clone().unwrap();
    let column = page.lines().nth(1).unwrap().find("1 //").unwrap() + 1;
    assert_eq!(place, ("markup/front.html".to_string(), 2, column));
}

#[test]
fn markup_is_markup_only_where_it_is_declared_so() {
    let manifest = "[partial.card]\ninputs.body = { type = \"markup\" }\ninputs.text = { type = \"string\", default = \"\" }\n\n[region.side]\nlabel = \"Side\"\n\n[filter.mark]\nvalue = { type = \"markup\" }\n\n[filter.word]\nvalue = { type = \"string\" }\n\n[[attach]]\nto = \"filter:mark\"\ncall = \"a.js#mark\"\n\n[[attach]]\nto = \"filter:word\"\ncall = \"a.js#word\"\n";
    let page = front(
        "[{{ place(\"region:side\") }}{{ place(\"partial:card\", body=\"<b>\") }}{{ \"<i>\" | through(\"filter:mark\") }}{{ \"<i>\" | through(\"filter:word\") }}]",
    );
    let html = shown(&[
        ("truehook.toml", manifest),
        (
            "code/a.js",
            "import { html } from \"truehook\";\nexport const mark = (value) => html`<u>${value}</u>`;\nexport const word = (value) => value + \"&\";\n",
        ),
        ("markup/front.html", &page),
        ("markup/partials/card.html", "<p>{{ body }}{{ text }}</p>"),
        (
            "preview/site.toml",
            "[fill]\n\"region:side\" = [ { use = \"partial:card\", body = \"<b>bold</b>\", text = \"<b>\" } ]\n",
        ),
    ]);
    assert_eq!(html, "<p><b>bold</b>&lt;b&gt;</p><p>&lt;b&gt;</p><u>&lt;i&gt;</u>&lt;i&gt;&amp;");
}

#[test]
fn values_survive_the_way_through_filters_preparers_and_arrangers() {
    let manifest = "[partial.show]\ninputs.v = { type = \"object\" }\n\n[filter.same]\nabout = \"S\"\n\n[region.side]\nlabel = \"Side\"\n\n[[attach]]\nto = \"filter:same\"\ncall = \"a.js#same\"\n\n[[attach]]\nto = \"partial:show\"\ncall = \"a.js#same\"\n\n[[attach]]\nto = \"region:side\"\ncall = \"a.js#same\"\n";
    let data = "{ text = \"größe 🐦 \\u0001 \\\\ \\\" 漢字 \\u200f\", list = [1, 2.5, \"c\", [true, []]], deep = { a = { b = \"found\", \"ключ\" = 1 } }, whole = 41.0, part = 0.1, large = 9007199254740992, small = -9007199254740992, date = 2026-03-01T06:10:00Z, day = 2026-03-01, empty = \"\", none = [] }";
    let site =
        format!("[fill]\n\"region:side\" = [ {{ use = \"partial:show\", v = {data} }} ]\n\n[data]\nv = {data}\n");
    let show = "{{ v.text }}|{{ v.list }}|{{ v.deep.a.b }}{{ v.deep.a[\"ключ\"] }}|{{ v.whole }}|{{ v.part }}|{{ v.large }}|{{ v.small }}|{{ v.date }}|{{ v.day }}|{{ v.empty }}|{{ v.none | length }}|{{ v.gone is defined }}|{{ v | length }}";
    let page = front(&format!(
        "[{{% set v = site.data.v %}}{show}\n{{% set v = site.data.v | through(\"filter:same\") %}}{show}\n{{{{ place(\"region:side\") }}}}]"
    ));
    let html = shown(&[
        ("truehook.toml", manifest),
        ("code/a.js", "export const same = (value) => value;\n"),
        ("markup/front.html", &page),
        ("markup/partials/show.html", show),
        ("preview/site.toml", &site),
    ]);
    let ways: Vec<&str> = html.lines().collect();
    assert_eq!(ways.len(), 3, "{html}");
    // Whole floats come back as whole numbers; nothing else changes.
    assert_eq!(ways[0].replace("|41.0|", "|41|"), ways[1]);
    assert_eq!(ways[1], ways[2]);
    assert!(ways[1].starts_with("größe 🐦 \u{1} \\ &quot; 漢字 \u{200f}|"), "{}", ways[1]);
    assert!(
        ways[1]
            .contains("|found1|41|0.1|9007199254740992|-9007199254740992|2026-03-01T06:10:00Z|2026-03-01||0|false|11"),
        "{}",
        ways[1]
    );
}

#[test]
fn numbers_that_are_too_large_fail_rather_than_change() {
    let manifest = "[filter.same]\nabout = \"S\"\n\n[[attach]]\nto = \"filter:same\"\ncall = \"a.js#same\"\n";
    for number in ["9007199254740993", "-9007199254740993"] {
        let page = front(&format!("[{{{{ {number} | through(\"filter:same\") }}}}]"));
        let files = [
            ("truehook.toml", manifest),
            ("code/a.js", "export const same = (value) => value;\n"),
            ("markup/front.html", page.as_str()),
        ];
        let (failures, html) = failing(&files);
        assert_eq!(html, number);
        assert!(failures[0].contains("too large to pass on exactly"), "{failures:?}");
    }
}

/// Does an address begin at the end of a text: behind a name of those, an equals sign, and a quote where there is one?
fn begins_address(text: &str) -> bool {
    let plain = text.trim_end();
    let plain = plain.strip_suffix(['"', '\'']).unwrap_or(plain).trim_end();
    let Some(plain) = plain.strip_suffix('=') else { return false };
    let name = plain.trim_end();
    ["href", "src"].iter().any(|known| {
        name.len() > known.len()
            && name.ends_with(known)
            && name[..name.len() - known.len()].ends_with(char::is_whitespace)
    })
}

#[test]
fn an_address_is_found_however_a_literal_is_cut() {
    let pieces = [
        "",
        "x",
        " ",
        "=",
        "\"",
        "'",
        "<p>",
        "<a href=",
        "<a href=\"",
        "<a href='",
        " href = ",
        "<img src=\" ",
        "href=\"",
        " title=\"",
        "<b title=\"",
        "<b> href=",
    ];
    let values = ["", " ", "x", " href", " href=", "<i src="];
    let mut wanted = Vec::new();
    let mut literals = String::new();
    for first in pieces {
        for (value, second) in values.iter().flat_map(|value| pieces.iter().map(move |second| (value, second))) {
            literals.push_str(&format!("  (v, code) => html`{first}${{v}}{second}${{code}}|`,\n"));
            let before = format!("{first}{}{second}", value.replace('<', "&lt;"));
            let code = if begins_address(&before) { "#" } else { "javascript:x" };
            wanted.push((value, format!("{before}{code}|")));
        }
    }
    let given: Vec<&str> = wanted.iter().map(|(value, _)| **value).collect();
    // Each is used three times: what is known of a literal from the time before changes nothing.
    let code = format!(
        "import {{ html }} from \"truehook\";\nconst all = [\n{literals}];\nconst given = {};\n\
         export const mid = () => [0, 1, 2].map(() => all.map((one, at) => `${{one(given[at], 'javascript:x')}}\\n`).join('')).join('~');\n",
        serde_json::json!(given)
    );
    let files = [
        ("truehook.toml", "[hook.mid]\nabout = \"M\"\n\n[[attach]]\nto = \"hook:mid\"\ncall = \"a.js#mid\"\n"),
        ("code/a.js", code.as_str()),
        ("markup/front.html", &front("[{{ place(\"hook:mid\") }}]")),
        ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"T\"\n"),
    ];
    // What was left out is told, which is no matter here.
    let html = between(&render(&files, "/").html);
    // A callback's own text is escaped on its way.
    let html = html
        .replace("&lt;", "<")
        .replace("&gt;", ">")
        .replace("&quot;", "\"")
        .replace("&#39;", "'")
        .replace("&amp;", "&");
    let wanted: String = wanted.iter().map(|(_, text)| format!("{text}\n")).collect();
    let times: Vec<&str> = html.split('~').collect();
    assert_eq!(times.len(), 3);
    for time in times {
        for (one, other) in time.lines().zip(wanted.lines()) {
            assert_eq!(one.trim(), other.trim());
        }
        assert_eq!(time.lines().count(), wanted.lines().count());
    }
}

#[test]
fn half_a_letter_is_printed_by_no_callback() {
    let code = "import { html } from \"truehook\";\nconst half = \"\\u{1f30a}\".slice(0, 1);\nexport const whole = () => html`${\"\\u{1f30a} <b>\"}`;\nexport const broken = () => html`<i>${`${half}<b>`}</i>`;\nexport const other = () => html`<i>${[1.5, true, 10n, `${half}`]}</i>`;\n";
    let attach =
        ["whole", "broken", "other"].map(|call| format!("[[attach]]\nto = \"hook:mid\"\ncall = \"a.js#{call}\"\n\n"));
    let manifest = format!("[hook.mid]\nabout = \"M\"\n\n{}", attach.concat());
    let page = front("[{{ place(\"hook:mid\") }}]");
    let files = [("truehook.toml", manifest.as_str()), ("code/a.js", code), ("markup/front.html", &page)];
    let (failures, html) = failing(&files);
    assert_eq!(html, "\u{1f30a} &lt;b&gt;");
    assert_eq!(failures, ["TypeError: html can't print a string that is not Unicode text"; 2]);
}

/// Values in a document that is the value of an attribute are read twice, and are text after both.
#[test]
fn documents_in_attributes_hold_text_as_text() {
    let evil = "<script>alert(1)</script>\"'";
    let files = theme(&[
        ("truehook.toml", "[hook.one]\nabout = \"O\"\n\n[[attach]]\nto = \"hook:one\"\ncall = \"a.js#framed\"\n"),
        (
            "markup/layout.html",
            "<head>{{ place(\"hook:document-head\") }}</head>{% block main %}<main>{{ place(\"region:main\") }}</main><iframe srcdoc=\"<p>{{ page.data.evil }}</p>\"></iframe>{{ place(\"hook:one\") }}{% endblock %}{{ place(\"hook:document-end\") }}",
        ),
        (
            "code/a.js",
            "import { html } from \"truehook\";\nexport const framed = ({ page }) => html`<iframe srcdoc='<b>${page.data.evil}</b>${html`<i>x</i>`}'></iframe>`;\n",
        ),
        ("preview/pages/a.toml", &format!("path = \"/\"\ntype = \"front\"\ntitle = \"A\"\n[data]\nevil = {evil:?}\n")),
    ]);
    let page = stage(&files).render("/").unwrap();
    // As a browser reads it: the value of the attribute, then the document in it.
    let read = |text: &str| {
        text.replace("&lt;", "<")
            .replace("&gt;", ">")
            .replace("&quot;", "\"")
            .replace("&#39;", "'")
            .replace("&#x27;", "'")
            .replace("&#x2f;", "/")
            .replace("&amp;", "&")
    };
    let values: Vec<String> = page
        .html
        .match_indices("srcdoc=")
        .map(|(at, _)| {
            let rest = &page.html[at + 7..];
            let quote = &rest[..1];
            read(rest[1..].split(quote).next().unwrap())
        })
        .collect();
    assert_eq!(values.len(), 2, "{}", page.html);
    for value in values {
        assert!(!value.contains("<script") && read(&value).contains("<script>alert(1)"), "{value}");
    }
    assert!(page.html.contains("&lt;i&gt;x"), "{}", page.html);
}

/// What only looks like the pieces of a template literal makes no markup.
#[test]
fn markup_comes_of_literals_of_the_theme_alone() {
    for forged in [
        "Object.assign([\"<script>\"], { raw: [\"<script>\"] })",
        "Object.freeze(Object.defineProperty([\"<script>\"], \"raw\", { value: Object.freeze([\"<script>\"]) }))",
        "Object.assign([\"<p>\" + \"<script>\"], { raw: [\"<p>\"] })",
        "new Proxy(((s) => s)`<p>`, { get: (of, key) => key === \"0\" ? \"<script>\" : of[key] })",
    ] {
        let module =
            format!("import {{ html }} from \"truehook\";\nhtml`<p>`;\nexport const bad = () => html({forged});\n");
        let files = theme(&[
            ("truehook.toml", "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#bad\"\n"),
            ("code/a.js", &module),
            ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\n"),
        ]);
        let page = stage(&files).render("/").unwrap();
        assert!(!page.html.contains("<script>"), "{forged}: {}", page.html);
        assert!(
            page.failures.iter().any(|failure| failure.source.as_deref() == Some("a.js#bad")),
            "{forged}: {:?}",
            page.failures
        );
    }
}

/// What people write into pages is theirs, and runs nothing, unless the contract says so.
#[test]
fn texts_of_pages_run_nothing() {
    let page = |host: &[(&str, &str)], theme_table: &str| {
        let body = "Words <b onclick=\"alert(1)\">here</b> <script>alert(2)</script> [x](javascript:alert(3))\n\n<div class=\"a\">kept</div>\n";
        let manifest = format!("[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\n{theme_table}");
        let mut all = vec![
            ("truehook.toml", manifest.as_str()),
            ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\nbody = \"a.md\"\n"),
            ("preview/pages/a.md", body),
        ];
        all.extend_from_slice(host);
        stage(&theme(&all)).render("/").unwrap()
    };
    let clean = page(&[], "");
    for gone in ["onclick", "<script>", "javascript:", "alert"] {
        assert!(!clean.html.contains(gone), "{gone}: {}", clean.html);
    }
    assert!(clean.html.contains("<b>here</b>") && clean.html.contains("<div class=\"a\">kept</div>"), "{}", clean.html);
    let told: Vec<&str> = clean.failures.iter().map(|failure| failure.message.as_str()).collect();
    assert_eq!(told.iter().filter(|text| text.contains("is taken out of the page's text")).count(), 3, "{told:?}");
}
