//! What the looking commands say of each point, sentence by sentence, held against the rendered pages: every hook, region
//! and area gets a word of its own, and a sentence is true where the page has that word, or has it not.

use std::collections::{BTreeMap, BTreeSet};

use serde_json::Value;

use crate::fixture::Terminal;
use crate::lsp::Editor;
use crate::sequences::grown;

/// A page: its path, its type and its HTML.
struct Page {
    path: String,
    page_type: String,
    html: String,
}

/// Gives each point that can show something a word, and says which.
fn with_words(terminal: &Terminal) -> Vec<(String, String)> {
    let listed: Value = serde_json::from_str(&terminal.types("list --all --format json").stdout).unwrap();
    let mut words = Vec::new();
    let folder = if terminal.path("saltmarsh").is_dir() { "saltmarsh" } else { "site" };
    let mut manifest = terminal.read(&format!("{folder}/truehook.toml"));
    let mut fills = Vec::new();
    for point in listed["points"].as_array().unwrap() {
        let address = point["address"].as_str().unwrap();
        let (kind, _) = address.split_once(':').unwrap();
        if !["hook", "region", "area"].contains(&kind) || point["moment"] == true || address == "hook:document-head" {
            continue;
        }
        let (name, word) = (format!("word-{}", words.len()), format!("WORD{}X", words.len()));
        terminal.write(&format!("{folder}/markup/partials/{name}.html"), format!("{word}\n"));
        manifest.push_str(&format!("\n[partial.{name}]\nabout = \"W\"\n"));
        match kind {
            "hook" => manifest.push_str(&format!("\n[[attach]]\nto = \"{address}\"\nuse = \"partial:{name}\"\n")),
            _ => fills.push(format!("fill {address} partial:{name}")),
        }
        words.push((address.to_string(), word));
    }
    terminal.write(&format!("{folder}/truehook.toml"), manifest);
    // What a region can't be filled with is no point of this test.
    let refused: BTreeSet<String> = fills
        .iter()
        .filter(|fill| terminal.types(fill).status != Some(0))
        .map(|fill| fill.split(' ').nth(1).unwrap().to_string())
        .collect();
    words.retain(|(address, _)| !refused.contains(address));
    words
}

fn pages(terminal: &Terminal) -> Vec<Page> {
    let rendered: Value = serde_json::from_str(&terminal.types("render --format json").stdout).unwrap();
    let html = |page: &Value| page["html"].as_str().unwrap().to_string();
    let all = rendered["pages"].as_array().unwrap().iter();
    let by_path: BTreeMap<String, String> =
        all.map(|page| (page["path"].as_str().unwrap().to_string(), html(page))).collect();
    // The types are those that the files of the pages say; a page without a file stands for the type that it is called by.
    let types = |path: &str| {
        let files = ["saltmarsh", "site", "foreshore"].map(|folder| terminal.path(&format!("{folder}/preview/pages")));
        let files = files
            .iter()
            .filter_map(|folder| std::fs::read_dir(folder).ok())
            .flatten()
            .map(|entry| entry.unwrap().path());
        let said = files.filter_map(|file| {
            let text = std::fs::read_to_string(file).ok()?;
            let table: toml::Table = text.parse().ok()?;
            (table.get("path")?.as_str()? == path)
                .then(|| table.get("type").and_then(|word| word.as_str()).map(str::to_string))?
        });
        said.into_iter().next().unwrap_or_else(|| match path.trim_matches('/') {
            "" => "front".to_string(),
            name => name.to_string(),
        })
    };
    by_path.into_iter().map(|(path, html)| Page { page_type: types(&path), path, html }).collect()
}

/// Which types a sentence says, with whether it says a condition: `every page`, `list, where …; search`.
fn types_of(sentence: &str, all: &BTreeSet<String>) -> Vec<(BTreeSet<String>, bool)> {
    let parts = sentence.split("; ").filter(|part| !["–", ""].contains(part));
    let part = |part: &str| {
        let (head, condition) = part.split_once(", where ").map_or((part, false), |(head, _)| (head, true));
        let head = head.strip_prefix("pages of type ").unwrap_or(head);
        let types = match head {
            "every page" => all.clone(),
            head => head.split(", ").map(str::to_string).collect(),
        };
        (types, condition)
    };
    parts.map(part).collect()
}

