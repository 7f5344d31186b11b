//! Comments that silence a rule on the next line: `{# truehook: ignore RULE because … #}` in templates,
//! `// truehook: ignore RULE because …` in modules and scripts, `/* … */` in style sheets.

use super::*;

/// What every such comment begins with, after the mark that opens the comment.
const LEAD: &str = "truehook: ignore";

/// Such a comment.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct IgnoreComment {
    /// The rule, as written.
    pub rule: Named,
    /// Does it say why?
    pub reasoned: bool,
    /// The bytes of the line that it speaks of.
    pub line: Span,
}

/// The comments of a text. `open` begins one, `close` ends it.
pub(super) fn comments(text: &str, open: &str, close: &str, notes: &mut Notes) -> Vec<IgnoreComment> {
    if !text.contains(LEAD) {
        return Vec::new();
    }
    let mut found = Vec::new();
    for (at, _) in text.match_indices(LEAD) {
        let before = text[..at].trim_end_matches([' ', '\t', '-', '*']);
        if !before.ends_with(open) {
            continue;
        }
        let rest = &text[at + LEAD.len()..];
        let end = rest.find(close).unwrap_or(rest.len());
        let inside = rest[..end].trim_end_matches(['-', '*']);
        let start = at + LEAD.len() + (inside.len() - inside.trim_start().len());
        let word = inside.split_whitespace().next().unwrap_or_default();
        let reason = inside.trim_start().strip_prefix(word).unwrap_or_default().trim();
        let reasoned = reason.strip_prefix("because").is_some_and(|why| !why.trim().is_empty());
        let place = notes.at(start, start + word.len());
        found.push(IgnoreComment {
            rule: Named { name: name(word), at: place },
            reasoned,
            line: next_line(text, at + LEAD.len() + end + if close == "\n" { 0 } else { close.len() }),
        });
    }
    found
}

/// The line after the one in which a place stands.
fn next_line(text: &str, at: usize) -> Span {
    let at = at.min(text.len());
    let Some(end) = text[at..].find('\n') else { return Span::new(text.len(), text.len()) };
    let start = at + end + 1;
    let end = text[start..].find('\n').map_or(text.len(), |end| start + end);
    Span::new(start, end)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str, open: &str, close: &str) -> Vec<(String, bool, String)> {
        let mut notes = Notes::default();
        let found = comments(text, open, close, &mut notes);
        let line = |found: &IgnoreComment| text[found.line.range()].to_string();
        found.iter().map(|found| (found.rule.name.to_string(), found.reasoned, line(found))).collect()
    }

    #[test]
    fn a_comment_speaks_of_the_next_line() {
        let text = "a\n{# truehook: ignore dynamic-point because the host knows #}\n{{ b }}\nc";
        assert_eq!(read(text, "{#", "#}"), [("dynamic-point".to_string(), true, "{{ b }}".to_string())]);
        let text = "{#- truehook: ignore left-over-note -#}\n x";
        assert_eq!(read(text, "{#", "#}"), [("left-over-note".to_string(), false, " x".to_string())]);
        let text = "// truehook: ignore idle-callback because it is for others\nexport const a = 1;\n";
        assert_eq!(read(text, "//", "\n"), [("idle-callback".to_string(), true, "export const a = 1;".to_string())]);
        assert_eq!(read("x truehook: ignore a because b\n", "//", "\n"), []);
        assert_eq!(read("// truehook: ignore a because b", "//", "\n"), [("a".to_string(), true, String::new())]);
    }
}
