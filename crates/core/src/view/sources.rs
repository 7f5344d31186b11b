//! The texts behind a point: what renders it, and the modules of what runs there.

use serde::Serialize;

use super::VERSION;
use crate::link::{Point, Registry, Renderer, Runs};
use crate::read::FileKind;
use crate::source::FileId;

/// A file with its text.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct SourceView {
    /// The layer.
    pub layer: String,
    /// The path below the layer's folder.
    pub file: String,
    /// All that it says.
    pub text: String,
}

/// The texts behind something.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct SourcesView {
    /// [`VERSION`].
    pub version: u32,
    /// The files: what renders first, then what runs, each once.
    pub sources: Vec<SourceView>,
}

impl SourcesView {
    /// What renders a point, in all layers that have it, the highest first; then the modules of its callbacks, in
    /// running order, with those that were replaced or detached.
    pub fn of_point(registry: &Registry, point: &Point) -> SourcesView {
        let mut files: Vec<FileId> = Vec::new();
        match point.renderer {
            Some(Renderer::Template(file)) => {
                let name = registry.project().file(file).name();
                files.extend(registry.files_named(FileKind::Template, name).iter().rev());
            }
            Some(Renderer::Callback(callback)) => files.push(callback.file),
            None => {}
        }
        for slot in point.slots.iter().chain(point.detached.iter()) {
            let first = slot.replaced.map(|replaced| replaced.first);
            for runs in [Some(slot.runs), first].into_iter().flatten() {
                match runs {
                    Runs::Callback(_, Some(callback)) => files.push(callback.file),
                    Runs::Callback(call, None) => {
                        files.extend(registry.callback_named(&call.raw, slot.layer).map(|found| found.file));
                    }
                    Runs::Partial(address, _) => match registry.point(address).and_then(|point| point.renderer) {
                        Some(Renderer::Template(file)) => files.push(file),
                        Some(Renderer::Callback(callback)) => files.push(callback.file),
                        None => {}
                    },
                }
            }
        }
        SourcesView::of(registry, files)
    }

    /// The templates of that name, the highest layer's first.
    pub fn of_template(registry: &Registry, name: &str) -> SourcesView {
        let name = name.strip_prefix("markup/").unwrap_or(name);
        SourcesView::of(registry, registry.files_named(FileKind::Template, name).iter().rev().copied().collect())
    }

    fn of(registry: &Registry, files: Vec<FileId>) -> SourcesView {
        let mut seen: Vec<FileId> = Vec::new();
        for file in files {
            if !seen.contains(&file) {
                seen.push(file);
            }
        }
        let view = |file: FileId| {
            let source = registry.project().file(file);
            let layer = registry.project().layer(source.layer).name.to_string();
            SourceView { layer, file: source.path.to_string(), text: source.text().to_string() }
        };
        SourcesView { version: VERSION, sources: seen.into_iter().map(view).collect() }
    }
}
