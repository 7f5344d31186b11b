//! The stage itself: a theme that is shared, and pages that are rendered, each in a scene of its own.

use std::borrow::Cow;
use std::cell::OnceCell;
use std::rc::{Rc, Weak};
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Asks, Registry};
use truehook_core::source::Place;

use crate::engines::callbacks::{Engine, Outside};
use crate::engines::templates::Templates;
use crate::fill;
use crate::host::Scene;
use crate::lost::lost;
use crate::points::host::PageHost;
use crate::points::{filters, moments};
use crate::record::trace::{Failure, Trace};
use crate::record::tree::Tree;
use crate::rendering::{Rendering, Shared};
use crate::site::feed::FEED;
use crate::site::media::MediaFile;
use crate::site::preview::Preview;
use crate::site::setting::Setting;
use crate::site::texts;
use crate::site::words::Words;
use crate::site::{PageInfo, Site};
use crate::value::{Given, from_json, shown};
use crate::watch::{Code, Watch};

/// A theme, ready to be rendered. It can be shared between threads, and copies of it are cheap.
#[derive(Clone)]
pub struct Theme {
    shared: Arc<Shared>,
    templates: Arc<Templates>,
}

impl Theme {
    /// The theme of a registry.
    pub fn new(registry: Arc<Registry>) -> Theme {
        Theme::watched(registry, Arc::new(Watch::default()))
    }

    /// The theme of a registry; what it is carrying out can be seen by others.
    pub fn watched(registry: Arc<Registry>, watch: Arc<Watch>) -> Theme {
        Theme { templates: Arc::new(Templates::new(&registry)), shared: Arc::new(Shared::new(registry, watch)) }
    }

    /// Its own preview, as a site.
    pub fn preview(&self) -> Preview {
        Preview::new(self.shared.registry.clone())
    }

    /// A stage on which the theme shows the pages of a site.
    pub fn stage(&self, site: Arc<dyn Site>) -> Stage {
        self.stage_in(site, None)
    }

    /// As [`stage`](Theme::stage), in some language, whatever the site says of it.
    pub fn stage_in(&self, site: Arc<dyn Site>, language: Option<&str>) -> Stage {
        let registry = &self.shared.registry;
        let engine = Engine::new(registry);
        let setting = Setting::new(registry, &*site, language);
        let words = Arc::new(Words::new(registry, &setting.language()));
        Stage { theme: self.clone(), site, engine: Rc::new(engine), setting: Arc::new(setting), words }
    }
}

/// The stage for one theme and one site. It stays on one thread.
pub struct Stage {
    theme: Theme,
    site: Arc<dyn Site>,
    engine: Rc<Engine>,
    setting: Arc<Setting>,
    words: Arc<Words>,
}

/// A page, as it came out.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
#[non_exhaustive]
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
    /// The page's type.
    pub page_type: String,
    /// The conditions that pages of this type may have to meet, in the template language, each with whether this one
    /// meets it; only where it was watched.
    pub met: Vec<(String, bool)>,
}

/// What came of firing one point.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Output {
    /// Markup, of whatever can be placed.
    Markup(String),
    /// A value, of a filter: as JSON, markup as it is.
    Value(String),
    /// What is in the site's store after a moment, as JSON.
    Stored(String),
}

impl Output {
    /// The word for what it is: `markup`, `value` or `stored`.
    pub fn word(&self) -> &'static str {
        match self {
            Output::Markup(_) => "markup",
            Output::Value(_) => "value",
            Output::Stored(_) => "stored",
        }
    }

    /// It, as text.
    pub fn text(&self) -> &str {
        let (Output::Markup(text) | Output::Value(text) | Output::Stored(text)) = self;
        text
    }
}

/// One point that was fired on its own.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Fired {
    /// What came of it.
    pub output: Output,
    /// What ran.
    pub trace: Trace,
    /// What went wrong.
    pub failures: Vec<Failure>,
}

