//! What papers, the odometer, the VIN and scans say.

pub mod belief;
pub mod care_index;
pub mod history;
pub mod identity;
pub mod intervals;
pub mod kept;
pub mod odometer;
pub mod odometer_anomalies;
pub mod odometer_result;
pub mod scan_findings;
pub mod settled;
pub mod vin;
