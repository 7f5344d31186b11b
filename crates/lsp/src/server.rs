//! The server: what comes in is put in order, and answered.

use std::time::Duration;

use camino::{Utf8Path, Utf8PathBuf};
use crossbeam_channel::{Receiver, RecvTimeoutError, select};
use lsp_server::{Connection, ErrorCode, Message, Request, RequestId, Response};
use lsp_types::notification::{Exit, Notification as _};
use lsp_types::request::{Initialize, Request as _, Shutdown};
use lsp_types::{InitializeParams, InitializeResult, ServerInfo};
use serde_json::Value;
use truehook_changes::Change;

use crate::answer::is_at_once;
use crate::client::Client;
use crate::conversation::Conversation;
use crate::offered::capabilities;
use crate::paths::path_of;
use crate::telling::Telling;
use crate::{frames, parent};

/// How long it has to be silent before changes are taken into account that nobody asks about.
const SILENCE: Duration = Duration::from_millis(2);

/// Why the server could not go on.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum LspError {
    /// The editor broke off, or does not speak the protocol.
    #[error("what came in is not the Language Server Protocol: {0}")]
    Protocol(String),
    /// The system refuses.
    #[error(transparent)]
    System(#[from] std::io::Error),
}

/// How it ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ended {
    /// As the editor asked for.
    Shut,
    /// The editor went away without a word.
    Gone,
}

/// Speaks with one editor over standard input and output, until it goes, or its process does. A theme may be named that is open in any case,
/// wherever the editor's workspace is.
///
/// # Errors
/// Where what comes in is not the protocol.
pub fn serve(theme: Option<&Utf8Path>) -> Result<Ended, LspError> {
    serve_on(frames::connect(), theme)
}

/// As [`serve`], over a connection.
///
/// # Errors
/// Where the answer to the editor's first request can't be made.
pub fn serve_on(connection: Connection, theme: Option<&Utf8Path>) -> Result<Ended, LspError> {
    let Some((id, said)) = initialized(&connection) else { return Ok(Ended::Gone) };
    let client = Client::new(&said.capabilities);
    let server = ServerInfo { name: "truehook".into(), version: Some(env!("CARGO_PKG_VERSION").into()) };
    let result = InitializeResult { capabilities: capabilities(&client), server_info: Some(server) };
    let result = serde_json::to_value(result).map_err(|error| LspError::Protocol(error.to_string()))?;
    let telling = Telling::new(connection.sender.clone());
    telling.answer(Response::new_ok(id, result));
    let mut conversation = Conversation::new(telling, client);
    let mut roots = roots(&said);
    roots.extend(theme.map(Utf8Path::to_path_buf));
    conversation.begin(&roots);
    let parent = parent::when_gone(said.process_id);
    Server { connection, conversation, parent }.run()
}

/// Waits until the editor says who it is. What else it asks before that is refused; nothing where it goes.
fn initialized(connection: &Connection) -> Option<(RequestId, InitializeParams)> {
    let refuse = |id, code: ErrorCode, why: String| {
        drop(connection.sender.send(Message::Response(Response::new_err(id, code as i32, why))));
    };
    loop {
        match connection.receiver.recv().ok()? {
            Message::Request(request) if request.method == Initialize::METHOD => {
                match serde_json::from_value(request.params) {
                    Ok(said) => return Some((request.id, said)),
                    Err(error) => refuse(request.id, ErrorCode::InvalidParams, error.to_string()),
                }
            }
            Message::Request(request) => {
                let why = "the server has to be initialised first".to_string();
                refuse(request.id, ErrorCode::ServerNotInitialized, why);
            }
            Message::Notification(told) if told.method == Exit::METHOD => return None,
            _ => {}
        }
    }
}

/// The folders of the workspace.
fn roots(said: &InitializeParams) -> Vec<Utf8PathBuf> {
    let folders = said.workspace_folders.iter().flatten().filter_map(|folder| path_of(&folder.uri));
    let folders: Vec<Utf8PathBuf> = folders.collect();
    if !folders.is_empty() {
        return folders;
    }
    // Older editors name one folder.
    #[allow(deprecated)]
    let root = said.root_uri.as_ref().and_then(path_of).or_else(|| said.root_path.clone().map(Utf8PathBuf::from));
    root.into_iter().collect()
}

/// What comes in, and the conversation that it belongs to.
struct Server {
    connection: Connection,
    conversation: Conversation,
    /// Hears when the editor's process is gone.
    parent: Receiver<()>,
}

/// What came in.
enum Heard {
    Message(Message),
    /// What changed on the disk; nothing where no more can come.
    Change(Option<Change>),
}

impl Server {
    /// Until the editor goes. What has come in is heard first, then changes are taken into account, then what had to
    /// know of them is answered.
    fn run(&mut self) -> Result<Ended, LspError> {
        loop {
            let wait = if self.conversation.is_behind() { SILENCE } else { Duration::from_secs(3600) };
            match self.next(wait) {
                Ok(Heard::Message(message)) => {
                    if let Some(ended) = self.hear(message) {
                        return Ok(ended);
                    }
                }
                Ok(Heard::Change(Some(change))) => self.conversation.hear_change(change),
                Ok(Heard::Change(None)) => self.conversation.watched = None,
                Err(RecvTimeoutError::Timeout) => self.conversation.catch_up(),
                Err(RecvTimeoutError::Disconnected) => return Ok(Ended::Gone),
            }
        }
    }

    fn next(&self, wait: Duration) -> Result<Heard, RecvTimeoutError> {
        let never = crossbeam_channel::never();
        let changes = self.conversation.watched.as_ref().map_or(&never, |watched| &watched.changes);
        select! {
            recv(self.connection.receiver) -> message => {
                message.map(Heard::Message).map_err(|_| RecvTimeoutError::Disconnected)
            }
            recv(self.parent) -> _ => Err(RecvTimeoutError::Disconnected),
            recv(changes) -> change => Ok(Heard::Change(change.ok())),
            default(wait) => Err(RecvTimeoutError::Timeout),
        }
    }

    fn hear(&mut self, message: Message) -> Option<Ended> {
        match message {
            Message::Request(request) if request.method == Shutdown::METHOD => return Some(self.shut(request)),
            // What is being typed has to be helped with at once.
            Message::Request(request) if is_at_once(&request.method) => self.conversation.answer(request),
            Message::Request(request) => self.conversation.waiting.push_back(request),
            Message::Notification(told) if told.method == Exit::METHOD => return Some(Ended::Gone),
            Message::Notification(told) => self.conversation.hear_told(told),
            Message::Response(_) => {}
        }
        None
    }

    fn shut(&mut self, request: Request) -> Ended {
        let telling = &self.conversation.telling;
        telling.answer(Response::new_ok(request.id, Value::Null));
        let refuse =
            |id, code: ErrorCode, why: &str| telling.answer(Response::new_err(id, code as i32, why.to_string()));
        for waiting in std::mem::take(&mut self.conversation.waiting) {
            refuse(waiting.id, ErrorCode::RequestCanceled, "the server is being shut down");
        }
        loop {
            match self.connection.receiver.recv() {
                Ok(Message::Notification(told)) if told.method == Exit::METHOD => return Ended::Shut,
                Ok(Message::Request(request)) => {
                    refuse(request.id, ErrorCode::InvalidRequest, "the server is shut down")
                }
                Ok(_) => {}
                Err(_) => return Ended::Gone,
            }
        }
    }
}
