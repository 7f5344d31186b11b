//! Expressions: what they print, read, place and send through filters.

use minijinja::machinery::ast::{BinOpKind, Call, CallArg, Expr, Filter, UnaryOpKind};

use super::*;
use crate::names;
use crate::scan::compared::comparisons;

impl<'t> Scanner<'t> {
    /// An expression whose value is printed as it is.
    pub(super) fn printed(&mut self, expr: &Expr<'t>) {
        match expr {
            Expr::Call(call) => self.call(call, true),
            Expr::IfExpr(choice) => {
                self.expr(&choice.test_expr);
                let guards = choice.false_expr.is_none() && guards::is_guard(&choice.test_expr);
                let chance = if guards { Chance::Guarded } else { Chance::Perhaps };
                let (yes, at) = self.choice(&choice.test_expr);
                let no = yes.negated();
                self.where_defined(&choice.test_expr, |this| {
                    this.guarded(yes, at, |this| this.by_chance(chance, |this| this.printed(&choice.true_expr)));
                });
                if let Some(other) = &choice.false_expr {
                    self.guarded(no, at, |this| this.by_chance(Chance::Perhaps, |this| this.printed(other)));
                }
            }
            // What was captured shows where its name is printed.
            Expr::Var(var) if self.is_local(var.id) && !self.processed => self.mention(name(var.id)),
            other => self.expr(other),
        }
    }

    /// The condition of a choice, and where it stands.
    pub(super) fn choice(&mut self, test: &Expr<'t>) -> (Predicate, At) {
        (self.predicate(test), self.at_expr(test))
    }

    /// An expression whose value is processed further.
    pub(super) fn expr(&mut self, expr: &Expr<'t>) {
        self.compared(expr);
        match expr {
            Expr::Var(_) | Expr::GetAttr(_) | Expr::GetItem(_) => self.read(expr),
            Expr::Const(_) => {}
            Expr::Slice(slice) => {
                self.expr(&slice.expr);
                [&slice.start, &slice.stop, &slice.step].into_iter().flatten().for_each(|part| self.expr(part));
            }
            Expr::UnaryOp(op) => {
                let negates = matches!(op.op, UnaryOpKind::Not);
                let outer = self.negated;
                self.negated = outer != negates;
                self.expr(&op.expr);
                self.negated = outer;
            }
            Expr::BinOp(op) if matches!(op.op, BinOpKind::ScAnd) => {
                self.expr(&op.left);
                self.where_defined(&op.left, |this| this.expr(&op.right));
            }
            Expr::BinOp(op) => {
                self.expr(&op.left);
                self.expr(&op.right);
            }
            Expr::Compare(compare) => {
                self.expr(&compare.expr);
                compare.ops.iter().for_each(|op| self.expr(&op.expr));
            }
            Expr::IfExpr(choice) => {
                self.expr(&choice.test_expr);
                let (yes, at) = self.choice(&choice.test_expr);
                let no = yes.negated();
                self.where_defined(&choice.test_expr, |this| {
                    this.guarded(yes, at, |this| this.by_chance(Chance::Perhaps, |this| this.expr(&choice.true_expr)));
                });
                if let Some(other) = &choice.false_expr {
                    self.guarded(no, at, |this| this.by_chance(Chance::Perhaps, |this| this.expr(other)));
                }
            }
            Expr::Filter(filter) => self.filter(filter),
            Expr::Test(test) => {
                self.known("test", test.name, &TESTS);
                self.asking(["defined", "undefined", "none"].contains(&test.name), &test.expr);
                self.args(&test.args);
            }
            Expr::Call(call) => self.call(call, false),
            Expr::List(list) => list.items.iter().for_each(|item| self.expr(item)),
            Expr::Tuple(tuple) => tuple.items.iter().for_each(|item| self.expr(item)),
            Expr::Map(map) => map.keys.iter().chain(&map.values).for_each(|part| self.expr(part)),
        }
    }

    /// An expression of which it may be asked whether its value is there.
    fn asking(&mut self, asks: bool, expr: &Expr<'t>) {
        let is_name = matches!(expr, Expr::GetAttr(_) | Expr::GetItem(_));
        let outer = std::mem::replace(&mut self.asks, asks && is_name);
        self.expr(expr);
        self.asks = outer;
    }

    /// What an option or the type of a page is compared with here.
    fn compared(&mut self, expr: &Expr<'t>) {
        for (compared, with) in comparisons(expr) {
            let root = compared.as_str().split('.').next().unwrap_or_default();
            if let Some(value) = written(with).filter(|_| !self.is_local(root)) {
                let at = self.at_expr(with);
                let section = self.section;
                let found = Compared { name: compared, value: Written { value, at }, section };
                add(&mut self.shape.say_further().compared, found);
            }
        }
    }

