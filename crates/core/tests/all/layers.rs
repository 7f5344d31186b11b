//! The stack of layers: what is found, in which order it applies, and what references mean.

use truehook_core::address::Address;
use truehook_core::link::{Registry, Renderer};
use truehook_core::read::{FileKind, LayerRole, MemoryFiles, OpenError, Project, Trouble, Wanted};
use truehook_core::rules::{self, Level};
use truehook_core::scan::Prefix;

const LAYOUT: &str = "<head><title>{{ page.title }}</title>{{ place(\"hook:document-head\") }}</head>{{ place(\"region:main\") }}{{ place(\"hook:document-end\") }}\n";

fn files(files: &[(&str, &str)]) -> MemoryFiles {
    let mut memory = MemoryFiles::new();
    for (path, text) in files {
        memory.insert(format!("/themes/{path}"), *text);
    }
    memory
}

fn open(memory: &MemoryFiles, theme: &str) -> Project {
    Project::open(memory, format!("/themes/{theme}").as_str().into()).unwrap()
}

fn names(project: &Project) -> Vec<&str> {
    project.layers.iter().map(|layer| layer.name.as_str()).collect()
}

fn serious(registry: &Registry) -> Vec<String> {
    let findings = rules::check(registry).findings;
    findings.iter().filter(|f| f.level > Level::Note).map(|f| format!("[{}] {}", f.rule, f.message)).collect()
}

#[test]
fn the_stack_is_host_companions_bases_theme() {
    let memory = files(&[
        (
            "top/truehook.toml",
            "[theme]\nname = \"top\"\nlabel = \"top\"\nbase = { path = \"../middle\" }\ncompanions = [{ path = \"../kit\" }, { path = \"../extra\" }]\n",
        ),
        (
            "middle/truehook.toml",
            "[theme]\nname = \"middle\"\nlabel = \"middle\"\nbase = { path = \"../ground\" }\ncompanions = [{ path = \"../extra\" }]\n",
        ),
        ("ground/truehook.toml", "[theme]\nname = \"ground\"\nlabel = \"ground\"\nopen = true\n"),
        ("kit/truehook.toml", "[companion]\nname = \"kit\"\n"),
        ("extra/truehook.toml", "[companion]\nname = \"extra\"\n"),
    ]);
    let project = open(&memory, "top");
    // A base's companions come before the theme's own, each folder once.
    assert_eq!(names(&project), ["host", "extra", "kit", "ground", "middle", "top"]);
    let roles: Vec<LayerRole> = project.layers.iter().map(|layer| layer.role).collect();
    use LayerRole::{Companion, Host, Theme};
    assert_eq!(roles, [Host, Companion, Companion, Theme, Theme, Theme]);
    assert!(project.layers[1].open && project.layers[3].open && !project.layers[5].open);
    let shown: Vec<&str> = project.layers.iter().map(|layer| layer.shown.as_str()).collect();
    assert_eq!(shown, ["standard:", "../extra/", "../kit/", "../ground/", "../middle/", ""]);
}

#[test]
fn a_host_contract_of_ones_own_takes_the_place_of_the_standard_one() {
    let memory = files(&[
        (
            "quay/truehook.toml",
            "[host]\nname = \"quay\"\nversion = \"3.1.0\"\n\n[limits]\nnesting = 3\n\n[type.sheet]\nlabel = \"Sheet\"\n\n[region.sheet]\nlabel = \"Sheet\"\nrequired = true\n",
        ),
        (
            "ferry/truehook.toml",
            "[theme]\nname = \"ferry\"\nlabel = \"ferry\"\nhost = { contract = \"../quay\", version = \"^3\" }\n",
        ),
        ("ferry/markup/sheet.html", "<body>{{ place(\"region:sheet\") }}</body>\n"),
    ]);
    let registry = Registry::new(open(&memory, "ferry"));
    assert_eq!(names(registry.project()), ["host", "ferry"]);
    assert_eq!(registry.types().iter().map(|page_type| page_type.name.as_str()).collect::<Vec<_>>(), ["sheet"]);
    assert_eq!((registry.limits().nesting, registry.limits().callback_milliseconds), (3, 250));
    assert!(registry.point("region:main".parse().unwrap()).is_none());
    assert_eq!(serious(&registry), [""; 0]);
}

