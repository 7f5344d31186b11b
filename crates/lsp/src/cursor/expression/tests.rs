//! Places in what is half typed.

use super::*;

fn at(marked: &str, language: Language) -> (Typed, String) {
    let offset = marked.find('¦').expect("a mark");
    let text = marked.replacen('¦', "", 1);
    let found = typed(&text, 0, offset, language);
    let span = found.string.map_or(found.word, |(typed, _)| typed);
    let word = text[span.range()].to_string();
    (found, word)
}

#[test]
fn an_argument_of_a_call_is_known() {
    let (found, word) = at("place(\"hook:un¦", Language::Template);
    let call = found.call.expect("a call");
    assert_eq!((call.name.as_str(), call.index, word.as_str()), ("place", 0, "hook:un"));
    assert!(found.string.is_some());
    let (found, word) = at("place(\"partial:x\", one=1, tw¦", Language::Template);
    let call = found.call.expect("a call");
    assert_eq!(
        (call.first.as_deref(), call.given.as_slice(), word.as_str()),
        (Some("partial:x"), &["one".to_string()][..], "tw")
    );
    let (found, _) = at("place(\"partial:x\", tone=\"¦\")", Language::Template);
    assert_eq!(found.call.expect("a call").key.as_deref(), Some("tone"));
    let (found, _) = at("value | through(\"¦", Language::Template);
    assert_eq!(found.call.expect("a call").name, "through");
    let (found, _) = at("f(place(\"a\"), ¦", Language::Template);
    assert_eq!(found.call.map(|call| (call.name, call.index)), Some(("f".into(), 1)));
}

#[test]
fn names_with_dots_and_comparisons_are_known() {
    let (found, word) = at("page.da.ti¦", Language::Condition);
    assert_eq!((found.path, word.as_str()), (vec!["page".to_string(), "da".to_string()], "ti"));
    let (found, _) = at("page.¦", Language::Condition);
    assert_eq!(found.path, ["page"]);
    let (found, _) = at("options.tone == '¦'", Language::Condition);
    assert_eq!(found.after, After::Compared(vec!["options".into(), "tone".into()]));
    let (found, _) = at("a | ¦", Language::Template);
    assert_eq!(found.after, After::Pipe);
    let (found, _) = at(" extends \"¦", Language::Template);
    assert_eq!(found.after, After::Word("extends".into()));
    let (found, _) = at("a is no¦", Language::Template);
    assert_eq!(found.after, After::Is);
}

#[test]
fn modules_have_comments_backquotes_and_tables() {
    let (found, word) = at("// it's\nhtml`a ${c.page.ti¦", Language::Module);
    assert_eq!((found.path, word.as_str()), (vec!["c".to_string(), "page".to_string()], "ti"));
    let (found, _) = at("html`it's ${a} ${place(\"¦", Language::Module);
    assert_eq!(found.call.expect("a call").name, "place");
    let (found, _) = at("x = { use: \"piece:note\", te¦", Language::Module);
    let (key, known) = found.braces.expect("a table");
    assert_eq!((key, known.get("use").map(String::as_str)), (None, Some("piece:note")));
    let (found, _) = at("x = { use: \"¦", Language::Module);
    assert_eq!(found.braces.expect("a table").0.as_deref(), Some("use"));
    let (found, _) = at("html`plain ¦", Language::Module);
    assert_eq!(found.string.map(|(typed, _)| typed.start == typed.end), Some(true));
    let (found, _) = at("c?.page?.¦", Language::Module);
    assert_eq!(found.path, ["c", "page"]);
}

#[test]
fn tags_are_told_from_html() {
    assert_eq!(tag("<p>{{ a }} b", 12), None);
    assert_eq!(tag("<p>{{ a", 7), Some(Tag::Print(5)));
    assert_eq!(tag("{%- if a", 8), Some(Tag::Block(3)));
    assert_eq!(tag("{# {{ a", 7), Some(Tag::Print(5)));
}

proptest::proptest! {
    /// Whatever stands there, something is found, and it lies in the text.
    #[test]
    fn nothing_is_too_broken(text in "([\\[\\]{}()=.,:|\"'`$#/*a-c \n]|é|→|\\$\\{|is|==){0,60}", at in 0usize..90, which in 0..3) {
        let mut at = at.min(text.len());
        while !text.is_char_boundary(at) {
            at -= 1;
        }
        let language = [Language::Template, Language::Condition, Language::Module][which as usize];
        let found = typed(&text, 0, at, language);
        let strings = found.string.map_or(vec![], |(typed, whole)| vec![typed, whole]);
        for span in strings.into_iter().chain([found.word]) {
            proptest::prop_assert!(text.get(span.range()).is_some());
        }
        tag(&text, at);
    }
}
