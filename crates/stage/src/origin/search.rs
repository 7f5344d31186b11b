//! Words on a page, as people read them.

use std::ops::Range;

use super::texts;

/// Where some words stand on a page: each time from the first letter to the last, whatever tags, blanks and line ends
/// are between.
pub fn search(html: &str, words: &str) -> Vec<Range<usize>> {
    let wanted: Vec<char> = words.chars().filter(|c| !c.is_whitespace()).collect();
    let letters: Vec<(char, Range<usize>)> = texts(html).into_iter().flat_map(|text| letters(html, text)).collect();
    let mut found = Vec::new();
    let mut at = 0;
    while !wanted.is_empty() && at + wanted.len() <= letters.len() {
        let here = &letters[at..at + wanted.len()];
        if here.iter().map(|(letter, _)| letter).eq(&wanted) {
            found.push(here[0].1.start..here[here.len() - 1].1.end);
            at += wanted.len();
        } else {
            at += 1;
        }
    }
    found
}

/// The letters of a text but for blanks, each with its bytes; character references (HTML, 13.2.5.72) are what they
/// stand for.
fn letters(html: &str, text: Range<usize>) -> Vec<(char, Range<usize>)> {
    let mut found = Vec::new();
    let mut at = text.start;
    while at < text.end {
        let rest = &html[at..text.end];
        let Some(first) = rest.chars().next() else { break };
        let (letter, length) = match reference(rest) {
            Some(known) if first == '&' => known,
            _ => (first, first.len_utf8()),
        };
        if !letter.is_whitespace() {
            found.push((letter, at..at + length));
        }
        at += length;
    }
    found
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
        assert_eq!(shown("  "), [""; 0]);
    }
}
