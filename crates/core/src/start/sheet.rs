//! The style sheet of a theme that just began: type, spacing and colours to build on, and the sketch as a grid.

use std::fmt::Write;

use super::sketch::{Part, Sketch, main};

const BEGINNING: &str = r#"/* Colours by day; those by night come below. */
:root {
  color-scheme: light dark;
  --ink: #22282c;
  --quiet: #55606a;
  --paper: #fdfcf9;
  --band: #f1efe8;
  --line: #d9d6cb;
  --accent: #1d5a78;
  --edge: clamp(1.1rem, 4vw, 3.5rem);
  --sans: "Segoe UI", "Helvetica Neue", "DejaVu Sans", sans-serif;
  --serif: Georgia, "DejaVu Serif", serif;
}

@media (prefers-color-scheme: dark) {
  :root {
    --ink: #e6e4de;
    --quiet: #a9b1b5;
    --paper: #171b1e;
    --band: #1f2529;
    --line: #384147;
    --accent: #8ec5e0;
  }
}

body { display: flex; flex-direction: column; min-height: 100vh; background: var(--paper); color: var(--ink); font: 1.0625rem/1.65 var(--serif); }
a { color: var(--accent); text-decoration-thickness: 1px; }
a:hover { text-decoration-thickness: 2px; }
h1, h2, h3, nav, th, .title-line { font-family: var(--sans); }
h1 { margin: 0 0 0.6em; font-size: clamp(1.9rem, 1.3rem + 2.2vw, 2.75rem); line-height: 1.15; text-wrap: balance; }
h2 { margin: 1.8em 0 0.5em; font-size: 1.35rem; line-height: 1.3; }
h3 { margin: 1.6em 0 0.4em; font-size: 1.08rem; }
p, ul, ol, pre, blockquote, table { margin: 0 0 1.1em; }
code { padding: 0.1em 0.3em; border-radius: 3px; background: var(--band); font-size: 0.88em; }
pre { padding: 0.9em 1.1em; white-space: pre-wrap; border: 1px solid var(--line); border-radius: 5px; background: var(--band); }
pre code { padding: 0; background: none; }
blockquote { margin-inline: 0; padding-inline-start: 1.1em; border-inline-start: 3px solid var(--line); color: var(--quiet); }
th, td { border-bottom: 1px solid var(--line); }

/* What the site is called, and its menu. */
.title-line { display: flex; flex-wrap: wrap; align-items: baseline; gap: 0.2rem 1.2rem; }
header.title-line { padding: 1.1rem var(--edge); border-bottom: 1px solid var(--line); }
.site-name { color: var(--ink); font-size: 1.3rem; font-weight: 700; text-decoration: none; }
.motto { margin: 0; color: var(--quiet); }
nav ul { display: flex; flex-wrap: wrap; gap: 0.2rem 1.5rem; margin: 0; padding: 0; list-style: none; }
nav a { display: inline-block; padding: 0.3rem 0; text-decoration: none; border-bottom: 2px solid transparent; }
nav a:hover { border-bottom-color: currentColor; }
nav [aria-current] { color: var(--ink); border-bottom-color: var(--accent); }

.card h2 { margin: 0 0 0.4em; font-size: 1.05rem; }
.card p { margin: 0; color: var(--quiet); font-size: 0.95rem; }
.card + .card { margin-top: 1.6rem; }

"#;

/// The style sheet for a sketch.
pub(super) fn sheet(sketch: &Sketch) -> String {
    let mut text = BEGINNING.to_string();
    text.push_str("/* The layout: one column where windows are narrow, the sketch where they are wide. */\n");
    text.push_str(".layout { flex: 1; display: flex; flex-direction: column; }\n");
    text.push_str(".layout > * { padding: 1.4rem var(--edge); }\n");
    text.push_str(".main { flex: 1; padding-block: clamp(1.8rem, 4vw, 3.4rem); }\n.main > * { max-width: 42rem; }\n");
    let last = sketch.rows.len() - 1;
    let rim = |part: &&Part| part.address != main() && (part.to.0 == 0 || part.from.0 == last);
    let bands: Vec<String> = sketch.parts.iter().filter(rim).map(|part| format!(".{}", part.name())).collect();
    if !bands.is_empty() {
        let _ = writeln!(text, "{} {{ background: var(--band); }}", bands.join(", "));
    }
    let _ = write!(
        text,
        "\n@media (min-width: 56rem) {{\n  .site-menu {{ margin-inline-start: auto; }}\n  .layout {{\n    display: grid;\n"
    );
    let _ = writeln!(text, "    grid-template-columns: {};", tracks(sketch, false));
    let _ = writeln!(text, "    grid-template-rows: {};", tracks(sketch, true));
    text.push_str("    grid-template-areas:\n");
    for (at, row) in sketch.rows.iter().enumerate() {
        let names: Vec<String> =
            row.iter().map(|cell| cell.map_or(".".to_string(), |at| sketch.parts[at].name())).collect();
        let _ = writeln!(text, "      \"{}\"{}", names.join(" "), if at == last { ";" } else { "" });
    }
    text.push_str("  }\n");
    for part in &sketch.parts {
        let _ = writeln!(text, "  .{0} {{ grid-area: {0}; }}", part.name());
    }
    // What begins beside the text begins at the same height.
    let first = sketch.parts.iter().find(|part| part.address == main()).map(|part| part.from.0);
    let beside = sketch.parts.iter().filter(|part| Some(part.from.0) == first && part.address != main());
    let beside: Vec<String> = beside.map(|part| format!(".{}", part.name())).collect();
    if !beside.is_empty() {
        let _ = writeln!(text, "  {} {{ padding-block: clamp(1.8rem, 4vw, 3.4rem); }}", beside.join(", "));
    }
    text.push_str("}\n");
    text
}

/// The sizes of columns or rows: those of `main` take what is left.
fn tracks(sketch: &Sketch, rows: bool) -> String {
    let Some(main) = sketch.parts.iter().find(|part| part.address == main()) else { return String::new() };
    let (count, from, to) = match rows {
        true => (sketch.rows.len(), main.from.0, main.to.0),
        false => (sketch.rows[0].len(), main.from.1, main.to.1),
    };
    let size = |at: usize| match ((from..=to).contains(&at), rows) {
        (true, true) => "1fr",
        (true, false) => "minmax(0, 1fr)",
        (false, true) => "auto",
        (false, false) => "fit-content(20rem)",
    };
    (0..count).map(size).collect::<Vec<_>>().join(" ")
}
