//! The server: what comes in is put in order, and answered.

use std::collections::{BTreeMap, BTreeSet, VecDeque};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::thread;
use std::time::Duration;

use camino::Utf8PathBuf;
use crossbeam_channel::{Receiver, RecvTimeoutError, select, unbounded};
use lsp_server::{Connection, ErrorCode, Message, Notification, Request, RequestId, Response};
use lsp_types::notification::{self, Notification as _};
use lsp_types::{
    CancelParams, Diagnostic, DidChangeTextDocumentParams, DidChangeWatchedFilesParams,
    DidChangeWorkspaceFoldersParams, DidCloseTextDocumentParams, DidOpenTextDocumentParams, DidSaveTextDocumentParams,
    InitializeParams, InitializeResult, NumberOrString, PublishDiagnosticsParams, ServerInfo, Uri,
};
use serde::de::DeserializeOwned;
use serde_json::Value;
use truehook_changes::{Change, Changes};

use crate::answer::{self, Answered, Aside};
use crate::client::Client;
use crate::diagnostics::of_theme;
use crate::laid::Buffer;
use crate::offered::capabilities;
use crate::paths::path_of;
use crate::telling::Telling;
use crate::theme::themes_below;
use crate::world::World;

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

/// Speaks with one editor over standard input and output, until it goes.
///
/// # Errors
/// Where what comes in is not the protocol.
pub fn serve() -> Result<Ended, LspError> {
    let (connection, threads) = Connection::stdio();
    let ended = serve_on(connection)?;
    // Whoever went without a word may have left the other end open.
    if ended == Ended::Shut {
        threads.join()?;
    }
    Ok(ended)
}

