//! What a failure point is expected to cost within the plan.
//!
//! Who knows a hazard may renew now or run on. Both are given by the state of the point, so that a worse state never
//! costs less. Where scheduled work renews the point, the work is paid elsewhere: in the share in which it is done,
//! now or when it falls due, a new cycle begins.
//!
//! docs/METHOD.md, sections 7 and 9.

use crate::documents::candidate::Example;
use crate::documents::care_level::CareLevel;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Family;
use crate::documents::strands::strands;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::remembered;
use crate::inference::setting::{Setting, View};
use crate::money::job_cost::{self, JobCost};
use crate::reliability::care::{self, Weights};
use crate::reliability::plan_grid::{FutureGrid, PLAN_CELLS};
use crate::reliability::remaining_life::{OverdueShares, RemainingLife};
use crate::reliability::renewal::fresh_failures;

/// When scheduled work that is not overdue renews a point for the first time within the plan: by level of care, how
/// far ahead as a share of the horizon, and with which chance.
pub(crate) type FirstDue = [Vec<(f64, f64)>; 3];

/// What a point costs, by how it comes.
#[derive(Debug, Clone)]
pub(crate) struct PointCost {
    /// The job alone.
    pub job: JobCost,
    /// A failure within the plan, warning, recovery and escalation counted.
    pub failure: f64,
    /// The worst branch.
    pub worst: f64,
    /// Chance that a failure is caught before it happens.
    pub caught: f64,
    /// Money for recovery when it is not.
    pub recovery: f64,
    /// The larger job that it may turn into: its chance, and what it costs beyond the job.
    pub larger: Option<(f64, f64)>,
    /// Failures of the part fitted, by plan cell.
    pub(crate) fresh: Vec<f64>,
    /// Failures of the part fitted, summed up to each plan cell edge.
    pub(crate) fresh_sum: Vec<f64>,
    /// When paid work renews it within the plan.
    pub(crate) first_due: FirstDue,
}

impl PointCost {
    pub(crate) fn new(setting: &Setting<'_>, view: &View<'_, '_>, value: f64, first_due: FirstDue) -> Self {
        let (a, c) = (setting.assumptions, setting.candidate);
        let View { applicable_point, lives, curves } = *view;
        let (point, family) = (applicable_point.point, applicable_point.family);
        let job_cost = |id: &str| family.job(id).map(|j| job_cost::cost(family, j, c.buyer.parts, c.buyer.labour, a));
        let job = job_cost(&point.job).unwrap_or_else(JobCost::nothing);
        // Nobody pays more for a mishap than the whole vehicle is worth, less its scrap.
        let most = value * (1.0 - a.scrap);
        let larger = point.escalation.as_ref().and_then(|e| job_cost(&e.job).map(|j| (e.chance.get(), j.mean)));
        let worst = larger.map_or(job.mean, |(_, cost)| cost.min(most).max(job.mean));
        let larger = larger.map(|(chance, cost)| (chance, (cost.min(most) - job.mean).max(0.0)));
        let caught = point.warning.as_ref().map_or(0.0, job_cost::caught);
        let recovery = recovery(family, point, a);
        let failure = job_cost::failure_cost(job.mean, caught, larger, recovery);
        // A part bought new today is the revised one where there is one: of those susceptible before, some are not.
        let (_, plan) = setting.life_factors(applicable_point, EvidenceMask::ALL, CareLevel::Ordinary);
        let life_factor = plan * a.grade(c.buyer.parts);
        let mut fresh = setting.budget.remembered(
            || remembered::fresh(setting, view, life_factor),
            |f: &Vec<f64>| 8 * f.len(),
            || fresh_failures(setting.horizon, curves.revised(), life_factor, setting.usage_a_year),
        );
        if !applicable_point.built_revised && lives.revised_share < lives.share {
            let still = lives.revised_share / lives.share;
            fresh.iter_mut().for_each(|f| *f *= still);
        }
        let mut fresh_sum = vec![0.0];
        for f in &fresh {
            fresh_sum.push(fresh_sum[fresh_sum.len() - 1] + f);
        }
        Self { job, failure, worst, caught, recovery, larger, fresh, fresh_sum, first_due }
    }

    /// Expected failures of a part fitted when `left` of the horizon remains (as a share of it).
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn expected_renewals(&self, left: f64) -> f64 {
        let at = (left * PLAN_CELLS as f64).clamp(0.0, PLAN_CELLS as f64);
        let i = (at as usize).min(PLAN_CELLS - 1);
        self.fresh_sum[i] + (self.fresh_sum[i + 1] - self.fresh_sum[i]) * (at - i as f64)
    }

    /// How long after it was fitted, as a share of the horizon, such a failure comes: the usage by which the
    /// share `u` of those expected in `left` of the horizon have come.
    #[allow(clippy::cast_precision_loss)]
    pub(crate) fn renewal_quantile(&self, left: f64, u: f64) -> f64 {
        let wanted = u * self.expected_renewals(left);
        let i = self.fresh_sum.partition_point(|s| *s < wanted).clamp(1, PLAN_CELLS);
        let (from, to) = (self.fresh_sum[i - 1], self.fresh_sum[i]);
        let within = if to > from { (wanted - from) / (to - from) } else { 0.5 };
        ((i - 1) as f64 + within).max(0.0) / PLAN_CELLS as f64
    }

    /// What a part fitted when `left` of the horizon remains costs in failures of its own.
    fn again(&self, left: f64) -> f64 {
        self.failure * self.expected_renewals(left)
    }

