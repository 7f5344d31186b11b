//! What is offered while somebody types.

use serde_json::{Value, json};

use super::Editor;
use crate::fixture::Terminal;

/// What is offered at `¦`, in a file of the demo to which a text is added.
fn offered(editor: &mut Editor, path: &str, added: &str) -> Vec<Value> {
    let text = match editor.open.get(path) {
        Some(_) => std::fs::read_to_string(editor.root.join(path)).unwrap(),
        None => editor.opens(path),
    };
    let marked = format!("{text}{added}");
    let at = marked.find('¦').expect("a mark");
    let typed = marked.replacen('¦', "", 1);
    editor.becomes(path, &typed);
    let position = editor.position(&typed, at);
    let asked = json!({ "textDocument": { "uri": editor.uri(path) }, "position": position });
    let answer = editor.ask("textDocument/completion", asked);
    let items = answer["items"].as_array().cloned().unwrap_or_default();
    // What is offered goes where it was typed.
    for item in &items {
        let range = &item["textEdit"]["range"];
        assert!(editor.offset(&typed, &range["start"]) <= at, "{item}");
        assert!(editor.offset(&typed, &range["end"]) >= at, "{item}");
    }
    items
}

fn labels(items: &[Value]) -> Vec<String> {
    items.iter().map(|item| item["label"].as_str().unwrap().to_string()).collect()
}

const MANIFEST: &str = "saltmarsh/truehook.toml";
const TEMPLATE: &str = "saltmarsh/markup/front.html";
const MODULE: &str = "saltmarsh/code/masthead.js";
const SITE: &str = "saltmarsh/preview/site.toml";

#[test]
fn in_a_manifest_points_callbacks_and_conditions_are_offered() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    editor.settle();
    let to = labels(&offered(&mut editor, MANIFEST, "\n[[attach]]\nto = \"¦"));
    assert!(to[0].starts_with("hook:") || to[0].starts_with("filter:"), "{to:?}");
    assert!(to.contains(&"hook:under-masthead".into()) && to.contains(&"piece:fold".into()));
    assert!(!to.iter().any(|label| label.starts_with("option:") || label.starts_with("style:")), "{to:?}");
    let hook = "\n[[attach]]\nto = \"hook:under-masthead\"\n";
    // A callback that nothing uses yet comes first.
    terminal.write("saltmarsh/code/spare.js", "export function spare() { return \"\"; }\n");
    editor.tell(
        "workspace/didChangeWatchedFiles",
        json!({ "changes": [{ "uri": editor.uri("saltmarsh/code/spare.js"), "type": 1 }] }),
    );
    editor.settle();
    let calls = labels(&offered(&mut editor, MANIFEST, &format!("{hook}call = \"¦\"")));
    assert_eq!(calls[0], "spare.js#spare", "{calls:?}");
    assert!(calls.contains(&"foreshore:credits.js#show".into()), "{calls:?}");
    let after = labels(&offered(&mut editor, MANIFEST, &format!("{hook}after = [\"¦\"]")));
    assert!(after.contains(&"masthead.js#winterNotice".into()), "{after:?}");
    let page = labels(&offered(&mut editor, MANIFEST, &format!("{hook}when = \"page.¦\"")));
    assert!(page.contains(&"type".into()) && page.contains(&"title".into()), "{page:?}");
    let types = labels(&offered(&mut editor, MANIFEST, &format!("{hook}when = \"page.type == '¦'\"")));
    assert_eq!(types, ["entry", "front", "list", "missing", "page", "search"]);
    let tones = labels(&offered(&mut editor, MANIFEST, &format!("{hook}when = \"options.scheme == ¦\"")));
    assert_eq!(tones, ["'by-daylight'", "'day'", "'night'"]);
    let detached =
        labels(&offered(&mut editor, MANIFEST, "\n[[detach]]\nfrom = \"hook:ahead-of-footer\"\ncall = \"¦\""));
    assert_eq!(detached, ["foreshore:credits.js#show"]);
    let keys = labels(&offered(&mut editor, MANIFEST, "\n[[attach]]\nto = \"hook:x\"\n¦"));
    assert_eq!(keys[..3], ["call", "use", "priority"], "what is given is not offered again");
    assert!(keys.contains(&"[[detach]]".into()) && keys.contains(&"[hook.…]".into()), "{keys:?}");
}

