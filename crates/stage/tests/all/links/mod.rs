//! Every link, broken: each reference of correct themes is misspelt, its target is removed, its
//! target is renamed, and the last reference to a target that needs one is taken away. Each time there
//! has to be one finding, and it has to name both ends.

mod harm;
pub(crate) mod score;

use std::ops::Range;

use crate::grown::{ROOT, grow};
use camino::{Utf8Path, Utf8PathBuf};
use harm::Broken;
use score::{PAGE, Tally, page};
use truehook_core::link::{Link, Registry};
use truehook_core::mending::mend;
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::rules::{self, Finding, Level};
use truehook_core::source::{Place, Span};

/// How many themes are grown on each change; TRUEHOOK_THEMES asks for more, of a fresh seed.
const THEMES: u64 = 12;
/// How many references of one theme are broken, of each kind.
const OF_EACH: usize = 2;
struct Theme {
    root: &'static str,
    files: MemoryFiles,
    registry: Registry,
}

impl Theme {
    fn new(root: &'static str, files: MemoryFiles) -> Theme {
        let registry = link(&files, root);
        Theme { root, files, registry }
    }

    fn path(&self, place: Place) -> Utf8PathBuf {
        self.registry.project().path_of(place.file)
    }

    fn text(&self, path: &Utf8Path) -> String {
        String::from_utf8(self.files.get(path).expect("the file is there").to_vec()).expect("it is text")
    }

    /// The theme with some bytes of a file replaced.
    fn with(&self, path: &Utf8Path, range: Range<usize>, new: &str) -> MemoryFiles {
        let mut text = self.text(path);
        text.replace_range(range, new);
        let mut files = self.files.clone();
        files.insert(path, text);
        files
    }

    fn span(&self, place: Place) -> Span {
        self.registry.span(place).unquoted(self.registry.project().file(place.file).text())
    }
}

fn link(files: &MemoryFiles, root: &str) -> Registry {
    Registry::new(Project::open(files, root.into()).expect("the theme opens"))
}

/// The demo's themes, in memory.
fn demo() -> Theme {
    let mut files = MemoryFiles::new();
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");
    let mut open = vec![std::path::PathBuf::from(folder)];
    while let Some(path) = open.pop() {
        if path.is_dir() {
            open.extend(std::fs::read_dir(&path).expect("a folder").flatten().map(|entry| entry.path()));
        } else {
            let below = path.strip_prefix(folder).expect("below the demo").to_str().expect("UTF-8");
            files.insert(format!("/demo/{below}"), std::fs::read(&path).expect("a file"));
        }
    }
    Theme::new("/demo/saltmarsh", files)
}
/// What mending a broken theme fails to do, if anything: it takes findings away, and once is enough.
fn unmended(theme: &Theme, broken: &Broken, registry: Registry, before: usize) -> Option<String> {
    let made = mend(&broken.files, registry, &mut |_, _| None).expect("the theme can be mended");
    if made.changes.is_empty() {
        return (made.count > 0).then(|| "it mends without changing anything".to_string());
    }
    let mut files = broken.files.clone();
    for change in &made.changes {
        files.insert(&change.path, change.after.clone().unwrap());
    }
    let after = link(&files, theme.root);
    let left = rules::check(&after).findings.len();
    if left + made.count != before {
        return Some(format!("mending {} of {before} findings left {left}", made.count));
    }
    let again = mend(&files, after, &mut |_, _| None).expect("the theme can be mended").changes;
    (!again.is_empty()).then(|| format!("mending twice changes {} more", again[0].path))
}

/// The lower layer, if any, that something is told of while it has nothing wrong when it is checked by itself.
fn hidden_below(files: &MemoryFiles, registry: &Registry, checked: &rules::Checked) -> Option<String> {
    let is_clean = |root: &str| {
        let alone = rules::check(&link(files, root));
        alone.below == 0 && alone.findings.iter().all(|finding| finding.level == Level::Note)
    };
    let layers = checked.below_in.iter().map(|layer| registry.project().layer(*layer)).filter(|layer| !layer.built_in);
    let clean = layers.filter(|layer| is_clean(layer.root.as_str())).map(|layer| layer.name.to_string()).next()?;
    let mut all = Vec::new();
    rules::ALL.iter().for_each(|rule| (rule.check)(registry, &mut all));
    let told = all.iter().filter(|finding| registry.project().layer(finding.layer).name == clean.as_str());
    let told: Vec<String> = told.map(|finding| format!("[{}] {}", finding.rule, finding.message)).collect();
    Some(format!("{clean} ({})", told.join(", ")))
}

