//! What other files can see of a template.

use crate::scan::{Section, Shape, TemplateRef, TemplateShape, TemplateVerb};

/// Do other files see the same of both shapes? What else a template says concerns itself alone, and then only that
/// file has to be linked again.
pub(super) fn seen_alike(one: &Shape, other: &Shape) -> bool {
    let (Shape::Template(one), Shape::Template(other)) = (one, other) else { return false };
    // All fields are named, so that nobody adds one and forgets to say who sees it.
    let TemplateShape { broken, sections, refs, outside, assigned, dynamic, uses: _, reads: _, further: _ } = &**one;
    // Guards concern other files where blocks, or what it extends, stand in them.
    (*broken, *dynamic, outside.is_empty()) == (other.broken, other.dynamic, other.outside.is_empty())
        && *assigned == other.assigned
        && all_alike(sections, &other.sections, sections_alike)
        && all_alike(refs, &other.refs, refs_alike)
        && (!has_guarded_blocks(one) && !has_guarded_blocks(other)
            || all_alike(&one.guards, &other.guards, |one, other| one == other))
}

/// Is there a block, or a template that it extends, that counts under a condition?
fn has_guarded_blocks(template: &TemplateShape) -> bool {
    let mut blocks = template.sections.iter().flat_map(|section| &section.blocks);
    let mut extends = template.refs.iter().filter(|reference| reference.verb == TemplateVerb::Extends);
    blocks.any(|block| block.guard.is_some()) || extends.any(|reference| reference.guard.is_some())
}

fn sections_alike(one: &Section, other: &Section) -> bool {
    (one.kind, one.calls_super) == (other.kind, other.calls_super)
        && one.visible == other.visible
        && all_alike(&one.blocks, &other.blocks, |one, other| (one.name, one.guard) == (other.name, other.guard))
}

fn refs_alike(one: &TemplateRef, other: &TemplateRef) -> bool {
    (one.verb, one.target, one.guard) == (other.verb, other.target, other.guard)
        && one.computed == other.computed
        && one.visible == other.visible
}

fn all_alike<T>(one: &[T], other: &[T], alike: impl Fn(&T, &T) -> bool) -> bool {
    one.len() == other.len() && one.iter().zip(other).all(|(one, other)| alike(one, other))
}
