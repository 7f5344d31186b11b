//! Whole sites: two languages, another host, and everything that pages refer to.

use std::collections::BTreeSet;
use std::fs;
use std::path::{Path, PathBuf};

use crate::fixture::Terminal;

/// All files below a folder.
fn files(folder: &Path) -> Vec<PathBuf> {
    let mut open = vec![folder.to_path_buf()];
    let mut found = Vec::new();
    while let Some(path) = open.pop() {
        match path.is_dir() {
            true => open.extend(fs::read_dir(path).unwrap().flatten().map(|entry| entry.path())),
            false => found.push(path),
        }
    }
    found.sort();
    found
}

/// The relative addresses in a page, a style sheet or a feed.
fn addresses(text: &str) -> Vec<String> {
    let mut found = Vec::new();
    for open in ["href=\"", "src=\"", "content=\"", "url(", "@import \""] {
        for (at, _) in text.match_indices(open) {
            let rest = &text[at + open.len()..];
            let end = rest.find(['"', ')', '\'']).unwrap_or(rest.len());
            let address = rest[..end].replace("&amp;", "&");
            let is_file = open != "content=\"" || address.contains("/media/");
            let elsewhere = address.starts_with(['/', '#']) || address.contains(':') || address.is_empty();
            if is_file && !elsewhere {
                found.push(address);
            }
        }
    }
    found
}

/// Addresses that lead to no file, each with the file that has it; and the files that are reached.
fn check_addresses(site: &Path) -> (Vec<String>, BTreeSet<PathBuf>) {
    let (mut dead, mut reached) = (Vec::new(), BTreeSet::new());
    for file in files(site) {
        let kind = file.extension().and_then(|kind| kind.to_str()).unwrap_or_default();
        if !["html", "css", "xml"].contains(&kind) {
            continue;
        }
        for address in addresses(&fs::read_to_string(&file).unwrap()) {
            let path = file.parent().unwrap().join(address.split(['?', '#']).next().unwrap());
            match path.canonicalize() {
                Ok(path) => drop(reached.insert(path)),
                Err(_) => dead.push(format!("{}: {address}", file.display())),
            }
        }
    }
    (dead, reached)
}

#[test]
fn two_hundred_pages_in_two_languages_and_every_address_leads_to_a_file() {
    let mut terminal = Terminal::demo();
    for at in 0..200 {
        let (folder, kind) = if at % 2 == 0 { ("log", "entry") } else { ("visit/walks", "page") };
        let lead = if at % 3 == 0 { "lead = { file = \"media/pictures/flock.svg\", alt = \"Birds\" }\n" } else { "" };
        let page =
            format!("path = \"/{folder}/{at}/\"\ntype = \"{kind}\"\ntitle = \"Page {at}\"\ndate = 2025-05-01\n{lead}");
        let page = if kind == "page" { page.replace("date = 2025-05-01\n", "") } else { page };
        terminal = terminal.file(&format!("saltmarsh/preview/pages/more-{at}.toml"), page);
    }
    for (language, said) in [("en", "Skip to the text"), ("de", "Zum Text springen")] {
        let output = terminal.types(&format!("render --language {language} --into ../{language}")).ends(0);
        assert!(output.stderr.is_empty(), "{}", output.stderr);
        let site = terminal.path(language);
        let pages = files(&site).into_iter().filter(|path| path.ends_with("index.html")).count();
        assert_eq!(pages, 208);
        for path in ["index.html", "log/0/index.html", "visit/walks/199/index.html"] {
            let page = terminal.read(&format!("{language}/{path}"));
            assert!(page.contains(said) && page.contains(&format!("lang=\"{language}\"")), "{path}");
        }
        let (dead, reached) = check_addresses(&site);
        assert_eq!(dead, [""; 0]);
        // What pages use and nothing else.
        let site = site.canonicalize().unwrap();
        let ours = |path: &Path| path.ends_with("index.html") || path.ends_with(".truehook-site");
        let idle: Vec<PathBuf> =
            files(&site).into_iter().filter(|path| !ours(path) && !reached.contains(path)).collect();
        assert!(idle.is_empty(), "{idle:#?}");
    }
    let feed = terminal.read("de/feed.xml");
    assert_eq!(feed.matches("<entry>").count(), 20, "the newest, as many as the feature says");
}

