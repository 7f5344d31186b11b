//! Where a point could well be placed.

use std::cell::{OnceCell, RefCell};

use rustc_hash::{FxHashMap, FxHashSet};

use super::blocks::blocks;
use super::elements::elements;
use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Registry, Renderer};
use crate::scan::SectionKind;
use crate::source::{FileId, Span};

/// Elements that placements go into, those that say most of what they are for first.
const INTO: [&str; 9] = ["head", "footer", "aside", "header", "main", "body", "article", "section", "div"];
/// The first of them that will do for any point.
const FOR_ANY: usize = 4;

/// The templates of the checked theme, as places for points; each is looked at once, however many points are asked
/// for.
pub struct Places<'r> {
    registry: &'r Registry,
    /// Templates that pages use, those first on which more of them build.
    own: OnceCell<Vec<FileId>>,
    /// Which of the elements each has once.
    alone: RefCell<FxHashMap<FileId, Option<Vec<&'static str>>>>,
}

impl<'r> Places<'r> {
    /// Those of a theme.
    pub fn of(registry: &'r Registry) -> Places<'r> {
        Places { registry, own: OnceCell::new(), alone: RefCell::default() }
    }

    /// A template of the checked theme and a selector for one of its elements. The template is `file`, or else the
    /// first that pages use.
    pub fn suggest(&self, point: Address, file: Option<FileId>) -> Option<(String, &'static str)> {
        let given = file.as_slice();
        let candidates = if given.is_empty() { self.own.get_or_init(|| own(self.registry)) } else { given };
        // Where the host says in what a point has to stand, nothing else will do.
        let inside = self.registry.point(point).and_then(|point| point.inside);
        candidates.iter().find_map(|file| {
            let alone = self.alone(*file)?;
            let is_alone = |word: &&'static str| alone.contains(word);
            let selector = match inside {
                Some((element, _)) => INTO.into_iter().find(|word| element == *word).filter(is_alone)?,
                None => {
                    let named = |word: &&'static str| point.name.split('-').any(|part| part == *word);
                    let named = INTO.into_iter().filter(named).find(is_alone);
                    named.or_else(|| INTO.into_iter().skip(FOR_ANY).find(is_alone))?
                }
            };
            Some((self.registry.project().file(*file).name().to_string(), selector))
        })
    }

    /// The command that places a point, in a template if one is to be preferred; advice where no template of this theme
    /// has a place for it, and for a filter, which is no place but takes a value.
    pub fn command(&self, point: Address, file: Option<FileId>) -> String {
        if point.kind == Kind::Filter {
            return format!("write {{{{ value | through(\"{point}\") }}}} where the value is printed");
        }
        let passed = self.registry.point(point).map_or(&[][..], |point| point.passed());
        let needed = passed.iter().filter(|input| input.field.default().is_none());
        let needed: String = needed.map(|input| format!(", {}=…", input.field.name)).collect();
        if !needed.is_empty() {
            return format!("write {{{{ place(\"{point}\"{needed}) }}}} into a template that pages use");
        }
        match self.suggest(point, file) {
            Some((template, selector)) => command_line!["place", point, "--in", template, "--inside", selector],
            None => match self.below() {
                Some(template) => {
                    let adopt = command_line!["adopt", template, "--copy"];
                    format!("place it in a template of this theme; `{adopt}` takes one over")
                }
                None => format!("write {{{{ place(\"{point}\") }}}} into a template that pages use"),
            },
        }
    }

    /// Is there a template of this theme in which a point can be placed by command?
    pub fn has_place(&self, point: Address) -> bool {
        self.suggest(point, None).is_some()
    }

    /// A template of a lower layer on which pages build.
    fn below(&self) -> Option<&'r str> {
        let registry = self.registry;
        let top = registry.project().top();
        let shown = registry.types().iter().filter_map(|known| known.templates.first());
        let last = shown.filter_map(|file| registry.chain(*file).last().copied());
        let below = last.filter(|file| registry.project().file(*file).layer != top);
        below.map(|file| registry.project().file(file).name()).next()
    }

    fn alone(&self, file: FileId) -> Option<Vec<&'static str>> {
        let look = || {
            let text = self.registry.project().file(file).text();
            let elements = elements(text)?;
            let covered = self.covered(file, text);
            let shown = |close: Span| !covered.iter().any(|span| span.start <= close.start && close.end <= span.end);
            let alone = |name: &&str| {
                let mut found = elements.iter().filter(|element| element.name == *name);
                let first = found.next().and_then(|element| element.close);
                first.is_some_and(shown) && found.next().is_none()
            };
            Some(INTO.into_iter().filter(alone).collect())
        };
        self.alone.borrow_mut().entry(file).or_insert_with(look).clone()
    }
}

impl Places<'_> {
    /// The blocks of a template that each page which builds on it has in another form: what is placed there shows on
    /// none.
    fn covered(&self, file: FileId, text: &str) -> Vec<Span> {
        let registry = self.registry;
        let first = registry.types().iter().filter_map(|page_type| page_type.templates.first());
        let chains: Vec<Vec<FileId>> =
            first.map(|file| registry.chain(*file)).filter(|chain| chain.contains(&file)).collect();
        let rewrites = |other: FileId, name: &str| {
            let sections = registry.template(other).into_iter().flat_map(|template| &template.sections);
            let named = |kind: &SectionKind| matches!(kind, SectionKind::Block(block) if block.as_str() == name);
            sections.into_iter().any(|section| named(&section.kind) && !section.calls_super)
        };
        let above = |chain: &[FileId], name: &str| {
            chain.iter().take_while(|other| **other != file).any(|other| rewrites(*other, name))
        };
        let covered = |name: &str| !chains.is_empty() && chains.iter().all(|chain| above(chain, name));
        blocks(text).into_iter().filter(|block| covered(&block.name)).map(|block| block.inner).collect()
    }
}

fn own(registry: &Registry) -> Vec<FileId> {
    let components: FxHashSet<FileId> = registry
        .points()
        .filter(|point| point.address.kind.is_component())
        .filter_map(|point| match point.renderer {
            Some(Renderer::Template(file)) => Some(file),
            _ => None,
        })
        .collect();
    let top = registry.project().top();
    let mut own: Vec<FileId> = registry.project().files_of(top).map(|(file, _)| file).collect();
    own.retain(|file| {
        let shown = || !registry.template_types(*file).is_empty();
        registry.template(*file).is_some() && !components.contains(file) && shown()
    });
    // What every page builds on comes before what only some pages show.
    own.sort_by_cached_key(|file| {
        (u32::MAX - registry.template_types(*file).0.count_ones(), registry.chain(*file).len())
    });
    own
}
