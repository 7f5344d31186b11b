//! Features: what the stage does for each of those of the standard contract, and what a theme gets of
//! them.

use crate::small::{failing, front, render, shown};

const SITE: &str = "title = \"The <site>\"\nlanguage = \"en\"\nnow = 2026-03-01T06:10:00Z\n";

/// What the head of the front page holds with this manifest.
fn head(manifest: &str, more: &[(&str, &str)]) -> String {
    let page = front("[]{{ place(\"region:main\") }}");
    let mut files = vec![("truehook.toml", manifest), ("markup/front.html", page.as_str())];
    files.extend(more);
    let rendered = render(&files, "/");
    assert_eq!(rendered.failures, [], "{}", rendered.html);
    let html = rendered.html;
    html[html.find("<head>").unwrap() + 6..html.find("</head>").unwrap()].to_string()
}

const PAGE: (&str, &str) = ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"To & fro\"\n");

#[test]
fn nothing_is_in_the_head_that_was_not_asked_for() {
    assert_eq!(head("", &[]), "");
}

#[test]
fn page_titles_join_heading_and_site_and_escape_both() {
    let site = ("preview/site.toml", SITE);
    assert_eq!(head("[feature.page-titles]\n", &[site, PAGE]), "<title>To &amp; fro · The &lt;site&gt;</title>");
    let other = head("[feature.page-titles]\nseparator = \" | \"\n", &[site, PAGE]);
    assert_eq!(other, "<title>To &amp; fro | The &lt;site&gt;</title>");
    let same = ("preview/site.toml", "title = \"To & fro\"\n");
    assert_eq!(head("[feature.page-titles]\n", &[same, PAGE]), "<title>To &amp; fro</title>", "said once");
}

#[test]
fn titles_are_made_of_the_heading_that_filters_made() {
    let manifest = "[feature.page-titles]\n\n[[attach]]\nto = \"filter:page-heading\"\ncall = \"a.js#loud\"\n";
    let code = ("code/a.js", "export const loud = (heading) => heading.toUpperCase();\n");
    assert_eq!(
        head(manifest, &[PAGE, code, ("preview/site.toml", "title = \"S\"\n")]),
        "<title>TO &amp; FRO · S</title>"
    );
}

#[test]
fn custom_properties_come_from_palette_sizes_and_widths() {
    let manifest = "[feature.colours]\npalette.mud = { label = \"Mud\", value = \"#463a30\" }\npalette.reed = { value = \"rgb(1 2 3)\" }\n\n\
                    [feature.lettering]\nsizes.lead = { value = \"1.2rem\" }\nmeasure = true\n\n[feature.extent]\nsteps.wide = { value = \"70rem\" }\n";
    assert_eq!(
        head(manifest, &[]),
        "<style>:root { --lettering-measure: 68ch; --colour-mud: #463a30; --colour-reed: rgb(1 2 3); --lettering-lead: 1.2rem; --extent-wide: 70rem; }</style>"
    );
}

#[test]
fn a_value_that_could_leave_its_declaration_is_left_out() {
    let manifest = "[feature.colours]\npalette.a = { value = \"red; } body { display: none\" }\npalette.b = { value = \"</style><script>\" }\npalette.c = { value = \"#111\" }\n";
    assert_eq!(head(manifest, &[]), "<style>:root { --colour-c: #111; }</style>");
}

#[test]
fn schemes_cards_and_feeds_are_told_in_the_head() {
    assert_eq!(head("[feature.colours]\nschemes = true\n", &[]), "<meta name=\"color-scheme\" content=\"light dark\">");
    let dark = head("[feature.colours]\nschemes = [\"dark\"]\n", &[]);
    assert_eq!(dark, "<meta name=\"color-scheme\" content=\"dark\">");
    let cards = head(
        "[feature.share-cards]\npicture = \"media/cover.svg\"\n",
        &[PAGE, ("preview/site.toml", SITE), ("media/cover.svg", "<svg/>")],
    );
    assert!(cards.contains("property=\"og:title\" content=\"To &amp; fro\""), "{cards}");
    assert!(cards.contains("property=\"og:site_name\" content=\"The &lt;site&gt;\""), "{cards}");
    assert!(cards.contains("property=\"og:type\" content=\"website\""), "{cards}");
    assert!(cards.contains("property=\"og:image\" content=\"marsh/media/cover.svg"), "{cards}");
    let feed = head("[feature.newsfeed]\n", &[("preview/site.toml", SITE)]);
    assert!(feed.contains("type=\"application/atom+xml\"") && feed.contains("href=\"feed.xml\""), "{feed}");
}

