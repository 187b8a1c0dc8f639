//! One validator for each part of a document. Every validator returns all faults, each with its path.

pub mod applies;
pub mod candidate;
pub mod check;
pub mod ending;
pub mod failure_point;
pub mod family;
pub mod faults;
pub mod finding;
pub mod job;
pub(crate) mod limits;
pub mod paper;
pub mod telling;
