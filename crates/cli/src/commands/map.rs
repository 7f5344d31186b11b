//! `map`: a page with every point at its place, and what runs there.

use std::io::Write;
use std::sync::Arc;

use anyhow::{Result, bail};
use camino::Utf8Path;
use serde::Serialize;
use truehook_core::address::Kind;
use truehook_core::link::Registry;
use truehook_core::names::{hint, nearest};
use truehook_core::view::VERSION;
use truehook_sheets::{MapSheet, Samples};
use truehook_stage::map::{self, Node, State, What};
use truehook_stage::{Manner, Stage};

use crate::Outcome;
use crate::args::{Format, MapArgs};
use crate::output::{self, failures, style, table};
use crate::sheets;
use crate::workshop;

/// What `map --format json` prints.
#[derive(Serialize, schemars::JsonSchema)]
struct MapView {
    version: u32,
    page: String,
    root: Node,
}

/// The form of what `--format json` prints.
pub fn form() -> schemars::Schema {
    output::form::<MapView>()
}

pub fn run(theme: Option<&Utf8Path>, args: &MapArgs) -> Result<Outcome> {
    let folder = workshop::find_theme(theme)?;
    let files = workshop::files(&folder)?;
    let workers = workshop::workers(&folder, &files, None, Some(1))?;
    let registry = Arc::new(workshop::open_files(&folder, &files)?);
    let wanted = Wanted::new(&registry, args)?;
    let stage = Stage::new(registry.clone());
    let path = match &args.page {
        Some(page) => workshop::page(&stage, page)?,
        None => workshop::first_page(&stage)?,
    };
    let pages = workers.over(registry.clone());
    let page = pages.page(&path, &Manner::sourced())?;
    let Some(page) = page else { bail!("there is no page {path}") };
    let mut root = map::map(&registry, &page);
    if let Some(file) = &args.html {
        let samples = Samples::of(&registry, &root);
        let filled = if samples.is_empty() { None } else { pages.page(&path, &Manner::with_samples(samples))? };
        let filled = filled.map(|page| (map::map(&registry, &page), page));
        let filled = filled.as_ref().map(|(root, page)| (page, root));
        let sheet = MapSheet::new(&registry, &path, (&page, &root), filled);
        sheets::write(file, &sheet.html()?)?;
        failures::write(&path, &page.failures)?;
        return Ok(workshop::outcome(&registry, page.failures.is_empty()));
    }
    wanted.thin(&mut root);
    let mut out = crate::output::stream::stdout();
    match args.format {
        Format::Json => output::json(&mut out, &MapView { version: VERSION, page: path.clone(), root })?,
        Format::Text => {
            writeln!(out, "{}{path}{}", style::POINT.render(), style::POINT.render_reset())?;
            let own = registry.project().layer(registry.project().top()).name;
            Drawing { out: &mut out, own: own.as_str(), depth: args.depth }.node(&root, "", "")?;
        }
    }
    out.flush()?;
    failures::write(&path, &page.failures)?;
    Ok(workshop::outcome(&registry, page.failures.is_empty()))
}

/// Which nodes are to be seen.
struct Wanted {
    kind: Option<Kind>,
    layer: Option<String>,
}

impl Wanted {
    fn new(registry: &Registry, args: &MapArgs) -> Result<Wanted> {
        let kind = match args.kind.as_deref() {
            None => None,
            Some(word) => match Kind::from_word(word) {
                Some(kind) => Some(kind),
                None => {
                    let known = Kind::ALL.map(Kind::word);
                    bail!("`{word}` is no kind{}; there are {}", hint(&nearest(word, known)), known.join(", "));
                }
            },
        };
        let layers: Vec<&str> = registry.project().layers.iter().map(|layer| layer.name.as_str()).collect();
        if let Some(layer) = args.layer.as_deref().filter(|layer| !layers.contains(layer)) {
            let near = nearest(layer, layers.iter().copied());
            bail!("there is no layer {layer}{}; there are {}", hint(&near), layers.join(", "));
        }
        Ok(Wanted { kind, layer: args.layer.clone() })
    }

