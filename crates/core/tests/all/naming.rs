//! Values that name files, pages and entries: each is followed wherever it is written.

use super::restraint::{page, told};

/// A theme whose parts name things; each `@…@` is what a case puts there instead.
fn with(changed: &[(&str, &str)]) -> Vec<String> {
    let put = |text: &str| {
        let mut text = text.to_string();
        for (from, to) in changed {
            assert!(from.len() > 1, "{from}");
            text = text.replace(from, to);
        }
        text
    };
    told(&[
        (
            "truehook.toml",
            put(
                "[feature.pictures]\nemblem = true\nlead = true\nwidths = { wide = 960, thumb = 240 }\n\n[feature.colours.palette]\nmud = { label = \"Mud\", value = \"#4b3f35\" }\n\n\
                 [style.tide]\nfile = \"css/tide.css\"\n\n[partial.card]\ninputs.image = { type = \"string\", format = \"path\", default = \"media/default.svg\" }\ninputs.tone = { type = \"string\", format = \"palette\", default = \"mud\" }\ninputs.more = { type = \"string\", format = \"page\", default = \"/log/\" }\n",
            ),
        ),
        (
            "markup/partials/card.html",
            "<a href=\"{{ more }}\" class=\"{{ tone }}\"><img src=\"{{ image }}\" alt=\"\"></a>\n".into(),
        ),
        (
            "markup/page.html",
            put(&page(
                "{{ site.emblem.file }}{{ page.lead.file }}{{ place(\"partial:picture\", file=\"media/placed.svg\", alt=\"x\", at=\"wide\") }}{{ place(\"partial:picture\", file=\"media/placed.svg\", alt=\"x\", at=\"thumb\") }}{{ place(\"partial:card\", image=\"media/card.svg\", tone=\"mud\", more=\"/\") }}",
            )),
        ),
        (
            "preview/site.toml",
            put(
                "emblem = { file = \"media/emblem.svg\", alt = \"E\" }\n[menus]\nmain = [ { label = \"Today\", href = \"/\" }, { label = \"Log\", href = \"/log/#top\", entries = [ { label = \"Feed\", href = \"/feed.xml\" }, { label = \"Out\", href = \"https://example.org/nowhere/\" } ] } ]\n\
                 [fill]\n\"region:main\" = [ { use = \"partial:card\", image = \"media/item.svg\", tone = \"mud\", more = \"/log/\" } ]\n",
            ),
        ),
        (
            "preview/pages/front.toml",
            put(
                "path = \"/\"\ntype = \"front\"\ntitle = \"T\"\nbody = \"front.md\"\nlead = { file = \"media/lead.svg\", alt = \"L\" }\n",
            ),
        ),
        (
            "preview/pages/front.md",
            put(
                "See [the log](/log/) and ![a picture](media/body.svg), <img src=\"media/raw.svg\" alt=\"\">, [a map](media/map.svg).\n",
            ),
        ),
        ("preview/pages/log.toml", put("path = \"/log/\"\ntype = \"list\"\ntitle = \"L\"\nbody = \"log.html\"\n")),
        (
            "preview/pages/log.html",
            put("<p><a href=\"/\">Home</a> <img src=\"media/html.svg\" alt=\"\"> <a href=\"#here\">x</a></p>\n"),
        ),
        ("media/css/tide.css", ":root { color: var(--colour-mud); }\n".into()),
        ("media/emblem.svg", "<svg/>".into()),
        ("media/lead.svg", "<svg/>".into()),
        ("media/default.svg", "<svg/>".into()),
        ("media/placed.svg", "<svg/>".into()),
        ("media/card.svg", "<svg/>".into()),
        ("media/item.svg", "<svg/>".into()),
        ("media/body.svg", "<svg/>".into()),
        ("media/raw.svg", "<svg/>".into()),
        ("media/map.svg", "<svg/>".into()),
        ("media/html.svg", "<svg/>".into()),
    ])
}

