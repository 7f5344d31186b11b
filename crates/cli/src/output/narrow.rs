//! Sentences in a window that is narrower than they are: they go on in the next line, behind the same margin.

use anstream::adapter::strip_str;

use super::{stream, table};

/// What stands in the margin of a finding before a label: the line's number, strokes, and the marks under its place.
const MARGIN: [char; 7] = [' ', '|', '^', '-', '_', '~', '.'];

/// A line of words, folded where the window is narrower; it goes on behind as many blanks as `indent`.
pub fn line(line: &str, indent: usize) -> String {
    let Some(width) = table::window() else { return line.to_string() };
    let blanks = " ".repeat(indent);
    let options = options(width).subsequent_indent(&blanks);
    stream::laid_out(line, |line| {
        let fold = |line: &str| match textwrap::core::display_width(line) > width {
            true => textwrap::fill(line, &options),
            false => line.to_string(),
        };
        line.split('\n').map(fold).collect::<Vec<_>>().join("\n")
    })
}

/// Words are never broken: somebody copies them.
fn options(width: usize) -> textwrap::Options<'static> {
    textwrap::Options::new(width).break_words(false).word_splitter(textwrap::WordSplitter::NoHyphenation)
}

/// Whether a line has room in the window.
pub fn fits(line: &str) -> bool {
    let Some(width) = table::window() else { return true };
    let widths = |line: &str| textwrap::core::display_width(line).to_string();
    stream::laid_out(line, widths).parse().is_ok_and(|wide: usize| wide <= width)
}

/// A finding as it was rendered, with no sentence wider than a window.
pub fn fold(rendered: &str, width: usize) -> String {
    let lines = rendered.split('\n').enumerate();
    lines.map(|(at, line)| folded(line, at == 0, width)).collect::<Vec<_>>().join("\n")
}

fn folded(line: &str, is_title: bool, width: usize) -> String {
    let plain = strip_str(line).to_string();
    if plain.chars().count() <= width {
        return line.to_string();
    }
    if is_title {
        return textwrap::fill(line, options(width).subsequent_indent("  "));
    }
    for word in ["mend", "advice"] {
        let Some(start) = plain.trim_start().strip_prefix("= ").and_then(|rest| rest.strip_prefix(word)) else {
            continue;
        };
        let text = start.trim_start_matches(": ");
        let Some((before, behind)) = line.rsplit_once(text) else { return line.to_string() };
        let indent = plain.len() - text.len();
        let body = match word {
            "mend" => super::command(text, indent, width).trim_start().to_string(),
            _ => {
                let blanks = " ".repeat(indent);
                let options = options(width).initial_indent(&blanks).subsequent_indent(&blanks);
                textwrap::fill(text, options).trim_start().to_string()
            }
        };
        return format!("{before}{body}{behind}");
    }
    label(line, &plain, width).unwrap_or_else(|| line.to_string())
}

/// A line that says something at a place, folded behind its margin; nothing where it is a line of a file.
fn label(line: &str, plain: &str, width: usize) -> Option<String> {
    let stroke = plain.find('|')?;
    let is_numbered = plain[..stroke].contains(|c: char| c.is_ascii_digit());
    let begin = stroke + plain[stroke..].find(|c: char| !MARGIN.contains(&c))?;
    let text = &plain[begin..];
    if is_numbered || text.is_empty() {
        return None;
    }
    let (before, behind) = line.rsplit_once(text)?;
    // Far to the right there is no room for words: they begin in the next line.
    let near = begin + 24 <= width;
    let column = if near { begin } else { stroke + 3 };
    let margin = format!("{}|{}", " ".repeat(stroke), " ".repeat(column - stroke - 1));
    let first = if near { " ".repeat(column) } else { margin.clone() };
    let words = textwrap::fill(text, options(width).initial_indent(&first).subsequent_indent(&margin));
    let words = if near { words[column..].to_string() } else { format!("\n{words}") };
    Some(format!("{}{words}{behind}", if near { before } else { before.trim_end() }))
}

#[cfg(test)]
mod tests {
    use super::fold;

    #[test]
    fn sentences_go_on_behind_their_margin() {
        let finding = "error[lost-placement]: the copy of layout.html lost `hook:ahead-of-footer`, which foreshore's original \
                       places\n   |\n37 |   <footer class=\"site-footer\">\n   |   ^^^^^^^^^^^ the copy lacks it: in the original \
                       it stands before this\n   |\n   = mend: truehook place hook:ahead-of-footer --in layout.html --before \
                       footer";
        let folded = fold(finding, 60);
        assert!(folded.lines().all(|line| line.chars().count() <= 60), "{folded}");
        let words = |text: &str| text.replace([' ', '\n', '|', '\\'], "");
        assert_eq!(words(&folded), words(finding));
        assert_eq!(fold(finding, 200), finding);
    }
}
