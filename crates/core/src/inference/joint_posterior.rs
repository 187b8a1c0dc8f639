//! The joint posterior of a connected group of points: by inclusion–exclusion or by enumeration of states.
//!
//! docs/METHOD.md, section 5.

use crate::base::budget::Budget;
use crate::documents::care_level::CareLevel;
use crate::inference::check_effect::{Answer, Effect, leak};
use crate::reliability::remaining_life::RemainingLife;

/// One point reduced to what the group's checks can tell apart: bands of remaining life from the
/// nearest to "sound or immune", and present last.
struct Reduced {
    point: usize,
    /// Upper ends of the bands, ascending; the band after the last is sound.
    bounds: Vec<f64>,
    mass: Vec<f64>,
}

impl Reduced {
    fn new(point: usize, remaining: &RemainingLife, mut bounds: Vec<f64>) -> Self {
        bounds.sort_by(f64::total_cmp);
        bounds.dedup();
        let mut mass = vec![0.0; bounds.len() + 2];
        for (i, m) in remaining.cells.iter().enumerate() {
            mass[Self::band(&bounds, remaining.grid.edges()[i + 1])] += m;
        }
        mass[bounds.len()] += remaining.tail + remaining.immune;
        mass[bounds.len() + 1] = remaining.present;
        Self { point, bounds, mass }
    }

    fn band(bounds: &[f64], upper: f64) -> usize {
        bounds.iter().position(|b| upper <= *b).unwrap_or(bounds.len())
    }

    fn effect(&self, e: &Effect, zone: usize) -> f64 {
        match zone.checked_sub(self.bounds.len()) {
            None => e.within(self.bounds[zone]),
            Some(0) => 1.0,
            Some(_) => e.present,
        }
    }
}

