//! What functions read of what they are given, however they do it: `({ page })`, `c.page.title`,
//! `const { tide } = args`, `args["tide"]`.

use oxc_ast::AstKind;
use oxc_ast::ast::{BindingPattern, Expression};
use oxc_semantic::{NodeId, Semantic, SymbolId};
use oxc_span::GetSpan;

use super::functions::Callable;
use super::{Scanner, values};
use crate::scan::{Compared, SectionId, Step, Taken, Written, name};
use crate::source::At;

/// What every object has, whatever it is.
const OF_ALL_OBJECTS: [&str; 7] =
    ["constructor", "hasOwnProperty", "isPrototypeOf", "propertyIsEnumerable", "toLocaleString", "toString", "valueOf"];

/// A path that leads from a parameter to a value.
#[derive(Clone)]
struct Way {
    param: u8,
    path: Vec<Step>,
}

/// Follows the parameters of one function.
struct Following<'f, 's, 'a> {
    scanner: &'f mut Scanner<'s>,
    semantic: &'f Semantic<'a>,
    found: Vec<Taken>,
    /// Where what it is given is changed.
    writes: Vec<At>,
    /// Names that are still to be followed, and what each stands for.
    open: Vec<(SymbolId, Way)>,
}

/// The methods by which a list is changed (ECMA-262, 23.1.3).
const CHANGING: [&str; 9] = ["push", "pop", "shift", "unshift", "splice", "sort", "reverse", "fill", "copyWithin"];

/// What a function reads of its parameters, and where it changes them.
pub(super) fn taken(
    scanner: &mut Scanner<'_>,
    semantic: &Semantic<'_>,
    callable: Callable<'_>,
) -> (Vec<Taken>, Vec<At>) {
    let (found, writes, open) = (Vec::new(), Vec::new(), Vec::new());
    let mut following = Following { scanner, semantic, found, writes, open };
    for (at, param) in callable.params().items.iter().enumerate() {
        let Ok(param_at) = u8::try_from(at) else { break };
        following.bind(&param.pattern, &Way { param: param_at, path: Vec::new() });
    }
    while let Some((symbol, way)) = following.open.pop() {
        following.follow(symbol, &way);
    }
    let mut found = following.found;
    found.sort_by_key(|taken| taken.path.last().map(|last| last.named.at.0));
    (found, following.writes)
}