    fn args(&mut self, args: &[CallArg<'t>]) {
        for arg in args {
            match arg {
                CallArg::Pos(expr) | CallArg::Kwarg(_, expr) => self.expr(expr),
                CallArg::PosSplat(expr) | CallArg::KwargSplat(expr) => self.expr(expr),
            }
        }
    }

    fn filter(&mut self, filter: &Filter<'t>) {
        self.known("filter", filter.name, &FILTERS);
        filter.expr.iter().for_each(|expr| self.asking(["default", "d"].contains(&filter.name), expr));
        let at = self.at_part(filter.name);
        match (filter.name, &filter.expr) {
            ("through", sent) => {
                let known = self.shape.uses.len();
                self.point(Verb::Through, at, &filter.args);
                let sent =
                    sent.as_ref().and_then(|sent| Some(Written { value: written(sent)?, at: self.at_expr(sent) }));
                if let Some(found) = self.shape.uses.get_mut(known) {
                    found.sent = sent.map(Box::new);
                }
            }
            ("t", Some(text)) => self.message(text, &filter.args),
            _ => self.args(&filter.args),
        }
    }

    /// A message that is to be translated.
    fn message(&mut self, text: &Expr<'t>, args: &[CallArg<'t>]) {
        let Some(id) = self.text(text) else {
            let at = self.at_expr(text);
            let message = "a message is a literal string, so that it can be translated";
            self.notes.flaw(FlawKind::DynamicPoint, at, message, "write the text here, with {name} for what is put in");
            return self.args(args);
        };
        let mut found = Message { id, plural: None, args: Vec::new(), open: false };
        for arg in args {
            match arg {
                CallArg::Kwarg("plural", value) => match self.text(value) {
                    Some(plural) => found.plural = Some(plural),
                    None => {
                        let at = self.at_expr(value);
                        let message = "a message is a literal string, so that it can be translated";
                        self.notes.flaw(FlawKind::DynamicPoint, at, message, "write the plural here");
                    }
                },
                CallArg::Kwarg(word, value) => {
                    let at = self.at_part(word);
                    found.args.push(Named { name: name(word), at });
                    self.expr(value);
                }
                CallArg::KwargSplat(value) | CallArg::Pos(value) | CallArg::PosSplat(value) => {
                    found.open = true;
                    self.expr(value);
                }
            }
        }
        self.shape.say_further().messages.push(found);
    }

    /// A literal string, with its place.
    fn text(&mut self, expr: &Expr<'t>) -> Option<Named> {
        let text = literal(expr)?;
        let at = self.at_expr(expr);
        Some(Named { name: name(&text), at })
    }

