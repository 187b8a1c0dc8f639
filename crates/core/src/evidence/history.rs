//! Whether a history report is of the candidate.

use crate::documents::candidate::Candidate;
use crate::documents::history_report::HistoryReport;
use crate::evidence::vin::vin;

/// Why the report is of another vehicle than the candidate; none when it may be of this one.
#[must_use]
pub fn mismatch(report: &HistoryReport, c: &Candidate) -> Option<String> {
    let (theirs, ours) = (vin(&report.vin).vin, vin(&c.vin).vin);
    if !theirs.is_empty() && !ours.is_empty() && theirs != ours {
        return Some(format!("the report is of another vehicle: its VIN is {theirs}, this one's is {ours}"));
    }
    let (theirs, ours) = (plate(&report.plate), plate(&c.plate));
    let by_plate = report.vin.is_empty() || c.vin.is_empty();
    (by_plate && !theirs.is_empty() && !ours.is_empty() && theirs != ours)
        .then(|| format!("the report is of another vehicle: its plate is {theirs}, this one's is {ours}"))
}

/// A registration without what people put between its characters.
#[must_use]
pub fn plate(text: &str) -> String {
    text.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_uppercase).collect()
}
