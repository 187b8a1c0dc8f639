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
use crate::documents::check::{Check, Phase};
use crate::documents::family::Family;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::check_effect::Answer;
use crate::inference::context::links;
use crate::inference::findings::{outlook, weigh};
use crate::money::point_cost::ExpectedCost;
use crate::reliability::care::mix;
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
    /// The limit price so far.
    pub value: &'a LimitPrice,
    /// What is left of the question's steps.
    pub budget: &'a Budget<'a>,
}

/// Checks not yet done, ranked: what they are worth for their time and fee first; among those worth
/// nothing, what moves the bill most for its minutes.
pub(crate) fn checks(inputs: &ChecksInputs<'_>, a: &Assumptions) -> Vec<OpenCheck> {
    let bills: [f64; 3] = std::array::from_fn(|l| inputs.priced.iter().map(|p| p.by_level[l]).sum());
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
    let mut outcomes = Vec::with_capacity(check.outcomes.len());
    let (mut worth, mut moves) = (0.0, 0.0);
    for (chance, bill) in after_each(check, &links, inputs, bills) {
        let change = bill - mix(&scenarios.weights, |l| bills[l]);
        let surplus = value.surplus - change;
        worth += chance * surplus.max(0.0);
        moves += chance * change.abs();
        outcomes.push(OutcomeChance { chance, surplus });
    }
    OpenCheck {
        family: family.id.clone(),
        check: check.id.clone(),
        name: check.name.clone(),
        phase: check.phase,
        minutes: check.minutes,
        cost: check.minutes / 60.0 * a.rate_person + check.fee.map_or(0.0, Money::get),
        value_of_information: (worth - value.surplus.max(0.0)).max(0.0),
        moves,
        outcomes,
    }
}

/// Chance of each outcome, and the expected bill after it. An outcome speaks of the points it links, and
/// through the level of care of all the others.
fn after_each(check: &Check, links: &[(usize, usize)], inputs: &ChecksInputs<'_>, bills: &[f64; 3]) -> Vec<(f64, f64)> {
    let ChecksInputs { scenarios, priced, budget, .. } = *inputs;
    let steps = |(s, _): &(usize, usize)| scenarios.remaining[0][*s].cells.len() + links.len() * check.outcomes.len();
    if !budget.spend(3 * links.iter().map(steps).sum::<usize>()) {
        return Vec::new();
    }
    let relinked: Vec<(usize, usize)> = links.iter().enumerate().map(|(i, &(_, l))| (i, l)).collect();
    let mut by_outcome = vec![(0.0, 0.0); check.outcomes.len()];
    for (l, level) in LEVELS.into_iter().enumerate().filter(|(l, _)| scenarios.weights[*l] > 0.0) {
        let small: Vec<Small> = links
            .iter()
            .map(|&(s, k)| Small::new(&scenarios.remaining[l][s], &priced[s], l, check.links[k].lead))
            .collect();
        let before: Vec<RemainingLife> = small.iter().map(|s| s.remaining.clone()).collect();
        for (outcome, chance) in outlook(check, &relinked, &before, level).into_iter().enumerate() {
            let mut after = before.clone();
            let answer = Answer { check, outcome, links: relinked.clone(), key: String::new() };
            weigh(&mut after, &[answer], level, f64::INFINITY, budget);
            let change: f64 = small.iter().zip(&after).map(|(p, z)| z.expect(p.present, &p.cells) - p.expected).sum();
            let joint = scenarios.weights[l] * chance;
            by_outcome[outcome].0 += joint;
            by_outcome[outcome].1 += joint * (bills[l] + change);
        }
    }
    let mean = mix(&scenarios.weights, |l| bills[l]);
    by_outcome.into_iter().map(|(chance, sum)| (chance, if chance > 0.0 { sum / chance } else { mean })).collect()
}

/// A point in one care scenario reduced to what one check can tell apart: within its lead, later, never; with the
/// mean cost of each, which no outcome of this check changes.
struct Small {
    remaining: RemainingLife,
    present: f64,
    cells: Vec<f64>,
    expected: f64,
}

impl Small {
    fn new(z: &RemainingLife, point: &ExpectedCost, level: usize, lead: Option<f64>) -> Self {
        let last = z.grid.edges()[z.grid.cells()];
        let grid = FutureGrid::bands(z.grid.horizon(), lead.into_iter().chain([last]));
        let remaining = z.on(grid);
        let mut cells = vec![0.0; remaining.cells.len()];
        for ((m, cost), upper) in z.cells.iter().zip(&point.cells).zip(&z.grid.edges()[1..]) {
            cells[remaining.grid.cell(*upper)] += m * cost;
        }
        cells.iter_mut().zip(&remaining.cells).filter(|(_, m)| **m > 0.0).for_each(|(c, m)| *c /= m);
        Self { remaining, present: point.present, cells, expected: point.by_level[level] }
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
    /// Expected gain in surplus from knowing its outcome before deciding.
    pub value_of_information: f64,
    /// Expected absolute change of the bill.
    pub moves: f64,
    /// Chance of each outcome, and the surplus after it.
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
