//! The distribution of a candidate's bill: in each care scenario the points are independent once findings are weighed,
//! so that it is a product of their transforms; the scenarios are mixed by their weights.
//!
//! docs/METHOD.md, section 10.

use std::cell::RefCell;
use std::sync::{Arc, OnceLock};

use realfft::num_complex::Complex64;

use crate::base::budget::Budget;
use crate::base::memory::KeyOf;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::Context;
use crate::inference::tied::{Block, state};
use crate::money::distribution::Distribution;
use crate::money::lattice::{Lattice, Transform, multiply};
use crate::money::outcomes::{Later, Outcomes, PointAmounts, Transforms};
use crate::money::point_cost::PointCost;
use crate::money::priced_points::PricedPoints;
use crate::reliability::remaining_life::RemainingLife;

/// Standard deviations beyond the largest scenario's mean that the lattice reaches; fewer in an estimate, whose steps
/// are few.
const DEVIATIONS: i32 = 7;
const DEVIATIONS_OF_AN_ESTIMATE: i32 = 5;

/// One transform for each level of care.
type ByLevel = [Transform; 3];

/// What a choice may cost in each care scenario: its transform, mean and variance.
#[derive(Debug, Clone)]
pub(crate) struct Sum {
    transforms: ByLevel,
    moments: [(f64, f64); 3],
}

/// A point on the lattice.
struct LatticePoint {
    money: PointAmounts,
    /// Left alone, and renewed at purchase; by level of care.
    outcomes: [[Outcomes; 3]; 2],
    /// Their means and variances.
    moments: [[(f64, f64); 3]; 2],
    /// Whether it hardly deviates, and is counted at its mean.
    small: bool,
    /// Their transforms, as they are asked for.
    sums: [OnceLock<Arc<Sum>>; 2],
}

/// Points that are tied on the lattice: in each branch they are independent.
struct LatticeBlock {
    points: Vec<usize>,
    /// By level of care: each branch's chance, and what each of its points comes to then, left alone and renewed.
    branches: [Vec<(f64, Vec<[Outcomes; 2]>)>; 3],
    /// What choices for its points come to, as they are asked for.
    sums: RefCell<Vec<(Vec<bool>, Arc<Sum>)>>,
}

/// A candidate's bill on a lattice.
pub(crate) struct BillLattice<'a> {
    budget: &'a Budget<'a>,
    lattice: Lattice,
    weights: [f64; 3],
    work: [f64; 3],
    points: Vec<LatticePoint>,
    blocks: Vec<LatticeBlock>,
}

impl LatticeBlock {
    fn new(block: &Block, scenarios: &CareScenarios, priced: &PricedPoints) -> Self {
        let points: Vec<usize> = block.points().collect();
        let outcomes = |i: usize, z: &RemainingLife, level: usize| {
            let money = &priced.costs[i];
            let later = Later::new(money, &z.grid);
            [false, true].map(|renewed| Outcomes::new(money, &later, z, level, renewed))
        };
        let branch = |l: usize, b: usize| {
            let faults = block.wearers.iter().enumerate().map(|(k, w)| {
                let z = w.faults[l].life(&scenarios.remaining[l][w.point], state(b, k));
                outcomes(w.point, &z, l)
            });
            let worn = block.worn.iter().zip(&block.lives[l][b]).map(|(i, z)| outcomes(*i, z, l));
            (block.chances[l][b], faults.chain(worn).collect())
        };
        let branches = std::array::from_fn(|l| (0..block.branches()).map(|b| branch(l, b)).collect());
        Self { points, branches, sums: RefCell::default() }
    }

    fn outcomes(&self) -> impl Iterator<Item = &Outcomes> {
        self.branches.iter().flatten().flat_map(|(_, points)| points.iter().flatten())
    }

