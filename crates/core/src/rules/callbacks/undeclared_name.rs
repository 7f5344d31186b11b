//! A module uses a name that nothing gives

use crate::link::Registry;
use crate::names::{certain, nearest};
use crate::rules::telling::{rewrite, writing};
use crate::rules::{Example, Finding, Level, Mend, Rule};
use crate::scan::{BUILT_IN, LANGUAGE, ModuleShape, Named, Shape};
use crate::source::{Edit, FileId, Place, Span};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "undeclared-name",
    level: Level::Error,
    links: &[],
    awaited: false,
    summary: "A module uses a name that nothing gives",
    explanation: "The callback fails as soon as it gets there. The functions of `truehook` have to be imported, what another module exports, too; and there is no browser around callbacks: no window, no document, no timers.",
    wrong: Example(&[
        (
            "code/notes.js",
            r##"export function today({ page }) { return html`<p>${page.title}</p>`; }
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
        r##"import { html } from "truehook";
export function today({ page }) { return html`<p>${page.title}</p>`; }
"##,
    )]),
    check,
};

fn check(registry: &Registry, found: &mut Vec<Finding>) {
    for (at, facts) in registry.all_facts().iter().enumerate() {
        let Shape::Module(module) = &facts.shape else { continue };
        let file = FileId(at as u32);
        if module.undeclared.is_empty() {
            continue;
        }
        let mut told = meant_elsewhere(registry, file);
        for named in &module.undeclared {
            if !told.contains(&named.name.as_str()) {
                told.push(named.name.as_str());
                found.push(finding(registry, file, module, *named));
            }
        }
    }
}

/// What was meant by names that this file gets wrong where it takes them in: those are told there.
fn meant_elsewhere(registry: &Registry, file: FileId) -> Vec<&str> {
    let mut meant = Vec::new();
    for miss in registry.misses() {
        let here = miss.references.iter().any(|at| registry.references()[*at].from.file == file);
        if let (true, Some(name)) = (here, miss.meant) {
            let written = name.written.as_str();
            meant.push(written.split_once(':').map_or(written, |(key, _)| key));
        }
    }
    meant
}

fn finding(registry: &Registry, file: FileId, module: &ModuleShape, named: Named) -> Finding {
    let name = named.name;
    let layer = registry.project().file(file).layer;
    let uses: Vec<Place> =
        module.undeclared.iter().filter(|other| other.name == name).map(|other| Place { file, at: other.at }).collect();
    let own = BUILT_IN.contains(&name.as_str());
    let message = match own {
        true => format!("`{name}` is used, and not imported from `truehook`"),
        false => format!("`{name}` is used, but nothing gives it"),
    };
    let words = || {
        let imported = module.imports.iter().flat_map(|import| &import.names).map(|named| named.name.as_str());
        LANGUAGE.into_iter().chain(imported).chain(module.exports.iter().map(|export| export.name.as_str()))
    };
    let near = nearest(&name, words()).filter(|_| !own);
    let label = match near {
        Some(near) => format!("did you mean `{near}`?"),
        None => "it is not declared here".to_string(),
    };
    let mut finding = Finding::new(&RULE, layer, message);
    for (at, place) in uses.iter().enumerate() {
        finding = finding.at(registry, *place, if at == 0 { label.as_str() } else { "and here" });
    }
    finding.mend = Some(match near {
        Some(near) => {
            let safe = certain(&name, words()).is_some();
            writing(near, safe, uses.iter().map(|place| rewrite(registry, *place, &name, near)))
        }
        None if own => Mend {
            text: "import it from \"truehook\"".to_string(),
            safe: true,
            edits: vec![import(registry, file, module, &name)],
        },
        // What browsers and other engines have.
        None if name == "console" => Mend {
            text: "note(value), imported from \"truehook\", writes a value into the trace".to_string(),
            ..Mend::default()
        },
        None => Mend { text: "declare it, or import it".to_string(), ..Mend::default() },
    });
    finding
}

/// The edit that imports a function of `truehook`.
fn import(registry: &Registry, file: FileId, module: &ModuleShape, name: &str) -> Edit {
    let last =
        module.imports.iter().filter(|import| import.from.name == "truehook").find_map(|import| import.names.last());
    match last {
        Some(last) => {
            let end = registry.span(Place { file, at: last.at }).end;
            let text = registry.project().file(file).text();
            // Behind a name that is imported under another one.
            let rest = &text[end as usize..];
            let end = end as usize + rest.find([',', '}']).map_or(0, |stop| rest[..stop].trim_end().len());
            Edit { file, span: Span::new(end, end), new: format!(", {name}") }
        }
        None => Edit { file, span: Span::new(0, 0), new: format!("import {{ {name} }} from \"truehook\";\n") },
    }
}
