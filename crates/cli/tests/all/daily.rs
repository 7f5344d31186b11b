//! Daily work: several points at once, items that change, copies that are given back, records, logs, and losses on pages.

use crate::fixture::Terminal;

#[test]
fn several_points_are_declared_at_once() {
    let terminal = Terminal::demo();
    terminal.types("declare region:board region:shelf hook:before-board").ends(0);
    let manifest = terminal.read("saltmarsh/truehook.toml");
    for table in ["[region.board]", "[region.shelf]", "[hook.before-board]"] {
        assert!(manifest.contains(table), "{manifest}");
    }
    terminal.types("declare region:board region:shlef/x").ends(2);
    assert_eq!(terminal.read("saltmarsh/truehook.toml"), manifest, "all or none");
}

#[test]
fn an_item_is_changed_where_it_stands() {
    let terminal = Terminal::demo();
    let before = terminal.read("saltmarsh/preview/site.toml");
    terminal.types("fill region:aside --set 2 size=120").ends(0);
    assert!(terminal.read("saltmarsh/preview/site.toml").contains("size = 120"));
    terminal.types("fill region:aside --set 2 size=200").ends(0);
    assert_eq!(terminal.read("saltmarsh/preview/site.toml"), before, "there and back");
    terminal.types("fill region:aside --set 2 szie=200").ends(2).says("szie");
    terminal.types("fill region:aside --set 9 size=200").ends(2);
    terminal.types("fill menu:masthead --set 4 label=Visit").ends(0);
    terminal.types("render /").ends(0).says(">Visit</a>");
}

#[test]
fn a_copy_is_given_back_with_all_that_was_written_for_it() {
    let terminal = Terminal::demo();
    let before = terminal.read("saltmarsh/truehook.toml");
    terminal.types("adopt page.html --copy").ends(0);
    assert!(terminal.path("saltmarsh/markup/page.html").is_file());
    terminal.types("adopt page.html --undo").ends(0);
    assert!(!terminal.path("saltmarsh/markup/page.html").exists() && !terminal.path("saltmarsh/adopted").exists());
    assert_eq!(terminal.read("saltmarsh/truehook.toml"), before);
    terminal.types("adopt page.html --undo").ends(2);
}

#[test]
fn a_base_s_new_name_is_followed() {
    let base = "[theme]\nname = \"shore\"\nlabel = \"Shore\"\nversion = \"2.0.0\"\nopen = true\n\n[hook.fresh]\nabout = \"F\"\n";
    let retired = format!("{base}\n[hook.old]\nabout = \"O\"\nretired = \"2.0.0\"\ninstead = \"hook:fresh\"\n");
    let layout = "<!doctype html>\n<html lang=\"en\">\n<head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head>\n<body>\n\
                  {{ place(\"hook:fresh\") }}<main>{{ place(\"region:main\") }}</main>{{ place(\"hook:document-end\") }}\n</body>\n</html>\n";
    let own = "[theme]\nname = \"tern\"\nlabel = \"Tern\"\nbase = { path = \"../shore\", version = [\"^1\", \"^2\"] }\n\n[[attach]]\nto = \"hook:old\"\ncall = \"a.js#f\"\n";
    for manifest in [base, &retired] {
        let terminal = Terminal::empty("tern")
            .file("shore/truehook.toml", manifest)
            .file("shore/markup/layout.html", layout)
            .file("shore/markup/page.html", "{% extends \"layout.html\" %}\n")
            .file("tern/truehook.toml", own)
            .file("tern/code/a.js", "export const f = () => \"x\";\n");
        terminal.types_in("shore", "check").ends(0);
        let said = terminal.types_in("tern", "check").ends(1);
        if manifest.contains("retired") {
            said.finds_only("retired-point", "truehook.toml:7:6").says("truehook rename hook:old hook:fresh");
        }
        terminal.types_in("tern", "rename hook:old hook:fresh").ends(0);
        assert!(terminal.read("tern/truehook.toml").contains("to = \"hook:fresh\""));
        terminal.types_in("tern", "check").ends(0);
    }
}

#[test]
fn a_mend_that_costs_a_page_something_is_left_undone() {
    let terminal = Terminal::new()
        .manifest("[filter.line]\nabout = \"L\"\nvalue = { type = \"string\" }\n\n[[attach]]\nto = \"filter:lnie\"\ncall = \"a.js#bad\"\n")
        .file("marsh/code/a.js", "export function bad(value) { throw new Error(\"no\" + value); }\n")
        .file("marsh/markup/front.html", "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ \"x\" | through(\"filter:line\") }}{% endblock %}\n");
    let before = terminal.read("marsh/truehook.toml");
    terminal
        .types("check --fix")
        .ends(1)
        .says("left as it is: write `filter:line`; / would fail: Error: nox")
        .never_says("mend:");
    assert_eq!(terminal.read("marsh/truehook.toml"), before);
    let terminal = terminal.file("marsh/code/a.js", "export function bad(value) { return value + \"!\"; }\n");
    terminal.types("check --fix").ends(0).says("1 finding mended");
}

