//! What the system enforces on a worker: memory, and processor time.

/// How much processor time one question may take, in seconds, beyond what its own limits allow.
#[cfg(unix)]
const SECONDS: u64 = 30;

/// Limits the memory of this process. What the program itself maps before it is asked anything comes on top.
#[cfg(unix)]
pub fn limit_memory(mebibytes: u64) {
    use rustix::process::{Resource, Rlimit, setrlimit};
    // Threads have their stacks in the same room, and the allocator keeps some in reserve.
    let bytes = (mapped() + mebibytes) * 1024 * 1024;
    // Where the system has no such limit, the engines' own have to do.
    let _ = setrlimit(Resource::As, Rlimit { current: Some(bytes), maximum: Some(bytes) });
    // A worker that fails is told of; nobody wants to look into it.
    let _ = setrlimit(Resource::Core, Rlimit { current: Some(0), maximum: Some(0) });
}

/// How much this process has mapped, in MiB.
#[cfg(unix)]
fn mapped() -> u64 {
    let pages = std::fs::read_to_string("/proc/self/statm").ok();
    let pages = pages.and_then(|text| text.split(' ').next()?.parse::<u64>().ok()).unwrap_or_default();
    pages * rustix::param::page_size() as u64 / 1024 / 1024
}

/// Gives the next question its processor time.
#[cfg(unix)]
pub fn begin_question() {
    use rustix::process::{Resource, Rlimit, getrlimit, setrlimit};
    let used = work().as_secs();
    let limit = Rlimit { current: Some(used + SECONDS), maximum: getrlimit(Resource::Cpu).maximum };
    let _ = setrlimit(Resource::Cpu, limit);
}

/// The processor time of this process.
pub fn work() -> std::time::Duration {
    cpu_time::ProcessTime::now().as_duration()
}

#[cfg(not(unix))]
pub fn limit_memory(_: u64) {}

#[cfg(not(unix))]
pub fn begin_question() {}
