//! What a theme can have much of.

use super::themes::{
    Theme, callbacks, far, functions, hooks, language, lines, linked, on_base, pages, po, scripts, slip, strangers,
    word,
};

/// One of them.
pub struct Dimension {
    pub name: &'static str,
    /// The theme with that many.
    pub theme: fn(usize) -> Theme,
    /// What is run in its folder.
    pub command: &'static [&'static str],
    /// Where one of them is much by itself, so many fewer are taken.
    pub each: usize,
}

macro_rules! dimension {
    ($name:literal, $command:expr, $theme:expr) => {
        dimension!($name, $command, 1, $theme)
    };
    ($name:literal, $command:expr, $each:literal, $theme:expr) => {
        Dimension { name: $name, theme: $theme, command: $command, each: $each }
    };
}

/// What translates the texts of a theme.
const TRANSLATED: &str = "[feature.translations]\ndomain = \"theme\"\n";
const CHECK: &[&str] = &["check", "--notes"];

/// All of them.
pub const DIMENSIONS: &[Dimension] = &[
    dimension!("misspelt points", CHECK, |n| Theme {
        manifest: lines(n, |at| format!("[hook.{}]\nlabel = \"A hook\"\n", word(at))),
        main: lines(n, |at| format!("{{{{ place(\"hook:{}\") }}}}", slip(at))),
        ..Theme::default()
    }),
    dimension!("points, each placed and listed", &["list"], |n| Theme {
        manifest: hooks(n),
        main: lines(n, |at| format!("{{{{ place(\"hook:hook-{at}\") }}}}")),
        ..Theme::default()
    }),
    dimension!("points that nobody places", CHECK, |n| Theme { manifest: hooks(n), ..Theme::default() }),
    dimension!("templates that are missing", CHECK, |n| Theme {
        main: lines(n, |at| format!("{{% include \"parts/missing-{at}.html\" %}}")),
        files: (0..n).map(|at| (format!("markup/parts/there-{at}.html"), "<p>there</p>\n".into())).collect(),
        ..Theme::default()
    }),
    dimension!("languages", CHECK, 10, |n| Theme {
        manifest: TRANSLATED.into(),
        main: lines(20, |at| format!("<p>{{{{ \"Text number {at}\" | t }}}}</p>")),
        files: (0..n)
            .map(|at| (format!("words/{}.po", language(at)), po(20, |at| format!("Text number {at}"))))
            .collect(),
        ..Theme::default()
    }),
    dimension!("texts to translate", CHECK, |n| Theme {
        manifest: TRANSLATED.into(),
        main: lines(n, |at| format!("<p>{{{{ \"Text number {at}\" | t }}}}</p>")),
        files: vec![("words/de.po".into(), po(n, |at| format!("Text number {at}")))],
        ..Theme::default()
    }),
    dimension!("misspelt texts", CHECK, |n| Theme {
        manifest: TRANSLATED.into(),
        main: lines(n, |at| format!("<p>{{{{ \"Text of {}\" | t }}}}</p>", slip(at))),
        files: vec![("words/de.po".into(), po(n, |at| format!("Text of {}", word(at))))],
        ..Theme::default()
    }),
    dimension!("callbacks of one hook, after a common one", CHECK, |n| callbacks(n, |_| format!(
        "after = [\"code.js#{}\"]",
        word(0)
    ))),
    dimension!("callbacks of one hook, each after the one before", CHECK, |n| callbacks(n, |at| format!(
        "after = [\"code.js#{}\"]",
        word(at - 1)
    ))),
    dimension!("callbacks of one hook, each after one that is misspelt", CHECK, |n| callbacks(n, |at| format!(
        "after = [\"code.js#{}\"]",
        slip(at)
    ))),
    dimension!("callbacks of one hook, why it", &["why", "hook:one"], |n| callbacks(n, |at| format!(
        "priority = {}",
        at % 100
    ))),
    dimension!("callbacks of one hook, show it", &["show", "hook:one"], |n| callbacks(n, |at| format!(
        "priority = {}",
        at % 100
    ))),
    dimension!("callbacks of one hook, rendered", &["render", "/"], 2, |n| callbacks(n, |at| format!(
        "priority = {}",
        at % 100
    ))),
    dimension!("conditions", CHECK, |n| callbacks(n, |at| format!(
        "when = \"page.type == 'front' and page.title != 'a{at}'\""
    ))),
    dimension!("callbacks that are missing", CHECK, |n| Theme {
        manifest: "[hook.one]\nlabel = \"One\"\n\n".to_string()
            + &lines(n, |at| format!("[[attach]]\nto = \"hook:one\"\ncall = \"code.js#missing{at}\"\n")),
        main: "{{ place(\"hook:one\") }}\n".into(),
        files: vec![("code/code.js".into(), lines(n, |at| format!("export function there{at}() {{ return null; }}")))],
        ..Theme::default()
    }),
    dimension!("functions that nobody attaches", CHECK, |n| Theme {
        files: vec![("code/code.js".into(), functions(n))],
        ..Theme::default()
    }),
    dimension!("modules, each importing the one before", CHECK, |n| Theme {
        files: (0..n)
            .map(|at| (
                format!("code/m{at}.js"),
                match at {
                    0 => "export function f0() { return 1; }\n".to_string(),
                    _ => format!(
                        "import {{ f{0} }} from \"./m{0}.js\";\nexport function f{at}() {{ return f{0}(); }}\n",
                        at - 1
                    ),
                }
            ))
            .collect(),
        ..Theme::default()
    }),
    dimension!("replacements without `in`", CHECK, |n| on_base(n, |at| {
        format!("[[replace]]\ncall = \"base:code.js#{0}\"\nwith = \"own.js#{0}\"\n", word(at))
    })),
    dimension!("callbacks that are detached", CHECK, |n| on_base(n, |at| {
        format!("[[detach]]\nfrom = \"hook:one\"\ncall = \"base:code.js#{}\"\n", word(at))
    })),
    dimension!("detachments that are misspelt", CHECK, |n| on_base(n, |at| {
        format!("[[detach]]\nfrom = \"hook:one\"\ncall = \"base:code.js#{}\"\n", slip(at))
    })),
    dimension!("scripts, each needing the one before", CHECK, |n| scripts(n, |at| format!(
        "needs = [\"script:{}\"]\n",
        word(at - 1)
    ))),
    dimension!("scripts, each needing a misspelt one", CHECK, |n| scripts(n, |at| format!(
        "needs = [\"script:{}\"]\n",
        slip(at)
    ))),
    dimension!("scripts with globals", CHECK, |n| Theme {
        files: (0..n)
            .map(|at| (
                format!("media/s{at}.js"),
                format!("window.Global{at} = {{}};\nif (window.Global{} ) {{}}\n", at.saturating_sub(1))
            ))
            .collect(),
        manifest: lines(n, |at| format!("[script.s{at}]\nfile = \"s{at}.js\"\n")),
        ..Theme::default()
    }),
    dimension!("templates, each extending the one before", CHECK, 10, |n| {
        Theme {
        files: (0..n)
            .map(|at| match at {
                0 => ("markup/t0.html".into(), "{% extends \"layout.html\" %}\n{% block main %}{{ super() }}{% endblock %}\n".into()),
                _ => (format!("markup/t{at}.html"), format!("{{% extends \"t{}.html\" %}}\n{{% block main %}}{{{{ super() }}}}<p>{at}</p>{{% endblock %}}\n", at - 1)),
            })
            .chain([("markup/page.html".into(), format!("{{% extends \"t{}.html\" %}}\n", n - 1))])
            .collect(),
        ..Theme::default()
    }
    }),
    dimension!("templates, each including the next", CHECK, 10, |n| Theme {
        main: "{% include \"t0.html\" %}\n".into(),
        files: (0..n)
            .map(|at| (
                format!("markup/t{at}.html"),
                match at + 1 == n {
                    true => "<p>end</p>\n".into(),
                    false => format!("<p>{{{{ page.title }}}}</p>{{% include \"t{}.html\" %}}\n", at + 1),
                }
            ))
            .collect(),
        ..Theme::default()
    }),
    dimension!("templates that nobody uses", CHECK, |n| Theme {
        files: (0..n).map(|at| (format!("markup/t{at}.html"), "<p>{{ page.title }}</p>\n".into())).collect(),
        ..Theme::default()
    }),
    dimension!("blocks of one template", CHECK, |n| Theme {
        main: lines(n, |at| format!("{{% block b{at} %}}<p>{at}</p>{{% endblock %}}")),
        files: vec![(
            "markup/page.html".into(),
            "{% extends \"layout.html\" %}\n".to_string()
                + &lines(n, |at| format!("{{% block b{at} %}}{{{{ super() }}}}{{% endblock %}}"))
        )],
        ..Theme::default()
    }),
    dimension!("findings on one line", CHECK, |n| Theme {
        main: (0..n).map(|at| format!("{{{{ place(\"hook:none-{at}\") }}}}")).collect(),
        ..Theme::default()
    }),
    dimension!("findings on one line, as JSON", &["check", "--format", "json"], |n| Theme {
        main: (0..n).map(|at| format!("{{{{ place(\"hook:none-{at}\") }}}}")).collect(),
        ..Theme::default()
    }),
    dimension!("lines of a template, each with a finding", CHECK, |n| Theme {
        main: lines(n, |at| format!("<p>{{{{ unknown_{at} }}}}</p>")),
        ..Theme::default()
    }),
    dimension!("expressions in one template", CHECK, |n| Theme {
        main: lines(n, |at| format!("{{{{ page.title ~ \"{at}\" }}}}")),
        ..Theme::default()
    }),
    dimension!("expressions in one template, on the map", &["map", "--html", "../map.html"], |n| Theme {
        main: lines(n, |at| format!("{{{{ page.title ~ \"{at}\" }}}}")),
        ..Theme::default()
    }),
    dimension!("elements in one template", CHECK, |n| Theme {
        main: lines(n, |at| format!("<div class=\"d{at}\" id=\"i{at}\">{at}</div>")),
        ..Theme::default()
    }),
    dimension!("ignores", CHECK, |n| Theme {
        main: lines(n, |at| format!(
            "{{# truehook: ignore unknown-variable because it comes #}}\n<p>{{{{ unknown_{at} }}}}</p>"
        )),
        ..Theme::default()
    }),
    dimension!("ignores of nothing", CHECK, |n| Theme {
        main: lines(n, |_| "{# truehook: ignore unknown-variable because it comes #}\n<p>{{ page.title }}</p>"
            .to_string()),
        ..Theme::default()
    }),
    dimension!("ignores in the manifest", CHECK, |n| Theme {
        manifest: hooks(n)
            + &lines(n, |at| {
                format!(
                    "[[check.ignore]]\nrule = \"unplaced-point\"\npoint = \"hook:hook-{at}\"\nbecause = \"the host places it\"\n"
                )
            }),
        ..Theme::default()
    }),
    dimension!("links between pages", CHECK, |n| linked(n, word)),
    dimension!("links between pages that are misspelt", CHECK, |n| linked(n, slip)),
    dimension!("modules, each passing on the one before", CHECK, 10, |n| Theme {
        files: (0..n)
            .map(|at| {
                let before = at.checked_sub(1).map(|at| format!("export * from \"./m{at}.js\";\n")).unwrap_or_default();
                (format!("code/m{at}.js"), format!("{before}export function f{at}() {{ return null; }}\n"))
            })
            .collect(),
        manifest: "[hook.one]\nlabel = \"One\"\n\n".to_string()
            + &format!("[[attach]]\nto = \"hook:one\"\ncall = \"m{}.js#f0\"\n", n - 1),
        main: "{{ place(\"hook:one\") }}\n".into(),
        ..Theme::default()
    }),
    dimension!("pages of the preview", CHECK, |n| pages(n)),
    dimension!("pages of the preview, listed by one", &["list", "--page", "/"], |n| pages(n)),
    dimension!("pages of the preview, rendered", &["render", "--into", "../site", "--over"], 2, |n| pages(n)),
    dimension!("items of one region", CHECK, |n| {
        Theme {
        manifest: "[region.aside]\nlabel = \"Beside\"\n\n[partial.note]\nabout = \"A note\"\ninputs.text = { type = \"string\", default = \"\" }\n".into(),
        main: "{{ place(\"region:aside\") }}\n".into(),
        files: vec![
            ("markup/partials/note.html".into(), "<p>{{ text }}</p>\n".into()),
            (
                "preview/site.toml".into(),
                "title = \"Much\"\nlanguage = \"en\"\n".to_string()
                    + &lines(n, |at| format!("[[fill.\"region:aside\"]]\nuse = \"partial:note\"\ntext = \"{at}\"\n"))
            ),
        ],
        ..Theme::default()
    }
    }),
    dimension!("inputs of one partial", CHECK, 10, |n| Theme {
        manifest: "[partial.note]\nabout = \"A note\"\n".to_string()
            + &lines(n, |at| format!("inputs.i{at} = {{ type = \"string\", default = \"a\" }}")),
        main: "{{ place(\"partial:note\") }}\n".into(),
        files: vec![("markup/partials/note.html".into(), lines(n, |at| format!("{{{{ i{at} }}}}")))],
        ..Theme::default()
    }),
    dimension!("options", CHECK, |n| Theme {
        manifest: lines(n, |at| format!(
            "[option.o{at}]\nlabel = \"An option\"\ntype = \"boolean\"\ndefault = false\n"
        )),
        main: lines(n, |at| format!("{{% if options.o{at} %}}<p>{at}</p>{{% endif %}}")),
        ..Theme::default()
    }),
    dimension!("options that are misspelt", CHECK, |n| Theme {
        manifest: lines(n, |at| format!(
            "[option.{}]\nlabel = \"An option\"\ntype = \"boolean\"\ndefault = false\n",
            word(at)
        )),
        main: lines(n, |at| format!("{{% if options.{} %}}<p>{at}</p>{{% endif %}}", slip(at))),
        ..Theme::default()
    }),
    dimension!("rules of one style sheet", CHECK, |n| Theme {
        manifest: "[style.site]\nfile = \"site.css\"\n".into(),
        files: vec![(
            "media/site.css".into(),
            lines(n, |at| format!(".c{at} {{ background: url(\"none-{at}.png\"); }}"))
        )],
        ..Theme::default()
    }),
    dimension!("pictures that are misspelt", CHECK, |n| Theme {
        main: lines(n, |at| format!("<img src=\"{{{{ asset('{}.png') }}}}\" alt=\"\">", slip(at))),
        files: (0..n).map(|at| (format!("media/{}.png", word(at)), "png".into())).collect(),
        ..Theme::default()
    }),
    dimension!("names that aren't there, in one template", CHECK, strangers),
    dimension!("names that aren't there, rendered", &["render", "/"], strangers),
    dimension!("names that aren't there, on a map", &["map"], strangers),
    dimension!("names that aren't there, as SARIF", &["check", "--format", "sarif"], strangers),
    dimension!("translations that nobody asks for", CHECK, |n| Theme {
        manifest: TRANSLATED.into(),
        main: "{{ \"A text\" | t }}".into(),
        files: vec![("words/de.po".into(), po(n, |at| format!("Text number {at}")))],
        ..Theme::default()
    }),
    dimension!("custom properties that a style reads", CHECK, |n| Theme {
        manifest: "[style.all]\nfile = \"all.css\"\n".into(),
        files: vec![("media/all.css".into(), lines(n, |at| format!(".a{at} {{ color: var(--v{at}); }}")))],
        ..Theme::default()
    }),
    dimension!("functions of one module that nobody uses", CHECK, |n| Theme {
        files: vec![("code/all.js".into(), lines(n, |at| format!("export const f{at} = () => \"\";")))],
        ..Theme::default()
    }),
    dimension!("notes of one callback", &["trace", "/"], |n| Theme {
        manifest: "[[attach]]\nto = \"hook:document-end\"\ncall = \"all.js#noted\"\n".into(),
        files: vec![(
            "code/all.js".into(),
            format!(
                "import {{ note }} from \"truehook\";\nexport function noted() {{\n  for (let at = 0; at < {n}; at += 1) note(at);\n  return \"\";\n}}\n"
            ),
        )],
        ..Theme::default()
    }),
    dimension!("names that are near nothing, each in a template", CHECK, 2, far),
    dimension!("names that are near nothing, on a map", &["map"], 2, far),
];
