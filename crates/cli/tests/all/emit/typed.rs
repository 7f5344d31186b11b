//! Types: right callbacks pass, and wrong ones are errors.

use std::path::Path;
use std::process::Command;

use super::files;
use crate::fixture::Terminal;

/// Checks modules against their types; nothing where there is no compiler.
fn tsc(folder: &Path) -> Option<String> {
    let modules =
        files(&folder.join("code")).into_iter().filter(|path| path.extension().is_some_and(|ending| ending == "js"));
    let output = Command::new("tsc")
        .args(["--noEmit", "--allowJs", "--checkJs", "--strict", "--target", "es2023", "--module", "es2022"])
        .args(["--moduleResolution", "bundler", "truehook.d.ts"])
        .args(modules)
        .current_dir(folder)
        .output();
    match output {
        Ok(output) => Some(String::from_utf8(output.stdout).unwrap()),
        Err(_) => {
            println!("tsc is not installed, so this is skipped");
            None
        }
    }
}

fn types(terminal: &Terminal, theme: &str) {
    let types = terminal.types_in(theme, "emit types").stdout;
    terminal.write(&format!("{theme}/truehook.d.ts"), types);
}

#[test]
fn the_demo_is_typed_and_mistakes_are_errors() {
    let terminal = Terminal::demo();
    for theme in ["foreshore", "tide-kit", "saltmarsh"] {
        types(&terminal, theme);
        let Some(said) = tsc(&terminal.path(theme)) else { return };
        assert_eq!(said, "", "{theme}");
    }
    types(&terminal, "saltmarsh-broken");
    let said = tsc(&terminal.path("saltmarsh-broken")).unwrap();
    assert!(said.contains("code/species.js") && said.contains("return"), "what a preparer lacks: {said}");
    assert_eq!(said.lines().count(), 1, "{said}");
    let module = |name: &str, of: &str, text: &str| {
        format!(
            "import {{ html, place, through, enabled }} from \"truehook\";\n/** @type {{import(\"truehook\").{of}}} */\nexport function {name}{text}\nvoid [html, place, through, enabled];\n"
        )
    };
    let wrong = [
        ("argument", "Listener<\"hook:under-tides\">", "({ args }) { return args.hight; }", "hight"),
        ("input", "Preparer<\"piece:note\">", "(inputs) { return { ...inputs, heading: inputs.txet }; }", "txet"),
        ("returns", "Preparer<\"piece:note\">", "(inputs) { return { ...inputs, haeding: \"x\" }; }", "haeding"),
        ("listens", "Listener<\"hook:under-tides\">", "() { return { a: 1 }; }", "known properties"),
        ("option", "Listener<\"hook:under-tides\">", "({ options }) { return options.sheme; }", "sheme"),
        (
            "value",
            "Listener<\"hook:under-tides\">",
            "({ options }) { return options.scheme === \"evening\" ? \"a\" : \"b\"; }",
            "no overlap",
        ),
        ("role", "Filter<\"hook:under-tides\">", "(value) { return value; }", "implicitly"),
        (
            "placed",
            "Listener<\"hook:under-tides\">",
            "() { return place(\"partial:tide-dial\", { size: \"large\" }); }",
            "overload",
        ),
        ("point", "Listener<\"hook:under-tides\">", "() { return place(\"partial:tide-dail\"); }", "tide-dail"),
        (
            "feature",
            "Listener<\"hook:under-tides\">",
            "() { return enabled(\"feature:colors\") ? \"a\" : \"b\"; }",
            "feature:colors",
        ),
        ("data", "Listener<\"hook:under-tides\">", "({ site }) { return site.data.seasn; }", "seasn"),
        ("arranged", "Arranger<\"region:aside\">", "() { return \"none\"; }", "not assignable"),
    ];
    let right = [
        (
            "placing",
            "Listener<\"hook:under-tides\">",
            "() { return html`${place(\"partial:tide-dial\", { size: 90 })}${place(\"sections\")}`; }",
        ),
        ("nothing", "Listener<\"hook:under-tides\">", "() {}"),
        ("sent", "Listener<\"hook:under-tides\">", "() { return through(\"filter:site-line\", \"a\"); }"),
        ("kept", "Listener<\"hook:theme-chosen\">", "({ site }) { site.store.set(\"a\", 1); }"),
    ];
    // All are looked at in one go, since the compiler takes long to start; each is a module by itself.
    let all = wrong.iter().map(|(name, of, text, _)| (name, of, text)).chain(right.iter().map(|(a, b, c)| (a, b, c)));
    for (name, of, text) in all {
        terminal.write(&format!("saltmarsh/code/tried-{name}.js"), module(name, of, text));
    }
    let said = tsc(&terminal.path("saltmarsh")).unwrap();
    let about = |name: &str| -> String {
        // What goes on about the same mistake stands further in.
        let mut own = false;
        let of_it = said.lines().filter(|line| {
            if !line.starts_with(' ') {
                own = line.starts_with(&format!("code/tried-{name}.js("));
            }
            own
        });
        of_it.collect::<Vec<_>>().join("\n")
    };
    for (name, _, _, wanted) in wrong {
        assert!(about(name).contains(wanted), "{name}: {said}");
    }
    for (name, ..) in right {
        assert_eq!(about(name), "", "{name}");
    }
    let elsewhere = said.lines().filter(|line| !line.starts_with(' ') && !line.starts_with("code/tried-"));
    assert_eq!(elsewhere.collect::<Vec<_>>(), Vec::<&str>::new());
}

#[test]
fn modules_of_grown_themes_are_typed() {
    for seed in 0..4 {
        let terminal = Terminal::empty("grown");
        for (path, text) in crate::grown::grow(seed).files.iter() {
            terminal.write(path.as_str().trim_start_matches('/'), text);
        }
        types(&terminal, "grown/site");
        let Some(said) = tsc(&terminal.path("grown/site")) else { return };
        assert_eq!(said, "", "seed {seed}");
    }
}
