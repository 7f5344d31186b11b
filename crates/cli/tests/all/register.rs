//! `declare`, `attach` and `place`: what they write, what they leave alone, and what they say is left.

use crate::fixture::Terminal;

#[test]
fn a_region_from_nothing_to_the_page() {
    let terminal = Terminal::new();
    terminal
        .types("declare region:kiosk --label 'Kiosk'")
        .ends(0)
        .says("+ [region.kiosk]")
        .says("next: truehook place region:kiosk --in layout.html --inside main");
    terminal
        .types("place region:kiosk --in layout.html --inside main")
        .ends(0)
        .says("+     {{ place(\"region:kiosk\") }}")
        .never_says("next:")
        .never_says("advice:");
    terminal.types("check").ends(0).says("nothing wrong");
    assert!(
        terminal
            .read("marsh/markup/layout.html")
            .contains("    {{ place(\"region:main\") }}\n    {{ place(\"region:kiosk\") }}\n  </main>")
    );
}

#[test]
fn a_hook_with_a_listener_that_is_not_written_yet() {
    let terminal = Terminal::new();
    terminal
        .types("declare hook:ahead-of-text --about 'Above the text' args.tide.type=string args.tide.default=low")
        .ends(0)
        .says("next: truehook place");
    terminal
        .types("attach hook:ahead-of-text notes.js#today --priority 20 --when 'page.type == \"front\"'")
        .ends(1 - 1)
        .says("code/notes.js  (new)")
        .says("next: truehook place hook:ahead-of-text");
    terminal
        .types("place hook:ahead-of-text --in layout.html --before main")
        .ends(0)
        .never_says("next:")
        .never_says("advice:");
    terminal.types("check").ends(0).says("nothing wrong");
    let code = terminal.read("marsh/code/notes.js");
    assert_eq!(
        code,
        "import { html } from \"truehook\";\n\n/** For hook:ahead-of-text: Above the text. */\n\
         export function today({ page, site, args }) {\n  return html`<p>today</p>`;\n}\n"
    );
    terminal.types("render /").ends(0).says("<p>today</p><main id=\"text\">".replace("<main", "\n  <main").as_str());
    terminal.types("render /search/").ends(0).never_says("<p>today</p>");
    terminal
        .types("show hook:ahead-of-text")
        .ends(0)
        .says("args: tide (string = \"low\")")
        .says("20     marsh")
        .says("when page.type == \"front\"");
}

#[test]
fn stubs_have_the_shape_of_their_role() {
    let terminal = Terminal::new()
        .manifest("[filter.words]\nvalue = { type = \"string\" }\n\n[partial.note]\ninputs.text = { type = \"string\", default = \"\" }\n")
        .file("marsh/markup/partials/note.html", "<p>{{ text }}</p>\n")
        .replace("marsh/markup/layout.html", "<body>", "<body>{{ page.title | through(\"filter:words\") }}{{ place(\"partial:note\") }}");
    for (point, name, shape) in [
        ("filter:words", "shorter", "shorter(value, { args }) {\n  return value;"),
        ("partial:note", "polite", "polite(inputs, { page }) {\n  return { ...inputs };"),
        ("region:main", "newest", "newest(items, { page }) {\n  return items;"),
        ("template:page", "greet", "greet(inputs, { page }) {\n  return { ...inputs };"),
        ("hook:document-end", "last", "last({ page, site, args }) {\n  return \"last\";"),
    ] {
        terminal.types(&format!("attach {point} all.js#{name}")).ends(0).never_says("next:").never_says("advice:");
        assert!(terminal.read("marsh/code/all.js").contains(shape), "{}", terminal.read("marsh/code/all.js"));
    }
    terminal.types("check").ends(0).says("nothing wrong");
    terminal.types("render /page/").ends(0);
    terminal.types("list preparer").ends(0).says("all.js#polite").says("2 preparers");
}

#[test]
fn a_partial_can_stand_in_for_a_callback() {
    let terminal = Terminal::new()
        .manifest("[partial.note]\nabout = \"A note\"\n")
        .file("marsh/markup/partials/note.html", "<p>Boots needed.</p>\n");
    terminal
        .types("attach hook:document-end partial:note")
        .ends(0)
        .says("use = \"partial:note\"")
        .never_says("next:")
        .never_says("advice:");
    terminal.types("render /").ends(0).says("<p>Boots needed.</p>");
    terminal.types("attach region:main partial:note").ends(2).says("can't be attached").says("nothing was written");
}