#[test]
fn a_language_that_the_theme_does_not_speak_is_refused() {
    let terminal = Terminal::demo();
    terminal.types("render / --language xx").ends(2).says("no words in `xx`; there are en, de");
    terminal.types("render / --language ../de").ends(2).says("is not the code of a language");
    terminal.types("render / --language de-CH").ends(0).says("Zum Text springen");
}

#[test]
fn only_the_theme_s_own_texts_are_emitted_with_their_places() {
    let said = Terminal::demo().types("emit messages").ends(0);
    let pot = &said.stdout;
    assert!(pot.contains("\"Project-Id-Version: saltmarsh 1.3.0\\n\"") && pot.contains("charset=UTF-8"), "{pot}");
    assert!(pot.contains("#: code/station.js:28\nmsgid \"Low {time}\"\nmsgstr \"\""), "{pot}");
    assert!(!pot.contains("Skip to the text"), "that is the base's");
    let base = Terminal::demo().types_in("foreshore", "emit messages").ends(0);
    assert!(
        base.stdout
            .contains("msgid \"{count} entry\"\nmsgid_plural \"{count} entries\"\nmsgstr[0] \"\"\nmsgstr[1] \"\"")
    );
    assert!(base.stdout.contains("Project-Id-Version: foreshore 2.1.0"), "the domain of the feature");
    let twice = Terminal::demo().types_in("foreshore", "emit messages").ends(0).stdout;
    assert_eq!(twice.matches("msgid \"Search\"").count(), 1);
    assert!(twice.contains("#: markup/missing.html:6\n#: markup/search.html:5"), "{twice}");
}

#[test]
fn a_script_whose_need_is_not_stated_is_found_before_any_browser_sees_it() {
    let terminal = Terminal::demo().replace("tide-kit/truehook.toml", "needs = [\"script:page-loaded\"]\n", "");
    terminal
        .types_in("tide-kit", "check")
        .ends(1)
        .finds_only("unstated-need", "media/clock-hand.js:12:1")
        .says("`script:clock-hand` uses `PageLoaded`, which only `script:page-loaded` gives")
        .says("add needs = [\"script:page-loaded\"] to [script.clock-hand]");
    let guarded = Terminal::demo().replace("tide-kit/truehook.toml", "needs = [\"script:page-loaded\"]\n", "").replace(
        "tide-kit/media/clock-hand.js",
        "PageLoaded(() => {",
        "if (typeof PageLoaded === \"function\") PageLoaded(() => {",
    );
    guarded.types_in("tide-kit", "check").ends(0);
}

#[test]
fn assets_and_features_are_shown_with_who_asks_and_what_feeds() {
    let terminal = Terminal::demo();
    terminal
        .types("show script:clock-hand")
        .ends(0)
        .says("partial:tide-dial")
        .says("pages of type front")
        .says("ClockHand");
    terminal.types("show style:saltmarsh").ends(0).says("the theme itself").says("every page");
    terminal.types("show script:disclosure").ends(0).says("partial:masthead").says("at the page's end");
    terminal
        .types("show feature:colours")
        .ends(0)
        .says("switched              on")
        .says("media/saltmarsh.css:3")
        .says("#463a30");
    terminal.types("show feature:lettering --format json").ends(0).says("\"on\": true").says("\"feeds\"");
    terminal.types("list feature").ends(0).says("feature:host-parts");
    terminal.types("list script --page /visit/").ends(0).says("script:disclosure").never_says("script:clock-hand");
    terminal.types("show style:nothing").ends(2).says("no layer declares `style:nothing`");
}

#[test]
fn declaring_says_what_is_still_to_do() {
    let terminal = Terminal::new().file("marsh/media/tide.css", "table { width: 100%; }\n");
    terminal
        .types("declare style:tide file=tide.css")
        .ends(0)
        .says("+ [style.tide]")
        .never_says("next:")
        .never_says("advice:");
    terminal.types("check").ends(0);
    terminal.types("declare feature:breadcrumbs").ends(0).says("advice: use what it feeds");
    terminal.types("declare feature:breadcrumb").ends(2).says("the host does not offer it");
    terminal.types("declare style:none file=../none.css").ends(2);
    assert!(!terminal.read("marsh/truehook.toml").contains("style.none"), "nothing was written");
}

