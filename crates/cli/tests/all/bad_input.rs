//! Bad input: each kind gives one clear finding or error with its place, never a panic, and the page
//! is rendered without the broken part.

use std::io::Read;
use std::process::Stdio;

use crate::fixture::Terminal;

/// A theme whose hook:notice, on every page, runs a callback with this body beside a good one.
fn with_callback(body: &str) -> Terminal {
    Terminal::new()
        .manifest(
            "[hook.notice]\nabout = \"Notices\"\n\n[[attach]]\nto = \"hook:notice\"\ncall = \"notes.js#bad\"\n\n\
             [[attach]]\nto = \"hook:notice\"\ncall = \"good.js#good\"\n",
        )
        .replace("marsh/markup/layout.html", "<body>", "<body>{{ place(\"hook:notice\") }}")
        .file(
            "marsh/code/notes.js",
            format!("import {{ html, place }} from \"truehook\";\n\nexport function bad(context) {{\n{body}\n}}\n"),
        )
        .file("marsh/code/good.js", "export function good() {\n  return \"all is well\";\n}\n")
}

#[track_caller]
fn fails_alone(body: &str, message: &str, place: &str) {
    let terminal = with_callback(body);
    terminal
        .types("render /")
        .ends(1)
        .says("all is well")
        .says("<main id=\"text\">")
        .says(message)
        .says(place)
        .says("hook:notice on /");
}

#[test]
fn callbacks_that_fail_take_nothing_else_down() {
    fails_alone("  throw new Error(\"no tide\");", "Error: no tide", "code/notes.js:4:");
    fails_alone("  return context.page.nothing.there;", "TypeError", "code/notes.js:4:");
    fails_alone("  return Promise.resolve(\"later\");", "returned a promise", "code/notes.js:3:17");
    fails_alone("  return 7;", "returned integer where markup or text belongs", "code/notes.js:3:17");
    fails_alone("  for (;;) {}", "stopped after 250 ms of processor time, its limit", "code/notes.js:");
    fails_alone("  const all = []; for (;;) all.push(new Array(100000).fill(1));", "its limit", "code/notes.js:");
    fails_alone("  return bad(context) + bad(context);", "stopped because it calls itself too deep", "code/notes.js:");
    fails_alone("  return html`<p>${place(\"hook:notice\")}</p>`;", "it is placed inside itself", "");
    fails_alone("  context.page.title = \"mine\";", "TypeError", "code/notes.js:4:");
    fails_alone("  return eval(\"1\");", "EvalError", "code/notes.js:4:");
    fails_alone("  throw \"low water\";", "threw `low water`, which is no Error", "code/notes.js:3:17");
}

#[test]
fn a_filter_that_fails_passes_its_value_on() {
    let filter = |body: &str| {
        Terminal::new()
            .manifest("[filter.words]\nvalue = { type = \"string\" }\n\n[[attach]]\nto = \"filter:words\"\ncall = \"words.js#bad\"\n")
            .replace("marsh/markup/layout.html", "<body>", "<body><i>{{ \"as it was\" | through(\"filter:words\") }}</i>")
            .file("marsh/code/words.js", format!("import {{ html }} from \"truehook\";\nexport function bad(value) {{ {body} }}\n"))
    };
    filter("return;").types("render /").ends(1).says("<i>as it was</i>").says("returned nothing");
    filter("return [value];")
        .types("render /")
        .ends(1)
        .says("<i>as it was</i>")
        .says("returned array where string belongs");
    filter("return html`<b>x</b>`;")
        .types("render /")
        .ends(1)
        .says("<i>as it was</i>")
        .says("returned markup where string belongs");
    filter("return value.toUpperCase();").types("render /").ends(0).says("<i>AS IT WAS</i>");
}

#[test]
fn a_callback_that_places_its_own_hook_is_found_before_it_runs() {
    with_callback("  return html`<p>${place(\"hook:notice\")}</p>`;")
        .types("check")
        .ends(1)
        .finds_only("placement-cycle", "code/notes.js:4:26");
}

