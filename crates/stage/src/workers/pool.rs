//! Workers together: who is free, what has ended one, what is left out for it.

use std::collections::{BTreeMap, HashMap};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::mpsc::sync_channel;
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};
use std::time::Duration;

use camino::Utf8PathBuf;
use serde_json::Value as Json;
use truehook_core::address::Address;
use truehook_core::link::Registry;

use super::message::{Answer, Ask, Setup, print};
use super::worker::{Heard, Program, Worker};
use crate::record::trace::Failure;
use crate::stage::{Fired, Manner, Output, Rendered};
use crate::watch::{Code, last_resort};

/// How long an answer may take beyond the last resort of a page.
const GRACE: Duration = Duration::from_secs(25);
/// How long a worker may take to open the theme.
const OPENING: Duration = Duration::from_secs(120);
/// What has ended so many workers is left out from then on.
const PATIENCE: usize = 3;
/// How many times a worker is started again that ends before it has opened the theme.
const STARTS: usize = 2;
/// How many workers one page may cost.
const MOST: usize = 64;
/// How many pages may be done ahead of the one that is waited for.
const AHEAD: usize = 64;

/// Why workers can't do what they are asked.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum WorkerError {
    /// None can be started.
    #[error("a worker can't be started: {0}")]
    Start(String),
    /// It can't open the theme.
    #[error("{0}")]
    Open(String),
    /// It has read something else than the program that asks.
    #[error("the theme changed while it was opened; try again")]
    Changed,
}

/// What is known of code that ended workers.
#[derive(Default)]
struct Known {
    ended: HashMap<Code, usize>,
    barred: Vec<(Code, String)>,
}

/// Worker processes for one theme.
pub struct Workers {
    program: Program,
    setup: Setup,
    jobs: usize,
    registry: Option<(Arc<Registry>, u64)>,
    free: Mutex<Vec<Worker>>,
    known: Mutex<Known>,
}

fn locked<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

impl Workers {
    /// So many at most. The first begins to open the theme at once, while the caller does the same.
    pub fn start(program: Program, setup: Setup, jobs: usize) -> Workers {
        let workers = Workers {
            program,
            setup,
            jobs: jobs.max(1),
            registry: None,
            free: Mutex::default(),
            known: Mutex::default(),
        };
        // Where this one can't be started, that is told when it is needed.
        if let Ok(first) = workers.another() {
            locked(&workers.free).push(first);
        }
        workers
    }

    /// The workers, for a theme that the caller has opened. Whether they have read the same shows when the first is used.
    #[must_use]
    pub fn over(mut self, registry: Arc<Registry>) -> Workers {
        let print = print(registry.project());
        self.registry = Some((registry, print));
        self
    }

    /// The workers, which hold on to no theme that the caller has opened.
    #[must_use]
    pub fn without_registry(mut self) -> Workers {
        self.registry = None;
        self
    }

    /// The same workers for the theme after some of its files have changed: those that are free look at these alone.
    ///
    /// # Errors
    /// Where none of them can be used, and no other can be started.
    pub fn again(mut self, registry: Arc<Registry>, changed: &[Utf8PathBuf]) -> Result<Workers, WorkerError> {
        let free = std::mem::take(&mut *locked(&self.free));
        // What has ended workers may be mended by now.
        self.known = Mutex::default();
        self.registry = Some((registry.clone(), print(registry.project())));
        let mut asked: Vec<Worker> = Vec::new();
        for mut worker in free {
            worker.ask(&Ask::Again(changed.to_vec()));
            worker.opening += 1;
            asked.push(worker);
        }
        if asked.is_empty() {
            asked.push(self.another()?);
        }
        // The start of a worker is awaited where the worker is taken.
        *locked(&self.free) = asked;
        Ok(self)
    }

    /// Another worker, which begins to open the theme.
    fn another(&self) -> Result<Worker, WorkerError> {
        let mut worker = Worker::start(&self.program).map_err(|error| WorkerError::Start(error.to_string()))?;
        worker.ask(&Ask::Open(self.setup.clone()));
        worker.opening += 1;
        Ok(worker)
    }

