//! The form of a function: what it takes, and whether every way through it ends with a value.

use oxc_ast::ast::{
    ArrowFunctionBody, ArrowFunctionExpression, BindingPattern, Expression, FormalParameters, Function, Program,
    Statement,
};
use oxc_span::{GetSpan, Span};

use super::Scanner;
use crate::scan::{Named, Param, Signature};

impl Scanner {
    pub(super) fn function(&mut self, function: &Function<'_>) -> Option<Signature> {
        if function.r#async || function.generator {
            return None;
        }
        let body = function.body.as_ref()?;
        let params = self.params(&function.params);
        let empty_end = self.empty_end(&body.statements, body.span);
        Some(Signature { params, empty_end })
    }

    fn arrow(&mut self, arrow: &ArrowFunctionExpression<'_>) -> Option<Signature> {
        if arrow.r#async {
            return None;
        }
        let params = self.params(&arrow.params);
        let empty_end = match &arrow.body {
            ArrowFunctionBody::FunctionBody(body) => self.empty_end(&body.statements, body.span),
            _ => None,
        };
        Some(Signature { params, empty_end })
    }

    pub(super) fn value(&mut self, value: &Expression<'_>) -> Option<Signature> {
        match value {
            Expression::FunctionExpression(function) => self.function(function),
            Expression::ArrowFunctionExpression(arrow) => self.arrow(arrow),
            _ => None,
        }
    }

    /// The form of a function that is declared at the top of a module under a name of its own.
    pub(super) fn declared(&mut self, program: &Program<'_>, name: &str) -> Option<Signature> {
        for statement in &program.body {
            match statement {
                Statement::FunctionDeclaration(function) if function.id.as_ref().is_some_and(|id| id.name == name) => {
                    return self.function(function);
                }
                Statement::VariableDeclaration(variables) => {
                    let is_named = |pattern: &BindingPattern<'_>| matches!(pattern, BindingPattern::BindingIdentifier(id) if id.name == name);
                    let found = variables.declarations.iter().find(|variable| is_named(&variable.id));
                    if let Some(init) = found.and_then(|found| found.init.as_ref()) {
                        return self.value(init);
                    }
                }
                _ => {}
            }
        }
        None
    }

    fn params(&mut self, params: &FormalParameters<'_>) -> Vec<Param> {
        let needed = params.items.iter().filter(|param| param.initializer.is_none());
        needed
            .map(|param| {
                let (mut keys, mut args) = (Vec::new(), Vec::new());
                if let BindingPattern::ObjectPattern(object) = &param.pattern {
                    for property in &object.properties {
                        let Some(key) = self.key(property) else { continue };
                        if let (true, BindingPattern::ObjectPattern(inner)) = (key.name == "args", &property.value) {
                            args = inner.properties.iter().filter_map(|inner| self.key(inner)).collect();
                        }
                        keys.push(key);
                    }
                }
                Param { at: self.at(param.span), keys, args }
            })
            .collect()
    }

    /// The name that a destructuring takes; one with a default can do without.
    fn key(&mut self, property: &oxc_ast::ast::BindingProperty<'_>) -> Option<Named> {
        if matches!(property.value, BindingPattern::AssignmentPattern(_)) {
            return None;
        }
        let name = property.key.static_name()?;
        Some(self.named(&name, property.key.span()))
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
    inner(statement).map_or(matches!(statement, Statement::BreakStatement(_)), |parts| parts.into_iter().any(breaks))
}

/// The first `return` without a value. Functions inside are another matter.
fn empty_return(statement: &Statement<'_>) -> Option<Span> {
    if let Statement::ReturnStatement(found) = statement {
        return found.argument.is_none().then_some(found.span);
    }
    if let Statement::TryStatement(tried) = statement {
        let handler = tried.handler.iter().flat_map(|handler| &handler.body.body);
        let last = tried.finalizer.iter().flat_map(|last| &last.body);
        return tried.block.body.iter().chain(handler).chain(last).find_map(empty_return);
    }
    if let Statement::SwitchStatement(switch) = statement {
        return switch.cases.iter().flat_map(|case| &case.consequent).find_map(empty_return);
    }
    inner(statement)?.into_iter().find_map(empty_return)
}

/// The statements that another one is made of.
fn inner<'s, 'a>(statement: &'s Statement<'a>) -> Option<Vec<&'s Statement<'a>>> {
    match statement {
        Statement::BlockStatement(block) => Some(block.body.iter().collect()),
        Statement::IfStatement(choice) => Some([&choice.consequent].into_iter().chain(&choice.alternate).collect()),
        Statement::ForStatement(each) => Some(vec![&each.body]),
        Statement::ForOfStatement(each) => Some(vec![&each.body]),
        Statement::ForInStatement(each) => Some(vec![&each.body]),
        Statement::WhileStatement(repeat) => Some(vec![&repeat.body]),
        Statement::DoWhileStatement(repeat) => Some(vec![&repeat.body]),
        Statement::LabeledStatement(labeled) => Some(vec![&labeled.body]),
        _ => None,
    }
}
