//! Simulation of the bill: a set of futures, each with a level of care, the state and remaining life of every
//! point under that level, renewals within the plan, three-point costs, and visits grouped where they lie near
//! each other.
//!
//! What needs order in time is drawn: years, visits, and what the dearest futures have in common. How far the bill goes
//! is worked out without drawing, in `bill_lattice.rs`.
//!
//! The same future of the same point draws the same uniforms whatever else is asked, so that what-ifs move
//! smoothly.
//!
//! docs/METHOD.md, section 10.

use crate::base::random::{number, uniform};
use crate::base::statistics::quantile;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::Context;
use crate::inference::setting::Setting;
use crate::money::bill_spread::{BillSplit, BillSpread, DearPoint, Exceed, YearSpread};
use crate::money::priced_points::PricedPoints;
use crate::money::purchase_plan::DecidedPlan;
use crate::money::sampled_point::{Future, Payment, SampledPoint};
use crate::money::schedule::Scheduled;

/// Futures drawn.
pub const DRAWS: usize = 2_048;

/// Points of the curve.
const CURVE: usize = 60;

/// The futures of a candidate: every point made ready, and what scheduled work takes.
pub(crate) struct BillSimulation<'a> {
    setting: &'a Setting<'a>,
    weights: [f64; 3],
    sampled: Vec<SampledPoint>,
    work: &'a Scheduled,
    /// The level of care of each future.
    levels: Vec<usize>,
}

/// The futures in their order, from the cheapest.
#[cfg(test)]
pub(crate) fn drawn(
    context: &Context<'_>,
    scenarios: &CareScenarios,
    priced: &PricedPoints,
    renewed: &[bool],
    futures: usize,
) -> Vec<f64> {
    let mut simulation = BillSimulation::new(context, scenarios, priced);
    simulation.levels = simulation.levels(futures);
    let tally = simulation.tally(renewed);
    let mut totals: Vec<f64> = (0..futures).map(|d| tally.by_year.iter().map(|y| y[d]).sum()).collect();
    totals.sort_by(f64::total_cmp);
    totals
}

impl<'a> BillSimulation<'a> {
    /// Of a context with these care scenarios and prices.
    pub fn new(context: &Context<'a>, scenarios: &CareScenarios, priced: &'a PricedPoints) -> Self {
        let costs = priced.costs.iter().enumerate();
        let sampled = costs.map(|(i, c)| SampledPoint::new(context, scenarios, i, c.clone())).collect();
        let mut simulation = Self {
            setting: context.setting,
            weights: scenarios.weights,
            sampled,
            work: &priced.work,
            levels: Vec::new(),
        };
        simulation.levels = simulation.levels(DRAWS);
        simulation
    }

    /// The level of care of each future: by equal shares, so that no luck is wasted on how often each comes.
    #[allow(clippy::cast_precision_loss)]
    fn levels(&self, futures: usize) -> Vec<usize> {
        let care = number("care");
        let level = |draw: u64| {
            let u = (draw as f64 + uniform(draw, care, 0)) / futures as f64;
            if u < self.weights[0] { 0 } else { 1 + usize::from(u >= self.weights[0] + self.weights[1]) }
        };
        (0..futures as u64).map(level).collect()
    }

    /// What a point costs in each future; `tell` hears of each payment.
    fn each(&self, point: usize, renewed: bool, mut tell: impl FnMut(usize, &Payment)) {
        let sampled = &self.sampled[point];
        if !self.setting.budget.spend(self.levels.len() * sampled.steps()) {
            return;
        }
        let mut list = Vec::new();
        for (draw, level) in self.levels.iter().enumerate() {
            list.clear();
            let future = Future { draw: draw as u64, level: *level, horizon: self.setting.horizon, point, renewed };
            sampled.sample(future, &mut list);
            list.iter().for_each(|x| tell(draw, x));
        }
    }

