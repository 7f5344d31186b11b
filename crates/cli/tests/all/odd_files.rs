//! Files as nobody writes them: nested without end, no plain files, folders in circles. Nothing overflows, nothing
//! hangs, and what is wrong is told once, at its place.

use crate::fixture::Terminal;

/// How often each is nested.
const TIMES: usize = 30_000;

#[test]
fn whatever_is_nested_without_end_is_told_once() {
    let nested = |open: &str, close: &str| format!("{}1{}", open.repeat(TIMES), close.repeat(TIMES));
    let mut cases: Vec<(&str, String)> = Vec::new();
    for (open, close) in [
        ("[", "]"),
        ("(", ")"),
        ("{a:", "}"),
        ("x?1:", ""),
        ("1+", ""),
        ("!", ""),
        ("()=>", ""),
        ("`${", "}`"),
        ("x=", ""),
        ("x||", ""),
        ("2**", ""),
        ("new ", ""),
        ("class{static x=", "}"),
        ("x.a(", ")"),
    ] {
        cases.push(("code/a.js", format!("export const a = {};\n", nested(open, close))));
    }
    cases.push(("code/a.js", format!("export function a(x) {{ {}; }}\n", nested("if (x) {} else ", ""))));
    for (open, close) in
        [("[", "]"), ("(", ")"), ("not ", ""), ("-", ""), ("1~", ""), ("1 if 1 else ", ""), ("1 and ", "")]
    {
        cases.push(("markup/page.html", format!("{{{{ {} }}}}", nested(open, close))));
    }
    cases.push(("markup/page.html", format!("{{{{ 1{} }}}}", "|abs".repeat(TIMES))));
    cases.push((
        "markup/page.html",
        format!("{{% if page.title %}}{}{{% endif %}}", "{% elif page.title %}x".repeat(TIMES)),
    ));
    cases
        .push(("markup/page.html", format!("{}x{}", "{% if page.title %}".repeat(TIMES), "{% endif %}".repeat(TIMES))));
    let theme = "[theme]\nname = \"marsh\"\nlabel = \"M\"\n\n[area.notes]\nlabel = \"N\"\n";
    for (open, close) in [("not ", ""), ("(", ")"), ("1~", "")] {
        cases.push(("truehook.toml", format!("{theme}wrap = '{{{{ {} }}}}'\n", nested(open, close))));
    }
    cases.push(("preview/site.toml", format!("[data]\nx = {}\n", nested("[", "]"))));
    cases.push(("preview/site.toml", format!("[data]\n{} = 1\n", vec!["a"; TIMES].join("."))));
    for (path, text) in cases {
        let told = |terminal: &Terminal| {
            let said = terminal.types("check");
            assert_eq!(said.status, Some(1), "{path}: {}…\n{}", &text[..40.min(text.len())], said.stderr);
            let of_syntax = |head: &String| head.contains("syntax") || head.contains("wrap-body");
            said.findings().into_iter().filter(|(head, _)| of_syntax(head)).collect::<Vec<_>>()
        };
        let terminal = Terminal::new().file(&format!("marsh/{path}"), &text);
        let found = told(&terminal);
        assert!(
            found.len() == 1 && found[0].1.starts_with(path),
            "{path}: {}…: {found:?}",
            &text[..40.min(text.len())]
        );
        let rendered = terminal.types("render /page/");
        assert!(matches!(rendered.status, Some(0 | 1)) && !rendered.stderr.contains("panicked"), "{}", rendered.stderr);
    }
}

#[test]
fn data_in_scripts_may_be_deep_but_not_without_end() {
    let script = |times: usize| format!("window.Data = {}1{};\n", "{\"a\":[".repeat(times), "]}".repeat(times));
    let with = |times: usize| {
        Terminal::new()
            .manifest("[script.data]\nfile = \"data.js\"\n")
            .file("marsh/media/data.js", script(times))
            .types("check")
    };
    with(600).ends(0);
    with(100_000).ends(1).says("nested more than 1000 deep");
}

#[cfg(unix)]
#[test]
fn what_is_no_plain_file_is_never_opened() {
    use std::os::unix::fs::symlink;
    use std::os::unix::net::UnixListener;
    for path in [
        "markup/a.html",
        "code/a.js",
        "media/a.css",
        "media/a.png",
        "points/a.toml",
        "preview/pages/a.toml",
        "preview/site.toml",
        "words/a.po",
    ] {
        let terminal = Terminal::new();
        let whole = terminal.path(&format!("marsh/{path}"));
        std::fs::create_dir_all(whole.parent().unwrap()).unwrap();
        // Reading from a socket, or without end from a device, would be waited for.
        let socket = UnixListener::bind(&whole).unwrap();
        let found = terminal.types("check").ends(1).says("no plain file").findings();
        assert!(found.len() == 1 && found[0].1.starts_with(path), "{path}: {found:?}");
        terminal.types("render /page/");
        drop(socket);
        for (to, told) in
            [("/dev/zero", "leads out of the theme's folder"), ("/etc/passwd", "leads out of the theme's folder")]
        {
            std::fs::remove_file(&whole).unwrap();
            symlink(to, &whole).unwrap();
            let found = terminal.types("check").ends(1).says(told).findings();
            assert!(found.len() == 1 && found[0].1.starts_with(path), "{path}: {found:?}");
        }
    }
    let terminal = Terminal::new();
    let _socket = UnixListener::bind(terminal.path("marsh/base.json")).unwrap();
    terminal.types("check --baseline base.json").ends(2).says("no plain file");
    terminal.types("render --into base.json").ends(2).says("is no folder");
}

#[cfg(unix)]
#[test]
fn folders_that_lead_to_each_other_are_walked_once() {
    use std::os::unix::fs::symlink;
    let terminal =
        Terminal::new().file("marsh/markup/a/one.html", "<p>1</p>").file("marsh/markup/b/two.html", "<p>2</p>");
    symlink("../b", terminal.path("marsh/markup/a/b")).unwrap();
    symlink("../a", terminal.path("marsh/markup/b/a")).unwrap();
    let said = terminal.types("check").ends(1).says("in a circle");
    assert!(said.findings().len() < 12, "{}", said.stdout);
}
