//! More beds: scripts in the markup, ignores, modules in folders, limits, what callbacks place and send, and what
//! overrides the base.

use super::beds::at;
use super::theme::{BASE, ROOT, Sower};

/// A script in the markup that uses what a script in a file gives.
pub fn inline(sower: &mut Sower) {
    let manifest = at(ROOT, "truehook.toml");
    let (script, global) = (sower.word(), sower.word());
    let file = sower.slip("script file", &script, "");
    sower.add(&manifest, &format!("\n[script.{script}]\nfile = \"{file}.js\"\ngives = [\"{global}Dial\"]\n"));
    sower.add(&at(ROOT, &format!("media/{script}.js")), &format!("window.{global}Dial = {{ turn() {{}} }};\n"));
    let used = sower.slip("global in the markup", &format!("{global}Dial"), "");
    let whole = sower.or(
        "used too early",
        &format!("addEventListener(\"load\", () => {used}.turn());"),
        &format!("{global}Dial.turn();"),
        &format!("{global}Dial"),
        &manifest,
    );
    sower.page.push_str(&format!("<script>{whole}</script>\n"));
}

/// A spot that is declared and placed nowhere, which the theme accepts.
pub fn accepted(sower: &mut Sower) {
    let manifest = at(ROOT, "truehook.toml");
    let spot = sower.word();
    sower.add(&manifest, &format!("\n[region.{spot}]\nlabel = \"Later\"\n"));
    let (rule, point) = (sower.slip("rule accepted", "unplaced-point", ""), sower.slip("point accepted", &spot, ""));
    sower.add(
        &manifest,
        &format!(
            "\n[[check.ignore]]\nrule = \"{rule}\"\npoint = \"region:{point}\"\nbecause = \"another build places it\"\n"
        ),
    );
}

/// Modules in folders, which place and send by themselves.
pub fn nested(sower: &mut Sower) {
    let manifest = at(ROOT, "truehook.toml");
    let (folder, module, lent, name) = (sower.word(), sower.word(), sower.word(), sower.word());
    let (partial, input, filter) = (sower.word(), sower.word(), sower.word());
    sower.add(&manifest, &format!("\n[partial.{partial}]\ninputs.{input} = {{ type = \"integer\", minimum = 1, maximum = 5 }}\n\n[filter.{filter}]\nvalue = {{ type = \"string\", enum = [\"ebb\", \"flood\"] }}\n"));
    sower.add(&at(ROOT, &format!("markup/partials/{partial}.html")), &format!("<p>{{{{ {input} }}}}</p>\n"));
    let lender = at(ROOT, &format!("code/{folder}/{module}.js"));
    let (placed, given) = (
        sower.slip("placed by a callback", &partial, &manifest),
        sower.slip("passed by a callback", &input, &manifest),
    );
    let number = sower.or("number passed by a callback", "3", "6", &input, &manifest);
    let sent = sower.slip("sent by a callback", &filter, &manifest);
    let value = sower.slip("value sent", "ebb", &manifest);
    sower.add(
        &lender,
        &format!("import {{ html, place, through }} from \"truehook\";\n\nexport const {lent} = () => html`${{place(\"partial:{placed}\", {{ {given}: {number} }})}}<i>${{through(\"filter:{sent}\", \"{value}\")}}</i>`;\n"),
    );
    let (from, taken) =
        (sower.slip("module in a folder", &module, &lender), sower.slip("import of a folder", &lent, &lender));
    let user = at(ROOT, &format!("code/{folder}/shown.js"));
    sower.add(
        &user,
        &format!("import {{ {taken} as lent }} from \"./{from}.js\";\n\nexport const {name} = () => lent();\n"),
    );
    let path = sower.slip("folder of a module", &folder, "");
    sower.add(&manifest, &format!("\n[[attach]]\nto = \"hook:document-end\"\ncall = \"{path}/shown.js#{name}\"\n"));
    sower.add(&manifest, &format!("\n[[attach]]\nto = \"filter:{filter}\"\ncall = \"{folder}/shown.js#sent{name}\"\n"));
    let returned = sower.slip("value of a filter", "flood", &manifest);
    sower.add(&user, &format!("export const sent{name} = (value) => (value === \"ebb\" ? value : \"{returned}\");\n"));
}

/// A partial of the base whose template this theme writes anew, and an input that it gives another default.
pub fn overriding(sower: &mut Sower) {
    let (base, manifest) = (at(BASE, "truehook.toml"), at(ROOT, "truehook.toml"));
    let (partial, one, two) = (sower.word(), sower.word(), sower.word());
    sower.add(&base, &format!("\n[partial.{partial}]\ninputs.{one} = {{ type = \"string\", default = \"Sand\" }}\ninputs.{two} = {{ type = \"integer\", default = 1 }}\n"));
    sower.add(
        &at(BASE, &format!("markup/partials/{partial}.html")),
        &format!("<p>{{{{ {one} }}}} {{{{ {two} }}}}</p>\n"),
    );
    let left = sower.or("input left out", &format!("<b>{{{{ {two} }}}}</b>"), "", &two, "");
    let read = sower.slip("input of the base", &one, &base);
    sower.add(&at(ROOT, &format!("markup/partials/{partial}.html")), &format!("<div>{{{{ {read} }}}} {left}</div>\n"));
    let retyped = sower.or(
        "type changed",
        "",
        &format!("\n[partial.{partial}]\ninputs.{two} = {{ type = \"string\", default = \"one\" }}\n"),
        &two,
        &base,
    );
    sower.add(&manifest, &retyped);
    sower.page.push_str(&format!("{{{{ place(\"partial:{partial}\", {two}=4) }}}}\n"));
}

/// Several things behind guards, in a loop, and behind a condition on the type of the page.
pub fn guarded(sower: &mut Sower) {
    let manifest = at(ROOT, "truehook.toml");
    let (hook, partial, input, name) = (sower.word(), sower.word(), sower.word(), sower.word());
    sower.add(&manifest, &format!("\n[hook.{hook}]\nabout = \"H\"\n\n[partial.{partial}]\ninputs.{input} = {{ type = \"string\" }}\n\n[[attach]]\nto = \"hook:{hook}\"\ncall = \"own.js#{name}\"\n"));
    sower.add(&at(ROOT, "code/own.js"), &format!("export const {name} = () => html`<i>{name}</i>`;\n"));
    sower.add(&at(ROOT, &format!("markup/partials/{partial}.html")), &format!("<li>{{{{ {input} }}}}</li>\n"));
    let (asked, placed) =
        (sower.slip("guard", &hook, &manifest), sower.slip("placed behind a guard", &hook, &manifest));
    sower.page.push_str(&format!(
        "{{% if filled(\"hook:{asked}\") %}}<div>{{{{ place(\"hook:{placed}\") }}}}</div>{{% endif %}}\n"
    ));
    let (each, given) = (sower.slip("placed in a loop", &partial, &manifest), sower.slip("loop variable", "word", ""));
    sower.page.push_str(&format!("<ul>{{% for word in [\"ebb\", \"flood\"] %}}{{{{ place(\"partial:{each}\", {input}={given}) }}}}{{% endfor %}}</ul>\n"));
    let typed = sower.slip("type in a guard", "list", "");
    sower.page.push_str(&format!("{{% if page.type != \"{typed}\" %}}<s>other</s>{{% endif %}}\n"));
}
