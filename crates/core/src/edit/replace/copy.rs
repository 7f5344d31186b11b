//! A function copied from a module of another layer, with what it needs: other functions and values of its module and
//! of those that it imports, and what the built-in module gives.

use std::collections::{BTreeMap, BTreeSet};

use oxc_allocator::Allocator;
use oxc_ast::ast::{BindingPattern, Declaration, Expression, ImportDeclarationSpecifier, Program, Statement};
use oxc_parser::Parser;
use oxc_semantic::{Semantic, SemanticBuilder};
use oxc_span::{GetSpan, SourceType};

use super::super::{EditError, Plan, line_end, with_line_ends_of};
use crate::link::{Callback, Registry};
use crate::scan::CallRef;
use crate::source::{Edit, FileId, Span};

/// The built-in module.
const BUILT_IN: &str = "truehook";

/// What is copied, in the order in which it is written.
#[derive(Default)]
struct Copied {
    /// Names of the built-in module.
    imports: BTreeSet<String>,
    /// Names, and the texts that declare them.
    pieces: Vec<(String, String)>,
    /// What was copied from which module.
    seen: BTreeSet<(FileId, String)>,
}

/// The parameters of a function, as they are written.
pub(super) fn params(registry: &Registry, callback: Callback) -> Option<String> {
    let text = registry.project().file(callback.file).text();
    let allocator = Allocator::default();
    let parsed = Parser::new(&allocator, text, SourceType::mjs()).parse();
    let span = |span: oxc_span::Span| text.get(span.start as usize..span.end as usize).map(str::to_string);
    parsed.program.body.iter().find_map(|statement| {
        let Statement::ExportDeclaration(export) = statement else { return None };
        match &export.declaration {
            Declaration::FunctionDeclaration(function) => {
                let named = function.id.as_ref().is_some_and(|id| id.name == callback.export.as_str());
                named.then(|| span(function.params.span))?
            }
            Declaration::VariableDeclaration(variables) => variables.declarations.iter().find_map(|variable| {
                let BindingPattern::BindingIdentifier(id) = &variable.id else { return None };
                match &variable.init {
                    Some(Expression::ArrowFunctionExpression(arrow)) if id.name == callback.export.as_str() => {
                        span(arrow.params.span)
                    }
                    _ => None,
                }
            }),
            _ => None,
        }
    })
}

/// The bytes of a function in its module, with the comment before it.
pub(super) fn extent(registry: &Registry, callback: Callback) -> Option<Span> {
    let text = registry.project().file(callback.file).text();
    let allocator = Allocator::default();
    let parsed = Parser::new(&allocator, text, SourceType::mjs()).parse();
    let span = GetSpan::span(declares(&parsed.program, callback.export.as_str())?);
    let comment = comment_before(text, span.start as usize);
    Some(Span::new(span.start as usize - comment.len(), span.end as usize))
}

/// Adds to a plan a copy of a callback, under the name of another.
pub(super) fn copy(registry: &Registry, callback: Callback, with: &CallRef, plan: &mut Plan) -> Result<(), EditError> {
    let mut copied = Copied::default();
    copied.take(registry, callback.file, callback.export.as_str(), Some(with.export.as_str()))?;
    write(registry, with, &copied, plan)
}

