//! The commands, one file each.

mod adopt;
mod atlas;
mod attach;
pub mod check;
mod declare;
mod demo;
mod desk;
mod detach;
mod emit;
mod explain;
mod fill;
mod fire;
mod from_pages;
mod list;
mod lsp;
mod map;
mod new;
mod origin;
mod place;
mod preview;
mod rename;
mod render;
mod replace;
mod shelf;
mod show;
mod trace;
mod why;
mod withdraw;

use anyhow::Result;

use crate::Outcome;
use crate::args::{Arguments, Command};

/// Carries out a command.
pub fn run(arguments: Arguments) -> Result<Outcome> {
    let theme = arguments.theme.as_deref();
    match arguments.command {
        Command::Demo(args) => demo::run(&args),
        Command::New(args) => new::run(&args),
        Command::Declare(args) => declare::run(theme, &args),
        Command::Attach(args) => attach::run(theme, &args),
        Command::Detach(args) => detach::run(theme, &args),
        Command::Place(args) => place::run(theme, &args),
        Command::Fill(args) => fill::run(theme, &args),
        Command::Rename(args) => rename::run(theme, &args),
        Command::Withdraw(args) => withdraw::run(theme, &args),
        Command::Replace(args) => replace::run(theme, &args),
        Command::Adopt(args) => adopt::run(theme, &args),
        Command::Check(args) => check::run(theme, &args),
        Command::Why(args) => why::run(theme, &args),
        Command::Explain(args) => explain::run(theme, &args),
        Command::List(args) => list::run(theme, &args),
        Command::Show(args) => show::run(theme, &args),
        Command::Map(args) => map::run(theme, &args),
        Command::Preview(args) => preview::run(theme, &args),
        Command::Desk(args) => desk::run(theme, &args),
        Command::Atlas(args) => atlas::run(theme, &args),
        Command::Shelf(args) => shelf::run(theme, &args),
        Command::Origin(args) => origin::run(theme, &args),
        Command::Render(args) => render::run(theme, &args),
        Command::Fire(args) => fire::run(theme, &args),
        Command::Trace(args) => trace::run(theme, &args),
        Command::Lsp(_) => lsp::run(theme),
        Command::Emit(args) => emit::run(theme, &args),
    }
}
