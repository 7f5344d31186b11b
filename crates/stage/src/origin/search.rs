//! Words on a page, as people read them.

use std::ops::Range;

use super::texts;

/// Where some words stand on a page: each time from the first letter to the last, whatever tags, blanks and line ends
/// are between. A blank between words stands for blanks or a tag on the page, and only for that.
pub fn search(html: &str, words: &str) -> Vec<Range<usize>> {
    let mut wanted: Vec<(char, bool)> = Vec::new();
    let mut blank = false;
    for letter in words.chars() {
        match letter.is_whitespace() {
            true => blank = true,
            false => wanted.push((letter, std::mem::take(&mut blank))),
        }
    }
    let mut letters: Vec<Letter> = Vec::new();
    for (at, text) in texts(html).into_iter().enumerate() {
        let gap = if at == 0 { Gap::None } else { Gap::Tag };
        add_letters(html, text, gap, &mut letters);
    }
    let fits = |at: usize, letter: &Letter, (wanted, blank): (char, bool)| {
        let is_apart = match letter.gap {
            Gap::None => !blank,
            Gap::Tag => true,
            Gap::Blank => blank,
        };
        letter.letter == wanted && (at == 0 || is_apart)
    };
    let mut found = Vec::new();
    let mut at = 0;
    while !wanted.is_empty() && at + wanted.len() <= letters.len() {
        let here = &letters[at..at + wanted.len()];
        if here.iter().zip(&wanted).enumerate().all(|(at, (letter, wanted))| fits(at, letter, *wanted)) {
            found.push(here[0].range.start..here[here.len() - 1].range.end);
            at += wanted.len();
        } else {
            at += 1;
        }
    }
    found
}

/// What is between a letter and the one before it.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Gap {
    None,
    Tag,
    Blank,
}

struct Letter {
    letter: char,
    range: Range<usize>,
    gap: Gap,
}

/// Adds the letters of a text but for blanks; character references (HTML, 13.2.5.72) are what they stand for.
fn add_letters(html: &str, text: Range<usize>, mut gap: Gap, letters: &mut Vec<Letter>) {
    let mut at = text.start;
    while at < text.end {
        let rest = &html[at..text.end];
        let Some(first) = rest.chars().next() else { break };
        let (letter, length) = match reference(rest) {
            Some(known) if first == '&' => known,
            _ => (first, first.len_utf8()),
        };
        match letter.is_whitespace() {
            true => gap = Gap::Blank,
            false => {
                let gap = std::mem::replace(&mut gap, Gap::None);
                letters.push(Letter { letter, range: at..at + length, gap });
            }
        }
        at += length;
    }
}

/// The character that a reference at a text's begin stands for, and how long that is.
fn reference(text: &str) -> Option<(char, usize)> {
    let end = text.bytes().take(10).position(|byte| byte == b';')?;
    let name = text.get(1..end)?;
    let letter = match name {
        "amp" => '&',
        "lt" => '<',
        "gt" => '>',
        "quot" => '"',
        "nbsp" => '\u{a0}',
        _ => {
            let digits = name.strip_prefix('#')?;
            let code = match digits.strip_prefix(['x', 'X']) {
                Some(digits) => u32::from_str_radix(digits, 16).ok()?,
                None => digits.parse().ok()?,
            };
            char::from_u32(code)?
        }
    };
    Some((letter, end + 1))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_found_through_tags_blanks_and_references() {
        let html = "<p>Low water at <b>13:42</b>,\n  &amp; mud</p><script>13:42</script><p title='13:42'>&#49;3:42</p>";
        let shown =
            |words: &str| search(html, words).into_iter().map(|range| html[range].to_string()).collect::<Vec<_>>();
        assert_eq!(shown("water at 13:42, & mud"), ["water at <b>13:42</b>,\n  &amp; mud"]);
        assert_eq!(shown("13:42"), ["13:42", "&#49;3:42"]);
        assert_eq!(shown("nothing"), [""; 0]);
        assert_eq!(shown("wat er"), [""; 0]);
        assert_eq!(shown("waterat"), [""; 0]);
        assert_eq!(shown("&mud"), [""; 0]);
        assert_eq!(shown("  "), [""; 0]);
    }
}
