//! What the stage costs: callbacks beyond the bare call of the engine, pages beyond the bare template
//! engine, and memory for many pages.

use std::fmt::Write;
use std::sync::Arc;
use std::time::{Duration, Instant};

use camino::{Utf8Path, Utf8PathBuf};
use minijinja::{AutoEscape, Environment, Value};
use rquickjs::{Context, Function, Module, Object, Runtime};
use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_stage::Stage;

use crate::{Taken, median, run_with_workers};

const FEW: usize = 10;
const MANY: usize = 1_000;
const ROUNDS: usize = 21;

/// Prints the tables, or the one that is named.
pub fn print(folder: &Utf8Path, only: Option<&str>) {
    let wanted = |name: &str| only.is_none_or(|only| only == name);
    if wanted("callbacks") {
        callbacks();
        println!();
    }
    if wanted("templates") {
        templates();
        println!();
    }
    if wanted("pages") {
        pages(folder);
    }
}

/// The median of some rounds, after one to warm up.
fn time(mut once: impl FnMut()) -> Duration {
    once();
    let mut taken: Vec<Duration> = (0..ROUNDS)
        .map(|_| {
            let begun = Instant::now();
            once();
            begun.elapsed()
        })
        .collect();
    taken.sort();
    taken[ROUNDS / 2]
}

fn stage(files: &MemoryFiles) -> Stage {
    let project = Project::open(files, "/measure".into()).unwrap_or_else(|error| panic!("{error}"));
    Stage::new(Arc::new(Registry::new(project)))
}

const MANIFEST: &str = "[theme]\nname = \"measure\"\nlabel = \"Measure\"\n";

/// A page with that many attachments to one hook, of ten functions.
fn with_attachments(number: usize) -> Stage {
    let mut files = MemoryFiles::new();
    let mut manifest = MANIFEST.to_string();
    let mut code = "import { html } from \"truehook\";\n".to_string();
    for at in 0..FEW {
        let _ = writeln!(code, "export const f{at} = ({{ page }}) => html`<i>${{page.title}}</i>`;");
    }
    for at in 0..number {
        let _ = write!(manifest, "\n[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#f{}\"\n", at % FEW);
    }
    files.insert("/measure/truehook.toml", manifest);
    files.insert("/measure/code/a.js", code);
    files.insert("/measure/markup/page.html", "{{ place(\"hook:document-start\") }}");
    stage(&files)
}

/// What callbacks cost.
pub struct Callbacks {
    /// A page with [`MANY`] attachments.
    page: Duration,
    /// One callback on it.
    pub each: Duration,
    /// The same function, called in the engine with nothing around it.
    pub bare: Duration,
}

impl Callbacks {
    /// What one takes beyond the bare call.
    pub fn beyond(&self) -> Duration {
        self.each.saturating_sub(self.bare)
    }
}

/// Measures callbacks.
pub fn callbacks_taken() -> Callbacks {
    let (few, many) = (with_attachments(FEW), with_attachments(MANY));
    let render = |stage: &Stage| drop(stage.render("/"));
    let (low, high) = (time(|| render(&few)), time(|| render(&many)));
    Callbacks { page: high, each: (high - low) / (MANY - FEW) as u32, bare: bare_call() }
}

fn micros(time: Duration) -> f64 {
    time.as_secs_f64() * 1e6
}

fn callbacks() {
    let taken = callbacks_taken();
    println!(
        "| attachments | page | one callback | bare call of the engine | beyond |\n| --- | --- | --- | --- | --- |"
    );
    println!(
        "| {MANY} | {:.2} ms | {:.2} µs | {:.2} µs | {:.2} µs |",
        taken.page.as_secs_f64() * 1e3,
        micros(taken.each),
        micros(taken.bare),
        micros(taken.beyond())
    );
}

