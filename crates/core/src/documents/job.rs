//! Jobs: parts by grade, hours, what must come off; and the scheduled work that uses them.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::Money;
use crate::documents::applies::Applies;
use crate::documents::words::Price;

/// A figure with its doubt: low, likely, high.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MoneyRange {
    /// Seldom less.
    pub low: Money,
    /// Most often.
    pub likely: Money,
    /// Seldom more.
    pub high: Money,
}

/// Hours of work with their doubt.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HoursRange {
    /// Seldom less.
    #[schema(minimum = 0, maximum = 500)]
    pub low: f64,
    /// Most often.
    #[schema(minimum = 0, maximum = 500)]
    pub likely: f64,
    /// Seldom more.
    #[schema(minimum = 0, maximum = 500)]
    pub high: f64,
}

/// The grade of a part.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PartGrade {
    /// The maker's own.
    Original,
    /// Another maker's, to the same drawing.
    #[default]
    Equivalent,
    /// Taken from another vehicle.
    Used,
    /// Nobody knows.
    Unknown,
}

/// A repair.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Job {
    /// Short name, unique in the sheet.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// Name as shown.
    pub name: String,
    /// Parts by grade; a grade that is not listed is had at the nearest listed one.
    #[serde(default)]
    pub parts: BTreeMap<PartGrade, MoneyRange>,
    /// Own hours, access not counted.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hours: Option<HoursRange>,
    /// What must come off first.
    #[serde(default)]
    pub access: Vec<String>,
    /// Oil, seals, disposal, hire.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sundries: Option<MoneyRange>,
    /// What it costs done, parts and hours included, where they are not known apart.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<Price>,
    /// The failure points that it puts right in one go, where there are several: it is charged once for them all.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 30)]
    pub renews: Vec<String>,
}

/// Something that must come off, counted once a visit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AccessGroup {
    /// Short name.
    pub id: String,
    /// Name as shown.
    pub name: String,
    /// Hours off and on again.
    #[schema(minimum = 0, maximum = 500)]
    pub hours: f64,
}

/// A scheduled renewal: a due point, not a life.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Interval {
    /// Short name.
    pub id: String,
    /// Name as shown.
    pub name: String,
    /// Usage between renewals.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0)]
    pub usage: Option<f64>,
    /// Years between renewals.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0)]
    pub years: Option<f64>,
    /// The job that does it.
    pub job: String,
    /// Failure points that it starts afresh.
    #[serde(default)]
    pub renews: Vec<String>,
    /// Which variants it concerns.
    #[serde(default)]
    pub applies: Applies,
}

impl Interval {
    /// Whether the work is the engine's oil change, by its name.
    #[must_use]
    pub fn is_engine_oil(&self) -> bool {
        const OTHERS: [&str; 12] = [
            "gear",
            "axle",
            "transmission",
            "differential",
            "diff",
            "fork",
            "hub",
            "transfer",
            "primary",
            "final",
            "pump",
            "cooler",
        ];
        let name = self.name.to_lowercase();
        name.contains("oil") && !OTHERS.iter().any(|o| name.contains(o))
    }
}
