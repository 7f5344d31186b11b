//! Messages in the language of the page.

use std::sync::Arc;

use crate::small::{between, front, registry, theme};
use truehook_stage::Stage;

const ON: &str = "[feature.translations]\n";
const POLISH: &str = "msgid \"\"\nmsgstr \"\"\n\"Language: pl\\n\"\n\"Plural-Forms: nplurals=3; plural=(n==1 ? 0 : n%10>=2 && n%10<=4 && (n%100<10 || n%100>=20) ? 1 : 2);\\n\"\n\n\
                      msgid \"{count} tide\"\nmsgid_plural \"{count} tides\"\nmsgstr[0] \"{count} pływ\"\nmsgstr[1] \"{count} pływy\"\nmsgstr[2] \"{count} pływów\"\n";
const GERMAN: &str = "msgid \"\"\nmsgstr \"Language: de\\n\"\n\nmsgid \"Low water at {time}\"\nmsgstr \"Um {time} ist Niedrigwasser\"\n\n\
                      #, fuzzy\nmsgid \"Uncertain\"\nmsgstr \"Vielleicht\"\n\nmsgid \"Long \"\n\"text \\\"quoted\\\"\"\nmsgstr \"Langer \"\n\"Text „zitiert“\"\n";

/// What the front page shows between brackets, in a language, with what failed.
fn says(language: Option<&str>, template: &str, more: &[(&str, &str)]) -> String {
    let page = front(&format!("[{template}]"));
    let mut files = vec![("truehook.toml", ON), ("markup/front.html", page.as_str())];
    files.extend([("words/pl.po", POLISH), ("words/de.po", GERMAN)]);
    files.extend(more);
    let stage = Stage::in_language(Arc::new(registry(&theme(&files))), language);
    let rendered = stage.render("/").unwrap();
    assert_eq!(rendered.failures, [], "{}", rendered.html);
    between(&rendered.html)
}

#[test]
fn messages_are_in_the_site_s_language_or_as_they_stand() {
    let template = "{{ \"Low water at {time}\" | t(time=\"<13>\") }}";
    assert_eq!(says(None, template, &[]), "Low water at &lt;13&gt;");
    assert_eq!(says(Some("de"), template, &[]), "Um &lt;13&gt; ist Niedrigwasser");
    assert_eq!(says(Some("de-AT"), template, &[]), "Um &lt;13&gt; ist Niedrigwasser", "a kind of German");
    assert_eq!(says(Some("fr"), template, &[]), "Low water at &lt;13&gt;");
    let site = ("preview/site.toml", "title = \"S\"\nlanguage = \"de\"\n");
    assert_eq!(says(None, template, &[site]), "Um &lt;13&gt; ist Niedrigwasser");
}

#[test]
fn numbers_choose_the_form_by_the_language_s_own_rule() {
    let template =
        "{% for n in [0, 1, 2, 5, 12, 22] %}{{ \"{count} tide\" | t(plural=\"{count} tides\", count=n) }},{% endfor %}";
    assert_eq!(says(None, template, &[]), "0 tides,1 tide,2 tides,5 tides,12 tides,22 tides,");
    assert_eq!(says(Some("pl"), template, &[]), "0 pływów,1 pływ,2 pływy,5 pływów,12 pływów,22 pływy,");
    assert_eq!(says(Some("de"), template, &[]), "0 tides,1 tide,2 tides,5 tides,12 tides,22 tides,", "no entry");
}

#[test]
fn entries_that_are_uncertain_or_empty_are_not_used_and_long_ones_are_joined() {
    assert_eq!(says(Some("de"), "{{ \"Uncertain\" | t }}", &[]), "Uncertain");
    assert_eq!(says(Some("de"), "{{ 'Long text \"quoted\"' | t }}", &[]), "Langer Text „zitiert“");
}

#[test]
fn callbacks_translate_and_markup_stays_markup() {
    let manifest = "[feature.translations]\n\n[hook.here]\nabout = \"H\"\n\n[[attach]]\nto = \"hook:here\"\ncall = \"a.js#low\"\n\n[[attach]]\nto = \"hook:here\"\ncall = \"a.js#plain\"\n";
    let code = "import { html, t } from \"truehook\";\nexport const low = () => t(\"Low water at {time}\", { time: html`<b>13</b>` });\nexport const plain = () => t(\"Low water at {time}\", { time: \"<i>\" });\n";
    let more = [("truehook.toml", manifest), ("code/a.js", code)];
    assert_eq!(
        says(Some("de"), "{{ place(\"hook:here\") }}", &more),
        "Um <b>13</b> ist NiedrigwasserUm &lt;i&gt; ist Niedrigwasser"
    );
}

#[test]
fn higher_layers_say_it_in_their_own_words() {
    let base = "[theme]\nname = \"shore\"\nversion = \"1.0.0\"\nopen = true\n\n[feature.translations]\n";
    let top = "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\nbase = { path = \"../shore\" }\n";
    let below = "msgid \"\"\nmsgstr \"Language: de\\n\"\n\nmsgid \"Mud\"\nmsgstr \"Schlamm\"\n\nmsgid \"Uncertain\"\nmsgstr \"Ungewiss\"\n";
    let more = [("truehook.toml", top), ("../shore/truehook.toml", base), ("../shore/words/de.po", below)];
    assert_eq!(says(Some("de"), "{{ \"Mud\" | t }} {{ \"Uncertain\" | t }}", &more), "Schlamm Ungewiss");
}

#[test]
fn the_words_lie_where_the_feature_says() {
    let more = [
        ("truehook.toml", "[feature.translations]\nfolder = \"languages\"\n"),
        ("languages/de.po", "msgid \"\"\nmsgstr \"Language: de\\n\"\n\nmsgid \"Mud\"\nmsgstr \"Watt\"\n"),
    ];
    assert_eq!(says(Some("de"), "{{ \"Mud\" | t }}", &more), "Watt");
}

#[test]
fn without_the_feature_nothing_is_translated() {
    assert_eq!(
        says(Some("de"), "{{ \"Low water at {time}\" | t(time=1) }}", &[("truehook.toml", "")]),
        "Low water at 1"
    );
}

#[test]
fn placeholders_that_nothing_is_given_for_stay_and_braces_do_no_harm() {
    assert_eq!(says(None, "{{ \"{a} {b} { {} {a\" | t(a=1) }}", &[]), "1 {b} { {} {a");
}

#[test]
fn the_root_element_has_the_language() {
    let files = theme(&[("markup/front.html", "<html {{ page.root }}>[]{{ place(\"hook:document-head\") }}")]);
    let stage = Stage::in_language(Arc::new(registry(&files)), Some("de"));
    assert!(stage.render("/").unwrap().html.starts_with("<html lang=\"de\">"));
}