#[test]
fn the_feed_holds_the_newest_pages_of_its_types() {
    let entry = |name: &str, date: &str| {
        format!(
            "path = \"/log/{name}/\"\ntype = \"entry\"\ntitle = \"{name} & co\"\ndate = {date}\nsummary = \"Of {name}\"\n"
        )
    };
    let (old, new, mid) = (entry("old", "2026-01-01"), entry("new", "2026-02-01"), entry("mid", "2026-01-15"));
    let files = crate::small::theme(&[
        ("truehook.toml", "[feature.newsfeed]\ncount = 2\n"),
        ("preview/site.toml", SITE),
        PAGE,
        ("preview/pages/b.toml", &old),
        ("preview/pages/c.toml", &new),
        ("preview/pages/d.toml", &mid),
    ]);
    let files = crate::small::stage(&files).files();
    let [(path, feed)] = &files[..] else { panic!("{files:?}") };
    assert_eq!(path, "feed.xml");
    let at = |text: &str| feed.find(text).unwrap_or_else(|| panic!("no {text} in {feed}"));
    assert!(at("new &amp; co") < at("mid &amp; co") && !feed.contains("old"));
    assert_eq!(feed.matches("<entry>").count(), 2);
    assert!(at("<updated>2026-02-01T00:00:00Z</updated>") < at("<entry>"), "as new as its newest page");
    assert_eq!(feed.matches("urn:uuid:").count(), 3);
    assert!(feed.contains("<link href=\"/log/new/\"/>") && feed.contains("<summary>Of new</summary>"), "{feed}");
    assert!(crate::small::stage(&crate::small::theme(&[])).files().is_empty(), "no feed that was not asked for");
}

#[test]
fn emblem_lead_and_banners_are_there_only_where_they_are_switched_on() {
    let site = ("preview/site.toml", "title = \"S\"\nemblem = { file = \"media/e.svg\", alt = \"E\" }\n");
    let page = (
        "preview/pages/a.toml",
        "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\nlead = { file = \"media/l.svg\", alt = \"L\" }\n",
    );
    let template = front(
        "[{{ site.emblem.alt }}{{ page.lead.alt }}{% for b in site.banners %}{{ b.file }}|{{ b.alt }};{% endfor %}]",
    );
    let media = [
        ("media/banners/low-tide.svg", "<svg/>"),
        ("media/banners/notes.txt", "x"),
        ("media/e.svg", ""),
        ("media/l.svg", ""),
    ];
    let with = |manifest: &str| {
        let mut files = vec![("truehook.toml", manifest), ("markup/front.html", template.as_str()), site, page];
        files.extend(media);
        shown(&files)
    };
    let all = "[feature.pictures]\nemblem = true\nlead = true\nbanners = true\n";
    assert_eq!(with(all), "ELmedia/banners/low-tide.svg|low tide;");
    assert_eq!(with("[feature.pictures]\nemblem = true\nlead = false\n"), "E", "each by itself");
    assert_eq!(with("[feature.pictures]\n"), "", "the bare table gives nothing");
    assert_eq!(with(""), "");
}

#[test]
fn pictures_know_the_named_widths() {
    let manifest = "[feature.pictures]\nwidths.wide = 960\n";
    let picture =
        |at: &str| front(&format!("[{{{{ place(\"partial:picture\", file=\"media/a.svg\", alt=\"A\"{at}) }}}}]"));
    let with = |manifest: &str, at: &str| {
        let page = picture(at);
        failing(&[("truehook.toml", manifest), ("markup/front.html", &page), ("media/a.svg", "<svg/>")])
    };
    let (failures, html) = with(manifest, ", at=\"wide\"");
    assert_eq!(failures, [""; 0]);
    assert!(html.contains("src=\"marsh/media/a.svg") && html.contains("width=\"960\""), "{html}");
    let (failures, html) = with(manifest, ", at=\"wid\"");
    assert_eq!(failures, ["the theme has no width `wid`; did you mean `wide`?"]);
    assert!(!html.contains("width="), "{html}");
    let (failures, _) = with("", ", at=\"wide\"");
    assert_eq!(failures, ["the theme has no width `wide`"]);
}

