//! `why` and `explain`, as they are typed: the first broken link, its place and its mend.

use crate::fixture::Terminal;

/// Asks, and looks whether the answer says all of this.
#[track_caller]
fn ask(terminal: &Terminal, question: &str, status: i32, says: &[&str]) {
    let said = terminal.types(&format!("why {question}")).ends(status);
    says.iter().fold(said, |said, text| said.says(text));
}

#[test]
fn what_shows_is_told_link_by_link() {
    let demo = Terminal::demo();
    ask(
        &demo,
        "area:footer-notes --page /",
        0,
        &["`area:footer-notes` shows on /", "needs no callback", "2 items", "by every page"],
    );
    ask(
        &demo,
        "hook:under-masthead --page /",
        0,
        &["masthead.js#winterNotice           ran", "is detached by saltmarsh"],
    );
    ask(&demo, "filter:site-line --page /", 0, &["changes values on /", "sent "]);
    ask(&demo, "section:spotlight --page /", 0, &["among the sections of a page"]);
    ask(&demo, "partial:masthead", 0, &["rendered   markup/partials/masthead.html:1"]);
    ask(&demo, "option:scheme", 0, &["a callback reads it", "the site chooses it"]);
    ask(&demo, "hook:theme-chosen", 0, &["the host fires it"]);
    ask(&demo, "template:entry --page /log/avocets-are-back/", 0, &["is used on", "by pages of type entry"]);
}

#[test]
fn the_first_broken_link_is_marked_with_its_mend() {
    let broken = Terminal::demo();
    let ask = |question: &str, says: &[&str]| {
        let said = broken.types_in("saltmarsh-broken", &format!("why {question}")).ends(1);
        says.iter().fold(said.says("← here"), |said, text| said.says(text));
    };
    ask(
        "region:tide-board",
        &["no template places it", "placed     –   ← here", "mend: truehook place region:tide-board"],
    );
    ask("hook:ahead-of-footer --page /", &["a copy that has lost its placement", "--in layout.html --before footer"]);
    ask(
        "area:footer-notes",
        &["the site puts nothing into it", "mend: truehook check --fix   # write `area:footer-notes`"],
    );
    ask("filter:reading-word", &["no layer declares it; did you mean `filter:reading-words`?"]);
    ask("feature:letering", &["the host does not offer it; did you mean `feature:lettering`?"]);
    ask("masthead.js#lowWaterNotice --page /", &["does not run on /", "write `type`"]);
    // What was to be detached, and is not since its name is misspelt, still runs.
    broken
        .types_in("saltmarsh-broken", "why foreshore:masthead.js#themeRibbon --page /visit/")
        .ends(0)
        .says("runs on /visit/");
}

#[test]
fn a_page_that_does_not_get_there_is_told_apart_from_one_where_a_condition_fails() {
    let demo = Terminal::demo();
    ask(
        &demo,
        "region:tide-board --page /visit/",
        1,
        &["no template that /visit/ uses", "but this page does not get there"],
    );
    ask(&demo, "partial:tide-dial --page /log/", 1, &["but its condition keeps it for other pages"]);
    ask(&demo, "masthead.js#lowWaterNotice --page /visit/", 1, &["is off, since `page.type == 'front'` does not hold"]);
    ask(
        &demo,
        "foreshore:masthead.js#themeRibbon --page /",
        1,
        &["is detached by saltmarsh", "take the [[detach]] away"],
    );
    ask(&demo, "foreshore:masthead.js#welcome --page /", 1, &["is replaced by saltmarsh masthead.js#welcome"]);
    ask(&demo, "script:clock-hand --page /visit/", 1, &["is not loaded on /visit/"]);
    ask(&demo, "script:clock-hand --page /", 0, &["is loaded on /"]);
    ask(&demo, "template:front --page /visit/", 1, &["is of type page, which ../foreshore/markup/page.html shows"]);
}

