//! `emit host`: the built-in contract, to start one's own from.

use anyhow::{Result, bail};
use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::names::is_kebab;
use truehook_core::read::standard_files;

use super::print;
use crate::Outcome;
use crate::commands::new::{is_taken, write_all};

pub fn run(into: Option<&Utf8Path>) -> Result<Outcome> {
    let files = standard_files();
    let below = |path: &Utf8Path| path.strip_prefix("standard:").unwrap_or(path).to_path_buf();
    let Some(into) = into else {
        let manifest = files.iter().find(|(path, _)| below(path) == "truehook.toml");
        print(manifest.map(|(_, bytes)| bytes).unwrap_or_default())?;
        return Ok(Outcome::Clean);
    };
    if is_taken(into, false)? || into.exists() {
        bail!("{into} is there already; name a folder that isn't");
    }
    // A layer is called as its folder.
    let name = into.file_name().filter(|name| is_kebab(name));
    let named = |path: &Utf8Path, bytes: &[u8]| {
        let text = std::str::from_utf8(bytes).ok().filter(|_| path == "truehook.toml");
        let named = text.zip(name).map(|(text, name)| text.replacen("\"standard\"", &format!("\"{name}\""), 1));
        named.map_or(bytes.to_vec(), String::into_bytes)
    };
    let files: Vec<(Utf8PathBuf, Vec<u8>)> = files
        .iter()
        .map(|(path, bytes)| {
            let path = below(path);
            let bytes = named(&path, bytes);
            (path, bytes)
        })
        .collect();
    write_all(into, &files)?;
    let next = format!(
        "{into} is the built-in contract, to be changed; a theme works with it by host = {{ contract = \"PATH\" }} in [theme]\n"
    );
    print(next.as_bytes())?;
    Ok(Outcome::Clean)
}
