//! The rules: one file each, in a folder for each family. A rule is a plain function of the
//! registry, and rules don't know of each other: one cause gives one finding because linking
//! resolves each reference once and gives each absence one reason.

pub mod example;
mod finding;
mod telling;

mod assets;
mod callbacks;
mod components;
mod conditions;
mod declarations;
mod files;
mod identity;
mod layers;
mod order;
mod site;
mod translations;
mod usage;
mod ways_out;

use crate::link::{Link, Registry, Unheard};
use crate::parallel;
use crate::read::FileKind;
use crate::scan::{FlawKind, Shape};

pub use declarations::feature_needed::switch_on;
pub use example::Example;
pub use finding::{Finding, FoundPlace, Level, Mend, is_command};
pub use telling::target_place;

/// One thing that can be wrong.
pub struct Rule {
    /// Its name, in kebab-case.
    pub name: &'static str,
    /// How bad it is: error where something is certain to break, warning where it works but not as
    /// meant, note where it may be intended.
    pub level: Level,
    /// The links of which it reports that they lead nowhere.
    pub links: &'static [Link],
    /// May what it finds be only still to come, right after a command has written something?
    pub awaited: bool,
    /// One line.
    pub summary: &'static str,
    /// Why it matters and what to do, in a few sentences.
    pub explanation: &'static str,
    /// A theme with this finding and no other.
    pub wrong: Example,
    /// What is different in it where it is as it should be.
    pub right: Example,
    /// Looks for it.
    pub check: fn(&Registry, &mut Vec<Finding>),
}

/// All rules, family by family.
pub const ALL: &[&Rule] = &[
    &files::manifest_syntax::RULE,
    &files::unknown_key::RULE,
    &files::markup_syntax::RULE,
    &files::code_syntax::RULE,
    &files::missing_file::RULE,
    &files::outside_theme::RULE,
    &files::quoted_name::RULE,
    &identity::bad_name::RULE,
    &identity::folder_name::RULE,
    &identity::host_missing::RULE,
    &identity::host_version::RULE,
    &identity::base_missing::RULE,
    &identity::base_version::RULE,
    &identity::base_cycle::RULE,
    &identity::label_missing::RULE,
    &declarations::changed_contract::RULE,
    &declarations::option_default::RULE,
    &declarations::required_point::RULE,
    &declarations::retired_point::RULE,
    &declarations::idle_option::RULE,
    &declarations::feature_arguments::RULE,
    &declarations::unknown_feature::RULE,
    &declarations::feature_unshown::RULE,
    &declarations::feature_needed::RULE,
    &declarations::done_twice::RULE,
    &usage::undeclared_point::RULE,
    &usage::unplaced_point::RULE,
    &usage::unreached_placement::RULE,
    &usage::unseen_offer::RULE,
    &usage::guard_target::RULE,
    &usage::lost_placement::RULE,
    &usage::lost_block::RULE,
    &usage::stale_copy::RULE,
    &usage::unreached_template::RULE,
    &usage::repeated_placement::RULE,
    &usage::template_cycle::RULE,
    &usage::placement_cycle::RULE,
    &usage::dynamic_point::RULE,
    &usage::unknown_variable::RULE,
    &usage::unknown_argument::RULE,
    &usage::missing_argument::RULE,
    &usage::empty_wrapper::RULE,
    &usage::wrong_spot::RULE,
    &usage::untitled_page::RULE,
    &callbacks::missing_callback::RULE,
    &callbacks::idle_callback::RULE,
    &callbacks::missing_import::RULE,
    &callbacks::unfit_signature::RULE,
    &callbacks::unfit_return::RULE,
    &callbacks::frozen_value::RULE,
    &callbacks::unknown_property::RULE,
    &callbacks::undeclared_name::RULE,
    &callbacks::escaped_markup::RULE,
    &callbacks::unused_markup::RULE,
    &callbacks::returns_nothing::RULE,
    &callbacks::doubled_attachment::RULE,
    &callbacks::attach_kind::RULE,
    &callbacks::attached_in_vain::RULE,
    &callbacks::left_over_note::RULE,
    &order::priority_range::RULE,
    &order::order_cycle::RULE,
    &order::order_target::RULE,
    &order::order_conflict::RULE,
    &order::order_by_chance::RULE,
    &layers::detach_target::RULE,
    &layers::replace_target::RULE,
    &layers::sealed_callback::RULE,
    &layers::dropped_in_use::RULE,
    &layers::dead_override::RULE,
    &conditions::condition_syntax::RULE,
    &conditions::condition_name::RULE,
    &conditions::condition_constant::RULE,
    &assets::unknown_asset::RULE,
    &assets::asset_cycle::RULE,
    &assets::early_use::RULE,
    &assets::unstated_need::RULE,
    &assets::raw_asset::RULE,
    &assets::broken_address::RULE,
    &assets::idle_file::RULE,
    &assets::host_copy::RULE,
    &components::missing_markup::RULE,
    &components::two_renderers::RULE,
    &components::wrap_body::RULE,
    &components::input_type::RULE,
    &components::input_value::RULE,
    &components::unknown_input::RULE,
    &components::may_not_hold::RULE,
    &components::too_deep::RULE,
    &components::no_outlet::RULE,
    &components::never_held::RULE,
    &components::idle_component::RULE,
    &components::idle_input::RULE,
    &components::no_offer::RULE,
    &components::doubled_offer::RULE,
    &components::inner_name::RULE,
    &site::fill_target::RULE,
    &site::fill_kind::RULE,
    &site::menu_unfilled::RULE,
    &site::page_template::RULE,
    &site::unshown_entries::RULE,
    &site::cut_entries::RULE,
    &site::script_in_text::RULE,
    &site::doubled_path::RULE,
    &site::missing_page::RULE,
    &site::fixed_navigation::RULE,
    &translations::untranslated::RULE,
    &translations::unused_message::RULE,
    &translations::placeholder_mismatch::RULE,
    &translations::plural_forms::RULE,
    &ways_out::idle_ignore::RULE,
];

