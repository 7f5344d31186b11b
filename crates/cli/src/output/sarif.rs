//! Findings in the Static Analysis Results Interchange Format, version 2.1.0 (OASIS).

use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, utf8_percent_encode};
use serde::Serialize;
use serde_json::{Value, json};
use truehook_core::link::Registry;
use truehook_core::rules::{ALL, Finding, FoundPlace};
use truehook_core::source::{Edit, FileId};
use truehook_core::view::{PlaceView, fingerprint};

/// What [`log`] is made of: the findings of one theme each.
#[derive(Serialize)]
pub struct Log {
    version: &'static str,
    #[serde(rename = "$schema")]
    schema: &'static str,
    runs: Vec<Run>,
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
pub struct Run {
    tool: Value,
    column_kind: &'static str,
    original_uri_base_ids: Value,
    results: Vec<Value>,
}

/// All runs as one log.
pub fn log(runs: Vec<Run>) -> Log {
    let schema = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json";
    Log { version: "2.1.0", schema, runs }
}

/// The findings of one theme.
pub fn run<'f>(registry: &Registry, findings: impl Iterator<Item = &'f Finding>) -> Run {
    let root = &registry.project().layer(registry.project().top()).root;
    let rules = ALL.iter().map(|rule| {
        json!({
            "id": rule.name,
            "shortDescription": { "text": rule.summary },
            "fullDescription": { "text": rule.explanation },
            "help": { "text": format!("{} truehook explain {} shows examples.", rule.explanation, rule.name) },
            "defaultConfiguration": { "level": rule.level.word() },
        })
    });
    let driver = json!({
        "name": "True Hook",
        "semanticVersion": env!("CARGO_PKG_VERSION"),
        "rules": rules.collect::<Vec<_>>(),
    });
    Run {
        tool: json!({ "driver": driver }),
        column_kind: "unicodeCodePoints",
        original_uri_base_ids: json!({ "THEME": { "uri": format!("file://{}/", encoded(root.as_str())) } }),
        results: findings.map(|finding| result(registry, finding)).collect(),
    }
}

fn result(registry: &Registry, finding: &Finding) -> Value {
    let mut result = json!({
        "ruleId": finding.rule,
        "ruleIndex": ALL.iter().position(|rule| rule.name == finding.rule),
        "level": finding.level.word(),
        "message": { "text": finding.message },
        "partialFingerprints": { "truehookFinding/v1": fingerprint(registry, finding) },
    });
    if let Some((first, rest)) = finding.places.split_first() {
        result["locations"] = json!([location(registry, first, None)]);
        if !rest.is_empty() {
            let rest = rest.iter().enumerate().map(|(at, place)| location(registry, place, Some(at + 1)));
            result["relatedLocations"] = rest.collect();
        }
    }
    if let Some(mend) = finding.mend.as_ref().filter(|mend| !mend.edits.is_empty()) {
        result["fixes"] =
            json!([{ "description": { "text": mend.text }, "artifactChanges": changes(registry, &mend.edits) }]);
    }
    result
}

fn location(registry: &Registry, place: &FoundPlace, id: Option<usize>) -> Value {
    let view = PlaceView::new(registry, place.file, place.span);
    let mut location = json!({
        "physicalLocation": {
            "artifactLocation": artifact(registry, place.file),
            "region": {
                "startLine": view.line, "startColumn": view.column,
                "endLine": view.end_line, "endColumn": view.end_column,
            },
        },
    });
    if let Some(id) = id {
        location["id"] = id.into();
    }
    if !place.label.is_empty() {
        location["message"] = json!({ "text": place.label });
    }
    location
}

fn artifact(registry: &Registry, file: FileId) -> Value {
    let layer = registry.project().layer(registry.project().file(file).layer);
    match layer.built_in {
        true => json!({ "uri": encoded(&registry.project().shown(file)) }),
        false => json!({ "uri": encoded(&registry.project().shown(file)), "uriBaseId": "THEME" }),
    }
}

fn changes(registry: &Registry, edits: &[Edit]) -> Value {
    let mut files: Vec<FileId> = edits.iter().map(|edit| edit.file).collect();
    files.sort();
    files.dedup();
    let change = |file: FileId| {
        let own = edits.iter().filter(|edit| edit.file == file);
        let replacements = own.map(|edit| {
            json!({
                "deletedRegion": { "byteOffset": edit.span.start, "byteLength": edit.span.end - edit.span.start },
                "insertedContent": { "text": edit.new },
            })
        });
        json!({ "artifactLocation": artifact(registry, file), "replacements": replacements.collect::<Vec<_>>() })
    };
    files.into_iter().map(change).collect()
}

/// What stands as it is in a path (RFC 3986, 3.3), beside letters and digits.
const PATH: &AsciiSet = &NON_ALPHANUMERIC.remove(b'/').remove(b'-').remove(b'_').remove(b'.').remove(b'~').remove(b':');

/// A path in a URI.
fn encoded(path: &str) -> String {
    utf8_percent_encode(path, PATH).to_string()
}
