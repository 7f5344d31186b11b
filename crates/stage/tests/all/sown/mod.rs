//! Themes that are sown, with one thing wrong: what each bed says of its own mistakes is the only judge.

mod beds;
mod further;
mod theme;

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::links::score::PAGE;
use beds::sow;
use theme::{ROOT, Sown, Spot};
use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::rules::{self, Finding, Level};
use truehook_stage::Stage;

/// How many themes are sown on each change; TRUEHOOK_THEMES asks for more, of a fresh seed.
const THEMES: u64 = 12;
/// Of so many breaks one is rendered, too.
const COMPARED: usize = 4;

fn link(files: &MemoryFiles) -> Registry {
    Registry::new(Project::open(files, ROOT.into()).expect("the theme opens"))
}

fn serious(registry: &Registry) -> Vec<Finding> {
    let findings = rules::check(registry).findings;
    findings.into_iter().filter(|finding| finding.level > Level::Note).collect()
}

/// What became of one break.
#[derive(Clone, Debug, PartialEq, Eq)]
enum Verdict {
    /// One finding tells it, and shows both ends.
    Told,
    /// As that, with others beside it.
    Twice(Vec<String>),
    /// Nothing, or nothing to the point, is told.
    Silent(Vec<String>),
}

fn judge(sown: &Sown, spot: &Spot) -> Verdict {
    let registry = link(&sown.with(spot));
    let findings = serious(&registry);
    let names = |finding: &Finding| {
        let mut words = finding.message.clone();
        for place in &finding.places {
            words.push_str(&place.label);
            words.push_str(&registry.project().file(place.file).text()[place.span.range()]);
            words.push_str(registry.project().file(place.file).path.as_str());
        }
        words.push_str(finding.mend.as_ref().map_or("", |mend| &mend.text));
        words.contains(&spot.slip.name) || !spot.slip.wrong.is_empty() && words.contains(&spot.slip.wrong)
    };
    let shows = |finding: &Finding| {
        let files: Vec<String> =
            finding.places.iter().map(|place| registry.project().path_of(place.file).to_string()).collect();
        let has = |file: &str| file.is_empty() || files.iter().any(|known| known == file);
        // What is gone can't be shown where it stood.
        (has(&spot.file) || spot.slip.wrong.is_empty() || spot.slip.wrong == "zeppelin") && has(&spot.slip.other)
    };
    let told = findings.iter().any(|finding| names(finding) && shows(finding));
    let said = findings.iter().map(|finding| format!("[{}] {}", finding.rule, finding.message)).collect();
    match (told, findings.len()) {
        (true, 1) => Verdict::Told,
        (true, _) => Verdict::Twice(said),
        (false, _) => Verdict::Silent(said),
    }
}

/// What pages show: by path, their text in words, and whether something failed.
type Shown = BTreeMap<String, (String, bool)>;

fn shown(files: &MemoryFiles) -> Shown {
    let stage = Stage::new(Arc::new(link(files)));
    let lost = !stage.failures().is_empty();
    let paths: Vec<String> = stage.pages().into_iter().filter(|page| !page.sample).map(|page| page.path).collect();
    let page = |path: String| {
        let page = stage.render(&path).expect("the page is there");
        (path, (page.html, lost || !page.failures.is_empty()))
    };
    paths.into_iter().map(page).collect()
}

/// Where the checker and the pages disagree: a page that fails or loses something while nothing is told, or an
/// error that changes no page.
fn disagreement(before: &Shown, sown: &Sown, spot: &Spot) -> Option<String> {
    let after = shown(&sown.with(spot));
    let findings = serious(&link(&sown.with(spot)));
    let words = |html: &str| html.split(['<', '>', ' ', '\n', '"']).map(str::to_string).collect::<Vec<_>>();
    let loses = |(path, (html, failed)): (&String, &(String, bool))| {
        let Some((old, _)) = before.get(path) else { return *failed };
        let new = words(html);
        *failed || words(old).iter().any(|word| !word.contains("?print=") && !new.contains(word))
    };
    let lost = after.iter().any(loses) || before.keys().any(|path| !after.contains_key(path));
    if lost && findings.is_empty() {
        return Some("a page fails or loses something, and nothing is told".into());
    }
    let error = findings.iter().find(|finding| finding.level == Level::Error)?;
    (after == *before).then(|| format!("an error changes no page: [{}] {}", error.rule, error.message))
}

