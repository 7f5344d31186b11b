//! Questions around a placement that only ask whether there is something to show.

use minijinja::machinery::ast::{BinOpKind, Expr};

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
