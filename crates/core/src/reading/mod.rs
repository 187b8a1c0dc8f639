//! From typed text to values: dates, figures, one-line papers, measured readings, OBD answers.

pub mod advert;
pub mod advert_reading;
mod asked;
pub mod construction;
pub mod measured;
pub mod named;
pub mod obd;
pub mod quick_line;
mod run;
pub mod sold_as;
pub mod typed;
mod words;
