//! A browser without a window: Chromium, where it is installed.

use std::cell::RefCell;
use std::path::Path;
use std::time::Duration;

use serde::de::DeserializeOwned;
use serde_json::json;
use truehook_browser::Browser;

/// It is always the same hour: what a page shows of it would be elsewhere a moment later.
const STILL: &str = "(() => {
    const Real = Date, hour = Real.UTC(2031, 4, 17, 9, 30);
    globalThis.Date = class extends Real {
      constructor(...given) { super(...(given.length > 0 ? given : [hour])); }
      static now() { return hour; }
    };
})()";

/// A browser with one page.
pub struct Window(RefCell<Browser>);

impl Window {
    /// A window of that size; nothing, and a line that says so, where no browser is installed.
    pub fn open(width: u32, height: u32) -> Option<Window> {
        Window::open_with(width, height, &[])
    }

    /// A window in which scripts may look into frames of other origins, as no browser of anybody's lets them.
    pub fn open_to_look(width: u32, height: u32) -> Option<Window> {
        Window::open_with(
            width,
            height,
            &["--disable-web-security", "--disable-features=IsolateSandboxedIframes,IsolateOrigins,site-per-process"],
        )
    }

    fn open_with(width: u32, height: u32, options: &[&str]) -> Option<Window> {
        let Some(browser) = Browser::start_with(options).unwrap() else {
            eprintln!("skipped: there is no Chromium here (on Debian: apt-get install chromium)");
            return None;
        };
        let window = Window(RefCell::new(browser));
        for (name, arguments) in
            [("Page.enable", json!({})), ("Page.addScriptToEvaluateOnNewDocument", json!({ "source": STILL }))]
        {
            window.0.borrow_mut().call(name, arguments).unwrap();
        }
        window.resize(width, height);
        Some(window)
    }

    pub fn resize(&self, width: u32, height: u32) {
        self.0.borrow_mut().resize(width, height).unwrap();
    }

    /// By day or by night.
    pub fn scheme(&self, scheme: &str) {
        self.0.borrow_mut().scheme(scheme).unwrap();
    }

    pub fn go(&self, address: &str) {
        self.0.borrow_mut().go(address).unwrap();
    }

    /// Opens a file, and waits until a script says that it is ready.
    pub fn open_file(&self, file: &Path, ready: &str) {
        self.go("about:blank");
        self.wait("location.href === 'about:blank'");
        self.go(&format!("file://{}", file.display()));
        self.wait(&format!("location.protocol === 'file:' && document.readyState === 'complete' && {ready}"));
    }

    /// Waits until a script says true.
    pub fn wait(&self, script: &str) {
        for _ in 0..1000 {
            if self.0.borrow_mut().evaluate(script).is_ok_and(|value| value == true) {
                return;
            }
            std::thread::sleep(Duration::from_millis(10));
        }
        panic!("never true: {script}");
    }

    /// What a script gives, which may be a promise.
    pub fn ask<T: DeserializeOwned>(&self, script: &str) -> T {
        let text = format!("(async () => JSON.stringify((await (async () => {{ {script} }})()) ?? null))()");
        let found = self.0.borrow_mut().evaluate(&text).unwrap_or_else(|error| panic!("{error}"));
        serde_json::from_str(found.as_str().unwrap_or("null")).unwrap()
    }

    /// Runs a script for what it leaves on the page.
    pub fn learn(&self, script: &str) {
        self.0.borrow_mut().evaluate(&format!("{script}; 0")).unwrap();
    }

    /// Presses a key.
    pub fn press(&self, key: &str) {
        self.0.borrow_mut().press(key).unwrap();
    }

    /// Types a text, key by key.
    pub fn write(&self, text: &str) {
        text.chars().for_each(|key| self.press(&key.to_string()));
    }
}

/// By day and by night, each in a wide window and in a narrow one.
const FOUR_WAYS: [(&str, u32); 4] = [("light", 1280), ("light", 390), ("dark", 1280), ("dark", 390)];

/// The accessibility checker, where it is installed; else nothing, and a line that says so.
pub fn checker() -> Option<String> {
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/../../target/tools/node_modules/axe-core/axe.min.js");
    let found = std::fs::read_to_string(file).ok();
    if found.is_none() {
        eprintln!("skipped: there is no axe-core here (npm install --prefix target/tools axe-core)");
    }
    found
}

impl Window {
    /// What the accessibility checker finds on the page that is open, seen in four ways; the page in a frame
    /// is not ours.
    pub fn violations(&self, checker: &str) -> Vec<String> {
        let mut found = Vec::new();
        self.learn(checker);
        for (scheme, width) in FOUR_WAYS {
            self.scheme(scheme);
            self.resize(width, 844);
            let here: Vec<String> = self.ask(
                "const found = await axe.run({ exclude: [['iframe']] }, { resultTypes: ['violations'], iframes: false });
                return found.violations.flatMap((one) => one.nodes.map((node) => `${one.id}: ${node.target} ${node.failureSummary}`));",
            );
            found.extend(here.into_iter().map(|text| format!("{scheme} {width}: {text}")));
        }
        self.scheme("light");
        found
    }
}
