//! The template literals of a module.

use std::collections::HashSet;

use super::*;

/// The pieces of text of each template literal in a module, as its code sees them (`strings` of a tag function). Those
/// with an escape that is none, and with half a surrogate pair, are left out.
pub fn template_literals(text: &str) -> HashSet<Vec<String>> {
    if depth::code(text).is_some() {
        return HashSet::new();
    }
    let allocator = Allocator::default();
    let parsed = Parser::new(&allocator, text, SourceType::mjs()).parse();
    let built = SemanticBuilder::new().with_build_nodes(true).build(&parsed.program);
    let literals = built.semantic.nodes().iter().filter_map(|node| match node.kind() {
        AstKind::TemplateLiteral(literal) => Some(literal),
        _ => None,
    });
    let pieces = literals.filter_map(|literal| {
        let piece = |part: &oxc_ast::ast::TemplateElement<'_>| {
            part.value.cooked.filter(|_| !part.lone_surrogates).map(|text| text.to_string())
        };
        literal.quasis.iter().map(piece).collect()
    });
    pieces.collect()
}

#[cfg(test)]
mod tests {
    use super::template_literals;

    #[test]
    fn the_pieces_are_those_that_code_sees() {
        let text = "export const a = (b) => html`<p>${b}\\n\u{e9}</p>${`inner ${b}`}`;\nconst c = `plain`; const d = \"text\";\n";
        let found = template_literals(text);
        let has = |pieces: &[&str]| found.contains(&pieces.iter().map(ToString::to_string).collect::<Vec<_>>());
        assert!(has(&["<p>", "\n\u{e9}</p>", ""]) && has(&["inner ", ""]) && has(&["plain"]), "{found:?}");
        assert_eq!(found.len(), 3);
        assert!(template_literals("`${\\ud800").is_empty());
    }
}
