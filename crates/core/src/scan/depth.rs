//! How deeply a text is nested, found out before anything that calls itself reads it: brackets in brackets, but also
//! chains of operators and of `else if`, which parsers turn into trees as deep. It is counted over the words of a
//! language, without a stack of its own.

use minijinja::machinery::{Token, tokenize};

/// How deep is too deep. A bracket counts once, so does an operator; a level of JSON-like data, with its bracket and
/// its colon, counts twice. All stacks on which texts are read have room for that.
pub const DEEPEST: usize = 2000;

/// What a text that is too deep is told to be.
pub fn message(what: &str) -> String {
    format!("{what} is nested more than {} deep", DEEPEST / 2)
}

/// Levels that are open, each with the operators that stand in a row at it.
struct Levels {
    open: Vec<(u8, usize)>,
    depth: usize,
}

impl Levels {
    fn new() -> Levels {
        Levels { open: vec![(0, 0)], depth: 0 }
    }

    /// A bracket, with what will close it. Is it too deep now?
    fn open(&mut self, closes: u8) -> bool {
        self.open.push((closes, 0));
        self.depth += 1;
        self.depth > DEEPEST
    }

    /// What a closing bracket closes; nothing where none is open.
    fn close(&mut self) -> Option<u8> {
        if self.open.len() == 1 {
            return None;
        }
        let (closes, chain) = self.open.pop()?;
        self.depth -= 1 + chain;
        Some(closes)
    }

    fn operator(&mut self) -> bool {
        if let Some((_, chain)) = self.open.last_mut() {
            *chain += 1;
            self.depth += 1;
        }
        self.depth > DEEPEST
    }

    /// What follows belongs to another expression.
    fn end(&mut self) {
        if let Some((_, chain)) = self.open.last_mut() {
            self.depth -= std::mem::take(chain);
        }
    }
}

/// Words that take what follows them into themselves.
const TAKING: [&str; 17] = [
    "if",
    "else",
    "for",
    "while",
    "do",
    "with",
    "new",
    "typeof",
    "void",
    "delete",
    "await",
    "yield",
    "in",
    "instanceof",
    "extends",
    "async",
    "throw",
];

/// What came before, as far as it tells what a sign means.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Before {
    /// An operator, an opening bracket, or nothing: an expression begins.
    Opening,
    /// A closing brace.
    Brace,
    /// A name, a value, another closing bracket: an expression may end.
    Value,
}

/// Where an ECMAScript text gets too deep, in bytes.
pub fn code(text: &str) -> Option<usize> {
    if text.len() < DEEPEST {
        return None;
    }
    let mut reader = Reader { text, at: 0, levels: Levels::new(), before: Before::Opening, line: false };
    while reader.at < text.len() {
        let start = reader.at;
        if reader.word_or_sign() {
            return Some(start);
        }
    }
    None
}

/// Reads a text of code, word by word.
struct Reader<'t> {
    text: &'t str,
    at: usize,
    levels: Levels,
    before: Before,
    /// Has another line begun since the last word?
    line: bool,
}

