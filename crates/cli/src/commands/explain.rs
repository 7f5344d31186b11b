//! `explain`: a rule, kind, role, key, feature or point in full.

use std::io::Write;
use truehook_core::command_line;

use anyhow::{Result, bail};
use camino::Utf8Path;
use serde::Serialize;
use truehook_core::address::{Address, Kind, Role};
use truehook_core::catalogue::{self, ELSEWHERE, KEYS};
use truehook_core::keys;
use truehook_core::link::{Feature, Fed, Registry};
use truehook_core::names::{hint, nearest};
use truehook_core::rules::{self, Example, Rule, switch_on};
use truehook_core::view::VERSION;

use crate::Outcome;
use crate::args::{ExplainArgs, Format};
use crate::output::{self, style, table};
use crate::workshop;

/// What `explain --format json` prints.
#[derive(Serialize, schemars::JsonSchema)]
struct Explained {
    version: u32,
    word: String,
    meanings: Vec<Meaning>,
}

/// One thing that a word means.
#[derive(Serialize, schemars::JsonSchema)]
struct Meaning {
    /// `rule`, `kind`, `role`, `key`, `feature` or `point`.
    what: &'static str,
    title: String,
    text: String,
    /// Further lines: what a feature takes and feeds, where a point is declared.
    more: Vec<String>,
    /// The keys of a kind's declarations.
    keys: Vec<KeyView>,
    /// A declaration to paste.
    paste: Option<String>,
    wrong: Vec<File>,
    right: Vec<File>,
}

/// A key of a kind's declarations.
#[derive(Serialize, schemars::JsonSchema)]
struct KeyView {
    name: &'static str,
    holds: &'static str,
    default: &'static str,
    example: &'static str,
}

#[derive(Serialize, schemars::JsonSchema)]
struct File {
    file: &'static str,
    text: &'static str,
}

impl Meaning {
    fn new(what: &'static str, title: impl Into<String>, text: impl Into<String>) -> Meaning {
        let (title, text) = (title.into(), text.into());
        let (more, keys, paste) = (Vec::new(), Vec::new(), None);
        Meaning { what, title, text, more, keys, paste, wrong: Vec::new(), right: Vec::new() }
    }
}

/// The form of what `--format json` prints.
pub fn form() -> schemars::Schema {
    output::form::<Explained>()
}

pub fn run(theme: Option<&Utf8Path>, args: &ExplainArgs) -> Result<Outcome> {
    // Most words mean something without any theme.
    let registry = match workshop::find_theme(theme) {
        Ok(folder) => Some(workshop::open_to_check(&folder, &workshop::files(&folder)?)?),
        Err(error) if theme.is_some() => return Err(error),
        Err(_) => None,
    };
    // A table may be typed as it is written, in brackets.
    let asked = args.word.join(" ");
    let word = asked.trim_matches(['[', ']']);
    let meanings = meanings(word, registry.as_ref());
    if meanings.is_empty() {
        let known = known(registry.as_ref());
        let near = nearest(word, known.iter().map(String::as_str));
        bail!("`{word}` is no rule, kind, role, key, feature or point{}", hint(&near));
    }
    let mut out = crate::output::stream::stdout();
    match args.format {
        Format::Json => output::json(&mut out, &Explained { version: VERSION, word: asked.clone(), meanings })?,
        Format::Text => meanings.iter().try_for_each(|meaning| write(&mut out, meaning))?,
    }
    out.flush()?;
    Ok(Outcome::Clean)
}

/// All words that mean something.
fn known(registry: Option<&Registry>) -> Vec<String> {
    let rules = rules::ALL.iter().map(|rule| rule.name.to_string());
    let kinds = Kind::ALL.into_iter().map(|kind| kind.word().to_string());
    let roles = Role::ALL.into_iter().map(|role| role.word().to_string());
    let keys = KEYS.iter().map(|key| key.name.to_string());
    let points = registry.into_iter().flat_map(|registry| registry.addresses().map(Address::to_string));
    let elsewhere = ELSEWHERE.iter().flat_map(|(words, _)| words.iter().map(|word| word.to_string()));
    rules.chain(kinds).chain(roles).chain(keys).chain(points).chain(elsewhere).collect()
}

