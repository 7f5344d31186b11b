//! What the registry answers, question by question, of small themes.

use std::collections::BTreeSet;

use serde_json::json;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Registry, Runs};
use truehook_core::rules::Example;
use truehook_core::scan::Shape;

fn linked(files: &'static [(&'static str, &'static str)]) -> Registry {
    Example(files).registry().unwrap()
}

fn address(text: &str) -> Address {
    text.parse().unwrap()
}

/// The names of the callbacks of a point, in running order.
fn order(registry: &Registry, point: &str) -> Vec<String> {
    registry.point(address(point)).unwrap().slots.iter().map(|slot| registry.slot_name(slot)).collect()
}

/// The types of pages that get to the uses of a point.
fn reached(registry: &Registry, point: &str) -> BTreeSet<&'static str> {
    let uses = registry.point(address(point)).unwrap().uses.clone();
    uses.into_iter().flat_map(|id| registry.type_names(registry.use_reached(id))).collect()
}

const THREE: (&str, &str) =
    ("code/a.js", "export const f = () => \"\";\nexport const g = () => \"\";\nexport const h = () => \"\";\n");

#[test]
fn callbacks_run_by_priority_then_position() {
    let registry = linked(&[
        (
            "truehook.toml",
            "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\npriority = 60\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#g\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#h\"\npriority = 0\n",
        ),
        THREE,
    ]);
    assert_eq!(order(&registry, "hook:document-end"), ["a.js#h", "a.js#g", "a.js#f"]);
}

#[test]
fn a_constraint_wins_over_priorities_and_moves_no_more_than_it_has_to() {
    let registry = linked(&[
        (
            "truehook.toml",
            "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\npriority = 60\nbefore = [\"a.js#g\"]\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#g\"\npriority = 10\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#h\"\npriority = 20\n",
        ),
        THREE,
    ]);
    let all = order(&registry, "hook:document-end");
    let at = |name: &str| all.iter().position(|known| known == name).unwrap();
    assert!(at("a.js#f") < at("a.js#g"), "{all:?}");
    assert_eq!(at("a.js#h"), 0, "it waits for nothing: {all:?}");
    assert_eq!(registry.order_troubles().len(), 1);
}

#[test]
fn a_partial_can_take_the_place_of_a_callback() {
    let registry =
        linked(&[("truehook.toml", "[[attach]]\nto = \"hook:document-end\"\nuse = \"partial:search-box\"\n")]);
    let slots = &registry.point(address("hook:document-end")).unwrap().slots;
    assert!(
        matches!(slots[0].runs, Runs::Partial(point, _) if point == address("partial:search-box")),
        "{:?}",
        slots[0].runs
    );
}

const ONLY_LISTS: (&str, &str) = (
    "markup/list.html",
    "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ place(\"region:kiosk\") }}{% endblock %}\n",
);
const KIOSK: (&str, &str) = ("truehook.toml", "[region.kiosk]\nlabel = \"K\"\n");

#[test]
fn a_placement_is_reached_by_the_types_whose_template_has_it() {
    let registry = linked(&[KIOSK, ONLY_LISTS]);
    assert_eq!(reached(&registry, "region:kiosk"), BTreeSet::from(["list"]));
    let all: BTreeSet<&str> = registry.type_names(registry.templated_types()).into_iter().collect();
    assert!(all.contains("front") && all.len() > 3, "{all:?}");
    assert_eq!(reached(&registry, "region:main"), all);
}

#[test]
fn what_a_block_overrides_is_not_reached() {
    let registry = linked(&[
        KIOSK,
        (
            "markup/layout.html",
            "<head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head>{% block main %}{{ place(\"region:main\") }}{% endblock %}{% block more %}{{ place(\"region:kiosk\") }}{% endblock %}{{ place(\"hook:document-end\") }}\n",
        ),
        ("markup/front.html", "{% extends \"layout.html\" %}{% block more %}nothing{% endblock %}\n"),
    ]);
    let all = reached(&registry, "region:kiosk");
    assert!(!all.contains("front") && all.contains("page"), "{all:?}");
}

#[test]
fn what_an_unplaced_partial_places_is_reached_by_nobody() {
    let registry = linked(&[
        ("truehook.toml", "[region.kiosk]\nlabel = \"K\"\n\n[partial.card]\nabout = \"C\"\n"),
        ("markup/partials/card.html", "{{ place(\"region:kiosk\") }}\n"),
    ]);
    assert_eq!(reached(&registry, "region:kiosk"), BTreeSet::new());
    assert!(registry.absences().iter().any(|absence| absence.point == address("region:kiosk")));
}

