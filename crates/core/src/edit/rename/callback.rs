//! Callbacks.

use crate::command_line;
use oxc_allocator::Allocator;
use oxc_ast::ast::Statement;
use oxc_parser::Parser;
use oxc_semantic::{SemanticBuilder, SymbolId};
use oxc_span::{GetSpan, SourceType};

use super::super::words::words;
use super::{Renaming, code, own_files, own_references, told_below};
use crate::edit::EditError;
use crate::link::{Registry, Target};
use crate::names::{hint, nearest};
use crate::read::FileKind;
use crate::scan::{CallRef, Prefix};
use crate::source::{At, Edit, FileId, Span};

pub(super) fn rename(registry: &Registry, from: &str, to: &str) -> Result<Renaming, EditError> {
    let wrong = || EditError::new(format!("`{from}` is no callback, as in notes.js#today"));
    let call = CallRef::parse(from, At::default()).ok_or_else(wrong)?;
    let top = registry.project().top();
    let own = registry.project().layer(top).name;
    match call.prefix {
        Prefix::None => {}
        Prefix::Layer(layer) if layer == own => {}
        _ => {
            return Err(EditError::new(format!(
                "{from} is a callback of a lower layer; replace puts another in its place"
            )));
        }
    }
    // The new name alone will do, too.
    let new = match to.split_once('#') {
        Some((file, new)) if file == call.file.as_str() || file.is_empty() => new,
        Some(_) => {
            return Err(EditError::new(format!(
                "a callback stays in its module: {}",
                command_line!["rename", from, format!("{}#NEW", call.file)]
            )));
        }
        None => to,
    };
    let is_name = new.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_' || c == '$')
        && new.chars().all(|c| c.is_ascii_alphanumeric() || c == '_' || c == '$');
    if !is_name || RESERVED.contains(&new) {
        return Err(EditError::new(format!("`{new}` can't be the name of a function")));
    }
    let old = call.export.as_str();
    let Some(file) = registry.project().find(top, &format!("code/{}", call.file)) else {
        let modules: Vec<&str> = own_files(registry)
            .filter(|(_, file)| file.kind == FileKind::Module)
            .map(|(_, file)| file.name())
            .collect();
        let near = nearest(&call.file, modules.iter().copied()).map(|near| format!("{near}#{old}"));
        return Err(EditError::new(format!("there is no module {} in this theme{}", call.file, hint(&near))));
    };
    let Some(module) = registry.module(file).filter(|module| !module.broken) else {
        return Err(EditError::new(format!("code/{} doesn't parse; mend that first (truehook check)", call.file)));
    };
    let exports: Vec<&str> = module.exports.iter().map(|export| export.name.as_str()).collect();
    if !exports.contains(&old) {
        let near = nearest(old, exports.iter().copied()).map(|near| format!("{}#{near}", call.file));
        return Err(EditError::new(format!("code/{} exports no {old}{}", call.file, hint(&near))));
    }
    let target = Target::Export(file, call.export);
    let mut renaming = Renaming::default();
    renaming.plan.edits = in_module(file, registry.project().file(file).text(), old, new)
        .map_err(|why| EditError::new(format!("code/{}: {why}", call.file)))?;
    for (manifest, source) in own_files(registry).filter(|(_, file)| file.kind == FileKind::Manifest) {
        let text = source.text();
        let written = [format!("{}#{old}", call.file), format!("{own}:{}#{old}", call.file)];
        for word in words(text).into_iter().filter(|word| !word.is_key && written.contains(&word.text)) {
            renaming.plan.edits.push(word.with(manifest, text, &format!("#{old}"), &format!("#{new}")));
        }
    }
    for reference in own_references(registry, |reference| reference.outcome.target() == Some(target)) {
        let (from, span) = (reference.from.file, registry.span(reference.from));
        let source = registry.project().file(from);
        if source.kind == FileKind::Module && from != file {
            renaming.plan.edits.extend(code::imported(from, source.text(), span, (old, new)));
        }
    }
    for (other, source) in own_files(registry).filter(|(other, _)| *other != file) {
        let imports = registry.module(other).map(|module| module.imports.as_slice()).unwrap_or_default();
        let all = imports
            .iter()
            .any(|import| import.all && registry.resolve_import(other, import.from.name.as_str()) == Some(file));
        if all {
            renaming.told.push(format!("{} takes all of {}; look there for {old}", source.path, call.file));
        }
    }
    renaming.told.extend(told_below(registry, from, |reference| reference.outcome.target() == Some(target)));
    renaming.names.push((format!("{}#{old}", call.file), format!("{}#{new}", call.file)));
    renaming.names.push((format!("`{old}`"), format!("`{new}`")));
    Ok(renaming)
}

