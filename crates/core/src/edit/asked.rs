//! Commands as mends print them, as the plans that they come to.

use super::adopt::{Manner, adopt};
use super::template::{Placement, own_template, place};
use super::{EditError, Plan, Position, Selector, declare};
use crate::address::Address;
use crate::link::Registry;
use crate::read::Files;
use crate::scan::OutletKind;

/// The command in a mend, where it can be carried out as it stands: no word of it is left to people.
pub fn command(mend: &str) -> Option<&str> {
    let at = mend.find("truehook ")?;
    let text = &mend[at..];
    // What is left to people is written in capitals, or as an ellipsis.
    let open = |word: &str| word.contains('…') || word.len() > 1 && word.chars().all(|letter| letter.is_uppercase());
    let carried_out = ["truehook declare ", "truehook place ", "truehook adopt "];
    let known = carried_out.iter().any(|begin| text.starts_with(begin));
    (known && !text.split([' ', '=']).any(open)).then_some(text)
}

/// The plan of a command that a mend prints.
///
/// # Errors
/// Where it can't be carried out, as the command itself would say.
pub fn plan(registry: &Registry, files: &dyn Files, command: &str) -> Result<Plan, EditError> {
    let unknown = || EditError::new(format!("`{command}` can't be carried out here"));
    let words = shell_words::split(command).map_err(|_| unknown())?;
    let words: Vec<&str> = words.iter().map(String::as_str).collect();
    match &words[..] {
        ["truehook", "declare", address, keys @ ..] => {
            let address: Address = address.parse().map_err(|error| EditError::new(format!("{error}")))?;
            let pairs = keys.iter().map(|key| key.split_once('='));
            let keys: Option<Vec<(String, String)>> =
                pairs.map(|pair| pair.map(|(key, value)| (key.to_string(), value.to_string()))).collect();
            declare::declare(registry, address, &keys.ok_or_else(unknown)?)
        }
        ["truehook", "adopt", name, "--copy"] => Ok(adopt(registry, files, name, &Manner::Copy)?.plan),
        ["truehook", "adopt", name, "--extend"] => Ok(adopt(registry, files, name, &Manner::Extend(None))?.plan),
        ["truehook", "adopt", name, "--undo"] => Ok(adopt(registry, files, name, &Manner::Undo)?.plan),
        ["truehook", "place", what, "--in", template, options @ ..] => {
            let file = own_template(registry, template)?;
            let mut new = Placement {
                file,
                calls: vec![format!("{{{{ place(\"{what}\") }}}}")],
                points: Vec::new(),
                at: None,
                block: None,
                guard: false,
            };
            if OutletKind::from_word(what).is_none() {
                new.points.push(what.parse().map_err(|error| EditError::new(format!("{error}")))?);
            }
            let mut options = options.iter();
            while let Some(option) = options.next() {
                let mut selector = || -> Result<Selector, EditError> {
                    options.next().ok_or_else(unknown)?.parse().map_err(|error| EditError::new(format!("{error}")))
                };
                match *option {
                    "--guard" => new.guard = true,
                    "--before" => new.at = Some((Position::Before, selector()?)),
                    "--after" => new.at = Some((Position::After, selector()?)),
                    "--inside" => new.at = Some((Position::Inside, selector()?)),
                    "--instead" => new.at = Some((Position::Instead, selector()?)),
                    "--block" => new.block = Some(options.next().ok_or_else(unknown)?.to_string()),
                    _ => return Err(unknown()),
                }
            }
            Ok(Plan::of(place(registry, &new)?))
        }
        _ => Err(unknown()),
    }
}
