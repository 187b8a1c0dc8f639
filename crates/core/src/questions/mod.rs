//! Questions about a judged candidate: details, effects, comparison, calendar.

mod advert_words;
pub mod calendar;
pub mod changes;
pub mod comparing;
pub mod comparison;
pub mod construction;
pub mod finding_effects;
pub mod lanes;
pub mod narrowing;
pub mod origins;
pub mod point_detail;
pub mod ranking;
pub mod sanity;
pub mod screening;
pub mod seller_questions;
pub mod sensitivity;
