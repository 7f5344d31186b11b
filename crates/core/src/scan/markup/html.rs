//! The HTML of a template, apart from its tags.

/// The template's HTML alone: every tag of the template language gives way to filler of the same
/// length (`x` for what is printed, blanks for the rest), so that places stay as they are. Nothing
/// where the template's tags can't be told apart.
pub fn html_alone(text: &str) -> Option<String> {
    use minijinja::machinery::{Token, tokenize};
    let mut masked = vec![b' '; text.len()];
    let mut printing = None;
    for token in tokenize(text, false, Default::default()) {
        let (token, span) = token.ok()?;
        let range = span.start_offset as usize..span.end_offset as usize;
        match token {
            Token::TemplateData(_) => masked.get_mut(range.clone())?.copy_from_slice(text.as_bytes().get(range)?),
            Token::VariableStart => printing = Some(range.start),
            Token::VariableEnd => masked.get_mut(printing.take()?..range.end)?.fill(b'x'),
            _ => {}
        }
    }
    String::from_utf8(masked).ok()
}

/// What is unbalanced in a piece of HTML: an element that is not closed, or an end tag too many.
pub fn unbalanced(html: &str) -> Option<String> {
    use html5gum::emitters::default::DefaultEmitter;
    use html5gum::{Token, Tokenizer};
    const VOID: [&[u8]; 13] = [
        b"area", b"base", b"br", b"col", b"embed", b"hr", b"img", b"input", b"link", b"meta", b"source", b"track",
        b"wbr",
    ];
    let shown = |name: &[u8]| String::from_utf8_lossy(name).into_owned();
    let mut open: Vec<Vec<u8>> = Vec::new();
    for token in Tokenizer::new_with_emitter(html, DefaultEmitter::<usize>::new_with_span()) {
        let Ok(token) = token;
        match token {
            Token::StartTag(tag) if !tag.self_closing && !VOID.contains(&tag.name.as_slice()) => {
                open.push(tag.name.to_vec());
            }
            Token::EndTag(tag) if open.pop().is_none_or(|name| name != tag.name.as_slice()) => {
                return Some(format!("</{}> closes nothing that is open there", shown(&tag.name)));
            }
            _ => {}
        }
    }
    open.pop().map(|name| format!("<{}> is not closed", shown(&name)))
}

/// A piece of a template: what stands outside its tags and comments, or where it prints something.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Piece<'t> {
    /// Text as it is printed.
    Text(&'t str),
    /// From a `{{` to its `}}`.
    Printed(std::ops::Range<usize>),
}

/// What a template prints, piece by piece. As far as its tags can be told apart.
pub fn pieces(text: &str) -> Vec<Piece<'_>> {
    use minijinja::machinery::{Token, tokenize};
    let mut found = Vec::new();
    let mut open = None;
    for token in tokenize(text, false, Default::default()) {
        let Ok((token, span)) = token else { break };
        let (start, end) = (span.start_offset as usize, span.end_offset as usize);
        match token {
            Token::TemplateData(data) => found.push(Piece::Text(data)),
            Token::VariableStart => open = Some(start),
            Token::VariableEnd => found.extend(open.take().map(|start| Piece::Printed(start..end))),
            _ => {}
        }
    }
    found
}
