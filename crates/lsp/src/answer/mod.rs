//! Answers: each a function of the world and of what was asked.

mod actions;
mod commands;
mod complete;
mod edits;
mod goto;
mod hints;
mod hover;
mod lenses;
mod links;
mod pull;
mod rename;
mod symbols;
mod words;

use std::collections::BTreeMap;

use lsp_server::ErrorCode;
use lsp_types::request::{self, Request};
use lsp_types::{Diagnostic, Uri};
use serde::de::DeserializeOwned;
use serde_json::Value;

use crate::world::World;

/// The command that mends all that can be mended without asking. Its argument is the theme's folder.
pub const MEND: &str = "truehook.mend";
/// The command that tells of a point. Its arguments are the theme's folder and the point's address.
pub const SHOW: &str = "truehook.show";
/// What an editor can have carried out.
pub const COMMANDS: [&str; 2] = [MEND, SHOW];

/// Diagnostics of a file, as they were last told.
pub type Told = BTreeMap<String, (Uri, Vec<Diagnostic>)>;

/// An answer, and what the editor is told or asked to do because of it.
pub struct Answered {
    /// The answer, or why there is none.
    pub result: Answer,
    /// What is said beside it.
    pub asides: Vec<Aside>,
}

/// Something that is said to the editor beside an answer: the method, and what goes with it.
pub enum Aside {
    /// It is asked to do something.
    Ask(&'static str, Value),
    /// It is told something.
    Tell(&'static str, Value),
}

/// An answer, or why there is none.
pub type Answer = Result<Value, (ErrorCode, String)>;

/// Is this answered from what was last known, since somebody is waiting with the hand on a key?
pub fn is_at_once(method: &str) -> bool {
    method == request::Completion::METHOD
}

/// Answers a request.
pub fn answer(world: &World, told: &Told, method: &str, params: Value) -> Answered {
    let plain = |result: Answer| Answered { result, asides: Vec::new() };
    match method {
        request::Rename::METHOD => with(params, |params| rename::change(world, params)),
        request::ExecuteCommand::METHOD => with(params, |params| commands::execute(world, params)),
        request::PrepareRenameRequest::METHOD => with(params, |params| {
            plain(match rename::prepare(world, params) {
                Ok(found) => encoded(found),
                Err(message) => Err((ErrorCode::RequestFailed, message)),
            })
        }),
        _ => plain(simple(world, told, method, params)),
    }
}

fn simple(world: &World, told: &Told, method: &str, params: Value) -> Answer {
    match method {
        request::GotoDefinition::METHOD => of::<request::GotoDefinition>(world, params, goto::definition),
        request::GotoDeclaration::METHOD => of::<request::GotoDeclaration>(world, params, goto::declaration),
        request::GotoImplementation::METHOD => of::<request::GotoImplementation>(world, params, goto::implementation),
        request::References::METHOD => of::<request::References>(world, params, goto::references),
        request::DocumentHighlightRequest::METHOD => {
            of::<request::DocumentHighlightRequest>(world, params, goto::highlights)
        }
        request::Completion::METHOD => of::<request::Completion>(world, params, complete::complete),
        request::HoverRequest::METHOD => of::<request::HoverRequest>(world, params, hover::hover),
        request::DocumentLinkRequest::METHOD => of::<request::DocumentLinkRequest>(world, params, links::links),
        request::DocumentSymbolRequest::METHOD => {
            of::<request::DocumentSymbolRequest>(world, params, symbols::document)
        }
        request::WorkspaceSymbolRequest::METHOD => {
            of::<request::WorkspaceSymbolRequest>(world, params, symbols::workspace)
        }
        request::CodeLensRequest::METHOD => of::<request::CodeLensRequest>(world, params, lenses::lenses),
        request::InlayHintRequest::METHOD => of::<request::InlayHintRequest>(world, params, hints::hints),
        request::CodeActionRequest::METHOD => of::<request::CodeActionRequest>(world, params, actions::actions),
        request::DocumentDiagnosticRequest::METHOD => {
            of::<request::DocumentDiagnosticRequest>(world, params, |_, params| pull::document(told, params))
        }
        request::WorkspaceDiagnosticRequest::METHOD => {
            of::<request::WorkspaceDiagnosticRequest>(world, params, |_, params| pull::workspace(world, told, params))
        }
        _ => Err((ErrorCode::MethodNotFound, format!("there is no {method}"))),
    }
}

fn of<R: Request>(world: &World, params: Value, answer: impl FnOnce(&World, R::Params) -> R::Result) -> Answer {
    encoded(answer(world, understood(params)?))
}

fn with<P: DeserializeOwned>(params: Value, answer: impl FnOnce(P) -> Answered) -> Answered {
    match understood(params) {
        Ok(params) => answer(params),
        Err(refused) => Answered { result: Err(refused), asides: Vec::new() },
    }
}

fn understood<P: DeserializeOwned>(params: Value) -> Result<P, (ErrorCode, String)> {
    serde_json::from_value(params).map_err(|error| (ErrorCode::InvalidParams, error.to_string()))
}

fn encoded(answer: impl serde::Serialize) -> Answer {
    serde_json::to_value(answer).map_err(|error| (ErrorCode::InternalError, error.to_string()))
}
