//! What a translation says: a gettext .po file.
//!
//! Lines are looked at first, so that every entry has a place and what is no entry is told; each entry
//! is then read by the library. None of its types leaves this file.

use polib::catalog::Catalog;
use polib::message::MessageView;
use polib::po_file;

use super::*;

pub use plural::Plurals;

mod plural;

pub(super) fn scan(text: &str) -> Facts {
    let mut notes = Notes::default();
    let mut shape = WordsShape::default();
    let mut header = "msgid \"\"\nmsgstr \"\\n\"\n".to_string();
    let mut blocks = blocks(text, &mut notes);
    if blocks.first().is_some_and(|block| block.text.contains("msgid \"\"") && !block.text.contains("msgctxt")) {
        let block = blocks.remove(0);
        match read(&block.text, "") {
            Ok(catalog) => {
                let rules = &catalog.metadata.plural_rules;
                match Plurals::new(rules.nplurals, &rules.expr) {
                    Some(plurals) if block.text.contains("Plural-Forms:") => shape.plurals = plurals,
                    Some(_) => {}
                    None => {
                        let message = format!("`{}` is no rule for plural forms", short(&rules.expr));
                        let label = "as in nplurals=2; plural=(n != 1);";
                        notes.flaw(FlawKind::ManifestSyntax, block.at, message, label);
                    }
                }
                header.clone_from(&block.text);
            }
            Err(why) => {
                notes.flaw(FlawKind::ManifestSyntax, block.at, format!("the header can't be read: {why}"), "");
            }
        }
    }
    entries(&header, &blocks, &mut shape.entries, &mut notes);
    notes.facts(Shape::Words(Box::new(shape)))
}

/// Reads entries all together; where not each of them gives a message of its own, one by one.
fn entries(header: &str, blocks: &[Block], found: &mut Vec<Entry>, notes: &mut Notes) {
    let texts: Vec<&str> = blocks.iter().map(|block| block.text.as_str()).collect();
    let catalog = read(header, &texts.join("\n")).ok();
    let messages: Vec<_> = catalog.iter().flat_map(|catalog| catalog.messages()).collect();
    if messages.len() == blocks.len() {
        return found.extend(messages.into_iter().zip(blocks).filter_map(|(message, block)| entry(message, block)));
    }
    for block in blocks {
        match read(header, &block.text) {
            Ok(catalog) => found.extend(catalog.messages().find_map(|message| entry(message, block))),
            Err(why) => {
                let message = format!("this is no entry of a translation: {why}");
                notes.flaw(FlawKind::ManifestSyntax, block.at, message, "msgid and msgstr belong here, each in quotes");
            }
        }
    }
}

/// The lines of one entry.
struct Block {
    /// Without comments, but for those that carry flags.
    text: String,
    /// Where its `msgid` stands.
    at: At,
}

fn read(header: &str, entry: &str) -> Result<Catalog, String> {
    po_file::parse_from_reader(format!("{header}\n{entry}\n").as_bytes()).map_err(|error| error.to_string())
}

fn entry(message: &dyn MessageView, block: &Block) -> Option<Entry> {
    // An entry for one context alone is asked for by no message.
    if message.msgctxt().is_some_and(|context| !context.is_empty()) {
        return None;
    }
    let plural = message.msgid_plural().ok().filter(|_| message.is_plural());
    let forms = match message.is_plural() {
        true => message.msgstr_plural().map(|forms| forms.iter().map(|form| name(form)).collect()).unwrap_or_default(),
        false => message.msgstr().map(|text| vec![name(text)]).unwrap_or_default(),
    };
    Some(Entry { id: name(message.msgid()), at: block.at, plural: plural.map(name), forms, fuzzy: message.is_fuzzy() })
}

/// Splits a text into its entries. Lines that are neither comments, keywords nor texts are noted, and
/// left out.
fn blocks(text: &str, notes: &mut Notes) -> Vec<Block> {
    let mut found: Vec<Block> = Vec::new();
    let mut open = Open::default();
    let mut start = 0;
    for line in text.split_inclusive('\n') {
        let at = start;
        start += line.len();
        let line = line.trim();
        match kind_of(line) {
            Line::Blank => open.close(&mut found),
            Line::Comment => {
                if open.has_text {
                    open.close(&mut found);
                }
                // Flags alone mean something here.
                if line.starts_with("#, ") {
                    open.push(line);
                }
            }
            Line::Begins => {
                let context = line.starts_with("msgctxt");
                if open.has_text || context && open.at.is_some() {
                    open.close(&mut found);
                }
                if !context || open.at.is_none() {
                    open.at = Some(notes.at(at, at + line.len()));
                }
                open.push(line);
            }
            Line::Text if open.at.is_some() => {
                open.has_text |= line.starts_with("msgstr");
                open.push(line);
            }
            // A text without the word before it that says what it is, too.
            Line::Text | Line::Strange => {
                let place = notes.at(at, at + line.len());
                let message = "this is no line of a translation";
                notes.flaw(FlawKind::ManifestSyntax, place, message, "msgid, msgstr or a text in quotes belongs here");
            }
        }
    }
    open.close(&mut found);
    found
}

/// The entry that is being collected.
#[derive(Default)]
struct Open {
    text: String,
    at: Option<At>,
    has_text: bool,
}

impl Open {
    /// Adds a line, with one space behind its keyword.
    fn push(&mut self, line: &str) {
        match line.split_once(' ').filter(|_| line.starts_with('m')) {
            Some((word, rest)) => self.text.extend([word, " ", rest.trim_start()]),
            None => self.text.push_str(line),
        }
        self.text.push('\n');
    }

    fn close(&mut self, found: &mut Vec<Block>) {
        let open = std::mem::take(self);
        found.extend(open.at.filter(|_| open.has_text).map(|at| Block { text: open.text, at }));
    }
}

enum Line {
    Blank,
    Comment,
    /// `msgid` or `msgctxt`
    Begins,
    /// Anything else of an entry.
    Text,
    Strange,
}

fn kind_of(line: &str) -> Line {
    let quoted = |rest: &str| {
        let rest = rest.trim_start();
        let inner = rest.strip_prefix('"').and_then(|rest| rest.strip_suffix('"'));
        inner.is_some_and(|inner| {
            let mut escaped = false;
            let free = inner.chars().all(|c| {
                let bad = c == '"' && !escaped;
                escaped = c == '\\' && !escaped;
                !bad
            });
            free && !escaped
        })
    };
    if line.is_empty() {
        return Line::Blank;
    }
    if line.starts_with('#') {
        return Line::Comment;
    }
    if line.starts_with('"') {
        return if quoted(line) { Line::Text } else { Line::Strange };
    }
    let Some((word, rest)) = line.split_once(' ') else { return Line::Strange };
    let form = |word: &str| {
        let inner = word.strip_prefix("msgstr[").and_then(|rest| rest.strip_suffix(']'));
        inner.is_some_and(|digit| digit.len() == 1 && digit.bytes().all(|byte| byte.is_ascii_digit()))
    };
    match word {
        _ if !quoted(rest) => Line::Strange,
        "msgid" | "msgctxt" => Line::Begins,
        "msgid_plural" | "msgstr" => Line::Text,
        word if form(word) => Line::Text,
        _ => Line::Strange,
    }
}
