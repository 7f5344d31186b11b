//! Open pages follow what is written, in a browser.

use super::Preview;
use super::browser::{Window, checker};
use crate::fixture::Terminal;

/// A page of the preview that is open in a browser; nothing where there is none.
fn opened(preview: &Preview, path: &str, width: u32) -> Option<Window> {
    let window = Window::open_to_look(width, 800)?;
    window.go(&preview.address(path));
    window.wait("document.readyState === 'complete' && window.truehookShell?.changes.number != null && window.truehookShell.token != null");
    window.wait(&site("document.readyState === 'complete' && window.truehookPage?.changes.number != null"));
    window.ask::<()>(&format!("window.stays = true; {};", site("window.stays = true")));
    Some(window)
}

/// An expression about the page in the shell's frame.
fn site(script: &str) -> String {
    format!(
        "((window) => ((document, location, scrollY, getComputedStyle, scrollTo) => ({script}))(window.document, window.location, \
         window.scrollY, (of) => window.getComputedStyle(of), (x, y) => window.scrollTo(x, y)))(document.getElementById('site').contentWindow)"
    )
}

/// Are the shell and its page those of the beginning?
fn stays(window: &Window) -> bool {
    window.ask(&format!("return window.stays === true && {};", site("window.stays === true")))
}

/// Something of the drawer.
fn drawer(rest: &str) -> String {
    format!("document.querySelector('truehook-drawer').shadowRoot{rest}")
}

fn click(window: &Window, selector: &str) {
    window.wait(&format!("!!{}", drawer(&format!(".querySelector(`{selector}`)"))));
    window.ask::<()>(&format!("{}.click();", drawer(&format!(".querySelector(`{selector}`)"))));
}

#[test]
fn every_kind_of_file_arrives_without_a_reload() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let Some(window) = opened(&preview, "/", 1280) else { return };
    window.ask::<()>(&format!("{};", site("scrollTo(0, 700), document.querySelector('details.fold').open = true, document.querySelector('main a, main button, a').focus({ preventScroll: true }), window.focused = document.activeElement, true")));
    let edits: [(&str, &str, &str, &str); 7] = [
        (
            "saltmarsh/markup/front.html",
            "<h1 id=\"greeting\">",
            "<h1 id=\"greeting\" data-fresh=\"template\">",
            "!!document.querySelector('[data-fresh=template]')",
        ),
        (
            "saltmarsh/code/masthead.js",
            "class=\"ribbon\"",
            "class=\"ribbon\" data-fresh=\"module\"",
            "!!document.querySelector('[data-fresh=module]')",
        ),
        (
            "saltmarsh/media/saltmarsh.css",
            "",
            "h1 { outline: 3px solid rgb(1, 2, 3); }\n",
            "getComputedStyle(document.querySelector('h1')).outlineColor === 'rgb(1, 2, 3)'",
        ),
        (
            "saltmarsh/truehook.toml",
            "",
            "[hook.fresh]\nabout = \"Fresh\"\n\n",
            "truehookShell.drawer.told.findings.some((found) => found.message.includes('hook:fresh'))",
        ),
        (
            "saltmarsh/preview/site.toml",
            "The brent geese",
            "Fresh geese",
            "document.body.textContent.includes('Fresh geese')",
        ),
        (
            "foreshore/markup/layout.html",
            "<body",
            "<body data-fresh=\"base\"",
            "document.body.dataset.fresh === 'base'",
        ),
        (
            "tide-kit/media/tides.css",
            "",
            "/* fresh */\nh1 { text-decoration: underline; }\n",
            "getComputedStyle(document.querySelector('h1')).textDecorationLine === 'underline'",
        ),
    ];
    for (file, old, new, seen) in edits {
        let text = terminal.read(file);
        assert!(text.contains(old), "{file}");
        terminal.write(file, text.replacen(old, new, 1));
        let is_shell = seen.starts_with("truehookShell");
        window.wait(&if is_shell { seen.to_string() } else { site(seen) });
    }
    let kept: (bool, bool, bool, f64) = window.ask(&format!("return {};", site("[window.stays === true, document.querySelector('details.fold').open, document.activeElement === window.focused, scrollY]")));
    assert!(kept.0 && kept.1 && kept.2, "{kept:?}");
    assert!((kept.3 - 700.0).abs() < 60.0, "{kept:?}");
}