#[test]
fn what_is_not_changed_stays_as_it_is() {
    let manifest = "\u{feff}# The marsh.\r\n[theme]\r\nname    = \"marsh\" # same as the folder\r\n\r\n[region.aside]\r\nlabel = \"Aside\" # beside\r\n\r\n\
                    # What runs.\r\n[[attach]]\r\nto = \"hook:document-end\"\r\ncall = \"a.js#a\"\r\n\r\n[check]\r\nfail-on = \"error\"";
    let terminal = Terminal::new()
        .file("marsh/truehook.toml", manifest)
        .file("marsh/code/a.js", "export function a() {\r\n  return \"a\";\r\n}")
        .replace("marsh/markup/layout.html", "<body>", "<body>{{ place(\"region:aside\") }}");
    terminal.types("declare region:kiosk").ends(0);
    terminal.types("attach hook:document-end a.js#b --after a.js#a").ends(0);
    let now = String::from_utf8(terminal.bytes("marsh/truehook.toml")).unwrap();
    let wanted = manifest
        .replace("# beside\r\n", "# beside\r\n\r\n[region.kiosk]\r\nlabel = \"Kiosk\"\r\n")
        .replace("call = \"a.js#a\"\r\n", "call = \"a.js#a\"\r\n\r\n[[attach]]\r\nto = \"hook:document-end\"\r\ncall = \"a.js#b\"\r\nafter = [\"a.js#a\"]\r\n");
    assert_eq!(now, wanted);
    let code = String::from_utf8(terminal.bytes("marsh/code/a.js")).unwrap();
    assert!(
        code.starts_with("export function a() {\r\n  return \"a\";\r\n}\r\n\r\n/** ")
            && !code.replace("\r\n", "").contains('\n'),
        "{code:?}"
    );
    terminal.types("check").ends(0);
}

#[test]
fn a_dry_run_shows_the_difference_and_writes_nothing() {
    let terminal = Terminal::new();
    let before = terminal.bytes("marsh/truehook.toml");
    terminal
        .types("declare hook:notice --dry-run")
        .ends(0)
        .says("--- truehook.toml")
        .says("+[hook.notice]")
        .says("next: truehook place");
    assert_eq!(terminal.bytes("marsh/truehook.toml"), before);
    terminal.types("attach hook:document-end new.js#f --dry-run").ends(0).says("+++ code/new.js");
    assert!(!terminal.path("marsh/code").exists());
}

#[test]
fn what_can_not_be_done_is_refused_and_nothing_is_written() {
    let terminal = Terminal::new()
        .manifest("[hook.notice]\nabout = \"Notices\"\n\n[filter.words]\nvalue = { type = \"string\" }\n")
        .file("marsh/code/notes.js", "export function today() { return \"x\"; }\n")
        .replace("marsh/markup/layout.html", "<body>", "<body>{{ place(\"hook:notice\") }}\n  <p>a</p>\n  <p>b</p>");
    let before = (
        terminal.read("marsh/truehook.toml"),
        terminal.read("marsh/markup/layout.html"),
        terminal.read("marsh/code/notes.js"),
    );
    for (command, message) in [
        ("declare hook:notice", "is declared in this theme already"),
        ("declare notice", "is not an address"),
        ("declare hook:Notice", "is not a name"),
        ("declare region:kiosk lable=Kiosk", "has no key `lable` (did you mean `label`?); nothing was written"),
        ("declare region:kiosk kiosk", "is no KEY=VALUE"),
        (
            "declare region:kiosk required=sometimes",
            "has to be true or false, not a string (true or false belongs here, as in required = true)",
        ),
        ("attach hook:notic notes.js#today", "did you mean `hook:notice`?"),
        ("attach hook:kiosk notes.js#today", "truehook declare hook:kiosk would"),
        ("attach hook:notice notes.js", "neither a callback"),
        ("attach hook:notice notes.js#to-day", "can't be the name of a function"),
        ("attach hook:notice ../notes.js#today", "is not a module"),
        ("attach hook:notice notes.js#today --priority 101", "is not between 0 and 100"),
        ("attach hook:notice notes.js#today --when 'page.tpye'", "reads `page.tpye`"),
        ("attach hook:notice notes.js#today --when 'page.type = 1'", "is not a condition"),
        ("attach hook:notice notes.js#today --before notes.js#todya", "is not attached to `hook:notice`"),
        ("attach hook:notice partial:note", "no layer declares `partial:note`"),
        ("place hook:notice --in layout.html --inside nav", "fits `nav`; there are\n  line 2    <html lang=\"en\">"),
        ("place hook:notice --in layout.html --after p", "fits 2 elements in markup/layout.html; say which"),
        ("place hook:notice --in layout.html --after 'p + b'", "is no selector"),
        ("place hook:notice --in layuot.html --after main", "did you mean `layout.html`?"),
        ("place hook:notice --in partials/body.html --after main", "belongs to host"),
        ("place filter:words --in layout.html --after main", "through(\"filter:words\")"),
        ("place hook:notice --in layout.html", "say where: --before"),
    ] {
        terminal.types(command).ends(2).says(message);
    }
    let after = (
        terminal.read("marsh/truehook.toml"),
        terminal.read("marsh/markup/layout.html"),
        terminal.read("marsh/code/notes.js"),
    );
    assert_eq!(before, after);
}