/// Is there a rule of this name?
pub fn is_rule(name: &str) -> bool {
    ALL.iter().any(|rule| rule.name == name)
}

/// The rule of this name.
pub fn rule(name: &str) -> Option<&'static Rule> {
    ALL.iter().copied().find(|rule| rule.name == name)
}

/// What came of checking a theme.
pub struct Checked {
    /// What the checked theme has to do with, in the order of its files.
    pub findings: Vec<Finding>,
    /// How many findings the theme ignores.
    pub ignored: usize,
    /// How many errors and warnings concern lower layers alone.
    pub below: usize,
    /// The layers that those concern, the lowest first.
    pub below_in: Vec<crate::source::LayerId>,
    /// From this level on, the run fails.
    pub fail_on: Level,
}

impl Checked {
    /// How many findings are of this level.
    pub fn count(&self, level: Level) -> usize {
        self.findings.iter().filter(|finding| finding.level == level).count()
    }

    /// Is there a finding for which the run fails?
    pub fn fails(&self) -> bool {
        self.findings.iter().any(|finding| finding.level >= self.fail_on)
    }
}

/// What is wrong with manifests and sites that can't be read, so that all that is said of the theme may be wrong.
pub fn blinding(registry: &Registry) -> Vec<Finding> {
    let mut found = Vec::new();
    (files::manifest_syntax::RULE.check)(registry, &mut found);
    found.retain(|finding| {
        let file = finding.places.first().map(|place| &registry.facts(place.file).shape);
        file.is_some_and(|shape| matches!(shape, Shape::Manifest(_) | Shape::Site(_)) && shape.is_broken())
    });
    found
}

