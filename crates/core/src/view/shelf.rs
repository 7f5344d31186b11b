//! The themes of a folder, and whether each fits what it builds on.

use serde::Serialize;

use super::ThemeView;
use crate::link::Registry;
use crate::rules::{self, Checked, Level};

/// Rules that tell whether a theme fits what it builds on.
const FITTING: [&str; 5] = ["base-missing", "base-version", "base-cycle", "host-missing", "host-version"];

/// A theme on a shelf.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct ShelvedView {
    /// Its folder, below the shelf's.
    pub folder: String,
    /// Does it fit what it builds on?
    pub fits: bool,
    /// Why it doesn't.
    pub reasons: Vec<String>,
    /// What is known of it.
    #[serde(flatten)]
    pub theme: ThemeView,
}

impl ShelvedView {
    /// A theme that was checked.
    pub fn new(folder: &str, registry: &Registry, checked: &Checked) -> ShelvedView {
        let blinding = rules::blinding(registry);
        let told = |finding: &&rules::Finding| finding.level == Level::Error && FITTING.contains(&finding.rule);
        let reasons = checked.findings.iter().filter(told).chain(&blinding).map(|finding| finding.message.clone());
        let mut reasons: Vec<String> = reasons.collect();
        reasons.dedup();
        ShelvedView {
            folder: folder.to_string(),
            fits: reasons.is_empty(),
            reasons,
            theme: ThemeView::new(registry, Some(checked)),
        }
    }
}
