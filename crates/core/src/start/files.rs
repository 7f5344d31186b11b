//! The files of a theme that just began.

use std::fmt::Write;

use camino::{Utf8Path, Utf8PathBuf};
use semver::Version;

use super::asset_name;
use super::sheet::sheet;
use super::sketch::{Part, Sketch, main};
use crate::address::{Address, Kind};
use crate::edit::declare::in_words;
use crate::forms::Form;
use crate::link::Registry;
use crate::read::{MemoryFiles, Project};

/// A theme that another one builds on.
#[derive(Clone, Debug)]
pub struct Base {
    /// Its folder, from that of the new theme.
    pub path: Utf8PathBuf,
    /// Its version.
    pub version: Version,
}

/// The files of a theme on another one: it shows what that one shows.
pub fn on_base(name: &str, base: &Base) -> Vec<(Utf8PathBuf, String)> {
    let base = format!("base    = {{ path = \"{}\", version = \"^{}\" }}\n", base.path, base.version);
    vec![("truehook.toml".into(), identity(name) + &base)]
}

/// The files of a theme with that layout: it passes every check, and shows something in each part.
pub fn files(name: &str, sketch: &Sketch) -> Vec<(Utf8PathBuf, String)> {
    let new = New { name, sketch, given: given_by_host() };
    let mut files: Vec<(Utf8PathBuf, String)> = vec![
        ("truehook.toml".into(), new.manifest()),
        ("markup/layout.html".into(), new.layout()),
        ("markup/page.html".into(), "{% extends \"layout.html\" %}\n".into()),
        ("markup/partials/title-line.html".into(), new.title_line()),
        (format!("media/{}.css", asset_name("style", name)).into(), sheet(sketch)),
        ("preview/site.toml".into(), new.site()),
    ];
    if new.cards().next().is_some() {
        files.push(("markup/pieces/card.html".into(), CARD.into()));
    }
    let hooks: Vec<&Part> = new.parts(Kind::Hook).collect();
    if !hooks.is_empty() {
        files.push(("code/parts.js".into(), callbacks(&hooks)));
    }
    for (file, path, kind, title) in PAGES {
        let toml = format!("path  = \"{path}\"\ntype  = \"{kind}\"\ntitle = \"{title}\"\nbody  = \"{file}.md\"\n");
        files.push((format!("preview/pages/{file}.toml").into(), toml));
        files.push((format!("preview/pages/{file}.md").into(), body(file).into()));
    }
    files
}

/// Where a manifest's form lies, for editors of TOML: they look for this at its beginning.
pub const FORM: &str = ".truehook/manifest.json";

/// The file that the first line of a manifest leads to.
pub fn form() -> (Utf8PathBuf, String) {
    let schema = serde_json::to_string_pretty(&Form::Manifest.schema(None)).unwrap_or_default();
    (FORM.into(), schema + "\n")
}

/// The first line of a manifest.
pub(super) fn form_line() -> String {
    format!("#:schema ./{FORM}\n")
}

fn identity(name: &str) -> String {
    form_line() + &format!("[theme]\nname    = \"{name}\"\nlabel   = \"{}\"\nversion = \"0.1.0\"\n", in_words(name))
}

/// Is a point there before a theme declares anything?
fn given_by_host() -> Vec<Address> {
    let mut files = MemoryFiles::new();
    files.insert("/begun/truehook.toml", identity("begun"));
    let project = Project::open(&files, Utf8Path::new("/begun"));
    let points = project.map(Registry::new).map(|registry| registry.points().map(|point| point.address).collect());
    points.unwrap_or_default()
}

const CARD_DECLARED: &str = "[piece.card]\nlabel = \"Card\"\n\
                             inputs.heading = { type = \"string\", label = \"Heading\", default = \"\" }\n\
                             inputs.text = { type = \"string\", label = \"Text\", default = \"\" }\noffer = [{ label = \"A card\" }]\n\n";

const CARD: &str = "<section class=\"card\">\n  {% if heading %}<h2>{{ heading }}</h2>{% endif %}\n  \
                    {% if text %}<p>{{ text }}</p>{% endif %}\n</section>\n";

/// File, path, type and title of each page of the preview.
const PAGES: [(&str, &str, &str, &str); 3] = [
    ("front", "/", "front", "Welcome"),
    ("first-steps", "/first-steps/", "page", "First steps"),
    ("type", "/type/", "page", "A page of text"),
];

