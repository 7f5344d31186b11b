//! A callback asks for more than its point passes

use crate::address::Role;
use crate::link::Registry;
use crate::name::Name;
use crate::names::nearest;
use crate::rules::telling::callbacks;
use crate::rules::{Example, Finding, Level, Rule};
use crate::source::Place;

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "unfit-signature",
    level: Level::Error,
    links: &[],
    awaited: true,
    summary: "A callback asks for more than its point passes",
    explanation: "A listener gets the context; a filter, an arranger and a preparer get a value and the context. The context holds page, site, options, theme, args and point, and args holds what the point declares. Anything else is undefined.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"export function today({ page, tide }) { return `${page.title}: ${tide}`; }
"##,
        ),
        (
            "truehook.toml",
            r##"[[attach]]
to = "hook:document-end"
call = "notes.js#today"
"##,
        ),
    ]),
    right: Example(&[(
        "code/notes.js",
        r##"export function today({ page, site }) { return `${page.title}: ${site.title}`; }
"##,
    )]),
    check,
};

/// What every callback's context holds.
const CONTEXT: [&str; 6] = ["page", "site", "options", "theme", "args", "point"];

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    let mut told = Vec::new();
    for (callback, point, role) in callbacks(registry) {
        let Some(signature) = registry.export(callback).and_then(|export| export.signature.as_ref()) else { continue };
        let takes = if role == Some(Role::Listener) { 1 } else { 2 };
        let name = registry.callback_name(callback);
        let place = |at| Place { file: callback.file, at };
        let args: Vec<Name> = point.args.iter().map(|arg| arg.field.name).collect();
        let mut wrong = Vec::new();
        if let Some(extra) = signature.params.get(takes) {
            let word = if takes == 1 { "one argument, the context" } else { "two arguments, a value and the context" };
            wrong.push((
                extra.at,
                format!("`{name}` gets {word}, and asks for more"),
                "nothing is passed here".to_string(),
            ));
        }
        if let Some(context) = signature.params.get(takes - 1) {
            for key in context.keys.iter().filter(|key| !CONTEXT.contains(&key.name.as_str())) {
                let label = match args.contains(&key.name) {
                    true => format!("write args: {{ {} }}", key.name),
                    false => label(&key.name, &CONTEXT),
                };
                wrong.push((key.at, format!("the context of `{name}` holds no `{}`", key.name), label));
            }
            for key in context.args.iter().filter(|key| !args.contains(&key.name)) {
                let known: Vec<&str> = args.iter().map(|name| name.as_str()).collect();
                wrong.push((
                    key.at,
                    format!("`{}` passes no `{}` to `{name}`", point.address, key.name),
                    label(&key.name, &known),
                ));
            }
        }
        for (at, message, label) in wrong {
            // Attached to several points, a callback may ask for what only one of them lacks.
            if told.contains(&(callback, at)) {
                continue;
            }
            told.push((callback, at));
            let layer = registry.project().file(callback.file).layer;
            let finding = Finding::new(&RULE, layer, message).about(point.address).at(registry, place(at), label);
            let finding = finding.at_declaration(registry, point.address, "this is what it is attached to");
            found.push(finding.mend("ask only for what is there"));
        }
    }
}

fn label(name: &str, known: &[&str]) -> String {
    match nearest(name, known.iter().copied()) {
        Some(near) => format!("did you mean `{near}`?"),
        None if known.is_empty() => "it passes nothing".to_string(),
        None => format!("there are {}", known.join(", ")),
    }
}
