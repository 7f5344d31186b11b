//! Addresses: what is printed where an address begins must not be one that runs as code.

pub use truehook_core::html::is_safe_address as is_safe;
use truehook_core::scan::{Piece, pieces};

/// What stands in place of an address that would run as code.
pub const HARMLESS: &str = "#";
/// Attributes whose value is an address.
const ATTRIBUTES: [&str; 10] =
    ["href", "src", "action", "formaction", "poster", "cite", "data", "ping", "background", "manifest"];
/// The function that looks at an address in a template.
pub const CHECK: &str = "__address";
/// The function that escapes once more what goes into a document that is the value of an attribute.
pub const WITHIN: &str = "__srcdocs";
/// What goes around an expression in a template; both have the same length.
const BEFORE: &str = "__address(";
const BEFORE_WITHIN: &str = "__srcdocs(";
const AFTER: &str = ")";

/// Where the expressions of a template stand that begin an address: each from after `{{` to before `}}`.
///
/// In the guarded template, what comes after such an expression stands further to the right: see [`Spots::original`].
#[derive(Debug, Default)]
pub struct Spots {
    all: Vec<Spot>,
    /// How long the template is, in bytes.
    length: usize,
}

#[derive(Debug)]
struct Spot {
    start: usize,
    end: usize,
    /// How much further to the right it starts in the guarded template.
    shift: usize,
    /// Is it within a document that is the value of an attribute, rather than where an address begins?
    within: bool,
}

impl Spots {
    pub fn of(text: &str) -> Spots {
        let mut all = Vec::new();
        // Tags print nothing, and what is printed may be nothing: what comes after them stands where they do.
        let mut before = String::new();
        let mut documents = Documents::default();
        for piece in pieces(text) {
            match piece {
                // One blank is as good as many.
                Piece::Text(text) if text.trim().is_empty() && before.ends_with(char::is_whitespace) => {}
                Piece::Text(text) => before.push_str(text),
                Piece::Printed(range) => {
                    let inside = &text[range.clone()];
                    let start = range.start + if inside.starts_with("{{-") { 3 } else { 2 };
                    let end = range.end - if inside.ends_with("-}}") { 3 } else { 2 };
                    let within = documents.is_open(&before);
                    if (within || begins_address(before.trim_end())) && start < end {
                        all.push(Spot { start, end, shift: all.len() * (BEFORE.len() + AFTER.len()), within });
                    }
                }
            }
        }
        Spots { all, length: text.len() }
    }

    /// The template in which every such expression is looked at when it is printed.
    pub fn guarded(&self, text: &str) -> String {
        let mut guarded = String::with_capacity(text.len() + 64);
        let mut at = 0;
        for spot in &self.all {
            guarded.push_str(&text[at..spot.start]);
            guarded.push_str(if spot.within { BEFORE_WITHIN } else { BEFORE });
            guarded.push_str(&text[spot.start..spot.end]);
            guarded.push_str(AFTER);
            at = spot.end;
        }
        guarded.push_str(&text[at..]);
        guarded
    }

    /// Where something in the guarded template stands in the template itself.
    pub fn original(&self, guarded: usize) -> usize {
        let before = self.all.partition_point(|spot| spot.start + spot.shift <= guarded);
        let shift = match before.checked_sub(1).map(|last| &self.all[last]) {
            None => 0,
            Some(spot) if guarded < spot.start + spot.shift + BEFORE.len() => guarded - spot.start,
            Some(spot) if guarded < spot.end + spot.shift + BEFORE.len() => spot.shift + BEFORE.len(),
            Some(spot) => spot.shift + BEFORE.len() + AFTER.len(),
        };
        (guarded - shift).min(self.length)
    }
}

/// Follows the text of a template for documents that are the value of an attribute: a browser reads what is in there
/// twice (HTML, 4.8.5).
#[derive(Default)]
struct Documents {
    /// Behind the name of the last such attribute, as long as its value may be open.
    name: Option<usize>,
    /// Up to where its value was open without quotes when something was printed there.
    bare: Option<usize>,
    /// How much of the text was looked at.
    seen: usize,
}

impl Documents {
    const NAME: &str = "srcdoc";

    /// Does the text end in such a value?
    fn is_open(&mut self, before: &str) -> bool {
        let from = before.floor_char_boundary(self.seen.saturating_sub(Self::NAME.len()));
        if let Some(at) = before[from..].to_ascii_lowercase().rfind(Self::NAME) {
            let name = from + at + Self::NAME.len();
            if self.name.replace(name) != Some(name) {
                self.bare = None;
            }
        }
        self.seen = before.len();
        let Some(at) = self.name else { return false };
        let rest = before[at..].trim_start();
        let value = rest.strip_prefix('=').map(str::trim_start);
        let open = match (value, value.and_then(|value| value.chars().next())) {
            (Some(value), Some(quote @ ('"' | '\''))) => !value[1..].contains(quote),
            (Some(value), _) => {
                // What was printed there is no part of the text.
                let value = self.bare.map_or(value, |bare| &before[bare..]);
                self.bare = Some(before.len());
                !value.contains(|c: char| c.is_whitespace() || c == '>')
            }
            (None, _) => false,
        };
        if !open && !rest.is_empty() {
            self.name = None;
        }
        open
    }
}

