//! The beds: what belongs together, and what can go wrong in it.

use super::further::{accepted, guarded, inline, nested, overriding};
use super::theme::{BASE, ROOT, Sower, Sown};

/// The files of one layer.
pub fn at(root: &str, path: &str) -> String {
    format!("{root}/{path}")
}

/// A theme with some of all beds, on a base.
pub fn sow(seed: u64) -> Sown {
    let mut sower = Sower::new(seed);
    let manifest = at(ROOT, "truehook.toml");
    let base = at(BASE, "truehook.toml");
    sower.add(&base, "[theme]\nname = \"shore\"\nlabel = \"Shore\"\nversion = \"1.2.0\"\nopen = true\n");
    sower.add(&manifest, "[theme]\nname = \"site\"\nlabel = \"Site\"\nversion = \"1.0.0\"\nbase = { path = \"../shore\", version = \"^1\" }\n");
    sower.add(&at(ROOT, "code/own.js"), "import { html, place, t } from \"truehook\";\n");
    sower.add(&at(ROOT, "preview/site.toml"), "title = \"A site\"\nmotto = \"Words\"\nlanguage = \"en\"\n");
    let beds: [fn(&mut Sower); 21] = [
        one_type, spot, listener, option, partial, filter, section, menu, block, included, library, message, asset,
        body, colour, inherited, inline, accepted, nested, overriding, guarded,
    ];
    let mut all = beds.to_vec();
    sower.rng.shuffle(&mut all);
    all.truncate(13);
    all.iter().for_each(|bed| bed(&mut sower));
    finish(&mut sower);
    sower.harvest()
}

/// The pages, the layout and the page template around what the beds want shown.
fn finish(sower: &mut Sower) {
    let (page, layout) = (std::mem::take(&mut sower.page), std::mem::take(&mut sower.layout));
    let main = sower.slip("block name", "main", "");
    let outside = sower.or("outside of blocks", "", "<p>lost</p>\n", "outside of blocks", "");
    sower.add(
        &at(BASE, "markup/layout.html"),
        &format!("<!doctype html>\n<html lang=\"en\">\n<head><title>{{{{ page.title }}}}</title>{{{{ place(\"hook:document-head\") }}}}</head>\n<body>\n{layout}<main>{{% block main %}}{{{{ place(\"region:main\") }}}}{{% endblock %}}</main>\n{{{{ place(\"hook:document-end\") }}}}\n</body>\n</html>\n"),
    );
    sower.add(
        &at(ROOT, "markup/page.html"),
        &format!("{{% extends \"layout.html\" %}}\n{{% block {main} %}}\n{{{{ super() }}}}\n<h1>{{{{ page.heading }}}}</h1>\n{page}{{% endblock %}}\n{outside}"),
    );
    for (kind, path) in [("front", "/"), ("list", "/log/")] {
        sower.add(
            &at(ROOT, &format!("preview/pages/{kind}.toml")),
            &format!("path = \"{path}\"\ntype = \"{kind}\"\ntitle = \"A {kind}\"\n"),
        );
    }
}

