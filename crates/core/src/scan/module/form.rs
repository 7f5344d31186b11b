//! The form of a function: what it takes, and whether every way through it ends with a value.

use oxc_ast::ast::{Expression, Statement};
use oxc_span::Span;

use super::Scanner;
use super::functions::{Callable, inner};
use crate::scan::Signature;

impl Scanner<'_> {
    pub(super) fn signature(&mut self, callable: Callable<'_>) -> Signature {
        let needed = callable.params().items.iter().filter(|param| param.initializer.is_none());
        let params = needed.map(|param| self.at(param.span)).collect();
        let empty_end = callable.body().and_then(|body| self.empty_end(&body.statements, body.span));
        Signature { params, empty_end }
    }

    fn empty_end(&mut self, body: &[Statement<'_>], span: Span) -> Option<crate::source::At> {
        if let Some(empty) = body.iter().find_map(empty_return) {
            return Some(self.at(empty));
        }
        let end = Span::new(span.end.saturating_sub(1), span.end);
        goes_on(body).then(|| self.at(end))
    }
}

/// Can control get past the last of these statements?
fn goes_on(statements: &[Statement<'_>]) -> bool {
    !statements.iter().any(ends)
}

/// Does control never get past this statement?
fn ends(statement: &Statement<'_>) -> bool {
    match statement {
        Statement::ReturnStatement(_) | Statement::ThrowStatement(_) => true,
        Statement::BlockStatement(block) => block.body.iter().any(ends),
        Statement::IfStatement(choice) => {
            ends(&choice.consequent) && choice.alternate.as_ref().is_some_and(|other| ends(other))
        }
        Statement::SwitchStatement(switch) => {
            let has_default = switch.cases.iter().any(|case| case.test.is_none());
            let last = switch.cases.last().is_some_and(|case| case.consequent.iter().any(ends));
            let leaves = switch.cases.iter().flat_map(|case| &case.consequent).any(breaks);
            has_default && last && !leaves
        }
        Statement::TryStatement(tried) => {
            let whole = tried.block.body.iter().any(ends);
            let caught = tried.handler.as_ref().is_none_or(|handler| handler.body.body.iter().any(ends));
            let finally = tried.finalizer.as_ref().is_some_and(|last| last.body.iter().any(ends));
            finally || whole && caught
        }
        Statement::LabeledStatement(labeled) => ends(&labeled.body),
        // What ends only when it returns or throws. Whether it breaks is not looked into, so that nothing
        // is said of it.
        Statement::ForStatement(each) => each.test.is_none(),
        Statement::WhileStatement(repeat) => {
            matches!(&repeat.test, Expression::BooleanLiteral(literal) if literal.value)
        }
        Statement::DoWhileStatement(repeat) => {
            ends(&repeat.body) || matches!(&repeat.test, Expression::BooleanLiteral(literal) if literal.value)
        }
        _ => false,
    }
}

fn breaks(statement: &Statement<'_>) -> bool {
    matches!(statement, Statement::BreakStatement(_)) || inner(statement).into_iter().any(breaks)
}

/// The first `return` without a value. Functions inside are another matter.
fn empty_return(statement: &Statement<'_>) -> Option<Span> {
    match statement {
        Statement::ReturnStatement(found) => found.argument.is_none().then_some(found.span),
        other => inner(other).into_iter().find_map(empty_return),
    }
}
