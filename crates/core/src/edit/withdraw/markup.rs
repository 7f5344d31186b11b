//! Placements of a point that goes, taken out of templates.

use std::ops::Range;

use minijinja::machinery::Token;

use super::super::elements::elements;
use super::super::guard::placed_alone;
use super::super::markup_tags::tags;
use crate::address::Address;

/// A template without the placements of some points, the elements that held nothing else and the guards around them,
/// and without what was sent through them.
pub(super) fn without(plain: &str, gone: &[Address]) -> String {
    let mut text = plain.to_string();
    while let Some(range) = next(&text, gone) {
        text.replace_range(range, "");
    }
    text
}

/// The next thing that goes.
fn next(text: &str, gone: &[Address]) -> Option<Range<usize>> {
    let is_gone = |written: &str| gone.iter().any(|gone| gone.to_string() == written);
    let tags = tags(text);
    for (number, tag) in tags.iter().enumerate() {
        // `value | through("…")` keeps the value.
        for at in 0..tag.tokens.len() {
            let piped = matches!(tag.tokens[at].0, Token::Pipe) && tag.is_word(at + 1, "through");
            if piped && tag.text(at + 3).is_some_and(is_gone) {
                let start = text[..tag.tokens[at].1.start].trim_end().len();
                return Some(start..tag.tokens[tag.end_of_call(at + 2)?].1.end);
            }
        }
        // Of a guard that asks for several points, the others are left.
        if let Some(filled) = tag.filled()
            && filled.len() > 1
            && let Some(at) = filled.iter().position(|(point, _)| is_gone(point))
        {
            let range = &filled[at].1;
            return Some(match at {
                0 => range.start..filled[1].1.start,
                _ => filled[at - 1].1.end..range.end,
            });
        }
        if tag.placed().is_some_and(is_gone) {
            let held = elements(text).unwrap_or_default().into_iter().rev().find_map(|element| {
                let close = element.close?;
                let inner = element.open.range().end..close.range().start;
                let alone = inner.start <= tag.range.start
                    && tag.range.end <= inner.end
                    && placed_alone(&text[inner]).is_some_and(|placed| placed.len() == 1);
                alone.then(|| element.open.range().start..close.range().end)
            });
            let mut range = held.unwrap_or(tag.range.clone());
            // The guard around it goes, too, where it guards nothing else.
            let before = tags[..number].iter().rev().find(|other| other.range.end <= range.start);
            let after = tags[number + 1..].iter().find(|other| other.range.start >= range.end);
            if let (Some(before), Some(after)) = (before, after)
                && before.guards().is_some_and(is_gone)
                && after.is_word(0, "endif")
                && text[before.range.end..range.start].trim().is_empty()
                && text[range.end..after.range.start].trim().is_empty()
            {
                range = before.range.start..after.range.end;
            }
            return Some(with_its_line(text, range));
        }
    }
    None
}

/// A stretch, with the whole line where it has that for itself.
fn with_its_line(text: &str, range: Range<usize>) -> Range<usize> {
    let start = text[..range.start].rfind('\n').map_or(0, |end| end + 1);
    let end = text[range.end..].find('\n').map_or(text.len(), |end| range.end + end + 1);
    match text[start..range.start].trim().is_empty() && text[range.end..end].trim().is_empty() {
        true => start..end,
        false => range,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::address::Kind;

    #[test]
    fn placements_go_with_what_held_nothing_else() {
        let gone = [Address::new(Kind::Region, "a"), Address::new(Kind::Filter, "f")];
        for (text, left) in [
            ("<p>{{ place(\"region:a\") }}</p>x", "x"),
            ("<p>{{ place(\"region:a\", x=f(1)) }} b</p>", "<p> b</p>"),
            ("a\n  {{ place('region:a') }}\nb\n", "a\nb\n"),
            (
                "a\n{% if filled(\"region:a\") %}\n<aside>\n  {{ place(\"region:a\") }}\n</aside>\n{% endif %}\nb\n",
                "a\nb\n",
            ),
            (
                "{% if filled(\"region:b\") or filled(\"region:a\") %}{{ place(\"region:b\") }}{{ place(\"region:a\") }}{% endif %}",
                "{% if filled(\"region:b\") %}{{ place(\"region:b\") }}{% endif %}",
            ),
            (
                "{% if filled('region:a') or filled('region:b') %}x{% endif %}",
                "{% if filled('region:b') %}x{% endif %}",
            ),
            ("{% if x %}<i>{{ place(\"region:a\") }}</i>{% endif %}", "{% if x %}{% endif %}"),
            ("{{ y | through(\"filter:f\", z=(1)) | upper }}", "{{ y | upper }}"),
            ("{{ place(\"region:b\") }}", "{{ place(\"region:b\") }}"),
            ("{% if filled(\"region:a\") %}x{% endif %}", "{% if filled(\"region:a\") %}x{% endif %}"),
        ] {
            assert_eq!(without(text, &gone), left, "{text}");
        }
    }
}
