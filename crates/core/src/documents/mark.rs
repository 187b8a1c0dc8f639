//! What takes something off the going price of a family's examples, beyond the usual table.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::Probability;
use crate::documents::applies::Applies;
use crate::documents::paper::ProvenanceKind;

/// A mark: an item of the history report, or variants that sell for less.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SheetMark {
    /// Name as shown.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// The item of the history report that it prices, in the place of the usual share; none where the variants below
    /// carry the mark.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub item: Option<ProvenanceKind>,
    /// Which variants and builds it concerns.
    #[serde(default)]
    pub applies: Applies,
    /// Share of the going price that it takes off.
    pub takes_off: Probability,
    /// Why: who would not have it, or what it costs to live with.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 240)]
    pub why: String,
    /// Whose judgement.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub source: Option<String>,
}

/// The items of the history report that a sheet may price: the others end a purchase or are settled before it.
pub const PRICED: [ProvenanceKind; 6] = [
    ProvenanceKind::WrittenOffStructural,
    ProvenanceKind::WrittenOff,
    ProvenanceKind::Imported,
    ProvenanceKind::Mileage,
    ProvenanceKind::Colour,
    ProvenanceKind::Plate,
];
