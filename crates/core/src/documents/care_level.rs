//! Care: the three levels at which a vehicle may have been kept, and what tells of them.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How a vehicle is kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CareLevel {
    /// Neglected: late oil, faults left.
    Poor,
    /// As most.
    #[default]
    Ordinary,
    /// Early oil, faults mended at once.
    Good,
}

/// The three levels, in order; weights by level follow it.
pub const LEVELS: [CareLevel; 3] = [CareLevel::Poor, CareLevel::Ordinary, CareLevel::Good];

/// What a part of the care index looks at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CareSource {
    /// Services that were due, and how many of them are evidenced.
    Services,
    /// Advisories of past tests put right.
    Advisories,
    /// The service interval kept, against the family's.
    IntervalKept,
    /// Condition of what the owner can see. Never computed, because it is found and not read: the
    /// person's own figure or nothing.
    Condition,
}

impl CareSource {
    /// Every source, in the order in which they are shown.
    pub const ALL: [Self; 4] = [Self::Services, Self::Advisories, Self::IntervalKept, Self::Condition];
}