#[test]
fn what_is_declared_comes_with_what_it_needs() {
    let terminal = Terminal::new();
    for (declare, made) in [
        ("region:small-print", ""),
        ("partial:tide-table inputs.days.type=integer inputs.days.default=2", "markup/partials/tide-table.html"),
        ("partial:dial render=dials.js#dial inputs.size.type=integer inputs.size.default=3", "code/dials.js"),
        ("piece:note inputs.text.type=string inputs.text.default=Boots", "markup/pieces/note.html"),
        (
            "section:band holds='[\"piece:note\"]' inputs.heading.type=string inputs.heading.default=Today",
            "markup/sections/band.html",
        ),
        ("piece:band/caption inputs.text.type=string inputs.text.default=Here", "markup/sections/band/caption.html"),
        ("style:tide", "media/tide.css"),
        ("script:dial file=js/dial.js", "media/js/dial.js"),
        ("area:notes wrap='<b id=\"{{ id }}\">{{ body }}</b>'", ""),
    ] {
        terminal.types(&format!("declare {declare}")).ends(0).says(made);
        if !made.is_empty() {
            assert!(!terminal.read(&format!("marsh/{made}")).is_empty(), "{declare}");
        }
    }
    let manifest = terminal.read("marsh/truehook.toml");
    assert!(
        manifest.contains("label = \"Small print\"") && manifest.contains("wrap = '<b id=\"{{ id }}\">"),
        "{manifest}"
    );
    // What shows where it is placed is what the keys say.
    terminal.types("place partial:tide-table partial:dial section:band --in layout.html --inside main").ends(0);
    let page = terminal.types("render /").ends(0);
    for shown in ["<p>2</p>", "<p class=\"dial\">3</p>", "<p>Today</p>"] {
        assert!(page.stdout.contains(shown), "{shown}: {}", page.stdout);
    }
    let left = terminal.types("check").findings();
    let only = |rule: &str| left.iter().all(|(head, _)| head.contains(rule));
    assert!(only("unplaced-point"), "only the region and the area are still to be placed: {left:#?}");
}

/// The demo's theme on a host that is quite unlike the standard one.
fn at_the_quay() -> Terminal {
    let terminal = Terminal::demo().replace(
        "saltmarsh/truehook.toml",
        "host       = { contract = \"standard\", version = \"1\" }",
        "host       = { contract = \"../quay\", version = \"3\" }",
    );
    let host = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/all/hosts/quay");
    files(Path::new(host)).into_iter().fold(terminal, |terminal, file| {
        let path = file.strip_prefix(host).unwrap().to_str().unwrap().to_string();
        terminal.file(&format!("quay/{path}"), fs::read(file).unwrap())
    })
}

#[test]
fn the_same_theme_on_another_host_is_told_what_that_one_lacks() {
    let terminal = at_the_quay();
    terminal.types_in("quay", "check").ends(0).says("nothing wrong in host");
    let said = terminal.types("check").ends(1);
    let mut rules: Vec<String> = said.findings().into_iter().map(|(head, _)| head).collect();
    rules.sort();
    let unknown = |rule: &str| rules.iter().filter(|head| head.contains(rule)).count();
    assert_eq!(unknown("unknown-feature"), 4, "lettering, pictures, cards, the writing view: {rules:#?}");
    assert_eq!(
        (unknown("unknown-key"), unknown("unknown-variable"), unknown("unknown-input")),
        (4, 1, 1),
        "{rules:#?}"
    );
    assert_eq!(rules.len(), 10, "{rules:#?}");
    said.says("the host does not offer it").says("below, in foreshore alone");
}

#[test]
fn the_same_theme_on_another_host_is_rendered_with_what_that_one_has() {
    let terminal = at_the_quay();
    let front = terminal.types("render /").ends(1);
    assert!(front.stderr.contains("site.banners"), "{}", front.stderr);
    for own in ["<menu class=\"site-nav\"", "quay-text", "quay-link", "<title>Today at Saltmarsh Field Station</title>"]
    {
        assert!(front.stdout.contains(own), "{own}\n{}", front.stdout);
    }
    assert!(
        front.stdout.contains("content=\"light\"") && front.stdout.contains("host/media/quay.css"),
        "{}",
        front.stdout
    );
    assert!(!front.stdout.contains("og:title") && !front.stdout.contains("siren"), "{}", front.stdout);
    assert!(front.stdout.find("ready.js") < front.stdout.find("open.js"));
    let entry = terminal.types("render /log/avocets-are-back/").stdout;
    assert!(entry.contains("<li><a href=\"/\">Home</a></li>"), "foreshore says how home is called: {entry}");
}