#[test]
fn files_pages_and_entries_are_named_in_many_places() {
    assert_eq!(with(&[]), [""; 0]);
    for name in ["emblem", "lead", "default", "placed", "card", "item", "body", "raw", "map", "html"] {
        let (from, to) = (format!("media/{name}.svg"), format!("media/{name}x9.svg"));
        assert_eq!(with(&[(&from, &to)]), ["missing-file"], "{from}");
    }
    for (from, to, rule) in [
        ("at=\"thumb\"", "at=\"thmub\"", "input-value"),
        ("tone=\"mud\"", "tone=\"mdu\"", "input-value"),
        ("tone = \"mud\"", "tone = \"sand\"", "input-value"),
        ("default = \"mud\"", "default = \"mudd\"", "input-value"),
        ("more=\"/\"", "more=\"/lgo/\"", "missing-page"),
        ("more = \"/log/\"", "more = \"/lug/\"", "missing-page"),
        ("href = \"/log/#top\"", "href = \"/lgo/#top\"", "missing-page"),
        ("[the log](/log/)", "[the log](/logs/)", "missing-page"),
        ("<a href=\"/\">", "<a href=\"/home/\">", "missing-page"),
        ("path = \"/log/\"", "path = \"/\"", "doubled-path"),
        ("format = \"palette\"", "format = \"pallete\"", "manifest-syntax"),
    ] {
        let told = with(&[(from, to)]);
        let first = told.iter().filter(|other| *other == rule).count();
        assert_eq!(first, 1, "{from} → {to}: {told:?}");
    }
}

#[test]
fn a_file_that_lies_elsewhere_is_found() {
    let told = with(&[("media/card.svg", "card.svg")]);
    assert_eq!(told, ["missing-file"]);
}

#[test]
fn addresses_in_the_middle_of_attributes() {
    let with = |markup: &str, script: &str| {
        told(&[
            ("truehook.toml", "[script.wide]\nfile = \"wide.js\"\nat = \"end\"\n\n[menu.top]\nlabel = \"T\"\n".into()),
            ("markup/page.html", page(&format!("{{{{ place(\"menu:top\", class=\"a\", bare=true) }}}}{markup}"))),
            ("media/wide.js", script.into()),
            ("media/egret.svg", "<svg/>".into()),
            ("media/pictures/tern.svg", "<svg/>".into()),
        ])
    };
    let reads = "document.querySelectorAll(\"img\").forEach((image) => { image.src = image.dataset.wideSrc; });";
    for (markup, script, wanted) in [
        ("<img srcset=\"{{ asset('media/egret.svg') }} 1x, {{ asset('media/egret.svg') }} 2x\" alt=\"\">", "", &[][..]),
        ("<img srcset=\"{{ asset('media/egret.svg') }} 1x, media/egrte.svg 2x\" alt=\"\">", "", &["broken-address"]),
        ("<p style=\"color: red; background: url('media/nothing.svg')\">x</p>", "", &["broken-address"]),
        ("<p style=\"background: url({{ asset('media/egret.svg') }})\">x</p>", "", &[]),
        ("<p data-wide-src=\"media/egrte.svg\">x</p>", reads, &["broken-address"]),
        ("<p data-wide-src=\"media/egrte.svg\">x</p>", "", &[]),
        ("<p data-wide-src=\"{{ asset('media/egret.svg') }}\">x</p>", reads, &[]),
        ("<p data-wide-src=\"soon\">x</p>", reads, &[]),
        ("<p data-wide-src=\"media/egrte.svg\">x</p>", "x.getAttribute(\"data-wide-src\");", &["broken-address"]),
        ("<img src=\"tern.svg\" alt=\"\">", "", &["broken-address"]),
    ] {
        let told: Vec<String> = with(markup, script).into_iter().filter(|rule| rule != "unstated-need").collect();
        assert_eq!(told, wanted, "{markup} {script}");
    }
}

#[test]
fn what_menus_are_placed_with_fits() {
    let with = |args: &str| {
        told(&[
            ("truehook.toml", "[menu.top]\nlabel = \"T\"\n".into()),
            ("markup/page.html", page(&format!("{{{{ place(\"menu:top\", {args}) }}}}"))),
        ])
    };
    assert_eq!(with("class=\"a\", bare=false"), [""; 0]);
    assert_eq!(with("class=3"), ["input-value"]);
    assert_eq!(with("bare=\"yes\""), ["input-value"]);
}

