//! Whole ways, as people go them: from an empty folder, with mistakes on the way, to a page that shows.

use crate::fixture::{LAYOUT, Terminal};

#[test]
fn a_child_theme_shows_its_base_s_pages_at_once() {
    let terminal = Terminal::demo()
        .file("inlet/truehook.toml", "[theme]\nname = \"inlet\"\nlabel = \"Inlet\"\nversion = \"0.1.0\"\nbase = { path = \"../foreshore\", version = \"^2\" }\n");
    terminal.types_in("inlet", "check").ends(0).says("nothing wrong in inlet");
    let front = terminal.types_in("inlet", "render /").ends(0);
    assert!(front.stdout.contains("<footer"), "{}", front.stdout);
    terminal.types_in("inlet", "list hook").ends(0).says("hook:under-masthead").says("foreshore");
    // One thing of its own, by command, and it is there.
    terminal
        .types_in("inlet", "attach hook:under-masthead gauge.js#height")
        .ends(0)
        .says("code/gauge.js  (new)")
        .never_says("next:")
        .never_says("advice:");
    terminal.types_in("inlet", "render /").ends(0).says("<p>height</p>");
    terminal.types_in("inlet", "why gauge.js#height --page /").ends(0).says("`gauge.js#height` runs on /");
}

#[test]
fn a_new_release_of_the_base_renames_a_hook() {
    let terminal = Terminal::demo()
        .file("inlet/truehook.toml", "[theme]\nname = \"inlet\"\nlabel = \"Inlet\"\nversion = \"0.1.0\"\nbase = { path = \"../foreshore\" }\n\n[[attach]]\nto = \"hook:under-masthead\"\ncall = \"gauge.js#height\"\n")
        .file("inlet/code/gauge.js", "import { html } from \"truehook\";\nexport const height = () => html`<p>2.1 m</p>`;\n");
    terminal.types_in("inlet", "check").ends(0);
    terminal.types_in("inlet", "render /").ends(0).says("<p>2.1 m</p>");
    for file in ["foreshore/truehook.toml", "foreshore/markup/layout.html"] {
        let text = terminal
            .read(file)
            .replace("under-masthead", "beneath-banner")
            .replace("[hook.masthead-end]", "[hook.masthead-ending]");
        terminal.write(file, text);
    }
    let said = terminal.types_in("inlet", "check").ends(1).says("undeclared-point").says("hook:under-masthead");
    assert_eq!(said.findings().len(), 1, "{}", said.stdout);
    terminal.types_in("inlet", "why gauge.js#height --page /").ends(1).says("← here");
    terminal.types_in("inlet", "render /").never_says("<p>2.1 m</p>");
    // The mend that is offered for a name close by works.
    terminal.types_in("inlet", "check --fix");
    let manifest = terminal.read("inlet/truehook.toml");
    if manifest.contains("hook:beneath-banner") {
        terminal.types_in("inlet", "check").ends(0);
        terminal.types_in("inlet", "render /").ends(0).says("<p>2.1 m</p>");
    } else {
        assert!(manifest.contains("hook:under-masthead"), "left as it was: {manifest}");
    }
}

#[test]
fn the_theme_s_own_copy_of_a_template_loses_a_hook() {
    let terminal = Terminal::demo();
    let layout = terminal.read("foreshore/markup/layout.html");
    let line = layout.lines().find(|line| line.contains("hook:ahead-of-footer")).unwrap_or_else(|| panic!("{layout}"));
    let copy = layout.replace(&format!("{line}\n"), "");
    terminal.write("saltmarsh/markup/layout.html", copy);
    let said = terminal.types("check").ends(1);
    let found = said.findings();
    assert!(
        found.iter().any(|(head, _)| head.contains("lost-placement") || head.contains("unplaced-point")),
        "{}",
        said.stdout
    );
    // What the mends say can be typed, until all is well again.
    let mends: Vec<String> = said
        .stdout
        .lines()
        .filter_map(|line| line.trim().strip_prefix("= mend: truehook "))
        .map(|mend| mend.split(" (").next().unwrap().to_string())
        .collect();
    assert!(!mends.is_empty(), "{}", said.stdout);
    for mend in mends.iter().filter(|mend| mend.starts_with("place")) {
        terminal.types(mend).ends(0);
    }
    let after = terminal.types("check");
    assert!(after.findings().iter().all(|(head, _)| !head.contains("lost-placement")), "{}", after.stdout);
}

