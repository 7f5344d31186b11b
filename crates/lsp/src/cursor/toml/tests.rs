//! Places in what is half typed.

use super::*;

/// The place at `|`.
fn at(marked: &str) -> TomlPlace {
    let offset = marked.find('|').expect("a mark");
    place(&marked.replacen('|', "", 1), offset)
}

fn part(marked: &str) -> (Vec<String>, Vec<String>, String) {
    let found = at(marked);
    let text = marked.replacen('|', "", 1);
    let typed = match found.part {
        Part::Nothing => "nothing".to_string(),
        Part::Header(span) => format!("header {}", &text[span.range()]),
        Part::Key(span) => format!("key {}", &text[span.range()]),
        Part::Value { typed, quote, element, .. } => {
            let quote = quote.map(String::from).unwrap_or_default();
            format!("{} {quote}{}", if element { "element" } else { "value" }, &text[typed.range()])
        }
    };
    (found.table, found.keys, typed)
}

fn is(marked: &str, table: &[&str], keys: &[&str], typed: &str) {
    let owned = |words: &[&str]| words.iter().map(|word| word.to_string()).collect::<Vec<_>>();
    assert_eq!(part(marked), (owned(table), owned(keys), typed.to_string()), "{marked}");
}

#[test]
fn a_place_is_found_in_what_is_half_typed() {
    is("|", &[], &[], "key ");
    is("[ho|", &[], &[], "header ho");
    is("[hook.under|]\n", &[], &[], "header hook.under");
    is("[[at|]]", &[], &[], "header at");
    is("[hook.x]\n|", &["hook", "x"], &[], "key ");
    is("[hook.x]\nla|", &["hook", "x"], &[], "key la");
    is("[hook.x]\nlabel = |", &["hook", "x"], &["label"], "value ");
    is("[[attach]]\nto = \"ho|", &["attach"], &["to"], "value \"ho");
    is("[[attach]]\nto = \"ho|\ncall = \"x.js#y\"\n", &["attach"], &["to"], "value \"ho");
    is("[[attach]]\nto = \"hook:a|b\"\n", &["attach"], &["to"], "value \"hook:a");
    is("[[attach]]\nto = '|'\n", &["attach"], &["to"], "value '");
    is("[[attach]]\nbefore = [\"a\", \"|\"]\n", &["attach"], &["before"], "element \"");
    is("[[attach]]\nbefore = [|]\n", &["attach"], &["before"], "element ");
    is("[piece.x]\ninputs.text = { ty|", &["piece", "x"], &["inputs", "text"], "key ty");
    is("[piece.x]\ninputs.text = { type = \"st|\" }", &["piece", "x"], &["inputs", "text", "type"], "value \"st");
    is("[piece.x]\ninputs.te|xt.type = 1", &["piece", "x"], &["inputs"], "key te");
    is("[piece.x]\ninputs.|", &["piece", "x"], &["inputs"], "key ");
    is("[a]\nb = 1 # x|y\n", &["a"], &[], "nothing");
    is("[a]\nb = 1\n\n[c|]", &[], &[], "header c");
    is("[fill]\n\"region:aside\" = [{ use = \"|\" }]\n", &["fill"], &["region:aside", "use"], "value \"");
    is("[a]\nb = [{ c = 1 }, { |", &["a"], &["b"], "key ");
    is("[a]\nb = [{ c = \"|\n\n[d]\ne = 1\n", &["a"], &["b", "c"], "value \"");
}

#[test]
fn what_stands_beside_it_is_known() {
    let found = at("[[attach]]\ncall = \"|\"\nto = \"hook:x\"\npriority = 3\n\n[[attach]]\nto = \"hook:y\"\n");
    assert_eq!(found.beside.get("to").map(String::as_str), Some("hook:x"));
    let found = at("[fill]\na = [{ use = \"piece:one\" }, { text = \"|\", use = \"piece:two\" }]\nb = 'c'\n");
    assert_eq!(found.beside.get("use").map(String::as_str), Some("piece:two"));
    assert_eq!(found.around.get("b").map(String::as_str), Some("c"));
}

proptest::proptest! {
    /// Whatever stands there, at whatever place, something is found, and it lies in the text.
    #[test]
    fn nothing_is_too_broken(text in "([\\[\\]{}=.,\"'#a-c \n]|\"\"\"|é|→){0,60}", at in 0usize..70) {
        let mut at = at.min(text.len());
        while !text.is_char_boundary(at) {
            at -= 1;
        }
        let spans = match place(&text, at).part {
            Part::Nothing => Vec::new(),
            Part::Header(span) | Part::Key(span) => vec![span],
            Part::Value { typed, whole, .. } => vec![typed, whole],
        };
        for span in spans {
            proptest::prop_assert!(text.get(span.range()).is_some());
        }
    }
}
