//! JSON: what the page about it says is what is printed, key by key and state by state.

use std::collections::BTreeSet;

use serde_json::Value;

use crate::fixture::Terminal;

const PAGE: &str = include_str!("../../../../docs/json.md");

/// The part of the page about some commands.
fn section(title: &str) -> &'static str {
    let start = PAGE.find(&format!("\n## {title}\n")).unwrap_or_else(|| panic!("no part {title}"));
    let rest = &PAGE[start + 4..];
    &rest[..rest.find("\n## ").unwrap_or(rest.len())]
}

/// All words in code, in a part of the page and in what stands above all parts.
fn words(title: &str) -> BTreeSet<&'static str> {
    let head = &PAGE[..PAGE.find("\n## ").unwrap()];
    let mut found = BTreeSet::new();
    for text in [head, section(title)] {
        for (at, piece) in text.split('`').enumerate() {
            if at % 2 == 1 || text.contains("```json") {
                let is_key = |word: &&str| !word.is_empty() && word.chars().all(|c| c.is_ascii_lowercase() || c == '_');
                found.extend(piece.split(|c: char| !c.is_ascii_lowercase() && c != '_').filter(is_key));
            }
        }
    }
    found
}

/// The keys of a value, and of all that is in it, but for those that a theme itself names.
fn keys(value: &Value, free: &[&str], found: &mut BTreeSet<String>) {
    match value {
        Value::Object(table) => {
            for (key, value) in table {
                found.insert(key.clone());
                if !free.contains(&key.as_str()) {
                    keys(value, free, found);
                }
            }
        }
        Value::Array(items) => items.iter().for_each(|item| keys(item, free, found)),
        _ => {}
    }
}

#[track_caller]
fn printed(terminal: &Terminal, folder: &str, command: &str) -> Value {
    let said = terminal.types_in(folder, &format!("{command} --format json"));
    let value: Value =
        serde_json::from_str(&said.stdout).unwrap_or_else(|why| panic!("{command}: {why}\n{}", said.stdout));
    assert_eq!(value["version"], 1, "{command}");
    value
}

#[track_caller]
fn is_documented(title: &str, free: &[&str], outputs: &[Value]) -> BTreeSet<String> {
    let mut found = BTreeSet::new();
    outputs.iter().for_each(|output| keys(output, free, &mut found));
    let mut words = words(title);
    if title == "fire" {
        // The page says that its steps are as those of `trace`.
        words.extend(self::words("trace"));
    }
    let missing: Vec<&String> = found.iter().filter(|key| !words.contains(key.as_str())).collect();
    assert!(missing.is_empty(), "docs/json.md says nothing of {missing:?} in {title}");
    found
}

#[test]
fn check_prints_what_is_said_and_all_of_it() {
    let terminal = Terminal::demo();
    let one = printed(&terminal, "saltmarsh-broken", "check --notes");
    let several = printed(&terminal, ".", "check saltmarsh-broken saltmarsh");
    let found = is_documented("check", &[], &[one.clone(), several]);
    for key in
        ["theme", "rule", "level", "point", "message", "places", "label", "primary", "mend", "text", "safe", "edits"]
    {
        assert!(found.contains(key), "{key}");
    }
    let findings = one["findings"].as_array().unwrap();
    assert!(findings.iter().any(|finding| finding["level"] == "note"));
    for finding in findings {
        assert_eq!(finding["places"][0]["primary"], true, "{finding}");
        for place in finding["places"].as_array().unwrap() {
            let at = |key: &str| place[key].as_u64().unwrap_or_else(|| panic!("{key} in {place}"));
            assert!(at("line") >= 1 && at("column") >= 1, "{place}");
            assert!((at("line"), at("column")) <= (at("end_line"), at("end_column")), "{place}");
        }
    }
    let summary = &one["summary"];
    let of = |level: &str| findings.iter().filter(|finding| finding["level"] == level).count() as u64;
    assert_eq!(summary["errors"].as_u64(), Some(of("error")));
    assert_eq!(summary["warnings"].as_u64(), Some(of("warning")));
    assert_eq!(summary["notes"].as_u64(), Some(of("note")));
}

