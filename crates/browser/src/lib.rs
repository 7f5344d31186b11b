//! A browser without a window, for tests and benchmarks: Chromium, where it is installed, spoken to in its own
//! protocol, which is JSON over a WebSocket (Chrome DevTools Protocol 1.3).
//!
//! Libraries for that protocol come with a type for each of its thousands of messages, and take minutes to build; here
//! are the few that are asked.

use std::io::{BufRead, BufReader};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::time::Duration;

use serde_json::{Value, json};
use tempfile::TempDir;
use tungstenite::{Message, WebSocket};

/// Where a browser may be.
const PLACES: [&str; 3] = ["/usr/bin/chromium", "/usr/bin/chromium-browser", "/usr/bin/google-chrome"];
/// What it is started with, beside its own folder. Nothing that goes out of the machine, and nothing that is slower in
/// a window that nobody sees.
const OPTIONS: [&str; 10] = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--no-first-run",
    "--hide-scrollbars",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-background-timer-throttling",
    "--disable-renderer-backgrounding",
    "--remote-debugging-port=0",
];
/// For how long an answer is waited for.
const PATIENCE: Duration = Duration::from_secs(120);
/// For how long its end is waited for.
const END: Duration = Duration::from_secs(10);

/// What can go wrong.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum Failed {
    /// The browser couldn't be started, or spoke no more.
    #[error("the browser doesn't run: {0}")]
    Gone(#[from] std::io::Error),
    /// The connection broke.
    #[error("the browser doesn't answer: {0}")]
    Silent(#[from] tungstenite::Error),
    /// It answered what isn't of the protocol.
    #[error("the browser answered {0}")]
    Odd(String),
    /// A script threw.
    #[error("{0}")]
    Threw(String),
}

/// A browser with one page. It ends with this value, and leaves nothing behind.
pub struct Browser {
    child: Child,
    socket: WebSocket<TcpStream>,
    session: Option<String>,
    asked: u64,
    /// Says nothing, and is hung up when the last of the browser's processes has ended.
    alive: Receiver<()>,
    /// Held for as long as the browser runs.
    own: TempDir,
}

impl Drop for Browser {
    fn drop(&mut self) {
        self.session = None;
        drop(self.call("Browser.close", json!({})));
        // It answers before it ends, and its helpers end after it: until then they write to its folder, which can't be
        // removed meanwhile.
        let _ = self.alive.recv_timeout(END);
        drop(self.child.kill());
        drop(self.child.wait());
        let _ = self.alive.recv_timeout(END);
    }
}

impl Browser {
    /// A browser with an empty page; nothing where none is installed.
    ///
    /// # Errors
    /// Where it is installed and doesn't start.
    pub fn start() -> Result<Option<Browser>, Failed> {
        Browser::start_with(&[])
    }

    /// The same, started with more options.
    ///
    /// # Errors
    /// As [`Browser::start`].
    pub fn start_with(more: &[&str]) -> Result<Option<Browser>, Failed> {
        let Some(program) = PLACES.iter().map(Path::new).find(|path| path.exists()) else { return Ok(None) };
        let own = tempfile::tempdir()?;
        let folder = format!("--user-data-dir={}", own.path().display());
        let mut command = Command::new(program);
        command.args(OPTIONS).args(more).arg(folder).stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::piped());
        let mut child = command.spawn()?;
        let (socket, alive) = connect(&mut child).inspect_err(|_| {
            drop(child.kill());
            drop(child.wait());
        })?;
        let mut browser = Browser { child, socket, session: None, asked: 0, alive, own };
        let page = browser.call("Target.createTarget", json!({ "url": "about:blank" }))?;
        let session =
            browser.call("Target.attachToTarget", json!({ "targetId": page["targetId"], "flatten": true }))?;
        browser.session = session["sessionId"].as_str().map(String::from);
        Ok(Some(browser))
    }

    /// The folder in which it keeps what it knows, as long as it runs.
    pub fn folder(&self) -> &Path {
        self.own.path()
    }

    /// Asks the protocol's method `name`, and waits for what it answers. Events that come before it are passed over.
    ///
    /// # Errors
    /// Where the connection breaks, or the browser refuses.
    pub fn call(&mut self, name: &str, arguments: Value) -> Result<Value, Failed> {
        self.asked += 1;
        let mut message = json!({ "id": self.asked, "method": name, "params": arguments });
        if let Some(session) = &self.session {
            message["sessionId"] = json!(session);
        }
        self.socket.send(Message::text(message.to_string()))?;
        loop {
            let Message::Text(text) = self.socket.read()? else { continue };
            let mut answer: Value = serde_json::from_str(&text).map_err(|_| Failed::Odd(text.to_string()))?;
            if answer["id"] == self.asked {
                return match answer.get("error") {
                    Some(error) => Err(Failed::Odd(format!("{error} to {name}"))),
                    None => Ok(answer["result"].take()),
                };
            }
        }
    }

    /// Goes to an address; whether it has loaded is asked of the page itself.
    ///
    /// # Errors
    /// As [`Browser::call`].
    pub fn go(&mut self, address: &str) -> Result<(), Failed> {
        self.call("Page.navigate", json!({ "url": address })).map(drop)
    }

    /// The value of a script's last expression, or of the promise that it is.
    ///
    /// # Errors
    /// Where it throws; else as [`Browser::call`].
    pub fn evaluate(&mut self, script: &str) -> Result<Value, Failed> {
        let arguments = json!({ "expression": script, "awaitPromise": true, "returnByValue": true });
        let mut answer = self.call("Runtime.evaluate", arguments)?;
        match answer.get("exceptionDetails") {
            Some(thrown) => {
                let said = thrown["exception"]["description"].as_str().or(thrown["text"].as_str());
                Err(Failed::Threw(format!("{}\n{script}", said.unwrap_or_default())))
            }
            None => Ok(answer["result"]["value"].take()),
        }
    }

    /// Presses a key and lets it go: a character, or `Tab`, `Enter` or `Escape`, as UI Events names keys.
    ///
    /// # Errors
    /// As [`Browser::call`].
    pub fn press(&mut self, key: &str) -> Result<(), Failed> {
        let (code, text) = match key {
            "Tab" => (9, ""),
            "Enter" => (13, "\r"),
            "Escape" => (27, ""),
            character => (0, character),
        };
        for kind in ["keyDown", "keyUp"] {
            let mut event = json!({ "type": kind, "key": key, "windowsVirtualKeyCode": code });
            if kind == "keyDown" && !text.is_empty() {
                event["text"] = json!(text);
            }
            if code != 0 {
                event["code"] = json!(key);
            }
            self.call("Input.dispatchKeyEvent", event)?;
        }
        Ok(())
    }

    /// The size of what is seen, in CSS pixels.
    ///
    /// # Errors
    /// As [`Browser::call`].
    pub fn resize(&mut self, width: u32, height: u32) -> Result<(), Failed> {
        let size = json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false });
        self.call("Emulation.setDeviceMetricsOverride", size).map(drop)
    }

    /// `light` or `dark`: what `prefers-color-scheme` says.
    ///
    /// # Errors
    /// As [`Browser::call`].
    pub fn scheme(&mut self, scheme: &str) -> Result<(), Failed> {
        let feature = json!({ "name": "prefers-color-scheme", "value": scheme });
        self.call("Emulation.setEmulatedMedia", json!({ "features": [feature] })).map(drop)
    }
}