#[test]
fn a_script_that_changed_begins_anew_and_a_page_that_came_too_late_catches_up() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let Some(window) = opened(&preview, "/", 1280) else { return };
    let script = terminal.read("saltmarsh/media/fold-memory.js");
    terminal.write("saltmarsh/media/fold-memory.js", format!("{script}\nwindow.fresh = true;\n"));
    window.wait(&site(
        "window.fresh === true && window.stays === undefined && window.truehookPage?.changes.number != null",
    ));
    // As if something had changed before the page could hear of it.
    window.ask::<()>(&format!("{};", site("window.stays = true, document.querySelector('#greeting').textContent = 'stale', window.truehookPage.changes.number = '1', window.truehookPage.changes.listen()")));
    window.wait(&site("document.querySelector('#greeting').textContent !== 'stale' && window.stays"));
}

/// Names of the theme's scripts and those of the preview's have nothing to do with each other.
#[test]
fn scripts_of_a_theme_may_use_any_name() {
    const NAMES: &str =
        "<script>class Page {} class Changes {} let signsOf = 1; function morph() { return 'theirs'; }</script>";
    let terminal = Terminal::demo();
    let layout = terminal.read("foreshore/markup/layout.html");
    terminal.write(
        "foreshore/markup/layout.html",
        layout.replace("</body>", &format!("{{% raw %}}{NAMES}{{% endraw %}}</body>")),
    );
    let preview = Preview::of(&terminal, "saltmarsh");
    let Some(window) = opened(&preview, "/", 1280) else { return };
    assert_eq!(window.ask::<String>(&format!("return {};", site("window.morph()"))), "theirs");
    let front = terminal.read("saltmarsh/markup/front.html");
    terminal.write(
        "saltmarsh/markup/front.html",
        front.replace("<h1 id=\"greeting\">", "<h1 id=\"greeting\" class=\"fresh\">"),
    );
    window.wait(&site("!!document.querySelector('h1.fresh') && window.stays"));
}

#[test]
fn a_translation_arrives_where_its_language_is_looked_at() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let Some(window) = opened(&preview, "/", 1280) else { return };
    window.press("Escape");
    window.ask::<()>("truehookShell.choose({ language: 'de' });");
    window.wait(&site("document.documentElement.lang === 'de'"));
    let words = terminal.read("saltmarsh/words/de.po");
    let old = words.lines().skip_while(|line| !line.contains("Winter: the northern hides")).nth(1).unwrap();
    terminal.write("saltmarsh/words/de.po", words.replace(old, "msgstr \"Frische Worte\""));
    window.wait(&site("document.body.textContent.includes('Frische Worte') && window.stays"));
}