#[test]
fn callbacks_that_fail_or_give_nothing_are_told() {
    let with = |body: &str| {
        Terminal::new()
            .manifest("[hook.note]\nabout = \"N\"\n\n[[attach]]\nto = \"hook:note\"\ncall = \"a.js#note\"\n")
            .file("marsh/markup/page.html", "{% extends \"layout.html\" %}\n{% block main %}{{ super() }}{{ place(\"hook:note\") }}{% endblock %}\n")
            .file("marsh/code/a.js", format!("export function note({{ page }}) {{\n  {body}\n}}\n"))
    };
    ask(&with("return page.title;"), "hook:note --page /", 0, &["a.js#note  ran"]);
    ask(&with("return \"\";"), "hook:note --page /", 1, &["a.js#note ran and gave nothing"]);
    ask(&with("return page.none.at.all;"), "hook:note --page /", 1, &["a.js#note failed: TypeError"]);
    ask(&with("return page.none.at.all;"), "a.js#note --page /", 1, &["does not run on /: it failed: TypeError"]);
    let guarded = with("return page.title;").file(
        "marsh/markup/page.html",
        "{% extends \"layout.html\" %}\n{% block main %}{{ super() }}{% if page.data.more %}{{ place(\"hook:note\") }}{% endif %}{% endblock %}\n",
    );
    ask(
        &guarded,
        "hook:note --page /",
        1,
        &["`page.data.more` does not hold on /", "where `page.data.more` holds, not on /"],
    );
}

#[test]
fn callbacks_that_run_in_vain_are_told() {
    let attach = |name: &str| format!("[[attach]]\nto = \"filter:words\"\ncall = \"a.js#{name}\"\n");
    let manifest = format!(
        "[filter.words]\nvalue = {{ type = \"string\" }}\n\n{}\n{}\n{}",
        attach("shout"),
        attach("mend"),
        attach("still")
    );
    let page = "{% extends \"layout.html\" %}\n{% block main %}{{ super() }}{{ page.title | through(\"filter:words\") }}{% endblock %}\n";
    let terminal = Terminal::new().manifest(&manifest).file("marsh/markup/page.html", page).file(
        "marsh/code/a.js",
        "export const shout = (value) => value + \"!\";\nexport const mend = () => \"Marsh\";\nexport const still = (value) => value;\n",
    );
    let vain = &["`a.js#shout` runs in vain on /", "the page is the same without it: a.js#mend overrides it later"];
    ask(&terminal, "a.js#shout --page /", 1, vain);
    ask(&terminal, "filter:words --page /", 0, &["a.js#mend overrides it later", "a.js#still  ran and gave back"]);
    ask(&terminal, "a.js#mend --page /", 0, &["`a.js#mend` runs on /"]);
    ask(&terminal, "a.js#still --page /", 0, &["gave back what it was given"]);
    // A filter whose only callback stands in for another one changes values all the same.
    let replaced = terminal
        .file("marsh/truehook.toml", "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"0.1.0\"\nbase = { path = \"../low\" }\n\n[[replace]]\ncall = \"low:b.js#old\"\nwith = \"a.js#shout\"\n")
        .file("low/truehook.toml", format!("[theme]\nname = \"low\"\nlabel = \"Low\"\nversion = \"0.1.0\"\nopen = true\n\n[filter.words]\nvalue = {{ type = \"string\" }}\n\n{}", attach("old").replace("a.js", "b.js")))
        .file("low/code/b.js", "export const old = (value) => value;\n");
    ask(
        &replaced,
        "filter:words --page /",
        0,
        &["`filter:words` changes values on /", "is replaced by marsh a.js#shout"],
    );
    ask(&replaced, "a.js#shout --page /", 0, &["runs in place of another"]);
    let inputs = "[partial.card]\nabout = \"C\"\ninputs.one = { type = \"string\", default = \"\" }\n\n[[attach]]\nto = \"partial:card\"\ncall = \"a.js#more\"\n";
    let spare = Terminal::new()
        .manifest(inputs)
        .file(
            "marsh/markup/page.html",
            "{% extends \"layout.html\" %}\n{% block main %}{{ super() }}{{ place(\"partial:card\") }}{% endblock %}\n",
        )
        .file("marsh/markup/partials/card.html", "{% if one == \"x\" %}x{% endif %}\n")
        .file("marsh/code/a.js", "export const more = (inputs) => ({ ...inputs, one: \"y\" });\n");
    ask(&spare, "a.js#more --page /", 1, &["runs in vain on /: it ran, and the page is the same without it"]);
}

