//! The files that a page refers to, and the assets that it gets.

use std::cell::RefCell;
use std::collections::HashMap;
use std::rc::Rc;

use sha2::{Digest, Sha256};
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Registry, relative_path};
use truehook_core::scan::Prefix;
use truehook_core::source::LayerId;

use crate::flow::{self, Caller};
use crate::markup;
use crate::run::{Failure, Run};
use crate::values::escape;

/// A file that pages refer to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MediaFile {
    /// Its layer.
    pub layer: LayerId,
    /// Its path below that layer's folder.
    pub path: String,
    /// Its content, where it is not as it lies there: addresses in style sheets get their prints.
    pub text: Option<Rc<str>>,
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
    known: RefCell<HashMap<(LayerId, String), Rc<Known>>>,
}

impl Media {
    fn file(&self, registry: &Registry, layer: LayerId, path: &str) -> Rc<Known> {
        let key = (layer, path.to_string());
        if let Some(known) = self.known.borrow().get(&key) {
            return known.clone();
        }
        // A style sheet that imports itself is known while its addresses are followed.
        let file = MediaFile { layer, path: path.to_string(), text: None };
        let bytes = registry.project.media(layer, path).ok();
        let plain = Known { print: bytes.as_deref().map(print), file, follows: Vec::new() };
        self.known.borrow_mut().insert(key.clone(), Rc::new(plain));
        let known = Rc::new(self.followed(registry, layer, path));
        self.known.borrow_mut().insert(key, known.clone());
        known
    }

