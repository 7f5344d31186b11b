//! Values that are written out in code: what an expression is, whatever runs before it.

use oxc_ast::ast::{ArrayExpressionElement, Expression, ObjectPropertyKind, UnaryOperator};
use serde_json::{Map, Number, Value};

/// The value of an expression that is written out: a text, a number, a truth, nothing, or a list or table of
/// such.
pub(super) fn written(expression: &Expression<'_>) -> Option<Value> {
    match expression {
        Expression::ParenthesizedExpression(inner) => written(&inner.expression),
        Expression::StringLiteral(text) => Some(Value::from(text.value.as_str())),
        Expression::TemplateLiteral(text) if text.expressions.is_empty() => {
            Some(Value::from(text.quasis.first()?.value.cooked?.as_str()))
        }
        Expression::BooleanLiteral(truth) => Some(Value::from(truth.value)),
        Expression::NullLiteral(_) => Some(Value::Null),
        Expression::NumericLiteral(literal) => number(literal.value),
        Expression::UnaryExpression(unary) if unary.operator == UnaryOperator::UnaryNegation => match &unary.argument {
            Expression::NumericLiteral(literal) => number(-literal.value),
            _ => None,
        },
        Expression::ArrayExpression(array) => {
            let items = array.elements.iter().map(|element| match element {
                ArrayExpressionElement::SpreadElement(_) | ArrayExpressionElement::Elision(_) => None,
                element => written(element.as_expression()?),
            });
            items.collect::<Option<Vec<Value>>>().map(Value::from)
        }
        Expression::ObjectExpression(object) => {
            let entries = object.properties.iter().map(|property| match property {
                ObjectPropertyKind::ObjectProperty(property) => {
                    Some((property.key.static_name()?.to_string(), written(&property.value)?))
                }
                ObjectPropertyKind::SpreadProperty(_) => None,
            });
            entries.collect::<Option<Map<String, Value>>>().map(Value::from)
        }
        _ => None,
    }
}

/// Whole numbers are whole in JSON, too.
fn number(value: f64) -> Option<Value> {
    let whole = value.fract() == 0.0 && value.abs() < 9e15;
    if whole { Some(Value::from(value as i64)) } else { Number::from_f64(value).map(Value::Number) }
}
