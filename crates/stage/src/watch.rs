//! What is being carried out, for whoever watches from another thread: some code can't be stopped from inside.

use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::{Duration, Instant};

use serde::{Deserialize, Serialize};
use truehook_core::link::{Callback, Registry};
use truehook_core::source::{FileId, Place};

/// How much processor time a step may take past its limit before whoever watches has to end it. Most are stopped from
/// inside at their limit; this is for those that can't be.
const GRACE: Duration = Duration::from_millis(750);

/// What may be taken by the clock, where so much processor time may be: so much longer that it can't be what else the
/// machine does.
pub fn last_resort(limit: Duration) -> Duration {
    limit * 20 + Duration::from_secs(60)
}

/// A piece of a theme's code: a template, or a callback.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
pub struct Code {
    /// Its file.
    pub file: FileId,
    /// For a callback: which of the module's exports it is, from 0.
    pub export: Option<u32>,
}

impl Code {
    /// A whole template.
    pub fn template(file: FileId) -> Code {
        Code { file, export: None }
    }

    /// A callback.
    pub fn callback(registry: &Registry, callback: Callback) -> Code {
        let exports = registry.module(callback.file).map_or(&[][..], |module| &module.exports);
        let export = exports.iter().position(|export| export.name == callback.export);
        Code { file: callback.file, export: Some(export.unwrap_or_default() as u32) }
    }

    /// What it is called: `layer:page.html`, `layer:notes.js#today`.
    pub fn name(self, registry: &Registry) -> String {
        match self.of_module(registry) {
            Some(export) => registry.callback_name(Callback { file: self.file, export: export.0 }),
            None => registry.template_name(self.file),
        }
    }

    /// Where it is, where that is more than the file.
    pub fn place(self, registry: &Registry) -> Option<Place> {
        self.of_module(registry).map(|(_, place)| place)
    }

    fn of_module(self, registry: &Registry) -> Option<(truehook_core::name::Name, Place)> {
        let export = registry.module(self.file)?.exports.get(self.export? as usize)?;
        Some((export.name, Place { file: self.file, at: export.at }))
    }

    /// As a number that is never 0.
    fn bits(self) -> u64 {
        (u64::from(self.file.0) + 1) << 32 | u64::from(self.export.map_or(0, |export| export + 1))
    }

    fn from_bits(bits: u64) -> Option<Code> {
        let file = (bits >> 32).checked_sub(1)?;
        Some(Code { file: FileId(file as u32), export: (bits as u32).checked_sub(1) })
    }
}

/// What is told of each step.
type Tell = Box<dyn Fn(Code) + Send + Sync>;

/// What is being carried out right now.
pub struct Watch {
    code: AtomicU64,
    /// Which step it is, counted from 1; 0 where nothing runs.
    step: AtomicU64,
    /// How many steps there have been.
    steps: AtomicU64,
    /// The limit of the step, in milliseconds of processor time.
    limit: AtomicU64,
    telling: AtomicBool,
    tell: Option<Tell>,
}

/// The step that was running when somebody looked, and since when.
#[derive(Clone, Copy, Debug)]
pub struct Seen {
    step: u64,
    work: Duration,
    time: Instant,
}

impl Default for Watch {
    fn default() -> Watch {
        let number = || AtomicU64::new(0);
        let (code, step, steps, limit, telling) = (number(), number(), number(), number(), AtomicBool::new(false));
        Watch { code, step, steps, limit, telling, tell: None }
    }
}

impl Watch {
    /// A watch that tells of each step before it is carried out, while [`tell`](Watch::tell) says so.
    pub fn telling(tell: impl Fn(Code) + Send + Sync + 'static) -> Watch {
        Watch { tell: Some(Box::new(tell)), ..Watch::default() }
    }

    /// Is each step to be told from now on?
    pub fn tell(&self, each: bool) {
        self.telling.store(each, Ordering::Relaxed);
    }

    /// Carries something out, under the eyes of whoever watches.
    pub(crate) fn during<T>(&self, code: Code, limit: Duration, act: impl FnOnce() -> T) -> T {
        let number = self.steps.fetch_add(1, Ordering::Relaxed) + 1;
        let outer = (
            self.code.swap(code.bits(), Ordering::Relaxed),
            self.limit.swap(limit.as_millis() as u64, Ordering::Relaxed),
            self.step.swap(number, Ordering::Relaxed),
        );
        self.say(code.bits());
        let result = act();
        self.step.store(outer.2, Ordering::Relaxed);
        self.limit.store(outer.1, Ordering::Relaxed);
        self.code.store(outer.0, Ordering::Relaxed);
        self.say(outer.0);
        result
    }

    fn say(&self, bits: u64) {
        if let (true, Some(tell), Some(code)) =
            (self.telling.load(Ordering::Relaxed), &self.tell, Code::from_bits(bits))
        {
            tell(code);
        }
    }

    /// What goes on past its limit and its grace, if anything does. Whoever asks says what the process has worked so
    /// far, and keeps what was seen from one time to the next: a step counts from when it was seen first.
    pub fn overdue(&self, seen: &mut Option<Seen>, work: Duration) -> Option<Code> {
        let step = self.step.load(Ordering::Relaxed);
        let known = seen.filter(|seen| seen.step == step);
        let since = known.unwrap_or_else(|| Seen { step, work, time: Instant::now() });
        *seen = Some(since);
        let limit = Duration::from_millis(self.limit.load(Ordering::Relaxed)) + GRACE;
        let over = work.saturating_sub(since.work) > limit || since.time.elapsed() > last_resort(limit);
        (step > 0 && over).then(|| Code::from_bits(self.code.load(Ordering::Relaxed))).flatten()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_code_is_a_number_and_back() {
        for code in [(0, None), (0, Some(0)), (7, Some(3)), (u32::MAX - 1, None), (70_000, Some(u32::MAX - 1))] {
            let code = Code { file: FileId(code.0), export: code.1 };
            assert_eq!(Code::from_bits(code.bits()), Some(code));
        }
        assert_eq!(Code::from_bits(0), None);
    }

    #[test]
    fn only_what_works_past_its_limit_is_overdue() {
        let watch = Watch::default();
        let (outer, inner) = (Code::template(FileId(1)), Code { file: FileId(2), export: Some(0) });
        let (mut seen, second) = (None, Duration::from_secs(1));
        assert_eq!(watch.overdue(&mut seen, second), None);
        watch.during(outer, 60 * second, || {
            assert_eq!(watch.overdue(&mut seen, 2 * second), None);
            assert_eq!(watch.overdue(&mut seen, 62 * second), None);
            watch.during(inner, Duration::ZERO, || {
                assert_eq!(watch.overdue(&mut seen, 62 * second), None, "it is seen for the first time");
                assert_eq!(watch.overdue(&mut seen, 62 * second + GRACE), None);
                assert_eq!(watch.overdue(&mut seen, 63 * second), Some(inner));
            });
            assert_eq!(watch.overdue(&mut seen, 64 * second), None);
            assert_eq!(watch.overdue(&mut seen, 127 * second), Some(outer));
        });
        assert_eq!(watch.overdue(&mut seen, 500 * second), None);
    }
}