#[test]
fn edits_of_mends_are_byte_ranges_that_can_be_made() {
    let terminal = Terminal::demo();
    let checked = printed(&terminal, "saltmarsh-broken", "check");
    let mut made = 0;
    for finding in checked["findings"].as_array().unwrap() {
        for edit in finding["mend"]["edits"].as_array().into_iter().flatten() {
            assert_eq!(edit["layer"], "saltmarsh-broken");
            let text = terminal.read(&format!("saltmarsh-broken/{}", edit["file"].as_str().unwrap()));
            let range = edit["start"].as_u64().unwrap() as usize..edit["end"].as_u64().unwrap() as usize;
            assert!(text.get(range).is_some(), "{edit}");
            assert!(edit["new"].is_string());
            made += 1;
        }
    }
    assert!(made > 3, "{made}");
}

#[test]
fn why_prints_what_is_said() {
    let terminal = Terminal::demo();
    let mut outputs = Vec::new();
    for subject in [
        "region:tide-board",
        "area:footer-notes",
        "filter:reading-words",
        "masthead.js#lowWaterNotice",
        "feature:pictures",
        "option:scheme",
    ] {
        for page in ["", " --page /"] {
            outputs.push(printed(&terminal, "saltmarsh-broken", &format!("why {subject}{page}")));
            outputs.push(printed(&terminal, "saltmarsh", &format!("why {subject}{page}")));
        }
    }
    is_documented("why", &[], &outputs);
    let said = words("why");
    for output in &outputs {
        let chain = output["chain"].as_array().unwrap();
        for link in chain {
            assert!(said.contains(link["state"].as_str().unwrap()), "{link}");
            assert!(section("why").contains(&format!("`{}`", link["name"].as_str().unwrap())), "{link}");
        }
        for callback in output["callbacks"].as_array().unwrap() {
            assert!(said.contains(callback["state"].as_str().unwrap()), "{callback}");
        }
        match output["broken"].as_u64() {
            Some(at) => {
                assert_eq!(chain[at as usize]["state"], "broken", "{output}");
                assert!(chain[..at as usize].iter().all(|link| link["state"] != "broken"), "the first: {output}");
                assert_eq!(output["shows"], false, "{output}");
            }
            None => assert!(chain.iter().all(|link| link["state"] != "broken"), "{output}"),
        }
    }
}

#[test]
fn list_and_show_print_what_is_said() {
    let terminal = Terminal::demo();
    let list = printed(&terminal, "saltmarsh", "list");
    let points = list["points"].as_array().unwrap();
    assert!(points.len() > 60, "{}", points.len());
    let free = ["value", "arguments", "default", "feeds"];
    let mut outputs = vec![list.clone()];
    for point in points.iter().step_by(3) {
        outputs.push(printed(&terminal, "saltmarsh", &format!("show {}", point["address"].as_str().unwrap())));
    }
    for address in ["feature:pictures", "script:clock-hand", "section:spotlight", "filter:site-line", "menu:masthead"] {
        outputs.push(printed(&terminal, "saltmarsh", &format!("show {address}")));
    }
    let found = is_documented("list and show", &free, &outputs);
    // And whatever the page names in its table is there.
    for line in section("list and show").lines().filter(|line| line.starts_with("| `")) {
        let head = line.split('|').nth(1).unwrap();
        for key in head.split('`').skip(1).step_by(2) {
            assert!(found.contains(key), "the page tells of `{key}`, and nothing has it");
        }
    }
    let said = words("list and show");
    for output in &outputs {
        for slot in output["points"]
            .as_array()
            .into_iter()
            .flatten()
            .flat_map(|point| point["slots"].as_array().into_iter().flatten())
        {
            assert!(said.contains(slot["state"].as_str().unwrap()), "{slot}");
        }
    }
}

