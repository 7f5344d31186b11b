//! What the commands take that show things.

use camino::Utf8PathBuf;
use clap::{Args, ValueEnum};

use super::Format;

#[derive(Debug, Args)]
pub struct ListArgs {
    /// A kind of points, or a role of callbacks
    #[arg(value_name = "KIND|ROLE")]
    pub word: Option<String>,
    /// Only those whose address, label or callback holds this
    #[arg(long = "match", value_name = "W")]
    pub matching: Option<String>,
    /// Only those that this template uses
    #[arg(long, value_name = "T")]
    pub template: Option<String>,
    /// Only those that the page of this path gets to
    #[arg(long, value_name = "P")]
    pub page: Option<String>,
    /// Only those that this layer declares or attaches
    #[arg(long, value_name = "L")]
    pub layer: Option<String>,
    /// Only those that nothing places
    #[arg(long)]
    pub unplaced: bool,
    /// Only those without attachments and content
    #[arg(long)]
    pub empty: bool,
    /// Those of the layers below, too, that the theme neither adds to nor uses
    #[arg(long)]
    pub all: bool,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, Args)]
pub struct ShowArgs {
    /// The point, as in hook:under-masthead; with --source also a template, as in layout.html; without it, the theme
    #[arg(required_if_eq("source", "true"))]
    pub address: Option<String>,
    /// Print the templates and modules behind it, those of lower layers and the host, too
    #[arg(long)]
    pub source: bool,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, Args)]
pub struct MapArgs {
    /// The page's path, as in / or /log/; without it, the front page
    pub page: Option<String>,
    /// Write it as one page of HTML, with the page itself and its points outlined on it
    #[arg(long, value_name = "FILE", conflicts_with_all = ["depth", "kind", "layer", "format"])]
    pub html: Option<Utf8PathBuf>,
    /// Only so many levels
    #[arg(long, value_name = "N")]
    pub depth: Option<usize>,
    /// Only points of this kind, and what they are in
    #[arg(long, value_name = "K")]
    pub kind: Option<String>,
    /// Only what this layer places or attaches, and what that is in
    #[arg(long, value_name = "L")]
    pub layer: Option<String>,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, Args)]
pub struct PreviewArgs {
    /// Where to listen; where that port is in use, the next free one is taken
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u16).range(1..))]
    pub port: Option<u16>,
    /// Show it in the browser at once
    #[arg(long)]
    pub open: bool,
    /// The language of its pages, whatever the site says of it
    #[arg(long, value_name = "CODE")]
    pub language: Option<String>,
}

#[derive(Debug, Args)]
pub struct DeskArgs {
    /// Write it as one page of HTML, with each offer as it looks in the theme
    #[arg(long, value_name = "FILE", conflicts_with = "format")]
    pub html: Option<Utf8PathBuf>,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, Args)]
pub struct AtlasArgs {
    /// Write it as one page of HTML, with search
    #[arg(long, value_name = "FILE", required_unless_present_any = ["md", "format"])]
    pub html: Option<Utf8PathBuf>,
    /// Write it as Markdown, fit to be kept beside the theme
    #[arg(long, value_name = "FILE")]
    pub md: Option<Utf8PathBuf>,
    /// Print it
    #[arg(long, value_enum, conflicts_with_all = ["html", "md"])]
    pub format: Option<JsonFormat>,
}

#[derive(Debug, Args)]
pub struct ShelfArgs {
    /// The folder in which the themes' folders are
    pub folder: Utf8PathBuf,
    /// Write it as one page of HTML, with the themes' pictures
    #[arg(long, value_name = "FILE", conflicts_with = "format")]
    pub html: Option<Utf8PathBuf>,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

#[derive(Debug, Args)]
pub struct OriginArgs {
    /// The page's path, as in / or /log/
    pub page: String,
    /// Words that are on the page
    #[arg(long, value_name = "T", required_unless_present = "select")]
    pub text: Option<String>,
    /// An element of the page: tag, #id, .class, [attribute], `a b`, `a > b`; with --text the words have to be in it
    #[arg(long, value_name = "CSS")]
    pub select: Option<String>,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}

/// How to print what people read as a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub enum JsonFormat {
    /// For programs
    Json,
}