#[test]
fn a_base_brings_its_host_where_the_theme_names_none() {
    let memory = files(&[
        ("quay/truehook.toml", "[host]\nname = \"quay\"\n\n[type.sheet]\nlabel = \"Sheet\"\n"),
        (
            "base/truehook.toml",
            "[theme]\nname = \"base\"\nlabel = \"base\"\nopen = true\nhost = { contract = \"../quay\" }\n",
        ),
        ("top/truehook.toml", "[theme]\nname = \"top\"\nlabel = \"top\"\nbase = { path = \"../base\" }\n"),
    ]);
    let registry = Registry::new(open(&memory, "top"));
    assert_eq!(registry.types().len(), 1);
}

#[test]
fn layers_that_are_not_as_asked_are_told() {
    let theme = |keys: &str| {
        files(&[
            ("top/truehook.toml", &format!("[theme]\nname = \"top\"\nlabel = \"top\"\nopen = true\n{keys}\n")),
            ("base/truehook.toml", "[theme]\nname = \"base\"\nlabel = \"base\"\nversion = \"1.4.0\"\nopen = true\n"),
            (
                "loop/truehook.toml",
                "[theme]\nname = \"loop\"\nlabel = \"loop\"\nopen = true\nbase = { path = \"../top\" }\n",
            ),
        ])
    };
    let trouble =
        |keys: &str| open(&theme(keys), "top").troubles.first().map(|found| (found.wanted, found.trouble.clone()));
    assert_eq!(trouble("base = { path = \"../base\", version = \"^1.2\" }"), None);
    assert_eq!(
        trouble("base = { path = \"../bsae\" }"),
        Some((Wanted::Base, Trouble::Missing { path: "../bsae".into(), near: Some("../base".into()) }))
    );
    assert!(matches!(
        trouble("base = { path = \"../base\", version = \"^2\" }"),
        Some((Wanted::Base, Trouble::Version { .. }))
    ));
    assert!(matches!(
        trouble("companions = [{ path = \"../none\" }]"),
        Some((Wanted::Companion, Trouble::Missing { .. }))
    ));
    assert!(matches!(
        trouble("host = { contract = \"standard\", version = \"^7\" }"),
        Some((Wanted::Host, Trouble::Version { .. }))
    ));
    let Some((Wanted::Base, Trouble::Cycle { way })) = trouble("base = { path = \"../loop\" }") else {
        panic!("no cycle")
    };
    assert_eq!(way, ["top", "loop", "top"]);
}

#[test]
fn what_a_missing_layer_may_bring_is_not_reported() {
    let memory = files(&[
        (
            "top/truehook.toml",
            "[theme]\nname = \"top\"\nlabel = \"top\"\nbase = { path = \"../gone\" }\n\n[[attach]]\nto = \"hook:from-the-base\"\ncall = \"gone:x.js#y\"\n",
        ),
        (
            "top/markup/page.html",
            "{% extends \"layout.html\" %}{% block main %}{{ place(\"region:from-the-base\") }}{{ unknown }}{% endblock %}\n",
        ),
    ]);
    let registry = Registry::new(open(&memory, "top"));
    assert_eq!(serious(&registry), ["[base-missing] there is no base theme in `../gone`"]);
}

#[test]
fn folders_without_a_theme_are_refused() {
    let memory =
        files(&[("empty/readme.txt", "nothing"), ("top/truehook.toml", "[theme]\nname = \"top\"\nlabel = \"top\"\n")]);
    let error = |folder: &str| Project::open(&memory, folder.into()).err();
    assert_eq!(error("/themes/none"), Some(OpenError::NoFolder("/themes/none".into())));
    assert_eq!(error("/themes/empty"), Some(OpenError::NoManifest("/themes/empty".into())));
}

