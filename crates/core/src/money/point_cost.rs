//! What a failure point is expected to cost within the plan.
//!
//! docs/METHOD.md, section 7.

use crate::documents::candidate::Example;
use crate::documents::care_level::CareLevel;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::setting::Setting;
use crate::money::job_cost::{self, JobCost};
use crate::reliability::care::{self, Weights};
use crate::reliability::plan_grid::{FutureGrid, PLAN_CELLS};
use crate::reliability::remaining_life::RemainingLife;
use crate::reliability::renewal::fresh_failures;
use crate::reliability::survival_table::PointCurves;

/// What a point costs, by how it comes.
#[derive(Debug, Clone)]
pub(crate) struct PointCost {
    /// The job alone.
    pub job: JobCost,
    /// A failure within the plan, warning and escalation counted.
    pub failure: f64,
    /// The worst branch.
    pub worst: f64,
    /// Failures of the part fitted, by plan cell.
    pub(crate) fresh: Vec<f64>,
    /// Failures of the part fitted, summed up to each plan cell edge.
    fresh_sum: Vec<f64>,
}

impl PointCost {
    pub(crate) fn new(
        setting: &Setting<'_>,
        applicable_point: &ApplicablePoint<'_>,
        curves: &PointCurves<'_>,
        value: f64,
    ) -> Self {
        let (a, c) = (setting.assumptions, setting.candidate);
        let (point, family) = (applicable_point.point, applicable_point.family);
        let job_cost = |id: &str| family.job(id).map(|j| job_cost::cost(family, j, c.buyer.parts, c.buyer.labour, a));
        let job = job_cost(&point.job).unwrap_or_else(JobCost::nothing);
        let larger = point.escalation.as_ref().and_then(|e| job_cost(&e.job).map(|j| (e.chance.get(), j.mean)));
        let caught = point.warning.as_ref().map_or(0.0, job_cost::caught);
        let failure = job_cost::failure_cost(job.mean, caught, larger, value, a.recovery);
        let worst = larger.map_or(job.mean, |(_, cost)| cost.min(value).max(job.mean));
        // A part bought new today is the revised one where there is one.
        let (_, plan) = setting.life_factors(applicable_point, EvidenceMask::ALL, CareLevel::Ordinary);
        let life_factor = plan * a.grade(c.buyer.parts);
        let fresh = fresh_failures(setting.horizon, curves.revised(), life_factor, setting.usage_a_year);
        let mut fresh_sum = vec![0.0];
        for f in &fresh {
            fresh_sum.push(fresh_sum[fresh_sum.len() - 1] + f);
        }
        Self { job, failure, worst, fresh, fresh_sum }
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

    /// What a first failure in each cell of the grid costs within the plan, the fresh part's own
    /// failures included; 0 beyond the plan.
    fn by_cell(&self, grid: &FutureGrid) -> Vec<f64> {
        (0..grid.cells())
            .map(|i| {
                if grid.in_plan(i) {
                    self.failure * (1.0 + self.expected_renewals(1.0 - grid.middle(i) / grid.horizon()))
                } else {
                    0.0
                }
            })
            .collect()
    }

    /// What a fault that is there now costs within the plan.
    pub(crate) fn at_once(&self) -> f64 {
        self.job.mean + self.expected_renewals(1.0) * self.failure
    }

    /// Expected money within the plan of a point with this remaining life.
    pub(crate) fn expected(&self, remaining: &RemainingLife) -> f64 {
        remaining.expect(self.at_once(), &self.by_cell(&remaining.grid))
    }
}

/// What each state of a point costs within the plan, and its expected money.
#[derive(Debug, Clone)]
pub(crate) struct ExpectedCost {
    /// What a fault that is there now costs.
    pub present: f64,
    /// What a first failure in each cell costs.
    pub cells: Vec<f64>,
    /// Expected money in each care scenario, findings weighed.
    pub by_level: [f64; 3],
    /// Expected money, the scenarios mixed.
    pub expected: f64,
}

impl ExpectedCost {
    pub(crate) fn new(scenarios: &CareScenarios, point: usize, money: &PointCost) -> Self {
        let cells = money.by_cell(&scenarios.remaining[0][point].grid);
        let present = money.at_once();
        let by_level = std::array::from_fn(|l| scenarios.remaining[l][point].expect(present, &cells));
        Self { present, cells, by_level, expected: care::mix(&scenarios.weights, |l| by_level[l]) }
    }
}

/// Expected money of a point of the reference example.
pub(crate) fn reference_money(
    remaining: &[RemainingLife; 3],
    money: &PointCost,
    usual: &Weights,
    example: Example,
) -> f64 {
    care::mix(usual, |l| {
        let z = &remaining[l];
        if example == Example::WellSorted && z.present < 1.0 {
            let mut sorted = z.clone();
            sorted.weigh(0.0, 1.0, 0.0, 1.0);
            money.expected(&sorted)
        } else {
            money.expected(z)
        }
    })
}
