//! The stage of True Hook: a small host that renders pages from the registry, so that a theme can
//! be seen and tested with no publishing system, or by one that embeds it.
//!
//! It resolves nothing by itself: which callback runs, in which order, which template shows a page,
//! are the registry's answers, so that checker and stage can't disagree.
//!
//! `place` never renders. In templates and callbacks alike it leaves a hole, and the stage fills
//! holes from a work list, with its own depth and cycle check. What comes out is a tree of segments;
//! the page is its text.
//!
//! # Embedding it
//!
//! A [`Theme`] can be shared between threads; each thread renders on a [`Stage`] of its own. Pages come from
//! a [`Site`]: the theme's own [`Preview`], or whatever a host keeps them in.
//!
//! ```
//! use std::sync::Arc;
//!
//! use serde_json::{Map, Value, json};
//! use truehook_core::link::Registry;
//! use truehook_core::read::{MemoryFiles, Project};
//! use truehook_stage::{PageContent, PageInfo, Site, Theme};
//!
//! /// A site of one page, which knows the tide.
//! struct Harbour;
//!
//! fn table(value: Value) -> Map<String, Value> {
//!     value.as_object().cloned().unwrap_or_default()
//! }
//!
//! impl Site for Harbour {
//!     fn values(&self) -> Map<String, Value> {
//!         table(json!({
//!             "title": "Harbour",
//!             "data": { "low": "13:42" },
//!             "fill": { "region:aside": [{ "use": "partial:tide", "when": "page.type == 'front'" }] },
//!         }))
//!     }
//!
//!     fn pages(&self) -> Vec<PageInfo> {
//!         vec![PageInfo::new("/", "front", "Today")]
//!     }
//!
//!     fn page(&self, path: &str) -> Option<PageContent> {
//!         (path == "/").then(|| PageContent::default().with_body("<p>Fair weather.</p>"))
//!     }
//! }
//!
//! // A theme may lie on the disk (DiskFiles) or, as here, in memory.
//! let mut files = MemoryFiles::new();
//! files.insert("/quay/truehook.toml", "[theme]\nname = \"quay\"\nlabel = \"Quay\"\n[partial.tide]\nabout = \"T\"\n");
//! files.insert("/quay/markup/partials/tide.html", "Low water at {{ site.data.low }}");
//! files.insert(
//!     "/quay/markup/page.html",
//!     "<head>{{ place('hook:document-head') }}</head>\
//!      {{ place('region:main') }}{{ place('region:aside') }}{{ place('hook:document-end') }}",
//! );
//! let registry = Registry::new(Project::open(&files, "/quay".into()).unwrap());
//! let theme = Theme::new(Arc::new(registry));
//!
//! let pages = std::thread::scope(|scope| {
//!     let theme = &theme;
//!     let render = move || theme.stage(Arc::new(Harbour)).render("/").unwrap().html;
//!     let threads = [scope.spawn(render), scope.spawn(render)];
//!     threads.map(|thread| thread.join().unwrap())
//! });
//! assert!(pages[0].contains("<p>Fair weather.</p>Low water at 13:42"));
//! assert_eq!(pages[0], pages[1]);
//! ```

mod addresses;
mod asked;
mod engines;
mod fill;
mod host;
mod lost;
pub mod map;
pub mod origin;
mod points;
mod record;
mod rendering;
mod site;
mod stage;
mod value;
mod watch;
pub mod workers;

pub use record::trace::{Failure, Note, Step, StepState, StepValues, Trace};
pub use record::tree::{Origin, OutletName, Part, Printed, Segment, SegmentId, Source, Tree};
pub use site::links::{linked_by_file, page_file};
pub use site::media::MediaFile;
pub use site::preview::Preview;
pub use site::{PageContent, PageInfo, Site};
pub use stage::{Fired, Manner, Output, Rendered, Stage, Theme};
pub use watch::{Code, Watch};
