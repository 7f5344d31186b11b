//! Plans of the commands, as edits that an editor makes.

use std::collections::{BTreeMap, HashMap};

use lsp_types::{
    AnnotatedTextEdit, ChangeAnnotation, CreateFile, CreateFileOptions, DeleteFile, DocumentChangeOperation,
    DocumentChanges, OneOf, OptionalVersionedTextDocumentIdentifier, Position, Range, RenameFile, ResourceOp,
    TextDocumentEdit, TextEdit, Uri, WorkspaceEdit,
};
use truehook_core::edit::{Change, Plan};
use truehook_core::link::Registry;
use truehook_core::source::{Edit, FileId};

use crate::paths::{path_of, uri_of};
use crate::place::Ruler;
use crate::world::World;

/// The edits of one file, each with what is said of it.
struct Texts {
    uri: Uri,
    edits: Vec<(TextEdit, Option<String>)>,
}

/// Changes to files, gathered from one plan or several.
pub struct Gathered<'w> {
    world: &'w World,
    files: Vec<ResourceOp>,
    texts: BTreeMap<String, Texts>,
    annotations: HashMap<String, ChangeAnnotation>,
}

impl<'w> Gathered<'w> {
    /// No changes yet.
    pub fn new(world: &'w World) -> Gathered<'w> {
        Gathered { world, files: Vec::new(), texts: BTreeMap::new(), annotations: HashMap::new() }
    }

    /// Says of changes yet to come what they are; people are asked whether to make them.
    pub fn annotate(&mut self, id: &str, label: &str, about: &str) {
        let annotation = ChangeAnnotation {
            label: label.to_string(),
            needs_confirmation: Some(true),
            description: Some(about.to_string()),
        };
        self.annotations.insert(id.to_string(), annotation);
    }

    /// Adds what a plan does to a theme.
    ///
    /// # Errors
    /// Where a file is built in, or the editor can't make files come and go.
    pub fn plan(&mut self, registry: &Registry, plan: &Plan, annotation: Option<&str>) -> Result<(), String> {
        let changes = plan.changes(registry.project()).map_err(|error| error.to_string())?;
        let mut by_file: BTreeMap<FileId, Vec<&Edit>> = BTreeMap::new();
        for edit in plan.edits.iter().filter(|edit| !plan.removed.contains(&edit.file)) {
            by_file.entry(edit.file).or_default().push(edit);
        }
        for (file, mut edits) in by_file {
            edits.sort_by_key(|edit| edit.span);
            edits.dedup();
            let uri = self.world.uri(registry, file).ok_or("a file has no address")?;
            let ruler = self.world.ruler(registry, file);
            let mut end = 0;
            for edit in edits {
                // As when they are spliced: of two that overlap, the first counts.
                if edit.span.start < end {
                    continue;
                }
                end = edit.span.end;
                self.text(&uri, TextEdit { range: ruler.range(edit.span), new_text: edit.new.clone() }, annotation);
            }
        }
        self.come_and_go(plan, &changes, annotation)
    }

    /// Adds changes of whole files, as far as they differ.
    pub fn changes(&mut self, changes: &[Change]) -> Result<(), String> {
        for change in changes {
            match (&change.before, &change.after) {
                (Some(before), Some(after)) => {
                    let uri = uri_of(&change.path).ok_or("a file has no address")?;
                    let uri = self.world.files.buffer(&change.path).map_or(uri, |buffer| buffer.uri.clone());
                    let (before, after) = (String::from_utf8_lossy(before), String::from_utf8_lossy(after));
                    let mark = '\u{feff}';
                    let edit =
                        smallest(&self.world.client, before.trim_start_matches(mark), after.trim_start_matches(mark));
                    self.text(&uri, edit, None);
                }
                _ => return Err(format!("{} would come or go", change.shown)),
            }
        }
        Ok(())
    }

    fn come_and_go(&mut self, plan: &Plan, changes: &[Change], annotation: Option<&str>) -> Result<(), String> {
        let coming: Vec<&Change> = changes.iter().filter(|change| change.before.is_none()).collect();
        let mut going: Vec<&Change> = changes.iter().filter(|change| change.after.is_none()).collect();
        let needs_files = !coming.is_empty() || !going.is_empty() || !plan.beside.is_empty();
        if needs_files && !self.world.client.files {
            return Err("this editor can't be asked to make files".to_string());
        }
        let beside = |change: &&Change| plan.beside.iter().any(|beside| change.path.ends_with(&beside.path));
        let kept = changes.iter().filter(|change| change.before.is_some() && change.after.is_some()).filter(beside);
        self.changes(&kept.cloned().collect::<Vec<_>>())?;
        for change in coming {
            let uri = uri_of(&change.path).ok_or("a file has no address")?;
            let text = String::from_utf8_lossy(change.after.as_deref().unwrap_or_default()).into_owned();
            // What goes here and comes there moves.
            let moved =
                going.iter().position(|gone| gone.path.file_name() == change.path.file_name() || going_to(gone, &text));
            match moved.filter(|_| plan.created.len() == plan.removed.len()) {
                Some(at) => {
                    let gone = going.remove(at);
                    let before = String::from_utf8_lossy(gone.before.as_deref().unwrap_or_default()).into_owned();
                    let old = uri_of(&gone.path).ok_or("a file has no address")?;
                    self.files.push(ResourceOp::Rename(RenameFile {
                        old_uri: old,
                        new_uri: uri.clone(),
                        options: None,
                        annotation_id: annotation.map(str::to_string),
                    }));
                    if before != text {
                        let edit = smallest(&self.world.client, &before, &text);
                        self.text(&uri, edit, annotation);
                    }
                }
                None => {
                    self.files.push(ResourceOp::Create(CreateFile {
                        uri: uri.clone(),
                        options: Some(CreateFileOptions { overwrite: Some(false), ignore_if_exists: Some(false) }),
                        annotation_id: annotation.map(str::to_string),
                    }));
                    let start = Range { start: Position::new(0, 0), end: Position::new(0, 0) };
                    self.text(&uri, TextEdit { range: start, new_text: text }, annotation);
                }
            }
        }
        for gone in going {
            let uri = uri_of(&gone.path).ok_or("a file has no address")?;
            self.files.push(ResourceOp::Delete(DeleteFile { uri, options: None }));
        }
        Ok(())
    }

    fn text(&mut self, uri: &Uri, edit: TextEdit, annotation: Option<&str>) {
        let texts = self.texts.entry(uri.to_string());
        let texts = texts.or_insert_with(|| Texts { uri: uri.clone(), edits: Vec::new() });
        texts.edits.push((edit, annotation.map(str::to_string)));
    }

    /// All of it, in the form that the editor knows.
    pub fn edit(self) -> WorkspaceEdit {
        if !self.world.client.files {
            // `Uri` keeps nothing that changes; the protocol's types want it as a key.
            #[allow(clippy::mutable_key_type)]
            let changes: HashMap<Uri, Vec<TextEdit>> = self
                .texts
                .into_values()
                .map(|Texts { uri, edits }| (uri, edits.into_iter().map(|(edit, _)| edit).collect()))
                .collect();
            return WorkspaceEdit { changes: Some(changes), ..Default::default() };
        }
        let world = self.world;
        let annotated = world.client.annotations;
        let mut operations: Vec<DocumentChangeOperation> =
            self.files.into_iter().map(DocumentChangeOperation::Op).collect();
        for Texts { uri, edits } in self.texts.into_values() {
            let version = path_of(&uri).and_then(|path| Some(world.files.buffer(&path)?.version));
            let edits = edits.into_iter().map(|(text_edit, annotation)| match annotation.filter(|_| annotated) {
                Some(annotation_id) => OneOf::Right(AnnotatedTextEdit { text_edit, annotation_id }),
                None => OneOf::Left(text_edit),
            });
            operations.push(DocumentChangeOperation::Edit(TextDocumentEdit {
                text_document: OptionalVersionedTextDocumentIdentifier { uri, version },
                edits: edits.collect(),
            }));
        }
        WorkspaceEdit {
            document_changes: Some(DocumentChanges::Operations(operations)),
            change_annotations: (annotated && !self.annotations.is_empty()).then_some(self.annotations),
            ..Default::default()
        }
    }
}

/// Is it mostly the same text?
fn going_to(gone: &Change, text: &str) -> bool {
    let before = gone.before.as_deref().unwrap_or_default();
    let same = before.iter().zip(text.as_bytes()).take_while(|(one, other)| one == other).count();
    same * 2 >= before.len().max(text.len())
}

/// The edit that makes one text of another and leaves alike what is alike at both ends.
fn smallest(client: &crate::client::Client, before: &str, after: &str) -> TextEdit {
    let start: usize = before
        .chars()
        .zip(after.chars())
        .take_while(|(one, other)| one == other)
        .map(|(letter, _)| letter.len_utf8())
        .sum();
    let (rest_before, rest_after) = (&before[start..], &after[start..]);
    let end: usize = rest_before
        .chars()
        .rev()
        .zip(rest_after.chars().rev())
        .take_while(|(one, other)| one == other)
        .map(|(letter, _)| letter.len_utf8())
        .sum();
    let span = truehook_core::source::Span::new(start, before.len() - end);
    let ruler = Ruler::new(before, client.encoding);
    TextEdit { range: ruler.range(span), new_text: rest_after[..rest_after.len() - end].to_string() }
}
