//! What scripts need of each other, as far as their global names tell.

use std::collections::BTreeSet;

use oxc_allocator::Allocator;
use oxc_ast::AstKind;
use oxc_ast::ast::{AssignmentTarget, Expression};
use oxc_parser::Parser;
use oxc_semantic::SemanticBuilder;
use oxc_span::SourceType;

use crate::scan::{Shape, script_shape};

/// The global names of a script.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Said {
    /// Those that it uses.
    pub uses: BTreeSet<String>,
    /// Those that it defines.
    pub gives: BTreeSet<String>,
    /// Those of others that it adds something to: `Dial.rings = …`.
    pub extends: BTreeSet<String>,
}

/// Reads a script.
pub fn said(text: &str) -> Said {
    let mut said = Said::default();
    if let Shape::Script(shape) = script_shape(text) {
        said.uses = shape.uses.iter().map(|named| named.name.to_string()).collect();
        said.gives = shape.defines.iter().map(ToString::to_string).collect();
    }
    let allocator = Allocator::default();
    let parsed = Parser::new(&allocator, text, SourceType::unambiguous()).parse();
    if parsed.diagnostics.iter().next().is_some() {
        return said;
    }
    let built = SemanticBuilder::new().with_build_nodes(true).build(&parsed.program);
    let called = called_at_once(&built.semantic);
    // What a function is given at once, it uses, however it is asked for.
    said.uses.extend(called.iter().map(|(_, given)| given.clone()).filter(|given| !said.gives.contains(given)));
    for node in built.semantic.nodes().iter() {
        let AstKind::AssignmentExpression(assignment) = node.kind() else { continue };
        let object = match &assignment.left {
            AssignmentTarget::StaticMemberExpression(member) => &member.object,
            AssignmentTarget::ComputedMemberExpression(member) => &member.object,
            _ => continue,
        };
        let name = root(object)
            .map(|name| called.iter().find(|(own, _)| *own == name).map_or(name, |(_, given)| given.clone()));
        said.extends.extend(name.filter(|name| said.uses.contains(name)));
    }
    said
}

/// What functions that are called where they are written call their parameters, and what they are given:
/// `(function ($) { … })(Dial)`.
fn called_at_once(semantic: &oxc_semantic::Semantic<'_>) -> Vec<(String, String)> {
    let mut found = Vec::new();
    for node in semantic.nodes().iter() {
        let AstKind::CallExpression(call) = node.kind() else { continue };
        let params = match call.callee.without_parentheses() {
            Expression::FunctionExpression(function) => &function.params,
            Expression::ArrowFunctionExpression(arrow) => &arrow.params,
            _ => continue,
        };
        for (param, argument) in params.items.iter().zip(&call.arguments) {
            let given = argument.as_expression().and_then(root);
            if let (oxc_ast::ast::BindingPattern::BindingIdentifier(id), Some(given)) = (&param.pattern, given) {
                found.push((id.name.to_string(), given));
            }
        }
    }
    found
}

/// The name at the beginning of `a.b.c`; that of `window.a.b` is `a`.
fn root(expression: &Expression<'_>) -> Option<String> {
    match expression {
        Expression::Identifier(name) => Some(name.name.to_string()),
        Expression::StaticMemberExpression(member) => match root(&member.object)?.as_str() {
            "window" | "globalThis" | "self" => Some(member.property.name.to_string()),
            name => Some(name.to_string()),
        },
        Expression::ComputedMemberExpression(member) => root(&member.object),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn plugins_use_and_extend_what_others_give() {
        let names = |all: &BTreeSet<String>| all.iter().cloned().collect::<Vec<_>>().join(" ");
        let core = said("(function () { window.Dial = { turn() {} }; })();");
        assert_eq!((names(&core.gives).as_str(), names(&core.extends).as_str()), ("Dial", ""));
        let plugin = said("(function (D) { D.rings = 3; })(window.Dial);");
        assert_eq!((names(&plugin.uses).as_str(), names(&plugin.extends).as_str()), ("Dial", "Dial"));
        let plugin = said("(function (D) { Dial.rings = 3; Dial.prototype.x = 1; })(Dial);");
        assert_eq!((names(&plugin.uses).as_str(), names(&plugin.extends).as_str()), ("Dial", "Dial"));
        let page = said("document.addEventListener('click', () => Dial.turn());");
        assert!(page.uses.contains("Dial") && page.extends.is_empty(), "{page:?}");
    }
}