impl Following<'_, '_, '_> {
    /// A pattern that a value is bound to.
    fn bind(&mut self, pattern: &BindingPattern<'_>, way: &Way) {
        match pattern {
            BindingPattern::BindingIdentifier(id) => {
                if let Some(symbol) = id.symbol_id.get() {
                    self.open.push((symbol, way.clone()));
                }
            }
            BindingPattern::ObjectPattern(object) => {
                for property in &object.properties {
                    let Some(key) = property.key.static_name().filter(|_| !property.computed) else { continue };
                    let way = self.step(way, &key, property.key.span(), property.shorthand);
                    // A table inside is taken apart further; what is read of it tells of it, too.
                    self.note(&way, false);
                    self.bind(&property.value, &way);
                }
                if object.rest.is_some() {
                    self.note(way, true);
                }
            }
            BindingPattern::AssignmentPattern(assigned) => self.bind(&assigned.left, way),
            BindingPattern::ArrayPattern(_) => {}
        }
    }

    fn step(&mut self, way: &Way, key: &str, span: oxc_span::Span, short: bool) -> Way {
        let mut path = way.path.clone();
        path.push(Step { named: self.scanner.named(key, span), short });
        Way { param: way.param, path }
    }

    fn note(&mut self, way: &Way, whole: bool) {
        // The longest path tells all that the shorter ones tell.
        let Way { param, path } = way.clone();
        let is_longer =
            |known: &Taken| known.param == param && path.len() > known.path.len() && path.starts_with(&known.path);
        self.found.retain(|known| known.whole || !is_longer(known));
        self.found.push(Taken { param, path, whole });
    }

    /// What is compared with something that is written out.
    fn compared(&mut self, way: &Way, with: &Expression<'_>) {
        let names: Vec<&str> = way.path.iter().map(|step| step.named.name.as_str()).collect();
        if let (["page" | "options", _], Some(value)) = (names.as_slice(), values::written(with)) {
            let at = self.scanner.at(with.span());
            let compared =
                Compared { name: name(&names.join(".")), value: Written { value, at }, section: SectionId(0) };
            self.scanner.shape.compared.push(compared);
        }
    }

    /// All uses of a name that stands for a value.
    fn follow(&mut self, symbol: SymbolId, way: &Way) {
        let scoping = self.semantic.scoping();
        if scoping.symbol_is_mutated(symbol) {
            return;
        }
        let nodes: Vec<NodeId> = scoping.get_resolved_references(symbol).map(|found| found.node_id()).collect();
        for node in nodes {
            self.use_of(node, way.clone());
        }
    }

    /// One use: the properties that are read there, one of the other.
    fn use_of(&mut self, mut node: NodeId, mut way: Way) {
        let nodes = self.semantic.nodes();
        let begun = way.path.len();
        let mut whole = true;
        loop {
            let span = nodes.kind(node).span();
            let parent = nodes.parent_id(node);
            match nodes.kind(parent) {
                AstKind::StaticMemberExpression(member) if member.object.span() == span => {
                    way = self.step(&way, &member.property.name, member.property.span, false);
                }
                AstKind::ComputedMemberExpression(member) if member.object.span() == span => {
                    let Expression::StringLiteral(key) = &member.expression else { break };
                    way = self.step(&way, &key.value, key.span, false);
                }
                AstKind::ChainExpression(_) | AstKind::ParenthesizedExpression(_) => {}
                AstKind::VariableDeclarator(variable) => {
                    if variable.init.as_ref().is_some_and(|init| init.span() == span) {
                        self.bind(&variable.id, &way);
                        whole = false;
                    }
                    break;
                }
                // A method that every object has, and no property.
                AstKind::CallExpression(call) if call.callee.span() == span => {
                    let last = way.path.last().map(|last| last.named.name);
                    if last.is_some_and(|last| CHANGING.contains(&last.as_str())) {
                        let at = self.scanner.at(call.span);
                        self.writes.push(at);
                    }
                    if way.path.last().is_some_and(|last| OF_ALL_OBJECTS.contains(&last.named.name.as_str())) {
                        way.path.pop();
                    }
                    break;
                }
                AstKind::AssignmentExpression(assigned) if assigned.left.span() == span && way.path.len() > begun => {
                    let at = self.scanner.at(assigned.span);
                    self.writes.push(at);
                    break;
                }
                AstKind::UpdateExpression(update) if way.path.len() > begun => {
                    let at = self.scanner.at(update.span);
                    self.writes.push(at);
                    break;
                }
                AstKind::UnaryExpression(unary) if unary.operator.is_delete() && way.path.len() > begun => {
                    let at = self.scanner.at(unary.span);
                    self.writes.push(at);
                    break;
                }
                AstKind::BinaryExpression(compared) if compared.operator.is_equality() => {
                    let other = if compared.left.span() == span { &compared.right } else { &compared.left };
                    self.compared(&way, other);
                    break;
                }
                AstKind::SwitchStatement(switch) if switch.discriminant.span() == span => {
                    switch
                        .cases
                        .iter()
                        .filter_map(|case| case.test.as_ref())
                        .for_each(|test| self.compared(&way, test));
                    break;
                }
                // One or the other: what is read of that is read of this.
                AstKind::ConditionalExpression(choice) if choice.test.span() != span => {}
                AstKind::LogicalExpression(_) => {}
                // What a preparer is given goes on as it is; anything else is handed on with all that is in it.
                AstKind::SpreadElement(_) | AstKind::ReturnStatement(_) | AstKind::ArrowFunctionExpression(_) => {
                    whole = !way.path.is_empty();
                    break;
                }
                AstKind::ConditionalExpression(_) | AstKind::IfStatement(_) | AstKind::UnaryExpression(_) => {
                    whole = false;
                    break;
                }
                _ => break,
            }
            node = parent;
        }
        if way.path.len() > begun || whole {
            self.note(&way, whole && way.path.len() == begun);
        }
    }
}
