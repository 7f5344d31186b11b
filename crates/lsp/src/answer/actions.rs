//! What can be done at a place: the mends of findings, and what commands do.

use lsp_types::{CodeAction, CodeActionKind, CodeActionOrCommand, CodeActionParams, Command, WorkspaceEdit};
use truehook_core::address::Address;
use truehook_core::command_line;
use truehook_core::edit::{self, Plan, asked, manifest, module};
use truehook_core::link::{Callback, Outcome, Registry, Runs, Target, Unheard, Wanted};
use truehook_core::mending;
use truehook_core::mentions;
use truehook_core::read::FileKind;
use truehook_core::rules::Finding;
use truehook_core::scan::CallRef;
use truehook_core::source::{At, FileId, Span};

use crate::answer::MEND;
use crate::answer::edits::Gathered;
use crate::diagnostics::{Shown, diagnostic, shown};
use crate::theme::Theme;
use crate::world::World;

/// How many points a callback is offered to be attached to.
const OFFERED: usize = 5;

/// All that can be done at a place.
pub fn actions(world: &World, params: CodeActionParams) -> Option<Vec<CodeActionOrCommand>> {
    let (theme, file) = world.find(&params.text_document.uri)?;
    // What was known before a manifest broke says nothing of where things stand in it now.
    if theme.held.is_some() {
        return None;
    }
    let registry = &theme.registry;
    let span = world.ruler(registry, file).span(params.range);
    let wanted = |kind: &CodeActionKind| {
        params.context.only.as_ref().is_none_or(|only| only.iter().any(|wanted| is_below(kind, wanted)))
    };
    let mut found = Vec::new();
    if wanted(&CodeActionKind::QUICKFIX) {
        for shown in shown(theme).iter().filter(|shown| shown.file == file && meets(shown.span, span)) {
            found.extend(mend(world, theme, shown));
        }
        found.extend(missing(world, theme, file, span));
    }
    if wanted(&CodeActionKind::REFACTOR) {
        found.extend(attach(world, theme, file, span));
        found.extend(adopt(world, theme, file, span));
    }
    let asked_for = params.context.only.is_some() && wanted(&CodeActionKind::SOURCE_FIX_ALL);
    if asked_for {
        found.extend(fix_all(world, theme).map(|(title, edit)| action(title, CodeActionKind::SOURCE_FIX_ALL, edit)));
    }
    let mut found: Vec<CodeActionOrCommand> = found.into_iter().map(CodeActionOrCommand::CodeAction).collect();
    // Working that out takes a while in a large theme, so it is done once it is chosen.
    if !asked_for && wanted(&CodeActionKind::SOURCE_FIX_ALL) && can_fix(theme) {
        let arguments = Some(vec![theme.folder.as_str().into()]);
        let title = "mend all that can be mended without asking".to_string();
        let command = Command { title: title.clone(), command: MEND.to_string(), arguments };
        let kind = Some(CodeActionKind::SOURCE_FIX_ALL);
        let action = CodeAction { title, kind, command: Some(command), ..Default::default() };
        found.push(CodeActionOrCommand::CodeAction(action));
    }
    Some(found)
}

fn can_fix(theme: &Theme) -> bool {
    let safe = |finding: &Finding| finding.mend.as_ref().is_some_and(|mend| mend.safe);
    theme.held.is_none() && theme.checked.findings.iter().any(safe)
}

/// `source.fixAll` is below `source`.
fn is_below(kind: &CodeActionKind, wanted: &CodeActionKind) -> bool {
    let rest = kind.as_str().strip_prefix(wanted.as_str());
    rest.is_some_and(|rest| rest.is_empty() || rest.starts_with('.'))
}

fn meets(one: Span, other: Span) -> bool {
    one.start <= other.end && other.start <= one.end
}

fn action(title: String, kind: CodeActionKind, edit: WorkspaceEdit) -> CodeAction {
    CodeAction { title, kind: Some(kind), edit: Some(edit), ..Default::default() }
}