/// A sentence that says on which pages a point is, held against each page; how often.
fn hold_pages(whose: &str, sentence: &str, (address, word): &(String, String), pages: &[Page]) -> usize {
    let all: BTreeSet<String> = pages.iter().map(|page| page.page_type.clone()).collect();
    let said = types_of(sentence, &all);
    for page in pages {
        let shows = page.html.contains(word.as_str());
        let of_type = || said.iter().filter(|(types, _)| types.contains(&page.page_type));
        assert!(
            of_type().next().is_some() || !shows,
            "{whose} says `{sentence}` of {address}, and {} shows it",
            page.path
        );
        let is_sure = of_type().any(|(_, condition)| !condition);
        assert!(!is_sure || shows, "{whose} says `{sentence}` of {address}, and {} does not show it", page.path);
    }
    pages.len()
}

/// What `show`, the desk, the atlas and the language server say of the points of a theme; how many sentences that were.
fn hold_the_others(terminal: &Terminal, what: &str, words: &[(String, String)], pages: &[Page]) -> usize {
    let folder = if terminal.path("saltmarsh").is_dir() { "saltmarsh" } else { "site" };
    let types = |typed: &str| {
        let said = terminal.command(folder, typed).env_remove("COLUMNS").output().unwrap();
        String::from_utf8(said.stdout).unwrap()
    };
    let desk = types("desk");
    types("atlas --html atlas.html");
    let atlas = terminal.read(&format!("{folder}/atlas.html"));
    let mut by_source = BTreeMap::new();
    let mut editor = Editor::of(terminal);
    for pair @ (address, word) in words {
        let is_anywhere = pages.iter().any(|page| page.html.contains(word.as_str()));
        // `show`: one row for each placement, with the pages that get there.
        let show = types(&format!("show {address}"));
        let rows = show.lines().filter_map(|line| line.split_once("reached by ")).map(|(_, pages)| pages.trim());
        let rows: Vec<&str> = rows.collect();
        if !rows.is_empty() {
            *by_source.entry("show").or_insert(0) +=
                hold_pages(&format!("{what}: show"), &rows.join("; "), pair, pages);
        }
        // The desk: a row of a spot, or the word that no page shows it.
        if let Some(row) = desk.lines().find(|line| line.split('\t').next() == Some(address) && line.contains('\t')) {
            *by_source.entry("the desk").or_insert(0) +=
                hold_pages(&format!("{what}: the desk"), row.rsplit('\t').next().unwrap(), pair, pages);
        }
        let unshown = desk.lines().filter(|line| line.trim_start().starts_with("no page shows it"));
        let is_unshown = unshown.flat_map(|line| line.split([' ', ',', '\t'])).any(|part| part == address);
        assert!(!is_unshown || !is_anywhere, "{what}: the desk says that no page shows {address}");
        // The atlas: a line of facts.
        let id = address.replace(':', "-");
        if let Some((_, entry)) = atlas.split_once(&format!("<article class=\"entry\" id=\"{id}\"")) {
            let entry = entry.split("</article>").next().unwrap();
            let facts = entry.split("<li>").filter_map(|fact| fact.strip_prefix("On "));
            let said: Vec<String> = facts.map(|fact| plain(fact.split("</li>").next().unwrap())).collect();
            if let [said] = said.as_slice() {
                *by_source.entry("the atlas").or_insert(0) +=
                    hold_pages(&format!("{what}: the atlas"), said, pair, pages);
            }
        }
        // The language server: the hover at a name.
        let (path, piece) = match address.starts_with("hook:") {
            true => ("truehook.toml", format!("to = \"{address}\"")),
            false => ("preview/site.toml", format!("\"{address}\" =")),
        };
        let path = format!("{folder}/{path}");
        if terminal.read(&path).contains(&piece) {
            let asked = editor.at(&path, &piece, piece.find(':').unwrap() + 1);
            let hover =
                editor.ask("textDocument/hover", asked)["contents"]["value"].as_str().unwrap_or_default().to_string();
            if let Some(said) = hover.lines().find_map(|line| line.strip_prefix("- reached by ")) {
                *by_source.entry("a hover").or_insert(0) += hold_pages(&format!("{what}: a hover"), said, pair, pages);
            }
        }
    }
    assert_eq!(by_source.keys().copied().collect::<Vec<_>>(), ["a hover", "show", "the atlas", "the desk"], "{what}");
    println!("{what}: {by_source:?}");
    by_source.into_values().sum()
}

