//! The reference price: what others like it are offered for.
//!
//! docs/METHOD.md, section 11.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::statistics::{median, theil_sen};
use crate::documents::candidate::{Candidate, Example};

/// How the reference price was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReferenceBasis {
    /// No comparable: the asking price itself.
    Asking,
    /// One or two comparables, or a line that rises: their median price.
    Median,
    /// Three or more: the Theil–Sen line at this usage.
    Line,
}

/// The reference price and where it comes from.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Reference {
    /// Price of the reference example, units of the currency.
    pub price: f64,
    /// How it was found.
    pub basis: ReferenceBasis,
    /// What kind of example it is.
    pub example: Example,
    /// Comparables used.
    pub count: usize,
    /// Comparables passed over: of the other kind of example, or counted on another clock.
    pub passed: usize,
    /// The line, where it was used.
    pub line: Option<PriceLine>,
    /// The line through them rises: dearer the farther it went. That is chance, not the market; their
    /// median is used.
    pub rising: bool,
    /// The candidate's usage lies outside that of all comparables: the line is drawn out beyond them.
    pub outside: bool,
}

/// A line of price on usage.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PriceLine {
    /// Money a unit of usage.
    pub slope: f64,
    /// Price at no usage.
    pub at_zero: f64,
}

/// The reference price for a candidate. Where adverts of both kinds are given, the kind with more is
/// used; at a tie the typical ones.
#[must_use]
pub fn reference(candidate: &Candidate) -> Reference {
    let of = |example: Example| -> Vec<(f64, f64)> {
        candidate
            .comparables
            .iter()
            .filter(|c| c.example == example && c.usage.unit.clock() == candidate.usage.unit.clock())
            .map(|c| (c.usage.on_clock(), c.price.get()))
            .collect()
    };
    let (typical, sorted) = (of(Example::Typical), of(Example::WellSorted));
    let (points, example) =
        if sorted.len() > typical.len() { (sorted, Example::WellSorted) } else { (typical, Example::Typical) };
    let count = points.len();
    let passed = candidate.comparables.len() - count;
    let at = candidate.usage.on_clock();
    let found = if count >= 3 { theil_sen(&points) } else { None };
    let rising = found.is_some_and(|l| l.0 > 0.0);
    let line = found.filter(|_| !rising).map(|(slope, at_zero)| PriceLine { slope, at_zero });
    let outside = line.is_some() && (points.iter().all(|p| p.0 < at) || points.iter().all(|p| p.0 > at));
    let of = |price: f64, basis| Reference { price, basis, example, count, passed, line, rising, outside };
    let mut prices: Vec<f64> = points.iter().map(|p| p.1).collect();
    match (line, median(&mut prices)) {
        (Some(l), _) => of((l.at_zero + l.slope * at).max(0.0), ReferenceBasis::Line),
        (None, Some(price)) => of(price, ReferenceBasis::Median),
        (None, None) => of(candidate.asking.get(), ReferenceBasis::Asking),
    }
}
