//! Conditions as trees: what the template language asks in `if`, `for` and `when`.

use std::fmt;

use minijinja::Value;
use minijinja::value::Serde;

use super::OutletKind;
use crate::address::Address;
use crate::name::Name;

/// A condition as a tree. Its `Display` is the condition in the template language.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Predicate {
    /// What is true, or false, in any case.
    Constant(bool),
    /// `filled("region:aside")`
    Filled(Address),
    /// `filled("sections")`, `filled("held")`
    Outlet(OutletKind),
    /// `enabled("feature:colours")`
    Enabled(Address),
    /// A value that counts as true, as in `{% if page.wide %}`.
    Truth(Term),
    /// A list that isn't empty, so that a loop over it has turns.
    Turns(Term),
    /// A comparison.
    Compare(Box<Term>, Relation, Box<Term>),
    /// `not …`
    Not(Box<Predicate>),
    /// `… and …`
    All(Vec<Predicate>),
    /// `… or …`
    Any(Vec<Predicate>),
    /// What can't be told from what files say. The text is the condition as it was written.
    Unknown(Name),
}

/// A value in a condition.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Term {
    /// A global name, its steps joined by dots: `page.type`.
    Path(Name),
    /// A value that is written out, as JSON.
    Literal(serde_json::Value),
    /// The truth of a condition.
    Truth(Box<Predicate>),
    /// `… if … else …`: the condition, and both values.
    Choice(Box<Predicate>, Box<Term>, Box<Term>),
    /// `… ~ …`
    Joined(Vec<Term>),
    /// What can't be told. The text is the value as it was written.
    Unknown(Name),
}

/// How two values are compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Relation {
    /// `==`
    Equal,
    /// `!=`
    Unequal,
    /// `<`
    Less,
    /// `<=`
    LessOrEqual,
    /// `>`
    Greater,
    /// `>=`
    GreaterOrEqual,
    /// `in`
    In,
    /// `not in`
    NotIn,
}

/// What is known of the things that conditions ask for. Nothing stands for what is not known.
pub trait Context {
    /// The value of a name, its steps joined by dots.
    fn value(&self, path: &str) -> Option<Value>;
    /// Is a point filled?
    fn filled(&self, _point: Address) -> Option<bool> {
        None
    }
    /// Does the page have sections, or the component hold anything?
    fn outlet(&self, _outlet: OutletKind) -> Option<bool> {
        None
    }
    /// Is a feature switched on?
    fn enabled(&self, _feature: Address) -> Option<bool> {
        None
    }
}

impl Predicate {
    /// Does it hold? Nothing where that isn't known.
    pub fn truth(&self, context: &impl Context) -> Option<bool> {
        match self {
            Predicate::Constant(truth) => Some(*truth),
            Predicate::Filled(point) => context.filled(*point),
            Predicate::Outlet(outlet) => context.outlet(*outlet),
            Predicate::Enabled(feature) => context.enabled(*feature),
            Predicate::Truth(term) | Predicate::Turns(term) => term.value(context).map(|value| value.is_true()),
            Predicate::Compare(left, relation, right) => relation.holds(&left.value(context)?, &right.value(context)?),
            Predicate::Not(inner) => inner.truth(context).map(|truth| !truth),
            Predicate::All(parts) => all(parts.iter().map(|part| part.truth(context))),
            Predicate::Any(parts) => {
                all(parts.iter().map(|part| part.truth(context).map(|truth| !truth))).map(|none| !none)
            }
            Predicate::Unknown(_) => None,
        }
    }

    /// The opposite.
    pub fn negated(&self) -> Predicate {
        match self {
            Predicate::Constant(truth) => Predicate::Constant(!truth),
            Predicate::Not(inner) => (**inner).clone(),
            other => Predicate::Not(Box::new(other.clone())),
        }
    }

    /// The conditions that all have to hold for this one to hold.
    pub fn conjuncts(&self) -> Vec<Predicate> {
        match self {
            Predicate::All(parts) => parts.iter().flat_map(Predicate::conjuncts).collect(),
            Predicate::Not(inner) => match &**inner {
                Predicate::Any(parts) => parts.iter().flat_map(|part| part.negated().conjuncts()).collect(),
                Predicate::Not(inner) => inner.conjuncts(),
                _ => vec![self.clone()],
            },
            Predicate::Constant(true) => Vec::new(),
            _ => vec![self.clone()],
        }
    }

