//! What comes of findings: mends, ignores, a baseline, reports for other programs, and checking again.

use std::io::{BufRead, BufReader};
use std::process::Stdio;
use std::sync::mpsc::channel;
use std::time::Duration;

use crate::fixture::{LONGEST, Terminal};
use serde_json::Value;

const KIOSK: &str = "[region.kiosk]\nlabel = \"Kiosk\"\n";

#[test]
fn safe_mends_are_made_in_all_files_at_once_and_once_is_enough() {
    let demo = Terminal::demo();
    let before = demo.read("saltmarsh-broken/truehook.toml");
    let dry = demo.types_in("saltmarsh-broken", "check --fix --dry-run").ends(1);
    dry.says("8 findings can be mended in 5 files")
        .says("-when = \"page.typ == 'front'\"")
        .says("+when = \"page.type == 'front'\"");
    assert_eq!(demo.read("saltmarsh-broken/truehook.toml"), before, "nothing was written");
    demo.types_in("saltmarsh-broken", "check --fix")
        .ends(1)
        .says("8 findings mended in 5 files")
        .says("3 errors, 3 warnings");
    let after = demo.read("saltmarsh-broken/truehook.toml");
    assert!(after.contains("[feature.lettering]") && after.contains("page.type == 'front'"));
    assert_eq!(after.lines().count(), before.lines().count(), "the rest is as it was");
    demo.types_in("saltmarsh-broken", "check --fix").ends(1).says("nothing that can be mended without asking");
    assert_eq!(demo.read("saltmarsh-broken/truehook.toml"), after);
}

#[test]
fn one_mend_brings_the_next_to_light() {
    let terminal = Terminal::new()
        .manifest("[partial.card]\nabout = \"C\"\ninputs.text = { type = \"string\", default = \"\" }\n")
        .file("marsh/markup/partials/card.html", "<p>{{ txet }}</p>\n")
        .file("marsh/markup/page.html", "{% extends \"layout.html\" %}\n{% block main %}{{ super() }}{{ place(\"partial:crad\", txt=\"x\") }}{% endblock %}\n");
    terminal.types("check --fix").ends(0).says("mended in 2 files").says("nothing wrong");
    assert!(terminal.read("marsh/markup/page.html").contains("place(\"partial:card\", text=\"x\")"));
    assert!(terminal.read("marsh/markup/partials/card.html").contains("{{ text }}"));
}

#[test]
fn raw_assets_and_written_out_addresses_are_edited() {
    let terminal = Terminal::new()
        .file("marsh/media/tide.css", "p { color: red; }\n")
        .file("marsh/media/egret.svg", "<svg/>")
        .replace(
            "marsh/markup/layout.html",
            "<head>",
            "<head>\n  <link rel=\"stylesheet\" href=\"media/tide.css\">\n  ",
        )
        .replace("marsh/markup/layout.html", "<main", "<img src=\"media/egret.svg\" alt=\"\">\n  <main");
    terminal.types("check").ends(1).says("raw-asset").says("broken-address");
    terminal.types("check --fix").ends(0).says("2 findings mended in 2 files");
    assert!(terminal.read("marsh/truehook.toml").contains("[style.tide]\nfile = \"tide.css\""));
    let layout = terminal.read("marsh/markup/layout.html");
    assert!(
        layout.contains("<img src=\"{{ asset(\"media/egret.svg\") }}\"") && !layout.contains("stylesheet"),
        "{layout}"
    );
}

#[test]
fn what_is_ignored_is_counted_and_has_to_say_why() {
    let ignore = |more: &str| format!("{KIOSK}\n[[check.ignore]]\nrule = \"unplaced-point\"\n{more}");
    Terminal::new().manifest(KIOSK).types("check").ends(1).finds_only("unplaced-point", "truehook.toml:6:1");
    let because = "point = \"region:kiosk\"\nbecause = \"placed by the kiosk build\"\n";
    Terminal::new().manifest(&ignore(because)).types("check").ends(0).says("nothing wrong, 1 ignored in marsh");
    let unreasoned = Terminal::new().manifest(&ignore("point = \"region:kiosk\"\n"));
    unreasoned.types("check").ends(1).says("an ignore of unplaced-point gives no reason").says("[unplaced-point]");
    let other = Terminal::new().manifest(&ignore("point = \"region:kisk\"\nbecause = \"x\"\n"));
    other.types("check").ends(1).says("did you mean `region:kiosk`?").says("1 ignored").never_says("[unplaced-point]");
    let by_file = Terminal::new().manifest(&ignore("file = \"truehook.toml\"\nbecause = \"x\"\n"));
    by_file.types("check").ends(0).says("1 ignored");
    let no_rule = Terminal::new().manifest("[[check.ignore]]\nrule = \"unplaced-pont\"\nbecause = \"x\"\n");
    no_rule
        .types("check")
        .ends(1)
        .finds_only("idle-ignore", "truehook.toml:7:8")
        .says("did you mean `unplaced-point`?");
    let json = Terminal::new().manifest(&ignore(because)).types("check --format json").ends(0);
    assert_eq!(serde_json::from_str::<Value>(&json.stdout).unwrap()["summary"]["ignored"], 1);
}

