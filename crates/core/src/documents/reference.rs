//! References to a failure point or to scheduled work, by family and id.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

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