/// Speaks with one editor over a connection, until it goes.
///
/// # Errors
/// Where what comes in is not the protocol.
pub fn serve_on(connection: Connection) -> Result<Ended, LspError> {
    let (id, said) = connection.initialize_start().map_err(|error| LspError::Protocol(error.to_string()))?;
    let said: InitializeParams = serde_json::from_value(said).map_err(|error| LspError::Protocol(error.to_string()))?;
    let client = Client::new(&said.capabilities);
    let server = ServerInfo { name: "truehook".into(), version: Some(env!("CARGO_PKG_VERSION").into()) };
    let result = InitializeResult { capabilities: capabilities(&client), server_info: Some(server) };
    let result = serde_json::to_value(result).map_err(|error| LspError::Protocol(error.to_string()))?;
    connection.initialize_finish(id, result).map_err(|error| LspError::Protocol(error.to_string()))?;
    let mut server = Server::new(connection, client);
    server.begin(&roots(&said));
    server.run()
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

/// One conversation with an editor.
struct Server {
    connection: Connection,
    world: World,
    telling: Telling,
    /// Files that have changed and are not taken into account yet.
    changed: BTreeSet<Utf8PathBuf>,
    /// May any file have changed?
    all: bool,
    /// Requests that wait for that.
    waiting: VecDeque<Request>,
    /// What was last told of each file.
    told: BTreeMap<String, (Uri, Vec<Diagnostic>)>,
    /// What changes on the disk, where the editor doesn't tell.
    watched: Option<Watched>,
}

/// Watches folders in a thread of its own.
struct Watched {
    changes: Receiver<Change>,
    folders: crossbeam_channel::Sender<Utf8PathBuf>,
    known: BTreeSet<Utf8PathBuf>,
}

impl Server {
    fn new(connection: Connection, client: Client) -> Server {
        let telling = Telling::new(connection.sender.clone());
        Server {
            connection,
            world: World::new(client),
            telling,
            changed: BTreeSet::new(),
            all: false,
            waiting: VecDeque::new(),
            told: BTreeMap::new(),
            watched: None,
        }
    }

    /// Opens the themes of the workspace.
    fn begin(&mut self, roots: &[Utf8PathBuf]) {
        if self.world.client.watches {
            self.telling.watch_files();
        } else {
            self.watched = Watched::begin();
        }
        self.open_below(roots);
    }

    fn open_below(&mut self, roots: &[Utf8PathBuf]) {
        let folders: Vec<Utf8PathBuf> = roots.iter().flat_map(|root| themes_below(root)).collect();
        if folders.is_empty() {
            return;
        }
        let shown = self.world.client.progress.then(|| self.telling.begin("True Hook reads the themes"));
        for (at, folder) in folders.iter().enumerate() {
            if let Some(token) = &shown {
                let name = folder.file_name().unwrap_or_default();
                self.telling.report(token, name, (at * 100 / folders.len()) as u32);
            }
            self.world.open(folder);
        }
        if let Some(token) = &shown {
            self.telling.end(token);
        }
        self.watch_layers();
        self.tell();
    }

    /// Until the editor goes. What has come in is heard first, then changes are taken into account, then what had to
    /// know of them is answered.
    fn run(&mut self) -> Result<Ended, LspError> {
        loop {
            let busy = self.all || !self.changed.is_empty() || !self.waiting.is_empty();
            let wait = if busy { SILENCE } else { Duration::from_secs(3600) };
            match self.next(wait) {
                Ok(Heard::Message(message)) => {
                    if let Some(ended) = self.hear(message)? {
                        return Ok(ended);
                    }
                }
                Ok(Heard::Change(change)) => self.hear_change(change),
                Err(RecvTimeoutError::Timeout) => self.catch_up(),
                Err(RecvTimeoutError::Disconnected) => return Ok(Ended::Gone),
            }
        }
    }

    fn next(&self, wait: Duration) -> Result<Heard, RecvTimeoutError> {
        let never = crossbeam_channel::never();
        let changes = self.watched.as_ref().map_or(&never, |watched| &watched.changes);
        select! {
            recv(self.connection.receiver) -> message => {
                message.map(Heard::Message).map_err(|_| RecvTimeoutError::Disconnected)
            }
            recv(changes) -> change => match change {
                Ok(change) => Ok(Heard::Change(change)),
                Err(_) => Err(RecvTimeoutError::Timeout),
            },
            default(wait) => Err(RecvTimeoutError::Timeout),
        }
    }

    fn hear(&mut self, message: Message) -> Result<Option<Ended>, LspError> {
        match message {
            Message::Request(request) => {
                if request.method == "shutdown" {
                    return self.shut(request).map(Some);
                }
                // What is being typed has to be helped with at once.
                if answer::is_at_once(&request.method) {
                    self.answer(request);
                } else {
                    self.waiting.push_back(request);
                }
            }
            Message::Notification(told) if told.method == notification::Exit::METHOD => return Ok(Some(Ended::Gone)),
            Message::Notification(told) => self.hear_told(told),
            Message::Response(_) => {}
        }
        Ok(None)
    }

    fn shut(&mut self, request: Request) -> Result<Ended, LspError> {
        self.telling.answer(Response::new_ok(request.id, Value::Null));
        for waiting in std::mem::take(&mut self.waiting) {
            let refused = "the server is being shut down".to_string();
            self.telling.answer(Response::new_err(waiting.id, ErrorCode::RequestCanceled as i32, refused));
        }
        loop {
            match self.connection.receiver.recv() {
                Ok(Message::Notification(told)) if told.method == notification::Exit::METHOD => return Ok(Ended::Shut),
                Ok(Message::Request(request)) => {
                    let refused = "the server is shut down".to_string();
                    self.telling.answer(Response::new_err(request.id, ErrorCode::InvalidRequest as i32, refused));
                }
                Ok(_) => {}
                Err(_) => return Ok(Ended::Gone),
            }
        }
    }

    fn hear_told(&mut self, told: Notification) {
        match told.method.as_str() {
            notification::DidOpenTextDocument::METHOD => self.with(told, Server::opened),
            notification::DidChangeTextDocument::METHOD => self.with(told, Server::typed),
            notification::DidCloseTextDocument::METHOD => self.with(told, Server::closed),
            notification::DidSaveTextDocument::METHOD => self.with(told, Server::saved),
            notification::DidChangeWatchedFiles::METHOD => self.with(told, Server::changed_on_disk),
            notification::DidChangeWorkspaceFolders::METHOD => self.with(told, Server::folders),
            notification::Cancel::METHOD => self.with(told, Server::cancel),
            _ => {}
        }
    }

    fn with<P: DeserializeOwned>(&mut self, told: Notification, then: fn(&mut Server, P)) {
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

    fn hear_change(&mut self, change: Change) {
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
        self.world.themes.retain(|theme| !gone.iter().any(|folder| theme.folder.starts_with(folder)));
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

    /// Takes changes into account, and answers what waits for that.
    fn catch_up(&mut self) {
        let changed = std::mem::take(&mut self.changed);
        let all = std::mem::take(&mut self.all);
        if all || !changed.is_empty() {
            self.new_themes(&changed);
            if self.world.renew((!all).then_some(&changed)) {
                self.watch_layers();
                self.tell();
            }
        }
        while let Some(request) = self.waiting.pop_front() {
            self.answer(request);
        }
    }

    /// A folder becomes a theme as a manifest comes into it.
    fn new_themes(&mut self, changed: &BTreeSet<Utf8PathBuf>) {
        for path in changed.iter().filter(|path| path.file_name() == Some("truehook.toml")) {
            if let Some(folder) = path.parent().map(ToOwned::to_owned) {
                self.world.open(&folder);
            }
        }
    }

    fn answer(&mut self, request: Request) {
        let Request { id, method, params } = request;
        // What can't be answered is no reason to leave the editor alone.
        let (world, told) = (&self.world, &self.told);
        let answered = catch_unwind(AssertUnwindSafe(|| answer::answer(world, told, &method, params)));
        let broken = |_| Answered {
            result: Err((ErrorCode::InternalError, "this is a mistake in True Hook; please tell of it".to_string())),
            asides: Vec::new(),
        };
        let Answered { result, asides } = answered.unwrap_or_else(broken);
        for aside in asides {
            match aside {
                Aside::Ask(method, params) => self.telling.ask(method, params),
                Aside::Tell(method, params) => self.telling.tell(method, params),
            }
        }
        self.telling.answer(match result {
            Ok(value) => Response::new_ok(id, value),
            Err((code, message)) => Response::new_err(id, code as i32, message),
        });
    }

    /// Tells what has become of the findings, where the editor doesn't ask by itself.
    fn tell(&mut self) {
        let mut now: BTreeMap<String, (Uri, Vec<Diagnostic>)> = BTreeMap::new();
        for theme in &self.world.themes {
            for (key, (uri, found)) in of_theme(&self.world, theme) {
                now.entry(key).or_insert_with(|| (uri, Vec::new())).1.extend(found);
            }
        }
        let before = std::mem::replace(&mut self.told, now);
        if self.world.client.pulls {
            if self.world.client.pulls_again && before != self.told {
                self.telling.ask("workspace/diagnostic/refresh", Value::Null);
            }
        } else {
            let gone = before.iter().filter(|(key, _)| !self.told.contains_key(*key));
            let gone = gone.map(|(_, (uri, _))| (uri.clone(), Vec::new()));
            let new = self.told.iter().filter(|(key, known)| before.get(*key) != Some(known));
            let new = new.map(|(_, (uri, found))| (uri.clone(), found.clone()));
            for (uri, diagnostics) in gone.chain(new) {
                let version = path_of(&uri).and_then(|path| Some(self.world.files.buffer(&path)?.version));
                let params = PublishDiagnosticsParams { uri, diagnostics, version };
                self.telling.notify::<notification::PublishDiagnostics>(params);
            }
        }
        if self.world.client.lenses_again {
            self.telling.ask("workspace/codeLens/refresh", Value::Null);
        }
        if self.world.client.hints_again {
            self.telling.ask("workspace/inlayHint/refresh", Value::Null);
        }
    }

    /// Watches the folders of all layers, where the editor doesn't.
    fn watch_layers(&mut self) {
        let layers = self.world.themes.iter().flat_map(|theme| &theme.registry.project().layers);
        let roots: Vec<Utf8PathBuf> = layers.filter(|layer| !layer.built_in).map(|layer| layer.root.clone()).collect();
        if let Some(watched) = &mut self.watched {
            for root in roots {
                if watched.known.insert(root.clone()) {
                    drop(watched.folders.send(root));
                }
            }
        }
    }
}

/// What came in.
enum Heard {
    Message(Message),
    Change(Change),
}

impl Watched {
    /// Nothing where the system can't tell.
    fn begin() -> Option<Watched> {
        let mut changes = Changes::new().ok()?;
        let (send, receive) = unbounded();
        let (folders, asked) = unbounded::<Utf8PathBuf>();
        thread::Builder::new()
            .name("changes".into())
            .spawn(move || {
                loop {
                    while let Ok(folder) = asked.try_recv() {
                        // A folder that is gone can't be watched, and there is nothing in it.
                        drop(changes.watch(&folder));
                    }
                    match changes.wait_for(Duration::from_millis(200)) {
                        Ok(None) => {}
                        Ok(Some(change)) => {
                            if send.send(change).is_err() {
                                return;
                            }
                        }
                        Err(_) => return,
                    }
                }
            })
            .ok()?;
        Some(Watched { changes: receive, folders, known: BTreeSet::new() })
    }
}

/// Diagnostics of a file, as they were last told.
pub type Told = BTreeMap<String, (Uri, Vec<Diagnostic>)>;
