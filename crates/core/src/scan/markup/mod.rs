//! What a template says: the points it uses, the templates it builds on, the variables it reads.
//!
//! This is the adapter for the template engine's syntax tree, whose form may change with any
//! release; none of its nodes leaves this folder.

mod exprs;
mod guards;
mod html;
mod locals;
mod reads;
mod tags;
mod templates;
mod words;

use std::sync::LazyLock;

use crate::name::Name;
use memchr::memmem::Finder;
use minijinja::machinery::ast::{CallBlock, Expr, ForLoop, FromImport, IfCond, Macro, Stmt};
use minijinja::machinery::parse;

use super::*;
use crate::source::At;
use locals::Local;

pub use html::{Piece, html_alone, pieces, unbalanced};
use words::CALLED_BY_NAME;
pub use words::{FILTERS, FUNCTIONS, TESTS};

pub(super) fn scan(text: &str) -> Facts {
    let mut scanner = Scanner::new(text);
    if let Some(deep) = depth::template(text) {
        let at = scanner.notes.at(deep, deep + 1);
        scanner.notes.flaw(FlawKind::MarkupSyntax, at, depth::message("the template"), "");
        return scanner.notes.facts(Shape::broken(FileKind::Template));
    }
    match parse(text, "template", Default::default()) {
        Ok(_) if let Some(range) = conflict(text) => {
            let at = scanner.notes.at(range.start, range.end);
            let message = "a merge left two versions of the same lines here";
            scanner.notes.flaw(
                FlawKind::MarkupSyntax,
                at,
                message,
                "keep what is right of both, and take these lines away",
            );
            scanner.shape = TemplateShape { broken: true, ..Default::default() };
        }
        Ok(tree) => {
            scanner.open(SectionKind::Top);
            scanner.stmt(&tree);
            let (elements, scripts) = tags::elements(text, &mut scanner.notes);
            if !elements.is_empty() || !scripts.is_empty() {
                let further = scanner.shape.say_further();
                (further.elements, further.scripts) = (elements, scripts);
            }
            for range in links::root_links(text) {
                let at = scanner.notes.at(range.start, range.end);
                scanner.shape.say_further().links.push(Named { name: name(&text[range]), at });
            }
            scanner.shape.assigned = scanner.visible();
        }
        Err(error) => {
            let at = scanner.error_place(&error);
            let why = error.detail().unwrap_or("it doesn't parse");
            scanner.notes.flaw(FlawKind::MarkupSyntax, at, format!("the template doesn't parse: {why}"), "");
            scanner.shape = TemplateShape { broken: true, ..Default::default() };
        }
    }
    scanner.notes.facts(Shape::Template(Box::new(scanner.shape)))
}

static CONFLICT: LazyLock<Finder> = LazyLock::new(|| Finder::new("\n<<<<<<< "));

/// The line at which a merge's conflict begins, where one was left.
pub fn conflict(text: &str) -> Option<std::ops::Range<usize>> {
    let start = match text.starts_with("<<<<<<< ") {
        true => 0,
        false => CONFLICT.find(text.as_bytes())? + 1,
    };
    let ends = text[start..].contains("\n>>>>>>> ") && text[start..].contains("\n=======");
    let line = text[start..].lines().next().unwrap_or_default();
    ends.then(|| start..start + line.len())
}

/// The byte offset of a part of a text, if it is one.
pub(super) fn offset_in(text: &str, part: &str) -> Option<usize> {
    let start = (part.as_ptr() as usize).checked_sub(text.as_ptr() as usize)?;
    (start + part.len() <= text.len()).then_some(start)
}

