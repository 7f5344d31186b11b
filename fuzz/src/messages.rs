//! Any bytes as what other processes say: an editor, a worker, a command of before; and as the words of a command.

/// Reads bytes as that.
pub fn read(target: &str, bytes: &[u8]) {
    match target {
        "frames" => drop(truehook_lsp::read_any(bytes)),
        "journal" => journal(bytes),
        "shell" => shell(bytes),
        "answer" => drop(truehook_stage::workers::read_any(bytes)),
        _ => panic!("there is no target {target}"),
    }
}

/// A journal, cut short and whole.
fn journal(bytes: &[u8]) {
    let theme = "/there/is/no/theme".into();
    for text in [bytes.to_vec(), [bytes, b"\nall\n"].concat()] {
        truehook_core::edit::readable_journal(&text, theme);
    }
}

/// The words of a command, parted by NUL: splitting its line as a shell does gives them back.
fn shell(bytes: &[u8]) {
    let Ok(text) = std::str::from_utf8(bytes) else { return };
    let words: Vec<String> = text.split('\0').map(String::from).collect();
    let line = truehook_core::shell::line(words.clone());
    let split = shell_words::split(&line).expect("it is a line of a shell");
    assert_eq!(split[1..], words[..], "{line}");
}
