//! How messages are put on a pipe: one JSON value a line, of at most [`LARGEST`] bytes.

use std::io::{self, BufRead, Read};

use serde::Serialize;
use serde::de::DeserializeOwned;

/// The largest message, in bytes, with the end of its line.
pub const LARGEST: u64 = 256 * 1024 * 1024;

/// Why a message could not be read.
#[derive(Debug, PartialEq, Eq)]
pub enum Unreadable {
    /// It is longer than any may be.
    TooLong,
    /// It is cut short: whoever wrote it ended in the middle.
    CutShort,
    /// It says nothing that is known.
    Unknown(String),
    /// The system refuses.
    System(String),
}

/// Serializes a message as one line of JSON, with its line feed.
///
/// # Errors
/// Where it is too long, or can't be written as JSON.
pub fn line<T: Serialize>(message: &T) -> io::Result<Vec<u8>> {
    let mut line = serde_json::to_vec(message)?;
    line.push(b'\n');
    match line.len() as u64 > LARGEST {
        true => {
            Err(io::Error::new(io::ErrorKind::InvalidData, format!("more than {} MiB in one message", LARGEST >> 20)))
        }
        false => Ok(line),
    }
}

/// Reads the next message; nothing at the end.
///
/// # Errors
/// Where what comes is no message.
pub fn read<T: DeserializeOwned>(from: &mut impl BufRead) -> Result<Option<T>, Unreadable> {
    let mut line = Vec::new();
    let read = from.by_ref().take(LARGEST).read_until(b'\n', &mut line);
    read.map_err(|error| Unreadable::System(error.to_string()))?;
    match line.pop() {
        None => return Ok(None),
        Some(b'\n') => {}
        Some(_) if line.len() as u64 + 1 == LARGEST => return Err(Unreadable::TooLong),
        Some(_) => return Err(Unreadable::CutShort),
    }
    serde_json::from_slice(&line).map(Some).map_err(|error| Unreadable::Unknown(error.to_string()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn whatever_comes_is_a_message_or_told() {
        let all = |bytes: &[u8]| {
            let mut from = bytes;
            std::iter::from_fn(|| read::<String>(&mut from).transpose()).take(5).collect::<Vec<_>>()
        };
        assert_eq!(all(b"\"a\"\n\"b\"\n"), [Ok("a".to_string()), Ok("b".to_string())]);
        assert_eq!(all(b""), []);
        assert_eq!(all(b"\"a\""), [Err(Unreadable::CutShort)]);
        for unknown in [&b"\n"[..], b"1\n", b"\"\xff\"\n", b"\"\\ud800\"\n", &[&[b'['; 100_000], &b"\n"[..]].concat()] {
            assert!(matches!(all(unknown)[..], [Err(Unreadable::Unknown(_))]), "{unknown:?}");
        }
        let any: String = (0..=0x2_0000).filter_map(char::from_u32).collect();
        assert_eq!(all(&line(&any).unwrap()), [Ok(any)]);
    }
}
