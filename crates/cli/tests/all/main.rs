//! Every command, on the built program, in temporary folders.

mod bad_input;
mod begin;
mod change;
mod check;
mod contained;
mod corpus;
mod daily;
mod documents;
mod emit;
mod fixture;
mod folders;
// The stage's tests use all of it.
#[allow(dead_code)]
#[path = "../../../stage/tests/all/grown/mod.rs"]
mod grown;
mod json;
mod lists;
mod look;
mod lsp;
mod mends;
mod odd_files;
mod outputs;
mod plain_pages;
mod preview;
mod published;
mod register;
mod renamed;
mod seen;
mod sentences;
mod sequences;
mod shown;
mod site;
mod taken_over;
mod values;
mod walks;
mod ways_out;
mod why;