/// A region that is declared, placed and filled.
fn spot(sower: &mut Sower) {
    let manifest = at(ROOT, "truehook.toml");
    let page = at(ROOT, "markup/page.html");
    let (kind, name) = (sower.pick(&["region", "area"]), sower.word());
    let declared = sower.or("declaration renamed", &name, "zeppelin", &name, &page);
    sower.add(&manifest, &format!("\n[{kind}.{declared}]\nlabel = \"A spot\"\n"));
    let placed = sower.slip("placement", &name, &manifest);
    let whole = format!("{kind}:{placed}");
    let bare = sower.or("prefix lost", &whole, &name, &name, "");
    let other = if kind == "region" { "area" } else { "region" };
    let whole = sower.or("kind wrong", &bare, &format!("{other}:{name}"), &name, &manifest);
    let again = format!("{{{{ place(\"{kind}:{name}\") }}}}");
    let twice = sower.or("placed twice", "", &again, &name, "");
    let text = match sower.yes() {
        true => {
            format!("{{% if filled(\"{kind}:{name}\") %}}<div>{{{{ place(\"{whole}\") }}}}</div>{{% endif %}}{twice}\n")
        }
        false => format!("{{{{ place(\"{whole}\") }}}}{twice}\n"),
    };
    let lost = sower.or("placement gone", &text, "", &name, &manifest);
    sower.page.push_str(&lost);
    let partial = sower.word();
    sower.add(&manifest, &format!("\n[partial.{partial}]\ninputs.words = {{ type = \"string\", default = \"\" }}\ninputs.count = {{ type = \"integer\", minimum = 1, maximum = 5, default = 2 }}\n"));
    sower.add(&at(ROOT, &format!("markup/partials/{partial}.html")), "<p>{{ words }} {{ count }}</p>\n");
    let site = at(ROOT, "preview/site.toml");
    let filled = sower.slip("fill", &name, &manifest);
    let used = sower.slip("item", &partial, &manifest);
    let key = sower.slip("item key", "words", &manifest);
    let number = sower.or("item value", "3", "9", "count", &manifest);
    let title = if kind == "area" { ", title = \"Open\"" } else { "" };
    sower.fill(
        &site,
        &format!(
            "\"{kind}:{filled}\" = [ {{ use = \"partial:{used}\", {key} = \"Sand\", count = {number}{title} }} ]\n"
        ),
    );
}

/// A type of page with a template of its own, which keeps what the layout has.
fn one_type(sower: &mut Sower) {
    let shown = sower.or("lost on one type", "{{ super() }}", "", "region:main", &at(BASE, "markup/layout.html"));
    sower.add(
        &at(ROOT, "markup/missing.html"),
        &format!("{{% extends \"layout.html\" %}}\n{{% block main %}}{shown}<p>Not here</p>{{% endblock %}}\n"),
    );
    sower.add(
        &at(ROOT, "preview/pages/missing.toml"),
        "path = \"/missing/\"\ntype = \"missing\"\ntitle = \"Missing\"\nbody = \"missing.md\"\n",
    );
    sower.add(&at(ROOT, "preview/pages/missing.md"), "Nothing but sand.\n");
}

/// A listener that reads its context in some way.
fn listener(sower: &mut Sower) {
    let (manifest, code) = (at(ROOT, "truehook.toml"), at(ROOT, "code/own.js"));
    let (hook, name, arg, data) = (sower.word(), sower.word(), sower.word(), sower.word());
    sower.add(&manifest, &format!("\n[hook.{hook}]\nabout = \"A hook\"\nargs.{arg} = {{ type = \"string\" }}\n"));
    let passed = sower.slip("argument", &arg, &manifest);
    sower.page.push_str(&format!("{{{{ place(\"hook:{hook}\", {passed}=page.title) }}}}\n"));
    sower.add(&at(ROOT, "preview/site.toml"), "");
    sower.data(&format!("{data} = \"seen\"\n"));
    let (to, called) = (sower.slip("attachment", &hook, &manifest), sower.slip("callback", &name, &code));
    let when = sower.slip("condition name", "path", "");
    let doubled = sower.or(
        "attached twice",
        "",
        &format!("\n[[attach]]\nto = \"hook:{hook}\"\ncall = \"own.js#{name}\"\n"),
        &name,
        "",
    );
    sower.add(
        &manifest,
        &format!("\n[[attach]]\nto = \"hook:{to}\"\ncall = \"own.js#{called}\"\nwhen = \"page.{when} != '/none/'\"\n{doubled}"),
    );
    let root = sower.pick(&["page.title", "site.motto", "theme.label", "args.ARG", "site.data.DATA"]).to_string();
    let root = root.replace("ARG", &arg).replace("DATA", &data);
    let (lead, last) = root.rsplit_once('.').expect("two steps");
    let read = sower.slip("property", last, "");
    let first = lead.split('.').next().expect("a root");
    let body = match sower.rng.u8(..5) {
        0 => format!("({{ {first} }}) => html`<p>${{{lead}.{read}}}</p>`"),
        1 => format!("(context) => html`<p>${{context.{lead}.{read}}}</p>`"),
        2 => format!(
            "(context) => {{\n  const {{ {first} }} = context;\n  return html`<p>${{{lead}[\"{read}\"]}}</p>`;\n}}"
        ),
        3 => format!(
            "(context) => {{\n  const {{ {read}: found }} = context.{lead};\n  return html`<p>${{found}}</p>`;\n}}"
        ),
        _ => format!("({{ {first} = {{}} }}) => html`<p>${{{lead}?.{read} ?? \"\"}}</p>`"),
    };
    let made = body.replacen("html`", "⟦M⟧`", 1);
    let tag = sower.or("markup as text", "html", "", &name, "");
    sower.add(&code, &format!("export const {name} = {};\n", made.replace("⟦M⟧", &tag)));
}