#[test]
fn a_picture_s_file_becomes_its_address_after_preparers_saw_it() {
    let manifest = "[[attach]]\nto = \"partial:picture\"\ncall = \"a.js#other\"\n";
    let code = (
        "code/a.js",
        "export const other = (inputs) => ({ ...inputs, file: inputs.file.replace(\"/a.\", \"/b.\") });\n",
    );
    let page = front("[{{ place(\"partial:picture\", file=\"media/a.svg\", alt=\"\") }}]");
    let html = shown(&[("truehook.toml", manifest), ("markup/front.html", &page), code, ("media/b.svg", "")]);
    assert!(html.starts_with("<img src=\"marsh/media/b.svg"), "{html}");
    let page = front("[{{ place(\"partial:picture\", file=\"media/none.svg\", alt=\"\") }}]");
    let (failures, _) = failing(&[("markup/front.html", &page)]);
    assert_eq!(failures, ["there is no file `media/none.svg`"]);
    let page = front("[{{ place(\"partial:picture\", file=\"https://a.example/x.png\", alt=\"\") }}]");
    assert_eq!(shown(&[("markup/front.html", &page)]), "<img src=\"https://a.example/x.png\" alt=\"\">\n".trim_end());
}

#[test]
fn a_trail_leads_from_home_to_the_page() {
    let template = "{% extends \"layout.html\" %}{% block main %}[{% for step in page.trail %}{{ step.label }}={{ step.href }};{% endfor %}]{% endblock %}";
    let pages = [
        ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"Front\"\n"),
        ("preview/pages/b.toml", "path = \"/log/\"\ntype = \"list\"\ntitle = \"Log\"\n"),
        ("preview/pages/c.toml", "path = \"/log/first/\"\ntype = \"entry\"\ntitle = \"First\"\n"),
        ("preview/pages/d.toml", "path = \"/logbook/\"\ntype = \"page\"\ntitle = \"Other\"\n"),
    ];
    let mut files =
        vec![("truehook.toml", "[feature.breadcrumbs]\nhome = \"Start\"\n"), ("markup/page.html", template)];
    files.extend(pages);
    let trail = |path: &str| crate::small::between(&render(&files, path).html);
    assert_eq!(trail("/"), "Start=/;");
    assert_eq!(trail("/log/first/"), "Start=/;Log=/log/;First=/log/first/;");
    assert_eq!(trail("/logbook/"), "Start=/;Other=/logbook/;");
}

#[test]
fn wide_items_are_wrapped_and_no_others() {
    let manifest = "[feature.extent]\nsteps.wide = { value = \"70rem\" }\n\n[partial.dot]\nabout = \"A dot\"\n\n[region.side]\nlabel = \"Side\"\n";
    let site =
        "[fill]\n\"region:side\" = [ { use = \"partial:dot\", extent = \"wide\" }, { use = \"partial:dot\" } ]\n";
    let page = front("[{{ place(\"region:side\") }}]");
    let with = |manifest: &str| {
        shown(&[
            ("truehook.toml", manifest),
            ("markup/front.html", &page),
            ("markup/partials/dot.html", "."),
            ("preview/site.toml", site),
        ])
    };
    assert_eq!(with(manifest), "<div class=\"extent-wide\">.</div>.");
    let own = manifest.replace("about = \"A dot\"", "about = \"A dot\"\ninputs.extent = { type = \"string\" }");
    assert_eq!(with(&own), "..", "the component has an input of that name");
    let files = [
        (
            "truehook.toml",
            "[region.side]\nlabel = \"Side\"\n\n[partial.dot]\nabout = \"D\"\n\n[feature.extent]\ntext = true\nsteps.wide = { value = \"9rem\" }\n",
        ),
        ("markup/front.html", page.as_str()),
        ("markup/partials/dot.html", "."),
        ("preview/site.toml", "[fill]\n\"region:side\" = [ { use = \"partial:dot\", extent = \"wdie\" } ]\n"),
    ];
    assert_eq!(failing(&files), (vec!["the theme has no extent `wdie`".to_string()], ".".to_string()));
}

#[test]
fn landmarks_are_put_around_the_host_s_partials() {
    let manifest = |feature: &str| format!("{feature}[menu.top]\nlabel = \"Main & all\"\n");
    let page = front("[{{ place(\"menu:top\") }}{{ place(\"partial:search-box\") }}]");
    let site = "[menus]\nm = [ { label = \"A\", href = \"/a/\" } ]\n\n[fill]\n\"menu:top\" = \"m\"\n";
    let with = |feature: &str| {
        shown(&[("truehook.toml", &manifest(feature)), ("markup/front.html", &page), ("preview/site.toml", site)])
    };
    let html = with("[feature.host-parts]\nlandmarks = true\n\n");
    assert!(
        html.starts_with("<nav aria-label=\"Main &amp; all\"><ul>") && html.contains("</ul></nav><search><form"),
        "{html}"
    );
    assert!(!with("").contains("<nav") && !with("").contains("<search>"));
}

