//! Addresses of the theme's files, as a page shows them.

use minijinja::Value;
use truehook_core::scan::Prefix;
use truehook_core::source::LayerId;

use crate::host::Here;
use crate::points::filters::fire;
use crate::record::trace::Failure;

/// The address of a file or asset; nothing where there is none.
pub fn address(here: &Here<'_>, written: &str, from: LayerId) -> Option<String> {
    let address = here.page.link_media(written, from)?;
    // A callback that asks for an address while one is being made gets that as it is.
    let Some(_guard) = here.page.begin_address() else { return Some(address) };
    let made = fire(here, "media-address", Value::from(address.as_str())).to_string();
    if made != address && !here.page.link_address(&made) {
        let message = format!("what it makes of the address of `{written}` leads to no file of the theme: {made}");
        here.page.fail(Failure::at("filter:media-address", message));
    }
    Some(made)
}

/// The address for an input that names a file of the theme. What is an address already stays as it is.
pub fn input_address(here: &Here<'_>, written: &str) -> String {
    let (_, path) = Prefix::split(written);
    let own = !written.is_empty() && !written.contains("://") && !path.starts_with('/') && !written.contains("?print=");
    if !own {
        return written.to_string();
    }
    address(here, written, here.page.registry().project().top()).unwrap_or_else(|| {
        here.page.fail(Failure::new(format!("there is no file `{written}`")));
        written.to_string()
    })
}
