//! Names: how they are spelt, and which known one a misspelt one was meant to be.

use rapidfuzz::distance::osa::{Args, BatchComparator};

/// The longest a name may be, in bytes.
pub const LONGEST: usize = 64;
/// How points, kinds and layers are spelt, for messages.
pub const KEBAB: &str = "use lower-case letters, digits and single hyphens, starting with a letter, at most 64 bytes";
/// How inputs, options and arguments are spelt, for messages.
pub const SNAKE: &str = "use lower-case letters, digits and underscores, starting with a letter, at most 64 bytes";
/// Layer names that mean something else.
pub const RESERVED_LAYERS: [&str; 2] = ["below", "host"];
/// Keys of an item that are not inputs.
pub const RESERVED_INPUTS: [&str; 3] = ["use", "holds", "when"];
/// Words of the template language, which no variable can be called.
pub const TEMPLATE_WORDS: [&str; 22] = [
    "and", "break", "call", "caller", "continue", "else", "elif", "false", "False", "for", "if", "in", "is", "loop",
    "none", "None", "not", "or", "self", "super", "true", "True",
];
/// What every template, callback and condition can read.
pub const GLOBALS: [&str; 4] = ["page", "site", "theme", "options"];

/// Is this `[a-z][a-z0-9]*(-[a-z0-9]+)*`, of at most 64 bytes?
pub fn is_kebab(name: &str) -> bool {
    name.len() <= LONGEST
        && name.starts_with(|c: char| c.is_ascii_lowercase())
        && name
            .split('-')
            .all(|part| !part.is_empty() && part.bytes().all(|b| b.is_ascii_lowercase() || b.is_ascii_digit()))
}

/// The nearest name in lower case with hyphens, where there is one.
pub fn kebab(text: &str) -> Option<String> {
    let mut words = text.split(|c: char| !c.is_ascii_alphanumeric()).filter(|word| !word.is_empty());
    let joined = words.by_ref().map(str::to_ascii_lowercase).collect::<Vec<_>>().join("-");
    let name = joined.trim_start_matches(|c: char| !c.is_ascii_lowercase());
    is_kebab(name).then(|| name.to_string())
}

/// Is this `[a-z][a-z0-9_]*`, of at most 64 bytes?
pub fn is_snake(name: &str) -> bool {
    name.len() <= LONGEST
        && name.starts_with(|c: char| c.is_ascii_lowercase())
        && name.bytes().all(|b| b.is_ascii_lowercase() || b.is_ascii_digit() || b == b'_')
}

/// The known name nearest to a misspelt one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Near<'a> {
    /// The name.
    pub word: &'a str,
    /// How many edits lead from one to the other.
    pub distance: usize,
    /// Can it replace the misspelt one without asking? Then it is the only one within an edit distance
    /// of two.
    pub certain: bool,
}

/// The known name nearest to a misspelt one, if it is near enough that it may have been meant.
///
/// ```
/// use truehook_names::names::nearest;
/// assert_eq!(nearest("asid", ["aside", "main"]), Some("aside"));
/// assert_eq!(nearest("kiosk", ["aside", "main"]), None);
/// ```
pub fn nearest<'a>(name: &str, known: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    near(name, known).map(|near| near.word)
}

/// The known name that can replace a misspelt one without asking: the only one within an edit
/// distance of two.
pub fn certain<'a>(name: &str, known: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    near(name, known).filter(|near| near.certain).map(|near| near.word)
}

/// The known name nearest to a misspelt one, and whether it is certain. Two neighbouring letters that
/// change places are one edit, and what all files of a kind end with counts for nothing.
pub fn near<'a>(name: &str, known: impl IntoIterator<Item = &'a str>) -> Option<Near<'a>> {
    // What all files of a kind have in common does not make them alike.
    let extension = extension(name);
    let stem = |word: &'a str| word.strip_suffix(extension).unwrap_or(word);
    let own = name.strip_suffix(extension).unwrap_or(name);
    let mut best: Option<(usize, &str)> = None;
    let mut within_two = 0;
    let reach = reach(own);
    let letters = letters_of(own);
    // What is asked of many names is worked out once.
    let compared = BatchComparator::new(own.chars());
    let within = Args::default().score_cutoff(reach.max(2));
    for word in known {
        let other = stem(word);
        if word == name || other.len().abs_diff(own.len()) > reach {
            continue;
        }
        // An edit takes one letter away and brings one.
        let theirs = letters_of(other);
        if (letters & !theirs).count_ones().max((theirs & !letters).count_ones()) as usize > reach.max(2) {
            continue;
        }
        let Some(distance) = compared.distance_with_args(other.chars(), &within) else { continue };
        within_two += usize::from(distance <= 2);
        if distance <= reach && best.is_none_or(|(least, held)| (distance, word) < (least, held)) {
            best = Some((distance, word));
        }
    }
    best.map(|(distance, word)| Near { word, distance, certain: distance <= 2 && within_two == 1 })
}

/// The end of a file's name, with its dot; nothing where there is none.
pub(crate) fn extension(name: &str) -> &str {
    let extension = name.rfind('.').map_or("", |at| &name[at..]);
    if extension.chars().skip(1).all(char::is_alphanumeric) { extension } else { "" }
}

/// The letters of a name, as bits; some share one.
fn letters_of(name: &str) -> u64 {
    name.bytes().fold(0, |letters, byte| letters | 1 << (byte & 63))
}

/// How many edits away a name can be and still be a likely misspelling.
pub(crate) fn reach(name: &str) -> usize {
    (name.chars().count() / 3).clamp(1, 4)
}

/// `; did you mean …?` where there is a suggestion, and nothing where there is none.
pub fn hint(suggestion: &Option<impl AsRef<str>>) -> String {
    match suggestion {
        Some(word) => format!("; did you mean `{}`?", word.as_ref()),
        None => String::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_spelt_as_the_model_says() {
        for good in ["a", "a1", "under-masthead", "h2-o"] {
            assert!(is_kebab(good), "{good}");
        }
        for bad in ["", "A", "1a", "a--b", "-a", "a-", "a_b", "ä", &"a".repeat(65)] {
            assert!(!is_kebab(bad), "{bad}");
        }
        assert!(is_snake("low_water2") && !is_snake("low-water") && !is_snake("_x"));
    }

    #[test]
    fn two_equally_near_names_are_a_hint_but_not_a_certainty() {
        assert_eq!(nearest("linc", ["link", "line"]), Some("line"));
        assert_eq!(certain("linc", ["link", "line"]), None);
        assert_eq!(certain("asid", ["aside", "footer"]), Some("aside"));
    }
}
