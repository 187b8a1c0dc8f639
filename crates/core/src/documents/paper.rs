//! Papers: service history, odometer readings, history reports, advisories, recalls.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::{Money, Usage};
use crate::documents::job::PartGrade;
use crate::documents::reference::{IntervalRef, PointRef};
use crate::documents::scan::Scan;

/// A paper of any kind, as it is entered.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", content = "paper", rename_all = "snake_case")]
pub enum Paper {
    /// A piece of service history.
    Entry(LedgerEntry),
    /// A reading of the clock.
    Reading(Reading),
    /// An item of a history report.
    Provenance(ProvenanceItem),
    /// An advisory of a past test.
    Advisory(Advisory),
    /// What is known of a campaign.
    Campaign(CampaignAnswer),
    /// A scan of its control units.
    Scan(Box<Scan>),
}

impl Paper {
    /// The day it bears, where it bears one.
    #[must_use]
    pub fn date(&self) -> Option<Date> {
        match self {
            Self::Entry(x) => Some(x.date),
            Self::Reading(x) => Some(x.date),
            Self::Advisory(x) => Some(x.date),
            Self::Campaign(x) => x.date,
            Self::Scan(x) => Some(x.date),
            Self::Provenance(_) => None,
        }
    }
}

/// How exactly a date is known; a month or a year stands for its middle.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DateKnown {
    /// To the day.
    #[default]
    Day,
    /// To the month.
    Month,
    /// To the year.
    Year,
}

impl DateKnown {
    /// Days by which the true day may lie before or after.
    #[must_use]
    pub fn slack_days(self) -> i32 {
        match self {
            Self::Day => 0,
            Self::Month => 16,
            Self::Year => 184,
        }
    }

    fn is_day(&self) -> bool {
        *self == Self::Day
    }
}

/// An advisory of a past roadworthiness test.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Advisory {
    /// When it was given.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// What was advised.
    #[schema(min_length = 1, max_length = 400)]
    pub text: String,
    /// What became of it.
    pub state: AdvisoryState,
    /// The proof, or what was said.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub note: String,
}

/// What became of an advisory.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AdvisoryState {
    /// Put right, with proof.
    Rectified,
    /// Put right, it is said.
    SaidRectified,
    /// Nothing is known of it being put right.
    Open,
}

/// What is known of a recall or campaign on this one.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CampaignAnswer {
    /// The family's id.
    pub family: String,
    /// The campaign's id.
    pub campaign: String,
    /// What is known.
    pub state: CampaignState,
    /// When it was done, where that is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub date: Option<Date>,
    /// At what usage, where that is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub usage: Option<Usage>,
    /// Who said so.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub note: String,
}

/// Whether a recall or campaign was carried out.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CampaignState {
    /// Proved done, by serial number at a dealer or by its paper.
    Proved,
    /// Known not to be done.
    NotDone,
    /// Not known.
    #[default]
    Unknown,
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
    #[schema(max_length = 4000)]
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

impl ProvenanceKind {
    /// Every item that is asked, what could stop the purchase first.
    pub const ALL: [Self; 11] = [
        Self::Stolen,
        Self::Scrapped,
        Self::Identity,
        Self::WrittenOffStructural,
        Self::Finance,
        Self::ThirdParty,
        Self::Mileage,
        Self::WrittenOff,
        Self::Imported,
        Self::Plate,
        Self::Colour,
    ];
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
    #[schema(max_length = 400)]
    pub source: String,
    /// How exactly the date is known.
    #[serde(default, skip_serializing_if = "DateKnown::is_day")]
    pub known: DateKnown,
}

/// What supports a ledger entry.
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
    /// Whether the revised part was fitted. Where nothing is said, what was fitted after the day of the revision
    /// is the revised part.
    #[serde(default)]
    pub revised: bool,
    /// Whether it is known to be the first design all the same.
    #[serde(default, skip_serializing_if = "is_false")]
    pub first_design: bool,
    /// Why it was renewed; none where nothing is said: in good time where the work is scheduled, else not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reason: Option<RenewalReason>,
    /// What supports it.
    pub evidence: Evidence,
    /// What was done.
    #[serde(default)]
    #[schema(max_length = 4000)]
    pub note: String,
    /// By whom.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 200)]
    pub who: String,
    /// What it cost, in the candidate's currency.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cost: Option<Money>,
    /// How exactly the date is known.
    #[serde(default, skip_serializing_if = "DateKnown::is_day")]
    pub known: DateKnown,
}

#[allow(clippy::trivially_copy_pass_by_ref)]
fn is_false(x: &bool) -> bool {
    !x
}

/// Why a part was renewed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RenewalReason {
    /// It had failed.
    Failed,
    /// In good time, before it failed.
    Planned,
    /// Not known.
    Unknown,
}

fn unknown_grade() -> PartGrade {
    PartGrade::Unknown
}
