//! Commands as they are printed: each word quoted for a POSIX shell (POSIX.1, 2.2 Quoting) where it needs to be, so
//! that what is pasted is what was meant, whatever a file or a label is called.

use std::borrow::Cow;
use std::fmt::Display;

/// A command of this program as one line to be pasted: `command_line!["attach", address, name]`. Each part is one word
/// of it, anything that can be displayed.
#[macro_export]
macro_rules! command_line {
    ($($word:expr),+ $(,)?) => {
        $crate::shell::line([$(::std::string::ToString::to_string(&$word)),+])
    };
}

/// A command of this program, with its words quoted where they need to be.
pub fn line(words: impl IntoIterator<Item = String>) -> String {
    let mut line = String::from("truehook");
    for word in words {
        line.push(' ');
        line.push_str(&quoted(&word));
    }
    line
}

/// Quotes a word for a POSIX shell: a plain word stays as it is, any other gets single quotes.
pub fn quoted(word: &str) -> Cow<'_, str> {
    match is_plain(word) {
        true => Cow::Borrowed(word),
        false => Cow::Owned(format!("'{}'", word.replace('\'', r"'\''"))),
    }
}

/// Quotes the text of a value as [`quoted`] does.
pub fn word(word: &impl Display) -> String {
    quoted(&word.to_string()).into_owned()
}

/// Does every shell take a word as it stands? The dots stand for what people fill in themselves.
pub fn is_plain(word: &str) -> bool {
    let sign = |c: char| matches!(c, '-' | '_' | '.' | '/' | ':' | '=' | '#' | '@' | '%' | '+' | ',' | '…');
    let plain = |c: char| c.is_ascii_alphanumeric() || sign(c) || c.is_alphanumeric();
    !word.is_empty() && word.chars().all(plain) && !word.starts_with(['#', '=', '%'])
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn splitting_a_line_gives_back_its_words(words in proptest::collection::vec(".*", 1..6)) {
            // No shell takes a NUL.
            let words: Vec<String> = words.into_iter().map(|word: String| word.replace('\0', "")).collect();
            let line = line(words.clone());
            let split = shell_words::split(&line).unwrap();
            prop_assert_eq!(&split[1..], &words[..]);
        }
    }

    /// The shell of this machine as the judge.
    #[test]
    #[cfg(unix)]
    fn a_shell_gives_back_the_words() {
        let mut words: Vec<String> = (1..=0x17f).filter_map(char::from_u32).map(|c| format!("a{c}b{c}")).collect();
        words.extend(
            ["x$(id>pwn).js", "`id`", "a'b\"c", "", "~", "#", "=ls", "%1", "!!", "a\\", "-n", "{a,b}", "*"]
                .map(String::from),
        );
        for some in words.chunks(40) {
            let line = line(some.iter().cloned()).replacen("truehook", "printf '%s\\0'", 1);
            let said = std::process::Command::new("sh").args(["-c", &line]).output().unwrap();
            let said = String::from_utf8(said.stdout).unwrap();
            assert_eq!(
                said.trim_end_matches('\0').split('\0').collect::<Vec<_>>(),
                some.iter().map(String::as_str).collect::<Vec<_>>()
            );
        }
    }
}
