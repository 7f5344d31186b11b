//! Assets: which come to which page, in which order, with which addresses.

use crate::small::{front, render, theme};
use truehook_stage::Rendered;

const MARKUP: [(&str, &str); 4] = [
    ("media/a.css", "a { color: red; }\n"),
    ("media/b.css", "b { color: red; }\n"),
    ("media/a.js", "const Aa = 1;\n"),
    ("media/b.js", "const Bb = 2;\n"),
];

fn page(manifest: &str, template: &str, more: &[(&str, &str)]) -> Rendered {
    let text = front(template);
    let mut files = vec![("truehook.toml", manifest), ("markup/front.html", text.as_str())];
    files.extend(MARKUP);
    files.extend(more);
    let rendered = render(&files, "/");
    assert_eq!(rendered.failures, [], "{}", rendered.html);
    rendered
}

/// The names of the files that a page loads, those of the head before `|`.
fn loads(rendered: &Rendered) -> String {
    let (head, body) = rendered.html.split_once("</head>").unwrap();
    let names = |html: &str| {
        let addresses = html.split(['"', '>']).filter(|part| part.contains("/media/"));
        let name = |address: &str| address.rsplit('/').next().unwrap().split('?').next().unwrap().to_string();
        addresses.map(name).collect::<Vec<_>>().join(" ")
    };
    format!("{}|{}", names(head), names(body))
}

#[test]
fn what_no_component_needs_is_on_every_page_where_its_condition_holds() {
    let manifest = "[style.a]\nfile = \"a.css\"\n\n[style.b]\nfile = \"b.css\"\nwhen = \"page.type == 'list'\"\n\n[script.a]\nfile = \"a.js\"\n";
    assert_eq!(loads(&page(manifest, "[]", &[])), "a.css|a.js");
}

#[test]
fn what_a_component_needs_comes_with_it_alone() {
    let manifest = "[style.a]\nfile = \"a.css\"\n\n[script.a]\nfile = \"a.js\"\nneeds = [\"style:b\"]\n\n[style.b]\nfile = \"b.css\"\n\n[partial.dial]\nabout = \"D\"\nneeds = [\"script:a\"]\n";
    let dial = ("markup/partials/dial.html", "(dial)");
    assert_eq!(loads(&page(manifest, "[]", &[dial])), "a.css|", "needed through another asset, it waits, too");
    assert_eq!(loads(&page(manifest, "[{{ place(\"partial:dial\") }}]", &[dial])), "a.css b.css|a.js");
    let twice = "[{{ place(\"partial:dial\") }}{{ place(\"partial:dial\") }}]";
    assert_eq!(loads(&page(manifest, twice, &[dial])), "a.css b.css|a.js", "once each");
}

#[test]
fn components_deep_inside_bring_their_assets_and_so_do_those_at_the_very_end() {
    let manifest = "[style.a]\nfile = \"a.css\"\n\n[partial.inner]\nabout = \"I\"\nneeds = [\"bundle:all\"]\n\n[bundle.all]\nneeds = [\"style:a\", \"script:a\"]\n\n[script.a]\nfile = \"a.js\"\n\n[partial.outer]\nabout = \"O\"\n\n[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:outer\"\n";
    let more = [("markup/partials/inner.html", "i"), ("markup/partials/outer.html", "{{ place(\"partial:inner\") }}")];
    assert_eq!(loads(&page(manifest, "[]", &more)), "a.css|a.js");
}

#[test]
fn order_is_needs_then_priority_then_layer_then_position() {
    let manifest = "[style.z]\nfile = \"a.css\"\npriority = 10\n\n[style.y]\nfile = \"b.css\"\npriority = 5\nneeds = [\"style:x\"]\n\n[style.x]\nfile = \"x.css\"\npriority = 90\n\n[style.w]\nfile = \"w.css\"\npriority = 10\n";
    let more = [("media/x.css", ""), ("media/w.css", "")];
    assert_eq!(loads(&page(manifest, "[]", &more)), "a.css w.css x.css b.css|");
}

#[test]
fn a_script_that_one_of_the_head_needs_is_in_the_head() {
    let manifest =
        "[script.a]\nfile = \"a.js\"\n\n[script.b]\nfile = \"b.js\"\nat = \"head\"\nneeds = [\"script:a\"]\n";
    assert_eq!(loads(&page(manifest, "[]", &[])), "a.js b.js|");
}

