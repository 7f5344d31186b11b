//! Themes that have much of something.

use std::fmt::Write;

/// A theme as it grows: what is added to its files.
#[derive(Default)]
pub struct Theme {
    /// It builds on another, which has the templates and the preview.
    pub child: bool,
    pub manifest: String,
    pub main: String,
    pub files: Vec<(String, String)>,
}

impl Theme {
    /// All its files, with those that any theme has.
    pub fn files(&self) -> Vec<(String, String)> {
        let layout = format!(
            "<!doctype html>\n<html lang=\"{{{{ site.language }}}}\">\n<head><title>{{{{ page.title }}}}</title>{{{{ place(\"hook:document-head\") }}}}</head>\n<body>\n\
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

/// A made-up name, as unlike the others as words are.
pub fn word(at: usize) -> String {
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
pub fn slip(at: usize) -> String {
    let name = word(at);
    format!("{}{}{}", &name[..5], &name[4..5], &name[5..])
}

pub fn lines(n: usize, line: impl Fn(usize) -> String) -> String {
    (0..n).fold(String::new(), |mut text, at| {
        let _ = writeln!(text, "{}", line(at));
        text
    })
}

pub fn hooks(n: usize) -> String {
    lines(n, |at| format!("[hook.hook-{at}]\nlabel = \"A hook\"\n"))
}

pub fn functions(n: usize) -> String {
    lines(n, |at| format!("export function {}() {{ return null; }}", word(at)))
}

/// One hook with `n` callbacks, each with a line of its own but for the first.
pub fn callbacks(n: usize, line: impl Fn(usize) -> String) -> Theme {
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
pub fn on_base(n: usize, line: impl Fn(usize) -> String) -> Theme {
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
pub fn strangers(n: usize) -> Theme {
    Theme { main: lines(n, |at| format!("{{{{ page.x{at} }}}}")), ..Theme::default() }
}

/// Points that aren't there, each in a template of its own, and a few that are, of quite other names.
pub fn far(n: usize) -> Theme {
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

pub fn scripts(n: usize, line: impl Fn(usize) -> String) -> Theme {
    Theme {
        manifest: lines(n, |at| {
            let more = if at == 0 { String::new() } else { line(at) };
            format!("[script.{0}]\nfile = \"{0}.js\"\n{more}", word(at))
        }),
        files: (0..n).map(|at| (format!("media/{}.js", word(at)), "let a = 1;\n".into())).collect(),
        ..Theme::default()
    }
}

pub fn pages(n: usize) -> Theme {
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
pub fn linked(n: usize, name: fn(usize) -> String) -> Theme {
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

pub fn po(n: usize, id: impl Fn(usize) -> String) -> String {
    "msgid \"\"\nmsgstr \"\"\n\"Content-Type: text/plain; charset=UTF-8\\n\"\n\"Plural-Forms: nplurals=2; plural=(n != 1);\\n\"\n\n".to_string()
        + &lines(n, |at| format!("msgid \"{}\"\nmsgstr \"Wort {at}\"\n", id(at)))
}

/// Made-up codes of languages, all of two or three letters.
pub fn language(at: usize) -> String {
    let letter = |n: usize| char::from(b'a' + (n % 26) as u8);
    [letter(at / 676), letter(at / 26), letter(at)].iter().collect()
}
