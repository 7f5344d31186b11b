//! Commands that change what stands: declarations, placements, content, names, copies.

use crate::fixture::Terminal;
use serde_json::Value;

/// The pages of a theme, as they are rendered.
pub fn pages(terminal: &Terminal) -> Vec<(String, String)> {
    let out = terminal.path("site-of-test");
    let _ = std::fs::remove_dir_all(&out);
    terminal.types(&format!("render --into {}", out.display()));
    let mut found = Vec::new();
    let mut open = vec![out.clone()];
    while let Some(folder) = open.pop() {
        for entry in std::fs::read_dir(folder).unwrap().flatten() {
            let path = entry.path();
            match path.is_dir() {
                true => open.push(path),
                false if path.extension().is_some_and(|ending| ending == "html") => {
                    let name = path.strip_prefix(&out).unwrap().display().to_string();
                    found.push((name, std::fs::read_to_string(path).unwrap()));
                }
                false => {}
            }
        }
    }
    found.sort();
    assert!(!found.is_empty());
    found
}

#[test]
fn a_declaration_that_stands_is_changed_key_by_key() {
    let terminal =
        Terminal::new().manifest("[area.notes] # why\nlabel   = \"Notes\"\nwrap-title = '<b>{{ text }}</b>'\n");
    let before = terminal.bytes("marsh/truehook.toml");
    terminal
        .types("declare area:notes 'wrap=<p class=\"x\">{{ body }}</p>' --label 'Small notes' about='Beside'")
        .ends(0)
        .says("- label   = \"Notes\"")
        .says("+ label   = \"Small notes\"")
        .says("+ wrap = '<p class=\"x\">{{ body }}</p>'");
    terminal.types("declare area:notes wrap= about= label=Notes").ends(0).says("- wrap = ");
    assert_eq!(terminal.bytes("marsh/truehook.toml"), before);
    terminal.types("declare area:notes").ends(2).says("is declared in this theme already; KEY=VALUE changes that");
    terminal
        .types("declare area:notes wrap=")
        .ends(2)
        .says("has no key `wrap`; it has label")
        .says("it has label, wrap-title");
    terminal
        .types("declare area:notes wrap.x=1")
        .ends(2)
        .says("`wrap` in [area.notes] has to be a string, not a table");
    terminal.types("declare area:other wrap=").ends(2).says("is not declared in this theme");
    terminal.types("declare area:notes nonsense=1").ends(2).says("(known here: label, about, wrap,");
    terminal.types("declare area:notes wrap=3").ends(2).says("as in wrap = '<div class=");
    assert_eq!(terminal.bytes("marsh/truehook.toml"), before);
    terminal.types("declare partial:note inputs.text.type=string inputs.text.default=a").ends(0);
    terminal.types("declare partial:note inputs.text.default=b inputs.size.type=integer").ends(0);
    assert!(
        terminal
            .read("marsh/truehook.toml")
            .contains("inputs.text.type = \"string\"\ninputs.text.default = \"b\"\ninputs.size.type = \"integer\"\n")
    );
}

