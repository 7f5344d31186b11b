//! Callbacks of every role: what they get, what they may return, and what happens where they fail.

use crate::small::{failing, front, render, shown, stage, theme};
use truehook_stage::{Output, Rendered};

/// A theme with a callback of every role, all of which say that they ran.
const MANIFEST: &str = "[region.side]\nlabel = \"Side\"\n\n[area.notes]\nlabel = \"Notes\"\nwrap = '{{ body }}'\n\n[menu.top]\nlabel = \"Top\"\n\n[filter.words]\nvalue = { type = \"string\" }\n\n[hook.mid]\nabout = \"M\"\n\n\
    [partial.card]\ninputs.text = { type = \"string\", default = \"card\" }\n\n[partial.made]\nabout = \"By a callback\"\nrender = \"a.js#made\"\n\n\
    [section.band]\nlabel = \"Band\"\nholds = [\"piece:*\"]\noffer = [{ label = \"A band\" }]\ninputs.text = { type = \"string\", default = \"band\" }\n\n[piece.dot]\nlabel = \"Dot\"\noffer = [{ label = \"A dot\" }]\ninputs.text = { type = \"string\", default = \"dot\" }\n\n\
    [template.front]\ninputs.text = { type = \"string\", default = \"front\" }\n";
/// Each attachment: its point, its function, and the function's text.
const CALLBACKS: [(&str, &str, &str); 12] = [
    ("hook:mid", "listen", "() { return \"listened \"; }"),
    ("filter:words", "filter", "(value) { return value + \" filtered\"; }"),
    ("region:side", "side", "(items) { return [...items, { use: \"partial:card\", text: \"side\" }]; }"),
    ("area:notes", "notes", "(items) { return [...items, { use: \"partial:card\", text: \"note\" }]; }"),
    ("menu:top", "menu", "(entries) { return [...entries, { label: \"added\", href: \"/x/\" }]; }"),
    ("partial:card", "card", "(inputs) { return { ...inputs, text: inputs.text + \" prepared\" }; }"),
    ("section:band", "band", "(inputs) { return { ...inputs, text: inputs.text + \" prepared\" }; }"),
    ("piece:dot", "dot", "(inputs) { return { ...inputs, text: inputs.text + \" prepared\" }; }"),
    ("template:front", "page", "(inputs) { return { ...inputs, text: inputs.text + \" prepared\" }; }"),
    ("filter:page-heading", "heading", "(value) { return value + \" headed\"; }"),
    ("hook:page-ready", "ready", "({ site }) { site.store.set(\"a\", 1); }"),
    ("", "made", "() { return \"made\"; }"),
];

/// The theme's front page, with another text for one of the functions.
fn with(changed: &str, text: &str) -> Rendered {
    let mut manifest = MANIFEST.to_string();
    let mut code = String::new();
    for (point, name, body) in CALLBACKS {
        if !point.is_empty() {
            manifest.push_str(&format!("\n[[attach]]\nto = \"{point}\"\ncall = \"a.js#{name}\"\n"));
        }
        code.push_str(&format!("export function {name}{}\n", if name == changed { text } else { body }));
    }
    let page = front(
        "{{ text }}|{{ page.heading }}|{{ place(\"hook:mid\") }}|{{ \"w\" | through(\"filter:words\") }}|{{ place(\"region:side\") }}|{{ place(\"area:notes\") }}|{{ place(\"menu:top\", bare=true) }}|{{ place(\"partial:made\") }}|{{ place(\"sections\") }}",
    );
    render(
        &[
            ("truehook.toml", &manifest),
            ("code/a.js", &code),
            ("markup/front.html", &page),
            ("markup/partials/card.html", "<i>{{ text }}</i>"),
            ("markup/sections/band.html", "<b>{{ text }}{{ place(\"held\") }}</b>"),
            ("markup/pieces/dot.html", "<u>{{ text }}</u>"),
            (
                "preview/site.toml",
                "[menus]\nmain = [ { label = \"A\", href = \"/a/\" } ]\n\n[fill]\n\"menu:top\" = \"main\"\n\"region:side\" = [ { use = \"partial:card\" } ]\n",
            ),
            (
                "preview/pages/a.toml",
                "path = \"/\"\ntype = \"front\"\ntitle = \"T\"\nsections = [ { use = \"section:band\", holds = [ { use = \"piece:dot\" } ] } ]\n",
            ),
        ],
        "/",
    )
}