/// An option, compared in a template, a condition or a callback.
fn option(sower: &mut Sower) {
    let (manifest, code) = (at(ROOT, "truehook.toml"), at(ROOT, "code/own.js"));
    let (option, name, one, two) = (sower.word(), sower.word(), sower.word(), sower.word());
    let default = sower.slip("option default", &one, "");
    sower.add(&manifest, &format!("\n[option.{option}]\nlabel = \"A choice\"\ntype = \"string\"\nenum = [\"{one}\", \"{two}\"]\ndefault = \"{default}\"\n"));
    let chosen = sower.slip("option value", &two, &manifest);
    let key = sower.slip("option chosen", &option, "");
    sower.options(&format!("{key} = \"{chosen}\"\n"));
    let value = sower.slip("compared value", &two, "");
    let read = sower.slip("option read", &option, "");
    if sower.yes() {
        let test =
            format!("{{% if options.{read} == \"{value}\" %}}<i>x</i>{{% endif %}}<b>{{{{ options.{option} }}}}</b>\n");
        sower.page.push_str(&test);
    } else {
        sower.add(&manifest, &format!("\n[[attach]]\nto = \"hook:document-end\"\ncall = \"own.js#{name}\"\n"));
        sower.add(&code, &format!("export const {name} = ({{ options }}) => (options.{read} === \"{value}\" ? html`<i>x</i>` : html`<b>${{options.{option}}}</b>`);\n"));
    }
    let typed = sower.slip("page type", "front", "");
    sower.page.push_str(&format!("{{% if page.type == \"{typed}\" %}}<u>front</u>{{% endif %}}\n"));
}

/// A partial with a preparer, placed from a template.
fn partial(sower: &mut Sower) {
    let (manifest, code) = (at(ROOT, "truehook.toml"), at(ROOT, "code/own.js"));
    let (partial, input, other, name) = (sower.word(), sower.word(), sower.word(), sower.word());
    let template = at(ROOT, &format!("markup/partials/{partial}.html"));
    let idle =
        sower.or("input unread", "", "inputs.gnomon = { type = \"string\", default = \"\" }\n", "gnomon", &template);
    sower.add(&manifest, &format!("\n[partial.{partial}]\ninputs.{input} = {{ type = \"string\" }}\ninputs.{other} = {{ type = \"string\", enum = [\"ebb\", \"flood\"], default = \"ebb\" }}\n{idle}"));
    let shown = sower.slip("variable", &input, &manifest);
    sower.add(&template, &format!("<p>{{{{ {shown} }}}} {{{{ {other} }}}}</p>\n"));
    let (placed, given) = (sower.slip("component", &partial, &manifest), sower.slip("input", &input, &manifest));
    let value = sower.slip("value passed", "ebb", &manifest);
    sower.page.push_str(&format!("{{{{ place(\"partial:{placed}\", {given}=page.title, {other}=\"{value}\") }}}}\n"));
    sower.add(&manifest, &format!("\n[[attach]]\nto = \"partial:{partial}\"\ncall = \"own.js#{name}\"\n"));
    let (reads, returns) = (sower.slip("input read", &input, &manifest), sower.slip("key returned", &other, &manifest));
    let value = sower.slip("value returned", "flood", &manifest);
    sower.add(
        &code,
        &format!(
            "export const {name} = (inputs) => (inputs.{reads} ? {{ ...inputs, {returns}: \"{value}\" }} : inputs);\n"
        ),
    );
}

