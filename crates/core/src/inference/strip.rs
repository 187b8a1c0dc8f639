//! A point's chances by the bins of the road strip.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::reliability::remaining_life::RemainingLife;

/// The masses of past, plan and beyond by the strip's bins.
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub(crate) fn trouble(past_cells: &[f64], remaining: &RemainingLife) -> Trouble {
    let mut past = vec![0.0; PAST_BINS];
    // A cell's failures lie evenly in it: bins and cells need not meet.
    let bins_a_cell = PAST_BINS as f64 / past_cells.len() as f64;
    for (i, f) in past_cells.iter().enumerate() {
        let (from, to) = (i as f64 * bins_a_cell, (i + 1) as f64 * bins_a_cell);
        let touched = past.iter_mut().enumerate().skip(from as usize).take_while(|(bin, _)| (*bin as f64) < to);
        for (bin, slot) in touched {
            *slot += f * (to.min(bin as f64 + 1.0) - from.max(bin as f64)) / bins_a_cell;
        }
    }
    let mut plan = vec![0.0; PLAN_BINS];
    let mut beyond = vec![0.0; BEYOND_BINS];
    let width = remaining.grid.horizon() / PLAN_BINS as f64;
    for (i, m) in remaining.cells.iter().enumerate() {
        let bin = (remaining.grid.middle(i) / width) as usize;
        if remaining.grid.in_plan(i) {
            plan[bin.min(PLAN_BINS - 1)] += m;
        } else if let Some(slot) = beyond.get_mut(bin.saturating_sub(PLAN_BINS)) {
            *slot += m;
        }
    }
    past.iter_mut().chain(&mut plan).chain(&mut beyond).for_each(|m| *m *= IN_ALL);
    Trouble { past, plan, beyond }
}

/// So many parts make the whole.
const IN_ALL: f64 = 10_000.0;

/// Bins of the strip from build to now.
pub const PAST_BINS: usize = 36;

/// Bins of the strip over the plan.
pub const PLAN_BINS: usize = 30;

/// Bins beyond the plan.
pub const BEYOND_BINS: usize = 9;

/// Chances along the strip in ten-thousandths, by equal bins: [`PAST_BINS`] from build to now, [`PLAN_BINS`] over the
/// plan, the rest beyond it by the same width as the plan's.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Trouble {
    /// Expected failures by now, of vehicles built like this one, before anything is known of it.
    pub past: Vec<f64>,
    /// Chance of the first failure ahead, in the plan.
    pub plan: Vec<f64>,
    /// The same beyond the plan.
    pub beyond: Vec<f64>,
}