const GOOD: &str = "front prepared|T headed|listened |w filtered|<i>card prepared</i><i>side prepared</i>|<i>note prepared</i>|<a href=\"/a/\">A</a>\n<a href=\"/x/\">added</a>\n|made|<b>band prepared<u>dot prepared</u></b>";

fn main_of(rendered: &Rendered) -> String {
    let html = &rendered.html;
    let start = html.find("</head>").unwrap() + "</head>".len();
    // The bundled menu begins with the blank lines of its macros.
    html[start..].replace("\n\n\n", "").replace("\n\n", "").replace("|\n", "|")
}

#[test]
fn all_roles_have_their_say() {
    let rendered = with("", "");
    assert_eq!(rendered.failures, []);
    assert_eq!(main_of(&rendered), GOOD);
}

#[test]
fn one_failing_callback_of_any_role_leaves_all_else_as_it_was() {
    // What each failure takes from the page, and nothing more.
    let lost = [
        ("listen", "listened ", ""),
        ("filter", "w filtered", "w"),
        ("side", "<i>side prepared</i>", ""),
        ("notes", "<i>note prepared</i>", ""),
        ("menu", "<a href=\"/x/\">added</a>\n", ""),
        ("card", "", ""),
        ("band", "band prepared", "band"),
        ("dot", "dot prepared", "dot"),
        ("page", "front prepared", "front"),
        ("heading", "T headed", "T"),
        ("ready", "", ""),
        ("made", "|made|", "||"),
    ];
    for (name, from, to) in lost {
        let wanted = match name {
            "card" => {
                GOOD.replace("card prepared", "card").replace("side prepared", "side").replace("note prepared", "note")
            }
            _ if from.is_empty() => GOOD.to_string(),
            _ => GOOD.replace(from, to),
        };
        for body in [
            "() {\n  throw new Error(\"no\");\n}",
            "() {\n  return null.x;\n}",
            "() {\n  for (;;) {}\n}",
            "() {\n  return [].x.y;\n}",
        ] {
            let rendered = with(name, body);
            assert_eq!(main_of(&rendered), wanted, "{name}{body}");
            assert!(!rendered.failures.is_empty(), "{name}{body}");
            for failure in &rendered.failures {
                let (file, line, column) = failure.place.clone().expect("it says where");
                assert!(
                    failure.source.as_deref().is_some_and(|source| source.ends_with(&format!("a.js#{name}"))),
                    "{failure:?}"
                );
                assert!(file == "code/a.js" && line > 0 && column > 0, "{failure:?}");
            }
        }
    }
}

#[test]
fn what_is_of_the_wrong_type_counts_as_a_failure() {
    let wrong = [
        ("listen", "() { return { a: 1 }; }", "object where markup or text belongs"),
        ("filter", "() { return 3; }", "integer where string belongs"),
        ("filter", "() {}", "returned nothing"),
        ("side", "() { return \"x\"; }", "string where the items, a list belongs"),
        ("menu", "() {}", "nothing where the items, a list belongs"),
        ("dot", "() { return []; }", "array where the inputs, an object belongs"),
        ("dot", "() { return { text: 3 }; }", "`text` is integer where string belongs"),
        ("heading", "() { return null; }", "null where string belongs"),
        ("ready", "() { return \"x\"; }", "prints nothing"),
        ("made", "() { return Promise.resolve(1); }", "a promise"),
    ];
    for (name, body, message) in wrong {
        let rendered = with(name, body);
        let told: Vec<&str> = rendered.failures.iter().map(|failure| failure.message.as_str()).collect();
        assert!(told.iter().any(|told| told.contains(message)), "{name}{body}: {told:?}");
    }
}

