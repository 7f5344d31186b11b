//! Does a module keep something from one call to the next? One that can't need not be loaded anew for each page.
//!
//! It can't where all that stands at its top are imports, functions, and constants of plain values, and where each of
//! them is only called, or only read. Whatever else there is may be a way to keep something.

use oxc_ast::AstKind;
use oxc_ast::ast::{
    ArrayExpressionElement, BindingPattern, Declaration, ExportDefaultDeclarationKind, Expression, Function,
    ImportDeclarationSpecifier, ObjectPropertyKind, Program, PropertyKind, Statement, VariableDeclaration,
    VariableDeclarationKind,
};
use oxc_semantic::{NodeId, Semantic, SymbolId};
use oxc_span::{GetSpan, Span};
use rustc_hash::FxHashMap;

/// What lists can be asked for, and stay as they are.
const READING: [&str; 24] = [
    "at",
    "concat",
    "entries",
    "every",
    "filter",
    "find",
    "findIndex",
    "findLast",
    "flat",
    "flatMap",
    "forEach",
    "includes",
    "indexOf",
    "join",
    "keys",
    "lastIndexOf",
    "map",
    "reduce",
    "slice",
    "some",
    "toReversed",
    "toSorted",
    "values",
    "with",
];

/// What a name at the top of a module stands for.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Held {
    /// A text, a number, a truth: nothing can be kept in it.
    Plain,
    /// A list or table of such.
    Collection,
    /// A function of its own, or of another module.
    Function,
}

/// Is it certain that nothing which a module does outlasts a call?
pub(super) fn keeps_nothing(program: &Program<'_>, semantic: &Semantic<'_>) -> bool {
    let Some(held) = held(program) else { return false };
    let dynamic = |kind: AstKind<'_>| matches!(kind, AstKind::ImportMeta(_) | AstKind::ImportExpression(_));
    if semantic.nodes().iter().any(|node| dynamic(node.kind())) {
        return false;
    }
    let scoping = semantic.scoping();
    let symbols: FxHashMap<Span, SymbolId> =
        scoping.symbol_ids().map(|symbol| (scoping.symbol_span(symbol), symbol)).collect();
    held.into_iter().filter(|(_, held)| *held != Held::Plain).all(|(binding, held)| {
        symbols.get(&binding).is_some_and(|symbol| {
            let mut uses = scoping.get_resolved_references(*symbol);
            uses.all(|found| !found.is_write() && is_harmless(semantic, found.node_id(), held))
        })
    })
}

/// The names at a module's top, by their places; nothing where there is more than those.
fn held(program: &Program<'_>) -> Option<Vec<(Span, Held)>> {
    let mut found = Vec::new();
    for statement in &program.body {
        match statement {
            Statement::ImportDeclaration(import) => {
                for specifier in import.specifiers.iter().flatten() {
                    match specifier {
                        ImportDeclarationSpecifier::ImportSpecifier(one) => {
                            found.push((one.local.span, Held::Function))
                        }
                        ImportDeclarationSpecifier::ImportDefaultSpecifier(one) => {
                            found.push((one.local.span, Held::Function));
                        }
                        ImportDeclarationSpecifier::ImportNamespaceSpecifier(_) => return None,
                    }
                }
            }
            Statement::FunctionDeclaration(function) => found.push(own(function)?),
            Statement::VariableDeclaration(variables) => found.extend(constants(variables)?),
            Statement::ExportDeclaration(export) => match &export.declaration {
                Declaration::FunctionDeclaration(function) => found.push(own(function)?),
                Declaration::VariableDeclaration(variables) => found.extend(constants(variables)?),
                _ => return None,
            },
            Statement::ExportDefaultDeclaration(export) => match &export.declaration {
                ExportDefaultDeclarationKind::FunctionDeclaration(function) if function.id.is_some() => {
                    found.push(own(function)?);
                }
                ExportDefaultDeclarationKind::FunctionDeclaration(function) if !function.generator => {}
                other if matches!(other.as_expression(), Some(Expression::ArrowFunctionExpression(_))) => {}
                _ => return None,
            },
            Statement::ExportNamedDeclaration(_)
            | Statement::ExportFromDeclaration(_)
            | Statement::ExportAllDeclaration(_) => {}
            _ => return None,
        }
    }
    Some(found)
}

/// What generators make leads back to something that they share.
fn own(function: &Function<'_>) -> Option<(Span, Held)> {
    let id = function.id.as_ref().filter(|_| !function.generator)?;
    Some((id.span, Held::Function))
}

