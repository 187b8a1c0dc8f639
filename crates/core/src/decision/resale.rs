//! What it is still worth at the end of the plan.
//!
//! docs/METHOD.md, section 11.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::decision::limit_price::LimitPrice;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;

/// Where the value at the end of the plan comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ResaleBasis {
    /// The buyer says so.
    Entered,
    /// The line through the comparables, at the later usage and, where they tell it, the later age.
    Comparables,
}

/// What it is still worth later, and why that is believed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Resale {
    /// Where it comes from.
    pub basis: ResaleBasis,
    /// Units of the currency at the end of each year of the plan; the last is the plan's end.
    pub by_year: Vec<f64>,
    /// At the end of the plan.
    pub at_end: f64,
}

/// What a candidate is still worth at the end of each of the `whole` years that its plan begins; none where nobody said
/// and no line of comparables tells it. What marks take off now they take off then, and it is never worth less than
/// its scrap.
#[must_use]
pub fn resale(
    candidate: &Candidate,
    value: &LimitPrice,
    usage_a_year: f64,
    whole: usize,
    a: &Assumptions,
) -> Option<Resale> {
    let years = candidate.plan.years;
    let now = value.marked_price;
    let left = if value.reference.price > 0.0 { now / value.reference.price } else { 1.0 };
    let floor = a.scrap * value.reference.price;
    let at = |year: f64| match candidate.value_at_end {
        // In equal shares a year from today's price to what was said.
        Some(end) if now > 0.0 => now * (end.get() / now).powf(year / years),
        Some(end) => end.get(),
        None => value.reference.later(usage_a_year * year, year).map_or(f64::NAN, |v| (v * left).max(floor)),
    };
    let at_end = at(years);
    if at_end.is_nan() {
        return None;
    }
    let basis = if candidate.value_at_end.is_some() { ResaleBasis::Entered } else { ResaleBasis::Comparables };
    #[allow(clippy::cast_precision_loss)]
    let by_year = (1..=whole).map(|k| at((k as f64).min(years))).collect();
    Some(Resale { basis, by_year, at_end })
}
