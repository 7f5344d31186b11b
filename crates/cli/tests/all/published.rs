//! Plain pages as they are published: each comes through `new --from`, and looks the same in a browser.
//!
//! The pages are packed sites of a package registry. They are fetched where `TRUEHOOK_PUBLISHED` names a folder for them,
//! and nothing of them is kept in this repository.

use std::fmt::Write;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::{Duration, Instant};

use serde_json::{Value, json};
use truehook_browser::Browser;

use crate::fixture::Terminal;

/// The packages, and the folder in each that has the pages.
const PACKAGES: [(&str, &str); 16] = [
    ("html5-boilerplate", "dist"),
    ("startbootstrap-business-casual", "dist"),
    ("startbootstrap-clean-blog", "dist"),
    ("startbootstrap-modern-business", "dist"),
    ("startbootstrap-agency", "dist"),
    ("startbootstrap-resume", "dist"),
    ("startbootstrap-sb-admin-2", "."),
    ("spectre.css", "docs/components"),
    ("now-ui-dashboard", "examples"),
    ("paper-kit-2", "examples"),
    ("blk-design-system", "examples"),
    ("bamboo.css", "demo"),
    ("skeleton-css", "."),
    ("milligram", "."),
    ("flickity", "sandbox"),
    ("shower", "."),
];

/// The folder of a package's pages.
fn fetched(folder: &Path, package: &str, inside: &str) -> PathBuf {
    let whole = folder.join(package);
    if !whole.join("package").is_dir() {
        std::fs::create_dir_all(&whole).unwrap();
        let packed = Command::new("npm").args(["pack", package, "--silent"]).current_dir(&whole).output().unwrap();
        assert!(packed.status.success(), "{package}: {}", String::from_utf8_lossy(&packed.stderr));
        let name = String::from_utf8(packed.stdout).unwrap();
        let unpacked = Command::new("tar").args(["xzf", name.trim()]).current_dir(&whole).status().unwrap();
        assert!(unpacked.success(), "{package}");
    }
    whole.join("package").join(inside)
}

fn pages(folder: &Path) -> Vec<PathBuf> {
    let files = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let mut pages: Vec<PathBuf> = files.filter(|path| path.extension().is_some_and(|end| end == "html")).collect();
    pages.sort();
    pages
}

/// What a browser has of a page: each element with its words and its box, and how many errors there were.
const LOOK: &str = "(() => {
  const style = document.createElement('style');
  style.textContent = '*, *::before, *::after { animation: none !important; transition: none !important; scroll-behavior: auto !important; }';
  document.head.append(style);
  scrollTo(0, 0);
  const words = (element) => [...element.childNodes].filter((node) => node.nodeType === 3).map((node) => node.textContent.trim().replace(/\\s+/g, ' ')).filter(Boolean).join(' | ');
  const all = [...document.body.querySelectorAll('*')].filter((element) => !['SCRIPT', 'STYLE', 'LINK', 'NOSCRIPT'].includes(element.tagName));
  return {
    errors: window.__errors ?? [],
    elements: all.map((element) => {
      const box = element.getBoundingClientRect();
      return [element.tagName, words(element), box.x, box.y, box.width, box.height];
    }),
  };
})()";

fn look(browser: &mut Browser, page: &Path, width: u32) -> Value {
    browser.resize(width, 800).unwrap();
    browser.go(&format!("file://{}", page.display())).unwrap();
    let begun = Instant::now();
    let ready = "document.readyState === 'complete' && location.href.startsWith('file:')";
    while !browser.evaluate(ready).is_ok_and(|ready| ready == json!(true)) {
        assert!(begun.elapsed() < Duration::from_secs(60), "{} does not load", page.display());
        std::thread::sleep(Duration::from_millis(50));
    }
    // What scripts do when the page is there is done.
    std::thread::sleep(Duration::from_millis(400));
    browser.evaluate(LOOK).unwrap()
}

/// In what a page differs from what it was, the first few of it.
fn differences(before: &Value, after: &Value) -> Vec<String> {
    let mut found = Vec::new();
    let elements = |page: &Value| page["elements"].as_array().unwrap().clone();
    let (old, new) = (elements(before), elements(after));
    if old.len() != new.len() {
        found.push(format!("{} elements, and there were {}", new.len(), old.len()));
    }
    for (old, new) in old.iter().zip(&new) {
        let same = old[0] == new[0] && old[1] == new[1];
        let near = (2..6).all(|at| (old[at].as_f64().unwrap() - new[at].as_f64().unwrap()).abs() <= 1.0);
        if !same || !near {
            found.push(format!("{new} instead of {old}"));
        }
    }
    let errors = |page: &Value| page["errors"].as_array().unwrap().len();
    if errors(after) > errors(before) {
        found.push(format!("errors: {} instead of {}", after["errors"], before["errors"]));
    }
    found
}

#[test]
fn published_pages_come_through_and_look_the_same() {
    let Ok(folder) = std::env::var("TRUEHOOK_PUBLISHED") else { return };
    let only = std::env::var("TRUEHOOK_PACKAGE").ok();
    let mut browser = Browser::start().unwrap().expect("a browser is installed");
    let listen = "window.__errors = []; addEventListener('error', (event) => __errors.push(String(event.message ?? event.target?.src ?? event.target?.href)), true);";
    browser.call("Page.enable", json!({})).unwrap();
    browser.call("Page.addScriptToEvaluateOnNewDocument", json!({ "source": listen })).unwrap();
    let mut told = String::new();
    for (package, inside) in PACKAGES.into_iter().filter(|(name, _)| only.as_ref().is_none_or(|only| only == name)) {
        let site = fetched(Path::new(&folder), package, inside);
        let pages = pages(&site);
        let terminal = Terminal::new();
        let names: Vec<String> = pages.iter().map(|page| page.display().to_string()).collect();
        let said = terminal.types_in(".", &format!("new taken --from {}", names.join(" "))).ends(0);
        terminal.types_in("taken", "check").ends(0);
        terminal.types_in("taken", "render --into ../out").never_says("panicked");
        let mut wrong = 0;
        for page in &pages {
            let name = page.file_name().unwrap().to_str().unwrap();
            for width in [1280, 390] {
                let before = look(&mut browser, page, width);
                let after = look(&mut browser, &terminal.path(&format!("out/{name}")), width);
                let found = differences(&before, &after);
                if !found.is_empty() {
                    wrong += 1;
                    let _ = writeln!(
                        told,
                        "{package} {name} at {width}: {} differ\n  {}",
                        found.len(),
                        found[..found.len().min(3)].join("\n  ")
                    );
                }
            }
        }
        let left = said.stdout.split("What was left").nth(1).map_or(0, |left| left.matches("→").count());
        println!("{package}: {} pages, {wrong} looks differ, {left} things were left", pages.len());
    }
    assert!(told.is_empty(), "{told}");
}
