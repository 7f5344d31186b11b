//! `new`: a theme that passes every check from its first minute.

use std::fs;
use std::io::{Read, Write};
use truehook_core::command_line;

use anyhow::{Context, Result, bail};
use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::address::Kind;
use truehook_core::edit::{self, Change};
use truehook_core::link::{Point, Registry};
use truehook_core::names::{self, is_kebab};
use truehook_core::read::{DiskFiles, Project};
use truehook_core::start::{self, Base, Sketch};
use truehook_core::view::ChangesView;

use crate::Outcome;
use crate::args::{Format, NewArgs};
use crate::commands::from_pages;
use crate::output::{self, style, table};
use crate::site_folder::outside_themes;
use crate::workshop;

/// The largest sketch that is read, in bytes.
const LARGEST: u64 = 64 * 1024;

type Files = Vec<(Utf8PathBuf, Vec<u8>)>;

pub fn run(args: &NewArgs) -> Result<Outcome> {
    if names::RESERVED_LAYERS.contains(&args.name.as_str()) {
        bail!(
            "a theme can't be called `{}`: that word stands for other layers; {} would do",
            args.name,
            command_line!["new", format!("my-{}", args.name)]
        );
    }
    if !is_kebab(&args.name) {
        let near = names::kebab(&args.name).filter(|near| *near != args.name);
        let near = near.map(|near| format!("; {} would do", command_line!["new", near])).unwrap_or_default();
        bail!("`{}` is no name for a theme: {}{near}", args.name, names::KEBAB);
    }
    let parent = args.into.clone().unwrap_or_default();
    let folder = parent.join(&args.name);
    if is_taken(&folder, args.edit.dry_run)? {
        bail!("{folder} is there already, and not empty; say another name, or --into another folder");
    }
    outside_themes(&folder)?;
    let mut told = Vec::new();
    let mut files: Files = if args.from.is_empty() {
        let files = match &args.on {
            Some(base) => start::on_base(&args.name, &base_of(base, &folder)?),
            None => start::files(&args.name, &sketch(args)?),
        };
        files.into_iter().map(|(path, text)| (path, text.into_bytes())).collect()
    } else {
        let taken = from_pages::take(&args.name, &args.from)?;
        told = from_pages::told(&taken);
        taken.files
    };
    // What the manifest's first line leads to.
    let (path, form) = start::form();
    files.push((path, form.into_bytes()));
    let mut out = crate::output::stream::stdout();
    let next = next(&folder, &parent, &args.name);
    if args.edit.format == Format::Json {
        if !args.edit.dry_run {
            write_all(&folder, &files)?;
        }
        let commands = next.into_iter().map(|(command, what)| format!("{command}  # {what}")).collect();
        output::json(&mut out, &ChangesView { told, ..ChangesView::of_new(texts(&files), commands) })?;
        return Ok(Outcome::Clean);
    }
    if args.edit.dry_run {
        for (path, text) in &files {
            let lines = text.iter().filter(|byte| **byte == b'\n').count();
            writeln!(out, "{}  {}", folder.join(path), output::count(lines, "line"))?;
        }
        told.iter().try_for_each(|line| writeln!(out, "{line}"))?;
        return Ok(Outcome::Clean);
    }
    write_all(&folder, &files)?;
    writeln!(out, "{folder} is there, with {}.", output::count(files.len(), "file"))?;
    told.iter().try_for_each(|line| writeln!(out, "{line}"))?;
    if args.on.is_some() {
        comes_along(&mut out, &folder)?;
    }
    for (command, what) in next {
        let (on, off) = (style::NEXT.render(), style::NEXT.render_reset());
        writeln!(out, "{on}next:{off} {command}  # {what}")?;
    }
    Ok(Outcome::Clean)
}

/// What is text among the files.
fn texts(files: &Files) -> Vec<(Utf8PathBuf, String)> {
    let text = |(path, bytes): &(Utf8PathBuf, Vec<u8>)| Some((path.clone(), String::from_utf8(bytes.clone()).ok()?));
    files.iter().filter_map(text).collect()
}

/// What people do next: the commands, and what comes of them.
fn next(folder: &Utf8Path, parent: &Utf8Path, name: &str) -> [(String, String); 4] {
    let site = parent.join(format!("{name}-site"));
    [
        (command_line!["-C", folder, "preview", "--open"], "its pages, which follow every edit".to_string()),
        (command_line!["-C", folder, "render", "--into", site], format!("then open {}", site.join("index.html"))),
        (command_line!["-C", folder, "list"], "its points, where each is placed, and what it holds".to_string()),
        (command_line!["-C", folder, "declare", "hook:under-text"], "a point of your own".to_string()),
    ]
}

