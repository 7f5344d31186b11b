//! What a script for browsers says: the global names that it uses, and those that it defines.
//!
//! Like the scanner of modules, this is an adapter for the parser's syntax tree.

use oxc_allocator::Allocator;
use oxc_ast::AstKind;
use oxc_ast::ast::{BindingPattern, Expression, SimpleAssignmentTarget};
use oxc_parser::Parser;
use oxc_semantic::{AstNode, NodeId, Semantic, SemanticBuilder, SymbolId};
use oxc_span::{GetSpan, SourceType};
use std::ops::Range;

use super::*;

/// The names of the global object itself.
const GLOBAL: [&str; 3] = ["window", "globalThis", "self"];

pub(super) fn scan(text: &str) -> Facts {
    let mut notes = Notes::default();
    let shape = match read(text, 0, SourceType::unambiguous(), &mut notes) {
        Ok(shape) => Shape::Script(Box::new(shape)),
        Err((at, message)) => {
            notes.flaw(FlawKind::CodeSyntax, at, format!("the script doesn't parse: {message}"), "");
            Shape::broken(FileKind::Script)
        }
    };
    notes.facts(shape)
}

/// A script that stands in a template, at that offset; nothing where it can't be understood for the template's
/// own tags in it. `text` is the template, `html` the same with filler in the place of its tags.
pub(super) fn inline(
    text: &str,
    html: &str,
    range: Range<usize>,
    module: bool,
    notes: &mut Notes,
) -> Option<ScriptShape> {
    let (written, masked) = (text.get(range.clone())?, html.get(range.clone())?);
    let plain = written == masked;
    let kind = if module { SourceType::mjs() } else { SourceType::cjs().with_script(true) };
    match read(masked, range.start, kind, notes) {
        Ok(mut shape) => {
            // What a tag of the template prints may be any name.
            let is_there = |named: &Named| text.get(notes.spans[named.at.0 as usize].range()) == Some(&*named.name);
            shape.uses.retain(is_there);
            shape.dynamic |= !plain;
            Some(shape)
        }
        Err((at, message)) if plain => {
            notes.flaw(FlawKind::CodeSyntax, at, format!("the script in the markup doesn't parse: {message}"), "");
            None
        }
        Err(_) => None,
    }
}

/// What a script says; where it doesn't parse, where that is and why.
fn read(text: &str, base: usize, kind: SourceType, notes: &mut Notes) -> Result<ScriptShape, (At, String)> {
    if let Some(deep) = depth::code(text) {
        return Err((notes.at(base + deep, base + deep + 1), depth::message("it")));
    }
    let allocator = Allocator::default();
    let parsed = Parser::new(&allocator, text, kind).parse();
    if let Some(error) = parsed.diagnostics.iter().next() {
        let span = error.labels.first().map_or((0, 0), |label| (label.offset(), label.offset() + label.len()));
        let within = |offset: usize| base + offset.min(text.len());
        return Err((notes.at(within(span.0 as usize), within(span.1 as usize)), error.message.to_string()));
    }
    let is_module = parsed.program.source_type.is_module();
    let built = SemanticBuilder::new().with_build_nodes(true).build(&parsed.program);
    let mut reader = Reader { notes, base, shape: ScriptShape::default(), asked: Vec::new() };
    reader.read(&built.semantic, is_module);
    Ok(reader.shape)
}

struct Reader<'n> {
    notes: &'n mut Notes,
    /// Where the script begins in its file.
    base: usize,
    shape: ScriptShape,
    /// Names that the script asks for before it uses them.
    asked: Vec<Name>,
}