    /// What a choice for its points comes to: in each branch a product, the branches mixed.
    fn sum(&self, budget: &Budget<'_>, lattice: Lattice, all: &[LatticePoint], renewed: &[bool]) -> Sum {
        let amounts: Vec<Arc<Transforms>> =
            self.points.iter().map(|i| amounts(budget, lattice, &all[*i].money)).collect();
        let level = |branches: &Vec<(f64, Vec<[Outcomes; 2]>)>| {
            let mut sum = vec![Complex64::new(0.0, 0.0); lattice.frequencies()];
            let (mut mean, mut square) = (0.0, 0.0);
            for (chance, points) in branches.iter().filter(|b| b.0 > 0.0) {
                let chosen = |k: usize| &points[k][usize::from(renewed[k])];
                let mut product = chosen(0).transform(&amounts[0]);
                let (mut m, mut v) = chosen(0).moments(&all[self.points[0]].money);
                for k in 1..self.points.len() {
                    multiply(&mut product, &chosen(k).transform(&amounts[k]));
                    let of = chosen(k).moments(&all[self.points[k]].money);
                    (m, v) = (m + of.0, v + of.1);
                }
                sum.iter_mut().zip(&product).for_each(|(s, x)| *s += x * *chance);
                mean += chance * m;
                square += chance * (v + m * m);
            }
            (sum, (mean, (square - mean * mean).max(0.0)))
        };
        let [(a, x), (b, y), (c, z)] = self.branches.each_ref().map(level);
        Sum { transforms: [a, b, c], moments: [x, y, z] }
    }
}

impl<'a> BillLattice<'a> {
    /// Of a context with these care scenarios and prices.
    pub fn new(context: &Context<'a>, scenarios: &CareScenarios, priced: &PricedPoints) -> Self {
        let budget = context.setting.budget;
        let point = |(i, money): (usize, &PointCost)| {
            let later = Later::new(money, &scenarios.remaining[0][i].grid);
            let of = |renewed: bool| {
                std::array::from_fn(|l| Outcomes::new(money, &later, &scenarios.remaining[l][i], l, renewed))
            };
            let (outcomes, money) = ([of(false), of(true)], PointAmounts::new(money));
            let moments = outcomes.each_ref().map(|way| way.each_ref().map(|o| o.moments(&money)));
            LatticePoint { money, outcomes, moments, small: false, sums: [OnceLock::new(), OnceLock::new()] }
        };
        let costs = priced.costs.iter().enumerate().collect();
        let mut points: Vec<LatticePoint> =
            budget.in_pieces(costs, &|_, costs: Vec<_>| costs.into_iter().map(point).collect());
        mark_small(&mut points, budget.negligible(), |i| scenarios.blocks.iter().any(|b| b.points().any(|p| p == i)));
        let blocks: Vec<LatticeBlock> =
            scenarios.blocks.iter().map(|b| LatticeBlock::new(b, scenarios, priced)).collect();
        let work: [f64; 3] = std::array::from_fn(|l| priced.work.total(l));
        let coarse = budget.cells().is_some();
        let deviations = if coarse { DEVIATIONS_OF_AN_ESTIMATE } else { DEVIATIONS };
        let lattice = Lattice::reaching(reach(&points, work, deviations), coarse);
        // Out of steps: the answer is thrown away, and nothing more is computed for it.
        let apart = points.iter().flat_map(|p| p.outcomes.iter().flatten());
        let all = apart.chain(blocks.iter().flat_map(LatticeBlock::outcomes));
        if !budget.spend(all.map(|o| o.steps(lattice)).sum()) {
            points.clear();
        }
        Self { budget, lattice, weights: scenarios.weights, work, points, blocks }
    }

    /// Everything that what is read off it depends on.
    pub fn key(&self) -> KeyOf {
        let mut out = KeyOf::kind("bill");
        self.lattice.key(&mut out);
        out.figures(&self.weights);
        out.figures(&self.work);
        for p in &self.points {
            p.money.key(&mut out);
            p.outcomes.iter().flatten().for_each(|o| o.key(&mut out));
        }
        for b in &self.blocks {
            out.add(&b.points);
            b.branches.iter().flatten().for_each(|x| out.figure(x.0));
            b.outcomes().for_each(|o| o.key(&mut out));
        }
        out
    }

