//! The value of information: which check not yet done is worth its time.

use crate::decision::limit_price::Worth;
use crate::documents::applicability::applicable;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::care_level::LEVELS;
use crate::documents::check::Check;
use crate::documents::check::Phase;
use crate::documents::family::Family;
use crate::inference::applicable_point::Subject;
use crate::inference::care_scenarios::Worlds;
use crate::inference::check_effect::Answer;
use crate::inference::context::links;
use crate::inference::findings::outlook;
use crate::inference::findings::weigh;
use crate::money::point_cost::Priced;
use crate::reliability::care::mix;
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::remaining_life::Zones;
use serde::Deserialize;
use serde::Serialize;
use utoipa::ToSchema;

/// Checks not yet done, ranked: what they are worth for their time and fee first; among those worth
/// nothing, what moves the bill most for its minutes.
pub(crate) fn checks(
    candidate: &Candidate,
    families: &[Family],
    subjects: &[Subject<'_>],
    worlds: &Worlds,
    priced: &[Priced],
    value: &Worth,
    a: &Assumptions,
) -> Vec<NextCheck> {
    let bills: [f64; 3] = std::array::from_fn(|l| priced.iter().map(|p| p.by_level[l]).sum());
    let mut out: Vec<NextCheck> = applicable(candidate, families, a)
        .filter(|(f, c)| candidate.outcome_of(f, c).is_none())
        .map(|(family, check)| {
            let links = links(check, family, subjects);
            let mut outcomes = Vec::with_capacity(check.outcomes.len());
            let (mut worth, mut moves) = (0.0, 0.0);
            for (chance, bill) in after_each(check, &links, worlds, priced, &bills) {
                let change = bill - mix(&worlds.weights, |l| bills[l]);
                let surplus = value.surplus - change;
                worth += chance * surplus.max(0.0);
                moves += chance * change.abs();
                outcomes.push(OutcomeChance { chance, surplus });
            }
            let cost = check.minutes / 60.0 * a.rate_person + check.fee.map_or(0.0, crate::base::units::Money::get);
            NextCheck {
                family: family.id.clone(),
                check: check.id.clone(),
                name: check.name.clone(),
                phase: check.phase,
                minutes: check.minutes,
                cost,
                worth: (worth - value.surplus.max(0.0)).max(0.0),
                moves,
                outcomes,
            }
        })
        .collect();
    let rate = |n: &NextCheck| {
        let net = n.worth - n.cost;
        if net > 0.0 { (1, net / n.minutes) } else { (0, n.moves / n.minutes) }
    };
    out.sort_by(|x, y| {
        let (rx, ry) = (rate(x), rate(y));
        ry.0.cmp(&rx.0).then(ry.1.total_cmp(&rx.1)).then(x.phase.cmp(&y.phase))
    });
    out
}

/// Chance of each outcome, and the expected bill after it. An outcome speaks of the points it links, and
/// through the level of care of all the others.
fn after_each(
    check: &Check,
    links: &[(usize, usize)],
    worlds: &Worlds,
    priced: &[Priced],
    bills: &[f64; 3],
) -> Vec<(f64, f64)> {
    let relinked: Vec<(usize, usize)> = links.iter().enumerate().map(|(i, &(_, l))| (i, l)).collect();
    let mut by_outcome = vec![(0.0, 0.0); check.outcomes.len()];
    for (l, level) in LEVELS.into_iter().enumerate().filter(|(l, _)| worlds.weights[*l] > 0.0) {
        let small: Vec<Small> =
            links.iter().map(|&(s, k)| Small::new(&worlds.zones[l][s], &priced[s], l, check.links[k].lead)).collect();
        let before: Vec<Zones> = small.iter().map(|s| s.zones.clone()).collect();
        for (outcome, chance) in outlook(check, &relinked, &before, level).into_iter().enumerate() {
            let mut after = before.clone();
            let answer = Answer { check, outcome, links: relinked.clone(), key: String::new() };
            weigh(&mut after, &[answer], level, f64::INFINITY);
            let change: f64 = small.iter().zip(&after).map(|(p, z)| z.expect(p.present, &p.cells) - p.expected).sum();
            let joint = worlds.weights[l] * chance;
            by_outcome[outcome].0 += joint;
            by_outcome[outcome].1 += joint * (bills[l] + change);
        }
    }
    let mean = mix(&worlds.weights, |l| bills[l]);
    by_outcome.into_iter().map(|(chance, sum)| (chance, if chance > 0.0 { sum / chance } else { mean })).collect()
}

/// A point in one world reduced to what one check can tell apart: within its lead, later, never; with the
/// mean cost of each, which no outcome of this check changes.
struct Small {
    zones: Zones,
    present: f64,
    cells: Vec<f64>,
    expected: f64,
}

impl Small {
    fn new(z: &Zones, point: &Priced, level: usize, lead: Option<f64>) -> Self {
        let last = z.grid.edges()[z.grid.cells()];
        let grid = FutureGrid::bands(z.grid.horizon(), lead.into_iter().chain([last]));
        let zones = z.on(grid);
        let mut cells = vec![0.0; zones.cells.len()];
        for ((m, cost), upper) in z.cells.iter().zip(&point.cells).zip(&z.grid.edges()[1..]) {
            cells[zones.grid.cell(*upper)] += m * cost;
        }
        cells.iter_mut().zip(&zones.cells).filter(|(_, m)| **m > 0.0).for_each(|(c, m)| *c /= m);
        Self { zones, present: point.present, cells, expected: point.by_level[level] }
    }
}

/// A check not yet done, and what it is worth.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct NextCheck {
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
    pub worth: f64,
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