impl Reader<'_> {
    fn read(&mut self, semantic: &Semantic<'_>, is_module: bool) {
        let scoping = semantic.scoping();
        self.shape.module = is_module;
        if !is_module {
            let own = scoping.get_bindings(scoping.root_scope_id()).iter();
            self.shape.defines.extend(own.map(|(word, _)| name(word)));
        }
        for (word, references) in scoping.root_unresolved_references() {
            for reference in references {
                let node = scoping.get_reference(*reference).node_id();
                match GLOBAL.contains(&word.as_str()) {
                    true => self.global_object(semantic, node, &mut Vec::new()),
                    false => self.reference(semantic, node, word),
                }
            }
        }
        // Outside functions a classic script's `this` is the global object.
        let is_this = |node: &&AstNode<'_>| {
            let is_function = |kind: AstKind<'_>| matches!(kind, AstKind::Function(_) | AstKind::Class(_));
            matches!(node.kind(), AstKind::ThisExpression(_))
                && !semantic.nodes().ancestor_kinds(node.id()).any(is_function)
        };
        for node in semantic.nodes().iter().filter(|node| !is_module && is_this(node)) {
            self.global_object(semantic, node.id(), &mut Vec::new());
        }
        self.shape.data = data_read(semantic);
        self.imports(semantic);
        let (asked, defines) = (std::mem::take(&mut self.asked), &mut self.shape.defines);
        defines.sort();
        defines.dedup();
        let left = |named: &Named| !asked.contains(&named.name) && !defines.contains(&named.name);
        self.shape.uses.retain(left);
        let spans = &self.notes.spans;
        self.shape.uses.sort_by_key(|named| spans[named.at.0 as usize]);
        let mut seen = Vec::new();
        self.shape.uses.retain(|named| {
            let new = !seen.contains(&named.name);
            seen.push(named.name);
            new
        });
    }

    /// The modules that it loads: `import … from "./lib.js"`, `export … from`, `import("./lib.js")`.
    fn imports(&mut self, semantic: &Semantic<'_>) {
        for node in semantic.nodes().iter() {
            let source = match node.kind() {
                AstKind::ImportDeclaration(import) => Some(&import.source),
                AstKind::ExportFromDeclaration(export) => Some(&export.source),
                AstKind::ExportAllDeclaration(export) => Some(&export.source),
                AstKind::ImportExpression(import) => match &import.source {
                    Expression::StringLiteral(source) => Some(&**source),
                    _ => None,
                },
                _ => None,
            };
            let Some(source) = source else { continue };
            let at = self.notes.at(self.base + source.span.start as usize, self.base + source.span.end as usize);
            self.shape.imports.push(Named { name: name(&source.value), at });
        }
    }

    /// A name by itself: `TideDial.mount()`.
    fn reference(&mut self, semantic: &Semantic<'_>, node: NodeId, word: &str) {
        let span = semantic.nodes().kind(node).span();
        match semantic.nodes().parent_kind(node) {
            AstKind::UnaryExpression(unary) if unary.operator.is_typeof() => self.asked.push(name(word)),
            AstKind::AssignmentExpression(assigned) if assigned.left.span() == span => {
                self.shape.defines.push(name(word));
            }
            _ => {
                self.shape.dynamic |= word == "eval";
                self.uses(word, span, runs_at_once(semantic, node));
            }
        }
    }

    /// The global object: a property of it, `window.TideDial`, or a name for it, as the argument of a function that
    /// is called at once. `known` are the names that were followed.
    fn global_object(&mut self, semantic: &Semantic<'_>, node: NodeId, known: &mut Vec<SymbolId>) {
        let nodes = semantic.nodes();
        // One of several values of an expression.
        let (mut node, mut parent) = (node, nodes.parent_id(node));
        while matches!(
            nodes.kind(parent),
            AstKind::ParenthesizedExpression(_) | AstKind::LogicalExpression(_) | AstKind::ConditionalExpression(_)
        ) {
            (node, parent) = (parent, nodes.parent_id(parent));
        }
        let span = nodes.kind(node).span();
        let member = match nodes.kind(parent) {
            AstKind::StaticMemberExpression(member) => member,
            AstKind::CallExpression(call) => {
                let position = call.arguments.iter().position(|argument| argument.span() == span);
                let pattern = position.and_then(|position| parameter(&call.callee, position));
                // Whoever passes the global object on can have anything defined.
                match pattern.and_then(symbol_of) {
                    Some(symbol) => self.alias(semantic, symbol, known),
                    None => self.shape.dynamic = true,
                }
                return;
            }
            AstKind::VariableDeclarator(declared) => {
                if let Some(symbol) = symbol_of(&declared.id) {
                    self.alias(semantic, symbol, known);
                }
                return;
            }
            kind => {
                // Nor can names be followed that are computed.
                self.shape.dynamic |= matches!(kind, AstKind::ComputedMemberExpression(_));
                return;
            }
        };
        let word = member.property.name.as_str();
        let span = member.span;
        let node = parent;
        let at_once = runs_at_once(semantic, node);
        match nodes.parent_kind(parent) {
            AstKind::AssignmentExpression(assigned) if matches!(assigned.left.as_simple_assignment_target(), Some(target) if is_at(target, span)) =>
            {
                self.shape.defines.push(name(word));
            }
            // What is called, or looked into, has to be there; anything else only asks for it.
            AstKind::StaticMemberExpression(outer) if outer.object.span() == span && !outer.optional => {
                self.uses(word, member.property.span, at_once);
            }
            AstKind::CallExpression(call) if call.callee.span() == span && !call.optional => {
                self.uses(word, member.property.span, at_once);
            }
            AstKind::NewExpression(new) if is_expression_at(&new.callee, span) => {
                self.uses(word, member.property.span, at_once)
            }
            _ => self.asked.push(name(word)),
        }
    }

    /// A name that stands for the global object.
    fn alias(&mut self, semantic: &Semantic<'_>, symbol: SymbolId, known: &mut Vec<SymbolId>) {
        if known.contains(&symbol) {
            return;
        }
        known.push(symbol);
        for reference in semantic.scoping().get_resolved_references(symbol) {
            self.global_object(semantic, reference.node_id(), known);
        }
    }

    fn uses(&mut self, word: &str, span: oxc_span::Span, at_once: bool) {
        let at = self.notes.at(self.base + span.start as usize, self.base + span.end as usize);
        self.shape.uses.push(Named { name: name(word), at });
        if at_once && !self.shape.at_once.contains(&name(word)) {
            self.shape.at_once.push(name(word));
        }
    }
}

