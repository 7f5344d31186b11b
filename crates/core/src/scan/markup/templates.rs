//! The templates that a template extends, includes and imports.

use minijinja::machinery::ast::Expr;

use super::*;

impl<'t> Scanner<'t> {
    /// A reference to a template, or to the first that is there of several.
    pub(super) fn template(
        &mut self,
        verb: TemplateVerb,
        target: &Expr<'t>,
        optional: bool,
        aliases: Vec<(Name, Option<Named>)>,
    ) {
        let several = match target {
            Expr::List(list) => list.items.iter().collect(),
            Expr::Tuple(tuple) => tuple.items.iter().collect(),
            one => vec![one],
        };
        // Of several names the first that is there is taken, so each one may be missing.
        let optional = optional || several.len() > 1;
        for target in several {
            if literal(target).is_none() {
                self.expr(target);
            }
            let term = self.term(target);
            self.one_template(verb, target, term, optional, &aliases);
        }
    }

    /// A reference to a template; of a choice, one for each of both.
    fn one_template(
        &mut self,
        verb: TemplateVerb,
        target: &Expr<'t>,
        term: Term,
        optional: bool,
        aliases: &[(Name, Option<Named>)],
    ) {
        let at = self.at_expr(target);
        let (target_name, computed) = match term {
            Term::Choice(predicate, yes, no) => {
                let (chosen, other) = match target {
                    Expr::IfExpr(choice) => (&choice.true_expr, choice.false_expr.as_ref().unwrap_or(target)),
                    _ => (target, target),
                };
                let not = predicate.negated();
                for (predicate, term, expr) in [(*predicate, *yes, chosen), (not, *no, other)] {
                    self.guarded(predicate, at, |this| this.one_template(verb, expr, term, optional, aliases));
                }
                return;
            }
            Term::Literal(serde_json::Value::String(text)) => (Some(name(&text)), None),
            term @ Term::Joined(_) => (None, Some(Box::new(term))),
            Term::Path(path) => (None, Some(Box::new(Term::Path(path)))),
            _ => (None, None),
        };
        if target_name.is_none() {
            self.shape.dynamic = true;
        }
        let (chance, guard, section, visible) = (self.chance, self.guard, self.section, self.visible());
        let reference = TemplateRef {
            verb,
            target: target_name,
            computed,
            at,
            section,
            chance,
            guard,
            optional,
            visible,
            aliases: aliases.to_vec(),
        };
        add(&mut self.shape.refs, reference);
    }
}
