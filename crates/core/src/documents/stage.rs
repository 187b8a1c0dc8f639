//! A fault that grows: what it is and costs the later it is put right.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::words::Price;

/// A stage of a fault that grows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Stage {
    /// How one tells it, as shown.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// Usage for which it stays in this stage, and of the last for which anybody lives with it.
    #[schema(exclusive_minimum = 0)]
    pub tolerable: f64,
    /// The job that puts it right in this stage; the first stage is put right by the point's own.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub job: String,
    /// What that costs, parts and hours included, where no job of the sheet does it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<Price>,
}
