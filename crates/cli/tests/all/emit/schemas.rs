//! Schemas: each is one, and files and outputs fit theirs.

use boon::{Compiler, Draft, Schemas};
use serde_json::{Value, json};
use truehook_core::rules::{ALL, Example};

use super::files;
use crate::fixture::Terminal;

/// A schema, ready to check with.
struct Form {
    schemas: Schemas,
    index: boon::SchemaIndex,
}

impl Form {
    /// Of a schema, which has to be one by the meta-schema of its dialect.
    fn of(schema: &Value) -> Form {
        assert_eq!(schema["$schema"], "https://json-schema.org/draft/2020-12/schema");
        Form::at(schema, "form.json")
    }

    /// Of a part of a document.
    fn at(schema: &Value, part: &str) -> Form {
        let mut compiler = Compiler::new();
        compiler.set_default_draft(Draft::V2020_12);
        compiler.add_resource("form.json", schema.clone()).unwrap();
        let mut schemas = Schemas::new();
        let index = compiler.compile(part, &mut schemas).unwrap_or_else(|error| panic!("{error:#}"));
        Form { schemas, index }
    }

    /// What is wrong with a value, where something is.
    fn wrong(&self, value: &Value) -> Option<String> {
        self.schemas.validate(value, self.index).err().map(|error| format!("{error:#}"))
    }
}

fn schema(terminal: &Terminal, typed: &str) -> Value {
    serde_json::from_str(&terminal.types(&format!("emit schema {typed}")).ends(0).stdout).unwrap()
}

/// A text of TOML as an editor checks it.
fn value(text: &str) -> Option<Value> {
    fn plain(value: toml::Value) -> Value {
        match value {
            // Editors check dates as texts.
            toml::Value::Datetime(date) => Value::from(date.to_string()),
            toml::Value::Array(all) => all.into_iter().map(plain).collect(),
            toml::Value::Table(table) => {
                Value::Object(table.into_iter().map(|(key, value)| (key, plain(value))).collect())
            }
            other => serde_json::to_value(other).unwrap(),
        }
    }
    let table: toml::Table = text.parse().ok()?;
    Some(plain(toml::Value::Table(table)))
}

/// The form that goes with a path below a theme's folder.
fn form_of(path: &str) -> Option<&'static str> {
    match path {
        "truehook.toml" => Some("manifest"),
        "preview/site.toml" => Some("site"),
        path if path.starts_with("points/") && path.ends_with(".toml") => Some("points"),
        path if path.starts_with("preview/pages/") && path.ends_with(".toml") => Some("page"),
        _ => None,
    }
}

#[test]
fn every_schema_is_one_and_every_file_of_the_demo_fits() {
    let terminal = Terminal::demo();
    let mut checked = 0;
    for name in ["manifest", "points", "site", "page"] {
        let form = Form::of(&schema(&terminal, name));
        for theme in ["saltmarsh", "foreshore", "tide-kit", "saltmarsh-broken"] {
            let root = terminal.path(theme);
            for path in files(&root) {
                let below = path.strip_prefix(&root).unwrap().to_str().unwrap();
                if form_of(below) == Some(name) {
                    let text = std::fs::read_to_string(&path).unwrap();
                    assert_eq!(form.wrong(&value(&text).unwrap()), None, "{theme}/{below}");
                    checked += 1;
                }
            }
        }
    }
    assert!(checked > 30, "{checked}");
    // The built-in contract is a manifest, too.
    let host = terminal.types("emit host").ends(0).stdout;
    assert_eq!(Form::of(&schema(&terminal, "manifest")).wrong(&value(&host).unwrap()), None);
}

#[test]
fn every_file_of_the_documents_and_of_grown_themes_fits() {
    let terminal = Terminal::demo();
    let forms: Vec<(&str, Form)> =
        ["manifest", "points", "site", "page"].map(|name| (name, Form::of(&schema(&terminal, name)))).into();
    let check = |path: &str, text: &str| {
        // Below the theme's folder, which is the first part.
        let below = path.split_once('/').map_or(path, |(_, below)| below);
        let Some(name) = form_of(below) else { return false };
        let form = &forms.iter().find(|(known, _)| *known == name).unwrap().1;
        assert_eq!(form.wrong(&value(text).unwrap_or_else(|| panic!("{path}: {text}"))), None, "{path}\n{text}");
        true
    };
    let root = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");
    let mut pages = files(&std::path::Path::new(root).join("docs"));
    pages.push(std::path::Path::new(root).join("README.md"));
    let mut checked = 0;
    for page in pages.iter().filter(|page| page.extension().is_some_and(|ending| ending == "md")) {
        let text = std::fs::read_to_string(page).unwrap();
        for piece in text.split("```toml file=").skip(1) {
            let (path, rest) = piece.split_once('\n').unwrap();
            let whole = rest.split("\n```").next().unwrap();
            // Of a file that only changes, a piece is no whole.
            if !path.contains(' ') {
                checked += usize::from(check(path, whole));
            }
        }
    }
    assert!(checked >= 10, "{checked}");
    for seed in 0..12 {
        for (path, text) in crate::grown::grow(seed).files.iter() {
            let below = path.as_str().trim_start_matches("/grown/");
            check(below, std::str::from_utf8(text).unwrap_or_default());
        }
    }
}

