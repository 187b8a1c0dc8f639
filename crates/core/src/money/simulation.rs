//! Simulation of the bill: a set of futures, each with a level of care, the state and remaining life of every
//! point under that level, renewals within the plan, three-point costs, and visits grouped where they lie near
//! each other.
//!
//! The same future of the same point draws the same uniforms whatever else is asked, so that what-ifs move
//! smoothly.

use crate::base::random::luck;
use crate::base::random::number;
use crate::base::statistics::cvar90;
use crate::base::statistics::quantile;
use crate::inference::care_scenarios::Worlds;
use crate::inference::context::Scene;
use crate::inference::setting::Setting;
use crate::money::bill_spread::BillSplit;
use crate::money::bill_spread::BillSpread;
use crate::money::bill_spread::DearPoint;
use crate::money::bill_spread::Exceed;
use crate::money::bill_spread::YearSpread;
use crate::money::point_cost::PointMoney;
use crate::money::purchase_plan::Doing;
use crate::money::sampled_point::Payment;
use crate::money::sampled_point::Ready;
use crate::money::schedule::Scheduled;

/// Futures drawn.
pub const DRAWS: usize = 8_192;

/// Points of the curve.
const CURVE: usize = 60;

/// The futures of a candidate: every point made ready, and what scheduled work takes.
pub(crate) struct Futures<'a> {
    setting: &'a Setting<'a>,
    weights: [f64; 3],
    pub(crate) ready: Vec<Ready>,
    work: &'a Scheduled,
}

/// Spread of the bill without its details.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Tail {
    pub mean: f64,
    pub p90: f64,
    pub cvar90: f64,
}

impl<'a> Futures<'a> {
    /// Of a scene after its findings; nothing is renewed at purchase.
    pub fn new(scene: &Scene<'a>, worlds: &Worlds, price: f64, money: &[PointMoney], work: &'a Scheduled) -> Self {
        let ready = money.iter().enumerate().map(|(i, m)| Ready::new(scene, worlds, i, price, m.clone())).collect();
        Self { setting: scene.setting, weights: worlds.weights, ready, work }
    }

    /// The level of care of each future: by equal shares, so that no luck is wasted on how often each comes.
    #[allow(clippy::cast_precision_loss)]
    fn levels(&self) -> Vec<usize> {
        let care = number("care");
        let level = |draw: u64| {
            let u = (draw as f64 + luck(draw, care, 0)) / DRAWS as f64;
            if u < self.weights[0] { 0 } else { 1 + usize::from(u >= self.weights[0] + self.weights[1]) }
        };
        (0..DRAWS as u64).map(level).collect()
    }

    /// What each point costs in each future; `tell` hears of each payment. Point by point, so that what one point
    /// needs stays at hand.
    fn play(&self, mut tell: impl FnMut(usize, &Payment)) {
        let levels = self.levels();
        let mut list = Vec::new();
        for (p, r) in self.ready.iter().enumerate() {
            for (draw, level) in levels.iter().enumerate() {
                list.clear();
                r.pay(draw as u64, *level, self.setting.horizon, p, &mut list);
                list.iter().for_each(|x| tell(draw, x));
            }
        }
    }

