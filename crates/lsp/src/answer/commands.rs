//! What an editor has carried out for a lens or an action.

use lsp_server::ErrorCode;
use lsp_types::{ApplyWorkspaceEditParams, ExecuteCommandParams, MessageType, ShowMessageParams};
use serde_json::Value;
use truehook_core::address::Address;

use crate::answer::{Answered, Aside, MEND, SHOW, actions, words};
use crate::theme::Theme;
use crate::world::World;

/// Carries out a command.
pub fn execute(world: &World, params: ExecuteCommandParams) -> Answered {
    let text = |at: usize| params.arguments.get(at).and_then(Value::as_str);
    let theme = text(0).and_then(|folder| world.themes.iter().find(|theme| theme.folder == folder));
    let refused =
        |message: &str| Answered { result: Err((ErrorCode::InvalidParams, message.to_string())), asides: Vec::new() };
    let Some(theme) = theme else { return refused("the first argument has to be the folder of a theme") };
    match params.command.as_str() {
        MEND => mend(world, theme),
        SHOW => match text(1).and_then(|address| address.parse::<Address>().ok()) {
            Some(address) => show(theme, address),
            None => refused("the second argument has to be the address of a point"),
        },
        other => refused(&format!("there is no command {other}")),
    }
}

fn mend(world: &World, theme: &Theme) -> Answered {
    let Some((title, edit)) = actions::fix_all(world, theme) else {
        return Answered {
            result: Ok(Value::Null),
            asides: vec![message("nothing that can be mended without asking")],
        };
    };
    let params = ApplyWorkspaceEditParams { label: Some(title), edit };
    let params = serde_json::to_value(params).unwrap_or_default();
    Answered { result: Ok(Value::Null), asides: vec![Aside::Ask("workspace/applyEdit", params)] }
}

/// What is known of a point, as a message.
fn show(theme: &Theme, address: Address) -> Answered {
    let text = words::point(&theme.registry, address).unwrap_or_else(|| format!("no layer declares `{address}`"));
    let plain = text.replace("**", "").replace('`', "");
    Answered { result: Ok(Value::String(text)), asides: vec![message(&plain)] }
}

fn message(text: &str) -> Aside {
    let params = ShowMessageParams { typ: MessageType::INFO, message: text.to_string() };
    Aside::Tell("window/showMessage", serde_json::to_value(params).unwrap_or_default())
}
