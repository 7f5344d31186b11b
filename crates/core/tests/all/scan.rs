//! What each kind of file says, one file at a time.

use truehook_core::link::{Registry, Types};
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::scan::{
    Facts, FlawKind, ManifestShape, ModuleShape, Predicate, SectionKind, Shape, TemplateShape, TemplateVerb, Verb,
    html_alone,
};
use truehook_core::source::At;

fn facts(path: &str, text: &str) -> Facts {
    let mut files = MemoryFiles::new();
    files.insert("/t/marsh/truehook.toml", "[theme]\nname = \"marsh\"\n");
    files.insert(format!("/t/marsh/{path}"), text);
    let project = Project::open(&files, "/t/marsh".into()).unwrap();
    let file = project.find(project.top(), path).unwrap();
    Registry::scan(&project).swap_remove(file.index())
}

fn template(text: &str) -> (TemplateShape, Facts) {
    let facts = facts("markup/page.html", text);
    let Shape::Template(shape) = &facts.shape else { panic!("no template") };
    ((**shape).clone(), facts)
}

fn module(text: &str) -> (ModuleShape, Facts) {
    let facts = facts("code/a.js", text);
    let Shape::Module(shape) = &facts.shape else { panic!("no module") };
    ((**shape).clone(), facts)
}

fn manifest(text: &str) -> (ManifestShape, Facts) {
    let facts = facts("truehook.toml", text);
    let Shape::Manifest(shape) = &facts.shape else { panic!("no manifest") };
    ((**shape).clone(), facts)
}

fn said<'t>(facts: &Facts, text: &'t str, at: At) -> &'t str {
    &text[facts.span(at).range()]
}

fn flaws(facts: &Facts) -> Vec<(FlawKind, String)> {
    facts.flaws.iter().map(|flaw| (flaw.kind, flaw.message.clone())).collect()
}

#[test]
fn uses_of_points_stand_where_they_stand() {
    let text = "é {{ place(\"region:aside\") }}{% if x %}{{ place('partial:a', size=1, **more) }}{% endif %}\n\
                {{ v | upper | through(\"filter:f\", reading=v) }}{{ filled(\"hook:h\") }}";
    let (shape, facts) = template(text);
    let uses: Vec<_> = shape
        .uses
        .iter()
        .map(|found| {
            (
                found.verb,
                said(&facts, text, found.point.at),
                found.args.len(),
                found.open,
                found.chance.is_conditional(),
            )
        })
        .collect();
    assert_eq!(
        uses,
        [
            (Verb::Place, "\"region:aside\"", 0, false, false),
            (Verb::Place, "'partial:a'", 1, true, true),
            (Verb::Through, "\"filter:f\"", 1, false, false),
            (Verb::Filled, "\"hook:h\"", 0, false, false),
        ]
    );
    assert_eq!(said(&facts, text, shape.uses[1].args[0].at), "size");
    assert!(!shape.dynamic);
}

#[test]
fn parts_of_a_template_know_what_they_hold() {
    let (shape, _) = template(
        "{% extends \"a.html\" %}{% block one %}{{ super() }}{% block two %}{{ place(\"region:x\") }}{% endblock %}{% endblock %}\
         {% macro m(a) %}{{ place(\"region:y\") }}{% endmacro %}{% if false %}{{ place(\"region:z\") }}{% else %}{{ m(1) }}{% endif %}",
    );
    let kinds: Vec<SectionKind> = shape.sections.iter().map(|section| section.kind).collect();
    use SectionKind::{Block, Macro, Top};
    assert_eq!(kinds, [Top, Block("one".into()), Block("two".into()), Macro("m".into())]);
    assert!(shape.sections[1].calls_super && !shape.sections[2].calls_super);
    assert_eq!(shape.sections[0].blocks[0].name, "one");
    assert_eq!(shape.sections[1].blocks[0].name, "two");
    assert!(shape.sections[0].mentions.iter().any(|mention| mention.name == "m"));
    let homes: Vec<u16> = shape.uses.iter().map(|found| found.section.0).collect();
    assert_eq!(homes, [2, 3, 0]);
    let guard = shape.guards_from(shape.uses[2].guard).next().unwrap();
    assert_eq!(guard.predicate, Predicate::Constant(false));
}