#[test]
fn manifests_that_can_not_be_understood() {
    let broken = |text: &str| Terminal::new().file("marsh/truehook.toml", text);
    broken("[theme\nname = \"marsh\"\n").types("check").ends(1).finds_only("manifest-syntax", "truehook.toml:1:7");
    broken("[theme]\nname = \"marsh\"\nopen = \"yes\"\nlabel = \"Marsh\"\n")
        .types("check")
        .ends(1)
        .finds_only("manifest-syntax", "truehook.toml:3:8");
    broken("[theme]\nname = \"marsh\"\nlabl = \"Marsh\"\n")
        .types("check")
        .ends(1)
        .finds_only("unknown-key", "truehook.toml:3:1")
        .says("did you mean `label`?");
    broken("[theme]\nname = \"Salt Marsh\"\nlabel = \"Marsh\"\n")
        .types("check")
        .ends(1)
        .finds_only("bad-name", "truehook.toml:2:8");
    broken("").types("check").ends(1).finds_only("manifest-syntax", "truehook.toml:1:1").says("[theme]");
}

#[test]
fn files_that_are_no_text() {
    let template = |bytes: &[u8]| Terminal::new().file("marsh/markup/front.html", bytes).types("check").ends(1);
    template(b"<p>\0</p>").finds_only("markup-syntax", "markup/front.html:1:1").says("NUL");
    template(b"<p>\xff\xfe</p>").finds_only("markup-syntax", "markup/front.html:1:1").says("not UTF-8");
    template(&vec![b'x'; 50 * 1024 * 1024])
        .finds_only("markup-syntax", "markup/front.html:1:1")
        .says("more than the 4 MiB");
    template(b"{% if %}").finds_only("markup-syntax", "markup/front.html:1:7");
    let module = Terminal::new().file("marsh/code/notes.js", b"\0").types("check").ends(1);
    module.finds_only("code-syntax", "code/notes.js:1:1");
    let module = Terminal::new().file("marsh/code/notes.js", "const a = 1;\nconst a = 2;\n").types("check").ends(1);
    module.finds_only("code-syntax", "code/notes.js:1:7");
}

#[test]
fn empty_files_marks_and_foreign_line_ends_are_fine() {
    Terminal::new()
        .file("marsh/markup/front.html", "")
        .file("marsh/code/empty.js", "")
        .types("check")
        .ends(1)
        .finds_only("required-point", "markup/front.html:1:1");
    let manifest = "\u{feff}[theme]\r\nname = \"marsh\"\r\nlabel = \"Marsh\"\r\n";
    Terminal::new().file("marsh/truehook.toml", manifest).types("check").ends(0);
    let terminal = Terminal::new().file(
        "marsh/markup/front.html",
        "\u{feff}{% extends \"layout.html\" %}\r\n{% block main %}{{ oops }}{% endblock %}\r\n",
    );
    terminal.types("check").ends(1).says("markup/front.html:2:20");
}

#[test]
fn a_page_whose_template_does_not_parse_is_shown_by_the_next_one() {
    let terminal = Terminal::new().file("marsh/markup/front.html", "{% if %}");
    terminal
        .types("render /")
        .ends(1)
        .says("<main id=\"text\">")
        .says("markup/front.html:1:")
        .says("can't be rendered");
}

#[test]
fn an_unknown_variable_prints_nothing_and_is_told() {
    let terminal = Terminal::new().file(
        "marsh/markup/front.html",
        "{% extends \"layout.html\" %}\n{% block main %}<h1>[{{ page.titel }}]</h1>{{ super() }}{% endblock %}\n",
    );
    terminal.types("render /").ends(1).says("<h1>[]</h1>").says("markup/front.html:2:30").says("did you mean `title`?");
}

