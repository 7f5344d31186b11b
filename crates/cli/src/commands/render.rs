//! `render`: pages as HTML.

use std::io::Write;
use std::sync::Arc;

use anyhow::{Context, Result, bail};
use camino::{Utf8Path, Utf8PathBuf};
use serde::Serialize;
use truehook_changes::Changes;
use truehook_core::address::Address;
use truehook_core::edit::removal::{is_removed_whole, removal};
use truehook_core::link::Registry;
use truehook_core::names::{hint, nearest};
use truehook_core::read::{DiskFiles, OverlayFiles, Project};
use truehook_core::source::Place;
use truehook_core::view::VERSION;
use truehook_stage::workers::Workers;
use truehook_stage::{Manner, Rendered, Stage, linked_by_file, page_file};

use crate::Outcome;
use crate::args::{Format, RenderArgs};
use crate::output::{self, failures};
use crate::site_folder::SiteFolder;
use crate::{progress, workshop};

/// What `render --format json` prints.
#[derive(Serialize, schemars::JsonSchema)]
struct PagesView {
    version: u32,
    /// What no page can show.
    failures: Vec<failures::FailureView>,
    pages: Vec<PageView>,
    /// What was written into the folder before, and is not needed any more.
    left: Vec<String>,
}

#[derive(Serialize, schemars::JsonSchema)]
struct PageView {
    path: String,
    /// Where it was written, if it was.
    file: Option<String>,
    /// The page, where it was not written.
    html: Option<String>,
    failures: Vec<failures::FailureView>,
}

/// The forms of what `--format json` prints: of pages, and of what they would lose.
pub fn forms() -> [schemars::Schema; 2] {
    [output::form::<PagesView>(), output::form::<WithoutView>()]
}

pub fn run(theme: Option<&Utf8Path>, args: &RenderArgs) -> Result<Outcome> {
    let folder = workshop::find_theme(theme)?;
    if args.watch {
        return watch(&folder, args);
    }
    once(&folder, args)
}

/// Writes pages again whenever something changes that they are made of. What can't be rendered leaves the folder as
/// it is.
fn watch(folder: &Utf8Path, args: &RenderArgs) -> Result<Outcome> {
    let mut changes = Changes::new()?;
    let mut first = true;
    loop {
        let rendered = once(folder, args);
        // What is written before a folder is watched goes unseen, so it is read once more.
        if watch_layers(&mut changes, folder)? {
            continue;
        }
        match rendered {
            Err(error) if first => return Err(error),
            Err(error) => output::error(&error),
            Ok(_) => {}
        }
        first = false;
        writeln!(crate::output::stream::stdout(), "watching; Ctrl-C ends it")?;
        loop {
            let Some(change) = changes.wait() else { return Ok(Outcome::Clean) };
            let project = Project::open_without_pages(&DiskFiles, folder);
            let concerns = |path: &Utf8PathBuf| project.as_ref().is_ok_and(|project| project.is_touched_by(path));
            if project.is_err() || change.paths.is_none_or(|paths| paths.iter().any(concerns)) {
                break;
            }
        }
    }
}

/// Watches all layers. Answers whether one of them is new.
fn watch_layers(changes: &mut Changes, folder: &Utf8Path) -> Result<bool> {
    let folder = folder.canonicalize_utf8().unwrap_or_else(|_| folder.to_path_buf());
    let Ok(project) = Project::open_without_pages(&DiskFiles, &folder) else { return Ok(changes.watch(&folder)?) };
    let mut new = false;
    for layer in project.layers.iter().filter(|layer| !layer.built_in) {
        new |= changes.watch(&layer.root)?;
    }
    Ok(new)
}

