//! Method §10: the bill as it may turn out. A set of futures, each with a level of care, the state and
//! remaining life of every point from its posterior under that level, renewals within the plan, three-point
//! costs, and visits grouped where they lie near each other.
//!
//! Luck is counted, not drawn in turn: the same future of the same point has the same luck whatever else is
//! asked, so that what-ifs move smoothly.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::{AssessError, PointMoney, Priced};
use crate::assumptions::Assumptions;
use crate::candidate::{Candidate, PointRef};
use crate::doing::{self, Doing};
use crate::family::Family;
use crate::future::{FutureGrid, Zones};
use crate::jobs::{self, JobCost, Pert};
use crate::lattice::Parts;
use crate::scene::{Scene, with_scene};
use crate::schedule::{self, Scheduled};
use crate::subject::{Counted, Setting};
use crate::value;
use crate::worlds::Worlds;

/// Futures drawn.
pub const DRAWS: usize = 8_192;
/// Points of the curve.
const CURVE: usize = 60;
/// Seed of all luck.
const SEED: u64 = 0x7469_636b_7361_6765;

/// The bill as it may turn out, units of the currency.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BillSpread {
    /// Futures drawn.
    pub draws: usize,
    /// Mean of the futures, each visit paid alone.
    pub mean: f64,
    /// Its standard error.
    pub error: f64,
    /// The expected bill worked out without drawing: the two agree within four standard errors.
    pub expected: f64,
    /// Mean with visits grouped.
    pub grouped: f64,
    /// One future in ten is cheaper.
    pub p10: f64,
    /// The middle one.
    pub p50: f64,
    /// One in ten is dearer.
    pub p90: f64,
    /// Mean of the dearest tenth.
    pub cvar90: f64,
    /// Chance that the bill exceeds an amount, from 0 to where hardly any does.
    pub exceed: Vec<Exceed>,
    /// By year of the plan.
    pub years: Vec<YearSpread>,
    /// Chance that the reserve asked about is enough.
    pub reserve_holds: Option<f64>,
    /// What makes the dearest tenth dear: mean money of each point there beyond its mean, the most first.
    pub dear: Vec<DearPoint>,
    /// What the mean is made of.
    pub split: BillSplit,
    /// What is done at purchase, what later, and what together, as the chosen school has it.
    pub doing: Doing,
}

/// What the mean bill is made of; the four add up to it.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct BillSplit {
    /// Parts and sundries.
    pub parts: f64,
    /// Hours of the jobs themselves.
    pub labour: f64,
    /// Hours to get at them.
    pub access: f64,
    /// Recovery, and larger jobs that come of a failure on the road.
    pub mishaps: f64,
}

impl BillSplit {
    fn add(&mut self, job: &JobCost, amount: f64) {
        let own = job.parts + job.labour;
        let access = job.access.min(amount);
        let parts = if own > 0.0 { job.parts / own } else { 0.0 };
        self.access += access;
        self.parts += (amount - access) * parts;
        self.labour += (amount - access) * (1.0 - parts);
    }

    fn each(self, n: f64) -> Self {
        let Self { parts, labour, access, mishaps } = self;
        Self { parts: parts / n, labour: labour / n, access: access / n, mishaps: mishaps / n }
    }
}

/// A point of the exceedance curve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Exceed {
    /// Amount.
    pub amount: f64,
    /// Chance that the bill is above it.
    pub chance: f64,
}

/// A year of the plan.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct YearSpread {
    /// Mean.
    pub mean: f64,
    /// One future in ten is dearer in that year.
    pub p90: f64,
}

/// A point in the dearest tenth of futures.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct DearPoint {
    /// Which.
    pub at: PointRef,
    /// Its name.
    pub name: String,
    /// Its mean money there beyond its mean over all.
    pub beyond: f64,
}

/// A figure between 0 and 1, the same for the same future, thing and purpose (a counter-based generator:
/// the finaliser of SplitMix64, Steele et al. 2014).
#[must_use]
#[allow(clippy::cast_precision_loss)]
pub fn luck(draw: u64, thing: u64, purpose: u64) -> f64 {
    let mut z = SEED
        .wrapping_add(draw.wrapping_mul(0x9e37_79b9_7f4a_7c15))
        .wrapping_add(thing.wrapping_mul(0xd1b5_4a32_d192_ed03))
        .wrapping_add(purpose.wrapping_mul(0x8cb9_2ba7_2f3d_8dd7));
    for _ in 0..2 {
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^= z >> 31;
    }
    ((z >> 11) as f64 + 0.5) / (1u64 << 53) as f64
}

/// A number for a name (FNV-1a).
fn number(name: &str) -> u64 {
    name.bytes().fold(0xcbf2_9ce4_8422_2325, |h, b| (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3))
}

/// Mean of the dearest tenth of sorted figures (Rockafellar & Uryasev 2000): the figure on the border
/// counts with the part of it that belongs there.
#[must_use]
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub fn cvar90(sorted: &[f64]) -> f64 {
    let tenth = sorted.len() as f64 * 0.1;
    let whole = tenth.floor() as usize;
    let top: f64 = sorted.iter().rev().take(whole).sum();
    let rest = sorted.iter().rev().nth(whole).map_or(0.0, |x| x * (tenth - whole as f64));
    (top + rest) / tenth
}

