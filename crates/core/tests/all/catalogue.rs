//! The catalogue of rules, and what is said of words.

use truehook_core::address::{Kind, Role};
use truehook_core::catalogue::{KEYS, kind, role, rules_page};
use truehook_core::rules::ALL;

const PAGE: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/rules.md");

/// `TRUEHOOK_WRITE=1 cargo test -p truehook-core --test catalogue` writes the page anew.
#[test]
fn the_page_of_rules_is_what_the_rules_say() {
    let page = rules_page();
    if std::env::var_os("TRUEHOOK_WRITE").is_some() {
        std::fs::write(PAGE, &page).unwrap();
    }
    let kept = std::fs::read_to_string(PAGE).unwrap_or_default();
    assert!(kept == page, "docs/rules.md is out of date; TRUEHOOK_WRITE=1 with this test writes it");
}

#[test]
fn every_rule_has_a_name_of_its_own_and_says_what_to_do() {
    let mut names: Vec<&str> = ALL.iter().map(|rule| rule.name).collect();
    names.sort_unstable();
    let all = names.len();
    names.dedup();
    assert_eq!(names.len(), all);
    for rule in ALL {
        assert!(!rule.summary.ends_with('.') && rule.explanation.ends_with('.'), "{}", rule.name);
        assert!(rule.explanation.len() > 60, "{}: {}", rule.name, rule.explanation);
        assert!(!rule.wrong.0.is_empty() && !rule.right.0.is_empty(), "{}", rule.name);
    }
}

#[test]
fn the_catalogue_of_the_design_is_complete() {
    let wanted = "manifest-syntax unknown-key markup-syntax code-syntax missing-file outside-theme bad-name folder-name host-missing \
         host-version base-missing base-version base-cycle label-missing changed-contract feature-arguments unknown-feature \
         feature-unshown feature-needed done-twice option-default required-point retired-point idle-option undeclared-point unseen-offer unplaced-point \
         unreached-placement lost-placement lost-block stale-copy unreached-template repeated-placement dynamic-point unknown-argument \
         missing-argument unknown-variable template-cycle empty-wrapper wrong-spot placement-cycle missing-callback idle-callback \
         missing-import unfit-signature unknown-property undeclared-name escaped-markup unused-markup returns-nothing doubled-attachment attach-kind attached-in-vain left-over-note priority-range order-cycle \
         order-target order-conflict order-by-chance detach-target replace-target sealed-callback dropped-in-use dead-override \
         condition-syntax condition-name condition-constant guard-target unknown-asset asset-cycle early-use unstated-need raw-asset broken-address \
         host-copy missing-markup two-renderers wrap-body input-type input-value unknown-input may-not-hold too-deep no-outlet \
         never-held idle-component idle-input no-offer doubled-offer inner-name fill-target fill-kind menu-unfilled page-template doubled-path missing-page fixed-navigation \
         untranslated unused-message placeholder-mismatch plural-forms idle-ignore quoted-name script-in-text \
         frozen-value unfit-return idle-file untitled-page unshown-entries cut-entries";
    let wanted: Vec<&str> = wanted.split_whitespace().collect();
    for name in &wanted {
        assert!(ALL.iter().any(|rule| rule.name == *name), "{name} is missing");
    }
    assert_eq!(ALL.len(), wanted.len());
}

#[test]
fn every_word_is_explained() {
    assert!(Kind::ALL.into_iter().all(|one| kind(one).ends_with('.')));
    assert!(Role::ALL.into_iter().all(|one| role(one).ends_with('.')));
    assert!(KEYS.iter().all(|key| key.about.ends_with('.') && !key.of.is_empty()));
}
