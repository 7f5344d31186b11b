//! To whom the preview answers, and what it never serves.

use serde_json::json;

use super::{Preview, free_port};
use crate::fixture::Terminal;

#[test]
fn it_listens_on_loopback_alone() {
    let terminal = Terminal::new();
    let preview = Preview::of(&terminal, "marsh");
    let Ok(sockets) = std::fs::read_to_string("/proc/net/tcp") else { return };
    let port = format!(":{:04X}", preview.port);
    let listening = sockets.lines().filter_map(|line| line.split_whitespace().nth(1)).filter(|at| at.ends_with(&port));
    let listening: Vec<&str> = listening.collect();
    assert!(!listening.is_empty() && listening.iter().all(|at| at.starts_with("0100007F")), "{listening:?}");
}

#[test]
fn it_answers_only_to_names_of_this_machine() {
    let terminal = Terminal::new();
    let preview = Preview::of(&terminal, "marsh");
    for host in ["example.org", "localhost.example.org", "192.168.0.2", ""] {
        let answer = preview.asks("GET", "/", &[&format!("Host: {host}")], b"");
        assert_eq!(answer.status, 403, "{host}");
        assert!(!answer.text().contains("<html"), "{host}");
    }
    for host in ["localhost", "127.0.0.1", "[::1]"] {
        assert_eq!(preview.asks("GET", "/", &[&format!("Host: {host}")], b"").status, 200, "{host}");
    }
}

#[test]
fn pages_of_other_origins_learn_nothing_and_change_nothing() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let before = terminal.read("saltmarsh/preview/site.toml");
    let wish = json!({ "do": "remove", "point": "region:aside", "at": 1 }).to_string();
    let token = format!("X-Truehook-Token: {}", preview.now("/")["token"].as_str().unwrap());
    let forged: [&[&str]; 4] = [
        &[],
        &["X-Truehook-Token: guessed"],
        &[&token, "Origin: http://example.org"],
        &[&token, "Sec-Fetch-Site: cross-site"],
    ];
    for more in forged {
        assert_eq!(preview.asks("POST", "/-/do", more, wish.as_bytes()).status, 403, "{more:?}");
    }
    assert_eq!(terminal.read("saltmarsh/preview/site.toml"), before);
    for path in ["/-/now?page=/", "/-/shell.js", "/-/map?page=/"] {
        let answer = preview.asks("GET", path, &["Origin: http://example.org"], b"");
        assert_eq!(answer.status, 403, "{path}");
        let answer = preview.asks("GET", path, &["Sec-Fetch-Site: cross-site"], b"");
        assert_eq!(answer.status, 403, "{path}");
    }
    let (page, shell) = (preview.get("/"), preview.asks_at(preview.port, "GET", "/", &[], b""));
    for answer in [&page, &shell] {
        assert!(answer.headers.contains("cross-origin-resource-policy: same-origin"), "{}", answer.headers);
        assert!(!answer.headers.contains("access-control-allow-origin"), "{}", answer.headers);
    }
    assert!(shell.headers.contains("x-frame-options: deny"), "{}", shell.headers);
    assert!(shell.headers.contains("frame-ancestors 'none'"), "{}", shell.headers);
    assert!(
        page.headers.contains(&format!("frame-ancestors 'self' http://localhost:{}", preview.port)),
        "{}",
        page.headers
    );
    // The shell shows nothing of the theme by itself, and the pages' port writes nothing.
    assert!(!shell.text().contains("masthead") && page.text().contains("masthead"));
    assert_eq!(preview.asks_at(preview.site, "POST", "/-/do", &[&token], wish.as_bytes()).status, 405);
    assert_eq!(preview.asks_at(preview.site, "GET", "/-/now?page=/", &[], b"").status, 404);
}

#[test]
fn nothing_outside_of_the_layers_is_served() {
    let terminal = Terminal::demo().file("secret.txt", "nobody's").file("saltmarsh/media/plain.txt", "ours");
    #[cfg(unix)]
    std::os::unix::fs::symlink(terminal.path("secret.txt"), terminal.path("saltmarsh/media/way-out.txt")).unwrap();
    let manifest = "\n[[attach]]\nto = \"hook:document-end\"\ncall = \"ways.js#ways\"\n";
    let terminal = terminal.manifest(manifest).file(
        "saltmarsh/code/ways.js",
        "import { asset, html } from \"truehook\";\nexport const ways = () => html`<i data-a=\"${asset(\"media/plain.txt\")}\"></i>`;\n",
    );
    let preview = Preview::of(&terminal, "saltmarsh");
    let page = preview.get("/").text();
    let plain = page.split("data-a=\"").nth(1).and_then(|rest| rest.split(['"', '?']).next()).unwrap();
    assert_eq!(preview.get(&format!("/{plain}")).text(), "ours");
    // Put in the place of a file that pages refer to, a link leads nowhere.
    #[cfg(unix)]
    {
        std::fs::remove_file(terminal.path("saltmarsh/media/plain.txt")).unwrap();
        std::os::unix::fs::symlink(terminal.path("secret.txt"), terminal.path("saltmarsh/media/plain.txt")).unwrap();
    }
    let up = plain.replace("plain.txt", "../truehook.toml");
    for path in [
        "/../secret.txt",
        "/%2e%2e/secret.txt",
        "/..%2fsecret.txt",
        "/truehook.toml",
        "/saltmarsh/truehook.toml",
        "/saltmarsh/media/way-out.txt",
        "/media/way-out.txt",
        &format!("/{up}"),
        &format!("/{plain}"),
        "/code/station.js",
        "/%00",
        "//etc/passwd",
    ] {
        let answer = preview.get(path);
        assert_ne!(answer.status, 200, "{path}: {}", answer.text());
        assert!(!answer.text().contains("nobody's") && !answer.text().contains("[theme]"), "{path}");
    }
}

