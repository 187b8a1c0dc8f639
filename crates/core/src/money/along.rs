//! Where the expected bill falls along the plan.
//!
//! docs/METHOD.md, section 10.

use crate::inference::care_scenarios::CareScenarios;
use crate::inference::setting::Setting;
use crate::inference::strip::PLAN_BINS;
use crate::money::point_cost::PointCost;
use crate::money::priced_points::PricedPoints;
use crate::reliability::care;
use crate::reliability::plan_grid::PLAN_CELLS;
use crate::reliability::remaining_life::RemainingLife;

/// Expected money at once, by year and along the strip.
pub(crate) struct Along {
    /// At once: put right at purchase, and scheduled work that is overdue.
    pub now: f64,
    /// By year of the plan; what is paid at once falls in the first.
    pub by_year: Vec<f64>,
    /// Along the strip, without what is paid at once.
    pub spend: Vec<f64>,
}

/// One point's money by plan cell, the levels of care mixed.
struct Course {
    now: f64,
    cells: Vec<f64>,
    /// Chance that a part is fitted: at once, and in each plan cell.
    fitted_now: f64,
    fitted: Vec<f64>,
}

/// The plan cell at a share of the horizon.
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
fn cell(at: f64) -> usize {
    ((at * PLAN_CELLS as f64) as usize).min(PLAN_CELLS - 1)
}

impl Course {
    fn new(point: usize, scenarios: &CareScenarios, money: &PointCost, renewed: bool) -> Self {
        let mut out = Self { now: 0.0, cells: vec![0.0; PLAN_CELLS], fitted_now: 0.0, fitted: vec![0.0; PLAN_CELLS] };
        for (l, weight) in scenarios.weights.iter().enumerate() {
            let z = &scenarios.remaining[l][point];
            if renewed { out.renewed(*weight, z, money) } else { out.left(*weight, z, money, l) }
        }
        out.fail_again(money);
        out
    }

    /// What overdue work renews now is paid elsewhere; what it fits may fail in its turn.
    fn renewed(&mut self, weight: f64, z: &RemainingLife, money: &PointCost) {
        let o = z.overdue.as_deref();
        let susceptible = 1.0 - z.immune;
        let late_cells: f64 =
            o.map_or(0.0, |o| z.cells.iter().zip(&o.cells).map(|(m, s)| m * s).sum::<f64>() + z.tail * o.tail);
        let late = o.map_or(0.0, |o| z.present * o.present + z.immune * o.immune) + late_cells;
        let found = z.present * (1.0 - o.map_or(0.0, |o| o.present));
        self.now += weight * ((1.0 - late - found * money.paid(0.0)) * money.job.mean + found * money.done_already());
        self.fitted_now += weight * susceptible;
    }

    fn left(&mut self, weight: f64, z: &RemainingLife, money: &PointCost, level: usize) {
        let o = z.overdue.as_deref();
        let present = z.present * (1.0 - o.map_or(0.0, |o| o.present));
        self.now += weight * present * (money.failure_at(0.0) + money.done_already());
        self.fitted_now += weight * z.present;
        let grid = &z.grid;
        let cells = (0..grid.cells()).map(|k| (z.cells[k], o.map(|o| o.cells[k]), grid.in_plan(k).then_some(k)));
        for (mass, share, in_plan) in cells.chain([(z.tail, o.map(|o| o.tail), None)]) {
            let late = mass * share.unwrap_or(0.0);
            self.fitted_now += weight * late;
            let at = in_plan.map(|k| grid.middle(k) / grid.horizon());
            let mut open = mass - late;
            for (due, w) in &money.first_due[level] {
                if at.is_none_or(|at| *due <= at) {
                    self.fitted[cell(*due)] += weight * (mass - late) * w;
                    open -= (mass - late) * w;
                }
            }
            if let Some(at) = at {
                let open = open.max(0.0);
                self.cells[cell(at)] += weight * open * money.failure_at(at);
                self.fitted[cell(at)] += weight * open;
            }
        }
    }

    /// Parts fitted fail in their turn, from the middle of the cell in which they were fitted on.
    fn fail_again(&mut self, money: &PointCost) {
        for (d, fails) in money.fresh.iter().enumerate() {
            self.cells[d] += self.fitted_now * fails * money.failure;
        }
        for (c, chance) in self.fitted.iter().enumerate().filter(|(_, f)| **f > 0.0) {
            let half = 0.5 * chance * money.failure;
            for from in [c, c + 1] {
                self.cells[from..].iter_mut().zip(&money.fresh).for_each(|(cell, fails)| *cell += half * fails);
            }
        }
    }
}

/// Where the expected bill falls under a choice for every point; nothing saved by doing jobs together.
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub(crate) fn along(
    setting: &Setting<'_>,
    scenarios: &CareScenarios,
    priced: &PricedPoints,
    renewed: &[bool],
) -> Along {
    let years = setting.candidate.plan.years;
    let whole = (years.ceil() as usize).max(1);
    let mut out = Along { now: 0.0, by_year: vec![0.0; whole], spend: vec![0.0; PLAN_BINS] };
    let mut add = |at: f64, amount: f64| {
        out.by_year[((at * years) as usize).min(whole - 1)] += amount;
        if at > 0.0 {
            out.spend[((at * PLAN_BINS as f64) as usize).min(PLAN_BINS - 1)] += amount;
        } else {
            out.now += amount;
        }
    };
    add(0.0, care::mix(&scenarios.weights, |l| priced.work.now[l]));
    for (ahead, money) in &priced.work.ahead {
        add(ahead / setting.horizon, care::mix(&scenarios.weights, |l| money[l]));
    }
    for (i, money) in priced.costs.iter().enumerate() {
        let course = Course::new(i, scenarios, money, renewed[i]);
        add(0.0, course.now);
        for (k, amount) in course.cells.iter().enumerate() {
            add((k as f64 + 0.5) / PLAN_CELLS as f64, *amount);
        }
    }
    out
}
