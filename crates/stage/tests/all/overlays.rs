//! Layers over each other: companions, hosts of one's own, and what is redeclared, reserved, dropped,
//! detached, replaced and sealed.

use crate::small::{failing, front, registry, shown, theme};
use truehook_core::rules::{self, Level};

const TOP: &str = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\nbase = { path = \"../shore\" }\n";
const SHORE: &str = "[theme]\nname = \"shore\"\nlabel = \"Shore\"\nabout = \"A base\"\npicture = \"media/shore.svg\"\nversion = \"2.0.0\"\nopen = true\n";
const CODE: (&str, &str) = (
    "../shore/code/a.js",
    "export const one = () => \"1\";\nexport const two = () => \"2\";\nexport const add = (value) => value + \"a\";\n",
);

/// The front page of a theme on a base, between brackets, with what fails.
fn layered(top: &str, shore: &str, page: &str, more: &[(&str, &str)]) -> (Vec<String>, String) {
    let (top, shore, page) = (format!("{TOP}\n{top}"), format!("{SHORE}\n{shore}"), front(&format!("[{page}]")));
    let mut files = vec![
        ("truehook.toml", top.as_str()),
        ("../shore/truehook.toml", shore.as_str()),
        ("../shore/media/shore.svg", "<svg/>"),
        ("markup/front.html", page.as_str()),
        CODE,
    ];
    files.extend(more);
    failing(&files)
}

#[track_caller]
fn findings(top: &str, shore: &str, more: &[(&str, &str)]) -> Vec<String> {
    let (top, shore) = (format!("{TOP}\n{top}"), format!("{SHORE}\n{shore}"));
    let mut files = vec![
        ("truehook.toml", top.as_str()),
        ("../shore/truehook.toml", shore.as_str()),
        ("../shore/media/shore.svg", "<svg/>"),
        CODE,
    ];
    files.extend(more);
    let findings = rules::check(&registry(&theme(&files))).findings;
    // The small theme's pages have no title.
    let told = findings.iter().filter(|found| found.level > Level::Note && found.rule != "untitled-page");
    told.map(|found| found.message.clone()).collect()
}

const HOOK: &str = "{{ place(\"hook:document-start\") }}";
const TWO: &str = "[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#one\"\n\n[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#two\"\n";

#[test]
fn a_higher_layer_detaches_and_replaces() {
    let own = ("code/b.js", "export const mine = () => \"M\";\n");
    let run = |top: &str| layered(top, TWO, HOOK, &[own]).1;
    assert_eq!(run(""), "12");
    assert_eq!(run("[[detach]]\nfrom = \"hook:document-start\"\ncall = \"shore:a.js#one\"\n"), "2");
    assert_eq!(run("[[detach]]\nfrom = \"hook:document-start\"\ncall = \"below:a.js#two\"\n"), "1");
    assert_eq!(run("[[replace]]\ncall = \"shore:a.js#one\"\nwith = \"b.js#mine\"\n"), "M2", "at its old place");
    let after = "[[replace]]\ncall = \"shore:a.js#one\"\nwith = \"b.js#mine\"\n\n[[attach]]\nto = \"hook:document-start\"\ncall = \"b.js#mine\"\npriority = 10\nafter = [\"shore:a.js#one\"]\n";
    assert_eq!(run(after), "MM2", "a slot answers to the name that it had");
    let gone = "[[detach]]\nfrom = \"hook:document-start\"\ncall = \"shore:a.js#one\"\n\n[[attach]]\nto = \"hook:document-start\"\ncall = \"b.js#mine\"\npriority = 10\nafter = [\"shore:a.js#one\"]\n";
    assert_eq!(run(gone), "M2", "what is gone binds nothing");
}

#[test]
fn a_replacement_keeps_priority_and_condition() {
    let shore = "[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#one\"\npriority = 90\nwhen = \"page.type == 'list'\"\n\n[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#two\"\n";
    let own = ("code/b.js", "export const mine = () => \"M\";\n");
    let top = "[[replace]]\ncall = \"shore:a.js#one\"\nwith = \"b.js#mine\"\n";
    assert_eq!(layered(top, shore, HOOK, &[own]).1, "2");
    assert_eq!(layered(top, &shore.replace("'list'", "'front'"), HOOK, &[own]).1, "2M");
}

#[test]
fn a_callback_that_is_attached_twice_is_replaced_where_it_is_said() {
    let shore = "[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#one\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#one\"\n";
    let own = ("code/b.js", "export const mine = () => \"M\";\n");
    let top = |within: &str| format!("[[replace]]\n{within}call = \"shore:a.js#one\"\nwith = \"b.js#mine\"\n");
    let place = (
        "markup/front.html",
        "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ place(\"hook:document-start\") }}{% endblock %}",
    );
    let told = findings(&top(""), shore, &[own, place]);
    assert_eq!(
        told,
        [
            "`shore:a.js#one` is attached to `hook:document-start` and `hook:document-end`, and it is not said where to replace it"
        ]
    );
    assert_eq!(findings(&top("in = \"hook:document-end\"\n"), shore, &[own, place]), [""; 0]);
    let page = "{{ place(\"hook:document-start\") }}";
    assert_eq!(layered(&top("in = \"hook:document-start\"\n"), shore, page, &[own]).1, "M");
    assert_eq!(layered(&top("in = \"hook:document-end\"\n"), shore, page, &[own]).1, "1");
}

#[test]
fn what_renders_a_component_can_be_replaced() {
    let shore = "[partial.card]\ninputs.text = { type = \"string\", default = \"t\" }\nrender = \"c.js#card\"\n";
    let code = ("../shore/code/c.js", "export const card = ({ text }) => `card ${text}`;\n");
    let own = ("code/b.js", "export const mine = ({ text }, { page }) => `${page.type} ${text}`;\n");
    let page = "{{ place(\"partial:card\") }}";
    assert_eq!(layered("", shore, page, &[code, own]).1, "card t");
    let top = "[[replace]]\nin = \"partial:card\"\ncall = \"shore:c.js#card\"\nwith = \"b.js#mine\"\n";
    assert_eq!(layered(top, shore, page, &[code, own]).1, "front t");
}

#[test]
fn a_sealed_slot_stays() {
    let shore = TWO.replacen("call = \"a.js#one\"", "call = \"a.js#one\"\nsealed = true", 1);
    let own = ("code/b.js", "export const mine = () => \"M\";\n");
    let place = (
        "markup/front.html",
        "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ place(\"hook:document-start\") }}{% endblock %}",
    );
    for top in [
        "[[detach]]\nfrom = \"hook:document-start\"\ncall = \"shore:a.js#one\"\n",
        "[[replace]]\ncall = \"shore:a.js#one\"\nwith = \"b.js#mine\"\n",
    ] {
        assert_eq!(layered(top, &shore, HOOK, &[own]).1, "12", "{top}");
        let told = findings(top, &shore, &[own, place]);
        assert!(told.iter().any(|told| told.contains("is sealed, so it stays as it is")), "{told:?}");
    }
}

#[test]
fn a_dropped_point_emits_nothing_and_passes_values_on() {
    let shore = "[region.side]\nlabel = \"Side\"\n\n[filter.words]\nvalue = { type = \"string\" }\n\n[hook.mid]\nabout = \"M\"\n\n[partial.card]\nabout = \"C\"\n\n[[attach]]\nto = \"hook:mid\"\ncall = \"a.js#one\"\n\n[[attach]]\nto = \"filter:words\"\ncall = \"a.js#add\"\n";
    let card = ("../shore/markup/partials/card.html", "card");
    let site = ("preview/site.toml", "[fill]\n\"region:side\" = [ { use = \"partial:card\" } ]\n");
    let page = "{{ place(\"region:side\") }}{{ place(\"hook:mid\") }}{{ \"w\" | through(\"filter:words\") }}{{ place(\"partial:card\") }}{{ filled(\"region:side\") }}";
    assert_eq!(layered("", shore, page, &[card, site]), (vec![], "card1wacardtrue".into()));
    let dropped = ["region.side", "hook.mid", "filter.words", "partial.card"];
    let top: String = dropped.iter().map(|point| format!("[{point}]\ndropped = true\n\n")).collect();
    assert_eq!(layered(&top, shore, page, &[card, site]), (vec![], "wfalse".into()));
}

#[test]
fn redeclarations_merge_key_by_key_and_lists_can_be_lengthened() {
    let shore = "[section.band]\nlabel = \"Band\"\nholds = [\"piece:a\"]\ninputs.name = { type = \"string\", default = \"n\" }\n\n[piece.a]\nlabel = \"A\"\n\n[piece.b]\nlabel = \"B\"\n";
    let markup = [
        ("../shore/markup/sections/band.html", "{{ name }}{{ more }}{{ place(\"held\") }}"),
        ("../shore/markup/pieces/a.html", "a"),
        ("../shore/markup/pieces/b.html", "b"),
        (
            "preview/pages/p.toml",
            "path = \"/\"\ntype = \"front\"\ntitle = \"A\"\nsections = [ { use = \"section:band\", holds = [ { use = \"piece:a\" }, { use = \"piece:b\" } ] } ]\n",
        ),
    ];
    let run = |top: &str| layered(top, shore, "{{ place(\"sections\") }}", &markup).1;
    assert_eq!(run("[section.band]\ninputs.more = { type = \"string\", default = \"m\" }\n"), "nma");
    assert_eq!(run("[section.band]\nholds = [\"piece:b\"]\ninputs.name = { default = \"N\" }\n"), "Nb");
    assert_eq!(run("[section.band]\nextend = true\nholds = [\"piece:b\"]\n"), "nab");
}

#[test]
fn what_a_theme_does_not_say_of_itself_its_base_says() {
    let page = "{{ theme.name }} {{ theme.label }} {{ theme.about }} {{ theme.picture }} {{ theme.version }}";
    assert_eq!(layered("", "", page, &[]), (vec![], "marsh Marsh A base media/shore.svg 1.0.0".into()));
}

#[test]
fn companions_come_below_all_bases_each_once() {
    let kit = (
        "../kit/truehook.toml",
        "[companion]\nname = \"kit\"\nlabel = \"Kit\"\nversion = \"0.4.1\"\n\n[partial.dial]\nabout = \"D\"\n\n[[attach]]\nto = \"hook:document-start\"\ncall = \"k.js#first\"\n",
    );
    let more = [
        kit,
        ("../kit/code/k.js", "export const first = () => \"k\";\n"),
        ("../kit/markup/partials/dial.html", "dial"),
        ("../shore/truehook.toml", ""),
    ];
    let shore = "[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#one\"\n";
    let manifest = |path: &str| format!("companions = [{{ path = \"{path}\", version = \"^0.4\" }}]\n");
    let top = format!("{TOP}{}", manifest("../kit"));
    let shore = format!("{SHORE}{}\n{shore}", manifest("../kit"));
    let page = front("[{{ place(\"hook:document-start\") }}{{ place(\"partial:dial\") }}]{{ super() }}");
    let mut files = more[..3].to_vec();
    files.extend([
        ("truehook.toml", top.as_str()),
        ("../shore/truehook.toml", shore.as_str()),
        ("../shore/media/shore.svg", "<svg/>"),
        ("markup/front.html", page.as_str()),
        CODE,
    ]);
    assert_eq!(shown(&files), "k1dial");
    let registry = registry(&theme(&files));
    let names: Vec<&str> = registry.project().layers.iter().map(|layer| layer.name.as_str()).collect();
    assert_eq!(names, ["host", "kit", "shore", "marsh"]);
    let errors = rules::check(&registry).findings;
    assert!(errors.iter().all(|found| found.level < Level::Error), "{errors:#?}");
}

#[test]
fn a_host_of_one_s_own_gives_points_types_limits_and_partials() {
    let host = "[host]\nname = \"quay\"\nlabel = \"Quay\"\nversion = \"3.0.0\"\n\n[limits]\nnesting = 2\n\n[type.issue]\nlabel = \"Issue\"\npage.number = { type = \"integer\" }\n\n[region.column]\nlabel = \"Column\"\n\n[region.main]\nlabel = \"Main\"\n\n[hook.quay-ready]\nabout = \"R\"\nmoment = true\n\n[filter.price]\nvalue = { type = \"string\" }\n\n[partial.body]\nabout = \"B\"\n";
    let manifest = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\nhost = { contract = \"../quay\", version = \"^3\" }\n\n[piece.box]\nlabel = \"Box\"\nholds = [\"piece:box\"]\noffer = [{ label = \"Box\" }]\n\n[[attach]]\nto = \"hook:quay-ready\"\ncall = \"a.js#ready\"\n\n[[attach]]\nto = \"filter:price\"\ncall = \"a.js#price\"\n";
    let files = theme(&[
        ("truehook.toml", manifest),
        ("../quay/truehook.toml", host),
        ("../quay/markup/partials/body.html", "{{ page.body }}"),
        ("markup/page.html", "[{{ page.number + 1 }}{{ place(\"region:column\") }}]"),
        ("markup/layout.html", "{{ place(\"region:main\") }}"),
        ("markup/pieces/box.html", "({{ place(\"held\") }})"),
        ("code/a.js", "export const ready = () => {};\nexport const price = (value) => `${value} €`;\n"),
        (
            "preview/site.toml",
            "[fill]\n\"region:column\" = [ { use = \"piece:box\", holds = [ { use = \"piece:box\", holds = [ { use = \"piece:box\" } ] } ] } ]\n",
        ),
        ("preview/pages/a.toml", "path = \"/\"\ntype = \"issue\"\ntitle = \"A\"\n"),
    ]);
    let findings = rules::check(&registry(&files)).findings;
    let told: Vec<&str> = findings.iter().filter(|found| found.level > Level::Note).map(|found| found.rule).collect();
    assert_eq!(told, ["unreached-template", "too-deep"], "{findings:#?}");
}