fn constants(variables: &VariableDeclaration<'_>) -> Option<Vec<(Span, Held)>> {
    if variables.kind != VariableDeclarationKind::Const {
        return None;
    }
    let one = |variable: &oxc_ast::ast::VariableDeclarator<'_>| {
        let BindingPattern::BindingIdentifier(id) = &variable.id else { return None };
        let held = match variable.init.as_ref()? {
            value if is_plain(value) => Held::Plain,
            Expression::ArrowFunctionExpression(_) => Held::Function,
            // One with a name of its own can be reached by that, too.
            Expression::FunctionExpression(function) if !function.generator && function.id.is_none() => Held::Function,
            Expression::ArrayExpression(list) => {
                let plain = |item: &ArrayExpressionElement<'_>| item.as_expression().is_some_and(is_plain);
                list.elements.iter().all(plain).then_some(Held::Collection)?
            }
            Expression::ObjectExpression(table) => {
                let plain = |entry: &ObjectPropertyKind<'_>| match entry {
                    ObjectPropertyKind::ObjectProperty(entry) => {
                        entry.kind == PropertyKind::Init && !entry.computed && is_plain(&entry.value)
                    }
                    ObjectPropertyKind::SpreadProperty(_) => false,
                };
                table.properties.iter().all(plain).then_some(Held::Collection)?
            }
            _ => return None,
        };
        Some((id.span, held))
    };
    variables.declarations.iter().map(one).collect()
}

fn is_plain(value: &Expression<'_>) -> bool {
    match value {
        Expression::StringLiteral(_)
        | Expression::NumericLiteral(_)
        | Expression::BooleanLiteral(_)
        | Expression::NullLiteral(_) => true,
        Expression::TemplateLiteral(text) => text.expressions.is_empty(),
        Expression::UnaryExpression(unary) => matches!(unary.argument, Expression::NumericLiteral(_)),
        _ => false,
    }
}

/// Does a use of a name leave what it stands for as it is, and hand it to nobody?
fn is_harmless(semantic: &Semantic<'_>, node: NodeId, held: Held) -> bool {
    let nodes = semantic.nodes();
    let span = nodes.kind(node).span();
    match nodes.parent_kind(node) {
        AstKind::ExportSpecifier(_) => true,
        AstKind::CallExpression(call) => held == Held::Function && call.callee.span() == span,
        AstKind::TaggedTemplateExpression(tagged) => held == Held::Function && tagged.tag.span() == span,
        AstKind::StaticMemberExpression(member) if held == Held::Collection && member.object.span() == span => {
            is_read(semantic, nodes.parent_id(node), Some(&member.property.name))
        }
        AstKind::ComputedMemberExpression(member) if held == Held::Collection && member.object.span() == span => {
            is_read(semantic, nodes.parent_id(node), None)
        }
        AstKind::SpreadElement(_) => held == Held::Collection,
        AstKind::ForOfStatement(each) => held == Held::Collection && each.right.span() == span,
        _ => false,
    }
}

/// Is a member of a list or table only read? One that is called must be known to change nothing.
fn is_read(semantic: &Semantic<'_>, member: NodeId, name: Option<&str>) -> bool {
    let nodes = semantic.nodes();
    let span = nodes.kind(member).span();
    match nodes.parent_kind(member) {
        AstKind::CallExpression(call) if call.callee.span() == span => {
            name.is_some_and(|name| READING.contains(&name)) && !hands_itself_on(call)
        }
        AstKind::AssignmentExpression(assigned) => assigned.right.span() == span,
        AstKind::UnaryExpression(unary) => !unary.operator.is_delete(),
        // Only what is known to read.
        parent => matches!(
            parent,
            AstKind::ArrayExpression(_)
                | AstKind::ArrowFunctionExpression(_)
                | AstKind::BinaryExpression(_)
                | AstKind::CallExpression(_)
                | AstKind::ConditionalExpression(_)
                | AstKind::ExpressionStatement(_)
                | AstKind::IfStatement(_)
                | AstKind::LogicalExpression(_)
                | AstKind::ObjectProperty(_)
                | AstKind::ReturnStatement(_)
                | AstKind::StaticMemberExpression(_)
                | AstKind::TemplateLiteral(_)
                | AstKind::VariableDeclarator(_)
        ),
    }
}

/// Functions that a list calls get the list itself as the last of what they are given: they must not ask for it.
fn hands_itself_on(call: &oxc_ast::ast::CallExpression<'_>) -> bool {
    call.arguments.iter().any(|argument| match argument.as_expression() {
        Some(Expression::ArrowFunctionExpression(function)) => {
            function.params.items.len() > 2 || function.params.rest.is_some()
        }
        Some(value) => !is_plain(value),
        None => true,
    })
}
