//! One conversation with an editor: what is known, what has changed since, and what waits for that.

use std::collections::{BTreeMap, BTreeSet, VecDeque};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::time::Instant;

use camino::Utf8PathBuf;
use lsp_server::{ErrorCode, Request, Response};
use lsp_types::notification;
use lsp_types::{Diagnostic, PublishDiagnosticsParams, Uri};
use serde_json::Value;

use crate::answer::{self, Answered, Aside, Told};
use crate::client::Client;
use crate::diagnostics::of_theme;
use crate::paths::path_of;
use crate::telling::Telling;
use crate::theme::themes_below;
use crate::watched::Watched;
use crate::world::World;

/// One conversation with an editor.
pub struct Conversation {
    /// The themes, over the files as the editor sees them.
    pub world: World,
    /// The way to the editor.
    pub telling: Telling,
    /// Files that have changed and are not taken into account yet.
    pub changed: BTreeSet<Utf8PathBuf>,
    /// May any file have changed?
    pub all: bool,
    /// Requests that wait for that.
    pub waiting: VecDeque<Request>,
    /// What was last told of each file.
    pub told: Told,
    /// What changes on the disk, where the editor doesn't tell.
    pub watched: Option<Watched>,
}

impl Conversation {
    /// With an editor that can do some things.
    pub fn new(telling: Telling, client: Client) -> Conversation {
        Conversation {
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
    pub fn begin(&mut self, roots: &[Utf8PathBuf]) {
        if self.world.client.watches {
            self.telling.watch_files();
        } else {
            self.watched = Watched::begin();
        }
        self.open_below(roots);
    }

    /// Opens the themes below some folders.
    pub fn open_below(&mut self, roots: &[Utf8PathBuf]) {
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

    /// Is there anything to be taken into account, or to be answered after that?
    pub fn is_behind(&self) -> bool {
        self.all || !self.changed.is_empty() || !self.waiting.is_empty()
    }

    /// Takes changes into account, and answers what waits for that.
    pub fn catch_up(&mut self) {
        let changed = std::mem::take(&mut self.changed);
        let all = std::mem::take(&mut self.all);
        if all || !changed.is_empty() {
            let files: Vec<&str> = changed.iter().map(|path| path.as_str()).collect();
            tracing::debug!(all, ?files, "heard of changes");
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

    /// Answers a request.
    pub fn answer(&mut self, request: Request) {
        let Request { id, method, params } = request;
        let begun = Instant::now();
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
        let milliseconds = begun.elapsed().as_millis();
        match &result {
            Ok(_) => tracing::debug!(%id, method, milliseconds, "answered"),
            Err((code, why)) => tracing::warn!(%id, method, milliseconds, code = *code as i32, why, "refused"),
        }
        self.telling.answer(match result {
            Ok(value) => Response::new_ok(id, value),
            Err((code, message)) => Response::new_err(id, code as i32, message),
        });
    }

    /// Tells what has become of the findings, where the editor doesn't ask by itself.
    pub fn tell(&mut self) {
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
    pub fn watch_layers(&mut self) {
        let layers = self.world.themes.iter().flat_map(|theme| &theme.registry.project().layers);
        let roots: Vec<Utf8PathBuf> = layers.filter(|layer| !layer.built_in).map(|layer| layer.root.clone()).collect();
        if let Some(watched) = &mut self.watched {
            roots.into_iter().for_each(|root| watched.watch(root));
        }
    }
}