/// The files of an example, with who the theme is before what does not say it.
fn example(of: &Example) -> Vec<(&'static str, String)> {
    let begun = "[theme]\nname = \"example\"\nlabel = \"Example\"\nversion = \"1.0.0\"\n";
    let whole = |path: &str, text: &str| match path == "truehook.toml" && !text.contains("[theme]") {
        true => format!("{begun}{text}"),
        false => text.to_string(),
    };
    of.0.iter()
        .filter(|(path, text)| !path.starts_with("../") && !text.is_empty())
        .map(|(path, text)| (*path, whole(path, text)))
        .collect()
}

#[test]
fn every_right_example_fits_and_those_of_a_wrong_form_do_not() {
    let terminal = Terminal::demo();
    let forms: Vec<(&str, Form)> =
        ["manifest", "points", "site", "page"].map(|name| (name, Form::of(&schema(&terminal, name)))).into();
    let form = |path: &str| form_of(path).and_then(|name| forms.iter().find(|(known, _)| *known == name));
    let mut refused = Vec::new();
    for rule in ALL {
        for (path, text) in example(&rule.right) {
            let Some((_, form)) = form(path) else { continue };
            assert_eq!(form.wrong(&value(&text).unwrap()), None, "{} {path}\n{text}", rule.name);
        }
        for (path, text) in example(&rule.wrong) {
            let Some((_, form)) = form(path) else { continue };
            if value(&text).is_none_or(|value| form.wrong(&value).is_some()) {
                refused.push(rule.name);
            }
        }
    }
    // What a form can say of keys and types.
    for rule in ["unknown-key", "manifest-syntax", "bad-name", "priority-range"] {
        assert!(refused.contains(&rule), "{rule}: {refused:?}");
    }
    let manifest = &forms[0].1;
    let theme = json!({ "name": "a", "version": "1.0.0" });
    for wrong in [
        json!({ "theme": theme, "hook": { "x": { "abuot": "typo" } } }),
        json!({ "theme": theme, "hook": { "x": { "about": 3 } } }),
        json!({ "theme": theme, "hooks": {} }),
        json!({ "theme": theme, "attach": [{ "to": "hook:x" }] }),
        json!({ "theme": theme, "attach": [{ "call": "a.js#b" }] }),
        json!({ "theme": theme, "attach": [{ "to": "hock:x", "call": "a.js#b" }] }),
        json!({ "theme": theme, "attach": [{ "to": "hook:x", "call": "a.js" }] }),
        json!({ "theme": theme, "partial": { "x": { "inputs": { "a": { "type": "text" } } } } }),
        json!({ "theme": theme, "check": { "rules": { "no-such-rule": "off" } } }),
        json!({ "theme": { "name": "a", "version": "1.0" } }),
        json!({ "hook": {} }),
    ] {
        assert!(manifest.wrong(&wrong).is_some(), "{wrong}");
    }
}

