//! The command line.

mod seeing;
mod writing;

use std::num::NonZeroU8;

use camino::Utf8PathBuf;
use clap::{Args, Parser, Subcommand, ValueEnum};

pub use seeing::*;
pub use writing::*;

/// Declare the extension points of a theme, attach callbacks to them, place them in templates, fill
/// them with content, and check that nothing is left dangling.
#[derive(Debug, Parser)]
#[command(name = "truehook", version, disable_help_subcommand = true, help_template = HELP)]
pub struct Arguments {
    /// The theme's folder; without it, the nearest folder upwards with a truehook.toml
    #[arg(short = 'C', value_name = "THEME", global = true)]
    pub theme: Option<Utf8PathBuf>,
    /// What to do
    #[command(subcommand)]
    pub command: Command,
}

const HELP: &str = "\
{about}

Usage: truehook [-C THEME] COMMAND

start
  new       Begin a theme: from a sketch of its layout, on another theme, or out of plain pages
  demo      Write the demo themes to a folder, and walk through the main job on them

register
  declare   Add the declaration of a point, or change it
  withdraw  Take a declaration away, with what hangs on it or once that hangs elsewhere
  attach    Tie a callback or a partial to a point
  detach    Take an attachment away, also one of a layer below
  replace   Put another callback in the place of a lower layer's
  place     Put points into a template, beside an element or into a block
  fill      Put content into a region, area, menu or page of the preview
  adopt     Take a lower layer's template over, or bring a copy of it up to date
  rename    A point, callback, input or template, everywhere in this theme

check
  check     Every finding, with place, reason and mend
  why       Why a point does, or does not, show up: the chain link by link
  explain   A rule, kind, role, key, feature or point in full

look
  list      Points in a table, or callbacks by role
  show      One point: declared, placed, filled, and what runs there in which order
  map       A page with every point at its place, in document order, and what runs there
  desk      What site editors get: spots, offers, options, colours, and what they don't
  atlas     The reference for those who build on this theme: its points, what runs there, where each stands
  shelf     The themes of a folder: what each builds on, whether it fits, and what a check finds
  origin    Where a piece of a page came from: from the file that printed it out to the page

run
  preview   The site on localhost, which follows every edit; points and findings are beside each page
  render    Pages as HTML, to standard output or into a folder
  fire      One hook, filter or component on its own
  trace     What ran on a page: order, time, and the value before and after each step

connect
  lsp       Findings, completion, renaming and the rest in editors that speak the Language Server Protocol
  emit      What other programs need: texts for translators, schemas, types, shell completions, manual pages, a contract

Options:
{options}

truehook COMMAND --help tells more about a command.
";

/// What to do.
#[derive(Debug, Subcommand)]
pub enum Command {
    /// Write the demo themes to a folder, and walk through the main job on them
    Demo(DemoArgs),
    /// Begin a theme that passes every check: from a sketch of its layout, on another theme, or out of plain pages
    New(NewArgs),
    /// Add the declaration of a point, with what it needs to exist, or change one that stands
    Declare(DeclareArgs),
    /// Take a declaration away, with what hangs on it or once that hangs elsewhere
    Withdraw(WithdrawArgs),
    /// Tie a callback or a partial to a point; a function that isn't there yet is written as a stub
    Attach(AttachArgs),
    /// Take an attachment away, one of this theme's own or one of a layer below
    Detach(DetachArgs),
    /// Put another callback in the place of a lower layer's
    Replace(ReplaceArgs),
    /// Take a lower layer's template over, or bring a copy of it up to date
    Adopt(AdoptArgs),
    /// Put points into a template, beside the one element that a selector finds
    Place(PlaceArgs),
    /// Put content into a region, area, menu or page of the preview; move it, take it away
    Fill(FillArgs),
    /// Give a point, callback, input or template another name, everywhere in this theme
    Rename(RenameArgs),
    /// Every finding, with place, reason and mend
    Check(CheckArgs),
    /// Why a point or callback does, or does not, show up: the chain link by link
    Why(WhyArgs),
    /// A rule, kind, role, key, feature or point in full
    Explain(ExplainArgs),
    /// Points in a table, or callbacks by role
    List(ListArgs),
    /// One point: declared where, placed where, filled with what, callbacks in running order
    Show(ShowArgs),
    /// A page with every point at its place, in document order, and what runs there
    Map(MapArgs),
    /// Serve the theme's site on localhost, and let it follow every edit
    Preview(PreviewArgs),
    /// What site editors get: spots, offers with their forms, options, colours, sizes, and what is not offered
    Desk(DeskArgs),
    /// The reference for those who build on this theme: its points, what runs there, where each stands
    Atlas(AtlasArgs),
    /// The themes of a folder: what each builds on, whether it fits, and what a check finds
    Shelf(ShelfArgs),
    /// Where a piece of a page came from: from the file that printed it out to the page
    Origin(OriginArgs),
    /// Pages as HTML, one to standard output or all into a folder
    Render(RenderArgs),
    /// One hook, filter or component on its own
    Fire(FireArgs),
    /// What ran on a page: order, time, and the value before and after each step
    Trace(TraceArgs),
    /// Help while a theme is written, in editors that speak the Language Server Protocol
    Lsp(LspArgs),
    /// What other programs need: texts, schemas, types, completions, manual pages, a contract
    Emit(EmitArgs),
}

/// How to print.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub enum Format {
    /// For people
    #[default]
    Text,
    /// For programs
    Json,
}

#[derive(Debug, Args)]
pub struct DemoArgs {
    /// The folder to write to; it is made where it isn't there
    #[arg(long, value_name = "DIR", default_value = "truehook-demo")]
    pub into: Utf8PathBuf,
}

