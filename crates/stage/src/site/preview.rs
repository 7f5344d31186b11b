//! The theme's own preview as a site: what its `preview/` folder holds, and a page of each type that no
//! page of it has.

use std::sync::Arc;

use pulldown_cmark::{Parser, html};
use serde_json::{Map, Value as Json};
use truehook_core::link::Registry;
use truehook_core::read::DiskFiles;
use truehook_core::scan::{MARKDOWN, Shape, scan_file};
use truehook_core::source::FileId;

use super::{PageContent, PageInfo, Site};

/// A page of the preview. What else there is to it is read when it is asked for, so that many pages take
/// little room.
struct Page {
    info: PageInfo,
    file: FileId,
    body: Option<FileId>,
}

/// The preview of a theme.
pub struct Preview {
    registry: Arc<Registry>,
    pages: Vec<Page>,
    samples: Vec<PageInfo>,
}

impl Preview {
    /// The preview of a registry's theme.
    pub fn new(registry: Arc<Registry>) -> Preview {
        let mut pages: Vec<Page> = Vec::new();
        for (file, shape) in registry.pages() {
            let text = |key: &str| shape.value.get(key).and_then(Json::as_str).unwrap_or_default().to_string();
            let Some(path) = shape.path else { continue };
            let info = PageInfo::new(path.name.as_str(), text("type"), text("title")).written(text("date"));
            let body = shape.body.and_then(|body| registry.body_file(file, &body.name));
            pages.push(Page { info, file, body });
        }
        let has = |name: &str| pages.iter().any(|page| page.info.page_type == name);
        let types = registry.types().iter().map(|page_type| page_type.name.as_str());
        let samples = types.filter(|name| !has(name)).map(sample).collect::<Vec<_>>();
        let free = |info: &PageInfo| pages.iter().all(|page| page.info.path != info.path);
        let samples = samples.into_iter().filter(free).collect();
        Preview { registry, pages, samples }
    }
}

fn sample(page_type: &str) -> PageInfo {
    let path = if page_type == "front" { "/".to_string() } else { format!("/{page_type}/") };
    let title = format!("A page of type {page_type}");
    PageInfo { sample: true, ..PageInfo::new(path, page_type, title) }
}

impl Site for Preview {
    fn values(&self) -> Map<String, Json> {
        self.registry.site_values()
    }

    fn pages(&self) -> Vec<PageInfo> {
        self.pages.iter().map(|page| &page.info).chain(&self.samples).cloned().collect()
    }

    fn page(&self, path: &str) -> Option<PageContent> {
        let Some(page) = self.pages.iter().find(|page| page.info.path == path) else {
            return self.samples.iter().any(|info| info.path == path).then(PageContent::default);
        };
        let values = match self.registry.page(page.file) {
            Some(shape) if !self.registry.partly() => shape.value.as_object().cloned(),
            _ => match scan_file(&self.registry.project().with_text(&DiskFiles, page.file)).shape {
                Shape::Page(shape) => shape.value.as_object().cloned(),
                _ => None,
            },
        };
        let body = page.body.map(|body| body_markup(&self.registry, body));
        Some(PageContent { values: values.unwrap_or_default(), body })
    }
}

/// A page's body as markup: Markdown (CommonMark with tables, footnotes and strikethrough), or HTML
/// as it is.
fn body_markup(registry: &Registry, file: FileId) -> String {
    let source = registry.project().file(file);
    if source.path.extension() == Some("html") {
        return source.text().to_string();
    }
    let mut markup = String::new();
    html::push_html(&mut markup, Parser::new_ext(source.text(), MARKDOWN));
    markup
}
