//! The expected bill, and where it falls along the plan.
//!
//! docs/METHOD.md, section 11.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::inference::context::Context;
use crate::inference::posterior::Posterior;
use crate::money::along::Along;
use crate::money::priced_points::PricedPoints;
use crate::money::purchase_decision::decide_plan;
use crate::money::purchase_plan::DecidedPlan;
use crate::money::tail::Tail;

/// Expected money within the plan, under the maintenance policy that the buyer follows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Bill {
    /// In all.
    pub mean: f64,
    /// Of it, at once: what is put right at purchase, and scheduled work that is overdue.
    pub now: f64,
    /// Of it, scheduled work: overdue, and falling due within the plan.
    pub scheduled: f64,
    /// Of that, overdue.
    pub overdue: f64,
    /// Saved at purchase by doing together what must come off once; taken off the mean.
    pub saved: f64,
    /// By year of the plan; what is paid at once falls in the first.
    pub by_year: Vec<f64>,
    /// Along the strip, by [`PLAN_BINS`](crate::inference::strip::PLAN_BINS); what is paid at once not counted.
    pub spend: Vec<f64>,
    /// The same bill for the reference example, under the same policy.
    pub reference: f64,
    /// Beyond the reference example: what the market does not price in.
    pub excess: f64,
    /// One future in ten is dearer.
    pub p90: f64,
    /// Mean of the dearest tenth.
    pub cvar90: f64,
    /// How far that lies above the mean of all futures.
    pub tail_excess: f64,
    /// One future in ten of the reference example is dearer.
    pub reference_p90: f64,
    /// How far the mean of its dearest tenth lies above the mean.
    pub reference_tail_excess: f64,
}

/// What a bill comes to beyond that of the reference example.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Beyond {
    /// Beyond the reference example's.
    pub excess: f64,
    /// How far the mean of the dearest tenth lies above the mean of all futures.
    pub tail_excess: f64,
    /// The same of the reference example.
    pub reference_tail_excess: f64,
}

impl Bill {
    /// What it comes to beyond that of the reference example.
    #[must_use]
    pub fn beyond(&self) -> Beyond {
        let Self { excess, tail_excess, reference_tail_excess, .. } = *self;
        Beyond { excess, tail_excess, reference_tail_excess }
    }
}

/// The expected bill alone, as the whole judgement gives it: for questions asked many times over.
pub(crate) fn expected_bill(context: &Context<'_>) -> f64 {
    let after = Posterior::new(context).after;
    decide_plan(context, &after, &PricedPoints::new(context, &after)).expected
}

/// What a bill is made from.
pub(crate) struct BillParts<'a> {
    pub plan: &'a DecidedPlan,
    /// Expected bill of the reference example, and how far it may go.
    pub reference: (f64, Tail),
    /// Scheduled work in all, and of it what is overdue.
    pub scheduled: (f64, f64),
    pub along: Along,
}

impl Bill {
    /// Where money falls is told cell by cell; in all it is what was worked out without cells.
    pub(crate) fn new(parts: BillParts<'_>) -> Self {
        let BillParts { plan, reference: (reference, reference_tail), scheduled: (scheduled, overdue), along } = parts;
        let Along { now, mut by_year, mut spend } = along;
        let tail = Tail::of(&plan.distribution);
        let drawn = by_year.iter().sum::<f64>() - plan.saved;
        let scale = if drawn > 0.0 { plan.expected / drawn } else { 1.0 };
        by_year[0] -= plan.saved;
        by_year.iter_mut().chain(&mut spend).for_each(|x| *x *= scale);
        Self {
            mean: plan.expected,
            now: (now - plan.saved) * scale,
            scheduled,
            overdue,
            saved: plan.saved,
            by_year,
            spend,
            reference,
            excess: plan.expected - reference,
            p90: tail.p90,
            cvar90: tail.cvar90,
            tail_excess: tail.excess(),
            reference_p90: reference_tail.p90,
            reference_tail_excess: reference_tail.excess(),
        }
    }
}