#[test]
fn the_host_fires_its_filters_and_prints_root_attributes() {
    let manifest = "[[attach]]\nto = \"filter:root-attributes\"\ncall = \"a.js#root\"\n\n[[attach]]\nto = \"filter:summary\"\ncall = \"a.js#short\"\n\n[[attach]]\nto = \"filter:media-address\"\ncall = \"a.js#far\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#end\"\n";
    let code = "import { asset } from \"truehook\";\nexport const root = (attributes, { page }) => ({ ...attributes, class: `a\" ${page.type}`, hidden: true, open: false, none: null, \"on click\": \"x\" });\nexport const short = (value) => value.slice(0, 3);\nexport const far = (address) => `https://media.example/${address}`;\nexport const end = ({ page }) => `|${page.summary}|${asset(\"media/a.svg\").split(\"?\")[0]}`;\n";
    let rendered = render(
        &[
            ("truehook.toml", manifest),
            ("code/a.js", code),
            ("media/a.svg", "<svg/>"),
            (
                "markup/entry.html",
                "[<html {{ page.root }}>{{ page.summary }}|{{ asset(\"media/a.svg\") | split(\"?\") | first }}{{ place(\"hook:document-end\") }}]",
            ),
            ("preview/site.toml", "language = \"de\"\n"),
            (
                "preview/pages/a.toml",
                "path = \"/\"\ntype = \"entry\"\ntitle = \"T\"\nsummary = \"Summary\"\ndate = 2026-01-02\n",
            ),
        ],
        "/",
    );
    assert_eq!(rendered.failures, []);
    let address = "https://media.example/marsh/media/a.svg";
    assert_eq!(
        rendered.html,
        format!("[<html lang=\"de\" class=\"a&quot; entry\" hidden>Sum|{address}|Sum|{address}]"),
        "templates and callbacks see the same"
    );
}

#[test]
fn without_callbacks_the_page_has_its_title_and_language() {
    let page = front("[{{ page.heading }} {{ page.root }}]");
    assert_eq!(shown(&[("markup/front.html", &page)]), "A page of type front lang=\"en\"");
}

#[test]
fn moments_share_a_store_and_are_never_placed() {
    let manifest = "[[attach]]\nto = \"hook:site-ready\"\ncall = \"a.js#first\"\n\n[[attach]]\nto = \"hook:page-ready\"\ncall = \"a.js#second\"\n\n[[attach]]\nto = \"hook:theme-chosen\"\ncall = \"a.js#switched\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#end\"\n";
    let code = "export const first = ({ site }) => { site.store.set(\"seen\", 1); };\nexport const second = ({ site, page }) => { if (site.store.get(\"seen\") !== 1) throw new Error(\"lost\"); site.store.set(page.type, [1, { a: null }]); };\nexport const switched = ({ site }) => { site.store.set(\"since\", site.now); };\nexport const end = ({ site }) => String(site.store);\n";
    let page = front("[{{ place(\"hook:document-end\") }}{{ place(\"hook:page-ready\") }}]");
    let files = [("truehook.toml", manifest), ("code/a.js", code), ("markup/front.html", page.as_str())];
    let (failures, html) = failing(&files);
    assert_eq!(html, "undefined", "only moments have the store");
    assert_eq!(failures, ["it is a moment, which the host fires"]);
    let stage = stage(&theme(&files));
    let fired = stage.fire("hook:theme-chosen".parse().unwrap(), "/", Vec::new()).unwrap();
    assert_eq!(fired.output, Output::Stored("{\"since\":\"2026-01-01T00:00:00Z\"}".into()));
    assert!(stage.fire("hook:theme-chosen".parse().unwrap(), "/none/", Vec::new()).is_none());
}

#[test]
fn callbacks_see_their_point_and_what_it_passes_on() {
    let manifest = "[hook.mid]\nabout = \"M\"\nargs.list = { type = \"array\" }\n\n[filter.words]\nvalue = { type = \"string\" }\nargs.n = { type = \"integer\" }\n\n[[attach]]\nto = \"hook:mid\"\ncall = \"a.js#tell\"\n\n[[attach]]\nto = \"filter:words\"\ncall = \"a.js#times\"\n";
    let code = "import { through } from \"truehook\";\nexport const tell = ({ point, args, theme, page }) => `${point} ${args.list.length} ${theme.name} ${page.path} ${through(\"filter:words\", \"y\", { n: 3 })}`;\nexport const times = (value, { args, point }) => value.repeat(args.n) + point;\n";
    let page = front("[{{ place(\"hook:mid\", list=[1, 2]) }} {{ \"x\" | through(\"filter:words\", n=2) }}]");
    let files = [("truehook.toml", manifest), ("code/a.js", code), ("markup/front.html", page.as_str())];
    assert_eq!(shown(&files), "hook:mid 2 marsh / yyyfilter:words xxfilter:words");
}

