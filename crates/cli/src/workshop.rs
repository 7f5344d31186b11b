//! What most commands begin and end with: a theme that is open, and changes that are written.

use anyhow::{Context, Result, bail};
use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::address::Address;
use truehook_core::command_line;
use truehook_core::edit::{self, Left, Lock};
use truehook_core::link::Registry;
use truehook_core::names::{hint, nearest};
use truehook_core::read::{DiskFiles, Files, OverlayFiles, Project};
use truehook_core::rules;
use truehook_stage::Stage;
use truehook_stage::workers::{Program, Setup, Workers};

use crate::Outcome;
use crate::output;

/// The theme's folder: the one that was named, else the nearest upwards with a manifest.
pub fn find_theme(named: Option<&Utf8Path>) -> Result<Utf8PathBuf> {
    if let Some(folder) = named {
        return Ok(folder.to_path_buf());
    }
    let here = std::env::current_dir().context("the current folder can't be read")?;
    let here = Utf8PathBuf::from_path_buf(here).map_err(|path| anyhow::anyhow!("{} is not UTF-8", path.display()))?;
    let found = here.ancestors().find(|folder| folder.join("truehook.toml").exists());
    match found {
        Some(folder) => Ok(folder.to_path_buf()),
        None => bail!(
            "there is no theme in {here} or above it; truehook new NAME begins one, -C FOLDER names one that is elsewhere, \
             and truehook demo shows some"
        ),
    }
}

/// Locks a theme, and finishes what a command that was ended had begun there.
pub fn lock(folder: &Utf8Path) -> Result<Lock> {
    if !folder.join("truehook.toml").exists() {
        bail!("there is no truehook.toml in {folder}");
    }
    lock_folder(folder).map(|(lock, _)| lock)
}

/// As [`lock`], for a folder that need not be a theme yet. Answers what was left over, too.
pub fn lock_folder(folder: &Utf8Path) -> Result<(Lock, Left)> {
    let command: Vec<String> = std::env::args().skip(1).collect();
    let (lock, left) = Lock::take(folder, &command.join(" "))?;
    tell_left(&left);
    Ok((lock, left))
}

/// The files of a theme for a command that only reads: where a command was ended before it was done, as they will be
/// once the next one that writes has finished that.
pub fn files(folder: &Utf8Path) -> Result<OverlayFiles<'static>> {
    let mut files = OverlayFiles { below: &DiskFiles, over: Default::default(), gone: Vec::new() };
    if let Some(left) = edit::left_over(folder)? {
        output::hint(&format!(
            "`truehook {}` was ended before it was done; the next command that writes here ends it, and this one shows \
             the files as they are then",
            left.command
        ));
        (files.over, files.gone) = (left.over, left.gone);
    }
    Ok(files)
}

/// Says that a command was ended in a theme before it was done, for a command that follows what is on the disk.
pub fn tell_left_over(folder: &Utf8Path) -> Result<()> {
    if let Some(left) = edit::left_over(folder)? {
        output::hint(&format!(
            "`truehook {}` was ended before it was done; the next command that writes here ends it",
            left.command
        ));
    }
    Ok(())
}

/// The files of a theme, which may be locked: then nothing is left over.
pub fn files_of(folder: &Utf8Path, lock: Option<&Lock>) -> Result<OverlayFiles<'static>> {
    match lock {
        Some(_) => Ok(OverlayFiles { below: &DiskFiles, over: Default::default(), gone: Vec::new() }),
        None => files(folder),
    }
}

fn tell_left(left: &Left) {
    match left {
        Left::Finished(command) => {
            output::hint(&format!("`truehook {command}` was ended before it was done; it is finished now"))
        }
        Left::Undone(command) => output::hint(&format!(
            "`truehook {command}` was ended before it was done, and the files were changed since; what it had written is undone"
        )),
        Left::Refused(command) => output::hint(&format!(
            "`truehook {command}` was ended before it was done, and a folder that it wrote into is a link now; \
             what it had not written yet stays undone"
        )),
        _ => {}
    }
}

/// Opens a theme and links its layers.
pub fn open_to_check(folder: &Utf8Path, files: &dyn Files) -> Result<Registry> {
    Ok(Registry::new(Project::open(files, folder)?))
}

/// Opens a theme for a command that only reads, and says which of its manifests can't be read.
pub fn open(folder: &Utf8Path) -> Result<Registry> {
    open_files(folder, &files(folder)?)
}

