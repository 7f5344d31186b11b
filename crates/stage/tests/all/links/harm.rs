//! What is done to a theme, and what a finding about it then has to say.

use std::ops::Range;

use camino::{Utf8Path, Utf8PathBuf};
use truehook_core::address::{Address, Kind};
use truehook_core::link::{Link, Outcome, Reference, START, Target};
use truehook_core::read::MemoryFiles;
use truehook_core::rules::target_place;
use truehook_core::source::Place;

use super::Theme;

/// What was done to a theme.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Harm {
    Misspelt,
    Removed,
    Renamed,
    LastGone,
}

/// A broken theme, and what a finding about it has to say.
pub struct Broken {
    pub link: Link,
    pub harm: Harm,
    pub files: MemoryFiles,
    /// The rules that may report it.
    pub rules: Vec<&'static str>,
    /// A name that has to be told.
    pub name: String,
    /// A file that has to be shown.
    pub file: Utf8PathBuf,
    /// What was written wrong, where something was: that, and nothing beside it, has to be pointed at.
    pub wrong: Option<(Utf8PathBuf, Range<usize>)>,
}
/// The same name with a slip of the pen in it.
fn slip(name: &str) -> Option<String> {
    let stem = name.rfind('.').filter(|at| !name[*at..].contains(['#', '/']) && *at > 0).unwrap_or(name.len());
    let at = name[..stem].rfind(|c: char| c.is_ascii_alphanumeric())?;
    let new = if name[at..].starts_with('q') { "x" } else { "q" };
    Some(format!("{}{new}{}", &name[..at], &name[at + 1..]))
}

pub fn misspell(theme: &Theme, reference: &Reference, target: Target) -> Option<Broken> {
    // A variable or message that feeds on a feature is misspelt as what it is.
    let is_feed = reference.link == Link::FeedToFeature;
    let by_name = reference.written.starts_with("--") || reference.written.starts_with("feature:");
    if reference.link == Link::ComponentToTemplate || is_feed && !by_name {
        return None;
    }
    let path = theme.path(reference.from);
    let mut range = theme.span(reference.from).range();
    let text = theme.text(&path);
    if matches!(reference.link, Link::VariableToName | Link::ConditionToName) {
        let whole = range.start..range.start + reference.written.len();
        if text.get(whole.clone()) != Some(reference.written.as_str()) {
            return None;
        }
        range = reference.written.rfind('.').map_or(whole.start, |dot| whole.start + dot + 1)..whole.end;
    }
    let name = text[range.clone()].to_string();
    let tail =
        name.rsplit(['.', ':', '#', '/']).find(|part| !["js", "html", "md", "svg"].contains(part)).unwrap_or(&name);
    let end = target_place(&theme.registry, target).filter(|_| reference.link != Link::LayerToLayer);
    // A base that was not found was not read; it is named all the same.
    let file = end.map_or(path.clone(), |place| theme.path(place));
    let new = slip(&name)?;
    let files = theme.with(&path, range.clone(), &new);
    Some(Broken {
        link: reference.link,
        harm: Harm::Misspelt,
        files,
        wrong: Some((path, range.start..range.start + new.len())),
        rules: rules_of(reference.link),
        name: tail.to_string(),
        file,
    })
}

fn rules_of(link: Link) -> Vec<&'static str> {
    match link {
        Link::LayerToLayer => vec!["base-missing", "host-missing"],
        Link::FeedToFeature => vec!["feature-needed", "unknown-feature"],
        link => {
            truehook_core::rules::ALL.iter().filter(|rule| rule.links.contains(&link)).map(|rule| rule.name).collect()
        }
    }
}