/// Checks a theme under all rules.
pub fn check(registry: &Registry) -> Checked {
    let unheard = unheard(registry);
    if unheard == Unheard::default() {
        return checked(registry);
    }
    // What stays silent because a rule tells its cause has to be told where that rule is off.
    checked(&registry.unhearing(unheard))
}

/// What the rules that are off would tell.
fn unheard(registry: &Registry) -> Unheard {
    let settings = registry.top_manifest().map(|manifest| manifest.check.rules.as_slice()).unwrap_or_default();
    let off = |rule: &Rule| settings.iter().any(|(name, level)| name.name == rule.name && level.name == "off");
    let told = |link: &Link| ALL.iter().any(|rule| rule.links.contains(link) && !off(rule));
    let links = ALL.iter().filter(|rule| off(rule)).flat_map(|rule| rule.links).copied();
    Unheard {
        links: links.filter(|link| !told(link)).collect(),
        templates: off(&usage::unreached_template::RULE),
        exports: off(&callbacks::idle_callback::RULE),
    }
}

/// Are the manifests of the checked theme TOML, as the commands that write need them?
fn manifests_parse(registry: &Registry) -> bool {
    let project = registry.project();
    let flawed = project.files_of(project.top()).filter(|(id, file)| {
        let flaws = &registry.facts(*id).flaws;
        file.kind == FileKind::Manifest && flaws.iter().any(|flaw| flaw.kind == FlawKind::ManifestSyntax)
    });
    flawed.into_iter().all(|(_, file)| file.text().parse::<toml_edit::DocumentMut>().is_ok())
}

fn checked(registry: &Registry) -> Checked {
    // Rules look at nothing that another one does. Where files are few, one thread is done sooner.
    let found = parallel::map_many(ALL.len(), registry.project().files.len(), |at| {
        registry.quiet.or_found(ALL[at].name, || {
            let mut found = Vec::new();
            (ALL[at].check)(registry, &mut found);
            found
        })
    });
    let found: Vec<Finding> = found.into_iter().flatten().collect();
    let top = registry.project().top();
    let (mut own, lower): (Vec<_>, Vec<_>) = found.into_iter().partition(|finding| finding.layer == top);
    let ignored = ways_out::idle_ignore::apply(registry, &mut own);
    let mut found: Vec<Finding> = own.into_iter().chain(lower).collect();
    let settings = registry.top_manifest().map(|manifest| manifest.check.clone()).unwrap_or_default();
    found.retain_mut(|finding| {
        let set = settings.rules.iter().find(|(name, _)| name.name == finding.rule);
        match set.map(|(_, level)| level.name.as_str()) {
            Some("off") => return false,
            Some(word) => finding.level = Level::from_word(word).unwrap_or(finding.level),
            None => {}
        }
        true
    });
    let (mut findings, below): (Vec<_>, Vec<_>) = found.into_iter().partition(|finding| finding.layer == top);
    let is_whole = manifests_parse(registry);
    for mend in findings.iter_mut().filter_map(|finding| finding.mend.as_mut()) {
        // Nothing is written in the files of other layers.
        mend.safe &= mend.edits.iter().all(|edit| registry.project().file(edit.file).layer == top);
        // No command writes in a file that isn't TOML.
        if !is_whole && is_command(&mend.text) {
            mend.text = "first mend what is no TOML".to_string();
        }
    }
    findings.sort_by_cached_key(|finding| {
        let place = finding.places.first().map(|place| (registry.project().shown(place.file), place.span));
        (place, finding.rule, finding.message.clone())
    });
    let fail_on = settings.fail_on.and_then(|word| Level::from_word(&word)).unwrap_or(Level::Warning);
    let below: Vec<_> = below.iter().filter(|finding| finding.level > Level::Note).collect();
    let mut below_in: Vec<_> = below.iter().map(|finding| finding.layer).collect();
    below_in.sort();
    below_in.dedup();
    Checked { findings, ignored, below: below.len(), below_in, fail_on }
}