fn planned(world: &World, registry: &Registry, plan: &Plan) -> Option<WorkspaceEdit> {
    let mut gathered = Gathered::new(world);
    gathered.plan(registry, plan, None).ok()?;
    Some(gathered.edit())
}

/// The mend of a finding: its edits, or the plan of the command that it names.
fn mend(world: &World, theme: &Theme, shown: &Shown<'_>) -> Option<CodeAction> {
    let mend = shown.finding.mend.as_ref()?;
    let plan = match (mend.edits.is_empty(), asked::command(&mend.text)) {
        (false, _) => Plan::of(mend.edits.clone()),
        (true, Some(command)) => asked::plan(shown.registry, &world.files, command).ok()?,
        (true, None) => return None,
    };
    let edit = planned(world, shown.registry, &plan)?;
    Some(CodeAction {
        diagnostics: Some(vec![diagnostic(world, theme, shown)]),
        is_preferred: Some(mend.safe),
        ..action(mend.text.clone(), CodeActionKind::QUICKFIX, edit)
    })
}

/// Whatever can be mended without asking, in all files of the theme: what it comes to, in words and as an edit.
pub fn fix_all(world: &World, theme: &Theme) -> Option<(String, WorkspaceEdit)> {
    if !can_fix(theme) {
        return None;
    }
    let copy = theme.registry.unhearing(Unheard::default());
    let mended = mending::mend(&world.files, copy, &mut |_, _| None).ok()?;
    let mut gathered = Gathered::new(world);
    gathered.changes(&mended.changes).ok()?;
    let title = match mended.count {
        0 => return None,
        1 => "mend 1 finding of this theme".to_string(),
        count => format!("mend {count} findings of this theme"),
    };
    Some((title, gathered.edit()))
}

/// What is asked for at a place and isn't there: a point can be declared, a callback written.
fn missing(world: &World, theme: &Theme, file: FileId, span: Span) -> Vec<CodeAction> {
    let registry = &theme.registry;
    let here = registry
        .references()
        .iter()
        .filter(|reference| reference.from.file == file && meets(registry.span(reference.from), span));
    let mut found: Vec<CodeAction> = Vec::new();
    for reference in here {
        let Outcome::Missing { wanted, .. } = reference.outcome else { continue };
        let made = match wanted {
            Wanted::Point(written) => declare(world, registry, written.as_str()),
            Wanted::Export(..) | Wanted::Module(..) => stub(world, registry, file, span, reference.written.as_str()),
            _ => None,
        };
        found.extend(made.filter(|made| !found.iter().any(|known| known.title == made.title)));
    }
    found
}

fn declare(world: &World, registry: &Registry, written: &str) -> Option<CodeAction> {
    let address: Address = written.parse().ok()?;
    let plan = edit::declare::declare(registry, address, &[]).ok()?;
    let edit = planned(world, registry, &plan)?;
    Some(action(format!("declare `{address}`"), CodeActionKind::QUICKFIX, edit))
}

/// The stub of a callback that an attachment names and no module exports.
fn stub(world: &World, registry: &Registry, file: FileId, span: Span, written: &str) -> Option<CodeAction> {
    let call = CallRef::parse(written, At::default())?;
    let attached = registry.points().find_map(|point| {
        let slot = point.slots.iter().find(|slot| match slot.runs {
            Runs::Callback(asked, None) => {
                let place = truehook_core::source::Place { file: slot.place.file, at: asked.at };
                slot.place.file == file && meets(registry.span(place), span)
            }
            _ => false,
        });
        slot.map(|_| point.address)
    });
    let mut plan = Plan::default();
    let added = match attached {
        Some(point) => module::add_stub(registry, point, &call, &mut plan).ok()?,
        None => {
            let renders = registry
                .manifest(file)?
                .declarations
                .iter()
                .find(|declaration| declaration.render.is_some_and(|render| render.raw.as_str() == written))?;
            module::add_renderer(registry, renders.address, &call, &[], &mut plan).ok()?
        }
    };
    let edit = planned(world, registry, &plan).filter(|_| added)?;
    Some(action(format!("write the stub of `{written}`"), CodeActionKind::QUICKFIX, edit))
}

