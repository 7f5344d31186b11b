//! Previews of several layers as one: pages by path, fills by point, the rest key by key.

use crate::small::stage;
use crate::small::{between, front, registry, render, theme};

const BASE: &str = "[theme]\nname = \"shore\"\nlabel = \"Shore\"\nopen = true\n\n[menu.top]\nlabel = \"Top\"\n\n[partial.note]\ninputs.text = { type = \"string\", default = \"\" }\n\n[option.mood]\nlabel = \"M\"\ntype = \"string\"\ndefault = \"calm\"\n";
const TOP: &str = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nbase = { path = \"../shore\" }\n";
const SHOWN: &str = "[{{ site.title }};{{ site.motto }};{{ site.data.a }}{{ site.data.b }};{{ options.mood }};{{ place(\"region:aside\") }};{{ place(\"region:footer\") }};{{ place(\"menu:top\", bare=true) }}]{{ super() }}";

/// The theme above its base, with previews of both.
fn layered<'t>(base_site: &'t str, site: &'t str, more: &[(&'t str, &'t str)]) -> Vec<(&'t str, String)> {
    let mut files: Vec<(&str, String)> = vec![
        ("../shore/truehook.toml", BASE.into()),
        ("../shore/markup/front.html", front(SHOWN)),
        ("../shore/markup/partials/note.html", "<i>{{ text }}</i>".into()),
        ("../shore/preview/site.toml", base_site.into()),
        ("truehook.toml", TOP.into()),
    ];
    if !site.is_empty() {
        files.push(("preview/site.toml", site.into()));
    }
    files.extend(more.iter().map(|(path, text)| (*path, text.to_string())));
    files
}

