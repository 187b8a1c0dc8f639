//! What a history service answers, in the open format `ticksage-history/1`, and the papers that it gives.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::candidate::{Advisory, Candidate, Paper, ProvenanceItem, Reading};
use crate::identity::vin;

/// The format mark of a history report.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum HistoryFormat {
    /// The first version.
    #[default]
    #[serde(rename = "ticksage-history/1")]
    V1,
}

/// A history report.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HistoryReport {
    /// Format and its version.
    pub format: HistoryFormat,
    /// Whether it was made up by the simulated service.
    #[serde(default)]
    pub simulated: bool,
    /// Who reports.
    #[schema(min_length = 1, max_length = 200)]
    pub source: String,
    /// The day it was asked.
    #[schema(value_type = String, format = Date)]
    pub asked_on: Date,
    /// VIN of the vehicle it is of.
    #[serde(default)]
    #[schema(max_length = 40)]
    pub vin: String,
    /// Its registration.
    #[serde(default)]
    #[schema(max_length = 20)]
    pub plate: String,
    /// What is recorded; an item left out was not asked.
    #[schema(max_items = 40)]
    pub items: Vec<ProvenanceItem>,
    /// Readings on record.
    #[serde(default)]
    #[schema(max_items = 2000)]
    pub readings: Vec<Reading>,
    /// Advisories on record.
    #[serde(default)]
    #[schema(max_items = 2000)]
    pub advisories: Vec<Advisory>,
}

impl HistoryReport {
    /// Why the report is not of this candidate; none when it may be.
    #[must_use]
    pub fn is_of_another(&self, c: &Candidate) -> Option<String> {
        let (theirs, ours) = (vin(&self.vin).vin, vin(&c.vin).vin);
        if !theirs.is_empty() && !ours.is_empty() && theirs != ours {
            return Some(format!("the report is of another vehicle: its VIN is {theirs}, this one's is {ours}"));
        }
        let (theirs, ours) = (plate(&self.plate), plate(&c.plate));
        let by_plate = self.vin.is_empty() || c.vin.is_empty();
        (by_plate && !theirs.is_empty() && !ours.is_empty() && theirs != ours)
            .then(|| format!("the report is of another vehicle: its plate is {theirs}, this one's is {ours}"))
    }

    /// The papers that it gives.
    #[must_use]
    pub fn papers(&self) -> Vec<Paper> {
        let by = |note: &str| {
            let source = format!("{}, {}", self.source, self.asked_on);
            if note.is_empty() { source } else { format!("{note} ({source})") }
        };
        let items = self.items.iter().map(|p| Paper::Provenance(ProvenanceItem { note: by(&p.note), ..p.clone() }));
        let readings = self.readings.iter().cloned().map(Paper::Reading);
        let advisories = self.advisories.iter().cloned().map(Paper::Advisory);
        items.chain(readings).chain(advisories).collect()
    }
}

/// A registration without what people put between its characters.
#[must_use]
pub fn plate(text: &str) -> String {
    text.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_uppercase).collect()
}
