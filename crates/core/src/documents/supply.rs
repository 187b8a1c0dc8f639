//! Parts and hands by age: what still can be had for an old one, from whom, and at what price.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::applies::Applies;
use crate::documents::job::PartGrade;

/// How parts and work are to be had from an age on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Supply {
    /// Short name, unique in the sheet.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// What is so from then on, as people say it.
    #[schema(min_length = 1, max_length = 160)]
    pub says: String,
    /// Age from which it is so, years.
    #[schema(minimum = 0, maximum = 120)]
    pub from_age: f64,
    /// What parts cost then, times their price in the sheet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 20)]
    pub parts: Option<f64>,
    /// What work takes then, times its hours in the sheet: fewer hands know it, or it takes longer.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 20)]
    pub hours: Option<f64>,
    /// Grades of part that can still be had; none named: all.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 6)]
    pub grades: Vec<PartGrade>,
    /// The failure points of whose jobs it is so; none named: of all.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 60)]
    pub points: Vec<String>,
    /// Which variants it concerns.
    #[serde(default)]
    pub applies: Applies,
}
