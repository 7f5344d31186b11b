//! The order that constraints leave.

use std::cmp::Reverse;
use std::collections::BinaryHeap;

use rustc_hash::FxHashMap;

use crate::source::Place;

/// A constraint between two slots, by their positions before ordering.
pub(super) struct Edge {
    pub first: usize,
    pub second: usize,
    pub constraint: Place,
}

/// The stable topological order that always takes the ready one with the smallest key, or the
/// constraints of one circle.
pub(super) fn sort<'e, K: Ord + Copy>(keys: &[K], edges: &'e [Edge]) -> Result<Vec<usize>, Vec<&'e Edge>> {
    let mut waits = vec![0; keys.len()];
    for edge in edges {
        waits[edge.second] += 1;
    }
    let mut ready: BinaryHeap<_> =
        (0..keys.len()).filter(|at| waits[*at] == 0).map(|at| Reverse((keys[at], at))).collect();
    let mut order = Vec::with_capacity(keys.len());
    let mut from: Vec<&Edge> = edges.iter().collect();
    from.sort_by_key(|edge| edge.first);
    while let Some(Reverse((_, at))) = ready.pop() {
        order.push(at);
        let begin = from.partition_point(|edge| edge.first < at);
        for edge in from[begin..].iter().take_while(|edge| edge.first == at) {
            waits[edge.second] -= 1;
            if waits[edge.second] == 0 {
                ready.push(Reverse((keys[edge.second], edge.second)));
            }
        }
    }
    if order.len() == keys.len() { Ok(order) } else { Err(circle(&waits, edges)) }
}

/// One circle among those that still wait: walks backwards until a step repeats.
fn circle<'e>(waits: &[usize], edges: &'e [Edge]) -> Vec<&'e Edge> {
    let mut walk: Vec<&Edge> = Vec::new();
    let Some(mut at) = waits.iter().position(|count| *count > 0) else { return walk };
    let mut into: FxHashMap<usize, &Edge> = FxHashMap::default();
    for edge in edges.iter().filter(|edge| waits[edge.first] > 0) {
        into.entry(edge.second).or_insert(edge);
    }
    let mut steps: FxHashMap<usize, usize> = FxHashMap::default();
    loop {
        let Some(edge) = into.get(&at) else { return walk };
        if let Some(start) = steps.insert(at, walk.len()) {
            let mut circle = walk.split_off(start);
            circle.reverse();
            return circle;
        }
        walk.push(edge);
        at = edge.first;
    }
}