fn meanings(word: &str, registry: Option<&Registry>) -> Vec<Meaning> {
    let mut found = Vec::new();
    found.extend(rules::rule(word).map(rule));
    found.extend(Kind::from_word(word).map(kind));
    let role = Role::ALL.into_iter().find(|role| role.word() == word || role.several() == word);
    found.extend(role.map(|role| Meaning::new("role", role.word(), catalogue::role(role))));
    let keys = KEYS.iter().filter(|key| key.name == word);
    found.extend(
        keys.map(|key| Meaning { more: vec![format!("in {}", key.of)], ..Meaning::new("key", key.name, key.about) }),
    );
    // A key of a kind: area.wrap.
    if let Some((kind, key)) = word.split_once('.').and_then(|(kind, key)| Some((Kind::from_word(kind)?, key))) {
        let shape = keys::keys_of(kind).find(|shape| shape.name == key);
        found.extend(shape.map(|shape| key_of(kind, shape)));
    }
    let elsewhere = ELSEWHERE.iter().find(|(words, _)| words.contains(&word.to_lowercase().as_str()));
    found.extend(elsewhere.map(|(_, text)| Meaning::new("word from elsewhere", word, text.replace("**", ""))));
    let Some(registry) = registry else { return found };
    let named: Vec<Address> = match word.parse::<Address>() {
        Ok(address) => vec![address],
        // A name without its kind is enough for a feature, and for anything where nothing else is meant.
        Err(_) => {
            let features = registry.addresses().filter(|address| address.kind == Kind::Feature && address.name == word);
            let arguments = registry.points().filter_map(|point| Some((point.address, point.feature.as_ref()?)));
            let arguments: Vec<Address> = arguments
                .filter(|(_, feature)| feature.takes().any(|argument| argument == word))
                .map(|(address, _)| address.with_argument(word.into()))
                .collect();
            let others = registry.addresses().filter(|address| address.kind != Kind::Feature && address.name == word);
            features.chain(others.filter(|_| found.is_empty())).copied().chain(arguments).collect()
        }
    };
    found.extend(named.into_iter().filter_map(|address| point(registry, address)));
    found
}

/// One key of a kind's declarations.
fn key_of(kind: Kind, shape: &keys::KeyShape) -> Meaning {
    let about =
        KEYS.iter().find(|key| key.name == shape.name && (key.of.contains(kind.word()) || !key.of.contains('[')));
    let about = about.or_else(|| KEYS.iter().find(|key| key.name == shape.name)).map_or("", |key| key.about);
    let more = vec![format!("holds: {}", shape.holds), format!("where it isn't given: {}", shape.default)];
    let paste = Some(format!("{}\n", shape.example));
    Meaning { more, paste, ..Meaning::new("key", format!("{kind}.{}", shape.name), about) }
}

/// A kind, with all keys of its declarations.
fn kind(kind: Kind) -> Meaning {
    let view = |shape: &keys::KeyShape| {
        let &keys::KeyShape { name, holds, default, example } = shape;
        KeyView { name, holds, default, example }
    };
    let more = match kind {
        Kind::Feature => {
            vec!["truehook list feature shows what the host offers, and explain NAME what each takes".to_string()]
        }
        _ => Vec::new(),
    };
    Meaning {
        keys: if kind == Kind::Feature { Vec::new() } else { keys::keys_of(kind).map(view).collect() },
        paste: Some(keys::piece_to_paste(kind)),
        more,
        ..Meaning::new("kind", kind.word(), catalogue::kind(kind))
    }
}

fn rule(rule: &'static Rule) -> Meaning {
    let files = |example: &Example| example.0.iter().map(|(file, text)| File { file, text }).collect();
    Meaning {
        more: vec![format!("level: {}", rule.level.word())],
        wrong: files(&rule.wrong),
        right: files(&rule.right),
        ..Meaning::new("rule", rule.name, format!("{}. {}", rule.summary, rule.explanation))
    }
}

