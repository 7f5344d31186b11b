//! Does a value fit? Against an evaluator of the test's own, for the words that manifests use most; and colours
//! and lengths against what the CSS specifications say of them.

use proptest::prelude::*;
use serde_json::{Value, json};
use truehook_core::css::{colour_fault, length_fault};
use truehook_core::schema::{fault, misfit};

/// A schema as the test means it.
#[derive(Clone, Debug)]
enum Shape {
    Any,
    Text { least: usize, most: usize },
    Whole { least: i64, most: i64 },
    Number { step: u8 },
    Kebab { least: usize },
    Truth,
    OneOf(Vec<Value>),
    List { of: Box<Shape>, most: usize, distinct: bool },
    Table { needed: Vec<&'static str>, keys: Vec<(&'static str, Shape)>, closed: bool },
    Either(Box<Shape>, Box<Shape>),
}

const KEYS: [&str; 3] = ["a", "b", "c"];

impl Shape {
    fn schema(&self) -> Value {
        match self {
            Shape::Any => json!({}),
            Shape::Text { least, most } => json!({ "type": "string", "minLength": least, "maxLength": most }),
            Shape::Whole { least, most } => json!({ "type": "integer", "minimum": least, "exclusiveMaximum": most }),
            Shape::Number { step } => json!({ "type": "number", "multipleOf": step }),
            Shape::Kebab { least } => json!({ "type": "string", "pattern": "^[a-c]+(-[a-c]+)*$", "minLength": least }),
            Shape::Truth => json!({ "type": "boolean" }),
            Shape::OneOf(values) => json!({ "enum": values }),
            Shape::List { of, most, distinct } => {
                json!({ "type": "array", "items": of.schema(), "maxItems": most, "uniqueItems": distinct })
            }
            Shape::Table { needed, keys, closed } => {
                let properties: serde_json::Map<String, Value> =
                    keys.iter().map(|(key, shape)| (key.to_string(), shape.schema())).collect();
                let mut schema = json!({ "type": "object", "properties": properties, "required": needed });
                if *closed {
                    schema["additionalProperties"] = json!(false);
                }
                schema
            }
            Shape::Either(one, other) => json!({ "anyOf": [one.schema(), other.schema()] }),
        }
    }

    fn fits(&self, value: &Value) -> bool {
        match self {
            Shape::Any => true,
            Shape::Text { least, most } => {
                value.as_str().is_some_and(|text| (*least..=*most).contains(&text.chars().count()))
            }
            Shape::Whole { least, most } => value.as_i64().is_some_and(|number| *least <= number && number < *most),
            Shape::Number { step } => value.as_i64().is_some_and(|number| number % i64::from(*step) == 0),
            Shape::Kebab { least } => value.as_str().is_some_and(|text| {
                let part = |part: &str| !part.is_empty() && part.chars().all(|c| "abc".contains(c));
                text.split('-').all(part) && text.len() >= *least
            }),
            Shape::Truth => value.is_boolean(),
            Shape::OneOf(values) => values.contains(value),
            Shape::List { of, most, distinct } => value.as_array().is_some_and(|items| {
                let alone = |at: usize| !items[..at].contains(&items[at]);
                items.len() <= *most
                    && items.iter().all(|item| of.fits(item))
                    && (!distinct || (0..items.len()).all(alone))
            }),
            Shape::Table { needed, keys, closed } => value.as_object().is_some_and(|table| {
                let shape = |key: &str| keys.iter().find(|(known, _)| *known == key).map(|(_, shape)| shape);
                needed.iter().all(|key| table.contains_key(*key))
                    && table.iter().all(|(key, value)| match shape(key) {
                        Some(shape) => shape.fits(value),
                        None => !closed,
                    })
            }),
            Shape::Either(one, other) => one.fits(value) || other.fits(value),
        }
    }
}

