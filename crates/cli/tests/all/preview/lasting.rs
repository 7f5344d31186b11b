//! The preview stays, whatever happens to the theme, to browsers and to workers.

use std::io::{Read, Write};
use std::net::TcpStream;

use serde_json::{Value, json};

use super::Preview;
use crate::fixture::{Terminal, eventually};

#[test]
fn each_kind_of_broken_file_leaves_the_last_good_page() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let good = preview.get("/").text();
    for (file, broken) in [
        ("saltmarsh/truehook.toml", "[theme\n"),
        ("saltmarsh/markup/front.html", "{% block x %}"),
        ("saltmarsh/code/masthead.js", "export function ("),
        ("foreshore/markup/layout.html", "{% if %}"),
        ("saltmarsh/preview/site.toml", "title = "),
    ] {
        let text = terminal.read(file);
        terminal.write(file, broken);
        preview.waits(&format!("{file} is told of"), |preview| preview.now("/")["held"] == true);
        let told = preview.now("/");
        let messages = told["findings"].to_string();
        assert!(messages.contains(file.split_once('/').unwrap().1), "{file}: {messages}");
        let answer = preview.get("/");
        assert_eq!((answer.status, answer.text() == good), (200, true), "{file}");
        terminal.write(file, &text);
        preview.waits(&format!("{file} is mended"), |preview| preview.now("/")["held"] == false);
        assert_eq!(preview.get("/").text(), good, "{file}");
    }
}

#[test]
fn what_is_wrong_with_any_other_file_is_told_and_goes_with_its_mend() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let good = preview.get("/").text();
    let findings = |preview: &Preview| preview.now("/")["findings"].clone();
    let before = findings(&preview);
    for (file, broken) in [
        ("saltmarsh/preview/pages/visit.toml", "path = "),
        ("saltmarsh/words/de.po", "msgid\n"),
        ("saltmarsh/media/saltmarsh.css", "h1 { background: url(nowhere.svg); }"),
        ("tide-kit/truehook.toml", "[companion\n"),
    ] {
        let text = terminal.read(file);
        terminal.write(file, broken);
        let name = file.rsplit('/').next().unwrap();
        preview.waits(&format!("{file} is told of"), |preview| {
            findings(preview).to_string().contains(name) && findings(preview) != before
        });
        assert_eq!(preview.get("/").status, 200, "{file}");
        terminal.write(file, &text);
        preview.waits(&format!("{file} is mended"), |preview| findings(preview) == before);
        assert_eq!(preview.get("/").text(), good, "{file}");
    }
}

#[test]
fn a_theme_that_is_broken_from_the_beginning_is_served_once_it_is_mended() {
    let terminal = Terminal::new();
    let text = terminal.read("marsh/truehook.toml");
    terminal.write("marsh/truehook.toml", "[theme\n");
    let preview = Preview::of(&terminal, "marsh");
    assert!(preview.now("/")["findings"].to_string().contains("not TOML"));
    terminal.write("marsh/truehook.toml", text);
    preview.waits("it is mended", |preview| preview.now("/")["findings"] == json!([]));
    assert_eq!(preview.get("/").status, 200);
}

#[test]
fn a_theme_may_vanish_and_come_back() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let good = preview.get("/").text();
    for _ in 0..2 {
        std::fs::rename(terminal.path("saltmarsh"), terminal.path("elsewhere")).unwrap();
        preview.waits("it is gone", |preview| preview.now("/")["trouble"].is_string());
        assert_eq!(preview.get("/").text(), good);
        assert_eq!(preview.get("/visit/").status, 503);
        std::fs::rename(terminal.path("elsewhere"), terminal.path("saltmarsh")).unwrap();
        preview.waits("it is back", |preview| preview.now("/")["trouble"].is_null());
        assert_eq!(preview.get("/").text(), good);
        // It is watched as before.
        let page = terminal.read("saltmarsh/markup/front.html");
        terminal.write("saltmarsh/markup/front.html", page.replace("<h1", "<h1 data-fresh"));
        preview.waits("it follows", |preview| preview.get("/").text().contains("data-fresh"));
        terminal.write("saltmarsh/markup/front.html", page);
        preview.waits("it follows back", |preview| preview.get("/").text() == good);
    }
}