fn filter(sower: &mut Sower) {
    let (manifest, code) = (at(ROOT, "truehook.toml"), at(ROOT, "code/own.js"));
    let (filter, name) = (sower.word(), sower.word());
    sower.add(&manifest, &format!("\n[filter.{filter}]\nvalue = {{ type = \"string\" }}\n\n[[attach]]\nto = \"filter:{filter}\"\ncall = \"own.js#{name}\"\n"));
    let sent = sower.slip("filter", &filter, &manifest);
    sower.page.push_str(&format!("<em>{{{{ page.title | through(\"filter:{sent}\") }}}}</em>\n"));
    let returned = sower.or("returns nothing", "return `${value}.`;", "`${value}.`;", &name, "");
    sower.add(&code, &format!("export function {name}(value) {{ {returned} }}\n"));
}

/// A section with a piece of its own, and a shared one.
fn section(sower: &mut Sower) {
    let manifest = at(ROOT, "truehook.toml");
    let (section, inner, piece) = (sower.word(), sower.word(), sower.word());
    let held = sower.or("outlet gone", "{{ place(\"held\") }}", "", &section, &manifest);
    sower.add(&manifest, &format!("\n[section.{section}]\nlabel = \"S\"\nholds = [\"piece:{piece}\"]\noffer = [{{ label = \"One\" }}]\n[section.{section}.piece.{inner}]\nlabel = \"I\"\n\n[piece.{piece}]\nlabel = \"P\"\n"));
    sower.add(&at(ROOT, &format!("markup/sections/{section}.html")), &format!("<section>{held}</section>\n"));
    sower.add(&at(ROOT, &format!("markup/sections/{section}/{inner}.html")), "<small>own</small>\n");
    sower.add(&at(ROOT, &format!("markup/pieces/{piece}.html")), "<small>shared</small>\n");
    let twice = sower.or("sections twice", "", "{{ place(\"sections\") }}", "sections", "");
    sower.page.push_str(&format!("{{{{ place(\"sections\") }}}}{twice}\n"));
    let (used, own, shared) = (
        sower.slip("section used", &section, &manifest),
        sower.slip("inner piece", &inner, &manifest),
        sower.slip("piece held", &piece, &manifest),
    );
    sower.add(&at(ROOT, "preview/pages/about.toml"), &format!("path = \"/about/\"\ntype = \"page\"\ntitle = \"About\"\nsections = [ {{ use = \"section:{used}\", holds = [ {{ use = \"piece:{own}\" }}, {{ use = \"piece:{shared}\" }} ] }} ]\n"));
}

/// A menu spot, filled with a menu whose entries lead to pages.
fn menu(sower: &mut Sower) {
    let manifest = at(ROOT, "truehook.toml");
    let (spot, menu) = (sower.word(), sower.word());
    let site = at(ROOT, "preview/site.toml");
    sower.add(&manifest, &format!("\n[menu.{spot}]\nlabel = \"M\"\n"));
    let placed = sower.slip("menu placed", &spot, &manifest);
    let bare = sower.or("menu argument", "true", "\"yes\"", "bare", &manifest);
    sower.page.push_str(&format!("{{{{ place(\"menu:{placed}\", bare={bare}) }}}}\n"));
    let path = sower.or("page linked", "/log/", "/lug/", "/lug/", "");
    sower.menus(&format!(
        "{menu} = [ {{ label = \"Front\", href = \"/\" }}, {{ label = \"Log\", href = \"{path}\" }} ]\n"
    ));
    let (filled, named) = (sower.slip("menu filled", &spot, &manifest), sower.slip("menu of the site", &menu, &site));
    sower.fill(&site, &format!("\"menu:{filled}\" = \"{named}\"\n"));
}

