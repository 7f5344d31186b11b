//! What is written from the preview: the plans and locks of the commands, and one step back.

use camino::Utf8Path;
use serde::Deserialize;
use truehook_core::address::Address;
use truehook_core::edit::fill::{self, Filled, Holder, Step};
use truehook_core::edit::{self, Change, Lock, Plan};
use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, Project, read_plain};
use truehook_core::rules;

use crate::room::Room;
use crate::state::{Done, locked};
use crate::view::View;

/// How many steps can be taken back.
const STEPS: usize = 50;

/// What is asked for.
#[derive(Debug, Deserialize)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum Wish {
    /// An offer is put at the end of a region or area.
    Add { point: String, component: String, offer: String },
    /// An item of a region or area is taken away, counted from 1.
    Remove { point: String, at: usize },
    /// A finding is mended. The message says that it is still the same.
    Mend { message: String },
    /// What one browser has chosen is written into the preview's files.
    Keep { view: View },
    /// The last step is taken back.
    Undo,
}

/// What was done, or why not.
type Outcome = Result<String, String>;

/// Does what is asked for. Answers what was done.
pub fn carry_out(room: &Room, wish: Wish) -> Outcome {
    match wish {
        Wish::Undo => undo(room),
        Wish::Add { point, component, offer } => write(room, &format!("put {offer} into {point}"), |registry| {
            let holder = holder(registry, &point)?;
            let component: Address = component.parse().map_err(|_| format!("{component} is no address"))?;
            let offers = registry.point(component).and_then(|point| point.offers.as_deref()).unwrap_or_default();
            let found = offers.iter().find(|(_, known)| known.label.is_some_and(|label| label.as_str() == offer));
            let (_, found) = found.ok_or_else(|| format!("{component} has no offer `{offer}`"))?;
            changed(registry, &holder, Step::Add(fill::offered(&found.item), None))
        }),
        Wish::Remove { point, at } => write(room, &format!("took item {at} out of {point}"), |registry| {
            let at = at.checked_sub(1).ok_or("items are counted from 1")?;
            changed(registry, &holder(registry, &point)?, Step::Remove(vec![at]))
        }),
        Wish::Keep { view } => write(room, "kept what was chosen", |registry| {
            view.fitting(registry).plan(registry).map_err(|error| error.to_string())
        }),
        Wish::Mend { message } => write(room, "mended a finding", |registry| {
            let found = rules::check(registry).findings.into_iter().find(|finding| finding.message == message);
            let mend = found.and_then(|finding| finding.mend).filter(|mend| mend.safe && !mend.edits.is_empty());
            Ok(Plan::of(mend.ok_or("it is not there any more, or can't be mended without asking")?.edits))
        }),
    }
}

fn holder(registry: &Registry, point: &str) -> Result<Holder, String> {
    let address: Address = point.parse().map_err(|_| format!("{point} is no address"))?;
    registry.point(address).ok_or_else(|| format!("no layer declares {point}"))?;
    Ok(Holder::Point(address))
}

fn changed(registry: &Registry, holder: &Holder, step: Step) -> Result<Plan, String> {
    let Filled { plan, .. } = fill::change(registry, holder, &[step]).map_err(|error| error.to_string())?;
    Ok(plan)
}

/// Makes a plan for the theme as it lies on the disk, and carries it out. Nobody else writes there in the meantime.
fn write(room: &Room, what: &str, plan: impl FnOnce(&Registry) -> Result<Plan, String>) -> Outcome {
    let mut lock = lock(&room.folder)?;
    let project = Project::open(&DiskFiles, &room.folder).map_err(|error| error.to_string())?;
    let registry = Registry::new(project);
    if let Some(blind) = rules::blinding(&registry).first() {
        return Err(format!("{}; mend that first", blind.message));
    }
    let changes = plan(&registry)?.changes(registry.project()).map_err(|error| error.to_string())?;
    let changes: Vec<Change> = changes.into_iter().filter(|change| change.before != change.after).collect();
    if changes.is_empty() {
        return Ok("nothing is to be changed".into());
    }
    edit::write_all(&mut lock, &changes).map_err(|error| error.to_string())?;
    let mut done = locked(&room.done);
    done.push(Done { what: what.to_string(), changes });
    if done.len() > STEPS {
        done.remove(0);
    }
    Ok(what.to_string())
}

fn lock(folder: &Utf8Path) -> Result<Lock, String> {
    Lock::take(folder, "preview").map(|(lock, _)| lock).map_err(|error| error.to_string())
}

/// Takes the last step back, unless somebody has changed the files since.
fn undo(room: &Room) -> Outcome {
    let mut lock = lock(&room.folder)?;
    let mut all = locked(&room.done);
    let Some(last) = all.last() else { return Err("nothing was written from here yet".into()) };
    for change in &last.changes {
        let now = read_plain(&change.path, u64::MAX - 1).ok();
        if now != change.after {
            return Err(format!("{} was changed since; it is left as it is", change.shown));
        }
    }
    let back: Vec<Change> = last
        .changes
        .iter()
        .map(|change| Change { before: change.after.clone(), after: change.before.clone(), ..change.clone() })
        .collect();
    edit::write_all(&mut lock, &back).map_err(|error| error.to_string())?;
    let what = format!("taken back: {}", last.what);
    all.pop();
    Ok(what)
}
