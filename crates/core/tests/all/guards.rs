//! Conditions around placements: what is told of them, and which mends are made without asking.

use truehook_core::link::Registry;
use truehook_core::mending::mend;
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::rules::{self, Level};

const MANIFEST: &str = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\n\n[region.kiosk]\nlabel = \"Kiosk\"\n\n[region.quay]\nlabel = \"Quay\"\n\n[piece.note]\nlabel = \"Note\"\noffer = [{ label = \"A note\" }]\n";

fn files(manifest: &str, markup: &str, fill: &str) -> MemoryFiles {
    let mut files = MemoryFiles::new();
    let page = format!(
        "<!doctype html>\n<html lang=\"en\">\n<head><title>{{{{ page.title }}}}</title>{{{{ place(\"hook:document-head\") }}}}</head>\n<body>\n<main>{{{{ place(\"region:main\") }}}}</main>\n{markup}\n{{{{ place(\"hook:document-end\") }}}}\n</body>\n</html>\n"
    );
    files.insert("/t/marsh/truehook.toml", format!("{MANIFEST}{manifest}"));
    files.insert("/t/marsh/markup/page.html", page);
    files.insert(
        "/t/marsh/preview/pages/front.toml",
        "path = \"/\"\ntype = \"front\"\ntitle = \"F\"\n[data]\nwide = true\n",
    );
    files.insert("/t/marsh/markup/pieces/note.html", "<p>note</p>\n");
    files.insert("/t/marsh/preview/site.toml", format!("title = \"M\"\n[fill]\n{fill}"));
    files
}

fn registry(files: &MemoryFiles) -> Registry {
    Registry::new(Project::open(files, "/t/marsh".into()).unwrap())
}

/// All errors and warnings, and of the rule of guards the notes: as `level rule: message`.
fn told(markup: &str, fill: &str) -> Vec<String> {
    let findings = rules::check(&registry(&files("", markup, fill))).findings;
    let heard = findings.iter().filter(|found| found.level > Level::Note || found.rule == "guard-target");
    heard.map(|found| format!("{} {}: {}", found.level.word(), found.rule, found.message)).collect()
}

const QUAY: &str = "{% if filled(\"region:quay\") %}<div>{{ place(\"region:quay\") }}</div>{% endif %}";

#[test]
fn a_guard_that_asks_for_another_point_is_told() {
    let around = |guard: &str| {
        format!("{{% if {guard} %}}<aside>{{{{ place(\"region:kiosk\") }}}}</aside>{{% endif %}}\n{QUAY}")
    };
    let note = "[{ use = \"piece:note\" }]";
    let fills = [
        (
            format!("\"region:kiosk\" = {note}\n"),
            vec!["error guard-target: `region:kiosk` shows only where `region:quay` is filled, which it is on no page"],
        ),
        (
            format!("\"region:kiosk\" = {note}\n\"region:quay\" = {note}\n"),
            vec!["note guard-target: `region:kiosk` shows only where `region:quay` is filled"],
        ),
        (
            format!(
                "\"region:kiosk\" = {note}\n\"region:quay\" = [{{ use = \"piece:note\", when = \"page.type != 'list'\" }}]\n"
            ),
            vec![
                "warning guard-target: `region:kiosk` shows only where `region:quay` is filled, which it is not on pages of type list",
            ],
        ),
    ];
    for (fill, wanted) in &fills {
        assert_eq!(told(&around("filled(\"region:quay\")"), fill), *wanted, "{fill}");
        assert_eq!(told(&around("page.title and filled(\"region:quay\")"), fill), *wanted, "{fill}");
        // Guards that let it through wherever it is filled.
        for guard in [
            "filled(\"region:kiosk\")",
            "filled(\"region:quay\") or filled(\"region:kiosk\")",
            "filled(\"region:kiosk\") or page.data.wide",
            "true",
        ] {
            assert_eq!(told(&around(guard), fill), [""; 0], "{guard}: {fill}");
        }
    }
}

#[test]
fn conditions_that_are_never_met_are_told_once() {
    let fill = "\"region:kiosk\" = [{ use = \"piece:note\" }]\n";
    for (guard, wanted) in [
        (
            "not filled(\"region:kiosk\")",
            "warning unreached-placement: `region:kiosk` is placed, but under a condition that is never met: `not filled(\"region:kiosk\")`",
        ),
        (
            "false",
            "warning unreached-placement: `region:kiosk` is placed, but under a condition that is never met: `false`",
        ),
        (
            "page.type == \"front\" and page.type == \"list\"",
            "warning unreached-placement: `region:kiosk` is placed, but under conditions that together are never met: `page.type == \"front\"` and `page.type == \"list\"`",
        ),
        ("page.type == \"frnt\"", "error input-value: `page.type` is never \"frnt\""),
        ("filled(\"region:kiok\")", "error undeclared-point: `region:kiok` is placed, but no layer declares it"),
        (
            "enabled(\"feature:colours\")",
            "warning feature-needed: `feature:colours` is asked for, but the theme does not switch it on",
        ),
    ] {
        let markup = format!("{{% if {guard} %}}<aside>{{{{ place(\"region:kiosk\") }}}}</aside>{{% endif %}}\n{QUAY}");
        assert_eq!(told(&markup, fill), [wanted], "{guard}");
    }
}

