//! Conditions: the expression of a `when`, over `page`, `site` and `options`.

use crate::name::Name;
use minijinja::machinery::ast::{BinOpKind, CallArg, Expr, UnaryOpKind};
use minijinja::machinery::parse_expr;

use super::compared::comparisons;
use super::depth;
use super::predicate::{Meaning, Reading};
use super::toml::{Node, Table};
use super::{
    Compared, Context, FlawKind, Named, Notes, PointRef, Predicate, SectionId, Written, engine_value, name, short,
};
use crate::source::{At, Span};

/// What a condition can read.
const ROOTS: [&str; 3] = ["page", "site", "options"];

/// A name that a condition reads, as its steps: `page.type` is `["page", "type"]`.
pub type Path = Vec<Named>;

/// An expression that says where something is switched on.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Condition {
    /// The expression.
    pub text: Name,
    /// Where it stands.
    pub at: At,
    /// The names that it reads.
    pub reads: Vec<Path>,
    /// The features that it asks for.
    pub asked: Vec<PointRef>,
    /// The features that it asks to be off.
    pub asked_off: Vec<PointRef>,
    /// What it compares options and types of pages with.
    pub compared: Vec<Compared>,
    /// The condition as a tree.
    pub predicate: Predicate,
}

/// Reads `when` from a table. The second answer is true where there is one that doesn't parse.
pub(super) fn read(table: &Table<'_>, notes: &mut Notes) -> (Option<Condition>, bool) {
    let Some((text, at)) = table.text("when", notes) else { return (None, table.get("when").is_some()) };
    let letters = table.get("when").and_then(Node::letters);
    let condition = scan(text, at, letters, notes);
    let broken = condition.is_none();
    (condition, broken)
}

fn scan(text: &str, at: At, letters: Option<usize>, notes: &mut Notes) -> Option<Condition> {
    let whole = notes.spans[at.0 as usize];
    let deep = depth::expression(text);
    let mut reader = Reader {
        text,
        whole,
        letters,
        notes,
        reads: Vec::new(),
        asked: Vec::new(),
        asked_off: Vec::new(),
        negated: false,
        compared: Vec::new(),
    };
    let result = match parse_expr(if deep.is_some() { "" } else { text }) {
        _ if deep.is_some() => Err((deep.unwrap_or_default()..text.len(), depth::message("it"))),
        Ok(expr) => reader.expr(&expr).map(|()| Reading::new(text, &|_| Meaning::Global).predicate(&expr)),
        Err(error) => {
            let range = error.range().unwrap_or(0..text.len());
            Err((range, error.detail().unwrap_or("it doesn't parse").to_string()))
        }
    };
    let (reads, asked) = (std::mem::take(&mut reader.reads), std::mem::take(&mut reader.asked));
    let (asked_off, compared) = (std::mem::take(&mut reader.asked_off), std::mem::take(&mut reader.compared));
    match result {
        Ok(predicate) => Some(Condition { text: name(text), at, reads, asked, asked_off, compared, predicate }),
        Err((range, why)) => {
            let at = reader.place(range);
            let label = "write comparisons of page, site and options, joined by and, or, not";
            notes.flaw(FlawKind::ConditionSyntax, at, format!("`{}` is not a condition: {why}", short(text)), label);
            None
        }
    }
}

type Refusal = (std::ops::Range<usize>, String);

struct Reader<'a> {
    text: &'a str,
    whole: Span,
    /// Where the text begins in the file, where places in it are places in the file.
    letters: Option<usize>,
    notes: &'a mut Notes,
    reads: Vec<Path>,
    asked: Vec<PointRef>,
    asked_off: Vec<PointRef>,
    /// Does what stands here count where it is not so?
    negated: bool,
    compared: Vec<Compared>,
}

