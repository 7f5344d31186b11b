//! The manifest of a theme that came of pages, and what it lives with.

use std::fmt::Write;

use camino::{Utf8Path, Utf8PathBuf};

use super::address::{Met, placed};
use super::assets::Assets;
use super::{Fate, PagesError, Taken, Whole};
use crate::edit::declare::in_words;
use crate::edit::toml_text;
use crate::link::Registry;
use crate::read::{MemoryFiles, Project};
use crate::rules::{self, Finding, Level};
use crate::start::form_line;

/// What pages may have had wrong, and what is said of it: everything else would be this program's own mistake.
const BEFORE: [(&str, &str); 11] = [
    ("missing-file", "it led nowhere on the page that this was taken from"),
    ("broken-address", "it led nowhere on the page that this was taken from"),
    ("missing-page", "it led nowhere on the page that this was taken from"),
    ("raw-asset", "it stands where it stood, since the order counts"),
    ("code-syntax", "the script was like that"),
    ("wrong-spot", "it stands where it stood"),
    ("early-use", "the scripts ran in this order before"),
    ("unstated-need", "the scripts ran in this order before"),
    ("doubled-path", "the address was like that"),
    ("done-twice", "it is written out, as it was"),
    ("feature-needed", "the style was like that"),
];

/// What is said of anything else.
const AS_IT_WAS: &str = "it came with the page that this was taken from";

/// What is said of a finding of a rule, where pages may have had that.
fn reason(rule: &str) -> Option<&'static str> {
    BEFORE.iter().find(|(known, _)| *known == rule).map(|(_, because)| *because)
}

/// Adds the manifest. What is wrong with the theme, since it was wrong with the pages, is ignored there with the reason.
/// Anything else is told as well where that is asked for, and is an error otherwise.
pub fn settle(
    whole: &Whole<'_>,
    assets: &Assets,
    met: &Met,
    taken: &mut Taken,
    lenient: bool,
) -> Result<(), PagesError> {
    let mut text = manifest(whole, assets);
    let base = text.clone();
    let mut known: Vec<(String, String)> = Vec::new();
    for _ in 0..rules::ALL.len() {
        let registry = open(whole.name, &text, &taken.files);
        let findings = rules::check(&registry).findings;
        let mut more = false;
        for finding in findings.iter().filter(|finding| finding.level > Level::Note) {
            let (file, line) = place(&registry, finding);
            if !lenient && reason(finding.rule).is_none() {
                return Err(PagesError::Check { file, line, message: finding.message.clone() });
            }
            let because = reason(finding.rule).unwrap_or(AS_IT_WAS);
            let ignored = (finding.rule.to_string(), file.clone());
            if !known.contains(&ignored) {
                known.push(ignored);
                more = true;
            }
            taken.left.push(Fate {
                file,
                line,
                what: finding.message.clone(),
                now: format!("{because}; [[check.ignore]] says so"),
            });
        }
        if !more {
            break;
        }
        text = base.clone();
        for (rule, file) in &known {
            let because = reason(rule).unwrap_or(AS_IT_WAS);
            let _ = write!(
                text,
                "\n[[check.ignore]]\nrule    = \"{rule}\"\nfile    = {}\nbecause = \"{because}\"\n",
                toml_text(file)
            );
        }
    }
    for (written, at) in &met.broken {
        let _ = (written, at);
    }
    taken.files.push(("truehook.toml".into(), text.into_bytes()));
    Ok(())
}

fn open(name: &str, manifest: &str, files: &[(Utf8PathBuf, Vec<u8>)]) -> Registry {
    let root = format!("/{name}");
    let mut memory = MemoryFiles::new();
    for (path, bytes) in files {
        memory.insert(format!("{root}/{path}"), bytes.clone());
    }
    memory.insert(format!("{root}/truehook.toml"), manifest);
    let project = Project::open(&memory, Utf8Path::new(&root));
    Registry::new(project.unwrap_or_else(|error| unreachable!("its own manifest is there: {error}")))
}

fn place(registry: &Registry, finding: &Finding) -> (String, usize) {
    let Some(place) = finding.places.first() else { return ("truehook.toml".into(), 1) };
    let line = registry.lines(place.file).position(place.span.start).0;
    (registry.project().file(place.file).path.to_string(), line)
}

fn manifest(whole: &Whole<'_>, assets: &Assets) -> String {
    let mut text = format!(
        "{2}[theme]\nname    = \"{0}\"\nlabel   = \"{1}\"\nversion = \"0.1.0\"\n",
        whole.name,
        in_words(whole.name),
        form_line()
    );
    for group in whole.groups.iter().skip(1) {
        let kind = whole.template_of(group.pages[0]);
        let _ = write!(text, "\n[type.{kind}]\nlabel = \"{}\"\n", in_words(&kind));
    }
    for (_, name) in &whole.menus {
        let _ = write!(text, "\n[menu.{name}]\nlabel = \"{}\"\n", in_words(name));
        let _ = write!(
            text,
            "\n[partial.{name}-entries]\nabout = \"The entries of menu:{name}\"\ninputs.entries = {{ type = \"array\" }}\n"
        );
    }
    for at in &whole.scripted {
        let _ =
            write!(text, "\n[partial.{}]\nabout = \"The text of one page, with its scripts\"\n", whole.text_of(*at));
    }
    for asset in &assets.all {
        let kind = if asset.script { "script" } else { "style" };
        let _ = write!(text, "\n[{kind}.{}]\nfile  = {}\n", asset.name, toml_text(placed(&asset.file)));
        let list = |names: &[String]| names.iter().map(|name| toml_text(name)).collect::<Vec<_>>().join(", ");
        if !asset.needs.is_empty() {
            let _ = writeln!(text, "needs = [{}]", list(&asset.needs));
        }
        if !asset.gives.is_empty() {
            let _ = writeln!(text, "gives = [{}]", list(&asset.gives));
        }
        if !asset.media.is_empty() && asset.media != "all" {
            let _ = writeln!(text, "media = {}", toml_text(&asset.media));
        }
        if asset.script && asset.in_head {
            text.push_str("at    = \"head\"\n");
        }
        if asset.pages.len() < whole.pages.len() {
            let _ = writeln!(text, "when  = \"{}\"", whole.condition(&asset.pages));
        }
    }
    if let Some((by, _)) = whole.titles() {
        text.push_str("\n[feature.page-titles]\n");
        if by != " · " {
            let _ = writeln!(text, "separator = {}", toml_text(&by));
        }
    }
    text
}
