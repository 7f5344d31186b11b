//! Findings as editors show them.

use std::collections::BTreeMap;

use lsp_types::{
    CodeDescription, Diagnostic, DiagnosticRelatedInformation, DiagnosticSeverity, DiagnosticTag, NumberOrString, Uri,
};
use serde_json::json;
use truehook_core::link::Registry;
use truehook_core::rules::{self, Finding, FoundPlace, Level, Mend};
use truehook_core::source::{FileId, Span};

use crate::theme::Theme;
use crate::world::World;

/// Who says it.
pub const SOURCE: &str = "truehook";

/// Rules that tell of what nothing uses.
pub const UNUSED: [&str; 9] = [
    "idle-callback",
    "idle-component",
    "idle-input",
    "idle-option",
    "idle-ignore",
    "unreached-template",
    "unused-message",
    "unused-markup",
    "left-over-note",
];
/// Rules that tell of what should not be used any more.
pub const RETIRED: [&str; 1] = ["retired-point"];

/// A finding, and the place at which it is shown.
pub struct Shown<'w> {
    /// The registry in which it was found.
    pub registry: &'w Registry,
    /// The finding.
    pub finding: &'w Finding,
    /// The file.
    pub file: FileId,
    /// The bytes.
    pub span: Span,
}

/// All findings of a theme, each at the first of its places that is the theme's own.
pub fn shown(theme: &Theme) -> Vec<Shown<'_>> {
    let held = theme.held.as_ref();
    let hides = |shown: &Shown<'_>| {
        // Of a manifest whose lines for the layers can't be followed, only that is said.
        let path = theme.registry.project().path_of(shown.file);
        held.is_some_and(|held| {
            held.findings
                .iter()
                .flat_map(|finding| finding.places.first())
                .any(|place| held.registry.project().path_of(place.file) == path)
        })
    };
    let usual = theme.checked.findings.iter().map(|finding| placed(&theme.registry, finding));
    let mut found: Vec<Shown<'_>> = usual.filter(|shown| !hides(shown)).collect();
    if let Some(held) = held {
        found.extend(held.findings.iter().map(|finding| placed(&held.registry, finding)));
    }
    found
}

fn placed<'w>(registry: &'w Registry, finding: &'w Finding) -> Shown<'w> {
    let top = registry.project().top();
    let own = |place: &&FoundPlace| registry.project().file(place.file).layer == top;
    let place = finding.places.iter().find(own);
    let (file, span) = match place {
        Some(place) => (place.file, place.span),
        None => (registry.project().layer(top).manifest, Span::default()),
    };
    Shown { registry, finding, file, span }
}

/// All diagnostics of a theme, by file.
pub fn of_theme(world: &World, theme: &Theme) -> BTreeMap<String, (Uri, Vec<Diagnostic>)> {
    let mut found: BTreeMap<String, (Uri, Vec<Diagnostic>)> = BTreeMap::new();
    for shown in shown(theme) {
        let Some(uri) = world.uri(shown.registry, shown.file) else { continue };
        let list = found.entry(uri.to_string()).or_insert_with(|| (uri, Vec::new()));
        list.1.push(diagnostic(world, theme, &shown));
    }
    found
}

/// A finding as an editor shows it.
pub fn diagnostic(world: &World, theme: &Theme, shown: &Shown<'_>) -> Diagnostic {
    let Shown { registry, finding, file, span } = shown;
    let related = finding.places.iter().filter(|place| (place.file, place.span) != (*file, *span));
    let related = related.filter_map(|place| {
        let location = world.location(registry, place.file, place.span)?;
        let message = if place.label.is_empty() { "here".to_string() } else { place.label.clone() };
        Some(DiagnosticRelatedInformation { location, message })
    });
    let related: Vec<_> = if world.client.related { related.collect() } else { Vec::new() };
    let tags = [(&UNUSED[..], DiagnosticTag::UNNECESSARY), (&RETIRED[..], DiagnosticTag::DEPRECATED)];
    let tags: Vec<DiagnosticTag> =
        tags.into_iter().filter(|(rules, _)| rules.contains(&finding.rule)).map(|(_, tag)| tag).collect();
    let described = || world.kept.rule(rules::rule(finding.rule)?);
    let href = world.client.describes.then(described).flatten();
    Diagnostic {
        range: world.ruler(registry, *file).range(*span),
        severity: Some(match finding.level {
            Level::Error => DiagnosticSeverity::ERROR,
            Level::Warning => DiagnosticSeverity::WARNING,
            Level::Note => DiagnosticSeverity::INFORMATION,
        }),
        code: Some(NumberOrString::String(finding.rule.to_string())),
        code_description: href.map(|href| CodeDescription { href }),
        source: Some(SOURCE.to_string()),
        message: message(finding, *file, *span),
        related_information: (!related.is_empty()).then_some(related),
        tags: (world.client.tags && !tags.is_empty()).then_some(tags),
        data: Some(json!({ "theme": theme.folder })),
    }
}

/// How a mend is printed: as one, or as advice.
fn printed(mend: &Mend) -> String {
    let (word, text) = mend.printed();
    format!("{word}: {text}")
}

/// What `check` says of a finding: what is wrong, what it says at that place, and the mend.
pub fn message(finding: &Finding, file: FileId, span: Span) -> String {
    let mut text = finding.message.clone();
    let here = finding.places.iter().find(|place| (place.file, place.span) == (file, span));
    let lines = here.map(|place| place.label.clone()).filter(|label| !label.is_empty());
    for line in lines.into_iter().chain(finding.mend.as_ref().map(printed)) {
        text.push('\n');
        text.push_str(&line);
    }
    text
}
