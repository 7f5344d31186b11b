//! Styles and scripts: which of them are declared, and which stay in the markup.

use camino::Utf8PathBuf;

use super::address::{Leads, Met, placed};
use super::needs;
use super::parts::{Page, Piece, What};
use super::{Fate, Taken, Whole};
use crate::names;
use crate::start::is_the_contracts;

/// A style or script that is declared.
#[derive(Clone, Debug)]
pub struct Asset {
    pub script: bool,
    pub name: String,
    /// The file, from the pages' common folder.
    pub file: String,
    /// Where a style applies.
    pub media: String,
    pub in_head: bool,
    /// The pages that it is on, by their positions.
    pub pages: Vec<usize>,
    pub needs: Vec<String>,
    pub gives: Vec<String>,
}

/// All of them, and the pieces of pages that they stand for.
#[derive(Default)]
pub struct Assets {
    pub all: Vec<Asset>,
    /// Pieces that are gone from the markup: the page, and the piece's first token.
    pub gone: Vec<(usize, usize)>,
    /// Where in a page's head the declared ones come: before this piece.
    pub head: Vec<Option<usize>>,
    /// Scripts that were written out and have a file of their own now.
    pub written: Vec<(Utf8PathBuf, Vec<u8>)>,
    /// Behind which of them the next one of the page at hand comes.
    behind: Option<usize>,
}

/// A piece of one page that could be declared.
struct Found {
    script: bool,
    file: String,
    media: String,
    in_head: bool,
}

impl Assets {
    /// Looks for what can be declared without changing what comes before what.
    pub fn collect(whole: &Whole<'_>, met: &mut Met, taken: &mut Taken) -> Assets {
        let mut assets = Assets::default();
        let mut late: Vec<(usize, Found)> = Vec::new();
        // What is declared on one page is declared on each, as far as that can be.
        let mut rows = Rows::default();
        for (at, page) in whole.pages.iter().enumerate() {
            let styles = rows.choose(whole, page);
            let hook = styles.first().copied().or_else(|| first_script(page));
            assets.head.push(hook);
            assets.behind = None;
            for (number, piece) in page.head.iter().enumerate() {
                let place = hook.unwrap_or(page.head.len());
                let fits = match &piece.what {
                    What::Style { .. } => styles.contains(&number),
                    // Whatever else runs between there and here would run before it.
                    What::Script { defer: true, .. } => true,
                    What::Script { .. } => !between(&page.head, place, number).any(|piece| runs(&piece.what)),
                    _ => continue,
                };
                let why = "something else of its sort stands between it and the others, and the order counts";
                match found(whole, page, piece, true) {
                    Some(found) if fits && found.script && !found.in_head => {
                        assets.gone.push((at, piece.tokens.start));
                        tell(page, piece, &found, taken);
                        late.push((at, found));
                    }
                    Some(found) if fits => assets.declare(at, page, piece, found, taken),
                    found => leave(page, piece, found.is_some().then_some(why), taken),
                }
            }
            assets.end(whole, at, page, taken);
        }
        assets.behind = None;
        for (at, found) in late {
            assets.behind = assets.all.len().checked_sub(1);
            assets.add(at, found);
        }
        for asset in &assets.all {
            if !assets.written.iter().any(|(path, _)| path.as_str() == format!("media/{}", asset.file)) {
                met.files.insert(asset.file.clone());
            }
        }
        taken.files.extend(assets.written.iter().cloned());
        assets
    }

    /// The scripts at a page's end, as far as nothing else runs behind them.
    fn end(&mut self, whole: &Whole<'_>, at: usize, page: &Page, taken: &mut Taken) {
        let last = page.tail.iter().rposition(|piece| {
            matches!(piece.what, What::Other { runs: true, .. } | What::Script { defer: true, .. })
                || away(whole, page, piece)
        });
        let first_local =
            page.tail.iter().position(|piece| matches!(piece.what, What::Script { .. }) && !away(whole, page, piece));
        for (number, piece) in page.tail.iter().enumerate() {
            let behind = last.is_none_or(|last| number > last);
            match &piece.what {
                What::Script { .. } => match found(whole, page, piece, false) {
                    Some(found) if behind => self.declare(at, page, piece, found, taken),
                    found => {
                        let why = "a script that has to stay where it is stands behind it, and the order counts";
                        leave(page, piece, found.is_some().then_some(why), taken);
                    }
                },
                // What is written out between scripts runs between them: it becomes one of them.
                What::Inline if behind && first_local.is_some_and(|first| first < number) => {
                    self.write_out(whole, at, page, piece, taken)
                }
                What::Inline | What::Other { .. } => leave(page, piece, None, taken),
                _ => {}
            }
        }
    }

