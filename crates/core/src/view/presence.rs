//! Where something shows: on which types of pages, and under which conditions.

use serde::Serialize;

use super::PlaceView;
use crate::link::{ByType, Point, Registry, Types, UseId};

/// A condition that has to be met, and of which files don't say whether it is.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct ConditionView {
    /// The condition, in the template language.
    pub condition: String,
    /// The types of pages on which it has to be met.
    pub on: Vec<String>,
    /// Where it stands.
    #[serde(flatten)]
    pub place: PlaceView,
    /// The condition as the end of a sentence.
    #[serde(skip)]
    pub said: String,
    /// Is it enough, together with the others?
    #[serde(skip)]
    pub whole: bool,
}

/// Where something shows.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct PresenceView {
    /// The types of pages that get to it.
    pub reached_by: Vec<String>,
    /// What has to be met on them.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub conditions: Vec<ConditionView>,
    /// Those of them on which nothing has to be met.
    #[serde(skip)]
    pub free: Vec<String>,
    /// Is it reached by every type of page that has a template?
    #[serde(skip)]
    pub everywhere: bool,
}

impl PresenceView {
    /// A point.
    pub fn of_point(registry: &Registry, point: &Point) -> PresenceView {
        PresenceView::new(registry, registry.point_types(point), &registry.conditions_of(point.address))
    }

    /// A use of a point.
    pub fn of_use(registry: &Registry, id: UseId) -> PresenceView {
        PresenceView::new(registry, registry.use_reached(id), &registry.use_conditions(id))
    }

    /// Types of pages, and what has to be met on them.
    pub fn new(registry: &Registry, types: Types, conditions: &ByType) -> PresenceView {
        let names =
            |types: Types| -> Vec<String> { registry.type_names(types).into_iter().map(str::to_string).collect() };
        let mut views: Vec<ConditionView> = Vec::new();
        let mut free = types;
        for under in conditions {
            // Ways that have nothing in common are told place by place.
            if under.conditions.is_some() {
                free = free.without(under.types);
            }
            for one in under.all() {
                views.push(ConditionView {
                    condition: one.text.to_string(),
                    on: names(under.types.and(types)),
                    place: PlaceView::of(registry, one.place),
                    said: one.said(),
                    whole: under.whole,
                });
            }
        }
        let all = registry.templated_types();
        PresenceView {
            reached_by: names(types),
            conditions: views,
            free: names(free),
            everywhere: !all.is_empty() && all.without(types).is_empty(),
        }
    }

    /// Is it reached by no page?
    pub fn is_nowhere(&self) -> bool {
        self.reached_by.is_empty()
    }

    /// The pages that get to it, in words; `lead` stands before the names of types.
    pub fn pages(&self, lead: &str) -> String {
        let named = |types: &[String]| match self.everywhere && types.len() == self.reached_by.len() {
            true => "every page".to_string(),
            false => format!("{lead}{}", types.join(", ")),
        };
        if self.is_nowhere() {
            return "no page".into();
        }
        // Types that need the same are named together.
        let mut groups: Vec<(&[String], bool, Vec<&str>)> = Vec::new();
        for condition in &self.conditions {
            match groups.iter_mut().find(|(on, ..)| *on == condition.on.as_slice()) {
                Some((.., said)) => said.push(&condition.said),
                None => groups.push((&condition.on, condition.whole, vec![&condition.said])),
            }
        }
        let free = (!self.free.is_empty()).then(|| named(&self.free));
        let under = groups.iter().map(|(on, whole, said)| {
            let least = if *whole { "" } else { "at least " };
            format!("{}, where {least}{}", named(on), said.join(" and "))
        });
        free.into_iter().chain(under).collect::<Vec<_>>().join("; ")
    }
}
