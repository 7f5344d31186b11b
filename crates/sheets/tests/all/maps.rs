//! Maps lie over their pages, and change nothing of them.

use truehook_core::address::{Address, Kind};
use truehook_core::link::{Registry, Renderer};
use truehook_stage::Origin;

use crate::browser::{Window, checker};
use crate::themes::{Themes, many};

const READY: &str = "!!document.querySelector('#layer')?.dataset.drawn";

/// The boxes of all elements of a page, with their names.
const BOXES: &str = "return [...page.querySelectorAll('body, body *')].map((element) => {
    // What is folded away has no place: browsers lay it out when they please.
    if (!element.checkVisibility()) return element.localName;
    const { left, top, width, height } = element.getBoundingClientRect();
    return [element.localName, ...[left, top, width, height].map((number) => Math.round(number * 10))].join(' ');
});";

#[test]
fn no_box_of_a_page_is_elsewhere_under_its_map() {
    let Some(window) = Window::open_to_look(1280, 800) else { return };
    let themes = Themes::demo();
    let staged = themes.open("saltmarsh");
    let mut compared = 0;
    for page in staged.stage.pages() {
        for width in [1280, 390] {
            window.resize(width, 800);
            window.open_file(&staged.map(&page.path), READY);
            let [wide, high]: [u32; 2] =
                window.ask("const { innerWidth, innerHeight } = document.querySelector('#page').contentWindow; return [innerWidth, innerHeight];");
            let mapped: Vec<String> =
                window.ask(&format!("const page = document.querySelector('#page').contentDocument; {BOXES}"));
            window.resize(wide, high);
            window.open_file(&staged.plain(&page.path), "true");
            let plain: Vec<String> = window.ask(&format!("const page = document; {BOXES}"));
            assert_eq!(
                window.ask::<[u32; 2]>("const now = new Date(); return [now.getUTCFullYear(), now.getUTCHours()];"),
                [2031, 9]
            );
            assert!(plain.len() > 20, "{} {plain:?}", page.path);
            for (at, (plain, mapped)) in plain.iter().zip(&mapped).enumerate() {
                assert_eq!(plain, mapped, "{} {width} {at}", page.path);
            }
            assert_eq!(plain.len(), mapped.len());
            compared += plain.len();
        }
    }
    assert!(compared > 1500, "only {compared}");
}

/// What a script of a map needs to say where something is, in the page's own measure.
const WHERE: &str = "
    const frame = document.querySelector('#page'), page = frame.contentDocument, { scrollX, scrollY } = frame.contentWindow;
    const entries = (name) => [...document.querySelectorAll('.node')].filter((node) => node.querySelector('.name').textContent === name);
    const box = (node) => {
      const found = document.querySelector(`.box[data-n='${node.dataset.n}']`);
      if (!found) return null;
      const { left, top, width, height } = found.style, thin = found.classList.contains('is-line') || found.classList.contains('is-caret');
      return [...[left, top, width, height].map(parseFloat), thin ? (found.classList.contains('is-line') ? 'line' : 'caret') : 'box'];
    };
    const mark = (element) => {
      const { left, top, width, height } = element.getBoundingClientRect();
      return [left + scrollX, top + scrollY, width, height];
    };
";

type Box = (f64, f64, f64, f64, String);
type Mark = (f64, f64, f64, f64);

/// The boxes of a point on the map that is open, as often as it is there.
fn boxes(window: &Window, point: &str) -> Vec<Option<Box>> {
    window.ask(&format!("{WHERE} return entries('{point}').map(box);"))
}

fn holds(outer: &Box, (left, top, width, height): &Mark) -> bool {
    const ABOUT: f64 = 1.0;
    let (x, y, wide, high, _) = outer;
    x - ABOUT <= *left && y - ABOUT <= *top && left + width <= x + wide + ABOUT && top + height <= y + high + ABOUT
}

/// The same themes, with a mark as the last thing in a point; nothing where that can't be done by a theme.
fn marked(registry: &Registry, address: Address, display: &str) -> Option<Themes> {
    let themes = Themes::demo();
    let mark = format!("<i data-mark style='display:{display};width:9px;height:9px;margin:0;vertical-align:top'></i>");
    let manifest = themes.read("saltmarsh/truehook.toml");
    match address.kind {
        Kind::Hook => {
            let attach =
                format!("{manifest}\n[[attach]]\nto = \"{address}\"\ncall = \"mark.js#mark\"\npriority = 100\n");
            themes.write("saltmarsh/truehook.toml", attach);
            let code =
                format!("import {{ html }} from \"truehook\";\nexport function mark() {{ return html`{mark}`; }}\n");
            themes.write("saltmarsh/code/mark.js", code);
        }
        Kind::Region | Kind::Area => {
            let declared = format!(
                "{manifest}\n[partial.mark]\nlabel = \"Mark\"\n\n[[attach]]\nto = \"{address}\"\ncall = \"mark.js#mark\"\npriority = 100\n"
            );
            themes.write("saltmarsh/truehook.toml", declared);
            themes.write("saltmarsh/markup/partials/mark.html", mark);
            let code = "export function mark(items) { return [...items, { use: \"partial:mark\" }]; }\n";
            themes.write("saltmarsh/code/mark.js", code);
        }
        kind if kind.is_component() => {
            let Some(Renderer::Template(file)) = registry.point(address)?.renderer else { return None };
            let file = registry.project().file(file);
            let layer = registry.project().layer(file.layer).name;
            if layer == "host" {
                return None;
            }
            let path = format!("{layer}/{}", file.path);
            themes.write(&path, format!("{}{mark}", themes.read(&path).trim_end()));
        }
        _ => return None,
    }
    Some(themes)
}