#[test]
fn many_files_written_in_one_go_are_seen_together() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let before = preview.get("/").text();
    // As another branch: all in the place of all.
    let status = std::process::Command::new("cp")
        .arg("-r")
        .arg(terminal.path("saltmarsh-broken"))
        .arg(terminal.path("next"))
        .status();
    assert!(status.unwrap().success());
    std::fs::rename(terminal.path("saltmarsh"), terminal.path("last")).unwrap();
    std::fs::rename(terminal.path("next"), terminal.path("saltmarsh")).unwrap();
    let alone = Preview::of(&terminal, "saltmarsh-broken");
    let wanted = |preview: &Preview| {
        let text = preview.get("/").text();
        text.split("<body").nth(1).map(|body| body.replace("saltmarsh-broken", "saltmarsh")).unwrap_or_default()
    };
    assert_ne!(wanted(&alone), before);
    preview.waits("the other branch is there", |preview| wanted(preview) == wanted(&alone));
}

#[test]
fn two_hundred_requests_at_once_are_all_answered() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let pages = ["/", "/visit/", "/log/", "/species/avocet/"];
    std::thread::scope(|scope| {
        let asked: Vec<_> = (0..200)
            .map(|at| {
                let preview = &preview;
                scope.spawn(move || preview.get(pages[at % pages.len()]).status)
            })
            .collect();
        assert!(asked.into_iter().all(|thread| thread.join().unwrap() == 200));
    });
}

#[cfg(unix)]
#[test]
fn a_page_that_takes_long_does_not_hold_up_the_others() {
    // Longer than the test: nothing hangs on which is quicker.
    let terminal = Terminal::new()
        .manifest("[limits]\ncallback-milliseconds = 600000\npage-milliseconds = 600000\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"slow.js#slow\"\nwhen = \"page.path == '/slow/'\"\n")
        .file("marsh/code/slow.js", "export function slow() { for (;;); }\n")
        .file("marsh/preview/pages/slow.toml", "path = \"/slow/\"\ntype = \"page\"\ntitle = \"Slow\"\n")
        .file("marsh/preview/pages/quick.toml", "path = \"/quick/\"\ntype = \"page\"\ntitle = \"Quick\"\n");
    let mut preview = Preview::of(&terminal, "marsh");
    assert_eq!(preview.get("/quick/").status, 200);
    let mut slow = TcpStream::connect(("127.0.0.1", preview.site)).unwrap();
    write!(slow, "GET /slow/ HTTP/1.1\r\nHost: localhost:{}\r\nConnection: close\r\n\r\n", preview.site).unwrap();
    std::thread::sleep(std::time::Duration::from_millis(300));
    for _ in 0..20 {
        assert_eq!(preview.get("/quick/").status, 200);
    }
    terminal.write("marsh/preview/pages/quick.toml", "path = \"/quick/\"\ntype = \"page\"\ntitle = \"Quicker\"\n");
    assert_eq!(preview.get("/quick/").status, 200);
    slow.set_nonblocking(true).unwrap();
    assert_eq!(slow.read(&mut [0]).unwrap_err().kind(), std::io::ErrorKind::WouldBlock, "the slow page was done first");
    let workers = children(&preview.child.id().to_string());
    preview.child.kill().unwrap();
    // One of them would go on until its limit.
    drop(std::process::Command::new("kill").arg("-KILL").args(workers).stderr(std::process::Stdio::null()).status());
}

/// How much more the server and its workers may hold after very many redraws.
#[cfg(target_os = "linux")]
#[test]
fn redraws_without_end_keep_nothing() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let own = preview.child.id().to_string();
    let held = || {
        let of = |id: &String| {
            let status = std::fs::read_to_string(format!("/proc/{id}/status")).unwrap_or_default();
            let line = status.lines().find_map(|line| line.strip_prefix("VmRSS:")).unwrap_or_default().to_string();
            line.trim().trim_end_matches(" kB").parse::<f64>().unwrap_or_default()
        };
        std::iter::once(own.clone()).chain(children(&own)).map(|id| of(&id)).sum::<f64>()
    };
    // TRUEHOOK_REDRAWS=2000 takes some minutes.
    let many: usize = std::env::var("TRUEHOOK_REDRAWS").ok().and_then(|many| many.parse().ok()).unwrap_or(150);
    let text = terminal.read("saltmarsh/markup/front.html");
    let mut begun = 0.0;
    for at in 0..200 + many {
        if at == 200 {
            begun = held();
        }
        terminal.write("saltmarsh/markup/front.html", text.replace("<h1", &format!("<h1 data-fresh=\"{at}\"")));
        preview.waits("it follows", |preview| preview.get("/").text().contains(&format!("data-fresh=\"{at}\"")));
    }
    let ended = held();
    assert!(ended < begun * 1.1, "{begun} kB, and then {ended} kB");
}