#[test]
fn which_pages_get_to_a_placement_is_worked_out_from_its_conditions() {
    for (guard, wanted) in [
        ("page.type == \"front\"", "front"),
        ("page.type in [\"front\", \"list\"] and page.type != \"list\"", "front"),
        ("not (page.type == \"front\" or page.type == \"page\")", "list entry search missing"),
        ("page.type == \"front\" or page.data.wide", "front page list entry search missing"),
        ("page.data.wide", "front page list entry search missing"),
        ("page.data.wide and \"list\" == page.type", "list"),
    ] {
        for markup in [
            format!("{{% if {guard} %}}{{{{ place(\"region:kiosk\") }}}}{{% endif %}}"),
            format!("{{{{ place(\"region:kiosk\") if {guard} }}}}"),
            format!("{{% set shows = {guard} %}}{{% if shows %}}{{{{ place(\"region:kiosk\") }}}}{{% endif %}}"),
            format!("{{% if not ({guard}) %}}-{{% else %}}{{{{ place(\"region:kiosk\") }}}}{{% endif %}}"),
            format!("{{% if false %}}-{{% elif {guard} %}}{{{{ place(\"region:kiosk\") }}}}{{% endif %}}"),
        ] {
            let registry = registry(&files("", &format!("{markup}\n{QUAY}"), ""));
            let point = registry.point("region:kiosk".parse().unwrap()).unwrap();
            assert_eq!(registry.type_names(point.reached).join(" "), wanted, "{markup}");
        }
    }
}

/// What a manifest becomes by the mends that are made without asking.
fn mended(manifest: &str) -> String {
    let mut files = files(manifest, "{{ place(\"hook:quay\") }}", "");
    files.insert("/t/marsh/code/a.js", "export function a() { return \"a\"; }\n");
    let mended = mend(&files, registry(&files), &mut |_, _| None).unwrap();
    let change = mended.changes.iter().find(|change| change.path.as_str().ends_with("truehook.toml"));
    change.map_or(String::new(), |change| {
        String::from_utf8(change.after.clone().unwrap()).unwrap()[MANIFEST.len()..].to_string()
    })
}

#[test]
fn nothing_is_rewritten_at_an_offset_of_another_text() {
    let hook = |when: &str| {
        format!("[hook.quay]\nabout = \"Q\"\n\n[[attach]]\nto = \"hook:quay\"\ncall = \"a.js#a\"\nwhen = {when}\n")
    };
    for (when, after) in [
        ("\"pge.type == 'front'\"", Some("\"page.type == 'front'\"")),
        ("'pge.type == \"front\"'", Some("'page.type == \"front\"'")),
        (
            "\"\"\"\npge.type == 'front'\nor page.type == 'list'\n\"\"\"",
            Some("\"\"\"\npage.type == 'front'\nor page.type == 'list'\n\"\"\""),
        ),
        (
            "'''pge.type == 'front' or page.type == 'list' '''",
            Some("'''page.type == 'front' or page.type == 'list' '''"),
        ),
        // Written with escapes, a place in the condition is none in the file.
        ("\"pge.type == \\\"front\\\"\"", None),
        ("\"page.typ\\u0065 == 'front' and pge.title\"", None),
        ("\"\"\"\\\n  pge.type == 'front'\"\"\"", None),
    ] {
        let wanted = after.map_or(String::new(), hook);
        assert_eq!(mended(&hook(when)), wanted, "{when}");
    }
}

#[test]
fn a_declaration_that_differs_from_all_its_uses_is_the_likely_slip() {
    let declared = "[region.carosel]\nlabel = \"Carousel\"\n";
    let markup = "{% if filled(\"region:carousel\") %}<div>{{ place(\"region:carousel\") }}</div>{% endif %}";
    let files = files(declared, markup, "\"region:carousel\" = [{ use = \"piece:note\" }]\n");
    let mended = mend(&files, registry(&files), &mut |_, _| None).unwrap();
    assert!(mended.changes.is_empty(), "{:?}", mended.changes);
}
