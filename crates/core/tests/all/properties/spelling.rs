//! Names and addresses: what is one is read back as it was written, and what is none is refused.

use proptest::prelude::*;
use truehook_core::address::{Address, Kind};
use truehook_core::names::{certain, is_kebab, is_snake, nearest};

/// Edits of one letter between two words (optimal string alignment: a swap of neighbours counts as one).
fn edits(from: &str, to: &str) -> usize {
    let (from, to): (Vec<char>, Vec<char>) = (from.chars().collect(), to.chars().collect());
    let mut table = vec![vec![0; to.len() + 1]; from.len() + 1];
    for i in 0..=from.len() {
        for j in 0..=to.len() {
            table[i][j] = match (i, j) {
                (0, _) => j,
                (_, 0) => i,
                _ => {
                    let change = usize::from(from[i - 1] != to[j - 1]);
                    let mut least = (table[i - 1][j] + 1).min(table[i][j - 1] + 1).min(table[i - 1][j - 1] + change);
                    if i > 1 && j > 1 && from[i - 1] == to[j - 2] && from[i - 2] == to[j - 1] {
                        least = least.min(table[i - 2][j - 2] + 1);
                    }
                    least
                }
            };
        }
    }
    table[from.len()][to.len()]
}

fn kinds() -> impl Strategy<Value = Kind> {
    prop::sample::select(&Kind::ALL[..])
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 500, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn an_address_is_read_back_as_it_was_written(kind in kinds(), kebab in "[a-z][a-z0-9]{0,6}(-[a-z0-9]{1,5}){0,3}", snake in "[a-z][a-z0-9_]{0,12}") {
        let name = if kind == Kind::Option { snake } else { kebab };
        let text = format!("{kind}:{name}");
        let address: Address = text.parse().unwrap();
        prop_assert_eq!(address.kind, kind);
        prop_assert_eq!(address.name.as_str(), name);
        prop_assert_eq!(address.to_string(), text);
        prop_assert!(address.inner().is_none() && address.argument().is_none());
        prop_assert_eq!(address.whole(), address);
    }

    #[test]
    fn arguments_and_inner_pieces_know_what_they_are_of(of in "[a-z]{1,6}(-[a-z]{1,4})?", own in "[a-z]{1,6}(-[a-z]{1,4})?") {
        let argument: Address = format!("feature:{of}.{own}").parse().unwrap();
        let (feature, named) = argument.argument().unwrap();
        prop_assert_eq!((feature.to_string(), named), (format!("feature:{of}"), own.as_str()));
        prop_assert_eq!(argument.whole(), feature);
        prop_assert_eq!(feature.with_argument(own.as_str().into()), argument);
        let piece: Address = format!("piece:{of}/{own}").parse().unwrap();
        let (section, named) = piece.inner().unwrap();
        prop_assert_eq!((section.to_string(), named), (format!("section:{of}"), own.as_str()));
        for kind in ["hook", "region", "section", "partial"] {
            let dotted = format!("{kind}:{of}.{own}").parse::<Address>().is_ok();
            let slashed = format!("{kind}:{of}/{own}").parse::<Address>().is_ok();
            prop_assert!(!dotted && !slashed);
        }
    }

    #[test]
    fn whatever_is_written_is_an_address_or_refused(text in "[a-zA-Z0-9:._/ é-]{0,20}") {
        match text.parse::<Address>() {
            Ok(address) => prop_assert_eq!(address.to_string(), text),
            Err(why) => prop_assert!(!why.to_string().is_empty()),
        }
    }

    #[test]
    fn names_are_of_letters_digits_and_single_marks(name in "[a-zA-Z0-9_é-]{0,10}") {
        let first = name.chars().next().is_some_and(|c| c.is_ascii_lowercase());
        let of = |mark: char| name.chars().all(|c| c.is_ascii_lowercase() || c.is_ascii_digit() || c == mark);
        prop_assert_eq!(is_snake(&name), first && of('_'));
        prop_assert_eq!(is_kebab(&name), first && of('-') && !name.contains("--") && !name.ends_with('-'));
    }

    #[test]
    fn what_is_certain_is_near_and_alone(name in "[a-d]{1,6}", known in prop::collection::hash_set("[a-d]{1,6}", 0..6)) {
        let others = || known.iter().map(String::as_str);
        let near = nearest(&name, others());
        if let Some(near) = near {
            prop_assert!(known.contains(near) && near != name);
            let best = others().filter(|word| *word != name).map(|word| edits(&name, word)).min().unwrap();
            prop_assert!(edits(&name, near) <= best + 1, "{near} for {name} of {known:?}");
        }
        if let Some(sure) = certain(&name, others()) {
            prop_assert_eq!(Some(sure), near);
            prop_assert!(edits(&name, sure) <= 2);
            let close = others().filter(|word| *word != name && edits(&name, word) <= 1).count();
            prop_assert!(close <= 1, "{name} of {known:?}");
        }
    }
}