/// Words that can't be names (ECMA-262, 12.7.2).
const RESERVED: [&str; 40] = [
    "await",
    "break",
    "case",
    "catch",
    "class",
    "const",
    "continue",
    "debugger",
    "default",
    "delete",
    "do",
    "else",
    "enum",
    "export",
    "extends",
    "false",
    "finally",
    "for",
    "function",
    "if",
    "import",
    "in",
    "instanceof",
    "let",
    "new",
    "null",
    "return",
    "static",
    "super",
    "switch",
    "this",
    "throw",
    "true",
    "try",
    "typeof",
    "var",
    "void",
    "while",
    "with",
    "yield",
];

/// The edits of the module itself: what is exported, and what stands for it inside.
fn in_module(file: FileId, text: &str, old: &str, new: &str) -> Result<Vec<Edit>, String> {
    if old == "default" {
        return Err("the default export has no name to change".into());
    }
    let allocator = Allocator::default();
    let parsed = Parser::new(&allocator, text, SourceType::mjs()).parse();
    let built = SemanticBuilder::new().with_build_nodes(true).build(&parsed.program);
    let semantic = &built.semantic;
    let edit =
        |span: oxc_span::Span, new: String| Edit { file, span: Span::new(span.start as usize, span.end as usize), new };
    // `export { a as old }`, also of another module: only what it is called outside changes.
    for statement in &parsed.program.body {
        let specifiers = match statement {
            Statement::ExportNamedDeclaration(export) => &export.specifiers,
            Statement::ExportFromDeclaration(export) => &export.specifiers,
            _ => continue,
        };
        let Some(specifier) = specifiers.iter().find(|specifier| specifier.exported.name() == old) else { continue };
        let (local, exported) = (specifier.local.span(), specifier.exported.span());
        let between = text.get(local.end as usize..exported.start as usize);
        return Ok(vec![match between {
            None => edit(exported, format!("{old} as {new}")),
            Some(" as ") if specifier.local.name() == new => {
                edit(oxc_span::Span::new(local.start, exported.end), new.to_string())
            }
            Some(_) => edit(exported, new.to_string()),
        }]);
    }
    let scoping = semantic.scoping();
    let root = scoping.root_scope_id();
    let symbol: Option<SymbolId> = scoping.get_binding(root, old.into());
    let Some(symbol) = symbol else { return Err(format!("`{old}` is passed on from another module; rename it there")) };
    let taken = scoping.symbol_ids().any(|other| scoping.symbol_name(other) == new)
        || scoping.root_unresolved_references().keys().any(|name| *name == new);
    if taken {
        return Err(format!("`{new}` is the name of something else in there"));
    }
    let mut edits = vec![edit(scoping.symbol_span(symbol), new.to_string())];
    for reference in scoping.get_resolved_references(symbol) {
        let span = semantic.nodes().kind(reference.node_id()).span();
        let before = text[..span.start as usize].trim_end();
        let after = text[span.end as usize..].trim_start();
        // `{ old }` of an object: its property keeps its name.
        let in_object = matches!(semantic.nodes().parent_kind(reference.node_id()), oxc_ast::AstKind::ObjectProperty(property) if property.shorthand);
        let spelt_out = matches!(semantic.nodes().parent_kind(reference.node_id()), oxc_ast::AstKind::ObjectProperty(property)
            if !property.shorthand && property.key.static_name().as_deref() == Some(new) && before.ends_with(':') && after.starts_with([',', '}']));
        edits.push(if in_object {
            edit(span, format!("{old}: {new}"))
        } else if spelt_out && text[..span.start as usize].ends_with(&format!("{new}: ")) {
            edit(oxc_span::Span::new(span.start - new.len() as u32 - 2, span.end), new.to_string())
        } else {
            edit(span, new.to_string())
        });
    }
    Ok(edits)
}
