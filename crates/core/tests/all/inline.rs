//! Scripts in the markup itself: they count like those in files, and have to come after what they use.

use super::restraint::told;

const DIAL: &str = "[script.dial]\nfile = \"dial.js\"\ngives = [\"Dial\"]\n";

/// What is told of a theme with a script that gives `Dial`, and a page with a script in its markup.
fn with(manifest: &str, script: &str) -> Vec<String> {
    let mut told = told(&[
        ("truehook.toml", manifest.to_string()),
        ("media/dial.js", "window.Dial = { turn() {} };\n".into()),
        ("markup/page.html", super::restraint::page(script)),
    ]);
    // Where no manifest declares the script.
    told.retain(|rule| rule != "idle-file");
    told
}

#[test]
fn a_script_in_the_markup_comes_after_what_it_uses_at_once() {
    let head = format!("{DIAL}at = \"head\"\n");
    for early in [
        "<script>Dial.turn();</script>",
        "<script>window.Dial.turn();</script>",
        "<script>(() => { Dial.turn(); })();</script>",
        "<script>(function () { Dial.turn(); }());</script>",
        "<script>\n  {% if page.title %}Dial.turn();{% endif %}\n</script>",
        "<script type=\"text/javascript\">const tides = {{ page.title }}; new Dial(tides);</script>",
        "<SCRIPT>Dial.turn()</SCRIPT>",
    ] {
        assert_eq!(with(DIAL, early), ["early-use"], "{early}");
        assert_eq!(with(&head, early), Vec::<String>::new(), "in the head: {early}");
    }
    for fine in [
        "<script>addEventListener(\"load\", () => Dial.turn());</script>",
        "<script>function later() { Dial.turn(); }</script>",
        "<script>if (window.Dial) window.Dial.turn();</script>",
        "<script>if (typeof Dial !== \"undefined\") Dial.turn();</script>",
        "<script type=\"module\">Dial.turn();</script>",
        "<script type=\"application/json\">{ \"Dial\": 1 }</script>",
        "<script>const Dial = { turn() {} }; Dial.turn();</script>",
        "<script>document.body.dataset.tide = \"{{ page.title }}\";</script>",
        "<p>Dial.turn()</p>",
    ] {
        assert_eq!(with(DIAL, fine), Vec::<String>::new(), "{fine}");
    }
}

#[test]
fn a_script_in_the_markup_uses_what_the_page_loads() {
    let later = "<script>addEventListener(\"load\", () => Dial.turn());</script>";
    // Only where a component asks for it: the page itself can't be sure of it.
    let asked = format!(
        "{DIAL}\n[partial.clock]\nneeds = [\"script:dial\"]\n\n[hook.notice]\nabout = \"A\"\n\n[[attach]]\nto = \"hook:notice\"\nuse = \"partial:clock\"\n"
    );
    let page = |script: &str| super::restraint::page(&format!("{{{{ place(\"hook:notice\") }}}}{script}"));
    let case = |script: &str, clock: &str| {
        told(&[
            ("truehook.toml", asked.clone()),
            ("media/dial.js", "window.Dial = { turn() {} };\n".into()),
            ("markup/partials/clock.html", clock.to_string()),
            ("markup/page.html", page(script)),
        ])
    };
    assert_eq!(case(later, "<p>x</p>\n"), ["unstated-need"]);
    assert_eq!(case("", &format!("<p>x</p>{later}\n")), Vec::<String>::new());
    // A file that is there, but is declared by nobody.
    assert_eq!(with("", later), ["unstated-need"]);
    // A slip of the pen.
    assert_eq!(with(DIAL, "<script>addEventListener(\"load\", () => Dail.turn());</script>"), ["unstated-need"]);
    // What no script is known to give is the browser's.
    assert_eq!(with(DIAL, "<script>console.log(navigator.language);</script>"), Vec::<String>::new());
}

#[test]
fn elements_in_capitals_are_elements() {
    for wrong in
        ["<IMG src=\"media/no.svg\" alt=\"\">", "<img SRC=\"media/no.svg\" alt=\"\">", "<Img Src=media/no.svg alt=x>"]
    {
        assert_eq!(with("", wrong), ["broken-address"], "{wrong}");
    }
}

#[test]
fn a_script_in_the_markup_that_does_not_parse_is_told_where_it_stands_alone() {
    assert_eq!(with("", "<script>let = ;</script>"), ["code-syntax"]);
    // What the template's own tags make of it is not known.
    assert_eq!(with("", "<script>let {{ page.title }} = ;</script>"), Vec::<String>::new());
}