/// Reads where the browser listens from what it says as it starts, and connects to it. The other end of what comes with
/// that is dropped when nothing can be said any more.
fn connect(child: &mut Child) -> Result<(WebSocket<TcpStream>, Receiver<()>), Failed> {
    let mut said = BufReader::new(child.stderr.take().ok_or(std::io::Error::from(std::io::ErrorKind::BrokenPipe))?);
    let mut all = String::new();
    let address = loop {
        let before = all.len();
        if said.read_line(&mut all)? == 0 {
            return Err(Failed::Odd(all));
        }
        if let Some(address) = all[before..].trim().strip_prefix("DevTools listening on ") {
            break address.to_string();
        }
    };
    // Whatever else it says has to go somewhere, or it stops.
    let (living, alive) = channel();
    std::thread::spawn(move || {
        let _living = living;
        std::io::copy(&mut said, &mut std::io::sink())
    });
    let host = address.trim_start_matches("ws://").split('/').next().unwrap_or_default().to_string();
    let stream = TcpStream::connect(host)?;
    stream.set_nodelay(true)?;
    stream.set_read_timeout(Some(PATIENCE))?;
    let connected = tungstenite::client(address.as_str(), stream);
    connected.map(|(socket, _)| (socket, alive)).map_err(|error| Failed::Odd(error.to_string()))
}