/// HTML without tags and without entities.
fn plain(html: &str) -> String {
    let parts = html.split('<').enumerate();
    let text: String = parts
        .map(|(at, part)| if at == 0 { part } else { part.split_once('>').map_or("", |(_, text)| text) })
        .collect();
    [("&#x27;", "'"), ("&#x2f;", "/"), ("&quot;", "\""), ("&lt;", "<"), ("&gt;", ">"), ("&amp;", "&")]
        .iter()
        .fold(text, |text, (entity, sign)| text.replace(entity, sign))
}

/// Holds all sentences of one theme, and gives how many there were.
fn hold(terminal: &Terminal, what: &str) -> usize {
    let words = with_words(terminal);
    let pages = pages(terminal);
    let listed = terminal
        .command(if terminal.path("saltmarsh").is_dir() { "saltmarsh" } else { "site" }, "list --all")
        .env_remove("COLUMNS")
        .output()
        .unwrap();
    let listed = String::from_utf8(listed.stdout).unwrap();
    let mut held = 0;
    for (address, word) in &words {
        let shows = |page: &&Page| page.html.contains(word.as_str());
        // `list`: on which pages a point is.
        let row = listed
            .lines()
            .find(|line| line.split('\t').next() == Some(address))
            .unwrap_or_else(|| panic!("{what}: {address}\n{listed}"));
        let sentence = row.rsplit('\t').next().unwrap();
        held += hold_pages(&format!("{what}: list"), sentence, &(address.clone(), word.clone()), &pages);
        // `why --page`: whether it shows there.
        for page in &pages {
            let said = terminal.types(&format!("why {address} --page {}", page.path));
            let first = said.stdout.lines().next().unwrap_or_default();
            let claims = first.starts_with(&format!("`{address}` shows on {}", page.path));
            let denies = first.contains("does not show");
            assert!(claims != denies, "{what}: {first}");
            assert_eq!(claims, shows(&page), "{what}: why says `{first}`");
            held += 1;
        }
        // `why`: whether it shows anywhere.
        let first = terminal.types(&format!("why {address}")).stdout;
        let first = first.lines().next().unwrap_or_default();
        assert_eq!(
            !first.contains("does not show"),
            pages.iter().any(|page| shows(&page)),
            "{what}: why says `{first}`"
        );
        held += 1;
    }
    // `map`: what stands on a page.
    for page in &pages {
        let map = terminal.types(&format!("map {}", page.path)).stdout;
        for (address, word) in &words {
            let row = map.lines().find(|line| line.split_whitespace().any(|part| part == address));
            let (is_full, is_there) = (row.is_some_and(|row| row.contains('●')), row.is_some());
            let shows = page.html.contains(word.as_str());
            assert!(!shows || is_full, "{what}: {address} shows on {}, and the map says {row:?}", page.path);
            assert!(
                shows || !is_there || !is_full,
                "{what}: {address} does not show on {}, and the map says {row:?}",
                page.path
            );
            held += 1;
        }
    }
    held + hold_the_others(terminal, what, &words, &pages)
}

#[test]
fn what_is_said_of_points_is_what_the_pages_show() {
    // TRUEHOOK_SEED grows fresh themes.
    let seed = std::env::var("TRUEHOOK_SEED").ok().and_then(|text| text.parse::<u64>().ok()).unwrap_or(1);
    let mut held = hold(&Terminal::demo(), "the demo");
    for seed in seed..seed + 1 {
        held += hold(&grown(seed), &format!("seed {seed}"));
    }
    println!("{held} sentences were held against pages");
    assert!(held > 350, "only {held} sentences");
}
