//! `new --from` on what plain pages are like: lists of links in any element, marks and links that differ, files from beside.

use crate::fixture::Terminal;

fn html(head: &str, body: &str, rest: &str) -> String {
    format!(
        "<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\">{head}</head>\n<body>\n{body}\n</body>{rest}</html>\n"
    )
}

/// The words and tags of a page's body, with its addresses left out.
fn shape(page: &str) -> String {
    let body = page.split_once("<body").map_or(page, |(_, body)| body);
    let addresses = without_addresses(body);
    addresses.split_whitespace().collect::<Vec<_>>().join(" ").replace("> <", "><")
}

/// A text without the values of `href` and `src`.
fn without_addresses(text: &str) -> String {
    let mut out = String::new();
    let mut rest = text;
    while let Some(at) = ["href=\"", "src=\""].iter().filter_map(|key| rest.find(key).map(|at| at + key.len())).min() {
        out.push_str(&rest[..at]);
        rest = &rest[at + rest[at..].find('"').unwrap_or(0)..];
    }
    out + rest
}

#[test]
fn lists_of_links_outside_of_a_nav_become_menus() {
    let header = |here: &str, anchor: &str| {
        let item = |name: &str, href: &str| {
            let mark = if here == name { " class=\"on\"" } else { "" };
            format!("<li{mark}><a href=\"{href}\"><span>{name}</span></a></li>")
        };
        format!(
            "<header><button data-opens=\"#links\">Menu</button><div id=\"links\"><ul>{}{}{}</ul></div></header>",
            item("Home", "index.html"),
            item("Rooms", "rooms.html"),
            item("Ask", anchor)
        )
    };
    let page = |title: &str, anchor: &str| {
        html(
            &format!("<title>{title}</title>"),
            &format!(
                "{}<main><h1>{title}</h1><a href=\"?sort=name\">Sort</a></main><footer>Hut</footer>",
                header(title, anchor)
            ),
            "",
        )
    };
    let (home, rooms) = (page("Home", "#ask"), page("Rooms", "index.html#ask"));
    let terminal = Terminal::empty("drawn").file("drawn/index.html", &home).file("drawn/rooms.html", &rooms);
    terminal
        .types_in("", "new hut --from drawn/index.html drawn/rooms.html")
        .ends(0)
        .says("menu:site, filled with the menu site of the preview");
    terminal.types_in("hut", "check").ends(0);
    let layout = terminal.read("hut/markup/layout.html");
    assert!(layout.contains("<header>") && layout.contains("filled(\"menu:site\")"), "{layout}");
    for (path, before) in [("/", &home), ("/rooms.html", &rooms)] {
        let after = terminal.types_in("hut", &format!("render {path}")).ends(0).stdout;
        assert_eq!(shape(&after), shape(before), "{path}");
    }
    terminal.types_in("hut", "render /rooms.html").says("href=\"/rooms.html?sort=name\"").says("href=\"/#ask\"");
}

#[test]
fn what_differs_in_marks_and_links_is_asked_of_the_page() {
    let page = |name: &str, more: &str, rest: &str| {
        let link = |to: &str, file: &str| {
            let mark = if to == name { format!(" class=\"on\"{more}") } else { String::new() };
            format!("<li><a href=\"{file}\"{mark}>{to}</a><ul><li><a href=\"#{to}\">Down</a></li></ul></li>")
        };
        let links = [link("A", "index.html"), link("B", "b.html"), link("C", "c.html")].concat();
        html(
            &format!("<title>{name}</title>"),
            &format!("<nav><ul>{links}</ul></nav>\n<main><h1>{name}</h1></main>"),
            rest,
        )
    };
    let rear = "\n<script>console.log(1)</script>\n";
    let pages = [
        ("index.html", page("A", "", "")),
        ("b.html", page("B", "", rear)),
        ("c.html", page("C", " aria-current=\"page\"", "")),
    ];
    let terminal = pages
        .iter()
        .fold(Terminal::empty("drawn"), |terminal, (file, text)| terminal.file(&format!("drawn/{file}"), text));
    terminal.types_in("", "new hut --from drawn/index.html drawn/b.html drawn/c.html").ends(0);
    terminal.types_in("hut", "check").ends(0);
    for (file, before) in &pages {
        let path = if *file == "index.html" { "/".to_string() } else { format!("/{file}") };
        let after = terminal.types_in("hut", &format!("render {path}")).ends(0).stdout;
        // Only in what order attributes stand is nobody's business.
        let sorted =
            |page: &str| page.replace(" aria-current=\"page\" class=\"on\"", " class=\"on\" aria-current=\"page\"");
        assert_eq!(sorted(&shape(&after)), sorted(&shape(before)), "{file}");
    }
    assert!(!terminal.read("hut/preview/pages/b.html").contains("<nav"), "the navigation is in the layout");
}

#[test]
fn what_was_left_is_told_and_files_from_beside_come_along() {
    let page = html(
        "<title></title><link rel=\"stylesheet\" href=\"../css/hut.css\"><script src=\"../js/hut.js\"></script>",
        "<main><form action=\"book.php\"></form><iframe src=\"https://maps.example/x\"></iframe><a href=\"gone.html\">Gone</a>\
         <a href=\"other.html\">Other</a></main>",
        "",
    );
    let terminal = Terminal::empty("drawn")
        .file("drawn/pages/index.html", &page)
        .file("drawn/pages/other.html", "<p>Other</p>")
        .file("drawn/pages/pic.png", "x")
        .file("drawn/css/hut.css", "b { background: url(../img/a.png), url('../pages/pic.png') }\n")
        .file("drawn/img/a.png", "x")
        .file("drawn/js/hut.js", "document.write('<img src=\"pic.png\">');\n");
    terminal
        .types_in("", "new hut --from drawn/pages/index.html")
        .ends(0)
        .says("a form, for book.php  →  that is not there; who answers it is not the theme's to say")
        .says("a frame, https://maps.example/x  →  it comes from elsewhere")
        .says("a link to gone.html  →  that is not there, as before")
        .says("a link to other.html  →  that page was not named; it comes along as a file, as it is");
    assert_eq!(
        terminal.read("hut/media/css/hut.css"),
        "b { background: url(../img/a.png), url('../pages/pic.png') }\n"
    );
    assert!(terminal.path("hut/media/pages/pic.png").is_file());
    assert!(terminal.path("hut/media/img/a.png").is_file() && terminal.path("hut/media/js/hut.js").is_file());
    assert!(terminal.read("hut/preview/pages/front.toml").contains("title = \"\""), "an empty title stays one");
    terminal.types_in("hut", "check").ends(0);
}