/// At a point, a callback can be attached, with its stub; a callback, to points that have none.
fn attach(world: &World, theme: &Theme, file: FileId, span: Span) -> Vec<CodeAction> {
    let registry = &theme.registry;
    let mut found = Vec::new();
    for mention in mentions::at(registry, file, span.start) {
        match mention.target {
            Target::Point(address) => {
                let name = camel(address.name.rsplit('/').next().unwrap_or_default());
                let call = format!("{}.js#{name}", address.kind);
                found.extend(attached(world, registry, address, &call));
            }
            Target::Export(module, export) if mention.declares && theme.is_own(module) => {
                let callback = Callback { file: module, export };
                let call = registry.callback_name(callback);
                let free = registry.points().filter(|point| {
                    let own = point.layer() == Some(registry.project().top());
                    own && point.slots.is_empty() && point.address.kind.role().is_some()
                });
                found.extend(free.take(OFFERED).filter_map(|point| attached(world, registry, point.address, &call)));
            }
            _ => {}
        }
    }
    found
}

fn attached(world: &World, registry: &Registry, point: Address, call: &str) -> Option<CodeAction> {
    point.kind.role()?;
    let new = manifest::NewAttachment {
        to: point.to_string(),
        what: call.to_string(),
        priority: None,
        when: None,
        before: Vec::new(),
        after: Vec::new(),
    };
    let mut plan = Plan::default();
    let written = module::add_stub(registry, point, &CallRef::parse(call, At::default())?, &mut plan).ok()?;
    plan.edits.push(manifest::attach(registry.project(), &new).ok()?);
    let edit = planned(world, registry, &plan)?;
    let title = match written {
        true => format!("attach a new callback `{call}` to `{point}`"),
        false => format!("attach `{call}` to `{point}`"),
    };
    Some(action(title, CodeActionKind::REFACTOR, edit))
}

/// `under-masthead` as a function is called: `underMasthead`.
fn camel(name: &str) -> String {
    let mut parts = name.split(['-', '_']);
    let first = parts.next().unwrap_or_default().to_string();
    parts.fold(first, |mut all, part| {
        let mut letters = part.chars();
        all.extend(letters.next().map(|first| first.to_ascii_uppercase()));
        all.push_str(letters.as_str());
        all
    })
}

/// A template of a lower layer can be taken over, by every theme of the workspace that builds on it.
fn adopt(world: &World, theme: &Theme, file: FileId, span: Span) -> Vec<CodeAction> {
    let registry = &theme.registry;
    let mut templates: Vec<FileId> = mentions::at(registry, file, span.start)
        .into_iter()
        .filter_map(|mention| match mention.target {
            Target::File(file) if !theme.is_own(file) => Some(file),
            _ => None,
        })
        .collect();
    templates.push(file);
    let mut found = Vec::new();
    for template in templates {
        let source = registry.project().file(template);
        if source.kind != FileKind::Template || registry.project().layer(source.layer).built_in {
            continue;
        }
        let path = registry.project().path_of(template);
        for above in &world.themes {
            let own = above.registry.project();
            let Some(seen) = above.file_at(&path).filter(|seen| !above.is_own(*seen)) else { continue };
            let name = own.file(seen).name();
            let taken = own.find(own.top(), own.file(seen).path.as_str()).is_some();
            if taken {
                continue;
            }
            let theme_name = above.folder.file_name().unwrap_or_default();
            for (how, words) in [("--extend", "build on it"), ("--copy", "as a copy")] {
                let command = command_line!["adopt", name, how];
                let Ok(plan) = asked::plan(&above.registry, &world.files, &command) else { continue };
                let Some(edit) = planned(world, &above.registry, &plan) else { continue };
                let title = format!("adopt `{name}` into {theme_name}: {words}");
                found.push(action(title, CodeActionKind::REFACTOR, edit));
            }
        }
    }
    found
}