#[test]
fn what_is_offered_says_what_it_is_and_fits_as_it_is_written() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    editor.settle();
    let found = offered(&mut editor, MANIFEST, "\n[[attach]]\nto = ¦");
    let hook = found.iter().find(|item| item["label"] == "hook:under-masthead").unwrap();
    assert_eq!(hook["textEdit"]["newText"], "\"hook:under-masthead\"", "in its quotes, where there are none");
    assert!(hook["documentation"]["value"].as_str().unwrap().contains("Right below the masthead"), "{hook}");
    let keys = offered(&mut editor, MANIFEST, "\n[region.quiet]\n¦");
    let label = keys.iter().find(|item| item["label"] == "label").unwrap();
    assert_eq!(
        (&label["insertTextFormat"], &label["textEdit"]["newText"]),
        (&json!(2), &json!("label = \"${1:What people call it}\""))
    );
    let about = label["documentation"]["value"].as_str().unwrap();
    assert_eq!(about, "What people call it; site editors read it.");
    // In an editor without gaps, plain text.
    let mut plain = Editor::with(&terminal, "", json!({}));
    plain.settle();
    let keys = offered(&mut plain, MANIFEST, "\n[region.quiet]\n¦");
    let label = keys.iter().find(|item| item["label"] == "label").unwrap();
    assert_eq!(label["textEdit"]["newText"], "label = \"What people call it\"");
    // What stands behind the cursor in the same quotes goes with it.
    let found = offered(&mut editor, MANIFEST, "\n[[attach]]\nto = \"hook:un¦xyz\"\n");
    let hook = found.iter().find(|item| item["label"] == "hook:under-masthead").unwrap().clone();
    let replaced = editor.said(MANIFEST, &hook["textEdit"]["range"]);
    assert_eq!(replaced, "hook:unxyz");
}

#[test]
fn in_a_template_points_arguments_variables_and_files_are_offered() {
    let terminal = Terminal::demo().manifest("[region.corner]\nlabel = \"Corner\"\n");
    let mut editor = Editor::of(&terminal);
    editor.settle();
    let placed = labels(&offered(&mut editor, TEMPLATE, "{{ place(\"¦"));
    assert_eq!(placed[0], "region:corner", "what nothing places yet comes first: {placed:?}");
    assert!(!placed.iter().any(|label| label.starts_with("filter:") || label.starts_with("option:")), "{placed:?}");
    let given = offered(&mut editor, TEMPLATE, "{{ place(\"partial:tide-dial\", ¦) }}");
    assert_eq!((given[0]["label"].as_str(), given[0]["textEdit"]["newText"].as_str()), (Some("size"), Some("size=")));
    let page = labels(&offered(&mut editor, TEMPLATE, "{{ page.¦ }}"));
    assert!(page.contains(&"heading".into()), "{page:?}");
    let names =
        labels(&offered(&mut editor, TEMPLATE, "{% set tone = 1 %}{% for bird, at in site.data.species %}{{ ¦ }}"));
    for name in ["greeting", "tone", "bird", "at", "page", "place"] {
        assert!(names.contains(&name.into()), "{name}: {names:?}");
    }
    let through = labels(&offered(&mut editor, TEMPLATE, "{{ page.title | through(\"¦\") }}"));
    assert!(through.iter().all(|label| label.starts_with("filter:")) && !through.is_empty(), "{through:?}");
    let filters = labels(&offered(&mut editor, TEMPLATE, "{{ page.title | ¦ }}"));
    assert!(filters.contains(&"through".into()) && filters.contains(&"upper".into()), "{filters:?}");
    let templates = labels(&offered(&mut editor, TEMPLATE, "{% include \"¦\" %}"));
    assert!(templates.contains(&"layout.html".into()) && !templates.contains(&"front.html".into()), "{templates:?}");
    let blocks = labels(&offered(&mut editor, TEMPLATE, "{% block ¦ %}"));
    assert!(blocks.contains(&"main".into()), "{blocks:?}");
    let media = labels(&offered(&mut editor, TEMPLATE, "{{ asset(\"¦\") }}"));
    assert!(media.contains(&"style:saltmarsh".into()) && media.contains(&"media/cover.svg".into()), "{media:?}");
    let tones = labels(&offered(&mut editor, TEMPLATE, "{% if options.scheme == \"¦\" %}"));
    assert_eq!(tones, ["by-daylight", "day", "night"]);
    let outside = offered(&mut editor, TEMPLATE, "<p>¦</p>");
    assert!(outside.is_empty(), "in HTML nothing is offered");
    // Half typed, a template places nothing that linking could see; what it names is placed all the same.
    let layout = "foreshore/markup/layout.html";
    offered(&mut editor, layout, "{{ place(\"¦");
    editor.settle();
    let placed = labels(&offered(&mut editor, layout, "{{ place(\"¦"));
    let position = |label: &str| placed.iter().position(|known| known == label).unwrap();
    assert!(position("partial:trail") < position("hook:ahead-of-footer"), "{placed:?}");
}