impl Copied {
    /// Takes a declaration of a module, and before it all that it needs.
    fn take(&mut self, registry: &Registry, file: FileId, name: &str, new: Option<&str>) -> Result<(), EditError> {
        if !self.seen.insert((file, name.to_string())) {
            return Ok(());
        }
        let text = registry.project().file(file).text();
        let allocator = Allocator::default();
        let parsed = Parser::new(&allocator, text, SourceType::mjs()).parse();
        let built = SemanticBuilder::new().with_build_nodes(true).build(&parsed.program);
        let shown = registry.project().shown(file);
        let by_hand = |why: &str| EditError::new(format!("{name} of {shown} can't be copied by command: {why}"));
        let Some(statement) = declares(&parsed.program, name) else {
            return Err(by_hand("it is not declared there by name"));
        };
        for (used, from) in needs(&built.semantic, statement) {
            match from {
                None if used == name => {}
                None => self.take(registry, file, &used, None)?,
                Some((module, _)) if module == BUILT_IN => {
                    self.imports.insert(used);
                }
                Some((module, Some(imported))) if imported == used => {
                    let Some(other) = registry.resolve_import(file, &module) else {
                        return Err(by_hand(&format!("{module} is not there")));
                    };
                    self.take(registry, other, &imported, None)?;
                }
                Some((module, _)) => {
                    return Err(by_hand(&format!("it calls what it takes from {module} by another name, `{used}`")));
                }
            }
        }
        let own = GetSpan::span(statement);
        let comment = comment_before(text, own.start as usize);
        let mut declared = text[own.start as usize..own.end as usize].to_string();
        if let Some(new) = new.filter(|new| *new != name) {
            let at = binding(statement, name).ok_or_else(|| by_hand("it has no name"))?;
            let start = (at.start - own.start) as usize;
            declared.replace_range(start..start + name.len(), new);
        }
        if new.is_none() {
            declared = declared.strip_prefix("export ").unwrap_or(&declared).to_string();
        } else if !declared.starts_with("export ") {
            declared.insert_str(0, "export ");
        }
        self.pieces.push((new.unwrap_or(name).to_string(), format!("{comment}{declared}").replace("\r\n", "\n")));
        Ok(())
    }
}

/// The statement that declares a name at the module's top.
fn declares<'p>(program: &'p Program<'p>, name: &str) -> Option<&'p Statement<'p>> {
    program.body.iter().find(|statement| binding(statement, name).is_some())
}

/// Where a statement declares a name.
fn binding(statement: &Statement<'_>, name: &str) -> Option<oxc_span::Span> {
    let of_variables = |variables: &oxc_ast::ast::VariableDeclaration<'_>| {
        variables.declarations.iter().find_map(|variable| match &variable.id {
            BindingPattern::BindingIdentifier(id) if id.name == name => Some(id.span),
            _ => None,
        })
    };
    let of = |declaration: &Declaration<'_>| match declaration {
        Declaration::FunctionDeclaration(function) => {
            function.id.as_ref().filter(|id| id.name == name).map(|id| id.span)
        }
        Declaration::ClassDeclaration(class) => class.id.as_ref().filter(|id| id.name == name).map(|id| id.span),
        Declaration::VariableDeclaration(variables) => of_variables(variables),
        _ => None,
    };
    match statement {
        Statement::ExportDeclaration(export) => of(&export.declaration),
        Statement::FunctionDeclaration(function) => function.id.as_ref().filter(|id| id.name == name).map(|id| id.span),
        Statement::ClassDeclaration(class) => class.id.as_ref().filter(|id| id.name == name).map(|id| id.span),
        Statement::VariableDeclaration(variables) => of_variables(variables),
        _ => None,
    }
}

/// A name that a statement uses, and where it is from: the module, and what it is called there.
type Need = (String, Option<(String, Option<String>)>);

/// The names of the module's top that a statement uses.
fn needs(semantic: &Semantic<'_>, statement: &Statement<'_>) -> Vec<Need> {
    let scoping = semantic.scoping();
    let within = GetSpan::span(statement);
    let imports = imports(semantic);
    let mut found: Vec<Need> = Vec::new();
    for symbol in scoping.symbol_ids().filter(|symbol| scoping.symbol_scope_id(*symbol) == scoping.root_scope_id()) {
        let used = scoping.get_resolved_references(symbol).any(|reference| {
            let span = semantic.nodes().kind(reference.node_id()).span();
            within.start <= span.start && span.end <= within.end
        });
        let name = scoping.symbol_name(symbol);
        let declared = scoping.symbol_span(symbol);
        let own = within.start <= declared.start && declared.end <= within.end;
        if used && !own {
            found.push((name.to_string(), imports.get(name).cloned()));
        }
    }
    found
}

