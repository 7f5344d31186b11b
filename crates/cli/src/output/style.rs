//! Colours, and when they are used.

use std::fmt;

use anstyle::{AnsiColor, Style};

use super::stream::own;

/// How a piece of text looks on a terminal that shows colours.
#[derive(Clone, Copy)]
pub struct Look(Style);

/// What turns a look on, or off.
pub struct Switch(String);

impl Look {
    /// What turns it on.
    pub fn render(&self) -> Switch {
        Switch(own(&self.0.render().to_string()))
    }

    /// What turns it off.
    pub fn render_reset(&self) -> Switch {
        Switch(own(&self.0.render_reset().to_string()))
    }
}

impl fmt::Display for Switch {
    fn fmt(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str(&self.0)
    }
}

/// A point, or a heading.
pub const POINT: Look = Look(AnsiColor::Cyan.on_default().bold());
/// What is only there to guide the eye.
pub const QUIET: Look = Look(AnsiColor::BrightBlack.on_default());
/// What went wrong.
pub const ERROR: Look = Look(AnsiColor::Red.on_default().bold());
/// What to do next, and what was added.
pub const NEXT: Look = Look(AnsiColor::Green.on_default());
/// What was taken away.
pub const GONE: Look = Look(AnsiColor::Red.on_default());
/// What looks like all else.
pub const PLAIN: Look = Look(Style::new());