#[test]
fn a_feature_of_ones_own_has_arguments_a_default_and_what_it_feeds() {
    let manifest = |more: &str| {
        format!(
            "[theme]\nname = \"marsh\"\nlabel = \"Marsh\"\nversion = \"1.0.0\"\nhost = {{ contract = \"../quay\" }}\n{more}"
        )
    };
    let page = "{% extends \"layout.html\" %}\n{% block main %}{% if page.warning %}<p class=\"siren\">{{ page.warning }}</p>{% endif %}{{ super() }}{% endblock %}\n";
    let quay = at_the_quay()
        .file("marsh/markup/layout.html", crate::fixture::LAYOUT)
        .file("marsh/markup/page.html", page)
        .file(
            "marsh/preview/pages/front.toml",
            "path = \"/\"\ntype = \"front\"\ntitle = \"Front\"\nwarning = \"Gale\"\n",
        );
    let off = quay.file("marsh/truehook.toml", manifest(""));
    off.types_in("marsh", "check")
        .ends(1)
        .finds_only("feature-needed", "markup/page.html:2:23")
        .says("feature:storm-warning");
    assert!(!off.types_in("marsh", "render /").stdout.contains("Gale"), "it is not switched on");
    let on = off.file("marsh/truehook.toml", manifest("\n[feature.storm-warning]\nlevel = \"red\"\n"));
    on.types_in("marsh", "check").ends(0);
    on.types_in("marsh", "render /").ends(0).says("<p class=\"siren\">Gale</p>").says("host/media/siren.css");
    on.types_in("marsh", "show feature:storm-warning").ends(0).says("level = \"red\"");
    let wrong = on.file("marsh/truehook.toml", manifest("\n[feature.storm-warning]\nlevle = \"red\"\n"));
    wrong
        .types_in("marsh", "check")
        .ends(1)
        .finds_only("feature-arguments", "truehook.toml:8:9")
        .says("did you mean `level`?");
    let odd = wrong.file("marsh/truehook.toml", manifest("\n[feature.storm-warning]\nlevel = \"green\"\n"));
    odd.types_in("marsh", "check")
        .ends(1)
        .finds_only("feature-arguments", "truehook.toml:8:9")
        .says("this is no `level`");
}

/// What is between the first `open` and the next `close`, wherever that is.
fn between<'t>(text: &'t str, open: &str, close: char) -> Vec<&'t str> {
    text.match_indices(open).map(|(at, _)| text[at..].split(close).next().unwrap_or_default()).collect()
}

#[test]
fn the_demos_pages_say_what_readers_aids_and_validators_ask_for() {
    let terminal = Terminal::demo();
    terminal.types("render --into ../out").ends(0);
    let (mut dates, mut buttons) = (0, 0);
    for page in files(&terminal.path("out")).iter().filter(|file| file.extension().is_some_and(|end| end == "html")) {
        let html = fs::read_to_string(page).unwrap();
        for tag in between(&html, "<time", '>') {
            let date = tag.split("datetime=\"").nth(1).and_then(|rest| rest.split('"').next()).unwrap_or_default();
            let digits: Vec<usize> =
                date.split('-').map(|part| part.parse::<u32>().map_or(0, |_| part.len())).collect();
            assert_eq!(digits, [4, 2, 2], "{tag} in {}", page.display());
            dates += 1;
        }
        for tag in between(&html, "<button", '>') {
            assert!(tag.contains(" type=\""), "{tag} in {}", page.display());
            buttons += 1;
        }
        // Beside landmarks, the body holds a link to the text, and what is no content.
        let body = html.split("<body").nth(1).and_then(|body| body.split_once('>')).unwrap().1;
        let mut depth = 0;
        for tag in body.split('<').skip(1) {
            let name = tag.split([' ', '>', '\n']).next().unwrap();
            let void = ["img", "br", "input", "hr", "source", "link", "meta"].contains(&name) || tag.contains("/>");
            match name.strip_prefix('/') {
                Some(_) => depth -= 1,
                None if void || name.starts_with('!') => {}
                None => {
                    let landmark =
                        ["header", "nav", "main", "aside", "footer", "section", "form", "div", "a", "script"];
                    assert!(depth > 0 || landmark.contains(&name), "{name} in {}", page.display());
                    let named = name != "section" || tag.contains("aria-label");
                    assert!(depth > 0 || named, "{tag} in {}", page.display());
                    depth += 1;
                }
            }
        }
    }
    assert!(dates > 3 && buttons > 3, "{dates} {buttons}");
}