/// What hangs on a mistake, by its class: the rule that tells the mistake, and the one that has to speak of what it
/// leaves behind once the first is off.
const LEFT: [(&str, &str, &str); 3] = [
    ("include", "missing-file", "unreached-template"),
    ("module", "missing-import", "idle-callback"),
    ("message", "untranslated", "unused-message"),
];

/// Is what a mistake leaves behind silent, though the rule that tells the mistake itself is off?
fn hides(sown: &Sown, spot: &Spot) -> Option<String> {
    let (_, off, left) = LEFT.iter().find(|(class, ..)| *class == spot.slip.class)?;
    let mut files = sown.with(spot);
    let manifest = format!("{ROOT}/truehook.toml");
    let text = files.get(manifest.as_str().into()).map(|bytes| String::from_utf8_lossy(bytes).into_owned())?;
    files.insert(manifest, format!("{text}\n[check]\nrules = {{ {off} = \"off\" }}\n"));
    let findings = serious(&link(&files));
    let said: Vec<String> = findings.iter().map(|finding| format!("[{}] {}", finding.rule, finding.message)).collect();
    let told = findings.iter().any(|finding| finding.rule == *left);
    let quiet = findings.iter().all(|finding| finding.rule != *off);
    (!told || !quiet).then(|| format!("with {off} off, {left} is not told: {said:#?}"))
}

/// What shows on no page of the preview: translations into a language that it is not in, defaults where something
/// is chosen, sheets that pages only name, orders, and what is added to be lost.
const UNSEEN: [&str; 16] = [
    "script file",
    "global in the markup",
    "used too early",
    "rule accepted",
    "point accepted",
    "value of a filter",
    "type changed",
    "outside of blocks",
    "message",
    "placeholder lost",
    "form lost",
    "option default",
    "need unsaid",
    "global name",
    "order",
    "picture in a style",
];

/// What is not told of a release that renames several things at once, if anything: each old name has to be told
/// once, with the new one.
fn misses_release(sown: &Sown) -> Option<String> {
    let new = ["zeppelin", "quicksand"];
    let names: Vec<(String, String)> = sown.released.iter().cloned().zip(new.map(str::to_string)).collect();
    let (_, _) = (names.first()?, names.get(1)?);
    let registry = link(&sown.released(&names));
    let findings = serious(&registry);
    let said: Vec<String> = findings.iter().map(|finding| format!("[{}] {}", finding.rule, finding.message)).collect();
    for (old, new) in &names {
        let about: Vec<&Finding> = findings.iter().filter(|finding| finding.message.contains(old.as_str())).collect();
        let [one] = about[..] else { return Some(format!("`{old}` is told {} times: {said:#?}", about.len())) };
        let text = |place: &rules::FoundPlace| &registry.project().file(place.file).text()[place.span.range()];
        let mended = one.mend.as_ref().is_some_and(|mend| mend.text.contains(new.as_str()));
        let shown = mended || one.places.iter().any(|place| text(place).contains(new.as_str()));
        if !shown {
            return Some(format!("`{new}` is not shown for `{old}`: {said:#?}"));
        }
    }
    (findings.len() > names.len()).then(|| format!("more is told: {said:#?}"))
}

#[derive(Default)]
struct Score {
    told: usize,
    twice: usize,
    all: usize,
}