    /// A style sheet with all that it refers to; any other file as it is.
    fn followed(&self, registry: &Registry, layer: LayerId, path: &str) -> Known {
        let plain = MediaFile { layer, path: path.to_string(), text: None };
        let file = registry.project.find(layer, path);
        let Some((file, style)) = file.and_then(|file| Some((file, registry.style(file)?))) else {
            let print = registry.project.media(layer, path).ok().as_deref().map(print);
            return Known { file: plain, print, follows: Vec::new() };
        };
        let mut text = registry.project.file(file).text().to_string();
        let owner = registry.project.layer(layer).name;
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

/// The address of a file or asset as the page shows it, with a print of its content: what
/// `asset("media/…")` and `asset("style:…")` give.
pub fn address(run: &Run, written: &str, from: LayerId) -> Option<String> {
    let registry = &run.registry;
    let (layer, path) = match asset_of(written) {
        Some(asset) => {
            let file = registry.asset_file(registry.point(asset)?)?;
            let file = registry.project.file(file);
            (file.layer, file.path.to_string())
        }
        None => registry.find_media_file(written, from)?,
    };
    let known = run.media_files.file(registry, layer, &path);
    let target = format!("{}/{path}", registry.project.layer(layer).name);
    let mut media = run.media.borrow_mut();
    media.insert(target.clone(), known.file.clone());
    media.extend(known.follows.iter().cloned());
    let up = up(&run.path);
    Some(match &known.print {
        Some(print) => format!("{up}{target}?print={print}"),
        None => format!("{up}{target}"),
    })
}

/// The way from a page to the site's root.
pub fn up(path: &str) -> String {
    "../".repeat(path.matches('/').count().saturating_sub(1))
}

fn asset_of(written: &str) -> Option<Address> {
    written.parse::<Address>().ok().filter(|address| address.kind.is_asset())
}

/// The address for an input that names a file of the theme. What is an address already stays as it is.
pub fn input_address(run: &Run, written: &str, caller: Caller<'_>) -> String {
    let (_, path) = Prefix::split(written);
    let own = !written.is_empty() && !written.contains("://") && !path.starts_with('/') && !written.contains("?print=");
    if !own {
        return written.to_string();
    }
    flow::asset(run, written, run.registry.project.top(), caller).unwrap_or_else(|| {
        let message = format!("there is no file `{written}`");
        run.fail(Failure { point: None, source: None, place: None, message });
        written.to_string()
    })
}

/// The assets of a page, as elements: those of the head, and those of its end.
pub fn elements(run: &Run, caller: Caller<'_>) -> (String, String) {
    let chosen = chosen(run);
    run.assets.replace(chosen.clone());
    let in_head = head_scripts(run, &chosen);
    let (mut head, mut end) = (String::new(), String::new());
    let registry = run.registry.clone();
    for address in &chosen {
        let Some(point) = registry.point(*address) else { continue };
        let Some(asset) = &point.asset else { continue };
        let Some(href) = flow::asset(run, &address.to_string(), registry.project.top(), caller) else {
            if address.kind != Kind::Bundle {
                let message = "its file is not there".to_string();
                run.fail(Failure { point: Some(address.to_string()), source: None, place: None, message });
            }
            continue;
        };
        let href = escape(&href);
        match address.kind {
            Kind::Style => {
                let media = asset.media.filter(|media| *media != "all");
                let media = media.map(|media| format!(" media=\"{}\"", escape(&media))).unwrap_or_default();
                head.push_str(&format!("<link rel=\"stylesheet\" href=\"{href}\"{media}>\n"));
            }
            _ => {
                let file = registry.asset_file(point).and_then(|file| registry.script(file));
                let module = if file.is_some_and(|script| script.module) { " type=\"module\"" } else { "" };
                let script = format!("<script{module} src=\"{href}\"></script>\n");
                if in_head.contains(address) { head.push_str(&script) } else { end.push_str(&script) }
            }
        }
    }
    (head, end)
}

/// The assets that are on a page, in the order in which they come: those on every page whose condition
/// holds, those that its components need, and all that these need in turn.
fn chosen(run: &Run) -> Vec<Address> {
    let registry = &run.registry;
    let mut wanted: Vec<Address> = Vec::new();
    let everywhere = registry.points.values().filter(|point| point.asset.is_some() && registry.is_on_all_pages(point));
    wanted.extend(everywhere.map(|point| point.address));
    for shown in run.trace.borrow().points.iter().filter(|shown| shown.kind.is_component()) {
        let needs = registry.point(*shown).map(|point| registry.needs_of(point)).unwrap_or_default();
        wanted.extend(needs);
    }
    let mut on: Vec<Address> = Vec::new();
    for address in wanted {
        let Some(point) = registry.point(address) else { continue };
        if on.contains(&address) || !holds(run, address) {
            continue;
        }
        on.push(address);
        on.extend(registry.all_needs(point));
    }
    let there = |address: &&Address| {
        on.contains(address) && registry.point(**address).is_some_and(|point| point.dropped.is_none())
    };
    registry.asset_order.iter().filter(there).copied().collect()
}

/// Does the condition of an asset hold on this page?
fn holds(run: &Run, address: Address) -> bool {
    let registry = run.registry.clone();
    let Some(asset) = registry.point(address).and_then(|point| point.asset.as_ref()) else { return false };
    if asset.switched_off {
        let message = "its condition can't be understood, so it is on no page".to_string();
        run.fail(Failure { point: Some(address.to_string()), source: None, place: None, message });
        return false;
    }
    asset.when.as_ref().is_none_or(|when| {
        markup::holds(when, run.globals()).unwrap_or_else(|message| {
            run.fail(Failure { point: Some(address.to_string()), source: None, place: None, message });
            false
        })
    })
}

/// The scripts that have to be in the head: those that say so, and what they need. Where the host has no
/// hook for the page's end, all of them.
fn head_scripts(run: &Run, chosen: &[Address]) -> Vec<Address> {
    let registry = &run.registry;
    let no_end = registry.end_hook().is_none();
    let mut found: Vec<Address> = Vec::new();
    for address in chosen.iter().filter(|address| address.kind == Kind::Script) {
        let Some(point) = registry.point(*address) else { continue };
        if no_end || point.asset.as_ref().is_some_and(|asset| asset.head) {
            found.push(*address);
            found.extend(registry.all_needs(point));
        }
    }
    found
}
