//! What a template says: the points it uses, the templates it builds on, the variables it reads.
//!
//! This is the adapter for the template engine's syntax tree, whose form may change with any
//! release; none of its nodes leaves this file.

use minijinja::machinery::ast::{Call, CallArg, CallBlock, Expr, Filter, ForLoop, IfCond, Macro, Stmt};
use minijinja::machinery::parse;
use ustr::Ustr;

use super::*;
use crate::names;
use crate::source::At;

/// The engine's filters that templates can use, beside `through`.
pub const FILTERS: [&str; 47] = [
    "abs",
    "attr",
    "batch",
    "bool",
    "capitalize",
    "chain",
    "count",
    "d",
    "default",
    "dictsort",
    "e",
    "escape",
    "first",
    "float",
    "format",
    "groupby",
    "indent",
    "int",
    "items",
    "join",
    "last",
    "length",
    "lines",
    "list",
    "lower",
    "map",
    "max",
    "min",
    "reject",
    "rejectattr",
    "replace",
    "reverse",
    "round",
    "safe",
    "select",
    "selectattr",
    "slice",
    "sort",
    "split",
    "string",
    "sum",
    "through",
    "title",
    "trim",
    "unique",
    "upper",
    "zip",
];
/// The engine's tests that templates can use.
pub const TESTS: [&str; 29] = [
    "boolean",
    "defined",
    "divisibleby",
    "endingwith",
    "eq",
    "even",
    "false",
    "float",
    "ge",
    "gt",
    "in",
    "int",
    "integer",
    "iterable",
    "le",
    "lower",
    "lt",
    "mapping",
    "ne",
    "none",
    "number",
    "odd",
    "safe",
    "sameas",
    "sequence",
    "startingwith",
    "string",
    "true",
    "undefined",
];
/// The functions that templates can call.
pub const FUNCTIONS: [&str; 7] = ["place", "filled", "asset", "note", "range", "dict", "namespace"];
/// Functions that have to be called by name, so that every use of a point is seen.
const CALLED_BY_NAME: [&str; 4] = ["place", "filled", "asset", "note"];

