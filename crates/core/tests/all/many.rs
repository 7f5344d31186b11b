//! What there may be very many of: it takes little room, and what few of it say is said as well as all else.

use proptest::prelude::*;
use truehook_core::address::Address;
use truehook_core::link::{Further, Link, Meaning, Meant, Outcome, Reference, Registry, Said, Target};
use truehook_core::read::{MemoryFiles, Project};
use truehook_core::rules::Example;
use truehook_core::scan::{Declaration, TemplateShape};

#[test]
#[cfg(target_pointer_width = "64")]
fn it_takes_little_room() {
    assert!(size_of::<Reference>() <= 64);
    assert!(size_of::<Declaration>() <= 120);
    assert!(size_of::<Said>() <= 136);
    assert!(size_of::<TemplateShape>() <= 160);
    assert!(size_of::<Further>() > size_of::<Said>());
}

#[test]
fn a_plain_template_and_a_plain_declaration_keep_no_room_for_what_they_dont_say() {
    let registry = Example(&[
        ("truehook.toml", "[partial.plain]\nlabel = \"Plain\"\n\n[partial.rich]\nsince = \"1.0.0\"\n"),
        ("markup/partials/plain.html", "<p>{{ page.title }}</p>{% include \"x.html\" %}\n"),
        ("markup/partials/rich.html", "<p>{{ place(\"held\") }}</p>\n"),
    ])
    .registry()
    .unwrap();
    let said = |name: &str| &registry.point(name.parse().unwrap()).unwrap().said;
    assert!(said("partial:plain").further.is_none() && said("partial:plain").since.is_none());
    assert_eq!(said("partial:rich").since.as_ref().unwrap().to_string(), "1.0.0");
    let template = |name: &str| {
        let mut files = registry.project().file_ids();
        let file = files.find(|file| registry.project().shown(*file) == name).unwrap();
        registry.template(file).unwrap()
    };
    assert!(template("markup/partials/plain.html").further.is_none());
    assert!(template("markup/partials/plain.html").outlets.is_empty());
    assert_eq!(template("markup/partials/rich.html").outlets.len(), 1);
}

#[test]
fn what_was_meant_is_kept_once() {
    let meaning = |written: &str| Meaning { written: written.into(), target: Target::Given, certain: true };
    let one = Meant::from(meaning("region:tide"));
    assert_eq!(one, Meant::from(meaning("region:tide")));
    assert!(std::ptr::eq(&*one, &*Meant::from(meaning("region:tide"))));
    assert_ne!(one, Meant::from(Meaning { certain: false, ..meaning("region:tide") }));
    assert_eq!((one.written.as_str(), one.target, one.certain), ("region:tide", Target::Given, true));
}

/// What one layer says of a section: which keys, and of what each is made.
#[derive(Clone, Debug)]
struct Layer {
    extend: bool,
    keys: Vec<Option<u8>>,
}

const KEYS: [&str; 7] = ["label", "since", "instead", "dropped", "wrap", "holds", "needs"];

impl Layer {
    fn key(&self, name: &str) -> Option<u8> {
        self.keys[KEYS.iter().position(|key| *key == name).unwrap()]
    }

    fn manifest(&self, at: usize) -> String {
        let base = match at {
            0 => String::new(),
            at => format!("base = {{ path = \"../l{}\" }}\n", at - 1),
        };
        let mut text = format!("[theme]\nname = \"l{at}\"\nlabel = \"L\"\n{base}open = true\n\n[section.tide]\n");
        if self.extend {
            text += "extend = true\n";
        }
        for (key, number) in KEYS.iter().zip(&self.keys) {
            let Some(number) = number else { continue };
            text += &match *key {
                "label" => format!("label = \"{number}\"\n"),
                "since" => format!("since = \"{number}.0.0\"\n"),
                "instead" => format!("instead = \"section:s{number}\"\n"),
                "dropped" => format!("dropped = {}\n", number % 2 == 0),
                "wrap" => format!("wrap = \"<b{number}>{{body}}</b{number}>\"\n"),
                "holds" => format!("holds = [\"piece:p{number}\"]\n"),
                "needs" => format!("needs = [\"style:s{number}\"]\n"),
                _ => String::new(),
            };
        }
        text
    }
}

/// Of a key that higher layers say anew, the highest that says it.
fn highest(layers: &[Layer], key: &str) -> Option<u8> {
    layers.iter().rev().find_map(|layer| layer.key(key))
}

/// Of a list, what the highest layer says that doesn't add to it, and what those above it add.
fn list(layers: &[Layer], key: &str, word: &str) -> Vec<String> {
    let mut all = Vec::new();
    for layer in layers {
        let Some(number) = layer.key(key) else { continue };
        if !layer.extend {
            all.clear();
        }
        all.push(format!("{word}{number}"));
    }
    all
}