/// A block of the base's layout, which a type of page fills.
fn block(sower: &mut Sower) {
    let block = sower.word();
    let (region, manifest) = (sower.word(), at(BASE, "truehook.toml"));
    sower.add(&manifest, &format!("\n[region.{region}]\nlabel = \"R\"\n"));
    let layout = at(BASE, "markup/layout.html");
    let declared = sower.or("block renamed", &block, "zeppelin", &block, &at(ROOT, "markup/search.html"));
    sower.layout.push_str(&format!(
        "{{% block {declared} %}}<div>{{{{ place(\"region:{region}\") }}}} beside</div>{{% endblock %}}\n"
    ));
    let filled = sower.slip("block filled", &block, &layout);
    sower.add(
        &at(ROOT, "markup/search.html"),
        &format!("{{% extends \"page.html\" %}}\n{{% block {filled} %}}{{{{ super() }}}}<p>x</p>{{% endblock %}}\n"),
    );
    sower.add(&at(ROOT, "preview/pages/search.toml"), "path = \"/search/\"\ntype = \"search\"\ntitle = \"Search\"\n");
}

/// A template that is included, with a name that it sees, and a macro.
fn included(sower: &mut Sower) {
    let (file, local, library, name) = (sower.word(), sower.word(), sower.word(), sower.word());
    let page = at(ROOT, "markup/page.html");
    let included = at(ROOT, &format!("markup/{file}.html"));
    let seen = sower.slip("local name", &local, "");
    sower.add(&included, &format!("<p>{{{{ {seen} }}}} {{{{ page.title }}}}</p>\n"));
    let written = sower.slip("include", &file, &included);
    sower.page.push_str(&format!("{{% set {local} = site.title %}}{{% include \"{written}.html\" %}}\n"));
    let imported = sower.slip("macro", &name, "");
    sower.add(
        &at(ROOT, &format!("markup/{library}.html")),
        &format!("{{% macro {name}(words) %}}<u>{{{{ words }}}}</u>{{% endmacro %}}\n"),
    );
    sower
        .page
        .push_str(&format!("{{% from \"{library}.html\" import {imported} as shown %}}{{{{ shown(page.title) }}}}\n"));
    let _ = page;
}

/// A module that lends a function to another one.
fn library(sower: &mut Sower) {
    let (manifest, code) = (at(ROOT, "truehook.toml"), at(ROOT, "code/more.js"));
    let (lent, module, name) = (sower.word(), sower.word(), sower.word());
    let lender = at(ROOT, &format!("code/{module}.js"));
    sower.add(&lender, &format!("export function {lent}(words) {{ return `${{words}}!`; }}\n"));
    let (from, taken) = (sower.slip("module", &module, &lender), sower.slip("import", &lent, &lender));
    let global = sower.slip("global name", "String", "");
    let built_in = sower.or("not imported", "html, ", "", "html", "");
    sower.add(&code, &format!("import {{ {built_in}note as unused }} from \"truehook\";\nimport {{ {taken} as lent }} from \"./{from}.js\";\n\nexport const {name} = ({{ page }}) => html`<q>${{lent({global}(page.title))}}</q>`;\nexport const kept = unused;\n").replace(", note as unused", "").replace("note as unused", "").replace("export const kept = unused;\n", "").replace("html, ⟦⟧", "html⟦⟧"));
    sower.add(&manifest, &format!("\n[[attach]]\nto = \"hook:document-end\"\ncall = \"more.js#{name}\"\n"));
}