/// Exact joint posterior of a group and the chance of its answers; none, and nothing changed, when both
/// ways of counting several answers have too many terms. One answer alone is always counted.
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub(crate) fn weigh_jointly(
    remaining: &mut [RemainingLife],
    group: &[&Answer<'_>],
    level: CareLevel,
    joint_states: f64,
    budget: &Budget<'_>,
) -> Option<f64> {
    let mut points: Vec<usize> = group.iter().flat_map(|a| a.links.iter().map(|l| l.0)).collect();
    points.sort_unstable();
    points.dedup();
    let reduced: Vec<Reduced> = points
        .iter()
        .map(|&p| {
            let bounds = group
                .iter()
                .flat_map(|a| a.links.iter().filter(|l| l.0 == p).filter_map(|l| a.check.links[l.1].lead))
                .collect();
            Reduced::new(p, &remaining[p], bounds)
        })
        .collect();
    let factors = || -> Vec<Factor> { group.iter().map(|a| Factor::new(a, level, &points, &reduced)).collect() };
    let (total, after) = if group.len() == 1 {
        if !budget.spend(reduced.len() * reduced.len()) {
            return Some(1.0);
        }
        of_one(&reduced, &factors()[0])
    } else {
        let states: f64 = reduced.iter().map(|r| r.mass.len() as f64).product();
        let signs = 2f64.powi(i32::try_from(group.len()).unwrap_or(i32::MAX));
        if states.min(signs) > joint_states {
            return None;
        }
        let factors = factors();
        let by_signs = signs <= states;
        if !budget.spend(if by_signs { steps_by_signs(&reduced, &factors) } else { states as usize * points.len() }) {
            return Some(1.0);
        }
        match by_signs.then(|| by_inclusion_exclusion(&reduced, &factors)).flatten() {
            Some(counted) => counted,
            None if states <= joint_states => {
                if !budget.spend(states as usize * points.len()) {
                    return Some(1.0);
                }
                by_enumeration(&reduced, &factors)
            }
            None => return None,
        }
    };
    if total > 0.0 {
        for (r, marginal) in reduced.iter().zip(&after) {
            let ratio: Vec<f64> =
                r.mass.iter().zip(marginal).map(|(m, a)| if *m > 0.0 { a / total / m } else { 0.0 }).collect();
            let sound = r.bounds.len();
            remaining[r.point].weigh_by(ratio[sound + 1], ratio[sound], |upper| ratio[Reduced::band(&r.bounds, upper)]);
        }
    }
    Some(total)
}

/// An answer as the group's points see it: `P(outcome) = leak.0 · Π links.0 − leak.1 · Π links.1`.
struct Factor {
    /// The last of its points in the group's order: there its chance is known.
    last: usize,
    leak: (f64, f64),
    /// By point: place in the group, and the effect by zone at the outcome and just below it.
    links: Vec<(usize, Vec<(f64, f64)>)>,
}

impl Factor {
    fn new(a: &Answer<'_>, level: CareLevel, points: &[usize], reduced: &[Reduced]) -> Self {
        let links: Vec<(usize, Vec<(f64, f64)>)> = a
            .links
            .iter()
            .filter_map(|&(p, l)| {
                let place = points.binary_search(&p).ok()?;
                let r = &reduced[place];
                let (at, below) = (Effect::new(a.check, l, a.outcome), Effect::new(a.check, l, a.outcome - 1));
                Some((place, (0..r.mass.len()).map(|z| (r.effect(&at, z), r.effect(&below, z))).collect()))
            })
            .collect();
        Self {
            last: links.iter().map(|l| l.0).max().unwrap_or(0),
            leak: (leak(a.check, level, a.outcome), leak(a.check, level, a.outcome - 1)),
            links,
        }
    }
}

/// Chance of the answers, and for each point the joint chance by zone.
type JointPosterior = (f64, Vec<Vec<f64>>);

/// What one point contributes to the terms of a product that is multiplied out.
struct Terms {
    /// The answers on it.
    answers: Vec<usize>,
    /// By the choice of a term for each of its answers: the mass of each zone.
    masses: Vec<Vec<f64>>,
    /// The same, summed over the zones.
    sums: Vec<f64>,
}

impl Terms {
    fn new(place: usize, point: &Reduced, factors: &[Factor]) -> Self {
        let mine: Vec<(usize, &Vec<(f64, f64)>)> = factors
            .iter()
            .enumerate()
            .filter_map(|(f, factor)| Some((f, &factor.links.iter().find(|l| l.0 == place)?.1)))
            .collect();
        let effect = |choice: usize, z: usize| {
            mine.iter()
                .enumerate()
                .map(|(i, (_, by_zone))| if choice >> i & 1 == 0 { by_zone[z].0 } else { by_zone[z].1 })
                .product::<f64>()
        };
        let zones = |choice| point.mass.iter().enumerate().map(|(z, m)| m * effect(choice, z)).collect();
        let masses: Vec<Vec<f64>> = (0..1usize << mine.len()).map(zones).collect();
        let sums = masses.iter().map(|zones| zones.iter().sum()).collect();
        Self { answers: mine.iter().map(|m| m.0).collect(), masses, sums }
    }

    /// The choice of terms for its answers that a choice of terms for all answers makes.
    fn choice(&self, of_all: usize) -> usize {
        self.answers.iter().enumerate().map(|(i, f)| (of_all >> f & 1) << i).sum()
    }
}

/// Elementary steps that inclusion–exclusion takes.
fn steps_by_signs(reduced: &[Reduced], factors: &[Factor]) -> usize {
    let links: usize = factors.iter().map(|f| f.links.len()).sum();
    let terms = |p: usize| {
        let mine = factors.iter().filter(|f| f.links.iter().any(|l| l.0 == p)).count();
        (reduced[p].mass.len() * (mine + 4)) << mine
    };
    ((links + 2 * reduced.len()) << factors.len()) + (0..reduced.len()).map(terms).sum::<usize>()
}

/// Counts a group by inclusion–exclusion. Each answer's chance is a difference of two products over its points;
/// the product of all answers, multiplied out, is a signed sum of terms in which the points are independent. None
/// where the terms cancel so far that digits would be lost.
fn by_inclusion_exclusion(reduced: &[Reduced], factors: &[Factor]) -> Option<JointPosterior> {
    let points: Vec<Terms> = reduced.iter().enumerate().map(|(p, r)| Terms::new(p, r, factors)).collect();
    let n = points.len();
    let mut weights: Vec<Vec<f64>> = points.iter().map(|t| vec![0.0; t.sums.len()]).collect();
    let (mut total, mut size) = (0.0, 0.0);
    let (mut choice, mut before) = (vec![0usize; n], vec![1.0; n + 1]);
    for signs in 0..1usize << factors.len() {
        let mut term = 1.0;
        for (f, factor) in factors.iter().enumerate() {
            term *= if signs >> f & 1 == 0 { factor.leak.0 } else { -factor.leak.1 };
        }
        if term == 0.0 {
            continue;
        }
        for (p, point) in points.iter().enumerate() {
            choice[p] = point.choice(signs);
            before[p + 1] = before[p] * point.sums[choice[p]];
        }
        total += term * before[n];
        size += (term * before[n]).abs();
        let mut behind = term;
        for p in (0..n).rev() {
            weights[p][choice[p]] += behind * before[p];
            behind *= points[p].sums[choice[p]];
        }
    }
    if total < size * 1e-7 {
        return None;
    }
    let zone =
        |p: usize, z: usize| weights[p].iter().zip(&points[p].masses).map(|(w, zones)| w * zones[z]).sum::<f64>();
    let marginal = |p: usize| (0..reduced[p].mass.len()).map(|z| zone(p, z).max(0.0)).collect();
    Some((total, (0..n).map(marginal).collect()))
}

/// Counts one answer, whatever the number of its points. Its chance is a difference of two products over its
/// points, and every term of it is summed without cancelling.
fn of_one(reduced: &[Reduced], factor: &Factor) -> JointPosterior {
    // By link: the mean effect at the outcome and just below it; the leak stands first, linked to no point.
    let mean = |(p, by_zone): &(usize, Vec<(f64, f64)>)| {
        let mass = &reduced[*p].mass;
        mass.iter().zip(by_zone).fold((0.0, 0.0), |sum, (m, e)| (sum.0 + m * e.0, sum.1 + m * e.1))
    };
    let means: Vec<(f64, f64)> = std::iter::once(factor.leak).chain(factor.links.iter().map(mean)).collect();
    let (_, total) = product_and_difference(means.iter());
    let mut after: Vec<Vec<f64>> = reduced.iter().map(|r| r.mass.iter().map(|m| m * total).collect()).collect();
    for (l, (p, by_zone)) in factor.links.iter().enumerate() {
        let (product, difference) = product_and_difference(means[..=l].iter().chain(&means[l + 2..]));
        for ((slot, m), e) in after[*p].iter_mut().zip(&reduced[*p].mass).zip(by_zone) {
            *slot = m * ((e.0 - e.1).max(0.0) * product + e.1 * difference);
        }
    }
    (total, after)
}

/// `Π a` and `Π a − Π b`, where no `b` is above its `a`: `Aa − Bb = A(a − b) + (A − B)b`.
fn product_and_difference<'m>(pairs: impl Iterator<Item = &'m (f64, f64)>) -> (f64, f64) {
    pairs.fold((1.0, 0.0), |(product, difference), (a, b)| (product * a, product * (a - b).max(0.0) + difference * b))
}

