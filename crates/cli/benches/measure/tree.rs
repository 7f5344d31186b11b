//! Themes of any size, for measuring: templates and modules that use each other as real ones do.

use std::fmt::Write;
use std::fs;
use std::io;

use camino::Utf8Path;
use fastrand::Rng;

/// How large a theme is to be.
#[derive(Clone, Copy, Debug)]
pub struct Size {
    /// Templates.
    pub templates: usize,
    /// Modules.
    pub modules: usize,
}

/// What a paragraph of such a page says.
const PROSE: &str = "The tide left the inner creek shortly after dawn, and the first birds of the year have been on \
                     the scrape since Tuesday. The walk to the outer marsh is guided on Sundays; it takes three hours.";

/// Writes a theme of that size into a folder, which becomes the theme's. The same seed writes the same.
///
/// Two of three templates are partials, each of which places two others, so that all are reached from
/// one page; the third is included by a partial. Of three modules two attach callbacks to hooks that
/// partials place, and filters; the third lends them a function.
///
/// # Errors
/// Where the system refuses to write.
pub fn write(root: &Utf8Path, size: Size, seed: u64) -> io::Result<()> {
    let mut rng = Rng::with_seed(seed);
    for folder in ["markup/partials", "markup/parts", "code/lib", "points", "preview/pages"] {
        fs::create_dir_all(root.join(folder))?;
    }
    let name = root.file_name().unwrap_or("tree");
    fs::write(
        root.join("truehook.toml"),
        format!("[theme]\nname = \"{name}\"\nlabel = \"A tree\"\nversion = \"1.0.0\"\n"),
    )?;
    fs::write(root.join("markup/layout.html"), layout())?;
    let page = "{% extends \"layout.html\" %}\n{% block main %}<main>{{ super() }}{{ place(\"partial:p0\", heading=page.title) }}</main>{% endblock %}\n";
    fs::write(root.join("markup/page.html"), page)?;

    let partials = (size.templates.saturating_sub(2) * 2 / 3).max(1);
    let parts = size.templates.saturating_sub(2 + partials);
    let callbacks = (size.modules * 2 / 3).max(1);
    let lenders = size.modules - callbacks;
    let hooks = callbacks.min(partials);
    for at in 0..partials {
        fs::write(root.join(format!("markup/partials/p{at}.html")), partial(at, partials, parts, hooks, &mut rng))?;
    }
    for at in 0..parts {
        let text = format!(
            "<aside class=\"part\">\n  <h3>{{{{ page.title }}}}</h3>\n  <p>{PROSE}</p>\n  <p>{{{{ heading | upper }}}}, {{{{ site.title }}}}</p>\n</aside>\n"
        );
        fs::write(root.join(format!("markup/parts/s{at}.html")), text)?;
    }
    for at in 0..lenders {
        fs::write(
            root.join(format!("code/lib/l{at}.js")),
            format!(
                "/** Words for number {at}. */\nexport function words(value) {{\n  return `${{value}} ({at})`;\n}}\n"
            ),
        )?;
    }
    for at in 0..callbacks {
        fs::write(root.join(format!("code/c{at}.js")), module(at, lenders))?;
    }
    declarations(root, partials, callbacks, hooks)?;
    fs::write(root.join("preview/site.toml"), "title = \"A tree\"\nlanguage = \"en\"\n")?;
    fs::write(root.join("preview/pages/front.toml"), "path = \"/\"\ntype = \"front\"\ntitle = \"Today\"\n")
}

fn layout() -> String {
    "<!doctype html>\n<html lang=\"{{ site.language }}\">\n<head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head>\n<body>\n\
     {% block main %}{{ place(\"region:main\") }}{% endblock %}\n{{ place(\"hook:document-end\") }}\n</body>\n</html>\n"
        .to_string()
}