#[test]
fn elements_say_where_styles_apply_and_what_modules_are() {
    let manifest = "[style.a]\nfile = \"a.css\"\nmedia = \"(width > 40rem)\"\n\n[script.m]\nfile = \"m.js\"\n";
    let rendered = page(manifest, "[]", &[("media/m.js", "import \"./a.js\";\n")]);
    assert!(rendered.html.contains("media=\"(width &gt; 40rem)\">"), "{}", rendered.html);
    assert!(rendered.html.contains("<script type=\"module\" src="), "{}", rendered.html);
}

#[test]
fn addresses_lead_to_the_files_and_change_with_their_content() {
    let manifest = "[style.a]\nfile = \"a.css\"\n";
    let address = |css: &str| {
        let html = page(manifest, "[]", &[("media/a.css", css)]).html;
        html.split('"').find(|part| part.contains("a.css")).unwrap().to_string()
    };
    let (one, other) = (address("a {}"), address("b {}"));
    assert!(one.starts_with("marsh/media/a.css?print=") && one != other, "{one} {other}");
    assert_eq!(one, address("a {}"));
}

#[test]
fn what_style_sheets_refer_to_comes_along_with_prints() {
    let manifest = "[style.a]\nfile = \"sheets/a.css\"\n";
    let css = "@import \"b.css\";\nbody { background: url(../pictures/p.svg); mask: url('data:image/svg+xml,x') }\n";
    let more = [
        ("media/sheets/a.css", css),
        ("media/sheets/b.css", "p { background: url(\"../pictures/q.svg#x\") }\n"),
        ("media/pictures/p.svg", "<svg/>"),
        ("media/pictures/q.svg", "<svg/>"),
        ("media/pictures/unused.svg", "<svg/>"),
    ];
    let rendered = page(manifest, "[]", &more);
    let mut names: Vec<&str> = rendered.media.iter().map(|(name, _)| name.as_str()).collect();
    names.sort_unstable();
    assert_eq!(
        names,
        [
            "marsh/media/pictures/p.svg",
            "marsh/media/pictures/q.svg",
            "marsh/media/sheets/a.css",
            "marsh/media/sheets/b.css"
        ]
    );
    let sheet = rendered.media.iter().find(|(name, _)| name.ends_with("a.css")).unwrap().1.text.clone().unwrap();
    assert!(sheet.contains("@import \"b.css?print="), "{sheet}");
    assert!(sheet.contains("url('data:image/svg+xml,x')"), "{sheet}");
}

#[test]
fn a_style_that_imports_itself_ends() {
    let more = [("media/a.css", "@import \"b.css\";"), ("media/b.css", "@import \"a.css\";")];
    let rendered = page("[style.a]\nfile = \"a.css\"\n", "[]", &more);
    assert_eq!(rendered.media.len(), 2);
}