#[test]
fn render_fire_trace_and_explain_print_what_is_said() {
    let terminal = Terminal::demo();
    let broken = printed(&terminal, "saltmarsh-broken", "render /");
    let into = printed(&terminal, "saltmarsh", "render / --into ../site");
    is_documented("render", &[], &[broken, into.clone()]);
    assert!(into["pages"][0]["file"].is_string() && into["pages"][0].get("html").is_none_or(Value::is_null), "{into}");
    let fired: Vec<Value> = [
        "filter:site-line value=Mud --steps",
        "hook:under-tides low=13:42",
        "hook:theme-chosen",
        "section:spotlight species=Redshank",
    ]
    .iter()
    .map(|command| printed(&terminal, "saltmarsh", &format!("fire {command}")))
    .collect();
    is_documented("fire", &[], &fired);
    let kinds: BTreeSet<&str> = fired.iter().map(|output| output["kind"].as_str().unwrap()).collect();
    assert_eq!(kinds.into_iter().collect::<Vec<_>>(), ["markup", "stored", "value"]);
    let traced = printed(&terminal, "saltmarsh", "trace /");
    is_documented("trace", &[], std::slice::from_ref(&traced));
    assert!(
        traced["steps"]
            .as_array()
            .unwrap()
            .iter()
            .all(|step| ["ran", "off", "failed"].contains(&step["state"].as_str().unwrap()))
    );
    let mapped = printed(&terminal, "saltmarsh", "map /");
    is_documented("map", &["place"], std::slice::from_ref(&mapped));
    let explained: Vec<Value> = ["lost-placement", "feature", "preparer", "wrap", "feature:pictures", "region:aside"]
        .iter()
        .map(|word| printed(&terminal, "saltmarsh", &format!("explain {word}")))
        .collect();
    is_documented("explain", &[], &explained);
    for output in &explained {
        for meaning in output["meanings"].as_array().unwrap() {
            assert!(words("explain").contains(meaning["what"].as_str().unwrap()), "{meaning}");
        }
    }
}

#[test]
fn what_is_seen_is_printed_as_it_is_said() {
    let terminal = Terminal::demo();
    let map: Vec<Value> = ["/", "/log/"].map(|page| printed(&terminal, "saltmarsh", &format!("map {page}"))).to_vec();
    is_documented("map", &[], &map);
    let origins = ["Merrowholm", "Low water at 13:42", "Dogs stay", "3.9 m", "Logbook"];
    let origins = origins.map(|text| printed(&terminal, "saltmarsh", &format!("origin / --text '{text}'")));
    is_documented("origin", &[], &origins);
    let said = words("origin");
    for origin in &origins {
        for link in origin["chain"].as_array().unwrap() {
            assert!(said.contains(link["what"].as_str().unwrap()), "{link}");
        }
    }
    // Points and places are told of elsewhere.
    let free = ["spots", "item", "default", "inputs", "options"];
    is_documented("desk", &free, &[printed(&terminal, "saltmarsh", "desk")]);
    let atlas = printed(&terminal, "saltmarsh", "atlas");
    is_documented("atlas", &["points"], std::slice::from_ref(&atlas));
    let known: BTreeSet<&str> = words("atlas").union(&words("list and show")).copied().collect();
    let mut found = BTreeSet::new();
    keys(&atlas["points"], &["value", "arguments", "default", "feeds"], &mut found);
    let missing: Vec<&String> = found.iter().filter(|key| !known.contains(key.as_str())).collect();
    assert_eq!(missing, [""; 0], "docs/json.md says nothing of these");
    let shelf = printed(&terminal, "saltmarsh", "shelf ..");
    let known: BTreeSet<&str> = words("atlas").union(&words("shelf")).copied().collect();
    let mut found = BTreeSet::new();
    keys(&shelf, &[], &mut found);
    let missing: Vec<&String> = found.iter().filter(|key| !known.contains(key.as_str())).collect();
    assert_eq!(missing, [""; 0], "docs/json.md says nothing of these");
}
