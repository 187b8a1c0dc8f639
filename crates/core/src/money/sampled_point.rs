//! One failure point made ready for simulation.

use crate::base::pert::Pert;
use crate::base::random::{number, uniform};
use crate::documents::reference::PointRef;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::Context;
use crate::inference::tied::Block;
use crate::money::point_cost::PointCost;
use crate::money::purchase_decision::groups;
use crate::reliability::remaining_life::RemainingLife;

/// A point made ready for drawing.
pub(crate) struct SampledPoint {
    key: u64,
    pub(crate) at: PointRef,
    pub(crate) name: String,
    /// States under each level of care.
    levels: [States; 3],
    /// Where faults wear it: which they are, and its states in each branch of theirs.
    tied: Option<Tied>,
    /// Edges of the cells.
    edges: Vec<f64>,
    pub(crate) money: PointCost,
    /// The job, access left out, by how it may turn out.
    own: Vec<Pert>,
    /// What must come off: each with its cost.
    pub(crate) access: Vec<(u64, f64)>,
    access_total: f64,
}

/// The states of a point under one level of care.
struct States {
    /// Summed masses: present, then each cell of the plan.
    sums: Vec<f64>,
    /// Everything but what never fails.
    susceptible: f64,
    /// Of each of these, of what comes beyond the plan and of what never fails, the share whose scheduled renewal is
    /// overdue; empty where nothing is scheduled.
    overdue: Vec<f64>,
}

/// What a point that faults wear is drawn from.
struct Tied {
    block: Block,
    /// The luck of each fault, as the fault itself is drawn.
    keys: Vec<(usize, u64)>,
    /// By level of care and branch.
    states: [Vec<States>; 3],
}

impl Tied {
    fn new(context: &Context<'_>, scenarios: &CareScenarios, i: usize, cells: &[usize]) -> Option<Self> {
        let block = scenarios.blocks.iter().find(|b| b.worn.contains(&i))?;
        let own = block.worn.iter().position(|j| *j == i)?;
        let keys = block.wearers.iter().map(|w| (w.point, key(context, w.point))).collect();
        let states = block.lives.each_ref().map(|l| l.iter().map(|b| States::new(&b[own], cells)).collect());
        Some(Self { block: block.as_ref().clone(), keys, states })
    }

    /// Its states in a future.
    fn states(&self, draw: u64, level: usize) -> &States {
        let luck = |point: usize| self.keys.iter().find(|k| k.0 == point).map_or(1.0, |k| uniform(draw, k.1, 0));
        &self.states[level][self.block.branch(level, luck)]
    }
}

/// The number that a point's luck is drawn by.
fn key(context: &Context<'_>, point: usize) -> u64 {
    let s = &context.applicable_points[point];
    number(&format!("{}/{}", s.family.id, s.point.id))
}

impl States {
    fn new(z: &RemainingLife, cells: &[usize]) -> Self {
        let mut sum = z.present;
        let mut sums = vec![sum];
        for k in cells {
            sum += z.cells[*k];
            sums.push(sum);
        }
        let overdue = z.overdue.as_ref().map_or_else(Vec::new, |o| {
            // Beyond the plan: the cells there and the tail, by their masses.
            let beyond = (cells.len()..z.cells.len()).map(|k| (z.cells[k], o.cells[k])).chain([(z.tail, o.tail)]);
            let (all, late) = beyond.fold((0.0, 0.0), |(all, late), (m, share)| (all + m, late + m * share));
            let beyond = if all > 0.0 { late / all } else { 0.0 };
            let within = cells.iter().map(|k| o.cells[*k]);
            std::iter::once(o.present).chain(within).chain([beyond, o.immune]).collect()
        });
        Self { sums, susceptible: 1.0 - z.immune, overdue }
    }
}

/// Something to be paid: where on the plan, of it recovery and a larger job, and to which point it belongs.
pub(crate) struct Payment {
    pub(crate) ahead: f64,
    pub(crate) amount: f64,
    pub(crate) mishap: f64,
    pub(crate) point: usize,
}

