//! Pages from other sources than the theme's preview: a site of the test's own, which gives what it was given.

use std::sync::Arc;

use proptest::prelude::*;
use serde_json::{Map, Value, json};
use truehook_stage::{PageContent, PageInfo, Rendered, Site, Theme};

use crate::small::{between, front, registry, theme};

/// A site whose pages lie in a list.
#[derive(Clone, Default)]
struct Shelf {
    values: Value,
    pages: Vec<(PageInfo, Value, Option<String>)>,
}

fn table(value: &Value) -> Map<String, Value> {
    value.as_object().cloned().unwrap_or_default()
}

impl Shelf {
    fn new(values: Value) -> Shelf {
        Shelf { values, pages: Vec::new() }
    }

    fn page(mut self, info: PageInfo, values: Value, body: Option<&str>) -> Shelf {
        self.pages.push((info, values, body.map(str::to_string)));
        self
    }
}

impl Site for Shelf {
    fn values(&self) -> Map<String, Value> {
        table(&self.values)
    }

    fn pages(&self) -> Vec<PageInfo> {
        self.pages.iter().map(|(info, ..)| info.clone()).collect()
    }

    fn page(&self, path: &str) -> Option<PageContent> {
        let (_, values, body) = self.pages.iter().find(|(info, ..)| info.path == path)?;
        let content = PageContent::new(table(values));
        Some(match body {
            Some(body) => content.with_body(body),
            None => content,
        })
    }
}

fn on_shelf(files: &[(&str, &str)], shelf: Shelf, path: &str) -> Rendered {
    let theme = Theme::new(Arc::new(registry(&theme(files))));
    theme.stage(Arc::new(shelf)).render(path).unwrap()
}

fn today() -> PageInfo {
    PageInfo::new("/", "front", "Today")
}

#[test]
fn a_page_is_shown_with_what_the_site_says_of_it() {
    let page =
        front("[{{ page.title }}|{{ page.data.tide }}|{{ site.title }}|{{ page.path }}|{{ page.body }}]{{ super() }}");
    let shelf = Shelf::new(json!({ "title": "Quay & sons" })).page(
        today(),
        json!({ "data": { "tide": 3.5 } }),
        Some("<p>It is <b>markup</b>.</p>"),
    );
    let rendered = on_shelf(&[("markup/front.html", &page)], shelf, "/");
    assert_eq!(rendered.failures, []);
    assert_eq!(between(&rendered.html), "Today|3.5|Quay &amp; sons|/|<p>It is <b>markup</b>.</p>");
}

#[test]
fn a_site_that_says_nothing_has_the_theme_s_name_and_no_motto() {
    let manifest =
        "[filter.line]\nvalue = { type = \"string\" }\n\n[[attach]]\nto = \"filter:line\"\ncall = \"a.js#line\"\n";
    let page = front("[{{ site.title }}|{{ site.motto | through(\"filter:line\") }}|{{ site.language }}]{{ super() }}");
    let files = [
        ("truehook.toml", manifest),
        ("code/a.js", "export const line = (value) => value.replace(/[.]$/, \"\");\n"),
        ("markup/front.html", page.as_str()),
    ];
    let rendered = on_shelf(&files, Shelf::new(json!({})).page(today(), json!({}), None), "/");
    assert_eq!(rendered.failures, []);
    assert_eq!(between(&rendered.html), "Marsh||en");
}

#[test]
fn the_theme_s_own_preview_counts_for_nothing_there() {
    let page = front("[{{ site.title }}{{ place(\"region:aside\") }}]{{ super() }}");
    let files = [
        ("markup/front.html", page.as_str()),
        ("markup/partials/note.html", "<i>note</i>"),
        ("truehook.toml", "[partial.note]\nabout = \"N\"\n"),
        ("preview/site.toml", "title = \"Preview\"\n\n[fill]\n\"region:aside\" = [ { use = \"partial:note\" } ]\n"),
        ("preview/pages/a.toml", "path = \"/other/\"\ntype = \"page\"\ntitle = \"Other\"\n"),
    ];
    let theme = Theme::new(Arc::new(registry(&theme(&files))));
    let stage = theme.stage(Arc::new(Shelf::new(json!({ "title": "Live" })).page(today(), json!({}), None)));
    assert_eq!(between(&stage.render("/").unwrap().html), "Live");
    assert!(stage.render("/other/").is_none(), "a page of the preview");
    assert_eq!(stage.pages().len(), 1);
    let preview = theme.stage(Arc::new(theme.preview()));
    assert_eq!(between(&preview.render("/").unwrap().html), "Preview<i>note</i>", "a sample of a page stands in");
}

