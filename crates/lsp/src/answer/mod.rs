//! Answers: each a function of the world and of what was asked.

mod goto;
mod hover;
mod pull;
mod words;

use lsp_server::ErrorCode;
use lsp_types::request::{self, Request};
use serde_json::Value;

use crate::server::Told;
use crate::world::World;

/// What an editor can have carried out.
pub const COMMANDS: [&str; 0] = [];

/// An answer, and what the editor is asked to do because of it.
pub struct Answered {
    /// The answer, or why there is none.
    pub result: Answer,
    /// What is asked: the method, and what goes with it.
    pub asks: Vec<(&'static str, Value)>,
}

/// An answer, or why there is none.
pub type Answer = Result<Value, (ErrorCode, String)>;

/// Is this answered from what was last known, since somebody is waiting with the hand on a key?
pub fn is_at_once(method: &str) -> bool {
    method == request::Completion::METHOD
}

/// Answers a request.
pub fn answer(world: &mut World, told: &Told, method: &str, params: Value) -> Answered {
    let world = &*world;
    let result = match method {
        request::GotoDefinition::METHOD => of::<request::GotoDefinition>(params, |params| goto::definition(world, params)),
        request::GotoDeclaration::METHOD => {
            of::<request::GotoDeclaration>(params, |params| goto::declaration(world, params))
        }
        request::GotoImplementation::METHOD => {
            of::<request::GotoImplementation>(params, |params| goto::implementation(world, params))
        }
        request::References::METHOD => of::<request::References>(params, |params| goto::references(world, params)),
        request::DocumentHighlightRequest::METHOD => {
            of::<request::DocumentHighlightRequest>(params, |params| goto::highlights(world, params))
        }
        request::HoverRequest::METHOD => of::<request::HoverRequest>(params, |params| hover::hover(world, params)),
        request::DocumentDiagnosticRequest::METHOD => {
            of::<request::DocumentDiagnosticRequest>(params, |params| pull::document(told, params))
        }
        request::WorkspaceDiagnosticRequest::METHOD => {
            of::<request::WorkspaceDiagnosticRequest>(params, |params| pull::workspace(world, told, params))
        }
        _ => Err((ErrorCode::MethodNotFound, format!("there is no {method}"))),
    };
    Answered { result, asks: Vec::new() }
}

fn of<R: Request>(params: Value, answer: impl FnOnce(R::Params) -> R::Result) -> Answer {
    let params = serde_json::from_value(params).map_err(|error| (ErrorCode::InvalidParams, error.to_string()))?;
    serde_json::to_value(answer(params)).map_err(|error| (ErrorCode::InternalError, error.to_string()))
}
