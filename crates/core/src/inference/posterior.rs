//! The posterior of every point: its remaining life under each level of care, before and after the findings.

use std::sync::Arc;

use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::Context;
use crate::inference::evidence_mask::EvidenceMask;
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
pub(crate) struct Posterior {
    /// What papers, usage and age alone say.
    pub prior: Prior,
    /// Care scenarios before the findings.
    pub before: CareScenarios,
    /// Care scenarios after the findings.
    pub after: CareScenarios,
}

impl Prior {
    /// Follows every point, on the grid that `grid` gives for its place and its leads.
    pub fn new<'c>(
        context: &Context<'c>,
        parts: &mut [PreparedParts<'c>],
        grid: impl Fn(usize, &[f64]) -> Arc<FutureGrid>,
        trace: bool,
    ) -> Self {
        let points = context.views.iter().zip(parts).enumerate().map(|(i, (view, parts))| {
            let grid = grid(i, &view.applicable_point.leads);
            context.setting.scenarios(view, parts, &grid, EvidenceMask::ALL, trace)
        });
        let (by_point, pasts) = points.unzip();
        Self { by_point, pasts }
    }
}

impl Posterior {
    /// Every point on the full grid, all findings weighed. `parts` keeps what later views of a point share.
    pub fn traced<'c>(context: &Context<'c>, parts: &mut [PreparedParts<'c>], trace: bool) -> Self {
        let horizon = context.setting.horizon;
        let prior = Prior::new(context, parts, |_, leads| FutureGrid::full(horizon, leads), trace);
        let before = CareScenarios::before(&prior.by_point, context.prior);
        let after = before.clone().found(context.answers, context.setting.assumptions.joint_states);
        Self { prior, before, after }
    }

    /// The same for a question that needs neither the past nor other views of the points.
    pub fn new(context: &Context<'_>) -> Self {
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
        if full == Some(i) { FutureGrid::full(horizon, leads) } else { FutureGrid::coarse(horizon, leads) }
    };
    let prior = Prior::new(context, &mut empty_parts(context), grid, false);
    CareScenarios::before(&prior.by_point, context.prior)
}