/// How a page is to be rendered.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Manner {
    /// Is what each step was given and gave to be kept?
    pub watched: bool,
    /// Is it to be kept what printed each text?
    pub sourced: bool,
    /// Attachments that are left out.
    pub left_out: Vec<Place>,
    /// Points that print nothing, and through which nothing is sent.
    pub silent: Vec<Address>,
    /// Items that fill regions and areas which nothing else fills.
    pub samples: Vec<(Address, serde_json::Value)>,
    /// An item that is the only one in a region or area, whatever else would be there.
    pub only: Option<(Address, serde_json::Value)>,
    /// Code that is not run, and what is said of it: it has ended the process that ran it.
    pub barred: Vec<(Code, String)>,
}

impl Manner {
    /// With what each step was given and gave.
    pub fn watched() -> Manner {
        Manner { watched: true, ..Manner::default() }
    }

    /// Watched, and with what printed each text.
    pub fn sourced() -> Manner {
        Manner { sourced: true, ..Manner::watched() }
    }

    /// As if these points were not there, and these attachments.
    pub fn without_points(points: &[Address], attachments: &[Place]) -> Manner {
        Manner { silent: points.to_vec(), left_out: attachments.to_vec(), ..Manner::default() }
    }

    /// Watched, and with items in regions and areas which nothing else fills.
    pub fn with_samples(samples: Vec<(Address, serde_json::Value)>) -> Manner {
        Manner { samples, ..Manner::watched() }
    }

    /// Watched, and with one item as the only one in a region or area.
    pub fn with_only(holder: Address, item: serde_json::Value) -> Manner {
        Manner { only: Some((holder, item)), ..Manner::watched() }
    }

    /// As if these attachments were not there.
    pub fn without(attachments: &[Place]) -> Manner {
        Manner { left_out: attachments.to_vec(), ..Manner::default() }
    }
}

impl Stage {
    /// The stage for a theme with its own preview.
    pub fn new(registry: Arc<Registry>) -> Stage {
        Stage::in_language(registry, None)
    }

    /// The stage for a theme with its own preview in some language, whatever that says of it.
    pub fn in_language(registry: Arc<Registry>, language: Option<&str>) -> Stage {
        let theme = Theme::new(registry);
        theme.stage_in(Arc::new(theme.preview()), language)
    }

    pub(crate) fn registry(&self) -> &Registry {
        &self.theme.shared.registry
    }

    /// All pages, in the order of their paths.
    pub fn pages(&self) -> Vec<PageInfo> {
        self.setting.pages().to_vec()
    }

    /// The page of that path, with or without the slash at its end.
    pub fn page(&self, path: &str) -> Option<&PageInfo> {
        self.setting.find(path)
    }

    /// The files that the site has beside its pages: where they go, and their texts.
    pub fn files(&self) -> Vec<(String, String)> {
        let feed = self.setting.feed(self.registry(), &*self.site);
        feed.map(|feed| (FEED.to_string(), feed)).into_iter().collect()
    }

    /// What went wrong with the site as a whole: content that no page can show.
    pub fn failures(&self) -> Vec<Failure> {
        lost(self.registry(), &self.site.values())
    }

    /// Renders one page; nothing where there is none of that path.
    pub fn render(&self, path: &str) -> Option<Rendered> {
        self.rendered(path, Manner::default())
    }

    /// Renders one page, and keeps in the trace what each step was given and what came of it.
    pub fn watch(&self, path: &str) -> Option<Rendered> {
        self.rendered(path, Manner::watched())
    }

    /// Renders one page in some manner.
    pub fn rendered(&self, path: &str, manner: Manner) -> Option<Rendered> {
        let info = self.setting.find(path)?;
        let scene = self.scene(info, manner);
        let tree = fill::page(&self.theme.templates, &scene, &info.page_type);
        let page = &scene.page;
        let mut rendered = Rendered {
            html: tree.text(),
            tree,
            trace: page.trace.take(),
            failures: page.take_failures(),
            media: page.media.take().into_iter().collect(),
            assets: page.assets.take(),
            page_type: info.page_type.clone(),
            met: Vec::new(),
        };
        if page.watched {
            rendered.met = self.met(&scene, &info.page_type);
        }
        Some(rendered)
    }

