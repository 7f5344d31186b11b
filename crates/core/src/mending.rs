//! Mends: the safe edits of findings, made all together, as often as they bring new ones to light.

use crate::edit::{Change, EditError, Plan, preview};
use crate::link::Registry;
use crate::read::{Files, Project};
use crate::rules::{self, Finding, Mend};
use crate::scan::{Flaw, FlawKind};
use crate::source::Edit;

/// How often mends are looked for again after some were made.
const ROUNDS: usize = 8;

/// What came of mending a theme. Nothing is written yet.
pub struct Mended {
    /// The changes to its files.
    pub changes: Vec<Change>,
    /// How many findings they take away.
    pub count: usize,
    /// The theme as it is then.
    pub registry: Registry,
    /// The mends that were left undone since a page would lose something, or no less would be found.
    pub refused: Vec<Refused>,
}

/// A mend that was left undone.
pub struct Refused {
    /// What it would have done, in words.
    pub text: String,
    /// What a page would lose, or what would be found then.
    pub why: String,
    /// The edits that it would have made.
    pub edits: Vec<Edit>,
}

/// Says what a page would lose by some changes, of a theme before and after them; nothing where it loses nothing.
pub type Loss<'l> = dyn FnMut(&[Change], &Registry) -> Option<String> + 'l;

/// Makes the safe mends of a theme's own findings. What would bring more findings than it takes away, or would cost a page
/// something, is left undone, so doing it twice does no more than doing it once.
///
/// # Errors
/// Where a file can't be edited, or the theme could not be opened any more.
pub fn mend(files: &dyn Files, registry: Registry, loss: &mut Loss<'_>) -> Result<Mended, EditError> {
    let root = registry.project().layer(registry.project().top()).root.clone();
    let all = rounds(files, registry, &mut |_, _| None)?;
    // What one mend costs, the next may bring back; only where something is lost in the end are they tried one by one.
    if all.changes.is_empty() || loss(&all.changes, &all.registry).is_none() {
        return Ok(all);
    }
    let project = Project::open(files, &root).map_err(|error| EditError::new(error.to_string()))?;
    rounds(files, Registry::new(project), loss)
}

fn rounds(files: &dyn Files, mut registry: Registry, loss: &mut Loss<'_>) -> Result<Mended, EditError> {
    let mut changes: Vec<Change> = Vec::new();
    let mut refused: Vec<Refused> = Vec::new();
    let mut findings = rules::check(&registry).findings;
    let begun = findings.len();
    let mut worse = Vec::new();
    for _ in 0..ROUNDS {
        worse.clear();
        let mends = chosen(&registry, &findings);
        let mends: Vec<&Mend> =
            mends.into_iter().filter(|mend| !refused.iter().any(|known| known.edits == mend.edits)).collect();
        let known = (findings.as_slice(), changes.as_slice());
        let tried = best(files, &registry, &mends, known, loss, (&mut refused, &mut worse))?;
        let Some((better, new, left)) = tried else { break };
        (registry, changes, findings) = (better, new, left);
    }
    refused.append(&mut worse);
    Ok(Mended { changes, count: begun.saturating_sub(findings.len()), registry, refused })
}

/// The safe mends whose edits are all in the theme's own files, and don't touch those of one before. Those that write
/// something else come before those that add something: that may be there already, misspelt.
fn chosen<'f>(registry: &Registry, findings: &'f [Finding]) -> Vec<&'f Mend> {
    let top = registry.project().top();
    let mut taken: Vec<&Edit> = Vec::new();
    let mut found = Vec::new();
    let mends = findings.iter().filter_map(|finding| finding.mend.as_ref());
    let adds = |mend: &&Mend| mend.edits.iter().any(|edit| edit.span.start == edit.span.end);
    let (adding, writing): (Vec<&Mend>, Vec<&Mend>) = mends.partition(adds);
    for mend in writing.into_iter().chain(adding) {
        let own = mend.edits.iter().all(|edit| registry.project().file(edit.file).layer == top);
        let meets = |edit: &Edit| {
            taken.iter().any(|other| {
                let apart = edit.span.start > other.span.end || other.span.start > edit.span.end;
                other.file == edit.file && *other != edit && !apart
            })
        };
        if mend.safe && !mend.edits.is_empty() && own && !mend.edits.iter().any(meets) {
            taken.extend(&mend.edits);
            found.push(mend);
        }
    }
    found
}

type Better = (Registry, Vec<Change>, Vec<Finding>);

/// Files that can't be read, or not to their end: what is in them is not looked at.
fn unread(registry: &Registry) -> usize {
    let is_syntax =
        |flaw: &&Flaw| matches!(flaw.kind, FlawKind::ManifestSyntax | FlawKind::MarkupSyntax | FlawKind::CodeSyntax);
    registry.all_facts().iter().flat_map(|facts| facts.flaws.iter()).filter(is_syntax).count()
}

/// The theme with all these mends, or else with the first of them that leaves fewer findings by itself. The mends that
/// are left undone are added to two lists: those that cost a page something, and those after which no less is found.
fn best(
    files: &dyn Files,
    registry: &Registry,
    mends: &[&Mend],
    (findings, changes): (&[Finding], &[Change]),
    loss: &mut Loss<'_>,
    (refused, worse): (&mut Vec<Refused>, &mut Vec<Refused>),
) -> Result<Option<Better>, EditError> {
    let singles = mends.iter().map(std::slice::from_ref);
    let several = (mends.len() > 1).then_some(mends);
    for some in several.into_iter().chain(singles) {
        let edits = some.iter().flat_map(|mend| mend.edits.clone()).collect();
        let plan = Plan::of(edits);
        let new = joined(changes, plan.changes(registry.project())?);
        let project = preview(files, registry.project(), &new).map_err(|error| EditError::new(error.to_string()))?;
        let after = Registry::new(project);
        let left = rules::check(&after).findings;
        if left.len() >= findings.len() || unread(&after) > unread(registry) {
            if let [mend] = some {
                let known = |finding: &&Finding| !findings.iter().any(|known| known.message == finding.message);
                let why = match left.iter().find(known) {
                    Some(new) => format!("check would find then: {}", new.message),
                    None => "no less would be found".to_string(),
                };
                worse.push(Refused { text: mend.text.clone(), why, edits: mend.edits.clone() });
            }
            continue;
        }
        match (loss(&new, &after), some) {
            (None, _) => return Ok(Some((after, new, left))),
            (Some(why), [mend]) => {
                refused.push(Refused { text: mend.text.clone(), why, edits: mend.edits.clone() });
            }
            // One of several: each is tried by itself.
            (Some(_), _) => {}
        }
    }
    Ok(None)
}

/// Changes after which others come: each file once, from what it was to what it is in the end.
fn joined(first: &[Change], then: Vec<Change>) -> Vec<Change> {
    let mut all = first.to_vec();
    for change in then {
        match all.iter_mut().find(|known| known.path == change.path) {
            Some(known) => known.after = change.after,
            None => all.push(change),
        }
    }
    all
}