    /// Points on it; none where the steps did not suffice.
    pub fn points(&self) -> usize {
        self.points.len()
    }

    /// How far the amount of a point that is left alone deviates from its mean.
    pub fn deviation(&self, point: usize) -> f64 {
        spread(&self.points[point].moments[0], self.weights).1
    }

    /// How much dearer a choice for a point is on average than the other one, and how far the two differ: the standard
    /// deviation of their difference, each drawn for itself under a level of care.
    pub fn difference(&self, point: usize, renewed: bool) -> (f64, f64) {
        let [left, new] = &self.points[point].moments;
        let (one, other) = if renewed { (new, left) } else { (left, new) };
        let by_level = std::array::from_fn(|l| (one[l].0 - other[l].0, one[l].1 + other[l].1));
        spread(&by_level, self.weights)
    }

    /// Whether a point is tied to others.
    pub fn is_tied(&self, point: usize) -> bool {
        self.blocks.iter().any(|b| b.points.contains(&point))
    }

    /// Whether a point hardly deviates, and is counted at its mean.
    pub fn is_small(&self, point: usize) -> bool {
        self.points[point].small
    }

    /// Scheduled work, and the points of a choice that `counts` names.
    pub fn product(&self, renewed: &[bool], counts: impl Fn(usize) -> bool) -> Sum {
        let (small, others): (Vec<usize>, Vec<usize>) =
            (0..self.points.len()).filter(|i| counts(*i)).partition(|i| self.points[*i].small);
        let moments = std::array::from_fn(|l| {
            let each = small.iter().map(|i| self.points[*i].moments[usize::from(renewed[*i])][l]);
            each.fold((self.work[l], 0.0), |(m, v), (mean, variance)| (m + mean, v + variance))
        });
        let transforms = moments.map(|(mean, _)| self.lattice.transform(&[(mean, 1.0)]));
        let mut out = Sum { transforms, moments };
        let (points, lattice) = (&self.points, self.lattice);
        let apart = others.iter().copied().filter(|i| !self.is_tied(*i)).collect();
        self.budget.in_pieces::<_, ()>(apart, &|budget, apart: Vec<usize>| {
            for i in apart {
                points[i].sum(budget, lattice, renewed[i]);
            }
            Vec::new()
        });
        for i in others.into_iter().filter(|i| self.first_of(*i) == *i) {
            self.times(&mut out, &self.of(i, renewed));
        }
        out
    }

    /// The first point of those that a point is tied to, itself where it is tied to none.
    pub fn first_of(&self, point: usize) -> usize {
        let tied = self.blocks.iter().find(|b| b.points.contains(&point));
        tied.and_then(|b| b.points.iter().min().copied()).unwrap_or(point)
    }

    /// What a point, and those that it is tied to, may cost under a choice.
    pub fn of(&self, point: usize, renewed: &[bool]) -> Arc<Sum> {
        let Some(block) = self.blocks.iter().find(|b| b.points.contains(&point)) else {
            return Arc::clone(self.alone(point, renewed[point]));
        };
        let chosen: Vec<bool> = block.points.iter().map(|i| renewed[*i]).collect();
        if let Some((_, known)) = block.sums.borrow().iter().find(|(x, _)| *x == chosen) {
            return Arc::clone(known);
        }
        let sum = Arc::new(block.sum(self.budget, self.lattice, &self.points, &chosen));
        block.sums.borrow_mut().push((chosen, Arc::clone(&sum)));
        sum
    }

    /// Multiplies another sum in.
    pub fn times(&self, into: &mut Sum, by: &Sum) {
        for l in (0..3).filter(|l| self.weights[*l] > 0.0) {
            multiply(&mut into.transforms[l], &by.transforms[l]);
            into.moments[l].0 += by.moments[l].0;
            into.moments[l].1 += by.moments[l].1;
        }
    }