fn point(registry: &Registry, address: Address) -> Option<Meaning> {
    let point = registry.point(address).filter(|_| address.argument().is_none() || registry.offers(address))?;
    let what = if address.kind == Kind::Feature { "feature" } else { "point" };
    let about = point.about.or(point.label).map_or(catalogue::kind(address.kind), |about| about.as_str());
    let mut more = Vec::new();
    for declared in &point.declared {
        let layer = registry.project().layer(declared.layer).name;
        more.push(format!("declared in {layer}, {}", registry.project().shown(declared.place.file)));
    }
    if let Some(feature) = &point.feature {
        let asked = address.argument().map(|(_, argument)| argument);
        more.push(match registry.is_on(address) {
            true => "switched on".to_string(),
            false => format!("switched off; to switch it on: {}", switch_on(registry, address)),
        });
        for name in feature.takes().filter(|name| asked.is_none_or(|asked| asked == *name)) {
            more.push(argument(feature, name));
        }
        let fed = |fed: &&Fed| asked.is_none_or(|asked| fed.argument.is_none_or(|argument| argument == *asked));
        more.extend(feature.feeds.iter().filter(fed).map(|fed| format!("feeds {fed}")));
    }
    more.push(format!("{} tells where it is used", command_line!["show", address]));
    Some(Meaning { more, ..Meaning::new(what, address.to_string(), about) })
}

/// What a feature takes as one argument.
fn argument(feature: &Feature, name: &str) -> String {
    let schema = feature.property(name);
    let said = |key: &str| schema.and_then(|schema| schema.get(key));
    let word = said("type").and_then(|word| word.as_str()).unwrap_or("anything");
    let always = feature.always.get(name).map(|value| format!(" = {value}"));
    let default = always.or_else(|| said("default").map(|value| format!("; true gives {value}"))).unwrap_or_default();
    let about = said("about").and_then(|about| about.as_str()).map(|about| format!(": {about}")).unwrap_or_default();
    format!("takes {name} ({word}{default}){about}")
}

fn write(out: &mut impl Write, meaning: &Meaning) -> Result<()> {
    let (on, off) = (style::POINT.render(), style::POINT.render_reset());
    let (dim, end) = (style::QUIET.render(), style::QUIET.render_reset());
    writeln!(out, "{on}{}{off}  {dim}a {}{end}\n", meaning.title, meaning.what)?;
    for line in textwrap::wrap(&meaning.text, usize::from(table::width()).clamp(40, 96) - 2) {
        writeln!(out, "  {line}")?;
    }
    for line in &meaning.more {
        writeln!(out, "  {dim}{line}{end}")?;
    }
    if !meaning.keys.is_empty() {
        writeln!(out)?;
        let row = |key: &KeyView| [key.name, key.holds, key.default, key.example].map(str::to_string).to_vec();
        let rows: Vec<Vec<String>> = meaning.keys.iter().map(row).collect();
        table::write(out, &["key", "holds", "else", "as in"], 3, rows)?;
    }
    if let Some(paste) = &meaning.paste {
        writeln!(out, "\n  {}to paste{}", style::NEXT.render(), style::NEXT.render_reset())?;
        paste.lines().try_for_each(|line| writeln!(out, "      {line}"))?;
    }
    for (title, files) in [("wrong", &meaning.wrong), ("right, where it differs", &meaning.right)] {
        if files.is_empty() {
            continue;
        }
        writeln!(out, "\n  {}{title}{}", style::NEXT.render(), style::NEXT.render_reset())?;
        for file in files {
            let gone = if file.text.is_empty() { "  (not there)" } else { "" };
            writeln!(out, "    {dim}{}{gone}{end}", file.file)?;
            file.text.lines().try_for_each(|line| writeln!(out, "      {line}"))?;
        }
    }
    writeln!(out)?;
    Ok(())
}