#[test]
fn memory_comes_in_small_pages() {
    let terminal = Terminal::new();
    let preview = Preview::of(&terminal, "marsh");
    preview.get("/");
    let own = preview.child.id().to_string();
    for id in std::iter::once(own.clone()).chain(children(&own)) {
        let status = std::fs::read_to_string(format!("/proc/{id}/status")).unwrap_or_default();
        // Systems other than Linux, and old ones, don't say.
        let said = status.lines().find_map(|line| line.strip_prefix("THP_enabled:")).unwrap_or("0");
        assert_eq!(said.trim(), "0", "process {id}");
    }
}

#[test]
fn browsers_that_go_away_leave_nothing_behind() {
    let terminal = Terminal::new();
    let preview = Preview::of(&terminal, "marsh");
    for _ in 0..100 {
        let mut stream = TcpStream::connect(("127.0.0.1", preview.port)).unwrap();
        write!(stream, "GET /-/changes HTTP/1.1\r\nHost: localhost:{}\r\n\r\n", preview.port).unwrap();
        let mut some = [0; 64];
        let _ = stream.read(&mut some);
    }
    terminal.write(
        "marsh/markup/page.html",
        "{% extends \"layout.html\" %}{% block main %}{{ super() }}anew{% endblock %}",
    );
    preview.waits("it follows", |preview| preview.get("/").text().contains("anew"));
}

#[test]
fn what_is_put_in_and_taken_out_is_written_as_by_command() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let before = terminal.read("saltmarsh/preview/site.toml");
    let points = preview.now("/")["points"].clone();
    let aside = points.as_array().unwrap().iter().find(|point| point["address"] == "region:aside").unwrap().clone();
    assert_eq!(aside["items"].as_array().unwrap().len(), 4, "{aside}");
    let offer =
        aside["offers"].as_array().unwrap().iter().find(|offer| offer["component"] == "piece:note").unwrap().clone();
    let wish = json!({ "do": "add", "point": "region:aside", "component": "piece:note", "offer": offer["label"] });
    assert_eq!(preview.wishes(&wish).status, 200);
    let label = offer["label"].as_str().unwrap();
    let added = terminal.read("saltmarsh/preview/site.toml");
    let other = Terminal::demo();
    other.types_in("saltmarsh", &format!("fill region:aside piece:note --offer '{label}'")).ends(0);
    assert_eq!(added, other.read("saltmarsh/preview/site.toml"));
    assert_eq!(preview.wishes(&json!({ "do": "remove", "point": "region:aside", "at": 5 })).status, 200);
    assert_eq!(terminal.read("saltmarsh/preview/site.toml"), before);
    assert_eq!(preview.wishes(&json!({ "do": "undo" })).status, 200);
    assert_eq!(terminal.read("saltmarsh/preview/site.toml"), added);
    // Nobody's work is taken back.
    terminal.write("saltmarsh/preview/site.toml", format!("{added}\n# mine\n"));
    let answer = preview.wishes(&json!({ "do": "undo" }));
    assert!(answer.status == 409 && answer.text().contains("was changed since"), "{}", answer.text());
    assert_eq!(terminal.read("saltmarsh/preview/site.toml"), format!("{added}\n# mine\n"));
}

#[test]
fn points_tell_what_each_step_made_of_a_value() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let points = preview.now("/")["points"].clone();
    let steps: Vec<Value> =
        points.as_array().unwrap().iter().flat_map(|point| point["steps"].as_array().unwrap().clone()).collect();
    let changed = |name: &str| steps.iter().find(|step| step["name"] == name).unwrap()["changed"].clone();
    assert_eq!(
        changed("masthead.js#withPlace"),
        json!({ "before": "\"Tides, mud and birds\"", "after": "\"Tides, mud and birds, Merrowholm\"" })
    );
}

