//! The checker and the stage agree, and both agree with a model of the running order that is written
//! straight from its description.

use std::sync::Arc;

use crate::grown::{Attachment, Theme, grow};
use truehook_core::link::{Registry, Runs};
use truehook_core::rules::{self, Level};
use truehook_core::why::{self, LinkState};
use truehook_stage::Stage;

const THEMES: u64 = 300;

fn serious(registry: &Registry) -> Vec<String> {
    let findings = rules::check(registry).findings;
    let serious = findings.iter().filter(|finding| finding.level > Level::Note);
    serious
        .map(|finding| {
            format!(
                "[{}] {} {:?}",
                finding.rule,
                finding.message,
                finding.places.first().map(|p| registry.project().shown(p.file))
            )
        })
        .collect()
}

#[test]
fn grown_themes_are_clean() {
    // TRUEHOOK_THEMES asks for that many, of a fresh seed.
    let asked = std::env::var("TRUEHOOK_THEMES").ok().and_then(|text| text.parse::<u64>().ok());
    let first = if asked.is_some() { fastrand::u64(1 << 20..1 << 32) } else { 0 };
    println!("from seed {first}");
    for seed in first..first + asked.unwrap_or(THEMES) {
        let found = serious(&grow(seed).registry());
        assert!(found.is_empty(), "seed {seed}: {found:#?}");
    }
}

/// The model: of the attachments that wait for nothing, take the one with the smallest (priority,
/// layer, position); again and again.
fn model(theme: &Theme, point: &str) -> Vec<String> {
    let full = |attachment: &Attachment| format!("{}:{}", theme.layers[attachment.layer], attachment.call);
    let now = |attachment: &Attachment| match &attachment.replaced {
        Some(with) => format!("site:{with}"),
        None => full(attachment),
    };
    let gone: Vec<String> = theme.attachments.iter().filter(|gone| gone.detached).map(full).collect();
    let is_here = |attachment: &&(usize, &Attachment)| attachment.1.to == point && !attachment.1.detached;
    let all: Vec<(usize, &Attachment)> = theme.attachments.iter().enumerate().collect();
    let mut waiting: Vec<(usize, &Attachment)> = all.iter().filter(is_here).copied().collect();
    let mut shown: Vec<String> = Vec::new();
    let mut order: Vec<String> = Vec::new();
    while !waiting.is_empty() {
        let is_ready = |(_, attachment): &&(usize, &Attachment)| {
            attachment.after.iter().all(|name| {
                let name = if name.contains(':') {
                    name.clone()
                } else {
                    format!("{}:{name}", theme.layers[attachment.layer])
                };
                order.contains(&name) || gone.contains(&name)
            })
        };
        let next =
            waiting.iter().filter(is_ready).min_by_key(|(at, attachment)| (attachment.priority, attachment.layer, *at));
        let at = next.map(|(at, _)| *at).expect("grown constraints are no circle");
        let position = waiting.iter().position(|(known, _)| *known == at).expect("it is waiting");
        let next = waiting.remove(position).1;
        order.push(full(next));
        shown.push(now(next));
    }
    shown
}

#[test]
fn the_registry_orders_like_the_model() {
    let mut compared = 0;
    for seed in 0..THEMES {
        let theme = grow(seed);
        let registry = theme.registry();
        for point in registry.points() {
            let name = |slot| {
                let name = registry.slot_name(slot);
                if name.contains(':') { name } else { format!("site:{name}") }
            };
            let order: Vec<String> = point.slots.iter().map(name).filter(|name| name.contains('#')).collect();
            assert_eq!(order, model(&theme, &point.address.to_string()), "seed {seed}, {}", point.address);
            compared += order.len();
        }
    }
    assert!(compared > 1000, "only {compared} attachments were compared");
}

