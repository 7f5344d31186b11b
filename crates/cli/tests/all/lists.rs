//! Lists and tables: what is in them, in which order, and how they fit a window.

use crate::fixture::Terminal;

#[test]
fn lists_can_be_narrowed() {
    let terminal = Terminal::demo();
    terminal.types("list region").ends(0).says("region:tide-board").never_says("hook:");
    terminal.types("list --match tide").ends(0).says("partial:tide-table").never_says("partial:imprint");
    terminal.types("list --template front.html").ends(0).says("region:tide-board").never_says("region:aside");
    terminal.types("list hook --page /visit/").ends(0).says("hook:ahead-of-footer").never_says("hook:under-tides");
    Terminal::new()
        .types("list --unplaced")
        .ends(0)
        .says("partial:picture")
        .says("region:aside")
        .never_says("region:main")
        .never_says("sent by the host");
    terminal.types("list --unplaced").ends(0).says("partial:pager").never_says("partial:menu");
    terminal.types("list arranger").ends(0).says("station.js#hoursLast").says("menu:masthead").says("2 arrangers");
    terminal.types("list --layer nobody").ends(2).says("there are host, tide-kit, foreshore, saltmarsh");
    let json = terminal.types("list hook --format json").ends(0);
    let view: serde_json::Value = serde_json::from_str(&json.stdout).unwrap();
    let point =
        view["points"].as_array().unwrap().iter().find(|point| point["address"] == "hook:under-masthead").unwrap();
    let slots: Vec<(&str, &str)> = point["slots"]
        .as_array()
        .unwrap()
        .iter()
        .map(|slot| (slot["callback"].as_str().unwrap(), slot["state"].as_str().unwrap()))
        .collect();
    assert_eq!(
        slots,
        [
            ("foreshore:masthead.js#welcome", "replaced"),
            ("masthead.js#winterNotice", "on"),
            ("masthead.js#lowWaterNotice", "on"),
            ("foreshore:masthead.js#themeRibbon", "detached"),
        ]
    );
    assert_eq!(point["slots"][0]["by"]["callback"], "masthead.js#welcome");
    assert_eq!(point["slots"][2]["priority"], 40);
    assert_eq!(point["placements"][0]["file"], "markup/layout.html");
    assert_eq!(point["declared"]["layer"], "foreshore");
}

#[test]
fn a_list_begins_with_what_is_the_themes_own_and_counts_the_rest() {
    let terminal = Terminal::demo();
    let own = terminal
        .types("list")
        .ends(0)
        .says("more that saltmarsh neither adds to nor uses; --all lists them, too")
        .stdout;
    let all = terminal.types("list --all").ends(0).never_says("--all").stdout;
    let points =
        |text: &str| text.lines().filter(|line| line.split(' ').next().is_some_and(|word| word.contains(':'))).count();
    let rest: usize = own.lines().last().unwrap().split(' ').next().unwrap().parse().unwrap();
    assert_eq!(points(&own) + rest, points(&all));
    for shown in
        ["region:tide-board", "hook:under-masthead", "menu:masthead", "partial:opening-hours", "feature:colours"]
    {
        assert!(own.contains(shown), "{shown}");
    }
    for other in ["hook:site-ready", "hook:beside-masthead", "partial:pager"] {
        assert!(!own.contains(other) && all.contains(other), "{other}");
    }
    // A theme that adds nothing yet sees what there is.
    terminal.types_in("", "new shore --on saltmarsh").ends(0);
    terminal.types_in("shore", "list").ends(0).never_says("--all").says("hook:under-masthead");
}

#[test]
fn a_table_folds_in_a_narrow_window_and_loses_nothing() {
    let terminal = Terminal::demo();
    for typed in ["list", "list --all", "list listener"] {
        let at = |columns: &str| {
            let mut command = terminal.command("saltmarsh", typed);
            String::from_utf8(command.env("COLUMNS", columns).output().unwrap().stdout).unwrap()
        };
        let narrow = at("60");
        let too_wide = |line: &&str| line.chars().count() > 60 && line.split_whitespace().count() > 2;
        assert_eq!(narrow.lines().find(too_wide), None, "{typed}");
        let words: std::collections::HashSet<&str> = narrow.split_whitespace().collect();
        let wide = at("200");
        for word in wide.lines().skip(1).flat_map(str::split_whitespace) {
            assert!(words.contains(word), "{typed}: {word} is missing in {narrow}");
        }
    }
}

