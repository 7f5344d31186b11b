//! One worker, as the program that asks sees it.

use std::ffi::OsString;
use std::io::{BufRead, BufReader, Write};
use std::path::PathBuf;
use std::process::{Child, ChildStdin, Command, ExitStatus, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::time::Duration;

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
    input: Option<ChildStdin>,
    answers: Receiver<Answer>,
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
            for line in output.into_iter().flat_map(|output| BufReader::new(output).lines()) {
                // A last line that was cut short is none.
                let answer = line.ok().and_then(|line| serde_json::from_str(&line).ok());
                if answer.is_none_or(|answer| send.send(answer).is_err()) {
                    break;
                }
            }
        });
        Ok(Worker { child, input, answers })
    }

    /// Asks something. That nobody is there to hear it shows when the answer is waited for.
    pub fn ask(&mut self, ask: &Ask) {
        let line = serde_json::to_vec(ask).map(|line| [line.as_slice(), b"\n"].concat());
        if let (Ok(line), Some(input)) = (line, &mut self.input) {
            drop(input.write_all(&line).and_then(|()| input.flush()));
        }
    }

    /// Waits for an answer.
    pub fn hear(&mut self, longest: Duration) -> Heard {
        match self.answers.recv_timeout(longest) {
            Ok(answer) => Heard::Answer(answer),
            Err(RecvTimeoutError::Timeout) => Heard::Nothing,
            Err(RecvTimeoutError::Disconnected) => match self.child.wait() {
                Ok(status) => Heard::Gone(reason(status)),
                Err(error) => Heard::Gone(error.to_string()),
            },
        }
    }
}

impl Drop for Worker {
    fn drop(&mut self) {
        // It ends by itself once nothing more can be asked, but not while something runs in it.
        self.input.take();
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
