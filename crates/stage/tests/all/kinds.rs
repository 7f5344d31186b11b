//! Regions, areas, menus and components, as they come out.

use crate::small::{failing, front, render, shown, theme};

/// The front page with what the site puts into `spot` between brackets.
fn filled(manifest: &str, spot: &str, site: &str, more: &[(&str, &str)]) -> String {
    let page = front(&format!("[{{{{ place(\"{spot}\") }}}}]{{{{ super() }}}}"));
    let mut files =
        vec![("truehook.toml", manifest), ("markup/front.html", page.as_str()), ("preview/site.toml", site)];
    files.push(("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\n"));
    files.extend(more);
    shown(&files)
}

const NOTE: (&str, &str) = ("markup/partials/note.html", "<i>{{ text }}</i>");
const NOTES: &str = "[partial.note]\ninputs.text = { type = \"string\", default = \"-\" }\n\n";

#[test]
fn areas_wrap_each_item_and_its_title() {
    let with = |keys: &str, items: &str| {
        let manifest = format!("{NOTES}[area.notes]\nlabel = \"Notes\"\n{keys}");
        filled(&manifest, "area:notes", &format!("[fill]\n\"area:notes\" = {items}\n"), &[NOTE])
    };
    let wrap = "wrap = '<aside>{{ title }}|{{ body }}</aside>'\nwrap-title = '<h4>{{ text }}</h4>'\n";
    let two = "[ { use = \"partial:note\", title = \"A & B\", text = \"x\" }, { use = \"partial:note\" } ]";
    assert_eq!(
        with(wrap, two),
        "<aside><h4>A &amp; B</h4>|<i>x</i></aside><aside>|<i>-</i></aside>",
        "without a title, nothing of it"
    );
    assert_eq!(with("", two), "<h3>A &amp; B</h3><i>x</i><i>-</i>");
    assert_eq!(with("wrap = '<p>{{ body }}</p>'\n", two), "<p><i>x</i></p><p><i>-</i></p>");
    let named = "wrap = '<aside class=\"note-{{ kind }}\" aria-labelledby=\"{{ id }}\">{{ title }}{{ body }}</aside>'\nwrap-title = '<h4 id=\"{{ id }}\">{{ text }}</h4>'\n";
    assert_eq!(
        with(named, two),
        "<aside class=\"note-note\" aria-labelledby=\"notes-1\"><h4 id=\"notes-1\">A &amp; B</h4><i>x</i></aside>\
         <aside class=\"note-note\" aria-labelledby=\"notes-2\"><i>-</i></aside>",
        "each item has an id of its own, the same for its title"
    );
    let off = "[ { use = \"partial:note\", title = \"T\", when = \"page.type == 'list'\" } ]";
    assert_eq!(with(wrap, off), "");
}

#[test]
fn an_area_s_title_also_reaches_an_input_of_that_name() {
    let manifest = "[partial.card]\ninputs.title = { type = \"string\", default = \"\" }\n\n[area.notes]\nlabel = \"Notes\"\nwrap = '{{ body }}'\n";
    let site = "[fill]\n\"area:notes\" = [ { use = \"partial:card\", title = \"T\" } ]\n";
    let card = ("markup/partials/card.html", "<b>{{ title }}</b>");
    assert_eq!(filled(manifest, "area:notes", site, &[card]), "<b>T</b>");
}

#[test]
fn arrangers_see_items_with_all_that_they_hold() {
    let manifest = format!(
        "{NOTES}[area.notes]\nlabel = \"Notes\"\nwrap = '({{{{ title }}}}{{{{ body }}}})'\nwrap-title = '{{{{ text }}}}:'\n\n[[attach]]\nto = \"area:notes\"\ncall = \"a.js#turn\"\n"
    );
    let site = "[fill]\n\"area:notes\" = [ { use = \"partial:note\", title = \"1\", text = \"a\" }, { use = \"partial:note\", title = \"2\", text = \"b\" } ]\n";
    let code = (
        "code/a.js",
        "export const turn = (items, { point }) => [...items.toReversed(), { use: \"partial:note\", title: point, text: \"<\" }];\n",
    );
    assert_eq!(
        filled(&manifest, "area:notes", site, &[NOTE, code]),
        "(2:<i>b</i>)(1:<i>a</i>)(area:notes:<i>&lt;</i>)"
    );
}