#[test]
fn a_partial_that_the_site_puts_somewhere_is_reached_where_its_condition_may_hold() {
    let registry = linked(&[
        ("truehook.toml", "[region.kiosk]\nlabel = \"K\"\n\n[partial.card]\nabout = \"C\"\n"),
        ("markup/partials/card.html", "{{ place(\"region:kiosk\") }}\n"),
        (
            "preview/site.toml",
            "[fill]\n\"region:main\" = [ { use = \"partial:card\", when = \"page.type in ['entry', 'page']\" } ]\n",
        ),
    ]);
    assert_eq!(reached(&registry, "region:kiosk"), BTreeSet::from(["entry", "page"]));
}

#[test]
fn closed_sets_are_types_options_and_truths() {
    let registry = linked(&[(
        "truehook.toml",
        "[option.mood]\nlabel = \"M\"\nenum = [\"calm\", \"wild\"]\ndefault = \"calm\"\n\n[option.wide]\nlabel = \"W\"\ntype = \"boolean\"\ndefault = false\n\n[option.name]\nlabel = \"N\"\ntype = \"string\"\ndefault = \"\"\n",
    )]);
    assert_eq!(registry.closed_values("options.mood"), Some(vec![json!("calm"), json!("wild")]));
    let mut wide = registry.closed_values("options.wide").unwrap();
    wide.sort_by_key(|value| value.as_bool());
    assert_eq!(wide, [json!(false), json!(true)]);
    assert_eq!(registry.closed_values("options.name"), None);
    assert_eq!(registry.closed_values("page.title"), None);
    assert!(registry.closed_values("page.type").unwrap().contains(&json!("front")));
}

#[test]
fn components_hold_what_they_say_and_inner_pieces_their_own_section() {
    let registry = linked(&[
        (
            "truehook.toml",
            "[section.band]\nlabel = \"B\"\nholds = [\"piece:note\", \"piece:caption\"]\n\n[section.band.piece.caption]\nlabel = \"C\"\n\n[section.row]\nlabel = \"R\"\nholds = [\"piece:*\"]\n\n[piece.note]\nlabel = \"N\"\n",
        ),
        ("markup/sections/band.html", "{{ place(\"held\") }}\n"),
        ("markup/sections/row.html", "{{ place(\"held\") }}\n"),
        ("markup/pieces/note.html", "n\n"),
        ("markup/pieces/band/caption.html", "c\n"),
    ]);
    let may = |holder: &str, held: &str| registry.may_hold(address(holder), address(held));
    assert!(may("section:band", "piece:note") && may("section:row", "piece:note"));
    assert!(may("section:band", "piece:band/caption"));
    assert!(!may("section:row", "piece:band/caption"), "it is another section's own");
    assert!(!may("piece:note", "piece:note"), "a piece that says nothing holds nothing");
}

#[test]
fn needs_come_before_what_needs_them_and_bundles_are_their_members() {
    let registry = linked(&[
        (
            "truehook.toml",
            "[script.last]\nfile = \"c.js\"\nneeds = [\"bundle:both\"]\n\n[script.one]\nfile = \"a.js\"\nneeds = [\"script:two\"]\n\n[script.two]\nfile = \"b.js\"\n\n[bundle.both]\nneeds = [\"script:one\"]\n",
        ),
        ("media/a.js", "let a = 1;\n"),
        ("media/b.js", "let b = 1;\n"),
        ("media/c.js", "let c = 1;\n"),
    ]);
    let position = |text: &str| registry.asset_order().iter().position(|known| *known == address(text)).unwrap();
    assert!(position("script:two") < position("script:one") && position("script:one") < position("script:last"));
    let last = registry.point(address("script:last")).unwrap();
    let all: BTreeSet<String> = registry.all_needs(last).iter().map(ToString::to_string).collect();
    assert!(all.contains("script:one") && all.contains("script:two"), "{all:?}");
    assert!(registry.is_on_all_pages(last));
}

