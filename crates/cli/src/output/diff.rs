//! Differences between files before and after a change.

use std::io::Write;

use anyhow::Result;
use similar::{ChangeTag, TextDiff};
use truehook_core::edit::Change;

use super::style;

/// Prints the whole difference in the unified form.
pub fn write(out: &mut impl Write, changes: &[Change]) -> Result<()> {
    for change in changes {
        let before = String::from_utf8_lossy(change.before.as_deref().unwrap_or_default());
        let after = String::from_utf8_lossy(change.after.as_deref().unwrap_or_default());
        let name = |bytes: &Option<Vec<u8>>| if bytes.is_some() { change.shown.as_str() } else { "/dev/null" };
        unified(out, &before, &after, name(&change.before), name(&change.after))?;
    }
    Ok(())
}

/// Prints the difference of two texts, each with what it is called.
pub fn texts(out: &mut impl Write, (old, before): (&str, &str), (new, after): (&str, &str)) -> Result<()> {
    unified(out, before, after, old, new)
}

/// The lines that only the first text has, and those that only the second one has.
pub fn lines(before: &str, after: &str) -> (Vec<String>, Vec<String>) {
    let diff = TextDiff::from_lines(before, after);
    let of = |tag: ChangeTag| {
        let lines = diff.iter_all_changes().filter(|line| line.tag() == tag);
        lines.map(|line| line.value().trim_end_matches(['\r', '\n']).to_string()).collect()
    };
    (of(ChangeTag::Delete), of(ChangeTag::Insert))
}

fn unified(out: &mut impl Write, before: &str, after: &str, old: &str, new: &str) -> Result<()> {
    let diff = TextDiff::from_lines(before, after);
    for line in diff.unified_diff().context_radius(2).header(old, new).to_string().lines() {
        let style = match line.chars().next() {
            Some('+') => style::NEXT,
            Some('-') => style::GONE,
            _ => style::PLAIN,
        };
        writeln!(out, "{}{}{}", style.render(), line.trim_end_matches('\r'), style.render_reset())?;
    }
    Ok(())
}

/// Prints which files were written, and the lines that came and went.
pub fn write_added(out: &mut impl Write, changes: &[Change]) -> Result<()> {
    for change in changes {
        let before = String::from_utf8_lossy(change.before.as_deref().unwrap_or_default());
        let after = String::from_utf8_lossy(change.after.as_deref().unwrap_or_default());
        let diff = TextDiff::from_lines(before.as_ref(), after.as_ref());
        let lines: Vec<_> = diff.iter_all_changes().filter(|line| line.tag() != ChangeTag::Equal).collect();
        let first = diff.iter_all_changes().position(|line| line.tag() != ChangeTag::Equal).unwrap_or(0);
        let what = match (&change.before, &change.after) {
            (None, _) => "  (new)".to_string(),
            // What it held can be read in the version before, and need not scroll by here.
            (_, None) => {
                writeln!(out, "{}  (taken away)", change.shown)?;
                continue;
            }
            _ => format!(":{}", first + 1),
        };
        writeln!(out, "{}{what}", change.shown)?;
        for line in lines {
            let (mark, style) = match line.tag() {
                ChangeTag::Delete => ('-', style::GONE),
                _ => ('+', style::NEXT),
            };
            let text = line.value().trim_end_matches(['\r', '\n']);
            writeln!(out, "  {}{mark} {text}{}", style.render(), style.render_reset())?;
        }
    }
    Ok(())
}
