//! `emit man`: the manual pages, one for the program and one for each command.

use anyhow::{Context, Result};
use camino::Utf8Path;
use clap::CommandFactory;
use clap_mangen::Man;
use truehook_core::edit;

use super::print;
use crate::Outcome;
use crate::args::Arguments;

pub fn run(into: Option<&Utf8Path>) -> Result<Outcome> {
    let mut command = Arguments::command();
    command.build();
    let Some(into) = into else {
        print(&page(command)?)?;
        return Ok(Outcome::Clean);
    };
    std::fs::create_dir_all(into).with_context(|| format!("{into} can't be made"))?;
    let mut pages = vec![("truehook".to_string(), command.clone())];
    for below in command.get_subcommands() {
        let name = format!("truehook-{}", below.get_name());
        // It is called as it is typed.
        let title: &'static str = Box::leak(name.clone().into_boxed_str());
        pages.push((name, below.clone().name(title)));
    }
    let number = pages.len();
    for (name, command) in pages {
        edit::save(&into.join(format!("{name}.1")), &page(command)?)?;
    }
    print(format!("{number} pages in {into}; man -l {into}/truehook.1 shows one\n").as_bytes())?;
    Ok(Outcome::Clean)
}

fn page(command: clap::Command) -> Result<Vec<u8>> {
    let mut text = Vec::new();
    Man::new(command).render(&mut text)?;
    Ok(text)
}