fn value() -> impl Strategy<Value = Value> {
    let leaf = prop_oneof![
        any::<bool>().prop_map(Value::from),
        (-3..12i64).prop_map(Value::from),
        "[aé雨]{0,4}".prop_map(Value::from),
        "[abc-]{0,5}".prop_map(Value::from),
        Just(Value::Null),
    ];
    leaf.prop_recursive(3, 10, 3, |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..4).prop_map(Value::from),
            prop::collection::btree_map(prop::sample::select(&KEYS[..]), inner, 0..3)
                .prop_map(|table| table.into_iter().map(|(key, value)| (key.to_string(), value)).collect::<Value>()),
        ]
    })
}

fn shape() -> impl Strategy<Value = Shape> {
    let leaf = prop_oneof![
        Just(Shape::Any),
        (0..3usize, 0..4usize).prop_map(|(least, more)| Shape::Text { least, most: least + more }),
        (-3..5i64, 1..6i64).prop_map(|(least, more)| Shape::Whole { least, most: least + more }),
        (1..4u8).prop_map(|step| Shape::Number { step }),
        (0..4usize).prop_map(|least| Shape::Kebab { least }),
        Just(Shape::Truth),
        prop::collection::vec(value(), 1..4).prop_map(Shape::OneOf),
    ];
    leaf.prop_recursive(3, 10, 3, |inner| {
        let keys = prop::sample::subsequence(&KEYS[..], 0..3);
        prop_oneof![
            (inner.clone(), 0..4usize, any::<bool>()).prop_map(|(of, most, distinct)| Shape::List {
                of: Box::new(of),
                most,
                distinct
            }),
            (keys, prop::collection::vec(inner.clone(), 3), any::<bool>()).prop_map(|(needed, shapes, closed)| {
                Shape::Table { needed, keys: KEYS.into_iter().zip(shapes).take(2).collect(), closed }
            }),
            (inner.clone(), inner).prop_map(|(one, other)| Shape::Either(Box::new(one), Box::new(other))),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 600, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_value_fits_where_it_should(shape in shape(), value in value()) {
        let schema = shape.schema();
        prop_assert_eq!(fault(&schema), None, "{}", schema);
        let told = misfit(&schema, &value);
        prop_assert_eq!(told.is_none(), shape.fits(&value), "{} in {}: {:?}", value, schema, told);
        if let Some(told) = told {
            // The part that does not fit is there, and the sentence says something of it.
            let part = told.steps.iter().try_fold(&value, |part, step| match part {
                Value::Array(items) => items.get(step.parse::<usize>().ok()?),
                part => part.get(step),
            });
            prop_assert!(part.is_some(), "{:?} leads nowhere in {}", told.steps, value);
            prop_assert!(told.message.len() > 8, "{}", told.message);
        }
    }

    #[test]
    fn whatever_a_schema_is_nothing_breaks(schema in value(), value in value()) {
        fault(&schema);
        misfit(&schema, &value);
    }

    #[test]
    fn whatever_is_written_is_a_colour_or_none(text in "[ -~é]{0,24}") {
        colour_fault(&text);
        length_fault(&text);
    }

    /// What could leave its declaration is no value (CSS Syntax 3, 9: `<declaration-value>`).
    #[test]
    fn nothing_leaves_its_declaration(before in "[a-z0-9 ]{0,6}", after in "[a-z:{} ]{0,6}", out in prop::sample::select(&[";", "}", "{", "!", "</style>"][..])) {
        let text = format!("{before}{out}{after}");
        prop_assert!(colour_fault(&text).is_some(), "{text}");
        prop_assert!(length_fault(&text).is_some(), "{text}");
    }
}

/// Words that the product looks at by itself, and those for which it asks a library, say the same of what does not
/// fit: the part, and a sentence.
#[test]
fn what_does_not_fit_is_told_in_words() {
    for (schema, value, steps, words) in [
        (json!({ "enum": ["calm", "wild"] }), json!("wlid"), "", "none of"),
        (json!({ "type": "integer", "maximum": 3 }), json!(4), "", "more than 3"),
        (json!({ "type": "array", "items": { "type": "string" } }), json!(["a", 1]), "1", "1 is"),
        (json!({ "type": "object", "required": ["a"] }), json!({}), "", "`a`"),
        (json!({ "type": "object", "properties": { "a": { "type": "boolean" } } }), json!({ "a": 1 }), "a", "1 is"),
        (json!({ "type": "string", "format": "date" }), json!("2026-13-01"), "", "date"),
        (json!({ "type": "string", "format": "colour" }), json!("teall"), "", "teall"),
        (json!({ "type": "string", "pattern": "^[a-z]+$" }), json!("A"), "", "pattern"),
        (json!({ "oneOf": [{ "type": "string" }, { "const": 1 }] }), json!(2), "", "2"),
    ] {
        let told = misfit(&schema, &value).unwrap_or_else(|| panic!("{value} fits {schema}"));
        assert_eq!(told.steps.join("."), steps, "{schema}");
        assert!(told.message.contains(words), "{}: {schema}", told.message);
    }
    for schema in [
        json!({ "type": "strin" }),
        json!({ "minimum": "1" }),
        json!({ "pattern": "(" }),
        json!({ "enum": 3 }),
        json!({ "items": 3 }),
    ] {
        assert!(fault(&schema).is_some(), "{schema}");
    }
}

/// RFC 3339, 5.6: what is a full date, and what a date with a time.
#[test]
fn dates_are_dates() {
    let fits =
        |format: &str, text: &str| misfit(&json!({ "type": "string", "format": format }), &json!(text)).is_none();
    for date in ["2026-03-01", "2024-02-29", "0001-12-31"] {
        assert!(fits("date", date) && !fits("date-time", date), "{date}");
    }
    for time in ["2026-03-01T06:10:00Z", "2026-03-01T06:10:00.5+02:00", "2026-12-31T23:59:59-11:30"] {
        assert!(fits("date-time", time) && !fits("date", time), "{time}");
    }
    for wrong in [
        "",
        "2026-02-29",
        "2026-13-01",
        "2026-3-1",
        "06:10:00",
        "2026-03-01T06:10Z",
        "2026-03-01T06:10:00",
        "1 March 2026",
    ] {
        assert!(!fits("date", wrong) && !fits("date-time", wrong), "{wrong}");
    }
}

/// CSS Color 4: hex, named, functions, and what depends on where it is shown.
#[test]
fn colours_are_colours() {
    for colour in [
        "#123",
        "#1234",
        "#112233",
        "#11223344",
        "#AbC",
        "teal",
        "RebeccaPurple",
        "transparent",
        "currentColor",
        "canvas",
        "rgb(1 2 3)",
        "rgb(1, 2, 3)",
        "rgba(1 2 3 / 50%)",
        "hsl(120deg 20% 30%)",
        "hwb(12 50% 0%)",
        "lab(50% 40 59.5)",
        "oklch(40.1% 0.123 21.57)",
        "color(display-p3 1 0.5 0)",
        "color-mix(in srgb, teal 20%, white)",
        "light-dark(#fff, #000)",
        "var(--ink)",
        "inherit",
    ] {
        assert_eq!(colour_fault(colour), None, "{colour}");
    }
    for wrong in [
        "",
        " ",
        "#12",
        "#12345",
        "#xyz",
        "12",
        "12px",
        "teall",
        "#1122334",
        "teal teal",
        "url(x.png)",
        "\"teal\"",
        "a, b",
    ] {
        assert!(colour_fault(wrong).is_some(), "{wrong}");
    }
}

/// CSS Values and Units 4: numbers with units, percentages, functions that compute, and nought.
#[test]
fn lengths_are_lengths() {
    for length in [
        "0",
        "12px",
        "1.5rem",
        ".5em",
        "100%",
        "40ch",
        "-2px",
        "calc(1rem + 2vw)",
        "clamp(1rem, 2vw, 3rem)",
        "min(100%, 60rem)",
        "max(1px, 2px)",
        "var(--edge)",
        "12PX",
        "1e2px",
        "small",
        "larger",
    ] {
        assert_eq!(length_fault(length), None, "{length}");
    }
    for wrong in ["", "12", "12 px", "px", "1.5rme", "12deg", "3s", "#123", "1rem 2rem", "\"1rem\"", "wide"] {
        assert!(length_fault(wrong).is_some(), "{wrong}");
    }
}
