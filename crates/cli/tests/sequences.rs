//! Whatever points are registered in whatever order: following the `next:` lines leads to a theme
//! that is clean, and that renders.

mod fixture;

use fastrand::Rng;
use fixture::Terminal;

/// A command for something new, and the words that it may need later.
fn command(rng: &mut Rng, number: usize, points: &mut Vec<String>) -> String {
    let kind = ["hook", "region", "filter"][rng.usize(..3)];
    let words =
        ["lantern", "harbour", "meadow", "granite", "orchard", "thistle", "copper", "willow", "saffron", "pebble"];
    match rng.u8(..5) {
        0 | 1 => {
            let point = format!("{kind}:{}-{number}", words[rng.usize(..words.len())]);
            points.push(point.clone());
            format!("declare {point} --about 'Number {number}'")
        }
        2 => {
            let own = ["hook:document-end", "region:main", "template:page", "filter:article-markup"];
            let all: Vec<&str> = own.into_iter().chain(points.iter().map(String::as_str)).collect();
            let to = all[rng.usize(..all.len())];
            format!("attach {to} module{}.js#function{number} --priority {}", rng.usize(..3), rng.u8(..=100))
        }
        3 => {
            let placed = ["region:aside", "hook:document-start", "region:footer"];
            format!("place {} --in layout.html --before main", placed[rng.usize(..3)])
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
    for seed in 0..14 {
        let mut rng = Rng::with_seed(seed);
        let terminal = Terminal::new();
        let mut points = Vec::new();
        let mut open: Vec<String> = Vec::new();
        for number in 0..12 {
            let said = terminal.types(&command(&mut rng, number, &mut points)).ends(0);
            open.extend(next(&said.stdout));
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
