//! What a list shows of an advert: a judgement without its words.

use crate::assess::judge::references;
use crate::base::budget::Budget;
use crate::base::memory::KeyOf;
use crate::decision::grade::{Grade, Graded};
use crate::decision::limit_price::{LimitPrice, limit_price};
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::evidence::odometer;
use crate::inference::context::{AssessError, Context, with_bare_context};
use crate::inference::islands;
use crate::inference::posterior::{Posterior, empty_parts};
use crate::money::expected_bill::Beyond;
use crate::money::point_cost::reference_scenarios;
use crate::money::priced_points::PricedPoints;
use crate::money::purchase_decision::{decide_followed, decide_mean, decide_reference};
use crate::money::reference_price::reference;
use crate::reliability::care;

/// One point of an estimate.
#[derive(Debug, Clone, PartialEq)]
pub struct PointEstimate {
    /// Its id in its sheet.
    pub id: String,
    /// Its name.
    pub name: String,
    /// Whether it is known to concern this one.
    pub concerns: bool,
    /// Whether it ends the engine.
    pub ends_engine: bool,
    /// What it is expected to cost within the plan.
    pub expected_cost: f64,
    /// Chance by the end of the plan.
    pub p_plan: f64,
    /// What its worst branch costs.
    pub worst_cost: f64,
    /// What its job costs alone, expected.
    pub job: f64,
    /// Its grade.
    pub grade: Grade,
}

/// What a judgement comes to, without what a list does not show. Money in units of the currency, within the plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Estimate {
    /// Expected bill.
    pub mean: f64,
    /// Of that, scheduled work.
    pub scheduled: f64,
    /// Bill that is passed in one of ten futures.
    pub p90: f64,
    /// Expected bill beyond the reference example's.
    pub excess: f64,
    /// How far the mean of the dearest tenth lies above the mean.
    pub tail_excess: f64,
    /// The same of the reference example.
    pub reference_tail_excess: f64,
    /// The points, in the sheets' order.
    pub points: Vec<PointEstimate>,
    /// Facts that are not known and decide about points, those of the costliest first.
    pub open: Vec<String>,
}

/// Estimates a candidate; its figures are those of [`crate::assess::judge::assess_within`] on the same grid.
///
/// # Errors
/// As [`crate::assess()`].
pub fn estimate(
    candidate: &Candidate,
    families: &[Family],
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<Estimate, AssessError> {
    with_bare_context(candidate, families, a, budget, |context| Ok(estimated(context)))
}

/// What a candidate of which nothing is known costs within the plan, and nothing else of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Costs {
    /// Expected bill.
    pub mean: f64,
    /// Of that, scheduled work.
    pub scheduled: f64,
    /// The points, in the sheets' order.
    pub points: Vec<PointEstimate>,
}

