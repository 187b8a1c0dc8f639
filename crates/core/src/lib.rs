//! The rules and the computation of Tick Sage: from claims, papers and findings to a decision.

#![cfg_attr(test, allow(clippy::unwrap_used, clippy::expect_used))]

pub mod assess;
pub mod base;
pub mod decision;
pub mod documents;
pub mod evidence;
#[cfg(feature = "formats")]
pub mod formats;
pub mod inference;
pub mod money;
pub mod patterns;
pub mod questions;
pub mod reading;
pub mod reliability;
pub mod talk;
pub mod validation;

pub use assess::assessment::Assessment;
pub use assess::judge::assess;
pub use documents::assumptions::Assumptions;
pub use documents::candidate::{Bundle, Candidate};
pub use documents::family::Family;
pub use inference::context::AssessError;