/// Counts a group by its joint states, one after another.
fn by_enumeration(reduced: &[Reduced], factors: &[Factor]) -> JointPosterior {
    let mut walk = Walk {
        reduced,
        factors: (0..reduced.len()).map(|p| factors.iter().filter(|f| f.last == p).collect()).collect(),
        state: vec![0; reduced.len()],
        after: reduced.iter().map(|r| vec![0.0; r.mass.len()]).collect(),
    };
    let total = walk.from(0, 1.0);
    (total, walk.after)
}

/// A walk through every joint state of a group, point by point; an answer is counted as soon as the
/// last of its points has a zone, so that what begins alike is counted once.
struct Walk<'g> {
    reduced: &'g [Reduced],
    factors: Vec<Vec<&'g Factor>>,
    state: Vec<usize>,
    after: Vec<Vec<f64>>,
}

impl Walk<'_> {
    /// Sum of the weights of all states that go on from here; marginals are added on the way back.
    fn from(&mut self, place: usize, weight: f64) -> f64 {
        if place == self.reduced.len() {
            return weight;
        }
        let mut sum = 0.0;
        for zone in 0..self.reduced[place].mass.len() {
            self.state[place] = zone;
            let mut w = weight * self.reduced[place].mass[zone];
            for f in &self.factors[place] {
                if w <= 0.0 {
                    break;
                }
                let (mut at, mut below) = f.leak;
                for (p, by_zone) in &f.links {
                    let (a, b) = by_zone[self.state[*p]];
                    at *= a;
                    below *= b;
                }
                w *= (at - below).max(0.0);
            }
            if w > 0.0 {
                let below = self.from(place + 1, w);
                self.after[place][zone] += below;
                sum += below;
            }
        }
        sum
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Answers that share points in a ring, with figures that depend on the seed.
    fn ring(n: usize, seed: u32) -> (Vec<Reduced>, Vec<Factor>) {
        let figure = |i: usize, k: usize| {
            let x = f64::from(seed).mul_add(0.37, i as f64 * 1.7 + k as f64 * 0.61).sin().abs();
            0.05 + 0.9 * x
        };
        let reduced = (0..n)
            .map(|i| {
                let raw: Vec<f64> = (0..4).map(|k| figure(i, k)).collect();
                let sum: f64 = raw.iter().sum();
                Reduced { point: i, bounds: vec![1.0, 2.0], mass: raw.iter().map(|m| m / sum).collect() }
            })
            .collect();
        let factors = (0..n)
            .map(|i| {
                let places = [i, (i + 1) % n];
                let links = places
                    .map(|p| (p, (0..4).map(|z| (figure(i + p, z), figure(i + p, z) * figure(p, z + 9))).collect()))
                    .to_vec();
                Factor { last: places[0].max(places[1]), leak: (0.97, 0.9), links }
            })
            .collect();
        (reduced, factors)
    }

    #[test]
    fn signs_and_states_count_the_same() {
        for seed in 0..20 {
            let (reduced, factors) = ring(6, seed);
            let (total, after) = by_enumeration(&reduced, &factors);
            let (signed, by_zone) = by_inclusion_exclusion(&reduced, &factors).expect("far from cancelling");
            assert!((total / signed - 1.0).abs() < 1e-9, "{total} {signed}");
            for (x, y) in after.iter().flatten().zip(by_zone.iter().flatten()) {
                assert!((x - y).abs() < 1e-12 + 1e-8 * total, "{x} {y}");
            }
        }
    }

    #[test]
    fn one_answer_alone_counts_as_its_states_do() {
        for seed in 0..20 {
            let (reduced, mut factors) = ring(6, seed);
            let one = factors.swap_remove(2);
            let (total, after) = of_one(&reduced, &one);
            let (states, by_state) = by_enumeration(&reduced, &[one]);
            assert!((total / states - 1.0).abs() < 1e-9, "{total} {states}");
            for (x, y) in after.iter().flatten().zip(by_state.iter().flatten()) {
                assert!((x - y).abs() < 1e-12, "{x} {y}");
            }
        }
    }

    #[test]
    fn terms_that_cancel_are_not_trusted() {
        let (reduced, mut factors) = ring(4, 3);
        for f in &mut factors {
            f.leak = (1.0, 1.0);
            f.links.iter_mut().for_each(|l| l.1.iter_mut().for_each(|e| *e = (1.0, 1.0 - 1e-9)));
        }
        assert!(by_inclusion_exclusion(&reduced, &factors).is_none());
    }
}
