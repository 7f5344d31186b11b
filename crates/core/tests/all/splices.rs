//! Splices: what is added is there, and every other byte stays as it is, whatever the file looks like.

use proptest::prelude::*;
use truehook_core::address::{Address, Kind};
use truehook_core::edit::manifest::{NewAttachment, attach, declare};
use truehook_core::edit::template::{self, Placement};
use truehook_core::edit::{Plan, Selector};
use truehook_core::link::Registry;
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::scan::Attached;

fn open(manifest: &str, markup: &str) -> Registry {
    let mut files = MemoryFiles::new();
    files.insert("/t/marsh/truehook.toml", manifest);
    files.insert("/t/marsh/markup/page.html", markup);
    Registry::new(Project::open(&files, "/t/marsh".into()).unwrap())
}

/// The one file that a plan changes, after it.
fn after(registry: &Registry, plan: &Plan) -> String {
    let changes = plan.changes(registry.project()).unwrap();
    assert_eq!(changes.len(), 1);
    String::from_utf8(changes[0].after.clone().unwrap()).unwrap()
}

/// Is the new text the old one with one piece put in?
fn is_insertion(old: &str, new: &str) -> bool {
    let start = old.bytes().zip(new.bytes()).take_while(|(a, b)| a == b).count();
    let rest = old.len() - start;
    new.len() >= old.len() && old.as_bytes()[start..] == new.as_bytes()[new.len() - rest..]
        || (0..=start).any(|start| new.ends_with(&old[start..]) && new.starts_with(&old[..start]))
}

/// Pieces of manifests: tables, comments, blank lines, strings that look like tables.
fn piece() -> impl Strategy<Value = String> {
    prop_oneof![
        Just("# a comment\n".to_string()),
        Just("\n".to_string()),
        Just("\n\n".to_string()),
        "[a-d]".prop_map(|name| format!("[region.r{name}]\nlabel = \"R\" # kept\n")),
        "[a-d]".prop_map(|name| format!("[hook.h{name}]\nabout = \"\"\"\n[[attach]]\n[hook.fake]\n\"\"\"\n")),
        "[a-d]"
            .prop_map(|name| format!("[partial.p{name}]\ninputs.x = {{ type = \"string\" }} # kept\n\n  # indented\n")),
        (0..100u8).prop_map(|number| format!(
            "[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\npriority = {number}\n"
        )),
    ]
}

/// A manifest of such pieces, each table once, with one kind of line end, perhaps with a mark and
/// without an end to its last line.
fn manifest() -> impl Strategy<Value = String> {
    (prop::collection::vec(piece(), 0..8), any::<bool>(), any::<bool>(), any::<bool>()).prop_map(
        |(pieces, crlf, mark, cut)| {
            let mut text = "[theme]\nname = \"marsh\"\n".to_string();
            let mut seen = Vec::new();
            // Attachments come last, as TOML has it that tables of one name stand together or not at all.
            let (tables, others): (Vec<String>, Vec<String>) =
                pieces.into_iter().partition(|piece| !piece.starts_with("[["));
            for piece in tables.into_iter().chain(others) {
                let head = piece.lines().next().unwrap_or_default().to_string();
                if head.starts_with("[[") || !head.starts_with('[') || !seen.contains(&head) {
                    seen.push(head);
                    text.push_str(&piece);
                }
            }
            if cut {
                text.truncate(text.trim_end().len());
            }
            let text = if crlf { text.replace('\n', "\r\n") } else { text };
            if mark { format!("\u{feff}{text}") } else { text }
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_declaration_is_added_and_nothing_else_changes(text in manifest(), kind in 0..4usize, label in "[a-zA-Z \"\\\\#\\[\\]é🐦]{0,20}") {
        let registry = open(&text, "");
        let kind = [Kind::Hook, Kind::Filter, Kind::Region, Kind::Partial][kind];
        let address = Address::new(kind, "brand-new");
        let quoted = serde_json::Value::from(label.clone()).to_string();
        let edit = declare(registry.project(), address, &[("label".into(), quoted)]).unwrap();
        let new = after(&registry, &Plan::of(vec![edit]));
        prop_assert!(is_insertion(&text, &new), "{text:?}\n{new:?}");
        prop_assert_eq!(new.contains("\r\n"), text.contains("\r\n"));
        prop_assert!(!text.contains("\r\n") || !new.replace("\r\n", "").contains('\n'));
        let now = open(&new, "");
        let point = now.point(address).expect("it is declared");
        prop_assert_eq!(point.label.map(|label| label.to_string()), Some(label));
        prop_assert_eq!(now.point_count(), registry.point_count() + 1);
    }

    #[test]
    fn an_attachment_is_added_last_and_nothing_else_changes(text in manifest(), priority in 0..=100u8, when in "[a-z '\"=]{0,20}") {
        let registry = open(&text, "");
        let new = NewAttachment {
            to: "hook:document-end".into(),
            what: "b.js#g".into(),
            priority: Some(priority),
            when: Some(when),
            before: vec!["a.js#f".into()],
            after: Vec::new(),
        };
        let edit = attach(registry.project(), &new).unwrap();
        let new = after(&registry, &Plan::of(vec![edit]));
        prop_assert!(is_insertion(&text, &new), "{text:?}\n{new:?}");
        let now = open(&new, "");
        let attachments = &now.top_manifest().unwrap().attachments;
        let last = attachments.last().expect("it is attached");
        prop_assert!(matches!(last.what, Attached::Call(call) if call.raw == "b.js#g"));
        prop_assert_eq!(last.priority, priority);
        prop_assert_eq!(attachments.len(), registry.top_manifest().unwrap().attachments.len() + 1);
    }

    #[test]
    fn a_placement_is_added_and_nothing_else_changes(
        before in "(<p>a</p>\n|  <br>\n|\\{\\{ page\\.title \\}\\}|\\{# note #\\}|\\{% if page\\.title %\\}x\\{% endif %\\}|é\n){0,4}",
        indent in "( |\t){0,4}",
        inner in "(\n    <i>x</i>\n|text|)",
        position in 0..3usize,
    ) {
        let markup = format!("{before}\n{indent}<main id=\"text\">{inner}{indent}</main>\n<footer></footer>\n");
        let registry = open("[theme]\nname = \"marsh\"\n", &markup);
        let file = template::own_template(&registry, "page.html").unwrap();
        let selector: Selector = "#text".parse().unwrap();
        let position = [truehook_core::edit::Position::Before, truehook_core::edit::Position::After, truehook_core::edit::Position::Inside][position];
        let address: Address = "region:aside".parse().unwrap();
        let call = format!("{{{{ place(\"{address}\") }}}}");
        let placement = Placement { file, calls: vec![call], points: vec![address], at: Some((position, selector)), block: None, guard: false };
        let new = after(&registry, &Plan::of(template::place(&registry, &placement).unwrap()));
        prop_assert!(is_insertion(&markup, &new), "{markup:?}\n{new:?}");
        let now = open("[theme]\nname = \"marsh\"\n", &new);
        prop_assert_eq!(now.point(address).unwrap().uses.len(), 1);
        let at = new.find("{{ place(\"region:aside\") }}").unwrap();
        let (open_tag, close_tag) = (new.find("<main").unwrap(), new.find("</main>").unwrap());
        let inside = at > open_tag && at < close_tag;
        prop_assert_eq!(inside, position == truehook_core::edit::Position::Inside);
    }
}
