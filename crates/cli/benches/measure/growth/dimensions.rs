//! What a theme can have much of.

use std::fmt::Write;

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

/// A theme as it grows: what is added to its files.
#[derive(Default)]
pub struct Theme {
    /// It builds on another, which has the templates and the preview.
    child: bool,
    manifest: String,
    main: String,
    files: Vec<(String, String)>,
}

impl Theme {
    /// All its files, with those that any theme has.
    pub fn files(&self) -> Vec<(String, String)> {
        let layout = format!(
            "<!doctype html>\n<html lang=\"{{{{ site.language }}}}\">\n<head>{{{{ place(\"hook:document-head\") }}}}</head>\n<body>\n\
             {{% block main %}}<main>{{{{ place(\"region:main\") }}}}</main>\n{}{{% endblock %}}\n{{{{ place(\"hook:document-end\") }}}}\n</body>\n</html>\n",
            self.main
        );
        if self.child {
            return self.files.clone();
        }
        let file = |name: &str, text: &str| (name.to_string(), text.to_string());
        let mut files = vec![
            (
                "truehook.toml".to_string(),
                format!("[theme]\nname = \"theme\"\nlabel = \"A theme\"\nversion = \"1.0.0\"\n\n{}", self.manifest),
            ),
            ("markup/layout.html".to_string(), layout),
            file("markup/page.html", "{% extends \"layout.html\" %}\n"),
            file("preview/site.toml", "title = \"Much\"\nlanguage = \"en\"\n"),
            file("preview/pages/front.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"Today\"\n"),
        ];
        for (name, text) in &self.files {
            files.retain(|(there, _)| there != name);
            files.push((name.clone(), text.clone()));
        }
        files
    }
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

/// A made-up name, as unlike the others as words are.
fn word(at: usize) -> String {
    let mut rest = at as u64;
    let mut mixed = || {
        // The mixing step of SplitMix64.
        rest = rest.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mixed = (rest ^ (rest >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        (mixed ^ (mixed >> 27)) as usize
    };
    let syllable = |n: usize| {
        let letters = |of: &str, n: usize| of.as_bytes()[n % of.len()] as char;
        format!("{}{}", letters("bdfgklmnprstvz", n), letters("aeiou", n / 14))
    };
    (0..5).map(|_| syllable(mixed())).collect()
}

/// The same with a slip of the pen.
fn slip(at: usize) -> String {
    let name = word(at);
    format!("{}{}{}", &name[..5], &name[4..5], &name[5..])
}

fn lines(n: usize, line: impl Fn(usize) -> String) -> String {
    (0..n).fold(String::new(), |mut text, at| {
        let _ = writeln!(text, "{}", line(at));
        text
    })
}

fn hooks(n: usize) -> String {
    lines(n, |at| format!("[hook.hook-{at}]\nlabel = \"A hook\"\n"))
}

fn functions(n: usize) -> String {
    lines(n, |at| format!("export function {}() {{ return null; }}", word(at)))
}

/// One hook with `n` callbacks, each with a line of its own but for the first.
fn callbacks(n: usize, line: impl Fn(usize) -> String) -> Theme {
    Theme {
        manifest: "[hook.one]\nlabel = \"One\"\n\n".to_string()
            + &lines(n, |at| {
                let more = if at == 0 { String::new() } else { line(at) };
                format!("[[attach]]\nto = \"hook:one\"\ncall = \"code.js#{}\"\n{more}\n", word(at))
            }),
        main: "{{ place(\"hook:one\") }}\n".into(),
        files: vec![("code/code.js".into(), functions(n))],
        ..Theme::default()
    }
}

/// A theme on a base with `n` callbacks of one hook.
fn on_base(n: usize, line: impl Fn(usize) -> String) -> Theme {
    let base = callbacks(n, |_| String::new());
    let base = base
        .files()
        .into_iter()
        .map(|(name, text)| (format!("../base/{name}"), text.replace("name = \"theme\"", "name = \"base\"")));
    let child = "[theme]\nname = \"theme\"\nlabel = \"A theme\"\nversion = \"1.0.0\"\nbase = { path = \"../base\", version = \"^1\" }\n\n";
    Theme {
        files: base
            .chain([
                ("truehook.toml".to_string(), child.to_string() + &lines(n, line)),
                ("code/own.js".to_string(), functions(n)),
            ])
            .collect(),
        child: true,
        ..Theme::default()
    }
}

/// A template that reads names which aren't there.
fn strangers(n: usize) -> Theme {
    Theme { main: lines(n, |at| format!("{{{{ page.x{at} }}}}")), ..Theme::default() }
}

/// Points that aren't there, each in a template of its own, and a few that are, of quite other names.
fn far(n: usize) -> Theme {
    let placed = lines(n / 5, |at| format!("{{{{ place(\"hook:hook-{at}\") }}}}"));
    Theme {
        manifest: hooks(n / 5),
        main: placed + &lines(n, |at| format!("{{% include \"parts/part-{at}.html\" %}}")),
        files: (0..n)
            .map(|at| {
                (format!("markup/parts/part-{at}.html"), format!("<p>{{{{ place(\"hook:lantern-{at:05}\") }}}}</p>\n"))
            })
            .collect(),
        ..Theme::default()
    }
}

fn scripts(n: usize, line: impl Fn(usize) -> String) -> Theme {
    Theme {
        manifest: lines(n, |at| {
            let more = if at == 0 { String::new() } else { line(at) };
            format!("[script.{0}]\nfile = \"{0}.js\"\n{more}", word(at))
        }),
        files: (0..n).map(|at| (format!("media/{}.js", word(at)), "let a = 1;\n".into())).collect(),
        ..Theme::default()
    }
}

fn pages(n: usize) -> Theme {
    Theme {
        files: (0..n)
            .map(|at| {
                let text = format!("path = \"/{}/\"\ntype = \"page\"\ntitle = \"Page {at}\"\n", word(at));
                (format!("preview/pages/p{at}.toml"), text)
            })
            .collect(),
        ..Theme::default()
    }
}

/// Pages, and a menu with a link to each.
fn linked(n: usize, name: fn(usize) -> String) -> Theme {
    let mut theme = pages(n);
    let entries = lines(n, |at| format!("  {{ label = \"Page {at}\", href = \"/{}/\" }},", name(at)));
    let site = format!(
        "title = \"Much\"\nlanguage = \"en\"\n\n[menus]\nall = [\n{entries}]\n\n[fill]\n\"menu:all\" = \"all\"\n"
    );
    theme.files.push(("preview/site.toml".into(), site));
    theme.manifest = "[menu.all]\nlabel = \"All pages\"\n".into();
    theme.main = "{{ place(\"menu:all\") }}\n".into();
    theme
}

fn po(n: usize, id: impl Fn(usize) -> String) -> String {
    "msgid \"\"\nmsgstr \"\"\n\"Content-Type: text/plain; charset=UTF-8\\n\"\n\"Plural-Forms: nplurals=2; plural=(n != 1);\\n\"\n\n".to_string()
        + &lines(n, |at| format!("msgid \"{}\"\nmsgstr \"Wort {at}\"\n", id(at)))
}

/// Made-up codes of languages, all of two or three letters.
fn language(at: usize) -> String {
    let letter = |n: usize| char::from(b'a' + (n % 26) as u8);
    [letter(at / 676), letter(at / 26), letter(at)].iter().collect()
}