#[test]
fn places_are_found_by_tag_id_class_and_what_they_are_in() {
    let layout = "<!doctype html>\n<html lang=\"en\">\n<head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head>\n<body>\n  \
                  <main id=\"text\">{{ place(\"region:main\") }}</main>\n  <footer class=\"wide plain\">\n    <p>Marsh Lane 4</p>\n  </footer>\n  \
                  <div></div>\n  {{ place(\"hook:document-end\") }}\n</body>\n</html>\n";
    let terminal = Terminal::new()
        .file("marsh/markup/layout.html", layout)
        .manifest("[region.a]\nlabel = \"A\"\n\n[region.b]\nlabel = \"B\"\n\n[region.c]\nlabel = \"C\"\n\n[region.d]\nlabel = \"D\"\n\n[region.e]\nlabel = \"E\"\n");
    terminal.types("place region:a --in layout.html --inside footer.wide").ends(0);
    terminal.types("place region:b --in layout.html --after '#text'").ends(0);
    terminal.types("place region:c --in layout.html --before 'footer p'").ends(0);
    terminal
        .types("place region:d region:e --in layout.html --inside div")
        .ends(0)
        .never_says("next:")
        .never_says("advice:");
    let now = terminal.read("marsh/markup/layout.html");
    let wanted = "  <main id=\"text\">{{ place(\"region:main\") }}</main>\n  {{ place(\"region:b\") }}\n  <footer class=\"wide plain\">\n    \
                  {{ place(\"region:c\") }}\n    <p>Marsh Lane 4</p>\n    {{ place(\"region:a\") }}\n  </footer>\n  \
                  <div>\n    {{ place(\"region:d\") }}\n    {{ place(\"region:e\") }}\n  </div>\n";
    assert!(now.contains(wanted), "{now}");
    terminal.types("check").ends(0).says("nothing wrong");
}

#[test]
fn what_is_attached_can_be_detached_and_the_manifest_is_as_it_was() {
    let terminal = Terminal::demo();
    let manifest = terminal.read("saltmarsh/truehook.toml");
    terminal.types("attach hook:ahead-of-footer masthead.js#lowWaterNotice").ends(0);
    assert_ne!(terminal.read("saltmarsh/truehook.toml"), manifest);
    terminal.types("detach hook:ahead-of-footer masthead.js#lowWaterNotice").ends(0);
    assert_eq!(terminal.read("saltmarsh/truehook.toml"), manifest);
    // What only this theme attached is idle from then on, and that is said.
    terminal.types("detach filter:site-line station.js#inPlace --dry-run").ends(2);
    let said = terminal.types("detach hook:under-masthead masthead.js#winterNotice").ends(0);
    said.says("advice: attach it to a point, or take it away");
    assert!(!terminal.types("render /").ends(0).stdout.contains("Winter:"));
}

#[test]
fn an_attachment_of_a_lower_layer_is_detached_by_a_table_over_it() {
    let terminal = Terminal::demo();
    let shows = |words: &str| terminal.types("render /log/avocets-are-back/").ends(0).stdout.contains(words);
    assert!(shows(">24 February 2026</time>"));
    terminal.types("detach partial:date-line foreshore:dates.js#inWords").ends(0).says("[[detach]]");
    assert!(shows(">2026-02-24</time>"));
    terminal.types("check").ends(0);
    for (command, part) in [
        ("detach hook:ahead-of-footer foreshore:credits.js#show", "foreshore seals foreshore:credits.js#show"),
        (
            "detach partial:date-line foreshore:dates.js#inWords",
            "saltmarsh has detached foreshore:dates.js#inWords of foreshore",
        ),
        ("detach hook:under-masthead masthead.js#lowWaterNotise", "did you mean `masthead.js#lowWaterNotice`?"),
        ("detach hook:under-masthed masthead.js#lowWaterNotice", "did you mean `hook:under-masthead`?"),
    ] {
        let said = terminal.types(command).ends(2);
        assert!(said.stderr.contains(part), "{command}: {}", said.stderr);
    }
    // What this theme has put in the place of another goes, and the other one runs again.
    terminal.types("detach hook:under-masthead masthead.js#welcome").ends(0).says("- [[replace]]");
    terminal.types("show hook:under-masthead").ends(0).says("foreshore:masthead.js#welcome");
}
