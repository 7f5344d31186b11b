//! The stage of True Hook: a small host that renders pages from the registry, so that a theme can
//! be seen and tested with no publishing system.
//!
//! It resolves nothing by itself: which callback runs, in which order, which template shows a page,
//! are the registry's answers, so that checker and stage can't disagree.
//!
//! `place` never renders. In templates and callbacks alike it leaves a hole, and the stage fills
//! holes from a work list, with its own depth and cycle check. What comes out is a tree of segments;
//! the page is its text.

mod asked;
mod assets;
mod component;
mod engine;
mod features;
mod feed;
mod fill;
mod flow;
mod markup;
mod menu;
mod moments;
mod pages;
mod run;
mod tree;
mod turns;
mod urls;
mod values;
mod words;

use std::rc::Rc;
use std::sync::Arc;

use run::{Guard, Run};
use truehook_core::address::{Address, Kind};
use truehook_core::link::Registry;
use truehook_core::source::Place;

pub use assets::MediaFile;
pub use pages::PageInfo;
pub use run::{Failure, Note, Step, StepState, Trace};
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
    pub media: Vec<(String, MediaFile)>,
    /// The assets that the page loads, in order.
    pub assets: Vec<Address>,
}

/// The stage for one theme.
pub struct Stage {
    registry: Arc<Registry>,
    environment: minijinja::Environment<'static>,
    engine: Rc<engine::Engine>,
    names: Rc<run::Names>,
    pages: pages::Pages,
    media: Rc<assets::Media>,
    words: Rc<words::Words>,
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
        Stage::in_language(registry, None)
    }

    /// Sets the stage for a theme on a site in some language, whatever the preview says of it.
    ///
    /// # Errors
    /// Where the callback engine can't be started.
    pub fn in_language(registry: Arc<Registry>, language: Option<&str>) -> Result<Stage, StageError> {
        let environment = markup::environment(&registry);
        let engine = engine::Engine::new(&registry).map_err(|error| StageError::Engine(error.to_string()))?;
        let pages = pages::Pages::new(&registry, language);
        let names = Rc::new(run::Names::new(&registry));
        let words = Rc::new(words::Words::new(&registry, &pages.language()));
        Ok(Stage { registry, environment, engine: Rc::new(engine), names, pages, media: Rc::default(), words })
    }

    /// The pages of the preview, or one of each type where there is none, in the order of their paths.
    pub fn pages(&self) -> Vec<PageInfo> {
        self.pages.list()
    }

    /// The files that the site has beside its pages: where they go, and their texts.
    pub fn files(&self) -> Vec<(String, String)> {
        let feed = self.pages.feed(&self.registry).map(|feed| (features::FEED.to_string(), feed));
        feed.into_iter().collect()
    }

    /// Renders one page; nothing where there is none of that path.
    pub fn render(&self, path: &str) -> Option<Rendered> {
        self.render_page(path, false)
    }

    /// Renders one page, and keeps in the trace what each step was given and what came of it.
    pub fn watch(&self, path: &str) -> Option<Rendered> {
        self.render_page(path, true)
    }

    /// Renders one page as if these attachments were not there.
    pub fn render_without(&self, path: &str, attachments: &[Place]) -> Option<Rendered> {
        let position = self.pages.position(path)?;
        let mut run = Run::new(self, position, false);
        run.left_out = attachments.to_vec();
        Some(self.rendered(Rc::new(run), position))
    }

    fn render_page(&self, path: &str, watched: bool) -> Option<Rendered> {
        let position = self.pages.position(path)?;
        Some(self.rendered(Rc::new(Run::new(self, position, watched)), position))
    }

    fn rendered(&self, run: Rc<Run>, position: usize) -> Rendered {
        let _guard = Guard::enter(run.clone());
        let tree = fill::page(self, &run, &self.pages.info(position).page_type);
        Rendered {
            html: tree.text(),
            tree,
            trace: run.trace.take(),
            failures: run.failures.take(),
            media: run.media.take().into_iter().collect(),
            assets: run.assets.take(),
        }
    }

    /// Fires one hook, sends a value through one filter, or renders one region, area, menu spot or
    /// component, as if it stood alone on a page; nothing where there is no such page. What a filter is
    /// given comes as `value`.
    pub fn fire(&self, point: Address, path: &str, mut args: Vec<(String, serde_json::Value)>) -> Option<Fired> {
        let position = self.pages.position(path)?;
        let run = Rc::new(Run::new(self, position, true));
        let _guard = Guard::enter(run.clone());
        let declared = self.registry.point(point);
        let piped = args.iter().position(|(name, _)| name == "value" && point.kind == Kind::Filter);
        let piped = piped.map(|at| args.remove(at).1).unwrap_or_default();
        let args: component::Given =
            args.iter().map(|(name, value)| (name.clone(), values::from_json(value))).collect();
        let given = || match declared.and_then(|point| point.schema()?.get("type")?.as_str()) {
            Some("markup") => minijinja::Value::from_safe_string(piped.as_str().unwrap_or_default().to_string()),
            _ => values::from_json(&piped),
        };
        let output = match declared {
            Some(declared) if declared.moment => {
                moments::fire(&run, &point.name, &args);
                let stored = run.engine().and_then(|engine| engine.stored());
                Output::Stored(stored.map(|stored| turns::shown(&stored)).unwrap_or_default())
            }
            Some(_) if point.kind == Kind::Filter => {
                let mut call = |call: &engine::Call<'_>| fill::call(&run, call);
                let address = point.to_string();
                Output::Value(turns::shown(&flow::send_through(&run, &address, given(), &args, &mut call)))
            }
            _ => Output::Markup(fill::alone(self, &run, point, args).text()),
        };
        Some(Fired { output, trace: run.trace.take(), failures: run.failures.take() })
    }
}

/// What came of firing one point.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Output {
    /// Markup, of whatever can be placed.
    Markup(String),
    /// A value, of a filter: as JSON, markup as it is.
    Value(String),
    /// What is in the site's store after a moment, as JSON.
    Stored(String),
}

/// One point that was fired on its own.
pub struct Fired {
    /// What came of it.
    pub output: Output,
    /// What ran.
    pub trace: Trace,
    /// What went wrong.
    pub failures: Vec<Failure>,
}
