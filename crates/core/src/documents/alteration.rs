//! More power than the maker gave it: what a sheet knows of it, and what is known of one candidate.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::Usage;
use crate::documents::applies::Applies;

/// What breaks when a family gives more power than it was built for, and from which power on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Alteration {
    /// Short name, unique in the sheet.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// What is altered, as shown.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// Who says so.
    pub source: String,
    /// Power that the maker gave it, kilowatts.
    #[schema(exclusive_minimum = 0)]
    pub standard_kw: f64,
    /// Power that its standard parts bear, kilowatts.
    #[schema(exclusive_minimum = 0)]
    pub limit_kw: f64,
    /// Failure points, and how many times as long they last at that limit under a tune of which nothing is known:
    /// 0.7 means a third less.
    pub shortens: BTreeMap<String, f64>,
    /// What must go with it, or where it is not allowed.
    #[serde(default)]
    #[schema(max_length = 240)]
    pub caution: String,
    /// Which variants it concerns.
    #[serde(default)]
    pub applies: Applies,
}

/// How well a tune was made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TuneQuality {
    /// Set up on a bench, with its sheet, and the parts that go with it.
    Documented,
    /// Nobody knows.
    #[default]
    Unknown,
    /// A box or a file of unknown origin.
    Rough,
}

/// What is known of the tune of one candidate.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Tune {
    /// Power it gives, kilowatts; where nobody measured it, what its standard parts bear at most.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0)]
    pub power_kw: Option<f64>,
    /// How well it was made.
    #[serde(default)]
    pub quality: TuneQuality,
    /// Usage at which it was made; where nobody knows, it counts from now on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub since: Option<Usage>,
    /// Whether the buyer has it put back to standard at purchase.
    #[serde(default)]
    pub put_back: bool,
}