    fn write_out(&mut self, whole: &Whole<'_>, at: usize, page: &Page, piece: &Piece, taken: &mut Taken) {
        let inner = page.tokens.get(piece.at + 1..piece.tokens.end.saturating_sub(1)).unwrap_or_default();
        let text: String = inner.iter().map(|token| &page.text[token.range.clone()]).collect();
        if text.contains("document.write") || text.contains("currentScript") {
            return leave(page, piece, Some("it asks where it stands"), taken);
        }
        let bytes = format!("{}\n", text.trim_matches(['\n', '\r'])).into_bytes();
        let known = self.written.iter().find(|(_, known)| *known == bytes).map(|(path, _)| path.clone());
        let path = known.unwrap_or_else(|| {
            let path = Utf8PathBuf::from(format!("media/{}-{}.js", whole.name, self.written.len() + 1));
            self.written.push((path.clone(), bytes));
            path
        });
        let file = path.as_str().trim_start_matches("media/").to_string();
        self.declare(at, page, piece, Found { script: true, file, media: String::new(), in_head: false }, taken);
    }

    fn declare(&mut self, at: usize, page: &Page, piece: &Piece, found: Found, taken: &mut Taken) {
        self.gone.push((at, piece.tokens.start));
        tell(page, piece, &found, taken);
        self.add(at, found);
    }

    fn add(&mut self, at: usize, found: Found) {
        let same =
            |asset: &Asset| asset.script == found.script && asset.file == found.file && asset.media == found.media;
        if let Some(known) = self.all.iter().position(same) {
            let asset = &mut self.all[known];
            asset.in_head |= found.in_head;
            if !asset.pages.contains(&at) {
                asset.pages.push(at);
            }
            self.behind = self.behind.max(Some(known));
            return;
        }
        let name = self.free_name(&found);
        let Found { script, file, media, in_head } = found;
        let asset = Asset { script, name, file, media, in_head, pages: vec![at], needs: Vec::new(), gives: Vec::new() };
        // Behind those that stand before it on the same page, before those that others have behind.
        let place = self.behind.map_or(0, |behind| behind + 1);
        self.all.insert(place, asset);
        self.behind = Some(place);
    }

    fn free_name(&self, found: &Found) -> String {
        let stem = found.file.rsplit('/').next().unwrap_or_default();
        let stem =
            stem.trim_end_matches(".js").trim_end_matches(".mjs").trim_end_matches(".css").trim_end_matches(".min");
        let name = names::kebab(&stem.replace('.', "-"))
            .unwrap_or_else(|| if found.script { "script" } else { "style" }.into());
        let taken = |name: &str| self.all.iter().any(|asset| asset.script == found.script && asset.name == name);
        let host = is_the_contracts(if found.script { "script" } else { "style" }, &name);
        match taken(&name) || host {
            false => name,
            true => (2..).map(|number| format!("{name}-{number}")).find(|name| !taken(name)).unwrap_or(name),
        }
    }

    /// What each script needs of those before it.
    pub fn find_needs(&mut self, files: &[(Utf8PathBuf, Vec<u8>)]) {
        let text = |asset: &Asset| {
            let path = format!("media/{}", placed(&asset.file));
            let bytes = files.iter().find(|(known, _)| known.as_str() == path).map(|(_, bytes)| bytes.clone());
            bytes.and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
        };
        let said: Vec<needs::Said> = self
            .all
            .iter()
            .map(|asset| if asset.script { needs::said(&text(asset)) } else { needs::Said::default() })
            .collect();
        let given: Vec<String> = said.iter().flat_map(|said| said.gives.iter().cloned()).collect();
        for at in 0..self.all.len() {
            for before in 0..at {
                // Scripts of the head come before those of the end; any other order is that of the list.
                let shared = self.all[before].pages.iter().any(|page| self.all[at].pages.contains(page));
                let gives: Vec<String> =
                    said[before].gives.iter().filter(|name| said[at].uses.contains(*name)).cloned().collect();
                let extends =
                    said[before].extends.iter().any(|name| given.contains(name) && said[at].uses.contains(name));
                if !shared || !self.all[at].script || !self.all[before].script || gives.is_empty() && !extends {
                    continue;
                }
                let needed = format!("script:{}", self.all[before].name);
                self.all[at].needs.push(needed);
                for name in gives {
                    if !self.all[before].gives.contains(&name) {
                        self.all[before].gives.push(name);
                    }
                }
            }
        }
    }
}

