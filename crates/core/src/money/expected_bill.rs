//! The expected bill, and where it falls along the plan.
//!
//! docs/METHOD.md, section 11.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::candidate::Candidate;
use crate::inference::context::Context;
use crate::inference::posterior::Posterior;
use crate::inference::strip::PLAN_BINS;
use crate::money::point_cost::PointCost;
use crate::money::priced_points::PricedPoints;
use crate::money::schedule::Scheduled;
use crate::reliability::remaining_life::RemainingLife;

/// Expected money within the plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Bill {
    /// In all.
    pub mean: f64,
    /// Of it, at once: what is there now, and scheduled work that is overdue.
    pub now: f64,
    /// Of it, scheduled work: overdue, and falling due within the plan.
    pub scheduled: f64,
    /// Of that, overdue.
    pub overdue: f64,
    /// By year of the plan; what is there now falls in the first.
    pub by_year: Vec<f64>,
    /// Along the strip, by [`PLAN_BINS`]; what is there now not counted.
    pub spend: Vec<f64>,
    /// The same for the reference example.
    pub reference: f64,
    /// Beyond the reference example: what the market does not price in.
    pub excess: f64,
    /// One future in ten is dearer.
    pub p90: f64,
    /// Mean of the dearest tenth.
    pub cvar90: f64,
}

/// The expected bill alone, as the whole judgement gives it: for questions asked many times over.
pub(crate) fn expected_bill(context: &Context<'_>) -> f64 {
    PricedPoints::new(context, &Posterior::new(context).after).bill()
}

impl Bill {
    /// A bill that holds scheduled work alone, beside that of the reference example.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn of_work(work: &Scheduled, reference: f64, candidate: &Candidate) -> Self {
        Self {
            mean: 0.0,
            now: 0.0,
            scheduled: work.total(),
            overdue: work.now,
            by_year: vec![0.0; (candidate.plan.years.ceil() as usize).max(1)],
            spend: vec![0.0; PLAN_BINS],
            reference,
            excess: 0.0,
            p90: 0.0,
            cvar90: 0.0,
        }
    }

    /// Puts a point's expected money where it falls along a plan of some years; `failures` are its expected
    /// failures by plan cell.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn add_point(&mut self, remaining: &RemainingLife, cost: &PointCost, failures: &[f64], years: f64) {
        let now = remaining.present * cost.job.mean;
        self.now += now;
        self.by_year[0] += now;
        for (j, f) in failures.iter().enumerate() {
            let year = ((j as f64 + 0.5) / failures.len() as f64 * years) as usize;
            let last = self.by_year.len() - 1;
            self.by_year[year.min(last)] += f * cost.failure;
            self.spend[j * PLAN_BINS / failures.len()] += f * cost.failure;
        }
    }

    /// Puts the money of scheduled work where it falls along the plan.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn add_work(&mut self, work: &Scheduled, horizon: f64, years: f64) {
        self.now += work.now;
        self.by_year[0] += work.now;
        let last = self.by_year.len() - 1;
        for (ahead, money) in &work.ahead {
            let share = ahead / horizon;
            self.by_year[((share * years) as usize).min(last)] += money;
            self.spend[((share * PLAN_BINS as f64) as usize).min(PLAN_BINS - 1)] += money;
        }
    }
}
