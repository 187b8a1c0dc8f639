//! A workshop's own price for a job, in the place of the sheet's estimate.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::Money;

/// What a workshop asks for a job on this candidate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Quote {
    /// The family's id.
    pub family: String,
    /// The job's id.
    pub job: String,
    /// All in: parts, work and what must come off, in the candidate's currency.
    pub amount: Money,
    /// The day it bears.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// Who quoted.
    #[schema(min_length = 1, max_length = 200)]
    pub by: String,
    /// Its number, or what it says.
    #[serde(default)]
    #[schema(max_length = 1000)]
    pub note: String,
}

/// A quote, as a result tells it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Quoted {
    /// Who quoted.
    pub by: String,
    /// When.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
}
