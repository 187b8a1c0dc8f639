//! The posterior of every point: its remaining life under each level of care, before and after the findings.

use std::sync::Arc;

use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::Context;
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::islands::{Found, Heard, Islands};
use crate::inference::setting::View;
use crate::inference::worn_by;
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::remaining_life::RemainingLife;
use crate::reliability::survival_grid::PreparedParts;

/// Every point's remaining life by level of care, before findings, and the failures of its past cells.
pub(crate) struct Prior {
    /// Remaining life by level of care, point by point.
    pub by_point: Vec<[RemainingLife; 3]>,
    /// Failures of past cells at ordinary care, point by point; empty unless traced.
    pub pasts: Vec<Vec<f64>>,
}

/// The points before and after the findings.
pub(crate) struct Posterior<'c> {
    /// What papers, usage and age alone say.
    pub prior: Prior,
    /// Care scenarios before the findings.
    pub before: CareScenarios,
    /// Care scenarios after the findings, and with what faults wear while they last.
    pub after: CareScenarios,
    /// What each island's findings said.
    heard: Vec<Heard>,
    /// The points as findings and wear tie them.
    pub islands: Islands<'c>,
    /// Each point's chance within the plan after the findings, without what other faults wear; empty where none does, and
    /// unless traced.
    pub found: Vec<f64>,
}

impl Prior {
    /// Follows every point, on the grid that `grid` gives for its place and its leads.
    pub fn new<'c>(
        context: &Context<'c>,
        parts: &mut [PreparedParts<'c>],
        grid: impl Fn(usize, &[f64]) -> Arc<FutureGrid> + Sync,
        trace: bool,
    ) -> Self {
        let points = context.views.iter().zip(parts).enumerate().collect();
        let followed = context.setting.budget.in_pieces(points, &|budget, points: Vec<_>| {
            let setting = context.setting.for_piece(budget);
            let each = points.into_iter().map(|(i, (view, parts)): (usize, (&View<'_, 'c>, &mut _))| {
                let grid = grid(i, &view.applicable_point.leads);
                setting.scenarios(view, parts, &grid, EvidenceMask::ALL, trace)
            });
            each.collect()
        });
        let (by_point, pasts) = followed.into_iter().unzip();
        Self { by_point, pasts }
    }
}

impl<'c> Posterior<'c> {
    /// Every point on the full grid, or on an estimate's, all findings weighed. `parts` keeps what later views of a point
    /// share.
    pub fn traced(context: &Context<'c>, parts: &mut [PreparedParts<'c>], trace: bool) -> Self {
        let horizon = context.setting.horizon;
        let coarse = context.setting.budget.cells().is_some();
        let grid: fn(f64, &[f64]) -> Arc<FutureGrid> = if coarse { FutureGrid::estimate } else { FutureGrid::full };
        let prior = Prior::new(context, parts, |_, leads| grid(horizon, leads), trace);
        let before = CareScenarios::before(&prior.by_point, context.prior);
        let islands = Islands::of(context, context.answers);
        let (after, heard) = islands.found(context, before.clone());
        let found = if trace && worn_by::any(context) {
            let points = 0..prior.by_point.len();
            let tied = points.clone().filter(|i| islands.is_tied(*i));
            let so_far = Found { scenarios: &after, heard: &heard };
            let apart = islands.anew(context, so_far, tied, |i| prior.by_point[i].clone(), false);
            points.map(|i| islands.by_horizon(&apart, so_far, i)).collect()
        } else {
            Vec::new()
        };
        Self { prior, before, after, heard, islands, found }
    }

    /// What was found, as another look at some points takes it.
    pub fn so_far(&self) -> Found<'_> {
        Found { scenarios: &self.after, heard: &self.heard }
    }

    /// The same for a question that needs neither the past nor other views of the points.
    pub fn new(context: &Context<'c>) -> Self {
        Self::traced(context, &mut empty_parts(context), false)
    }
}

/// Nothing prepared yet, for each point.
pub(crate) fn empty_parts<'c>(context: &Context<'c>) -> Vec<PreparedParts<'c>> {
    context.views.iter().map(|_| PreparedParts::default()).collect()
}

/// Care scenarios before the findings: one point on the full grid if asked, the others on the coarsest.
pub(crate) fn scenarios_before(context: &Context<'_>, full: Option<usize>) -> CareScenarios {
    let horizon = context.setting.horizon;
    let grid = |i: usize, leads: &[f64]| {
        if full == Some(i) || worn_by::concerns(context, i) {
            FutureGrid::full(horizon, leads)
        } else {
            FutureGrid::coarse(horizon, leads)
        }
    };
    let prior = Prior::new(context, &mut empty_parts(context), grid, false);
    CareScenarios::before(&prior.by_point, context.prior)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::base::budget::Budget;
    use crate::documents::assumptions::Assumptions;
    use crate::formats::base_sheets;
    use crate::formats::documents::{read_candidate, read_family};
    use crate::inference::context::with_context;

    #[test]
    fn masses_sum_to_one_in_each_care_scenario_before_and_after_findings() {
        let file = |path: &str| {
            std::fs::read_to_string(format!("{}/../../demo/{path}", env!("CARGO_MANIFEST_DIR"))).expect("a demo file")
        };
        let sheet = |id: &str| read_family(&file(&format!("families/{id}.json"))).expect("a sheet");
        let mut families = vec![sheet("bk4"), sheet("ferryman"), sheet("s6")];
        families.extend(base_sheets::sheets().expect("base sheets"));
        let candidate = read_candidate(&file("candidates/2-harbour-office.json")).expect("a candidate");
        let seen = with_context(&candidate, &families, &Assumptions::default(), &Budget::default(), |context| {
            let posterior = Posterior::new(context);
            let mut seen = 0;
            for scenarios in [&posterior.before, &posterior.after] {
                assert!((scenarios.weights.iter().sum::<f64>() - 1.0).abs() < 1e-12);
                for life in scenarios.remaining.iter().flatten() {
                    let sum = life.present + life.cells.iter().sum::<f64>() + life.tail + life.immune;
                    assert!((sum - 1.0).abs() < 1e-9, "{sum}");
                    seen += 1;
                }
            }
            Ok(seen)
        });
        assert!(seen.expect("judged") > 300);
    }
}
