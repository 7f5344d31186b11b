//! `can_hold` against all values that a condition could meet, worked out by an evaluator of the test's own.

use proptest::prelude::*;
use serde_json::{Value, json};
use truehook_core::scan::{Condition, Shape};

use super::facts;

/// A name whose values are a closed set, and one that can be anything.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Name {
    Type,
    Scheme,
    Wide,
    Columns,
    Free,
}

impl Name {
    fn written(self) -> &'static str {
        match self {
            Name::Type => "page.type",
            Name::Scheme => "options.scheme",
            Name::Wide => "options.wide",
            Name::Columns => "options.columns",
            Name::Free => "page.data.mood",
        }
    }

    fn values(self) -> Vec<Value> {
        match self {
            Name::Type => vec![json!("front"), json!("entry"), json!("list")],
            Name::Scheme => vec![json!("day"), json!("night")],
            Name::Wide => vec![json!(true), json!(false)],
            Name::Columns => vec![json!(1), json!(2), json!(3)],
            Name::Free => vec![json!("calm"), json!("windy"), json!("")],
        }
    }

    /// Something to compare it with: a value of its own, or one that it never has.
    fn literals(self) -> Vec<Value> {
        let mut all = self.values();
        all.push(match self {
            Name::Columns => json!(9),
            Name::Wide => json!(true),
            _ => json!("elsewhere"),
        });
        all
    }
}

#[derive(Clone, Debug)]
enum Test {
    Is(Name, bool, Value),
    Below(Value, &'static str),
    OneOf(Name, bool, Vec<Value>),
    Bare(Name),
    Between(u8, u8),
    Not(Box<Test>),
    And(Box<Test>, Box<Test>),
    Or(Box<Test>, Box<Test>),
}

impl Test {
    fn written(&self) -> String {
        match self {
            Test::Is(name, true, value) => format!("{} == {value}", name.written()),
            Test::Is(name, false, value) => format!("{} != {value}", name.written()),
            Test::Below(value, sign) => format!("options.columns {sign} {value}"),
            Test::OneOf(name, true, values) => format!("{} in {}", name.written(), json!(values)),
            Test::OneOf(name, false, values) => format!("{} not in {}", name.written(), json!(values)),
            Test::Bare(name) => name.written().to_string(),
            Test::Between(low, high) => format!("{low} < options.columns <= {high}"),
            Test::Not(test) => format!("not ({})", test.written()),
            Test::And(left, right) => format!("({}) and ({})", left.written(), right.written()),
            Test::Or(left, right) => format!("({}) or ({})", left.written(), right.written()),
        }
    }

    fn holds(&self, of: &dyn Fn(Name) -> Value) -> bool {
        let columns = || of(Name::Columns).as_i64().unwrap();
        match self {
            Test::Is(name, is, value) => (of(*name) == *value) == *is,
            Test::Below(value, sign) => {
                let (left, right) = (columns(), value.as_i64().unwrap());
                match *sign {
                    "<" => left < right,
                    "<=" => left <= right,
                    ">" => left > right,
                    _ => left >= right,
                }
            }
            Test::OneOf(name, is, values) => values.contains(&of(*name)) == *is,
            Test::Bare(name) => match of(*name) {
                Value::Bool(truth) => truth,
                Value::String(text) => !text.is_empty(),
                Value::Number(number) => number.as_i64() != Some(0),
                other => panic!("{other}"),
            },
            Test::Between(low, high) => i64::from(*low) < columns() && columns() <= i64::from(*high),
            Test::Not(test) => !test.holds(of),
            Test::And(left, right) => left.holds(of) && right.holds(of),
            Test::Or(left, right) => left.holds(of) || right.holds(of),
        }
    }

