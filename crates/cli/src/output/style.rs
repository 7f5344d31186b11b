//! Colours, and when they are used.

use anstyle::{AnsiColor, Style};

/// A point, or a heading.
pub const POINT: Style = AnsiColor::Cyan.on_default().bold();
/// What is only there to guide the eye.
pub const QUIET: Style = AnsiColor::BrightBlack.on_default();
/// What went wrong.
pub const ERROR: Style = AnsiColor::Red.on_default().bold();
/// What to do next, and what was added.
pub const NEXT: Style = AnsiColor::Green.on_default();
/// What was taken away.
pub const GONE: Style = AnsiColor::Red.on_default();