#[test]
fn comments_silence_the_next_line_alone() {
    let page = |comment: &str| {
        format!(
            "{{% extends \"layout.html\" %}}\n{{% block main %}}{{{{ super() }}}}\n{comment}\n{{{{ place(page.title) }}}}\n{{% endblock %}}\n"
        )
    };
    let with = |comment: &str| Terminal::new().file("marsh/markup/page.html", page(comment));
    with("").types("check").ends(1).finds_only("dynamic-point", "markup/page.html:4:10");
    with("{# truehook: ignore dynamic-point because the site knows #}").types("check").ends(0).says("1 ignored");
    with("{# truehook: ignore dynamic-point #}").types("check").ends(1).says("gives no reason").says("[dynamic-point]");
    let plain = "{% extends \"layout.html\" %}\n{# truehook: ignore unplaced-point because x #}\n{% block main %}{{ super() }}{% endblock %}\n";
    Terminal::new().file("marsh/markup/page.html", plain).types("check").ends(1).says("ignores nothing");
    let code = "// truehook: ignore idle-callback because the host calls it\nexport const a = () => 1;\nexport const b = () => 2;\n";
    Terminal::new()
        .file("marsh/code/a.js", code)
        .types("check")
        .ends(1)
        .finds_only("idle-callback", "code/a.js:3:14")
        .says("1 ignored");
}

#[test]
fn a_baseline_accepts_what_is_there_and_tells_what_is_new() {
    let terminal = Terminal::new().manifest(KIOSK);
    terminal.types("check --baseline known.json").ends(0).says("1 finding of today is accepted in known.json");
    terminal.types("check --baseline known.json").ends(0).says("nothing wrong");
    // What moves stays known.
    let moved = terminal.replace("marsh/truehook.toml", "[region.kiosk]", "# One more line.\n\n[region.kiosk]");
    moved.types("check --baseline known.json").ends(0).says("nothing wrong");
    let new = moved.file("marsh/code/a.js", "export const idle = () => 1;\n");
    new.types("check --baseline known.json").ends(1).finds_only("idle-callback", "code/a.js:1:14");
    let gone = new.replace("marsh/truehook.toml", KIOSK, "");
    gone.types("check --baseline known.json").ends(1).says("1 accepted finding can no longer be found");
    let spoilt = gone.file("marsh/known.json", "{ \"version\": ");
    spoilt.types("check --baseline known.json").ends(2).says("known.json is no baseline");
    assert_eq!(spoilt.read("marsh/known.json"), "{ \"version\": ", "nothing was lost");
    Terminal::demo().types_in(".", "check saltmarsh foreshore --baseline x.json").ends(2).says("belongs to one theme");
}