#[test]
fn what_runs_is_what_the_registry_says() {
    let (mut points, mut steps) = (0, 0);
    for seed in 0..THEMES {
        let registry = Arc::new(grow(seed).registry());
        let stage = Stage::new(registry.clone());
        for page in stage.pages() {
            let rendered = stage.render(&page.path).expect("the page is there");
            assert_eq!(rendered.failures, [], "seed {seed}, {}", page.path);
            let at = registry.types().iter().position(|known| known.name == *page.page_type).expect("a known type");
            for point in &rendered.trace.points {
                let reached = registry.point(*point).expect("it is declared").reached;
                assert!(reached.has(at), "seed {seed}: {point} showed on {}, but is not reached there", page.path);
                points += 1;
            }
            for (first, step) in rendered.trace.steps.iter().enumerate() {
                let slots = &registry.point(step.point).expect("it is declared").slots;
                let position = |slot| slots.iter().position(|known| known.place == slot);
                let this = match step.slot {
                    Some(slot) => position(slot).expect("only what is attached runs"),
                    None => continue,
                };
                steps += 1;
                // The next step of the same point is the next slot, or the point begins anew. Between
                // them other points may have had their turn.
                let next = rendered.trace.steps[first + 1..].iter().find(|next| next.point == step.point);
                if let Some(next) = next.and_then(|next| next.slot).and_then(position) {
                    assert!(
                        next == this + 1 || next == 0,
                        "seed {seed}: {} ran out of order on {}",
                        step.point,
                        page.path
                    );
                }
            }
        }
    }
    assert!(points > 5000 && steps > 2000, "only {points} points and {steps} steps were compared");
}

#[test]
fn what_is_reached_without_a_condition_shows_on_every_page() {
    let mut shown = 0;
    for seed in 0..THEMES {
        let registry = Arc::new(grow(seed).registry());
        let stage = Stage::new(registry.clone());
        for page in stage.pages() {
            let rendered = stage.render(&page.path).expect("the page is there");
            let at = registry.types().iter().position(|known| known.name == *page.page_type).expect("a known type");
            for point in registry.points().filter(|point| point.address.kind.needs_placement()) {
                let sure = point.uses.iter().any(|id| {
                    let found = registry.use_of(*id);
                    registry.template(id.file).is_some()
                        && !found.chance.is_conditional()
                        && registry.use_sure(*id).has(at)
                });
                if sure {
                    assert!(
                        rendered.trace.points.contains(&point.address),
                        "seed {seed}: {} on {}",
                        point.address,
                        page.path
                    );
                    shown += 1;
                }
            }
        }
    }
    assert!(shown > 2000, "only {shown} were compared");
}

/// A theme with pages of every type, whose data meet each condition and its opposite.
fn with_all_pages(theme: &Theme, flag: bool) -> Registry {
    let mut files = theme.files.clone();
    let site = "/grown/site/preview/site.toml";
    let text = String::from_utf8(files.get(site.into()).expect("a site").to_vec()).expect("it is text");
    let (one, other) = if flag { ("flag = false", "flag = true") } else { ("flag = true", "flag = false") };
    files.insert(site, text.replace(one, other));
    for page_type in ["front", "page", "list", "entry", "search", "missing"] {
        for quiet in [true, false] {
            let page = format!(
                "path = \"/every/{page_type}-{quiet}/\"\ntype = \"{page_type}\"\ntitle = \"Any\"\n\n[data]\nquiet = {quiet}\n"
            );
            files.insert(format!("/grown/site/preview/pages/every-{page_type}-{quiet}.toml"), page);
        }
    }
    crate::grown::link(&files)
}

