//! What is said of conditions around placements, held against the rendered page: a placement shows exactly where all
//! conditions around it are met.

use std::fmt::Write;

use fastrand::Rng;
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Asks, Registry, Remaining};
use truehook_core::scan::Verb;
use truehook_stage::{Manner, Rendered};

use crate::small::{registry, stage, theme};

const THEMES: u64 = 100;
/// Hooks whose listener always prints their name.
const MARKS: usize = 12;
const TYPES: [&str; 4] = ["front", "page", "entry", "list"];

/// Writes templates with conditions of every form.
struct Writer {
    rng: Rng,
    /// How many names were given so far.
    names: usize,
    parts: Vec<(String, String)>,
}

impl Writer {
    fn one<'a>(&mut self, of: &[&'a str]) -> &'a str {
        of[self.rng.usize(..of.len())]
    }

    fn condition(&mut self, depth: usize) -> String {
        match self.rng.u32(..if depth == 0 { 10 } else { 14 }) {
            0 => format!("page.type == \"{}\"", self.one(&TYPES)),
            1 => format!("page.type != '{}'", self.one(&TYPES)),
            2 => format!("page.type in [\"{}\", \"{}\"]", self.one(&TYPES), self.one(&TYPES)),
            3 => format!(
                "filled(\"{}\")",
                self.one(&["region:one", "region:two", "hook:asked", "hook:empty", "menu:top"])
            ),
            4 => format!("enabled(\"{}\")", self.one(&["feature:page-titles", "feature:colours"])),
            5 => self.one(&["options.wide", "options.mode == 'b'", "options.mode in ['a', 'b']"]).to_string(),
            6 => self.one(&["page.data.on", "site.data.open", "page.data.count > 2", "page.title"]).to_string(),
            7 => self.one(&["true", "false", "1 < 2", "'a' == 'b'"]).to_string(),
            8 => format!("'{}' == page.type", self.one(&TYPES)),
            9 => self.one(&["page.data.on is defined", "page.title | length > 4", "not page.data.on"]).to_string(),
            10 => format!("not ({})", self.condition(depth - 1)),
            11 => format!("({}) and {}", self.condition(depth - 1), self.condition(depth - 1)),
            12 => format!("{} or ({})", self.condition(depth - 1), self.condition(depth - 1)),
            _ => format!("not {}", self.condition(0)),
        }
    }

    fn place(&mut self) -> String {
        format!("place(\"hook:m{}\")", self.rng.usize(..MARKS))
    }

    fn part(&mut self, depth: usize) -> String {
        let text = self.body(depth);
        let name = format!("part-{}", self.parts.len());
        self.parts.push((name.clone(), text));
        name
    }

    fn body(&mut self, depth: usize) -> String {
        let mut text = String::new();
        for _ in 0..1 + self.rng.usize(..3) {
            if depth == 0 {
                let _ = write!(text, "{{{{ {} }}}}", self.place());
                continue;
            }
            match self.rng.u32(..11) {
                0 | 1 => {
                    let (condition, inner) = (self.condition(2), self.body(depth - 1));
                    let _ = write!(text, "{{% if {condition} %}}{inner}{{% endif %}}");
                }
                2 => {
                    let [one, two] = [self.condition(1), self.condition(1)];
                    let [a, b, c] = [self.body(depth - 1), self.body(depth - 1), self.body(depth - 1)];
                    let _ = write!(text, "{{% if {one} %}}{a}{{% elif {two} %}}{b}{{% else %}}{c}{{% endif %}}");
                }
                3 => {
                    let list = self.one(&["page.data.list", "[1, 2]", "[]", "site.data.none"]);
                    let [some, none] = [self.body(depth - 1), self.body(depth - 1)];
                    let _ = write!(text, "{{% for each in {list} %}}{some}{{% else %}}{none}{{% endfor %}}");
                }
                4 => {
                    let (condition, one, other) = (self.condition(1), self.place(), self.place());
                    let _ = write!(text, "{{{{ {one} if {condition} else {other} }}}}");
                }
                5 => {
                    let (condition, place) = (self.condition(1), self.place());
                    let _ = write!(text, "{{{{ {place} if {condition} }}}}");
                }
                6 => {
                    let part = self.part(depth - 1);
                    let _ = write!(text, "{{% include \"{part}.html\" %}}");
                }
                7 => {
                    let (condition, one, other) = (self.condition(1), self.part(depth - 1), self.part(depth - 1));
                    let _ = write!(text, "{{% include \"{one}.html\" if {condition} else \"{other}.html\" %}}");
                }
                8 => {
                    let name = format!("set{}", self.names);
                    self.names += 1;
                    let (condition, inner) = (self.condition(1), self.body(depth - 1));
                    let _ = write!(text, "{{% set {name} = {condition} %}}{{% if {name} %}}{inner}{{% endif %}}");
                }
                9 => {
                    let own = self.names;
                    self.names += 1;
                    for page_type in TYPES {
                        let inner = self.body(depth - 1);
                        self.parts.push((format!("kind-{own}-{page_type}"), inner));
                    }
                    let _ = write!(text, "{{% include \"kind-{own}-\" ~ page.type ~ \".html\" %}}");
                }
                _ => {
                    let place = self.place();
                    let _ = write!(text, "{{{{ {place} }}}}");
                }
            }
        }
        text
    }
}

