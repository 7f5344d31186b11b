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
