//! What is written out where a function returns.

use oxc_ast::ast::{BinaryOperator, Expression, ObjectPropertyKind};
use oxc_span::GetSpan;

use super::functions::Callable;
use super::{Scanner, values};
use crate::scan::{Given, Named, Returned};

/// The tables, and the texts with markup in them, that a function returns.
pub(super) fn returned(scanner: &mut Scanner<'_>, callable: Callable<'_>) -> Vec<Returned> {
    let mut found = Vec::new();
    for expression in callable.returned() {
        let value = values::written(expression).filter(|value| !value.is_null());
        found.extend(value.map(|value| Returned::Value(scanner.at(expression.span()), value)));
        match expression {
            Expression::ObjectExpression(object) => {
                let (mut keys, mut given) = (Vec::new(), Vec::new());
                for property in &object.properties {
                    let ObjectPropertyKind::ObjectProperty(property) = property else { continue };
                    let Some(word) = property.key.static_name().filter(|_| !property.computed) else { continue };
                    let name: Named = scanner.named(&word, property.key.span());
                    keys.push(name);
                    if let Some(value) = values::written(&property.value) {
                        given.push(Given { name, value, at: scanner.at(property.value.span()) });
                    }
                }
                found.push(Returned::Table(keys, given, scanner.at(expression.span())));
            }
            Expression::ArrayExpression(_) => found.push(Returned::List(scanner.at(expression.span()))),
            Expression::CallExpression(call) if is_mapped(&call.callee) => {
                found.push(Returned::List(scanner.at(expression.span())));
            }
            text if has_markup(text) => {
                let instead = match text {
                    Expression::TemplateLiteral(_) => Some("html".to_string()),
                    _ => None,
                };
                found.push(Returned::Text(scanner.at(text.span()), instead));
            }
            _ => {}
        }
    }
    found
}

/// Is this a method that gives a list, whatever it is called on?
fn is_mapped(callee: &Expression<'_>) -> bool {
    let Expression::StaticMemberExpression(member) = callee else { return false };
    ["map", "flatMap", "toSorted", "toReversed", "toSpliced"].contains(&member.property.name.as_str())
}

/// Is this certainly a text, and one with markup in it?
fn has_markup(expression: &Expression<'_>) -> bool {
    match expression {
        Expression::StringLiteral(text) => holds_tag(&text.value),
        Expression::TemplateLiteral(text) => text.quasis.iter().any(|part| holds_tag(&part.value.raw)),
        Expression::BinaryExpression(sum) if sum.operator == BinaryOperator::Addition => {
            has_markup(&sum.left) || has_markup(&sum.right)
        }
        Expression::ParenthesizedExpression(inner) => has_markup(&inner.expression),
        _ => false,
    }
}

/// Is there the beginning of an element, or the end of one, in a text?
fn holds_tag(text: &str) -> bool {
    text.split('<').skip(1).any(|rest| {
        let name = rest.strip_prefix('/').unwrap_or(rest);
        let length = name.find(|c: char| !c.is_ascii_alphanumeric() && c != '-').unwrap_or(name.len());
        let after = &name[length..];
        let closes = after.starts_with('>') || after.starts_with("/>");
        let goes_on = after.starts_with([' ', '\n']) && (after.contains('>') || after.contains('='));
        name.starts_with(|c: char| c.is_ascii_alphabetic()) && (closes || goes_on)
    })
}
