//! One worker, as the program that asks sees it.

use std::ffi::OsString;
use std::io::{BufReader, Write};
use std::path::PathBuf;
use std::process::{Child, Command, ExitStatus, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::time::{Duration, Instant};

use super::frame::{self, LARGEST, Unreadable};
use super::message::{Answer, Ask};

/// How a worker is started.
#[derive(Clone, Debug)]
pub struct Program {
    path: PathBuf,
    args: Vec<OsString>,
    env: Vec<(OsString, OsString)>,
}

impl Program {
    /// A program that calls [`serve`](super::serve) where it is started with these arguments.
    pub fn new(path: PathBuf, args: impl IntoIterator<Item = impl Into<OsString>>) -> Program {
        Program { path, args: args.into_iter().map(Into::into).collect(), env: Vec::new() }
    }

    /// With a variable of its environment.
    #[must_use]
    pub fn env(mut self, name: impl Into<OsString>, value: impl Into<OsString>) -> Program {
        self.env.push((name.into(), value.into()));
        self
    }
}

/// How long a worker that was asked something may be silent. One that is at work says so four times a second.
const SILENCE: Duration = Duration::from_secs(10);

/// What comes of waiting for an answer.
pub enum Heard {
    Answer(Answer),
    /// The worker is gone, and why.
    Gone(String),
    /// Nothing came in time.
    Nothing,
}

/// One worker.
pub struct Worker {
    child: Child,
    /// What is asked goes to a thread that writes it: a worker that doesn't read holds up nobody.
    asks: Option<Sender<Vec<u8>>>,
    answers: Receiver<Result<Answer, Unreadable>>,
    /// How many times it was asked to open the theme, or what has changed of it, and has not answered yet.
    pub opening: usize,
}

impl Worker {
    /// Starts one.
    pub fn start(program: &Program) -> std::io::Result<Worker> {
        let mut command = Command::new(&program.path);
        command.args(&program.args).envs(program.env.iter().map(|(name, value)| (name, value)));
        command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::null());
        let mut child = command.spawn()?;
        let (input, output) = (child.stdin.take(), child.stdout.take());
        let (send, answers) = channel();
        std::thread::spawn(move || {
            let mut output = output.map(BufReader::new);
            while let Some(answer) = output.as_mut().and_then(|output| frame::read(output).transpose()) {
                let last = answer.is_err();
                if send.send(answer).is_err() || last {
                    break;
                }
            }
        });
        let (asks, lines) = channel::<Vec<u8>>();
        std::thread::spawn(move || {
            let Some(mut input) = input else { return };
            for line in lines {
                // If the worker is gone, waiting for its answer fails.
                if input.write_all(&line).and_then(|()| input.flush()).is_err() {
                    break;
                }
            }
        });
        Ok(Worker { child, asks: Some(asks), answers, opening: 0 })
    }

    /// Asks something. That nobody is there to hear it shows when the answer is waited for.
    pub fn ask(&mut self, ask: &Ask) {
        match (frame::line(ask), &self.asks) {
            (Ok(line), Some(asks)) => drop(asks.send(line)),
            // The request can't be sent, so no answer will come: the worker is ended.
            _ => drop(self.asks.take()),
        }
    }

    /// Waits for an answer.
    pub fn hear(&mut self, longest: Duration) -> Heard {
        let begun = Instant::now();
        loop {
            match self.answers.recv_timeout(SILENCE.min(longest)) {
                Ok(Ok(Answer::Alive)) if begun.elapsed() > longest => return Heard::Nothing,
                Ok(Ok(Answer::Alive)) => {}
                Ok(Ok(answer)) => return Heard::Answer(answer),
                Ok(Err(why)) => return Heard::Gone(self.end_unreadable(why)),
                Err(RecvTimeoutError::Timeout) => {
                    drop(self.child.kill());
                    return Heard::Gone(format!("it gave no sign of life for {SILENCE:?}"));
                }
                Err(RecvTimeoutError::Disconnected) => return Heard::Gone(self.ended()),
            }
        }
    }

    /// Ends a worker whose answer can't be parsed, and says why.
    fn end_unreadable(&mut self, why: Unreadable) -> String {
        match why {
            // It ended by itself.
            Unreadable::CutShort => self.ended(),
            Unreadable::TooLong => {
                drop(self.child.kill());
                format!("what it gives back is more than {} MiB", LARGEST >> 20)
            }
            Unreadable::Unknown(error) | Unreadable::System(error) => {
                drop(self.child.kill());
                format!("its answer can't be read: {error}")
            }
        }
    }

    /// Why it has ended. It says nothing any more, so it ends now, if it hasn't yet.
    fn ended(&mut self) -> String {
        let begun = Instant::now();
        loop {
            match self.child.try_wait() {
                Ok(Some(status)) => return reason(status),
                Ok(None) if begun.elapsed() < SILENCE => std::thread::sleep(Duration::from_millis(2)),
                Ok(None) => {
                    drop(self.child.kill());
                    return "it stopped speaking".into();
                }
                Err(error) => return error.to_string(),
            }
        }
    }
}

impl Drop for Worker {
    fn drop(&mut self) {
        // It ends by itself once nothing more can be asked, but not while something runs in it.
        self.asks.take();
        drop(self.child.kill());
        drop(self.child.wait());
    }
}

/// Why a worker has ended, in words for people.
fn reason(status: ExitStatus) -> String {
    #[cfg(unix)]
    {
        use std::os::unix::process::ExitStatusExt;
        match status.signal() {
            Some(6) => return "it needed more memory than a worker has".into(),
            Some(24) => return "it took more processor time than a page has".into(),
            Some(11 | 7) => return "it ran out of room for nested calls, or crashed the engine".into(),
            Some(signal) => return format!("its process was ended by signal {signal}"),
            None => {}
        }
    }
    format!("its process ended ({status})")
}