struct Scanner<'t> {
    text: &'t str,
    notes: Notes,
    shape: TemplateShape,
    /// Local names that are visible here, the innermost last.
    locals: Vec<Local<'t>>,
    section: SectionId,
    /// Is what stands here carried out?
    chance: Chance,
    /// The guard around what stands here.
    guard: Option<GuardId>,
    /// Is output captured here, to be processed further?
    captured: bool,
    /// Does what stands here count where it is not so?
    negated: bool,
    /// Is it asked here whether a value is there, or is another one taken where it isn't?
    asks: bool,
    /// The names of which a condition around says that they are there.
    defined: Vec<String>,
    /// Does what is captured here lose what is placed in it?
    processed: bool,
}

impl<'t> Scanner<'t> {
    fn new(text: &'t str) -> Scanner<'t> {
        Scanner {
            text,
            notes: Notes::default(),
            shape: TemplateShape::default(),
            locals: Vec::new(),
            section: SectionId(0),
            chance: Chance::Always,
            guard: None,
            captured: false,
            negated: false,
            asks: false,
            defined: Vec::new(),
            processed: false,
        }
    }

    fn error_place(&mut self, error: &minijinja::Error) -> At {
        let (start, end) = match (error.range(), error.line()) {
            (Some(range), _) => (range.start, range.end),
            (None, Some(line)) => {
                let range = crate::source::LineIndex::new(self.text).lines(line, line);
                (range.start, range.end)
            }
            (None, None) => (0, 0),
        };
        let length = self.text.len();
        self.notes.at(start.min(length), end.min(length))
    }

    /// Opens a part; what follows belongs to it.
    fn open(&mut self, kind: SectionKind) {
        self.section = SectionId(self.shape.sections.len() as u16);
        let visible = self.visible();
        let section = Section { kind, blocks: Vec::new(), mentions: Vec::new(), calls_super: false, visible };
        add(&mut self.shape.sections, section);
    }

    fn here(&mut self) -> &mut Section {
        &mut self.shape.sections[usize::from(self.section.0)]
    }

    fn at_part(&mut self, part: &str) -> At {
        let start = offset_in(self.text, part).unwrap_or(0);
        self.notes.at(start, start + part.len())
    }

    fn at_expr(&mut self, expr: &Expr<'t>) -> At {
        let span = expr.span();
        self.notes.at(span.start_offset as usize, span.end_offset as usize)
    }

    /// Scans something in a part of its own, with local names of its own.
    fn within(&mut self, kind: SectionKind, scan: impl FnOnce(&mut Self)) {
        let (section, chance, captured, guard) = (self.section, self.chance, self.captured, self.guard);
        let processed = self.processed;
        let locals = self.locals.clone();
        self.open(kind);
        (self.chance, self.captured, self.processed, self.guard) = (Chance::Always, false, false, None);
        scan(self);
        (self.section, self.chance, self.captured, self.guard) = (section, chance, captured, guard);
        self.processed = processed;
        self.locals = locals;
    }

    /// Scans something whose local names end with it.
    fn scoped(&mut self, scan: impl FnOnce(&mut Self)) {
        let locals = self.locals.len();
        scan(self);
        self.locals.truncate(locals);
    }

    /// Is what is printed here lost, since another template is shown in place of this one?
    fn is_outside(&self) -> bool {
        let extends =
            |reference: &TemplateRef| reference.verb == TemplateVerb::Extends && !reference.chance.is_conditional();
        self.section == SectionId(0) && !self.captured && self.shape.refs.iter().any(extends)
    }

    fn branch(&mut self, body: &[Stmt<'t>], chance: Chance) {
        self.by_chance(chance, |this| this.stmts(body));
    }

    /// Scans something that is carried out at most as it is said here.
    fn by_chance(&mut self, chance: Chance, scan: impl FnOnce(&mut Self)) {
        let outer = self.chance;
        self.chance = outer.max(chance);
        scan(self);
        self.chance = outer;
    }

    fn stmts(&mut self, stmts: &[Stmt<'t>]) {
        stmts.iter().for_each(|stmt| self.stmt(stmt));
    }

    fn stmt(&mut self, stmt: &Stmt<'t>) {
        match stmt {
            Stmt::Template(template) => self.stmts(&template.children),
            Stmt::EmitExpr(emit) => {
                if self.is_outside() && !is_note(&emit.expr) {
                    let at = self.at_expr(&emit.expr);
                    self.shape.outside.push(at);
                }
                self.printed(&emit.expr);
            }
            Stmt::EmitRaw(raw) => {
                let text = raw.raw.trim();
                if self.is_outside() && !text.is_empty() {
                    let at = self.at_part(text);
                    self.shape.outside.push(at);
                }
            }
            Stmt::ForLoop(each) => self.for_loop(each),
            Stmt::IfCond(cond) => self.if_cond(cond),
            Stmt::WithBlock(with) => self.scoped(|this| {
                for (target, value) in &with.assignments {
                    this.expr(value);
                    this.assign(target, Some(value));
                }
                this.stmts(&with.body);
            }),
            Stmt::Set(set) => {
                self.expr(&set.expr);
                self.assign(&set.target, Some(&set.expr));
            }
            Stmt::SetBlock(set) => {
                // What is placed in it shows where its name is printed as it is.
                let (used, outlets) = self.placements();
                self.captured(set.filter.is_some(), |this| this.stmts(&set.body));
                set.filter.iter().for_each(|filter| self.expr(filter));
                self.assign(&set.target, None);
                let places = self.placements() != (used, outlets);
                self.locals.iter_mut().last().into_iter().for_each(|local| local.places = places);
            }
            Stmt::AutoEscape(escape) => {
                self.expr(&escape.enabled);
                self.stmts(&escape.body);
            }
            Stmt::FilterBlock(filter) => {
                self.expr(&filter.filter);
                self.captured(true, |this| this.scoped(|this| this.stmts(&filter.body)));
            }
            Stmt::Block(block) => {
                let word = name(block.name);
                let at = self.at_part(block.name);
                let guard = self.guard;
                self.here().blocks.push(BlockSite { name: word, at, guard });
                self.within(SectionKind::Block(word), |this| this.stmts(&block.body));
            }
            Stmt::Import(import) => {
                let alias = local(&import.name);
                let aliases = alias.iter().map(|alias| (name(alias), None)).collect();
                self.template(TemplateVerb::Import, &import.expr, false, aliases);
                self.locals.extend(alias.map(Local::new));
            }
            Stmt::FromImport(import) => self.macros_from(import),
            Stmt::Extends(extends) => self.template(TemplateVerb::Extends, &extends.name, false, Vec::new()),
            Stmt::Include(include) => {
                self.template(TemplateVerb::Include, &include.name, include.ignore_missing, Vec::new());
            }
            Stmt::Macro(spec) => self.macro_spec(spec),
            Stmt::CallBlock(call) => self.call_block(call),
            Stmt::Do(call) => self.call(&call.call, false),
        }
    }

    fn macros_from(&mut self, import: &FromImport<'t>) {
        let mut aliases = Vec::new();
        for (macro_name, alias) in &import.names {
            let (Some(word), Some(known)) = (local(macro_name), local(alias.as_ref().unwrap_or(macro_name))) else {
                continue;
            };
            let at = self.at_part(word);
            aliases.push((name(known), Some(Named { name: name(word), at })));
            self.locals.push(Local::new(known));
        }
        self.template(TemplateVerb::Import, &import.expr, false, aliases);
    }

    /// Scans something whose output is captured; `processed` where that is changed before it is printed.
    fn captured(&mut self, processed: bool, scan: impl FnOnce(&mut Self)) {
        let before = (self.captured, self.processed);
        (self.captured, self.processed) = (true, self.processed || processed);
        scan(self);
        (self.captured, self.processed) = before;
    }

    /// How many placements there are so far.
    fn placements(&self) -> (usize, usize) {
        let placed = self.shape.uses.iter().filter(|found| found.verb == Verb::Place).count();
        (placed, self.shape.further.as_ref().map_or(0, |further| further.outlets.len()))
    }

    /// Scans what is carried out where a condition holds, and so where the names are there for which it asks.
    fn where_defined(&mut self, test: &Expr<'t>, scan: impl FnOnce(&mut Self)) {
        let known = self.defined.len();
        let mut asked = Vec::new();
        guards::defined(test, &mut asked);
        self.defined.extend(asked.into_iter().filter_map(guards::dotted));
        scan(self);
        self.defined.truncate(known);
    }

    fn for_loop(&mut self, each: &ForLoop<'t>) {
        self.expr(&each.iter);
        let at = self.at_expr(&each.iter);
        let some = match &each.filter_expr {
            None => match self.predicate(&each.iter) {
                Predicate::Truth(term) => Predicate::Turns(term),
                predicate => predicate,
            },
            Some(_) => Predicate::Unknown(name("a loop has turns")),
        };
        let none = (!each.else_body.is_empty()).then(|| some.negated());
        self.scoped(|this| {
            this.assign(&each.target, None);
            this.entries_of(each);
            each.filter_expr.iter().for_each(|filter| this.expr(filter));
            this.locals.push(Local::new("loop"));
            this.guarded(some, at, |this| this.branch(&each.body, Chance::Repeated));
        });
        if let Some(none) = none {
            self.scoped(|this| this.guarded(none, at, |this| this.branch(&each.else_body, Chance::Perhaps)));
        }
    }

    fn if_cond(&mut self, cond: &IfCond<'t>) {
        self.expr(&cond.expr);
        let guards = cond.false_body.is_empty() && guards::is_guard(&cond.expr);
        let chance = if guards { Chance::Guarded } else { Chance::Perhaps };
        let (predicate, at) = self.choice(&cond.expr);
        let not = (!cond.false_body.is_empty()).then(|| predicate.negated());
        self.where_defined(&cond.expr, |this| {
            this.guarded(predicate, at, |this| this.branch(&cond.true_body, chance));
        });
        if let Some(not) = not {
            self.guarded(not, at, |this| this.branch(&cond.false_body, Chance::Perhaps));
        }
    }

    fn macro_spec(&mut self, spec: &Macro<'t>) {
        spec.defaults.iter().for_each(|default| self.expr(default));
        self.locals.push(Local::new(spec.name));
        self.within(SectionKind::Macro(name(spec.name)), |this| {
            this.locals.push(Local::new("caller"));
            spec.args.iter().for_each(|arg| this.assign(arg, None));
            this.stmts(&spec.body);
        });
    }

    fn call_block(&mut self, block: &CallBlock<'t>) {
        let callee = match &block.call.expr {
            Expr::Var(var) => Some(var.id),
            Expr::GetAttr(attr) => Some(attr.name),
            _ => None,
        };
        if let Some(word) = callee {
            let at = self.at_part(word);
            self.shape.say_further().called.push(Named { name: name(word), at });
        }
        self.call(&block.call, true);
        self.scoped(|this| {
            block.macro_decl.args.iter().for_each(|arg| this.assign(arg, None));
            this.branch(&block.macro_decl.body, Chance::Perhaps);
        });
    }
}

/// Does this write into the trace, and print nothing?
fn is_note(expr: &Expr<'_>) -> bool {
    matches!(expr, Expr::Call(call) if matches!(&call.expr, Expr::Var(var) if var.id == "note"))
}

/// The name that a target assigns.
fn local<'t>(target: &Expr<'t>) -> Option<&'t str> {
    match target {
        Expr::Var(var) => Some(var.id),
        _ => None,
    }
}

/// The text of a literal string.
fn literal(expr: &Expr<'_>) -> Option<String> {
    match expr {
        Expr::Const(constant) => constant.value.as_str().map(str::to_string),
        _ => None,
    }
}