    /// Years of the plan, the last begun counted.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    fn years(&self) -> usize {
        (self.setting.candidate.plan.years.ceil() as usize).max(1)
    }

    /// The year of the plan that a usage ahead of now falls in, from 0.
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    fn year_of(&self, ahead: f64) -> usize {
        let years = self.setting.candidate.plan.years;
        ((ahead / self.setting.horizon * years) as usize).min(self.years() - 1)
    }

    /// Everything paid in every future.
    #[allow(clippy::cast_precision_loss)]
    fn tally(&self, renewed: &[bool]) -> Tally {
        let years = self.years();
        let mut fixed = vec![[0.0; 3]; years];
        fixed[0] = self.work.now;
        for (ahead, money) in &self.work.ahead {
            let year = &mut fixed[self.year_of(*ahead)];
            (0..3).for_each(|l| year[l] += money[l]);
        }
        let mut out = Tally {
            by_year: fixed.iter().map(|x| self.levels.iter().map(|l| x[*l]).collect()).collect(),
            by_point: vec![vec![0.0; self.levels.len()]; self.sampled.len()],
            visits: vec![Vec::new(); self.levels.len()],
            split: BillSplit::default(),
        };
        for (i, point) in self.sampled.iter().enumerate() {
            self.each(i, renewed[i], |draw, x| {
                out.by_year[self.year_of(x.ahead)][draw] += x.amount;
                out.by_point[i][draw] += x.amount;
                out.split.mishaps += x.mishap;
                out.split.add(&point.money.job, x.amount - x.mishap);
                if !point.access.is_empty() {
                    out.visits[draw].push((x.ahead, x.point));
                }
            });
        }
        out.split = out.split.each(self.levels.len() as f64);
        for l in 0..3 {
            let drawn = self.levels.iter().filter(|x| **x == l).count();
            let (split, w) = (&self.work.split[l], drawn as f64 / self.levels.len() as f64);
            out.split.parts += w * split.parts;
            out.split.labour += w * split.labour;
            out.split.access += w * split.access;
        }
        out
    }

    /// The bill as it may turn out; `expected` is the bill worked out without drawing.
    #[allow(clippy::cast_precision_loss)]
    pub(crate) fn spread(&self, reserve: Option<f64>, plan: DecidedPlan) -> BillSpread {
        let mut tally = self.tally(&plan.renewed);
        let n = DRAWS as f64;
        // What is saved at purchase is saved in every future.
        tally.by_year[0].iter_mut().for_each(|x| *x -= plan.saved);
        tally.split.save(plan.saved);
        let totals: Vec<f64> = (0..DRAWS).map(|d| tally.by_year.iter().map(|y| y[d]).sum()).collect();
        let span = self.setting.assumptions.visit_span(self.setting.candidate);
        let saved: f64 = tally.visits.iter_mut().map(|v| saved(v, &self.sampled, span)).sum();
        let mean = totals.iter().sum::<f64>() / n;
        let variance = totals.iter().map(|t| (t - mean).powi(2)).sum::<f64>() / (n - 1.0);
        let mut order: Vec<usize> = (0..DRAWS).collect();
        order.sort_by(|x, y| totals[*x].total_cmp(&totals[*y]));
        let bill = &plan.distribution;
        let end = bill.quantile(0.995);
        let step = |k: usize| end * k as f64 / CURVE as f64;
        BillSpread {
            draws: DRAWS,
            mean,
            error: (variance / n).sqrt(),
            expected: plan.expected,
            // What is saved on the day of purchase is taken off already.
            grouped: mean - (saved / n - plan.saved).max(0.0),
            p10: bill.quantile(0.1),
            p50: bill.quantile(0.5),
            p90: bill.quantile(0.9),
            cvar90: bill.cvar90(),
            exceed: (0..=CURVE).map(|k| Exceed { amount: step(k), chance: bill.above(step(k)) }).collect(),
            years: tally.by_year.into_iter().map(year_spread).collect(),
            reserve_holds: reserve.map(|r| 1.0 - bill.above(r)),
            dear: dear(&self.sampled, &tally.by_point, &order[DRAWS - DRAWS / 10..]),
            split: tally.split,
            purchase_plan: plan.told,
        }
    }
}

/// What is paid in every future.
struct Tally {
    by_year: Vec<Vec<f64>>,
    by_point: Vec<Vec<f64>>,
    /// For each future: usage ahead and point of every visit for which something must come off.
    visits: Vec<Vec<(f64, usize)>>,
    split: BillSplit,
}