fn sketch(args: &NewArgs) -> Result<Sketch> {
    let text = match (&args.sketch, &args.sketch_file) {
        (Some(text), _) => text.clone(),
        (None, Some(path)) => {
            let data = fs::metadata(path).with_context(|| format!("{path} can't be read"))?;
            if !data.is_file() || data.len() > LARGEST {
                bail!("{path} is no sketch: a plain file with rows of names is wanted");
            }
            let mut text = String::new();
            let file = fs::File::open(path).with_context(|| format!("{path} can't be read"))?;
            file.take(LARGEST).read_to_string(&mut text).with_context(|| format!("{path} can't be read as text"))?;
            text
        }
        (None, None) => start::USUAL.to_string(),
    };
    Ok(Sketch::parse(&text)?)
}

/// The theme to build on, as seen from the new one's folder.
fn base_of(path: &Utf8Path, folder: &Utf8Path) -> Result<Base> {
    if !path.join("truehook.toml").exists() {
        bail!("there is no theme in {path}: it has no truehook.toml");
    }
    let registry = Registry::new(Project::open(&DiskFiles, path)?);
    let manifest = registry.manifest(registry.project().layer(registry.project().top()).manifest);
    let Some(version) = manifest.and_then(|manifest| manifest.identity.as_ref()?.version.clone()) else {
        bail!("{path} doesn't say its version; {} tells where that belongs", command_line!["-C", path, "check"]);
    };
    let whole = path.canonicalize_utf8().with_context(|| format!("{path} can't be found"))?;
    let beside = folder.parent().map(|parent| if parent.as_str().is_empty() { Utf8Path::new(".") } else { parent });
    let beside = beside.unwrap_or(Utf8Path::new("."));
    fs::create_dir_all(beside).with_context(|| format!("{beside} can't be made"))?;
    let new = beside.canonicalize_utf8().with_context(|| format!("{beside} can't be found"))?;
    let new = new.join(folder.file_name().unwrap_or_default());
    let path =
        pathdiff::diff_utf8_paths(&whole, &new).with_context(|| format!("there is no way from {new} to {whole}"))?;
    Ok(Base { path: path.as_str().replace('\\', "/").into(), version })
}

/// Writes all files of a new folder, or none, with a journal as all commands that write. Where this is ended in the
/// middle, the next command that writes there finishes it.
pub fn write_all(folder: &Utf8Path, files: &Files) -> Result<()> {
    let missing: Vec<Utf8PathBuf> = folder
        .ancestors()
        .take_while(|folder| !folder.as_str().is_empty() && !folder.exists())
        .map(Utf8Path::to_path_buf)
        .collect();
    fs::create_dir_all(folder).with_context(|| format!("{folder} can't be made"))?;
    let written = || -> Result<()> {
        let (mut lock, _) = workshop::lock_folder(folder)?;
        let root = lock.theme().to_path_buf();
        let change = |(path, bytes): &(Utf8PathBuf, Vec<u8>)| Change {
            path: root.join(path),
            shown: folder.join(path).to_string(),
            before: None,
            after: Some(bytes.clone()),
        };
        let changes: Vec<Change> = files.iter().map(change).collect();
        Ok(edit::write_all(&mut lock, &changes)?)
    };
    // Folders that were made for it go with it.
    written().inspect_err(|_| missing.iter().for_each(|folder| drop(fs::remove_dir(folder))))
}

/// Is there anything in a folder? What a command that was ended in the middle left there is finished first.
pub fn is_taken(folder: &Utf8Path, dry_run: bool) -> Result<bool> {
    if !dry_run && edit::left_over(folder)?.is_some() {
        workshop::lock_folder(folder)?;
    }
    Ok(fs::read_dir(folder).is_ok_and(|mut entries| entries.next().is_some()) || folder.is_file())
}

/// What a theme gets from the one that it builds on.
fn comes_along(out: &mut impl Write, folder: &Utf8Path) -> Result<()> {
    let registry = Registry::new(Project::open(&DiskFiles, folder)?);
    let mut rows = Vec::new();
    let kinds = [Kind::Region, Kind::Area, Kind::Menu, Kind::Hook, Kind::Section, Kind::Feature];
    for kind in kinds {
        // The host's regions are worth a word where the base places them.
        let comes = |point: &&Point| {
            let declared = point.declared.iter().any(|declared| declared.layer.index() > 0);
            declared || kind == Kind::Region && !point.uses.is_empty()
        };
        let points = registry.points().filter(|point| point.address.kind == kind).filter(comes);
        for point in points {
            let what = point.label.or(point.about).map(|text| text.to_string()).unwrap_or_default();
            let address = point.address;
            let command = match kind {
                Kind::Hook => command_line!["-C", folder, "attach", address, "notes.js#shown"],
                Kind::Region | Kind::Area => {
                    command_line!["-C", folder, "fill", address, "partial:link", "href=/", "text=Home"]
                }
                Kind::Menu => command_line!["-C", folder, "fill", address, "Home=/"],
                _ => command_line!["-C", folder, "show", address, "--source"],
            };
            rows.push(vec![address.to_string(), what, command]);
        }
    }
    if !rows.is_empty() {
        writeln!(out, "This comes along:")?;
        table::write(out, &["point", "what it is", "to change it"], 1, rows)?;
    }
    Ok(())
}