fn themed(seed: u64) -> Vec<(String, String)> {
    let mut writer = Writer { rng: Rng::with_seed(seed), names: 0, parts: Vec::new() };
    let mut manifest = String::from(
        "[region.one]\nlabel = \"One\"\n[region.two]\nlabel = \"Two\"\n[menu.top]\nlabel = \"Top\"\n[hook.asked]\nabout = \"A\"\n[hook.empty]\nabout = \"E\"\n\
         [option.wide]\nlabel = \"Wide\"\ntype = \"boolean\"\ndefault = false\n[option.mode]\nlabel = \"Mode\"\ntype = \"string\"\n\
         enum = [\"a\", \"b\"]\ndefault = \"a\"\n[feature.page-titles]\n[piece.dot]\nlabel = \"Dot\"\n\
         [[attach]]\nto = \"hook:asked\"\ncall = \"marks.js#asked\"\nwhen = \"page.type == 'page' or options.wide\"\n",
    );
    let mut module = String::from("import { html } from \"truehook\";\nexport function asked() { return \"\"; }\n");
    for mark in 0..MARKS {
        let _ = write!(
            manifest,
            "[hook.m{mark}]\nabout = \"M\"\n[[attach]]\nto = \"hook:m{mark}\"\ncall = \"marks.js#m{mark}\"\n"
        );
        let _ = writeln!(module, "export function m{mark}() {{ return html`<i>m{mark};</i>`; }}");
    }
    let [layout, other, around] = [writer.body(3), writer.body(3), writer.condition(1)];
    let page = match writer.rng.u32(..3) {
        0 => format!("{{% extends \"one.html\" if {} else \"two.html\" %}}", writer.condition(1)),
        1 => format!("{{% extends \"one.html\" %}}{{% block more %}}{}{{% endblock %}}", writer.body(2)),
        _ => "{% extends \"two.html\" %}".to_string(),
    };
    let base = "{{ place(\"hook:document-head\") }}{{ place(\"region:one\") }}{{ place(\"region:main\") }}";
    let files = [
        ("truehook.toml".to_string(), manifest),
        ("code/marks.js".into(), module),
        ("markup/page.html".into(), page),
        (
            "markup/one.html".into(),
            format!("{base}{layout}{{% if {around} %}}{{% block more %}}{other}{{% endblock %}}{{% endif %}}"),
        ),
        ("markup/two.html".into(), format!("{base}{{% block more %}}{}{{% endblock %}}", writer.body(3))),
        ("markup/pieces/dot.html".into(), "<b>.</b>".into()),
        (
            "preview/site.toml".into(),
            format!(
                "title = \"T\"\noptions = {{ wide = {}, mode = \"{}\" }}\n[fill]\n\"region:one\" = [{{ use = \"piece:dot\", when = \"page.type \
                 == 'page'\" }}]\n\"menu:top\" = \"m\"\n[menus]\nm = [{{ label = \"L\", href = \"/\" }}]\n[data]\nopen = {}\nnone = []\n",
                writer.rng.bool(),
                if writer.rng.bool() { "a" } else { "b" },
                writer.rng.bool()
            ),
        ),
    ];
    let pages = TYPES.iter().enumerate().map(|(at, page_type)| {
        let path = if at == 0 { "/".to_string() } else { format!("/p{at}/") };
        let on = if writer.rng.bool() { "on = true\n" } else { "" };
        let list = if writer.rng.bool() { "list = [1]\n" } else { "list = []\n" };
        let text = format!(
            "path = \"{path}\"\ntype = \"{page_type}\"\ntitle = \"Page {at}\"\n[data]\ncount = {at}\n{on}{list}"
        );
        (format!("preview/pages/p{at}.toml"), text)
    });
    let mut all: Vec<(String, String)> = files.into_iter().chain(pages).collect();
    all.extend(writer.parts.into_iter().map(|(name, text)| (format!("markup/{name}.html"), text)));
    all
}

