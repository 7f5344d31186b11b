//! Questions around a placement that only ask whether there is something to show.

use minijinja::machinery::ast::{BinOpKind, Expr};

/// The values that are there where a condition holds, since it asks for that: `page.data.word is defined`.
pub fn defined<'e, 't>(test: &'e Expr<'t>, found: &mut Vec<&'e Expr<'t>>) {
    match test {
        Expr::Test(test) if test.name == "defined" => found.push(&test.expr),
        Expr::BinOp(op) if matches!(op.op, BinOpKind::ScAnd) => {
            defined(&op.left, found);
            defined(&op.right, found);
        }
        _ => {}
    }
}

/// A value's name, its steps joined by dots; nothing where a step is no name.
pub fn dotted(expr: &Expr<'_>) -> Option<String> {
    match expr {
        Expr::Var(var) => Some(var.id.to_string()),
        Expr::GetAttr(attr) => Some(format!("{}.{}", dotted(&attr.expr)?, attr.name)),
        _ => None,
    }
}

/// Does this ask whether there is anything to show: is a point filled, a feature on, a value there?
pub fn is_guard(expr: &Expr<'_>) -> bool {
    match expr {
        Expr::Var(_) | Expr::GetAttr(_) => true,
        Expr::Call(call) => matches!(&call.expr, Expr::Var(callee) if ["filled", "enabled"].contains(&callee.id)),
        Expr::Test(test) => ["defined", "true"].contains(&test.name),
        Expr::Filter(filter) => ["length", "count", "trim"].contains(&filter.name),
        Expr::BinOp(op) => {
            matches!(op.op, BinOpKind::ScAnd | BinOpKind::ScOr) && is_guard(&op.left) && is_guard(&op.right)
        }
        _ => false,
    }
}