/// Does a text end where an address begins?
fn begins_address(before: &str) -> bool {
    let rest = before.strip_suffix(['"', '\'']).unwrap_or(before).trim_end();
    let Some(rest) = rest.strip_suffix('=') else { return false };
    let rest = rest.trim_end();
    let name = rest.rsplit(|c: char| c.is_whitespace() || c == ':' || c == '"' || c == '\'').next().unwrap_or_default();
    ATTRIBUTES.iter().any(|known| known.eq_ignore_ascii_case(name))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn addresses_that_run_as_code_are_told_from_others() {
        for good in [
            "/log/",
            "https://example.org/javascript:",
            "media/a.svg",
            "",
            "#top",
            "data:image/svg+xml,x",
            "mailto:a@b",
        ] {
            assert!(is_safe(good), "{good}");
        }
        for bad in [
            "javascript:alert(1)",
            " JavaScript:x",
            "java\tscript:x",
            "\u{1}javascript:x",
            "vbscript:x",
            "data:text/html,x",
        ] {
            assert!(!is_safe(bad), "{bad}");
        }
    }

    /// Pieces of templates: what begins an address, what doesn't, and what may be nothing.
    const PIECES: [&str; 18] = [
        "<a href=\"",
        "<a class=\"",
        "<img src='",
        "<a href=",
        "x",
        "\">",
        "'>",
        " ",
        "\n",
        "=",
        "{{ a }}",
        "{{- a -}}",
        "{{ \"{%\" }}",
        "{% if a %}",
        "{% endif %}",
        "{# {{ c }} #}",
        "{% set b = \"{%\" %}",
        "{# {# #}",
    ];

    /// As [`Spots::of`] means it, for a template of such pieces: everything before is looked at again for each.
    fn wanted(pieces: &[&str]) -> Vec<usize> {
        let begins = |before: &[&str]| {
            let rest: String = before.iter().filter(|piece| !piece.starts_with('{')).copied().collect();
            let rest = rest.trim_end();
            let rest = rest.strip_suffix(['"', '\'']).unwrap_or(rest);
            rest.ends_with("href=") || rest.ends_with("src=")
        };
        (0..pieces.len()).filter(|at| pieces[*at].starts_with("{{") && begins(&pieces[..*at])).collect()
    }

    proptest! {
        #[test]
        fn what_may_be_nothing_hides_no_address(at in prop::collection::vec(0..PIECES.len(), 0..24)) {
            let pieces: Vec<&str> = at.into_iter().map(|at| PIECES[at]).collect();
            let text = pieces.concat();
            let begun = |spot: &Spot| text[..spot.start].rfind("{{").unwrap_or_default();
            let found: Vec<usize> = Spots::of(&text).all.iter().map(begun).collect();
            let places: Vec<usize> = wanted(&pieces).iter().map(|at| pieces[..*at].concat().len()).collect();
            prop_assert_eq!(found, places, "{}", text);
        }
    }

    #[test]
    fn documents_in_attributes_are_told_as_long_as_they_last() {
        let within = |text: &str| Spots::of(text).all.iter().map(|spot| spot.within).collect::<Vec<_>>();
        assert_eq!(
            within("<iframe srcdoc=\"{{ a }}<p title='x'>{{ b }}</p>\" src=\"{{ c }}\">{{ d }}"),
            [true, true, false]
        );
        assert_eq!(within("<iframe SRCDOC = '{{ a }}'>{{ b }}<iframe srcdoc={{ c }} class={{ d }}>"), [true, true]);
        assert_eq!(within("<p>srcdoc is an attribute: {{ a }}</p><p srcdoc>{{ b }}"), [false; 0]);
    }

    #[test]
    fn what_stands_as_it_is_counts_and_its_tags_do_not() {
        for (text, wanted) in [
            ("{% raw %}<a href=\"{% endraw %}{{ a }}\">", 1),
            ("<a href=\"{% raw %}{% endraw %}{{ a }}\">", 1),
            ("<a href=\"{% raw %}{{ x }}{% endraw %}{{ a }}\">", 0),
            ("<a href={% if a %}\"{% endif %}{{ a }}\">", 1),
            ("<a class=x {% if a %}{% endif %} {{ a }} href='{{ a }}'>", 1),
        ] {
            assert_eq!(Spots::of(text).all.len(), wanted, "{text}");
        }
    }

    #[test]
    fn expressions_that_begin_an_address_are_found_and_places_stay_known() {
        let text = "<a class=\"{{ a }}\" href=\"{{ b }}{{ c }}/x{{ d }}\">{{ e }}</a><img src='{% if f %}{{- g -}}{% endif %}'>{{ h }}";
        let spots = Spots::of(text);
        let found: Vec<&str> = spots.all.iter().map(|spot| text[spot.start..spot.end].trim()).collect();
        assert_eq!(found, ["b", "c", "g"]);
        let guarded = spots.guarded(text);
        for name in ["a", "b", "c", "d", "e", "f", "h"] {
            let shown = guarded.find(&format!(" {name} ")).unwrap();
            assert_eq!(spots.original(shown), text.find(&format!(" {name} ")).unwrap(), "{name}");
        }
    }
}
