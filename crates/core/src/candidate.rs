//! The candidate: one vehicle or engine under consideration, the buyer's plan for it, and the
//! evidence gathered so far.
//!
//! A candidate is a document in the open format `ticksage-candidate/1` (JSON Schema in
//! `docs/schema/candidate.schema.json`). It carries its own day of judgement, so the same document
//! always gives the same assessment.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::care::CareLevel;
use crate::family::{Check, Exposure, Family, PartGrade};
use crate::units::{Money, Probability, Usage};

/// The format mark of a candidate.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum CandidateFormat {
    /// The first version.
    #[default]
    #[serde(rename = "ticksage-candidate/1")]
    V1,
}

/// The format mark of a bundle.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum BundleFormat {
    /// The first version.
    #[default]
    #[serde(rename = "ticksage-bundle/1")]
    V1,
}

/// A candidate together with the sheets it was judged by: what an export holds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Bundle {
    /// Format and its version.
    pub format: BundleFormat,
    /// The candidate.
    pub candidate: Candidate,
    /// Every sheet that it names.
    pub families: Vec<Family>,
}

/// The vehicle or engine under consideration.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Candidate {
    /// Format and its version.
    pub format: CandidateFormat,
    /// What the buyer calls it.
    #[schema(min_length = 1, max_length = 120)]
    pub title: String,
    /// Where it is advertised, what the seller says.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub note: String,
    /// The families it is checked against together.
    #[schema(min_items = 1, max_items = 6)]
    pub families: Vec<FamilyRef>,
    /// Variant facts known so far: fact id to value id.
    #[serde(default)]
    pub facts: BTreeMap<String, String>,
    /// Serial or engine numbers, by family id.
    #[serde(default)]
    pub serials: BTreeMap<String, String>,
    /// The day of judgement: ages are counted to it.
    #[schema(value_type = String, format = Date)]
    pub as_of: Date,
    /// When it was built, or first registered.
    #[schema(value_type = String, format = Date)]
    pub built: Date,
    /// Usage on the day of judgement.
    pub usage: Usage,
    /// Asking price.
    pub asking: Money,
    /// Three-letter code of the currency; that of the families.
    #[schema(pattern = "^[A-Z]{3}$")]
    pub currency: String,
    /// How long, how far and how it is meant to be used.
    pub plan: Plan,
    /// How the buyer weighs chances and pays for work.
    #[serde(default)]
    pub buyer: Buyer,
    /// How it was used so far, level 0 to 1 each.
    #[serde(default)]
    pub past_use: BTreeMap<Exposure, Probability>,
    /// What a history report says.
    #[serde(default)]
    #[schema(max_items = 40)]
    pub provenance: Vec<ProvenanceItem>,
    /// Odometer or hour-meter readings over time.
    #[serde(default)]
    #[schema(max_items = 2000)]
    pub readings: Vec<Reading>,
    /// Service history, with the evidence for it.
    #[serde(default)]
    #[schema(max_items = 2000)]
    pub ledger: Vec<LedgerEntry>,
    /// Whether every paper there is was seen: what is not in the ledger was then not evidenced.
    #[serde(default)]
    pub papers_seen: bool,
    /// Adverts of others like it.
    #[serde(default)]
    #[schema(max_items = 500)]
    pub comparables: Vec<Comparable>,
    /// Outcomes of checks, oldest first; of several on one check the last holds.
    #[serde(default)]
    #[schema(max_items = 2000)]
    pub findings: Vec<Finding>,
}

impl Candidate {
    /// The finding that holds for a check: the last one that was not taken back.
    #[must_use]
    pub fn finding_on(&self, family: &str, check: &str) -> Option<&Finding> {
        self.findings.iter().rev().find(|f| !f.undone && f.family == family && f.check == check)
    }

    /// The outcome that holds for a check; none while it is not done, skipped or could not be done.
    #[must_use]
    pub fn outcome_of(&self, family: &Family, check: &Check) -> Option<usize> {
        let f = self.finding_on(&family.id, &check.id)?;
        match f.result {
            FindingResult::Outcome { outcome } => Some(outcome),
            FindingResult::Measured => Some(check.measure.as_ref()?.outcome(f.reading?)),
            FindingResult::Skipped | FindingResult::CouldNot => None,
        }
    }
}

/// A family by id and the version of its sheet.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FamilyRef {
    /// The family's id.
    pub id: String,
    /// The sheet's version.
    #[schema(minimum = 1)]
    pub version: u32,
}