/// Messages and their translations.
fn message(sower: &mut Sower) {
    sower.add(&at(ROOT, "truehook.toml"), "\n[feature.translations]\n");
    sower.add(
        &at(ROOT, "words/de.po"),
        "msgid \"\"\nmsgstr \"Language: de\\nPlural-Forms: nplurals=2; plural=(n != 1);\\n\"\n",
    );
    let words = at(ROOT, "words/de.po");
    let (one, two) = (sower.word(), sower.word());
    let said = sower.slip("message", &one, &words);
    sower.page.push_str(&format!("<p>{{{{ \"Much {said} here\" | t }}}}</p>\n<p>{{{{ \"{{count}} {two}\" | t(plural=\"{{count}} {two}s\", count=2) }}}}</p>\n"));
    sower.add(&words, &format!("\nmsgid \"Much {one} here\"\nmsgstr \"Viel davon\"\n"));
    let count = sower.or("placeholder lost", "{count} Dinge", "Dinge", "count", "");
    let form = sower.or("form lost", &format!("msgstr[1] \"{count}\"\n"), "", &two, "");
    sower.add(
        &words,
        &format!(
            "\nmsgid \"{{count}} {two}\"\nmsgid_plural \"{{count}} {two}s\"\nmsgstr[0] \"{{count}} Ding\"\n{form}"
        ),
    );
}

/// A style sheet with a picture, a script that needs another.
fn asset(sower: &mut Sower) {
    let manifest = at(ROOT, "truehook.toml");
    let (sheet, picture, giver, user) = (sower.word(), sower.word(), sower.word(), sower.word());
    let file = sower.slip("asset file", &sheet, "");
    let need = sower.slip("need", "plain", "");
    sower.add(&manifest, &format!("\n[style.{sheet}]\nfile = \"{file}.css\"\nneeds = [\"style:{need}\"]\n"));
    let url = sower.slip("address in a style", &picture, "");
    sower.add(&at(ROOT, &format!("media/{sheet}.css")), &format!("body {{ background: url({url}.svg); }}\n"));
    sower.add(&at(ROOT, &format!("media/{picture}.svg")), "<svg/>");
    let asked = sower.slip("asset asked for", &picture, "");
    sower.page.push_str(&format!("<img src=\"{{{{ asset(\"media/{asked}.svg\") }}}}\" alt=\"\">\n"));
    let needs = sower.or("need unsaid", &format!("needs = [\"script:{giver}\"]\n"), "", &giver, "");
    sower.add(&manifest, &format!("\n[script.{giver}]\nfile = \"{giver}.js\"\ngives = [\"Sown{giver}\"]\n\n[script.{user}]\nfile = \"{user}.js\"\n{needs}"));
    sower.add(&at(ROOT, &format!("media/{giver}.js")), &format!("const Sown{giver} = {{ start() {{}} }};\n"));
    sower.add(&at(ROOT, &format!("media/{user}.js")), &format!("Sown{giver}.start();\n"));
}

/// A page whose text links to another one and shows a picture.
fn body(sower: &mut Sower) {
    let (page, picture) = (sower.word(), sower.word());
    let (link, file) =
        (sower.or("link in a text", "/log/", "/lgo/", "/lgo/", ""), sower.slip("picture in a text", &picture, ""));
    let named = sower.slip("body", &page, &at(ROOT, &format!("preview/pages/{page}.md")));
    let kind = sower.slip("type of page", "entry", "");
    let path = sower.or("path doubled", &format!("/{page}/"), "/", "/", "");
    sower.add(
        &at(ROOT, &format!("preview/pages/{page}.toml")),
        &format!("path = \"{path}\"\ntype = \"{kind}\"\ntitle = \"T\"\nbody = \"{named}.md\"\n"),
    );
    sower.add(
        &at(ROOT, &format!("preview/pages/{page}.md")),
        &format!("See [this]({link}) and ![that](media/{file}.svg).\n"),
    );
    sower.add(&at(ROOT, &format!("media/{picture}.svg")), "<svg/>");
}

