//! Tick Sage over HTTP. Thin: parse, call the core and the store, answer.
//!
//! The OpenAPI document is served at `/api/openapi.json`; the web's types are generated from it.

#![cfg_attr(test, allow(clippy::unwrap_used, clippy::expect_used))]

pub mod access;
pub mod adapter;
pub mod archive_file;
mod aside;
mod assets;
pub mod body;
pub mod cleaner;
mod guard;
pub mod history_service;
pub mod judging;
mod line;
pub mod openapi;
mod packed;
mod page_scripts;
pub mod problem;
pub mod report_file;
pub mod road;
pub mod routes;
pub mod sanitize;
pub mod scan_session;
pub mod server;
mod short;
pub mod summary;
pub mod views;

pub use openapi::Api;
pub use server::{Config, routes, start};