#[test]
fn placements_go_into_blocks_with_arguments_instead_of_content_and_with_guards() {
    let terminal = Terminal::new().file(
        "marsh/markup/layout.html",
        crate::fixture::LAYOUT
            .replace("</main>", "</main>\n  <aside id=\"side\" class=\"note note-{{ page.type }}\">\n    <p>Old</p>\n  </aside>\n  <footer></footer>"),
    );
    // A block that the page's template doesn't write yet, and then one that it does.
    terminal.types("place partial:link href=/ text=3 --in page.html --block main").ends(0);
    assert_eq!(
        terminal.read("marsh/markup/page.html"),
        "{% extends \"layout.html\" %}\n{% block main %}\n  {{ super() }}\n  {{ place(\"partial:link\", href=\"/\", text=\"3\") }}\n{% endblock %}\n"
    );
    terminal.types("place partial:link href=/ 'text=It \"is\"' --in page.html --block main").ends(0);
    assert!(terminal.read("marsh/markup/page.html").contains("text='It \"is\"') }}\n{% endblock %}"));
    terminal.types("render /").ends(0).says("<a href=\"/\">3</a>").says("It &quot;is&quot;</a>");
    terminal.types("place partial:link href=/ text=x --in page.html --block mian").ends(2).says("did you mean `main`?");
    terminal.types("place partial:link txet=x --in page.html --block main").ends(2).says("did you mean `text`?");
    terminal
        .types("place partial:link partial:link href=/ --in page.html --block main")
        .ends(2)
        .says("go with one point");
    // In the place of what stands there, by an attribute; but not where that would lose placements.
    terminal.types("place region:aside --in layout.html --instead '[id=side]'").ends(0).says("-     <p>Old</p>");
    terminal.types("check").ends(1).says("mend: truehook place region:aside --in layout.html --guard");
    terminal.types("place region:aside --in layout.html --guard").ends(0).never_says("next:").never_says("advice:");
    terminal.types("check").ends(0);
    terminal.types("place region:aside --in layout.html --guard").ends(2).says("it has that guard already");
    terminal.types("place region:footer --in layout.html --instead 'main'").ends(2).says("which would get lost");
    terminal
        .types("place region:footer --in layout.html --inside footer --guard")
        .ends(0)
        .says("{% if filled(\"region:footer\") %}");
    terminal.types("check").ends(0);
    let layout = terminal.read("marsh/markup/layout.html");
    assert!(layout.contains("  {% if filled(\"region:aside\") %}\n  <aside id=\"side\" class=\"note note-{{ page.type }}\">\n    {{ place(\"region:aside\") }}\n  </aside>\n  {% endif %}\n"), "{layout}");
    // What fits none or several is shown with its line.
    terminal
        .types("place hook:document-start --in layout.html --before 'aside.note-'")
        .ends(2)
        .says("  line 4    <body>");
    terminal
        .types("place hook:document-start --in layout.html --before 'main, footer'")
        .ends(2)
        .says("fits 2 elements")
        .says("line 6    <main id=\"text\">");
    terminal.types("place hook:document-start --in layout.html --before 'a:hover'").ends(2).says("is no selector");
    terminal.types("place hook:document-start --in layout.html --before 'body > aside > p'").ends(2).says("nothing in");
    terminal.types("place hook:document-start --in layout.html").ends(2).says("say where");
}

#[test]
fn the_preview_is_filled_moved_and_emptied() {
    let terminal = Terminal::demo();
    let site = terminal.bytes("saltmarsh/preview/site.toml");
    let front = terminal.bytes("saltmarsh/preview/pages/front.toml");
    for (there, back) in [
        ("region:aside piece:note text=Boots --at 1", "region:aside --remove 1"),
        ("region:aside piece:note text=Boots 'when=page.type == \"front\"'", "region:aside --remove 5"),
        ("region:aside piece:note text=Boots --at 4.2", "region:aside --remove 4.2"),
        ("region:aside --move 1 3", "region:aside --move 3 1"),
        ("area:footer-notes partial:imprint title=Where --at 2", "area:footer-notes --remove 2"),
        ("menu:masthead Birds=/species/avocet/ --at 2.3", "menu:masthead --remove 2.3"),
        ("menu:masthead small", "menu:masthead everyday"),
        ("option:scheme night", "option:scheme by-daylight"),
        ("sections --page / section:spotlight species=Curlew", "sections --page / --remove 3"),
        (
            "sections --page / section:spotlight --offer 'Spotlight with a note' species=Curlew",
            "sections --page / --remove 3",
        ),
        ("sections --page / piece:caption text=Now --at 1.1", "sections --page / --remove 1.1"),
    ] {
        terminal.types(&format!("fill {there}")).ends(0);
        assert_ne!(
            (terminal.bytes("saltmarsh/preview/site.toml"), terminal.bytes("saltmarsh/preview/pages/front.toml")),
            (site.clone(), front.clone()),
            "{there}"
        );
        terminal.types(&format!("fill {back}")).ends(0);
        assert_eq!(terminal.read("saltmarsh/preview/site.toml").as_bytes(), site, "{there}");
        assert_eq!(terminal.read("saltmarsh/preview/pages/front.toml").as_bytes(), front, "{there}");
    }
    for (typed, why) in [
        ("region:aside piece:nott", "did you mean `piece:note`?"),
        ("region:aside piece:note txt=x", "did you mean `text`?"),
        ("region:aside partial:tide-table days=0", "`days` does not fit"),
        ("region:aside --remove 9", "there is no place 9: there are 4"),
        ("region:aside --remove 0", "counted from 1"),
        ("region:aside", "say what to fill it with"),
        ("region:asid piece:note", "did you mean `region:aside`?"),
        ("region:aside section:spotlight --offer Spotlights", "it has Spotlight with a note"),
        ("menu:masthead everday", "did you mean `everyday`?"),
        ("menu:masthead =/log/", "is no entry"),
        ("option:scheme dusk", "is none of"),
        ("hook:under-masthead piece:note", "a hook isn't filled"),
        ("sections section:spotlight", "say of which page"),
        ("sections --page /lgo/ section:spotlight", "did you mean `/log/`?"),
        ("region:aside --page / piece:note", "--page goes with sections"),
    ] {
        terminal.types(&format!("fill {typed}")).ends(2).says(why);
        assert_eq!(terminal.bytes("saltmarsh/preview/site.toml"), site, "{typed}");
    }
}