impl Reader<'_> {
    /// Reads one of them. Is it too deep now?
    fn word_or_sign(&mut self) -> bool {
        let bytes = self.text.as_bytes();
        let (start, byte) = (self.at, bytes[self.at]);
        self.at += 1;
        match byte {
            b'\n' => self.line = true,
            _ if byte.is_ascii_whitespace() => {}
            b'/' if bytes.get(self.at) == Some(&b'/') => self.at = find(bytes, self.at, |rest| rest[0] == b'\n'),
            b'/' if bytes.get(self.at) == Some(&b'*') => {
                self.at = find(bytes, self.at + 1, |rest| rest.starts_with(b"*/")) + 2;
            }
            b'"' | b'\'' => {
                self.value();
                self.at = string(bytes, self.at, byte);
            }
            b'`' => {
                self.value();
                return self.template_text();
            }
            b'/' if self.before == Before::Opening => {
                self.value();
                self.at = regular(bytes, self.at);
            }
            b'(' | b'[' | b'{' => {
                // What is called, or looked into, is inside of that.
                let called = self.before == Before::Value && byte != b'{' && self.levels.operator();
                (self.before, self.line) = (Before::Opening, false);
                return called || self.levels.open(byte);
            }
            b')' | b']' | b'}' => {
                let closed = self.levels.close();
                (self.before, self.line) = (if byte == b'}' { Before::Brace } else { Before::Value }, false);
                return closed == Some(b'`') && self.template_text();
            }
            b';' | b',' => {
                self.levels.end();
                (self.before, self.line) = (Before::Opening, false);
            }
            _ if byte.is_ascii_alphanumeric() || b"_$#@\\".contains(&byte) || byte >= 0x80 => return self.word(start),
            _ => return self.sign(byte),
        }
        false
    }

    /// A value: in another line, or right behind a block, it begins another statement.
    fn value(&mut self) {
        if self.before == Before::Brace || self.line && self.before == Before::Value {
            self.levels.end();
        }
        (self.before, self.line) = (Before::Value, false);
    }

    /// The text of a template literal, up to its end or an expression in it.
    fn template_text(&mut self) -> bool {
        let open;
        (self.at, open) = template_text(self.text.as_bytes(), self.at);
        (self.before, self.line) = (if open { Before::Opening } else { Before::Value }, false);
        open && self.levels.open(b'`')
    }

    fn word(&mut self, start: usize) -> bool {
        let word = |byte: u8| byte.is_ascii_alphanumeric() || b"_$\\".contains(&byte) || byte >= 0x80;
        self.at = find(self.text.as_bytes(), self.at, |rest| !word(rest[0]));
        let word = &self.text[start..self.at];
        // These go on with what stands before them.
        if ["else", "in", "instanceof", "extends"].contains(&word) {
            self.before = Before::Opening;
        }
        self.value();
        let taking = TAKING.contains(&word);
        if taking || matches!(word, "return" | "case" | "of") {
            self.before = Before::Opening;
        }
        taking && self.levels.operator()
    }

    /// Signs that stand together are one operator, but for those that may stand before a value.
    fn sign(&mut self, byte: u8) -> bool {
        let sign = |byte: u8| b"=<>&|?*%^/.:".contains(&byte);
        if sign(byte) {
            let ends = |rest: &[u8]| !sign(rest[0]) || rest.starts_with(b"//") || rest.starts_with(b"/*");
            self.at = find(self.text.as_bytes(), self.at, ends);
        }
        (self.before, self.line) = (Before::Opening, false);
        self.levels.operator()
    }
}

/// The first place from there where something holds, or the end.
fn find(bytes: &[u8], from: usize, holds: impl Fn(&[u8]) -> bool) -> usize {
    (from..bytes.len()).find(|at| holds(&bytes[*at..])).unwrap_or(bytes.len())
}

/// Behind the end of a string.
fn string(bytes: &[u8], mut at: usize, quote: u8) -> usize {
    while let Some(&byte) = bytes.get(at) {
        at += 1;
        match byte {
            b'\\' => at += 1,
            b'\n' => break,
            _ if byte == quote => break,
            _ => {}
        }
    }
    at
}

/// Behind the end of a regular expression.
fn regular(bytes: &[u8], mut at: usize) -> usize {
    let mut class = false;
    while let Some(&byte) = bytes.get(at) {
        at += 1;
        match byte {
            b'\\' => at += 1,
            b'[' => class = true,
            b']' => class = false,
            b'\n' => break,
            b'/' if !class => break,
            _ => {}
        }
    }
    at
}

/// Behind the text of a template literal, and whether an expression begins there.
fn template_text(bytes: &[u8], mut at: usize) -> (usize, bool) {
    while let Some(&byte) = bytes.get(at) {
        at += 1;
        match byte {
            b'\\' => at += 1,
            b'`' => return (at, false),
            b'$' if bytes.get(at) == Some(&b'{') => return (at + 1, true),
            _ => {}
        }
    }
    (at, false)
}

/// Where a template gets too deep.
pub fn template(text: &str) -> Option<usize> {
    if text.len() < DEEPEST { None } else { tokens(text, false) }
}

/// Where an expression of templates, as a condition is one, gets too deep.
pub fn expression(text: &str) -> Option<usize> {
    if text.len() < DEEPEST { None } else { tokens(text, true) }
}

