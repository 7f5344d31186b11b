//! What an ECMAScript module says: its exports and imports, and the points it uses.
//!
//! This is the adapter for the parser's syntax tree; none of its nodes leaves this folder.

mod form;
mod functions;
mod globals;
mod literals;
mod owners;
mod reads;
mod returns;
mod state;
mod values;

use crate::name::Name;
use oxc_allocator::Allocator;
use oxc_ast::AstKind;
use oxc_ast::ast::{
    Argument, BindingPattern, CallExpression, Declaration, ExportDefaultDeclarationKind, ExportSpecifier, Expression,
    ImportDeclarationSpecifier, ObjectExpression, ObjectPropertyKind, Program, Statement,
};
use oxc_diagnostics::OxcDiagnostic;
use oxc_parser::Parser;
use oxc_semantic::{NodeId, Semantic, SemanticBuilder, SymbolId};
use oxc_span::{GetSpan, SourceType, Span};

use super::*;
use crate::source::At;
use functions::Callable;

pub use globals::LANGUAGE;
pub use literals::template_literals;

/// What the built-in module `truehook` exports.
pub const BUILT_IN: [&str; 7] = ["html", "place", "through", "enabled", "asset", "t", "note"];
/// Those of them of which every use has to be seen.
const FOLLOWED: [&str; 6] = ["place", "through", "enabled", "asset", "t", "note"];

pub(super) fn scan(text: &str) -> Facts {
    let mut scanner = Scanner::default();
    if let Some(deep) = depth::code(text) {
        let at = scanner.notes.at(deep, deep + 1);
        scanner.notes.flaw(FlawKind::CodeSyntax, at, depth::message("the module"), "");
        return scanner.notes.facts(Shape::broken(FileKind::Module));
    }
    let allocator = Allocator::default();
    let parsed = Parser::new(&allocator, text, SourceType::mjs()).parse();
    if let Some(error) = parsed.diagnostics.iter().next() {
        return scanner.broken(error, text);
    }
    scanner.program(&parsed.program);
    // Some errors show only once scopes are known, as a name that is declared twice.
    let built = SemanticBuilder::new().with_check_syntax_error(true).with_build_nodes(true).build(&parsed.program);
    if let Some(error) = built.diagnostics.iter().next() {
        return scanner.broken(error, text);
    }
    for (binding, word) in std::mem::take(&mut scanner.followed) {
        scanner.references(&built.semantic, binding, word);
    }
    for (export, callable) in std::mem::take(&mut scanner.callables) {
        let (takes, writes) = reads::taken(&mut scanner, &built.semantic, callable);
        (scanner.shape.exports[export].takes, scanner.shape.exports[export].writes) = (takes, writes);
        scanner.shape.exports[export].returns = returns::returned(&mut scanner, callable);
    }
    scanner.shape.keeps_nothing = state::keeps_nothing(&parsed.program, &built.semantic);
    scanner.undeclared(&built.semantic);
    scanner.nodes(&built.semantic);
    scanner.notes.facts(Shape::Module(Box::new(scanner.shape)))
}

