//! Diagnostics for editors that ask for them.

use std::hash::{DefaultHasher, Hash, Hasher};

use lsp_types::{
    Diagnostic, DocumentDiagnosticParams, DocumentDiagnosticReport, DocumentDiagnosticReportResult,
    FullDocumentDiagnosticReport, RelatedFullDocumentDiagnosticReport, RelatedUnchangedDocumentDiagnosticReport,
    UnchangedDocumentDiagnosticReport, Uri, WorkspaceDiagnosticParams, WorkspaceDiagnosticReport,
    WorkspaceDiagnosticReportResult, WorkspaceDocumentDiagnosticReport, WorkspaceFullDocumentDiagnosticReport,
    WorkspaceUnchangedDocumentDiagnosticReport,
};

use crate::answer::Told;
use crate::paths::{path_of, uri_of};
use crate::world::World;

/// What a state of a file's diagnostics is known by.
fn number(found: &[Diagnostic]) -> String {
    let mut hasher = DefaultHasher::new();
    serde_json::to_string(found).unwrap_or_default().hash(&mut hasher);
    format!("{:016x}", hasher.finish())
}

fn of<'t>(told: &'t Told, uri: &Uri) -> &'t [Diagnostic] {
    let own = |uri: &Uri| told.get(uri.as_str()).map(|(_, found)| found.as_slice());
    // An editor may write an address in another way than we do.
    own(uri).or_else(|| own(&uri_of(&path_of(uri)?)?)).unwrap_or_default()
}

/// The diagnostics of one file.
pub fn document(told: &Told, params: DocumentDiagnosticParams) -> DocumentDiagnosticReportResult {
    let found = of(told, &params.text_document.uri);
    let result_id = number(found);
    let report = if params.previous_result_id.as_ref() == Some(&result_id) {
        DocumentDiagnosticReport::Unchanged(RelatedUnchangedDocumentDiagnosticReport {
            related_documents: None,
            unchanged_document_diagnostic_report: UnchangedDocumentDiagnosticReport { result_id },
        })
    } else {
        DocumentDiagnosticReport::Full(RelatedFullDocumentDiagnosticReport {
            related_documents: None,
            full_document_diagnostic_report: FullDocumentDiagnosticReport {
                result_id: Some(result_id),
                items: found.to_vec(),
            },
        })
    };
    DocumentDiagnosticReportResult::Report(report)
}

/// The diagnostics of all files that have some, and of those that had some when they were asked for.
pub fn workspace(world: &World, told: &Told, params: WorkspaceDiagnosticParams) -> WorkspaceDiagnosticReportResult {
    let before =
        |uri: &Uri| params.previous_result_ids.iter().find(|known| known.uri == *uri).map(|known| &known.value);
    let gone = params.previous_result_ids.iter().filter(|known| of(told, &known.uri).is_empty());
    let gone = gone.map(|known| (known.uri.clone(), &[][..]));
    let there = told.values().map(|(uri, found)| (uri.clone(), found.as_slice()));
    let report = |(uri, found): (Uri, &[Diagnostic])| {
        let version = path_of(&uri).and_then(|path| Some(i64::from(world.files.buffer(&path)?.version)));
        let result_id = number(found);
        if before(&uri) == Some(&result_id) {
            let same = UnchangedDocumentDiagnosticReport { result_id };
            return WorkspaceDocumentDiagnosticReport::Unchanged(WorkspaceUnchangedDocumentDiagnosticReport {
                uri,
                version,
                unchanged_document_diagnostic_report: same,
            });
        }
        let full = FullDocumentDiagnosticReport { result_id: Some(result_id), items: found.to_vec() };
        WorkspaceDocumentDiagnosticReport::Full(WorkspaceFullDocumentDiagnosticReport {
            uri,
            version,
            full_document_diagnostic_report: full,
        })
    };
    WorkspaceDiagnosticReportResult::Report(WorkspaceDiagnosticReport {
        items: there.chain(gone).map(report).collect(),
    })
}
