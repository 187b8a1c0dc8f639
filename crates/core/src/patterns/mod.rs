//! Patterns put together: from how a thing is built to a sheet of its own.

pub mod answers;
pub mod compose;
pub mod given;
pub mod library;
pub mod places;
mod scaled;
mod take_over;
