//! The value of information: which check not yet done is worth its time.
//!
//! docs/METHOD.md, section 14.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::budget::Budget;
use crate::base::units::Money;
use crate::decision::limit_price::LimitPrice;
use crate::documents::applicability::applicable;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::care_level::LEVELS;
use crate::documents::check::{BlockerKind, Check, Phase};
use crate::documents::family::Family;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::check_effect::{Answer, IMPOSSIBLE};
use crate::inference::context::links;
use crate::inference::findings::{outlook, weigh};
use crate::inference::stages;
use crate::money::point_cost::{ExpectedCost, PointCost, StateCosts};
use crate::reliability::care::{self, mix};
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::remaining_life::RemainingLife;

/// What the worth of the open checks is computed from.
pub(crate) struct ChecksInputs<'a> {
    /// The candidate.
    pub candidate: &'a Candidate,
    /// Its families.
    pub families: &'a [Family],
    /// The points that concern it.
    pub applicable_points: &'a [ApplicablePoint<'a>],
    /// Care scenarios after the findings so far.
    pub scenarios: &'a CareScenarios,
    /// What each point is expected to cost.
    pub priced: &'a [ExpectedCost],
    /// What its jobs, failures and stages cost.
    pub costs: &'a [PointCost],
    /// Whether each point is renewed at purchase.
    pub renewed: &'a [bool],
    /// The limit price so far.
    pub value: &'a LimitPrice,
    /// What is left of the question's steps.
    pub budget: &'a Budget<'a>,
}

/// Checks not yet done, ranked: what they are worth for their time and fee first; among those worth
/// nothing, what moves the bill most for its minutes.
pub(crate) fn checks(inputs: &ChecksInputs<'_>, a: &Assumptions) -> Vec<OpenCheck> {
    let chosen = inputs.priced.iter().zip(inputs.renewed);
    let bills: [f64; 3] = std::array::from_fn(|l| chosen.clone().map(|(p, r)| p.by_level(*r)[l]).sum());
    let mut out: Vec<OpenCheck> = applicable(inputs.candidate, inputs.families, a)
        .filter(|(f, c)| inputs.candidate.outcome_of(f, c).is_none())
        .map(|(family, check)| open_check(inputs, family, check, &bills, a))
        .collect();
    let rate = |n: &OpenCheck| {
        let net = n.value_of_information - n.cost;
        if net > 0.0 { (1, net / n.minutes) } else { (0, n.moves / n.minutes) }
    };
    out.sort_by(|x, y| {
        let (rx, ry) = (rate(x), rate(y));
        ry.0.cmp(&rx.0).then(ry.1.total_cmp(&rx.1)).then(x.phase.cmp(&y.phase))
    });
    out
}

/// What knowing something is worth, from the chance and the limit price of each answer: what the best choice then
/// gains over the best choice now, at the price that is likely paid.
#[must_use]
pub fn worth(value: &LimitPrice, answers: &[(f64, f64)]) -> f64 {
    let paid = value.asking.min(value.limit);
    let then: f64 = answers.iter().map(|(chance, limit)| chance * (limit - paid).max(0.0)).sum();
    (then - (value.limit - paid).max(0.0)).max(0.0)
}

/// One check not yet done, and what knowing its outcome is worth.
fn open_check(
    inputs: &ChecksInputs<'_>,
    family: &Family,
    check: &Check,
    bills: &[f64; 3],
    a: &Assumptions,
) -> OpenCheck {
    let ChecksInputs { scenarios, value, .. } = *inputs;
    let links = links(check, family, inputs.applicable_points);
    inputs.budget.spend(inputs.applicable_points.len() * check.links.len());
    let mean = mix(&scenarios.weights, |l| bills[l]);
    let mut outcomes = Vec::with_capacity(check.outcomes.len());
    let mut answers = Vec::with_capacity(check.outcomes.len());
    let mut moves = 0.0;
    for ((chance, bill), outcome) in after_each(check, &links, inputs, bills, a).into_iter().zip(&check.outcomes) {
        let change = bill - mean;
        // What would end the purchase leaves nothing to be paid for.
        let stops = outcome.blocker.as_ref().is_some_and(|b| b.kind == BlockerKind::Stop);
        let limit = if stops { 0.0 } else { value.with_more(change) };
        moves += chance * change.abs();
        answers.push((chance, limit));
        outcomes.push(OutcomeChance { chance, surplus: limit - value.asking });
    }
    OpenCheck {
        family: family.id.clone(),
        check: check.id.clone(),
        name: check.name.clone(),
        phase: check.phase,
        minutes: check.minutes,
        cost: check.minutes / 60.0 * a.rate_person + check.fee.map_or(0.0, Money::get),
        value_of_information: worth(value, &answers),
        moves,
        outcomes,
    }
}