struct New<'n> {
    name: &'n str,
    sketch: &'n Sketch,
    given: Vec<Address>,
}

impl New<'_> {
    fn parts(&self, kind: Kind) -> impl Iterator<Item = &Part> {
        self.sketch.parts.iter().filter(move |part| part.address.kind == kind)
    }

    /// The part that shows what the site is called: the first in the first row that can hold it.
    fn top(&self) -> Option<&Part> {
        let holds = |part: &&Part| part.address.kind.holds_items() && part.address != main();
        self.sketch.parts.iter().filter(|part| part.from.0 == 0).find(holds)
    }

    /// The parts that hold a card.
    fn cards(&self) -> impl Iterator<Item = &Part> {
        let top = self.top().map(|part| part.address);
        let holds = |part: &&Part| part.address.kind.holds_items() && part.address != main();
        self.sketch.parts.iter().filter(holds).filter(move |part| Some(part.address) != top)
    }

    /// A menu of its own, where the sketch has none.
    fn has_own_menu(&self) -> bool {
        self.parts(Kind::Menu).next().is_none()
    }

    fn manifest(&self) -> String {
        let mut text = identity(self.name);
        text.push_str("\n# The layout, as it was sketched; markup/layout.html places its parts:\n");
        for row in &self.sketch.rows {
            let names = row.iter().map(|cell| cell.map_or(".".to_string(), |at| self.sketch.parts[at].name()));
            let _ = writeln!(text, "#   {}", names.collect::<Vec<_>>().join(" "));
        }
        text.push('\n');
        for part in self.sketch.parts.iter().filter(|part| !self.given.contains(&part.address)) {
            let (word, label) = (part.address.kind.word(), in_words(&part.address.name));
            let key = if part.address.kind.is_labelled() { "label" } else { "about" };
            let _ = writeln!(text, "[{word}.{}]\n{key} = \"{label}\"\n", part.address.name);
        }
        if self.has_own_menu() {
            text.push_str("[menu.site]\nlabel = \"Main menu\"\n\n");
        }
        text.push_str("[partial.title-line]\nabout = \"What the site is called\"\n\n");
        if self.cards().next().is_some() {
            text.push_str(CARD_DECLARED);
        }
        let style = asset_name("style", self.name);
        let _ = writeln!(text, "[style.{style}]\nfile  = \"{style}.css\"\nneeds = [\"style:plain\"]\n");
        text.push_str("[feature.page-titles]\n");
        for part in self.parts(Kind::Hook) {
            let _ = write!(
                text,
                "\n[[attach]]\nto   = \"{}\"\ncall = \"parts.js#{}\"\n",
                part.address,
                camel(&part.address.name)
            );
        }
        if self.top().is_none() {
            text.push_str("\n[[attach]]\nto  = \"hook:document-start\"\nuse = \"partial:title-line\"\n");
        }
        text
    }

    fn layout(&self) -> String {
        let mut text = "<!doctype html>\n<html {{ page.root }}>\n<head>\n  <meta charset=\"utf-8\">\n  \
                        <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n  \
                        {{ place(\"hook:document-head\") }}\n</head>\n<body>\n  {{ place(\"hook:document-start\") }}\n  \
                        <div class=\"layout\">\n"
            .to_string();
        for part in &self.sketch.parts {
            let (address, name) = (part.address, part.name());
            if address == main() {
                text.push_str(
                    "    <main class=\"main\" id=\"text\">\n      {% block main %}\n      <h1>{{ page.heading }}</h1>\n      \
                     {{ place(\"region:main\") }}\n      {% endblock %}\n    </main>\n",
                );
                continue;
            }
            let element = element(part);
            let label = match element {
                "nav" | "aside" | "section" => format!(" aria-label=\"{}\"", in_words(&address.name)),
                _ => String::new(),
            };
            let _ = write!(
                text,
                "    {{% if filled(\"{address}\") %}}\n    <{element} class=\"{name}\"{label}>\n      \
                 {{{{ place(\"{address}\") }}}}\n    </{element}>\n    {{% endif %}}\n"
            );
        }
        text.push_str("  </div>\n  {{ place(\"hook:document-end\") }}\n</body>\n</html>\n");
        text
    }

    fn title_line(&self) -> String {
        let element = if self.top().is_some() { "div" } else { "header" };
        let menu = match self.has_own_menu() {
            true => {
                "  {% if filled(\"menu:site\") %}\n  <nav class=\"site-menu\" aria-label=\"Main menu\">{{ place(\"menu:site\") }}</nav>\n  \
                 {% endif %}\n"
            }
            false => "",
        };
        format!(
            "<{element} class=\"title-line\">\n  <a class=\"site-name\" href=\"/\">{{{{ site.title }}}}</a>\n  \
             {{% if site.motto %}}<p class=\"motto\">{{{{ site.motto }}}}</p>{{% endif %}}\n{menu}</{element}>\n"
        )
    }

    fn site(&self) -> String {
        let mut text = format!(
            "title    = \"{}\"\nmotto    = \"Between two landings\"\nlanguage = \"en\"\n\n[menus]\nmain = [\n",
            in_words(self.name)
        );
        for (_, path, _, title) in PAGES {
            let _ = writeln!(text, "  {{ label = \"{title}\", href = \"{path}\" }},");
        }
        text.push_str("]\n\n[fill]\n");
        let own = self.has_own_menu().then(|| Address::new(Kind::Menu, "site"));
        for menu in self.parts(Kind::Menu).map(|part| part.address).chain(own) {
            let _ = writeln!(text, "\"{menu}\" = \"main\"");
        }
        if let Some(top) = self.top() {
            let _ = writeln!(text, "\"{}\" = [{{ use = \"partial:title-line\" }}]", top.address);
        }
        for Part { address, .. } in self.cards() {
            let _ = writeln!(
                text,
                "\"{address}\" = [{{ use = \"piece:card\", heading = \"{}\", text = \"This is {address}. What it shows here stands in preview/site.toml.\" }}]",
                in_words(&address.name)
            );
        }
        text
    }
}

