//! In which export something stands, and whether it is carried out there.

use oxc_ast::AstKind;
use oxc_ast::ast::{BindingPattern, FunctionBody, Statement};
use oxc_semantic::{NodeId, Semantic};
use oxc_span::{GetSpan, Span};

use super::{Scanner, functions, name};
use crate::name::Name;
use crate::scan::Chance;

impl Scanner<'_> {
    /// The export in whose body a node stands, and whether it is carried out in any case.
    pub(super) fn surroundings(&self, semantic: &Semantic<'_>, node: NodeId) -> (Option<Name>, Chance) {
        let mut chance = Chance::Always;
        let mut outermost: Option<Name> = None;
        let within = semantic.nodes().kind(node).span();
        for kind in semantic.nodes().ancestor_kinds(node) {
            match kind {
                AstKind::IfStatement(_)
                | AstKind::ConditionalExpression(_)
                | AstKind::LogicalExpression(_)
                | AstKind::SwitchStatement(_)
                | AstKind::ForStatement(_)
                | AstKind::ForOfStatement(_)
                | AstKind::ForInStatement(_)
                | AstKind::WhileStatement(_)
                | AstKind::TryStatement(_) => chance = Chance::Perhaps,
                // Something before it may return.
                AstKind::FunctionBody(body) if returns_before(body, within) => chance = Chance::Perhaps,
                AstKind::Function(function) => {
                    outermost = function.id.as_ref().map(|id| name(&id.name)).or(outermost);
                }
                AstKind::VariableDeclarator(variable) => {
                    if let BindingPattern::BindingIdentifier(id) = &variable.id {
                        outermost = Some(name(&id.name));
                    }
                }
                AstKind::ExportDefaultDeclaration(_) => outermost = Some(name("default")),
                _ => {}
            }
        }
        let owner = outermost.filter(|owner| self.shape.exports.iter().any(|export| export.name == *owner));
        (owner, chance)
    }
}

/// Is there a way out of a function before it gets to something?
fn returns_before(body: &FunctionBody<'_>, within: Span) -> bool {
    let before = body.statements.iter().take_while(|statement| statement.span().end <= within.start);
    before.into_iter().any(has_return)
}

fn has_return(statement: &Statement<'_>) -> bool {
    matches!(statement, Statement::ReturnStatement(_)) || functions::inner(statement).into_iter().any(has_return)
}
