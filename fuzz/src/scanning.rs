//! Any bytes as a file of some kind.

use truehook_core::edit::Selector;
use truehook_core::scan::{self, Facts};
use truehook_core::source::{At, Content, FileKind, LayerId, SourceFile};

/// Scans bytes as a file of that kind, and asks of what is learnt that all its places lie in the text.
pub fn scanned(target: &str, bytes: &[u8]) {
    let (path, kind) = match target {
        "manifest" => ("truehook.toml", FileKind::Manifest),
        "template" => ("markup/page.html", FileKind::Template),
        "module" => ("code/a.js", FileKind::Module),
        "style" => ("media/a.css", FileKind::Style),
        "script" => ("media/a.js", FileKind::Script),
        "words" => ("words/de.po", FileKind::Words),
        "condition" => return condition(bytes),
        "selector" => return selector(bytes),
        _ => panic!("there is no target {target}"),
    };
    scan(path, kind, bytes);
}

fn scan(path: &str, kind: FileKind, bytes: &[u8]) -> Facts {
    let content = Content::from_bytes(bytes.to_vec());
    let file = SourceFile { layer: LayerId(1), path: path.into(), kind, content };
    let facts = scan::scan_file(&file);
    let text = file.text();
    for at in 0..facts.spans.len() {
        let span = facts.span(At(at as u32)).range();
        assert!(text.get(span.clone()).is_some(), "{span:?} is no place in {path}");
    }
    facts
}

/// A condition, as it stands in a manifest.
fn condition(bytes: &[u8]) {
    let Ok(text) = std::str::from_utf8(bytes) else { return };
    let quoted: String = text
        .chars()
        .flat_map(|letter| match letter {
            '"' | '\\' => vec!['\\', letter],
            letter if letter.is_control() => vec![' '],
            letter => vec![letter],
        })
        .collect();
    let manifest = format!("[[attach]]\nto = \"hook:one\"\ncall = \"a.js#b\"\nwhen = \"{quoted}\"\n");
    let facts = scan("truehook.toml", FileKind::Manifest, manifest.as_bytes());
    let scan::Shape::Manifest(shape) = &facts.shape else { return };
    for when in shape.attachments.iter().filter_map(|attachment| attachment.when.as_ref()) {
        when.can_hold(|name| (name == "page.type").then(|| vec!["front".into(), "page".into()]));
    }
}

fn selector(bytes: &[u8]) {
    if let Ok(text) = std::str::from_utf8(bytes) {
        let _ = text.parse::<Selector>();
    }
}