#[test]
fn with_a_theme_its_points_callbacks_inputs_and_options_are_the_choices() {
    let terminal = Terminal::demo();
    let all = ["manifest", "points", "site", "page"];
    let forms: Vec<Form> =
        all.map(|name| Form::of(&schema(&terminal, &format!("{name} --of .")))).into_iter().collect();
    let root = terminal.path("saltmarsh");
    for path in files(&root) {
        let below = path.strip_prefix(&root).unwrap().to_str().unwrap();
        let Some(at) = form_of(below).and_then(|name| all.iter().position(|known| *known == name)) else { continue };
        let text = std::fs::read_to_string(&path).unwrap();
        assert_eq!(forms[at].wrong(&value(&text).unwrap()), None, "{below}");
    }
    let theme = json!({ "name": "a", "version": "1.0.0" });
    let attach = |to: &str, call: &str| json!({ "theme": theme, "attach": [{ "to": to, "call": call }] });
    assert_eq!(forms[0].wrong(&attach("hook:under-masthead", "masthead.js#welcome")), None);
    assert!(forms[0].wrong(&attach("hook:under-masthed", "masthead.js#welcome")).is_some());
    assert!(forms[0].wrong(&attach("hook:under-masthead", "masthead.js#welcom")).is_some());
    let fill = |item: Value| json!({ "fill": { "region:aside": [item] } });
    assert_eq!(forms[2].wrong(&fill(json!({ "use": "piece:note", "text": "x" }))), None);
    assert!(forms[2].wrong(&fill(json!({ "use": "piece:note", "txet": "x" }))).is_some());
    assert!(forms[2].wrong(&fill(json!({ "use": "partial:tide-dial", "size": "large" }))).is_some());
    assert!(forms[2].wrong(&json!({ "options": { "scheme": "evening" } })).is_some());
    assert!(forms[2].wrong(&json!({ "fill": { "area:foot-notes": [] } })).is_some());
    assert!(forms[3].wrong(&json!({ "path": "/", "type": "frnt", "title": "x" })).is_some());
    terminal.types("emit schema manifest --of nowhere").ends(2).says("there is no folder nowhere");
}

#[test]
fn what_commands_print_fits_the_form_of_it() {
    let terminal = Terminal::demo();
    let outputs = [
        ("check", "check --notes --format json"),
        ("why", "why hook:under-masthead --page / --format json"),
        ("list", "list --format json"),
        ("explain", "explain unknown-key --format json"),
        ("explain", "explain hook --format json"),
        ("show", "show hook:under-masthead --format json"),
        ("show", "show --format json"),
        ("show", "show layout.html --source --format json"),
        ("map", "map / --format json"),
        ("desk", "desk --format json"),
        ("atlas", "atlas --format json"),
        ("shelf", "shelf .. --format json"),
        ("origin", "origin / --text Saltmarsh --format json"),
        ("render", "render / --format json"),
        ("render", "render / --without hook:under-masthead --format json"),
        ("fire", "fire hook:under-masthead --format json"),
        ("trace", "trace / --format json"),
        ("declare", "declare hook:quiet --dry-run --format json"),
        ("attach", "attach hook:under-masthead quiet.js#calm --dry-run --format json"),
        ("changes", "declare piece:quiet --dry-run --format json"),
    ];
    for (name, command) in outputs {
        let form = Form::of(&schema(&terminal, name));
        let said = terminal.types(command);
        let printed: Value = serde_json::from_str(&said.stdout)
            .unwrap_or_else(|error| panic!("{command}: {error}\n{}{}", said.stdout, said.stderr));
        assert_eq!(form.wrong(&printed), None, "{command}");
        assert!(form.wrong(&json!({ "version": "one" })).is_some(), "{name} says nothing");
    }
}

#[test]
fn all_schemas_come_as_one_document_or_as_files() {
    let terminal = Terminal::demo();
    let whole = schema(&terminal, "all");
    assert_eq!(whole, schema(&terminal, ""));
    let names: Vec<String> = whole["$defs"].as_object().unwrap().keys().cloned().collect();
    assert!(names.len() >= 18, "{names:?}");
    let site = value(&terminal.read("saltmarsh/preview/site.toml")).unwrap();
    assert_eq!(Form::at(&whole, "form.json#/$defs/site").wrong(&site), None);
    for name in &names {
        Form::at(&whole, &format!("form.json#/$defs/{name}"));
    }
    terminal.types("emit schema --into forms").ends(0).says("manifest.json");
    for name in names {
        let text = terminal.read(&format!("saltmarsh/forms/{name}.json"));
        Form::of(&serde_json::from_str(&text).unwrap());
    }
    terminal.types("emit schema manifst").ends(2).says("did you mean `manifest`?");
}

#[test]
fn what_new_writes_leads_to_its_form_and_fits_it() {
    let terminal = Terminal::empty("").file(
        "plain/index.html",
        "<!doctype html><html lang=\"en\"><head><title>A</title></head><body><main><p>A</p></main></body></html>\n",
    );
    for command in ["new ferry", "new skiff --on ferry", "new barge --from plain/index.html"] {
        terminal.types(command).ends(0);
        let name = command.split(' ').nth(1).unwrap();
        let text = terminal.read(&format!("{name}/truehook.toml"));
        assert!(text.starts_with("#:schema ./.truehook/manifest.json\n[theme]\n"), "{text}");
        let form = Form::of(&serde_json::from_str(&terminal.read(&format!("{name}/.truehook/manifest.json"))).unwrap());
        assert_eq!(form.wrong(&value(&text).unwrap()), None, "{name}");
        terminal.types_in(name, "check").ends(0).says("nothing wrong");
    }
}
