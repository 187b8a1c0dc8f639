//! Method §14: which check not yet done is worth its time.

use crate::assess::{Priced, links};
use crate::assessment::{NextCheck, OutcomeChance, Worth};
use crate::assumptions::Assumptions;
use crate::candidate::Candidate;
use crate::care::{LEVELS, mix};
use crate::family::{Check, Family};
use crate::findings::{Answer, outlook, weigh};
use crate::future::{FutureGrid, Zones};
use crate::subject::{Subject, fit};
use crate::worlds::Worlds;

fn applicable<'a>(
    candidate: &'a Candidate,
    families: &'a [Family],
    a: &'a Assumptions,
) -> impl Iterator<Item = (&'a Family, &'a Check)> {
    families
        .iter()
        .flat_map(|f| f.checks.iter().map(move |c| (f, c)))
        .filter(move |(f, c)| fit(&c.applies, f, candidate, a).is_some())
        .filter(move |(f, c)| !f.kind.is_base() || !known_better(c, families, candidate, a))
}

/// Whether a family's own sheet has a check with the same action: the base sheet's makes way for it.
fn known_better(check: &Check, families: &[Family], candidate: &Candidate, a: &Assumptions) -> bool {
    check.action.as_deref().is_some_and(|action| {
        let own = families.iter().filter(|f| !f.kind.is_base());
        own.flat_map(|f| f.checks.iter().map(move |c| (f, c)))
            .any(|(f, c)| c.action.as_deref() == Some(action) && fit(&c.applies, f, candidate, a).is_some())
    })
}

/// Checks done, and checks that concern the candidate.
#[must_use]
pub fn progress(candidate: &Candidate, families: &[Family], a: &Assumptions) -> (usize, usize) {
    applicable(candidate, families, a)
        .fold((0, 0), |(done, all), (f, c)| (done + usize::from(candidate.outcome_of(f, c).is_some()), all + 1))
}

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
            let cost = check.minutes / 60.0 * a.rate_person + check.fee.map_or(0.0, crate::units::Money::get);
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

/// The checks that concern a candidate, in the order of work.
#[must_use]
pub fn walk_round<'a>(
    candidate: &'a Candidate,
    families: &'a [Family],
    a: &'a Assumptions,
) -> Vec<(&'a Family, &'a Check)> {
    let mut out: Vec<(&Family, &Check)> = applicable(candidate, families, a).collect();
    out.sort_by_key(|(_, c)| c.phase);
    out
}