    /// Waits until a worker has opened the theme.
    fn meet(&self, worker: &mut Worker) -> Result<(), WorkerError> {
        let print = self.registry.as_ref().map(|(_, print)| *print);
        while worker.opening > 0 {
            worker.opening -= 1;
            let last = worker.opening == 0;
            match worker.hear(OPENING) {
                // An answer about the theme before the last change is ignored.
                Heard::Answer(Answer::Opened(_) | Answer::Refused(_)) if !last => {}
                Heard::Answer(Answer::Opened(theirs)) if print.is_none_or(|print| print == theirs) => {}
                Heard::Answer(Answer::Opened(_)) => return Err(WorkerError::Changed),
                Heard::Answer(Answer::Refused(message)) => return Err(WorkerError::Open(message)),
                Heard::Gone(why) => return Err(WorkerError::Start(why)),
                _ => return Err(WorkerError::Start("it does not answer".into())),
            }
        }
        Ok(())
    }

    fn worker(&self) -> Result<Worker, WorkerError> {
        loop {
            // The lock is not held while somebody waits for one.
            let Some(mut free) = locked(&self.free).pop() else { break };
            if self.meet(&mut free).is_ok() {
                return Ok(free);
            }
        }
        let mut tries = 0..STARTS;
        loop {
            let mut worker = self.another()?;
            match self.meet(&mut worker) {
                Ok(()) => return Ok(worker),
                // One that was ended from outside while it started says nothing of the next.
                Err(WorkerError::Start(_)) if tries.next().is_some() => {}
                Err(error) => return Err(error),
            }
        }
    }

    /// Renders one page; nothing where there is none of that path. The page's tree is there where it is watched,
    /// and the files that it refers to where no page before it referred to them.
    ///
    /// # Errors
    /// Where there can be no worker.
    pub fn page(&self, path: &str, manner: &Manner) -> Result<Option<Rendered>, WorkerError> {
        let ask = |manner, announce| Ask::Page { path: path.to_string(), manner, announce };
        let take = |answer| match answer {
            Answer::Page(page) => Some(page.map(|page| *page)),
            _ => None,
        };
        let lost = |failure| Some(Rendered { failures: vec![failure], ..Rendered::default() });
        self.carry_out(manner, &ask, &take, &lost)
    }

    /// Fires one point, as [`Stage::fire`](crate::Stage::fire) does.
    ///
    /// # Errors
    /// Where there can be no worker.
    pub fn fire(&self, point: Address, path: &str, args: &[(String, Json)]) -> Result<Option<Fired>, WorkerError> {
        let ask = |manner, announce| {
            let path = path.to_string();
            let args = args.iter().map(|(name, value)| (name.clone(), value.to_string())).collect();
            Ask::Fire { point, path, args, manner, announce }
        };
        let take = |answer| match answer {
            Answer::Fired(fired) => Some(fired.map(|fired| *fired)),
            _ => None,
        };
        let lost = |failure| {
            let output = Output::Markup(String::new());
            Some(Fired { output, trace: Default::default(), failures: vec![failure] })
        };
        self.carry_out(&Manner::watched(), &ask, &take, &lost)
    }

    /// Renders many pages, and hands them over in their order.
    ///
    /// # Errors
    /// Where there can be no worker, or one of them can't be taken.
    pub fn pages<E: From<WorkerError>>(
        &self,
        paths: &[String],
        mut take: impl FnMut(&str, Option<Rendered>) -> Result<(), E>,
    ) -> Result<(), E> {
        let (next, done, turn) = (AtomicUsize::new(0), Mutex::new(0usize), Condvar::new());
        let (send, receive) = sync_channel(self.jobs);
        std::thread::scope(|scope| {
            for _ in 0..self.jobs.min(paths.len()) {
                let (send, next, done, turn) = (send.clone(), &next, &done, &turn);
                scope.spawn(move || {
                    loop {
                        let at = next.fetch_add(1, Ordering::Relaxed);
                        let Some(path) = paths.get(at) else { break };
                        // Whoever is far ahead waits for the slowest.
                        let waits = |done: &mut usize| at > *done + AHEAD;
                        drop(turn.wait_while(locked(done), waits).unwrap_or_else(PoisonError::into_inner));
                        if send.send((at, self.page(path, &Manner::default()))).is_err() {
                            break;
                        }
                    }
                });
            }
            drop(send);
            let mut early = BTreeMap::new();
            let taken = receive.into_iter().try_for_each(|(at, page)| {
                early.insert(at, page?);
                let mut done = locked(&done);
                while let Some(page) = early.remove(&*done) {
                    take(&paths[*done], page)?;
                    *done += 1;
                }
                turn.notify_all();
                Ok(())
            });
            // Nobody has to wait for pages that are not taken.
            *locked(&done) = usize::MAX - AHEAD - 1;
            turn.notify_all();
            taken
        })
    }

