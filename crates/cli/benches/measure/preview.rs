//! What the live preview costs: from a write to the redrawn page in a browser, answers in a second, and memory after
//! very many redraws.

use std::fs;
use std::io::{self, BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::process::{Child, Command, Stdio};
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use camino::Utf8Path;
use truehook_browser::Browser;
use truehook_core::link::Registry;
use truehook_core::read::{DiskFiles, Project};
use truehook_stage::Stage;

use crate::stage::copy;
use crate::tree::{Size, write};

/// How many edits are made of each kind.
const EDITS: usize = 9;
/// For how long answers are counted, and over how many connections.
const LOAD: Duration = Duration::from_secs(3);
const CONNECTIONS: usize = 4;
/// Where memory is looked at.
const STOPS: [usize; 3] = [200, 1_200, 2_200];

/// A preview that runs.
struct Preview {
    child: Child,
    port: u16,
}

impl Drop for Preview {
    fn drop(&mut self) {
        drop(self.child.kill());
        drop(self.child.wait());
    }
}

impl Preview {
    fn of(program: &str, theme: &Utf8Path) -> io::Result<Preview> {
        let mut child = Command::new(program).args(["-C", theme.as_str(), "preview"]).stdout(Stdio::piped()).spawn()?;
        let mut said = String::new();
        BufReader::new(child.stdout.as_mut().ok_or(io::ErrorKind::BrokenPipe)?).read_line(&mut said)?;
        // The second is that of the theme's pages.
        let port = said.split("http://localhost:").nth(2).and_then(|rest| rest.split('/').next()?.parse().ok());
        Ok(Preview { child, port: port.ok_or(io::ErrorKind::InvalidData)? })
    }

    /// The length of an answer, over a connection that stays.
    fn get(&self, stream: &mut BufReader<TcpStream>, path: &str) -> io::Result<usize> {
        let asked = format!("GET {path} HTTP/1.1\r\nHost: localhost:{}\r\n\r\n", self.port);
        stream.get_mut().write_all(asked.as_bytes())?;
        let mut length = 0;
        loop {
            let mut line = String::new();
            stream.read_line(&mut line)?;
            if let Some(value) = line.to_ascii_lowercase().strip_prefix("content-length:") {
                length = value.trim().parse().unwrap_or(0);
            }
            if line.trim().is_empty() {
                break;
            }
        }
        let mut body = vec![0; length];
        stream.read_exact(&mut body)?;
        Ok(length)
    }

    fn connect(&self) -> io::Result<BufReader<TcpStream>> {
        let stream = TcpStream::connect(("127.0.0.1", self.port))?;
        stream.set_nodelay(true)?;
        Ok(BufReader::new(stream))
    }

    /// What the server and its workers hold, in MiB.
    fn memory(&self) -> f64 {
        let own = self.child.id().to_string();
        let of = |id: &str| {
            let status = fs::read_to_string(format!("/proc/{id}/status")).unwrap_or_default();
            let field = |name: &str| {
                status.lines().find_map(|line| line.strip_prefix(name)).map(|line| line.trim().to_string())
            };
            let held = field("VmRSS:").and_then(|line| line.trim_end_matches(" kB").parse::<f64>().ok());
            (field("PPid:").unwrap_or_default(), held.unwrap_or_default())
        };
        let all = fs::read_dir("/proc").into_iter().flatten().flatten().map(|entry| entry.file_name());
        let all = all
            .filter_map(|name| name.into_string().ok())
            .filter(|name| name.bytes().all(|byte| byte.is_ascii_digit()));
        let mine = all.map(|id| (of(&id), id)).filter(|((parent, _), id)| *parent == own || *id == own);
        mine.map(|((_, held), _)| held).sum::<f64>() / 1024.0
    }
}

/// Prints all three.
///
/// # Errors
/// Where the system refuses.
pub fn print(folder: &Utf8Path, program: &str) -> io::Result<()> {
    let demo = Utf8Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo"));
    copy(demo, &folder.join("demo"))?;
    let small = folder.join("demo/saltmarsh");
    let large = folder.join("large");
    write(&large, Size { templates: 2_000, modules: 400 }, 1)?;
    add_light_pages(&large)?;
    println!("| from a write to the redrawn page | style | template |\n| --- | --- | --- |");
    let demo_edits = [("media/saltmarsh.css", ""), ("markup/front.html", "<h1")];
    row("the demo", program, &small, "/", &demo_edits)?;
    let edits = [("media/light.css", ""), ("markup/list.html", "<h2")];
    row("2,000 templates, 1,000 pages", program, &large, "/light/7/", &edits)?;
    let preview = Preview::of(program, &small)?;
    println!("\n| answers a second, over {CONNECTIONS} connections | |\n| --- | --- |");
    println!("| a page, between two changes | {:.0} |", load(&preview, "/")?);
    let stage = Stage::new(Arc::new(Registry::new(
        Project::open(&DiskFiles, &small).map_err(|error| io::Error::other(error.to_string()))?,
    )));
    let (begun, mut pages) = (Instant::now(), 0);
    while begun.elapsed() < LOAD {
        std::hint::black_box(stage.render("/"));
        pages += 1;
    }
    println!("| the same page, rendered each time on one thread | {:.0} |", f64::from(pages) / LOAD.as_secs_f64());
    println!("\n| redraws | memory of server and workers |\n| --- | --- |");
    redraws(&preview, &small)
}

/// Pages as people have them: all partials of the tree are on its own pages.
fn add_light_pages(theme: &Utf8Path) -> io::Result<()> {
    let manifest = theme.join("truehook.toml");
    let text = fs::read_to_string(&manifest)?;
    fs::create_dir_all(theme.join("media"))?;
    fs::write(theme.join("media/light.css"), "h2 { color: teal }\n")?;
    fs::write(manifest, format!("{text}\n[style.light]\nfile = \"light.css\"\n"))?;
    let list = "{% extends \"layout.html\" %}\n{% block main %}<h2>{{ page.title }}</h2>{% for n in range(40) %}<p>{{ n }}</p>{% endfor %}{{ super() }}{% endblock %}\n";
    fs::write(theme.join("markup/list.html"), list)?;
    for at in 0..1_000 {
        let page = format!("path = \"/light/{at}/\"\ntype = \"list\"\ntitle = \"Page {at}\"\n");
        fs::write(theme.join(format!("preview/pages/light-{at}.toml")), page)?;
    }
    Ok(())
}

fn row(name: &str, program: &str, theme: &Utf8Path, page: &str, edits: &[(&str, &str)]) -> io::Result<()> {
    let preview = Preview::of(program, theme)?;
    let failed = |error: truehook_browser::Failed| io::Error::other(error.to_string());
    let Some(mut browser) = Browser::start().map_err(failed)? else {
        println!("| {name} | there is no Chromium here | |");
        return Ok(());
    };
    browser.go(&format!("http://localhost:{}{page}", preview.port)).map_err(failed)?;
    std::thread::sleep(Duration::from_secs(2));
    let mut medians = Vec::new();
    for (file, mark) in edits {
        let path = theme.join(file);
        if !path.exists() {
            medians.push("there is none".to_string());
            continue;
        }
        let text = fs::read_to_string(&path)?;
        let mut times = Vec::new();
        for at in 0..EDITS {
            let (new, seen) = match mark.is_empty() {
                true => (
                    format!("{text}\nbody {{ border-top: {}px solid }}\n", at + 1),
                    format!("getComputedStyle(document.body).borderTopWidth === '{}px'", at + 1),
                ),
                false => (
                    text.replacen(mark, &format!("{mark} data-fresh=\"{at}\""), 1),
                    format!("document.querySelector('[data-fresh]')?.dataset.fresh === '{at}'"),
                ),
            };
            // The page itself notes when it is so: whoever asks it from outside asks now and then.
            let wait = format!(
                "window.seen = (async () => {{ while (!({seen})) await new Promise((go) => setTimeout(go, 1)); \
                 return performance.timeOrigin + performance.now(); }})(); 0"
            );
            browser.evaluate(&wait).map_err(failed)?;
            let begun = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default().as_secs_f64() * 1e3;
            fs::write(&path, new)?;
            let ended = browser.evaluate("window.seen").map_err(failed)?.as_f64();
            times.push(ended.unwrap_or(f64::NAN) - begun);
            std::thread::sleep(Duration::from_millis(200));
        }
        fs::write(&path, &text)?;
        std::thread::sleep(Duration::from_millis(300));
        times.sort_by(f64::total_cmp);
        medians.push(format!("{:.0} ms", times[EDITS / 2]));
    }
    println!("| {name} | {} |", medians.join(" | "));
    Ok(())
}

/// How many answers there are in a second.
fn load(preview: &Preview, path: &str) -> io::Result<f64> {
    let answers = AtomicUsize::new(0);
    let begun = Instant::now();
    std::thread::scope(|scope| {
        for _ in 0..CONNECTIONS {
            scope.spawn(|| {
                let Ok(mut stream) = preview.connect() else { return };
                while begun.elapsed() < LOAD && preview.get(&mut stream, path).is_ok() {
                    answers.fetch_add(1, Ordering::Relaxed);
                }
            });
        }
    });
    Ok(answers.load(Ordering::Relaxed) as f64 / begun.elapsed().as_secs_f64())
}

/// Edits a template again and again, each time with words that were never there, and asks for the page.
fn redraws(preview: &Preview, theme: &Utf8Path) -> io::Result<()> {
    let path = theme.join("markup/front.html");
    let text = fs::read_to_string(&path)?;
    let mut stream = preview.connect()?;
    for at in 1..=STOPS[STOPS.len() - 1] {
        fs::write(&path, text.replacen("<h1", &format!("<h1 data-fresh=\"{at}\""), 1))?;
        // As soon as the change is heard of.
        for _ in 0..400 {
            std::thread::sleep(Duration::from_millis(4));
            preview.get(&mut stream, "/")?;
            if is_fresh(preview, at)? {
                break;
            }
        }
        if STOPS.contains(&at) {
            println!("| {at} | {:.1} MiB |", preview.memory());
        }
    }
    fs::write(&path, text)
}

fn is_fresh(preview: &Preview, at: usize) -> io::Result<bool> {
    let mut stream = TcpStream::connect(("127.0.0.1", preview.port))?;
    write!(stream, "GET / HTTP/1.1\r\nHost: localhost:{}\r\nConnection: close\r\n\r\n", preview.port)?;
    let mut all = Vec::new();
    stream.read_to_end(&mut all)?;
    Ok(String::from_utf8_lossy(&all).contains(&format!("data-fresh=\"{at}\"")))
}
