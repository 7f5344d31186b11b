//! Where names are read that aren't there: one index for a theme, made when the first such name is read.

use std::collections::{HashMap, HashSet};
use std::sync::{Arc, Mutex, PoisonError};

use truehook_core::link::{Outcome, Registry};
use truehook_core::scan::{SectionKind, Shape};
use truehook_core::source::{FileId, Place};

/// Where one template reads names: each name, also the beginnings of those with dots, and the first place.
type Reads = HashMap<String, Place>;

/// What is known of names that aren't there.
pub struct StrayIndex {
    /// The names of all macros. The engine asks for all names in a macro before it knows the macro itself.
    pub macros: HashSet<String>,
    /// What references that lead nowhere say, sorted.
    missing: Vec<(String, Place)>,
    reads: Mutex<HashMap<FileId, Arc<Reads>>>,
}

impl StrayIndex {
    pub fn new(registry: &Registry) -> StrayIndex {
        let mut macros = HashSet::new();
        for facts in registry.all_facts() {
            let Shape::Template(template) = &facts.shape else { continue };
            macros.extend(template.sections.iter().filter_map(|section| match section.kind {
                SectionKind::Macro(name) => Some(name.to_string()),
                _ => None,
            }));
        }
        let references = registry.references().iter();
        let mut missing: Vec<(String, Place)> = references
            .filter(|reference| matches!(reference.outcome, Outcome::Missing { .. }))
            .map(|reference| (reference.written.to_string(), reference.from))
            .collect();
        missing.sort();
        StrayIndex { macros, missing, reads: Mutex::default() }
    }

    /// Where a reference that leads nowhere says a name, or begins with it.
    pub fn missing(&self, name: &str) -> Option<Place> {
        let at = self.missing.partition_point(|(written, _)| written.as_str() < name);
        let (written, place) = self.missing.get(at)?;
        written.starts_with(name).then_some(*place)
    }

    /// Where a template reads a name.
    pub fn read(&self, registry: &Registry, file: FileId, name: &str) -> Option<Place> {
        let known = || self.reads.lock().unwrap_or_else(PoisonError::into_inner);
        let reads = known().get(&file).cloned();
        let reads = match reads {
            Some(reads) => reads,
            None => {
                let reads = Arc::new(reads_of(registry, file)?);
                known().insert(file, reads.clone());
                reads
            }
        };
        reads.get(name).copied()
    }
}

fn reads_of(registry: &Registry, file: FileId) -> Option<Reads> {
    let mut reads = Reads::new();
    for read in &registry.template(file)?.reads {
        let mut name = String::new();
        for (at, step) in read.path.iter().enumerate() {
            if at > 0 {
                name.push('.');
            }
            name.push_str(step.name.as_str());
            reads.entry(name.clone()).or_insert(Place { file, at: step.at });
        }
    }
    Some(reads)
}
