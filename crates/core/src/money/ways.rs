//! The ways of putting a fault right: which of them may be done here, what is tried first, and which comes cheapest
//! over the plan.
//!
//! docs/METHOD.md, section 7.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::applicability::fit;
use crate::documents::failure_point::Route;
use crate::documents::family::Family;
use crate::inference::setting::{Setting, View};
use crate::money::job_cost::{self, JobCost};

/// Why a way cannot be taken, so far as is known.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Barred {
    /// Not on this variant.
    Variant,
    /// A check must be done first.
    NotChecked {
        /// The check.
        check: String,
    },
    /// A check came out too bad for it.
    TooBad {
        /// The check.
        check: String,
    },
    /// The parts are no longer to be had.
    NoParts,
}

/// A way of putting a fault right, as it stands here.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Way {
    /// What is done.
    pub name: String,
    /// Its job in the sheet.
    pub job: String,
    /// What it costs alone.
    pub cost: JobCost,
    /// Chance that it is all that is needed.
    pub suffices: f64,
    /// How long the result lasts against the part first fitted.
    pub lasts: f64,
    /// Whether it is tried before the others.
    pub first: bool,
    /// Why it cannot be taken; none where it can.
    pub barred: Option<Barred>,
    /// Whether the person chose it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub chosen: bool,
    /// Chance that it comes to be done when the fault is put right; 0 where another way is cheaper.
    pub done: f64,
}

/// How a repair may turn out: with which chance, at what cost, and how long the result lasts.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Turn {
    pub chance: f64,
    pub cost: JobCost,
    pub lasts: f64,
}

/// The ways chosen for a point.
#[derive(Debug, Clone)]
pub(crate) struct Ways {
    /// How the repair may turn out; one turn where there is but one way.
    pub turns: Vec<Turn>,
    /// Every way, those done first; empty where the sheet names no routes.
    pub told: Vec<Way>,
    /// The job whose access and name stand for the repair: of the way that settles it.
    pub job: String,
}

/// Chooses among the ways of a point: those tried first, then the one that is cheapest over the plan. `fresh` tells
/// how many failures within the plan a result has that lasts so long against the part first fitted.
pub(crate) fn choose(setting: &Setting<'_>, view: &View<'_, '_>, fresh: impl Fn(f64) -> f64) -> Ways {
    let (point, family) = (view.applicable_point.point, view.applicable_point.family);
    let cost = |job: &str| price(setting, family, job);
    if point.routes.is_empty() {
        let turn = Turn { chance: 1.0, cost: cost(&point.job), lasts: 1.0 };
        return Ways { turns: vec![turn], told: Vec::new(), job: point.job.clone() };
    }
    let mut ways: Vec<Way> = point.routes.iter().map(|r| way(setting, family, r)).collect();
    if !point.job.is_empty() {
        let name = family.job(&point.job).map_or_else(String::new, |j| j.name.clone());
        let job = point.job.clone();
        let usual = Way {
            name,
            cost: cost(&job),
            job,
            suffices: 1.0,
            lasts: 1.0,
            first: false,
            barred: None,
            chosen: false,
            done: 0.0,
        };
        ways.push(usual);
    }
    let wanted = wanted(setting, view, &ways);
    if let Some(i) = wanted {
        ways[i].chosen = true;
    }
    let mut failures: Vec<(f64, f64)> = Vec::new();
    let mut again = |lasts: f64| match failures.iter().find(|(l, _)| l.total_cmp(&lasts).is_eq()) {
        Some((_, sum)) => *sum,
        None => {
            let sum = fresh(lasts);
            failures.push((lasts, sum));
            sum
        }
    };
    let mut best: Option<(f64, Vec<usize>)> = None;
    for order in orders(&ways, wanted) {
        let turns = turns(&ways, &order);
        let once: f64 = turns.iter().map(|t| t.chance * t.cost.mean).sum();
        let later: f64 = turns.iter().map(|t| t.chance * again(t.lasts)).sum();
        let sum = once * (1.0 + later);
        if best.as_ref().is_none_or(|(least, _)| sum < *least) {
            best = Some((sum, order));
        }
    }
    let order = best.map_or_else(Vec::new, |(_, order)| order);
    let turns = turns(&ways, &order);
    let mut reached = 1.0;
    for i in &order {
        ways[*i].done = reached;
        reached *= 1.0 - ways[*i].suffices;
    }
    let job = order.last().map_or_else(String::new, |i| ways[*i].job.clone());
    let mut told: Vec<Way> = order.iter().map(|i| ways[*i].clone()).collect();
    told.extend((0..ways.len()).filter(|i| !order.contains(i)).map(|i| ways[i].clone()));
    Ways { turns, told, job }
}