    /// What each state costs when the point is left until it fails or paid work renews it.
    fn run_on(&self, grid: &FutureGrid, overdue: Option<&OverdueShares>, level: usize) -> StateCosts {
        let due = &self.first_due[level];
        let renewed: f64 = due.iter().map(|(at, w)| w * self.again(1.0 - at)).sum();
        let cell = |i: usize| {
            if !grid.in_plan(i) {
                return renewed;
            }
            let at = grid.middle(i) / grid.horizon();
            let before: f64 = due.iter().filter(|(r, _)| *r <= at).map(|(_, w)| w).sum();
            let by_then: f64 = due.iter().filter(|(r, _)| *r <= at).map(|(r, w)| w * self.again(1.0 - r)).sum();
            (1.0 - before) * (self.failure + self.again(1.0 - at)) + by_then
        };
        let kept = StateCosts {
            present: self.failure + self.again(1.0),
            cells: (0..grid.cells()).map(cell).collect(),
            tail: renewed,
            immune: 0.0,
        };
        kept.where_overdue(overdue, self.again(1.0))
    }

    /// What each state costs when the point is renewed at purchase.
    fn renew(&self, grid: &FutureGrid, overdue: Option<&OverdueShares>) -> StateCosts {
        let (job, again) = (self.job.mean, self.again(1.0));
        let cells = vec![job + again; grid.cells()];
        let kept = StateCosts { present: job + again, cells, tail: job + again, immune: job };
        kept.where_overdue(overdue, again)
    }
}

/// What a failure on the road costs beyond the repair: nothing for what lets one drive on.
fn recovery(family: &Family, point: &FailurePoint, a: &crate::documents::assumptions::Assumptions) -> f64 {
    if strands(family, point, a) { a.recovery } else { 0.0 }
}

/// What each state of a point costs within the plan.
#[derive(Debug, Clone)]
pub(crate) struct StateCosts {
    /// There now.
    pub present: f64,
    /// Coming in each cell of the grid.
    pub cells: Vec<f64>,
    /// Coming beyond the grid.
    pub tail: f64,
    /// Never.
    pub immune: f64,
}

impl StateCosts {
    /// The same where in a share of each state overdue work renews the part now, and is paid elsewhere.
    fn where_overdue(mut self, overdue: Option<&OverdueShares>, again: f64) -> Self {
        if let Some(o) = overdue {
            let mix = |kept: f64, share: f64, then: f64| kept + share * (then - kept);
            self.present = mix(self.present, o.present, again);
            self.cells.iter_mut().zip(&o.cells).for_each(|(c, share)| *c = mix(*c, *share, again));
            self.tail = mix(self.tail, o.tail, again);
            self.immune = mix(self.immune, o.immune, 0.0);
        }
        self
    }

    /// Expected money of a point with this remaining life.
    pub(crate) fn expect(&self, z: &RemainingLife) -> f64 {
        let cells: f64 = z.cells.iter().zip(&self.cells).map(|(m, c)| m * c).sum();
        z.present * self.present + cells + z.tail * self.tail + z.immune * self.immune
    }
}

/// What each state of a point costs within the plan, and its expected money, by level of care: left alone, and
/// renewed at purchase.
#[derive(Debug, Clone)]
pub(crate) struct ExpectedCost {
    /// Left until it fails.
    pub run_on: [StateCosts; 3],
    /// Renewed at purchase.
    pub renew: [StateCosts; 3],
    /// Expected money in each care scenario, findings weighed, left alone.
    pub left_by_level: [f64; 3],
    /// The same, renewed at purchase.
    pub renewed_by_level: [f64; 3],
    /// Expected money, the scenarios mixed, left alone.
    pub left: f64,
    /// The same, renewed at purchase.
    pub renewed: f64,
}

impl ExpectedCost {
    pub(crate) fn new(scenarios: &CareScenarios, point: usize, money: &PointCost) -> Self {
        let z = |l: usize| &scenarios.remaining[l][point];
        let run_on = std::array::from_fn(|l| money.run_on(&z(l).grid, z(l).overdue.as_deref(), l));
        let renew = std::array::from_fn(|l| money.renew(&z(l).grid, z(l).overdue.as_deref()));
        let by_level = |of: &[StateCosts; 3]| std::array::from_fn(|l| of[l].expect(z(l)));
        let (left_by_level, renewed_by_level): ([f64; 3], [f64; 3]) = (by_level(&run_on), by_level(&renew));
        let mixed = |of: &[f64; 3]| care::mix(&scenarios.weights, |l| of[l]);
        let (left, renewed) = (mixed(&left_by_level), mixed(&renewed_by_level));
        Self { run_on, renew, left_by_level, renewed_by_level, left, renewed }
    }

    /// Expected money by level of care under a choice.
    pub(crate) fn by_level(&self, renewed: bool) -> &[f64; 3] {
        if renewed { &self.renewed_by_level } else { &self.left_by_level }
    }

    /// Expected money under a choice.
    pub(crate) fn expected(&self, renewed: bool) -> f64 {
        if renewed { self.renewed } else { self.left }
    }
}

/// The remaining lives of the reference example: of a well-sorted one nothing is there and nothing overdue.
pub(crate) fn as_reference(lives: &[RemainingLife; 3], example: Example) -> [RemainingLife; 3] {
    let mut out = lives.clone();
    if example == Example::WellSorted {
        for z in out.iter_mut().filter(|z| z.present < 1.0) {
            z.weigh(0.0, 1.0, 0.0, 1.0);
            z.overdue = None;
        }
    }
    out
}

/// The care scenarios of the reference example.
pub(crate) fn reference_scenarios(lives: &[[RemainingLife; 3]], usual: Weights, example: Example) -> CareScenarios {
    let points: Vec<[RemainingLife; 3]> = lives.iter().map(|z| as_reference(z, example)).collect();
    CareScenarios::before(&points, usual)
}
