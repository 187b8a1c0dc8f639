//! What a family's sheet knows better of a check or a job that a base sheet or a pattern describes. What it leaves out
//! stays as it is there.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::applies::Applies;
use crate::documents::job::HoursRange;
use crate::documents::measure::Measure;
use crate::documents::words::Price;

/// What is known better of a check.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CheckAdjustment {
    /// What is done, by the check's `action`; of a check without one its id.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub action: String,
    /// What to do.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(min_length = 1, max_length = 400)]
    pub how: Option<String>,
    /// What it tells.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 400)]
    pub tells: Option<String>,
    /// Minutes it takes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0, maximum = 600)]
    pub minutes: Option<f64>,
    /// What can hurt.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(min_length = 1, max_length = 400)]
    pub caution: Option<String>,
    /// How a reading becomes an outcome, of a check that measures.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub measure: Option<Measure>,
    /// Variants of which that is known.
    #[serde(default)]
    pub applies: Applies,
}

/// What is known better of a job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobAdjustment {
    /// The job, by its short name in the base sheet or pattern.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub job: String,
    /// Own hours.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hours: Option<HoursRange>,
    /// What it costs done, parts and hours included, in this sheet's currency; it takes the place of hours and parts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<Price>,
    /// Variants of which that is known.
    #[serde(default)]
    pub applies: Applies,
}
