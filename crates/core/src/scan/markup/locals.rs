//! Local names with their values, and the conditions under which a part of a template is carried out.

use minijinja::machinery::ast::Expr;

use super::*;
use crate::scan::predicate::{Meaning, Reading};

/// A local name.
#[derive(Clone)]
pub(super) struct Local<'t> {
    pub name: &'t str,
    /// Its value, where that can be told.
    pub value: Option<Term>,
    /// Does it hold what is placed, and can only be printed as it is?
    pub places: bool,
    /// The list of which it is an entry, as in `page.entries`.
    pub entry_of: Option<Name>,
}

impl<'t> Local<'t> {
    /// A name of whose value nothing is known.
    pub fn new(name: &'t str) -> Local<'t> {
        Local { name, value: None, places: false, entry_of: None }
    }
}

impl<'t> Scanner<'t> {
    /// Is this a local name here?
    pub(super) fn is_local(&self, name: &str) -> bool {
        self.locals.iter().any(|local| local.name == name)
    }

    /// The local names that are visible here.
    pub(super) fn visible(&self) -> Vec<Name> {
        self.locals.iter().map(|local| name(local.name)).collect()
    }

    /// Notes of which list the variable of a loop is an entry, where that is a list that is given to the template.
    pub(super) fn entries_of(&mut self, each: &ForLoop<'t>) {
        let list = match &each.iter {
            Expr::Slice(slice) => guards::dotted(&slice.expr),
            list => guards::dotted(list),
        };
        let list = list.filter(|list| !self.is_local(list.split('.').next().unwrap_or_default()));
        if let (Expr::Var(_), Some(list), Some(local)) = (&each.target, list, self.locals.last_mut()) {
            local.entry_of = Some(name(&list));
        }
    }

    pub(super) fn meaning(&self, name: &str) -> Meaning {
        match self.locals.iter().rev().find(|local| local.name == name) {
            None => Meaning::Global,
            Some(Local { value: Some(term), .. }) => Meaning::Local(term.clone()),
            Some(_) => Meaning::Unknown,
        }
    }

    /// The condition that an expression is here.
    pub(super) fn predicate(&self, expr: &Expr<'t>) -> Predicate {
        Reading::new(self.text, &|name| self.meaning(name)).predicate(expr)
    }

    /// The value that an expression is here.
    pub(super) fn term(&self, expr: &Expr<'t>) -> Term {
        Reading::new(self.text, &|name| self.meaning(name)).term(expr)
    }

    /// Scans something that is carried out where a condition holds.
    pub(super) fn guarded(&mut self, predicate: Predicate, at: At, scan: impl FnOnce(&mut Self)) {
        let outer = self.guard;
        let locals = self.locals.len();
        self.guard = self.new_guard(predicate, at);
        scan(self);
        self.guard = outer;
        // What is set under a condition may be set or not.
        self.locals.iter_mut().skip(locals).for_each(|local| local.value = None);
    }

    pub(super) fn new_guard(&mut self, predicate: Predicate, at: At) -> Option<GuardId> {
        let outer = self.guard;
        let guards = &mut self.shape.say_further().guards;
        let Ok(id) = u16::try_from(guards.len()) else { return outer };
        guards.push(Guard { outer, predicate, at });
        Some(GuardId(id))
    }

    pub(super) fn assign(&mut self, target: &Expr<'t>, value: Option<&Expr<'t>>) {
        match target {
            Expr::Var(var) => {
                /// Larger values are not followed: each name may stand for several others.
                const LARGEST: usize = 32;
                let value = value.map(|value| self.term(value));
                let value = value.filter(|value| !matches!(value, Term::Unknown(_)) && value.size() <= LARGEST);
                self.locals.push(Local { value, ..Local::new(var.id) });
            }
            Expr::List(list) => list.items.iter().for_each(|item| self.assign(item, None)),
            Expr::Tuple(tuple) => tuple.items.iter().for_each(|item| self.assign(item, None)),
            other => self.expr(other),
        }
    }
}
