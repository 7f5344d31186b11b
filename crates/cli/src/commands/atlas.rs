//! `atlas`: the reference for those who build on a theme.

use std::io::Write;
use std::sync::Arc;

use anyhow::Result;
use camino::Utf8Path;
use serde::Serialize;
use truehook_core::view::{AtlasView, VERSION};
use truehook_sheets::{AtlasSheet, PlannedPage};
use truehook_stage::map::{self, Node};
use truehook_stage::{Manner, Stage};

use crate::Outcome;
use crate::args::AtlasArgs;
use crate::output;
use crate::sheets;
use crate::workshop;

/// What `atlas --format json` prints.
#[derive(Serialize, schemars::JsonSchema)]
struct View {
    version: u32,
    #[serde(flatten)]
    atlas: AtlasView,
}

/// The form of what `--format json` prints.
pub fn form() -> schemars::Schema {
    output::form::<View>()
}

pub fn run(theme: Option<&Utf8Path>, args: &AtlasArgs) -> Result<Outcome> {
    let folder = workshop::find_theme(theme)?;
    let files = workshop::files(&folder)?;
    let workers = workshop::workers(&folder, &files, None, None)?;
    let registry = Arc::new(workshop::open_files(&folder, &files)?);
    let atlas = AtlasView::new(&registry);
    if args.format.is_some() {
        let mut out = crate::output::stream::stdout();
        output::json(&mut out, &View { version: VERSION, atlas })?;
        out.flush()?;
        return Ok(workshop::outcome(&registry, true));
    }
    let stage = Stage::new(registry.clone());
    let pages = stage.pages();
    let workers = workers.over(registry.clone());
    let mut mapped: Vec<(String, Node)> = Vec::new();
    for page_type in &atlas.theme.types {
        let Some(page) = pages.iter().find(|page| page.page_type == *page_type) else { continue };
        let Some(rendered) = workers.page(&page.path, &Manner::sourced())? else { continue };
        mapped.push((page_type.clone(), map::map(&registry, &rendered)));
    }
    let planned: Vec<PlannedPage<'_>> =
        mapped.iter().map(|(page_type, root)| PlannedPage { page_type: page_type.clone(), root }).collect();
    let sheet = AtlasSheet::new(&atlas, &planned);
    if let Some(file) = &args.html {
        sheets::write(file, &sheet.html()?)?;
    }
    if let Some(file) = &args.md {
        sheets::write(file, &sheet.markdown()?)?;
    }
    Ok(workshop::outcome(&registry, true))
}