/// Two layers with a template of the same name, and modules of the same name.
fn twins() -> Registry {
    let memory = files(&[
        (
            "base/truehook.toml",
            "[theme]\nname = \"base\"\nlabel = \"base\"\nopen = true\n\n[hook.note]\nabout = \"Notes\"\nargs.size = { type = \"integer\" }\n\n[partial.card]\nabout = \"A card\"\ninputs.text = { type = \"string\", default = \"\" }\n\n[[attach]]\nto = \"hook:note\"\ncall = \"a.js#f\"\n",
        ),
        ("base/markup/layout.html", LAYOUT),
        ("base/markup/page.html", "{% extends \"layout.html\" %}"),
        ("base/markup/entry.html", "{% extends \"layout.html\" %}"),
        ("base/markup/partials/card.html", "<p>{{ text }}</p>"),
        ("base/code/a.js", "export function f() {}\n"),
        (
            "top/truehook.toml",
            "[theme]\nname = \"top\"\nlabel = \"top\"\nbase = { path = \"../base\" }\n\n[hook.note]\nlabel = \"Notes here\"\nargs.colour = { type = \"string\", default = \"red\" }\n\n[partial.card]\nrender = \"a.js#card\"\ninputs.text = { type = \"string\", default = \"…\" }\ninputs.wide = { type = \"boolean\", default = false }\n\n[[attach]]\nto = \"hook:note\"\ncall = \"a.js#f\"\n\n[[attach]]\nto = \"hook:note\"\ncall = \"base:a.js#f\"\npriority = 10\n",
        ),
        ("top/markup/layout.html", "{% extends \"below:layout.html\" %}"),
        ("top/markup/page.html", "{% extends \"layout.html\" %}"),
        ("top/code/a.js", "export function f() {}\nexport function card() { return \"\"; }\n"),
    ]);
    Registry::new(open(&memory, "top"))
}

#[test]
fn references_start_where_they_should() {
    let registry = twins();
    let top = registry.project().top();
    let base = registry.project().layer_named("base").unwrap();
    let shown = |written: &str, from| registry.resolve_template(written, from).map(|file| registry.template_name(file));
    assert_eq!(shown("layout.html", base).as_deref(), Some("top:layout.html"));
    assert_eq!(shown("below:layout.html", top).as_deref(), Some("base:layout.html"));
    assert_eq!(shown("below:layout.html", base), None);
    assert_eq!(shown("base:page.html", top).as_deref(), Some("base:page.html"));
    let module = |prefix, from, own| {
        registry.resolve(FileKind::Module, prefix, "a.js", from, own).map(|file| registry.project().file(file).layer)
    };
    assert_eq!(module(Prefix::None, base, true), Some(base));
    assert_eq!(module(Prefix::None, base, false), Some(top));
    assert_eq!(module(Prefix::Below, top, true), Some(base));
}

#[test]
fn redeclarations_merge_key_by_key() {
    let registry = twins();
    let hook = registry.point("hook:note".parse().unwrap()).unwrap();
    assert_eq!(hook.label.map(|label| label.to_string()).as_deref(), Some("Notes here"));
    assert_eq!(hook.about.map(|about| about.to_string()).as_deref(), Some("Notes"));
    assert_eq!(hook.args.iter().map(|arg| arg.field.name.as_str()).collect::<Vec<_>>(), ["size", "colour"]);
    assert_eq!(hook.declared.len(), 2);
    let card = registry.point("partial:card".parse().unwrap()).unwrap();
    let defaults: Vec<_> =
        card.inputs.iter().map(|input| (input.field.name.as_str(), input.field.default().cloned().unwrap())).collect();
    assert_eq!(defaults, [("text", "…".into()), ("wide", false.into())]);
    // The highest layer that gives a renderer decides: here, a callback over the base's template.
    assert!(matches!(card.renderer, Some(Renderer::Callback(callback)) if callback.export == "card"));
}

#[test]
fn slots_of_all_layers_share_one_order() {
    let registry = twins();
    let hook = registry.point("hook:note".parse::<Address>().unwrap()).unwrap();
    let names: Vec<String> =
        hook.slots.iter().map(|slot| format!("{} {}", slot.priority, registry.slot_name(slot))).collect();
    assert_eq!(names, ["10 base:a.js#f", "50 base:a.js#f", "50 a.js#f"]);
}

#[test]
fn the_specific_template_beats_the_near_one() {
    let registry = twins();
    let of = |name: &str| {
        let page_type = registry.types().iter().find(|page_type| page_type.name == name).unwrap();
        registry.template_name(page_type.templates[0])
    };
    assert_eq!(of("entry"), "base:entry.html");
    assert_eq!(of("list"), "top:page.html");
}