#[test]
fn a_widget_area_from_nothing_to_the_page() {
    let terminal = Terminal::new();
    terminal.types("declare area:tide-notes --label 'Tide notes'").ends(0).says("next: truehook place area:tide-notes");
    terminal.types("check").ends(1).says("unplaced-point");
    terminal.types("place area:tide-notes --in layout.html --inside main").ends(0);
    terminal.types("declare partial:note inputs.text.type=string inputs.text.default=-").ends(0);
    terminal.write("marsh/markup/partials/note.html", "<p>{{ text }}</p>\n");
    terminal.write(
        "marsh/preview/site.toml",
        "[fill]\n\"area:tide-notes\" = [\n  { use = \"partial:note\", title = \"Springs\", text = \"Wide\" },\n  { use = \"partial:note\", text = \"Bare\", when = \"page.type == 'list'\" },\n]\n",
    );
    terminal.types("check").ends(0);
    terminal.types("render /").ends(0).says("<h3>Springs</h3><p>Wide</p>").never_says("Bare");
    terminal.types("render /list/").ends(0).says("<p>Bare</p>");
    terminal.types("show area:tide-notes").ends(0).says("partial:note");
    terminal.types("why area:tide-notes --page /").ends(0);
}

#[test]
fn a_misspelt_fill_is_found_mended_and_shown() {
    let terminal = Terminal::new()
        .manifest("[region.kiosk]\nlabel = \"Kiosk\"\n\n[partial.note]\ninputs.text = { type = \"string\", default = \"\" }\n")
        .file("marsh/markup/partials/note.html", "<p>{{ text }}</p>\n")
        .file("marsh/markup/layout.html", LAYOUT.replace("{{ place(\"region:main\") }}", "{{ place(\"region:main\") }}{{ place(\"region:kiosk\") }}"))
        .file("marsh/preview/site.toml", "[fill]\n\"region:kisok\" = [ { use = \"partial:note\", text = \"Here\" } ]\n");
    terminal.types("render /").never_says("<p>Here</p>");
    terminal.types("check").ends(1).finds_only("fill-target", "preview/site.toml:2:1");
    terminal.types("check --fix").ends(0).says("1 finding mended in 1 file");
    terminal.types("render /").ends(0).says("<p>Here</p>");
}

#[test]
fn dry_runs_and_refusals_leave_every_byte() {
    let terminal = Terminal::demo();
    let files = ["truehook.toml", "markup/front.html", "code/masthead.js", "preview/site.toml"];
    let before: Vec<Vec<u8>> = files.iter().map(|file| terminal.bytes(&format!("saltmarsh/{file}"))).collect();
    for command in [
        "declare region:kiosk --label K --dry-run",
        "declare region:Kiosk --label K",
        "declare feature:kiosk",
        "attach hook:under-masthead masthead.js#storm --dry-run",
        "attach hook:nowhere masthead.js#storm",
        "attach hook:under-masthead masthead.js#storm --priority 101",
        "attach hook:under-masthead masthead.js#storm --when 'page.typ'",
        "attach hook:under-masthead ../masthead.js#storm",
        "place region:aside --in front.html --inside nowhere",
        "place region:aside --in none.html --inside main",
        "place region:aside --in front.html --inside 'a > b'",
        "check --fix --dry-run",
        "fire hook:under-masthead",
        "render /nowhere/",
        "why nothing",
    ] {
        let said = terminal.types(command);
        assert!(matches!(said.status, Some(0..=2)), "{command}: {:?}", said.status);
        assert!(!said.stderr.contains("panicked"), "{command}: {}", said.stderr);
        if said.status == Some(2) {
            assert!(said.stderr.starts_with("truehook: "), "{command}: {}", said.stderr);
        }
        let after: Vec<Vec<u8>> = files.iter().map(|file| terminal.bytes(&format!("saltmarsh/{file}"))).collect();
        assert!(before == after, "{command} changed something");
    }
}

#[test]
fn the_site_is_in_the_folder_as_it_is_on_the_screen() {
    let terminal = Terminal::demo();
    terminal.types("render --into ../site").ends(0);
    for (path, file) in
        [("/", "site/index.html"), ("/log/", "site/log/index.html"), ("/visit/", "site/visit/index.html")]
    {
        let shown = terminal.types(&format!("render {path}")).ends(0).stdout;
        // Addresses of files differ: in a folder they lie beside the pages.
        let text = |html: &str| {
            let mut inside = false;
            html.chars()
                .filter(|c| {
                    match c {
                        '<' => inside = true,
                        '>' => {
                            inside = false;
                            return false;
                        }
                        _ => {}
                    }
                    !inside
                })
                .collect::<String>()
        };
        assert_eq!(text(&shown).trim(), text(&terminal.read(file)).trim(), "{path}");
    }
}