const SECTIONS: &str = "[section.band]\nlabel = \"Band\"\nholds = [\"piece:*\"]\nwrap = '<section>{{ body }}</section>'\noffer = [{ label = \"A band\" }]\ninputs.name = { type = \"string\", default = \"band\" }\n[section.band.piece.own]\nlabel = \"Own\"\ninputs.text = { type = \"string\", default = \"own\" }\n\n\
                        [piece.box]\nlabel = \"Box\"\nholds = [\"piece:box\", \"piece:dot\"]\noffer = [{ label = \"A box\" }]\n\n[piece.dot]\nlabel = \"Dot\"\noffer = [{ label = \"A dot\" }]\n";
const MARKUP: [(&str, &str); 4] = [
    ("markup/sections/band.html", "<h2>{{ name }}</h2>{{ place(\"held\") }}"),
    ("markup/sections/band/own.html", "<s>{{ text }}</s>"),
    ("markup/pieces/box.html", "<div>{% if filled(\"held\") %}+{% endif %}{{ place(\"held\") }}</div>"),
    ("markup/pieces/dot.html", "."),
];

/// The front page composed of these sections, between brackets.
fn composed(sections: &str) -> (Vec<String>, String) {
    let page = format!("path = \"/\"\ntype = \"front\"\ntitle = \"A\"\nsections = {sections}\n");
    let template = front("[{{ place(\"sections\") }}]{{ super() }}");
    let mut files = MARKUP.to_vec();
    files.extend([
        ("truehook.toml", SECTIONS),
        ("markup/front.html", template.as_str()),
        ("preview/pages/a.toml", page.as_str()),
    ]);
    failing(&files)
}

#[test]
fn sections_hold_pieces_and_pieces_hold_pieces() {
    let (failures, html) = composed(
        "[ { use = \"section:band\", name = \"one\", holds = [ { use = \"piece:own\", text = \"mine\" }, { use = \"piece:box\", holds = [ { use = \"piece:box\", holds = [ { use = \"piece:dot\" } ] }, { use = \"piece:dot\" } ] } ] }, { use = \"section:band\" } ]",
    );
    assert_eq!(failures, [""; 0]);
    assert_eq!(
        html,
        "<section><h2>one</h2><s>mine</s><div>+<div>+.</div>.</div></section><section><h2>band</h2></section>"
    );
}

#[test]
fn what_may_not_be_held_is_left_out_and_told() {
    let (failures, html) = composed(
        "[ { use = \"section:band\", holds = [ { use = \"piece:dot\" }, { use = \"section:band\" } ] }, { use = \"piece:dot\" } ]",
    );
    assert_eq!(html, "<section><h2>band</h2>.</section>");
    assert!(failures.iter().any(|message| message.contains("it may not hold `section:band`")), "{failures:?}");
    assert!(failures.iter().any(|message| message.contains("composed of sections")), "{failures:?}");
}

#[test]
fn an_inner_piece_is_known_to_its_own_section_alone() {
    let manifest = format!("{SECTIONS}\n[region.side]\nlabel = \"Side\"\n");
    let page = front("[{{ place(\"region:side\") }}]{{ super() }}");
    let site = "[fill]\n\"region:side\" = [ { use = \"piece:spotlight/own\" }, { use = \"piece:band/own\" }, { use = \"piece:dot\" } ]\n";
    let mut files = MARKUP.to_vec();
    files.extend([
        ("truehook.toml", manifest.as_str()),
        ("markup/front.html", page.as_str()),
        ("preview/site.toml", site),
    ]);
    let (failures, html) = failing(&files);
    assert_eq!(html, ".");
    assert_eq!(failures.len(), 2, "{failures:?}");
}

#[test]
fn held_is_what_the_component_at_hand_holds_and_nobody_else_s() {
    let manifest = "[partial.inner]\nabout = \"I\"\n\n[section.band]\nlabel = \"Band\"\nholds = [\"piece:dot\"]\n\n[piece.dot]\nlabel = \"Dot\"\n\n[hook.mid]\nabout = \"M\"\n\n[[attach]]\nto = \"hook:mid\"\ncall = \"a.js#held\"\n";
    let page = front("[{{ place(\"sections\") }}]");
    let (failures, html) = failing(&[
        ("truehook.toml", manifest),
        ("markup/front.html", &page),
        (
            "markup/sections/band.html",
            "({{ place(\"partial:inner\") }}|{{ place(\"hook:mid\") }}|{{ place(\"held\") }})",
        ),
        ("markup/partials/inner.html", "<{{ place(\"held\") }}>"),
        ("markup/pieces/dot.html", "."),
        ("code/a.js", "import { place } from \"truehook\";\nexport const held = () => place(\"held\");\n"),
        (
            "preview/pages/a.toml",
            "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\nsections = [ { use = \"section:band\", holds = [ { use = \"piece:dot\" } ] } ]\n",
        ),
    ]);
    assert_eq!(html, "(<>||.)", "the partial holds nothing of its own, and the listener is no component");
    assert!(failures.iter().all(|message| message.contains("only a component holds")), "{failures:?}");
}

