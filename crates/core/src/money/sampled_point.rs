//! One failure point made ready for simulation.

use crate::base::pert::Pert;
use crate::base::random::{number, uniform};
use crate::documents::reference::PointRef;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::Context;
use crate::money::job_cost;
use crate::money::point_cost::PointCost;
use crate::reliability::remaining_life::RemainingLife;

/// A point made ready for drawing.
pub(crate) struct SampledPoint {
    key: u64,
    pub(crate) at: PointRef,
    pub(crate) name: String,
    /// Summed masses under each level: present, then each cell of the plan.
    sums: [Vec<f64>; 3],
    /// Edges of the cells.
    edges: Vec<f64>,
    pub(crate) money: PointCost,
    own: Pert,
    /// What must come off: each with its cost.
    pub(crate) access: Vec<(u64, f64)>,
    access_total: f64,
    caught: f64,
    larger: Option<(f64, f64)>,
    recovery: f64,
    /// Renewed at purchase; whether scheduled work pays for it.
    pub(crate) renewed: Option<bool>,
}

/// Something to be paid: where on the plan, of it recovery and a larger job, and to which point it belongs.
pub(crate) struct Payment {
    pub(crate) ahead: f64,
    pub(crate) amount: f64,
    pub(crate) mishap: f64,
    pub(crate) point: usize,
}

impl SampledPoint {
    pub(crate) fn new(
        context: &Context<'_>,
        scenarios: &CareScenarios,
        i: usize,
        price: f64,
        money: PointCost,
    ) -> Self {
        let view = &context.views[i];
        let (applicable_point, a) = (view.applicable_point, context.setting.assumptions);
        let buyer = &context.setting.candidate.buyer;
        let (point, family) = (applicable_point.point, applicable_point.family);
        let grid = &scenarios.remaining[0][i].grid;
        let cells: Vec<usize> = (0..grid.cells()).filter(|k| grid.in_plan(*k)).collect();
        let sums = std::array::from_fn(|l| {
            let z: &RemainingLife = &scenarios.remaining[l][i];
            let mut sum = z.present;
            let mut out = vec![sum];
            for k in &cells {
                sum += z.cells[*k];
                out.push(sum);
            }
            out
        });
        let job = family.job(&point.job);
        let access: Vec<(u64, f64)> = job.map_or_else(Vec::new, |j| {
            let rate = a.rate(buyer.labour);
            let groups = j.access.iter().filter_map(|id| family.access.iter().find(|g| &g.id == id));
            groups.map(|g| (number(&format!("{}/{}", family.id, g.id)), rate * g.hours)).collect()
        });
        let access_total: f64 = access.iter().map(|x| x.1).sum();
        let own =
            Pert::new(money.job.low - access_total, money.job.likely - access_total, money.job.high - access_total);
        let larger = point.escalation.as_ref().and_then(|e| {
            let cost = family.job(&e.job).map(|j| job_cost::cost(family, j, buyer.parts, buyer.labour, a).mean)?;
            Some((e.chance.get(), (cost.min(price) - money.job.mean).max(0.0)))
        });
        Self {
            key: number(&format!("{}/{}", family.id, point.id)),
            at: PointRef { family: family.id.clone(), point: point.id.clone() },
            name: point.name.clone(),
            edges: cells.iter().map(|k| grid.edges()[*k]).chain([grid.horizon()]).collect(),
            sums,
            own,
            access,
            access_total,
            caught: point.warning.as_ref().map_or(0.0, job_cost::caught),
            larger,
            recovery: a.recovery,
            renewed: None,
            money,
        }
    }

    /// Steps that one future takes: a draw, and as many more as it is renewed.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn steps(&self) -> usize {
        8 + 16 * (self.money.expected_renewals(1.0).max(0.0) as usize)
    }

    /// What this point costs in one future.
    pub(crate) fn sample(&self, draw: u64, level: usize, horizon: f64, point: usize, out: &mut Vec<Payment>) {
        let u = uniform(draw, self.key, 0);
        let sums = &self.sums[level];
        let (ahead, left) = match self.renewed {
            // Renewed on the day of purchase, whatever state it was in.
            Some(paid_elsewhere) => {
                if !paid_elsewhere {
                    out.push(Payment { ahead: 0.0, amount: self.job(draw, 0), mishap: 0.0, point });
                }
                (0.0, 1.0)
            }
            None if u >= sums[sums.len() - 1] => return,
            None => {
                let at = sums.partition_point(|s| *s <= u);
                let ahead = self.ahead(sums, at, u);
                let (amount, mishap) = if at == 0 { (self.job(draw, 0), 0.0) } else { self.failure(draw, 0) };
                out.push(Payment { ahead, amount, mishap, point });
                (ahead, if at == 0 { 1.0 } else { self.left(at) })
            }
        };
        // The part fitted then fails in its turn, as often as the renewal function says.
        let expected = self.money.expected_renewals(left);
        let whole = expected.floor();
        let more = u64::from(uniform(draw, self.key, 4) < expected - whole);
        #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
        for n in 1..=(whole as u64 + more) {
            let after = self.money.renewal_quantile(left, uniform(draw, self.key, 16 * n + 5)) * horizon;
            let (amount, mishap) = self.failure(draw, n);
            out.push(Payment { ahead: (ahead + after).min(horizon), amount, mishap, point });
        }
    }

    /// Usage ahead of now of a failure in a cell: as far into the cell as the luck reaches into its mass.
    fn ahead(&self, sums: &[f64], at: usize, u: f64) -> f64 {
        if at == 0 {
            return 0.0;
        }
        let (from, to) = (sums[at - 1], sums[at]);
        let within = if to > from { (u - from) / (to - from) } else { 0.5 };
        self.edges[at - 1] + (self.edges[at] - self.edges[at - 1]) * within
    }

    /// The job as it turns out, the `n`th time.
    fn job(&self, draw: u64, n: u64) -> f64 {
        self.own.at(uniform(draw, self.key, 16 * n + 1)) + self.access_total
    }

    /// A failure as it turns out, and of it what comes of not having caught it.
    fn failure(&self, draw: u64, n: u64) -> (f64, f64) {
        let mut mishap = 0.0;
        if uniform(draw, self.key, 16 * n + 2) >= self.caught {
            mishap += self.recovery;
            if let Some((chance, extra)) = self.larger {
                mishap += if uniform(draw, self.key, 16 * n + 3) < chance { extra } else { 0.0 };
            }
        }
        (self.job(draw, n) + mishap, mishap)
    }

    /// Share of the horizon left after a failure in a cell, by its middle, as the expected bill counts it.
    fn left(&self, at: usize) -> f64 {
        let middle = f64::midpoint(self.edges[at - 1], self.edges[at]);
        1.0 - middle / self.edges[self.edges.len() - 1]
    }
}
