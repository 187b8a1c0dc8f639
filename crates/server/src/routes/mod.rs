//! The routes under `/api`, one file for each part of the work.

pub mod adverts;
pub mod archive;
pub mod attachments;
pub mod backup;
pub mod built;
pub mod candidates;
pub mod decide;
pub mod devices;
pub mod families;
pub mod history;
pub mod insight;
pub mod links;
pub mod papers;
pub mod reports;
pub mod scan;
pub mod service;
pub mod sheets;
pub mod talk;