#[test]
fn whatever_is_reached_and_filled_shows_once_its_conditions_are_met() {
    let mut compared = 0;
    for seed in 0..THEMES / 3 {
        let theme = grow(seed);
        let mut shown: std::collections::HashSet<(usize, String)> = std::collections::HashSet::new();
        let mut wanted: Vec<(usize, String)> = Vec::new();
        for flag in [true, false] {
            let registry = Arc::new(with_all_pages(&theme, flag));
            let stage = Stage::new(registry.clone());
            for page in stage.pages() {
                let at = registry.types().iter().position(|known| known.name == *page.page_type).expect("a known type");
                let rendered = stage.render(&page.path).expect("the page is there");
                shown.extend(rendered.trace.points.iter().map(|point| (at, point.to_string())));
            }
            let spots = registry.points().filter(|point| point.address.kind.needs_placement() && !point.moment);
            for point in spots {
                for at in (0..registry.types().len()).filter(|at| point.reached.has(*at)) {
                    let filled = point.items.iter().any(|item| item.types.has(at));
                    let hook = point.address.kind == truehook_core::address::Kind::Hook;
                    let menu = point.address.kind == truehook_core::address::Kind::Menu && !point.fills.is_empty();
                    wanted.extend((hook || filled || menu).then(|| (at, point.address.to_string())));
                }
            }
        }
        for one in wanted {
            assert!(shown.contains(&one), "seed {seed}: {} is reached on type {} and never shows", one.1, one.0);
            compared += 1;
        }
    }
    assert!(compared > 3000, "only {compared} were compared");
}

/// What `why` says of a point on a page is what the page shows.
#[test]
fn what_why_says_of_a_page_is_what_the_page_shows() {
    let (mut shows, mut missing) = (0, 0);
    for seed in 0..THEMES / 10 {
        let registry = Arc::new(grow(seed).registry());
        let stage = Stage::new(registry.clone());
        for page in stage.pages() {
            let asked = stage.asked(&page.path, &[]).expect("the page is there");
            let spots = registry.points().filter(|point| point.address.kind.needs_placement() && !point.moment);
            for point in spots {
                let why = why::point(&registry, point.address, Some(&asked));
                let at = format!("seed {seed}: {} on {}: {}", point.address, page.path, why.answer);
                assert_eq!(why.shows, asked.seen.shown.contains(&point.address), "{at}");
                // It either shows, or the first broken link says why, and all before it hold.
                match why.broken {
                    None => shows += 1,
                    Some(broken) => {
                        let link = &why.chain[broken];
                        assert!(link.reason.as_ref().is_some_and(|reason| why.answer.ends_with(reason)), "{at}");
                        let before = why.chain[..broken].iter();
                        assert!(
                            before.clone().all(|link| matches!(link.state, LinkState::Good | LinkState::Idle)),
                            "{at}"
                        );
                        missing += 1;
                    }
                }
            }
        }
    }
    assert!(shows > 500 && missing > 500, "only {shows} that show and {missing} that do not were compared");
}

/// A callback that `why` says to have an effect changes the page when it goes, and one that runs in vain doesn't.
#[test]
fn what_why_says_of_callbacks_holds_when_they_are_left_out() {
    let mut compared = 0;
    for seed in 0..THEMES / 10 {
        let registry = Arc::new(grow(seed).registry());
        let stage = Stage::new(registry.clone());
        for page in stage.pages() {
            let rendered = stage.watch(&page.path).expect("the page is there");
            for slot in registry.points().flat_map(|point| point.slots.iter()) {
                let Runs::Callback(_, Some(callback)) = slot.runs else { continue };
                let places = why::attachments(&registry, callback);
                let asked = stage.asked(&page.path, std::slice::from_ref(&places)).expect("the page is there");
                let why = why::callback(&registry, callback, Some(&asked));
                let without =
                    stage.rendered(&page.path, truehook_stage::Manner::without(&places)).expect("the page is there");
                let same = without.html == rendered.html;
                let state = why.callbacks.first().map_or("", |first| first.state.word());
                let at = format!("seed {seed}: {} on {}: {state}", why.subject, page.path);
                match state {
                    "ran" => assert!(!same, "{at}"),
                    "off" | "failed" | "nothing" | "spare" | "overridden" => assert!(same, "{at}"),
                    _ => continue,
                }
                compared += 1;
            }
        }
    }
    assert!(compared > 300, "only {compared} were compared");
}