proptest! {
    #[test]
    fn every_key_is_laid_over_those_below(
        layers in prop::collection::vec(
            (any::<bool>(), prop::collection::vec(prop::option::of(0..9u8), KEYS.len()))
                .prop_map(|(extend, keys)| Layer { extend, keys }),
            1..5,
        )
    ) {
        let mut files = MemoryFiles::new();
        for (at, layer) in layers.iter().enumerate() {
            files.insert(format!("/themes/l{at}/truehook.toml"), layer.manifest(at));
        }
        let top = format!("/themes/l{}", layers.len() - 1);
        let registry = Registry::new(Project::open(&files, top.as_str().into()).unwrap());
        let address: Address = "section:tide".parse().unwrap();
        let said = &registry.point(address).unwrap().said;
        let text = |number: Option<u8>, form: &dyn Fn(u8) -> String| number.map(form);
        prop_assert_eq!(said.label.map(|label| label.to_string()), text(highest(&layers, "label"), &|n| n.to_string()));
        prop_assert_eq!(
            said.since.as_ref().map(ToString::to_string),
            text(highest(&layers, "since"), &|n| format!("{n}.0.0"))
        );
        prop_assert_eq!(
            said.instead.map(|instead| instead.raw.to_string()),
            text(highest(&layers, "instead"), &|n| format!("section:s{n}"))
        );
        prop_assert_eq!(
            said.wrap.map(|wrap| wrap.to_string()),
            text(highest(&layers, "wrap"), &|n| format!("<b{n}>{{body}}</b{n}>"))
        );
        prop_assert_eq!(said.dropped.is_some(), highest(&layers, "dropped").is_some_and(|n| n % 2 == 0));
        let raw = |named: &[(truehook_core::scan::PointRef, truehook_core::source::Place)]| {
            named.iter().map(|(point, _)| point.raw.to_string()).collect::<Vec<_>>()
        };
        prop_assert_eq!(raw(&said.holds), list(&layers, "holds", "piece:p"));
        prop_assert_eq!(raw(&said.needs), list(&layers, "needs", "style:s"));
    }
}

/// The priority of an attachment.
fn priority_of(at: usize) -> u8 {
    (at * 7 % 5 * 20) as u8
}

#[test]
fn very_many_attachments_in_several_manifests_run_in_their_order() {
    // So many files and attachments that several threads share them.
    let (templates, each) = (400, 500);
    let manifests = ["truehook.toml", "points/a.toml", "points/b.toml"];
    let mut files = MemoryFiles::new();
    let mut code = String::new();
    for (own, manifest) in manifests.iter().enumerate() {
        let mut text = match own {
            0 => "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\n".to_string(),
            _ => String::new(),
        };
        for at in own * each..(own + 1) * each {
            let priority = priority_of(at);
            text +=
                &format!("\n[[attach]]\nto = \"hook:document-start\"\ncall = \"a.js#f{at}\"\npriority = {priority}\n");
            code += &format!("export const f{at} = () => {at};\n");
        }
        files.insert(format!("/themes/marsh/{manifest}"), text);
    }
    files.insert("/themes/marsh/code/a.js", code);
    for at in 0..templates {
        files.insert(format!("/themes/marsh/markup/t{at}.html"), format!("{{{{ page.nobody{at} }}}}\n"));
    }
    let registry = Registry::new(Project::open(&files, "/themes/marsh".into()).unwrap());
    let point = registry.point("hook:document-start".parse().unwrap()).unwrap();
    let own = point.slots.iter().filter(|slot| slot.layer == registry.project().top());
    let ran: Vec<String> = own.map(|slot| registry.slot_name(slot)).collect();
    let mut wanted: Vec<usize> = (0..manifests.len() * each).collect();
    wanted.sort_by_key(|at| (priority_of(*at), *at));
    let wanted: Vec<String> = wanted.into_iter().map(|at| format!("a.js#f{at}")).collect();
    assert_eq!(ran, wanted);
    // And each template has been read for itself: its variable is missed there, in the order of the files.
    let missed = registry.references().iter().filter(|reference| reference.link == Link::VariableToName);
    let missed: Vec<(String, String)> = missed
        .filter(|reference| matches!(reference.outcome, Outcome::Missing { .. }))
        .map(|reference| (registry.project().shown(reference.from.file), reference.written.to_string()))
        .collect();
    let mut wanted: Vec<(String, String)> =
        (0..templates).map(|at| (format!("markup/t{at}.html"), format!("page.nobody{at}"))).collect();
    wanted.sort();
    assert_eq!(missed, wanted);
}
