//! Names that a module uses and that nothing gives, and what all of its nodes tell.

use oxc_ast::AstKind;
use oxc_ast::ast::Expression;
use oxc_semantic::Semantic;
use oxc_span::{GetSpan, Span};

use super::Scanner;
use crate::scan::{FlawKind, Named, PointRef, links, name};

/// The names that are there in every module: the language's own, as far as callbacks have them.
pub const LANGUAGE: [&str; 66] = [
    "AggregateError",
    "Array",
    "ArrayBuffer",
    "AsyncDisposableStack",
    "BigInt",
    "BigInt64Array",
    "BigUint64Array",
    "Boolean",
    "DOMException",
    "DataView",
    "Date",
    "DisposableStack",
    "Error",
    "EvalError",
    "Float16Array",
    "Float32Array",
    "Float64Array",
    "Function",
    "Infinity",
    "Int16Array",
    "Int32Array",
    "Int8Array",
    "InternalError",
    "Iterator",
    "JSON",
    "Map",
    "Math",
    "NaN",
    "Number",
    "Object",
    "Promise",
    "Proxy",
    "RangeError",
    "ReferenceError",
    "Reflect",
    "RegExp",
    "Set",
    "String",
    "SuppressedError",
    "Symbol",
    "SyntaxError",
    "TypeError",
    "URIError",
    "Uint16Array",
    "Uint32Array",
    "Uint8Array",
    "Uint8ClampedArray",
    "WeakMap",
    "WeakSet",
    "arguments",
    "atob",
    "btoa",
    "decodeURI",
    "decodeURIComponent",
    "encodeURI",
    "encodeURIComponent",
    "escape",
    "eval",
    "globalThis",
    "isFinite",
    "isNaN",
    "parseFloat",
    "parseInt",
    "queueMicrotask",
    "undefined",
    "unescape",
];

impl Scanner<'_> {
    /// Notes the names that nothing gives.
    pub(super) fn undeclared(&mut self, semantic: &Semantic<'_>) {
        let scoping = semantic.scoping();
        for (word, references) in scoping.root_unresolved_references() {
            if LANGUAGE.contains(&word.as_str()) {
                continue;
            }
            for reference in references {
                let node = scoping.get_reference(*reference).node_id();
                // Whether it is there may be asked of any name.
                let is_asked = matches!(semantic.nodes().parent_kind(node), AstKind::UnaryExpression(unary) if unary.operator.is_typeof());
                if !is_asked {
                    let named = self.named(word, semantic.nodes().kind(node).span());
                    self.shape.undeclared.push(named);
                }
            }
        }
        self.shape.undeclared.sort_by_key(|named| self.notes.spans[named.at.0 as usize].start);
    }

    /// What single nodes tell, wherever they stand.
    pub(super) fn nodes(&mut self, semantic: &Semantic<'_>) {
        for (id, node) in semantic.nodes().iter_enumerated() {
            match node.kind() {
                AstKind::ObjectProperty(property)
                    if !property.computed && property.key.static_name().as_deref() == Some("use") =>
                {
                    self.component(&property.value);
                }
                AstKind::BinaryExpression(compared) if compared.operator.is_equality() => {
                    if is_use(&compared.left) {
                        self.component(&compared.right);
                    } else if is_use(&compared.right) {
                        self.component(&compared.left);
                    }
                }
                AstKind::SwitchCase(case) => {
                    let of_use = matches!(semantic.nodes().parent_kind(id), AstKind::SwitchStatement(switch) if is_use(&switch.discriminant));
                    if let (true, Some(test)) = (of_use, &case.test) {
                        self.component(test);
                    }
                }
                AstKind::TaggedTemplateExpression(tagged) if is_html(&tagged.tag) => {
                    for part in &tagged.quasi.quasis {
                        self.links(semantic.source_text(), part.span);
                    }
                }
                AstKind::ExpressionStatement(statement) => self.thrown_away(&statement.expression, semantic),
                _ => {}
            }
        }
    }

    /// The links in a part of some markup.
    fn links(&mut self, text: &str, part: Span) {
        let start = part.start as usize;
        let Some(markup) = text.get(start..part.end as usize) else { return };
        for range in links::root_links(markup) {
            let at = self.notes.at(start + range.start, start + range.end);
            self.shape.links.push(Named { name: name(&markup[range]), at });
        }
    }

    /// A component that is named by a literal text.
    fn component(&mut self, named: &Expression<'_>) {
        if let Expression::StringLiteral(text) = named
            && text.value.contains(':')
        {
            let at = self.at(text.span);
            self.shape.named.push(PointRef::new(&text.value, at));
        }
    }

    /// Markup that is made, and then used by nothing.
    fn thrown_away(&mut self, expression: &Expression<'_>, semantic: &Semantic<'_>) {
        let wasted: Option<Span> = match expression {
            Expression::TaggedTemplateExpression(tagged) => {
                let built_in = match &tagged.tag {
                    Expression::Identifier(id) if id.name == "html" => {
                        let symbol =
                            id.reference_id.get().and_then(|id| semantic.scoping().get_reference(id).symbol_id());
                        symbol.is_some_and(|symbol| semantic.scoping().symbol_flags(symbol).is_import())
                    }
                    _ => false,
                };
                built_in.then_some(tagged.span)
            }
            Expression::ConditionalExpression(choice) => {
                self.thrown_away(&choice.consequent, semantic);
                return self.thrown_away(&choice.alternate, semantic);
            }
            Expression::LogicalExpression(logical) => {
                return self.thrown_away(&logical.right, semantic);
            }
            Expression::ParenthesizedExpression(inner) => {
                return self.thrown_away(&inner.expression, semantic);
            }
            _ => None,
        };
        if let Some(span) = wasted {
            let at = self.at(span);
            self.notes.flaw(
                FlawKind::UnusedMarkup,
                at,
                "this markup is made and thrown away",
                "return it, or keep it in a variable that is returned",
            );
        }
    }
}

/// Is this the component of an item: `item.use`?
fn is_use(expression: &Expression<'_>) -> bool {
    match expression {
        Expression::StaticMemberExpression(member) => member.property.name == "use",
        Expression::ChainExpression(chain) => {
            matches!(&chain.expression, oxc_ast::ast::ChainElement::StaticMemberExpression(member) if member.property.name == "use")
        }
        Expression::ParenthesizedExpression(inner) => is_use(&inner.expression),
        _ => false,
    }
}

/// Is this the function that makes markup, as `truehook` exports it?
fn is_html(tag: &Expression<'_>) -> bool {
    matches!(tag, Expression::Identifier(name) if name.name == "html")
}
