//! Messages on standard input and output, framed as the protocol says (Language Server Protocol 3.17, Base Protocol).
//! What is no message is told, and the next one is read: nothing that comes in ends the server.

use std::io::{self, BufRead, Read};

use crossbeam_channel::{Receiver, Sender, unbounded};
use lsp_server::{Connection, Message, Notification};
use serde_json::{Value, json};

/// The largest message that is read, in bytes.
pub const LARGEST: u64 = 64 * 1024 * 1024;
/// The longest line of a header, in bytes.
const LONGEST_LINE: u64 = 4096;

/// What came in.
#[derive(Debug)]
pub enum Frame {
    /// A message.
    Message(Message),
    /// Something else, and why it can't be read.
    Unreadable(String),
}

/// A connection over standard input and output. Two threads read and write; the reading one ends with the input.
pub fn connect() -> Connection {
    let (sender, to_write) = unbounded();
    let (read, receiver) = unbounded();
    let answers = sender.clone();
    std::thread::spawn(move || read_all(&mut io::stdin().lock(), &read, &answers));
    std::thread::spawn(move || write_all(&to_write));
    Connection { sender, receiver }
}

fn read_all(from: &mut impl BufRead, read: &Sender<Message>, answers: &Sender<Message>) {
    while let Ok(Some(frame)) = next(from) {
        let sent = match frame {
            Frame::Message(message) => read.send(message).is_ok(),
            Frame::Unreadable(why) => answers.send(told(&why)).is_ok(),
        };
        if !sent {
            return;
        }
    }
}

fn write_all(messages: &Receiver<Message>) {
    for message in messages {
        // Where nobody reads any more, the server hears of it on the other side.
        if message.write(&mut io::stdout().lock()).is_err() {
            return;
        }
    }
}

/// What the editor is told of something that can't be read.
fn told(why: &str) -> Message {
    let params = json!({ "type": 1, "message": format!("truehook can't read what it was sent: {why}") });
    Message::Notification(Notification { method: "window/logMessage".into(), params })
}

/// The next thing that comes in; nothing at the end.
///
/// # Errors
/// Where the system refuses.
pub fn next(from: &mut impl BufRead) -> io::Result<Option<Frame>> {
    let mut length: Option<u64> = None;
    let mut garbage = false;
    loop {
        let mut line = Vec::new();
        if from.by_ref().take(LONGEST_LINE).read_until(b'\n', &mut line)? == 0 {
            return Ok(None);
        }
        let line = line.trim_ascii();
        let (name, value) = match line.iter().position(|byte| *byte == b':') {
            Some(at) => (&line[..at], line[at + 1..].trim_ascii()),
            None => (line, &b""[..]),
        };
        if name.eq_ignore_ascii_case(b"content-length") {
            length = std::str::from_utf8(value).ok().and_then(|value| value.parse().ok());
            garbage |= length.is_none();
        } else if line.is_empty() {
            match length {
                Some(length) => return content(from, length).map(Some),
                None if garbage => return Ok(Some(Frame::Unreadable("a header without its length".into()))),
                None => {}
            }
        } else {
            garbage |= !name.eq_ignore_ascii_case(b"content-type");
        }
    }
}

fn content(from: &mut impl BufRead, length: u64) -> io::Result<Frame> {
    if length > LARGEST {
        let skipped = io::copy(&mut from.by_ref().take(length), &mut io::sink())?;
        let whole = if skipped < length { ", and ended before that" } else { "" };
        let why = format!("a message of {length} bytes, where {LARGEST} are the most{whole}");
        return Ok(Frame::Unreadable(why));
    }
    // Memory is taken as bytes come, not as the header promises them.
    let mut bytes = Vec::new();
    from.by_ref().take(length).read_to_end(&mut bytes)?;
    if (bytes.len() as u64) < length {
        return Ok(Frame::Unreadable(format!("a message that ends after {} of {length} bytes", bytes.len())));
    }
    Ok(message(&bytes))
}

/// The message that some bytes are.
pub fn message(bytes: &[u8]) -> Frame {
    let text = String::from_utf8_lossy(bytes);
    let value = serde_json::from_str(&text).or_else(|error| match whole_characters(&text) {
        Some(text) => serde_json::from_str(&text),
        None => Err(error),
    });
    let value: Value = match value {
        Ok(value) => value,
        Err(error) => return Frame::Unreadable(format!("{error}")),
    };
    if !value.is_object() {
        return Frame::Unreadable("a message that is no JSON object".into());
    }
    let is_request = value.get("method").is_some() && value.get("id").is_some();
    match serde_json::from_value(value) {
        // A request whose number is none would look as if nobody waited for an answer.
        Ok(Message::Notification(told)) if is_request => {
            Frame::Unreadable(format!("a request `{}` whose id is neither a whole number nor a text", told.method))
        }
        Ok(message) => Frame::Message(message),
        Err(error) => Frame::Unreadable(format!("{error}")),
    }
}