#[test]
fn a_callback_can_render_a_section_with_its_outlet() {
    let manifest = "[section.band]\nlabel = \"Band\"\nholds = [\"piece:dot\"]\nrender = \"a.js#band\"\n\n[piece.dot]\nlabel = \"Dot\"\n";
    let page = front("[{{ place(\"sections\") }}]");
    let html = shown(&[
        ("truehook.toml", manifest),
        ("markup/front.html", &page),
        ("markup/pieces/dot.html", "."),
        (
            "code/a.js",
            "import { html, place } from \"truehook\";\nexport const band = () => html`<p>${place(\"held\")}</p>`;\n",
        ),
        (
            "preview/pages/a.toml",
            "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\nsections = [ { use = \"section:band\", holds = [ { use = \"piece:dot\" }, { use = \"piece:dot\" } ] } ]\n",
        ),
    ]);
    assert_eq!(html, "<p>..</p>");
}

#[test]
fn fixed_placements_of_components_pass_inputs_on() {
    let manifest = "[section.band]\nlabel = \"Band\"\nwrap = '<section>{{ body }}</section>'\ninputs.name = { type = \"string\" }\ninputs.count = { type = \"integer\", default = 1 }\n";
    let with = |placed: &str| {
        let page = front(&format!("[{placed}]"));
        failing(&[
            ("truehook.toml", manifest),
            ("markup/front.html", &page),
            ("markup/sections/band.html", "{{ name }} {{ count + 1 }}"),
        ])
    };
    assert_eq!(
        with("{{ place(\"section:band\", name=page.title, count=4) }}").1,
        "<section>A page of type front 5</section>"
    );
    let (failures, html) = with("{{ place(\"section:band\", name=\"x\", count=\"four\") }}");
    assert_eq!(html, "<section>x 2</section>", "what does not fit gives way to the default");
    assert!(failures[0].contains("`count` is string where integer belongs"), "{failures:?}");
}

const MENU: &str = "[menu.top]\nlabel = \"Top\"\nlevels = 2\n";
const SITE: &str = "[menus]\nmain = [ { label = \"Today\", href = \"/\" }, { label = \"Log & book\", href = \"/log/\", entries = [ { label = \"First\", href = \"/log/first/\", entries = [ { label = \"Deep\", href = \"/log/first/deep/\" } ] } ] }, { label = \"More\" } ]\n\n[fill]\n\"menu:top\" = \"main\"\n";
const PAGES: [(&str, &str); 3] = [
    ("preview/pages/a.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\n"),
    ("preview/pages/b.toml", "path = \"/log/first/\"\ntype = \"page\"\ntitle = \"B\"\n"),
    ("preview/pages/c.toml", "path = \"/log/first/deep/\"\ntype = \"page\"\ntitle = \"C\"\n"),
];

fn menu(manifest: &str, site: &str, placed: &str, path: &str, more: &[(&str, &str)]) -> String {
    let page = front(&format!("[{placed}]"));
    let mut files = PAGES.to_vec();
    files.extend([("truehook.toml", manifest), ("markup/page.html", page.as_str()), ("preview/site.toml", site)]);
    files.extend(more);
    let rendered = render(&files, path);
    assert_eq!(rendered.failures, []);
    crate::small::between(&rendered.html).split_whitespace().collect::<Vec<_>>().join(" ")
}

#[test]
fn menus_mark_the_present_page_and_those_above_it() {
    let placed = "{{ place(\"menu:top\", class=\"nav\") }}";
    assert_eq!(
        menu(MENU, SITE, placed, "/", &[]),
        "<ul class=\"nav\"> <li><a href=\"/\" aria-current=\"page\">Today</a></li> <li><a href=\"/log/\">Log &amp; book</a> <ul> <li><a href=\"/log/first/\">First</a></li> </ul> </li> <li><span>More</span></li> </ul>"
    );
    assert!(
        menu(MENU, SITE, placed, "/log/first/", &[]).contains(
            "<li class=\"leads-here\"><a href=\"/log/\">Log &amp; book</a> <ul> <li><a href=\"/log/first/\" aria-current=\"page\">First</a></li>"
        ),
        "the entry above knows"
    );
    let deep = menu(MENU, SITE, placed, "/log/first/deep/", &[]);
    assert!(!deep.contains("Deep"), "there are two levels: {deep}");
    assert!(deep.contains("<li class=\"leads-here\"><a href=\"/log/first/\">First</a></li>"), "{deep}");
}

