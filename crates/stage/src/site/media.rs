//! The files of `media/` that pages refer to, each with a print of its content.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use truehook_core::address::Address;
use truehook_core::link::{Registry, address_of, relative_path};
use truehook_core::scan::ScriptShape;
use truehook_core::source::LayerId;

/// A file that pages refer to.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub struct MediaFile {
    /// Its layer.
    pub layer: LayerId,
    /// Its path below that layer's folder.
    pub path: String,
    /// Its content, where it is not as it lies there: addresses in style sheets get their prints.
    pub text: Option<Arc<str>>,
}

/// What is known of a file, once it was asked for.
struct Known {
    file: MediaFile,
    /// The print of its content; nothing where it can't be read.
    print: Option<String>,
    /// The files that it refers to in turn: where they go, and what they are.
    follows: Vec<(String, MediaFile)>,
}

/// The files that were asked for, each read once.
#[derive(Default)]
pub struct Media {
    known: Mutex<HashMap<(LayerId, String), Arc<Known>>>,
}

impl Media {
    fn all(&self) -> MutexGuard<'_, HashMap<(LayerId, String), Arc<Known>>> {
        self.known.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn file(&self, registry: &Registry, layer: LayerId, path: &str) -> Arc<Known> {
        let key = (layer, path.to_string());
        if let Some(known) = self.all().get(&key) {
            return known.clone();
        }
        // A style sheet that imports itself is known while its addresses are followed.
        let file = MediaFile { layer, path: path.to_string(), text: None };
        let bytes = registry.project().media(layer, path).ok();
        let plain = Known { print: bytes.as_deref().map(print), file, follows: Vec::new() };
        self.all().insert(key.clone(), Arc::new(plain));
        let known = Arc::new(self.followed(registry, layer, path));
        self.all().insert(key, known.clone());
        known
    }

    /// The modules that a script loads, and those that they load in turn.
    fn imported(
        &self,
        registry: &Registry,
        layer: LayerId,
        path: &str,
        script: &ScriptShape,
    ) -> Vec<(String, MediaFile)> {
        let owner = registry.project().layer(layer).name;
        let mut follows = Vec::new();
        for import in script.imports.iter().filter(|import| import.name.starts_with('.')) {
            let Some(target) = relative_path(path, &import.name) else { continue };
            let Some((found, found_path)) = registry.find_media_file(&target, layer) else { continue };
            let known = self.file(registry, found, &found_path);
            follows.push((format!("{owner}/{target}"), known.file.clone()));
            follows.extend(known.follows.iter().cloned());
        }
        follows
    }

    /// A style sheet with all that it refers to, a script with the modules that it loads; any other file as it is.
    fn followed(&self, registry: &Registry, layer: LayerId, path: &str) -> Known {
        let plain = MediaFile { layer, path: path.to_string(), text: None };
        let file = registry.project().find(layer, path);
        if let Some(script) = file.and_then(|file| registry.script(file)) {
            let print = registry.project().media(layer, path).ok().as_deref().map(print);
            return Known { file: plain, print, follows: self.imported(registry, layer, path, script) };
        }
        let Some((file, style)) = file.and_then(|file| Some((file, registry.style(file)?))) else {
            let print = registry.project().media(layer, path).ok().as_deref().map(print);
            return Known { file: plain, print, follows: Vec::new() };
        };
        let mut text = registry.project().file(file).text().to_string();
        let owner = registry.project().layer(layer).name;
        let mut follows = Vec::new();
        // From the end, so that places stay as they are.
        for address in style.addresses.iter().rev() {
            let Some(target) = relative_path(path, &address.name) else { continue };
            let Some((found, found_path)) = registry.find_media_file(&target, layer) else { continue };
            let known = self.file(registry, found, &found_path);
            follows.push((format!("{owner}/{target}"), known.file.clone()));
            follows.extend(known.follows.iter().cloned());
            let span = registry.facts(file).span(address.at).range();
            if let (Some(print), false) = (&known.print, address.name.contains(['?', '#'])) {
                text.insert_str(span.end, &format!("?print={print}"));
            }
        }
        let print = Some(print(text.as_bytes()));
        Known { file: MediaFile { text: Some(text.into()), ..plain }, print, follows }
    }
}

/// The first 48 bits of a content's SHA-256, in hexadecimal.
fn print(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().take(6).map(|byte| format!("{byte:02x}")).collect()
}

/// Where a file is to be found from a page, and what goes beside the page for that.
pub struct Linked {
    pub address: String,
    pub files: Vec<(String, MediaFile)>,
}

impl Media {
    /// The address of a file or asset as the page at `path` shows it, with a print of its content: what
    /// `asset("media/…")` and `asset("style:…")` give.
    pub fn link(&self, registry: &Registry, path: &str, written: &str, from: LayerId) -> Option<Linked> {
        let (layer, file) = match asset_of(written) {
            Some(asset) => {
                let file = registry.project().file(registry.asset_file(registry.point(asset)?)?);
                (file.layer, file.path.to_string())
            }
            None => registry.find_media_file(written, from)?,
        };
        let known = self.file(registry, layer, &file);
        let target = format!("{}/{file}", registry.project().layer(layer).name);
        let mut files = vec![(target.clone(), known.file.clone())];
        files.extend(known.follows.iter().cloned());
        let up = up(path);
        let address = match &known.print {
            Some(print) => format!("{up}{}?print={print}", address_of(&target)),
            None => format!("{up}{}", address_of(&target)),
        };
        Some(Linked { address, files })
    }

    /// The files behind an address that a callback made of another one: a layer's name, and a path below its folder.
    pub fn at(&self, registry: &Registry, path: &str, address: &str) -> Option<Vec<(String, MediaFile)>> {
        let target = relative_path("page", address.strip_prefix(&up(path))?)?;
        let (layer, file) = target.split_once('/')?;
        let layer = registry.project().layer_named(layer)?;
        let (layer, file) = registry.find_media_file(file, layer).filter(|(found, _)| *found == layer)?;
        let known = self.file(registry, layer, &file);
        Some([(target, known.file.clone())].into_iter().chain(known.follows.iter().cloned()).collect())
    }
}

/// The way from a page to the site's root.
pub fn up(path: &str) -> String {
    "../".repeat(path.matches('/').count().saturating_sub(1))
}

fn asset_of(written: &str) -> Option<Address> {
    written.parse::<Address>().ok().filter(|address| address.kind.is_asset())
}
