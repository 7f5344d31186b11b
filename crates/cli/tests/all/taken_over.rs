//! What is of a lower layer is taken over: callbacks, templates and content.

use crate::change::pages;
use crate::fixture::Terminal;

#[test]
fn content_of_a_lower_layer_is_taken_over_before_it_is_changed() {
    let terminal = Terminal::demo().file(
        "shore/truehook.toml",
        "[theme]\nname = \"shore\"\nlabel = \"Shore\"\nbase = { path = \"../saltmarsh\", version = \"^1\" }\n",
    );
    terminal
        .types_in("shore", "fill area:footer-notes partial:imprint title=Again")
        .ends(0)
        .says("what the preview of saltmarsh has in area:footer-notes is written here, too");
    let site = terminal.read("shore/preview/site.toml");
    assert_eq!(site.matches("{ use = ").count(), 3, "{site}");
    terminal.types_in("shore", "check").ends(0);
    terminal
        .types_in("shore", "fill sections --page / section:spotlight")
        .ends(2)
        .says("is a page of the preview of saltmarsh");
}

#[test]
fn callbacks_of_lower_layers_are_replaced_by_stubs_or_copies() {
    let terminal = Terminal::demo();
    let before = pages(&terminal);
    for call in [
        "foreshore:cards.js#trim",
        "foreshore:dates.js#inWords",
        "foreshore:menus.js#inWords",
        "tide-kit:dial.js#dial",
        "tide-kit:words.js#metres",
    ] {
        let manifest = terminal.bytes("saltmarsh/truehook.toml");
        terminal.types(&format!("replace {call} own.js#same --copy")).ends(0);
        assert_eq!(pages(&terminal), before, "{call}");
        let said = terminal.types("check --notes").never_says("error").never_says("warning");
        assert!(said.status == Some(0));
        std::fs::remove_file(terminal.path("saltmarsh/code/own.js")).unwrap();
        terminal.write("saltmarsh/truehook.toml", manifest);
    }
    terminal
        .types("replace foreshore:cards.js#trim cards.js#short")
        .ends(0)
        .says("+ /** In the place of foreshore:cards.js#trim. */\n  + export function short(inputs) {")
        .never_says("next:")
        .never_says("advice:");
    terminal.types("check").ends(0);
    for (typed, why) in [
        ("foreshore:cards.js#trim cards.js#other", "this theme replaces foreshore:cards.js#trim already"),
        ("foreshore:cards.js#tirm cards.js#other", "no lower layer runs"),
        ("foreshore:credits.js#show cards.js#other", "foreshore seals"),
        ("foreshore:masthead.js#trimLine cards.js#other", "--point filter:site-line"),
        ("foreshore:dates.js#inWords foreshore:x.js#y", "is no callback of this theme"),
        ("foreshore:dates.js#inWords cards.js#withSeason --copy", "is there already"),
    ] {
        terminal.types(&format!("replace {typed}")).ends(2).says(why);
    }
    // What was put there is taken away again, with its stub.
    let files = ["saltmarsh/truehook.toml", "saltmarsh/code/cards.js"];
    let before = files.map(|file| terminal.read(file));
    for (call, with, point) in [
        ("foreshore:dates.js#inWords", "cards.js#words", "partial:date-line"),
        ("foreshore:menus.js#inWords", "own.js#words", "partial:menu"),
        ("tide-kit:words.js#metres", "cards.js#metres", "filter:reading-words"),
    ] {
        terminal.types(&format!("replace {call} {with}")).ends(0);
        terminal.types(&format!("detach {point} {with}")).ends(0).never_says("next:").never_says("advice:");
        assert_eq!(files.map(|file| terminal.read(file)), before, "{call}");
        assert!(!terminal.path("saltmarsh/code/own.js").exists());
    }
    // Where the original itself is detached, what stood in its place goes, too.
    terminal.types("replace foreshore:dates.js#inWords cards.js#words").ends(0);
    terminal
        .types("why foreshore:dates.js#inWords")
        .ends(1)
        .says("mend: truehook detach partial:date-line cards.js#words");
    terminal
        .types("detach partial:date-line foreshore:dates.js#inWords")
        .ends(0)
        .says("[[detach]]")
        .never_says("next:")
        .never_says("advice:");
    terminal.types("check").ends(0);
    files.iter().zip(&before).for_each(|(file, text)| terminal.write(file, text));
    terminal
        .types("replace foreshore:masthead.js#trimLine cards.js#line --point filter:summary")
        .ends(0)
        .says("+ in = \"filter:summary\"");
    terminal.types("check").ends(0);
}

