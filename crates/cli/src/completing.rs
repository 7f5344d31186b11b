//! Completion in a shell: commands and options, and the names of the theme at hand.

use std::ffi::OsStr;

use anyhow::{Context, Result};
use camino::{Utf8Path, Utf8PathBuf};
use clap::{Command, CommandFactory};
use clap_complete::CompleteEnv;
use clap_complete::engine::{ArgValueCompleter, CompletionCandidate};
use clap_complete::env::Shells;
use truehook_core::link::{Callback, Registry};
use truehook_core::read::{DiskFiles, FileKind, Files, Listed, Project, Unreadable};
use truehook_core::rules;
use truehook_core::source::FileId;

use crate::args::{Arguments, Shell};
use crate::workshop;

/// The variable in which a shell says that it wants to complete.
const VARIABLE: &str = "COMPLETE";

/// Answers a shell that wants to complete, where one asks. Answers whether it did.
pub fn answered() -> bool {
    if std::env::var_os(VARIABLE).is_none() {
        return false;
    }
    let current = std::env::current_dir().ok();
    let asked = CompleteEnv::with_factory(command).try_complete(std::env::args_os(), current.as_deref());
    // A shell in the middle of a line is no place for an error.
    asked.unwrap_or(true)
}

/// What a shell has to read to complete.
pub fn script(shell: Shell) -> Result<Vec<u8>> {
    let name = match shell {
        Shell::Bash => "bash",
        Shell::Zsh => "zsh",
        Shell::Fish => "fish",
    };
    let known = Shells::builtins();
    let completer = known.completer(name).context("this shell can't complete")?;
    let mut text = Vec::new();
    completer.write_registration(VARIABLE, "truehook", "truehook", "truehook", &mut text)?;
    Ok(text)
}

/// What an argument is, where the theme knows its values.
fn completer(command: &str, argument: &str) -> Option<fn(&OsStr) -> Vec<CompletionCandidate>> {
    Some(match (command, argument) {
        ("attach", "what" | "before" | "after") | ("detach" | "replace", "callback") | ("replace", "with") => callbacks,
        (_, "address" | "addresses" | "point") | ("withdraw", "to") => addresses,
        ("why", "what") | ("rename", "from") => addresses_and_callbacks,
        ("place" | "adopt" | "list", "template") => templates,
        (_, "page" | "pages") => pages,
        ("explain", "word") => words,
        _ => return None,
    })
}

/// The command line, with what the theme knows.
fn command() -> Command {
    let mut whole = Arguments::command();
    let names: Vec<String> = whole.get_subcommands().map(|command| command.get_name().to_string()).collect();
    for name in names {
        whole = whole.mut_subcommand(&name, |command| {
            command.mut_args(|argument| match completer(&name, argument.get_id().as_str()) {
                Some(known) => argument.add(ArgValueCompleter::new(known)),
                None => argument,
            })
        });
    }
    whole
}

/// The theme that the line is about, as far as some of its folders tell: the one behind `-C`, else the nearest upwards.
fn project(parts: &'static [&'static str]) -> Option<Project> {
    let words: Vec<String> = std::env::args().collect();
    let named = words.iter().position(|word| word == "-C").and_then(|at| words.get(at + 1));
    let folder: Utf8PathBuf = workshop::find_theme(named.map(Utf8Path::new)).ok()?;
    Project::open(&Only(parts), &folder).ok()
}

fn theme(parts: &'static [&'static str]) -> Option<Registry> {
    project(parts).map(Registry::new)
}

/// Who waits for a key needs no more of a large theme than its answer does.
struct Only(&'static [&'static str]);

const MANIFESTS: &[&str] = &["truehook.toml", "points"];
const CALLBACKS: &[&str] = &["truehook.toml", "points", "code"];
const TEMPLATES: &[&str] = &["truehook.toml", "markup"];
const PAGES: &[&str] = &["truehook.toml", "preview"];

impl Files for Only {
    fn folder(&self, path: &Utf8Path) -> Option<Utf8PathBuf> {
        DiskFiles.folder(path)
    }

    fn folders(&self, path: &Utf8Path) -> Vec<String> {
        DiskFiles.folders(path)
    }

    fn list(&self, root: &Utf8Path, part: &str) -> Vec<Listed> {
        let wanted = self.0.iter().any(|known| Utf8Path::new(part).starts_with(known));
        if wanted { DiskFiles.list(root, part) } else { Vec::new() }
    }

    fn read(&self, path: &Utf8Path) -> Result<Vec<u8>, Unreadable> {
        DiskFiles.read(path)
    }
}

/// Candidates that begin as what is typed does.
fn fitting(typed: &OsStr, all: impl IntoIterator<Item = (String, Option<String>)>) -> Vec<CompletionCandidate> {
    let typed = typed.to_string_lossy();
    let fits = all.into_iter().filter(|(name, _)| name.starts_with(&*typed));
    fits.map(|(name, about)| CompletionCandidate::new(name).help(about.map(Into::into))).collect()
}

fn points(registry: &Registry) -> Vec<(String, Option<String>)> {
    let declared = registry.points().filter(|point| !point.declared.is_empty());
    declared
        .map(|point| (point.address.to_string(), point.label.or(point.about).map(|about| about.to_string())))
        .collect()
}

fn exports(registry: &Registry) -> Vec<(String, Option<String>)> {
    let mut found = Vec::new();
    for (at, file) in registry.project().files.iter().enumerate().filter(|(_, file)| file.kind == FileKind::Module) {
        let layer = registry.project().layer(file.layer).name;
        let id = FileId(at as u32);
        for export in registry.module(id).map(|module| module.exports.as_slice()).unwrap_or_default() {
            let name = registry.callback_name(Callback { file: id, export: export.name });
            found.push((name, Some(layer.to_string())));
        }
    }
    found
}

fn addresses(typed: &OsStr) -> Vec<CompletionCandidate> {
    fitting(typed, theme(MANIFESTS).iter().flat_map(points))
}

fn callbacks(typed: &OsStr) -> Vec<CompletionCandidate> {
    fitting(typed, theme(CALLBACKS).iter().flat_map(exports))
}

fn addresses_and_callbacks(typed: &OsStr) -> Vec<CompletionCandidate> {
    fitting(typed, theme(CALLBACKS).iter().flat_map(|registry| points(registry).into_iter().chain(exports(registry))))
}

fn templates(typed: &OsStr) -> Vec<CompletionCandidate> {
    let of = |project: &Project| {
        let files = project.files.iter().filter(|file| file.kind == FileKind::Template);
        let named = files.map(|file| (file.name().to_string(), Some(project.layer(file.layer).name.to_string())));
        named.collect::<Vec<_>>()
    };
    fitting(typed, project(TEMPLATES).iter().flat_map(of))
}

fn pages(typed: &OsStr) -> Vec<CompletionCandidate> {
    let of = |registry: &Registry| {
        let pages = registry.project().file_ids().filter_map(|file| registry.page(file));
        let known = pages.filter_map(|page| {
            let title = page.value.get("title").and_then(|title| title.as_str()).map(str::to_string);
            Some((page.path?.name.to_string(), title))
        });
        known.collect::<Vec<_>>()
    };
    fitting(typed, theme(PAGES).iter().flat_map(of))
}

fn words(typed: &OsStr) -> Vec<CompletionCandidate> {
    fitting(typed, rules::ALL.iter().map(|rule| (rule.name.to_string(), Some(rule.summary.to_string()))))
}