    /// Goes through this condition and all that it is made of.
    pub fn visit<'p>(&'p self, visit: &mut impl FnMut(&'p Predicate)) {
        visit(self);
        match self {
            Predicate::Truth(term) | Predicate::Turns(term) => term.visit(visit),
            Predicate::Compare(left, _, right) => [left, right].into_iter().for_each(|term| term.visit(visit)),
            Predicate::Not(inner) => inner.visit(visit),
            Predicate::All(parts) | Predicate::Any(parts) => parts.iter().for_each(|part| part.visit(visit)),
            _ => {}
        }
    }

    /// Is there a part of it that can't be told from names that all templates know?
    pub fn is_open(&self) -> bool {
        let mut open = false;
        self.visit(&mut |part| {
            open |= match part {
                Predicate::Unknown(_) => true,
                Predicate::Truth(term) | Predicate::Turns(term) => term.is_open(),
                Predicate::Compare(left, _, right) => left.is_open() || right.is_open(),
                _ => false,
            }
        });
        open
    }

    /// The global names that it reads, each once.
    pub fn paths(&self) -> Vec<Name> {
        let mut paths = Vec::new();
        self.visit(&mut |part| {
            let terms: Vec<&Term> = match part {
                Predicate::Truth(term) | Predicate::Turns(term) => vec![term],
                Predicate::Compare(left, _, right) => vec![left, right],
                _ => Vec::new(),
            };
            terms.into_iter().for_each(|term| term.paths(&mut paths));
        });
        paths
    }

    /// Can it hold? `values` gives all that a name can be, where that is a closed set; the context says what else is
    /// known.
    pub fn can_hold(&self, context: &impl Context, values: impl Fn(&str) -> Option<Vec<Value>>) -> bool {
        /// How many combinations of values are tried.
        const MOST: usize = 4096;
        let closed: Vec<(Name, Vec<Value>)> =
            self.paths().into_iter().filter_map(|path| Some((path, values(&path)?))).collect();
        let count: usize = closed.iter().map(|(_, all)| all.len()).fold(1, usize::saturating_mul);
        if count > MOST {
            return true;
        }
        (0..count).any(|mut at| {
            let mut chosen = Vec::with_capacity(closed.len());
            for (name, all) in &closed {
                chosen.push((*name, &all[at % all.len()]));
                at /= all.len();
            }
            self.truth(&Chosen { context, chosen }) != Some(false)
        })
    }
}

/// One combination of values, over what else is known.
struct Chosen<'c, C> {
    context: &'c C,
    chosen: Vec<(Name, &'c Value)>,
}

impl<C: Context> Context for Chosen<'_, C> {
    fn value(&self, path: &str) -> Option<Value> {
        let chosen = self.chosen.iter().find(|(name, _)| *name == *path);
        chosen.map(|(_, value)| (*value).clone()).or_else(|| self.context.value(path))
    }

    fn filled(&self, point: Address) -> Option<bool> {
        self.context.filled(point)
    }

    fn outlet(&self, outlet: OutletKind) -> Option<bool> {
        self.context.outlet(outlet)
    }

    fn enabled(&self, feature: Address) -> Option<bool> {
        self.context.enabled(feature)
    }
}

/// Are all true? One that is false decides, whatever the others are.
fn all(truths: impl Iterator<Item = Option<bool>>) -> Option<bool> {
    let mut known = Some(true);
    for truth in truths {
        match truth {
            Some(false) => return Some(false),
            None => known = None,
            Some(true) => {}
        }
    }
    known
}

impl Relation {
    fn holds(self, left: &Value, right: &Value) -> Option<bool> {
        Some(match self {
            Relation::Equal => left == right,
            Relation::Unequal => left != right,
            Relation::Less => left < right,
            Relation::LessOrEqual => left <= right,
            Relation::Greater => left > right,
            Relation::GreaterOrEqual => left >= right,
            Relation::In => is_in(left, right),
            Relation::NotIn => !is_in(left, right),
        })
    }

    fn word(self) -> &'static str {
        match self {
            Relation::Equal => "==",
            Relation::Unequal => "!=",
            Relation::Less => "<",
            Relation::LessOrEqual => "<=",
            Relation::Greater => ">",
            Relation::GreaterOrEqual => ">=",
            Relation::In => "in",
            Relation::NotIn => "not in",
        }
    }
}

/// JSON as the template engine's value.
pub fn engine_value(json: &serde_json::Value) -> Value {
    Value::from(Serde(json))
}

fn is_in(value: &Value, list: &Value) -> bool {
    match (list.as_str(), value.as_str()) {
        (Some(text), Some(part)) => text.contains(part),
        _ => list.try_iter().is_ok_and(|mut items| items.any(|item| item == *value)),
    }
}

