//! A browser without a window: Chromium, where it is installed.

use std::ffi::OsStr;
use std::path::Path;
use std::sync::Arc;
use std::time::Duration;

use headless_chrome::protocol::cdp::{Emulation, Page};
use headless_chrome::{Browser, LaunchOptions, Tab};
use serde::de::DeserializeOwned;

/// A browser with one page.
pub struct Window {
    _browser: Browser,
    pub tab: Arc<Tab>,
}

impl Window {
    /// A window of that size; nothing, and a line that says so, where no browser is installed.
    pub fn open(width: u32, height: u32) -> Option<Window> {
        let found = ["/usr/bin/chromium", "/usr/bin/chromium-browser", "/usr/bin/google-chrome"];
        let Some(path) = found.iter().map(Path::new).find(|path| path.exists()) else {
            eprintln!("skipped: there is no Chromium here (on Debian: apt-get install chromium)");
            return None;
        };
        let options = LaunchOptions::default_builder()
            .path(Some(path.to_path_buf()))
            .sandbox(false)
            .args(vec![OsStr::new("--hide-scrollbars"), OsStr::new("--disable-background-networking")])
            .idle_browser_timeout(Duration::from_secs(300))
            .build()
            .unwrap();
        let browser = Browser::new(options).unwrap();
        let tab = browser.new_tab().unwrap();
        let window = Window { _browser: browser, tab };
        window.resize(width, height);
        Some(window)
    }

    pub fn resize(&self, width: u32, height: u32) {
        let metrics = Emulation::SetDeviceMetricsOverride {
            width,
            height,
            device_scale_factor: 1.0,
            mobile: false,
            scale: None,
            screen_width: None,
            screen_height: None,
            position_x: None,
            position_y: None,
            dont_set_visible_size: None,
            screen_orientation: None,
            viewport: None,
            display_feature: None,
            device_posture: None,
        };
        self.tab.call_method(metrics).unwrap();
    }

    /// By day or by night.
    pub fn scheme(&self, scheme: &str) {
        let feature = Emulation::MediaFeature { name: "prefers-color-scheme".into(), value: scheme.into() };
        self.tab.call_method(Emulation::SetEmulatedMedia { media: None, features: Some(vec![feature]) }).unwrap();
    }

    /// Opens a file, and waits until a script says that it is ready.
    pub fn open_file(&self, file: &Path, ready: &str) {
        self.tab.navigate_to("about:blank").unwrap();
        self.wait("location.href === 'about:blank'");
        self.tab.navigate_to(&format!("file://{}", file.display())).unwrap();
        self.wait(&format!("location.protocol === 'file:' && document.readyState === 'complete' && {ready}"));
    }

    /// Waits until a script says true.
    pub fn wait(&self, script: &str) {
        for _ in 0..1000 {
            if self.tab.evaluate(script, true).ok().and_then(|found| found.value).is_some_and(|value| value == true) {
                return;
            }
            std::thread::sleep(Duration::from_millis(10));
        }
        panic!("never true: {script}");
    }

    /// What a script gives, which may be a promise.
    pub fn ask<T: DeserializeOwned>(&self, script: &str) -> T {
        let text = format!("(async () => JSON.stringify((await (async () => {{ {script} }})()) ?? null))()");
        let found = self.tab.evaluate(&text, true).unwrap_or_else(|error| panic!("{error}\n{script}"));
        let value = found.value.unwrap_or_else(|| panic!("nothing came of {script}: {:?}", found.description));
        serde_json::from_str(value.as_str().unwrap_or("null")).unwrap()
    }

    /// Presses a key.
    pub fn press(&self, key: &str) {
        self.tab.press_key(key).unwrap();
    }

    /// A picture of what is seen.
    #[allow(dead_code, reason = "for looking at what a test sees")]
    pub fn picture(&self, file: &str) {
        let png = self.tab.capture_screenshot(Page::CaptureScreenshotFormatOption::Png, None, None, true).unwrap();
        std::fs::write(file, png).unwrap();
    }
}

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
    /// What the accessibility checker finds on the page that is open, by day and by night, wide and narrow; the page in
    /// a frame is not ours.
    pub fn violations(&self, checker: &str) -> Vec<String> {
        let mut found = Vec::new();
        for scheme in ["light", "dark"] {
            for width in [1280, 390] {
                self.scheme(scheme);
                self.resize(width, 844);
                self.tab.evaluate(checker, false).unwrap();
                let here: Vec<String> = self.ask(
                    "const found = await axe.run({ exclude: [['iframe']] }, { resultTypes: ['violations'], iframes: false });
                    return found.violations.flatMap((one) => one.nodes.map((node) => `${one.id}: ${node.target} ${node.failureSummary}`));",
                );
                found.extend(here.into_iter().map(|text| format!("{scheme} {width}: {text}")));
            }
        }
        self.scheme("light");
        found
    }
}