/// What a module imports, by the name that it has there.
fn imports(semantic: &Semantic<'_>) -> BTreeMap<String, (String, Option<String>)> {
    let mut found = BTreeMap::new();
    let program = semantic.nodes().program();
    for statement in &program.body {
        let Statement::ImportDeclaration(import) = statement else { continue };
        for specifier in import.specifiers.iter().flatten() {
            let from = import.source.value.to_string();
            match specifier {
                ImportDeclarationSpecifier::ImportSpecifier(named) => {
                    let imported = named.imported.name().to_string();
                    found.insert(named.local.name.to_string(), (from, Some(imported)));
                }
                other => {
                    found.insert(other.name().to_string(), (from, None));
                }
            }
        }
    }
    found
}

/// The comments right before a place, line by line.
fn comment_before(text: &str, at: usize) -> &str {
    let before = &text[..at];
    let mut start = at;
    let lines: Vec<&str> = before.split_inclusive('\n').collect();
    let mut inside = false;
    for line in lines.iter().rev() {
        let bare = line.trim();
        inside = match inside {
            true => !bare.starts_with("/*"),
            false if bare.ends_with("*/") => !bare.starts_with("/*"),
            false if bare.starts_with("//") => false,
            false => break,
        };
        start -= line.len();
    }
    &text[start..at]
}

/// Writes what was copied into a module of the checked theme.
fn write(registry: &Registry, with: &CallRef, copied: &Copied, plan: &mut Plan) -> Result<(), EditError> {
    let path = format!("code/{}", with.file);
    let project = registry.project();
    let import = |names: &[&str]| format!("import {{ {} }} from \"{BUILT_IN}\";\n", names.join(", "));
    let Some(file) = project.find(project.top(), &path) else {
        if !(path.ends_with(".js") || path.ends_with(".mjs")) || path.contains("..") || path.contains("//") {
            return Err(EditError::new(format!("`{}` is not a module; its name ends in .js", with.file)));
        }
        let names: Vec<&str> = copied.imports.iter().map(String::as_str).collect();
        let head = if names.is_empty() { String::new() } else { format!("{}\n", import(&names)) };
        let texts: Vec<&str> = copied.pieces.iter().map(|(_, text)| text.as_str()).collect();
        plan.created.push((path.into(), format!("{head}{}\n", texts.join("\n\n"))));
        return Ok(());
    };
    let text = project.file(file).text();
    let allocator = Allocator::default();
    let parsed = Parser::new(&allocator, text, SourceType::mjs()).parse();
    if registry.module(file).is_none_or(|module| module.broken) {
        return Err(EditError::new(format!("{path} doesn't parse; mend that first (truehook check)")));
    }
    let built = SemanticBuilder::new().with_build_nodes(true).build(&parsed.program);
    let scoping = built.semantic.scoping();
    let has = |name: &str| scoping.get_binding(scoping.root_scope_id(), name.into()).is_some();
    let imported = imports(&built.semantic);
    let end = line_end(text);
    let mut missing: Vec<&str> = Vec::new();
    for name in &copied.imports {
        match imported.get(name) {
            Some((from, Some(known))) if from == BUILT_IN && known == name => {}
            None if !has(name) => missing.push(name),
            _ => return Err(taken(name, &path)),
        }
    }
    if let Some((name, _)) = copied.pieces.iter().find(|(name, _)| has(name)) {
        return Err(taken(name, &path));
    }
    if !missing.is_empty() {
        plan.edits.push(Edit { file, span: Span::new(0, 0), new: with_line_ends_of(&import(&missing), text) });
    }
    let texts: Vec<&str> = copied.pieces.iter().map(|(_, text)| text.as_str()).collect();
    let gap = if text.is_empty() {
        ""
    } else if text.ends_with('\n') {
        end
    } else {
        &format!("{end}{end}")
    };
    let new = format!("{gap}{}", with_line_ends_of(&format!("{}\n", texts.join("\n\n")), text));
    plan.edits.push(Edit { file, span: Span::new(text.len(), text.len()), new });
    Ok(())
}

fn taken(name: &str, path: &str) -> EditError {
    EditError::new(format!("`{name}` is the name of something else in {path}; choose another module"))
}
