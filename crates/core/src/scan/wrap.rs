//! Wrapping markup: a small template around what an area or component shows.

use minijinja::machinery::ast::{Expr, Stmt};
use minijinja::machinery::parse;

use super::markup::unbalanced;
use super::*;

/// Notes what is wrong with wrapping markup. The first of the holes has to be printed exactly once,
/// the others may be; nothing else can stand in it but HTML.
pub(super) fn check(key: &str, text: &str, at: At, holes: &[&str], notes: &mut Notes) {
    let deep = depth::template(text).is_some();
    let fault = match parse(if deep { "" } else { text }, "wrap", Default::default()) {
        _ if deep => Some(depth::message(&format!("`{key}`"))),
        Err(error) => Some(format!("`{key}` doesn't parse: {}", error.detail().unwrap_or("it is no template"))),
        Ok(Stmt::Template(template)) => fault(key, text, &template.children, holes),
        Ok(_) => None,
    };
    if let Some(message) = fault {
        notes.flaw(FlawKind::WrapBody, at, message, format!("as in {}", example(key)));
    }
}

fn example(key: &str) -> &'static str {
    if key == "wrap-title" { "'<h3>{{ text }}</h3>'" } else { "'<section>{{ body }}</section>'" }
}

fn fault(key: &str, text: &str, parts: &[Stmt<'_>], holes: &[&str]) -> Option<String> {
    let mut printed = 0;
    for part in parts {
        match part {
            Stmt::EmitRaw(_) => {}
            Stmt::EmitExpr(emit) => match &emit.expr {
                Expr::Var(var) if var.id == holes[0] => printed += 1,
                Expr::Var(var) if holes.contains(&var.id) => {}
                _ => return Some(format!("`{key}` can print {} as they are, and nothing else", list(holes))),
            },
            _ => return Some(format!("`{key}` can hold no statements, only HTML and {}", list(holes))),
        }
    }
    if printed != 1 {
        let times = if printed == 0 { "never".to_string() } else { format!("{printed} times") };
        return Some(format!("`{key}` prints `{}` {times}, and has to print it once", holes[0]));
    }
    let html = super::html_alone(text)?;
    unbalanced(&html).map(|why| format!("`{key}` is unbalanced: {why}"))
}

fn list(holes: &[&str]) -> String {
    let holes: Vec<String> = holes.iter().map(|hole| format!("{{{{ {hole} }}}}")).collect();
    match holes.split_last() {
        Some((last, rest)) if !rest.is_empty() => format!("{} and {last}", rest.join(", ")),
        _ => holes.concat(),
    }
}