/// One future of one point.
#[derive(Clone, Copy)]
pub(crate) struct Future {
    pub draw: u64,
    pub level: usize,
    /// Usage to the end of the plan.
    pub horizon: f64,
    /// Which point.
    pub point: usize,
    /// Whether it is renewed at purchase.
    pub renewed: bool,
}

impl SampledPoint {
    pub(crate) fn new(context: &Context<'_>, scenarios: &CareScenarios, i: usize, money: PointCost) -> Self {
        let view = &context.views[i];
        let (applicable_point, a) = (view.applicable_point, context.setting.assumptions);
        let buyer = &context.setting.candidate.buyer;
        let (point, family) = (applicable_point.point, applicable_point.family);
        let grid = &scenarios.remaining[0][i].grid;
        let cells: Vec<usize> = (0..grid.cells()).filter(|k| grid.in_plan(*k)).collect();
        let off = groups(family, &money, a.rate(buyer.labour));
        let access: Vec<(u64, f64)> = off
            .iter()
            .map(|g| (number(&format!("{}/{}{}", family.id, if g.whole { "job/" } else { "" }, g.id)), g.cost))
            .collect();
        let access_total: f64 = access.iter().map(|x| x.1).sum();
        let own = money.turns.iter().map(|t| {
            let less = |x: f64| x - access_total;
            Pert::new(less(t.cost.low), less(t.cost.likely), less(t.cost.high))
        });
        let own = own.collect();
        Self {
            key: key(context, i),
            at: PointRef { family: family.id.clone(), point: point.id.clone() },
            name: point.name.clone(),
            levels: std::array::from_fn(|l| States::new(&scenarios.remaining[l][i], &cells)),
            tied: Tied::new(context, scenarios, i, &cells),
            edges: cells.iter().map(|k| grid.edges()[*k]).chain([grid.horizon()]).collect(),
            own,
            access,
            access_total,
            money,
        }
    }

