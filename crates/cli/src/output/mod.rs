//! How things are printed: one file for each form.

pub mod changed;
pub mod diff;
pub mod failures;
pub mod findings;
pub mod junit;
pub mod narrow;
pub mod pot;
pub mod sarif;
pub mod steps;
pub mod stream;
pub mod style;
pub mod table;
pub mod told;

use std::io::Write;

use anyhow::Result;
use serde::Serialize;

/// Prints a view as JSON.
pub fn json(out: &mut impl Write, view: &impl Serialize) -> Result<()> {
    serde_json::to_writer_pretty(&mut *out, view)?;
    writeln!(out)?;
    Ok(())
}

/// The form of what a view prints as JSON: keys that may be left out are not required.
pub fn form<View: schemars::JsonSchema>() -> schemars::Schema {
    let settings = schemars::generate::SchemaSettings::draft2020_12().for_serialize();
    settings.into_generator().into_root_schema_for::<View>()
}

/// Do colours stay in what is printed there?
pub fn coloured(stream: &impl anstream::stream::RawStream) -> bool {
    anstream::AutoStream::choice(stream) != anstream::ColorChoice::Never
}

/// A number of things: 1 finding, 2 findings.
pub fn count(number: usize, word: &str) -> String {
    format!("{number} {word}{}", if number == 1 { "" } else { "s" })
}

/// Tells something beside what was asked for.
pub fn hint(text: &str) {
    drop(writeln!(crate::output::stream::stderr(), "truehook: {text}"));
}

/// Tells why a command could not be carried out.
pub fn error(error: &anyhow::Error) {
    refusal(&format!("{error:#}"));
}

/// Says that something could not be done, and why.
pub fn refusal(text: &str) {
    let (on, off) = (style::ERROR.render(), style::ERROR.render_reset());
    // Where standard error is closed, nobody can be told.
    let _ = writeln!(crate::output::stream::stderr(), "{on}truehook{off}: {text}");
}

/// The width of a column whose widest cell has so many characters. One that is wider than any window stands out of it.
pub fn column(widest: usize) -> usize {
    widest.min(120)
}

/// A text in one line, cut where it is too long, and so said by dots.
pub fn cut(text: &str, width: usize) -> String {
    let text = text.split_whitespace().collect::<Vec<_>>().join(" ");
    match text.chars().count() <= width {
        true => text,
        false => text.chars().take(width.saturating_sub(1)).chain(['…']).collect(),
    }
}

/// A command as it can be pasted, behind so many blanks: folded between its words where the line would be too long.
pub fn command(command: &str, indent: usize, width: usize) -> String {
    let (command, comment) = command.split_once(" # ").map_or((command, None), |(said, words)| (said, Some(words)));
    let words = shell_words_of(command);
    let mut lines: Vec<String> = Vec::new();
    for word in words {
        match lines.last_mut() {
            // A stroke and a blank are to fit behind it.
            Some(line) if line.chars().count() + 1 + word.chars().count() + 2 <= width.max(24) => {
                line.push(' ');
                line.push_str(word);
            }
            None => lines.push(format!("{}{word}", " ".repeat(indent))),
            Some(_) => lines.push(format!("{}{word}", " ".repeat(indent + 2))),
        }
    }
    let mut text = lines.join(" \\\n");
    if let Some(comment) = comment {
        // A comment ends with its line: each line of it begins with its own mark.
        let margin = format!("{}# ", " ".repeat(indent + 2));
        let options = textwrap::Options::new(width.max(24)).initial_indent(&margin).subsequent_indent(&margin);
        let last = text.lines().last().map_or(0, |line| line.chars().count());
        match last + 5 + comment.chars().count() <= width {
            true => text.push_str(&format!("   # {comment}")),
            false => text.push_str(&format!("\n{}", textwrap::fill(comment, options))),
        }
    }
    text
}

/// The words of a command, as they are quoted.
fn shell_words_of(command: &str) -> Vec<&str> {
    let mut quoted = false;
    let splits = move |c: char| {
        quoted ^= c == '\'';
        c == ' ' && !quoted
    };
    command.split(splits).filter(|word| !word.is_empty()).collect()
}

#[cfg(test)]
mod tests {
    use super::command;

    #[test]
    fn commands_fold_between_words_and_stay_what_they_are() {
        let long = "truehook fill region:footer piece:note --offer 'A note with a long label' --at 2";
        for width in [24, 40, 60, 200] {
            let folded = command(long, 4, width);
            let pasted = folded.replace("\\\n", " ");
            assert_eq!(pasted.split_whitespace().collect::<Vec<_>>(), long.split_whitespace().collect::<Vec<_>>());
            assert!(folded.contains("'A note with a long label'"), "{folded}");
            if width >= 40 {
                assert!(folded.lines().all(|line| line.chars().count() <= width), "{folded}");
            }
        }
    }
}
