//! Method §11: what the candidate is worth, and the limit price.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::candidate::{Candidate, Example};

/// How the reference price was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReferenceBasis {
    /// No comparable: the asking price itself.
    Asking,
    /// One or two comparables: their median price.
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
    let mut prices: Vec<f64> = points.iter().map(|p| p.1).collect();
    let count = points.len();
    let line = if count >= 3 { theil_sen(&points) } else { None };
    match line {
        Some((slope, intercept)) => Reference {
            price: (intercept + slope * candidate.usage.on_clock()).max(0.0),
            basis: ReferenceBasis::Line,
            example,
            count,
        },
        None if count > 0 => Reference { price: median(&mut prices), basis: ReferenceBasis::Median, example, count },
        None => Reference { price: candidate.asking.get(), basis: ReferenceBasis::Asking, example, count },
    }
}
