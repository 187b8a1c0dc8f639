//! How a family is built, and what patterns gave its sheet.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How a family is built: what a sheet says of it in the place of common knowledge written out.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BuiltAs {
    /// Question, or setting of a pattern, to its answer; what is left out is not known.
    pub answers: BTreeMap<String, String>,
    /// The patterns meant, where the sheet describes a part of the whole; none means all that fit.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 100)]
    pub patterns: Vec<String>,
}

/// What a pattern gave to a sheet.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PatternUse {
    /// The pattern.
    pub id: String,
    /// Its version.
    #[schema(minimum = 1)]
    pub version: u32,
    /// Its name.
    pub name: String,
    /// What it gave, by list and short name, as `points/clutch`.
    #[schema(max_items = 400)]
    pub gives: Vec<String>,
}
