//! Names change everywhere, and nothing else does.

use crate::change::pages;
use crate::fixture::Terminal;

#[test]
fn names_change_everywhere_and_nothing_else_does() {
    let terminal = Terminal::demo();
    let before = pages(&terminal);
    for (from, to) in [
        ("partial:opening-hours", "partial:open-times"),
        ("section:spotlight", "section:portrait"),
        ("piece:spotlight/caption", "piece:spotlight/line"),
        ("masthead.js#lowWaterNotice", "masthead.js#ebb"),
        ("partial:opening-hours.heading", "partial:opening-hours.name"),
        ("option:scheme", "option:tone"),
        ("style:saltmarsh", "style:marsh"),
    ] {
        terminal.types(&format!("rename {from} {to}")).ends(0).never_says("next:").never_says("advice:");
        terminal.types("check").ends(0).says("nothing wrong");
        let after = pages(&terminal);
        // Only what a name is printed in differs: the option's value stays, its class is the value's.
        assert_eq!(before.len(), after.len());
        for ((path, old), (_, new)) in before.iter().zip(&after) {
            assert_eq!(old, new, "{from}: {path}");
        }
        terminal.types(&format!("rename {to} {from}")).ends(0);
    }
    for (typed, why) in [
        ("region:aside region:side", "is declared by foreshore; rename it there"),
        ("feature:colours feature:paints", "is the host's"),
        ("partial:imprnt partial:x", "did you mean `partial:imprint`?"),
        ("partial:imprint Not-Kebab", "is not"),
        ("partial:imprint partial:opening-hours", "is there already"),
        ("masthead.js#lowWaterNotise x", "did you mean `masthead.js#lowWaterNotice`?"),
        ("masthead.js#lowWaterNotice return", "can't be the name of a function"),
        ("masthead.js#lowWaterNotice welcome", "is the name of something else in there"),
        ("foreshore:cards.js#trim x", "is a callback of a lower layer"),
        ("layout.html other.html", "belongs to foreshore"),
        ("front.html other.html", "its name stays"),
        ("partials/imprint.html x.html", "truehook rename partial:imprint"),
        ("partial:opening-hours.headin x", "did you mean `partial:opening-hours.heading`?"),
        ("partial:opening-hours.heading use", "can't be the name of an input"),
        ("partial:opening-hours.heading title", "in an area"),
        ("partial:imprint partial:imprint", "is called that already"),
    ] {
        terminal.types(&format!("rename {typed}")).ends(2).says(why);
    }
    assert_eq!(pages(&terminal), before);
}

#[test]
fn an_input_gets_another_name_where_it_is_that_input_and_nowhere_else() {
    let terminal = Terminal::new()
        .manifest(
            "[partial.note]\nabout = \"A note\"\ninputs.heading.type = \"string\"\ninputs.heading.default = \"\"\n\
             inputs.text = { type = \"string\", default = \"\" }\n\n[[attach]]\nto = \"partial:note\"\ncall = \"notes.js#shout\"\n\n\
             [[attach]]\nto = \"partial:note\"\ncall = \"notes.js#whole\"\n",
        )
        .file(
            "marsh/markup/partials/note.html",
            "<h2>{{ heading }}</h2>{% for heading in [1] %}{{ heading }}{% endfor %}{% set mine = heading %}\n\
             {% macro m(heading) %}{{ heading }}{% endmacro %}{{ m(heading=text) }}{{ mine }} heading\n",
        )
        .file(
            "marsh/code/notes.js",
            "export function shout({ heading, ...rest }) {\n  return { ...rest, heading: heading.toUpperCase() };\n}\n\
             export function whole(inputs) {\n  const key = \"head\" + \"ing\";\n  return Object.assign({}, inputs, { [key]: inputs[key] });\n}\n",
        )
        .file("marsh/preview/site.toml", "[fill]\n\"region:main\" = [ { use = \"partial:note\", heading = \"A heading\" } ]\n")
        .replace("marsh/markup/layout.html", "</main>", "</main>\n  {{ place(\"partial:note\", heading=\"heading\") }}");
    terminal.types("check").ends(0);
    let files = [
        "marsh/truehook.toml",
        "marsh/markup/partials/note.html",
        "marsh/code/notes.js",
        "marsh/preview/site.toml",
        "marsh/markup/layout.html",
    ];
    let before = files.map(|file| terminal.read(file));
    terminal
        .types("rename partial:note.heading caption")
        .ends(0)
        .says("code/notes.js:4 passes its inputs on as a whole; look there for `heading`");
    let after = files.map(|file| terminal.read(file));
    assert_eq!(after[0], before[0].replace("inputs.heading", "inputs.caption"));
    assert_eq!(
        after[1],
        "<h2>{{ caption }}</h2>{% for heading in [1] %}{{ heading }}{% endfor %}{% set mine = caption %}\n\
         {% macro m(heading) %}{{ heading }}{% endmacro %}{{ m(heading=text) }}{{ mine }} heading\n"
    );
    assert_eq!(
        after[2],
        before[2]
            .replace("({ heading, ", "({ caption: heading, ")
            .replace("heading: heading.to", "caption: heading.to")
    );
    assert_eq!(after[3], before[3].replace("heading = ", "caption = "));
    assert_eq!(after[4], before[4].replace("heading=\"heading\"", "caption=\"heading\""));
    terminal.types("rename partial:note.caption partial:note.heading").ends(0);
    assert_eq!(files.map(|file| terminal.read(file)), before);
}

#[test]
fn translations_follow_a_template_that_gets_another_path() {
    let terminal = Terminal::demo();
    let words = "#: markup/partials/imprint.html:2 code/station.js:9\nmsgid \"x\"\nmsgstr \"y\"\n";
    let before = terminal.read("saltmarsh/words/de.po");
    terminal.write("saltmarsh/words/de.po", format!("{before}\n{words}"));
    terminal.types("rename partial:imprint partial:colophon").ends(0).says("markup/partials/colophon.html");
    assert!(terminal.read("saltmarsh/words/de.po").contains("#: markup/partials/colophon.html:2 code/station.js:9\n"));
    terminal.types("rename partial:colophon imprint").ends(0);
    assert_eq!(terminal.read("saltmarsh/words/de.po"), format!("{before}\n{words}"));
}
