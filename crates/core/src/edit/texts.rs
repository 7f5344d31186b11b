//! Texts as TOML writes them.

/// A string as TOML writes it. Markup is read more easily without strokes before its quotes.
pub fn string(text: &str) -> String {
    match text.contains(['"', '\\']) && !text.chars().any(|c| c == '\'' || c.is_control()) {
        true => format!("'{text}'"),
        false => quoted(text),
    }
}

/// A string as TOML writes it.
pub fn quoted(text: &str) -> String {
    let mut quoted = String::from("\"");
    for c in text.chars() {
        match c {
            '"' => quoted.push_str("\\\""),
            '\\' => quoted.push_str("\\\\"),
            '\n' => quoted.push_str("\\n"),
            '\t' => quoted.push_str("\\t"),
            c if c.is_control() => quoted.push_str(&format!("\\u{:04X}", u32::from(c))),
            c => quoted.push(c),
        }
    }
    quoted.push('"');
    quoted
}
