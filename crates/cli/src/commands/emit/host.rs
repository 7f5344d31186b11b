//! `emit host`: the built-in contract, to start one's own from.

use anyhow::{Context, Result, bail};
use camino::Utf8Path;
use truehook_core::edit;
use truehook_core::names::is_kebab;
use truehook_core::read::standard_files;

use super::print;
use crate::Outcome;

pub fn run(into: Option<&Utf8Path>) -> Result<Outcome> {
    let files = standard_files();
    let below = |path: &Utf8Path| path.strip_prefix("standard:").unwrap_or(path).to_path_buf();
    let Some(into) = into else {
        let manifest = files.iter().find(|(path, _)| below(path) == "truehook.toml");
        print(manifest.map(|(_, bytes)| bytes).unwrap_or_default())?;
        return Ok(Outcome::Clean);
    };
    if into.exists() {
        bail!("{into} is there already; name a folder that isn't");
    }
    // It comes as a whole or not at all.
    let parent = into.parent().filter(|parent| !parent.as_str().is_empty()).unwrap_or(Utf8Path::new("."));
    let beside = tempfile::Builder::new().prefix(".truehook-").tempdir_in(parent);
    let beside = beside.with_context(|| format!("nothing can be written in {parent}"))?;
    let folder = Utf8Path::from_path(beside.path()).context("the folder's name is not UTF-8")?;
    let name = into.file_name().filter(|name| is_kebab(name));
    for (path, bytes) in files.iter() {
        let path = folder.join(below(path));
        // A layer is called as its folder.
        let text = std::str::from_utf8(bytes).ok().filter(|_| path.ends_with("truehook.toml"));
        let named = text.zip(name).map(|(text, name)| text.replacen("\"standard\"", &format!("\"{name}\""), 1));
        let bytes = named.as_ref().map_or(bytes, |named| named.as_bytes());
        std::fs::create_dir_all(path.parent().unwrap_or(folder))?;
        edit::save(&path, bytes)?;
    }
    std::fs::rename(folder, into).with_context(|| format!("{into} can't be made"))?;
    let mode = std::os::unix::fs::PermissionsExt::from_mode(0o755);
    #[cfg(unix)]
    std::fs::set_permissions(into, mode)?;
    let next = format!(
        "{into} is the built-in contract, to be changed; a theme works with it by host = {{ contract = \"PATH\" }} in [theme]\n"
    );
    print(next.as_bytes())?;
    Ok(Outcome::Clean)
}
