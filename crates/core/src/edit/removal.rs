//! A theme as it would be if nothing declared a point: for looking at, never written.

use camino::Utf8PathBuf;

use super::EditError;
use super::tables::{removed, tables};
use super::tree;
use super::words::words;
use crate::address::{Address, Kind};
use crate::link::Registry;
use crate::read::FileKind;

/// The files of all layers that would differ.
#[derive(Debug, Default)]
pub struct Removal {
    /// Files with another text, by their whole path.
    pub over: Vec<(Utf8PathBuf, String)>,
    /// Files that would not be there.
    pub gone: Vec<Utf8PathBuf>,
}

/// Does a point show by other means than a placement, so that a page without it is one on which it isn't declared?
pub fn is_removed_whole(address: Address) -> bool {
    matches!(address.kind, Kind::Feature | Kind::Style | Kind::Script | Kind::Bundle | Kind::Option | Kind::Template)
}

/// A theme without some points. What the host declares is taken out of use instead.
///
/// # Errors
/// Where a manifest can't be edited.
pub fn removal(registry: &Registry, points: &[Address]) -> Result<Removal, EditError> {
    let project = registry.project();
    let top = project.top();
    let mut removal = Removal::default();
    for layer in (0..project.layers.len()).map(|at| crate::source::LayerId(at as u16)) {
        let known = project.layer(layer);
        if known.built_in {
            continue;
        }
        for (_, file) in project.files_of(layer) {
            let path = known.root.join(&file.path);
            let is_template = |point: &Address| {
                point.kind == Kind::Template
                    && file.kind == FileKind::Template
                    && file.name() == format!("{}.html", point.name)
            };
            if points.iter().any(is_template) {
                removal.gone.push(path);
                continue;
            }
            if file.kind != FileKind::Manifest {
                continue;
            }
            let mut text = file.text().to_string();
            for point in points {
                text = undeclared(&text, *point)?;
            }
            if layer == top && file.path == "truehook.toml" {
                for point in points.iter().filter(|point| is_the_hosts(registry, **point)) {
                    text.push_str(&format!("\n[{}.{}]\ndropped = true\n", point.kind, point.name));
                }
            }
            if text != file.text() {
                removal.over.push((path, text));
            }
        }
    }
    Ok(removal)
}

/// Does the host bring it to a page by itself, also where no other layer declares it?
fn is_the_hosts(registry: &Registry, address: Address) -> bool {
    let point = registry.point(address).filter(|_| matches!(address.kind, Kind::Style | Kind::Script | Kind::Bundle));
    point.is_some_and(|point| point.declared.iter().any(|declared| registry.project().layer(declared.layer).built_in))
}

/// A manifest without what it says of a point.
fn undeclared(plain: &str, address: Address) -> Result<String, EditError> {
    let keys: Vec<&str> = match address.argument() {
        Some((whole, argument)) => {
            [whole.kind.word(), whole.name.as_str()].into_iter().chain(argument.split('.')).collect()
        }
        None => vec![address.kind.word(), address.name.as_str()],
    };
    let mut text = plain.to_string();
    while let Some(table) = tables(&text).unwrap_or_default().into_iter().rev().find(|table| table.is_below(&keys)) {
        text.replace_range(removed(&text, table.start..table.end), "");
    }
    if words(&text).iter().any(|word| word.is_key && word.is_at(&keys)) {
        text = tree::changed(&text, |document| {
            tree::unset(document.as_table_mut(), &keys);
            Ok(())
        })?;
    }
    Ok(text)
}
