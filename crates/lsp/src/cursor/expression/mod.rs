//! What is being typed in an expression: of a template, a condition or a module. The text need not parse.

#[cfg(test)]
mod tests;

use std::collections::BTreeMap;

use truehook_core::source::Span;

/// Whose expression it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Language {
    /// Within `{{ }}` or `{% %}`.
    Template,
    /// The text of a `when`.
    Condition,
    /// ECMAScript.
    Module,
}

/// What is being typed.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Typed {
    /// A text in quotes: what there is of it so far, and what stands within its quotes altogether.
    pub string: Option<(Span, Span)>,
    /// A name, or the place where one could begin.
    pub word: Span,
    /// The names before it, with dots: `page` of `page.ti`.
    pub path: Vec<String>,
    /// The innermost call that it is an argument of.
    pub call: Option<Call>,
    /// The innermost table in braces: the key at hand, and the texts it holds by key.
    pub braces: Option<(Option<String>, BTreeMap<String, String>)>,
    /// What stands right before it.
    pub after: After,
}

/// What stands right before what is being typed.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum After {
    /// Nothing of note.
    #[default]
    Nothing,
    /// `|`
    Pipe,
    /// `is`, or `is not`
    Is,
    /// `==` or `!=` behind a name with its dots.
    Compared(Vec<String>),
    /// A word of a tag or statement: `extends`, `import`, `from`, `block`.
    Word(String),
}

/// A call whose bracket is open.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Call {
    /// What is called.
    pub name: String,
    /// Which argument it is, from 0.
    pub index: usize,
    /// The first argument, where it is a text.
    pub first: Option<String>,
    /// The names of arguments that are given already.
    pub given: Vec<String>,
    /// The name of the argument at hand.
    pub key: Option<String>,
}

enum Frame {
    Call(Call),
    Group,
    Braces(Option<String>, BTreeMap<String, String>),
    /// `${` in a text between backquotes.
    Quasi,
}

/// Words that lead on to something else.
const LEADING: [&str; 12] =
    ["extends", "include", "import", "from", "block", "return", "and", "or", "not", "in", "if", "elif"];

/// How many names with dots, and how many open brackets, are kept.
const DEEPEST: usize = 1000;

struct Reader<'t> {
    text: &'t str,
    offset: usize,
    at: usize,
    language: Language,
    frames: Vec<Frame>,
    /// Names with dots that were read last.
    chain: Vec<String>,
    dot: bool,
    after: After,
}

/// What is being typed at a byte, where the expression begins at another.
pub fn typed(text: &str, begin: usize, offset: usize, language: Language) -> Typed {
    let reader = Reader {
        text,
        offset,
        at: begin,
        language,
        frames: Vec::new(),
        chain: Vec::new(),
        dot: false,
        after: After::Nothing,
    };
    reader.read()
}

fn is_name(letter: char) -> bool {
    letter.is_alphanumeric() || letter == '_' || letter == '$'
}