    /// Asks until there is an answer, each time without what has ended a worker before.
    fn carry_out<T>(
        &self,
        manner: &Manner,
        ask: &dyn Fn(Manner, bool) -> Ask,
        take: &dyn Fn(Answer) -> Option<T>,
        lost: &dyn Fn(Failure) -> T,
    ) -> Result<T, WorkerError> {
        let mut barred = locked(&self.known).barred.clone();
        let mut announce = false;
        let mut why = String::new();
        for _ in 0..MOST {
            let mut worker = self.worker()?;
            let manner = Manner { barred: [manner.barred.clone(), barred.clone()].concat(), ..manner.clone() };
            let begun = std::time::Instant::now();
            worker.ask(&ask(manner, announce));
            let (code, ended) = match self.answer(&mut worker, take) {
                Ok(answer) => {
                    tracing::trace!(milliseconds = begun.elapsed().as_millis(), "a worker answered");
                    locked(&self.free).push(worker);
                    return Ok(answer);
                }
                Err(ended) => ended,
            };
            tracing::warn!(why = ended, milliseconds = begun.elapsed().as_millis(), "a worker ended");
            match code {
                Some(code) => {
                    // Where it went without a word at first, that was the same.
                    let times = if announce && barred.is_empty() { 2 } else { 1 };
                    let said = self.blame(code, &ended, times);
                    barred.push((code, said));
                }
                None if !announce => announce = true,
                None => {
                    why = ended;
                    break;
                }
            }
            why = ended;
        }
        Ok(lost(Failure::new(format!("it can't be rendered: {why}"))))
    }

    /// Waits for what was asked; where the worker ends over it, what it was and why.
    fn answer<T>(&self, worker: &mut Worker, take: &dyn Fn(Answer) -> Option<T>) -> Result<T, (Option<Code>, String)> {
        let limits = self.registry.as_ref().map(|(registry, _)| *registry.limits());
        let page = Duration::from_millis(limits.map_or(5000, |limits| limits.page_milliseconds));
        let limit = last_resort(page) + GRACE;
        let mut last = None;
        loop {
            match worker.hear(limit) {
                Heard::Answer(Answer::Begins(code)) => last = Some(code),
                Heard::Answer(Answer::Overdue(code)) => {
                    let milliseconds = match (code.export, limits) {
                        (Some(_), Some(limits)) => limits.callback_milliseconds,
                        (None, Some(limits)) => limits.page_milliseconds,
                        (_, None) => 0,
                    };
                    return Err((
                        Some(code),
                        format!("it went on after {milliseconds} ms of processor time, its limit"),
                    ));
                }
                Heard::Answer(answer) => match take(answer) {
                    Some(answer) => return Ok(answer),
                    None => return Err((None, "its worker answers something else".into())),
                },
                Heard::Gone(why) => return Err((last, why)),
                Heard::Nothing => return Err((last, format!("it took longer than {limit:?}"))),
            }
        }
    }

    /// Notes what has ended a worker, and what is said of it from now on.
    fn blame(&self, code: Code, why: &str, times: usize) -> String {
        let mut known = locked(&self.known);
        let count = known.ended.entry(code).or_default();
        *count += times;
        if *count >= PATIENCE && !known.barred.iter().any(|(barred, _)| *barred == code) {
            let said = format!("left out, for it has ended {PATIENCE} workers: {why}");
            known.barred.push((code, said));
        }
        format!("stopped from outside: {why}")
    }
}
