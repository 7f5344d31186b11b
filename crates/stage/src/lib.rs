//! The stage of True Hook: a small host that renders pages from the registry, so that a theme can
//! be seen and tested with no publishing system.
//!
//! It resolves nothing by itself: which callback runs, in which order, which template shows a page,
//! are the registry's answers, so that checker and stage can't disagree.
//!
//! `place` never renders. In templates and callbacks alike it leaves a hole, and the stage fills
//! holes from a work list, with its own depth and cycle check. What comes out is a tree of segments;
//! the page is its text.

mod engine;
mod fill;
mod flow;
mod markup;
mod pages;
mod run;
mod tree;
mod turns;
mod values;

use std::rc::Rc;
use std::sync::Arc;

use camino::Utf8PathBuf;
use truehook_core::link::Registry;

pub use pages::PageInfo;
pub use run::{Failure, Step, StepState, Trace};
pub use tree::{Origin, Segment, SegmentId, Tree};

/// A page, as it came out.
pub struct Rendered {
    /// The page.
    pub html: String,
    /// The page as a tree: which part came from where.
    pub tree: Tree,
    /// What ran.
    pub trace: Trace,
    /// What went wrong. The page is there all the same, without the broken parts.
    pub failures: Vec<Failure>,
    /// The files of `media/` that the page refers to: where they go beside it, and where they are.
    pub media: Vec<(String, Utf8PathBuf)>,
}

/// The stage for one theme.
pub struct Stage {
    registry: Arc<Registry>,
    environment: minijinja::Environment<'static>,
    engine: Rc<engine::Engine>,
    pages: pages::Pages,
}

/// Why the stage can't be set up.
#[derive(Debug, thiserror::Error)]
pub enum StageError {
    /// The callback engine can't be started, most likely for lack of memory.
    #[error("the callback engine can't be started: {0}")]
    Engine(String),
}

impl Stage {
    /// Sets the stage for a theme.
    ///
    /// # Errors
    /// Where the callback engine can't be started.
    pub fn new(registry: Arc<Registry>) -> Result<Stage, StageError> {
        let environment = markup::environment(&registry);
        let engine = engine::Engine::new(&registry).map_err(|error| StageError::Engine(error.to_string()))?;
        let pages = pages::Pages::new(&registry);
        Ok(Stage { registry, environment, engine: Rc::new(engine), pages })
    }

    /// The pages of the preview, or one of each type where there is none, in the order of their paths.
    pub fn pages(&self) -> Vec<PageInfo> {
        self.pages.list()
    }

    /// Renders one page; nothing where there is none of that path.
    pub fn render(&self, path: &str) -> Option<Rendered> {
        let position = self.pages.position(path)?;
        Some(fill::render(self, position))
    }
}