/// Chance of each outcome, and the expected bill after it. An outcome speaks of the points it links, which are
/// planned anew, and through the level of care of all the others.
fn after_each(
    check: &Check,
    links: &[(usize, usize)],
    inputs: &ChecksInputs<'_>,
    bills: &[f64; 3],
    a: &Assumptions,
) -> Vec<(f64, f64)> {
    let ChecksInputs { scenarios, priced, renewed, budget, .. } = *inputs;
    let steps = |(s, _): &(usize, usize)| scenarios.remaining[0][*s].cells.len() + links.len() * check.outcomes.len();
    if !budget.spend(3 * links.iter().map(steps).sum::<usize>()) {
        return Vec::new();
    }
    let relinked: Vec<(usize, usize)> = links.iter().enumerate().map(|(i, &(_, l))| (i, l)).collect();
    let small: [Vec<Small>; 3] = std::array::from_fn(|l| {
        let of = |&(s, k): &(usize, usize)| Small::new(&scenarios.remaining[l][s], &priced[s], l, check.links[k].lead);
        links.iter().map(of).collect()
    });
    let before: [Vec<RemainingLife>; 3] =
        std::array::from_fn(|l| small[l].iter().map(|s| s.remaining.clone()).collect());
    let chances: [Vec<f64>; 3] = std::array::from_fn(|l| outlook(check, &relinked, &before[l], LEVELS[l]));
    let others: [f64; 3] =
        std::array::from_fn(|l| bills[l] - links.iter().map(|(s, _)| priced[*s].by_level(renewed[*s])[l]).sum::<f64>());
    let grown: Vec<Vec<f64>> = links
        .iter()
        .map(|&(s, k)| stages::told(&check.links[k], &inputs.costs[s].stages, inputs.costs[s].job.mean, a))
        .collect();
    let after = |outcome: usize| {
        let chance = mix(&scenarios.weights, |l| chances[l][outcome]);
        let ln: [f64; 3] = std::array::from_fn(|l| chances[l][outcome].max(IMPOSSIBLE).ln());
        let weights = if check.care_sign.is_some() {
            scenarios.voices.weights(Some(ln))
        } else {
            care::after(&scenarios.weights, &ln)
        };
        let answer = [Answer { check, outcome, links: relinked.clone(), key: String::new() }];
        let lives: [Vec<RemainingLife>; 3] = std::array::from_fn(|l| {
            let mut after = before[l].clone();
            weigh(&mut after, &answer, LEVELS[l], f64::INFINITY, budget);
            after
        });
        let mut bill = mix(&weights, |l| others[l]);
        for (i, (s, _)) in links.iter().enumerate() {
            let left = mix(&weights, |l| small[l][i].run_on.expect(&lives[l][i]));
            let anew = mix(&weights, |l| small[l][i].renew.expect(&lives[l][i]));
            let present = mix(&weights, |l| lives[l][i].present);
            bill += planned_anew(inputs, *s, left, anew, present, a);
            // Whatever is planned, a fault that is there is put right in the stage that it is in.
            bill += present * grown[i].get(outcome).copied().unwrap_or(0.0);
        }
        (chance, bill)
    };
    (0..check.outcomes.len()).map(after).collect()
}

/// What a point costs once it is planned anew: as the person decided, put right where it is there, kept where it is
/// renewed for other reasons than its own, else whatever costs less.
fn planned_anew(
    inputs: &ChecksInputs<'_>,
    point: usize,
    left: f64,
    renewed: f64,
    present: f64,
    a: &Assumptions,
) -> f64 {
    let s = &inputs.applicable_points[point];
    let own = inputs.candidate.purchase_plan.own.iter().rev();
    let own = own.clone().find(|o| o.at.family == s.family.id && o.at.point == s.point.id).map(|o| o.now);
    let there = present >= a.there_now || (s.point.can_hurt && present >= a.hurts_now);
    let priced = &inputs.priced[point];
    let for_others = inputs.renewed[point] && priced.renewed > priced.left;
    match own {
        Some(now) => {
            if now {
                renewed
            } else {
                left
            }
        }
        None if there || for_others => renewed,
        None => left.min(renewed),
    }
}

/// A point in one care scenario reduced to what one check can tell apart: within its lead, later, never; with the
/// mean cost of each, which no outcome of this check changes.
struct Small {
    remaining: RemainingLife,
    run_on: StateCosts,
    renew: StateCosts,
}

impl Small {
    fn new(z: &RemainingLife, point: &ExpectedCost, level: usize, lead: Option<f64>) -> Self {
        let last = z.grid.edges()[z.grid.cells()];
        let grid = FutureGrid::bands(z.grid.horizon(), lead.into_iter().chain([last]));
        let remaining = z.on(grid);
        let reduced = |of: &StateCosts| {
            let mut cells = vec![0.0; remaining.cells.len()];
            for ((m, cost), upper) in z.cells.iter().zip(&of.cells).zip(&z.grid.edges()[1..]) {
                cells[remaining.grid.cell(*upper)] += m * cost;
            }
            cells.iter_mut().zip(&remaining.cells).filter(|(_, m)| **m > 0.0).for_each(|(c, m)| *c /= m);
            StateCosts { cells, ..of.clone() }
        };
        let (run_on, renew) = (reduced(&point.run_on[level]), reduced(&point.renew[level]));
        Self { remaining, run_on, renew }
    }
}

/// A check not yet done, and what it is worth.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct OpenCheck {
    /// Family.
    pub family: String,
    /// Check.
    pub check: String,
    /// Its name.
    pub name: String,
    /// Its phase.
    pub phase: Phase,
    /// Minutes.
    pub minutes: f64,
    /// Time and fee, in money.
    pub cost: f64,
    /// What the best choice gains from knowing its outcome before deciding.
    pub value_of_information: f64,
    /// Expected absolute change of the bill.
    pub moves: f64,
    /// Chance of each outcome, and the surplus after it.
    #[serde(default)]
    pub outcomes: Vec<OutcomeChance>,
}

/// What an outcome would do.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct OutcomeChance {
    /// Chance.
    pub chance: f64,
    /// Limit less asking after it.
    pub surplus: f64,
}