#[test]
fn a_site_fills_regions_areas_menus_and_options() {
    let manifest = "[partial.note]\ninputs.text = { type = \"string\", default = \"\" }\n\n[area.notes]\nlabel = \"N\"\nwrap = '<div>{{ title }}{{ body }}</div>'\n\n\
        [menu.top]\nlabel = \"T\"\n\n[option.mood]\nlabel = \"M\"\nenum = [\"calm\", \"wild\"]\ndefault = \"calm\"\n";
    let page = front(
        "[{{ options.mood }};{{ place(\"region:aside\") }};{{ place(\"area:notes\") }};{{ place(\"menu:top\", bare=true) }}]{{ super() }}",
    );
    let files = [
        ("truehook.toml", manifest),
        ("markup/front.html", page.as_str()),
        ("markup/partials/note.html", "<i>{{ text }}</i>"),
    ];
    let shelf = Shelf::new(json!({
        "options": { "mood": "wild" },
        "menus": { "main": [{ "label": "Away", "href": "/away/" }] },
        "fill": {
            "region:aside": [{ "use": "partial:note", "text": "a" }, { "use": "partial:note", "text": "b", "when": "page.type == 'list'" }],
            "area:notes": [{ "use": "partial:note", "title": "T", "text": "c" }],
            "menu:top": "main",
        },
    }));
    let rendered = on_shelf(&files, shelf.page(today(), json!({}), None), "/");
    assert_eq!(rendered.failures, []);
    assert_eq!(
        between(&rendered.html).replace('\n', ""),
        "wild;<i>a</i>;<div><h3>T</h3><i>c</i></div>;<a href=\"/away/\">Away</a>"
    );
}

#[test]
fn a_value_that_an_option_may_not_have_is_its_default() {
    let files = [
        ("truehook.toml", "[option.mood]\nlabel = \"M\"\nenum = [\"calm\", \"wild\"]\ndefault = \"calm\"\n"),
        ("markup/front.html", &front("[{{ options.mood }}]{{ super() }}")),
    ];
    let shelf = Shelf::new(json!({ "options": { "mood": "<script>", "other": 1 } })).page(today(), json!({}), None);
    assert_eq!(between(&on_shelf(&files, shelf, "/").html), "calm");
}

#[test]
fn lists_and_feeds_hold_the_pages_of_the_site() {
    let shelf = Shelf::new(json!({ "title": "S", "language": "en", "now": "2026-03-01T06:10:00Z" }))
        .page(PageInfo::new("/log/", "list", "Log"), json!({}), None)
        .page(PageInfo::new("/log/a/", "entry", "First").written("2026-01-01"), json!({ "summary": "One" }), None)
        .page(PageInfo::new("/log/b/", "entry", "Second").written("2026-02-01"), json!({}), Some("<p>two</p>"));
    let manifest = "[feature.newsfeed]\n";
    let files = [
        ("truehook.toml", manifest),
        (
            "markup/list.html",
            "{% extends \"layout.html\" %}{% block main %}[{% for entry in page.entries %}{{ entry.title }} {{ entry.path }};{% endfor %}]{{ super() }}{% endblock %}",
        ),
    ];
    let theme = Theme::new(Arc::new(registry(&theme(&files))));
    let stage = theme.stage(Arc::new(shelf));
    let rendered = stage.render("/log/").unwrap();
    assert_eq!(between(&rendered.html), "Second /log/b/;First /log/a/;", "{:?}", rendered.failures);
    let feeds = stage.files();
    assert_eq!(feeds.len(), 1);
    let feed = &feeds[0].1;
    assert!(feed.find("Second").unwrap() < feed.find("First").unwrap(), "{feed}");
    assert!(!feed.contains(">Log<"), "{feed}");
}

#[test]
fn the_language_of_a_stage_takes_the_place_of_the_site_s() {
    let files = [("markup/front.html", front("[{{ site.language }}]{{ super() }}"))];
    let theme = Theme::new(Arc::new(registry(&theme(&[(files[0].0, &files[0].1)]))));
    let site = || Arc::new(Shelf::new(json!({ "language": "en" })).page(today(), json!({}), None));
    let shown = |language: Option<&str>| between(&theme.stage_in(site(), language).render("/").unwrap().html);
    assert_eq!(shown(None), "en");
    assert_eq!(shown(Some("de")), "de");
}