#[test]
fn a_mark_in_a_point_is_where_the_map_says_that_the_point_is() {
    let Some(window) = Window::open_to_look(1280, 800) else { return };
    let themes = Themes::demo();
    let staged = themes.open("saltmarsh");
    let (page, _) = staged.page("/");
    let mut points: Vec<Address> = page
        .tree
        .segments
        .iter()
        .filter_map(|segment| if let Origin::Point(point) = segment.origin { Some(point) } else { None })
        .collect();
    points.sort();
    points.dedup();
    // An element ends the head, and so can't be in it.
    points.retain(|point| staged.registry.head_hook() != Some(*point));
    window.open_file(&staged.map("/"), READY);
    let empty: Vec<_> = points.into_iter().map(|point| (point, boxes(&window, &point.to_string()))).collect();
    let mut seen = 0;
    for (point, was) in empty {
        let thin = was.iter().flatten().map(|(.., thin)| thin.clone()).find(|thin| thin != "box");
        let display = if thin.as_deref() == Some("caret") { "inline-block" } else { "block" };
        let Some(themes) = marked(&staged.registry, point, display) else { continue };
        let staged = themes.open("saltmarsh");
        window.open_file(&staged.map("/"), READY);
        let marks: Vec<Mark> = window.ask(&format!(
            "{WHERE} return [...page.querySelectorAll('[data-mark]')].filter((one) => one.checkVisibility()).map(mark);"
        ));
        let now: Vec<Box> = boxes(&window, &point.to_string()).into_iter().flatten().collect();
        if now.is_empty() && marks.is_empty() {
            continue;
        }
        // The head has no face, and what is folded away is not to be seen.
        let shown: Vec<&Mark> =
            marks.iter().filter(|(left, top, width, height)| left + width > 0.0 && top + height > 0.0).collect();
        for mark in &shown {
            assert!(now.iter().any(|found| holds(found, mark)), "{point}: {mark:?} is in none of {now:?}");
        }
        seen += shown.len();
        if let (Some(_), [Some(was)], [mark]) = (thin, &was[..], &shown[..]) {
            let across = if was.4 == "caret" {
                was.1 - 2.0 < mark.1 && mark.1 < was.1 + was.3 + 2.0
            } else {
                (was.1 - mark.1).abs() < 2.0
            };
            assert!((was.0 - mark.0).abs() < 2.0 && across, "{point}: {was:?} was empty, {mark:?}");
        }
    }
    assert!(seen > 20, "only {seen}");
}

#[test]
fn each_point_is_on_the_page_or_in_the_strip_and_tags_lie_on_no_other() {
    let Some(window) = Window::open_to_look(1280, 800) else { return };
    let themes = Themes::demo();
    let staged = themes.open("saltmarsh");
    for page in staged.stage.pages() {
        for width in [1280, 390] {
            window.resize(width, 844);
            window.open_file(&staged.map(&page.path), READY);
            let twice: Vec<String> = window.ask(
                "return [...document.querySelectorAll('.node[data-kind]')].filter((node) => {
                    const n = node.dataset.n, count = (where) => document.querySelectorAll(`${where}[data-n='${n}']`).length;
                    return count('.tag') + count('.strip li') !== 1 || count('.tag') !== count('.box');
                }).map((node) => node.querySelector('.name').textContent);",
            );
            assert_eq!(twice, [""; 0], "{} at {width}", page.path);
            let overlaps: Vec<String> = window.ask(
                "const tags = [...document.querySelectorAll('.tag')].map((tag) => [tag, tag.getBoundingClientRect()]);
                return tags.flatMap(([a, x], at) => tags.slice(at + 1).filter(([, y]) => x.left < y.right - 1 && y.left < x.right - 1 && x.top < y.bottom - 1 && y.top < x.bottom - 1)
                    .map(([b]) => `${a.textContent} ${b.textContent}`));",
            );
            assert_eq!(overlaps, [""; 0], "{} at {width}", page.path);
            let wide: bool = window.ask("return document.documentElement.scrollWidth > innerWidth;");
            assert!(!wide, "{} is wider than {width}", page.path);
        }
    }
}

