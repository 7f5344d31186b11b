//! A script uses a global name that only another script gives

use std::cell::LazyCell;

use rustc_hash::FxHashSet;

use crate::address::{Address, Kind};
use crate::command_line;
use crate::link::{Link, Meant, Miss, Registry, Renderer, Target, Wanted};
use crate::name::Name;
use crate::names::is_kebab;
use crate::rules::telling::{miss_finding, misses, written};
use crate::rules::{Example, Finding, Level, Mend, Rule};
use crate::source::{FileId, LayerRole};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unstated-need",
    level: Level::Error,
    links: &[Link::GlobalToScript],
    awaited: false,
    summary: "A script uses a global name that only another script gives",
    explanation: "Scripts come to a page with what they need, and in that order. A need that is not stated works for as long as the other script happens to be there first; then the script stops with an error that only the browser's console shows.",
    wrong: Example(&[
        (
            "truehook.toml",
            r##"[script.tide-dial]
file = "tide-dial.js"
"##,
        ),
        ("media/tide-dial.js", "PageLoaded(() => document.body.classList.add(\"tides\"));\n"),
    ]),
    right: Example(&[(
        "truehook.toml",
        r##"[script.tide-dial]
file = "tide-dial.js"
needs = ["script:page-loaded"]
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let used = LazyCell::new(|| used_names(registry));
    for miss in misses(registry, &RULE) {
        let Wanted::Global(file, name) = miss.wanted else { continue };
        if registry.template(file).is_some() {
            found.extend(in_markup(registry, miss, name));
            continue;
        }
        let uses = registry.script(file).is_some_and(|script| script.uses.iter().any(|used| used.name == name));
        let shown = registry.project().shown(file);
        let scripts = registry.points().filter(|point| point.address.kind == Kind::Script);
        let users: Vec<_> = scripts.filter(|point| registry.asset_file(point) == Some(file)).collect();
        let loose = miss.meant.and_then(|meant| match meant.target {
            Target::Global(loose, _) if loose != file => Some(loose),
            _ => None,
        });
        if let (true, Some(loose)) = (uses, loose) {
            found.push(undeclared(registry, miss, name, loose));
            continue;
        }
        let giver = miss.meant.and_then(|meant| match meant.target {
            Target::Point(giver) => Some((giver, meant.written)),
            _ => None,
        });
        let (message, label) = match (uses, giver) {
            (true, Some((giver, written))) if written.as_str() == giver.to_string() => {
                let who = users.first().map_or(shown.clone(), |point| format!("`{}`", point.address));
                (
                    format!("{who} uses `{name}`, which only `{giver}` gives, and does not say that it needs it"),
                    "used here",
                )
            }
            (true, _) => (format!("{shown} uses the global name `{name}`, which no script gives"), "nothing gives it"),
            (false, _) => (
                format!("`{}` is given, but {shown} does not define it", written(registry, miss)),
                "nothing defines it",
            ),
        };
        let mut finding = miss_finding(registry, &RULE, miss, message, label);
        // Where others use what is said to be given, it is the script that has it otherwise.
        if !uses && used.contains(&name) {
            let text = |meant: Meant| format!("in {shown}, write `{name}` where `{}` is defined", meant.written);
            finding.mend = miss.meant.map(|meant| Mend { text: text(meant), ..Mend::default() });
        }
        if let (Some((giver, written)), true) = (giver, uses)
            && written.as_str() == giver.to_string()
        {
            if let Some(first) = finding.places.first_mut() {
                first.label = label.to_string();
            }
            for user in &users {
                finding = finding
                    .at_declaration(registry, user.address, "this script says what it needs here")
                    .about(user.address);
            }
            // What is missing is missing where the script is declared.
            let declared_above = users.first().and_then(|point| point.layer());
            finding.layer = declared_above.map_or(finding.layer, |layer| layer.max(finding.layer));
            finding.mend = users.first().map(|user| add_need(registry, user, giver));
        }
        if registry.project().layer(finding.layer).role == LayerRole::Host && registry.project().top() != finding.layer
        {
            continue;
        }
        found.push(finding);
    }
}

/// The global names that scripts use, also those in the markup.
fn used_names(registry: &Registry) -> FxHashSet<Name> {
    let files = || registry.project().file_ids();
    let own = files().filter_map(|file| registry.script(file)).flat_map(|script| &script.uses);
    let inline = files().filter_map(|file| registry.template(file)).flat_map(|template| &template.scripts);
    own.chain(inline.flat_map(|inline| &inline.script.uses)).map(|used| used.name).collect()
}

/// A name that only a file gives which no script declares.
fn undeclared(registry: &Registry, miss: &Miss, name: Name, loose: FileId) -> Finding {
    let path = registry.project().shown(loose);
    let message = format!("`{name}` is defined in {path}, which no script declares");
    let finding = miss_finding(registry, &RULE, miss, message, "used here");
    let mend = match declaration(registry, loose) {
        Some((script, command)) => match registry.template(miss_file(registry, miss)) {
            Some(_) => command,
            None => format!("{command}; then add needs = [\"{script}\"] to the script that uses it"),
        },
        None => "declare a script with that file, and say who needs it".to_string(),
    };
    finding.mend(mend)
}

/// The file in which a name is missing.
fn miss_file(registry: &Registry, miss: &Miss) -> FileId {
    registry.references()[miss.references[0]].from.file
}

/// The address that a file of the checked theme could have as a script, and the command that declares it; nothing
/// where its name is none.
fn declaration(registry: &Registry, file: FileId) -> Option<(Address, String)> {
    let source = registry.project().file(file);
    let below = source.path.as_str().strip_prefix("media/").filter(|_| source.layer == registry.project().top())?;
    let script = Address::new(Kind::Script, source.path.file_stem().filter(|stem| is_kebab(stem))?);
    let free = registry.point(script).is_none();
    free.then(|| (script, command_line!["declare", script, format!("file={below}")]))
}

/// A script in the markup uses what no page that shows it is sure to load.
fn in_markup(registry: &Registry, miss: &Miss, name: Name) -> Option<Finding> {
    let meant = miss.meant?;
    let giver = match meant.target {
        Target::Point(giver) => giver,
        Target::Global(loose, _) => return Some(undeclared(registry, miss, name, loose)),
        _ => return None,
    };
    if meant.certain {
        let message = format!("a script in the markup uses `{name}`, which no script gives");
        return Some(miss_finding(registry, &RULE, miss, message, "nothing gives it"));
    }
    let reference = registry.references().get(*miss.references.first()?)?;
    let message = format!(
        "a script in the markup uses `{name}`, which only `{giver}` gives, and pages are not sure to load that"
    );
    let mut finding = Finding::new(&RULE, reference.layer, message).at(registry, reference.from, "used here");
    let shown = registry.points().find(|point| {
        point.address.kind.is_component() && point.renderer == Some(Renderer::Template(reference.from.file))
    });
    finding = finding.at_declaration(registry, giver, "this script gives it");
    Some(match shown {
        Some(component) => Finding {
            mend: Some(add_need(registry, component, giver)),
            ..finding
                .at_declaration(registry, component.address, "this component says what it needs here")
                .about(component.address)
        },
        None => finding.mend(format!("put the script into a file of its own that needs `{giver}`")),
    })
}

/// The mend that states the need.
fn add_need(registry: &Registry, user: &crate::link::Point, giver: Address) -> Mend {
    let text = format!("add needs = [\"{giver}\"] to [{}.{}]", user.address.kind, user.address.name);
    let edit = user.declared.last().and_then(|declared| {
        crate::edit::manifest::need(registry.project(), declared.place.file, registry.span(declared.place), giver).ok()
    });
    Mend { text, safe: edit.is_some(), edits: edit.into_iter().collect() }
}
