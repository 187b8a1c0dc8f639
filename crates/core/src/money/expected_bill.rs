//! The expected bill, and where it falls along the plan.

use crate::documents::candidate::Candidate;
use crate::inference::care_scenarios::Worlds;
use crate::inference::context::Scene;
use crate::inference::evidence_mask::Counted;
use crate::inference::setting::View;
use crate::inference::strip::PLAN_BINS;
use crate::money::point_cost::PointMoney;
use crate::money::point_cost::Priced;
use crate::money::reference_price;
use crate::money::schedule;
use crate::money::schedule::Scheduled;
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::remaining_life::Zones;
use crate::reliability::survival_grid::Parts;
use serde::Deserialize;
use serde::Serialize;
use utoipa::ToSchema;

/// The expected bill alone, as [`assess`] gives it: for questions asked many times over.
pub(crate) fn expected_bill(scene: &Scene<'_>) -> f64 {
    let Scene { setting, views, answers, prior, families, .. } = *scene;
    let all: Vec<[Zones; 3]> = views
        .iter()
        .map(|v| {
            let grid = FutureGrid::full(setting.horizon, &v.subject.leads);
            setting.worlds(v, &mut Parts::default(), &grid, Counted::ALL, false).0
        })
        .collect();
    let worlds = Worlds::before(&all, prior).found(answers, setting.assumptions.joint_states);
    let price = reference_price::reference(setting.candidate).price;
    let money = |v: &View<'_, '_>| PointMoney::new(setting, v.subject, v.curves, price);
    let (_, scheduled) = schedule::due(setting, families, setting.assumptions);
    let points: f64 = views.iter().enumerate().map(|(i, v)| Priced::new(&worlds, i, &money(v)).expected).sum();
    points + scheduled.total()
}

#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub(crate) fn plan_years(candidate: &Candidate) -> usize {
    (candidate.plan.years.ceil() as usize).max(1)
}

/// Puts a point's expected money where it falls along the plan.
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub(crate) fn spread(bill: &mut Bill, all: &[f64], now: f64, failure: f64, years: f64) {
    bill.now += now;
    bill.by_year[0] += now;
    for (j, f) in all.iter().enumerate() {
        let year = ((j as f64 + 0.5) / all.len() as f64 * years) as usize;
        let last = bill.by_year.len() - 1;
        bill.by_year[year.min(last)] += f * failure;
        bill.spend[j * PLAN_BINS / all.len()] += f * failure;
    }
}

/// Puts the money of scheduled work where it falls along the plan.
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub(crate) fn spread_work(bill: &mut Bill, work: &Scheduled, horizon: f64, years: f64) {
    bill.now += work.now;
    bill.by_year[0] += work.now;
    let last = bill.by_year.len() - 1;
    for (ahead, money) in &work.ahead {
        let share = ahead / horizon;
        bill.by_year[((share * years) as usize).min(last)] += money;
        bill.spend[((share * PLAN_BINS as f64) as usize).min(PLAN_BINS - 1)] += money;
    }
}

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
