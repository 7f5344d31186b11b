//! What the commands that write take.

use camino::Utf8PathBuf;
use clap::{ArgGroup, Args};

use super::Format;

#[derive(Debug, Args)]
pub struct NewArgs {
    /// What the theme and its folder are called, as in ferry
    pub name: String,
    /// The layout as rows of names, parted by `/`: "header header / main aside / footer footer"
    #[arg(long, value_name = "TEXT", conflicts_with_all = ["sketch_file", "on"])]
    pub sketch: Option<String>,
    /// A file with the sketch, a row on each line
    #[arg(long, value_name = "FILE", conflicts_with = "on")]
    pub sketch_file: Option<Utf8PathBuf>,
    /// The folder of a theme to build on
    #[arg(long, value_name = "DIR")]
    pub on: Option<Utf8PathBuf>,
    /// Plain pages to take apart; what they load comes along
    #[arg(long, value_name = "PAGE.html", num_args = 1.., conflicts_with_all = ["sketch", "sketch_file", "on"])]
    pub from: Vec<Utf8PathBuf>,
    /// The folder in which the theme's folder is made
    #[arg(long, value_name = "DIR")]
    pub into: Option<Utf8PathBuf>,
    #[command(flatten)]
    pub edit: EditArgs,
}

#[derive(Debug, Args)]
pub struct DetachArgs {
    /// The point, as in hook:under-masthead
    pub address: String,
    /// What is attached, as `show` calls it: notes.js#today, foreshore:masthead.js#welcome or partial:note
    pub callback: String,
    #[command(flatten)]
    pub edit: EditArgs,
}

#[derive(Debug, Args)]
pub struct DeclareArgs {
    /// The point, as in region:aside
    pub address: String,
    /// What people call it
    #[arg(long)]
    pub label: Option<String>,
    /// What it is, in one sentence
    #[arg(long)]
    pub about: Option<String>,
    /// Further points, and further keys of the declaration, as in inputs.days.type=integer
    #[arg(value_name = "ADDRESS|KEY=VALUE")]
    pub keys: Vec<String>,
    #[command(flatten)]
    pub edit: EditArgs,
}

#[derive(Debug, Args)]
pub struct AttachArgs {
    /// The point, as in hook:under-masthead
    pub address: String,
    /// A callback, or a partial
    #[arg(value_name = "FILE#NAME|partial:NAME")]
    pub what: String,
    /// From 0 to 100; lower runs earlier
    #[arg(long, value_name = "N", allow_negative_numbers = true)]
    pub priority: Option<i64>,
    /// Run only where this holds, as in "page.type == 'front'"
    #[arg(long, value_name = "EXPR")]
    pub when: Option<String>,
    /// Run before this callback of the same point
    #[arg(long, value_name = "C")]
    pub before: Vec<String>,
    /// Run after this callback of the same point
    #[arg(long, value_name = "C")]
    pub after: Vec<String>,
    #[command(flatten)]
    pub edit: EditArgs,
}

#[derive(Debug, Args)]
#[command(group = ArgGroup::new("position").args(["before", "after", "inside", "instead"]))]
pub struct PlaceArgs {
    /// The points; behind a single one, what it is given, as in days=2
    #[arg(required = true, value_name = "ADDRESS|ARG=VALUE")]
    pub addresses: Vec<String>,
    /// The template, below markup/
    #[arg(long = "in", value_name = "TEMPLATE")]
    pub template: String,
    /// Into this block, at its end where no element is named; one that the template lacks is opened
    #[arg(long, value_name = "B")]
    pub block: Option<String>,
    /// Right before the one element that fits this CSS selector: tag, #id, .class, [attribute], `a b`, `a > b`
    #[arg(long, value_name = "SELECTOR")]
    pub before: Option<String>,
    /// Right after the element that fits
    #[arg(long, value_name = "SELECTOR")]
    pub after: Option<String>,
    /// As the last child of the element that fits
    #[arg(long, value_name = "SELECTOR")]
    pub inside: Option<String>,
    /// In the place of all that the element holds which fits
    #[arg(long, value_name = "SELECTOR")]
    pub instead: Option<String>,
    /// Show the element around it only where something fills it
    #[arg(long)]
    pub guard: bool,
    #[command(flatten)]
    pub edit: EditArgs,
}

