//! Modules: where their sources come from, and what imports in them mean.

use std::cell::RefCell;
use std::collections::HashSet;
use std::rc::Rc;
use std::sync::Arc;

use rquickjs::loader::{ImportAttributes, Loader, Resolver};
use rquickjs::module::Declared;
use rquickjs::{Ctx, Error, Module};
use truehook_core::link::{Registry, join_import};
use truehook_core::read::FileKind;
use truehook_core::scan::{Prefix, template_literals};
use truehook_core::source::FileId;

/// The name of the built-in module.
pub const BUILT_IN: &str = "truehook";
/// How a module gets at what the prelude sets up.
const BUILT_IN_SOURCE: &str = "const { html, place, through, enabled, asset, t, note } = globalThis.truehook;\n\
                               export { html, place, through, enabled, asset, t, note };\n";

/// In the place of a page: modules that are there for all of them. The first page is 1.
pub const ALL_PAGES: usize = 0;

/// What a module is called on one page of a realm. Each page has modules of its own.
pub fn module_name(page: usize, name: &str) -> String {
    format!("{page}/{name}")
}

/// The name of a module without that of its page.
pub fn without_page(name: &str) -> &str {
    name.split_once('/')
        .filter(|(page, _)| page.bytes().all(|byte| byte.is_ascii_digit()))
        .map_or(name, |(_, name)| name)
}

/// Is it certain that nothing which a module does, or any that it imports, outlasts a call?
pub fn keeps_nothing(registry: &Registry, file: FileId) -> bool {
    let mut seen = vec![file];
    let mut at = 0;
    while let Some(file) = seen.get(at).copied() {
        at += 1;
        let Some(module) = registry.module(file).filter(|module| module.keeps_nothing) else { return false };
        for import in module.imports.iter().filter(|import| import.from.name != BUILT_IN) {
            match registry.resolve_import(file, &import.from.name) {
                Some(target) if seen.contains(&target) => {}
                Some(target) => seen.push(target),
                None => return false,
            }
        }
    }
    true
}

/// The module that the stage itself asks for. Its name is absolute, whichever module runs when it is asked
/// for; a name that a module writes is not.
#[derive(Clone, Default)]
pub struct Asked(Rc<RefCell<Option<String>>>);

impl Asked {
    pub fn ask(&self, name: &str) {
        self.0.replace(Some(name.to_string()));
    }
}

/// Works out which module an import means.
pub struct Names(pub Asked);

impl Resolver for Names {
    fn resolve<'js>(
        &mut self,
        _ctx: &Ctx<'js>,
        base: &str,
        name: &str,
        _attributes: Option<ImportAttributes<'js>>,
    ) -> Result<String, Error> {
        if self.0.0.borrow_mut().take_if(|asked| asked == name).is_some() || name == BUILT_IN {
            return Ok(name.to_string());
        }
        // What stands before the path, the page and the layer, stays.
        let (lead, from) = base.split_once(':').unwrap_or(("", base));
        let path = join_import(from, name).ok_or_else(|| Error::new_resolving(without_page(base), name))?;
        Ok(format!("{lead}:{path}"))
    }
}

/// The template literals of all modules that were loaded: `html` takes no others, whatever looks like one.
pub struct Literals {
    registry: Arc<Registry>,
    /// Modules that were loaded and not looked at yet.
    loaded: RefCell<Vec<FileId>>,
    seen: RefCell<HashSet<FileId>>,
    known: RefCell<HashSet<Vec<String>>>,
}

impl Literals {
    pub fn new(registry: &Arc<Registry>) -> Literals {
        let registry = registry.clone();
        Literals { registry, loaded: RefCell::default(), seen: RefCell::default(), known: RefCell::default() }
    }

    fn load(&self, file: FileId) {
        if self.seen.borrow_mut().insert(file) {
            self.loaded.borrow_mut().push(file);
        }
    }

    /// Are these the pieces of one of them?
    pub fn has(&self, pieces: &Vec<String>) -> bool {
        for file in self.loaded.take() {
            self.known.borrow_mut().extend(template_literals(self.registry.project().file(file).text()));
        }
        self.known.borrow().contains(pieces)
    }
}

/// Gives the source of a module.
pub struct Sources(pub Rc<Literals>);

impl Loader for Sources {
    fn load<'js>(
        &mut self,
        ctx: &Ctx<'js>,
        name: &str,
        _attributes: Option<ImportAttributes<'js>>,
    ) -> Result<Module<'js, Declared>, Error> {
        if name == BUILT_IN {
            return Module::declare(ctx.clone(), name, BUILT_IN_SOURCE);
        }
        let registry = &self.0.registry;
        let project = registry.project();
        let (prefix, path) = Prefix::split(without_page(name));
        let file = registry.resolve(FileKind::Module, prefix, path, project.top(), false);
        let file = file.ok_or_else(|| Error::new_loading(name))?;
        self.0.load(file);
        Module::declare(ctx.clone(), name, project.file(file).text())
    }
}