fn tokens(text: &str, inside: bool) -> Option<usize> {
    let mut levels = Levels::new();
    // The questions that are open, each with its further ones.
    let mut asked: Vec<usize> = Vec::new();
    let mut first = inside;
    for token in tokenize(text, inside, Default::default()) {
        let Ok((token, span)) = token else { break };
        let begins = std::mem::replace(&mut first, matches!(token, Token::BlockStart));
        let deep = match token {
            Token::TemplateData(_) | Token::Comma => {
                levels.end();
                false
            }
            Token::VariableStart | Token::VariableEnd | Token::BlockStart | Token::BlockEnd => {
                levels = Levels::new();
                false
            }
            Token::Ident("if") if begins => {
                asked.push(0);
                false
            }
            Token::Ident("elif") if begins => asked.last_mut().is_some_and(|further| {
                *further += 1;
                *further > DEEPEST / 2
            }),
            Token::Ident("endif") if begins => {
                asked.pop();
                false
            }
            Token::Ident("and" | "or" | "not" | "if" | "else" | "is" | "in") => levels.operator(),
            Token::Ident(_) | Token::Str(_) | Token::String(_) | Token::Int(_) | Token::Int128(_) | Token::Float(_) => {
                false
            }
            Token::ParenOpen | Token::BracketOpen | Token::BraceOpen => levels.open(1),
            Token::ParenClose | Token::BracketClose | Token::BraceClose => {
                levels.close();
                // What is called, or looked into, is inside of that.
                levels.operator()
            }
            _ => levels.operator(),
        };
        if deep {
            return Some(span.start_offset as usize);
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_long_is_not_deep() {
        for fine in [
            "a = 1\n",
            "a = b + c;\n",
            "f(a, b + 1, (c))\n",
            "if (a) { b() } else { c() }\n",
            "if(a){b()}",
            "x.y.z()\n",
            "let a = { b: { c: [1, 2] } };",
            "const f = (a) => a ? b : c\n",
            "case 1: return a / b / c;",
            "`a ${b} c`;",
            "/[(]{/.test(a);",
            "// ((((\n",
            "/* [[[[ */",
            "\"((((\" + '[[['\n",
            "export function f() { return 1 }\n",
            "for (const a of b) c(a)\n",
            "\"long\" +\n  \"text\",\n",
            "class A { b() {} c = 1 }\n",
            "a ? b : c,",
            "\u{e9}\u{e4} = 1\n",
        ] {
            assert_eq!(code(&fine.repeat(5000)), None, "{fine}");
        }
        for fine in [
            "{{ a | b(c) }}",
            "{% if a %}b{% elif c %}d{% endif %}",
            "{{ a.b.c + 1 }} text (((( ",
            "{% for a in b %}{{ a }}{% endfor %}",
            "{# (((( #}",
        ] {
            assert_eq!(template(&fine.repeat(5000)), None, "{fine}");
        }
    }

    #[test]
    fn whatever_nests_is_deep() {
        for part in [
            "(",
            "[",
            "{",
            "[[{a:",
            "x?1:",
            "if(x){}else ",
            "1+",
            "!",
            "a.b",
            ".b",
            "a(1).",
            "()=>",
            "`${",
            "x=",
            "x||",
            "2**",
            "new ",
            "class{static x=",
            "typeof ",
            "-",
            "a ?? ",
            "if (a) ",
            "for (;;) ",
            "{a:",
            "\"x\" +\n",
            "a &&\n",
            "a(1)(2)",
            "a[0][1]",
        ] {
            let text = part.repeat(3000);
            let at = code(&text);
            assert!(at.is_some_and(|at| at <= text.len() && text.is_char_boundary(at)), "{part}: {at:?}");
        }
        for part in ["(", "[", "not ", "-", "1+", "a and ", "1 if 1 else ", "1~", "a(1)", "a[0]", "a.b", "a|b", "{'a':"]
        {
            assert!(expression(&part.repeat(3000)).is_some(), "{part}");
            assert!(template(&format!("{{{{ {}", part.repeat(3000))).is_some(), "{part}");
        }
        assert!(template(&format!("{{% if a %}}{}", "{% elif b %}x".repeat(3000))).is_some());
    }
}
