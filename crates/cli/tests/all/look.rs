//! `list`, `show`, `render` and `demo`, as they are typed.

use crate::fixture::Terminal;

#[test]
fn listeners_run_in_order_filters_change_and_conditions_hold() {
    let terminal = Terminal::demo();
    let front = terminal.types("render /").ends(0);
    let winter = front.stdout.find("Winter: the northern hides").unwrap();
    let low = front.stdout.find("Low water at <strong>13:42</strong>").unwrap();
    assert!(winter < low, "`before` goes before the number");
    let front = front
        .says("<p class=\"site-line\">Tides, mud and birds, Merrowholm</p>")
        .says("<td>3.9 m</td>")
        .says("aria-current=\"page\">Today</a>")
        .says("<section class=\"footer-note\" aria-labelledby=\"footer-notes-1\"><h2 id=\"footer-notes-1\">");
    assert!(
        front.stdout.find("<h3>Open</h3>") > front.stdout.find("Seen something?"),
        "the arranger puts the hours last"
    );
    terminal
        .types("render /log/avocets-are-back/")
        .ends(0)
        .says("Written on <time datetime=\"2026-02-24\">24 February 2026</time>")
        .never_says("causeway")
        .never_says("Boots needed");
    terminal.types("render /visit/").ends(0).says("Boots needed");
    let summer = Terminal::demo().replace("saltmarsh/preview/site.toml", "season = \"winter\"", "season = \"summer\"");
    summer.types("render /").ends(0).never_says("Winter:");
}

#[test]
fn pages_go_into_a_folder_with_what_they_refer_to() {
    let terminal = Terminal::demo();
    terminal.types("render --into ../site").ends(0).says("../site/log/avocets-are-back/index.html");
    for file in ["index.html", "visit/index.html", "saltmarsh/media/cover.svg", "foreshore/media/foreshore.css"] {
        assert!(terminal.path("site").join(file).exists(), "{file}");
    }
    let visit = terminal.read("site/visit/index.html");
    assert!(visit.contains("href=\"../foreshore/media/foreshore.css?print="), "{visit}");
    terminal.types("render --into .").ends(2).says("is the theme's own folder");
    terminal.types("render").ends(2).says("say which page");
    let json = terminal.types("render /visit --format json").ends(0);
    let view: serde_json::Value = serde_json::from_str(&json.stdout).unwrap();
    assert_eq!(view["pages"][0]["path"], "/visit/");
    assert!(view["pages"][0]["html"].as_str().unwrap().contains("Visiting the station"));
}