#[test]
fn a_table_that_is_piped_has_one_record_a_line() {
    let terminal = Terminal::demo();
    let piped = |typed: &str| {
        let output = terminal.command("saltmarsh", typed).env_remove("COLUMNS").output().unwrap();
        (String::from_utf8(output.stdout).unwrap(), String::from_utf8(output.stderr).unwrap())
    };
    let (records, beside) = piped("list --all");
    let all = terminal.types("list --all --format json").ends(0).stdout;
    let all: serde_json::Value = serde_json::from_str(&all).unwrap();
    let addresses: Vec<&str> =
        all["points"].as_array().unwrap().iter().map(|point| point["address"].as_str().unwrap()).collect();
    let first: Vec<&str> = records.lines().map(|line| line.split('\t').next().unwrap()).collect();
    assert_eq!(first, addresses);
    assert!(records.lines().all(|line| line.split('\t').count() == 7), "{records}");
    assert!(beside.contains(&format!("{} points in saltmarsh", addresses.len())), "{beside}");
    let (own, beside) = piped("list");
    assert!(own.lines().count() < addresses.len());
    assert!(beside.contains("--all lists them, too"), "{beside}");
    let full = std::fs::OpenOptions::new().write(true).open("/dev/full");
    if let Ok(full) = full {
        let mut command = terminal.command("saltmarsh", "list --all");
        let run = command.env_remove("COLUMNS").stdout(std::process::Stdio::piped()).stderr(full).spawn().unwrap();
        let output = run.wait_with_output().unwrap();
        assert_eq!(output.status.code(), Some(0), "what stands beside the records can't be written");
        assert_eq!(String::from_utf8(output.stdout).unwrap(), records);
    }
    let (callbacks, _) = piped("list listener");
    assert!(callbacks.lines().all(|line| line.split('\t').count() == 6), "{callbacks}");
}

#[test]
fn points_of_a_page_are_listed_as_they_come_on_it() {
    let terminal = Terminal::demo();
    let json = terminal.types("list --page / --format json").ends(0);
    let view: serde_json::Value = serde_json::from_str(&json.stdout).unwrap();
    let order: Vec<&str> =
        view["points"].as_array().unwrap().iter().map(|point| point["address"].as_str().unwrap()).collect();
    let at = |address: &str| order.iter().position(|known| *known == address).unwrap();
    let page = terminal.types("render /").ends(0).stdout;
    let marks = [
        ("hook:document-head", "<title>"),
        ("partial:masthead", "class=\"masthead\""),
        ("menu:masthead", "class=\"site-nav\""),
        ("hook:under-masthead", "class=\"ribbon\""),
        ("region:tide-board", "tide-table"),
        ("region:main", "The tide left"),
        ("section:spotlight", "class=\"spotlight\""),
        ("menu:small-print", "Imprint"),
    ];
    let found: Vec<(usize, usize)> =
        marks.iter().filter_map(|(address, mark)| Some((page.find(mark)?, at(address)))).collect();
    assert!(found.len() >= 7, "{found:?}");
    assert!(found.windows(2).all(|pair| (pair[0].0 < pair[1].0) == (pair[0].1 < pair[1].1)), "{found:?}");
}

#[test]
fn no_line_is_wider_than_the_window() {
    let terminal = Terminal::demo();
    for command in [
        "show",
        "show hook:under-masthead",
        "show partial:entry-card",
        "show area:footer-notes",
        "show feature:colours",
        "show section:spotlight",
        "list --all",
        "map",
        "desk",
        "trace /",
        "why hook:under-masthead",
        "why region:aside --page /",
        "shelf ..",
    ] {
        for width in ["60", "80"] {
            let output = terminal.command("saltmarsh", command).env("COLUMNS", width).output().unwrap();
            let text = String::from_utf8(output.stdout).unwrap();
            let wide: Vec<&str> =
                text.lines().filter(|line| line.chars().count() > width.parse::<usize>().unwrap()).collect();
            assert_eq!(wide, [""; 0], "{command} at {width}");
        }
    }
}