#[test]
fn features_are_on_where_the_theme_says_so_and_arguments_have_defaults() {
    let registry = linked(&[(
        "truehook.toml",
        "[feature.page-titles]\n\n[feature.pictures]\nlead = true\nbanners = \"\"\n\n[feature.newsfeed]\ndropped = true\n",
    )]);
    assert!(registry.is_on(address("feature:page-titles")) && !registry.is_on(address("feature:newsfeed")));
    assert!(registry.is_on(address("feature:pictures.lead")) && !registry.is_on(address("feature:pictures.emblem")));
    assert!(registry.argument("page-titles", "separator").is_some(), "its default");
    assert_eq!(registry.argument("page-titles", "nothing"), None);
}

#[test]
fn a_name_that_leads_nowhere_is_one_miss_however_often_it_is_written() {
    let registry = linked(&[
        ("truehook.toml", "[region.kiosk]\nlabel = \"K\"\n"),
        (
            "markup/page.html",
            "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ place(\"region:kiosk\") }}{% endblock %}\n",
        ),
        (
            "markup/front.html",
            "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ place(\"region:kisok\") }}{{ place(\"region:kisok\") }}{% endblock %}\n",
        ),
        (
            "markup/list.html",
            "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ place(\"region:kisok\") }}{% endblock %}\n",
        ),
    ]);
    let [miss] = registry.misses() else { panic!("{:?}", registry.misses()) };
    assert_eq!(miss.references.len(), 3);
    assert!(miss.meant.is_some());
    for at in &miss.references {
        let reference = &registry.references()[*at];
        let file = registry.project().file(reference.from.file);
        assert!(file.path.as_str().starts_with("markup/"), "{}", file.path);
    }
}

#[test]
fn every_reference_stands_where_it_was_written() {
    let registry = linked(&[
        (
            "truehook.toml",
            "[region.kiosk]\nlabel = \"K\"\n\n[partial.card]\ninputs.text = { type = \"string\", default = \"\" }\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\nwhen = \"page.type == 'front'\"\n",
        ),
        ("code/a.js", "import { b } from \"./b.js\";\nexport const f = () => b;\n"),
        ("code/b.js", "export const b = \"b\";\n"),
        ("markup/partials/card.html", "{{ text }}\n"),
        (
            "markup/page.html",
            "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ place(\"region:kiosk\") }}{{ place(\"partial:card\", text=page.title) }}{% endblock %}\n",
        ),
    ]);
    assert!(registry.references().len() > 8, "{}", registry.references().len());
    assert!(registry.misses().is_empty(), "{:?}", registry.misses());
    for reference in registry.references() {
        let span = registry.span(reference.from);
        let text = registry.project().file(reference.from.file).text();
        assert!(!text[span.range()].trim().is_empty(), "{:?}", reference.link);
    }
}

#[test]
fn the_standard_contract_has_the_eleven_features_that_its_page_tells_of() {
    let registry = linked(&[]);
    let page = include_str!("../../../../docs/features.md");
    let features: Vec<&str> = registry.names(Kind::Feature).collect();
    assert_eq!(features.len(), 11, "{features:?}");
    for feature in features {
        assert!(page.contains(feature), "docs/features.md says nothing of {feature}");
    }
}

#[test]
fn a_registry_of_edited_files_is_as_one_made_anew() {
    let files = Example(&[KIOSK, ONLY_LISTS]).files();
    let registry = Example(&[KIOSK, ONLY_LISTS]).registry().unwrap();
    let mut changed = files.clone();
    let path = "/site/example/markup/list.html";
    changed.insert(
        path,
        "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ place(\"region:kisok\") }}{% endblock %}\n",
    );
    let edited = registry.edited(&changed, &[path.into()]).unwrap_or_else(|_| panic!("a template can be edited"));
    assert_eq!(edited.misses().len(), 1);
    let file = edited.project().find(edited.project().top(), "markup/list.html").unwrap();
    assert!(matches!(edited.facts(file).shape, Shape::Template(_)));
    // Where a manifest may ask for other layers, all is to be opened again.
    let manifest = "/site/example/truehook.toml";
    let text = String::from_utf8(changed.get(manifest.into()).unwrap().to_vec()).unwrap();
    changed.insert(manifest, format!("{text}\n[hook.of-the-tide]\n"));
    let edited = edited.edited(&changed, &[manifest.into()]).unwrap_or_else(|_| panic!("it asks for the same layers"));
    assert!(edited.point("hook:of-the-tide".parse().unwrap()).is_some());
    changed.insert(manifest, text.replacen("name = ", "base = { path = \"../elsewhere\" }\nname = ", 1));
    assert!(edited.edited(&changed, &[manifest.into()]).is_err());
}