/// The way that the person chose, where it can be taken; a check that was not done bars nobody who decides so.
fn wanted(setting: &Setting<'_>, view: &View<'_, '_>, ways: &[Way]) -> Option<usize> {
    let (family, point) = (view.applicable_point.family, view.applicable_point.point);
    let own = &setting.candidate.purchase_plan.ways;
    let choice = own.iter().find(|w| w.at.family == family.id && w.at.point == point.id)?;
    let open = |w: &Way| matches!(w.barred, None | Some(Barred::NotChecked { .. }));
    ways.iter().position(|w| w.name == choice.way && open(w))
}

/// The orders in which the ways may be gone through: those tried first or none of them, then what settles it. Where
/// the person chose one it stands first and alone, followed by what settles it where it may not suffice.
fn orders(ways: &[Way], wanted: Option<usize>) -> Vec<Vec<usize>> {
    let of = |first: bool, open: bool| -> Vec<usize> {
        (0..ways.len()).filter(|i| ways[*i].first == first && (!open || ways[*i].barred.is_none())).collect()
    };
    let settles = match of(false, true) {
        // Nothing else may be done: what is barred is what it would take all the same.
        none if none.is_empty() => of(false, false),
        some => some,
    };
    if let Some(i) = wanted {
        if ways[i].suffices >= 1.0 {
            return vec![vec![i]];
        }
        let surely: Vec<usize> = settles.into_iter().filter(|s| *s != i && ways[*s].suffices >= 1.0).collect();
        return if surely.is_empty() { vec![vec![i]] } else { surely.iter().map(|s| vec![i, *s]).collect() };
    }
    let tried = of(true, true);
    let starts = if tried.is_empty() { vec![Vec::new()] } else { vec![tried, Vec::new()] };
    let last = sequences(ways, &settles);
    let with = |start: &Vec<usize>| {
        let of: Vec<Vec<usize>> = last.iter().map(|l| start.iter().chain(l).copied().collect()).collect();
        // Only ways that are tried first are known.
        if of.is_empty() && !start.is_empty() { vec![start.clone()] } else { of }
    };
    starts.iter().flat_map(with).collect()
}

/// What may follow the ways that are tried first: each that settles it surely; each that may, then one that does.
fn sequences(ways: &[Way], settles: &[usize]) -> Vec<Vec<usize>> {
    let sure = |i: &&usize| ways[**i].suffices >= 1.0;
    let surely: Vec<usize> = settles.iter().filter(sure).copied().collect();
    let perhaps = settles.iter().filter(|i| !sure(i));
    let mut out: Vec<Vec<usize>> = surely.iter().map(|i| vec![*i]).collect();
    for p in perhaps {
        out.extend(surely.iter().map(|s| vec![*p, *s]));
        if surely.is_empty() {
            out.push(vec![*p]);
        }
    }
    out
}

/// How a sequence may turn out. After the last there is nothing more to do.
fn turns(ways: &[Way], order: &[usize]) -> Vec<Turn> {
    let (mut reached, mut spent, mut out) = (1.0, JobCost::nothing(), Vec::new());
    for (k, i) in order.iter().enumerate() {
        let w = &ways[*i];
        spent = spent.and(&w.cost);
        let ends = if k + 1 == order.len() { reached } else { reached * w.suffices };
        reached -= ends;
        if ends > 0.0 {
            out.push(Turn { chance: ends, cost: spent, lasts: w.lasts });
        }
    }
    out
}

/// The cost of a repair that may turn out in several ways.
pub(crate) fn expected(turns: &[Turn]) -> JobCost {
    let [one] = turns else {
        let mix = |of: &dyn Fn(&JobCost) -> f64| turns.iter().map(|t| t.chance * of(&t.cost)).sum::<f64>();
        let least = turns.iter().map(|t| t.cost.low).fold(f64::INFINITY, f64::min);
        let most = turns.iter().map(|t| t.cost.high).fold(0.0, f64::max);
        return JobCost {
            low: if turns.is_empty() { 0.0 } else { least },
            likely: turns.iter().max_by(|x, y| x.chance.total_cmp(&y.chance)).map_or(0.0, |t| t.cost.likely),
            high: most,
            mean: mix(&|c| c.mean),
            parts: mix(&|c| c.parts),
            labour: mix(&|c| c.labour),
            access: mix(&|c| c.access),
        };
    };
    one.cost
}