/// JSON in which each half of a surrogate pair that stands by itself, written as an escape, is the replacement
/// character: as long as it was, in UTF-16. Nothing where there is none.
fn whole_characters(text: &str) -> Option<String> {
    let unit = |at: usize| -> Option<u16> {
        let digits = text.get(at..at + 6)?.strip_prefix("\\u")?;
        u16::from_str_radix(digits, 16).ok()
    };
    let mut whole = String::with_capacity(text.len());
    let (mut at, mut done) = (0, 0);
    while let Some(next) = text[at..].find('\\').map(|found| at + found) {
        at = match unit(next) {
            Some(0xd800..=0xdbff) if matches!(unit(next + 6), Some(0xdc00..=0xdfff)) => next + 12,
            Some(0xd800..=0xdfff) => {
                whole.push_str(&text[done..next]);
                whole.push_str("\\ufffd");
                done = next + 6;
                done
            }
            Some(_) => next + 6,
            // An escape of one character.
            None => next + 1 + text[next + 1..].chars().next().map_or(0, char::len_utf8),
        };
    }
    whole.push_str(&text[done..]);
    (done > 0).then_some(whole)
}

/// Bytes as they might come in, read to their end: for tests with any bytes. Answers how many messages there were.
pub fn read_any(bytes: &[u8]) -> usize {
    let mut from = bytes;
    let frames = std::iter::from_fn(|| next(&mut from).ok().flatten());
    frames.filter(|frame| matches!(frame, Frame::Message(_))).count()
}

/// Writes a message as it is framed, for tests.
#[cfg(test)]
fn framed(text: &str) -> Vec<u8> {
    format!("Content-Length: {}\r\n\r\n{text}", text.len()).into_bytes()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    const REQUEST: &str = r#"{"jsonrpc":"2.0","id":1,"method":"x","params":{}}"#;

    fn all(bytes: &[u8]) -> Vec<String> {
        let mut from = bytes;
        let frames = std::iter::from_fn(|| next(&mut from).unwrap());
        let told = |frame| match frame {
            Frame::Message(Message::Request(request)) => request.method,
            Frame::Message(other) => format!("{other:?}"),
            Frame::Unreadable(why) => format!("! {why}"),
        };
        frames.map(told).collect()
    }

    #[test]
    fn what_is_no_message_is_told_and_the_next_is_read() {
        let deep = format!("{}1{}", "[".repeat(100_000), "]".repeat(100_000));
        for broken in
            ["[1]", "1", "null", "\"x\"", "{", "", "{}", &deep, r#"{"id":1.5,"method":"x"}"#, r#"{"method":1}"#]
        {
            let told = all(&[framed(broken), framed(REQUEST)].concat());
            assert_eq!(told.len(), 2, "{broken:.40}: {told:?}");
            assert!(told[0].starts_with("! ") && told[1] == "x", "{broken:.40}: {told:?}");
        }
        for headers in ["what\r\n\r\n", "Content-Length: x\r\n\r\n", "Content-Length: -1\r\n\r\n"] {
            let told = all(&[headers.as_bytes(), &framed(REQUEST)].concat());
            assert!(told.len() == 2 && told[0].starts_with("! ") && told[1] == "x", "{headers}: {told:?}");
        }
        assert!(all(b"Content-Length: 4294967295\r\n\r\n{}")[0].contains("ended before that"));
        assert!(all(b"Content-Length: 10\r\n\r\n{}")[0].contains("ends after 2 of 10"));
    }

    #[test]
    fn half_a_surrogate_pair_is_one_character() {
        for (written, read) in [
            (r"a\ud800b", "a\u{fffd}b"),
            (r"\udc00\ud800", "\u{fffd}\u{fffd}"),
            (r"\ud83e\udd80 \\ud800 \ud800\n", "🦀 \\ud800 \u{fffd}\n"),
            (r"\ud83d", "\u{fffd}"),
        ] {
            let text = format!(r#"{{"method":"x","params":{{"text":"{written}"}}}}"#);
            let Frame::Message(Message::Notification(told)) = message(text.as_bytes()) else { panic!("{written}") };
            assert_eq!(told.params["text"], read);
        }
    }

    proptest! {
        #[test]
        fn any_bytes_come_to_an_end(bytes in proptest::collection::vec(any::<u8>(), 0..300), text in ".{0,80}") {
            all(&bytes);
            let told = all(&[framed(&text), framed(REQUEST)].concat());
            prop_assert_eq!(told.last().map(String::as_str), Some("x"));
        }
    }
}
