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
    let step = |line: &str| line.strip_prefix("next: ").or(line.strip_prefix("advice: ")).map(str::to_string);
    stdout.lines().filter_map(step).collect()
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

/// A command on the demo's theme, of any sort, with whatever is there at the time; some of them can't be carried out.
fn change(rng: &mut Rng, terminal: &Terminal, number: usize) -> String {
    let one = |rng: &mut Rng, list: &[&str]| list[rng.usize(..list.len())].to_string();
    let listed: serde_json::Value =
        serde_json::from_str(&terminal.types("list --format json").stdout).expect("list prints JSON");
    let points = listed["points"].as_array().unwrap();
    let of = |rng: &mut Rng, kinds: &[&str]| {
        let kind = |address: &str| kinds.iter().any(|kind| address.starts_with(&format!("{kind}:")));
        let fitting: Vec<&str> =
            points.iter().filter_map(|point| point["address"].as_str()).filter(|address| kind(address)).collect();
        match fitting.is_empty() {
            true => format!("{}:none", kinds[0]),
            false => fitting[rng.usize(..fitting.len())].to_string(),
        }
    };
    let components = ["partial", "section", "piece"];
    match rng.u8(..12) {
        0 => declaration(rng, number).0,
        1 => {
            format!("declare {} about='Changed {number}'", of(rng, &["hook", "region", "partial", "filter", "section"]))
        }
        2 => format!(
            "attach {} made{}.js#made{number}",
            of(rng, &["hook", "region", "filter", "partial", "section"]),
            rng.u8(..2)
        ),
        3 => format!("place {} --in front.html --block lead", of(rng, &["hook", "region", "menu"])),
        4 => format!("fill {} {}", of(rng, &["region", "area"]), of(rng, &components)),
        5 => format!("fill {} --remove {}", of(rng, &["region", "area"]), 1 + rng.u8(..3)),
        6 => format!(
            "rename {} {}",
            of(rng, &["partial", "section", "piece", "option", "style", "script"]),
            format!("named{number}").replace("named", if rng.bool() { "named-" } else { "named" })
        ),
        7 => format!(
            "withdraw {} --along",
            of(rng, &["partial", "section", "piece", "hook", "region", "filter", "style"])
        ),
        8 => format!("withdraw {} --to {}", of(rng, &["partial", "piece"]), of(rng, &["partial", "piece"])),
        9 => {
            let adopted = one(rng, &["layout.html", "entry.html", "list.html", "search.html", "partials/trail.html"]);
            format!("adopt {adopted} {}", one(rng, &["--extend", "--copy"]))
        }
        10 => {
            let point = points[rng.usize(..points.len())].clone();
            let slots = point["slots"].as_array().cloned().unwrap_or_default();
            match slots.is_empty() {
                true => "list".to_string(),
                false => {
                    let callback = slots[rng.usize(..slots.len())]["callback"].as_str().unwrap().to_string();
                    match rng.bool() {
                        true => format!("detach {} {callback}", point["address"].as_str().unwrap()),
                        false => format!("replace {callback} made.js#in{number} --copy"),
                    }
                }
            }
        }
        _ => format!(
            "rename masthead.js#{} other{number}",
            one(rng, &["lowWaterNotice", "winterNotice", "welcome", "withPlace"])
        ),
    }
}

/// A theme grown from a seed, with its layers.
pub fn grown(seed: u64) -> Terminal {
    let mut terminal = Terminal::empty("site");
    for (path, bytes) in crate::grown::grow(seed).files.iter() {
        let below = path.as_str().strip_prefix("/grown/").expect("below the grown themes");
        terminal = terminal.file(below, bytes);
    }
    terminal
}

/// What is wrong with the theme at hand.
fn wrong(terminal: &Terminal) -> Vec<String> {
    let said = terminal.types("check --format json");
    let told: serde_json::Value = serde_json::from_str(&said.stdout).expect("check prints JSON");
    told["findings"]
        .as_array()
        .unwrap()
        .iter()
        .map(|finding| format!("[{}] {}", finding["rule"], finding["message"]))
        .collect()
}

#[test]
fn no_command_makes_the_demo_worse_without_saying_what_to_do_next() {
    none_makes_it_worse([0, 2, 4, 6], 29, |_| Terminal::demo());
}

#[test]
fn no_command_makes_a_grown_theme_worse_without_saying_what_to_do_next() {
    none_makes_it_worse([1, 3, 5, 7], 25, grown);
}

/// At least so many commands of each sort of theme have to be carried out, that is more than half of all.
fn none_makes_it_worse(seeds: [u64; 4], least: usize, theme: impl Fn(u64) -> Terminal) {
    let (mut done, mut refused) = (0, 0);
    for seed in seeds {
        let mut rng = Rng::with_seed(seed);
        let terminal = theme(seed);
        let mut before = wrong(&terminal);
        let mut typed = Vec::new();
        for number in 0..14 {
            let command = change(&mut rng, &terminal, number);
            typed.push(command.clone());
            let said = terminal.types(&command);
            let after = wrong(&terminal);
            match said.status {
                Some(0) => done += 1,
                Some(2) => {
                    assert!(
                        !said.stderr.is_empty() && !said.stderr.contains("panicked"),
                        "{typed:#?}\n{}",
                        said.stderr
                    );
                    assert_eq!(before, after, "refused, and yet: {typed:#?}");
                    refused += 1;
                }
                other => panic!("{other:?}: {typed:#?}\n{}{}", said.stdout, said.stderr),
            }
            let worse: Vec<&String> = after.iter().filter(|finding| !before.contains(finding)).collect();
            if !worse.is_empty() && !command.starts_with("rename") {
                assert!(
                    said.stdout.contains("next: ") || said.stdout.contains("advice: "),
                    "{typed:#?}\nmade this: {worse:#?}\n{}",
                    said.stdout
                );
            }
            assert!(after.iter().all(|finding| !finding.contains("-syntax")), "{typed:#?}: {after:#?}");
            before = after;
        }
        terminal.types("render /").never_says("panicked");
    }
    println!("{done} carried out, {refused} refused");
    assert!(done >= least, "{done} carried out, {refused} refused");
}
