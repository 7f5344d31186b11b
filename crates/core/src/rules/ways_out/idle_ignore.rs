//! An ignore that ignores nothing

use rustc_hash::FxHashMap;

use crate::link::{Blind, Registry};
use crate::names::{certain, nearest};
use crate::rules::telling::{rewrite, writing};
use crate::rules::{ALL, Example, Finding, Level, Rule, is_rule};
use crate::scan::{CheckIgnore, IgnoreComment, Named};
use crate::source::{FileId, Place, Span};

/// What this rule says, with its examples.
pub const RULE: Rule = Rule {
    name: "idle-ignore",
    level: Level::Warning,
    links: &[],
    awaited: false,
    summary: "An ignore that ignores nothing",
    explanation: "An ignore stands for a decision, so it says why, and it goes when what it was about has gone: otherwise it would hide the next mistake of that sort. It has to name a rule, and give a reason.",
    wrong: Example(&[(
        "truehook.toml",
        r##"[[check.ignore]]
rule    = "unplaced-point"
point   = "region:kiosk"
because = "placed by the kiosk build"
"##,
    )]),
    right: Example(&[(
        "truehook.toml",
        r##"[region.kiosk]
label = "Kiosk"

[[check.ignore]]
rule    = "unplaced-point"
point   = "region:kiosk"
because = "placed by the kiosk build"
"##,
    )]),
    // Which ignores are idle shows only once all other rules have spoken: see `apply`.
    check: |_, _| {},
};

/// Everything of the checked theme that silences findings.
enum Ignore<'r> {
    Manifest(FileId, &'r CheckIgnore),
    Comment(FileId, &'r IgnoreComment),
}

impl Ignore<'_> {
    fn rule(&self) -> Named {
        match self {
            Ignore::Manifest(_, ignore) => ignore.rule,
            Ignore::Comment(_, comment) => comment.rule,
        }
    }

    fn file(&self) -> FileId {
        match self {
            Ignore::Manifest(file, _) | Ignore::Comment(file, _) => *file,
        }
    }

    fn is_reasoned(&self) -> bool {
        match self {
            Ignore::Manifest(_, ignore) => ignore.because.is_some(),
            Ignore::Comment(_, comment) => comment.reasoned,
        }
    }

    fn silences(&self, registry: &Registry, finding: &Finding, rule: &str) -> bool {
        let Some(primary) = finding.places.first() else { return false };
        if rule != finding.rule || !self.is_reasoned() {
            return false;
        }
        match self {
            Ignore::Manifest(_, ignore) => {
                let point = ignore.point.is_none_or(|point| finding.point.as_deref() == Some(point.raw.as_str()));
                let path = &registry.project().file(primary.file).path;
                let file = ignore.file.is_none_or(|file| path.as_str() == file.name.as_str());
                point && file
            }
            Ignore::Comment(file, comment) => primary.file == *file && meets(comment.line, primary.span),
        }
    }
}

fn meets(line: Span, span: Span) -> bool {
    line.start <= span.start && span.start <= line.end && line.start < line.end
}

/// Ignores, as positions, by what they may be about.
struct Sorted<'i> {
    /// By rule and file, in the order of their lines.
    comments: FxHashMap<(&'i str, FileId), Vec<usize>>,
    /// By rule and point.
    others: FxHashMap<(&'i str, Option<&'i str>), Vec<usize>>,
}

