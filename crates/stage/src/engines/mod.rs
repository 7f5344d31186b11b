//! The two engines that run a theme's own code, each behind one door. Neither knows of points.

pub mod callbacks;
pub mod templates;
