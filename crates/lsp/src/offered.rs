//! What we offer to an editor.

use lsp_types::*;

use crate::answer::COMMANDS;
use crate::client::Client;

/// What answers there are to be had.
pub fn capabilities(client: &Client) -> ServerCapabilities {
    let pulls = DiagnosticOptions {
        identifier: Some(crate::diagnostics::SOURCE.to_string()),
        inter_file_dependencies: true,
        workspace_diagnostics: true,
        ..Default::default()
    };
    let typed = ["\"", "'", ":", "#", ".", "/", "|", "[", "="];
    ServerCapabilities {
        position_encoding: Some(client.encoding.kind()),
        text_document_sync: Some(TextDocumentSyncCapability::Options(TextDocumentSyncOptions {
            open_close: Some(true),
            change: Some(TextDocumentSyncKind::INCREMENTAL),
            save: Some(TextDocumentSyncSaveOptions::SaveOptions(SaveOptions { include_text: Some(false) })),
            ..Default::default()
        })),
        diagnostic_provider: client.pulls.then_some(DiagnosticServerCapabilities::Options(pulls)),
        completion_provider: Some(CompletionOptions {
            trigger_characters: Some(typed.map(str::to_string).to_vec()),
            ..Default::default()
        }),
        hover_provider: Some(HoverProviderCapability::Simple(true)),
        definition_provider: Some(OneOf::Left(true)),
        declaration_provider: Some(DeclarationCapability::Simple(true)),
        implementation_provider: Some(ImplementationProviderCapability::Simple(true)),
        references_provider: Some(OneOf::Left(true)),
        document_highlight_provider: Some(OneOf::Left(true)),
        document_link_provider: Some(DocumentLinkOptions {
            resolve_provider: Some(false),
            work_done_progress_options: Default::default(),
        }),
        document_symbol_provider: Some(OneOf::Left(true)),
        workspace_symbol_provider: Some(OneOf::Left(true)),
        code_lens_provider: Some(CodeLensOptions { resolve_provider: Some(false) }),
        inlay_hint_provider: Some(OneOf::Left(true)),
        code_action_provider: Some(CodeActionProviderCapability::Options(CodeActionOptions {
            code_action_kinds: Some(vec![
                CodeActionKind::QUICKFIX,
                CodeActionKind::REFACTOR,
                CodeActionKind::SOURCE_FIX_ALL,
            ]),
            ..Default::default()
        })),
        rename_provider: Some(OneOf::Right(RenameOptions {
            prepare_provider: Some(true),
            work_done_progress_options: Default::default(),
        })),
        execute_command_provider: Some(ExecuteCommandOptions {
            commands: COMMANDS.map(str::to_string).to_vec(),
            ..Default::default()
        }),
        workspace: Some(WorkspaceServerCapabilities {
            workspace_folders: Some(WorkspaceFoldersServerCapabilities {
                supported: Some(true),
                change_notifications: Some(OneOf::Left(true)),
            }),
            file_operations: None,
        }),
        ..Default::default()
    }
}
