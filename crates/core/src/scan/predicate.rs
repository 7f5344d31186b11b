//! Conditions as trees, built from the template engine's syntax tree.

use std::cell::Cell;

use minijinja::machinery::ast::{BinOpKind, CallArg, CompareOpKind, Expr, UnaryOpKind};

use super::shapes::{OutletKind, PointRef, Predicate, Relation, Term, engine_value};
use crate::name::Name;
use crate::source::At;

/// The names that all templates know, besides what is passed to them.
const GLOBALS: [&str; 4] = ["page", "site", "options", "theme"];

/// What a name means where a condition stands.
pub(super) enum Meaning {
    /// The global name.
    Global,
    /// A local name of this value.
    Local(Term),
    /// A local name whose value can't be told.
    Unknown,
}

/// How much of a condition is shown, in letters.
const LONGEST: usize = 100;

/// How deep conditions are read; what is nested deeper can't be told.
const DEEPEST: usize = 48;

/// What is needed to read conditions: the text that they stand in, and what names mean there.
pub(super) struct Reading<'r> {
    text: &'r str,
    meaning: &'r dyn Fn(&str) -> Meaning,
    depth: Cell<usize>,
}

impl<'r> Reading<'r> {
    pub fn new(text: &'r str, meaning: &'r dyn Fn(&str) -> Meaning) -> Reading<'r> {
        Reading { text, meaning, depth: Cell::new(0) }
    }

    /// Reads something one level deeper; nothing where that is too deep.
    fn deeper<T>(&self, read: impl FnOnce() -> T) -> Option<T> {
        let depth = self.depth.get();
        if depth == DEEPEST {
            return None;
        }
        self.depth.set(depth + 1);
        let found = read();
        self.depth.set(depth);
        Some(found)
    }

    /// The condition that an expression is.
    pub fn predicate(&self, expr: &Expr<'_>) -> Predicate {
        self.deeper(|| self.predicate_within(expr)).unwrap_or_else(|| self.unknown(expr))
    }

    fn predicate_within(&self, expr: &Expr<'_>) -> Predicate {
        match expr {
            Expr::UnaryOp(op) if matches!(op.op, UnaryOpKind::Not) => self.predicate(&op.expr).negated(),
            Expr::BinOp(op) => match op.op {
                BinOpKind::ScAnd => Predicate::All(self.parts(&op.left, &op.right, BinOpKind::ScAnd)),
                BinOpKind::ScOr => Predicate::Any(self.parts(&op.left, &op.right, BinOpKind::ScOr)),
                _ => match binary(&op.op) {
                    Some(relation) => self.compare(&op.left, relation, &op.right),
                    None => self.unknown(expr),
                },
            },
            Expr::Compare(compare) => {
                let mut left = &compare.expr;
                let mut parts = Vec::new();
                for op in &compare.ops {
                    parts.push(self.compare(left, comparison(&op.op), &op.expr));
                    left = &op.expr;
                }
                if parts.len() == 1 { parts.remove(0) } else { Predicate::All(parts) }
            }
            Expr::Call(call) => self.call(expr, &call.expr, &call.args),
            Expr::Test(test) => match (test.name, self.term(&test.expr)) {
                // A test for a value that counts as true, or doesn't, of a boolean.
                ("true", Term::Literal(value)) => Predicate::Constant(value == true),
                ("false", Term::Literal(value)) => Predicate::Constant(value == false),
                _ => self.unknown(expr),
            },
            other => match self.term(other) {
                Term::Literal(value) => Predicate::Constant(engine_value(&value).is_true()),
                Term::Truth(predicate) => *predicate,
                Term::Unknown(_) => self.unknown(other),
                term => Predicate::Truth(term),
            },
        }
    }

    /// The value that an expression is.
    pub fn term(&self, expr: &Expr<'_>) -> Term {
        self.deeper(|| self.term_within(expr)).unwrap_or_else(|| self.text_of(expr))
    }

    fn term_within(&self, expr: &Expr<'_>) -> Term {
        let may_be_written = matches!(
            expr,
            Expr::Const(_) | Expr::List(_) | Expr::Tuple(_) | Expr::Map(_) | Expr::UnaryOp(_) | Expr::BinOp(_)
        );
        if may_be_written
            && let Some(value) = expr.as_const().filter(|value| !value.is_undefined())
            && let Ok(value) = serde_json::to_value(&value)
        {
            return Term::Literal(value);
        }
        match expr {
            Expr::Var(var) => match (self.meaning)(var.id) {
                Meaning::Global if GLOBALS.contains(&var.id) => Term::Path(var.id.into()),
                Meaning::Local(term) => term,
                Meaning::Global | Meaning::Unknown => self.text_of(expr),
            },
            Expr::GetAttr(attr) => match self.term(&attr.expr) {
                Term::Path(path) => Term::Path([path.as_str(), ".", attr.name].concat().as_str().into()),
                _ => self.text_of(expr),
            },
            Expr::IfExpr(choice) => match &choice.false_expr {
                Some(other) => Term::Choice(
                    Box::new(self.predicate(&choice.test_expr)),
                    Box::new(self.term(&choice.true_expr)),
                    Box::new(self.term(other)),
                ),
                None => self.text_of(expr),
            },
            Expr::BinOp(op) if matches!(op.op, BinOpKind::Concat) => {
                let mut parts = Vec::new();
                for side in [&op.left, &op.right] {
                    match self.term(side) {
                        Term::Joined(more) => parts.extend(more),
                        part => parts.push(part),
                    }
                }
                Term::Joined(parts)
            }
            Expr::BinOp(_) | Expr::Compare(_) | Expr::UnaryOp(_) | Expr::Call(_) | Expr::Test(_) => {
                match self.predicate(expr) {
                    Predicate::Unknown(text) => Term::Unknown(text),
                    predicate => Term::Truth(Box::new(predicate)),
                }
            }
            other => self.text_of(other),
        }
    }

    fn parts(&self, left: &Expr<'_>, right: &Expr<'_>, word: BinOpKind) -> Vec<Predicate> {
        let is_and = matches!(word, BinOpKind::ScAnd);
        let mut parts = Vec::new();
        for side in [left, right] {
            match self.predicate(side) {
                Predicate::All(more) if is_and => parts.extend(more),
                Predicate::Any(more) if !is_and => parts.extend(more),
                part => parts.push(part),
            }
        }
        parts
    }

    fn compare(&self, left: &Expr<'_>, relation: Relation, right: &Expr<'_>) -> Predicate {
        Predicate::Compare(Box::new(self.term(left)), relation, Box::new(self.term(right)))
    }

    fn call(&self, whole: &Expr<'_>, callee: &Expr<'_>, args: &[CallArg<'_>]) -> Predicate {
        let (Expr::Var(callee), [CallArg::Pos(first)]) = (callee, args) else { return self.unknown(whole) };
        let Term::Literal(serde_json::Value::String(word)) = self.term(first) else { return self.unknown(whole) };
        let address = PointRef::new(&word, At::default()).address;
        match (callee.id, (self.meaning)(callee.id), OutletKind::from_word(&word), address) {
            ("filled", Meaning::Global, Some(outlet), _) => Predicate::Outlet(outlet),
            ("filled", Meaning::Global, None, Some(address)) => Predicate::Filled(address),
            ("enabled", Meaning::Global, _, Some(address)) => Predicate::Enabled(address),
            _ => self.unknown(whole),
        }
    }

    fn unknown(&self, expr: &Expr<'_>) -> Predicate {
        Predicate::Unknown(self.source(expr))
    }

    fn text_of(&self, expr: &Expr<'_>) -> Term {
        Term::Unknown(self.source(expr))
    }

    /// The expression as it was written, in one line.
    fn source(&self, expr: &Expr<'_>) -> Name {
        let span = expr.span();
        let text = self.text.get(span.start_offset as usize..span.end_offset as usize).unwrap_or_default();
        if text.len() <= LONGEST && !text.contains(char::is_whitespace) {
            return text.into();
        }
        let line = text.split_whitespace().collect::<Vec<_>>().join(" ");
        match line.char_indices().nth(LONGEST) {
            None => line.as_str().into(),
            Some((at, _)) => format!("{}… ({} letters)", &line[..at], line.len()).as_str().into(),
        }
    }
}

fn binary(op: &BinOpKind) -> Option<Relation> {
    Some(match op {
        BinOpKind::Eq => Relation::Equal,
        BinOpKind::Ne => Relation::Unequal,
        BinOpKind::Lt => Relation::Less,
        BinOpKind::Lte => Relation::LessOrEqual,
        BinOpKind::Gt => Relation::Greater,
        BinOpKind::Gte => Relation::GreaterOrEqual,
        BinOpKind::In => Relation::In,
        _ => return None,
    })
}

fn comparison(op: &CompareOpKind) -> Relation {
    match op {
        CompareOpKind::Eq => Relation::Equal,
        CompareOpKind::Ne => Relation::Unequal,
        CompareOpKind::Lt => Relation::Less,
        CompareOpKind::Lte => Relation::LessOrEqual,
        CompareOpKind::Gt => Relation::Greater,
        CompareOpKind::Gte => Relation::GreaterOrEqual,
        CompareOpKind::In => Relation::In,
        CompareOpKind::NotIn => Relation::NotIn,
    }
}