#[cfg(unix)]
#[test]
fn an_interrupt_ends_it_at_once_and_its_workers_with_it() {
    let terminal = Terminal::demo();
    let mut preview = Preview::of(&terminal, "saltmarsh");
    assert_eq!(preview.get("/").status, 200);
    let mut stream = TcpStream::connect(("127.0.0.1", preview.port)).unwrap();
    write!(stream, "GET /-/changes HTTP/1.1\r\nHost: localhost\r\n\r\n").unwrap();
    let own = preview.child.id().to_string();
    let workers = children(&own);
    assert!(!workers.is_empty());
    let status = std::process::Command::new("kill").args(["-INT", &own]).status().unwrap();
    assert!(status.success());
    assert!(preview.child.wait().unwrap().success());
    let gone = |id: &String| !std::path::Path::new(&format!("/proc/{id}/exe")).exists();
    let all_gone = || workers.iter().all(gone);
    eventually("its workers are gone", all_gone);
}

/// The processes that a process has started.
#[cfg(unix)]
fn children(own: &str) -> Vec<String> {
    let all = std::fs::read_dir("/proc").into_iter().flatten().flatten();
    let ids = all.filter_map(|entry| entry.file_name().into_string().ok());
    let parent = |id: &String| {
        let status = std::fs::read_to_string(format!("/proc/{id}/status")).unwrap_or_default();
        status.lines().any(|line| line.strip_prefix("PPid:").is_some_and(|parent| parent.trim() == own))
    };
    ids.filter(parent).collect()
}

#[test]
fn a_view_is_one_browsers_own_until_it_is_kept() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let plain = preview.get("/").text();
    let view = json!({ "options": { "scheme": "night" }, "language": "de", "menus": { "menu:masthead": "small" } });
    let cookie = format!(
        "Cookie: truehook-view={}",
        percent_encoding::utf8_percent_encode(&view.to_string(), percent_encoding::NON_ALPHANUMERIC)
    );
    let chosen = preview.asks("GET", "/", &[&cookie], b"").text();
    assert_ne!(chosen, plain);
    assert!(chosen.contains("lang=\"de\"") && chosen.contains("night"), "{chosen}");
    assert_eq!(preview.get("/").text(), plain);
    assert_eq!(preview.wishes(&json!({ "do": "keep", "view": view })).status, 200);
    preview.waits("it is kept", |preview| preview.get("/").text() == chosen);
    let site = terminal.read("saltmarsh/preview/site.toml");
    assert!(site.contains("scheme = \"night\"") && site.contains("\"menu:masthead\"     = \"small\""), "{site}");
    assert_eq!(preview.wishes(&json!({ "do": "undo" })).status, 200);
    preview.waits("it is taken back", |preview| preview.get("/").text() == plain);
}

#[test]
fn the_map_the_desk_and_the_atlas_are_there_as_they_are_now() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    for (path, words) in
        [("/-/map?page=/visit/", "region:aside"), ("/-/desk", "piece:spotlight"), ("/-/atlas", "hook:under-masthead")]
    {
        let answer = preview.get(path);
        assert_eq!(answer.status, 200, "{path}: {}", answer.text());
        assert!(answer.text().contains(words), "{path}");
    }
    assert_eq!(preview.get("/-/map?page=/nix/").status, 404);
}

#[test]
fn render_watch_writes_again_what_has_changed() {
    let terminal = Terminal::demo();
    let mut command = terminal.command("saltmarsh", "render --into ../out --watch");
    let mut child = command.stdout(std::process::Stdio::null()).stderr(std::process::Stdio::null()).spawn().unwrap();
    let front = || std::fs::read_to_string(terminal.path("out/index.html")).unwrap_or_default();
    eventually("the page is written", || front().contains("</html>") && terminal.path("out/.truehook-site").exists());
    std::thread::sleep(std::time::Duration::from_millis(1500));
    let text = terminal.read("foreshore/markup/layout.html");
    terminal.write("foreshore/markup/layout.html", text.replace("<body", "<body data-fresh"));
    eventually("it follows a layer below", || front().contains("data-fresh"));
    // What is broken leaves the last page, and what is mended goes on.
    let manifest = terminal.read("saltmarsh/truehook.toml");
    std::fs::remove_file(terminal.path("saltmarsh/truehook.toml")).unwrap();
    std::thread::sleep(std::time::Duration::from_millis(500));
    assert!(front().contains("data-fresh"));
    terminal.write("saltmarsh/truehook.toml", manifest);
    terminal.write("foreshore/markup/layout.html", text);
    eventually("it goes on", || !front().is_empty() && !front().contains("data-fresh"));
    child.kill().unwrap();
    child.wait().unwrap();
    terminal.types("render --watch /").ends(2).says("--into");
}
