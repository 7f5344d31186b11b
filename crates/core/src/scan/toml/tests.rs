//! Texts are read as the library reads them.

use proptest::prelude::*;

use super::build::build;
use super::tree::{Entries, Tree, Value};

/// A value with all that is known of it, to be compared.
fn told(value: &Value<'_>) -> String {
    match value {
        Value::String(text) => format!("{text:?}"),
        Value::Integer(digits, radix) => format!("{digits} of {radix}"),
        Value::Float(digits) => format!("float {digits}"),
        Value::Boolean(truth) => truth.to_string(),
        Value::Datetime(date) => date.to_string(),
        Value::Array(items, _) => {
            items.iter().map(|node| format!("{:?} {}, ", node.span(), told(node.get_ref()))).collect()
        }
        Value::Table(table) => format!("{{{}}}", all(table)),
    }
}

fn all(table: &Entries<'_>) -> String {
    table
        .iter()
        .map(|(key, span, node)| format!("{key:?} {span:?} {:?} {}; ", node.span(), told(node.get_ref())))
        .collect()
}

/// Is a text read as the library reads it? Where it finds nothing wrong, nothing is to be left to it.
fn agrees(text: &str) -> Result<(), TestCaseError> {
    let library = Tree::recovered(text);
    match build(text) {
        Some(root) => {
            prop_assert!(library.error.is_none(), "{text}\nis not TOML: {:?}", library.error);
            prop_assert_eq!(all(&root), all(&library.root), "{}", text);
        }
        None => prop_assert!(library.error.is_some(), "{text}\nis TOML"),
    }
    Ok(())
}

#[test]
fn texts_are_read_as_the_library_reads_them() {
    let deep = |open: &str, close: &str, times| format!("a = {}1{}", open.repeat(times), close.repeat(times));
    let many: String = (0..60).map(|at| format!("[h.n{at}]\nx = {at}\n")).collect();
    for text in [
        "",
        "a = 1",
        "a.b.c = 1\na.b.d = 2",
        "a.b = 1\na = 2",
        "a = 1\na.b = 2",
        "[a]\nb = 1\n[a]\nc = 1",
        "[a.b]\nx = 1\n[a]\ny = 2",
        "[a]\n[a.b]\n[a.c]",
        "[[a]]\nx = 1\n[[a]]\n[a.b]\ny = 1\n[[a.c]]",
        "[a]\n[[a]]",
        "[[a]]\n[a]",
        "a = []\n[[a]]",
        "a = { b = 1, c.d = 2, c.e = 3 }\n",
        "a = { b = 1 }\na.c = 2",
        "a = { b = 1 }\n[a.c]",
        "a = { b.c = 1, b = 2 }",
        "a = { b = {}, b.c = 1 }",
        "[a]\nb.c = 1\n[a.b]\nd = 1",
        "[a.b.c]\n[a]\nb.d = 1",
        "a.b = 1\n[a.c]\nd = 1",
        "[a]\nb.c = 1\n[a.b.d]\ne = 1",
        "\"a b\".'c' = \"\"\"\nx\"\"\"",
        "a = 0x_1",
        "a = 0xff\nb = 0o17\nc = 1_000\nd = 1e3\ne = -inf",
        "a = 1979-05-27T07:32:00Z\nb = 1979-13-01",
        "a = [1, [2, {b = 3}],\n# c\n4]",
        "a = {\n b = 1,\n}",
        "= 1",
        "a =",
        "[a",
        "[]",
        "a = \"\\q\"",
        "\u{feff}a = 1",
        "a = 1 b = 2",
        "a = 'x\ny'",
        "\r\na = 1\r\n",
        "a\t=\t1",
        "a..b = 1",
        "[a.b]\n[a.b.c]\n[a.b]",
        "[ a . b ]\nc = 1",
        &deep("[", "]", 79),
        &deep("[", "]", 90),
        &deep("{a=", "}", 85),
        &many,
        &format!("{many}[h.n3]\n"),
    ] {
        agrees(text).unwrap();
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(3000))]

    #[test]
    fn so_are_any_lines_of_it(lines in prop::collection::vec(
        prop_oneof![
            ("[ab]|[ab]\\.[ab]|[ab]\\.[ab]\\.[ab]").prop_map(|key| format!("[{key}]")),
            ("[ab]|[ab]\\.[ab]").prop_map(|key| format!("[[{key}]]")),
            ("[abc]|[abc]\\.[abc]|\"[a ]\"\\.[bc]", "1|\"x\"|\\[1, 2\\]|\\{\\}|\\{ a = 1, b\\.c = 2 \\}|\\{ a\\.b = 1, a\\.c = \\{\\} \\}|'''\n'''|1\\.5|true|\\[\\{ a = 1 \\}\\]")
                .prop_map(|(key, value)| format!("{key} = {value}")),
            "[a=\\[\\]{}\".# ]{0,6}".prop_map(|line| line),
        ],
        0..8,
    )) {
        agrees(&lines.join("\n"))?;
    }
}