#[test]
fn what_is_unused_is_told_in_its_own_words() {
    let terminal = Terminal::new()
        .manifest("[feature.pictures]\nemblem = true\n\n[style.idle]\nfile = \"a.css\"\n\n[partial.lonely]\nabout = \"L\"\nneeds = [\"style:idle\"]\n\n[option.choice]\nlabel = \"C\"\ntype = \"boolean\"\ndefault = true\n\n[filter.words]\nvalue = { type = \"string\" }\n")
        .file("marsh/media/a.css", "")
        .file("marsh/markup/partials/lonely.html", "x\n")
        .file("marsh/code/a.js", "export const idle = () => 1;\n");
    ask(&terminal, "feature:pictures", 1, &["nothing uses what it feeds: emblem: site.emblem"]);
    ask(&terminal, "feature:host-parts", 1, &["no layer switches it on", "mend: truehook declare feature:host-parts"]);
    ask(&terminal, "style:idle --page /", 1, &["nothing that asks for it is on /"]);
    ask(&terminal, "style:components", 1, &["no component and no other asset needs it"]);
    ask(&terminal, "partial:lonely", 1, &["nothing places, holds or attaches it"]);
    ask(&terminal, "option:choice", 1, &["no template, callback or condition reads it"]);
    ask(&terminal, "filter:words", 1, &["nothing is attached to it", "truehook attach filter:words"]);
    ask(&terminal, "hook:document-end --page /", 1, &["and the page needs nothing there"]);
    ask(&terminal, "a.js#idle", 1, &["attached to nothing, renders nothing, and no module imports it"]);
    terminal.types("why nonsense").ends(2).says("is not an address");
    terminal.types("why a.js#idel").ends(2).says("did you mean `a.js#idle`?");
    terminal.types("why hook:document-head --page /nowhere/").ends(2).says("there is no page /nowhere/");
}

#[test]
fn the_answer_is_there_as_json() {
    let said = Terminal::demo().types("why region:tide-board --page /visit/ --format json").ends(1);
    let why: serde_json::Value = serde_json::from_str(&said.stdout).unwrap();
    assert_eq!(
        (why["version"].as_u64(), why["shows"].as_bool(), why["broken"].as_u64()),
        (Some(1), Some(false), Some(3))
    );
    assert_eq!(why["chain"][3]["name"], "placed");
    assert_eq!(why["chain"][3]["state"], "broken");
    assert_eq!(why["chain"][3]["lines"][0]["place"]["line"], 8);
    assert_eq!(why["page"], "/visit/");
}

#[test]
fn words_are_explained_with_and_without_a_theme() {
    let demo = Terminal::demo();
    demo.types_in(".", "explain unplaced-point").ends(0).says("a rule").says("wrong").says("level: warning");
    demo.types_in(".", "explain preparer").ends(0).says("(inputs, context)");
    demo.types_in(".", "explain arrangers").ends(0).says("a role");
    demo.types_in(".", "explain area").ends(0).says("A widget area");
    demo.types_in(".", "explain sealed").ends(0).says("in [[attach]]");
    demo.types_in(".", "explain [[detach]]").ends(0).says("detach  a key").says("points/*.toml");
    demo.types_in(".", "explain minItems").ends(0).says("JSON Schema");
    demo.types("explain filter").ends(0).says("filter  a kind").says("filter  a role");
    demo.types("explain palette")
        .ends(0)
        .says("feature:colours.palette  a feature")
        .says("takes palette (object)")
        .says("feeds palette: var(--colour-…)");
    demo.types("explain hook:under-masthead").ends(0).says("declared in foreshore");
    demo.types("explain tide-board").ends(0).says("region:tide-board");
    demo.types("explain unplaced-pont").ends(2).says("did you mean `unplaced-point`?");
    let json = demo.types("explain idle-ignore --format json").ends(0);
    let explained: serde_json::Value = serde_json::from_str(&json.stdout).unwrap();
    assert_eq!(explained["meanings"][0]["what"], "rule");
    assert_eq!(explained["meanings"][0]["wrong"][0]["file"], "truehook.toml");
}
