//! Sheets are written as files of their own.

use std::io::Write;

use anyhow::{Context, Result, bail};
use camino::Utf8Path;
use tempfile::NamedTempFile;

use crate::output::style;

/// Writes a sheet, all of it or nothing, and says where it is. A file that no sheet was is left alone.
pub fn write(file: &Utf8Path, text: &str) -> Result<()> {
    if file.as_str().trim().is_empty() || file.is_dir() {
        bail!("`{file}` is no file; name one, as in map.html");
    }
    let folder = file.parent().filter(|folder| !folder.as_str().is_empty()).unwrap_or(Utf8Path::new("."));
    beside_the_files_of_themes(folder, file)?;
    match std::fs::read(file) {
        Ok(bytes) if !is_sheet(&bytes) => {
            bail!("{file} is there already, and is none of ours; name another file, or move it away");
        }
        _ => {}
    }
    std::fs::create_dir_all(folder).with_context(|| format!("the folder {folder} can't be made"))?;
    let mut written = NamedTempFile::new_in(folder).with_context(|| format!("{folder} can't be written to"))?;
    written.write_all(text.as_bytes()).with_context(|| format!("{file} can't be written"))?;
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        written.as_file().set_permissions(std::fs::Permissions::from_mode(0o644))?;
    }
    written.persist(file).with_context(|| format!("{file} can't be written"))?;
    let mut out = crate::output::stream::stdout();
    writeln!(out, "{}{file}{}", style::POINT.render(), style::POINT.render_reset())?;
    out.flush()?;
    Ok(())
}

/// The folders of a theme, in which each file means something.
const FOLDERS: [&str; 6] = ["code", "markup", "media", "points", "preview", "words"];

/// Refuses a file that would be one of a theme's.
fn beside_the_files_of_themes(folder: &Utf8Path, file: &Utf8Path) -> Result<()> {
    let whole = camino::absolute_utf8(folder)?;
    let theme = whole.ancestors().find(|folder| folder.join("truehook.toml").exists());
    let below = theme.and_then(|theme| whole.strip_prefix(theme).ok()).and_then(|below| below.components().next());
    if let Some(first) = below.filter(|first| FOLDERS.contains(&first.as_str())) {
        bail!("{file} would be one of the theme's own files, in its {first}/; name another folder");
    }
    Ok(())
}

fn is_sheet(bytes: &[u8]) -> bool {
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(1024)]).into_owned();
    bytes.is_empty() || head.contains("content=\"truehook\"") || head.contains("`truehook atlas --md`")
}
