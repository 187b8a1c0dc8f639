//! The answer of a history service, in the open format `ticksage-history/2`.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::paper::{Advisory, Paper, ProvenanceItem, Reading};

/// The format mark of a history report.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum HistoryFormat {
    /// The second version.
    #[default]
    #[serde(rename = "ticksage-history/2")]
    V2,
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