#[test]
fn of_a_page_that_can_not_be_had_is_shown_what_the_list_says() {
    struct Torn;
    impl Site for Torn {
        fn values(&self) -> Map<String, Value> {
            Map::new()
        }
        fn pages(&self) -> Vec<PageInfo> {
            vec![today()]
        }
        fn page(&self, _: &str) -> Option<PageContent> {
            None
        }
    }
    let theme = Theme::new(Arc::new(registry(&theme(&[(
        "markup/front.html",
        &front("[{{ page.title }}|{{ page.body }}]{{ super() }}"),
    )]))));
    let stage = theme.stage(Arc::new(Torn));
    assert_eq!(between(&stage.render("/").unwrap().html), "Today|");
    assert!(stage.render("/none/").is_none());
}

#[test]
fn a_page_of_a_type_that_nobody_knows_is_told() {
    let shelf = Shelf::new(json!({})).page(PageInfo::new("/", "stranger", "S"), json!({}), None);
    let rendered = on_shelf(&[], shelf, "/");
    assert!(!rendered.failures.is_empty(), "{}", rendered.html);
}

#[test]
fn threads_share_a_theme_and_render_alike() {
    let manifest = "[hook.mid]\nabout = \"M\"\n\n[[attach]]\nto = \"hook:mid\"\ncall = \"a.js#mid\"\n";
    let page = front("[{{ place(\"hook:mid\") }}]{{ super() }}");
    let files = [
        ("truehook.toml", manifest),
        ("markup/front.html", page.as_str()),
        ("markup/page.html", page.as_str()),
        (
            "code/a.js",
            "import { html } from \"truehook\";\nexport const mid = ({ page }) => html`<b>${page.title}</b>`;\n",
        ),
    ];
    let theme = Theme::new(Arc::new(registry(&theme(&files))));
    let shelf = (0..12).fold(Shelf::new(json!({})), |shelf, at| {
        shelf.page(PageInfo::new(format!("/{at}/"), "page", format!("No. {at}")), json!({}), None)
    });
    let site = Arc::new(shelf);
    std::thread::scope(|scope| {
        for offset in 0..4 {
            let (theme, site) = (&theme, site.clone());
            scope.spawn(move || {
                let stage = theme.stage(site);
                for at in (0..12).map(|at| (at + offset * 3) % 12) {
                    let rendered = stage.render(&format!("/{at}/")).unwrap();
                    assert_eq!(rendered.failures, []);
                    assert_eq!(between(&rendered.html), format!("<b>No. {at}</b>"));
                }
            });
        }
    });
}

/// Any JSON that a site might keep.
fn any_json() -> impl Strategy<Value = Value> {
    let leaf = prop_oneof![
        Just(Value::Null),
        any::<bool>().prop_map(Value::from),
        any::<i32>().prop_map(Value::from),
        "[ -~é<>&\"']{0,12}".prop_map(Value::from),
    ];
    leaf.prop_recursive(3, 12, 3, |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..3).prop_map(Value::from),
            prop::collection::btree_map("[a-z]{1,5}", inner, 0..3)
                .prop_map(|map| Value::Object(map.into_iter().collect())),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, failure_persistence: None, ..ProptestConfig::default() })]

    /// A site is other people's program: whatever it says under the known keys, the page comes.
    #[test]
    fn whatever_a_site_says_there_is_a_page(
        options in any_json(), menus in any_json(), items in any_json(), menu in any_json(), data in any_json(),
        sections in any_json(), now in any_json(), language in any_json(), root in any_json(),
    ) {
        let page = front("[{{ place(\"region:aside\") }}{{ place(\"menu:top\") }}{{ page.data }}{{ page.sections }}]{{ super() }}");
        let files = [("truehook.toml", "[menu.top]\nlabel = \"T\"\n\n[feature.newsfeed]\n"), ("markup/front.html", page.as_str())];
        let values = json!({
            "options": options, "menus": menus, "fill": { "region:aside": items, "menu:top": menu, "nothing": 1 },
            "data": data, "now": now, "language": language,
        });
        let shelf = Shelf::new(values).page(today(), json!({ "data": data, "sections": sections, "root": root }), None);
        let rendered = on_shelf(&files, shelf, "/");
        prop_assert!(rendered.html.contains("<main>") || !rendered.failures.is_empty(), "{}", rendered.html);
    }
}