/// The parameter of a function that is called where it is written.
fn parameter<'a>(callee: &'a Expression<'a>, position: usize) -> Option<&'a BindingPattern<'a>> {
    let parameters = match callee.without_parentheses() {
        Expression::FunctionExpression(function) => &function.params,
        Expression::ArrowFunctionExpression(function) => &function.params,
        _ => return None,
    };
    Some(&parameters.items.get(position)?.pattern)
}

fn symbol_of(pattern: &BindingPattern<'_>) -> Option<SymbolId> {
    pattern.get_binding_identifier()?.symbol_id.get()
}

/// Is this carried out as the script is read? What stands in a function runs when that is called.
fn runs_at_once(semantic: &Semantic<'_>, node: NodeId) -> bool {
    let nodes = semantic.nodes();
    for (outer, kind) in nodes.ancestor_ids(node).map(|id| (id, nodes.kind(id))) {
        if matches!(kind, AstKind::Function(_) | AstKind::ArrowFunctionExpression(_)) {
            let mut around =
                nodes.ancestor_kinds(outer).skip_while(|kind| matches!(kind, AstKind::ParenthesizedExpression(_)));
            let called = matches!(around.next(), Some(AstKind::CallExpression(call))
                if call.callee.without_parentheses().span() == kind.span());
            if !called {
                return false;
            }
        }
    }
    true
}

fn is_at(target: &SimpleAssignmentTarget<'_>, span: oxc_span::Span) -> bool {
    target.span() == span
}

fn is_expression_at(expression: &Expression<'_>, span: oxc_span::Span) -> bool {
    expression.span() == span
}

/// The `data-` attributes that a script reads: `element.dataset.wideSrc`, `getAttribute("data-wide-src")`,
/// `[data-wide-src]` in a selector.
fn data_read(semantic: &Semantic<'_>) -> Vec<Name> {
    let mut found: Vec<Name> = Vec::new();
    let mut add = |word: &str| {
        let word = name(word);
        if !found.contains(&word) {
            found.push(word);
        }
    };
    for node in semantic.nodes().iter() {
        match node.kind() {
            AstKind::StaticMemberExpression(member) if is_dataset(&member.object) => add(&kebab(&member.property.name)),
            AstKind::ComputedMemberExpression(member) if is_dataset(&member.object) => {
                if let Expression::StringLiteral(key) = &member.expression {
                    add(&kebab(&key.value));
                }
            }
            AstKind::BindingProperty(property) => {
                let declared = semantic.nodes().ancestor_kinds(node.id()).find_map(|kind| match kind {
                    AstKind::VariableDeclarator(declared) => Some(declared),
                    _ => None,
                });
                let of_dataset = declared.and_then(|declared| declared.init.as_ref()).is_some_and(is_dataset);
                if let (true, Some(key)) = (of_dataset, property.key.static_name()) {
                    add(&kebab(&key));
                }
            }
            AstKind::StringLiteral(text) => {
                for (at, _) in text.value.match_indices("data-") {
                    let rest = &text.value[at + "data-".len()..];
                    let end = rest.find(|c: char| !c.is_ascii_alphanumeric() && c != '-').unwrap_or(rest.len());
                    add(&rest[..end]);
                }
            }
            _ => {}
        }
    }
    found
}

fn is_dataset(expression: &Expression<'_>) -> bool {
    matches!(expression, Expression::StaticMemberExpression(member) if member.property.name == "dataset")
}

/// `wideSrc` as it is written in HTML: `wide-src`.
fn kebab(key: &str) -> String {
    let mut out = String::new();
    for c in key.chars() {
        if c.is_ascii_uppercase() {
            out.push('-');
        }
        out.push(c.to_ascii_lowercase());
    }
    out
}