#[test]
fn findings_come_and_go_with_what_is_broken_and_mended() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let Some(window) = opened(&preview, "/", 1280) else { return };
    let count = drawer(".querySelector('.count').textContent");
    window.wait(&format!("{count} === '0'"));
    let front = terminal.read("saltmarsh/markup/front.html");
    terminal.write("saltmarsh/markup/front.html", front.replace("region:tide-board", "region:tide-baord"));
    window.wait(&format!("{count} === '1'"));
    click(&window, "[data-do=open]");
    click(&window, "[data-tab=findings]");
    let said: String = window.ask(&format!("return {};", drawer(".querySelector('.body').textContent")));
    assert!(said.contains("region:tide-baord") && said.contains("front.html:8"), "{said}");
    // The mend is made by a button.
    click(&window, "[data-do=mend]");
    window.wait(&format!("{count} === '0'"));
    assert_eq!(terminal.read("saltmarsh/markup/front.html"), front);
    click(&window, "[data-do=undo]");
    window.wait(&format!("{count} === '1'"));
    assert!(terminal.read("saltmarsh/markup/front.html").contains("tide-baord"));
    // A module that throws is told, too.
    terminal.write("saltmarsh/markup/front.html", front);
    let code = terminal.read("saltmarsh/code/masthead.js");
    terminal.write(
        "saltmarsh/code/masthead.js",
        code.replacen(
            "return html`<p class=\"ribbon\">",
            "throw new Error(\"no tide\");\n  return html`<p class=\"ribbon\">",
            1,
        ),
    );
    window.wait(&drawer(".querySelector('.body').textContent.includes('no tide')"));
    terminal.write("saltmarsh/code/masthead.js", code);
    window.wait(&format!("{count} === '0'"));
    assert!(stays(&window));
}

#[test]
fn items_are_put_in_and_taken_out_in_the_drawer() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let Some(window) = opened(&preview, "/visit/", 1280) else { return };
    let before = terminal.read("saltmarsh/preview/site.toml");
    click(&window, "[data-do=open]");
    click(&window, "[data-tab=points]");
    window.wait(&site("document.body.textContent.includes('Boots needed')"));
    let items = drawer(".querySelectorAll(`[data-do=remove][data-point='region:aside']`).length");
    window.wait(&format!("{items} > 3"));
    let number: u32 = window.ask(&format!("return {items};"));
    click(&window, "[data-do=remove][data-point='region:aside'][data-at='3']");
    window.wait(&site("!document.body.textContent.includes('Boots needed')"));
    window.wait(&format!("{items} === {}", number - 1));
    click(&window, "[data-do=undo]");
    window.wait(&site("document.body.textContent.includes('Boots needed')"));
    assert_eq!(terminal.read("saltmarsh/preview/site.toml"), before);
    window.wait(&format!("{items} === {number}"));
    click(&window, "[data-do=add][data-point='region:aside']");
    window.wait(&format!("{items} === {}", number + 1));
    assert_ne!(terminal.read("saltmarsh/preview/site.toml"), before);
    assert!(stays(&window));
}

#[test]
fn a_click_tells_where_a_part_came_from() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let Some(window) = opened(&preview, "/", 1280) else { return };
    for (selector, file) in
        [(".ribbon", "code/masthead.js"), ("#greeting", "markup/front.html"), ("footer", "markup/layout.html")]
    {
        window.ask::<()>("truehookShell.drawer.pick(true);");
        window.wait(&site("window.truehookPage.picking === true"));
        window.ask::<()>(&format!("{};", site(&format!("document.querySelector('{selector}').click()"))));
        window.wait(&drawer(&format!(".querySelector('.body').textContent.includes('{file}')")));
        assert_eq!(window.ask::<String>(&format!("return location.pathname + {};", site("location.pathname"))), "//");
    }
}

#[test]
fn choices_are_made_and_kept() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let Some(window) = opened(&preview, "/", 1280) else { return };
    let before = terminal.read("saltmarsh/preview/site.toml");
    click(&window, "[data-do=open]");
    click(&window, "[data-tab=choices]");
    let choose = |name: &str, word: &str| {
        window.wait(&format!("!!{}", drawer(&format!(".querySelector('[name={name}]')"))));
        window.ask::<()>(&format!("const field = {}; field.selectedIndex = [...field.options].findIndex((one) => one.textContent === '{word}'); field.dispatchEvent(new Event('change', {{ bubbles: true }}));", drawer(&format!(".querySelector('[name={name}]')"))));
    };
    choose("option", "night");
    window.wait(&format!(
        "document.cookie.includes('night') && {}",
        site("document.documentElement.outerHTML.includes('night')")
    ));
    assert_eq!(terminal.read("saltmarsh/preview/site.toml"), before);
    click(&window, "[data-do=keep]");
    window.wait("document.cookie.includes('truehook-view=%7B%7D')");
    assert!(terminal.read("saltmarsh/preview/site.toml").contains("scheme = \"night\""));
    click(&window, "[data-do=undo]");
    window.wait("!!truehookShell.drawer.told.view");
    // By night, whatever the system says.
    let shade = "getComputedStyle(document.documentElement).colorScheme";
    choose("scheme", "by night");
    window.wait(&site(&format!("{shade} === 'dark'")));
    choose("scheme", "as the system says");
    window.wait(&site(&format!("{shade} !== 'dark'")));
    assert!(stays(&window));
}

