//! What is kept of a page while it is made: what ran and failed, what came out and from where, and what
//! is still to be filled. Data alone.

pub mod holes;
pub mod strays;
pub mod trace;
pub mod tree;