impl<'i> Sorted<'i> {
    fn new(ignores: &[Ignore<'i>]) -> Sorted<'i> {
        let mut sorted = Sorted { comments: FxHashMap::default(), others: FxHashMap::default() };
        for (at, ignore) in ignores.iter().enumerate() {
            let rule = ignore.rule().name.as_str();
            match ignore {
                Ignore::Comment(file, _) => sorted.comments.entry((rule, *file)).or_default().push(at),
                Ignore::Manifest(_, ignore) => {
                    let point = ignore.point.map(|point| point.raw.as_str());
                    sorted.others.entry((rule, point)).or_default().push(at);
                }
            }
        }
        sorted
    }

    /// Those that may be about a finding.
    fn about(&self, ignores: &[Ignore<'i>], finding: &Finding) -> Vec<usize> {
        let Some(primary) = finding.places.first() else { return Vec::new() };
        let comments = self.comments.get(&(finding.rule, primary.file)).map_or(&[][..], Vec::as_slice);
        let line = |at: usize| match ignores[at] {
            Ignore::Comment(_, comment) => comment.line,
            Ignore::Manifest(..) => Span::new(0, 0),
        };
        // Each comment speaks of one line, the one behind it.
        let end = comments.partition_point(|at| line(*at).start <= primary.span.start);
        let near = comments[..end].iter().rev().take_while(|at| meets(line(**at), primary.span));
        let points = [None, finding.point.as_deref()];
        let points = &points[..1 + usize::from(points[1].is_some())];
        let others = points.iter().filter_map(|point| self.others.get(&(finding.rule, *point))).flatten();
        near.chain(others).copied().collect()
    }
}

/// Takes away what is ignored, and tells of ignores that ignore nothing. Answers how many findings went.
pub fn apply(registry: &Registry, findings: &mut Vec<Finding>) -> usize {
    let top = registry.project().top();
    let mut ignores: Vec<Ignore<'_>> = Vec::new();
    for (file, _) in registry.project().files_of(top) {
        let settings = registry.manifest(file).map(|manifest| &manifest.check.ignores);
        ignores.extend(settings.into_iter().flatten().map(|ignore| Ignore::Manifest(file, ignore)));
        ignores.extend(registry.facts(file).ignores.iter().map(|comment| Ignore::Comment(file, comment)));
    }
    if ignores.is_empty() {
        return 0;
    }
    let mut used = vec![false; ignores.len()];
    let before = findings.len();
    let sorted = Sorted::new(&ignores);
    findings.retain(|finding| {
        let mut kept = true;
        for at in sorted.about(&ignores, finding) {
            let ignore = &ignores[at];
            if ignore.silences(registry, finding, ignore.rule().name.as_str()) {
                (used[at], kept) = (true, false);
            }
        }
        kept
    });
    let mut ignored = before - findings.len();
    // Where something can't be seen rules say less, and what they would say may be what is ignored.
    let blind = registry.blind() != Blind::default();
    for (ignore, used) in ignores.iter().zip(used) {
        let abstained = blind && is_rule(&ignore.rule().name) && ignore.is_reasoned();
        if used || abstained && is_rule(&ignore.rule().name) {
            continue;
        }
        // What it was to accept is accepted, and only its slip is told.
        let slip = slip(registry, ignore, findings);
        if let Some(Slip { accepted, .. }) = &slip {
            let before = findings.len();
            findings.retain(|finding| !accepted(finding));
            ignored += before - findings.len();
        }
        findings.push(idle(registry, ignore, slip));
    }
    ignored
}

/// Would this finding be accepted?
type Accepts<'i> = Box<dyn Fn(&Finding) -> bool + 'i>;

/// A slip of the pen in an ignore, and what it would accept without that.
struct Slip<'i> {
    wrong: Named,
    near: String,
    accepted: Accepts<'i>,
}

/// The slip in an ignore that ignores nothing, if that is what is wrong with it.
fn slip<'i>(registry: &'i Registry, ignore: &'i Ignore<'i>, findings: &[Finding]) -> Option<Slip<'i>> {
    let rule = ignore.rule();
    let (wrong, near, accepted): (Named, String, Accepts<'i>) = match ignore {
        _ if !ignore.is_reasoned() => return None,
        _ if !is_rule(&rule.name) => {
            let near = certain(&rule.name, ALL.iter().map(|rule| rule.name))?;
            (rule, near.to_string(), Box::new(move |found| ignore.silences(registry, found, near)))
        }
        Ignore::Manifest(_, CheckIgnore { point: Some(point), .. }) => {
            let of_rule = findings.iter().filter(|found| rule.name == *found.rule);
            let near = certain(&point.raw, of_rule.filter_map(|found| found.point.as_deref()))?.to_string();
            let wrong = Named { name: point.raw, at: point.at };
            let meant = near.clone();
            (wrong, near, Box::new(move |found| rule.name == *found.rule && found.point.as_deref() == Some(&meant)))
        }
        _ => return None,
    };
    findings.iter().any(&accepted).then_some(Slip { wrong, near, accepted })
}

fn idle(registry: &Registry, ignore: &Ignore<'_>, slip: Option<Slip<'_>>) -> Finding {
    let rule = ignore.rule();
    let place = Place { file: ignore.file(), at: rule.at };
    if let Some(Slip { wrong, near, .. }) = slip {
        let place = Place { file: ignore.file(), at: wrong.at };
        let message = match wrong.at == rule.at {
            true => format!("`{}` is ignored, and is not a rule", rule.name),
            false => format!("an ignore of {} is about `{}`, and there is no such finding", rule.name, wrong.name),
        };
        let finding = Finding::new(&RULE, registry.project().top(), message);
        let mend = writing(&near, true, [rewrite(registry, place, &wrong.name, &near)]);
        return Finding { mend: Some(mend), ..finding.at(registry, place, format!("did you mean `{near}`?")) };
    }
    let (message, label) = match () {
        () if !is_rule(&rule.name) => {
            let near = nearest(&rule.name, ALL.iter().map(|rule| rule.name));
            let label =
                near.map_or("there is no rule of that name".to_string(), |near| format!("did you mean `{near}`?"));
            (format!("`{}` is ignored, and is not a rule", rule.name), label)
        }
        () if !ignore.is_reasoned() => {
            let label = "say why, with because".to_string();
            (format!("an ignore of {} gives no reason, so it ignores nothing", rule.name), label)
        }
        () => {
            let label = "there is no such finding".to_string();
            (format!("an ignore of {} ignores nothing", rule.name), label)
        }
    };
    let finding = Finding::new(&RULE, registry.project().top(), message).at(registry, place, label);
    finding.mend("take the ignore away, or correct it")
}
