//! The routes, in process, against a real PostgreSQL.
//!
//! One program, so that it is linked once and starts one cluster; each file is run alone by its name, as `--test all hold::`.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

mod common;

mod api;
mod built;
mod decide;
mod hold;
mod papers;
mod reports;
mod screens;
mod sheets;
mod walk;
