//! `check`, as it is typed: the mistakes that people make, each told once, at the right line.

use crate::fixture::Terminal;

#[test]
fn the_demo_is_clean() {
    let terminal = Terminal::demo();
    terminal
        .types_in(".", "check foreshore tide-kit saltmarsh")
        .ends(0)
        .says("nothing wrong in foreshore")
        .says("nothing wrong in tide-kit")
        .says("in saltmarsh (76 points");
}

#[test]
fn a_misspelt_region_in_a_template() {
    Terminal::demo()
        .replace("saltmarsh/markup/front.html", "region:tide-board", "region:tide-bord")
        .types("check")
        .ends(1)
        .finds_only("undeclared-point", "markup/front.html:8:14")
        .says("did you mean `region:tide-board`?")
        .says("truehook.toml:17:1");
}

#[test]
fn a_placement_removed() {
    Terminal::demo()
        .replace("saltmarsh/markup/front.html", "    {{ place(\"region:tide-board\") }}\n", "")
        .types("check")
        .ends(1)
        .finds_only("unplaced-point", "preview/site.toml:20:1")
        .says("truehook place region:tide-board --in front.html --inside section");
}

#[test]
fn an_export_renamed() {
    Terminal::demo()
        .replace("saltmarsh/code/tides.js", "function walkTime", "function walkStart")
        .types("check")
        .ends(1)
        .finds_only("missing-callback", "points/front.toml:12:8")
        .says("code/tides.js:8:17");
}

#[test]
fn an_attachment_to_a_hook_that_is_not_there() {
    Terminal::demo()
        .replace("saltmarsh/truehook.toml", "to   = \"hook:under-masthead\"\ncall = \"masthead.js#winterNotice\"\nbefore = [\"masthead.js#lowWaterNotice\"]", "to   = \"hook:season\"\ncall = \"masthead.js#winterNotice\"")
        .types("check")
        .ends(1)
        .finds_only("undeclared-point", "truehook.toml:77:8")
        .says("truehook declare hook:season");
}

#[test]
fn a_fill_into_a_region_that_is_not_there() {
    Terminal::demo()
        .replace("saltmarsh/preview/site.toml", "\"area:footer-notes\"", "\"area:colophon\"")
        .types("check")
        .ends(1)
        .finds_only("fill-target", "preview/site.toml:30:1")
        .says("this content would vanish");
}

#[test]
fn a_priority_of_101() {
    Terminal::demo()
        .replace("saltmarsh/truehook.toml", "priority = 40", "priority = 101")
        .types("check")
        .ends(1)
        .finds_only("priority-range", "truehook.toml:73:12");
}

#[test]
fn two_callbacks_each_before_the_other() {
    Terminal::demo()
        .replace(
            "saltmarsh/truehook.toml",
            "priority = 40\n",
            "priority = 40\nbefore = [\"masthead.js#winterNotice\"]\n",
        )
        .types("check")
        .ends(1)
        .finds_only("order-cycle", "truehook.toml:74:11")
        .says("truehook.toml")
        .says("masthead.js#lowWaterNotice → masthead.js#winterNotice");
}

#[test]
fn a_condition_with_a_misspelt_name() {
    Terminal::demo()
        .replace("saltmarsh/truehook.toml", "page.type == 'front'", "page.tpye == 'front'")
        .types("check")
        .ends(1)
        .finds_only("condition-name", "truehook.toml:74:14")
        .says("did you mean `type`?");
}

#[test]
fn a_misspelt_variable() {
    Terminal::demo()
        .replace("saltmarsh/markup/sections/spotlight.html", "{{ status }}", "{{ staus }}")
        .types("check")
        .ends(1)
        .finds_only("unknown-variable", "markup/sections/spotlight.html:4:24")
        .says("did you mean `status`?");
}

#[test]
fn a_copy_of_a_template_that_lost_a_hook() {
    let terminal = Terminal::demo();
    let copy = terminal.read("foreshore/markup/layout.html").replace("  {{ place(\"hook:ahead-of-footer\") }}\n", "");
    terminal
        .file("saltmarsh/markup/layout.html", copy)
        .types("check")
        .ends(1)
        .finds_only("lost-placement", "markup/layout.html:36:3")
        .says("../foreshore/markup/layout.html:36:12")
        .says("foreshore:credits.js#show");
}

