//! How the person wants to do the walk-round.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How a person wants to walk round.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WalkPlan {
    /// Minutes there are at the vehicle; none means all the time it takes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0, maximum = 1440)]
    pub minutes: Option<f64>,
    /// Actions that were done when the time began: they take none of it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 500)]
    pub before: Vec<String>,
    /// Whether there is no lift, and no stands on firm ground.
    #[serde(default)]
    pub no_lift: bool,
    /// Actions that are in it whatever they are worth.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 500)]
    pub added: Vec<String>,
    /// Actions that are not.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 500)]
    pub dropped: Vec<String>,
    /// Actions in the order wanted; it holds within a phase.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 500)]
    pub order: Vec<String>,
}