    /// The chances of a choice, the scenarios mixed.
    pub fn mixed(&self, of: &Sum) -> Distribution {
        let mut sum = vec![Complex64::new(0.0, 0.0); self.lattice.frequencies()];
        for (part, w) in of.transforms.iter().zip(self.weights).filter(|(_, w)| *w > 0.0) {
            sum.iter_mut().zip(part).for_each(|(s, x)| *s += x * w);
        }
        self.lattice.chances(sum).deviating(spread(&of.moments, self.weights).1)
    }

    /// What one point may cost under a choice, taken for itself.
    pub fn alone(&self, point: usize, renewed: bool) -> &Arc<Sum> {
        self.points[point].sum(self.budget, self.lattice, renewed)
    }
}

impl LatticePoint {
    /// What it may cost under a choice.
    fn sum(&self, budget: &Budget<'_>, lattice: Lattice, renewed: bool) -> &Arc<Sum> {
        let way = usize::from(renewed);
        self.sums[way].get_or_init(|| {
            let key = || {
                let mut out = KeyOf::kind("sum");
                lattice.key(&mut out);
                self.money.key(&mut out);
                self.outcomes[way].iter().for_each(|o| o.key(&mut out));
                out.key()
            };
            budget.remembered(
                key,
                |_: &Arc<Sum>| 3 * 16 * lattice.frequencies(),
                || {
                    let amounts = amounts(budget, lattice, &self.money);
                    let transforms = self.outcomes[way].each_ref().map(|o| o.transform(&amounts));
                    Arc::new(Sum { transforms, moments: self.moments[way] })
                },
            )
        })
    }
}

/// The transforms of a point's amounts. They change neither with the plan nor with what is found.
fn amounts(budget: &Budget<'_>, lattice: Lattice, money: &PointAmounts) -> Arc<Transforms> {
    let key = || {
        let mut out = KeyOf::kind("amounts");
        lattice.key(&mut out);
        money.key(&mut out);
        out.key()
    };
    budget.remembered_for_all(key, |t: &Arc<Transforms>| t.bytes(), || Arc::new(Transforms::new(lattice, money)))
}

/// Marks the points that deviate least, as far as their variances together come to so small a share of all; `tied`
/// names those that are none.
fn mark_small(points: &mut [LatticePoint], share: f64, tied: impl Fn(usize) -> bool) {
    let most = |p: &LatticePoint| p.moments.iter().flatten().map(|m| m.1).fold(0.0, f64::max);
    let mut by: Vec<(f64, usize)> = points.iter().enumerate().map(|(i, p)| (most(p), i)).collect();
    let mut left = share * by.iter().map(|x| x.0).sum::<f64>();
    by.sort_by(|x, y| x.0.total_cmp(&y.0).then(x.1.cmp(&y.1)));
    for (variance, i) in by {
        left -= variance;
        if left < 0.0 {
            break;
        }
        points[i].small = !tied(i);
    }
}

/// Mean and standard deviation of a mixture.
fn spread(moments: &[(f64, f64); 3], weights: [f64; 3]) -> (f64, f64) {
    let levels = || moments.iter().zip(weights);
    let mean: f64 = levels().map(|((m, _), w)| w * m).sum();
    let variance: f64 = levels().map(|((m, v), w)| w * (v + (m - mean).powi(2))).sum();
    (mean, variance.max(0.0).sqrt())
}

