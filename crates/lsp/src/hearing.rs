//! What the editor tells: texts that are opened, changed and closed, files and folders that come and go.

use camino::Utf8PathBuf;
use lsp_server::{ErrorCode, Notification, RequestId, Response};
use lsp_types::notification::{self, Notification as _};
use lsp_types::{
    CancelParams, DidChangeTextDocumentParams, DidChangeWatchedFilesParams, DidChangeWorkspaceFoldersParams,
    DidCloseTextDocumentParams, DidOpenTextDocumentParams, DidSaveTextDocumentParams, NumberOrString,
};
use serde::de::DeserializeOwned;
use truehook_changes::Change;

use crate::conversation::Conversation;
use crate::laid::Buffer;
use crate::paths::path_of;

impl Conversation {
    /// Takes note of what the editor tells.
    pub fn hear_told(&mut self, told: Notification) {
        match told.method.as_str() {
            notification::DidOpenTextDocument::METHOD => self.with(told, Conversation::opened),
            notification::DidChangeTextDocument::METHOD => self.with(told, Conversation::typed),
            notification::DidCloseTextDocument::METHOD => self.with(told, Conversation::closed),
            notification::DidSaveTextDocument::METHOD => self.with(told, Conversation::saved),
            notification::DidChangeWatchedFiles::METHOD => self.with(told, Conversation::changed_on_disk),
            notification::DidChangeWorkspaceFolders::METHOD => self.with(told, Conversation::folders),
            notification::Cancel::METHOD => self.with(told, Conversation::cancel),
            _ => {}
        }
    }

    fn with<P: DeserializeOwned>(&mut self, told: Notification, then: fn(&mut Conversation, P)) {
        // What can't be understood can't be followed; there is nobody to answer.
        if let Ok(params) = serde_json::from_value(told.params) {
            then(self, params);
        }
    }

    fn opened(&mut self, params: DidOpenTextDocumentParams) {
        let document = params.text_document;
        let Some(path) = path_of(&document.uri) else { return };
        let buffer = Buffer { uri: document.uri, version: document.version, text: document.text };
        self.world.files.open(path.clone(), buffer);
        if let Some(folder) = self.world.theme_around(&path)
            && self.world.open(&folder)
        {
            self.watch_layers();
        }
        self.changed.insert(path);
    }

    fn typed(&mut self, params: DidChangeTextDocumentParams) {
        let Some(path) = path_of(&params.text_document.uri) else { return };
        let encoding = self.world.client.encoding;
        if let Some(buffer) = self.world.files.buffer_mut(&path) {
            params.content_changes.into_iter().for_each(|change| buffer.change(change, encoding));
            buffer.version = params.text_document.version;
            self.changed.insert(path);
        }
    }

    fn closed(&mut self, params: DidCloseTextDocumentParams) {
        let Some(path) = path_of(&params.text_document.uri) else { return };
        self.world.files.close(&path);
        self.changed.insert(path);
    }

    fn saved(&mut self, params: DidSaveTextDocumentParams) {
        if let Some(path) = path_of(&params.text_document.uri) {
            self.world.files.forget(&path);
            self.changed.insert(path);
        }
    }

    fn changed_on_disk(&mut self, params: DidChangeWatchedFilesParams) {
        for path in params.changes.iter().filter_map(|change| path_of(&change.uri)) {
            self.world.files.forget(&path);
            self.changed.insert(path);
        }
    }

    /// Takes note of what has changed on the disk.
    pub fn hear_change(&mut self, change: Change) {
        match change.paths {
            Some(paths) => {
                paths.iter().for_each(|path| self.world.files.forget(path));
                self.changed.extend(paths);
            }
            None => {
                self.world.files.forget_all();
                self.all = true;
            }
        }
    }

    fn folders(&mut self, params: DidChangeWorkspaceFoldersParams) {
        let gone: Vec<Utf8PathBuf> = params.event.removed.iter().filter_map(|folder| path_of(&folder.uri)).collect();
        gone.iter().for_each(|folder| self.world.close_below(folder));
        let new: Vec<Utf8PathBuf> = params.event.added.iter().filter_map(|folder| path_of(&folder.uri)).collect();
        self.open_below(&new);
        self.tell();
    }

    fn cancel(&mut self, params: CancelParams) {
        let id: RequestId = match params.id {
            NumberOrString::Number(number) => number.into(),
            NumberOrString::String(text) => text.into(),
        };
        if let Some(at) = self.waiting.iter().position(|request| request.id == id) {
            self.waiting.remove(at);
            let refused = "it is not wanted any more".to_string();
            self.telling.answer(Response::new_err(id, ErrorCode::RequestCanceled as i32, refused));
        }
    }
}
