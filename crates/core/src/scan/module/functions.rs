//! Functions: what a module exports under a name, as the tree has it.

use oxc_ast::ast::{
    ArrowFunctionBody, ArrowFunctionExpression, BindingPattern, Expression, FormalParameters, Function, FunctionBody,
    Program, Statement,
};

/// A function that can be called, and be looked into.
#[derive(Clone, Copy)]
pub(super) enum Callable<'p> {
    Function(&'p Function<'p>),
    Arrow(&'p ArrowFunctionExpression<'p>),
}

impl<'p> Callable<'p> {
    /// The function that an expression is. One that only promises its result is none that can be called.
    pub fn of(value: &'p Expression<'p>) -> Option<Callable<'p>> {
        match value {
            Expression::FunctionExpression(function) => Callable::plain(function),
            Expression::ArrowFunctionExpression(arrow) if !arrow.r#async => Some(Callable::Arrow(arrow)),
            Expression::ParenthesizedExpression(inner) => Callable::of(&inner.expression),
            _ => None,
        }
    }

    pub fn plain(function: &'p Function<'p>) -> Option<Callable<'p>> {
        (!function.r#async && !function.generator && function.body.is_some()).then_some(Callable::Function(function))
    }

    /// The function that is declared at the top of a module under a name of its own.
    pub fn declared(program: &'p Program<'p>, name: &str) -> Option<Callable<'p>> {
        let is_named =
            |pattern: &BindingPattern<'_>| matches!(pattern, BindingPattern::BindingIdentifier(id) if id.name == name);
        program.body.iter().find_map(|statement| match statement {
            Statement::FunctionDeclaration(function) if function.id.as_ref().is_some_and(|id| id.name == name) => {
                Callable::plain(function)
            }
            Statement::VariableDeclaration(variables) => {
                let found = variables.declarations.iter().find(|variable| is_named(&variable.id))?;
                Callable::of(found.init.as_ref()?)
            }
            _ => None,
        })
    }

    pub fn params(self) -> &'p FormalParameters<'p> {
        match self {
            Callable::Function(function) => &function.params,
            Callable::Arrow(arrow) => &arrow.params,
        }
    }

    /// Its body; an arrow function may have only a value.
    pub fn body(self) -> Option<&'p FunctionBody<'p>> {
        match self {
            Callable::Function(function) => function.body.as_deref(),
            Callable::Arrow(arrow) => match &arrow.body {
                ArrowFunctionBody::FunctionBody(body) => Some(body),
                _ => None,
            },
        }
    }

    /// All that it may return, as far as that is written where it returns.
    pub fn returned(self) -> Vec<&'p Expression<'p>> {
        let mut found = Vec::new();
        if let Callable::Arrow(arrow) = self
            && let Some(value) = arrow.body.as_expression()
        {
            found.push(value);
        }
        let mut statements: Vec<&Statement<'_>> = self.body().iter().flat_map(|body| &body.statements).collect();
        while let Some(statement) = statements.pop() {
            if let Statement::ReturnStatement(returned) = statement {
                found.extend(&returned.argument);
            }
            statements.extend(inner(statement));
        }
        found.into_iter().flat_map(alternatives).collect()
    }
}

/// The expressions of which another one is one or the other.
fn alternatives<'p>(expression: &'p Expression<'p>) -> Vec<&'p Expression<'p>> {
    match expression {
        Expression::ParenthesizedExpression(inner) => alternatives(&inner.expression),
        Expression::ConditionalExpression(choice) => {
            [&choice.consequent, &choice.alternate].into_iter().flat_map(alternatives).collect()
        }
        Expression::LogicalExpression(logical) => {
            [&logical.left, &logical.right].into_iter().flat_map(alternatives).collect()
        }
        other => vec![other],
    }
}

/// The statements that another one is made of.
pub(super) fn inner<'s, 'a>(statement: &'s Statement<'a>) -> Vec<&'s Statement<'a>> {
    match statement {
        Statement::BlockStatement(block) => block.body.iter().collect(),
        Statement::IfStatement(choice) => [&choice.consequent].into_iter().chain(&choice.alternate).collect(),
        Statement::ForStatement(each) => vec![&each.body],
        Statement::ForOfStatement(each) => vec![&each.body],
        Statement::ForInStatement(each) => vec![&each.body],
        Statement::WhileStatement(repeat) => vec![&repeat.body],
        Statement::DoWhileStatement(repeat) => vec![&repeat.body],
        Statement::LabeledStatement(labeled) => vec![&labeled.body],
        Statement::SwitchStatement(switch) => switch.cases.iter().flat_map(|case| &case.consequent).collect(),
        Statement::TryStatement(tried) => {
            let handler = tried.handler.iter().flat_map(|handler| &handler.body.body);
            let last = tried.finalizer.iter().flat_map(|last| &last.body);
            tried.block.body.iter().chain(handler).chain(last).collect()
        }
        _ => Vec::new(),
    }
}
