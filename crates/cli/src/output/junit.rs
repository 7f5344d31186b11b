//! Findings as JUnit XML, which build servers read: each rule is a test case, and each finding is one.

use std::time::Duration;

use anyhow::Result;
use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesText, Event};
use truehook_core::link::Registry;
use truehook_core::rules::{ALL, Finding, Level};
use truehook_core::view::PlaceView;

/// What was found in one theme.
pub struct Suite {
    name: String,
    time: Duration,
    cases: Vec<Case>,
}

struct Case {
    name: String,
    /// The level, the message and the whole text of a finding; nothing where a rule found nothing.
    found: Option<(Level, String, String)>,
    fails: bool,
}

impl Suite {
    /// The findings of a theme; what is below `fail_on` does not fail.
    pub fn new<'f>(
        registry: &Registry,
        findings: impl Iterator<Item = &'f Finding>,
        fail_on: Level,
        time: Duration,
    ) -> Suite {
        let name = registry.project().layer(registry.project().top()).name.to_string();
        let findings: Vec<&Finding> = findings.collect();
        let quiet = ALL.iter().filter(|rule| !findings.iter().any(|finding| finding.rule == rule.name));
        let quiet = quiet.map(|rule| Case { name: rule.name.to_string(), found: None, fails: false });
        let told = findings.iter().map(|finding| case(registry, finding, fail_on));
        Suite { name, time, cases: told.chain(quiet).collect() }
    }
}

fn case(registry: &Registry, finding: &Finding, fail_on: Level) -> Case {
    let places: Vec<String> = finding
        .places
        .iter()
        .map(|place| {
            let view = PlaceView::new(registry, place.file, place.span);
            format!("{}:{}:{}: {}", registry.project().shown(place.file), view.line, view.column, place.label)
        })
        .collect();
    let mut text = places.join("\n");
    if let Some(mend) = &finding.mend {
        let (word, said) = mend.printed();
        text.push_str(&format!("\n{word}: {said}"));
    }
    let at = places.first().and_then(|place| place.rsplit_once(": ")).map_or("", |(at, _)| at);
    Case {
        name: format!("{} {at}", finding.rule),
        found: Some((finding.level, finding.message.clone(), text)),
        fails: finding.level >= fail_on,
    }
}

/// All suites as one document.
pub fn document(suites: &[Suite]) -> Result<String> {
    let mut writer = Writer::new_with_indent(Vec::new(), b' ', 2);
    writer.write_event(Event::Decl(BytesDecl::new("1.0", Some("UTF-8"), None)))?;
    let total: usize = suites.iter().map(|suite| suite.cases.len()).sum();
    let failed = |suite: &Suite| suite.cases.iter().filter(|case| case.fails).count();
    let failures: usize = suites.iter().map(failed).sum();
    let (total, failures) = (total.to_string(), failures.to_string());
    let root = writer.create_element("testsuites");
    let root = root.with_attributes([("name", "True Hook"), ("tests", &total), ("failures", &failures)]);
    root.write_inner_content(|writer| {
        for suite in suites {
            let (tests, failures) = (suite.cases.len().to_string(), failed(suite).to_string());
            let time = format!("{:.3}", suite.time.as_secs_f64());
            let element = writer.create_element("testsuite").with_attributes([
                ("name", suite.name.as_str()),
                ("tests", &tests),
                ("failures", &failures),
                ("errors", "0"),
                ("skipped", "0"),
                ("time", &time),
            ]);
            element.write_inner_content(|writer| suite.cases.iter().try_for_each(|case| write(writer, suite, case)))?;
        }
        Ok(())
    })?;
    let mut text = String::from_utf8(writer.into_inner())?;
    text.push('\n');
    Ok(text)
}

fn write(writer: &mut Writer<Vec<u8>>, suite: &Suite, case: &Case) -> std::io::Result<()> {
    let attributes = [("name", case.name.as_str()), ("classname", suite.name.as_str()), ("time", "0")];
    let element = writer.create_element("testcase").with_attributes(attributes);
    let Some((level, message, text)) = &case.found else {
        element.write_empty()?;
        return Ok(());
    };
    element.write_inner_content(|writer| {
        match case.fails {
            true => {
                let failure = writer.create_element("failure");
                let failure = failure.with_attributes([("message", message.as_str()), ("type", level.word())]);
                failure.write_text_content(BytesText::new(text))?;
            }
            false => {
                let out = writer.create_element("system-out");
                out.write_text_content(BytesText::new(&format!("{}: {message}\n{text}", level.word())))?;
            }
        }
        Ok(())
    })?;
    Ok(())
}