/// The same function, called in the engine with nothing around it.
fn bare_call() -> Duration {
    let code = "class Markup { constructor(text) { this.text = text; } }\n\
                const html = (strings, ...values) => { let text = strings[0]; for (let at = 0; at < values.length; at += 1) text += values[at] + strings[at + 1]; return new Markup(text); };\n\
                export const f = ({ page }) => html`<i>${page.title}</i>`;\n";
    let runtime = Runtime::new().unwrap_or_else(|error| panic!("{error}"));
    let context = Context::full(&runtime).unwrap_or_else(|error| panic!("{error}"));
    context.with(|ctx| {
        let called = || -> rquickjs::Result<Duration> {
            let (module, promise) = Module::declare(ctx.clone(), "a", code)?.eval()?;
            promise.finish::<()>()?;
            let function: Function<'_> = module.get("f")?;
            let page = Object::new(ctx.clone())?;
            page.set("title", "A title")?;
            let argument = Object::new(ctx.clone())?;
            argument.set("page", page)?;
            Ok(time(|| {
                for _ in 0..MANY {
                    let made: rquickjs::Result<Object<'_>> = function.call((argument.clone(),));
                    let text: Option<String> = made.ok().and_then(|made| made.get("text").ok());
                    std::hint::black_box(text);
                }
            }) / MANY as u32)
        };
        called().unwrap_or_else(|error| panic!("{error}"))
    })
}

/// Partials of the page that is measured: name, inputs, text.
const PARTIALS: [(&str, &str, &str); 4] = [
    ("masthead", "", "<header><a href=\"/\">{{ site.title }}</a><p>{{ site.motto }}</p></header>\n"),
    ("card", "text", "<article><h3>{{ text }}</h3><p>{{ page.title }}, {{ site.title }}</p></article>\n"),
    (
        "row",
        "days",
        "<table>{% for n in range(days) %}<tr><td>{{ n }}</td><td>{{ page.title }}</td></tr>{% endfor %}</table>\n",
    ),
    ("imprint", "", "<footer><p>{{ site.title }}: {{ site.motto }}</p></footer>\n"),
];
const LAYOUT: &str = "<!doctype html>\n<html lang=\"{{ site.language }}\">\n<head><title>{{ page.title }}</title></head>\n<body class=\"{{ page.type }}\">\n@masthead@\n<main>{% block main %}{% endblock %}</main>\n@imprint@\n</body>\n</html>\n";
const PAGE: &str = "{% extends \"layout.html\" %}\n{% block main %}<h1>{{ page.heading }}</h1>\n@card:One@@card:Two@@card:Three@@card:Four@@card:Five@@card:Six@\n@row:12@\n<div>{{ page.body }}</div>{% endblock %}\n";
const BODY: &str = "<p>The tide left the inner creek shortly after dawn. Forty redshanks are working the edge of the channel.</p>\n<ul><li>Curlews</li><li>Seals</li><li>Sea aster</li></ul>\n";

/// How partials are put into a template.
#[derive(Clone, Copy)]
enum Put {
    Placed,
    Included,
    Nothing,
}

/// A template with its partials put in.
fn put_in(template: &str, put: Put) -> String {
    let mut out = String::new();
    for (at, part) in template.split('@').enumerate() {
        if at % 2 == 0 {
            out.push_str(part);
            continue;
        }
        let (name, value) = part.split_once(':').unwrap_or((part, ""));
        let input = PARTIALS.iter().find(|(known, _, _)| *known == name).map_or("", |(_, input, _)| input);
        let value = if value.parse::<u32>().is_ok() { value.to_string() } else { format!("\"{value}\"") };
        out.push_str(&match (put, input) {
            (Put::Nothing, _) => String::new(),
            (Put::Placed, "") => format!("{{{{ place(\"partial:{name}\") }}}}"),
            (Put::Placed, input) => format!("{{{{ place(\"partial:{name}\", {input}={value}) }}}}"),
            (Put::Included, "") => format!("{{% include \"{name}.html\" %}}"),
            (Put::Included, input) => {
                format!("{{% with {input} = {value} %}}{{% include \"{name}.html\" %}}{{% endwith %}}")
            }
        });
    }
    out
}