#[test]
fn everything_is_reached_by_keyboard_and_fits_a_phone() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let Some(window) = opened(&preview, "/", 390) else { return };
    let key = |code: &str, key: &str| {
        window.ask::<()>(&format!("const at = document.activeElement.id === 'site' ? document.activeElement.contentDocument.activeElement : document.activeElement; at.dispatchEvent(new at.ownerDocument.defaultView.KeyboardEvent('keydown', {{ code: '{code}', key: '{key}', altKey: true, bubbles: true, composed: true }}));"));
    };
    let width: f64 = window.ask(&format!("return {};", site("document.documentElement.scrollWidth")));
    key("KeyH", "h");
    window.wait(&format!("!{}", drawer(".querySelector('.drawer').hidden")));
    window.wait(&format!("{} === 'tab'", drawer(".activeElement?.getAttribute('role')")));
    // It is beside the page, and as wide as its window at most.
    assert_eq!(window.ask::<f64>(&format!("return {};", site("document.documentElement.scrollWidth"))), width);
    let right: f64 =
        window.ask(&format!("return {};", drawer(".querySelector('.drawer').getBoundingClientRect().right")));
    let left: f64 =
        window.ask(&format!("return {};", drawer(".querySelector('.drawer').getBoundingClientRect().left")));
    assert!(left >= 0.0 && right <= 390.5, "{left} {right}");
    for tab in ["points", "choices", "more"] {
        window.press("Tab");
        click(&window, &format!("[data-tab={tab}]"));
        let wide: bool = window.ask(&format!(
            "const main = {}; return main.scrollWidth > main.clientWidth + 1;",
            drawer(".querySelector('.body')")
        ));
        assert!(!wide, "{tab} is wider than the drawer");
    }
    window.ask::<()>(&format!("{}.focus();", drawer(".querySelector('.body')")));
    window.press("Escape");
    window.wait(&drawer(".querySelector('.drawer').hidden"));
    key("KeyM", "m");
    window.wait(&format!("!{}", drawer(".querySelector('.veil').hidden")));
    window.wait(&format!(
        "{}?.contentDocument?.querySelector('iframe') != null",
        drawer(".querySelector('.veil iframe')")
    ));
    window.press("Escape");
    window.wait(&drawer(".querySelector('.veil').hidden"));
    if let Some(checker) = checker() {
        key("KeyH", "h");
        for tab in ["findings", "points", "choices", "origin", "more"] {
            click(&window, &format!("[data-tab={tab}]"));
            let found: Vec<String> = ours(&window, &checker);
            assert_eq!(found, [] as [&str; 0], "{tab}");
        }
    }
}

/// What the accessibility checker finds in the drawer.
fn ours(window: &Window, checker: &str) -> Vec<String> {
    window.learn(checker);
    window.ask(
        "const found = await axe.run('truehook-drawer', { resultTypes: ['violations'], iframes: false });
        return found.violations.flatMap((one) => one.nodes.map((node) => `${one.id}: ${node.target} ${node.failureSummary}`));",
    )
}

