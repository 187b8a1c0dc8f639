//! The routes under `/api`, one file for each part of the work.

pub mod archive;
pub mod attachments;
pub mod candidates;
pub mod decide;
pub mod families;
pub mod history;
pub mod insight;
pub mod papers;
pub mod scan;
pub mod service;