/// What a page without attachments costs.
pub struct Templates {
    pub ours: Duration,
    /// The template engine alone, with plain includes.
    pub alone: Duration,
    /// The template engine alone, which renders the page and each partial by itself.
    pub apart: Duration,
}

fn templates() {
    let Templates { ours, alone, apart } = templates_taken();
    println!("| a page without attachments | the template engine alone | ratio | each template by itself | ratio |");
    println!("| --- | --- | --- | --- | --- |");
    let ratio = |to: Duration| micros(ours) / micros(to);
    println!(
        "| {:.0} µs | {:.0} µs | {:.2} | {:.0} µs | {:.2} |",
        micros(ours),
        micros(alone),
        ratio(alone),
        micros(apart),
        ratio(apart)
    );
}

/// Measures a page without attachments, beside the template engine alone.
pub fn templates_taken() -> Templates {
    let mut files = MemoryFiles::new();
    let mut manifest = MANIFEST.to_string();
    let mut engine = Environment::new();
    engine.set_auto_escape_callback(|_| AutoEscape::Html);
    let mut add = |name: &str, text: String| {
        engine.add_template_owned(name.to_string(), text).unwrap_or_else(|error| panic!("{error}"));
    };
    for (name, input, text) in PARTIALS {
        let _ = write!(manifest, "\n[partial.{name}]\nabout = \"Measured\"\n");
        if !input.is_empty() {
            let word = if input == "days" { "integer" } else { "string" };
            let _ = writeln!(manifest, "inputs.{input} = {{ type = \"{word}\" }}");
        }
        files.insert(format!("/measure/markup/partials/{name}.html"), text);
        add(&format!("{name}.html"), text.to_string());
    }
    add("layout.html", put_in(LAYOUT, Put::Included));
    add("page.html", put_in(PAGE, Put::Included));
    add("bare-layout.html", put_in(LAYOUT, Put::Nothing));
    add("bare-page.html", put_in(PAGE, Put::Nothing).replace("layout.html", "bare-layout.html"));
    files.insert("/measure/truehook.toml", manifest);
    files.insert("/measure/markup/layout.html", put_in(LAYOUT, Put::Placed));
    files.insert("/measure/markup/page.html", put_in(PAGE, Put::Placed));
    files.insert("/measure/preview/site.toml", "title = \"Saltmarsh\"\nmotto = \"Tides & mud\"\nlanguage = \"en\"\n");
    files.insert(
        "/measure/preview/pages/a.toml",
        "path = \"/\"\ntype = \"page\"\ntitle = \"Today\"\nbody = \"a.html\"\n",
    );
    files.insert("/measure/preview/pages/a.html", BODY);
    let stage = stage(&files);
    let root = || {
        let page = [("path", "/"), ("type", "page"), ("title", "Today"), ("heading", "Today")];
        let page = page.into_iter().map(|(key, value)| (key, Value::from(value)));
        let page = Value::from_pairs(page.chain([("body", Value::from_safe_string(BODY.to_string()))]));
        let site = Value::from_pairs([("title", "Saltmarsh"), ("motto", "Tides & mud"), ("language", "en")]);
        Value::from_pairs([("page", page), ("site", site)])
    };
    let alone = || engine.get_template("page.html").and_then(|template| template.render(root()));
    // A placement becomes a text of its own, so that nothing is quicker than the engine begun anew for each.
    let apart = || -> Result<String, minijinja::Error> {
        let root = root();
        let mut text = engine.get_template("bare-page.html")?.render(&root)?;
        for place in [LAYOUT, PAGE].iter().flat_map(|text| text.split('@').skip(1).step_by(2)) {
            let (name, value) = place.split_once(':').unwrap_or((place, ""));
            let value = value.parse::<u32>().map_or_else(|_| Value::from(value), Value::from);
            let page = root.get_attr("page")?;
            let own = Value::from_pairs([
                ("page", page),
                ("site", root.get_attr("site")?),
                ("text", value.clone()),
                ("days", value),
            ]);
            text.push_str(&engine.get_template(&format!("{name}.html"))?.render(own)?);
        }
        Ok(text)
    };
    let words = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let shown = stage.render("/").map(|page| words(&page.html)).unwrap_or_default();
    assert_eq!(shown, alone().map(|text| words(&text)).unwrap_or_default(), "both show the same");
    let many = |mut once: Box<dyn FnMut() + '_>| time(|| (0..100).for_each(|_| once())) / 100;
    let ours = many(Box::new(|| drop(stage.render("/"))));
    let floor = many(Box::new(|| drop(alone())));
    let each = many(Box::new(|| drop(apart())));
    Templates { ours, alone: floor, apart: each }
}