/// What a candidate of which nothing is known costs; kept for who asks again on the same sheets.
///
/// # Errors
/// As [`estimate`].
pub fn costs(
    candidate: &Candidate,
    families: &[Family],
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<Costs, AssessError> {
    let key = || {
        let mut out = KeyOf::kind("costs");
        // What is said of a document is said by its text.
        for text in [serde_json::to_string(candidate), serde_json::to_string(families), serde_json::to_string(a)] {
            out.add(&text.unwrap_or_default());
        }
        out.add(&budget.cells());
        out.key()
    };
    let bytes = |made: &Result<Costs, AssessError>| made.as_ref().map_or(0, |e| 200 * e.points.len());
    budget.remembered(key, bytes, || {
        with_bare_context(candidate, families, a, budget, |context| {
            let posterior = Posterior::traced(context, &mut empty_parts(context), false);
            let priced = PricedPoints::new(context, &posterior.after);
            let (mean, renewed) = decide_mean(context, &posterior.after, &priced);
            let scheduled = priced.work.mean(&posterior.after.weights);
            Ok(Costs { mean, scheduled, points: points(context, &posterior, &priced, &renewed) })
        })
    })
}

/// What each point comes to under a plan.
fn points(
    context: &Context<'_>,
    posterior: &Posterior<'_>,
    priced: &PricedPoints,
    renewed: &[bool],
) -> Vec<PointEstimate> {
    let (after, a) = (&posterior.after, context.setting.assumptions);
    let each = context.applicable_points.iter().zip(&priced.costs).enumerate();
    each.map(|(i, (s, cost))| {
        let (now, plan) = (after.present(i), after.by_horizon(i));
        let graded = Graded::of(s.point.can_hurt, [now, plan], cost.caught, [cost.worst, priced.reference.price], a);
        PointEstimate {
            id: s.point.id.clone(),
            name: s.point.name.clone(),
            concerns: s.fit.identify.is_empty(),
            ends_engine: s.point.ends_engine,
            expected_cost: priced.expected[i].expected(renewed[i]),
            p_plan: plan,
            worst_cost: cost.worst,
            job: cost.job.mean,
            grade: graded.grade,
        }
    })
    .collect()
}

fn estimated(context: &Context<'_>) -> Estimate {
    let mut parts = empty_parts(context);
    let posterior = Posterior::traced(context, &mut parts, false);
    let priced = PricedPoints::new(context, &posterior.after);
    let references = references(context, &posterior, &mut parts);
    // Where nothing is known no point stands out: the plan with the least mean is the one with the least risk
    // (`tests/screening.rs`).
    let candidate = context.setting.candidate;
    let searched = !(candidate.findings.is_empty() && candidate.ledger.is_empty());
    let (mean, renewed, tail) = decide_followed(context, &posterior.after, &priced, searched);
    let usual = care::weights(context.setting.assumptions.care_unknown);
    let example = priced.reference.example;
    let scenarios = islands::worn(context, reference_scenarios(&references, usual, example));
    let usual_bill =
        decide_reference(context, &scenarios, &priced.of_reference(context, &scenarios, example), searched);
    let cost = |i: usize| priced.expected[i].expected(renewed[i]);
    let mut dear: Vec<usize> = (0..context.applicable_points.len()).collect();
    dear.sort_by(|x, y| cost(*y).total_cmp(&cost(*x)));
    let mut open: Vec<String> = Vec::new();
    for fact in dear.iter().flat_map(|i| &context.applicable_points[*i].fit.identify) {
        if !open.contains(fact) {
            open.push(fact.clone());
        }
    }
    Estimate {
        mean,
        scheduled: priced.work.mean(&posterior.after.weights),
        p90: tail.p90,
        excess: mean - usual_bill.0,
        tail_excess: tail.excess(),
        reference_tail_excess: usual_bill.1.excess(),
        points: points(context, &posterior, &priced, &renewed),
        open,
    }
}

impl Estimate {
    /// The same with what evidence changes, figure by figure: what `to` has beyond `from`, one estimate with it and one
    /// without. None where the points are not the same.
    #[must_use]
    pub fn changed(&self, from: &Self, to: &Self) -> Option<Self> {
        let same = |x: &Self| x.points.len() == self.points.len();
        if !(same(from) && same(to)) {
            return None;
        }
        let of = |own: f64, from: f64, to: f64| own + to - from;
        let mut out = self.clone();
        out.mean = of(self.mean, from.mean, to.mean);
        out.scheduled = of(self.scheduled, from.scheduled, to.scheduled);
        out.p90 = of(self.p90, from.p90, to.p90);
        out.excess = of(self.excess, from.excess, to.excess);
        out.tail_excess = of(self.tail_excess, from.tail_excess, to.tail_excess);
        out.reference_tail_excess =
            of(self.reference_tail_excess, from.reference_tail_excess, to.reference_tail_excess);
        for ((x, f), t) in out.points.iter_mut().zip(&from.points).zip(&to.points) {
            if f.name != t.name || x.name != f.name {
                return None;
            }
            x.expected_cost = of(x.expected_cost, f.expected_cost, t.expected_cost);
            x.p_plan = of(x.p_plan, f.p_plan, t.p_plan).clamp(0.0, 1.0);
            x.worst_cost = of(x.worst_cost, f.worst_cost, t.worst_cost);
        }
        Some(out)
    }

    /// Chance of a blow within the plan, as [`crate::Assessment::blow`] has it, where such a one goes for `worth`.
    #[must_use]
    pub fn blow(&self, worth: f64) -> f64 {
        let worth = worth.max(1.0);
        let blows = self.points.iter().filter(|p| p.ends_engine || p.worst_cost >= worth / 2.0);
        1.0 - blows.map(|p| 1.0 - p.p_plan * (p.worst_cost / worth).min(1.0)).product::<f64>()
    }

    /// What the candidate is worth to its buyer.
    #[must_use]
    pub fn worth(&self, candidate: &Candidate, families: &[Family], a: &Assumptions) -> LimitPrice {
        let a = &a.for_trust(candidate.buyer.paper_trust).for_rates(&candidate.buyer.rates);
        let Self { excess, tail_excess, reference_tail_excess, .. } = *self;
        let beyond = Beyond { excess, tail_excess, reference_tail_excess };
        limit_price(candidate, families, reference(candidate, a), &odometer::read(candidate, a), beyond, a)
    }
}
