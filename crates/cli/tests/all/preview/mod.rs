//! The live preview: what it serves, to whom, and how pages follow what is written.

#[allow(dead_code, reason = "the sheets' tests use all of it")]
#[path = "../../../../sheets/tests/all/browser.rs"]
mod browser;
mod lasting;
mod living;
mod safe;

use std::io::{BufRead, BufReader, Read, Write};
use std::net::{TcpListener, TcpStream};
use std::process::{Child, Stdio};

use serde_json::Value;

use crate::fixture::{LONGEST, Terminal, eventually};

/// A preview that runs.
struct Preview {
    child: Child,
    /// The port of the shell, with all that can write.
    port: u16,
    /// The port of the theme's pages.
    site: u16,
    /// What it said when it began.
    said: String,
}

/// What came back.
struct Answer {
    status: u16,
    headers: String,
    body: Vec<u8>,
}

impl Answer {
    /// Its text, without the number of the state that a page shows.
    fn text(&self) -> String {
        let text = String::from_utf8_lossy(&self.body);
        match text.split_once("data-truehook=\"") {
            Some((before, rest)) => {
                let (number, after) = rest.split_once('"').unwrap();
                assert!(number.parse::<u64>().is_ok(), "{number}");
                // Nor that of the shell's port.
                let after = after
                    .split_once("data-shell=\"")
                    .and_then(|(_, rest)| rest.split_once('"'))
                    .map_or(after, |(_, rest)| rest);
                format!("{before}data-truehook{after}")
            }
            None => text.into_owned(),
        }
    }

    fn json(&self) -> Value {
        serde_json::from_slice(&self.body).unwrap_or_else(|error| panic!("{error}: {}", self.text()))
    }
}

/// A port that nobody listens on.
fn free_port() -> u16 {
    TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port()
}

impl Preview {
    /// A preview of the terminal's theme.
    fn of(terminal: &Terminal, theme: &str) -> Preview {
        Preview::at(terminal, theme, free_port())
    }

    fn at(terminal: &Terminal, theme: &str, port: u16) -> Preview {
        let mut command = terminal.command(theme, &format!("preview --port {port}"));
        let mut child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        let mut said = String::new();
        BufReader::new(child.stdout.as_mut().unwrap()).read_line(&mut said).unwrap();
        let port =
            |at: usize| said.split("http://localhost:").nth(at).and_then(|rest| rest.split('/').next()?.parse().ok());
        let (Some(port), Some(site)) = (port(1), port(2)) else {
            let mut why = String::new();
            child.stderr.as_mut().unwrap().read_to_string(&mut why).unwrap();
            panic!("no address: {said}{why}");
        };
        Preview { child, port, site, said }
    }

    fn address(&self, path: &str) -> String {
        format!("http://localhost:{}{path}", self.port)
    }

    /// Asks something, with more lines in the head: of the shell what is its, and of the pages' port all else.
    fn asks(&self, method: &str, path: &str, more: &[&str], body: &[u8]) -> Answer {
        let of_shell = ["/-/now", "/-/do", "/-/origin", "/-/shell.js"].iter().any(|own| path.starts_with(own));
        self.asks_at(if of_shell { self.port } else { self.site }, method, path, more, body)
    }

    /// The same, of one port.
    fn asks_at(&self, port: u16, method: &str, path: &str, more: &[&str], body: &[u8]) -> Answer {
        let host = format!("Host: localhost:{port}");
        let own_host = more.iter().any(|line| line.starts_with("Host:"));
        let lines = more.iter().copied().chain((!own_host).then_some(host.as_str()));
        let head: String = lines.map(|line| format!("{line}\r\n")).collect();
        let mut stream = TcpStream::connect(("127.0.0.1", port)).unwrap();
        stream.set_read_timeout(Some(LONGEST)).unwrap();
        let length = body.len();
        let begun = format!("{method} {path} HTTP/1.1\r\nConnection: close\r\nContent-Length: {length}\r\n{head}\r\n");
        let _ = stream.write_all(begun.as_bytes()).and_then(|()| stream.write_all(body));
        let mut all = Vec::new();
        let _ = stream.read_to_end(&mut all);
        let at = all.windows(4).position(|four| four == b"\r\n\r\n").unwrap_or_else(|| {
            panic!("no answer to {method} {path}: {}", String::from_utf8_lossy(&all));
        });
        let headers = String::from_utf8_lossy(&all[..at]).to_ascii_lowercase();
        let status = headers.split(' ').nth(1).and_then(|word| word.parse().ok()).unwrap();
        Answer { status, headers, body: all[at + 4..].to_vec() }
    }

    fn get(&self, path: &str) -> Answer {
        self.asks("GET", path, &[], b"")
    }

    /// What the drawer knows of a page.
    fn now(&self, path: &str) -> Value {
        self.get(&format!("/-/now?page={path}")).json()
    }

    /// Writes something, as our own pages do.
    fn wishes(&self, wish: &Value) -> Answer {
        let token = self.now("/")["token"].as_str().unwrap().to_string();
        let token = format!("X-Truehook-Token: {token}");
        self.asks("POST", "/-/do", &[&token, "Content-Type: application/json"], wish.to_string().as_bytes())
    }

    /// Waits until something is so.
    fn waits(&self, what: &str, is_so: impl Fn(&Preview) -> bool) {
        eventually(what, || is_so(self));
    }
}

impl Drop for Preview {
    fn drop(&mut self) {
        drop(self.child.kill());
        drop(self.child.wait());
    }
}