impl Term {
    /// The value; nothing where it isn't known.
    pub fn value(&self, context: &impl Context) -> Option<Value> {
        match self {
            Term::Path(path) => context.value(path),
            Term::Literal(value) => Some(engine_value(value)),
            Term::Truth(predicate) => match **predicate {
                // What `and` and `or` give is one of their sides, of which only the truth is known.
                Predicate::All(_) | Predicate::Any(_) => None,
                _ => predicate.truth(context).map(Value::from),
            },
            Term::Choice(predicate, yes, no) => match predicate.truth(context)? {
                true => yes.value(context),
                false => no.value(context),
            },
            Term::Joined(parts) => {
                let parts: Option<Vec<Value>> = parts.iter().map(|part| part.value(context)).collect();
                Some(Value::from(parts?.iter().map(Value::to_string).collect::<String>()))
            }
            Term::Unknown(_) => None,
        }
    }

    fn visit<'p>(&'p self, visit: &mut impl FnMut(&'p Predicate)) {
        match self {
            Term::Truth(predicate) => predicate.visit(visit),
            Term::Choice(predicate, yes, no) => {
                predicate.visit(visit);
                [yes, no].into_iter().for_each(|term| term.visit(visit));
            }
            Term::Joined(parts) => parts.iter().for_each(|part| part.visit(visit)),
            Term::Path(_) | Term::Literal(_) | Term::Unknown(_) => {}
        }
    }

    /// How many values and conditions it is made of.
    pub(crate) fn size(&self) -> usize {
        let mut size = 1;
        self.visit(&mut |_| size += 1);
        match self {
            Term::Choice(_, yes, no) => size + yes.size() + no.size(),
            Term::Joined(parts) => size + parts.iter().map(Term::size).sum::<usize>(),
            _ => size,
        }
    }

    fn is_open(&self) -> bool {
        match self {
            Term::Unknown(_) => true,
            Term::Choice(predicate, yes, no) => predicate.is_open() || yes.is_open() || no.is_open(),
            Term::Joined(parts) => parts.iter().any(Term::is_open),
            Term::Path(_) | Term::Literal(_) | Term::Truth(_) => false,
        }
    }

    /// Adds the global names that it reads by itself; those of conditions in it are theirs.
    pub(crate) fn paths(&self, paths: &mut Vec<Name>) {
        match self {
            Term::Path(path) if !paths.contains(path) => paths.push(*path),
            Term::Choice(_, yes, no) => [yes, no].into_iter().for_each(|term| term.paths(paths)),
            Term::Joined(parts) => parts.iter().for_each(|part| part.paths(paths)),
            _ => {}
        }
    }
}

impl fmt::Display for Predicate {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        /// A condition inside another one, in parentheses where it needs them.
        struct Inner<'p>(&'p Predicate);
        impl fmt::Display for Inner<'_> {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                match self.0 {
                    Predicate::All(_) | Predicate::Any(_) | Predicate::Compare(..) => write!(f, "({})", self.0),
                    other => write!(f, "{other}"),
                }
            }
        }
        let joined = |f: &mut fmt::Formatter<'_>, parts: &[Predicate], word: &str| {
            parts.iter().enumerate().try_for_each(|(at, part)| {
                let between = if at > 0 { word } else { "" };
                match part {
                    Predicate::Compare(..) => write!(f, "{between}{part}"),
                    part => write!(f, "{between}{}", Inner(part)),
                }
            })
        };
        match self {
            Predicate::Constant(truth) => write!(f, "{truth}"),
            Predicate::Filled(point) => write!(f, "filled(\"{point}\")"),
            Predicate::Outlet(outlet) => write!(f, "filled(\"{}\")", outlet.word()),
            Predicate::Enabled(feature) => write!(f, "enabled(\"{feature}\")"),
            Predicate::Truth(term) | Predicate::Turns(term) => write!(f, "{term}"),
            Predicate::Compare(left, relation, right) => write!(f, "{left} {} {right}", relation.word()),
            Predicate::Not(inner) => write!(f, "not {}", Inner(inner)),
            Predicate::All(parts) => joined(f, parts, " and "),
            Predicate::Any(parts) => joined(f, parts, " or "),
            Predicate::Unknown(text) => write!(f, "{text}"),
        }
    }
}

impl fmt::Display for Term {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Term::Path(path) => write!(f, "{path}"),
            Term::Literal(value) => write!(f, "{value}"),
            Term::Truth(predicate) => write!(f, "({predicate})"),
            Term::Choice(predicate, yes, no) => write!(f, "({yes} if {predicate} else {no})"),
            Term::Joined(parts) => parts
                .iter()
                .enumerate()
                .try_for_each(|(at, part)| write!(f, "{}{part}", if at > 0 { " ~ " } else { "" })),
            Term::Unknown(text) => write!(f, "{text}"),
        }
    }
}