#[test]
fn five_hundred_points_are_mapped_scrolled_and_searched() {
    let Some(window) = Window::open_to_look(1280, 800) else { return };
    let themes = many();
    let staged = themes.open("quay");
    window.open_file(&staged.map("/"), READY);
    let [points, boxes]: [usize; 2] = window.ask(
        "return [document.querySelectorAll('.node[data-kind]').length, document.querySelectorAll('.box').length];",
    );
    assert!(points > 500 && boxes > 500, "{points} {boxes}");
    let longest: f64 = window.ask(
        "const tasks = [];
        new PerformanceObserver((list) => tasks.push(...list.getEntries().map((one) => one.duration))).observe({ type: 'longtask', buffered: true });
        const frame = document.querySelector('#page').contentWindow, find = document.querySelector('#find'), wait = (time) => new Promise((done) => setTimeout(done, time));
        for (let step = 0; step < 20; step++) { frame.scrollBy(0, 400); await wait(20); }
        for (const text of ['b', 'be', 'ber', '']) { find.value = text; find.dispatchEvent(new Event('input')); await wait(50); }
        document.querySelectorAll('a.row')[300].click();
        await wait(300);
        return Math.max(0, ...tasks);",
    );
    // How long tasks take is told, not judged: that is the machine's, too.
    println!("longest task: {longest} ms");
    let found: String = window.ask("return document.querySelector('#found').textContent;");
    assert_eq!(found, format!("{points} points"), "nothing is searched for any more");
    window.wait("document.activeElement.matches('.detail:target h2')");
}

#[test]
fn a_map_is_used_by_keyboard_alone() {
    let Some(window) = Window::open(1280, 800) else { return };
    let themes = Themes::demo();
    window.open_file(&themes.open("saltmarsh").map("/"), READY);
    window.press("Tab");
    let first: String = window.ask("return document.activeElement.className;");
    assert_eq!(first, "skip");
    window.press("Enter");
    window.press("Tab");
    let next: String = window.ask("return document.activeElement.id;");
    assert_eq!(next, "find");
    window.write("under-mast");
    window.wait("document.querySelector('#found').textContent.startsWith('1 of ')");
    for _ in 0..40 {
        window.press("Tab");
        if window.ask("return document.activeElement.matches('a.row');") {
            break;
        }
    }
    // The one that was searched for, from there with an arrow its first callback, and back.
    let row = "document.activeElement.querySelector('.name').textContent";
    let at = |window: &Window| -> String { window.ask(&format!("return {row};")) };
    assert_eq!(at(&window), "hook:under-masthead");
    let hot: String = window.ask("return document.querySelector('.tag.is-hot').textContent;");
    assert_eq!(hot, "hook:under-masthead");
    window.press("Enter");
    window.wait(
        "document.activeElement.localName === 'h2' && document.activeElement.textContent === 'hook:under-masthead'",
    );
    let steps: Vec<String> =
        window.ask("return [...document.querySelectorAll('.detail:target .step')].map((step) => step.dataset.step);");
    assert_eq!(
        steps,
        [
            "masthead.js#welcome",
            "masthead.js#winterNotice",
            "masthead.js#lowWaterNotice",
            "foreshore:masthead.js#themeRibbon"
        ]
    );
    let source: String = window.ask("return document.querySelector('.detail:target .step pre').textContent;");
    assert!(source.contains("export function welcome"), "{source}");
}

#[test]
fn what_is_empty_can_be_filled_with_samples() {
    let Some(window) = Window::open_to_look(1280, 800) else { return };
    let themes = Themes::demo();
    window.open_file(&themes.open("saltmarsh").map("/"), READY);
    let footer = || boxes(&window, "region:footer");
    let [Some(empty)] = &footer()[..] else { panic!("{:?}", footer()) };
    assert_eq!(empty.4, "line");
    window.ask::<Option<bool>>("document.querySelector('#samples').click();");
    window.wait("document.querySelector('#page').contentDocument.querySelector('footer .note, footer .tide-mark, footer details') !== null");
    // The boxes are drawn anew a moment later.
    window.wait(&format!("(() => {{ {WHERE} return entries('region:footer').map(box)[0]?.[4] === 'box'; }})()"));
    let [Some(filled)] = &footer()[..] else { panic!("{:?}", footer()) };
    assert!(filled.3 > 10.0, "{filled:?}");
}

#[test]
fn an_accessibility_checker_finds_nothing_in_maps() {
    let (Some(window), Some(checker)) = (Window::open(1280, 800), checker()) else { return };
    let broken = Themes::demo();
    broken.write(
        "saltmarsh/code/station.js",
        "export function withTides(items) { throw new Error('the gauge is silent'); }\n",
    );
    for (themes, theme) in
        [(Themes::demo(), "saltmarsh"), (broken, "saltmarsh"), (Themes::demo(), "saltmarsh-broken"), (many(), "quay")]
    {
        window.open_file(&themes.open(theme).map("/"), READY);
        window.ask::<Option<bool>>("document.querySelectorAll('a.row')[3].click(); document.querySelectorAll('details').forEach((one) => { one.open = true; });");
        assert_eq!(window.violations(&checker), [""; 0], "{theme}");
    }
}
