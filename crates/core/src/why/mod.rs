//! Why something does, or does not, show up: the chain from its declaration to the page, link by link, with
//! the first that is broken.
//!
//! The registry answers what does not depend on a page's values. What does (conditions, callbacks that
//! fail or return nothing) comes from one rendering of the page, as [`Seen`].

mod callbacks;
mod chain;
mod feature;

use serde::Serialize;

use crate::address::{Address, Kind};
use crate::link::{Callback, Registry, Runs, Slot};
use crate::rules::{self, Level};
use crate::source::{FileId, LineIndex, Place, Span};
use crate::view::{PlaceView, VERSION};

/// How it is with one link of the chain.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum LinkState {
    /// It holds.
    Good,
    /// It does not.
    Broken,
    /// It need not hold.
    Idle,
    /// A link before it is broken.
    Unknown,
}

/// One thing to say of a link.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct WhyLine {
    /// Where.
    pub place: Option<PlaceView>,
    /// What is to be said.
    pub text: String,
}

/// One link of the chain.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct WhyLink {
    /// The word for it: declared, attached, filled, placed, reached, on and so on.
    pub name: &'static str,
    /// How it is.
    pub state: LinkState,
    /// What is to be said of it.
    pub lines: Vec<WhyLine>,
    /// For a broken link: the reason in the reader's words, as the end of a sentence.
    pub reason: Option<String>,
}

/// What became of one callback.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct WhyCallback {
    /// Its name.
    pub callback: String,
    /// The point that it is attached to.
    pub point: String,
    /// `ran`, `off`, `failed`, `nothing` (it ran and gave nothing), `unchanged`, `overridden` (by callbacks that
    /// ran later), `spare` (the page is the same without it), `detached`, `replaced`, or `attached` where no page
    /// was rendered.
    pub state: &'static str,
    /// More of that, in words.
    pub text: String,
    /// Where it is attached.
    pub place: PlaceView,
}

/// The answer.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Why {
    /// [`VERSION`].
    pub version: u32,
    /// What was asked about.
    pub subject: String,
    /// The page that was asked about.
    pub page: Option<String>,
    /// Does it show?
    pub shows: bool,
    /// The answer in one sentence.
    pub answer: String,
    /// The links, in order.
    pub chain: Vec<WhyLink>,
    /// The position of the first broken one.
    pub broken: Option<usize>,
    /// What became of the callbacks.
    pub callbacks: Vec<WhyCallback>,
    /// What mends it.
    pub mends: Vec<String>,
}

/// A page that was asked about.
#[derive(Clone, Debug)]
pub struct Asked {
    /// Its path.
    pub path: String,
    /// The position of its type.
    pub page_type: Option<usize>,
    /// What was seen when it was rendered.
    pub seen: Seen,
}

/// What was seen when a page was rendered.
#[derive(Clone, Debug, Default)]
pub struct Seen {
    /// The points that were put on the page, or sent a value through.
    pub points: Vec<Address>,
    /// Those of them of which something shows.
    pub shown: Vec<Address>,
    /// The attachments that came to their turn.
    pub steps: Vec<SeenStep>,
    /// The assets that the page loads.
    pub assets: Vec<Address>,
    /// Attachments in question, where the page is the same without them.
    pub spare: Vec<Place>,
}

/// An attachment that came to its turn.
#[derive(Clone, Debug)]
pub struct SeenStep {
    /// Where it is attached.
    pub slot: Place,
    /// `ran`, `off` or `failed`.
    pub state: &'static str,
    /// What went wrong.
    pub failure: Option<String>,
    /// Did it give nothing?
    pub gave_nothing: bool,
    /// Did it give back what it was given?
    pub gave_the_same: bool,
}

impl SeenStep {
    /// Did it run, and give something else than it was given?
    pub fn changed(&self) -> bool {
        self.state == "ran" && !self.gave_the_same
    }
}

/// Why a point does, or does not, show up: on one page, or on any.
pub fn point(registry: &Registry, address: Address, page: Option<&Asked>) -> Why {
    let asking = Asking { registry, page };
    let mut chain = match address.kind {
        Kind::Feature => feature::feature(&asking, address),
        kind if kind.is_asset() => feature::asset(&asking, address),
        Kind::Option => feature::option(&asking, address),
        _ => chain::point(&asking, address),
    };
    let broken = chain.iter().position(|link| link.state == LinkState::Broken);
    if let Some(broken) = broken {
        for link in chain.iter_mut().skip(broken + 1) {
            link.state = LinkState::Unknown;
        }
    }
    let callbacks = callbacks::of_point(&asking, address);
    asking.answer(address.to_string(), Some(address), chain, callbacks)
}

/// Why a callback does, or does not, do anything.
pub fn callback(registry: &Registry, callback: Callback, page: Option<&Asked>) -> Why {
    let asking = Asking { registry, page };
    let name = registry.callback_name(callback);
    let (chain, callbacks, point) = callbacks::chain(&asking, callback);
    asking.answer(name, point, chain, callbacks)
}

/// All attachments of a callback.
pub fn attachments(registry: &Registry, callback: Callback) -> Vec<Place> {
    let slots = registry.points.values().flat_map(|point| &point.slots);
    let is_it = |slot: &&Slot| matches!(slot.runs, Runs::Callback(_, Some(found)) if found == callback);
    slots.filter(is_it).map(|slot| slot.place).collect()
}

/// A question under way.
struct Asking<'r> {
    registry: &'r Registry,
    page: Option<&'r Asked>,
}

impl<'r> Asking<'r> {
    fn place(&self, place: Place) -> PlaceView {
        PlaceView::new(self.registry, place.file, self.registry.span(place))
    }

    fn line(&self, place: Place, text: impl Into<String>) -> WhyLine {
        WhyLine { place: Some(self.place(place)), text: text.into() }
    }