#[test]
fn higher_layers_replace_files_and_drop_assets() {
    let base = "[theme]\nname = \"shore\"\nversion = \"1.0.0\"\nopen = true\n\n[style.a]\nfile = \"a.css\"\n\n[script.s]\nfile = \"s.js\"\n";
    let top = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\nbase = { path = \"../shore\" }\n";
    let below = [("../shore/truehook.toml", base), ("../shore/media/a.css", "x{}"), ("../shore/media/s.js", "0;")];
    let html = page(top, "[]", &below).html;
    assert!(html.contains("marsh/media/a.css") && html.contains("shore/media/s.js"), "the nearest file: {html}");
    let dropped = format!("{top}\n[script.s]\ndropped = true\n\n[style.a]\nfile = \"b.css\"\n");
    let rendered = page(&dropped, "[]", &below);
    assert_eq!(loads(&rendered), "b.css|");
}

#[test]
fn what_the_host_bundles_is_there_only_where_it_is_needed() {
    assert_eq!(loads(&page("", "[]", &[])), "|");
    let manifest =
        "[script.a]\nfile = \"a.js\"\nneeds = [\"script:disclosure\"]\n\n[feature.host-parts]\nsheet = true\n";
    let rendered = page(manifest, "[]", &[]);
    assert_eq!(loads(&rendered), "components.css|page-loaded.js disclosure.js a.js");
    let (_, file) = rendered.media.iter().find(|(name, _)| name == "host/media/disclosure.js").unwrap();
    let stage = crate::small::registry(&theme(&[]));
    let bytes = stage.project().media(file.layer, &file.path).unwrap();
    assert!(String::from_utf8(bytes).unwrap().contains("Disclosure"), "its bytes are inside the program");
}

#[test]
fn the_address_of_an_asset_can_be_asked_for() {
    let manifest = "[style.a]\nfile = \"a.css\"\n";
    let html = page(manifest, "[{{ asset(\"style:a\") }}]", &[]).html;
    assert!(crate::small::between(&html).starts_with("marsh/media/a.css?print="), "{html}");
}

#[test]
fn a_broken_condition_is_told_and_keeps_the_asset_away() {
    let manifest = "[style.a]\nfile = \"a.css\"\nwhen = \"page.type ==\"\n";
    let text = front("[]");
    let mut files = vec![("truehook.toml", manifest), ("markup/front.html", text.as_str())];
    files.extend(MARKUP);
    let rendered = render(&files, "/");
    assert!(!rendered.html.contains("a.css"));
    assert!(
        rendered.failures.iter().any(|failure| failure.point.as_deref() == Some("style:a")),
        "{:?}",
        rendered.failures
    );
}

#[test]
fn addresses_are_percent_encoded_and_read_decoded() {
    let more = [
        ("media/a b,c.svg", "<svg/>"),
        ("media/far off.png", "x"),
        ("media/in.css", "i { background: url(far%20off.png) }"),
    ];
    let manifest = "[style.in]\nfile = \"in.css\"\n";
    let rendered = page(manifest, "[<img alt=\"\" srcset=\"{{ asset(\"media/a b,c.svg\") }} 2x\">]", &more);
    assert!(rendered.html.contains("srcset=\"marsh/media/a%20b%2Cc.svg"), "{}", rendered.html);
    let files: Vec<&str> = rendered.media.iter().map(|(target, _)| target.as_str()).collect();
    assert!(files.contains(&"marsh/media/a b,c.svg") && files.contains(&"marsh/media/far off.png"), "{files:?}");
}

#[test]
fn modules_that_scripts_load_go_with_them() {
    let more = [
        ("media/main.js", "import { go } from \"./lib/go.js\";\nexport * from './more.js';\ngo();\n"),
        (
            "media/lib/go.js",
            "export async function go() { await import(\"../late.js\"); await import(\"./go.js\"); }\n",
        ),
        ("media/more.js", "export const more = 1;\n"),
        ("media/late.js", "export const late = 1;\n"),
        ("media/other.js", "export const other = 1;\n"),
    ];
    let rendered = page("[script.main]\nfile = \"main.js\"\n", "[]", &more);
    let files: Vec<&str> = rendered.media.iter().map(|(target, _)| target.as_str()).collect();
    for name in ["main.js", "lib/go.js", "more.js", "late.js"] {
        assert!(files.contains(&format!("marsh/media/{name}").as_str()), "{name}: {files:?}");
    }
    assert!(!files.contains(&"marsh/media/other.js"), "{files:?}");
}

#[test]
fn what_a_filter_makes_of_an_address_goes_with_the_page() {
    let attach = "[[attach]]\nto = \"filter:media-address\"\ncall = \"a.js#address\"\n";
    let text = front("[<img alt=\"\" src=\"{{ asset(\"media/small.svg\") }}\">]");
    let with = |code: &str| {
        let files = [
            ("truehook.toml", attach),
            ("code/a.js", code),
            ("markup/front.html", text.as_str()),
            ("media/small.svg", "<svg/>"),
            ("media/large.svg", "<svg/>"),
        ];
        render(&files, "/")
    };
    let larger = with("export function address(value) { return value.replace(\"small\", \"large\"); }");
    assert_eq!(larger.failures, []);
    assert!(larger.media.iter().any(|(target, _)| target == "marsh/media/large.svg"), "{:?}", larger.media);
    let nowhere = with("export function address(value) { return value.replace(\"small\", \"none\"); }");
    let said: Vec<&str> = nowhere.failures.iter().map(|failure| failure.message.as_str()).collect();
    assert!(
        matches!(said[..], [one] if one.contains("leads to no file of the theme: marsh/media/none.svg")),
        "{said:?}"
    );
    let elsewhere = with("export function address(value) { return \"https://example.org/\" + value; }");
    assert_eq!(elsewhere.failures, []);
    // A callback that asks for an address itself gets it, and is not called for that.
    let asking = with(
        "import { asset } from \"truehook\";\nexport function address(value) { return value + \"?of=\" + asset(\"media/large.svg\").length; }",
    );
    assert_eq!(asking.failures, []);
}