#[test]
fn the_broken_demo_tells_each_mistake_once() {
    let said = Terminal::demo().types_in("saltmarsh-broken", "check").ends(1);
    let mut rules: Vec<String> = said.findings().into_iter().map(|(head, _)| head).collect();
    rules.sort();
    assert_eq!(
        rules,
        [
            "error[broken-address]",
            "error[condition-name]",
            "error[detach-target]",
            "error[fill-target]",
            "error[input-value]",
            "error[lost-placement]",
            "error[missing-callback]",
            "error[undeclared-point]",
            "error[unknown-feature]",
            "error[unknown-variable]",
            "error[unstated-need]",
            "warning[returns-nothing]",
            "warning[unplaced-point]",
            "warning[untranslated]",
        ]
    );
}

#[test]
fn the_json_has_the_documented_shape() {
    let terminal = Terminal::demo().replace("saltmarsh/markup/front.html", "region:tide-board", "region:tide-bord");
    let said = terminal.types("check --format json").ends(1);
    let view: serde_json::Value = serde_json::from_str(&said.stdout).unwrap();
    assert_eq!(view["version"], 1);
    let finding = &view["findings"][0];
    assert_eq!(finding["rule"], "undeclared-point");
    assert_eq!(finding["level"], "error");
    assert_eq!(finding["point"], "region:tide-bord");
    let place = &finding["places"][0];
    let wanted = serde_json::json!({
        "layer": "saltmarsh", "file": "markup/front.html", "line": 8, "column": 14, "end_line": 8, "end_column": 32,
        "label": "did you mean `region:tide-board`?", "primary": true
    });
    assert_eq!(*place, wanted);
    assert_eq!(finding["places"][1]["primary"], false);
    let edit = &finding["mend"]["edits"][0];
    let text = terminal.read("saltmarsh/markup/front.html");
    let range = edit["start"].as_u64().unwrap() as usize..edit["end"].as_u64().unwrap() as usize;
    assert_eq!((&text[range], edit["new"].as_str().unwrap()), ("region:tide-bord", "region:tide-board"));
    for key in ["errors", "warnings", "notes", "below", "points", "placements", "attachments", "files"] {
        assert!(view["summary"][key].is_u64(), "{key}");
    }
}

#[test]
fn several_themes_in_one_run_are_told_apart() {
    let terminal = Terminal::demo();
    let said = terminal.types_in(".", "check saltmarsh saltmarsh-broken --format json").ends(1);
    let view: serde_json::Value = serde_json::from_str(&said.stdout).unwrap();
    let themes = view["findings"].as_array().unwrap().iter().map(|finding| finding["theme"].as_str().unwrap());
    assert!(themes.clone().all(|theme| theme == "saltmarsh-broken") && themes.count() == 14);
    terminal
        .types_in(".", "check saltmarsh saltmarsh-broken")
        .ends(1)
        .says("--> saltmarsh-broken/truehook.toml")
        .says("::: foreshore/truehook.toml");
}

#[test]
fn what_is_wrong_below_is_one_line() {
    let terminal = Terminal::demo().replace("foreshore/markup/entry.html", "page.summary %}<p", "page.sumary %}<p");
    terminal.types("check").ends(0).says("1 finding below, in foreshore alone");
    terminal.types_in("foreshore", "check").ends(1).finds_only("unknown-variable", "markup/entry.html:7:14");
}

#[test]
fn notes_are_counted_and_shown_on_request() {
    let terminal = Terminal::demo();
    terminal
        .types("check")
        .ends(0)
        .says("nothing wrong, 1 note (--notes shows it) in saltmarsh")
        .never_says("order-conflict");
    terminal.types("check --notes").ends(0).says("note[order-conflict]");
}

#[test]
fn levels_and_the_failing_level_can_be_set() {
    let terminal = Terminal::new().manifest("[region.kiosk]\nlabel = \"Kiosk\"\n\n[check]\nfail-on = \"error\"\n");
    terminal.types("check").ends(0).finds_only("unplaced-point", "truehook.toml:6:1");
    let strict = Terminal::new()
        .manifest("[region.kiosk]\nlabel = \"Kiosk\"\n\n[check]\nrules = { unplaced-point = \"off\" }\n");
    strict.types("check").ends(0).says("nothing wrong");
    let misspelt = Terminal::new().manifest("[check]\nrules = { unplaced-pont = \"off\" }\n");
    misspelt
        .types("check")
        .ends(1)
        .finds_only("unknown-key", "truehook.toml:7:11")
        .says("did you mean `unplaced-point`?");
}