#[derive(Debug, Args)]
pub struct CheckArgs {
    /// The themes' folders
    #[arg(value_name = "THEME")]
    pub themes: Vec<Utf8PathBuf>,
    /// List notes, too
    #[arg(long)]
    pub notes: bool,
    /// Make the mends that are safe, in all files at once or not at all
    #[arg(long)]
    pub fix: bool,
    /// Check again whenever a file changes
    #[arg(long, conflicts_with_all = ["fix", "baseline"])]
    pub watch: bool,
    /// Report only what is not accepted in this file; where it isn't there, accept the findings of today
    #[arg(long, value_name = "FILE")]
    pub baseline: Option<Utf8PathBuf>,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Report,
    /// Show the difference, write nothing
    #[arg(long)]
    pub dry_run: bool,
}

/// How to print findings.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub enum Report {
    /// For people
    #[default]
    Text,
    /// For programs
    Json,
    /// For code hosts: the Static Analysis Results Interchange Format 2.1.0
    Sarif,
    /// For build servers: JUnit XML
    Junit,
}

#[derive(Debug, Args)]
pub struct WhyArgs {
    /// A point, as in area:footer-notes, or a callback, as in masthead.js#welcome
    #[arg(value_name = "ADDRESS|CALLBACK")]
    pub what: String,
    /// The path of a page, which is rendered to see what comes of conditions and callbacks
    #[arg(long, value_name = "PATH")]
    pub page: Option<String>,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, Args)]
pub struct ExplainArgs {
    /// A rule, as in unplaced-point; a kind, role or key; a feature or point; a word from elsewhere
    #[arg(required = true)]
    pub word: Vec<String>,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, Args)]
pub struct RenderArgs {
    /// The pages' paths, as in / or /log/
    #[arg(value_name = "PAGE")]
    pub pages: Vec<String>,
    /// Write the pages, all where none is named, into a folder: / is index.html, /log/ is log/index.html
    #[arg(long, value_name = "DIR")]
    pub into: Option<Utf8PathBuf>,
    /// With --into: overwrite files of the folder that render did not write
    #[arg(long, requires = "into")]
    pub over: bool,
    /// With --into: take away what render wrote there before and no longer needs
    #[arg(long, requires = "into")]
    pub clean: bool,
    /// With --into: leave links between pages as they are, for a server; without it they lead from file to file
    #[arg(long, requires = "into")]
    pub absolute: bool,
    /// With --into: write again whenever a file of the theme, or of one that it builds on, changes
    #[arg(long, requires = "into", conflicts_with = "format")]
    pub watch: bool,
    /// The language of the site, as in de; without it, the one that the preview names
    #[arg(long, value_name = "CODE")]
    pub language: Option<String>,
    /// Leave this point or callback out, and show what that changes
    #[arg(long, value_name = "ADDRESS|CALLBACK", conflicts_with = "into")]
    pub without: Vec<String>,
    /// How many pages are rendered at once; without it, as many as there are cores
    #[arg(long, value_name = "N")]
    pub jobs: Option<NonZeroU8>,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, Args)]
pub struct FireArgs {
    /// The point, as in hook:under-masthead
    pub address: String,
    /// Its arguments or inputs, as in days=2; what a filter is given is its value=…
    #[arg(value_name = "ARG=VALUE")]
    pub arguments: Vec<String>,
    /// The page on which it is fired; without it, the front page
    #[arg(long, value_name = "PATH")]
    pub page: Option<String>,
    /// Show what ran, too
    #[arg(long)]
    pub steps: bool,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, Args)]
pub struct TraceArgs {
    /// The page's path, as in / or /log/
    pub page: String,
    /// Only what ran at this point
    #[arg(long, value_name = "ADDRESS")]
    pub point: Option<String>,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, Args)]
pub struct LspArgs {
    /// Speak over standard input and output, as is done in any case
    #[arg(long, hide = true)]
    pub stdio: bool,
}

#[derive(Debug, Args)]
pub struct EmitArgs {
    /// What to print
    #[command(subcommand)]
    pub what: Emitted,
}

/// What a theme, or the program, can be asked for.
#[derive(Debug, Subcommand)]
pub enum Emitted {
    /// The theme's own texts, a .pot file for translators
    Messages,
    /// The forms of files and of JSON outputs, as JSON Schema (2020-12)
    Schema(SchemaArgs),
    /// What callbacks are given and give back, as declarations for TypeScript: truehook.d.ts
    Types,
    /// What completes commands, and the names of the theme at hand, in a shell
    Completions {
        /// The shell
        shell: Shell,
    },
    /// The manual pages
    Man {
        /// Write one for each command into this folder
        #[arg(long, value_name = "DIR")]
        into: Option<Utf8PathBuf>,
    },
    /// The built-in host contract, to start one's own from
    Host {
        /// Write all its files into this new folder
        #[arg(long, value_name = "DIR")]
        into: Option<Utf8PathBuf>,
    },
}

#[derive(Debug, Args)]
pub struct SchemaArgs {
    /// Which: manifest, points, site or page, or the command whose output it is; all of them where none is named
    pub name: Option<String>,
    /// With the points, callbacks, inputs and options of this theme as choices
    #[arg(long, value_name = "THEME")]
    pub of: Option<Utf8PathBuf>,
    /// Write a file for each into this folder
    #[arg(long, value_name = "DIR")]
    pub into: Option<Utf8PathBuf>,
}

/// A shell that can complete.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum Shell {
    /// The GNU shell
    Bash,
    /// The Z shell
    Zsh,
    /// The friendly shell
    Fish,
}
