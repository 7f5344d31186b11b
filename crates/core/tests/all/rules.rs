//! Every rule is shown by its own examples.

use truehook_core::link::Registry;
use truehook_core::read::Project;
use truehook_core::rules::{self, Checked, Finding, Level, Rule};

fn checked(rule: &Rule, wrong: bool) -> (Registry, Checked) {
    let files = if wrong { rule.wrong.files() } else { rule.wrong.changed(rule.right) };
    let project = Project::open(&files, "/site/example".into());
    let registry = Registry::new(project.unwrap_or_else(|error| panic!("{}: {error}", rule.name)));
    let checked = rules::check(&registry);
    (registry, checked)
}

fn shown(findings: &[Finding]) -> Vec<String> {
    findings.iter().map(|finding| format!("{}[{}]: {}", finding.level.word(), finding.rule, finding.message)).collect()
}

#[test]
fn each_wrong_example_gives_exactly_its_finding() {
    let mut bad = Vec::new();
    for rule in rules::ALL {
        let (_, checked) = checked(rule, true);
        let serious: Vec<_> =
            checked.findings.iter().filter(|f| f.level > Level::Note || rule.level == Level::Note).collect();
        if serious.len() != 1 || serious[0].rule != rule.name || serious[0].level != rule.level {
            bad.push(format!("{}: {:#?}", rule.name, shown(&checked.findings)));
        }
    }
    assert!(bad.is_empty(), "{}", bad.join("\n"));
}

#[test]
fn no_right_example_gives_a_finding() {
    let mut bad = Vec::new();
    for rule in rules::ALL {
        let (_, checked) = checked(rule, false);
        if checked.findings.iter().any(|finding| finding.level > Level::Note || finding.rule == rule.name) {
            bad.push(format!("{}: {:#?}", rule.name, shown(&checked.findings)));
        }
    }
    assert!(bad.is_empty(), "{}", bad.join("\n"));
}

#[test]
fn each_finding_shows_a_place_and_says_what_to_do() {
    for rule in rules::ALL {
        let (registry, checked) = checked(rule, true);
        for finding in checked.findings.iter().filter(|finding| finding.rule == rule.name) {
            assert!(!finding.places.is_empty(), "{} shows no place", rule.name);
            for place in &finding.places {
                let text = registry.project().file(place.file).text();
                assert!(place.span.range().end <= text.len(), "{} points past the end", rule.name);
            }
            assert!(!finding.message.ends_with('.'), "{}: a message is no sentence with a full stop", rule.name);
        }
    }
}

#[test]
fn a_level_can_be_set_and_a_rule_switched_off() {
    let rule = rules::rule("idle-callback").unwrap();
    for (word, left) in [("off", 0), ("note", 1), ("error", 1)] {
        let mut files = rule.wrong.files();
        let path = "/site/example/truehook.toml";
        let manifest = String::from_utf8(files.get(path.into()).unwrap().to_vec()).unwrap();
        files.insert(path, format!("{manifest}\n[check]\nrules = {{ idle-callback = \"{word}\" }}\n"));
        let project = Project::open(&files, "/site/example".into()).unwrap();
        let checked = rules::check(&Registry::new(project));
        let levels: Vec<_> = checked.findings.iter().map(|finding| finding.level.word()).collect();
        assert_eq!(levels, vec![word; left]);
    }
}
