//! Values that options and types of pages are compared with, in templates and conditions.

use minijinja::machinery::ast::{BinOpKind, CompareOpKind, Expr};

use crate::name::Name;

/// What a name of two steps, as in `page.type`, is compared with: the name, and the values.
pub(super) fn comparisons<'e, 't>(expr: &'e Expr<'t>) -> Vec<(Name, &'e Expr<'t>)> {
    match expr {
        Expr::BinOp(op) => match op.op {
            BinOpKind::Eq | BinOpKind::Ne => either(&op.left, &op.right),
            BinOpKind::In => among(&op.left, &op.right),
            _ => Vec::new(),
        },
        Expr::Compare(compare) => {
            let mut left = &compare.expr;
            let mut found = Vec::new();
            for op in &compare.ops {
                found.extend(match op.op {
                    CompareOpKind::Eq | CompareOpKind::Ne => either(left, &op.expr),
                    CompareOpKind::In | CompareOpKind::NotIn => among(left, &op.expr),
                    _ => Vec::new(),
                });
                left = &op.expr;
            }
            found
        }
        _ => Vec::new(),
    }
}

fn either<'e, 't>(left: &'e Expr<'t>, right: &'e Expr<'t>) -> Vec<(Name, &'e Expr<'t>)> {
    let pair = name_of(left).map(|name| (name, right)).or_else(|| Some((name_of(right)?, left)));
    pair.into_iter().collect()
}

fn among<'e, 't>(left: &'e Expr<'t>, right: &'e Expr<'t>) -> Vec<(Name, &'e Expr<'t>)> {
    let items = match right {
        Expr::List(list) => list.items.as_slice(),
        Expr::Tuple(tuple) => tuple.items.as_slice(),
        _ => return Vec::new(),
    };
    let name = name_of(left);
    items.iter().filter_map(|item| Some((name?, item))).collect()
}

fn name_of(expr: &Expr<'_>) -> Option<Name> {
    let Expr::GetAttr(attr) = expr else { return None };
    let Expr::Var(root) = &attr.expr else { return None };
    ["page", "options"].contains(&root.id).then(|| [root.id, ".", attr.name].concat().as_str().into())
}
