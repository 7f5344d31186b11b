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
    Some(fire(here, "media-address", Value::from(address)).to_string())
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