    /// A feature that is asked for.
    fn enabled(&mut self, at: At, args: &[CallArg<'t>]) {
        if let [CallArg::Pos(first)] = args
            && let Some(feature) = self.text(first)
        {
            let asked = PointRef::new(&feature.name, feature.at);
            let further = self.shape.say_further();
            return if self.negated { further.asked_off.push(asked) } else { further.asked.push(asked) };
        }
        self.args(args);
        let message = "a feature is named by a literal string, so that it can be followed";
        self.notes.flaw(FlawKind::DynamicPoint, at, message, "write the address here, as in \"feature:colours\"");
    }

    fn known(&mut self, what: &str, word: &str, known: &[&str]) {
        if known.contains(&word) || !word.starts_with(|c: char| c.is_alphabetic()) {
            return;
        }
        let at = self.at_part(word);
        let suggestion = names::nearest(word, known.iter().copied());
        let label = suggestion
            .map_or_else(|| format!("the {what}s are: {}", known.join(", ")), |near| format!("did you mean `{near}`?"));
        self.notes.flaw(FlawKind::MarkupSyntax, at, format!("there is no {what} `{word}`"), label);
    }

    pub(super) fn call(&mut self, call: &minijinja::machinery::ast::Spanned<Call<'t>>, printed: bool) {
        if !printed || self.processed {
            self.note_processed(&call.expr);
        }
        let Expr::Var(callee) = &call.expr else {
            self.expr(&call.expr);
            self.args(&call.args);
            return;
        };
        if self.is_local(callee.id) {
            self.mention(name(callee.id));
            return self.args(&call.args);
        }
        let at = self.at_part(callee.id);
        match callee.id {
            "place" => {
                self.point(Verb::Place, at, &call.args);
                if !printed || self.processed {
                    self.shape.dynamic = true;
                    let why = "`place` can only be printed: what it puts on the page is filled in later";
                    self.notes.flaw(FlawKind::DynamicPoint, at, why, "print it with {{ place(…) }}");
                }
            }
            "filled" => self.point(Verb::Filled, at, &call.args),
            "enabled" => self.enabled(at, &call.args),
            "asset" => self.asset(at, &call.args),
            "super" => {
                self.here().calls_super = true;
                let (section, guard) = (self.section, self.guard);
                self.shape.say_further().supers.push(SuperCall { section, guard, at });
            }
            "note" => {
                self.shape.say_further().notes.push(at);
                self.args(&call.args);
            }
            "range" | "dict" | "namespace" => self.args(&call.args),
            _ => {
                self.read(&call.expr);
                self.args(&call.args);
            }
        }
    }

    /// Notes a call of what may be a macro, `name()` or `alias.name()`, whose result is not printed as
    /// it is.
    fn note_processed(&mut self, callee: &Expr<'t>) {
        let root = match callee {
            Expr::Var(var) => var.id,
            Expr::GetAttr(attr) => match &attr.expr {
                Expr::Var(var) => var.id,
                _ => return,
            },
            _ => return,
        };
        if self.is_local(root) {
            let at = self.at_part(root);
            self.shape.say_further().processed.push(Named { name: name(root), at });
        }
    }

    /// Tells of a name that is not printed as it is, where that was captured with what is placed in it.
    pub(super) fn processed_capture(&mut self, word: &str, at: At) {
        if self.locals.iter().rev().find(|local| local.name == word).is_some_and(|local| local.places) {
            self.shape.dynamic = true;
            let message = format!("`{word}` holds what is placed, which is filled in later: it can only be printed");
            self.notes.flaw(FlawKind::DynamicPoint, at, message, "print it as it is");
        }
    }

    fn point(&mut self, verb: Verb, at: At, args: &[CallArg<'t>]) {
        let (first, rest) = match args.split_first() {
            Some((CallArg::Pos(first), rest)) => (Some(first), rest),
            _ => (None, args),
        };
        let (mut named, mut given) = (Vec::new(), Vec::new());
        let mut open = false;
        for arg in rest {
            match arg {
                CallArg::Kwarg(word, value) => {
                    let at = self.at_part(word);
                    let word = Named { name: name(word), at };
                    add(&mut named, word);
                    if let Some(value_of) = written(value) {
                        let at = self.at_expr(value);
                        add(&mut given, Given { name: word, value: value_of, at });
                    }
                    self.expr(value);
                }
                CallArg::KwargSplat(value) => {
                    open = true;
                    self.expr(value);
                }
                CallArg::Pos(value) | CallArg::PosSplat(value) => {
                    let at = self.at_expr(value);
                    let message = "arguments are passed on by name";
                    self.notes.flaw(FlawKind::MarkupSyntax, at, message, "write name=value");
                    self.expr(value);
                }
            }
        }
        let Some(text) = first.and_then(|first| literal(first)) else {
            if let Some(first) = first {
                self.expr(first);
            }
            let at = first.map_or(at, |first| self.at_expr(first));
            self.shape.dynamic = true;
            let message = "a point is named by a literal string, so that it can be followed";
            self.notes.flaw(FlawKind::DynamicPoint, at, message, "write the address here, as in \"region:aside\"");
            return;
        };
        let at = first.map_or(at, |first| self.at_expr(first));
        if let (Verb::Place | Verb::Filled, Some(kind)) = (verb, OutletKind::from_word(&text)) {
            if verb == Verb::Place {
                self.shape.say_further().outlets.push(Outlet {
                    kind,
                    at,
                    section: self.section,
                    owner: None,
                    chance: self.chance,
                    guard: self.guard,
                });
            }
            return;
        }
        if text.starts_with("menu:") {
            self.menu_partial(rest);
        }
        let found = Use {
            verb,
            point: PointRef::new(&text, at),
            section: self.section,
            owner: None,
            args: named,
            given,
            sent: None,
            open,
            chance: self.chance,
            guard: self.guard,
        };
        add(&mut self.shape.uses, found);
    }

    /// The partial that a menu is to be rendered with.
    fn menu_partial(&mut self, args: &[CallArg<'t>]) {
        for arg in args {
            let CallArg::Kwarg("with", value) = arg else { continue };
            let at = self.at_expr(value);
            let Some(text) = literal(value) else {
                self.shape.dynamic = true;
                let message = "a point is named by a literal string, so that it can be followed";
                self.notes.flaw(FlawKind::DynamicPoint, at, message, "write the partial here, as in \"partial:menu\"");
                continue;
            };
            let point = PointRef::new(&text, at);
            let (section, chance, guard) = (self.section, self.chance, self.guard);
            let found = Use {
                verb: Verb::With,
                point,
                section,
                owner: None,
                args: Vec::new(),
                given: Vec::new(),
                sent: None,
                open: true,
                chance,
                guard,
            };
            add(&mut self.shape.uses, found);
        }
    }

    fn asset(&mut self, at: At, args: &[CallArg<'t>]) {
        if let [CallArg::Pos(first)] = args
            && let Some(text) = literal(first)
        {
            let at = self.at_expr(first);
            self.shape.say_further().assets.push(Named { name: name(&text), at });
            return;
        }
        self.args(args);
        let message = "a file is named by a literal string, so that it can be followed";
        let picture = args.iter().find_map(|arg| match arg {
            CallArg::Pos(value) => guards::dotted(value).filter(|name| name.ends_with(".file")),
            _ => None,
        });
        let label = match picture {
            Some(file) => format!("{{{{ place(\"partial:picture\", file={file}) }}}} shows a picture of the site's"),
            None => "write the path here, as in \"media/egret.svg\"".to_string(),
        };
        self.notes.flaw(FlawKind::DynamicPoint, at, message, label);
    }
}

/// The value of an expression that is written out: a text, a number, a truth, or a list or table of such.
fn written(expr: &Expr<'_>) -> Option<serde_json::Value> {
    let value = expr.as_const().filter(|value| !value.is_undefined())?;
    serde_json::to_value(&value).ok()
}
