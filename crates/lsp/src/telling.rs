//! What is said to the editor.

use std::cell::Cell;

use crossbeam_channel::Sender;
use lsp_server::{Message, Notification, Request, Response};
use lsp_types::notification::{self, Notification as _};
use lsp_types::{
    DidChangeWatchedFilesRegistrationOptions, FileSystemWatcher, GlobPattern, NumberOrString, ProgressParams,
    ProgressParamsValue, Registration, RegistrationParams, WorkDoneProgress, WorkDoneProgressBegin,
    WorkDoneProgressCreateParams, WorkDoneProgressEnd, WorkDoneProgressReport,
};
use serde::Serialize;
use serde_json::Value;

/// The way to the editor. Where it has gone, nothing is said; the server ends as it hears nothing more.
pub struct Telling {
    sender: Sender<Message>,
    number: Cell<i32>,
}

impl Telling {
    /// Over a connection.
    pub fn new(sender: Sender<Message>) -> Telling {
        Telling { sender, number: Cell::new(0) }
    }

    /// Answers a request.
    pub fn answer(&self, response: Response) {
        drop(self.sender.send(Message::Response(response)));
    }

    /// Says something that needs no answer.
    pub fn notify<N: notification::Notification>(&self, params: N::Params)
    where
        N::Params: Serialize,
    {
        self.tell(N::METHOD, serde_json::to_value(params).unwrap_or_default());
    }

    /// The same, by the name of the method.
    pub fn tell(&self, method: &str, params: Value) {
        drop(self.sender.send(Message::Notification(Notification { method: method.to_string(), params })));
    }

    /// Asks for something whose answer changes nothing.
    pub fn ask(&self, method: &str, params: Value) {
        let number = self.number.get() + 1;
        self.number.set(number);
        let request = Request { id: number.into(), method: method.to_string(), params };
        drop(self.sender.send(Message::Request(request)));
    }

    /// Asks to be told of all that changes in the workspace.
    pub fn watch_files(&self) {
        let watcher = FileSystemWatcher { glob_pattern: GlobPattern::String("**/*".into()), kind: None };
        let options = DidChangeWatchedFilesRegistrationOptions { watchers: vec![watcher] };
        let registration = Registration {
            id: "truehook-files".into(),
            method: notification::DidChangeWatchedFiles::METHOD.into(),
            register_options: serde_json::to_value(options).ok(),
        };
        let params = RegistrationParams { registrations: vec![registration] };
        self.ask("client/registerCapability", serde_json::to_value(params).unwrap_or_default());
    }

    /// Begins to show how far something is.
    pub fn begin(&self, title: &str) -> NumberOrString {
        let token = NumberOrString::String(format!("truehook-{}", self.number.get()));
        let params = WorkDoneProgressCreateParams { token: token.clone() };
        self.ask("window/workDoneProgress/create", serde_json::to_value(params).unwrap_or_default());
        let begin = WorkDoneProgressBegin { title: title.into(), percentage: Some(0), ..Default::default() };
        self.progress(&token, WorkDoneProgress::Begin(begin));
        token
    }

    /// Shows how far it is, of a hundred.
    pub fn report(&self, token: &NumberOrString, message: &str, percentage: u32) {
        let report = WorkDoneProgressReport {
            message: Some(message.into()),
            percentage: Some(percentage),
            ..Default::default()
        };
        self.progress(token, WorkDoneProgress::Report(report));
    }

    /// Shows that it is done.
    pub fn end(&self, token: &NumberOrString) {
        self.progress(token, WorkDoneProgress::End(WorkDoneProgressEnd::default()));
    }

    fn progress(&self, token: &NumberOrString, value: WorkDoneProgress) {
        let params = ProgressParams { token: token.clone(), value: ProgressParamsValue::WorkDone(value) };
        self.notify::<notification::Progress>(params);
    }
}