#[derive(Default)]
struct Scanner<'p> {
    notes: Notes,
    shape: ModuleShape,
    /// Bindings of built-in functions whose every use has to be seen. Their symbols are known only
    /// once scopes are worked out, so they are kept by the place of their binding.
    followed: Vec<(u32, &'static str)>,
    /// The functions behind exports, by the export's position.
    callables: Vec<(usize, Callable<'p>)>,
}

impl<'p> Scanner<'p> {
    /// The facts of a module that doesn't parse.
    fn broken(mut self, error: &OxcDiagnostic, text: &str) -> Facts {
        let span = error.labels.first().map_or((0, 0), |label| (label.offset(), label.offset() + label.len()));
        let at = self.notes.at((span.0 as usize).min(text.len()), (span.1 as usize).min(text.len()));
        self.notes.flaws.clear();
        self.notes.flaw(FlawKind::CodeSyntax, at, format!("the module doesn't parse: {}", error.message), "");
        self.notes.facts(Shape::broken(FileKind::Module))
    }

    fn at(&mut self, span: Span) -> At {
        self.notes.at(span.start as usize, span.end as usize)
    }

    fn named(&mut self, word: &str, span: Span) -> Named {
        Named { name: name(word), at: self.at(span) }
    }

    fn program(&mut self, program: &'p Program<'p>) {
        for statement in &program.body {
            match statement {
                Statement::ImportDeclaration(import) => {
                    let from = self.named(&import.source.value, import.source.span);
                    let mut found = ModuleImport { from, names: Vec::new(), all: false, passes_on: false };
                    for specifier in import.specifiers.iter().flatten() {
                        self.specifier(specifier, &mut found);
                    }
                    self.shape.imports.push(found);
                }
                Statement::ExportDeclaration(export) => self.declaration(&export.declaration),
                Statement::ExportNamedDeclaration(export) => {
                    self.passed_on(&export.specifiers, Some(program));
                }
                Statement::ExportFromDeclaration(export) => {
                    let names = self.passed_on(&export.specifiers, None);
                    let from = self.named(&export.source.value, export.source.span);
                    self.shape.imports.push(ModuleImport { from, names, all: false, passes_on: false });
                }
                Statement::ExportDefaultDeclaration(export) => {
                    let no_function = match &export.declaration {
                        ExportDefaultDeclarationKind::FunctionDeclaration(_) => false,
                        ExportDefaultDeclarationKind::ClassDeclaration(_) => true,
                        other => other.as_expression().is_some_and(is_no_function),
                    };
                    let start = export.span.start;
                    let at = self.at(Span::new(start, start + "export default".len() as u32));
                    let callable = match &export.declaration {
                        ExportDefaultDeclarationKind::FunctionDeclaration(function) => Callable::plain(function),
                        other => other.as_expression().and_then(Callable::of),
                    };
                    self.export_at(name("default"), at, no_function, callable);
                }
                Statement::ExportAllDeclaration(export) => {
                    let from = self.named(&export.source.value, export.source.span);
                    let passes_on = export.exported.is_none();
                    if let Some(exported) = &export.exported {
                        let exported = self.named(&exported.name(), exported.span());
                        self.export_at(exported.name, exported.at, true, None);
                    }
                    self.shape.imports.push(ModuleImport { from, names: Vec::new(), all: true, passes_on });
                }
                _ => {}
            }
        }
    }

    /// Notes the exports of `export { a as b }`, and returns the names on the left.
    fn passed_on(&mut self, specifiers: &[ExportSpecifier<'_>], own: Option<&'p Program<'p>>) -> Vec<Named> {
        let mut passed = Vec::new();
        for specifier in specifiers {
            let callable = own.and_then(|program| Callable::declared(program, &specifier.local.name()));
            self.export(&specifier.exported.name(), specifier.exported.span(), false, callable);
            passed.push(self.named(&specifier.local.name(), specifier.local.span()));
        }
        passed
    }

    fn specifier(&mut self, specifier: &ImportDeclarationSpecifier<'_>, found: &mut ModuleImport) {
        match specifier {
            ImportDeclarationSpecifier::ImportSpecifier(one) => {
                let imported = self.named(&one.imported.name(), one.imported.span());
                found.names.push(imported);
                let followed = FOLLOWED.into_iter().find(|word| *word == imported.name.as_str());
                if let Some(word) = followed
                    && found.from.name == "truehook"
                {
                    self.followed.push((one.local.span.start, word));
                }
            }
            ImportDeclarationSpecifier::ImportDefaultSpecifier(one) => {
                let at = self.at(one.local.span);
                found.names.push(Named { name: name("default"), at });
            }
            ImportDeclarationSpecifier::ImportNamespaceSpecifier(one) => {
                found.all = true;
                if found.from.name == "truehook" {
                    self.shape.dynamic = true;
                    let at = self.at(one.local.span);
                    let message = "the functions of `truehook` are imported by name, so that every use can be followed";
                    self.notes.flaw(
                        FlawKind::DynamicPoint,
                        at,
                        message,
                        "write import { html, place } from \"truehook\"",
                    );
                }
            }
        }
    }

    fn declaration(&mut self, declaration: &'p Declaration<'p>) {
        match declaration {
            Declaration::FunctionDeclaration(function) => {
                if let Some(id) = &function.id {
                    self.export(&id.name, id.span, false, Callable::plain(function));
                }
            }
            Declaration::VariableDeclaration(variables) => {
                for variable in &variables.declarations {
                    let no_function = variable.init.as_ref().is_some_and(is_no_function);
                    match &variable.id {
                        BindingPattern::BindingIdentifier(id) => {
                            let callable = variable.init.as_ref().and_then(Callable::of);
                            self.export(&id.name, id.span, no_function, callable);
                        }
                        pattern => {
                            for id in pattern.get_binding_identifiers() {
                                self.export(&id.name, id.span, false, None);
                            }
                        }
                    }
                }
            }
            Declaration::ClassDeclaration(class) => {
                if let Some(id) = &class.id {
                    self.export(&id.name, id.span, true, None);
                }
            }
            _ => {}
        }
    }

    fn export(&mut self, word: &str, span: Span, no_function: bool, callable: Option<Callable<'p>>) {
        let at = self.at(span);
        self.export_at(name(word), at, no_function, callable);
    }

    fn export_at(&mut self, name: Name, at: At, no_function: bool, callable: Option<Callable<'p>>) {
        let signature = callable.map(|callable| self.signature(callable));
        self.callables.extend(callable.map(|callable| (self.shape.exports.len(), callable)));
        let (takes, returns, writes) = (Vec::new(), Vec::new(), Vec::new());
        add(&mut self.shape.exports, Export { name, at, no_function, signature, takes, returns, writes });
    }

    /// Looks at every use of a built-in function.
    fn references(&mut self, semantic: &Semantic<'_>, binding: u32, word: &'static str) {
        let scoping = semantic.scoping();
        let symbol: Option<SymbolId> =
            scoping.symbol_ids().find(|symbol| scoping.symbol_span(*symbol).start == binding);
        let Some(symbol) = symbol else { return };
        let nodes: Vec<NodeId> = scoping.get_resolved_references(symbol).map(|found| found.node_id()).collect();
        for node in nodes {
            let span = semantic.nodes().kind(node).span();
            match semantic.nodes().parent_kind(node) {
                AstKind::CallExpression(call) if call.callee.span() == span => {
                    self.call(semantic, node, call, word);
                }
                _ => {
                    self.shape.dynamic = true;
                    let at = self.at(span);
                    let message = format!("`{word}` has to be called by its name, so that every use can be followed");
                    self.notes.flaw(FlawKind::DynamicPoint, at, message, "call it here");
                }
            }
        }
    }

    fn call(&mut self, semantic: &Semantic<'_>, node: NodeId, call: &CallExpression<'_>, word: &'static str) {
        if word == "note" {
            let at = self.at(call.span);
            return self.shape.notes.push(at);
        }
        let Some(Argument::StringLiteral(literal)) = call.arguments.first() else {
            let span = call.arguments.first().map_or(call.callee.span(), GetSpan::span);
            let at = self.at(span);
            self.shape.dynamic |= !matches!(word, "t" | "enabled");
            let (message, label) = match word {
                "t" => ("a message is a literal string, so that it can be translated", "write the text here"),
                _ => (
                    "a point is named by a literal string, so that it can be followed",
                    "write the address here, as in \"region:aside\"",
                ),
            };
            self.notes.flaw(FlawKind::DynamicPoint, at, message, label);
            return;
        };
        let at = self.at(literal.span);
        match word {
            "asset" => return self.shape.assets.push(Named { name: name(&literal.value), at }),
            "enabled" => return self.shape.asked.push(PointRef::new(&literal.value, at)),
            "t" => return self.message(Named { name: name(&literal.value), at }, call.arguments.get(1)),
            _ => {}
        }
        let (verb, position) = if word == "place" { (Verb::Place, 1) } else { (Verb::Through, 2) };
        let (owner, chance) = self.surroundings(semantic, node);
        if let (Verb::Place, Some(kind)) = (verb, OutletKind::from_word(&literal.value)) {
            return self.shape.outlets.push(Outlet { kind, at, section: SectionId(0), owner, chance, guard: None });
        }
        let (args, open) = self.args(call.arguments.get(position));
        let given = self.given(call.arguments.get(position));
        let sent = call.arguments.get(1).filter(|_| verb == Verb::Through).and_then(Argument::as_expression);
        let sent = sent.and_then(|sent| Some(Written { value: values::written(sent)?, at: self.at(sent.span()) }));
        if let (true, Some(Argument::ObjectExpression(object))) =
            (literal.value.starts_with("menu:"), call.arguments.get(position))
        {
            self.menu_partial(object, owner, chance);
        }
        self.shape.uses.push(Use {
            verb,
            point: PointRef::new(&literal.value, at),
            section: SectionId(0),
            owner,
            args,
            given,
            sent: sent.map(Box::new),
            open,
            chance,
            guard: None,
        });
    }

    /// A message that is to be translated.
    fn message(&mut self, id: Named, argument: Option<&Argument<'_>>) {
        let (mut args, open) = self.args(argument);
        args.retain(|arg| arg.name != "plural");
        let given = self.given(argument).into_iter().find(|given| given.name.name == "plural");
        let plural = given.and_then(|given| Some(Named { name: name(given.value.as_str()?), at: given.at }));
        self.shape.messages.push(Message { id, plural, args, open });
    }

    /// The arguments whose values are written out.
    fn given(&mut self, argument: Option<&Argument<'_>>) -> Vec<Given> {
        let Some(Argument::ObjectExpression(object)) = argument else { return Vec::new() };
        let mut given = Vec::new();
        for property in &object.properties {
            let ObjectPropertyKind::ObjectProperty(property) = property else { continue };
            if let (Some(word), Some(value)) = (property.key.static_name(), values::written(&property.value)) {
                let name = self.named(&word, property.key.span());
                given.push(Given { name, value, at: self.at(property.value.span()) });
            }
        }
        given
    }

    /// The partial that a menu is to be rendered with.
    fn menu_partial(&mut self, object: &ObjectExpression<'_>, owner: Option<Name>, chance: Chance) {
        for property in &object.properties {
            let ObjectPropertyKind::ObjectProperty(property) = property else { continue };
            if property.key.static_name().as_deref() != Some("with") {
                continue;
            }
            let at = self.at(property.value.span());
            let Expression::StringLiteral(literal) = &property.value else {
                self.shape.dynamic = true;
                let message = "a point is named by a literal string, so that it can be followed";
                self.notes.flaw(FlawKind::DynamicPoint, at, message, "write the partial here, as in \"partial:menu\"");
                continue;
            };
            let point = PointRef::new(&literal.value, at);
            let section = SectionId(0);
            let (args, given) = (Vec::new(), Vec::new());
            let found = Use {
                verb: Verb::With,
                point,
                section,
                owner,
                args,
                given,
                sent: None,
                open: true,
                chance,
                guard: None,
            };
            self.shape.uses.push(found);
        }
    }

    fn args(&mut self, argument: Option<&Argument<'_>>) -> (Vec<Named>, bool) {
        let object = match argument {
            None => return (Vec::new(), false),
            Some(Argument::ObjectExpression(object)) => object,
            Some(_) => return (Vec::new(), true),
        };
        let mut args = Vec::new();
        let mut open = false;
        for property in &object.properties {
            match property {
                ObjectPropertyKind::ObjectProperty(property) => match property.key.static_name() {
                    Some(word) => args.push(self.named(&word, property.key.span())),
                    None => open = true,
                },
                ObjectPropertyKind::SpreadProperty(_) => open = true,
            }
        }
        (args, open)
    }
}

/// Is this certainly no function?
fn is_no_function(expression: &Expression<'_>) -> bool {
    matches!(
        expression,
        Expression::StringLiteral(_)
            | Expression::NumericLiteral(_)
            | Expression::BooleanLiteral(_)
            | Expression::NullLiteral(_)
            | Expression::TemplateLiteral(_)
            | Expression::ArrayExpression(_)
            | Expression::ObjectExpression(_)
            | Expression::ClassExpression(_)
    )
}