#[test]
fn templates_are_built_upon_or_copied_and_brought_up_to_date() {
    let terminal = Terminal::demo();
    let before = pages(&terminal);
    terminal
        .types("adopt layout.html --extend")
        .ends(0)
        .says("can be changed without taking it over")
        .says("hook:under-masthead   truehook attach hook:under-masthead");
    assert_eq!(pages(&terminal), before);
    terminal.types("check").ends(0);
    terminal.types("adopt entry.html --copy").ends(0).says("adopted/foreshore/entry.html  (new)");
    terminal.types("adopt missing.html --extend --block main").ends(0);
    terminal.types("adopt list.html --copy").ends(0);
    assert_eq!(pages(&terminal), before);
    terminal.types("check").ends(0);
    terminal.types("adopt entry.html --copy").ends(0).says("is up to date");
    // The copy and its original change in different places.
    let own = terminal.read("saltmarsh/markup/entry.html");
    terminal.write("saltmarsh/markup/entry.html", own.replace("class=\"entry\"", "class=\"entry own\""));
    let original = terminal.read("foreshore/markup/entry.html");
    terminal.write("foreshore/markup/entry.html", original.replace("class=\"summary\"", "class=\"summary first\""));
    terminal.types("check").ends(1).says("mend: truehook adopt entry.html --copy");
    terminal.types("adopt entry.html --copy").ends(0).never_says("next:").never_says("advice:");
    assert_eq!(
        terminal.read("saltmarsh/markup/entry.html"),
        own.replace("class=\"entry\"", "class=\"entry own\"").replace("class=\"summary\"", "class=\"summary first\"")
    );
    terminal.types("check").ends(0);
    // In the same place: both stand there, and check says so until that is solved.
    terminal.write("foreshore/markup/entry.html", original.replace("class=\"entry\"", "class=\"entry theirs\""));
    terminal.types("adopt entry.html --copy").ends(0).says("advice: a merge left two versions").says("in 1 place");
    terminal.types("check").ends(1).says("error[markup-syntax]: a merge left two versions of the same lines here");
    terminal.types("adopt entry.html --copy").ends(2).says("solve them first");
    let merged = terminal.read("saltmarsh/markup/entry.html");
    let (start, end) = (merged.find("<<<<<<<").unwrap(), merged.find("=======\n").unwrap() + 8);
    let solved = format!("{}{}", &merged[..start], &merged[end..]).replace(">>>>>>> foreshore, now\n", "");
    terminal.write("saltmarsh/markup/entry.html", solved);
    terminal.types("check").ends(0);
    for (typed, why) in [
        ("entry.html", "say how"),
        ("entry.html --extend", "is a copy already"),
        ("front.html --copy", "is this theme's own"),
        ("entri.html --copy", "did you mean `entry.html`?"),
        ("search.html --extend --block mian", "did you mean `main`?"),
        ("search.html --copy --block main", "--block goes with --extend"),
        ("partials/trail.html --extend", "has no blocks"),
    ] {
        terminal.types(&format!("adopt {typed}")).ends(2).says(why);
    }
    // Without what the original was, nobody knows who changed what.
    std::fs::remove_file(terminal.path("saltmarsh/adopted/foreshore/list.html")).unwrap();
    let list = terminal.read("foreshore/markup/list.html");
    terminal.write("foreshore/markup/list.html", list.replace("{% block", "{# new #}\n{% block"));
    terminal.types("adopt list.html --copy").ends(0).says("every difference is marked").says("+ <<<<<<< this theme");
    terminal.write("saltmarsh/markup/list.html", terminal.read("foreshore/markup/list.html"));
    terminal.types("adopt partials/menu.html --copy").ends(0).says("from = \"host\"");
    terminal.types("check").ends(0);
    assert_eq!(terminal.types("check").ends(0).status, Some(0));
}