#[cfg(unix)]
#[test]
fn links_that_leave_the_folder_or_go_in_circles() {
    use std::os::unix::fs::symlink;
    let terminal = Terminal::new().file("elsewhere/secret.html", "<p>secret</p>");
    symlink(terminal.path("elsewhere/secret.html"), terminal.path("marsh/markup/secret.html")).unwrap();
    terminal.types("check").ends(1).finds_only("outside-theme", "markup/secret.html:1:1");

    let terminal = Terminal::new();
    symlink("round.html", terminal.path("marsh/markup/round.html")).unwrap();
    terminal.types("check").ends(1).finds_only("markup-syntax", "markup/round.html:1:1").says("in a circle");

    let terminal = Terminal::new();
    symlink("..", terminal.path("marsh/markup/up")).unwrap();
    terminal.types("check").ends(1).finds_only("markup-syntax", "markup/up:1:1");

    let terminal = Terminal::new().file("marsh/markup/parts/a.html", "<p>a</p>\n");
    symlink("a.html", terminal.path("marsh/markup/parts/b.html")).unwrap();
    terminal
        .replace(
            "marsh/markup/layout.html",
            "<body>",
            "<body>{% include \"parts/a.html\" %}{% include \"parts/b.html\" %}",
        )
        .types("check")
        .ends(0);
}

#[test]
fn themes_that_are_not_there() {
    let terminal = Terminal::new();
    terminal.types_in(".", "check nowhere").ends(2).says("there is no folder nowhere");
    terminal.types_in(".", "check marsh/markup").ends(2).says("holds no truehook.toml");
    terminal.types_in(".", "check").ends(2).says("truehook demo");
    terminal.types("show region:mian").ends(2).says("did you mean `region:main`?");
    terminal.types("show main").ends(2).says("is not an address");
    terminal.types("show regin:main").ends(2).says("did you mean `region`?");
    terminal.types("list kinds").ends(2).says("neither a kind nor a role");
    terminal.types("render /nowhere/").ends(2).says("there is no page /nowhere/");
    terminal.types("fly").ends(2);
}

#[test]
fn a_closed_pipe_ends_the_program_quietly() {
    let terminal = Terminal::demo();
    for command in ["check --format json", "list", "render /", "show region:aside"] {
        let folder = if command.starts_with("check") { "saltmarsh-broken" } else { "saltmarsh" };
        let mut child =
            terminal.command(folder, command).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        drop(child.stdout.take());
        let mut told = String::new();
        child.stderr.take().unwrap().read_to_string(&mut told).unwrap();
        let status = child.wait().unwrap();
        assert!(!told.contains("panicked") && !told.contains("pipe"), "{command}: {told}");
        assert!(matches!(status.code(), Some(0 | 1)), "{command}: {status}");
    }
}

/// What check says of a small theme with this at the end of its manifest.
fn with_manifest(text: &str) -> crate::fixture::Said {
    Terminal::new().manifest(text).types("check").ends(1)
}

#[test]
fn declarations_that_can_not_be() {
    with_manifest("[menu.top]\nlabel = \"Top\"\nlevels = 0\n").says("a menu spot can't have 0 levels");
    with_manifest("[area.notes]\nlabel = \"N\"\nwrap = '<div>{{ body }}'\n")
        .says("error[wrap-body]: `wrap` is unbalanced: <div> is not closed")
        .says("truehook.toml:8:8");
    with_manifest("[area.notes]\nlabel = \"N\"\nwrap = '{{ body }}{{ body }}'\n").says("prints `body` 2 times");
    with_manifest("[area.notes]\nlabel = \"N\"\nwrap = '{{ page.title }}{{ body }}'\n").says("and nothing else");
    with_manifest("[area.notes]\nlabel = \"N\"\nwrap = '{% if title %}{{ body }}{% endif %}'\n").says("no statements");
    with_manifest("[area.notes]\nlabel = \"N\"\nwrap-title = '<h3>{{ title }}</h3>'\n").says("wrap-title");
    with_manifest("[section.Big]\nlabel = \"B\"\n").says("error[bad-name]: `Big` is not a name");
    with_manifest("[section.band]\nlabel = \"B\"\n[section.band.piece.Own]\nlabel = \"O\"\n")
        .says("`Own` is not a name");
    with_manifest("[option.Two]\nlabel = \"T\"\ndefault = 1\n").says("`Two` is not a name");
    with_manifest("[option.two]\nlabel = \"T\"\ntype = \"strnig\"\ndefault = 1\n").says("did you mean `string`?");
    with_manifest("[option.two]\nlabel = \"T\"\nenum = \"x\"\ndefault = \"x\"\n").says("is no JSON Schema");
    with_manifest("[piece.dot]\nlabel = \"D\"\noffer = [{ label = \"x\", item = { use = \"piece:dot\" } }]\n")
        .says("an offer has no `use`");
    with_manifest("[piece.dot]\nlabel = \"D\"\nholds = [3]\n").says("has to be a string");
    with_manifest("[hook.x]\nretired = \"soon\"\n").says("is not a semantic version");
    with_manifest("[hook.x]\ninside = \"table\"\n").says("\"head\" or \"body\" belongs here");
    with_manifest("[region.x]\nlabel = \"X\"\nwrap = '{{ body }}'\n").says("has no key `wrap`");
    with_manifest("[partial.x]\ninputs.use = { type = \"string\" }\n").says("can't be the name of an input");
}

