//! How a language counts: the rule of a translation's header, an expression of C in which `n` is the
//! number (GNU gettext manual, "Plural forms"). ECMAScript writes such expressions alike.

use oxc_allocator::Allocator;
use oxc_ast::ast::{Expression, LogicalOperator};
use oxc_parser::Parser;
use oxc_span::SourceType;

/// How long a rule may be, in bytes.
const LONGEST: usize = 1000;

/// Which form of a translation goes with which number.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Plurals {
    /// How many forms there are.
    pub forms: usize,
    rule: Rule,
}

#[derive(Clone, Debug, PartialEq, Eq)]
enum Rule {
    Number(u64),
    Counted,
    Not(Box<Rule>),
    Both(Operator, Box<Rule>, Box<Rule>),
    Choice(Box<Rule>, Box<Rule>, Box<Rule>),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Operator {
    And,
    Or,
    Equal,
    Unequal,
    Less,
    AtMost,
    More,
    AtLeast,
    Rest,
    Plus,
    Minus,
    Times,
    By,
}

impl Default for Plurals {
    /// As English counts.
    fn default() -> Plurals {
        let one = Rule::Both(Operator::Unequal, Box::new(Rule::Counted), Box::new(Rule::Number(1)));
        Plurals { forms: 2, rule: one }
    }
}

impl Plurals {
    /// The rule of a header; nothing where it is none.
    pub fn new(forms: usize, rule: &str) -> Option<Plurals> {
        // No language counts in more words than that.
        if rule.len() > LONGEST {
            return None;
        }
        let allocator = Allocator::default();
        let parsed = Parser::new(&allocator, rule, SourceType::script()).parse_expression().ok()?;
        Some(Plurals { forms, rule: read(&parsed)? })
    }

    /// With how many of the numbers up to 200 a form goes.
    pub fn numbers(&self, form: usize) -> usize {
        (0..=200).filter(|number| self.form(*number) == form).count()
    }

    /// The form that goes with a number, from 0. One that the rule puts past the last is the last.
    ///
    /// ```
    /// use truehook_core::scan::Plurals;
    /// let polish = Plurals::new(3, "n==1 ? 0 : n%10>=2 && n%10<=4 && (n%100<10 || n%100>=20) ? 1 : 2").unwrap();
    /// assert_eq!([1, 2, 5, 12, 22].map(|n| polish.form(n)), [0, 1, 2, 2, 1]);
    /// assert_eq!([0, 1, 2].map(|n| Plurals::default().form(n)), [1, 0, 1]);
    /// assert!(Plurals::new(2, "n !=").is_none() && Plurals::new(2, "m > 1").is_none());
    /// ```
    pub fn form(&self, number: u64) -> usize {
        let form = usize::try_from(self.rule.value(number)).unwrap_or(usize::MAX);
        form.min(self.forms.saturating_sub(1))
    }
}

impl Rule {
    fn value(&self, n: u64) -> u64 {
        match self {
            Rule::Number(number) => *number,
            Rule::Counted => n,
            Rule::Not(rule) => u64::from(rule.value(n) == 0),
            Rule::Choice(test, yes, no) => {
                if test.value(n) != 0 {
                    yes.value(n)
                } else {
                    no.value(n)
                }
            }
            Rule::Both(operator, left, right) => {
                let (left, right) = (left.value(n), right.value(n));
                match operator {
                    Operator::And => u64::from(left != 0 && right != 0),
                    Operator::Or => u64::from(left != 0 || right != 0),
                    Operator::Equal => u64::from(left == right),
                    Operator::Unequal => u64::from(left != right),
                    Operator::Less => u64::from(left < right),
                    Operator::AtMost => u64::from(left <= right),
                    Operator::More => u64::from(left > right),
                    Operator::AtLeast => u64::from(left >= right),
                    Operator::Rest => left.checked_rem(right).unwrap_or(0),
                    Operator::By => left.checked_div(right).unwrap_or(0),
                    Operator::Plus => left.saturating_add(right),
                    Operator::Minus => left.saturating_sub(right),
                    Operator::Times => left.saturating_mul(right),
                }
            }
        }
    }
}

fn read(expression: &Expression<'_>) -> Option<Rule> {
    let rule = |expression: &Expression<'_>| read(expression).map(Box::new);
    match expression {
        Expression::ParenthesizedExpression(inner) => read(&inner.expression),
        Expression::NumericLiteral(number) if number.value >= 0.0 && number.value.fract() == 0.0 => {
            Some(Rule::Number(number.value as u64))
        }
        Expression::Identifier(word) if word.name == "n" => Some(Rule::Counted),
        Expression::UnaryExpression(unary) if unary.operator.is_not() => Some(Rule::Not(rule(&unary.argument)?)),
        Expression::ConditionalExpression(choice) => {
            Some(Rule::Choice(rule(&choice.test)?, rule(&choice.consequent)?, rule(&choice.alternate)?))
        }
        Expression::LogicalExpression(both) => {
            let operator = match both.operator {
                LogicalOperator::And => Operator::And,
                LogicalOperator::Or => Operator::Or,
                LogicalOperator::Coalesce => return None,
            };
            Some(Rule::Both(operator, rule(&both.left)?, rule(&both.right)?))
        }
        Expression::BinaryExpression(both) => {
            let operator = match both.operator.as_str() {
                "==" => Operator::Equal,
                "!=" => Operator::Unequal,
                "<" => Operator::Less,
                "<=" => Operator::AtMost,
                ">" => Operator::More,
                ">=" => Operator::AtLeast,
                "%" => Operator::Rest,
                "+" => Operator::Plus,
                "-" => Operator::Minus,
                "*" => Operator::Times,
                "/" => Operator::By,
                _ => return None,
            };
            Some(Rule::Both(operator, rule(&both.left)?, rule(&both.right)?))
        }
        _ => None,
    }
}