#[test]
fn sarif_is_what_the_standard_says() {
    // One pattern of the published schema has a bracket too many, and is no regular expression.
    let schema = include_str!("schemas/sarif-2.1.0.json").replace("[a-zA-Z]{2}]?$", "[a-zA-Z]{2}?$");
    let schema: Value = serde_json::from_str(&schema).unwrap();
    let (mut schemas, mut compiler) = (boon::Schemas::new(), boon::Compiler::new());
    compiler.add_resource("sarif:schema", schema).unwrap();
    let schema = compiler.compile("sarif:schema", &mut schemas).unwrap();
    let demo = Terminal::demo();
    let log: Value = serde_json::from_str(
        &demo.types_in(".", "check saltmarsh saltmarsh-broken --format sarif --notes").ends(1).stdout,
    )
    .unwrap();
    let checked = schemas.validate(&log, schema);
    assert!(checked.is_ok(), "{:#}", checked.unwrap_err());
    let runs = log["runs"].as_array().unwrap();
    assert_eq!(runs.len(), 2);
    let results = runs[1]["results"].as_array().unwrap();
    assert_eq!(results.len(), 15);
    let found = |rule: &str| results.iter().find(|result| result["ruleId"] == rule).unwrap();
    let feature = found("unknown-feature");
    assert_eq!(feature["locations"][0]["physicalLocation"]["artifactLocation"]["uri"], "truehook.toml");
    assert_eq!(feature["locations"][0]["physicalLocation"]["region"]["startColumn"], 10);
    let related = |rule: &str| found(rule)["relatedLocations"].as_array().unwrap().clone();
    let uri = |place: &Value| place["physicalLocation"]["artifactLocation"]["uri"].as_str().unwrap().to_string();
    assert!(related("unstated-need").iter().any(|place| uri(place) == "standard:truehook.toml"));
    let fix = &feature["fixes"][0]["artifactChanges"][0]["replacements"][0];
    assert_eq!(
        (&fix["insertedContent"]["text"], &fix["deletedRegion"]["byteLength"]),
        (&"lettering".into(), &8.into())
    );
    let index = feature["ruleIndex"].as_u64().unwrap() as usize;
    assert_eq!(runs[1]["tool"]["driver"]["rules"][index]["id"], "unknown-feature");
    let prints: Vec<&str> =
        results.iter().map(|result| result["partialFingerprints"]["truehookFinding/v1"].as_str().unwrap()).collect();
    let mut single = prints.clone();
    single.sort_unstable();
    single.dedup();
    assert_eq!(single.len(), prints.len(), "each finding has a print of its own");
}

#[test]
fn junit_has_a_case_for_each_finding_and_each_quiet_rule() {
    let demo = Terminal::demo();
    let said = demo.types_in(".", "check saltmarsh saltmarsh-broken --format junit").ends(1).stdout;
    assert!(said.starts_with("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites name=\"True Hook\""), "{said}");
    assert_eq!((said.matches("<testsuite ").count(), said.matches("<failure ").count()), (2, 14));
    assert!(said.contains("name=\"saltmarsh-broken\" tests=\"") && said.contains("failures=\"14\""), "{said}");
    assert!(said.contains("<testcase name=\"order-cycle\" classname=\"saltmarsh-broken\" time=\"0\"/>"), "{said}");
    assert!(said.contains("mend: truehook check --fix   # write `heading`"), "{said}");
    // Well-formed, whatever stands in messages.
    let mut reader = quick_xml::Reader::from_str(&said);
    while !matches!(reader.read_event().unwrap(), quick_xml::events::Event::Eof) {}
}

#[test]
fn a_watched_theme_is_checked_again_when_a_file_changes() {
    let terminal = Terminal::new();
    let mut child = terminal.command("marsh", "check --watch").stdout(Stdio::piped()).spawn().unwrap();
    let (send, lines) = channel();
    let stdout = child.stdout.take().unwrap();
    std::thread::spawn(move || {
        BufReader::new(stdout).lines().map_while(Result::ok).for_each(|line| drop(send.send(line)))
    });
    let wait_for = |text: &str| {
        let mut seen = Vec::new();
        while let Ok(line) = lines.recv_timeout(LONGEST) {
            if line.contains(text) {
                return;
            }
            seen.push(line);
        }
        panic!("never said {text}: {seen:#?}");
    };
    wait_for("nothing wrong in marsh");
    wait_for("watching");
    // Watching begins after the first answer.
    std::thread::sleep(Duration::from_millis(300));
    terminal.write(
        "marsh/markup/page.html",
        "{% extends \"layout.html\" %}{% block x %}{{ place(\"region:asied\") }}{% endblock %}\n",
    );
    wait_for("undeclared-point");
    wait_for("watching");
    terminal.write("marsh/markup/page.html", "{% extends \"layout.html\" %}\n");
    wait_for("nothing wrong in marsh");
    terminal
        .write("marsh/truehook.toml", "[theme]\nname = \"marsh\"\nversion = \"1.0.0\"\nlabel = \"\"\n\n[region.new]\n");
    wait_for("region:new");
    child.kill().unwrap();
    child.wait().unwrap();
    terminal.types("check --watch --format json").ends(2).says("leave --format away");
    terminal.types("check --watch --fix").ends(2);
}