#[test]
fn two_layers_of_one_name_are_an_error() {
    let memory = files(&[
        (
            "a/twin/truehook.toml",
            "[theme]\nname = \"twin\"\nlabel = \"twin\"\nopen = true\nbase = { path = \"../../b/twin\" }\n",
        ),
        ("b/twin/truehook.toml", "[theme]\nname = \"twin\"\nlabel = \"twin\"\nopen = true\n"),
    ]);
    let registry = Registry::new(open(&memory, "a/twin"));
    assert_eq!(serious(&registry), ["[bad-name] two layers are called `twin`"]);
}

#[test]
fn a_release_renames_several_things() {
    use truehook_core::rules;
    let mut files = truehook_core::rules::Example(&[
        ("truehook.toml", "[theme]\nname = \"example\"\nlabel = \"E\"\nbase = { path = \"../shore\" }\n\n[[detach]]\nfrom = \"hook:old\"\ncall = \"shore:base.js#first\"\n\n[[replace]]\ncall = \"shore:base.js#second\"\nwith = \"own.js#new\"\n\n[[attach]]\nto = \"hook:old\"\ncall = \"own.js#more\"\n"),
        ("code/own.js", "export const more = () => \"m\";\nexport { more as new };\n"),
        ("../shore/truehook.toml", "[theme]\nname = \"shore\"\nlabel = \"S\"\nopen = true\n\n[hook.zeppelin]\nabout = \"H\"\n\n[[attach]]\nto = \"hook:zeppelin\"\ncall = \"base.js#first\"\n\n[[attach]]\nto = \"hook:zeppelin\"\ncall = \"base.js#quicksand\"\n"),
        ("../shore/code/base.js", "export const first = () => \"f\";\nexport const quicksand = () => \"q\";\n"),
    ])
    .files();
    files.insert(
        "/site/example/markup/page.html",
        "{% extends \"layout.html\" %}\n{% block main %}{{ super() }}{{ place(\"hook:zeppelin\") }}{% endblock %}\n",
    );
    let registry =
        truehook_core::link::Registry::new(truehook_core::read::Project::open(&files, "/site/example".into()).unwrap());
    let told: Vec<String> = rules::check(&registry)
        .findings
        .iter()
        .filter(|f| f.level > rules::Level::Note)
        .map(|f| format!("{} {:?}", f.rule, f.mend.as_ref().map(|m| &m.text)))
        .collect();
    let wanted = [
        "replace-target Some(\"write `shore:base.js#quicksand`, if that was meant\")",
        "undeclared-point Some(\"write `hook:zeppelin`, if that was meant\")",
    ];
    assert_eq!(told, wanted);
}

#[test]
fn another_file_for_an_asset_keeps_what_is_said_of_it() {
    let told = |script: &'static str| {
        let files: &[(&'static str, &'static str)] = Box::leak(Box::new([
            (
                "truehook.toml",
                "[theme]\nname = \"example\"\nlabel = \"E\"\nbase = { path = \"../shore\" }\n\n[script.dial]\nfile = \"own.js\"\n",
            ),
            ("media/own.js", script),
            (
                "../shore/truehook.toml",
                "[theme]\nname = \"shore\"\nlabel = \"S\"\nopen = true\n\n[script.dial]\nfile = \"dial.js\"\ngives = [\"Dial\"]\n\n[script.user]\nfile = \"user.js\"\nneeds = [\"script:dial\"]\n",
            ),
            ("../shore/media/dial.js", "const Dial = { start() {} };\n"),
            ("../shore/media/user.js", "Dial.start();\n"),
        ]));
        let registry = truehook_core::rules::Example(files).registry().unwrap();
        let findings = truehook_core::rules::check(&registry).findings;
        let place = |finding: &truehook_core::rules::Finding| registry.project().shown(finding.places[0].file);
        findings.iter().map(|finding| format!("{} {}", finding.rule, place(finding))).collect::<Vec<_>>()
    };
    assert_eq!(told("const Dial = { start() {} };\n"), [""; 0]);
    assert_eq!(told("const Dail = { start() {} };\n"), ["unstated-need truehook.toml"]);
}
