//! Values of CSS, as far as a manifest holds them: what is certainly no colour, and no length. What only a
//! browser can know passes.

use cssparser::{ParseError, Parser, Token};

/// Units of length (CSS Values and Units 4, 6), beside which a percentage counts as one.
const UNITS: [&str; 50] = [
    "px", "cm", "mm", "q", "in", "pc", "pt", "em", "rem", "ex", "rex", "cap", "rcap", "ch", "rch", "ic", "ric", "lh",
    "rlh", "vw", "vh", "vi", "vb", "vmin", "vmax", "svw", "svh", "svi", "svb", "svmin", "svmax", "lvw", "lvh", "lvi",
    "lvb", "lvmin", "lvmax", "dvw", "dvh", "dvi", "dvb", "dvmin", "dvmax", "cqw", "cqh", "cqi", "cqb", "cqmin",
    "cqmax", "%",
];
/// Words that stand for a length: those of sizes of text (CSS Fonts 4, 2.5) and of widths (CSS Sizing 4).
const LENGTHS: [&str; 18] = [
    "xx-small",
    "x-small",
    "small",
    "medium",
    "large",
    "x-large",
    "xx-large",
    "xxx-large",
    "larger",
    "smaller",
    "auto",
    "none",
    "min-content",
    "max-content",
    "fit-content",
    "stretch",
    "contain",
    "math",
];
/// Colours that depend on where they are shown (CSS Color 4, 6.2, 9 and 10).
const COLOURS: [&str; 22] = [
    "transparent",
    "currentcolor",
    "accentcolor",
    "accentcolortext",
    "activetext",
    "buttonborder",
    "buttonface",
    "buttontext",
    "canvas",
    "canvastext",
    "field",
    "fieldtext",
    "graytext",
    "highlight",
    "highlighttext",
    "linktext",
    "mark",
    "marktext",
    "selecteditem",
    "selecteditemtext",
    "visitedtext",
    "activeborder",
];
/// Words that stand for a value of any property.
const WIDE: [&str; 5] = ["inherit", "initial", "unset", "revert", "revert-layer"];

/// Why a text is certainly no colour (CSS Color 5), if so.
///
/// ```
/// use truehook_core::css::colour_fault;
/// for good in ["#463a30", "tomato", "oklch(0.6 0.1 40)", "light-dark(#fff, var(--ink))"] {
///     assert_eq!(colour_fault(good), None);
/// }
/// for bad in ["#46x", "#12345", "tomatoe", "red blue", "rgb(1 2 3", "red;", "url(http://a/b)", "light-dark(red, image-set('x' 1x))"] {
///     assert!(colour_fault(bad).is_some(), "{bad}");
/// }
/// ```
pub fn colour_fault(text: &str) -> Option<String> {
    match only(text, "colour") {
        Err(why) => Some(why),
        Ok(Value::Function) => None,
        Ok(Value::Hash(digits)) => {
            let good = digits.chars().all(|digit| digit.is_ascii_hexdigit()) && matches!(digits.len(), 3 | 4 | 6 | 8);
            (!good).then(|| format!("`#{digits}` is no colour; it takes 3, 4, 6 or 8 hexadecimal digits"))
        }
        Ok(Value::Word(word)) => {
            let lower = word.to_ascii_lowercase();
            let known = COLOURS.contains(&lower.as_str())
                || WIDE.contains(&lower.as_str())
                || cssparser::color::parse_named_color(&lower).is_ok();
            (!known).then(|| format!("`{word}` is the name of no colour"))
        }
        Ok(Value::Length(_) | Value::Number(_)) => Some(format!("`{text}` is no colour")),
    }
}

