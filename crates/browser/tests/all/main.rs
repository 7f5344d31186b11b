//! What tests ask of a browser.

use serde_json::json;
use truehook_browser::{Browser, Failed};

/// A browser with that page, where one is installed.
fn shown(page: &str) -> Option<Browser> {
    let mut browser = Browser::start().unwrap()?;
    browser.go("about:blank").unwrap();
    browser.evaluate(&format!("document.body.innerHTML = {}; 0", json!(page))).unwrap();
    Some(browser)
}

#[test]
fn scripts_give_values_promises_and_errors() {
    let Some(mut browser) = shown("<p>Two</p><p>tides</p>") else { return };
    let texts = "[...document.querySelectorAll('p')].map((one) => one.textContent)";
    assert_eq!(browser.evaluate(texts).unwrap(), json!(["Two", "tides"]));
    let later = "new Promise((go) => setTimeout(() => go({ depth: 4.5 }), 20))";
    assert_eq!(browser.evaluate(later).unwrap(), json!({ "depth": 4.5 }));
    assert_eq!(browser.evaluate("undefined").unwrap(), json!(null));
    for wrong in ["throw new Error('no water')", "Promise.reject(new Error('no water'))"] {
        let Err(Failed::Threw(said)) = browser.evaluate(wrong) else { panic!("{wrong}") };
        assert!(said.contains("no water") && said.contains(wrong), "{said}");
    }
    // It answers the next question all the same.
    assert_eq!(browser.evaluate("1 + 1").unwrap(), json!(2));
    assert!(matches!(browser.call("Page.launch", json!({})), Err(Failed::Odd(_))));
}

#[test]
fn keys_go_where_a_hand_would_put_them() {
    let Some(mut browser) = shown("<form><input id='one'><button id='two'>Go</button></form>") else { return };
    let note = "window.keys = []; addEventListener('keydown', (event) => window.keys.push(event.key)); \
                document.forms[0].addEventListener('submit', (event) => { event.preventDefault(); window.sent = true; }); 0";
    browser.evaluate(note).unwrap();
    for key in ["Tab", "é", " ", "b", "Tab"] {
        browser.press(key).unwrap();
    }
    assert_eq!(browser.evaluate("document.activeElement.id").unwrap(), json!("two"));
    browser.press("Enter").unwrap();
    let found = browser.evaluate("[document.querySelector('#one').value, window.keys, window.sent]").unwrap();
    assert_eq!(found, json!(["é b", ["Tab", "é", " ", "b", "Tab", "Enter"], true]));
}

#[test]
fn a_window_has_a_size_and_a_time_of_day() {
    let Some(mut browser) = shown("") else { return };
    for (scheme, width) in [("dark", 390), ("light", 1280)] {
        browser.scheme(scheme).unwrap();
        browser.resize(width, 800).unwrap();
        let asked = format!("[innerWidth, matchMedia('(prefers-color-scheme: {scheme})').matches]");
        assert_eq!(browser.evaluate(&asked).unwrap(), json!([width, true]));
    }
}

#[test]
fn nothing_stays_behind() {
    let Some(browser) = shown("") else { return };
    let folder = browser.folder().to_path_buf();
    assert!(folder.join("Default").exists(), "{folder:?} is where it keeps things");
    drop(browser);
    assert!(!folder.exists(), "{folder:?} is still there");
}