fn once(folder: &Utf8Path, args: &RenderArgs) -> Result<Outcome> {
    let jobs = if args.pages.len() == 1 { Some(1) } else { args.jobs.map(|jobs| usize::from(jobs.get())) };
    let files = workshop::files(folder)?;
    let workers = workshop::workers(folder, &files, args.language.as_deref(), jobs)?;
    let registry = Arc::new(workshop::open_for_rendering(folder, &files)?);
    let language = args.language.as_deref().map(|code| language(&registry, code)).transpose()?;
    let stage = Stage::in_language(registry.clone(), language);
    let paths = wanted(&stage, args)?;
    if !args.without.is_empty() {
        let removed = removed(folder, files, &registry, args)?;
        return without(&registry, &workers.over(registry.clone()), removed.as_ref(), &paths, args);
    }
    let mut folder = args.into.as_ref().map(|into| SiteFolder::open(into, args.over)).transpose()?;
    let mut out = crate::output::stream::stdout();
    let of_site = stage.failures();
    let lost = !of_site.is_empty();
    failures::write("the site", &of_site)?;
    let mut view =
        PagesView { version: VERSION, failures: failures::views(of_site), pages: Vec::new(), left: Vec::new() };
    let longest = output::column(paths.iter().map(|path| path.chars().count()).max().unwrap_or(0));
    let mut failed = 0;
    let progress = progress::of("rendering", paths.len());
    let rendered = workers.over(registry.clone()).pages(&paths, |path, page| {
        progress.step();
        let Some(mut page) = page else { bail!("there is no page {path}") };
        failed += usize::from(!page.failures.is_empty());
        if args.into.is_some() && !args.absolute {
            page.html = linked_by_file(&page.html, path, |written| Some(stage.page(written)?.path.clone()));
        }
        let file = match (&mut folder, &args.into) {
            (Some(folder), Some(into)) => Some(into.join(write(registry.project(), folder, path, &page)?).to_string()),
            _ => None,
        };
        if args.format == Format::Json {
            view.pages.push(page_view(path, file, page));
            return Ok(());
        }
        progress.aside(|| {
            failures::write(path, &page.failures)?;
            match file {
                None => output::stream::write_whole(page.html.as_bytes())?,
                Some(file) => writeln!(out, "{path:<longest$}  {file}")?,
            }
            Ok(())
        })
    });
    drop(progress);
    if let Some(folder) = &mut folder {
        let ended = rendered.and_then(|()| end(folder, &stage, args));
        // Also where it went no further, the folder knows what is ours.
        view.left = ended.or_else(|error| folder.keep_list().and(Err(error)))?;
    } else {
        rendered?;
    }
    if let (Some(into), Format::Text) = (&args.into, args.format) {
        for path in &view.left {
            let what = if args.clean { "taken away" } else { "no longer needed; --clean takes it away" };
            writeln!(out, "{}  {what}", into.join(path))?;
        }
    }
    if args.format == Format::Json {
        output::json(&mut out, &view)?;
    }
    out.flush()?;
    Ok(workshop::outcome(&registry, failed == 0 && !lost))
}

/// What `render --without --format json` prints.
#[derive(Serialize, schemars::JsonSchema)]
struct WithoutView {
    version: u32,
    without: Vec<String>,
    pages: Vec<DifferenceView>,
}

/// What is different on a page.
#[derive(Serialize, schemars::JsonSchema)]
struct DifferenceView {
    path: String,
    /// The lines that are gone.
    gone: Vec<String>,
    /// The lines that came in their place.
    come: Vec<String>,
}

/// The theme without those points that it shows by other means than a placement, with workers of its own; nothing where
/// none of them is to be left out.
fn removed(
    folder: &Utf8Path,
    mut files: OverlayFiles<'_>,
    registry: &Registry,
    args: &RenderArgs,
) -> Result<Option<(Arc<Registry>, Workers)>> {
    let points = args.without.iter().filter(|word| !word.contains('#'));
    let points: Vec<Address> = points.map(|word| workshop::declared(registry, word)).collect::<Result<_>>()?;
    let points: Vec<Address> = points.into_iter().filter(|point| is_removed_whole(*point)).collect();
    if points.is_empty() {
        return Ok(None);
    }
    let removal = removal(registry, &points)?;
    removal.over.into_iter().for_each(|(path, text)| files.over.insert(path, text));
    files.gone.extend(removal.gone);
    let workers = workshop::workers(folder, &files, args.language.as_deref(), Some(1))?;
    let less = Arc::new(workshop::open_for_rendering(folder, &files)?);
    Ok(Some((less.clone(), workers.over(less))))
}

/// What is left out when a page is rendered: points that print nothing, and attachments.
fn manner(registry: &Registry, args: &RenderArgs) -> Result<Manner> {
    let (mut points, mut attachments) = (Vec::new(), Vec::new());
    for word in &args.without {
        match word.contains('#') {
            true => attachments.extend(attached(registry, word)?),
            false => points.push(workshop::address(word)?),
        }
    }
    points.retain(|point| !is_removed_whole(*point));
    Ok(Manner::without_points(&points, &attachments))
}

