//! The renewal function: how often a fitted part fails again within the plan.
//!
//! docs/METHOD.md, section 6.

use crate::base::numeric::dot;
use crate::reliability::plan_grid::PLAN_CELLS;
use crate::reliability::survival_table::Curves;

/// Expected failures of a part fitted now, and of those fitted after it, in each plan cell: the
/// renewal equation solved on the grid (any reliability text).
///
/// `fresh` is the life of the part fitted and `kappa` its life factor under the plan.
#[must_use]
#[allow(clippy::cast_precision_loss)]
pub fn fresh_failures(horizon: f64, fresh: &Curves, life_factor: f64, usage_a_year: f64) -> Vec<f64> {
    // Survival at every half cell: even ones are edges, odd ones middles.
    let half = horizon / (2 * PLAN_CELLS) as f64;
    let alive: Vec<f64> = (0..=2 * PLAN_CELLS)
        .map(|i| fresh.survival(half * i as f64, half / usage_a_year * i as f64, life_factor))
        .collect();
    if alive[1] < 0.5 {
        return in_proportion(horizon, fresh, life_factor, usage_a_year);
    }
    let at_edge: Vec<f64> = alive.iter().step_by(2).copied().collect();
    let at_middle: Vec<f64> = alive.iter().skip(1).step_by(2).copied().collect();
    // Fitted in the middle of cell i, failing in cell j: by j − i, the nearest last.
    let lost: Vec<f64> = at_middle.windows(2).rev().map(|w| w[0] - w[1]).collect();
    let mut expected = vec![0.0; PLAN_CELLS];
    for j in 0..PLAN_CELLS {
        let again = dot(&expected[..j], &lost[PLAN_CELLS - 1 - j..]);
        expected[j] = (at_edge[j] - at_edge[j + 1] + again) / at_middle[0];
    }
    expected
}

/// The same for a life that is shorter than half a cell, which the grid cannot follow: over many lives a part
/// fails once in its mean life (the elementary renewal theorem, any reliability text).
#[allow(clippy::cast_precision_loss)]
fn in_proportion(horizon: f64, fresh: &Curves, life_factor: f64, usage_a_year: f64) -> Vec<f64> {
    const FINE: usize = 64;
    let cell = horizon / PLAN_CELLS as f64;
    let step = cell / FINE as f64;
    let alive = |i: usize| fresh.survival(step * i as f64, step / usage_a_year * i as f64, life_factor);
    // Trapezia; what lives beyond the plan counts to its end.
    let mut mean = 0.5 * step;
    for i in 1..PLAN_CELLS * FINE {
        let s = alive(i);
        mean += s * step;
        if s < 1e-9 {
            break;
        }
    }
    vec![cell / mean; PLAN_CELLS]
}

/// Expected failures in each plan cell, later ones included: `now` put right at once, `first` the
/// chance of the first failure by plan cell, `fresh` from [`fresh_failures`].
#[must_use]
pub fn all_failures(now: f64, first: &[f64], fresh: &[f64]) -> Vec<f64> {
    // Fitted in the middle of cell i: half a cell earlier or later than an edge. By j − i, the nearest last.
    let last = fresh.len() - 1;
    let again: Vec<f64> = (0..=last).rev().map(|d| 0.5 * (if d > 0 { fresh[d - 1] } else { 0.0 } + fresh[d])).collect();
    first.iter().zip(fresh).enumerate().map(|(j, (f, r))| f + now * r + dot(&first[..=j], &again[last - j..])).collect()
}
