//! Talk: what people say of failure points, read into what a sheet holds.
//!
//! Deterministic, without a model or a network: tables of words, a forgiving grammar, and nothing placed that was not
//! said. docs/TALK.md says what is understood.

pub mod apply;
mod beside;
mod consequences;
mod dates;
mod grammar;
pub mod line;
mod lives;
mod marks;
mod months;
pub mod page;
pub mod promised;
mod quantity;
mod reader;
pub mod said;
mod says;
mod schedule;
mod shares;
mod tables;
mod tokens;
mod usual;
mod write;

pub(crate) use says::short_name;
pub use tables::{Parts, Tables, Vocabulary, Words};
