//! Names in modules.

use crate::source::{Edit, FileId, Span};

/// The edit of a property's name: `inputs.old`, `{ old: x }`, `"old"`. Where the name of a variable stands for both
/// in the short form, the variable keeps its name; one that came to stand beside its own name goes back to the short
/// form.
pub(super) fn property(file: FileId, text: &str, span: Span, (old, new): (&str, &str)) -> Option<Edit> {
    let raw = text.get(span.range())?;
    if raw != old {
        let new = raw.replacen(old, new, 1);
        return (new != raw).then_some(Edit { file, span, new });
    }
    let (before, after) = (text[..span.range().start].trim_end(), &text[span.range().end..]);
    let is_member = before.ends_with('.') && !before.ends_with("...");
    let is_quoted = before.ends_with(['"', '\'', '`']) && after.starts_with(['"', '\'', '`']);
    if is_member || is_quoted {
        return Some(Edit { file, span, new: new.to_string() });
    }
    // Written in full: the value may be a variable of the new name.
    if let Some(value) = after.strip_prefix(": ") {
        let rest = value.strip_prefix(new).filter(|rest| rest.trim_start().starts_with([',', '}', '=']));
        return Some(match rest {
            Some(_) => {
                Edit { file, span: Span::new(span.range().start, span.range().end + 2 + new.len()), new: new.into() }
            }
            None => Edit { file, span, new: new.to_string() },
        });
    }
    match after.trim_start().starts_with([':', '(']) {
        true => Some(Edit { file, span, new: new.to_string() }),
        false => Some(Edit { file, span, new: format!("{new}: {old}") }),
    }
}

/// The edit of a name in `import { old }` or `export { old } from`: what the file itself calls it stays.
pub(super) fn imported(file: FileId, text: &str, span: Span, (old, new): (&str, &str)) -> Option<Edit> {
    let raw = text.get(span.range())?;
    if raw != old {
        return None;
    }
    let after = &text[span.range().end..];
    if let Some(rest) = after.strip_prefix(" as ") {
        let own = rest.strip_prefix(new).filter(|rest| rest.trim_start().starts_with([',', '}']));
        return Some(match own {
            Some(_) => {
                Edit { file, span: Span::new(span.range().start, span.range().end + 4 + new.len()), new: new.into() }
            }
            None => Edit { file, span, new: new.to_string() },
        });
    }
    let spelt_out = after.trim_start().starts_with("as ");
    Some(Edit { file, span, new: if spelt_out { new.to_string() } else { format!("{new} as {old}") } })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn there_and_back(text: &str, change: fn(FileId, &str, Span, (&str, &str)) -> Option<Edit>) -> String {
        let apply = |text: &str, old: &str, new: &str| {
            let at = text.find(old).unwrap();
            let edit = change(FileId(0), text, Span::new(at, at + old.len()), (old, new)).unwrap();
            format!("{}{}{}", &text[..edit.span.range().start], edit.new, &text[edit.span.range().end..])
        };
        let there = apply(text, "old", "new");
        assert_eq!(apply(&there, "new", "old"), text, "{there}");
        there
    }

    #[test]
    fn properties_change_and_variables_stay() {
        for (text, there) in [
            ("inputs.old", "inputs.new"),
            ("({ old }) => 1", "({ new: old }) => 1"),
            ("({ old = 1, x })", "({ new: old = 1, x })"),
            ("return { ...rest, old };", "return { ...rest, new: old };"),
            ("return { old: 1 };", "return { new: 1 };"),
            ("return { old : x };", "return { new : x };"),
            ("return { old() {} };", "return { new() {} };"),
            ("inputs[\"old\"]", "inputs[\"new\"]"),
        ] {
            assert_eq!(there_and_back(text, property), there);
        }
    }

    #[test]
    fn imports_change_and_what_they_are_called_here_stays() {
        for (text, there) in [
            ("import { old } from", "import { new as old } from"),
            ("import { old as mine } from", "import { new as mine } from"),
            ("export { x, old } from", "export { x, new as old } from"),
        ] {
            assert_eq!(there_and_back(text, imported), there);
        }
    }
}