    fn reads(&self, name: Name) -> bool {
        match self {
            Test::Is(own, ..) | Test::OneOf(own, ..) | Test::Bare(own) => *own == name,
            Test::Below(..) | Test::Between(..) => name == Name::Columns,
            Test::Not(test) => test.reads(name),
            Test::And(left, right) | Test::Or(left, right) => left.reads(name) || right.reads(name),
        }
    }
}

const NAMES: [Name; 5] = [Name::Type, Name::Scheme, Name::Wide, Name::Columns, Name::Free];

/// All that the names could be together.
fn worlds() -> Vec<[Value; 5]> {
    let mut all = vec![[const { Value::Null }; 5]];
    for (at, name) in NAMES.into_iter().enumerate() {
        let with = |world: &[Value; 5], value: Value| {
            let mut world = world.clone();
            world[at] = value;
            world
        };
        all = all.iter().flat_map(|world| name.values().into_iter().map(move |value| with(world, value))).collect();
    }
    all
}

fn ever(test: &Test) -> bool {
    let at = |name: Name| NAMES.iter().position(|known| *known == name).unwrap();
    worlds().iter().any(|world| test.holds(&|name| world[at(name)].clone()))
}

fn test() -> impl Strategy<Value = Test> {
    let name = prop::sample::select(&NAMES[..]);
    let named =
        || prop::sample::select(&NAMES[..]).prop_flat_map(|name| (Just(name), prop::sample::select(name.literals())));
    let many = |name: Name| prop::collection::vec(prop::sample::select(name.literals()), 0..3);
    let leaf = prop_oneof![
        (named(), any::<bool>()).prop_map(|((name, value), is)| Test::Is(name, is, value)),
        (0..5u8, prop::sample::select(&["<", "<=", ">", ">="][..]))
            .prop_map(|(number, sign)| Test::Below(json!(number), sign)),
        (name.clone().prop_flat_map(move |name| (Just(name), many(name))), any::<bool>())
            .prop_map(|((name, values), is)| Test::OneOf(name, is, values)),
        name.prop_map(Test::Bare),
        (0..4u8, 0..4u8).prop_map(|(low, high)| Test::Between(low, high)),
    ];
    leaf.prop_recursive(4, 12, 2, |inner| {
        prop_oneof![
            inner.clone().prop_map(|test| Test::Not(Box::new(test))),
            (inner.clone(), inner.clone()).prop_map(|(left, right)| Test::And(Box::new(left), Box::new(right))),
            (inner.clone(), inner).prop_map(|(left, right)| Test::Or(Box::new(left), Box::new(right))),
        ]
    })
}

/// A condition as the scanner reads it from a manifest; nothing where it is refused.
fn read(text: &str) -> Option<Condition> {
    let manifest = format!(
        "[theme]\nname = \"marsh\"\n\n[[attach]]\nto = \"hook:document-end\"\ncall = \"a.js#f\"\nwhen = '''{text}'''\n"
    );
    let facts = facts("truehook.toml", &manifest);
    let Shape::Manifest(shape) = facts.shape else { panic!("no manifest") };
    shape.attachments[0].when.clone()
}

fn closed(name: &str) -> Option<Vec<Value>> {
    let closed = [Name::Type, Name::Scheme, Name::Wide, Name::Columns];
    closed.into_iter().find(|known| known.written() == name).map(Name::values)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_can_never_hold_is_told_and_nothing_else(test in test()) {
        let text = test.written();
        let condition = read(&text).unwrap_or_else(|| panic!("refused: {text}"));
        let told = condition.can_hold(closed);
        if test.reads(Name::Free) {
            // Of what is left open, less can be told; but never anything wrong.
            prop_assert!(told || !ever(&test), "{text} can hold");
        } else {
            prop_assert_eq!(told, ever(&test), "{}", text);
        }
    }

    #[test]
    fn every_name_that_is_read_is_known(test in test()) {
        let condition = read(&test.written()).unwrap();
        for name in NAMES {
            let path = |read: &Vec<truehook_core::scan::Named>| read.iter().map(|step| step.name.to_string()).collect::<Vec<_>>().join(".");
            let found = condition.reads.iter().any(|read| path(read) == name.written());
            prop_assert_eq!(found, test.reads(name), "{} in {}", name.written(), condition.text);
        }
    }

    #[test]
    fn whatever_is_written_is_read_or_refused(text in "[a-z.'()=<>!, 0-9|{}\\[\\]-]{0,40}") {
        if let Some(condition) = read(&text) {
            condition.can_hold(closed);
        }
    }
}

#[test]
fn what_computes_or_calls_is_no_condition() {
    for text in
        ["page.title ~ 'x'", "1 + 1", "page.title | upper", "range(3)", "page['type'] == 'front'", "", "page.type =="]
    {
        assert!(read(text).is_none(), "{text}");
    }
    for text in ["page.type == 'front'", "not page.data.quiet", "enabled('feature:marsh')", "-1 < options.columns"] {
        assert!(read(text).is_some(), "{text}");
    }
}
