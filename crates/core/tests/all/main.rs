//! The core as its users call it, in one program: built once, and both cores busy to the end.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

mod adverts_read;
mod bill;
mod bounds;
mod care;
mod choices;
mod common;
mod decide;
mod decision;
mod demo;
mod evidence;
mod figures;
mod formats;
mod history;
mod insight;
mod market;
mod measures;
mod money;
mod offers;
mod paper_rules;
mod papers;
mod patterns;
mod plain;
mod practice;
mod prices;
mod quotes;
mod reference;
mod remembered;
mod rooms;
mod scan;
mod screening;
mod sense;
mod sense_of_any;
mod sheets;
mod standing;
mod supply;
mod talk;
mod talk_consequences;
mod talk_demo;
mod talk_figures;
mod tuned;
mod walk;
mod words;
mod worked;
mod worn;
