//! The documents: family sheets, candidates, scans, history reports, and the table of assumptions.

pub mod applicability;
pub mod applies;
pub mod assumptions;
pub mod buyer;
pub mod candidate;
pub mod care_level;
pub mod check;
pub mod claim;
pub mod claim_curve;
pub mod ending;
pub mod failure_point;
pub mod family;
pub mod finding;
pub mod history_report;
pub mod job;
pub mod job_hours;
pub mod measure;
pub mod paper;
pub mod pricing;
pub mod quote;
pub mod quoting;
pub mod reference;
pub mod scan;
pub mod strands;
pub mod walk_plan;