/// Rules that may speak of a point, input or file that went: who asks for it decides.
fn rules_of_target(target: Target) -> Vec<&'static str> {
    match target {
        Target::Point(address) if address.kind == Kind::Option => {
            vec!["unknown-variable", "condition-name", "unknown-property", "unknown-input"]
        }
        Target::Point(address) if address.kind == Kind::Feature => vec!["feature-needed", "unknown-feature"],
        Target::Point(address) if address.kind.is_asset() => vec!["unknown-asset"],
        Target::Point(_) => vec!["undeclared-point", "fill-target", "detach-target", "replace-target"],
        Target::Input(..) => vec!["unknown-argument", "unknown-variable", "unknown-property", "unknown-input"],
        Target::Export(..) => vec!["missing-callback", "missing-import"],
        Target::Macro(..) => vec!["missing-import"],
        Target::Block(..) => vec!["lost-block"],
        Target::File(_) => vec!["missing-file", "missing-markup", "missing-import", "missing-page"],
        Target::Layer(_) => vec!["base-missing"],
        Target::Slot(_) => vec!["order-target", "detach-target", "replace-target"],
        Target::Media(_) => vec!["missing-file", "broken-address"],
        Target::Global(..) => vec!["unstated-need"],
        Target::Entry(_) => vec!["untranslated"],
        Target::Menu(_) => vec!["menu-unfilled"],
        Target::PageType(_) | Target::Given => vec![],
    }
}

/// Is this target declared once, outside the host, so that it can go as a whole?
pub fn stands_alone(theme: &Theme, target: Target) -> bool {
    let registry = &theme.registry;
    let own = |place: Place| registry.layer_of(place).index() > 0;
    match target {
        Target::Point(address) => {
            let point = registry.point(address).expect("it is there");
            // With its declaration a callback that renders it would go, which is another break.
            let rendered = matches!(point.renderer, Some(truehook_core::link::Renderer::Callback(_)));
            // With a section its own pieces would go.
            let inner = |other: &Address| other.inner().is_some_and(|(section, _)| section == address);
            let alone = address.inner().is_none() && !registry.addresses().any(inner);
            // A feature is the host's to offer, and the theme's to switch on.
            let first = usize::from(address.kind == Kind::Feature);
            let single = point.declared.len() == 1 + first && own(point.declared[first].place);
            address.kind != Kind::Template && single && alone && !rendered
        }
        Target::Input(address, _) => {
            registry.point(address).is_some_and(|point| point.declared.len() == 1 && own(point.declared[0].place))
        }
        Target::File(file) => {
            let source = registry.project().file(file);
            let several = registry.files_named(source.kind, source.name()).len() > 1;
            source.layer.index() > 0 && !several && !registry.is_page_template(file)
        }
        Target::Export(file, _) | Target::Macro(file, _) | Target::Block(file, _) => own(Place { file, at: START }),
        Target::Layer(layer) => layer.index() > 0,
        Target::Slot(place) => own(place),
        Target::Media(_) | Target::Menu(_) | Target::Entry(_) => true,
        Target::Global(file, _) => own(Place { file, at: START }),
        Target::PageType(_) | Target::Given => false,
    }
}

/// The lines of a table: those between two blank lines.
fn table_at(text: &str, at: usize) -> Range<usize> {
    let start = text[..at].rfind("\n\n").map_or(0, |end| end + 2);
    let end = text[start..].find("\n\n").map_or(text.len(), |end| start + end + 1);
    start..end
}

fn line_at(text: &str, at: usize) -> Range<usize> {
    let start = text[..at].rfind('\n').map_or(0, |end| end + 1);
    start..text[at..].find('\n').map_or(text.len(), |end| at + end + 1)
}

/// Where a menu of the site ends: at the end of the line that closes its list.
fn menu_end(text: &str, start: usize) -> usize {
    let mut depth = 0;
    for (at, c) in text[start..].char_indices() {
        match c {
            '[' => depth += 1,
            ']' if depth == 1 => return start + at + 1,
            ']' => depth -= 1,
            _ => {}
        }
    }
    text.len()
}

fn without_file(theme: &Theme, path: &Utf8Path) -> MemoryFiles {
    let mut files = theme.files.clone();
    files.remove(path);
    files
}

/// Is the target of this reference one that is broken by way of another reference?
fn lends_itself(reference: &Reference, target: Target) -> bool {
    let by_name = reference.link == Link::GlobalToScript && matches!(target, Target::Point(_));
    matches!(reference.link, Link::FeatureToOffer | Link::ValueToEntry | Link::ValueToPage) || by_name
}