pub(super) fn scan(text: &str) -> Facts {
    let mut scanner = Scanner::new(text);
    match parse(text, "template", Default::default()) {
        Ok(tree) => {
            scanner.open(SectionKind::Top);
            scanner.stmt(&tree);
            scanner.shape.assigned = scanner.locals.iter().map(|local| name(local)).collect();
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
    locals: Vec<&'t str>,
    section: SectionId,
    /// Inside how many branches and loops?
    depth: usize,
    /// Is output captured here, to be processed further?
    captured: bool,
}

impl<'t> Scanner<'t> {
    fn new(text: &'t str) -> Scanner<'t> {
        Scanner {
            text,
            notes: Notes::default(),
            shape: TemplateShape::default(),
            locals: Vec::new(),
            section: SectionId(0),
            depth: 0,
            captured: false,
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
        self.shape.sections.push(Section {
            kind,
            blocks: Vec::new(),
            mentions: Vec::new(),
            calls_super: false,
            visible: self.locals.iter().map(|local| name(local)).collect(),
        });
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
        let (section, depth, captured) = (self.section, self.depth, self.captured);
        let locals = self.locals.clone();
        self.open(kind);
        (self.depth, self.captured) = (0, false);
        scan(self);
        (self.section, self.depth, self.captured, self.locals) = (section, depth, captured, locals);
    }

    /// Scans something whose local names end with it.
    fn scoped(&mut self, scan: impl FnOnce(&mut Self)) {
        let locals = self.locals.len();
        scan(self);
        self.locals.truncate(locals);
    }

    fn branch(&mut self, body: &[Stmt<'t>], never: bool) {
        if never {
            self.within(SectionKind::Dead, |this| this.stmts(body));
            return;
        }
        self.depth += 1;
        self.stmts(body);
        self.depth -= 1;
    }

    fn stmts(&mut self, stmts: &[Stmt<'t>]) {
        stmts.iter().for_each(|stmt| self.stmt(stmt));
    }

    fn stmt(&mut self, stmt: &Stmt<'t>) {
        match stmt {
            Stmt::Template(template) => self.stmts(&template.children),
            Stmt::EmitExpr(emit) => self.printed(&emit.expr),
            Stmt::EmitRaw(_) => {}
            Stmt::ForLoop(each) => self.for_loop(each),
            Stmt::IfCond(cond) => self.if_cond(cond),
            Stmt::WithBlock(with) => self.scoped(|this| {
                for (target, value) in &with.assignments {
                    this.expr(value);
                    this.assign(target);
                }
                this.stmts(&with.body);
            }),
            Stmt::Set(set) => {
                self.expr(&set.expr);
                self.assign(&set.target);
            }
            Stmt::SetBlock(set) => {
                self.captured(|this| this.stmts(&set.body));
                set.filter.iter().for_each(|filter| self.expr(filter));
                self.assign(&set.target);
            }
            Stmt::AutoEscape(escape) => {
                self.expr(&escape.enabled);
                self.stmts(&escape.body);
            }
            Stmt::FilterBlock(filter) => {
                self.expr(&filter.filter);
                self.captured(|this| this.scoped(|this| this.stmts(&filter.body)));
            }
            Stmt::Block(block) => {
                let word = name(block.name);
                self.here().blocks.push(word);
                self.within(SectionKind::Block(word), |this| this.stmts(&block.body));
            }
            Stmt::Import(import) => {
                let alias = local(&import.name);
                let aliases = alias.iter().map(|alias| (name(alias), None)).collect();
                self.template(TemplateVerb::Import, &import.expr, false, aliases);
                self.locals.extend(alias);
            }
            Stmt::FromImport(import) => {
                let mut aliases = Vec::new();
                for (macro_name, alias) in &import.names {
                    let (Some(word), Some(known)) = (local(macro_name), local(alias.as_ref().unwrap_or(macro_name)))
                    else {
                        continue;
                    };
                    let at = self.at_part(word);
                    aliases.push((name(known), Some(Named { name: name(word), at })));
                    self.locals.push(known);
                }
                self.template(TemplateVerb::Import, &import.expr, false, aliases);
            }
            Stmt::Extends(extends) => self.template(TemplateVerb::Extends, &extends.name, false, Vec::new()),
            Stmt::Include(include) => {
                self.template(TemplateVerb::Include, &include.name, include.ignore_missing, Vec::new());
            }
            Stmt::Macro(spec) => self.macro_spec(spec),
            Stmt::CallBlock(call) => self.call_block(call),
            Stmt::Do(call) => self.call(&call.call, false),
        }
    }

    fn captured(&mut self, scan: impl FnOnce(&mut Self)) {
        let before = std::mem::replace(&mut self.captured, true);
        scan(self);
        self.captured = before;
    }

    fn for_loop(&mut self, each: &ForLoop<'t>) {
        self.expr(&each.iter);
        self.scoped(|this| {
            this.assign(&each.target);
            each.filter_expr.iter().for_each(|filter| this.expr(filter));
            this.locals.push("loop");
            this.branch(&each.body, false);
        });
        self.scoped(|this| this.branch(&each.else_body, false));
    }

    fn if_cond(&mut self, cond: &IfCond<'t>) {
        self.expr(&cond.expr);
        let constant = cond.expr.as_const().map(|value| value.is_true());
        self.branch(&cond.true_body, constant == Some(false));
        self.branch(&cond.false_body, constant == Some(true));
    }

    fn macro_spec(&mut self, spec: &Macro<'t>) {
        spec.defaults.iter().for_each(|default| self.expr(default));
        self.locals.push(spec.name);
        self.within(SectionKind::Macro(name(spec.name)), |this| {
            this.locals.push("caller");
            spec.args.iter().for_each(|arg| this.assign(arg));
            this.stmts(&spec.body);
        });
    }

    fn call_block(&mut self, block: &CallBlock<'t>) {
        self.call(&block.call, true);
        self.scoped(|this| {
            block.macro_decl.args.iter().for_each(|arg| this.assign(arg));
            this.branch(&block.macro_decl.body, false);
        });
    }

    fn assign(&mut self, target: &Expr<'t>) {
        match target {
            Expr::Var(var) => self.locals.push(var.id),
            Expr::List(list) => list.items.iter().for_each(|item| self.assign(item)),
            Expr::Tuple(tuple) => tuple.items.iter().for_each(|item| self.assign(item)),
            other => self.expr(other),
        }
    }

    fn template(&mut self, verb: TemplateVerb, target: &Expr<'t>, optional: bool, aliases: Vec<(Ustr, Option<Named>)>) {
        let several = match target {
            Expr::List(list) => list.items.iter().collect(),
            Expr::Tuple(tuple) => tuple.items.iter().collect(),
            one => vec![one],
        };
        // Of several names the first that is there is taken, so each one may be missing.
        let optional = optional || several.len() > 1;
        for target in several {
            let at = self.at_expr(target);
            let literal = literal(target).map(|text| name(&text));
            if literal.is_none() {
                self.expr(target);
                self.shape.dynamic = true;
            }
            let conditional = self.depth > 0;
            let visible = self.locals.iter().map(|local| name(local)).collect();
            let (section, aliases) = (self.section, aliases.clone());
            let reference = TemplateRef { verb, target: literal, at, section, conditional, optional, visible, aliases };
            self.shape.refs.push(reference);
        }
    }

    /// An expression whose value is printed as it is.
    fn printed(&mut self, expr: &Expr<'t>) {
        match expr {
            Expr::Call(call) => self.call(call, true),
            Expr::IfExpr(choice) => {
                self.expr(&choice.test_expr);
                self.depth += 1;
                self.printed(&choice.true_expr);
                choice.false_expr.iter().for_each(|other| self.printed(other));
                self.depth -= 1;
            }
            other => self.expr(other),
        }
    }

    /// An expression whose value is processed further.
    fn expr(&mut self, expr: &Expr<'t>) {
        match expr {
            Expr::Var(_) | Expr::GetAttr(_) | Expr::GetItem(_) => self.read(expr),
            Expr::Const(_) => {}
            Expr::Slice(slice) => {
                self.expr(&slice.expr);
                [&slice.start, &slice.stop, &slice.step].into_iter().flatten().for_each(|part| self.expr(part));
            }
            Expr::UnaryOp(op) => self.expr(&op.expr),
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
                self.depth += 1;
                self.expr(&choice.true_expr);
                choice.false_expr.iter().for_each(|other| self.expr(other));
                self.depth -= 1;
            }
            Expr::Filter(filter) => self.filter(filter),
            Expr::Test(test) => {
                self.known("test", test.name, &TESTS);
                self.expr(&test.expr);
                self.args(&test.args);
            }
            Expr::Call(call) => self.call(call, false),
            Expr::List(list) => list.items.iter().for_each(|item| self.expr(item)),
            Expr::Tuple(tuple) => tuple.items.iter().for_each(|item| self.expr(item)),
            Expr::Map(map) => map.keys.iter().chain(&map.values).for_each(|part| self.expr(part)),
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
        filter.expr.iter().for_each(|expr| self.expr(expr));
        if filter.name == "through" {
            let at = self.at_part(filter.name);
            self.point(Verb::Through, at, &filter.args);
        } else {
            self.args(&filter.args);
        }
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

    fn call(&mut self, call: &minijinja::machinery::ast::Spanned<Call<'t>>, printed: bool) {
        let Expr::Var(callee) = &call.expr else {
            self.expr(&call.expr);
            self.args(&call.args);
            return;
        };
        if self.locals.contains(&callee.id) {
            self.here().mentions.push(name(callee.id));
            return self.args(&call.args);
        }
        let at = self.at_part(callee.id);
        match callee.id {
            "place" => {
                self.point(Verb::Place, at, &call.args);
                if !printed || self.captured {
                    self.shape.dynamic = true;
                    let why = "`place` can only be printed: what it puts on the page is filled in later";
                    self.notes.flaw(FlawKind::DynamicPoint, at, why, "print it with {{ place(…) }}");
                }
            }
            "filled" => self.point(Verb::Filled, at, &call.args),
            "asset" => self.asset(at, &call.args),
            "super" => self.here().calls_super = true,
            "note" | "range" | "dict" | "namespace" => self.args(&call.args),
            _ => {
                self.read(&call.expr);
                self.args(&call.args);
            }
        }
    }

    fn point(&mut self, verb: Verb, at: At, args: &[CallArg<'t>]) {
        let (first, rest) = match args.split_first() {
            Some((CallArg::Pos(first), rest)) => (Some(first), rest),
            _ => (None, args),
        };
        let mut named = Vec::new();
        let mut open = false;
        for arg in rest {
            match arg {
                CallArg::Kwarg(word, value) => {
                    let at = self.at_part(word);
                    named.push(Named { name: name(word), at });
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
        self.shape.uses.push(Use {
            verb,
            point: PointRef::new(&text, at),
            section: self.section,
            owner: None,
            args: named,
            open,
            conditional: self.depth > 0,
        });
    }

    fn asset(&mut self, at: At, args: &[CallArg<'t>]) {
        if let [CallArg::Pos(first)] = args
            && let Some(text) = literal(first)
        {
            let at = self.at_expr(first);
            self.shape.assets.push(Named { name: name(&text), at });
            return;
        }
        self.args(args);
        let message = "a file is named by a literal string, so that it can be followed";
        self.notes.flaw(FlawKind::DynamicPoint, at, message, "write the path here, as in \"media/egret.svg\"");
    }

    fn read(&mut self, expr: &Expr<'t>) {
        let mut path = Vec::new();
        if !self.path(expr, &mut path) || path.is_empty() {
            return;
        }
        let root = path[0];
        if self.locals.contains(&root.name.as_str()) {
            self.here().mentions.push(root.name);
            return;
        }
        if path.len() == 1 && CALLED_BY_NAME.contains(&root.name.as_str()) {
            self.shape.dynamic = true;
            let message = format!("`{}` has to be called by its name, so that every use can be followed", root.name);
            self.notes.flaw(FlawKind::DynamicPoint, root.at, message, "call it here");
            return;
        }
        self.here().mentions.push(root.name);
        let section = self.section;
        self.shape.reads.push(Read { path, section });
    }

    /// Collects the steps of a path as far as they are names. False where the root is no name; then
    /// what stands there has been scanned.
    fn path(&mut self, expr: &Expr<'t>, path: &mut Vec<Named>) -> bool {
        match expr {
            Expr::Var(var) => {
                let at = self.at_part(var.id);
                path.push(Named { name: name(var.id), at });
                true
            }
            Expr::GetAttr(attr) => {
                let rooted = self.path(&attr.expr, path);
                if rooted && !path.last().is_some_and(|step| step.name.is_empty()) {
                    let at = self.at_part(attr.name);
                    path.push(Named { name: name(attr.name), at });
                }
                rooted
            }
            Expr::GetItem(item) => {
                let rooted = self.path(&item.expr, path);
                match literal(&item.subscript_expr) {
                    Some(text) if rooted => {
                        let at = self.at_expr(&item.subscript_expr);
                        path.push(Named { name: name(&text), at });
                    }
                    _ => {
                        // From here on nobody knows which key it is: an empty step ends the path.
                        let at = self.at_expr(&item.subscript_expr);
                        path.push(Named { name: name(""), at });
                        self.expr(&item.subscript_expr);
                    }
                }
                rooted
            }
            other => {
                self.expr(other);
                false
            }
        }
    }
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

/// The template's HTML alone: every tag of the template language gives way to filler of the same
/// length (`x` for what is printed, blanks for the rest), so that places stay as they are. Nothing
/// where the template's tags can't be told apart.
pub fn html_alone(text: &str) -> Option<String> {
    use minijinja::machinery::{Token, tokenize};
    let mut masked = vec![b' '; text.len()];
    let mut printing = None;
    for token in tokenize(text, false, Default::default()) {
        let (token, span) = token.ok()?;
        let range = span.start_offset as usize..span.end_offset as usize;
        match token {
            Token::TemplateData(_) => masked.get_mut(range.clone())?.copy_from_slice(text.as_bytes().get(range)?),
            Token::VariableStart => printing = Some(range.start),
            Token::VariableEnd => masked.get_mut(printing.take()?..range.end)?.fill(b'x'),
            _ => {}
        }
    }
    String::from_utf8(masked).ok()
}