/// Is a condition met on a page? Nothing where only the template knows.
fn met(condition: &Remaining, page: &Rendered) -> Option<bool> {
    if condition.asks == Asks::Inside {
        return None;
    }
    page.met.iter().find(|(text, _)| *text == condition.text.as_str()).map(|(_, met)| *met)
}

/// Does a point show on pages of a type, as its placements say? Nothing where that depends on what only templates know.
fn told(registry: &Registry, point: Address, at: usize, page: &Rendered) -> Option<bool> {
    let mut shows = Some(false);
    let uses = &registry.point(point).expect("it is declared").uses;
    for id in uses.iter().filter(|id| registry.use_of(**id).verb == Verb::Place) {
        if !registry.use_reached(*id).has(at) {
            continue;
        }
        let groups = registry.use_conditions(*id);
        let own = groups.iter().find(|group| group.types.has(at));
        let all: Vec<Option<bool>> = own.iter().flat_map(|own| own.all()).map(|one| met(one, page)).collect();
        if all.iter().all(|met| *met == Some(true)) && own.map_or(registry.use_sure(*id).has(at), |own| own.whole) {
            return Some(true);
        }
        if !all.contains(&Some(false)) {
            shows = None;
        }
    }
    shows
}

#[test]
fn a_placement_shows_exactly_where_the_conditions_around_it_are_met() {
    // TRUEHOOK_THEMES asks for that many, of a fresh seed.
    let asked = std::env::var("TRUEHOOK_THEMES").ok().and_then(|text| text.parse::<u64>().ok());
    let first = if asked.is_some() { fastrand::u64(1 << 20..1 << 32) } else { 0 };
    println!("from seed {first}");
    let (mut decided, mut open, mut shown) = (0, 0, 0);
    for seed in first..first + asked.unwrap_or(THEMES) {
        let texts = themed(seed);
        let borrowed: Vec<(&str, &str)> = texts.iter().map(|(path, text)| (path.as_str(), text.as_str())).collect();
        let files = theme(&borrowed);
        let registry = registry(&files);
        let stage = stage(&files);
        for (at, page_type) in TYPES.iter().enumerate() {
            let path = if at == 0 { "/".to_string() } else { format!("/p{at}/") };
            let page = stage.rendered(&path, Manner::watched()).unwrap();
            let of_type = registry.types().iter().position(|known| known.name == **page_type).unwrap();
            for mark in 0..MARKS {
                let point = Address::new(Kind::Hook, format!("m{mark}").as_str());
                let is_there = page.html.contains(&format!("m{mark};"));
                shown += usize::from(is_there);
                let say = || {
                    format!(
                        "seed {seed}, {path}, {point}: {}\n{texts:#?}\n{:#?}\n{:#?}",
                        page.html,
                        page.met,
                        registry.conditions_of(point)
                    )
                };
                match told(&registry, point, of_type, &page) {
                    Some(told) => {
                        assert_eq!(told, is_there, "{}", say());
                        decided += 1;
                    }
                    None => open += 1,
                }
                let reached = registry.point(point).unwrap().reached.has(of_type);
                assert!(reached || !is_there, "{}", say());
            }
        }
    }
    println!("{decided} decided, {open} open, {shown} shown");
    assert!(decided > open * 3 && shown * 8 > decided, "{decided} decided, {open} open, {shown} shown");
}
