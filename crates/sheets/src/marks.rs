//! A page whose parts are marked by comments, which take no room, so that a script can find where each of them is.

use std::collections::{HashMap, HashSet};

use html5gum::emitters::default::DefaultEmitter;
use html5gum::{Token, Tokenizer};
use truehook_stage::{Rendered, SegmentId};

/// Elements whose content is text alone, so that a comment would be seen there (HTML, 13.2.5.1 and 13.2.6.4).
const TEXTS: [&[u8]; 9] =
    [b"title", b"textarea", b"style", b"script", b"xmp", b"iframe", b"noembed", b"noframes", b"noscript"];

/// A page with marks.
pub struct Marked {
    /// Its text.
    pub html: String,
    /// The numbers that are on it. What stands in an attribute or a title has none.
    pub marked: HashSet<usize>,
}

/// The mark before a part of a page, by its number.
pub fn begin(number: usize) -> String {
    format!("<!--truehook {number}-->")
}

/// The mark behind it.
pub fn end(number: usize) -> String {
    format!("<!--/truehook {number}-->")
}

/// Puts a comment before and behind each of some segments, with the number that each is given: `<!--truehook 7-->` and
/// `<!--/truehook 7-->`.
pub fn marked(page: &Rendered, numbers: &HashMap<SegmentId, usize>) -> Marked {
    let ranges = page.tree.ranges();
    let spots = Spots::of(&page.html);
    let takes = |id: SegmentId| {
        let range = ranges.get(id.0)?.as_ref()?;
        (spots.takes(range.start) && spots.takes(range.end)).then_some(range)
    };
    let mut marked = HashSet::new();
    // Where each is put in, in the tree's own order of begins and ends.
    let mut marks: Vec<(usize, String)> = Vec::new();
    walk(page, &mut |id, begins| {
        let (Some(number), Some(range)) = (numbers.get(&id), takes(id)) else { return };
        marked.insert(*number);
        marks.push(match begins {
            true => (spots.moved(range.start), begin(*number)),
            false => (spots.moved(range.end), end(*number)),
        });
    });
    marks.sort_by_key(|(at, _)| *at);
    let mut html = String::with_capacity(page.html.len() + marks.len() * 24);
    let mut done = 0;
    for (at, mark) in marks {
        html.push_str(&page.html[done..at]);
        html.push_str(&mark);
        done = at;
    }
    html.push_str(&page.html[done..]);
    Marked { html, marked }
}

/// Tells of each segment where it begins and where it ends, in the order of the document.
fn walk(page: &Rendered, tell: &mut dyn FnMut(SegmentId, bool)) {
    let mut open: Vec<(SegmentId, usize)> = Vec::new();
    if !page.tree.segments.is_empty() {
        tell(SegmentId(0), true);
        open.push((SegmentId(0), 0));
    }
    while let Some((id, part)) = open.pop() {
        match page.tree.get(id).parts.get(part) {
            None => tell(id, false),
            Some(found) => {
                open.push((id, part + 1));
                if let truehook_stage::Part::Segment(inner) = found {
                    tell(*inner, true);
                    open.push((*inner, 0));
                }
            }
        }
    }
}

/// Where comments may stand in a page.
struct Spots {
    /// Stretches in which none may stand, both ends excluded, in order.
    closed: Vec<(usize, usize)>,
    /// Line ends right behind the tags of elements that leave out the first one: a comment goes behind those.
    led: Vec<(usize, usize)>,
}

impl Spots {
    fn of(html: &str) -> Spots {
        let mut spots = Spots { closed: Vec::new(), led: Vec::new() };
        let mut emitter = DefaultEmitter::<usize>::new_with_span();
        emitter.naively_switch_states(true);
        // The end of the tag that opened an element of text alone.
        let mut inside: Option<usize> = None;
        for token in Tokenizer::new_with_emitter(html, emitter) {
            let Ok(token) = token;
            match token {
                Token::StartTag(tag) => {
                    spots.closed.push((tag.span.start, tag.span.end));
                    let name: &[u8] = &tag.name;
                    if inside.is_none() && !tag.self_closing && TEXTS.contains(&name) {
                        inside = Some(tag.span.end);
                    }
                    let rest = &html[tag.span.end..];
                    let end = ["\r\n", "\n", "\r"].into_iter().find(|end| rest.starts_with(end));
                    if let Some(end) = end.filter(|_| matches!(name, b"pre" | b"listing")) {
                        spots.led.push((tag.span.end, end.len()));
                    }
                }
                Token::EndTag(tag) => {
                    let name: &[u8] = &tag.name;
                    if let Some(begun) = inside.filter(|_| TEXTS.contains(&name)) {
                        spots.closed.push((begun - 1, tag.span.start + 1));
                        inside = None;
                    }
                    spots.closed.push((tag.span.start, tag.span.end));
                }
                Token::Comment(comment) => spots.closed.push((comment.span.start, comment.span.end)),
                Token::Doctype(doctype) => spots.closed.push((doctype.span.start, doctype.span.end)),
                _ => {}
            }
        }
        if let Some(begun) = inside {
            spots.closed.push((begun - 1, html.len() + 1));
        }
        spots.closed.sort_unstable();
        // Those of texts hold tags: they are one with them.
        spots.closed.dedup_by(|next, known| {
            let one = next.0 < known.1;
            known.1 = if one { known.1.max(next.1) } else { known.1 };
            one
        });
        spots
    }

    fn takes(&self, at: usize) -> bool {
        let behind = self.closed.partition_point(|(start, _)| *start < at);
        self.closed[..behind].last().is_none_or(|(_, end)| at >= *end)
    }

    /// Where a comment goes that belongs to a place: HTML drops a line end only right behind the tag.
    fn moved(&self, at: usize) -> usize {
        let led = self.led.binary_search_by_key(&at, |(at, _)| *at);
        led.map_or(at, |found| at + self.led[found].1)
    }
}
