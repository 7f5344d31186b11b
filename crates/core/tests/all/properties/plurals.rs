//! Rules of plural forms against the arithmetic of C, in which they are written.

use proptest::prelude::*;
use truehook_core::scan::Plurals;

#[derive(Clone, Debug)]
enum Sum {
    N,
    Number(u64),
    Not(Box<Sum>),
    Two(&'static str, Box<Sum>, Box<Sum>),
    Choice(Box<Sum>, Box<Sum>, Box<Sum>),
}

impl Sum {
    fn written(&self) -> String {
        match self {
            Sum::N => "n".into(),
            Sum::Number(number) => number.to_string(),
            Sum::Not(sum) => format!("!({})", sum.written()),
            Sum::Two(sign, left, right) => format!("({}) {sign} ({})", left.written(), right.written()),
            Sum::Choice(test, yes, no) => format!("({}) ? ({}) : ({})", test.written(), yes.written(), no.written()),
        }
    }

    fn value(&self, n: u64) -> u64 {
        let truth = |truth: bool| u64::from(truth);
        match self {
            Sum::N => n,
            Sum::Number(number) => *number,
            Sum::Not(sum) => truth(sum.value(n) == 0),
            Sum::Choice(test, yes, no) => {
                if test.value(n) == 0 {
                    no.value(n)
                } else {
                    yes.value(n)
                }
            }
            Sum::Two(sign, left, right) => {
                let (left, right) = (left.value(n), right.value(n));
                match *sign {
                    "==" => truth(left == right),
                    "!=" => truth(left != right),
                    "<" => truth(left < right),
                    "<=" => truth(left <= right),
                    ">" => truth(left > right),
                    ">=" => truth(left >= right),
                    "&&" => truth(left != 0 && right != 0),
                    "||" => truth(left != 0 || right != 0),
                    "+" => left + right,
                    "*" => left * right,
                    // What C leaves open, the product answers with nothing.
                    "%" => left.checked_rem(right).unwrap_or(0),
                    _ => left.checked_div(right).unwrap_or(0),
                }
            }
        }
    }
}

fn sum() -> impl Strategy<Value = Sum> {
    const SIGNS: [&str; 12] = ["==", "!=", "<", "<=", ">", ">=", "&&", "||", "+", "*", "%", "/"];
    let leaf = prop_oneof![2 => Just(Sum::N), 1 => (0..120u64).prop_map(Sum::Number)];
    leaf.prop_recursive(3, 16, 3, move |inner| {
        prop_oneof![
            1 => inner.clone().prop_map(|sum| Sum::Not(Box::new(sum))),
            4 => (prop::sample::select(&SIGNS[..]), inner.clone(), inner.clone())
                .prop_map(|(sign, left, right)| Sum::Two(sign, Box::new(left), Box::new(right))),
            2 => (inner.clone(), inner.clone(), inner)
                .prop_map(|(test, yes, no)| Sum::Choice(Box::new(test), Box::new(yes), Box::new(no))),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 500, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_rule_gives_what_c_gives(sum in sum(), n in 0..250u64, forms in 1..6usize) {
        let plurals = Plurals::new(forms, &sum.written()).unwrap_or_else(|| panic!("refused: {}", sum.written()));
        let wanted = usize::try_from(sum.value(n)).unwrap().min(forms - 1);
        prop_assert_eq!(plurals.form(n), wanted, "{} of {}", sum.written(), n);
    }

    #[test]
    fn whatever_is_written_is_a_rule_or_none(text in "[n0-9 ?:()!=<>&|%*/+-]{0,30}", n in any::<u64>()) {
        if let Some(plurals) = Plurals::new(3, &text) {
            prop_assert!(plurals.form(n) < 3);
        }
    }
}

/// Languages as they are counted (Unicode CLDR's plural rules, for whole numbers), with what a few numbers get.
#[test]
fn languages_are_counted_as_they_are() {
    /// A language, how many forms it has, its rule, and which form some numbers get.
    type Language = (&'static str, usize, &'static str, &'static [(u64, usize)]);
    let rules: [Language; 7] = [
        ("Japanese", 1, "0", &[(0, 0), (1, 0), (2, 0)]),
        ("German", 2, "n != 1", &[(0, 1), (1, 0), (2, 1)]),
        ("French", 2, "n > 1", &[(0, 0), (1, 0), (2, 1)]),
        ("Latvian", 3, "n%10==1 && n%100!=11 ? 0 : n != 0 ? 1 : 2", &[(0, 2), (1, 0), (11, 1), (21, 0)]),
        (
            "Irish",
            5,
            "n==1 ? 0 : n==2 ? 1 : (n>2 && n<7) ? 2 : (n>6 && n<11) ? 3 : 4",
            &[(1, 0), (2, 1), (6, 2), (10, 3), (11, 4)],
        ),
        ("Czech", 3, "(n==1) ? 0 : (n>=2 && n<=4) ? 1 : 2", &[(1, 0), (3, 1), (5, 2), (22, 2)]),
        (
            "Arabic",
            6,
            "n==0 ? 0 : n==1 ? 1 : n==2 ? 2 : n%100>=3 && n%100<=10 ? 3 : n%100>=11 ? 4 : 5",
            &[(0, 0), (1, 1), (2, 2), (103, 3), (111, 4), (100, 5)],
        ),
    ];
    for (language, forms, rule, wanted) in rules {
        let plurals = Plurals::new(forms, rule).unwrap_or_else(|| panic!("{language}"));
        for (n, form) in wanted {
            assert_eq!(plurals.form(*n), *form, "{language}: {n}");
        }
    }
}