    /// Is a type of page the one that was asked about, or any?
    fn on_page(&self, types: crate::link::Types) -> bool {
        match self.page.and_then(|page| page.page_type) {
            Some(position) => types.has(position),
            None => !types.is_empty(),
        }
    }

    /// How the page is called in sentences.
    fn here(&self) -> String {
        self.page.map_or("any page".to_string(), |page| page.path.clone())
    }

    fn seen(&self) -> Option<&'r Seen> {
        self.page.map(|page| &page.seen)
    }

    fn answer(&self, subject: String, point: Option<Address>, chain: Vec<WhyLink>, callbacks: Vec<WhyCallback>) -> Why {
        let broken = chain.iter().position(|link| link.state == LinkState::Broken);
        let on = self.page.map(|page| format!(" on {}", page.path)).unwrap_or_default();
        let in_vain = callbacks.first().is_some_and(|one| matches!(one.state, "overridden" | "spare"));
        let verb = match point.map(|point| point.kind) {
            _ if subject.contains('#') && in_vain => ["runs", "runs in vain"],
            _ if subject.contains('#') => ["runs", "does not run"],
            Some(Kind::Feature) => ["is on", "has no effect"],
            Some(Kind::Filter) => ["changes values", "changes nothing"],
            Some(Kind::Option) => ["is in use", "has no effect"],
            Some(Kind::Template) => ["is used", "is not used"],
            Some(kind) if kind.is_asset() => ["is loaded", "is not loaded"],
            _ => ["shows", "does not show"],
        };
        let answer = match broken.and_then(|at| chain[at].reason.clone()) {
            Some(reason) => format!("`{subject}` {}{on}: {reason}", verb[1]),
            None => format!("`{subject}` {}{on}", verb[0]),
        };
        let mut mends = match broken {
            Some(_) => self.mends(point, &subject, &chain, &callbacks),
            None => Vec::new(),
        };
        if let (true, Some(callback)) = (broken.is_some() && subject.contains('#'), callbacks.first()) {
            let mend = match callback.state {
                "detached" => Some("take the [[detach]] away"),
                "replaced" => Some("take the [[replace]] away"),
                "off" => Some("change its `when`, or leave it away"),
                _ => None,
            };
            mends.extend(mend.map(str::to_string).filter(|_| mends.is_empty()));
        }
        let page = self.page.map(|page| page.path.clone());
        Why { version: VERSION, subject, page, shows: broken.is_none(), answer, chain, broken, callbacks, mends }
    }

    /// What findings about the subject say, and else what the broken link suggests.
    fn mends(
        &self,
        point: Option<Address>,
        subject: &str,
        chain: &[WhyLink],
        callbacks: &[WhyCallback],
    ) -> Vec<String> {
        let is_callback = subject.contains('#');
        let tables: Vec<(FileId, Span)> = callbacks.iter().filter_map(|callback| self.table_of(callback)).collect();
        let name = point.filter(|_| !is_callback).map_or(subject.to_string(), |point| point.to_string());
        let quoted = format!("`{name}`");
        let about = |finding: &&rules::Finding| {
            let named =
                finding.point.as_deref() == Some(name.as_str()) && !is_callback || finding.message.contains(&quoted);
            let attached = is_callback
                && finding.places.first().is_some_and(|place| {
                    let within = |(file, table): &(FileId, Span)| {
                        place.file == *file && table.start <= place.span.start && place.span.end <= table.end
                    };
                    tables.iter().any(within)
                });
            (named || attached) && finding.level > Level::Note
        };
        let findings = rules::check(self.registry).findings;
        let mut mends: Vec<String> = Vec::new();
        let mut add = |text: String| {
            if !mends.contains(&text) {
                mends.push(text);
            }
        };
        findings
            .iter()
            .filter(about)
            .filter_map(|finding| finding.mend.as_ref())
            .for_each(|mend| add(mend.text.clone()));
        if mends.is_empty() {
            // Somebody may have meant it, and written another name.
            let meant = findings.iter().filter(|finding| finding.level > Level::Note).filter_map(|finding| {
                let mend = finding.mend.as_ref().filter(|mend| mend.text.contains(&quoted))?;
                let place = finding.places.first()?;
                let view = PlaceView::new(self.registry, place.file, place.span);
                Some(format!("{} ({}:{})", mend.text, view.file, view.line))
            });
            mends.extend(meant);
        }
        if mends.is_empty() {
            mends.extend(point.and_then(|point| chain::suggestion(self, point, chain)));
        }
        mends
    }

    /// The bytes of the table that attaches a callback.
    fn table_of(&self, callback: &WhyCallback) -> Option<(FileId, Span)> {
        let project = &self.registry.project;
        let file = project.find(project.layer_named(&callback.place.layer)?, &callback.place.file)?;
        let text = project.file(file).text();
        let start = LineIndex::new(text).lines(callback.place.line, callback.place.line).start;
        let end = text[start..].find("\n[").map_or(text.len(), |end| start + end);
        Some((file, Span::new(start, end)))
    }
}

impl WhyLink {
    fn good(name: &'static str, lines: Vec<WhyLine>) -> WhyLink {
        WhyLink { name, state: LinkState::Good, lines, reason: None }
    }

    fn idle(name: &'static str, text: impl Into<String>) -> WhyLink {
        WhyLink { name, state: LinkState::Idle, lines: vec![said(text)], reason: None }
    }

    fn broken(name: &'static str, lines: Vec<WhyLine>, reason: impl Into<String>) -> WhyLink {
        WhyLink { name, state: LinkState::Broken, lines, reason: Some(reason.into()) }
    }
}

fn said(text: impl Into<String>) -> WhyLine {
    WhyLine { place: None, text: text.into() }
}