#[test]
fn templates_refer_to_others() {
    let (shape, _) = template(
        "{% extends \"below:layout.html\" %}{% from \"m.html\" import a, b as c %}{% import \"n.html\" as n %}\
         {% for x in [1] %}{% include [\"p.html\", \"q.html\"] %}{% endfor %}{% include name %}",
    );
    let refs: Vec<_> = shape
        .refs
        .iter()
        .map(|found| {
            (found.verb, found.target.map(|name| name.as_str()), found.optional, found.chance.is_conditional())
        })
        .collect();
    use TemplateVerb::{Extends, Import, Include};
    assert_eq!(
        refs,
        [
            (Extends, Some("below:layout.html"), false, false),
            (Import, Some("m.html"), false, false),
            (Import, Some("n.html"), false, false),
            (Include, Some("p.html"), true, true),
            (Include, Some("q.html"), true, true),
            (Include, None, false, false),
        ]
    );
    let aliases: Vec<(&str, Option<&str>)> = shape.refs[1]
        .aliases
        .iter()
        .map(|(local, single)| (local.as_str(), single.map(|single| single.name.as_str())))
        .collect();
    assert_eq!(aliases, [("a", Some("a")), ("c", Some("b"))]);
    assert!(shape.refs[3].visible.contains(&"x".into()));
    assert!(shape.dynamic, "what `name` includes can't be seen");
}

#[test]
fn variables_are_read_with_their_whole_path() {
    let text = "{{ page.data.tides[\"low\"].x }}{{ a[b].c }}{% set own = d %}{{ own.e }}{{ f is defined }}{{ page.title.upper() }}";
    let (shape, facts) = template(text);
    let paths: Vec<String> = shape
        .reads
        .iter()
        .map(|read| read.path.iter().map(|step| step.name.as_str()).collect::<Vec<_>>().join("."))
        .collect();
    // Behind a step that nobody knows the path ends.
    assert_eq!(paths, ["page.data.tides.low.x", "b", "a.", "d", "f", "page.title.upper"]);
    assert_eq!(said(&facts, text, shape.reads[0].path[1].at), "data");
}

#[test]
fn points_that_can_not_be_followed_are_told() {
    for (text, message) in [
        ("{{ place(name) }}", "named by a literal string"),
        ("{{ place(\"region:\" ~ name) }}", "named by a literal string"),
        ("{{ place() }}", "named by a literal string"),
        ("{{ place(\"region:a\") | upper }}", "can only be printed"),
        ("{% set x = place(\"region:a\") %}", "can only be printed"),
        ("{% filter upper %}{{ place(\"region:a\") }}{% endfilter %}", "can only be printed"),
        ("{% set p = place %}", "called by its name"),
        ("{{ x | through(name) }}", "named by a literal string"),
        ("{{ asset(file) }}", "named by a literal string"),
    ] {
        let (_, facts) = template(text);
        let found = flaws(&facts);
        assert!(matches!(&found[..], [(FlawKind::DynamicPoint, told)] if told.contains(message)), "{text}: {found:?}");
    }
}

#[test]
fn unknown_filters_tests_and_arguments_without_names_are_told() {
    for (text, message) in [
        ("{{ x | uper }}", "no filter `uper`"),
        ("{{ x is evn }}", "no test `evn`"),
        ("{{ place(\"region:a\", 1) }}", "by name"),
        ("{% block a %}{% endblock %}{% block a %}{% endblock %}", "doesn't parse"),
        ("{{ ", "doesn't parse"),
    ] {
        let found = flaws(&template(text).1);
        assert!(matches!(&found[..], [(FlawKind::MarkupSyntax, told)] if told.contains(message)), "{text}: {found:?}");
    }
}