pub fn remove(theme: &Theme, reference: &Reference, target: Target) -> Option<Broken> {
    let place = target_place(&theme.registry, target);
    // What nothing feeds on can go without a trace; what a script needs is broken as that.
    if lends_itself(reference, target) {
        return None;
    }
    let files = match target {
        Target::Point(_) | Target::Slot(_) | Target::Entry(_) => {
            let path = theme.path(place?);
            let text = theme.text(&path);
            theme.with(&path, table_at(&text, theme.span(place?).start as usize), "")
        }
        Target::Input(..) => {
            let path = theme.path(place?);
            let text = theme.text(&path);
            let line = line_at(&text, theme.span(place?).start as usize);
            // Inline tables hold several on a line.
            if !text[line.clone()].starts_with("inputs.") && !text[line.clone()].starts_with("args.") {
                return None;
            }
            theme.with(&path, line, "")
        }
        Target::Export(..) => {
            let path = theme.path(place?);
            let text = theme.text(&path);
            let line = line_at(&text, theme.span(place?).start as usize);
            let export = text[line.clone()].find("export ")? + line.start;
            theme.with(&path, export..export + "export ".len(), "")
        }
        Target::Macro(file, _) | Target::Global(file, _) => {
            let path = theme.registry.project().path_of(file);
            let length = theme.text(&path).len();
            theme.with(&path, 0..length, "")
        }
        Target::Menu(_) => {
            let path = theme.path(place?);
            let text = theme.text(&path);
            let start = theme.span(place?).start as usize;
            theme.with(&path, start..menu_end(&text, start), "")
        }
        Target::File(file) => without_file(theme, &theme.registry.project().path_of(file)),
        Target::Media(path) => without_file(theme, Utf8Path::new(path.as_str())),
        Target::Layer(layer) => {
            let root = theme.registry.project().layer(layer).root.clone();
            let mut files = theme.files.clone();
            theme.files.iter().filter(|(path, _)| path.starts_with(&root)).for_each(|(path, _)| files.remove(path));
            files
        }
        _ => return None,
    };
    let name = reference.written.rsplit([':', '#', '/']).next().unwrap_or_default().to_string();
    let file = theme.path(reference.from);
    Some(Broken {
        link: reference.link,
        harm: Harm::Removed,
        files,
        rules: rules_of_target(target),
        name,
        file,
        wrong: None,
    })
}

pub fn rename(theme: &Theme, reference: &Reference, target: Target) -> Option<Broken> {
    const NEW: &str = "zeppelin";
    if lends_itself(reference, target) {
        return None;
    }
    let place = target_place(&theme.registry, target);
    let in_place = |old: &str| {
        let path = theme.path(place?);
        let text = theme.text(&path);
        let span = theme.span(place?).range();
        let at = text[span.clone()].rfind(old)? + span.start;
        Some((theme.with(&path, at..at + old.len(), NEW), path))
    };
    let moved = |path: Utf8PathBuf| {
        let mut files = theme.files.clone();
        let new = path.with_file_name(NEW).with_extension(path.extension()?);
        files.insert(new.clone(), theme.files.get(&path)?);
        files.remove(&path);
        Some((files, new))
    };
    let (files, file) = match target {
        Target::Point(address) => in_place(&address.name)?,
        Target::Menu(_) => in_place(reference.written.as_str())?,
        Target::Input(_, name) => in_place(&name)?,
        Target::Export(_, name) | Target::Block(_, name) => in_place(&name)?,
        Target::Macro(file, name) => {
            let path = theme.registry.project().path_of(file);
            let at = theme.text(&path).find(&format!("macro {name}"))? + "macro ".len();
            (theme.with(&path, at..at + name.len(), NEW), path)
        }
        Target::Global(file, name) => {
            let path = theme.registry.project().path_of(file);
            let at = theme.text(&path).find(name.as_str())?;
            (theme.with(&path, at..at + name.len(), NEW), path)
        }
        Target::Entry(_) => in_place(reference.written.as_str())?,
        Target::File(file) => moved(theme.registry.project().path_of(file))?,
        _ => return None,
    };
    let shows_new = !matches!(reference.link, Link::PageToBody);
    let file = if shows_new { file } else { theme.path(reference.from) };
    let name = reference.written.rsplit([':', '#', '/']).next().unwrap_or_default().to_string();
    Some(Broken {
        link: reference.link,
        harm: Harm::Renamed,
        files,
        rules: rules_of_target(target),
        name,
        file,
        wrong: None,
    })
}