fn price(setting: &Setting<'_>, family: &Family, job: &str) -> JobCost {
    let (c, a) = (setting.candidate, setting.assumptions);
    family.job(job).map_or_else(JobCost::nothing, |j| job_cost::cost(family, j, c.buyer.parts, c.buyer.labour, a))
}

fn way(setting: &Setting<'_>, family: &Family, r: &Route) -> Way {
    Way {
        name: r.name.clone(),
        cost: price(setting, family, &r.job),
        job: r.job.clone(),
        suffices: r.suffices.map_or(1.0, crate::base::units::Probability::get),
        lasts: r.lasts.unwrap_or(1.0),
        first: r.first,
        barred: barred(setting, family, r),
        chosen: false,
        done: 0.0,
    }
}

/// Why a way cannot be taken. What is not known of the variant bars nothing where more than half of them allow it.
fn barred(setting: &Setting<'_>, family: &Family, r: &Route) -> Option<Barred> {
    let needs = r.needs.as_ref()?;
    let (c, a) = (setting.candidate, setting.assumptions);
    if fit(&needs.applies, family, c, a).is_none_or(|f| f.share < a.there_now) {
        return Some(Barred::Variant);
    }
    if needs.until_year.is_some_and(|y| c.as_of.year() > y) {
        return Some(Barred::NoParts);
    }
    let check = family.check(needs.check.as_deref()?)?;
    match c.outcome_of(family, check) {
        None => Some(Barred::NotChecked { check: check.name.clone() }),
        Some(o) if o > needs.worst_outcome => Some(Barred::TooBad { check: check.name.clone() }),
        Some(_) => None,
    }
}

impl JobCost {
    /// One job after another.
    #[must_use]
    pub(crate) fn and(&self, then: &Self) -> Self {
        Self {
            low: self.low + then.low,
            likely: self.likely + then.likely,
            high: self.high + then.high,
            mean: self.mean + then.mean,
            parts: self.parts + then.parts,
            labour: self.labour + then.labour,
            access: self.access + then.access,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn ways(of: &[(f64, f64)]) -> Vec<Way> {
        let one = |&(cost, suffices): &(f64, f64)| Way {
            name: String::new(),
            job: String::new(),
            cost: JobCost { low: cost, likely: cost, high: cost, mean: cost, ..JobCost::nothing() },
            suffices,
            lasts: 1.0,
            first: false,
            barred: None,
            chosen: false,
            done: 0.0,
        };
        of.iter().map(one).collect()
    }

    /// Every way in which the tries may come out, one after another.
    fn enumerated(ways: &[Way], order: &[usize]) -> f64 {
        let tries = order.len() - 1;
        let mut sum = 0.0;
        for luck in 0..1usize << tries {
            let (mut chance, mut paid, mut done) = (1.0, 0.0, false);
            for (k, i) in order.iter().enumerate() {
                let succeeds = k == tries || luck >> k & 1 == 1;
                if k < tries {
                    chance *= if succeeds { ways[*i].suffices } else { 1.0 - ways[*i].suffices };
                }
                paid += if done { 0.0 } else { ways[*i].cost.mean };
                done |= succeeds;
            }
            sum += chance * paid;
        }
        sum
    }

    #[test]
    fn a_sequence_costs_what_every_way_it_may_come_out_adds_up_to() {
        let ways = ways(&[(120.0, 0.4), (300.0, 0.25), (900.0, 1.0)]);
        for order in [vec![0, 2], vec![1, 2], vec![0, 1, 2], vec![2]] {
            let turns = turns(&ways, &order);
            let told: f64 = turns.iter().map(|t| t.chance * t.cost.mean).sum();
            assert!((told - enumerated(&ways, &order)).abs() < 1e-9, "{order:?}");
            assert!((turns.iter().map(|t| t.chance).sum::<f64>() - 1.0).abs() < 1e-12);
        }
        // "Tensioner first, 120: in four of ten that is all."
        let told: f64 = turns(&ways, &[0, 2]).iter().map(|t| t.chance * t.cost.mean).sum();
        assert!((told - (120.0 + 0.6 * 900.0)).abs() < 1e-9);
    }
}