/// A quantile of sorted figures: the least that at least `p` of them do not exceed.
#[must_use]
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub fn quantile(sorted: &[f64], p: f64) -> f64 {
    let at = (p * sorted.len() as f64).ceil().max(1.0) as usize;
    sorted[(at - 1).min(sorted.len() - 1)]
}

/// A point made ready for drawing.
struct Ready {
    key: u64,
    at: PointRef,
    name: String,
    /// Summed masses under each level: present, then each cell of the plan.
    sums: [Vec<f64>; 3],
    /// Edges of the cells.
    edges: Vec<f64>,
    money: PointMoney,
    own: Pert,
    /// What must come off: each with its cost.
    access: Vec<(u64, f64)>,
    access_total: f64,
    caught: f64,
    larger: Option<(f64, f64)>,
    recovery: f64,
    /// Renewed at purchase; whether scheduled work pays for it.
    renewed: Option<bool>,
}

/// Something to be paid: where on the plan, of it recovery and a larger job, and to which point it belongs.
struct Payment {
    ahead: f64,
    amount: f64,
    mishap: f64,
    point: usize,
}

impl Ready {
    fn new(scene: &Scene<'_>, worlds: &Worlds, i: usize, price: f64, money: PointMoney) -> Self {
        let view = &scene.views[i];
        let (subject, a) = (view.subject, scene.setting.assumptions);
        let buyer = &scene.setting.candidate.buyer;
        let (point, family) = (subject.point, subject.family);
        let grid = &worlds.zones[0][i].grid;
        let cells: Vec<usize> = (0..grid.cells()).filter(|k| grid.in_plan(*k)).collect();
        let sums = std::array::from_fn(|l| {
            let z: &Zones = &worlds.zones[l][i];
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
            let cost = family.job(&e.job).map(|j| jobs::cost(family, j, buyer.parts, buyer.labour, a).mean)?;
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
            caught: point.warning.as_ref().map_or(0.0, jobs::caught),
            larger,
            recovery: a.recovery,
            renewed: None,
            money,
        }
    }

    /// What this point costs in one future.
    fn pay(&self, draw: u64, level: usize, horizon: f64, point: usize, out: &mut Vec<Payment>) {
        let u = luck(draw, self.key, 0);
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
        let expected = self.money.later(left);
        let whole = expected.floor();
        let more = u64::from(luck(draw, self.key, 4) < expected - whole);
        #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
        for n in 1..=(whole as u64 + more) {
            let after = self.money.later_at(left, luck(draw, self.key, 16 * n + 5)) * horizon;
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
        self.own.at(luck(draw, self.key, 16 * n + 1)) + self.access_total
    }

    /// A failure as it turns out, and of it what comes of not having caught it.
    fn failure(&self, draw: u64, n: u64) -> (f64, f64) {
        let mut mishap = 0.0;
        if luck(draw, self.key, 16 * n + 2) >= self.caught {
            mishap += self.recovery;
            if let Some((chance, extra)) = self.larger {
                mishap += if luck(draw, self.key, 16 * n + 3) < chance { extra } else { 0.0 };
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

/// The bill as it may turn out under the school of doing that the buyer chose; `reserve` asks how often an
/// amount is enough.
///
/// # Errors
/// As [`crate::assess()`].
pub fn spread(
    candidate: &Candidate,
    families: &[Family],
    reserve: Option<f64>,
    a: &Assumptions,
) -> Result<BillSpread, AssessError> {
    with_scene(candidate, families, a, |scene| {
        let setting = scene.setting;
        let all: Vec<[Zones; 3]> = scene
            .views
            .iter()
            .map(|v| {
                let grid = FutureGrid::full(setting.horizon, &v.subject.leads);
                setting.worlds(v, &mut Parts::default(), &grid, Counted::ALL, false).0
            })
            .collect();
        let worlds = Worlds::before(&all, scene.prior).found(scene.answers, setting.assumptions.joint_states);
        let price = value::reference(setting.candidate).price;
        let (due, work) = schedule::due(setting, scene.families, setting.assumptions);
        let money: Vec<PointMoney> =
            scene.views.iter().map(|v| PointMoney::new(setting, v.subject, v.curves, price)).collect();
        let mut futures = Futures::new(scene, &worlds, price, &money, &work);
        let priced: Vec<Priced> = money.iter().enumerate().map(|(i, m)| Priced::new(&worlds, i, m)).collect();
        let doing = doing::doing(scene, &worlds, &money, &priced, &due, work.total());
        for (r, p) in futures.ready.iter_mut().zip(&doing.renewed) {
            r.renewed = *p;
        }
        let expected = doing.expected;
        Ok(futures.spread(reserve, expected, doing.told))
    })
}

/// The futures of a candidate: every point made ready, and what scheduled work takes.
pub(crate) struct Futures<'a> {
    setting: &'a Setting<'a>,
    weights: [f64; 3],
    ready: Vec<Ready>,
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
    fn spread(&self, reserve: Option<f64>, expected: f64, doing: Doing) -> BillSpread {
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
fn dear(ready: &[Ready], by_point: &[Vec<f64>], dearest: &[usize]) -> Vec<DearPoint> {
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