#[test]
fn menus_can_be_bare_or_rendered_by_another_partial() {
    let bare = menu(MENU, SITE, "{{ place(\"menu:top\", bare=true) }}", "/", &[]);
    assert!(bare.starts_with("<a href=\"/\" aria-current=\"page\">Today</a> <a href=\"/log/\">"), "{bare}");
    assert!(!bare.contains("<li"), "{bare}");
    let manifest = format!("{MENU}\n[partial.row]\ninputs.entries = {{ type = \"array\" }}\n");
    let row = (
        "markup/partials/row.html",
        "{% for e in entries %}{{ e.label }}{% if e.current %}!{% endif %}{{ e.entries | length }};{% endfor %}",
    );
    assert_eq!(
        menu(&manifest, SITE, "{{ place(\"menu:top\", with=\"partial:row\") }}", "/", &[row]),
        "Today!0;Log &amp; book1;More0;"
    );
}

#[test]
fn arrangers_change_entries_and_new_ones_are_marked_too() {
    let manifest = format!("{MENU}\n[[attach]]\nto = \"menu:top\"\ncall = \"a.js#add\"\n");
    let code = (
        "code/a.js",
        "export const add = (entries) => [{ label: \"B\", href: \"/log/first/\" }, ...entries.slice(0, 1)];\n",
    );
    assert_eq!(
        menu(&manifest, SITE, "{{ place(\"menu:top\") }}", "/log/first/", &[code]),
        "<ul> <li><a href=\"/log/first/\" aria-current=\"page\">B</a></li> <li><a href=\"/\">Today</a></li> </ul>"
    );
}

#[test]
fn a_spot_without_a_menu_shows_nothing_and_arranges_nothing() {
    let manifest = format!("{MENU}\n[[attach]]\nto = \"menu:top\"\ncall = \"a.js#add\"\n");
    let code = ("code/a.js", "export const add = () => [{ label: \"B\", href: \"/b/\" }];\n");
    let placed = "{% if filled(\"menu:top\") %}<nav>{% endif %}{{ place(\"menu:top\") }}";
    assert_eq!(menu(&manifest, "title = \"x\"\n", placed, "/", &[code]), "");
    assert_eq!(menu(MENU, "[menus]\nmain = []\n\n[fill]\n\"menu:top\" = \"main\"\n", placed, "/", &[]), "");
}

#[test]
fn options_are_the_site_s_choice_or_their_default() {
    let manifest = "[option.scheme]\nlabel = \"Scheme\"\ntype = \"string\"\nenum = [\"day\", \"night\"]\ndefault = \"day\"\n\n[option.count]\nlabel = \"Count\"\ntype = \"integer\"\ndefault = 3\n\n[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#tell\"\nwhen = \"options.scheme == 'night'\"\n";
    let with = |site: &str| {
        let page = front("[{{ options.scheme }}{{ options.count + 1 }}{{ place(\"hook:document-start\") }}]");
        failing(&[
            ("truehook.toml", manifest),
            ("markup/front.html", &page),
            ("preview/site.toml", site),
            ("code/a.js", "export const tell = ({ options }) => ` told ${options.scheme}`;\n"),
        ])
    };
    assert_eq!(with("title = \"x\"\n"), (vec![], "day4".to_string()));
    assert_eq!(with("options = { scheme = \"night\", count = 1 }\n"), (vec![], "night2 told night".to_string()));
    assert_eq!(with("options = { scheme = \"dusk\" }\n").1, "day4", "what can't be chosen is not");
}

#[test]
fn an_unknown_option_prints_nothing_and_is_told() {
    let page = front("[{{ options.shceme }}]");
    let manifest = "[option.scheme]\nlabel = \"S\"\ntype = \"string\"\ndefault = \"day\"\n";
    let (failures, html) = failing(&[("truehook.toml", manifest), ("markup/front.html", &page)]);
    assert_eq!((html.as_str(), failures.len()), ("", 1));
    assert!(failures[0].contains("did you mean `scheme`?"), "{failures:?}");
}

#[test]
fn recursive_macros_are_no_unknown_variables() {
    let page =
        front("{% macro tree(n) %}{{ n }}{% if n > 1 %}{{ tree(n - 1) }}{% endif %}{% endmacro %}[{{ tree(3) }}]");
    assert_eq!(shown(&[("markup/front.html", &page)]), "321");
    assert!(theme(&[]).iter().count() > 0);
}