#[test]
fn a_theme_without_a_preview_gets_one_and_loses_it_again() {
    let terminal = Terminal::new();
    terminal.types("declare piece:note").ends(0);
    terminal.types("declare menu:top").ends(0).says("next: truehook place menu:top --in layout.html --inside main");
    terminal.types("place menu:top --in layout.html --before main").ends(0);
    terminal.types("fill region:main piece:note").ends(0).says("preview/site.toml  (new)");
    terminal.types("fill menu:top Here=/ There=/search/").ends(0);
    assert_eq!(
        terminal.read("marsh/preview/site.toml"),
        "[fill]\n\"region:main\" = [ { use = \"piece:note\" } ]\n\"menu:top\" = \"top\"\n\n[menus]\ntop = [ { label = \"Here\", href = \"/\" }, { label = \"There\", href = \"/search/\" } ]\n"
    );
    terminal.types("render /").ends(0).says("href=\"/search/\"");
    terminal.types("fill menu:top --remove 2").ends(0);
    terminal.types("fill menu:top --remove 1").ends(0);
    assert_eq!(terminal.read("marsh/preview/site.toml"), "[fill]\n\"region:main\" = [ { use = \"piece:note\" } ]\n");
    terminal.types("fill region:main --remove 1").ends(0).says("preview/site.toml  (taken away)");
    assert!(!terminal.path("marsh/preview").exists());
}

#[test]
fn a_declaration_goes_alone_along_with_its_uses_or_moves_them() {
    let terminal = Terminal::new().manifest("[hook.over]\nabout = \"Over\"\n\n[hook.under]\nabout = \"Under\"\n");
    terminal.types("place hook:over hook:under --in layout.html --before main").ends(0);
    terminal.types("attach hook:over notes.js#today").ends(0);
    let layout = terminal.read("marsh/markup/layout.html");
    terminal
        .types("withdraw hook:over")
        .ends(2)
        .says("truehook withdraw hook:over --along")
        .says("truehook.toml:13  to = \"hook:over\"")
        .says("markup/layout.html:6  {{ place(\"hook:over\") }}");
    terminal.types("withdraw hook:over --to hook:under --dry-run").ends(0);
    assert_eq!(terminal.read("marsh/markup/layout.html"), layout);
    // It is placed there already: nothing stands twice.
    terminal.types("withdraw hook:over --to hook:under").ends(0).never_says("next:").never_says("advice:");
    assert_eq!(terminal.read("marsh/markup/layout.html"), layout.replace("{{ place(\"hook:over\") }}\n  ", ""));
    terminal.types("check").ends(0);
    terminal.types("render /").ends(0).says("<p>today</p>");
    terminal.types("withdraw hook:under --to region:main").ends(2).says("can't hang there");
    terminal.types("withdraw hook:under --along").ends(0).says("code/notes.js  (taken away)");
    assert_eq!(terminal.read("marsh/markup/layout.html"), crate::fixture::LAYOUT);
    assert!(!terminal.path("marsh/code").exists());
    // What somebody has touched stays, and is told.
    terminal.types("declare partial:note").ends(0);
    terminal.write("marsh/markup/partials/note.html", "<p>Mine</p>\n");
    terminal.types("withdraw partial:note").ends(0).says("markup/partials/note.html stays");
    assert_eq!(terminal.read("marsh/markup/partials/note.html"), "<p>Mine</p>\n");
    terminal.types("withdraw region:main").ends(2).says("declared by host, and stays there");
}