    /// Mean, the dearer tenth's border and its mean.
    #[allow(clippy::cast_precision_loss)]
    pub fn tail(&self) -> Tail {
        let mut totals = vec![self.work.total(); DRAWS];
        self.play(|draw, x| totals[draw] += x.amount);
        totals.sort_by(f64::total_cmp);
        let mean = totals.iter().sum::<f64>() / DRAWS as f64;
        Tail { mean, p90: quantile(&totals, 0.9), cvar90: cvar90(&totals) }
    }

    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn spread(&self, reserve: Option<f64>, expected: f64, doing: Doing) -> BillSpread {
        let (setting, ready, work) = (self.setting, &self.ready, self.work);
        let plan = setting.candidate.plan.years;
        let years = (plan.ceil() as usize).max(1);
        let year_of = |ahead: f64| ((ahead / setting.horizon * plan) as usize).min(years - 1);
        let mut fixed = vec![0.0; years];
        fixed[0] += work.now;
        for (ahead, money) in &work.ahead {
            fixed[year_of(*ahead)] += money;
        }
        let mut by_year: Vec<Vec<f64>> = fixed.iter().map(|x| vec![*x; DRAWS]).collect();
        let mut by_point: Vec<Vec<f64>> = vec![vec![0.0; DRAWS]; ready.len()];
        let mut off: Vec<Vec<(f64, usize)>> = vec![Vec::new(); DRAWS];
        let mut split = BillSplit::default();
        self.play(|draw, x| {
            let r = &ready[x.point];
            by_year[year_of(x.ahead)][draw] += x.amount;
            by_point[x.point][draw] += x.amount;
            split.mishaps += x.mishap;
            split.add(&r.money.job, x.amount - x.mishap);
            if !r.access.is_empty() {
                off[draw].push((x.ahead, x.point));
            }
        });
        let totals: Vec<f64> = (0..DRAWS).map(|d| by_year.iter().map(|y| y[d]).sum()).collect();
        let span = setting.assumptions.visit_span(setting.candidate);
        let grouped = totals.iter().sum::<f64>() - off.iter_mut().map(|v| saved(v, ready, span)).sum::<f64>();
        let n = DRAWS as f64;
        let mut split = split.each(n);
        split.parts += work.split.parts;
        split.labour += work.split.labour;
        split.access += work.split.access;
        let mean = totals.iter().sum::<f64>() / n;
        let variance = totals.iter().map(|t| (t - mean).powi(2)).sum::<f64>() / (n - 1.0);
        let mut order: Vec<usize> = (0..DRAWS).collect();
        order.sort_by(|x, y| totals[*x].total_cmp(&totals[*y]));
        let sorted: Vec<f64> = order.iter().map(|i| totals[*i]).collect();
        let above = |amount: f64| 1.0 - sorted.partition_point(|t| *t <= amount) as f64 / n;
        let end = quantile(&sorted, 0.995);
        let step = |k: usize| end * k as f64 / CURVE as f64;
        BillSpread {
            draws: DRAWS,
            mean,
            error: (variance / n).sqrt(),
            expected,
            grouped: grouped / n,
            p10: quantile(&sorted, 0.1),
            p50: quantile(&sorted, 0.5),
            p90: quantile(&sorted, 0.9),
            cvar90: cvar90(&sorted),
            exceed: (0..=CURVE).map(|k| Exceed { amount: step(k), chance: above(step(k)) }).collect(),
            years: by_year
                .into_iter()
                .map(|mut y| {
                    y.sort_by(f64::total_cmp);
                    YearSpread { mean: y.iter().sum::<f64>() / n, p90: quantile(&y, 0.9) }
                })
                .collect(),
            reserve_holds: reserve.map(|r| 1.0 - above(r)),
            dear: dear(ready, &by_point, &order[DRAWS - DRAWS / 10..]),
            split,
            doing,
        }
    }
}

/// What makes the dearest futures dear.
#[allow(clippy::cast_precision_loss)]
pub(crate) fn dear(ready: &[Ready], by_point: &[Vec<f64>], dearest: &[usize]) -> Vec<DearPoint> {
    let mut out: Vec<DearPoint> = ready
        .iter()
        .zip(by_point)
        .map(|(r, all)| {
            let there = dearest.iter().map(|i| all[*i]).sum::<f64>() / dearest.len() as f64;
            let beyond = there - all.iter().sum::<f64>() / all.len() as f64;
            DearPoint { at: r.at.clone(), name: r.name.clone(), beyond }
        })
        .filter(|d| d.beyond >= 1.0)
        .collect();
    out.sort_by(|x, y| y.beyond.total_cmp(&x.beyond));
    out.truncate(6);
    out
}

/// What is saved by doing at one visit what lies within a span of usage: each access is paid once a visit. Each
/// visit is given by its usage ahead and its point.
fn saved(visits: &mut [(f64, usize)], ready: &[Ready], span: f64) -> f64 {
    visits.sort_by(|x, y| x.0.total_cmp(&y.0));
    let mut out = 0.0;
    let mut from = 0;
    let mut off: Vec<u64> = Vec::new();
    while from < visits.len() {
        let to = from + visits[from..].partition_point(|x| x.0 <= visits[from].0 + span);
        off.clear();
        for (group, cost) in visits[from..to].iter().flat_map(|x| &ready[x.1].access) {
            if off.contains(group) {
                out += cost;
            } else {
                off.push(*group);
            }
        }
        from = to;
    }
    out
}