#[derive(Debug, Args)]
pub struct ReplaceArgs {
    /// The lower layer's callback, as `show` calls it: foreshore:masthead.js#welcome
    pub callback: String,
    /// The one of this theme, as in masthead.js#welcome; one that isn't there yet is written, with the same parameters
    pub with: String,
    /// Only at this point
    #[arg(long, value_name = "ADDRESS")]
    pub point: Option<String>,
    /// Write it with the text of the original, and the helpers that it needs
    #[arg(long)]
    pub copy: bool,
    #[command(flatten)]
    pub edit: EditArgs,
}

#[derive(Debug, Args)]
#[command(group = ArgGroup::new("manner").args(["extend", "copy"]))]
pub struct AdoptArgs {
    /// The template, below markup/, as in layout.html
    pub template: String,
    /// By a template that builds on it, and leaves every page as it is
    #[arg(long)]
    pub extend: bool,
    /// By a copy; one that is there already is brought up to date
    #[arg(long)]
    pub copy: bool,
    /// With --extend: only this block
    #[arg(long, value_name = "B")]
    pub block: Option<String>,
    /// Not any more: a template that says what the one below says goes, with what was written of it
    #[arg(long, conflicts_with_all = ["extend", "copy", "block"])]
    pub undo: bool,
    #[command(flatten)]
    pub edit: EditArgs,
}

#[derive(Debug, Args)]
pub struct WithdrawArgs {
    /// The point, as in region:aside
    pub address: String,
    /// Move what hangs on it to this point
    #[arg(long, value_name = "ADDRESS", conflicts_with = "along")]
    pub to: Option<String>,
    /// Take away what hangs on it, too
    #[arg(long)]
    pub along: bool,
    #[command(flatten)]
    pub edit: EditArgs,
}

#[derive(Debug, Args)]
pub struct RenameArgs {
    /// A point, as in region:aside; a callback, as in notes.js#today; an input, as in partial:note.heading; a template
    pub from: String,
    /// Its new name
    pub to: String,
    #[command(flatten)]
    pub edit: EditArgs,
}

#[derive(Clone, Debug, Args)]
pub struct FillArgs {
    /// A region, area, menu or option, or `sections`
    pub address: String,
    /// A component with its inputs, as in piece:note text=Boots; the entries of a menu, as in Logbook=/log/, or one
    /// of the site's menus; the value of an option
    #[arg(value_name = "ITEM [KEY=VALUE …]", conflicts_with_all = ["move", "remove"])]
    pub items: Vec<String>,
    /// Where it comes, counted from 1; 2.1 is the first thing that the second one holds
    #[arg(long, value_name = "N")]
    pub at: Option<String>,
    /// Move what stands at FROM to TO
    #[arg(long, num_args = 2, value_names = ["FROM", "TO"], conflicts_with = "remove")]
    pub r#move: Option<Vec<String>>,
    /// Take away what stands there
    #[arg(long, value_name = "N")]
    pub remove: Option<String>,
    /// Change what stands there: KEY=VALUE sets an input of it, KEY= takes one away
    #[arg(long, value_name = "N", conflicts_with_all = ["move", "remove", "at", "offer"])]
    pub set: Option<String>,
    /// What the component offers under this label
    #[arg(long, value_name = "LABEL")]
    pub offer: Option<String>,
    /// The page whose sections are meant
    #[arg(long, value_name = "PATH")]
    pub page: Option<String>,
    #[command(flatten)]
    pub edit: EditArgs,
}

/// What every command that changes files takes.
#[derive(Clone, Debug, Args)]
pub struct EditArgs {
    /// Show the difference, write nothing
    #[arg(long)]
    pub dry_run: bool,
    /// How to print
    #[arg(long, value_enum, default_value_t)]
    pub format: Format,
}