#[test]
fn json_tells_the_very_bytes_that_are_written() {
    for typed in [
        "declare hook:made about=x",
        "declare option:scheme label=Tone",
        "attach hook:under-masthead made.js#made",
        "attach hook:under-masthead masthead.js#made",
        "detach hook:under-masthead masthead.js#winterNotice",
        "replace foreshore:cards.js#trim made.js#trim --copy",
        "place hook:document-start --in front.html --block lead --dry-run",
        "fill region:aside piece:note text=x --at 2",
        "adopt entry.html --copy",
        "rename section:spotlight portrait",
        "withdraw partial:imprint --along",
    ] {
        let terminal = Terminal::demo();
        let said = terminal.types(&format!("{typed} --format json")).ends(0);
        let told: Value = serde_json::from_str(&said.stdout).unwrap();
        assert_eq!(told["version"], 1, "{typed}");
        assert!(told["next"].is_array() && told["told"].is_array(), "{typed}");
        let untouched = Terminal::demo();
        let changes = told["changes"].as_array().unwrap();
        assert!(!changes.is_empty(), "{typed}");
        for change in changes {
            let path = format!("saltmarsh/{}", change["file"].as_str().unwrap());
            let mut text = if change["fate"] == "new" { String::new() } else { untouched.read(&path) };
            for edit in change["edits"].as_array().unwrap().iter().rev() {
                let range = edit["start"].as_u64().unwrap() as usize..edit["end"].as_u64().unwrap() as usize;
                text.replace_range(range, edit["new"].as_str().unwrap());
            }
            match change["fate"].as_str().unwrap() {
                "gone" => assert!(!terminal.path(&path).exists(), "{typed}: {path}"),
                _ if typed.contains("--dry-run") => assert_eq!(terminal.read(&path), untouched.read(&path)),
                _ => assert_eq!(terminal.read(&path), text, "{typed}: {path}"),
            }
        }
    }
}

#[test]
fn what_is_explained_of_kinds_can_be_pasted() {
    for kind in [
        "hook", "filter", "region", "area", "menu", "partial", "section", "piece", "style", "script", "bundle",
        "option", "template", "feature",
    ] {
        let terminal = Terminal::new();
        let said = terminal.types(&format!("explain {kind} --format json")).ends(0);
        let told: Value = serde_json::from_str(&said.stdout).unwrap();
        let meaning = told["meanings"].as_array().unwrap().iter().find(|meaning| meaning["what"] == "kind").unwrap();
        let paste = meaning["paste"].as_str().unwrap();
        let name = paste.lines().next().unwrap();
        for example in meaning["keys"].as_array().unwrap().iter().map(|key| key["example"].as_str().unwrap()) {
            let terminal = Terminal::new().manifest(&format!("{name}\n{example}\n"));
            terminal.types("check").never_says("unknown-key").never_says("manifest-syntax").never_says("wrap-body");
        }
        let terminal = Terminal::new().manifest(paste);
        terminal.types("check").never_says("unknown-key").never_says("manifest-syntax").never_says("wrap-body");
    }
    let terminal = Terminal::new();
    for (word, answer) in [
        ("widget", "area"),
        ("child theme", "base"),
        ("slot", "region"),
        ("block", "piece"),
        ("snippet", "partial"),
        ("theme support", "feature"),
        ("preprocess", "preparer"),
    ] {
        terminal.types(&format!("explain {word}")).ends(0).says(answer);
    }
    terminal.types("explain area.wrap").ends(0).says("prints {{ body }} once").says("      wrap = '<div class=");
    terminal.types("explain menu.levels").ends(0).says("where it isn't given: all").says("levels = 2");
    terminal.types("explain widgit").ends(2).says("did you mean `widget`?");
}