    /// Takes away what was not asked for and holds nothing of it. True where something is left.
    fn thin(&self, node: &mut Node) -> bool {
        if self.kind.is_none() && self.layer.is_none() {
            return true;
        }
        let own = self.is_it(node);
        let steps = own && node.what != What::Template;
        node.children.retain_mut(|child| self.thin(child) || steps && child.what == What::Step);
        own || !node.children.is_empty()
    }

    fn is_it(&self, node: &Node) -> bool {
        let kind = self.kind.is_none_or(|kind| node.name.starts_with(&format!("{kind}:")));
        let layer = self.layer.as_ref().is_none_or(|layer| match node.what {
            What::Step => node.label.as_ref().is_some_and(|label| label.split(' ').nth(1) == Some(layer)),
            What::Element => false,
            _ => node.place.as_ref().is_some_and(|place| place.layer == *layer),
        });
        kind && layer && node.what != What::Element
    }
}

/// Draws a tree in the terminal, no line wider than that.
struct Drawing<'d, W: Write> {
    out: &'d mut W,
    own: &'d str,
    depth: Option<usize>,
}

impl<W: Write> Drawing<'_, W> {
    fn node(&mut self, node: &Node, first: &str, rest: &str) -> Result<()> {
        let below = node.children.len();
        let folded = below > 0 && self.depth.is_some_and(|depth| rest.chars().count() / STEP.chars().count() >= depth);
        // A word with two blanks before it begins something else.
        let mut words: Vec<(style::Look, String)> = Vec::new();
        let mark = match (node.what, node.state) {
            (What::Template | What::Element, _) => "",
            (_, State::Shows) => "● ",
            (_, State::Empty) => "○ ",
            (_, State::Off) => "◌ ",
            (_, State::Failed) => "! ",
            _ => "× ",
        };
        let name = match node.what {
            What::Element => style::QUIET,
            What::Step | What::Template => style::PLAIN,
            _ => style::POINT,
        };
        words.push((name, format!("{mark}{}", node.name)));
        let mut say = |style: style::Look, text: String| {
            let parts = text.split_whitespace().enumerate();
            words.extend(parts.map(|(at, word)| (style, format!("{}{word}", if at == 0 { " " } else { "" }))));
        };
        node.label.iter().for_each(|label| say(style::QUIET, label.clone()));
        if node.state != State::Shows {
            let reason = node.reason.as_ref().map(|reason| format!(": {reason}")).unwrap_or_default();
            say(style::GONE, format!("{}{reason}", node.state.word()));
        }
        if node.what != What::Element {
            node.place.iter().for_each(|place| say(style::QUIET, place.shown(self.own)));
        }
        if folded {
            say(style::QUIET, format!("… {} in it", output::count(below, "thing")));
        }
        self.line(first, rest, &words)?;
        if folded {
            return Ok(());
        }
        for (at, child) in node.children.iter().enumerate() {
            let last = at + 1 == below;
            let (branch, trunk) = if last { (LAST, GAP) } else { (BRANCH, STEP) };
            self.node(child, &format!("{rest}{branch}"), &format!("{rest}{trunk}"))?;
        }
        Ok(())
    }

    fn line(&mut self, first: &str, rest: &str, words: &[(style::Look, String)]) -> Result<()> {
        let width = usize::from(table::width()).max(24);
        let (dim, off) = (style::QUIET.render(), style::QUIET.render_reset());
        write!(self.out, "{dim}{first}{off}")?;
        let mut column = first.chars().count();
        for (at, (style, word)) in words.iter().enumerate() {
            let length = word.chars().count();
            if at > 0 && column + 1 + length > width {
                write!(self.out, "\n{dim}{rest}{off}  ")?;
                column = rest.chars().count() + 2;
                let word = word.trim_start();
                write!(self.out, "{}{word}{}", style.render(), style.render_reset())?;
                column += word.chars().count();
                continue;
            }
            if at > 0 {
                write!(self.out, " ")?;
                column += 1;
            }
            write!(self.out, "{}{word}{}", style.render(), style.render_reset())?;
            column += length;
        }
        writeln!(self.out)?;
        Ok(())
    }
}

const BRANCH: &str = "├ ";
const LAST: &str = "└ ";
const STEP: &str = "│ ";
const GAP: &str = "  ";