/// Shows what is different on pages without some points and callbacks.
fn without(
    registry: &Registry,
    pages: &Workers,
    removed: Option<&(Arc<Registry>, Workers)>,
    paths: &[String],
    args: &RenderArgs,
) -> Result<Outcome> {
    for word in args.without.iter().filter(|word| !word.contains('#')) {
        workshop::declared(registry, word)?;
    }
    let (manner, others) = match removed {
        None => (manner(registry, args)?, None),
        Some((less, workers)) => (manner(less, args)?, Some(workers)),
    };
    let mut view = WithoutView { version: VERSION, without: args.without.clone(), pages: Vec::new() };
    let mut out = crate::output::stream::stdout();
    for path in paths {
        let whole = pages.page(path, &Manner::default())?;
        let less = others.unwrap_or(pages).page(path, &manner)?;
        let (Some(whole), Some(less)) = (whole, less) else { bail!("there is no page {path}") };
        if args.format == Format::Json {
            let (gone, come) = output::diff::lines(&whole.html, &less.html);
            view.pages.push(DifferenceView { path: path.clone(), gone, come });
        } else if whole.html == less.html {
            writeln!(out, "{path} is the same without {}", args.without.join(" and "))?;
        } else {
            let named = format!("{path} without {}", args.without.join(" and "));
            output::diff::texts(&mut out, (path, &whole.html), (&named, &less.html))?;
        }
    }
    if args.format == Format::Json {
        output::json(&mut out, &view)?;
    }
    out.flush()?;
    Ok(workshop::outcome(registry, true))
}

/// The attachments of a callback, at all points.
fn attached(registry: &Registry, name: &str) -> Result<Vec<Place>> {
    let slots = || registry.points().flat_map(|point| point.slots.iter());
    let found: Vec<Place> = slots().filter(|slot| registry.slot_name(slot) == name).map(|slot| slot.place).collect();
    if found.is_empty() {
        let mut known: Vec<String> = slots().map(|slot| registry.slot_name(slot)).collect();
        known.sort();
        known.dedup();
        let near = nearest(name, known.iter().map(String::as_str)).map(str::to_string);
        bail!("{name} is attached nowhere{}; there are {}", hint(&near), known.join(", "));
    }
    Ok(found)
}

/// A language that somebody named: one of the translations, or the one that the theme is written in.
fn language<'a>(registry: &Registry, code: &'a str) -> Result<&'a str> {
    let good = !code.is_empty() && code.chars().all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_');
    if !good {
        bail!("`{code}` is not the code of a language; write one as in de or pt-BR");
    }
    let known = registry.languages();
    let site = registry.site_values();
    let own = site.get("language").and_then(|language| language.as_str()).unwrap_or("en");
    let short = |code: &str| code.split(['-', '_']).next().unwrap_or_default().to_ascii_lowercase();
    if known.iter().chain([&own]).any(|other| short(other) == short(code)) {
        return Ok(code);
    }
    let known: Vec<&str> = [own].into_iter().chain(known).collect();
    bail!("the theme has no words in `{code}`; there are {}", known.join(", "));
}

/// The paths of the pages that were asked for.
fn wanted(stage: &Stage, args: &RenderArgs) -> Result<Vec<String>> {
    // Samples are for looking at: they are pages of the site only where it has no others.
    let pages = stage.pages();
    let own = pages.iter().any(|page| !page.sample);
    let known: Vec<String> = pages.into_iter().filter(|page| !own || !page.sample).map(|page| page.path).collect();
    if args.pages.is_empty() {
        if args.into.is_none() && args.format == Format::Text && known.len() != 1 {
            bail!("say which page, or --into which folder; there are {}", known.join(", "));
        }
        return Ok(known);
    }
    if args.into.is_none() && args.format == Format::Text && args.pages.len() > 1 {
        bail!("several pages don't fit on standard output; say --into which folder");
    }
    args.pages.iter().map(|path| workshop::page(stage, path)).collect()
}

/// Writes what the site has beside its pages, and answers what is left of what was written before.
fn end(folder: &mut SiteFolder, stage: &Stage, args: &RenderArgs) -> Result<Vec<String>> {
    for (name, text) in stage.files() {
        folder.write(&name, text.as_bytes())?;
    }
    let left = folder.end(args.pages.is_empty())?;
    if args.clean {
        folder.clean(&left)?;
    }
    Ok(left)
}

/// Writes a page and the files that it refers to; answers the page's file, below the folder.
fn write(project: &Project, folder: &mut SiteFolder, path: &str, page: &Rendered) -> Result<String> {
    let target = page_file(path);
    folder.write(&target, page.html.as_bytes())?;
    for (name, file) in &page.media {
        match &file.text {
            Some(text) => folder.write(name, text.as_bytes())?,
            None => {
                let bytes = project.media(file.layer, &file.path);
                folder.write(name, &bytes.with_context(|| format!("{} can't be read", file.path))?)?;
            }
        }
    }
    Ok(target)
}

fn page_view(path: &str, file: Option<String>, page: Rendered) -> PageView {
    let failures = failures::views(page.failures);
    PageView { path: path.to_string(), html: file.is_none().then_some(page.html), file, failures }
}