/// As [`open`], with files that are known already.
pub fn open_files(folder: &Utf8Path, files: &dyn Files) -> Result<Registry> {
    warned(open_to_check(folder, files)?, folder)
}

/// As [`open_files`], for a theme whose pages are to be rendered one after the other.
pub fn open_for_rendering(folder: &Utf8Path, files: &dyn Files) -> Result<Registry> {
    let project = Project::open_without_pages(files, folder)?;
    warned(Registry::for_rendering(project, files), folder)
}

/// The argument by which this program is a worker.
pub const WORKER: &str = "worker";

/// Starts workers for the theme in a folder: `jobs`, or one for each core. They begin to open the theme at once, with
/// the same overlay over its files as this process.
pub fn workers(
    folder: &Utf8Path,
    files: &OverlayFiles<'_>,
    language: Option<&str>,
    jobs: Option<usize>,
) -> Result<Workers> {
    let program = worker()?;
    let mut setup = Setup::new(camino::absolute_utf8(folder)?);
    setup.language = language.map(str::to_string);
    setup.over = files.over.iter().map(|(path, bytes)| (path.to_path_buf(), bytes.to_vec())).collect();
    setup.gone = files.gone.clone();
    let cores = || std::thread::available_parallelism().map_or(1, usize::from);
    Ok(Workers::start(program, setup, jobs.unwrap_or_else(cores)))
}

/// How a worker is started: as this program, with an argument of its own.
pub fn worker() -> Result<Program> {
    let program = std::env::current_exe().context("this program's own file can't be found")?;
    // Dates in callbacks are the same everywhere, and memory is taken as it is needed.
    // The allocator takes room as it is needed, so that the limit is one of what is used.
    let program = Program::new(program, [WORKER]).env("TZ", "UTC");
    Ok(program.env("MIMALLOC_ARENA_EAGER_COMMIT", "0").env("MIMALLOC_ARENA_RESERVE", "16MiB"))
}

/// Says which manifests can't be read: what follows may be half the truth.
fn warned(registry: Registry, folder: &Utf8Path) -> Result<Registry> {
    let blinding = rules::blinding(&registry);
    if !blinding.is_empty() {
        let coloured = output::coloured(&std::io::stderr());
        output::findings::write(&mut crate::output::stream::stderr(), coloured, &registry, blinding.iter(), folder)?;
    }
    Ok(registry)
}

/// Can a manifest not be read?
pub fn is_blind(registry: &Registry) -> bool {
    !rules::blinding(registry).is_empty()
}

/// What came of a command that found nothing wrong by itself.
pub fn outcome(registry: &Registry, good: bool) -> Outcome {
    if good && !is_blind(registry) { Outcome::Clean } else { Outcome::Findings }
}

/// An address that somebody typed.
pub fn address(text: &str) -> Result<Address> {
    Ok(text.parse::<Address>()?)
}

/// An address that somebody typed, of a point that is declared.
pub fn declared(registry: &Registry, text: &str) -> Result<Address> {
    let address = address(text)?;
    if registry.point(address).is_some() {
        return Ok(address);
    }
    let near =
        nearest(&address.name, registry.names(address.kind)).map(|name| Address::new(address.kind, name).to_string());
    let declare = if near.is_none() { format!("; {} would", command_line!["declare", address]) } else { String::new() };
    bail!("no layer declares `{address}`{}{declare}", hint(&near))
}

/// The path of a page that somebody named.
pub fn page(stage: &Stage, path: &str) -> Result<String> {
    let known: Vec<String> = stage.pages().into_iter().map(|page| page.path).collect();
    let with_slash = format!("{}/", path.trim_end_matches('/'));
    match known.iter().find(|known| *known == path || **known == with_slash) {
        Some(known) => Ok(known.clone()),
        None => {
            let near = nearest(path, known.iter().map(String::as_str));
            bail!("there is no page {path}{}; there are {}", hint(&near), known.join(", "));
        }
    }
}

/// The front page, or the first where there is none.
pub fn first_page(stage: &Stage) -> Result<String> {
    let pages = stage.pages();
    let own = || pages.iter().filter(|page| !page.sample);
    let front = own().find(|page| page.path == "/").or(own().next()).or(pages.first());
    front.map(|page| page.path.clone()).context("there is no page to fire it on")
}
