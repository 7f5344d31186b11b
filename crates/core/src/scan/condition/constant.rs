//! Conditions that can never hold, whatever the page: worked out over all values of the names whose
//! values are a closed set, with everything else left open.

use std::collections::HashMap;

use minijinja::Value;
use minijinja::machinery::ast::{BinOpKind, CompareOpKind, Expr, UnaryOpKind};
use minijinja::machinery::parse_expr;

use super::Condition;

/// How many combinations of values are tried.
const MOST: usize = 4096;

impl Condition {
    /// Can it hold? `values` gives all that a name, joined by dots, can be, where that is a closed set.
    pub fn can_hold(&self, values: impl Fn(&str) -> Option<Vec<serde_json::Value>>) -> bool {
        let Ok(expr) = parse_expr(&self.text) else { return true };
        let mut closed: Vec<(String, Vec<Value>)> = Vec::new();
        for path in &self.reads {
            let name: Vec<&str> = path.iter().map(|step| step.name.as_str()).collect();
            let name = name.join(".");
            if !closed.iter().any(|(known, _)| *known == name)
                && let Some(all) = values(&name)
            {
                closed.push((name, all.iter().map(plain).collect()));
            }
        }
        let count: usize = closed.iter().map(|(_, all)| all.len()).fold(1, usize::saturating_mul);
        if count > MOST {
            return true;
        }
        (0..count).any(|mut at| {
            let mut chosen = HashMap::new();
            for (name, all) in &closed {
                chosen.insert(name.as_str(), &all[at % all.len()]);
                at /= all.len();
            }
            truth(&expr, &chosen) != Some(false)
        })
    }
}

type Chosen<'a> = HashMap<&'a str, &'a Value>;

/// Is it true? Nothing where that can't be told.
fn truth(expr: &Expr<'_>, chosen: &Chosen<'_>) -> Option<bool> {
    match expr {
        Expr::UnaryOp(op) if matches!(op.op, UnaryOpKind::Not) => truth(&op.expr, chosen).map(|truth| !truth),
        Expr::BinOp(op) if matches!(op.op, BinOpKind::ScAnd) => {
            match (truth(&op.left, chosen), truth(&op.right, chosen)) {
                (Some(false), _) | (_, Some(false)) => Some(false),
                (Some(true), Some(true)) => Some(true),
                _ => None,
            }
        }
        Expr::BinOp(op) if matches!(op.op, BinOpKind::ScOr) => {
            match (truth(&op.left, chosen), truth(&op.right, chosen)) {
                (Some(true), _) | (_, Some(true)) => Some(true),
                (Some(false), Some(false)) => Some(false),
                _ => None,
            }
        }
        Expr::BinOp(op) => {
            let (left, right) = (value(&op.left, chosen)?, value(&op.right, chosen)?);
            match op.op {
                BinOpKind::Eq => Some(left == right),
                BinOpKind::Ne => Some(left != right),
                BinOpKind::Lt => Some(left < right),
                BinOpKind::Lte => Some(left <= right),
                BinOpKind::Gt => Some(left > right),
                BinOpKind::Gte => Some(left >= right),
                BinOpKind::In => Some(is_in(&left, &right)),
                _ => None,
            }
        }
        Expr::Compare(compare) => {
            let mut left = value(&compare.expr, chosen)?;
            for op in &compare.ops {
                let right = value(&op.expr, chosen)?;
                let holds = match op.op {
                    CompareOpKind::Eq => left == right,
                    CompareOpKind::Ne => left != right,
                    CompareOpKind::Lt => left < right,
                    CompareOpKind::Lte => left <= right,
                    CompareOpKind::Gt => left > right,
                    CompareOpKind::Gte => left >= right,
                    CompareOpKind::In => is_in(&left, &right),
                    CompareOpKind::NotIn => !is_in(&left, &right),
                };
                if !holds {
                    return Some(false);
                }
                left = right;
            }
            Some(true)
        }
        other => value(other, chosen).map(|value| value.is_true()),
    }
}

fn value(expr: &Expr<'_>, chosen: &Chosen<'_>) -> Option<Value> {
    match expr {
        Expr::Var(_) | Expr::GetAttr(_) => chosen.get(path(expr)?.as_str()).map(|value| (*value).clone()),
        Expr::BinOp(_) | Expr::Compare(_) => truth(expr, chosen).map(Value::from),
        Expr::UnaryOp(op) if matches!(op.op, UnaryOpKind::Not) => truth(expr, chosen).map(Value::from),
        other => other.as_const(),
    }
}

fn path(expr: &Expr<'_>) -> Option<String> {
    match expr {
        Expr::Var(var) => Some(var.id.to_string()),
        Expr::GetAttr(attr) => Some(format!("{}.{}", path(&attr.expr)?, attr.name)),
        _ => None,
    }
}

fn is_in(value: &Value, list: &Value) -> bool {
    match (list.as_str(), value.as_str()) {
        (Some(text), Some(part)) => text.contains(part),
        _ => list.try_iter().is_ok_and(|mut items| items.any(|item| item == *value)),
    }
}

/// JSON as the template engine's value, as far as closed sets go: what else there is can't be told.
fn plain(json: &serde_json::Value) -> Value {
    match json {
        serde_json::Value::Bool(truth) => Value::from(*truth),
        serde_json::Value::Number(number) => match number.as_i64() {
            Some(number) => Value::from(number),
            None => Value::from(number.as_f64().unwrap_or_default()),
        },
        serde_json::Value::String(text) => Value::from(text.as_str()),
        _ => Value::from(()),
    }
}
