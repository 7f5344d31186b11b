//! The blocks of a template, as they stand in the file.

use minijinja::machinery::{Token, tokenize};

use crate::source::Span;

/// A block of a template.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Block {
    pub name: String,
    /// What stands between its tags.
    pub inner: Span,
    /// All of it, tags included.
    pub whole: Span,
}

impl Block {
    /// The tag that opens it.
    pub fn tag(&self) -> Span {
        Span { end: self.inner.start, ..self.whole }
    }
}

/// The blocks of a template, in the order in which they end. As far as its tags can be told apart.
pub(super) fn blocks(text: &str) -> Vec<Block> {
    let mut found = Vec::new();
    let mut open: Vec<(String, usize, usize)> = Vec::new();
    // The words of the tag at hand, and where it begins.
    let mut tag: Option<(usize, Vec<String>)> = None;
    for token in tokenize(text, false, Default::default()) {
        let Ok((token, span)) = token else { break };
        match token {
            Token::BlockStart => tag = Some((span.start_offset as usize, Vec::new())),
            Token::Ident(word) => {
                if let Some((_, words)) = tag.as_mut().filter(|(_, words)| words.len() < 2) {
                    words.push(word.to_string());
                }
            }
            Token::BlockEnd => {
                let (Some((start, words)), end) = (tag.take(), span.end_offset as usize) else { continue };
                match words.first().map(String::as_str) {
                    Some("block") => open.push((words.get(1).cloned().unwrap_or_default(), start, end)),
                    Some("endblock") => {
                        if let Some((name, whole, inner)) = open.pop() {
                            found.push(Block { name, inner: Span::new(inner, start), whole: Span::new(whole, end) });
                        }
                    }
                    _ => {}
                }
            }
            _ => {}
        }
    }
    found
}

/// The names of a template's blocks, in the order in which they begin.
pub fn block_names(text: &str) -> Vec<String> {
    let mut found = blocks(text);
    found.sort_by_key(|block| block.whole);
    found.into_iter().map(|block| block.name).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn blocks_know_what_they_hold() {
        let text = "{% block a %}x{% block b %}y{% endblock b %}{%- endblock %}{% raw %}{% block c %}{% endraw %}";
        let found: Vec<(String, &str)> =
            blocks(text).into_iter().map(|block| (block.name, &text[block.inner.range()])).collect();
        assert_eq!(found, [("b".to_string(), "y"), ("a".to_string(), "x{% block b %}y{% endblock b %}")]);
    }
}
