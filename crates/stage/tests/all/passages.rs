//! Text on its way to a page: what templates escape and what callbacks escape is the same, and both are what
//! HTML's own reader turns back into the text.

use html5gum::{Token, Tokenizer};
use proptest::prelude::*;

use crate::small::{between, front, render};

const MANIFEST: &str = "[hook.mid]\nabout = \"M\"\nargs.text = { type = \"string\" }\n\n[[attach]]\nto = \"hook:mid\"\ncall = \"a.js#mid\"\n";
const CODE: &str = "import { html } from \"truehook\";\nexport const mid = ({ args }) => html`<q title=\"${args.text}\">${args.text}</q>`;\n";
const PAGE: &str = "{% for text in page.data.texts %}<q title=\"{{ text }}\">{{ text }}</q>{{ place(\"hook:mid\", text=text) }}\n{% endfor %}";

/// All `q` elements of a page: their title, and their text.
fn quotes(html: &str) -> Vec<(String, String)> {
    let text = |bytes: &[u8]| String::from_utf8(bytes.to_vec()).unwrap();
    let mut found = Vec::new();
    let mut open: Option<(String, String)> = None;
    for token in Tokenizer::new(html) {
        match token.unwrap() {
            Token::StartTag(tag) if *tag.name == b"q"[..] => {
                open = Some((text(&tag.attributes[&b"title"[..]]), String::new()));
            }
            Token::EndTag(tag) if *tag.name == b"q"[..] => found.extend(open.take()),
            Token::String(piece) => {
                if let Some((_, all)) = &mut open {
                    all.push_str(&text(&piece));
                }
            }
            other => assert!(open.is_none(), "{other:?} in {html}"),
        }
    }
    found
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn templates_and_callbacks_escape_alike_and_html_reads_the_text(
        texts in prop::collection::vec("([ -~]|[<>&\"'`=/]|é|雨|\u{1f426}|\u{a0}|\u{2028}){0,16}", 1..12),
    ) {
        let toml: String = texts.iter().map(|text| format!("{}, ", serde_json::Value::from(text.as_str()))).collect();
        let page = front(PAGE);
        let preview = format!("path = \"/\"\ntype = \"front\"\ntitle = \"T\"\n\n[data]\ntexts = [ {toml} ]\n");
        let files = [
            ("truehook.toml", MANIFEST),
            ("code/a.js", CODE),
            ("markup/front.html", page.as_str()),
            ("preview/pages/a.toml", preview.as_str()),
        ];
        let html = render(&files, "/").html;
        let read = quotes(&html);
        let wanted: Vec<(String, String)> = texts.iter().flat_map(|text| [(text.clone(), text.clone()), (text.clone(), text.clone())]).collect();
        prop_assert_eq!(read, wanted);
        // Byte for byte, too: one escaping, in two languages.
        let main = html.split_once("<main>").map_or(html.as_str(), |(before, _)| before);
        for line in main.lines().filter(|line| line.contains("<q")) {
            let line = &line[line.find("<q").unwrap()..];
            let half = line.len() / 2;
            prop_assert_eq!(&line[..half], &line[half..], "{}", line);
        }
    }
}

const GIVING: &str = "[filter.same]\nabout = \"S\"\n\n[hook.plain]\nabout = \"P\"\nargs.text = { type = \"string\" }\n\n[hook.marked]\nabout = \"M\"\nargs.text = { type = \"string\" }\n\n[[attach]]\nto = \"filter:same\"\ncall = \"a.js#same\"\n\n[[attach]]\nto = \"hook:plain\"\ncall = \"a.js#plain\"\n\n[[attach]]\nto = \"hook:marked\"\ncall = \"a.js#marked\"\n";
const GIVERS: &str = "import { html } from \"truehook\";\nexport const same = (value) => value;\nexport const plain = ({ args }) => args.text;\nexport const marked = ({ args }) => html`${args.text}`;\n";
const GIVEN: &str = "[{% for text in page.data.texts %}{{ text }}\u{1f}{{ text | through(\"filter:same\") }}\u{1f}{{ place(\"hook:plain\", text=text) }}\u{1f}{{ place(\"hook:marked\", text=text) }}\u{1f}{{ (text | safe) | through(\"filter:same\") | e }}\u{1e}{% endfor %}]";

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_a_callback_gives_back_arrives_as_it_is(
        texts in prop::collection::vec(
            (
                "(|\u{1}|\u{2}|\u{3}|\u{1}\u{2}|\u{7f}|<|=)([ -~]|é|雨|\u{1f426}|\u{1}|\u{2}){0,9}",
                prop_oneof![4 => 0..2usize, 1 => 500..1400usize],
            ).prop_map(|(text, times)| text.clone() + &text.repeat(times)),
            1..9,
        ),
    ) {
        let toml: String = texts.iter().map(|text| format!("{}, ", serde_json::Value::from(text.as_str()))).collect();
        let toml = toml.replace('\u{7f}', "\\u007f");
        let page = front(GIVEN);
        let preview = format!("path = \"/\"\ntype = \"front\"\ntitle = \"T\"\n\n[data]\ntexts = [ {toml} ]\n");
        let files = [
            ("truehook.toml", GIVING),
            ("code/a.js", GIVERS),
            ("markup/front.html", page.as_str()),
            ("preview/pages/a.toml", preview.as_str()),
        ];
        let rendered = render(&files, "/");
        prop_assert!(rendered.failures.is_empty(), "{:?}", rendered.failures);
        let html = between(&rendered.html);
        let rows: Vec<Vec<&str>> = html.split_terminator('\u{1e}').map(|row| row.split('\u{1f}').collect()).collect();
        prop_assert_eq!(rows.len(), texts.len());
        for (row, text) in rows.into_iter().zip(&texts) {
            prop_assert_eq!(row.len(), 5);
            // What the template prints by itself is the measure, and markup stays what it is.
            prop_assert!(row[..4].iter().all(|way| *way == row[0]), "{row:?}");
            prop_assert_eq!(row[4], text.as_str());
        }
    }
}