impl Reader<'_> {
    fn read(mut self) -> Typed {
        while self.at < self.offset {
            let Some(letter) = self.text[self.at..].chars().next() else { break };
            let next = self.text[self.at + letter.len_utf8()..].chars().next();
            match letter {
                '"' | '\'' => {
                    if let Some(found) = self.string(letter) {
                        return found;
                    }
                }
                '`' if self.language == Language::Module => {
                    self.at += 1;
                    if self.quasi() {
                        return self.nothing();
                    }
                }
                '/' if self.language == Language::Module && matches!(next, Some('/' | '*')) => {
                    let end = if next == Some('/') { "\n" } else { "*/" };
                    let rest = &self.text[self.at + 2..];
                    let to = rest.find(end).map_or(self.text.len(), |at| self.at + 2 + at + end.len());
                    if to > self.offset || to == self.offset && end == "\n" && !self.text[..to].ends_with('\n') {
                        return self.nothing();
                    }
                    self.at = to;
                }
                letter if is_name(letter) => {
                    if let Some(found) = self.name() {
                        return found;
                    }
                }
                letter if letter.is_whitespace() => {
                    self.at += letter.len_utf8();
                    self.dot = self.dot && letter != '\n';
                }
                letter => self.sign(letter, next),
            }
        }
        let word = Span::new(self.offset, self.offset);
        let path = if self.dot { self.chain.clone() } else { Vec::new() };
        self.found(None, word, path)
    }

    fn nothing(&self) -> Typed {
        let here = Span::new(self.offset, self.offset);
        Typed { word: here, string: Some((here, here)), ..Typed::default() }
    }

    fn found(&self, string: Option<(Span, Span)>, word: Span, path: Vec<String>) -> Typed {
        let call = self.frames.iter().rev().find_map(|frame| match frame {
            Frame::Call(call) => Some(Some(call.clone())),
            Frame::Quasi => Some(None),
            _ => None,
        });
        let braces = self.frames.iter().rev().find_map(|frame| match frame {
            Frame::Braces(key, known) => Some(Some((key.clone(), known.clone()))),
            Frame::Call(_) | Frame::Quasi => Some(None),
            Frame::Group => None,
        });
        Typed { string, word, path, call: call.flatten(), braces: braces.flatten(), after: self.after.clone() }
    }

    /// A text in quotes, which ends with its line at the latest; what is found where the cursor is in it.
    fn string(&mut self, quote: char) -> Option<Typed> {
        let start = self.at + 1;
        let mut escaped = false;
        let mut end = self.text.len();
        let mut closed = false;
        for (at, letter) in self.text[start..].char_indices() {
            match letter {
                '\n' => {
                    end = start + at;
                    break;
                }
                _ if escaped => escaped = false,
                '\\' => escaped = true,
                letter if letter == quote => {
                    end = start + at;
                    closed = true;
                    break;
                }
                _ => {}
            }
        }
        if self.offset <= end {
            let whole = Span::new(start, if closed { end } else { self.offset });
            return Some(self.found(Some((Span::new(start, self.offset), whole)), whole, Vec::new()));
        }
        let content = &self.text[start..end];
        match self.frames.last_mut() {
            Some(Frame::Call(call)) if call.index == 0 && call.first.is_none() && call.key.is_none() => {
                call.first = Some(content.to_string());
            }
            Some(Frame::Braces(key, known)) => match key {
                Some(key) => drop(known.insert(key.clone(), content.to_string())),
                None => self.chain = vec![content.to_string()],
            },
            _ => {}
        }
        self.at = end + usize::from(closed);
        self.after = After::Nothing;
        self.dot = false;
        None
    }

    /// The rest of a text between backquotes. Answers whether the cursor is in it.
    fn quasi(&mut self) -> bool {
        let mut escaped = false;
        let begin = self.at;
        for (at, letter) in self.text[begin..].char_indices() {
            let here = begin + at;
            if here >= self.offset {
                return true;
            }
            match letter {
                _ if escaped => escaped = false,
                '\\' => escaped = true,
                '`' => {
                    self.at = here + 1;
                    return false;
                }
                '$' if self.text[here..].starts_with("${") => {
                    self.at = here + 2;
                    self.frames.push(Frame::Quasi);
                    return self.offset < here + 2;
                }
                _ => {}
            }
        }
        true
    }

    /// A name; what is found where the cursor is right behind it.
    fn name(&mut self) -> Option<Typed> {
        let start = self.at;
        let rest = &self.text[start..];
        let end = start + rest.find(|letter: char| !is_name(letter)).unwrap_or(rest.len());
        if end >= self.offset {
            let path = if self.dot { self.chain.clone() } else { Vec::new() };
            return Some(self.found(None, Span::new(start, self.offset), path));
        }
        let word = &self.text[start..end];
        if !self.dot {
            self.chain.clear();
        }
        self.after = match word {
            _ if self.dot => After::Nothing,
            "is" => After::Is,
            "not" if self.after == After::Is => After::Is,
            word if LEADING.contains(&word) => After::Word(word.to_string()),
            _ => After::Nothing,
        };
        // Nobody reads a property of that many; what is known of the first ones is no help then.
        if self.chain.len() < DEEPEST {
            self.chain.push(word.to_string());
        }
        self.dot = false;
        self.at = end;
        None
    }

    fn bracket(&mut self, letter: char, chain: &[String]) {
        if self.frames.len() >= DEEPEST && matches!(letter, '(' | '[' | '{') {
            return;
        }
        match letter {
            '(' => {
                let name = chain.last().cloned().unwrap_or_default();
                self.frames.push(Frame::Call(Call { name, ..Call::default() }));
            }
            '[' => self.frames.push(Frame::Group),
            '{' => self.frames.push(Frame::Braces(None, BTreeMap::new())),
            ')' | ']' => drop(self.frames.pop()),
            '}' => {
                let held = self.frames.pop();
                if matches!(held, Some(Frame::Quasi)) && self.quasi() {
                    // The cursor is in the text: nothing is typed there.
                    self.at = self.offset;
                    self.frames.push(Frame::Quasi);
                }
            }
            _ => {}
        }
    }

    fn sign(&mut self, letter: char, next: Option<char>) {
        self.at += letter.len_utf8();
        let after = std::mem::take(&mut self.after);
        match letter {
            '.' => {
                self.dot = true;
                return;
            }
            // `a?.b` reads a property like `a.b`.
            '?' if next == Some('.') => return,
            _ => {}
        }
        self.dot = false;
        let chain = match after {
            After::Word(_) => Vec::new(),
            _ => std::mem::take(&mut self.chain),
        };
        match letter {
            '(' | '[' | '{' | ')' | ']' | '}' => self.bracket(letter, &chain),
            ',' => match self.frames.last_mut() {
                Some(Frame::Call(call)) => {
                    call.index += 1;
                    call.key = None;
                }
                Some(Frame::Braces(key, _)) => *key = None,
                _ => {}
            },
            ':' => {
                if let (Some(Frame::Braces(key, _)), Some(name)) = (self.frames.last_mut(), chain.last()) {
                    *key = Some(name.clone());
                }
            }
            '=' | '!' if next == Some('=') => {
                self.at += 1;
                if self.text[self.at..].starts_with('=') {
                    self.at += 1;
                }
                self.after = After::Compared(chain);
            }
            '=' => {
                if let (Some(Frame::Call(call)), Some(name), Language::Template) =
                    (self.frames.last_mut(), chain.last(), self.language)
                {
                    call.given.push(name.clone());
                    call.key = Some(name.clone());
                }
            }
            '|' if self.language == Language::Template => self.after = After::Pipe,
            _ => {}
        }
        self.chain.clear();
    }
}

/// A tag of a template that is open at a byte.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Tag {
    /// `{{`: what is behind it.
    Print(usize),
    /// `{%`: what is behind it.
    Block(usize),
    /// `{#`
    Comment,
}

/// The tag of a template that is open at a byte; nothing in its HTML.
pub fn tag(text: &str, offset: usize) -> Option<Tag> {
    let before = &text[..offset];
    let open = ["{{", "{%", "{#"].iter().filter_map(|sign| before.rfind(sign)).max()?;
    let close = ["}}", "%}", "#}"].iter().filter_map(|sign| before.rfind(sign)).max();
    if close.is_some_and(|close| close > open) {
        return None;
    }
    let inner = open + 2 + usize::from(text[open + 2..].starts_with(['-', '+']));
    let inner = inner.min(offset);
    Some(match &text[open..open + 2] {
        "{{" => Tag::Print(inner),
        "{%" => Tag::Block(inner),
        _ => Tag::Comment,
    })
}
