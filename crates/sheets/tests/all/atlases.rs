//! Atlases are searched, and read on any window.

use crate::browser::{Window, checker};
use crate::themes::{Themes, many};

#[test]
fn what_is_searched_for_in_an_atlas_stays() {
    let Some(window) = Window::open(1280, 800) else { return };
    window.open_file(&Themes::demo().open("foreshore").atlas(), "!!document.querySelector('.entry')");
    let shown = |window: &Window| -> Vec<String> {
        window.ask(
            "return [...document.querySelectorAll('.entry')].filter((one) => one.checkVisibility()).map((one) => one.id);",
        )
    };
    let all = shown(&window);
    assert!(all.len() > 30, "{all:?}");
    window.ask::<Option<bool>>("document.querySelector('#find').focus();");
    window.write("masthead ribbon");
    window.wait("document.querySelector('#found').textContent.startsWith('1 of ')");
    assert_eq!(shown(&window), ["hook-under-masthead"]);
    let index: Vec<String> = window.ask(
        "return [...document.querySelectorAll('.index a')].filter((one) => one.checkVisibility()).map((one) => one.hash);",
    );
    assert_eq!(index, ["#hook-under-masthead"]);
    // Each place on a plan leads to its entry.
    let astray: Vec<String> = window.ask(
        "return [...document.querySelectorAll('a[href^=\\'#\\']')].map((one) => one.hash.slice(1)).filter((id) => !document.getElementById(id));",
    );
    assert_eq!(astray, [""; 0]);
}

#[test]
fn an_atlas_fits_narrow_windows_and_an_accessibility_checker_finds_nothing() {
    let Some(window) = Window::open(390, 844) else { return };
    let checker = checker();
    for (themes, theme) in [(Themes::demo(), "foreshore"), (Themes::demo(), "saltmarsh"), (many(), "quay")] {
        window.resize(390, 844);
        window.open_file(&themes.open(theme).atlas(), "!!document.querySelector('.entry')");
        let wide: u32 = window.ask("return document.documentElement.scrollWidth;");
        assert!(wide <= 390, "{theme}: {wide}");
        if let Some(checker) = checker.as_ref().filter(|_| theme != "quay") {
            assert_eq!(window.violations(checker), [""; 0], "{theme}");
        }
    }
}

/// What stands between two marks, all of it.
fn between(text: &str, from: &str, to: &str) -> usize {
    text.split(from).skip(1).filter_map(|rest| Some(rest.split_once(to)?.0.len())).sum()
}

#[test]
fn the_styles_and_scripts_of_a_sheet_are_small() {
    let themes = Themes::demo();
    let staged = themes.open("saltmarsh");
    for file in [staged.map("/"), staged.desk().0, staged.atlas()] {
        let page = std::fs::read_to_string(&file).unwrap();
        let ours = between(&page, "<style>\n/* The colours of all that is ours", "</style>")
            + between(&page, "<script>\n", "</script>");
        assert!(ours > 5_000 && ours < 30_000, "{}: {ours}", file.display());
    }
}
