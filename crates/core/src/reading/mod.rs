//! From typed text to values: dates, figures, one-line papers, measured readings, OBD answers.

pub mod advert;
pub mod construction;
pub mod measured;
pub mod named;
pub mod obd;
pub mod quick_line;
pub mod typed;
