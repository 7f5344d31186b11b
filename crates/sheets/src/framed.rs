//! Pages in frames of the sheets: each has a script of ours that tells the sheet where its parts are, since the sheet can't
//! look into it.

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};

const SCRIPT: &str = include_str!("../pages/framed.js");

/// A page with that script in it: at the beginning of its head, before any other; where it has none, at its end.
pub fn framed(html: &str) -> String {
    let mut emitter = DefaultEmitter::<usize>::new_with_span();
    emitter.naively_switch_states(true);
    let head = Tokenizer::new_with_emitter(html, emitter).find_map(|token| match token {
        Ok(Token::StartTag(tag)) if *tag.name == b"head"[..] => Some(tag.span.end),
        _ => None,
    });
    let at = head.unwrap_or(html.len());
    format!("{}<script>\n{SCRIPT}</script>{}", &html[..at], &html[at..])
}