/// How far the lattice must reach: the mean of the dearest scenario under the dearest choices, some standard
/// deviations, and the dearest single failure.
fn reach(points: &[LatticePoint], work: [f64; 3], deviations: i32) -> f64 {
    let level = |l: usize| {
        let (mut mean, mut variance) = (work[l], 0.0);
        for p in points {
            let [left, renewed] = [0, 1].map(|way: usize| p.moments[way][l]);
            mean += left.0.max(renewed.0);
            variance += left.1.max(renewed.1);
        }
        mean + f64::from(deviations) * variance.sqrt()
    };
    let most = points.iter().map(|p| p.money.most()).fold(0.0, f64::max);
    (0..3).map(level).fold(0.0, f64::max) + most
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::base::budget::Budget;
    use crate::base::statistics::{cvar90, quantile};
    use crate::documents::assumptions::Assumptions;
    use crate::documents::failure_point::Wears;
    use crate::documents::family::Family;
    use crate::documents::words::LivedWith;
    use crate::formats::base_sheets;
    use crate::formats::documents::{read_candidate, read_family};
    use crate::inference::context::with_context;
    use crate::inference::posterior::Posterior;
    use crate::money::purchase_decision::decide_plan;
    use crate::money::simulation::drawn;

    const NAMES: [&str; 3] = ["2-harbour-office.json", "5-repainted.json", "7-kittiwake-engine.json"];

    /// Futures drawn to hold the lattice against.
    const MANY: usize = 65_536;

    fn file(path: &str) -> String {
        std::fs::read_to_string(format!("{}/../../demo/{path}", env!("CARGO_MANIFEST_DIR"))).expect("a demo file")
    }

    fn sheets() -> Vec<Family> {
        let mut families = base_sheets::sheets().expect("base sheets");
        for id in ["bk4", "ferryman", "k440", "s6", "skerry700", "tarn22"] {
            families.push(read_family(&file(&format!("families/{id}.json"))).expect("a sheet"));
        }
        families
    }

    /// Holds what the lattice tells of a candidate against many futures of it; the mean of the dearest tenth.
    fn held(name: &str, families: &[Family], tied: bool) -> f64 {
        let candidate = read_candidate(&file(&format!("candidates/{name}"))).expect("a candidate");
        with_context(&candidate, families, &Assumptions::default(), &Budget::default(), |context| {
            let mut after = Posterior::new(context).after;
            if !tied {
                after.blocks.clear();
            }
            let priced = PricedPoints::new(context, &after);
            let plan = decide_plan(context, &after, &priced);
            let all = drawn(context, &after, &priced, &plan.renewed, MANY);
            let (told, saved) = (&plan.distribution, plan.saved);
            for (what, told, drawn) in [
                ("p10", told.quantile(0.1), quantile(&all, 0.1)),
                ("p50", told.quantile(0.5), quantile(&all, 0.5)),
                ("p90", told.quantile(0.9), quantile(&all, 0.9)),
                ("cvar90", told.cvar90(), cvar90(&all)),
            ] {
                // What so many futures leave to luck, and less than a step.
                assert!((told / (drawn - saved) - 1.0).abs() < 0.008, "{name} {what}: {told} {}", drawn - saved);
            }
            assert!((told.mean() / plan.expected - 1.0).abs() < 1e-9, "{name}: {} {}", told.mean(), plan.expected);
            Ok(told.cvar90())
        })
        .expect("judged")
    }

    #[test]
    fn what_the_lattice_tells_is_what_many_futures_come_to() {
        let families = sheets();
        NAMES.iter().for_each(|name| _ = held(name, &families, true));
    }

    #[test]
    fn a_fault_and_what_it_wears_come_together() {
        let mut families = sheets();
        let engine = families.iter_mut().find(|f| f.id == "bk4").expect("a sheet");
        let shaft = engine.points.iter_mut().find(|p| p.id == "turbo-shaft").expect("a point");
        (shaft.repair_delay, shaft.lived_with) = (None, Some(LivedWith::ForYears));
        shaft.wears = ["wet-belt", "coolant-pump"].map(|p| Wears { point: p.to_owned(), times: 30.0 }).to_vec();
        let (tied, apart) = (held(NAMES[1], &families, true), held(NAMES[1], &families, false));
        assert!(tied > apart * 1.01, "what comes together comes dearer: {tied} {apart}");
    }
}
