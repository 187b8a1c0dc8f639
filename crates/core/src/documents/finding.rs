//! Findings: what came of the checks.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// The outcome of a check on this candidate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Finding {
    /// The check's family.
    pub family: String,
    /// The check's id.
    pub check: String,
    /// What came of it.
    pub result: FindingResult,
    /// The reading, in the check's unit, where it measures.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reading: Option<f64>,
    /// What was read to come to the reading, as typed, place by place.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 40)]
    pub inputs: Vec<TypedReading>,
    /// In the person's words.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub note: String,
    /// When it was entered (RFC 3339); of no weight in the computation.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub at: Option<String>,
    /// Taken back later; kept, and of no weight.
    #[serde(default)]
    pub undone: bool,
}

/// What came of a check.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum FindingResult {
    /// Done, with this outcome.
    Outcome {
        /// Index into the check's outcomes.
        outcome: usize,
    },
    /// Done, with the outcome that the check's bands make of the reading.
    Measured,
    /// Passed over; changes nothing.
    Skipped,
    /// Could not be done; changes nothing and stays listed.
    CouldNot,
    /// To be asked of the seller; changes nothing, stays listed, and is among the questions.
    AskSeller,
    /// Its caution was read; says nothing of the check itself.
    Acknowledged,
}

/// One thing read, as typed.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TypedReading {
    /// The figure or the code as typed; empty where it was not read.
    #[schema(max_length = 40)]
    pub text: String,
    /// Its unit; empty for the check's own.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 20)]
    pub unit: String,
}