    /// Steps that one future takes: a draw, and as many more as it is renewed.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn steps(&self) -> usize {
        8 + 16 * (self.money.expected_renewals(1.0).max(0.0) as usize)
    }

    /// What this point costs in one future.
    pub(crate) fn sample(&self, f: Future, out: &mut Vec<Payment>) {
        let Future { draw, level, horizon, point, renewed } = f;
        let u = uniform(draw, self.key, 0);
        let States { sums, susceptible, overdue } =
            self.tied.as_ref().map_or(&self.levels[level], |t| t.states(draw, level));
        // 0: there now; then each cell; one more: beyond the plan; another: never.
        let at = if u >= *susceptible { sums.len() + 1 } else { sums.partition_point(|s| *s <= u) };
        let never = at == sums.len() + 1;
        let late = !overdue.is_empty() && uniform(draw, self.key, 6) < overdue[at];
        let paid = |ahead: f64, (amount, mishap): (f64, f64)| Payment { ahead, amount, mishap, point };
        // Where the cycle begins that is fitted within the plan, as a share of the horizon.
        let fitted = if late {
            Some(0.0).filter(|_| !never)
        } else if renewed {
            let done = if at == 0 { self.done(draw) } else { 0.0 };
            let job = if at == 0 { self.own_job(draw, 0.0) } else { self.job(draw, 0) };
            out.push(paid(0.0, (job + done, done)));
            Some(0.0).filter(|_| !never)
        } else if at == 0 {
            let ((_, mishap), done) = (self.failure(draw, 0), self.done(draw));
            let amount = self.own_job(draw, 0.0) + mishap;
            out.push(paid(0.0, (amount + done, mishap + done)));
            Some(0.0)
        } else if never {
            None
        } else {
            let work = self.first_due(draw, level);
            let fails = (at < sums.len()).then(|| 1.0 - self.left(at));
            match (fails, work) {
                (Some(y), Some(r)) if r <= y => Some(r),
                (Some(y), _) => {
                    let mishap = self.failure(draw, 0).1;
                    out.push(paid(self.ahead(sums, at, u), (self.own_job(draw, y) + mishap, mishap)));
                    Some(y)
                }
                (None, work) => work,
            }
        };
        if let Some(from) = fitted {
            self.fail_again(f, from, horizon, out);
        }
    }

    /// The part fitted fails in its turn, as often as the renewal function says.
    fn fail_again(&self, f: Future, from: f64, horizon: f64, out: &mut Vec<Payment>) {
        let (draw, left) = (f.draw, 1.0 - from);
        let expected = self.money.expected_renewals(left);
        let whole = expected.floor();
        let more = u64::from(uniform(draw, self.key, 4) < expected - whole);
        #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
        for n in 1..=(whole as u64 + more) {
            let after = self.money.renewal_quantile(left, uniform(draw, self.key, 16 * n + 5));
            let (amount, mishap) = self.failure(draw, n);
            out.push(Payment { ahead: (from + after).min(1.0) * horizon, amount, mishap, point: f.point });
        }
    }

    /// When paid work renews it within the plan, as a share of the horizon, where it is not overdue.
    fn first_due(&self, draw: u64, level: usize) -> Option<f64> {
        let due = &self.money.first_due[level];
        if due.is_empty() {
            return None;
        }
        let mut u = uniform(draw, self.key, 7);
        for (at, weight) in due {
            u -= weight;
            if u < 0.0 {
                return Some(*at);
            }
        }
        None
    }

    /// Usage ahead of now of a failure in a cell: as far into the cell as the luck reaches into its mass.
    fn ahead(&self, sums: &[f64], at: usize, u: f64) -> f64 {
        let (from, to) = (sums[at - 1], sums[at]);
        let within = if to > from { (u - from) / (to - from) } else { 0.5 };
        self.edges[at - 1] + (self.edges[at] - self.edges[at - 1]) * within
    }

    /// The job as it turns out, the `n`th time.
    fn job(&self, draw: u64, n: u64) -> f64 {
        let turn = uniform(draw, self.key, 16 * n + 8);
        let mut reached = 0.0;
        let at = self.money.turns.iter().position(|t| {
            reached += t.chance;
            turn < reached
        });
        let own = &self.own[at.unwrap_or(self.own.len() - 1)];
        own.at(uniform(draw, self.key, 16 * n + 1)) + self.access_total
    }

    /// The job of the first failure as it turns out, at a share of the plan: nothing where somebody else pays.
    fn own_job(&self, draw: u64, at: f64) -> f64 {
        let paid = self.money.paid(at);
        if paid > 0.0 && uniform(draw, self.key, 32) < paid { 0.0 } else { self.job(draw, 0) }
    }

    /// A failure as it turns out, and of it what comes of not having caught it.
    fn failure(&self, draw: u64, n: u64) -> (f64, f64) {
        let mut mishap = 0.0;
        if uniform(draw, self.key, 16 * n + 2) >= self.money.caught {
            mishap += self.money.recovery;
            for ((chance, extra), luck) in self.money.beyond.iter().zip([3, 9, 10, 11, 12, 13, 14]) {
                mishap += if uniform(draw, self.key, 16 * n + luck) < *chance { *extra } else { 0.0 };
            }
        }
        (self.job(draw, n) + mishap, mishap)
    }

    /// What a fault that is there has done already, as it turns out.
    fn done(&self, draw: u64) -> f64 {
        let (at, mut passed) = (uniform(draw, self.key, 15), 0.0);
        let turn = self.money.done.iter().find(|(chance, _)| {
            passed += chance;
            at < passed
        });
        turn.map_or(0.0, |(_, amount)| *amount)
    }

    /// Share of the horizon left after a failure in a cell, by its middle, as the expected bill counts it.
    fn left(&self, at: usize) -> f64 {
        let middle = f64::midpoint(self.edges[at - 1], self.edges[at]);
        1.0 - middle / self.edges[self.edges.len() - 1]
    }
}
