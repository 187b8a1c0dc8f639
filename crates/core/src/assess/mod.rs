//! The whole judgement and its result.

pub mod assessment;
pub mod estimate;
pub mod judge;
