//! Whole outputs, text and JSON, of every command on the demo and on its broken copy: what is printed stays as
//! it is unless somebody looks at the difference and accepts it (`cargo insta review`, or
//! `INSTA_UPDATE=always cargo test -p truehook outputs`).

use crate::fixture::Terminal;

/// Types commands, each with a name of its own, in a fresh copy of the demo.
#[track_caller]
fn typed(folder: &str, commands: &[(&str, &str)]) {
    let demo = Terminal::demo();
    for (name, command) in commands {
        demo.types_in(folder, command).is_as_kept(name);
    }
}

#[test]
fn check() {
    typed(
        ".",
        &[
            ("check-demo", "check foreshore tide-kit saltmarsh --notes"),
            ("check-broken", "check saltmarsh-broken --notes"),
            ("check-broken-json", "check saltmarsh-broken --format json"),
            ("check-broken-sarif", "check saltmarsh-broken --format sarif"),
            ("check-broken-junit", "check saltmarsh-broken --format junit"),
            ("check-nothing", "check nowhere"),
        ],
    );
}

#[test]
fn check_fix() {
    let commands = [("fix-dry-run", "check --fix --dry-run"), ("fix", "check --fix"), ("fix-again", "check --fix")];
    typed("saltmarsh-broken", &commands);
    typed(
        "saltmarsh-broken",
        &[("baseline", "check --baseline ../kept.json"), ("baseline-again", "check --baseline ../kept.json")],
    );
}

#[test]
fn why() {
    typed(
        "saltmarsh-broken",
        &[
            ("why-region", "why region:tide-board --page /"),
            ("why-region-json", "why region:tide-board --page / --format json"),
            ("why-area", "why area:footer-notes"),
            ("why-callback", "why tides.js#walkStart --page /"),
            ("why-feature", "why feature:letering"),
            ("why-filter", "why filter:reading-words --page /"),
        ],
    );
    typed(
        "saltmarsh",
        &[
            ("why-hook-shows", "why hook:under-masthead --page /"),
            ("why-listener-shows", "why masthead.js#lowWaterNotice --page / --format json"),
            ("why-feature-shows", "why feature:pictures.lead"),
            ("why-option-shows", "why option:scheme"),
            ("why-template-shows", "why template:front --page /"),
            ("why-script-shows", "why script:clock-hand --page /visit/"),
            ("why-piece-shows", "why piece:spotlight/caption --page /"),
        ],
    );
}

#[test]
fn list() {
    typed(
        "saltmarsh",
        &[
            ("map", "map /"),
            ("map-json", "map /search/ --format json"),
            ("list", "list"),
            ("list-json", "list hook --format json"),
            ("list-listeners", "list listener"),
            ("list-filters", "list filter"),
            ("list-arrangers", "list arranger"),
            ("list-preparers", "list preparer"),
            ("list-features", "list feature"),
            ("list-page", "list --page /visit/"),
            ("list-unplaced", "list --unplaced"),
            ("list-empty", "list --empty"),
            ("list-layer", "list --layer tide-kit"),
            ("list-nothing", "list hok"),
        ],
    );
}

#[test]
fn show() {
    typed(
        "saltmarsh",
        &[
            ("show-hook", "show hook:under-masthead"),
            ("show-hook-json", "show hook:under-masthead --format json"),
            ("show-filter", "show filter:site-line"),
            ("show-region", "show region:aside"),
            ("show-area", "show area:footer-notes"),
            ("show-menu", "show menu:masthead"),
            ("show-partial", "show partial:entry-card"),
            ("show-section", "show section:spotlight"),
            ("show-piece", "show piece:spotlight/caption"),
            ("show-template", "show template:front"),
            ("show-feature", "show feature:pictures"),
            ("show-feature-json", "show feature:colours --format json"),
            ("show-style", "show style:saltmarsh"),
            ("show-script", "show script:clock-hand"),
            ("show-option", "show option:scheme"),
            ("show-nothing", "show region:asid"),
        ],
    );
}

#[test]
fn explain() {
    typed(
        "saltmarsh",
        &[
            ("explain-rule", "explain lost-placement"),
            ("explain-kind", "explain feature"),
            ("explain-role", "explain preparer"),
            ("explain-key", "explain wrap"),
            ("explain-feature", "explain feature:extent"),
            ("explain-argument", "explain feature:pictures.lead --format json"),
            ("explain-nothing", "explain preperer"),
        ],
    );
}

#[test]
fn render() {
    typed(
        "saltmarsh",
        &[
            ("render-front", "render /"),
            ("render-entry", "render /log/avocets-are-back/"),
            ("render-log", "render /log/"),
            ("render-german", "render /visit/ --language de"),
            ("render-json", "render /search/ --format json"),
            ("render-into", "render --into ../site"),
            ("render-nothing", "render /visti/"),
        ],
    );
    typed("saltmarsh-broken", &[("render-broken", "render /")]);
}

#[test]
fn fire_and_trace() {
    typed(
        "saltmarsh",
        &[
            ("fire-filter", "fire filter:site-line value='Mud and birds.' --steps"),
            ("fire-hook-json", "fire hook:under-tides low=13:42 --format json"),
            ("fire-section", "fire section:spotlight species=Redshank"),
            ("fire-moment", "fire hook:theme-chosen"),
            ("fire-nothing", "fire hook:theme-chose"),
            ("trace", "trace /"),
            ("trace-json", "trace /log/ --format json"),
            ("trace-point", "trace / --point filter:site-line"),
        ],
    );
}

#[test]
fn register() {
    typed(
        "saltmarsh",
        &[
            ("declare", "declare hook:over-tides --about 'Over the tide table' --dry-run"),
            ("declare-next", "declare region:kiosk --label Kiosk"),
            ("place", "place region:kiosk --in layout.html --inside main --dry-run"),
            (
                "attach",
                "attach hook:under-masthead masthead.js#storm --priority 10 --when \"page.type == 'front'\" --dry-run",
            ),
            ("attach-nothing", "attach hook:under-mastheed masthead.js#storm"),
            ("messages", "emit messages"),
        ],
    );
}

#[test]
fn demo() {
    let terminal = Terminal::new();
    let walk = terminal.types_in(".", "demo --into walk").ends(0);
    walk.is_as_kept("demo");
    // What the walk ends with is there, and can be typed.
    let (_, end) = walk.stdout.split_once("Now look at\n").unwrap();
    let (files, rest) = end.split_once("and try\n").unwrap();
    // What is left open is tried by itself.
    let (commands, left_open) = rest.split_once("and leave open while you edit\n").unwrap();
    assert_eq!(left_open.trim(), "truehook -C walk/saltmarsh preview --open");
    for line in files.lines() {
        let file = line.split_whitespace().next().unwrap();
        assert!(terminal.path(file).is_file(), "{file}");
    }
    for line in commands.lines() {
        let command = line.trim().strip_prefix("truehook ").unwrap();
        terminal.types_in(".", command.split(" > ").next().unwrap()).ends(0);
    }
}

#[test]
fn help() {
    typed(".", &[("help", "--help"), ("help-check", "check --help"), ("no-command", "chekc"), ("no-theme", "list")]);
}
