//! Method §11: what the candidate is worth, and the limit price.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assessment::Worth;
use crate::assumptions::Assumptions;
use crate::candidate::{Candidate, Example};

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

/// Median of at least one figure.
pub(crate) fn median(values: &mut [f64]) -> f64 {
    values.sort_by(f64::total_cmp);
    let n = values.len();
    if n % 2 == 1 { values[n / 2] } else { f64::midpoint(values[n / 2 - 1], values[n / 2]) }
}

/// Theil–Sen slope and intercept: the median of all pairwise slopes, and the intercept that
/// `scipy.stats.theilslopes` uses, median(y) − slope · median(x). `None` without two distinct x.
#[must_use]
pub fn theil_sen(points: &[(f64, f64)]) -> Option<(f64, f64)> {
    let mut slopes: Vec<f64> = Vec::new();
    for (i, a) in points.iter().enumerate() {
        for b in &points[i + 1..] {
            if (b.0 - a.0).abs() > 0.0 {
                slopes.push((b.1 - a.1) / (b.0 - a.0));
            }
        }
    }
    if slopes.is_empty() {
        return None;
    }
    let slope = median(&mut slopes);
    let mut xs: Vec<f64> = points.iter().map(|p| p.0).collect();
    let mut ys: Vec<f64> = points.iter().map(|p| p.1).collect();
    Some((slope, median(&mut ys) - slope * median(&mut xs)))
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
    match line {
        Some(l) => of((l.at_zero + l.slope * at).max(0.0), ReferenceBasis::Line),
        None if count > 0 => of(median(&mut prices), ReferenceBasis::Median),
        None => of(candidate.asking.get(), ReferenceBasis::Asking),
    }
}

/// What it is worth to this buyer: the reference price, less what it is expected to cost beyond the reference
/// example, less room for bad luck by appetite. `bad_luck` is the mean of the dearest tenth less the mean.
#[must_use]
pub fn worth(candidate: &Candidate, reference: Reference, excess: f64, bad_luck: f64, a: &Assumptions) -> Worth {
    let asking = candidate.asking.get();
    let room = a.room(candidate.buyer.appetite) * bad_luck;
    let limit = (reference.price - excess - room).max(0.0);
    Worth { asking, reference, bad_luck, room, limit, surplus: limit - asking }
}
