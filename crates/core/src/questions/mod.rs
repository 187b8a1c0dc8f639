//! Questions about a judged candidate: details, effects, comparison, calendar.

pub mod calendar;
pub mod changes;
pub mod comparing;
pub mod comparison;
pub mod construction;
pub mod finding_effects;
pub mod narrowing;
pub mod origins;
pub mod point_detail;
pub mod sanity;
pub mod screening;
pub mod seller_questions;
pub mod sensitivity;