#[test]
fn asking_works_in_templates_callbacks_and_conditions() {
    let manifest = |feature: &str| {
        format!(
            "{feature}[hook.here]\nabout = \"H\"\n\n[[attach]]\nto = \"hook:here\"\ncall = \"a.js#ask\"\n\n[[attach]]\nto = \"hook:here\"\ncall = \"a.js#never\"\nwhen = \"not enabled('feature:lettering.measure')\"\n"
        )
    };
    let code = "import { enabled } from \"truehook\";\nexport const ask = () => String(enabled(\"feature:lettering.measure\"));\nexport const never = () => \"off\";\n";
    let page =
        front("[{% if enabled(\"feature:lettering.measure\") %}yes{% else %}no{% endif %} {{ place(\"hook:here\") }}]");
    let with = |feature: &str| {
        shown(&[("truehook.toml", &manifest(feature)), ("markup/front.html", &page), ("code/a.js", code)])
    };
    assert_eq!(with("[feature.lettering]\nmeasure = true\n\n"), "yes true");
    assert_eq!(with(""), "no falseoff");
    let (failures, html) =
        failing(&[("markup/front.html", &front("[{% if enabled(\"feature:nothing\") %}x{% endif %}]"))]);
    assert_eq!((failures.as_slice(), html.as_str()), (&["the host offers no such feature".to_string()][..], ""));
}

#[test]
fn asking_for_a_feature_asks_for_any_argument() {
    let page = front(
        "[{{ enabled(\"feature:pictures\") }} {{ enabled(\"feature:pictures.lead\") }} {{ enabled(\"feature:pictures.emblem\") }} {{ enabled(\"feature:host-parts\") }}]",
    );
    let with = |manifest: &str| shown(&[("truehook.toml", manifest), ("markup/front.html", &page)]);
    assert_eq!(
        with("[feature.pictures]\nlead = true\n\n[feature.host-parts]\nlandmarks = true\n"),
        "true true false true"
    );
    assert_eq!(with("[feature.pictures]\n"), "false false false false");
    let (failures, _) = failing(&[("markup/front.html", &front("[{{ enabled(\"feature:pictures.frame\") }}]"))]);
    assert_eq!(failures, ["the host offers no such feature"]);
}

#[test]
fn arguments_are_merged_layer_by_layer_and_can_be_dropped() {
    let base = "[theme]\nname = \"shore\"\nversion = \"1.0.0\"\nopen = true\n\n[feature.colours]\npalette.mud = { value = \"#111\" }\npalette.reed = { value = \"#222\" }\nschemes = [\"light\"]\n";
    let top = |more: &str| {
        format!(
            "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\nbase = {{ path = \"../shore\" }}\n\n{more}"
        )
    };
    let with = |more: &str| head(&top(more), &[("../shore/truehook.toml", base)]);
    assert!(with("").contains("--colour-mud: #111; --colour-reed: #222;"));
    let over = with("[feature.colours]\npalette.reed = { value = \"#333\" }\npalette.sky = { value = \"#444\" }\n");
    assert!(over.contains("--colour-mud: #111; --colour-reed: #333; --colour-sky: #444;"), "{over}");
    let more = with("[feature.colours]\nschemes = [\"dark\"]\nextend = true\n");
    assert!(more.contains("content=\"light dark\""), "{more}");
    let less = with("[feature.colours]\npalette.mud = { dropped = true }\n");
    assert!(!less.contains("--colour-mud") && less.contains("--colour-reed"), "{less}");
    let off = with("[feature.colours]\nschemes = false\n");
    assert!(!off.contains("color-scheme") && off.contains("--colour-reed"), "{off}");
    let none = with("[feature.colours]\ndropped = true\n");
    assert!(!none.contains("--colour"), "{none}");
}

#[test]
fn lists_are_lengthened_and_pairs_are_not() {
    let base = "[theme]\nname = \"shore\"\nversion = \"1.0.0\"\nopen = true\n\n[feature.pictures]\nemblem = [10, 20]\n\n[feature.newsfeed]\nof = [\"entry\"]\n";
    let top = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\nbase = { path = \"../shore\" }\n\n[feature.pictures]\nemblem = [30, 40]\nextend = true\n\n[feature.newsfeed]\nof = [\"page\"]\nextend = true\n";
    let registry =
        crate::small::registry(&crate::small::theme(&[("truehook.toml", top), ("../shore/truehook.toml", base)]));
    assert_eq!(registry.argument("pictures", "emblem"), Some(serde_json::json!([30, 40])));
    assert_eq!(registry.argument("newsfeed", "of"), Some(serde_json::json!(["entry", "page"])));
}