/// A year of the plan from what is paid in it in each future.
#[allow(clippy::cast_precision_loss)]
fn year_spread(mut futures: Vec<f64>) -> YearSpread {
    futures.sort_by(f64::total_cmp);
    YearSpread { mean: futures.iter().sum::<f64>() / futures.len() as f64, p90: quantile(&futures, 0.9) }
}

/// What makes the dearest futures dear.
#[allow(clippy::cast_precision_loss)]
fn dear(sampled: &[SampledPoint], by_point: &[Vec<f64>], dearest: &[usize]) -> Vec<DearPoint> {
    let mut out: Vec<DearPoint> = sampled
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
fn saved(visits: &mut [(f64, usize)], sampled: &[SampledPoint], span: f64) -> f64 {
    visits.sort_by(|x, y| x.0.total_cmp(&y.0));
    let mut out = 0.0;
    let mut from = 0;
    let mut off: Vec<u64> = Vec::new();
    while from < visits.len() {
        let to = from + visits[from..].partition_point(|x| x.0 <= visits[from].0 + span);
        off.clear();
        for (group, cost) in visits[from..to].iter().flat_map(|x| &sampled[x.1].access) {
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::base::budget::Budget;
    use crate::documents::assumptions::Assumptions;
    use crate::documents::candidate::Candidate;
    use crate::documents::family::Family;
    use crate::inference::context::with_context;
    use crate::inference::posterior::Posterior;
    use serde_json::{Value, json};

    fn point(id: &str) -> Value {
        json!({"id": id, "name": id, "system": "engine", "shows": "x", "mechanism": "wear", "repair_delay": 2000,
            "life": [{"source": "a", "says": {"form": "about", "at": 100_000}}], "job": id})
    }

    fn job(id: &str, cost: f64) -> Value {
        json!({"id": id, "name": id, "parts": {"equivalent": {"low": cost, "likely": cost * 1.5, "high": cost * 3.0}}})
    }

    /// What each future pays for the point "belt".
    fn belt(points: Value, jobs: Value, usage_a_year: u32) -> Vec<f64> {
        let family: Family = serde_json::from_value(json!({"format": "ticksage-family/2", "id": "t", "version": 1,
            "name": "T", "kind": "engine", "clock": "km", "currency": "HSC", "sources": [{"id": "a", "name": "A"}],
            "points": points, "jobs": jobs}))
        .expect("a sheet");
        let candidate: Candidate = serde_json::from_value(json!({"format": "ticksage-candidate/2", "title": "T",
            "families": [{"id": "t", "version": 1}], "as_of": "2026-06-01", "built": "2020-06-01", "asking": 8000,
            "usage": {"value": 80_000, "unit": "km"}, "currency": "HSC",
            "plan": {"years": 3, "usage_a_year": {"value": usage_a_year, "unit": "km"}}}))
        .expect("a candidate");
        with_context(&candidate, &[family], &Assumptions::default(), &Budget::default(), |context| {
            let scenarios = Posterior::new(context).after;
            let priced = PricedPoints::new(context, &scenarios);
            let at = context.applicable_points.iter().position(|p| p.point.id == "belt").expect("the belt");
            Ok(BillSimulation::new(context, &scenarios, &priced)
                .tally(&vec![false; context.views.len()])
                .by_point
                .swap_remove(at))
        })
        .expect("judged")
    }

    #[test]
    fn what_a_future_draws_for_a_point_depends_on_nothing_but_the_two() {
        let alone = belt(json!([point("belt")]), json!([job("belt", 100.0)]), 15_000);
        let among = belt(
            json!([point("pump"), point("belt"), point("fan")]),
            json!([job("belt", 100.0), job("pump", 900.0), job("fan", 40.0)]),
            15_000,
        );
        assert!(alone.iter().any(|x| *x > 0.0) && alone.contains(&0.0));
        assert_eq!(alone, among);
        // Twice the price is twice the money in the very same futures.
        let dear = belt(json!([point("belt")]), json!([job("belt", 200.0)]), 15_000);
        assert!(alone.iter().zip(&dear).all(|(x, y)| (*x > 0.0) == (*y > 0.0)));
        assert_ne!(alone, belt(json!([point("belt")]), json!([job("belt", 100.0)]), 30_000));
    }
}