#[test]
fn the_address_follows_links_and_the_way_back() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let Some(window) = opened(&preview, "/", 1280) else { return };
    window.ask::<()>("truehookShell.drawer.open(true);");
    window.ask::<()>(&format!(
        "{};",
        site("[...document.querySelectorAll('a')].find((link) => link.pathname === '/visit/').click()")
    ));
    window.wait("location.pathname === '/visit/' && truehookShell.drawer.told.page === '/visit/'");
    assert!(window.ask::<bool>(&format!(
        "return document.title.length > 3 && window.stays && !{};",
        drawer(".querySelector('.drawer').hidden")
    )));
    window.ask::<()>("history.back();");
    window.wait(&format!("location.pathname === '/' && {}", site("location.pathname === '/'")));
    // Loaded anew, the shell shows the page of its address.
    window.ask::<()>("truehookShell.go('/visit/');");
    window.wait("location.pathname === '/visit/'");
    window.ask::<()>("location.reload();");
    window.wait(&format!(
        "window.stays === undefined && document.readyState === 'complete' && {}",
        site("location.pathname === '/visit/' && document.readyState === 'complete'")
    ));
}

/// What a script of a theme may try, in a browser as people have them.
#[test]
fn a_script_of_the_theme_reaches_nothing_of_the_shell() {
    const ATTACK: &str = r##"<script>
(async () => {
  await new Promise((done) => addEventListener("DOMContentLoaded", done));
  const { shell } = document.querySelector("[data-shell]").dataset;
  const tried = {};
  const attempt = async (name, act) => {
    try {
      tried[name] = String(await act());
    } catch (error) {
      tried[name] = `refused: ${error.name}`;
    }
  };
  const root = `http://localhost:${shell}`;
  const wish = JSON.stringify({ do: "remove", point: "region:aside", at: 1 });
  await attempt("token", async () => (await (await fetch(`${root}/-/now?page=/`)).json()).token);
  await attempt("own port", async () => (await (await fetch("/-/now?page=/")).json()).token);
  await attempt("parent", () => parent.document.cookie);
  await attempt("drawer", () => parent.truehookShell.token);
  await attempt("top", () => { top.location.href = "about:blank"; return "gone"; });
  await attempt("blind", async () => { await fetch(`${root}/-/do`, { method: "POST", mode: "no-cors", body: wish }); return "sent"; });
  await attempt("form", () => {
    const form = Object.assign(document.createElement("form"), { method: "post", action: `${root}/-/do`, target: "_blank" });
    document.body.append(form); form.submit(); return "sent";
  });
  await attempt("own do", async () => (await fetch("/-/do", { method: "POST", body: wish })).status);
  parent.postMessage({ truehook: 1, at: "/-/do", key: "Delete", picked: { tag: {}, text: 1 }, do: "remove" }, "*");
  setInterval(() => parent.postMessage({ tried }, "*"), 50);
})();
</script>
"##;
    let terminal = Terminal::demo();
    let layout = terminal.read("foreshore/markup/layout.html");
    terminal.write(
        "foreshore/markup/layout.html",
        layout.replace("</body>", &format!("{{% raw %}}{ATTACK}{{% endraw %}}</body>")),
    );
    let before = terminal.read("saltmarsh/preview/site.toml");
    let preview = Preview::of(&terminal, "saltmarsh");
    let Some(window) = Window::open(1280, 800) else { return };
    window.go(&preview.address("/"));
    window.wait("document.readyState === 'complete' && window.truehookShell?.token != null");
    window
        .ask::<()>("window.addEventListener('message', ({ data }) => { if (data.tried) window.tried = data.tried; });");
    window.wait("window.tried?.['own do'] != null");
    let tried: serde_json::Value = window.ask("return window.tried;");
    for name in ["token", "own port", "parent", "drawer", "top"] {
        assert!(tried[name].as_str().is_some_and(|what| what.starts_with("refused")), "{name}: {tried:#}");
    }
    assert_eq!(tried["own do"], "405", "{tried:#}");
    assert_eq!(terminal.read("saltmarsh/preview/site.toml"), before);
    assert_eq!(window.ask::<String>("return location.pathname;"), "/");
}