#[test]
fn overrides_that_can_not_be() {
    with_manifest("[[detach]]\nfrom = \"hook:document-end\"\n")
        .says("[[detach]] needs either `call`, a callback, or `use`");
    with_manifest("[[detach]]\ncall = \"host:x.js#y\"\n").says("has no `from`");
    with_manifest("[[replace]]\ncall = \"x.js\"\nwith = \"b.js#c\"\n").says("`x.js` does not name a callback");
    with_manifest("[[replace]]\ncall = \"x.js#y\"\n").says("has no `with`");
    with_manifest("[[detach]]\nfrom = \"hook:document-ned\"\ncall = \"host:x.js#y\"\n")
        .says("there is no point `hook:document-ned` to detach from")
        .says("did you mean `hook:document-end`?");
    with_manifest("[adopted]\n\"layout.html\" = { from = \"nobody\" }\n").says("has no `print`");
    Terminal::new()
        .manifest("[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\n\n[[detach]]\nfrom = \"hook:document-end\"\ncall = \"a.js#f\"\n")
        .file("marsh/code/a.js", "export const f = () => \"f\";\n")
        .types("check")
        .ends(1)
        .finds_only("detach-target", "truehook.toml:12:8")
        .says("this layer attaches it itself");
}

#[test]
fn previews_that_can_not_be() {
    let with = |site: &str, page: &str| {
        Terminal::new()
            .manifest("[menu.top]\nlabel = \"Top\"\n\n[option.wide]\nlabel = \"Wide\"\ntype = \"boolean\"\ndefault = false\n\n[section.band]\nlabel = \"Band\"\noffer = [{ label = \"A band\" }]\ninputs.rows = { type = \"array\", items = { type = \"integer\", minimum = 1 }, default = [] }\n")
            .file("marsh/markup/sections/band.html", "{{ rows | length }}")
            .replace("marsh/markup/layout.html", "    {{ place(\"region:main\") }}", "    {{ place(\"region:main\") }}{{ place(\"sections\") }}{{ place(\"menu:top\") }}{{ options.wide }}")
            .file("marsh/preview/site.toml", site)
            .file("marsh/preview/pages/a.toml", format!("path = \"/\"\ntype = \"front\"\ntitle = \"A\"\n{page}"))
            .types("check")
    };
    with("title = \"x\"\n", "sections = [ { use = \"section:band\", rows = [1, 2] } ]\n").ends(0);
    with("title = \"x\"\n", "sections = [ { use = \"section:band\", rows = [1, 0] } ]\n")
        .ends(1)
        .finds_only("input-value", "preview/pages/a.toml:4:49");
    with("title = \"x\"\n", "sections = [ { use = \"section:band\", holds = [ { use = \"section:band\" } ] } ]\n")
        .ends(1)
        .finds_only("may-not-hold", "preview/pages/a.toml:4:56");
    with("title = \"x\"\n", "sections = [ { rows = [1] } ]\n").ends(1).says("has no `use`");
    with("title = \"x\"\n", "sections = \"band\"\n").ends(1).says("a list of items belongs here");
    with("options = { wide = \"yes\" }\n", "").ends(1).finds_only("input-value", "preview/site.toml:1:20");
    with("options = { wdie = true }\n", "")
        .ends(1)
        .finds_only("unknown-input", "preview/site.toml:1:13")
        .says("did you mean `wide`?");
    with("title = \"x\"\n", "sumary = \"x\"\n")
        .ends(1)
        .finds_only("unknown-key", "preview/pages/a.toml:4:1")
        .says("`summary`");
    with("title = \"x\"\n", "summary = \"fine\"\n").ends(0);
    with("title = \"x\"\n", "results = 3\n").ends(0);
    with("[fill]\n\"menu:top\" = [ ]\n", "").ends(1).finds_only("fill-kind", "preview/site.toml:2:1");
    with("[fill]\n\"region:main\" = \"everyday\"\n", "").ends(1).finds_only("fill-kind", "preview/site.toml:2:1");
    with("[fill]\n\"menu:top\" = \"main\"\n", "").ends(1).finds_only("menu-unfilled", "preview/site.toml:2:14");
    with("[menus]\nmain = [ { href = \"/\" } ]\n", "").ends(1).says("has no `label`");
    with("[menus]\nmain = [ { label = \"x\", entries = 3 } ]\n", "").ends(1).says("a list of entries");
    with("[menus]\nmain = \"x\"\n", "").ends(1).says("the menu `main` has to be a list of entries");
}

