//! Files: can they be read and understood?

pub mod code_syntax;
pub mod manifest_syntax;
pub mod markup_syntax;
pub mod missing_file;
pub mod outside_theme;
pub mod quoted_name;
pub mod unknown_key;
