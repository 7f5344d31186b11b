//! Desks show what site editors get, as it looks on the page.

use crate::browser::{Window, checker};
use crate::themes::{Themes, many};

const READY: &str = "!!document.querySelector('#plan')?.dataset.ready";

/// The size of an offer, and what can be read in it.
type Look = (f64, f64, String);

#[test]
fn an_offer_looks_as_it_does_on_the_page() {
    let Some(window) = Window::open_to_look(1280, 900) else { return };
    let themes = Themes::demo();
    let staged = themes.open("saltmarsh");
    let (desk, pages) = staged.desk();
    assert!(pages.len() >= 6, "{}", pages.len());
    window.open_file(&desk, READY);
    let number = pages.len();
    window.ask::<Option<bool>>("document.querySelectorAll('[data-offer]').forEach((one) => one.scrollIntoView());");
    window.wait(&format!("document.querySelectorAll('[data-offer][data-ready]').length === {number}"));
    let wide: Vec<u32> = window.ask(
        "return [...document.querySelectorAll('[data-offer] iframe')].map((one) => one.contentWindow.innerWidth);",
    );
    let looks: Vec<Look> = window.ask(
        "return [...document.querySelectorAll('[data-offer] iframe')].map((frame) => {
            const page = frame.contentDocument, comments = page.createTreeWalker(page, NodeFilter.SHOW_COMMENT), rects = [];
            let from, to;
            for (let comment; (comment = comments.nextNode());) {
              if (comment.data === 'truehook 0') from = comment;
              if (comment.data === '/truehook 0') to = comment;
            }
            for (let node = from.nextSibling; node !== to; node = node.nextSibling) {
              if (node.nodeType === 1) rects.push(node.getBoundingClientRect());
            }
            const least = (of) => Math.min(...rects.map(of)), most = (of) => Math.max(...rects.map(of));
            const width = most((one) => one.right) - least((one) => one.left), height = most((one) => one.bottom) - least((one) => one.top);
            const range = page.createRange();
            range.setStartAfter(from); range.setEndBefore(to);
            return [width, height, range.toString().replace(/\\s+/g, ' ').trim()];
        });",
    );
    for ((path, page), (wide, look)) in pages.iter().zip(wide.iter().zip(&looks)) {
        window.resize(*wide, 900);
        window.open_file(&staged.written(path, page), "true");
        // The whole region holds nothing else.
        let plain: Look = window.ask(
            "const box = document.querySelector('main').lastElementChild.getBoundingClientRect();
            return [box.width, box.height, document.querySelector('main').textContent.replace(/\\s+/g, ' ').trim()];",
        );
        assert!((plain.0 - look.0).abs() < 1.0 && (plain.1 - look.1).abs() < 1.0, "{plain:?} {look:?}");
        assert_eq!(plain.2, look.2);
    }
}

/// How two colours of sRGB stand out (WCAG 2.2).
fn contrast(a: [f64; 3], b: [f64; 3]) -> f64 {
    let light = |colour: [f64; 3]| {
        let part = |part: f64| {
            let part = part / 255.0;
            if part <= 0.04045 { part / 12.92 } else { ((part + 0.055) / 1.055).powf(2.4) }
        };
        0.2126 * part(colour[0]) + 0.7152 * part(colour[1]) + 0.0722 * part(colour[2])
    };
    let (a, b) = (light(a), light(b));
    (a.max(b) + 0.05) / (a.min(b) + 0.05)
}

fn colour(hex: &str) -> [f64; 3] {
    let hex = hex.trim_start_matches('#');
    [0, 2, 4].map(|at| f64::from(u8::from_str_radix(&hex[at..at + 2], 16).unwrap()))
}

#[test]
fn figures_of_contrast_are_those_of_the_standard_on_grounds_that_the_page_has() {
    let Some(window) = Window::open(1280, 900) else { return };
    let themes = Themes::demo();
    let staged = themes.open("saltmarsh");
    for scheme in ["light", "dark"] {
        window.scheme(scheme);
        window.open_file(&staged.desk().0, READY);
        let grounds: Vec<String> =
            window.ask("return [...document.querySelectorAll('.palette thead th')].slice(2).map((cell) => cell.textContent.replace('on ', ''));");
        let rows: Vec<Vec<String>> = window.ask(
            "return [...document.querySelectorAll('.palette tbody tr')].map((row) => [row.dataset.colour, ...[...row.querySelectorAll('b')].map((cell) => cell.textContent)]);",
        );
        // The theme's paper by day, and by night.
        let paper = if scheme == "light" { "#fbf8f1" } else { "#101c20" };
        assert!(grounds.iter().any(|ground| ground == paper), "{scheme} {grounds:?}");
        assert_eq!(rows.len(), 7);
        for row in rows {
            for (ground, figure) in grounds.iter().zip(&row[1..]) {
                let wanted = format!("{:.1}", contrast(colour(&row[0]), colour(ground)));
                assert_eq!(*figure, wanted, "{} on {ground}", row[0]);
            }
        }
    }
}

#[test]
fn a_desk_fits_narrow_windows_and_an_accessibility_checker_finds_nothing() {
    let Some(window) = Window::open(390, 844) else { return };
    let checker = checker();
    for (themes, theme) in [(Themes::demo(), "saltmarsh"), (Themes::demo(), "saltmarsh-broken"), (many(), "quay")] {
        window.resize(390, 844);
        window.open_file(&themes.open(theme).desk().0, READY);
        let wide: u32 = window.ask("return document.documentElement.scrollWidth;");
        assert!(wide <= 390, "{theme}: {wide}");
        if let Some(checker) = &checker {
            assert_eq!(window.violations(checker), [""; 0], "{theme}");
        }
    }
}

#[test]
fn an_offer_of_which_nothing_shows_says_so() {
    let Some(window) = Window::open(1280, 900) else { return };
    let themes = Themes::demo();
    // A note without its default heading: an element, and nothing in it.
    themes.write("foreshore/markup/pieces/note.html", "<div>{% if text %}<p>{{ text }}</p>{% endif %}</div>");
    window.open_file(&themes.open("foreshore").desk().0, READY);
    window.ask::<Option<bool>>("document.querySelectorAll('[data-offer]').forEach((one) => one.scrollIntoView());");
    window.wait("[...document.querySelectorAll('.is-blank')].length > 0");
    let blank: Vec<(String, bool)> = window.ask(
        "return [...document.querySelectorAll('.is-blank')].map((one) => [one.closest('.offer').querySelector('figcaption').textContent.trim(), getComputedStyle(one.querySelector('iframe')).visibility === 'hidden']);",
    );
    assert!(blank.iter().any(|(label, hidden)| label.starts_with("A note") && *hidden), "{blank:?}");
}