fn refs<'a>(files: &'a [(&'a str, String)]) -> Vec<(&'a str, &'a str)> {
    files.iter().map(|(path, text)| (*path, text.as_str())).collect()
}

#[track_caller]
fn shown(base_site: &str, site: &str) -> String {
    let files = layered(base_site, site, &[]);
    let rendered = render(&refs(&files), "/");
    assert_eq!(rendered.failures, [], "{}", rendered.html);
    between(&rendered.html).replace('\n', "")
}

const BASE_SITE: &str = "title = \"Shore\"\nmotto = \"Mud\"\noptions = { mood = \"wild\" }\n\n[menus]\nmain = [ { label = \"A\", href = \"/a/\" } ]\n\n\
    [fill]\n\"region:aside\" = [ { use = \"partial:note\", text = \"below\" } ]\n\"region:footer\" = [ { use = \"partial:note\", text = \"foot\" } ]\n\"menu:top\" = \"main\"\n\n[data]\na = 1\nb = 2\n";

#[test]
fn a_child_without_a_preview_has_its_base_s() {
    assert_eq!(shown(BASE_SITE, ""), "Shore;Mud;12;wild;<i>below</i>;<i>foot</i>;<a href=\"/a/\">A</a>");
}

#[test]
fn each_key_each_fill_and_each_menu_is_the_highest_layer_s() {
    let site = "title = \"Marsh\"\n\n[menus]\nmain = [ { label = \"B\", href = \"/b/\" } ]\n\n[fill]\n\"region:aside\" = [ { use = \"partial:note\", text = \"above\" } ]\n\n[data]\nb = 3\n";
    assert_eq!(shown(BASE_SITE, site), "Marsh;Mud;13;wild;<i>above</i>;<i>foot</i>;<a href=\"/b/\">B</a>");
}

#[test]
fn a_point_can_be_left_empty_over_what_the_base_puts_there() {
    let site = "options = { mood = \"grey\" }\n\n[fill]\n\"region:aside\" = []\n";
    assert_eq!(shown(BASE_SITE, site), "Shore;Mud;12;grey;;<i>foot</i>;<a href=\"/a/\">A</a>");
}

const FRONT: &str = "path = \"/\"\ntype = \"front\"\ntitle = \"Below\"\n";

fn paths(more: &[(&str, &str)]) -> Vec<(String, String, bool)> {
    let files = layered(BASE_SITE, "", more);
    let stage = stage(&theme(&refs(&files)));
    let mut pages: Vec<_> = stage.pages().into_iter().map(|page| (page.path, page.title, page.sample)).collect();
    pages.sort();
    pages
}

#[test]
fn pages_are_the_highest_layer_s_by_path() {
    let lower = ("../shore/preview/pages/front.toml", FRONT);
    let other = ("../shore/preview/pages/other.toml", "path = \"/other/\"\ntype = \"page\"\ntitle = \"Other\"\n");
    let upper = ("preview/pages/start.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"Above\"\n");
    let real = |more: &[(&str, &str)]| -> Vec<String> {
        paths(more).into_iter().filter(|(.., sample)| !sample).map(|(_, title, _)| title).collect()
    };
    assert_eq!(real(&[lower, other]), ["Below", "Other"]);
    assert_eq!(real(&[lower, other, upper]), ["Above", "Other"]);
    let dropped = ("preview/pages/gone.toml", "path = \"/other/\"\ndropped = true\n");
    assert_eq!(real(&[lower, other, dropped]), ["Below"]);
}

#[test]
fn samples_stand_in_for_types_that_no_page_has_and_only_there() {
    let all = paths(&[("../shore/preview/pages/front.toml", FRONT)]);
    let samples: Vec<&str> = all.iter().filter(|(.., sample)| *sample).map(|(path, ..)| path.as_str()).collect();
    let standard = ["/empty/", "/entry/", "/list/", "/missing/", "/page/", "/results/"];
    assert!(!samples.contains(&"/"), "a page has that type: {samples:?}");
    assert!(samples.contains(&"/entry/") && samples.contains(&"/page/"), "{samples:?} {standard:?}");
    let taken = ("preview/pages/a.toml", "path = \"/entry/\"\ntype = \"page\"\ntitle = \"In the way\"\n");
    let all = paths(&[taken]);
    let entry: Vec<_> = all.iter().filter(|(path, ..)| path == "/entry/").collect();
    assert_eq!(entry.len(), 1, "{all:?}");
    assert!(!entry[0].2, "a page of the preview keeps its path");
}

#[test]
fn a_companion_s_preview_counts_below_the_themes() {
    let kit = ("../kit/truehook.toml", "[companion]\nname = \"kit\"\n\n[partial.tide]\nabout = \"T\"\n");
    let partial = ("../kit/markup/partials/tide.html", "<b>tide</b>");
    let site = (
        "../kit/preview/site.toml",
        "title = \"Kit\"\nmotto = \"Kit's\"\n\n[fill]\n\"region:aside\" = [ { use = \"partial:tide\" } ]\n",
    );
    let top = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nbase = { path = \"../shore\" }\ncompanions = [ { path = \"../kit\" } ]\n";
    let mut files = layered("title = \"Shore\"\n", "", &[kit, partial, site]);
    files.retain(|(path, _)| *path != "truehook.toml");
    files.push(("truehook.toml", top.into()));
    let rendered = render(&refs(&files), "/");
    assert_eq!(rendered.failures, []);
    assert_eq!(between(&rendered.html), "Shore;Kit&#39;s;;calm;<b>tide</b>;;");
}

#[test]
fn what_the_registry_tells_of_previews_is_what_shows() {
    let site = "[fill]\n\"region:aside\" = [ { use = \"partial:note\", text = \"above\" } ]\n";
    let files = layered(BASE_SITE, site, &[]);
    let registry = registry(&theme(&refs(&files)));
    let mut items: Vec<String> = registry.items().iter().map(|item| registry.project().shown(item.file)).collect();
    items.sort();
    assert_eq!(items, ["../shore/preview/site.toml", "preview/site.toml"], "one fill of each layer counts");
    assert_eq!(registry.site_values()["title"], "Shore");
    assert_eq!(registry.menus().len(), 1);
    assert_eq!(registry.choices().len(), 1);
}