#[test]
fn items_are_arranged_once_however_often_they_are_asked_for() {
    let manifest = "[region.side]\nlabel = \"Side\"\n\n[[attach]]\nto = \"region:side\"\ncall = \"a.js#turn\"\n";
    let page = front("[{{ filled(\"region:side\") }}{{ filled(\"region:side\") }}{{ place(\"region:side\") }}]");
    let code =
        "let times = 0;\nexport const turn = () => [{ use: \"partial:link\", href: \"/\", text: `${++times}` }];\n";
    let files = [("truehook.toml", manifest), ("code/a.js", code), ("markup/front.html", page.as_str())];
    assert_eq!(shown(&files), "truetrue<a href=\"/\">1</a>");
}

#[test]
fn a_watched_page_keeps_what_went_in_and_what_came_out() {
    let manifest =
        "[filter.words]\nvalue = { type = \"string\" }\n\n[[attach]]\nto = \"filter:words\"\ncall = \"a.js#up\"\n";
    let page = front("{{ \"a\" | through(\"filter:words\") }}{{ note([1, \"x\"]) }}");
    let files = [
        ("truehook.toml", manifest),
        ("code/a.js", "export const up = (value) => value.toUpperCase();\n"),
        ("markup/front.html", page.as_str()),
    ];
    let stage = stage(&theme(&files));
    let watched = stage.watch("/").unwrap();
    let values = watched.trace.steps[0].values.as_ref().unwrap();
    assert_eq!((values.before.as_str(), values.after.as_str()), ("\"a\"", "\"A\""));
    assert_eq!((watched.trace.notes[0].after, watched.trace.notes[0].text.as_str()), (1, "[1,\"x\"]"));
    let plain = stage.render("/").unwrap();
    assert_eq!((plain.html, plain.trace.steps[0].values.clone()), (watched.html, None));
}

/// The checker's list of the language's own names, against the engine itself.
#[test]
fn what_the_checker_takes_for_given_is_there() {
    let all = "Object.getOwnPropertyNames(globalThis).sort().join(' ')";
    let shown = with("listen", &format!("() {{ return `[${{{all}}}]`; }}")).html;
    let shown = shown.split_once('[').and_then(|(_, rest)| rest.split_once(']')).map_or("", |(shown, _)| shown);
    let mut there: Vec<&str> = shown.split_whitespace().filter(|name| *name != "truehook").collect();
    there.push("arguments");
    there.sort_unstable();
    let mut known = truehook_core::scan::LANGUAGE.to_vec();
    known.sort_unstable();
    assert_eq!(known, there);
}

#[test]
fn arguments_that_are_not_passed_have_their_defaults() {
    let manifest = "[hook.mid]\nabout = \"M\"\nargs = { colour = { type = \"string\", default = \"red\" }, size = { type = \"integer\" } }\n\n\
        [filter.words]\nvalue = { type = \"string\" }\nargs = { mark = { type = \"string\", default = \"!\" } }\n\n\
        [[attach]]\nto = \"hook:mid\"\ncall = \"a.js#say\"\n\n[[attach]]\nto = \"filter:words\"\ncall = \"a.js#mark\"\n";
    let code = "export function say({ args }) { return `${args.colour} ${args.size} `; }\nexport function mark(value, { args }) { return value + args.mark; }\n";
    let page = front(
        "[{{ place(\"hook:mid\", size=1) }}{{ place(\"hook:mid\", colour=\"blue\", size=2) }}{{ \"w\" | through(\"filter:words\") }}{{ \"w\" | through(\"filter:words\", mark=\"?\") }}]",
    );
    assert_eq!(
        shown(&[("truehook.toml", manifest), ("code/a.js", code), ("markup/front.html", &page)]),
        "red 1 blue 2 w!w?"
    );
}

#[test]
fn what_is_not_there_prints_nothing() {
    let fill = ("preview/site.toml", "[fill]\n\"region:main\" = [{ use = \"partial:body\" }]\n");
    let empty = ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"T\"\n");
    let page = front("[{{ place(\"region:main\") }}{{ page.body }}{{ page.data.none }}]");
    assert_eq!(shown(&[("markup/front.html", &page), fill, empty]).trim(), "");
}