/// The element that HTML has for a part.
fn element(part: &Part) -> &'static str {
    match (part.address.kind, part.address.name.as_str()) {
        (Kind::Menu, _) | (Kind::Region, "nav") => "nav",
        (Kind::Region, "header" | "masthead") => "header",
        (Kind::Region, "aside") => "aside",
        (Kind::Region, "footer") => "footer",
        // With its label, a landmark.
        _ => "section",
    }
}

/// A function's name: `after-text` is afterText.
fn camel(name: &str) -> String {
    let mut parts = name.split('-');
    let first = parts.next().unwrap_or_default().to_string();
    parts.fold(first, |name, part| name + &in_words(part))
}

fn callbacks(hooks: &[&Part]) -> String {
    let mut text = "import { html } from \"truehook\";\n".to_string();
    for part in hooks {
        let (name, address) = (camel(&part.address.name), part.address);
        let _ = write!(
            text,
            "\n/** What {address} shows. */\nexport function {name}({{ site }}) {{\n  \
             return html`<p>This is {address} of ${{site.title}}. What runs here is attached in truehook.toml.</p>`;\n}}\n"
        );
    }
    text
}

fn body(file: &str) -> &'static str {
    match file {
        "front" => {
            "This is a new theme. Its layout is the one that was sketched, and everything on this page can be changed.\n\n\
             - `truehook list` shows the points that the layout is made of, where each is placed, and what fills it.\n\
             - `truehook check` tells what is missing, and how to mend it.\n\
             - `markup/layout.html` holds the layout, `media/` its colours and type.\n\n\
             What stands on these pages is a preview. It lies in `preview/`, and a real site brings its own.\n"
        }
        "first-steps" => {
            "## A point of one's own\n\nA hook is a place where callbacks print something. This one stands under the text of every page:\n\n\
             ```\ntruehook declare hook:under-text\ntruehook place hook:under-text --in layout.html --inside main\n\
             truehook attach hook:under-text notes.js#nextBoat\n```\n\n\
             ## When something does not show\n\n`truehook why hook:under-text` goes through the chain from the declaration to the page, link by link, \
             and says which one is broken.\n"
        }
        _ => {
            "This page is there to judge the type by. A paragraph of some length shows how wide the lines are, how far apart they stand, \
             and whether the eye finds its way from the end of one to the beginning of the next without effort.\n\n\
             ## A heading of the second level\n\nLinks look [like this one](/first-steps/), and what is **strong** or *stressed* is told apart. \
             Code is `written like this`.\n\n### One of the third\n\n1. First things first.\n2. Then the others, in the order in which they come.\n\n\
             > What somebody else has said stands a little apart.\n\n\
             | Where | When |\n| --- | --- |\n| The pier | At eight |\n| The lighthouse | At noon |\n"
        }
    }
}