#[test]
fn text_from_outside_can_not_break_out() {
    let terminal = Terminal::new()
        .manifest("[partial.note]\ninputs.text = { type = \"string\" }\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"notes.js#echo\"\n")
        .file("marsh/markup/partials/note.html", "<p title=\"{{ text }}\">{{ text }}</p>\n")
        .file("marsh/code/notes.js", "import { html, t } from \"truehook\";\nexport function echo({ page }) {\n  return html`<b title=\"${page.title}\">${page.title}</b>`;\n}\n")
        .file("marsh/preview/site.toml", "[fill]\n\"region:main\" = [ { use = \"partial:note\", text = \"</p><script>{{ site }}\\\"'\" } ]\n")
        .file("marsh/preview/pages/front.toml", "path = \"/\"\ntype = \"front\"\ntitle = \"<i>\\\"{{ 7 * 7 }}'\"\n");
    let escaped = "&lt;/p&gt;&lt;script&gt;{{ site }}&quot;&#39;";
    terminal
        .types("render /")
        .ends(0)
        .says(&format!("<p title=\"{escaped}\">{escaped}</p>"))
        .says("<b title=\"&lt;i&gt;&quot;{{ 7 * 7 }}&#39;\">&lt;i&gt;&quot;{{ 7 * 7 }}&#39;</b>")
        .never_says("49");
}

#[test]
fn values_survive_the_way_through_a_callback() {
    let terminal = Terminal::new()
        .manifest("[filter.same]\nabout = \"Anything\"\n\n[[attach]]\nto = \"filter:same\"\ncall = \"same.js#same\"\n")
        .file("marsh/code/same.js", "export function same(value) {\n  return value;\n}\n")
        .file(
            "marsh/markup/front.html",
            "{% extends \"layout.html\" %}\n{% block main %}{% set v = page.data | through(\"filter:same\") %}\
             [{{ v.text }}|{{ v.list | join(\"+\") }}|{{ v.deep.a.b }}|{{ v.whole + 1 }}|{{ v.part }}|{{ v.large }}|{{ v.date }}|{{ v.none }}|{{ v.yes }}]{{ super() }}{% endblock %}\n",
        )
        .file("marsh/preview/site.toml", "title = \"x\"\n")
        .file(
            "marsh/preview/pages/front.toml",
            "path = \"/\"\ntype = \"front\"\ntitle = \"x\"\n[data]\ntext = \"größe 🐦 \\u0001\"\nlist = [1, 2.5, \"c\"]\ndeep.a.b = \"found\"\n\
             whole = 41.0\npart = 0.5\nlarge = 9007199254740992\ndate = 2026-03-01T06:10:00Z\nyes = true\n",
        );
    terminal
        .types("render /")
        .ends(0)
        .says("[größe 🐦 \u{1}|1+2.5+c|found|42|0.5|9007199254740992|2026-03-01T06:10:00Z||true]");
}

#[test]
fn a_point_shows_its_chain() {
    let terminal = Terminal::demo();
    let show = |address: &str| terminal.types(&format!("show {address}")).ends(0);
    show("hook:under-tides")
        .says("Under a tide table")
        .says("args: low (string, needed)")
        .says("partials/tide-table.html:17")
        .says("reached by pages of type front")
        .says("50     saltmarsh   tides.js#walkTime");
    show("hook:under-masthead")
        .says("replaced by saltmarsh masthead.js#welcome")
        .says("off     foreshore   foreshore:masthead.js#themeRibbon detached by saltmarsh (truehook.toml:");
    show("hook:ahead-of-footer").says("sealed");
    show("hook:beside-masthead").says("retired with 3.0.0, use hook:under-masthead");
    show("region:tide-board").says("reserved: site editors are not offered it");
    show("menu:masthead").says("2 levels").says("everyday");
    show("option:scheme").says("one of \"by-daylight\", \"day\", \"night\" = \"by-daylight\"");
    show("filter:page-heading").says("the host sends it");
    show("hook:theme-chosen").says("a moment: the host fires it");
    show("piece:spotlight/caption").says("markup/sections/spotlight/caption.html");
    show("section:spotlight")
        .says("holds")
        .says("Spotlight with a note")
        .says("species (string), status (string)")
        .says("scheme (string)")
        .says("sections");
}

#[test]
fn one_point_is_fired_on_its_own() {
    let terminal = Terminal::demo();
    let fire = |typed: &str| terminal.types(&format!("fire {typed}"));
    fire("hook:under-masthead --page /visit/").ends(0).says("Winter").never_says("Low water");
    fire("filter:site-line value='Mud and birds.'").ends(0).says("\"Mud and birds, Merrowholm\"");
    fire("partial:tide-table days=2").ends(0).says("Monday").never_says("Tuesday").says("sets out at 12:12");
    fire("section:spotlight species=Redshank").ends(0).says("Forty along the channel").says("<section");
    fire("menu:masthead --page /log/avocets-are-back/")
        .ends(0)
        .says("<li class=\"leads-here\"><a href=\"/log/\">")
        .says("aria-current=\"page\">The avocets");
    fire("hook:theme-chosen").ends(0).says("in the site's store: {\"since\":\"2026-03-01T06:10:00Z\"}");
    fire("section:spotlight --steps").ends(0).says("species.js#whereNow").says("did    changed status: \"\" →");
    fire("partial:tide-table days=two").ends(2).says("`days` does not fit");
    fire("partial:tide-table days=0").ends(2).says("0 is less than 1, the minimum");
    fire("partial:tide-table dyas=2").ends(2).says("did you mean `days`?");
    fire("partial:date-line").ends(2).says("needs `date`");
    fire("filter:site-line").ends(2).says("value=…");
    fire("template:front").ends(2).says("truehook render");
    fire("option:scheme").ends(2).says("an option can't be fired");
    fire("hook:gone").ends(2).says("no layer declares `hook:gone`");
    fire("hook:under-masthead --page /none/").ends(2).says("there is no page /none/");
    let view = fire("filter:site-line value=Mud. --format json").ends(0);
    let view: serde_json::Value = serde_json::from_str(&view.stdout).unwrap();
    assert_eq!((&view["kind"], &view["output"]), (&"value".into(), &"\"Mud, Merrowholm\"".into()));
    assert_eq!(view["steps"][0]["before"], "\"Mud.\"");
    assert_eq!(view["steps"][0]["after"], "\"Mud\"");
    let broken =
        Terminal::demo().replace("saltmarsh/code/species.js", "return { ...inputs, status", "return { status: 3, old");
    broken
        .types("fire section:spotlight")
        .ends(1)
        .says("`status` is integer where string belongs")
        .says("<h2>Curlew</h2>");
}

#[test]
fn a_trace_tells_order_states_and_values() {
    let terminal = Terminal::demo()
        .replace("saltmarsh/code/masthead.js", "import { html, t } from", "import { html, note, t } from")
        .replace(
            "saltmarsh/code/masthead.js",
            "  return html`<p class=\"ribbon\">",
            "  note({ word: site.data.word });\n  return html`<p class=\"ribbon\">",
        );
    let said = terminal.types("trace /").ends(0).says("off, its condition does not hold").says("note  {\"word\":");
    let at = |text: &str| said.stdout.find(text).unwrap_or_else(|| panic!("lacks {text}"));
    assert!(at("masthead.js#welcome") < at("masthead.js#winterNotice"));
    assert!(at("masthead.js#winterNotice") < at("masthead.js#lowWaterNotice"));
    assert!(at("given  \"Tides, mud and birds.\"") < at("gave   \"Tides, mud and birds, Merrowholm\""));
    terminal.types("trace / --point filter:site-line").ends(0).says("2 steps at filter:site-line").never_says("hook:");
    terminal.types("trace /nowhere/").ends(2).says("there is no page");
    let view = terminal.types("trace / --point hook:under-masthead --format json").ends(0);
    let view: serde_json::Value = serde_json::from_str(&view.stdout).unwrap();
    assert_eq!(view["steps"].as_array().unwrap().len(), 3);
    assert_eq!(view["steps"][0]["state"], "ran");
    assert_eq!(view["steps"][0]["place"]["layer"], "foreshore");
    assert!(view["steps"][0]["milliseconds"].is_f64());
    let broken =
        Terminal::demo().replace("saltmarsh/code/masthead.js", "${site.data.word}", "${site.data.word.more.less}");
    broken.types("trace / --point hook:under-masthead").ends(1).says("failed").says("code/masthead.js:8");
}

#[test]
fn the_demo_walks_through_the_main_job() {
    let terminal = Terminal::new();
    terminal.types("demo --into walk").ends(2).says("lies in the theme's own folder");
    let said = terminal.types_in(".", "demo --into walk").ends(0);
    said.says("$ truehook check walk/foreshore walk/tide-kit walk/saltmarsh")
        .says("nothing wrong in foreshore")
        .says("why region:tide-board")
        .says("← here")
        .says("--in front.html --inside .board-card --dry-run")
        .says("+  <summary>{{ heading }}</summary>")
        .says("error[lost-placement]")
        .says("+    {{ place(\"region:tide-board\") }}")
        .says("more lines; type it yourself")
        .says("walk/site/visit/index.html");
    assert!(terminal.path("walk/site/index.html").exists());
    assert!(terminal.read("walk/site-de/index.html").contains("Zum Text springen"));
    terminal.types_in(".", "demo --into walk").ends(0);
    let terminal = terminal.file("walk/saltmarsh/code/cards.js", "// mine\n");
    terminal.types_in(".", "demo --into walk").ends(2).says("was changed since the demo was written");
    assert_eq!(terminal.read("walk/saltmarsh/code/cards.js"), "// mine\n");
}

#[test]
fn colour_is_only_for_those_who_ask() {
    let terminal = Terminal::demo();
    terminal.types("show region:aside").ends(0).never_says("\u{1b}[");
    let mut command = terminal.command("saltmarsh", "show region:aside");
    let output = command.env_remove("NO_COLOR").env("CLICOLOR_FORCE", "1").output().unwrap();
    assert!(String::from_utf8(output.stdout).unwrap().contains("\u{1b}["));
}

#[test]
fn the_texts_of_lower_layers_and_the_host_can_be_read() {
    let terminal = Terminal::demo();
    let hook = terminal.types("show hook:under-masthead --source").ends(0);
    // Those of both layers: what runs, what was replaced, and what was detached.
    hook.says("saltmarsh  code/masthead.js")
        .says("export function lowWaterNotice")
        .says("foreshore  code/masthead.js")
        .says("export function themeRibbon");
    terminal
        .types("show partial:search-box --source")
        .ends(0)
        .says("host  markup/partials/search-box.html")
        .says("<form");
    terminal.types("show layout.html --source").ends(0).says("foreshore  markup/layout.html").says("<!doctype html>");
    let front = terminal.types("show front.html --source --format json").ends(0);
    let view: serde_json::Value = serde_json::from_str(&front.stdout).unwrap();
    assert_eq!(view["sources"][0]["text"], terminal.read("saltmarsh/markup/front.html"));
    let none = terminal.types("show layuot.html --source").ends(2);
    assert!(none.stderr.contains("did you mean `layout.html`?"), "{}", none.stderr);
    terminal.types("show region:aside --source").ends(0);
}

#[test]
fn a_map_fits_its_window_and_shows_what_was_asked_for() {
    let terminal = Terminal::demo();
    let mut command = terminal.command("saltmarsh", "map /");
    command.env("COLUMNS", "60");
    let narrow = String::from_utf8(command.output().unwrap().stdout).unwrap();
    assert!(narrow.lines().all(|line| line.chars().count() <= 60), "{narrow}");
    let words = |text: &str| {
        text.split_whitespace().filter(|word| !"├└│".contains(*word)).map(str::to_string).collect::<Vec<_>>()
    };
    let wide = terminal.types("map /").ends(0).stdout;
    assert_eq!(words(&narrow), words(&wide), "nothing is lost in a narrow window");
    terminal
        .types("map /")
        .says("× foreshore:masthead.js#themeRibbon  90 foreshore  detached: saltmarsh took it away")
        .says("◌ station.js#withQuery  50 saltmarsh  off: when page.type == 'search'")
        .says("○ region:footer  Footer  empty: nothing fills it");
    terminal.types("map /log/ --kind menu").ends(0).says("menu:masthead").never_says("region:aside");
    terminal.types("map / --layer tide-kit").ends(0).says("hook:under-tides").never_says("hook:document-head");
    terminal.types("map / --depth 1").ends(0).says("in it").never_says("hook:under-masthead");
    terminal.types("map /lgo/").ends(2).says("did you mean `/log/`?");
    terminal.types("map / --kind regoin").ends(2).says("did you mean `region`?");
    terminal.types("map / --layer salt").ends(2).says("there are host, ");
}

#[test]
fn a_page_can_be_seen_without_a_point_or_a_callback() {
    let terminal = Terminal::demo();
    let whole = terminal.types("render /").ends(0).stdout;
    for (without, gone) in [
        ("region:aside", "Seen something?"),
        ("masthead.js#lowWaterNotice", "Low water"),
        ("piece:note", "Sunday walk"),
        ("hook:document-head", "<title>"),
    ] {
        assert!(whole.contains(gone), "{gone}");
        let said =
            terminal.types(&format!("render / --without {without}")).ends(0).says(&format!("+++ / without {without}"));
        assert!(said.stdout.lines().any(|line| line.starts_with('-') && line.contains(gone)), "{}", said.stdout);
        assert!(!said.stdout.lines().any(|line| line.starts_with('+') && line.contains(gone)), "{}", said.stdout);
    }
    terminal.types("render / --without filter:site-line").ends(0).says("Merrowholm");
    terminal
        .types("render /visit/ --without hook:under-tides")
        .ends(0)
        .says("/visit/ is the same without hook:under-tides");
    terminal.types("render / --without regoin:aside").ends(2).says("did you mean `region`?");
    terminal
        .types("render / --without masthead.js#lowWaterNotise")
        .ends(2)
        .says("did you mean `masthead.js#lowWaterNotice`?");
    terminal.types("render / --without region:aside --into x").ends(2).says("cannot be used with");
    let said = terminal.types("render / --without region:aside --format json").ends(0);
    let told: serde_json::Value = serde_json::from_str(&said.stdout).unwrap();
    assert!(told["pages"][0]["gone"].as_array().unwrap().len() > 5);
}

#[test]
fn the_theme_itself_is_shown_without_an_address() {
    let terminal = Terminal::demo();
    terminal.types("show").ends(0).is_as_kept("show-theme");
    let json = terminal.types("show --format json").ends(0);
    let view: serde_json::Value = serde_json::from_str(&json.stdout).unwrap();
    assert_eq!(view["theme"]["layers"][1]["name"], "foreshore");
    assert_eq!(view["theme"]["layers"][1]["wanted"], "^2");
    let points: u64 =
        view["theme"]["counts"].as_array().unwrap().iter().map(|count| count["all"].as_u64().unwrap()).sum();
    let all = terminal.types("list --all --format json").ends(0).stdout;
    let all: serde_json::Value = serde_json::from_str(&all).unwrap();
    let templates = all["points"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|point| point["address"].as_str().unwrap().starts_with("template:"));
    let idle = view["theme"]["counts"].as_array().unwrap().iter().find(|count| count["kind"] == "template").unwrap();
    // `list` tells of templates only where something is attached to them.
    let listed = all["points"].as_array().unwrap().len() as u64;
    assert_eq!(points, listed + idle["all"].as_u64().unwrap() - templates.count() as u64);
    terminal.types("show --source").ends(2);
}

#[test]
fn renderers_are_shown_layer_by_layer_and_the_one_in_force_is_the_one_that_renders() {
    let terminal = Terminal::demo();
    let stack = |terminal: &Terminal| -> Vec<(String, bool)> {
        let json = terminal.types("show partial:entry-card --format json").ends(0);
        let view: serde_json::Value = serde_json::from_str(&json.stdout).unwrap();
        let all = view["points"][0]["renderers"].as_array().unwrap().clone();
        all.iter().map(|one| (one["layer"].as_str().unwrap().into(), one["in_force"].as_bool().unwrap())).collect()
    };
    assert_eq!(stack(&terminal), [("foreshore".to_string(), true), ("host".to_string(), false)]);
    terminal.types("adopt partials/entry-card.html --copy").ends(0);
    let with = [("saltmarsh".to_string(), true), ("foreshore".to_string(), false), ("host".to_string(), false)];
    assert_eq!(stack(&terminal), with);
    let own = terminal.read("saltmarsh/markup/partials/entry-card.html");
    terminal.write("saltmarsh/markup/partials/entry-card.html", format!("<b>ours</b>{own}"));
    terminal.types("render /log/").ends(0).says("<b>ours</b>");
}

/// The lines of a text, sorted.
fn sorted(text: &str) -> Vec<String> {
    let mut lines: Vec<String> = text.lines().map(str::to_string).collect();
    lines.sort();
    lines
}

/// The lines of one text that are not in another, each as often as it is there more.
fn lacking(of: &str, other: &str) -> Vec<String> {
    let mut others = sorted(other);
    let mut left = sorted(of);
    left.retain(|line| match others.iter().position(|known| known == line) {
        Some(at) => {
            others.remove(at);
            false
        }
        None => true,
    });
    left
}

/// A manifest without the tables of that header, and of those below it.
fn without_table(text: &str, header: &str) -> String {
    let mut keeps = true;
    let lines = text.lines().filter(|line| {
        if line.starts_with('[') {
            keeps = !(line.starts_with(&format!("[{header}]")) || line.starts_with(&format!("[{header}.")));
        }
        keeps
    });
    lines.map(|line| format!("{line}\n")).collect()
}

/// Every manifest of the demo, and of what it builds on.
const MANIFESTS: [&str; 4] =
    ["saltmarsh/truehook.toml", "saltmarsh/points/species.toml", "foreshore/truehook.toml", "tide-kit/truehook.toml"];

#[test]
fn a_page_without_something_is_the_page_of_a_theme_that_does_not_have_it() {
    let mut different = 0;
    for (without, header, template) in [
        ("feature:colours", "feature.colours", None),
        ("feature:breadcrumbs", "feature.breadcrumbs", None),
        ("feature:share-cards", "feature.share-cards", None),
        ("feature:lettering", "feature.lettering", None),
        ("style:saltmarsh", "style.saltmarsh", None),
        ("style:foreshore", "style.foreshore", None),
        ("script:fold-memory", "script.fold-memory", None),
        ("option:scheme", "option.scheme", None),
        ("template:front", "template.front", Some("front.html")),
        ("template:list", "template.list", Some("list.html")),
    ] {
        for page in ["/", "/visit/", "/log/"] {
            let whole = Terminal::demo();
            let before = whole.types(&format!("render {page}")).stdout;
            let told = whole.types(&format!("render {page} --without {without} --format json")).ends(0).stdout;
            let told: serde_json::Value = serde_json::from_str(&told).unwrap();
            let lines = |key: &str| {
                let lines = told["pages"][0][key].as_array().unwrap().iter().map(|line| line.as_str().unwrap());
                lines.map(|line| format!("{}\n", line.trim_end_matches('\n'))).collect::<String>()
            };
            let less = Terminal::demo();
            for manifest in MANIFESTS {
                less.write(manifest, without_table(&less.read(manifest), header));
            }
            for layer in template.iter().flat_map(|_| ["saltmarsh", "foreshore", "tide-kit"]) {
                let _ = std::fs::remove_file(less.path(&format!("{layer}/markup/{}", template.unwrap())));
            }
            let after = less.types(&format!("render {page}")).stdout;
            assert_eq!(lacking(&lines("gone"), &lines("come")), lacking(&before, &after), "{page} without {without}");
            assert_eq!(lacking(&lines("come"), &lines("gone")), lacking(&after, &before), "{page} without {without}");
            different += usize::from(before != after);
        }
    }
    assert!(different > 15, "only {different} pages differ");
}
