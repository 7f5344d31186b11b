//! The process that the server works for: where that has gone, nobody is left to tell anything.

use std::time::Duration;

use crossbeam_channel::{Receiver, never, unbounded};

/// How often it is looked whether it is still there.
const LOOK: Duration = Duration::from_secs(2);

/// Is a process there?
#[cfg(unix)]
fn is_there(process: u32) -> bool {
    use rustix::io::Errno;
    use rustix::process::{Pid, test_kill_process};
    let pid = i32::try_from(process).ok().and_then(Pid::from_raw);
    // One that belongs to somebody else is there, too.
    pid.is_none_or(|pid| test_kill_process(pid) != Err(Errno::SRCH))
}

#[cfg(not(unix))]
fn is_there(_: u32) -> bool {
    true
}

/// Hears once when a process is gone. One that can't be seen from here from the beginning, as from inside of a
/// container, is never missed.
pub fn when_gone(process: Option<u32>) -> Receiver<()> {
    let Some(process) = process.filter(|process| is_there(*process)) else { return never() };
    let (send, gone) = unbounded();
    std::thread::spawn(move || {
        while is_there(process) {
            std::thread::sleep(LOOK);
        }
        let _ = send.send(());
        // The other end would otherwise hear that nobody speaks any more, again and again.
        std::thread::park();
    });
    gone
}