#[test]
fn what_it_takes_is_limited_and_bad_requests_are_told() {
    let terminal = Terminal::demo();
    let preview = Preview::of(&terminal, "saltmarsh");
    let token = format!("X-Truehook-Token: {}", preview.now("/")["token"].as_str().unwrap());
    let before = terminal.read("saltmarsh/preview/site.toml");
    for (body, status) in [
        (vec![b'x'; 200_000], 413),
        (b"{".to_vec(), 400),
        (b"{\"do\":\"fly\"}".to_vec(), 400),
        (b"[]".to_vec(), 400),
        (json!({ "do": "remove", "point": "region:aside", "at": 99 }).to_string().into_bytes(), 409),
        (json!({ "do": "remove", "point": "region:aside", "at": 0 }).to_string().into_bytes(), 409),
        (
            json!({ "do": "add", "point": "region:nix", "component": "piece:note", "offer": "x" })
                .to_string()
                .into_bytes(),
            409,
        ),
        (json!({ "do": "undo" }).to_string().into_bytes(), 409),
    ] {
        let answer = preview.asks("POST", "/-/do", &[&token], &body);
        assert_eq!(answer.status, status, "{}", answer.text());
    }
    assert_eq!(terminal.read("saltmarsh/preview/site.toml"), before);
    // A cookie that is none of ours, or too long, is as if it was not there.
    let plain = preview.get("/").text();
    for cookie in ["truehook-view=%7B", "truehook-view={\"options\":3}", &format!("truehook-view={}", "x".repeat(7000))]
    {
        assert_eq!(preview.asks("GET", "/", &[&format!("Cookie: {cookie}")], b"").text(), plain, "{cookie}");
    }
    let escaped = preview.get("/%3Cscript%3Ealert(1)%3C/script%3E/");
    assert_eq!(escaped.status, 404);
    assert!(!escaped.text().contains("<script>alert"), "{}", escaped.text());
}

#[test]
fn it_begins_only_where_there_is_a_theme_and_a_port() {
    let terminal = Terminal::new().file("empty/notes.txt", "");
    terminal.types_in("empty", "-C ../empty preview").ends(2).says("no truehook.toml");
    terminal.types_in("empty", "-C ../nowhere preview").ends(2);
    for port in ["0", "70000", "x"] {
        terminal.types(&format!("preview --port {port}")).ends(2);
    }
}

#[test]
fn a_port_in_use_gives_way_to_the_next() {
    let terminal = Terminal::new();
    let port = free_port();
    let first = Preview::at(&terminal, "marsh", port);
    let second = Preview::at(&terminal, "marsh", port);
    assert_eq!(first.port, port);
    assert!(second.port > port, "{}", second.said);
    assert_eq!(second.get("/").status, 200);
}

/// Whoever sends slowly keeps a place for a while only, however few there are.
#[cfg(unix)]
#[test]
fn slow_clients_shut_nobody_out() {
    use std::io::{BufRead, BufReader, Write};
    use std::net::TcpStream;
    use std::process::{Command, Stdio};

    let terminal = Terminal::new();
    let program = assert_cmd::cargo::cargo_bin!("truehook");
    let typed = format!("ulimit -n 64; exec {} preview --port {}", program.display(), free_port());
    let mut command = Command::new("sh");
    command.args(["-c", &typed]).current_dir(terminal.path("marsh")).stdout(Stdio::piped()).stderr(Stdio::null());
    let mut child = command.spawn().unwrap();
    let mut said = String::new();
    BufReader::new(child.stdout.as_mut().unwrap()).read_line(&mut said).unwrap();
    let port = |at: usize| -> u16 {
        said.split("http://localhost:").nth(at).and_then(|rest| rest.split('/').next()?.parse().ok()).unwrap()
    };
    let preview = Preview { child, port: port(1), site: port(2), said: said.clone() };
    let slow: Vec<TcpStream> = (0..100)
        .filter_map(|at| {
            let mut stream =
                TcpStream::connect(("127.0.0.1", if at % 2 == 0 { preview.port } else { preview.site })).ok()?;
            stream.write_all(b"GET / HTTP/1.1\r\nHost: local").ok()?;
            Some(stream)
        })
        .collect();
    assert!(slow.len() > 60, "{}", slow.len());
    assert_eq!(preview.get("/").status, 200);
    assert!(preview.now("/")["token"].is_string());
    drop(slow);
}
