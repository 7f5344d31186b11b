//! Baselines: the findings that a theme accepts for now, so that new ones stand out.

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use super::VERSION;
use crate::link::Registry;
use crate::rules::Finding;
use crate::source::print_of;

/// A finding that is accepted.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Accepted {
    /// The rule's name.
    pub rule: String,
    /// The file of its primary place, as it is shown.
    pub file: String,
    /// What tells it from others: see [`fingerprint`].
    pub print: String,
    /// What is wrong, for people.
    pub message: String,
}

/// What a baseline file holds.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Baseline {
    /// [`VERSION`].
    pub version: u32,
    /// The findings, sorted.
    pub findings: Vec<Accepted>,
}

/// What tells a finding from others, whatever moves around it: 16 hexadecimal digits, made from the rule,
/// the file, what is wrong and the line that it is about.
pub fn fingerprint(registry: &Registry, finding: &Finding) -> String {
    let (file, line) = match finding.places.first() {
        Some(place) => {
            let text = registry.project().file(place.file).text();
            let index = registry.lines(place.file);
            let (line, _) = index.position(place.span.start);
            (registry.project().shown(place.file), text[index.lines(line, line)].trim().to_string())
        }
        None => (String::new(), String::new()),
    };
    let print = print_of(&[finding.rule, &file, &finding.message, &line].join("\n"));
    print.trim_start_matches("sha256-").chars().take(16).collect()
}

impl Baseline {
    /// Accepts findings.
    pub fn of<'f>(registry: &Registry, findings: impl IntoIterator<Item = &'f Finding>) -> Baseline {
        let accept = |finding: &Finding| Accepted {
            rule: finding.rule.to_string(),
            file: finding.places.first().map(|place| registry.project().shown(place.file)).unwrap_or_default(),
            print: fingerprint(registry, finding),
            message: finding.message.clone(),
        };
        let mut findings: Vec<Accepted> = findings.into_iter().map(accept).collect();
        findings.sort();
        Baseline { version: VERSION, findings }
    }

    /// Takes away what is accepted, each as often as it was accepted. Answers how many of those there are
    /// no more.
    pub fn filter(self, registry: &Registry, findings: &mut Vec<Finding>) -> usize {
        let mut accepted: FxHashMap<String, usize> = FxHashMap::default();
        for one in self.findings {
            *accepted.entry(one.print).or_default() += 1;
        }
        findings.retain(|finding| match accepted.get_mut(&fingerprint(registry, finding)) {
            Some(times) if *times > 0 => {
                *times -= 1;
                false
            }
            _ => true,
        });
        accepted.values().sum()
    }
}