/// How long, how far and how the buyer means to use it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Plan {
    /// Years of keeping it, up to 40.
    #[schema(exclusive_minimum = 0, maximum = 40)]
    pub years: f64,
    /// Usage in a year, above 0.
    pub usage_a_year: Usage,
    /// Exposures in the plan, level 0 to 1 each.
    #[serde(default, rename = "use")]
    pub use_: BTreeMap<Exposure, Probability>,
    /// How the buyer means to keep it.
    #[serde(default)]
    pub care: CareLevel,
}

/// How much bad luck the buyer can stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Appetite {
    /// Judges by the mean.
    Bold,
    /// Leaves some room.
    #[default]
    Even,
    /// Leaves much room.
    Careful,
}

/// Who does the work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Labour {
    /// The owner.
    #[serde(rename = "self")]
    Own,
    /// An independent workshop.
    #[default]
    Independent,
    /// A dealer.
    Dealer,
}

/// How the buyer weighs chances and pays for work.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Buyer {
    /// Appetite for risk.
    #[serde(default)]
    pub appetite: Appetite,
    /// Who does the work.
    #[serde(default)]
    pub labour: Labour,
    /// Grade of parts bought.
    #[serde(default)]
    pub parts: PartGrade,
    /// The schools listened to, each with its weight against the others; none named means all alike. One
    /// alone is that school's view.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub schools: BTreeMap<String, f64>,
    /// Whether a structural write-off is acceptable.
    #[serde(default)]
    pub accepts_structural: bool,
}

/// An item of a history report.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ProvenanceItem {
    /// Which.
    pub item: ProvenanceKind,
    /// What came back.
    pub state: ProvenanceState,
    /// Who said so, and what.
    #[serde(default)]
    pub note: String,
}

/// What a history report tells of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ProvenanceKind {
    /// Reported stolen.
    Stolen,
    /// Marked as scrapped.
    Scrapped,
    /// Numbers or papers that do not agree with the vehicle.
    Identity,
    /// Written off with structural damage.
    WrittenOffStructural,
    /// Written off without structural damage.
    WrittenOff,
    /// Finance outstanding.
    Finance,
    /// Another party's interest.
    ThirdParty,
    /// A mileage discrepancy.
    Mileage,
    /// Imported or exported.
    Imported,
    /// Change of plate.
    Plate,
    /// Change of colour.
    Colour,
}

/// What came back for an item.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ProvenanceState {
    /// Nothing recorded.
    Clear,
    /// Something recorded.
    Marked,
    /// Recorded, explained and proved settled.
    Settled,
    /// Not asked yet.
    NotAsked,
}

/// An odometer or hour-meter reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// When it was read.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// What it showed.
    pub usage: Usage,
    /// Where it comes from.
    #[serde(default)]
    pub source: String,
}

/// What stands behind a ledger entry.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Evidence {
    /// An invoice that names the part.
    InvoiceNamingPart,
    /// An invoice.
    Invoice,
    /// A stamp.
    Stamp,
    /// The owner's dated log, or a mark on the part.
    OwnerLog,
    /// The seller's word.
    SellersWord,
}

/// A piece of service history.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LedgerEntry {
    /// When.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// At what usage.
    pub usage: Usage,
    /// Failure points whose part was renewed.
    #[serde(default)]
    pub renews: Vec<PointRef>,
    /// Scheduled work that was carried out.
    #[serde(default)]
    pub performs: Vec<IntervalRef>,
    /// Grade of the part fitted.
    #[serde(default = "unknown_grade")]
    pub grade: PartGrade,
    /// Whether the revised part was fitted.
    #[serde(default)]
    pub revised: bool,
    /// What stands behind it.
    pub evidence: Evidence,
    /// What was done, by whom.
    #[serde(default)]
    pub note: String,
}

fn unknown_grade() -> PartGrade {
    PartGrade::Unknown
}

/// A failure point by family and id.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PointRef {
    /// The family's id.
    pub family: String,
    /// The point's id.
    pub point: String,
}

/// Scheduled work by family and id.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct IntervalRef {
    /// The family's id.
    pub family: String,
    /// The interval's id.
    pub interval: String,
}

/// An advert of another like it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Comparable {
    /// Asked.
    pub price: Money,
    /// Its usage.
    pub usage: Usage,
    /// What kind of example it is.
    #[serde(default)]
    pub example: Example,
}

/// What kind of example an advert shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Example {
    /// As most are at that usage and age.
    #[default]
    Typical,
    /// Everything put right and nothing overdue.
    WellSorted,
}

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
}