fn partial(at: usize, partials: usize, parts: usize, hooks: usize, rng: &mut Rng) -> String {
    let mut text = format!("<section class=\"p{at}\">\n  <h2>{{{{ heading }}}}</h2>\n");
    for _ in 0..1 + rng.usize(..2) {
        let _ = writeln!(text, "  <p>{PROSE}</p>");
    }
    let _ = writeln!(
        text,
        "  {{% if wide %}}<p class=\"wide\">{{{{ page.title | through(\"filter:words\") }}}}</p>{{% endif %}}"
    );
    if at < hooks {
        let _ = writeln!(text, "  {{{{ place(\"hook:h{at}\", number={at}) }}}}");
    }
    for part in (at..parts).step_by(partials) {
        let _ = writeln!(text, "  {{% include \"parts/s{part}.html\" %}}");
    }
    for child in [2 * at + 1, 2 * at + 2].into_iter().filter(|child| *child < partials) {
        let _ = writeln!(
            text,
            "  {{% if page.type != 'missing' %}}{{{{ place(\"partial:p{child}\", heading=heading) }}}}{{% endif %}}"
        );
    }
    text.push_str("</section>\n");
    text
}

fn module(at: usize, lenders: usize) -> String {
    let (import, value) = match lenders {
        0 => (String::new(), "args.number".to_string()),
        _ => (format!("import {{ words }} from \"./lib/l{}.js\";\n", at % lenders), "words(args.number)".to_string()),
    };
    format!(
        "import {{ html, through }} from \"truehook\";\n{import}\n/** What hook number {at} shows. */\n\
         export function show{at}({{ page, args }}) {{\n  const title = through(\"filter:words\", page.title);\n  \
         return html`<p class=\"c{at}\">${{title}}: ${{{value}}}</p>`;\n}}\n\n/** Changes words a little. */\n\
         export function change{at}(value) {{\n  return value.trim();\n}}\n"
    )
}

fn declarations(root: &Utf8Path, partials: usize, callbacks: usize, hooks: usize) -> io::Result<()> {
    let mut tables =
        vec!["[filter.words]\nabout = \"Words on their way\"\nvalue = { type = \"string\" }\n".to_string()];
    for at in 0..hooks {
        tables.push(format!("[hook.h{at}]\nabout = \"Hook number {at}\"\nargs.number = {{ type = \"integer\" }}\n"));
    }
    for at in 0..partials {
        tables.push(format!(
            "[partial.p{at}]\nabout = \"Partial number {at}\"\ninputs.heading = {{ type = \"string\" }}\ninputs.wide = {{ type = \"boolean\", default = false }}\n"
        ));
    }
    for at in 0..callbacks {
        let when = if at % 3 == 0 { "when = \"page.type == 'front'\"\n" } else { "" };
        tables.push(format!(
            "[[attach]]\nto = \"hook:h{}\"\ncall = \"c{at}.js#show{at}\"\npriority = {}\n{when}",
            at % hooks,
            at % 100
        ));
        // One filter can't take thousands of callbacks without being the only thing that is measured.
        let to = if at < 20 { "filter:words".to_string() } else { format!("filter:w{}", at / 20) };
        if at >= 20 && at % 20 == 0 {
            tables.push(format!("[filter.w{}]\nabout = \"More words\"\nvalue = {{ type = \"string\" }}\n", at / 20));
        }
        tables.push(format!("[[attach]]\nto = \"{to}\"\ncall = \"c{at}.js#change{at}\"\n"));
    }
    // Values of the other filters come from one template that all pages use.
    let uses: String =
        (1..callbacks.div_ceil(20)).map(|at| format!("{{{{ page.title | through(\"filter:w{at}\") }}}}\n")).collect();
    let layout = layout().replace("{% block main %}", &format!("{uses}{{% block main %}}"));
    fs::write(root.join("markup/layout.html"), layout)?;
    for (at, chunk) in tables.chunks(200).enumerate() {
        fs::write(root.join(format!("points/{at:04}.toml")), chunk.join("\n"))?;
    }
    Ok(())
}
