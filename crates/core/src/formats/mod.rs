//! The open formats: documents, schemas, tables, and the sheets that ship with the application.

pub mod advert_table;
pub mod base_sheets;
pub mod comparables_table;
pub mod documents;
pub mod papers_table;
pub mod pattern_library;
pub mod scan_table;
pub mod schema;
pub mod table_reader;
pub mod tables;
pub mod talk_tables;
pub mod upgrade;
