//! Translations: entries that the test writes are read as they were meant, and what is no entry is told
//! on its line.

use proptest::prelude::*;
use truehook_core::scan::{FlawKind, Shape, WordsShape};
use truehook_core::source::LineIndex;

use super::facts;

/// An entry as a translator's editor would keep it.
#[derive(Clone, Debug)]
struct Entry {
    id: String,
    plural: Option<String>,
    forms: Vec<String>,
    fuzzy: bool,
    comments: Vec<&'static str>,
    /// Are texts written in several strings, as long ones are?
    folded: bool,
}

const HEADER: &str = "msgid \"\"\nmsgstr \"\"\n\"Content-Type: text/plain; charset=UTF-8\\n\"\n\"Plural-Forms: nplurals=2; plural=(n != 1);\\n\"\n";

fn quoted(text: &str) -> String {
    let escaped = text.replace('\\', "\\\\").replace('"', "\\\"").replace('\n', "\\n").replace('\t', "\\t");
    format!("\"{escaped}\"")
}

impl Entry {
    fn text(&self, key: &str, text: &str) -> String {
        let middle = text.char_indices().map(|(at, _)| at).nth(text.chars().count() / 2).unwrap_or(0);
        match self.folded {
            true => format!("{key} \"\"\n{}\n{}\n", quoted(&text[..middle]), quoted(&text[middle..])),
            false => format!("{key} {}\n", quoted(text)),
        }
    }

    fn written(&self) -> String {
        let mut all: String = self.comments.iter().map(|comment| format!("{comment}\n")).collect();
        if self.fuzzy {
            all.push_str("#, fuzzy\n");
        }
        all.push_str(&self.text("msgid", &self.id));
        match &self.plural {
            None => all.push_str(&self.text("msgstr", &self.forms[0])),
            Some(plural) => {
                all.push_str(&self.text("msgid_plural", plural));
                for (at, form) in self.forms.iter().enumerate() {
                    all.push_str(&self.text(&format!("msgstr[{at}]"), form));
                }
            }
        }
        all
    }
}

fn entry() -> impl Strategy<Value = Entry> {
    let text = "[a-zé \"\\\\%{}\n\t#]{1,12}";
    const COMMENTS: [&str; 5] =
        ["# of the hides", "#: markup/layout.html:3", "#. for the masthead", "#| msgid \"before\"", "#"];
    (
        text,
        prop::option::weighted(0.3, text),
        prop::collection::vec("[a-zä \"\\\\\n]{0,12}", 2),
        prop::bool::weighted(0.2),
        prop::sample::subsequence(&COMMENTS[..], 0..3),
        any::<bool>(),
    )
        .prop_map(|(id, plural, mut forms, fuzzy, comments, folded)| {
            forms.truncate(if plural.is_some() { 2 } else { 1 });
            Entry { id, plural, forms, fuzzy, comments, folded }
        })
}

fn words(text: &str) -> (WordsShape, truehook_core::scan::Facts) {
    let facts = facts("words/de.po", text);
    let Shape::Words(shape) = &facts.shape else { panic!("no words") };
    ((**shape).clone(), facts)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 250, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn entries_are_read_as_they_were_written(
        entries in prop::collection::vec(entry(), 0..6),
        blank in prop::sample::select(&["\n", "\n\n", ""][..]),
        crlf in any::<bool>(),
    ) {
        let mut text = format!("{HEADER}\n");
        for entry in &entries {
            text.push_str(&entry.written());
            text.push_str(blank);
        }
        let text = if crlf { text.replace('\n', "\r\n") } else { text };
        let (shape, facts) = words(&text);
        prop_assert_eq!(&facts.flaws, &vec![], "{}", text);
        prop_assert_eq!(shape.entries.len(), entries.len(), "{}", text);
        for (read, wanted) in shape.entries.iter().zip(&entries) {
            prop_assert_eq!(read.id.as_str(), &wanted.id);
            prop_assert_eq!(read.plural.map(|plural| plural.to_string()), wanted.plural.clone());
            prop_assert_eq!(read.fuzzy, wanted.fuzzy);
            let forms: Vec<String> = read.forms.iter().map(ToString::to_string).collect();
            prop_assert_eq!(&forms, &wanted.forms, "{}", text);
            let line = &text[facts.span(read.at).range()];
            prop_assert!(line.starts_with("msgid "), "{line}");
        }
        prop_assert_eq!([0, 1, 2].map(|n| shape.plurals.form(n)), [1, 0, 1]);
    }

    #[test]
    fn a_line_that_is_none_is_told_where_it_stands(
        before in prop::collection::vec(entry(), 0..3),
        after in prop::collection::vec(entry(), 0..3),
        strange in prop::sample::select(&["msgstr here", "mgsid \"x\"", "\"open", "plain words", "msgid x\"", "msgstr[x] \"\""][..]),
    ) {
        let written = |entries: &[Entry]| entries.iter().map(|entry| format!("{}\n", entry.written())).collect::<String>();
        let start = format!("{HEADER}\n{}", written(&before));
        let text = format!("{start}{strange}\n\n{}", written(&after));
        let (shape, facts) = words(&text);
        prop_assert_eq!(shape.entries.len(), before.len() + after.len(), "the others are read: {}", text);
        prop_assert_eq!(facts.flaws.len(), 1, "{}", text);
        let flaw = &facts.flaws[0];
        prop_assert_eq!(flaw.kind, FlawKind::ManifestSyntax);
        let line = LineIndex::new(&text).position(facts.span(flaw.at).start).0;
        prop_assert_eq!(line as usize, start.lines().count() + 1, "{}", text);
    }

    #[test]
    fn whatever_a_file_holds_nothing_breaks(text in "(msgid|msgstr|msgctxt|msgid_plural|msgstr\\[[0-9]\\]|\"|\\\\|\n|#,? |fuzzy|[a-z ]|é){0,40}") {
        words(&text);
    }
}