    /// Which of the conditions that pages of a type may have to meet a page meets that has been made.
    fn met(&self, scene: &Rc<Scene>, page_type: &str) -> Vec<(String, bool)> {
        let registry = self.registry();
        let Some(at) = registry.types().iter().position(|known| known.name == *page_type) else { return Vec::new() };
        let conditions = registry.conditions_on(at).into_iter().filter(|condition| condition.asks != Asks::Inside);
        let met = conditions.filter_map(|condition| {
            let met = match condition.asks {
                Asks::Section(section) => scene.page.has_section(section),
                _ => self.theme.templates.holds(scene, condition.text).ok()?,
            };
            Some((condition.text.to_string(), met))
        });
        met.collect()
    }

    /// A page that is about to be made, with its host and its engine.
    fn scene(&self, info: &PageInfo, manner: Manner) -> Rc<Scene> {
        let mut content = self.site.page(&info.path).unwrap_or_default();
        let mut taken_out = Vec::new();
        if let Some(body) = content.body.as_mut().filter(|_| !self.registry().limits().scripts_in_texts) {
            let (clean, found) = texts::cleaned(body);
            taken_out = found;
            if let Cow::Owned(clean) = clean {
                *body = clean;
            }
        }
        let globals = self.setting.globals(info, &content, &*self.site);
        let (shared, setting, words) = (self.theme.shared.clone(), self.setting.clone(), self.words.clone());
        let mut page = Rendering::new(shared, setting, words, info, content, globals);
        for script in taken_out {
            page.fail(Failure::new(format!("`{}` is taken out of the page's text", script.what)));
        }
        page.watched = manner.watched;
        page.sourced = manner.sourced;
        page.left_out = manner.left_out;
        page.silent = manner.silent;
        page.samples = manner.samples;
        page.only = manner.only;
        page.barred = manner.barred;
        Rc::new_cyclic(|scene: &Weak<Scene>| Scene {
            page,
            host: Box::new(PageHost { templates: self.theme.templates.clone(), scene: scene.clone() }),
            calls: Outside::new(self.engine.clone(), scene.clone()),
            key: OnceCell::new(),
        })
    }

    /// Fires one hook, sends a value through one filter, or renders one region, area, menu spot or
    /// component, as if it stood alone on a page; nothing where there is no such page. What a filter is
    /// given comes as `value`.
    pub fn fire(&self, point: Address, path: &str, args: Vec<(String, serde_json::Value)>) -> Option<Fired> {
        self.fired(point, path, args, Manner::watched())
    }

    /// As [`fire`](Stage::fire), in some manner.
    pub fn fired(
        &self,
        point: Address,
        path: &str,
        mut args: Vec<(String, serde_json::Value)>,
        manner: Manner,
    ) -> Option<Fired> {
        let scene = self.scene(self.setting.find(path)?, manner);
        let here = scene.here();
        let declared = self.registry().point(point);
        let piped = args.iter().position(|(name, _)| name == "value" && point.kind == Kind::Filter);
        let piped = piped.map(|at| args.remove(at).1).unwrap_or_default();
        let args: Given = args.iter().map(|(name, value)| (name.clone(), from_json(value))).collect();
        let given = || match declared.and_then(|point| point.schema()?.get("type")?.as_str()) {
            Some("markup") => minijinja::Value::from_safe_string(piped.as_str().unwrap_or_default().to_string()),
            _ => from_json(&piped),
        };
        let output = match declared {
            Some(declared) if declared.moment => {
                moments::fire(&here, &point.name, &args);
                Output::Stored(scene.calls.stored().map(|stored| shown(&stored)).unwrap_or_default())
            }
            Some(_) if point.kind == Kind::Filter => {
                Output::Value(shown(&filters::send_through(&here, &point.to_string(), given(), &args)))
            }
            _ => Output::Markup(fill::alone(&self.theme.templates, &scene, point, args).text()),
        };
        Some(Fired { output, trace: scene.page.trace.take(), failures: scene.page.take_failures() })
    }
}