/// Does the script in whose table a need stands use a global name of what it needs?
fn uses_global(theme: &Theme, need: &Reference, giver: Address) -> bool {
    let registry = &theme.registry;
    let is_it = |needs: &[(truehook_core::scan::PointRef, Place)]| needs.len() == 1 && needs[0].1 == need.from;
    let script = registry.points().find(|point| point.address.kind == Kind::Script && is_it(&point.needs));
    let file = script.and_then(|script| registry.asset_file(script));
    let uses = |used: &&Reference| {
        used.link == Link::GlobalToScript
            && Some(used.from.file) == file
            && used.outcome == Outcome::Found(Target::Point(giver))
    };
    registry.references().iter().any(|used| uses(&used))
}

/// Takes the reference away, where it is the last one to a target that needs one.
pub fn remove_last(theme: &Theme, reference: &Reference, target: Target) -> Option<Broken> {
    let registry = &theme.registry;
    let counts = |link: Link| {
        !matches!(link, Link::AttachmentToPoint | Link::FillToPoint | Link::ItemKeyToInput | Link::ArgumentToInput)
    };
    let all =
        registry.references().iter().filter(|other| other.outcome == Outcome::Found(target) && counts(other.link));
    let alone = all.count() == 1;
    let feeds = registry.references().iter().filter(|other| other.link == Link::FeedToFeature);
    let alone_feed = feeds.filter(|other| other.outcome == Outcome::Found(target)).count() == 1;
    let path = theme.path(reference.from);
    let text = theme.text(&path);
    let at = theme.span(reference.from).start as usize;
    let tag = |open: &str, close: &str| Some(text[..at].rfind(open)?..text[at..].find(close)? + at + close.len());
    let top = registry.project().top();
    let (range, rules, name) = match (reference.link, target) {
        (Link::PlaceToPoint | Link::ThroughToFilter, Target::Point(address)) => {
            let point = registry.point(address)?;
            let needed = point.layer() == Some(top) && address.kind != Kind::Filter
                || point.slots.iter().any(|slot| slot.layer == top)
                || point.fills.iter().any(|_| true);
            let kept = point.uses.iter().filter(|id| registry.use_place(**id) != reference.from).count();
            if !needed || kept > 0 || !text[at - 8..at].contains(['p', 'g']) || !path.as_str().contains("/markup/") {
                return None;
            }
            (tag("{{", "}}")?, vec!["unplaced-point", "required-point", "lost-placement"], address.name.to_string())
        }
        (Link::ReplaceToCallback, Target::Export(_, name)) if alone => {
            (table_at(&text, at), vec!["idle-callback"], name.to_string())
        }
        (Link::AttachmentToCallback, Target::Export(_, name)) if alone => {
            (table_at(&text, at), vec!["idle-callback", "order-target"], name.to_string())
        }
        (Link::TemplateToTemplate, Target::File(file)) if alone && text[..at].ends_with("include \"") => {
            (tag("{%", "%}")?, vec!["unreached-template"], registry.project().file(file).name().to_string())
        }
        (Link::VariableToName, Target::Input(address, name)) if alone => {
            let point = registry.point(address)?;
            if !point.slots.is_empty() {
                return None;
            }
            (tag("{{", "}}")?, vec!["idle-input"], name.to_string())
        }
        (Link::FeedToFeature, Target::Point(feature)) if alone_feed && path.extension() == Some("html") => {
            (tag("{{", "}}")?, vec!["feature-unshown"], feature.name.to_string())
        }
        (Link::MessageToEntry, Target::Entry(_)) if alone && path.extension() == Some("html") => {
            (tag("{{", "}}")?, vec!["unused-message"], reference.written.to_string())
        }
        (Link::NeedToAsset, Target::Point(giver)) if uses_global(theme, reference, giver) => {
            (line_at(&text, at), vec!["unstated-need"], giver.name.to_string())
        }
        _ => return None,
    };
    let files = theme.with(&path, range, "");
    let file = target_place(registry, target).map_or(path, |place| theme.path(place));
    Some(Broken { link: reference.link, harm: Harm::LastGone, files, rules, name, file, wrong: None })
}
