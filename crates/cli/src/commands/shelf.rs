//! `shelf`: the themes of a folder.

use std::io::Write;

use anyhow::{Context, Result, bail};
use camino::{Utf8Path, Utf8PathBuf};
use serde::Serialize;
use truehook_core::command_line;
use truehook_core::read::{LARGEST, read_plain};
use truehook_core::rules;
use truehook_core::view::{LayerView, ShelvedView, VERSION};
use truehook_sheets::ShelfSheet;

use crate::Outcome;
use crate::args::{Format, ShelfArgs};
use crate::output::{self, count, table};
use crate::{progress, sheets, workshop};

/// What `shelf --format json` prints.
#[derive(Serialize, schemars::JsonSchema)]
struct View {
    version: u32,
    themes: Vec<ShelvedView>,
}

/// The form of what `--format json` prints.
pub fn form() -> schemars::Schema {
    output::form::<View>()
}

pub fn run(theme: Option<&Utf8Path>, args: &ShelfArgs) -> Result<Outcome> {
    if theme.is_some() {
        bail!("shelf is about a folder of themes, and takes no -C");
    }
    let folder = &args.folder;
    let mut themes = Vec::new();
    let names = folders(folder)?;
    let progress = progress::of("checking", names.len());
    for name in names {
        let place = folder.join(&name);
        let registry = workshop::open_to_check(&place, &workshop::files(&place)?)
            .with_context(|| format!("{place} can't be opened"))?;
        themes.push(ShelvedView::new(&name, &registry, &rules::check(&registry)));
        progress.step();
    }
    drop(progress);
    if themes.is_empty() {
        bail!(
            "no folder in {folder} has a truehook.toml; {} begins a theme there",
            command_line!["new", "NAME", "--into", folder]
        );
    }
    let fits = themes.iter().all(|theme| theme.fits);
    let outcome = if fits { Outcome::Clean } else { Outcome::Findings };
    if let Some(file) = &args.html {
        let picture = |theme: &ShelvedView| {
            let path = theme.theme.picture.as_ref()?;
            let plain = !path.split(['/', '\\']).any(|part| part == "..") && !Utf8Path::new(path).is_absolute();
            plain.then(|| read_plain(&theme.theme.picture_root.join(path), LARGEST).ok())?
        };
        sheets::write(file, &ShelfSheet::new(&named(folder), &themes, picture).html()?)?;
        return Ok(outcome);
    }
    let mut out = crate::output::stream::stdout();
    match args.format {
        Format::Json => output::json(&mut out, &View { version: VERSION, themes })?,
        Format::Text => write(&mut out, &themes)?,
    }
    out.flush()?;
    Ok(outcome)
}

/// What a folder is called, also where it was named by dots.
fn named(folder: &Utf8Path) -> String {
    let whole = folder.canonicalize_utf8().unwrap_or_else(|_| folder.to_owned());
    whole.file_name().unwrap_or(folder.as_str()).to_string()
}

/// The folders that hold a theme, a companion or a host, by name.
fn folders(folder: &Utf8Path) -> Result<Vec<String>> {
    let entries = folder.read_dir_utf8().with_context(|| format!("{folder} can't be looked into"))?;
    let mut found: Vec<String> = Vec::new();
    for entry in entries {
        let path: Utf8PathBuf = entry.with_context(|| format!("{folder} can't be looked into"))?.into_path();
        if path.join("truehook.toml").is_file() {
            found.extend(path.file_name().map(str::to_string));
        }
    }
    found.sort();
    Ok(found)
}

fn write(out: &mut impl Write, themes: &[ShelvedView]) -> Result<()> {
    let rows = themes.iter().map(|shelved| {
        let theme = &shelved.theme;
        let version = theme.version.as_ref().map(|version| format!(" {version}")).unwrap_or_default();
        let below: Vec<String> = theme.layers.iter().skip(1).map(layer).collect();
        let fits = if shelved.fits { "fits".to_string() } else { shelved.reasons.join("\n") };
        let [errors, warnings, _] = theme.findings.unwrap_or_default();
        let found = match errors + warnings {
            0 => "nothing found".to_string(),
            _ => format!("{}, {}", count(errors, "error"), count(warnings, "warning")),
        };
        let what = if theme.role == "theme" { String::new() } else { format!("\na {}", theme.role) };
        vec![format!("{}/", shelved.folder), format!("{}{version}{what}", theme.title()), below.join("\n"), fits, found]
    });
    table::write(out, &["folder", "what it is", "on", "fits", "check"], 3, rows)
}

fn layer(layer: &LayerView) -> String {
    let version = layer.version.as_ref().map(|version| format!(" {version}")).unwrap_or_default();
    format!("{} {}{version}", layer.role, layer.label.as_ref().unwrap_or(&layer.name))
}