#[test]
fn html_stays_where_it_is_when_tags_go() {
    let text = "<p class=\"{{ a }}\">é{# <b> #}{% if x %}<i>{% endif %}</p>{% raw %}<u>{% endraw %}";
    let html = html_alone(text).unwrap();
    assert_eq!(html.len(), text.len());
    assert!(
        html.contains("<p class=\"xxxxxxx\">é")
            && html.contains("<i>")
            && html.contains("<u>")
            && !html.contains("<b>"),
        "{html}"
    );
    assert_eq!(html.find("</p>"), text.find("</p>"));
    assert!(html_alone("{{ \"").is_none());
}

#[test]
fn modules_export_and_import() {
    let text = "import { html, place as put } from \"truehook\";\nimport one, { two as zwei } from \"./b.js\";\nimport * as all from \"./c.js\";\n\
                export * from \"./d.js\";\nexport { x as y } from \"./e.js\";\nexport function f() { return put(\"hook:h\", { size: 1, ...more }); }\n\
                export const g = () => 1, h = 2, { i, j: [k] } = {};\nexport class K {}\nexport default function () {}\nfunction l() {}\nexport { l as m };\n";
    let (shape, facts) = module(text);
    let exports: Vec<(&str, bool)> =
        shape.exports.iter().map(|export| (export.name.as_str(), export.no_function)).collect();
    assert_eq!(
        exports,
        [
            ("y", false),
            ("f", false),
            ("g", false),
            ("h", true),
            ("i", false),
            ("k", false),
            ("K", true),
            ("default", false),
            ("m", false)
        ]
    );
    let imports: Vec<(&str, usize, bool, bool)> = shape
        .imports
        .iter()
        .map(|import| (import.from.name.as_str(), import.names.len(), import.all, import.passes_on))
        .collect();
    assert_eq!(
        imports,
        [
            ("truehook", 2, false, false),
            ("./b.js", 2, false, false),
            ("./c.js", 0, true, false),
            ("./d.js", 0, true, true),
            ("./e.js", 1, false, false)
        ]
    );
    let [found] = &shape.uses[..] else { panic!("{:?}", shape.uses) };
    assert_eq!(
        (said(&facts, text, found.point.at), found.owner.map(|owner| owner.as_str()), found.open),
        ("\"hook:h\"", Some("f"), true)
    );
}

#[test]
fn callbacks_own_what_they_place() {
    let (shape, _) = module(
        "import { place, through } from \"truehook\";\nexport const a = () => { if (x) { return place(\"hook:a\"); } };\n\
         const helper = () => place(\"hook:b\");\nexport default () => through(\"filter:c\", 1, { n: 1 });\nplace(\"hook:d\");\n",
    );
    let uses: Vec<_> = shape
        .uses
        .iter()
        .map(|found| (found.point.raw.as_str(), found.owner.map(|owner| owner.as_str()), found.chance.is_conditional()))
        .collect();
    assert_eq!(
        uses,
        [
            ("hook:a", Some("a"), true),
            ("hook:b", None, false),
            ("hook:d", None, false),
            ("filter:c", Some("default"), false)
        ]
    );
}

#[test]
fn modules_that_hide_what_they_place_are_told() {
    for text in [
        "import { place } from \"truehook\";\nexport const f = (x) => place(x);\n",
        "import { place } from \"truehook\";\nexport const f = place;\n",
        "import { through } from \"truehook\";\n[1].map(through);\n",
        "import * as all from \"truehook\";\nall.place(\"hook:a\");\n",
    ] {
        let (shape, facts) = module(text);
        assert!(
            shape.dynamic && matches!(&flaws(&facts)[..], [(FlawKind::DynamicPoint, _)]),
            "{text}: {:?}",
            flaws(&facts)
        );
    }
}

