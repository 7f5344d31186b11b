//! Features as the theme switches them on, and the host's offers.

use serde_json::Value;

use super::names::Names;
use super::reference::{Link, Meaning, Meant, Outcome, Reference, Target, Wanted};
use super::refs::Refs;
use crate::address::{Address, Kind};
use crate::name::Name;
use crate::scan::PointRef;
use crate::source::{FileId, Place};

/// What became of the features that layers switch on.
#[derive(Default)]
pub(super) struct Offered {
    pub refs: Refs,
}

/// Ties features to what the host offers, and the files that their arguments name.
pub(super) fn offer(names: Names<'_>) -> Offered {
    let mut out = Offered::default();
    let mut declared: Vec<(Address, Place, Place, bool)> = Vec::new();
    for point in names.declared.all() {
        let Some(feature) = &point.feature else { continue };
        let offered = names.declared.is_offered(point);
        declared.extend(feature.given.iter().map(|given| (point.address, given.place, given.name, offered)));
    }
    for (address, place, named, offered) in declared {
        let outcome = match (offered, unoffered(names, PointRef::new(&address.to_string(), place.at))) {
            (true, _) => Outcome::Found(Target::Point(address)),
            (false, Outcome::Missing { wanted, meant }) => {
                // Where it is switched on its name alone is written.
                let bare = |meant: Meant| meant.written.as_str().strip_prefix("feature:").map(Name::from);
                let meant =
                    meant.map(|meant| Meant::from(Meaning { written: bare(meant).unwrap_or(meant.written), ..*meant }));
                Outcome::Missing { wanted, meant }
            }
            (false, outcome) => outcome,
        };
        out.refs.refer(names.ground, Link::FeatureToOffer, named, address.name, outcome);
        if offered {
            argument_files(names, &mut out.refs, address, place);
        }
    }
    out
}

impl Offered {
    /// Resolves a question for a feature, or whether one is off.
    pub fn link_question(&self, names: Names<'_>, refs: &mut Refs, file: FileId, asked: PointRef, on: bool) {
        let from = Place { file, at: asked.at };
        match asked.address.filter(|address| names.declared.offers(*address)) {
            Some(_) if !on => {}
            Some(address) => self.link_feed(names, refs, address, from, asked.raw),
            None => {
                let outcome = unoffered(names, asked);
                refs.refer(names.ground, Link::FeatureToOffer, from, asked.raw, outcome);
            }
        }
    }

    /// Notes that something needs a feature that is offered. Layers that others build on may leave it
    /// to those whether it is switched on.
    pub fn link_feed(&self, names: Names<'_>, refs: &mut Refs, feature: Address, from: Place, written: Name) {
        let layer = names.ground.layer_of(from);
        let outcome = match names.declared.is_on(feature) || self.is_misnamed(feature) {
            true => Outcome::Found(Target::Point(feature)),
            false if names.ground.project.layer(layer).open || names.ground.blind.declarations => Outcome::Unknown,
            false => Outcome::Missing { wanted: Wanted::Feature(feature), meant: None },
        };
        refs.refer(names.ground, Link::FeedToFeature, from, written, outcome);
    }

    /// Does the theme switch it on under a name that is misspelt?
    fn is_misnamed(&self, feature: Address) -> bool {
        let whole = feature.whole();
        let meant = |reference: &Reference| match reference.outcome {
            Outcome::Missing { meant: Some(meant), .. } => meant.target == Target::Point(whole),
            _ => false,
        };
        self.refs.all.iter().any(meant)
    }
}

fn unoffered(names: Names<'_>, asked: PointRef) -> Outcome {
    if names.ground.blind.declarations {
        return Outcome::Unknown;
    }
    let arguments = asked.raw.as_str().contains('.');
    let features = names.declared.all().filter(|point| names.declared.is_offered(point));
    let features = features.filter_map(|point| Some((point.address, point.feature.as_ref()?)));
    let offered: Vec<String> = features
        .flat_map(|(address, feature)| {
            let taken = feature.takes().filter(|_| arguments).map(move |name| format!("{}.{name}", address.name));
            [address.name.to_string()].into_iter().filter(|_| !arguments).chain(taken).collect::<Vec<_>>()
        })
        .collect();
    let offered = || offered.iter().map(String::as_str);
    let name = asked.raw.as_str().strip_prefix("feature:").unwrap_or(&asked.raw);
    let meant = crate::names::nearest(name, offered()).map(|near| {
        let target = Target::Point(Address::new(Kind::Feature, near));
        let certain = crate::names::certain(name, offered()).is_some();
        Meant::from(Meaning { written: format!("feature:{near}").as_str().into(), target, certain })
    });
    Outcome::Missing { wanted: Wanted::Point(asked.raw), meant }
}

/// Ties the files that the arguments of a feature name.
fn argument_files(names: Names<'_>, refs: &mut Refs, address: Address, place: Place) {
    let Some(feature) = names.declared.point(address).and_then(|point| point.feature.as_ref()) else { return };
    let Some(given) = feature.given.iter().find(|given| given.place == place) else { return };
    let layer = names.ground.layer_of(place);
    for text in &given.texts {
        let is_path = |schema: &Value| schema.get("format").is_some_and(|format| format == "path");
        if feature.property(&text.key).is_some_and(is_path) {
            names.link_file(refs, Place { file: place.file, at: text.value.at }, text.value.name, layer, "");
        }
    }
}