#[test]
fn pages_lose_what_the_check_says_that_they_lose() {
    let site = "[menus]\nmain = [ { label = \"A\", href = \"/\" } ]\n\n[options]\nscheme = \"nigth\"\n\n[fill]\n\"menu:top\" = \"mian\"\n\"region:main\" = [ { use = \"piece:note\", tone = \"moss\" } ]\n";
    let manifest = "[menu.top]\nlabel = \"T\"\n\n[option.scheme]\nlabel = \"S\"\ntype = \"string\"\nenum = [\"day\", \"night\"]\ndefault = \"day\"\n\n\
        [feature.colours]\npalette.mud = { label = \"Mud\", value = \"#463a30\" }\n\n[piece.note]\nlabel = \"N\"\ninputs.tone = { type = \"string\", format = \"palette\", default = \"mud\" }\noffer = [{ label = \"A\" }]\n\n\
        [filter.size]\nabout = \"S\"\nvalue = { type = \"integer\", maximum = 5 }\n\n[[attach]]\nto = \"filter:size\"\ncall = \"a.js#big\"\n";
    let terminal = Terminal::new()
        .manifest(manifest)
        .file("marsh/markup/pieces/note.html", "<p>{{ tone }}</p>\n")
        .file("marsh/code/a.js", "export const big = () => 9;\n")
        .file("marsh/preview/site.toml", site)
        .file(
            "marsh/markup/front.html",
            "{% extends \"layout.html\" %}{% block main %}{{ super() }}{{ options.scheme }}{% if filled(\"menu:top\") %}<nav>{{ place(\"menu:top\") }}</nav>{% endif %}{{ 3 | through(\"filter:size\") }}{% endblock %}\n",
        );
    let checked = terminal.types("check").ends(1);
    let rendered = terminal.types("render /").ends(1);
    for (found, lost) in [
        ("the site has no menu `mian`", "the site has no menu `mian`  (menu:top on the site)"),
        (
            "\"nigth\" is none of",
            "\"nigth\" is none of \"day\", \"night\", so it has its default  (option:scheme on the site)",
        ),
        (
            "`moss` is no entry of `feature:colours.palette`",
            "`tone` is `moss`, which is no entry of `feature:colours.palette`, so it has its default",
        ),
        ("9 is more than 5", "returned what may not be there: 9 is more than 5, the maximum"),
    ] {
        assert!(checked.stdout.contains(found), "{found}\n{}", checked.stdout);
        assert!(rendered.stderr.replace("\n        ", " ").contains(lost), "{lost}\n{}", rendered.stderr);
    }
}

#[test]
fn trace_is_a_record_a_line_in_a_pipe() {
    let terminal = Terminal::demo();
    let run = |typed: &str| terminal.command("saltmarsh", typed).env_remove("COLUMNS").output().unwrap();
    let traced = run("trace /");
    let text = String::from_utf8(traced.stdout).unwrap();
    let rows: Vec<Vec<&str>> = text.lines().map(|line| line.split('\t').collect()).collect();
    assert!(rows.len() > 20 && rows.iter().all(|row| row.len() == 8), "{text}");
    assert!(rows.iter().any(|row| row[1] == "hook:under-masthead"
        && row[2] == "masthead.js#welcome"
        && row[3].contains("truehook.toml:")));
    assert!(String::from_utf8(traced.stderr).unwrap().contains("steps"));
    let listed = String::from_utf8(run("list").stdout).unwrap();
    assert!(!listed.contains('…') && listed.contains("in section:spotlight; in piece:fold"), "{listed}");
}

#[test]
fn a_log_is_written_where_it_is_asked_for_and_nowhere_else() {
    let terminal = Terminal::demo();
    let run = |level: &str| {
        let mut command = terminal.command("saltmarsh", "render / --into ../out --format json");
        command.env("TRUEHOOK_LOG", level).env("TRUEHOOK_LOG_FILE", terminal.path("log.txt")).output().unwrap()
    };
    assert!(run("").status.success() && !terminal.path("log.txt").exists());
    assert!(run("trace").status.success());
    assert!(terminal.read("log.txt").contains("a worker answered"), "{}", terminal.read("log.txt"));
    let loud = run("loud");
    assert_eq!(loud.status.code(), Some(2));
    assert!(String::from_utf8(loud.stderr).unwrap().contains("one of error, warn, info, debug and trace"));
}