#[test]
fn what_commands_refuse_for_the_further_kinds() {
    let terminal = Terminal::new().manifest("[option.wide]\nlabel = \"W\"\ntype = \"boolean\"\ndefault = false\n");
    terminal.types("attach option:wide a.js#f").ends(2);
    terminal.types("attach region:main partial:link").ends(2).says("a partial can't be attached to `region:main`");
    terminal.types("place option:wide --in layout.html --inside main").ends(2).says("options.wide");
    terminal.types("place hook:page-ready --in layout.html --inside main").ends(2).says("is a moment");
    terminal.types("declare piece:a/b/c").ends(2).says("is not a name");
    terminal.types("declare option:two-words").ends(2).says("lower-case letters, digits and underscores");
    terminal.types("declare area:notes --label N 'wrap=<p>'").ends(2).says("nothing was written");
    terminal.types("declare gadget:x").ends(2).says("is not a kind of point");
    assert!(!terminal.read("marsh/truehook.toml").contains("notes"));
    terminal.types("declare piece:band/own --label Own").ends(0);
    assert!(terminal.read("marsh/truehook.toml").contains("[section.band.piece.own]"));
}

#[test]
fn errors_name_the_program_whatever_its_file_is_called() {
    let terminal = Terminal::new();
    let file = terminal.path("hooks-of-mine");
    std::fs::copy(assert_cmd::cargo::cargo_bin("truehook"), &file).unwrap();
    for words in [&["--nope"][..], &["chekc"], &["declare"], &["check", "--format", "xml"], &["check", "nowhere"]] {
        let output =
            std::process::Command::new(&file).args(words).current_dir(terminal.path("marsh")).output().unwrap();
        let text = String::from_utf8(output.stderr).unwrap();
        assert!(text.starts_with("truehook: "), "{words:?}: {text}");
        assert!(!text.contains("hooks-of-mine"), "{words:?}: {text}");
        assert_eq!(output.status.code(), Some(2), "{words:?}");
    }
}

#[test]
fn what_is_fired_is_the_same_in_every_run() {
    let terminal = Terminal::demo();
    for point in ["hook:under-masthead", "partial:tide-dial", "partial:masthead"] {
        let fired = || terminal.types(&format!("fire {point} --page / --format json")).ends(0).stdout.clone();
        assert_eq!(fired(), fired(), "{point}");
    }
}

#[test]
fn modules_that_pass_each_other_on_come_to_an_end() {
    Terminal::new()
        .manifest(
            "[hook.notice]\nabout = \"Notices\"\n\n[[attach]]\nto = \"hook:notice\"\ncall = \"a.js#there\"\n\n\
             [[attach]]\nto = \"hook:notice\"\ncall = \"a.js#nowhere\"\n",
        )
        .replace("marsh/markup/layout.html", "<body>", "<body>{{ place(\"hook:notice\") }}")
        .file("marsh/code/a.js", "export * from \"./b.js\";\n")
        .file("marsh/code/b.js", "export * from \"./a.js\";\nexport function there() {\n  return null;\n}\n")
        .types("check")
        .ends(1)
        .says("code/a.js exports no function `nowhere`")
        .says("1 error");
}