#[test]
fn what_goes_wrong_in_sown_themes_is_told() {
    let number = |name: &str| std::env::var(name).ok().and_then(|text| text.parse::<u64>().ok());
    let asked = number("TRUEHOOK_THEMES");
    let count = asked.unwrap_or(THEMES);
    let first = number("TRUEHOOK_SEED").unwrap_or(if asked.is_some() { fastrand::u64(..1 << 32) } else { 1 });
    println!("{count} themes from seed {first}: TRUEHOOK_THEMES={count} TRUEHOOK_SEED={first}");
    let mut score: BTreeMap<&'static str, Score> = BTreeMap::new();
    let (mut complaints, mut disagreements) = (Vec::new(), Vec::new());
    for seed in first..first + count {
        let sown = sow(seed);
        let clean = serious(&link(&sown.files));
        let clean: Vec<String> =
            clean.iter().map(|finding| format!("[{}] {}", finding.rule, finding.message)).collect();
        assert!(clean.is_empty(), "seed {seed}: {clean:#?}\n{:#?}", sown.texts);
        let before = shown(&sown.files);
        let failed: Vec<&String> = before.iter().filter(|(_, (_, failed))| *failed).map(|(path, _)| path).collect();
        assert!(failed.is_empty(), "seed {seed}: {failed:?}");
        if let Some(why) = misses_release(&sown) {
            complaints.push(format!("release: seed {seed}: {why}"));
            score.entry("a release renames several things").or_default().all += 1;
        } else if !sown.released.is_empty() {
            let entry = score.entry("a release renames several things").or_default();
            (entry.all, entry.told) = (entry.all + 1, entry.told + 1);
        }
        for (at, spot) in sown.spots.iter().enumerate() {
            if at % COMPARED == (seed as usize) % COMPARED
                && !UNSEEN.contains(&spot.slip.class)
                && let Some(why) = disagreement(&before, &sown, spot)
            {
                disagreements.push(format!("seed {seed}, {}: `{}`: {why}", spot.slip.class, spot.slip.wrong));
            }
            if LEFT.iter().any(|(class, ..)| *class == spot.slip.class) {
                let entry = score.entry("a rule is off that told it").or_default();
                entry.all += 1;
                match hides(&sown, spot) {
                    None => entry.told += 1,
                    Some(why) => complaints.push(format!("off: seed {seed}, {}: {why}", spot.slip.class)),
                }
            }
            let entry = score.entry(spot.slip.class).or_default();
            entry.all += 1;
            let (word, said) = match judge(&sown, spot) {
                Verdict::Told => {
                    entry.told += 1;
                    continue;
                }
                Verdict::Twice(said) => {
                    entry.told += 1;
                    entry.twice += 1;
                    ("twice", said)
                }
                Verdict::Silent(said) => ("silent", said),
            };
            let right = &sown.texts[&spot.file][spot.range.clone()];
            complaints.push(format!(
                "{word}: seed {seed}, {} in {}: `{right}` → `{}`: {said:#?}",
                spot.slip.class, spot.file, spot.slip.wrong
            ));
        }
    }
    let page = page(&score, count, first);
    println!("{page}\n{}\n{}", complaints.join("\n"), disagreements.join("\n"));
    assert!(disagreements.is_empty(), "{} disagreements", disagreements.len());
    let (told, twice, all) = sum(&score);
    assert!(told * 1000 >= all * 995, "{told} of {all} are told");
    assert!(twice * 200 <= all, "{twice} of {all} are told with something beside it");
    for (class, one) in &score {
        assert!(one.all < 200 || one.told * 100 >= one.all * 98, "{class}: {} of {}", one.told, one.all);
    }
    if std::env::var_os("TRUEHOOK_WRITE").is_some() {
        // What the test of all links wrote stays above.
        let known = std::fs::read_to_string(PAGE).unwrap_or_default();
        let above = known.find(HEADING).map_or(known.as_str(), |at| &known[..at]);
        std::fs::write(PAGE, format!("{}\n\n{page}", above.trim_end())).expect("the page can be written");
    }
}

/// How the second part of the page begins.
pub const HEADING: &str = "# What goes wrong in sown themes";

fn page(score: &BTreeMap<&'static str, Score>, themes: u64, seed: u64) -> String {
    let mut page = format!(
        "{HEADING}\n\n{themes} themes, sown from seed {seed}, each with one thing wrong at a time. The beds of these themes say \
         themselves what\ncan go wrong in them, which word has to be told and which files have to be shown; nothing of the \
         product is asked.\nOf each four breaks one is rendered, too: a page that fails or loses something has to be told, and \
         an error changes a\npage. Out of reach of that comparison are translations into a language that the preview is not \
         in, defaults where\nsomething is chosen, scripts, orders, and what is added and lost in the same place.\n\n| what is wrong | told | with others | of |\n| --- | --- | --- | --- |\n"
    );
    for (class, one) in score {
        page.push_str(&format!("| {class} | {} | {} | {} |\n", one.told, one.twice, one.all));
    }
    let (told, twice, all) = sum(score);
    page.push_str(&format!("| all | {told} | {twice} | {all} |\n"));
    page
}

fn sum(score: &BTreeMap<&'static str, Score>) -> (usize, usize, usize) {
    score.values().fold((0, 0, 0), |sum, one| (sum.0 + one.told, sum.1 + one.twice, sum.2 + one.all))
}