/// What a finding, or its mend where that is asked for, fails to do, if anything.
fn complaint(theme: &Theme, broken: &Broken, mended: bool) -> Option<String> {
    let registry = link(&broken.files, theme.root);
    let checked = rules::check(&registry);
    if let Some(layer) = hidden_below(&broken.files, &registry, &checked) {
        return Some(format!("something is told of {layer}, which has nothing wrong by itself"));
    }
    let findings = checked.findings;
    let serious: Vec<&Finding> = findings.iter().filter(|finding| finding.level > Level::Note).collect();
    let told: Vec<String> = serious.iter().map(|finding| format!("[{}] {}", finding.rule, finding.message)).collect();
    let [finding] = serious[..] else { return Some(format!("{} findings: {told:#?}", serious.len())) };
    if !broken.rules.contains(&finding.rule) {
        return Some(format!("the wrong rule: {told:?}"));
    }
    let mut words = finding.message.clone();
    for place in &finding.places {
        words.push_str(&place.label);
        words.push_str(&registry.project().file(place.file).text()[place.span.range()]);
        words.push_str(registry.project().file(place.file).path.as_str());
    }
    words.push_str(finding.mend.as_ref().map_or("", |mend| &mend.text));
    if !words.contains(&broken.name) {
        return Some(format!("`{}` is not named: {told:?}", broken.name));
    }
    let shown: Vec<Utf8PathBuf> = finding.places.iter().map(|place| registry.project().path_of(place.file)).collect();
    if !shown.contains(&broken.file) {
        return Some(format!("{} is not shown, only {shown:?}: {told:?}", broken.file));
    }
    if let Some((path, wrong)) = &broken.wrong {
        let first = &finding.places[0];
        let text = &registry.project().file(first.file).text()[first.span.range()];
        let here = registry.project().path_of(first.file) == *path;
        let within = first.span.range().start < wrong.end && wrong.start < first.span.range().end;
        if !here || !within || text.trim_end().contains('\n') {
            return Some(format!("it points at `{text}` in {}: {told:?}", registry.project().path_of(first.file)));
        }
    }
    let before = findings.len();
    if mended { unmended(theme, broken, registry, before) } else { None }
}
#[test]
fn every_broken_link_gives_one_finding_that_names_both_ends() {
    let number = |name: &str| std::env::var(name).ok().and_then(|text| text.parse::<u64>().ok());
    let asked = number("TRUEHOOK_THEMES");
    let count = asked.unwrap_or(THEMES);
    let first = number("TRUEHOOK_SEED").unwrap_or(if asked.is_some() { fastrand::u64(..1 << 32) } else { 1 });
    println!("{count} themes from seed {first}: TRUEHOOK_THEMES={count} TRUEHOOK_SEED={first}");
    // Two halves at once: there is a lot to break.
    let seeds = |from: u64| (from..=count).step_by(2).map(move |at| (at < count).then_some(first + at));
    let (even, odd) = std::thread::scope(|scope| {
        let odd = scope.spawn(|| Tally::of(seeds(1)));
        (Tally::of(seeds(0)), odd.join().expect("no panic"))
    });
    let Tally { mut score, mut complaints } = even;
    for (key, (good, all)) in odd.score {
        let entry = score.entry(key).or_default();
        *entry = (entry.0 + good, entry.1 + all);
    }
    complaints.extend(odd.complaints);
    let page = page(&score, count, first);
    println!("{page}");
    let links = Link::ALL.iter().filter(|link| !score.keys().any(|(known, _)| known == *link)).collect::<Vec<_>>();
    assert!(links.is_empty(), "never broken: {links:?}");
    assert!(
        complaints.is_empty(),
        "{} complaints:\n{}",
        complaints.len(),
        complaints[..complaints.len().min(25)].join("\n")
    );
    if std::env::var_os("TRUEHOOK_WRITE").is_some() {
        // What the test of sown themes wrote stays below.
        let known = std::fs::read_to_string(PAGE).unwrap_or_default();
        let below = known.find(crate::sown::HEADING).map_or("", |at| &known[at..]);
        std::fs::write(PAGE, format!("{page}\n{below}")).expect("the page can be written");
    }
}