impl Reader<'_> {
    fn place(&mut self, range: std::ops::Range<usize>) -> At {
        match self.letters.filter(|_| range.end <= self.text.len()) {
            Some(start) => self.notes.at(start + range.start, start + range.end),
            None => self.notes.at(self.whole.start as usize, self.whole.end as usize),
        }
    }

    fn expr(&mut self, expr: &Expr<'_>) -> Result<(), Refusal> {
        let span = expr.span();
        let range = span.start_offset as usize..span.end_offset as usize;
        for (compared, with) in comparisons(expr) {
            let span = with.span();
            if let Some(value) = with.as_const().and_then(|value| serde_json::to_value(&value).ok()) {
                let at = self.place(span.start_offset as usize..span.end_offset as usize);
                self.compared.push(Compared { name: compared, value: Written { value, at }, section: SectionId(0) });
            }
        }
        match expr {
            Expr::Const(_) => Ok(()),
            Expr::List(list) => list.items.iter().try_for_each(|item| self.expr(item)),
            Expr::Tuple(tuple) => tuple.items.iter().try_for_each(|item| self.expr(item)),
            Expr::UnaryOp(op) if matches!(op.op, UnaryOpKind::Not) => {
                self.negated = !self.negated;
                let result = self.expr(&op.expr);
                self.negated = !self.negated;
                result
            }
            Expr::UnaryOp(op) if matches!(op.op, UnaryOpKind::Neg) => self.expr(&op.expr),
            Expr::BinOp(op) => match op.op {
                BinOpKind::Eq
                | BinOpKind::Ne
                | BinOpKind::Lt
                | BinOpKind::Lte
                | BinOpKind::Gt
                | BinOpKind::Gte
                | BinOpKind::In
                | BinOpKind::ScAnd
                | BinOpKind::ScOr => {
                    self.expr(&op.left)?;
                    self.expr(&op.right)
                }
                _ => Err((range, "it can compare values, not compute with them".into())),
            },
            Expr::Compare(compare) => {
                self.expr(&compare.expr)?;
                compare.ops.iter().try_for_each(|op| self.expr(&op.expr))
            }
            Expr::Var(_) | Expr::GetAttr(_) | Expr::GetItem(_) => {
                let path = self.path(expr).ok_or((range, "names are joined by dots".to_string()))?;
                self.reads.push(path);
                Ok(())
            }
            Expr::Call(call) if matches!(&call.expr, Expr::Var(var) if var.id == "enabled") => {
                let named = match call.args.as_slice() {
                    [CallArg::Pos(Expr::Const(text))] => {
                        text.value.as_str().map(|word| (word.to_string(), text.span()))
                    }
                    _ => None,
                };
                let Some((word, span)) = named else {
                    return Err((range, "`enabled` asks for one feature, as in enabled('feature:colours')".into()));
                };
                let at = self.place(span.start_offset as usize..span.end_offset as usize);
                let asked = PointRef::new(&word, at);
                if self.negated {
                    self.asked_off.push(asked)
                } else {
                    self.asked.push(asked)
                }
                Ok(())
            }
            _ => Err((range, "it can hold paths, values, comparisons, in, and, or, not".into())),
        }
    }

    fn path(&mut self, expr: &Expr<'_>) -> Option<Path> {
        match expr {
            Expr::Var(var) => {
                let range = var.span().start_offset as usize..var.span().end_offset as usize;
                Some(vec![Named { name: name(var.id), at: self.place(range) }])
            }
            Expr::GetAttr(attr) => {
                let mut path = self.path(&attr.expr)?;
                let start = super::markup::offset_in(self.text, attr.name)?;
                let at = self.place(start..start + attr.name.len());
                path.push(Named { name: name(attr.name), at });
                Some(path)
            }
            _ => None,
        }
    }
}

/// A context in which nothing is known.
struct Nothing;

impl Context for Nothing {
    fn value(&self, _path: &str) -> Option<minijinja::Value> {
        None
    }
}

impl Condition {
    /// Can it hold? `values` gives all that a name, joined by dots, can be, where that is a closed set.
    pub fn can_hold(&self, values: impl Fn(&str) -> Option<Vec<serde_json::Value>>) -> bool {
        self.predicate.can_hold(&Nothing, |name| Some(values(name)?.iter().map(engine_value).collect()))
    }

    /// Does this root exist in conditions?
    pub fn has_root(root: &str) -> bool {
        ROOTS.contains(&root)
    }
}