#[test]
fn in_a_module_the_context_functions_and_stubs_are_offered() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    editor.settle();
    let page = labels(&offered(&mut editor, MODULE, "\nexport function other(c) { return c.page.¦ }"));
    assert!(page.contains(&"title".into()), "{page:?}");
    let context = labels(&offered(&mut editor, MODULE, "\nexport function other({ ¦ }) {}"));
    assert!(context.contains(&"site".into()) && context.contains(&"options".into()), "{context:?}");
    let placed = labels(&offered(&mut editor, MODULE, "\nconst a = () => place(\"¦\")"));
    assert!(placed.contains(&"partial:tide-dial".into()), "{placed:?}");
    // A preparer is given the inputs of its component.
    let inputs = labels(&offered(&mut editor, "saltmarsh/code/station.js", "\nexport function none(x) { return x.¦ }"));
    assert!(inputs.contains(&"page".into()), "{inputs:?}");
    let text = terminal.read("saltmarsh/code/species.js");
    let at = text.find("export function whereNow(").unwrap();
    let brace = at + text[at..].find("{\n").unwrap() + 2;
    let path = "saltmarsh/code/species.js";
    editor.opens(path);
    let first = text[at..].split_once('(').unwrap().1.split([',', ')']).next().unwrap().to_string();
    editor.types(path, brace..brace, &format!("  {first}."));
    let position = editor.position(&editor.text(path), brace + first.len() + 3);
    let asked = json!({ "textDocument": { "uri": editor.uri(path) }, "position": position });
    let answer = editor.ask("textDocument/completion", asked);
    let inputs = labels(answer["items"].as_array().unwrap());
    assert!(inputs.contains(&"species".into()) && inputs.contains(&"picture".into()), "{inputs:?}");
    // What is attached and not written can be written.
    offered(&mut editor, MANIFEST, "\n[[attach]]\nto = \"hook:under-masthead\"\ncall = \"masthead.js#dawn\"\n¦");
    editor.settle();
    let stubs = offered(&mut editor, MODULE, "\n¦");
    let stub = stubs.iter().find(|item| item["label"] == "export function dawn").expect("a stub");
    assert!(stub["textEdit"]["newText"].as_str().unwrap().contains("export function dawn("), "{stub}");
}

#[test]
fn in_the_preview_items_inputs_and_values_are_offered() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    editor.settle();
    let fills = labels(&offered(&mut editor, SITE, "\n[fill]\n\"¦"));
    assert!(fills.contains(&"region:aside".into()) && fills.contains(&"menu:masthead".into()), "{fills:?}");
    let uses = labels(&offered(&mut editor, SITE, "\n[fill]\n\"region:aside\" = [{ use = \"¦\" }]"));
    assert!(uses.contains(&"piece:note".into()) && !uses.contains(&"piece:spotlight/caption".into()), "{uses:?}");
    let keys = labels(&offered(&mut editor, SITE, "\n[fill]\n\"region:aside\" = [{ use = \"piece:note\", ¦ }]"));
    assert!(
        keys.contains(&"text".into()) && keys.contains(&"heading".into()) && !keys.contains(&"use".into()),
        "{keys:?}"
    );
    let title = labels(&offered(&mut editor, SITE, "\n[fill]\n\"area:footer-notes\" = [{ use = \"piece:note\", ¦ }]"));
    assert!(title.contains(&"title".into()) && !keys.contains(&"title".into()), "{title:?}");
    let values = labels(&offered(&mut editor, SITE, "\n[options]\nscheme = \"¦\""));
    assert_eq!(values, ["by-daylight", "day", "night"]);
    let page = "saltmarsh/preview/pages/visit.toml";
    let keys = labels(&offered(&mut editor, page, "\n¦"));
    assert!(!keys.contains(&"path".into()), "{keys:?}");
}

#[test]
fn in_a_style_sheet_and_a_translation_what_is_there_is_offered() {
    let terminal = Terminal::demo();
    let mut editor = Editor::of(&terminal);
    editor.settle();
    let files = labels(&offered(&mut editor, "saltmarsh/media/saltmarsh.css", "\n.x { background: url(¦); }"));
    assert!(files.contains(&"waves.svg".into()), "{files:?}");
    let words = "saltmarsh/words/de.po";
    let before = terminal.read(words);
    let entry = before.split("\n\n").find(|entry| entry.contains("msgid \"How to find us\"")).unwrap();
    terminal.write(words, before.replace(entry, ""));
    editor.tell("workspace/didChangeWatchedFiles", json!({ "changes": [{ "uri": editor.uri(words), "type": 2 }] }));
    editor.settle();
    let messages = labels(&offered(&mut editor, words, "\nmsgid \"¦\"\n"));
    assert!(messages.contains(&"How to find us".into()), "{messages:?}");
}