/// A palette that a style sheet reads.
fn colour(sower: &mut Sower) {
    let manifest = at(ROOT, "truehook.toml");
    let (colour, sheet) = (sower.word(), sower.word());
    let feature = sower.slip("feature", "colours", "");
    let value = sower.or("colour", "#345678", "#34567", "#34567", "");
    sower.add(&manifest, &format!("\n[feature.{feature}]\npalette.{colour} = {{ label = \"C\", value = \"{value}\" }}\n\n[style.{sheet}]\nfile = \"{sheet}.css\"\n"));
    let read = sower.slip("custom property", &colour, &manifest);
    sower.add(&at(ROOT, &format!("media/{sheet}.css")), &format!("p {{ color: var(--colour-{read}); }}\n"));
}

/// What the base declares, and this theme builds on: a hook with a listener that it replaces, one that it
/// detaches, and an order.
fn inherited(sower: &mut Sower) {
    let (base, manifest) = (at(BASE, "truehook.toml"), at(ROOT, "truehook.toml"));
    let (code, own) = (at(BASE, "code/base.js"), at(ROOT, "code/own.js"));
    let (hook, first, second, third, new) = (sower.word(), sower.word(), sower.word(), sower.word(), sower.word());
    sower.released.extend([hook.clone(), second.clone()]);
    let renamed = sower.or("release renames a hook", &hook, "zeppelin", &hook, &manifest);
    sower.add(&base, &format!("\n[hook.{renamed}]\nabout = \"H\"\n"));
    let placed =
        sower.or("release drops a placement", &format!("{{{{ place(\"hook:{hook}\") }}}}\n"), "", &hook, &manifest);
    sower.layout.push_str(&placed);
    sower.add(&code, "import { html } from \"truehook\";\n");
    for name in [&first, &second] {
        sower.add(&base, &format!("\n[[attach]]\nto = \"hook:{hook}\"\ncall = \"base.js#{name}\"\n"));
        sower.add(&code, &format!("export const {name} = () => html`<i>{name}</i>`;\n"));
    }
    let gone = sower.slip("detached", &first, &base);
    let from = sower.or("layer lost", "shore:", "", &first, &base);
    sower.add(&manifest, &format!("\n[[detach]]\nfrom = \"hook:{hook}\"\ncall = \"{from}base.js#{gone}\"\n"));
    let (old, with) = (sower.slip("replaced", &second, &base), sower.slip("replacement", &new, &own));
    sower.add(&manifest, &format!("\n[[replace]]\ncall = \"shore:base.js#{old}\"\nwith = \"own.js#{with}\"\n"));
    let after = sower.slip("order", &new, "");
    sower.add(
        &manifest,
        &format!("\n[[attach]]\nto = \"hook:{hook}\"\ncall = \"own.js#{third}\"\nafter = [\"own.js#{after}\"]\n"),
    );
    sower.add(
        &own,
        &format!(
            "export const {new} = () => html`<b>{new}</b>`;\nexport const {third} = () => html`<b>{third}</b>`;\n"
        ),
    );
}

impl Sower {
    fn table(&mut self, header: &str, text: &str) {
        let site = self.texts.entry(at(ROOT, "preview/site.toml")).or_default();
        match site.find(header) {
            Some(start) => site.insert_str(start + header.len(), text),
            None => {
                site.push_str(header);
                site.push_str(text);
            }
        }
    }

    fn fill(&mut self, _: &str, text: &str) {
        self.table("\n[fill]\n", text);
    }

    fn menus(&mut self, text: &str) {
        self.table("\n[menus]\n", text);
    }

    fn options(&mut self, text: &str) {
        self.table("\n[options]\n", text);
    }

    fn data(&mut self, text: &str) {
        self.table("\n[data]\n", text);
    }
}