#[test]
fn manifests_are_read_key_by_key() {
    let text = "[theme]\nname = \"marsh\"\nversion = \"1.2.3\"\nopen = true\n\n[hook.a]\nabout = \"A\"\nargs = { x = { type = \"string\" } }\n\n\
                [partial.b]\ninputs.y = { type = \"integer\", default = 3 }\nrender = \"b.js#f\"\n\n[type.sheet]\npage.z = { type = \"string\" }\n\n\
                [[attach]]\nto = \"hook:a\"\ncall = \"foreshore:c.js#g\"\npriority = 7\nafter = [\"d.js#h\"]\nwhen = \"page.z == 'q'\"\n\n[[attach]]\nto = \"hook:a\"\nuse = \"partial:b\"\n";
    let (shape, facts) = manifest(text);
    assert_eq!(flaws(&facts), []);
    let identity = shape.identity.unwrap();
    assert!(identity.open && identity.version.unwrap().minor == 2);
    assert_eq!(
        shape.declarations.iter().map(|found| found.address.to_string()).collect::<Vec<_>>(),
        ["hook:a", "partial:b"]
    );
    assert_eq!(said(&facts, text, shape.declarations[1].at), "[partial.b]");
    assert_eq!(shape.declarations[1].inputs[0].default(), Some(&3.into()));
    assert_eq!(shape.types[0].keys[0].name, "z");
    let first = &shape.attachments[0];
    assert_eq!((first.priority, first.after[0].name.as_str()), (7, "d.js#h"));
    let when = first.when.as_ref().unwrap();
    assert_eq!(said(&facts, text, when.reads[0][1].at), "z");
    assert_eq!(shape.attachments[1].priority, 50);
}

#[test]
fn what_is_wrong_in_a_manifest_is_told_where_it_stands() {
    use FlawKind::{BadName, ConditionSyntax, ManifestSyntax, PriorityRange, UnknownKey};
    for (text, kind, said_there) in [
        ("[region.a]\nlabel = 1\n", ManifestSyntax, "1"),
        ("[region.a]\nlabl = \"x\"\n", UnknownKey, "labl"),
        ("[regin.a]\n", UnknownKey, "regin"),
        ("[region.A-b]\n", BadName, "A-b"),
        ("[partial.a]\ninputs.when = { type = \"string\" }\n", BadName, "when"),
        ("[partial.a]\ninputs.Big = { type = \"string\" }\n", BadName, "Big"),
        ("[partial.a]\ninputs.x = { type = \"strng\" }\n", ManifestSyntax, "\"strng\""),
        ("[partial.a]\ninputs.x = { typ = \"string\" }\n", UnknownKey, "typ"),
        ("[partial.a]\nrender = \"a.js\"\n", ManifestSyntax, "\"a.js\""),
        ("[[attach]]\nto = \"hook:a\"\ncall = \"a.js#f\"\npriority = -1\n", PriorityRange, "-1"),
        ("[[attach]]\nto = \"hook:a\"\ncall = \"a.js#f\"\nwhen = \"page.x +\"\n", ConditionSyntax, ""),
        ("[[attach]]\nto = \"hook:a\"\ncall = \"a.js#f\"\nwhen = \"page.x | upper\"\n", ConditionSyntax, "upper"),
        ("[[attach]]\nto = \"hook:a\"\n", ManifestSyntax, "[[attach]]"),
        ("[[attach]]\nto = \"hook:a\"\ncall = \"a.js#f\"\nuse = \"partial:b\"\n", ManifestSyntax, "[[attach]]"),
        ("[check]\nfail-on = \"never\"\n", ManifestSyntax, "\"never\""),
    ] {
        let whole = format!("[theme]\nname = \"marsh\"\n\n{text}");
        let (_, facts) = manifest(&whole);
        let [flaw] = &facts.flaws[..] else { panic!("{text}: {:?}", facts.flaws) };
        assert_eq!(flaw.kind, kind, "{text}: {}", flaw.message);
        if !said_there.is_empty() {
            assert_eq!(said(&facts, &whole, flaw.at), said_there, "{text}: {}", flaw.message);
        }
    }
}

#[test]
fn sets_of_types_are_sets() {
    let (one, two) = (Types::one(1), Types::one(5));
    let both = Types(one.0 | two.0);
    assert!(both.has(1) && both.has(5) && !both.has(2) && both.and(two) == two && both.without(one) == two);
    assert!(one.and(two).is_empty());
    assert_eq!(Types::one(63), Types::one(900), "past the 64th they share the last bit");
}