#[test]
fn plurals_of_translations() {
    const HEADER: &str =
        "msgid \"\"\nmsgstr \"Language: xx\\nPlural-Forms: nplurals=3; plural=(n==1 ? 0 : n<5 ? 1 : 2);\\n\"\n\n";
    let with = |entry: &str| {
        told(&[
            ("truehook.toml", "[feature.translations]\n".into()),
            (
                "markup/page.html",
                page(
                    "{{ \"{count} tide at {place}\" | t(plural=\"{count} tides at {place}\", count=2, place=\"x\") }}{{ \"{count} in all\" | t(count=3) }}",
                ),
            ),
            ("words/xx.po", format!("{HEADER}{entry}\n\nmsgid \"{{count}} in all\"\nmsgstr \"{{count}} y\"\n")),
        ])
    };
    let entry = |plural: &str, forms: &[&str]| {
        let forms: String = forms.iter().enumerate().map(|(at, form)| format!("msgstr[{at}] \"{form}\"\n")).collect();
        format!("msgid \"{{count}} tide at {{place}}\"\nmsgid_plural \"{plural}\"\n{forms}")
    };
    let plural = "{count} tides at {place}";
    for (text, wanted) in [
        (entry(plural, &["{count} a {place}", "{count} b {place}", "{count} c {place}"]), &[][..]),
        // The first form goes with one tide alone.
        (entry(plural, &["a {place}", "{count} b {place}", "{count} c {place}"]), &[]),
        (entry(plural, &["{count} a {place}", "b {place}", "{count} c {place}"]), &["placeholder-mismatch"]),
        (entry(plural, &["{count} a {place}", "{count} b {place}", "{count} c"]), &["placeholder-mismatch"]),
        (entry(plural, &["{count} a {place}", "{count} b {place}"]), &["plural-forms"]),
        (
            entry("{count} tydes at {place}", &["{count} a {place}", "{count} b {place}", "{count} c {place}"]),
            &["plural-forms"],
        ),
        ("msgid \"{count} tide at {place}\"\nmsgstr \"{count} a {place}\"\n".into(), &["plural-forms"]),
    ] {
        assert_eq!(with(&text), wanted, "{text}");
    }
    let counted = |form: &str| {
        let good = entry(plural, &["{count} a {place}", "{count} b {place}", "{count} c {place}"]);
        told(&[
            ("truehook.toml", "[feature.translations]\n".into()),
            (
                "markup/page.html",
                page(
                    "{{ \"{count} tide at {place}\" | t(plural=\"{count} tides at {place}\", count=2, place=\"x\") }}{{ \"{count} in all\" | t(count=3) }}",
                ),
            ),
            ("words/xx.po", format!("{HEADER}{good}\n\nmsgid \"{{count}} in all\"\nmsgstr \"{form}\"\n")),
        ])
    };
    assert_eq!(counted("{count} y"), [""; 0]);
    assert_eq!(counted("y"), ["placeholder-mismatch"]);
}

#[test]
fn names_and_labels_that_can_not_be() {
    let with = |input: &str, label: &str| {
        told(&[
            (
                "truehook.toml",
                format!(
                    "[partial.card]\ninputs.{input} = {{ type = \"string\", default = \"\" }}\n\n[region.aside]\nlabel = \"{label}\"\n"
                ),
            ),
            ("markup/partials/card.html", format!("<p>{{{{ {input} }}}}</p>\n")),
            ("markup/page.html", page("{{ place(\"partial:card\") }}{{ place(\"region:aside\") }}")),
        ])
    };
    assert_eq!(with("text", "A"), [""; 0]);
    for input in [
        "place", "note", "asset", "filled", "enabled", "range", "use", "holds", "when", "page", "loop", "super",
        "caller",
    ] {
        assert!(with(input, "A").contains(&"bad-name".to_string()), "{input}: {:?}", with(input, "A"));
    }
    assert_eq!(with("text", ""), ["label-missing"]);
    assert_eq!(with("text", "  "), ["label-missing"]);
}

#[test]
fn an_inner_piece_belongs_to_its_section() {
    let with = |used: &str| {
        told(&[
            ("truehook.toml", "[section.band]\nlabel = \"B\"\nholds = [\"piece:*\"]\noffer = [{ label = \"One\" }]\n[section.band.piece.caption]\nlabel = \"C\"\n".into()),
            ("markup/sections/band.html", "<section>{{ place(\"held\") }}</section>\n".into()),
            ("markup/sections/band/caption.html", "<p>x</p>\n".into()),
            ("markup/page.html", page("{{ place(\"sections\") }}")),
            ("preview/site.toml", format!("[fill]\n\"region:main\" = [ {used} ]\n")),
        ])
    };
    assert_eq!(with("{ use = \"section:band\", holds = [ { use = \"piece:caption\" } ] }"), [""; 0]);
    assert_eq!(with("{ use = \"piece:caption\" }"), ["may-not-hold"]);
    assert_eq!(with("{ use = \"piece:band/caption\" }"), ["may-not-hold"]);
}
