//! Whatever points are registered in whatever order: following the `next:` lines leads to a theme
//! that is clean, and that renders.

use crate::fixture::Terminal;
use fastrand::Rng;

const WORDS: [&str; 10] =
    ["lantern", "harbour", "meadow", "granite", "orchard", "thistle", "copper", "willow", "saffron", "pebble"];

/// A declaration of something new: what is typed, and its address.
fn declaration(rng: &mut Rng, number: usize) -> (String, String) {
    let word = WORDS[rng.usize(..WORDS.len())];
    let kinds = ["hook", "region", "filter", "area", "menu", "section", "piece", "partial", "option"];
    let kind = kinds[rng.usize(..kinds.len())];
    let point = format!("{kind}:{word}{}{number}", if kind == "option" { "_" } else { "-" });
    let keys = match kind {
        "hook" | "filter" | "partial" => "",
        "area" => "--label 'An area' 'wrap=<div>{{ title }}{{ body }}</div>'",
        "menu" => "--label 'A menu' levels=2",
        "section" => "--label 'A section' 'offer=[{ label = \"One\" }]'",
        "piece" => "--label 'A piece' 'offer=[{ label = \"One\" }]'",
        "option" => "--label 'A choice' type=boolean default=true",
        _ => "--label 'A region'",
    };
    (format!("declare {point} --about 'Number {number}' {keys}"), point)
}

/// A command for something new, and the words that it may need later.
fn command(rng: &mut Rng, number: usize, points: &mut Vec<String>) -> String {
    match rng.u8(..5) {
        0 | 1 => {
            let (typed, point) = declaration(rng, number);
            points.push(point);
            typed
        }
        2 => {
            let own = ["hook:document-end", "region:main", "template:page", "filter:article-markup", "hook:page-ready"];
            let all = own
                .into_iter()
                .chain(points.iter().map(String::as_str).filter(|to| !to.starts_with("option") && *to != "sections"));
            let all: Vec<&str> = all.collect();
            let to = all[rng.usize(..all.len())];
            format!("attach {to} module{}.js#function{number} --priority {}", rng.usize(..3), rng.u8(..=100))
        }
        3 => {
            // Each at most once, since a region that is on a page twice is a mistake.
            let placed = ["region:aside", "hook:document-start", "region:footer", "region:header", "sections"];
            let left: Vec<&str> = placed.into_iter().filter(|at| !points.iter().any(|known| known == at)).collect();
            let Some(point) = left.first().map(|_| left[rng.usize(..left.len())]) else {
                return "list".to_string();
            };
            points.push(point.to_string());
            format!("place {point} --in layout.html --before main")
        }
        _ => {
            let own = ["hook:document-end", "region:main"];
            let when = ["page.type == \"front\"", "not page.summary", "site.title != \"\""][rng.usize(..3)];
            format!("attach {} conditional.js#function{number} --when '{when}'", own[rng.usize(..2)])
        }
    }
}

/// The commands and the other hints of the `next:` lines.
fn next(stdout: &str) -> Vec<String> {
    stdout.lines().filter_map(|line| line.strip_prefix("next: ")).map(str::to_string).collect()
}

#[test]
fn following_the_next_lines_leads_to_a_clean_theme() {
    let mut followed = 0;
    for seed in 0..16 {
        let mut rng = Rng::with_seed(seed);
        let terminal = Terminal::new();
        let mut points = Vec::new();
        let mut open: Vec<String> = Vec::new();
        for number in 0..12 {
            let typed = command(&mut rng, number, &mut points);
            let said = terminal.types(&typed).ends(0);
            open.extend(next(&said.stdout));
            // What a template that is still missing may place, nobody can tell.
            open.retain(|step| !wrote_template(&terminal, step));
            // Sometimes at once, sometimes only in the end.
            if rng.bool() {
                followed += follow(&terminal, &mut open);
            }
        }
        followed += follow(&terminal, &mut open);
        terminal.types("check").ends(0).says("nothing wrong");
        for page in ["/", "/entry/", "/list/"] {
            terminal.types(&format!("render {page}")).ends(0);
        }
    }
    assert!(followed > 30, "only {followed} lines were followed");
}

/// Carries out what was said to come next, until nothing is.
fn follow(terminal: &Terminal, open: &mut Vec<String>) -> usize {
    let mut followed = 0;
    while let Some(step) = open.pop() {
        let layout = terminal.read("marsh/markup/layout.html");
        if let Some(rest) = step.strip_prefix("truehook place ") {
            let point = rest.split(' ').next().unwrap();
            // Said twice, done once.
            if layout.contains(&format!("place(\"{point}\")")) {
                continue;
            }
            let said = terminal.types(&format!("place {rest}")).ends(0);
            open.extend(next(&said.stdout));
        } else if let Some(read) = step.strip_prefix("read it: ").or_else(|| step.strip_prefix("place it: ")) {
            let read = read.split(", or").next().unwrap();
            if !layout.contains(read) {
                terminal.write("marsh/markup/layout.html", layout.replace("<body>", &format!("<body>\n  {read}")));
            }
        } else {
            // A filter is put to use by hand, as the line says: in a template: {{ value | through("…") }}
            let through = step.strip_prefix("in a template: ").unwrap_or_else(|| panic!("what to do with: {step}"));
            if !layout.contains(through) {
                let used = through.replace("value", "page.title");
                terminal.write("marsh/markup/layout.html", layout.replace("<body>", &format!("<body>\n  {used}")));
            }
        }
        followed += 1;
    }
    followed
}

/// Writes a component's template, if that is what comes next.
fn wrote_template(terminal: &Terminal, step: &str) -> bool {
    let Some(rest) = step.strip_prefix("write markup/") else { return false };
    let file = rest.split(',').next().unwrap();
    terminal.write(&format!("marsh/markup/{file}"), "<p>Words.</p>\n");
    true
}