/// Renders many pages like the demo's into a fresh folder: what it took for each number of pages, and the most memory
/// that a worker held.
pub fn pages_taken(folder: &Utf8Path) -> Vec<(usize, Taken)> {
    let program = env!("CARGO_BIN_EXE_truehook");
    let demo = Utf8Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo"));
    let mut taken: Vec<(usize, Taken)> = Vec::new();
    for number in [100, 1_000] {
        let root = folder.join(format!("pages-{number}"));
        copy(demo, &root)
            .and_then(|()| write_pages(&root.join("saltmarsh"), number))
            .unwrap_or_else(|error| panic!("{error}"));
        let theme = root.join("saltmarsh");
        // A folder that was never there: while many files have just been removed, some file systems take as long again
        // to find room for new ones.
        let mut rounds = 0;
        let once = || {
            rounds += 1;
            let into = root.join(format!("out-{rounds}"));
            let mut command = std::process::Command::new(program);
            run_with_workers(command.args(["-C", theme.as_str(), "render", "--into", into.as_str()]))
        };
        taken.push((number, median(once)));
    }
    taken
}

fn pages(folder: &Utf8Path) {
    let taken = pages_taken(folder);
    println!("| pages | time | pages per second | memory of a worker |\n| --- | --- | --- | --- |");
    for (number, taken) in &taken {
        let seconds = taken.time.as_secs_f64();
        println!(
            "| {number} | {:.2} s | {:.0} | {:.1} MiB |",
            seconds,
            *number as f64 / seconds,
            taken.memory as f64 / 1024.0
        );
    }
    if let [(_, few), (_, many)] = taken[..] {
        println!("\nten times the pages: {:.2} times the memory", many.memory as f64 / few.memory as f64);
    }
}

/// Copies a folder.
pub fn copy(from: &Utf8Path, to: &Utf8Path) -> std::io::Result<()> {
    std::fs::create_dir_all(to)?;
    for entry in from.read_dir_utf8()? {
        let entry = entry?;
        let target: Utf8PathBuf = to.join(entry.file_name());
        match entry.file_type()?.is_dir() {
            true => copy(entry.path(), &target)?,
            false => std::fs::copy(entry.path(), target).map(drop)?,
        }
    }
    Ok(())
}

/// Adds copies of the demo's pages until there are that many.
fn write_pages(theme: &Utf8Path, number: usize) -> std::io::Result<()> {
    let folder = theme.join("preview/pages");
    let mut known = Vec::new();
    for entry in folder.read_dir_utf8()? {
        let path = entry?.into_path();
        // Lists grow with the pages that they list; all others are alike.
        if path.extension() == Some("toml") && path.file_stem() != Some("log") {
            known.push(std::fs::read_to_string(&path)?);
        }
    }
    known.sort();
    let there = known.len() + 1;
    for at in 0..number.saturating_sub(there) {
        let text = &known[at % known.len()];
        let (line, rest) = text.split_once('\n').unwrap_or((text, ""));
        let path = line.split('"').nth(1).unwrap_or("/");
        let page = format!("path = \"/copies/{at}{path}\"\n{rest}");
        std::fs::write(folder.join(format!("copy-{at}.toml")), page)?;
    }
    Ok(())
}
