//! Messages and their translations.

pub mod placeholder_mismatch;
pub mod plural_forms;
pub mod untranslated;
pub mod unused_message;
