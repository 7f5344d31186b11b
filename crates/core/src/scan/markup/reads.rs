//! Variables that expressions read.

use minijinja::machinery::ast::Expr;

use super::*;

impl<'t> Scanner<'t> {
    /// A variable that is read.
    pub(super) fn read(&mut self, expr: &Expr<'t>) {
        let mut path = Vec::new();
        if !self.path(expr, &mut path) || path.is_empty() {
            return;
        }
        let root = path[0];
        if self.is_local(&root.name) {
            self.mention(root.name);
            self.processed_capture(&root.name, root.at);
            self.entry_read(&path);
            return;
        }
        // `self.title()` prints a block of this template once more.
        if root.name == "self" {
            return;
        }
        // Data is open: whether it is there may be asked.
        let data = matches!(root.name.as_str(), "page" | "site") && path.get(1).is_some_and(|step| step.name == "data");
        let is_defined = || {
            let steps: Vec<&str> = path.iter().map(|step| step.name.as_str()).collect();
            let whole = steps.join(".");
            let mut asked = self.defined.iter();
            asked.any(|name| {
                whole.strip_prefix(name.as_str()).is_some_and(|rest| rest.is_empty() || rest.starts_with('.'))
            })
        };
        if data && (self.asks || is_defined()) {
            return;
        }
        if path.len() == 1 && CALLED_BY_NAME.contains(&root.name.as_str()) {
            self.shape.dynamic = true;
            let message = format!("`{}` has to be called by its name, so that every use can be followed", root.name);
            self.notes.flaw(FlawKind::DynamicPoint, root.at, message, "call it here");
            return;
        }
        self.mention(root.name);
        let section = self.section;
        self.shape.reads.push(Read { path, section });
    }

    /// What is read of an entry of a list.
    fn entry_read(&mut self, path: &[Named]) {
        let [root, key, ..] = path else { return };
        let entry_of = self.locals.iter().rev().find(|local| root.name == *local.name).and_then(|local| local.entry_of);
        if let Some(list) = entry_of.filter(|_| !self.asks && !key.name.is_empty()) {
            self.shape.say_further().entry_reads.push(EntryRead { list, key: *key });
        }
    }

    /// A name that may be that of a macro.
    pub(super) fn mention(&mut self, name: Name) {
        let guard = self.guard;
        self.here().mentions.push(Mention { name, guard });
    }

    /// Collects the steps of a path as far as they are names. False where the root is no name; then
    /// what stands there has been scanned.
    fn path(&mut self, expr: &Expr<'t>, path: &mut Vec<Named>) -> bool {
        match expr {
            Expr::Var(var) => {
                let at = self.at_part(var.id);
                // Few names have more than two steps.
                path.reserve_exact(2);
                path.push(Named { name: name(var.id), at });
                true
            }
            Expr::GetAttr(attr) => {
                let rooted = self.path(&attr.expr, path);
                if rooted && !path.last().is_some_and(|step| step.name.is_empty()) {
                    let at = self.at_part(attr.name);
                    path.push(Named { name: name(attr.name), at });
                }
                rooted
            }
            Expr::GetItem(item) => {
                let rooted = self.path(&item.expr, path);
                match literal(&item.subscript_expr) {
                    Some(text) if rooted => {
                        let at = self.at_expr(&item.subscript_expr);
                        path.push(Named { name: name(&text), at });
                    }
                    _ => {
                        // From here on nobody knows which key it is: an empty step ends the path.
                        let at = self.at_expr(&item.subscript_expr);
                        path.push(Named { name: name(""), at });
                        self.expr(&item.subscript_expr);
                    }
                }
                rooted
            }
            other => {
                self.expr(other);
                false
            }
        }
    }
}