/// Why a text is certainly no length (CSS Values and Units 4), if so.
///
/// ```
/// use truehook_core::css::length_fault;
/// for good in ["68ch", "1.25rem", "0", "100%", "clamp(1rem, 2vw, 3rem)", "min-content"] {
///     assert_eq!(length_fault(good), None);
/// }
/// for bad in ["0.9rme", "62 ch", "62", "wide", "calc(1rem", "1rem}"] {
///     assert!(length_fault(bad).is_some(), "{bad}");
/// }
/// ```
pub fn length_fault(text: &str) -> Option<String> {
    match only(text, "length") {
        Err(why) => Some(why),
        Ok(Value::Function) => None,
        Ok(Value::Length(unit)) => {
            let known = UNITS.contains(&unit.to_ascii_lowercase().as_str());
            (!known).then(|| format!("`{unit}` is no unit of length"))
        }
        Ok(Value::Number(zero)) => (!zero).then(|| format!("`{text}` lacks a unit, as in {text}rem")),
        Ok(Value::Word(word)) => {
            let lower = word.to_ascii_lowercase();
            let known = LENGTHS.contains(&lower.as_str()) || WIDE.contains(&lower.as_str());
            (!known).then(|| format!("`{word}` is no length"))
        }
        Ok(Value::Hash(_)) => Some(format!("`{text}` is no length")),
    }
}

/// The one value that a text is.
enum Value {
    Hash(String),
    Word(String),
    Length(String),
    /// A number without a unit; true where it is nought, which needs none.
    Number(bool),
    /// Something with brackets, of which only a browser knows what it gives.
    Function,
}

/// # Errors
/// Where it is none, or several, or could leave the declaration that it stands in.
fn only(text: &str, what: &str) -> Result<Value, String> {
    if let Some(sign) = text.chars().find(|sign| ";{}<>".contains(*sign)) {
        return Err(format!("`{sign}` can't stand in a value"));
    }
    if !is_balanced(text) {
        return Err(format!("the brackets of `{text}` don't match"));
    }
    let mut parser = Parser::new(text);
    let mut found = None;
    while let Ok(token) = parser.next().cloned() {
        let value = match token {
            Token::Hash(digits) | Token::IDHash(digits) => Value::Hash(digits.to_string()),
            Token::Ident(word) => Value::Word(word.to_string()),
            Token::Dimension { unit, .. } => Value::Length(unit.to_string()),
            Token::Percentage { .. } => Value::Length("%".into()),
            Token::Number { value, .. } => Value::Number(value == 0.0),
            Token::Function(name) => {
                if LOADING.iter().any(|known| name.eq_ignore_ascii_case(known)) || loads_within(&mut parser) {
                    return Err(format!("`{text}` loads a file, and a {what} doesn't"));
                }
                Value::Function
            }
            Token::UnquotedUrl(_) => return Err(format!("`{text}` loads a file, and a {what} doesn't")),
            _ => return Err(format!("`{text}` is no {what}")),
        };
        if found.is_some() {
            return Err(format!("`{text}` is more than one value, and one {what} belongs here"));
        }
        found = Some(value);
    }
    found.ok_or_else(|| format!("a {what} belongs here"))
}

/// Functions that load a file (CSS Values and Units 4, 4.5; CSS Images 4, 2).
const LOADING: [&str; 7] = ["url", "src", "image", "image-set", "-webkit-image-set", "cross-fade", "paint"];

/// Is a file named within the block that was just opened, however deep? No colour and no length has a text in quotes.
fn loads_within(parser: &mut Parser<'_>) -> bool {
    let mut loads = false;
    let _: Result<(), ParseError<()>> = parser.parse_nested_block(|inner| {
        while let Ok(token) = inner.next().cloned() {
            loads |= match token {
                Token::UnquotedUrl(_) | Token::QuotedString(_) | Token::BadUrl(_) | Token::BadString(_) => true,
                Token::Function(name) => {
                    LOADING.iter().any(|known| name.eq_ignore_ascii_case(known)) || loads_within(inner)
                }
                Token::ParenthesisBlock | Token::SquareBracketBlock | Token::CurlyBracketBlock => loads_within(inner),
                _ => false,
            };
        }
        Ok(())
    });
    loads
}

/// Does every bracket have its partner? Those in quotes are no brackets.
fn is_balanced(text: &str) -> bool {
    let mut open = Vec::new();
    let mut quote = None;
    for sign in text.chars() {
        match (sign, quote) {
            (sign, Some(end)) => quote = quote.filter(|_| sign != end),
            ('"' | '\'', None) => quote = Some(sign),
            ('(' | '[', None) => open.push(sign),
            (')', None) if open.pop() != Some('(') => return false,
            (']', None) if open.pop() != Some('[') => return false,
            _ => {}
        }
    }
    open.is_empty() && quote.is_none()
}