/// Which style sheets were declared so far, and which stay in the markup.
#[derive(Default)]
struct Rows {
    chosen: Vec<Leads>,
    left: Vec<Leads>,
}

impl Rows {
    /// The style sheets of a head that are declared: those of one row, by their positions.
    fn choose(&mut self, whole: &Whole<'_>, page: &Page) -> Vec<usize> {
        let rows = rows(page);
        let leads = |row: &[usize]| -> Vec<Leads> {
            let found = row.iter().filter_map(|number| match &page.head[*number].what {
                What::Style { href, .. } => Some(whole.site.leads(&page.file, href)),
                _ => None,
            });
            found.collect()
        };
        let worth = |row: &[usize]| {
            let of = |known: &[Leads]| leads(row).iter().filter(|file| known.contains(file)).count();
            (std::cmp::Reverse(of(&self.left)), of(&self.chosen), row.len())
        };
        let best = rows.iter().rev().max_by_key(|row| worth(row)).cloned().unwrap_or_default();
        for row in &rows {
            let files = leads(row);
            if *row == best { self.chosen.extend(files) } else { self.left.extend(files) }
        }
        best
    }
}

/// The rows of style sheets of a head that can come together, with no other style between.
fn rows(page: &Page) -> Vec<Vec<usize>> {
    let mut rows: Vec<Vec<usize>> = vec![Vec::new()];
    for (number, piece) in page.head.iter().enumerate() {
        match &piece.what {
            What::Style { href, .. } if !href.contains("//") => {
                rows.last_mut().into_iter().for_each(|row| row.push(number))
            }
            What::Style { .. } | What::Other { styles: true, .. } => rows.push(Vec::new()),
            _ => {}
        }
    }
    rows
}

fn first_script(page: &Page) -> Option<usize> {
    page.head
        .iter()
        .position(|piece| matches!(&piece.what, What::Script { src, defer: false, .. } if !src.contains("//")))
}

fn between(pieces: &[Piece], one: usize, other: usize) -> impl Iterator<Item = &Piece> {
    let range = one.min(other)..one.max(other);
    pieces.get(range).unwrap_or_default().iter()
}

fn runs(what: &What) -> bool {
    match what {
        What::Inline | What::Other { runs: true, .. } => true,
        What::Script { src, .. } => src.contains("//"),
        _ => false,
    }
}

/// Does a piece load something from elsewhere, or from nowhere?
fn away(whole: &Whole<'_>, page: &Page, piece: &Piece) -> bool {
    matches!(&piece.what, What::Script { src, .. } if !matches!(whole.site.leads(&page.file, src), Leads::File(_)))
}

/// What a piece would be declared as.
fn found(whole: &Whole<'_>, page: &Page, piece: &Piece, head: bool) -> Option<Found> {
    let (script, address, media, in_head) = match &piece.what {
        What::Style { href, media } => (false, href, media.clone(), true),
        What::Script { src, defer, .. } => (true, src, String::new(), head && !defer),
        _ => return None,
    };
    match whole.site.leads(&page.file, address) {
        Leads::File(file)
            if file.ends_with(".css") && !script || script && (file.ends_with(".js") || file.ends_with(".mjs")) =>
        {
            Some(Found { script, file, media, in_head })
        }
        _ => None,
    }
}

fn tell(page: &Page, piece: &Piece, found: &Found, taken: &mut Taken) {
    let kind = if found.script { "script" } else { "style" };
    let now = format!("a declared {kind}, media/{}", placed(&found.file));
    taken.turned.push(Fate { file: page.file.clone(), line: page.line(piece.at), what: shown(page, piece), now });
}

fn leave(page: &Page, piece: &Piece, why: Option<&str>, taken: &mut Taken) {
    let now = match (&piece.what, why) {
        (_, Some(why)) => why.to_string(),
        (What::Inline, _) => "it stands by itself, and nothing has to come before it".to_string(),
        (What::Other { styles: true, .. }, _) => "styles that are written out stay where they are".to_string(),
        (What::Script { src: address, .. } | What::Style { href: address, .. }, _) if address.contains("//") => {
            "what comes from elsewhere stays there".to_string()
        }
        (What::Script { .. } | What::Style { .. }, _) => "its file is not there".to_string(),
        _ => "it is loaded in a way of its own".to_string(),
    };
    taken.left.push(Fate { file: page.file.clone(), line: page.line(piece.at), what: shown(page, piece), now });
}

/// The first of a piece, for people.
fn shown(page: &Page, piece: &Piece) -> String {
    let tag = page.tokens.get(piece.at).map_or("", |token| &page.text[token.range.clone()]);
    tag.split_whitespace().collect::<Vec<_>>().join(" ")
}
