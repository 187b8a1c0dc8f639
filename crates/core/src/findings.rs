//! Method §5: what findings say of the points behind them.
//!
//! Each cause has its own effect on a check's outcome and the worst effect shows (noisy-MAX), over a
//! leak for every other cause and for error: `P(outcome ≤ g) = Leak(≤g) · Π C_i(≤g | zone_i)`.
//! An outcome of 0 touches each point alone. A higher one couples the points it links, and those are
//! weighed together, exactly, by connected groups.

use crate::family::Check;
use crate::future::Zones;
use crate::units::Probability;

/// A check that was done, with the points it speaks of among those that concern this candidate.
#[derive(Debug, Clone)]
pub struct Answer<'a> {
    /// The check.
    pub check: &'a Check,
    /// Which outcome.
    pub outcome: usize,
    /// For each link that concerns this candidate: index of the point, and of the link.
    pub links: Vec<(usize, usize)>,
    /// A name that orders answers, so that the order of entry never matters.
    pub key: String,
}

/// Chance that the outcome is `g` or quieter under a distribution.
fn up_to(dist: &[Probability], g: usize) -> f64 {
    dist.iter().take(g + 1).map(|p| p.get()).sum::<f64>().min(1.0)
}

/// Effect of one link at `g` or quieter, by zone.
#[derive(Debug, Clone, Copy)]
struct Effect {
    present: f64,
    coming: f64,
    lead: f64,
}

impl Effect {
    fn new(check: &Check, link: usize, g: usize) -> Self {
        let link = &check.links[link];
        let (coming, lead) = match (&link.coming, link.lead) {
            (Some(dist), Some(lead)) => (up_to(dist, g), lead),
            _ => (1.0, 0.0),
        };
        Self { present: up_to(&link.present, g), coming, lead }
    }

    /// For a cell by its upper edge of remaining usage.
    fn within(&self, upper: f64) -> f64 {
        if upper <= self.lead { self.coming } else { 1.0 }
    }
}

/// Moves the points' zones by every answer. Returns whether some group was too large to be exact.
pub fn weigh(zones: &mut [Zones], answers: &[Answer<'_>], joint_states: f64) -> bool {
    let mut answers: Vec<&Answer<'_>> = answers.iter().filter(|a| !a.links.is_empty()).collect();
    answers.sort_by(|a, b| a.key.cmp(&b.key));
    let (coupling, single): (Vec<&Answer<'_>>, Vec<&Answer<'_>>) =
        answers.into_iter().partition(|a| a.outcome > 0 && a.links.len() > 1);
    for a in single {
        for &(point, link) in &a.links {
            let at = Effect::new(a.check, link, a.outcome);
            if a.outcome == 0 {
                zones[point].weigh(at.present, 1.0, |upper| at.within(upper));
            } else {
                let below = Effect::new(a.check, link, a.outcome - 1);
                let (l1, l0) = (up_to(&a.check.leak, a.outcome), up_to(&a.check.leak, a.outcome - 1));
                zones[point].weigh(l1 * at.present - l0 * below.present, l1 - l0, |upper| {
                    l1 * at.within(upper) - l0 * below.within(upper)
                });
            }
        }
    }
    let mut approximate = false;
    for group in connected(&coupling) {
        if !weigh_jointly(zones, &group, joint_states) {
            approximate = true;
            for a in group {
                weigh_jointly(zones, &[a], f64::INFINITY);
            }
        }
    }
    approximate
}

/// Answers that share a point, directly or through others, together.
fn connected<'a, 'b>(answers: &[&'b Answer<'a>]) -> Vec<Vec<&'b Answer<'a>>> {
    let mut groups: Vec<Vec<&Answer<'a>>> = Vec::new();
    for &a in answers {
        let touches =
            |g: &Vec<&Answer<'a>>| g.iter().any(|b| b.links.iter().any(|(p, _)| a.links.iter().any(|(q, _)| p == q)));
        let (mut joined, apart): (Vec<_>, Vec<_>) = groups.into_iter().partition(touches);
        groups = apart;
        let mut merged: Vec<&Answer<'a>> = joined.drain(..).flatten().collect();
        merged.push(a);
        groups.push(merged);
    }
    groups
}

/// One point reduced to what the group's checks can tell apart: bands of remaining life from the
/// nearest to "sound or immune", and present last.
struct Reduced {
    point: usize,
    /// Upper ends of the bands, ascending; the band after the last is sound.
    bounds: Vec<f64>,
    mass: Vec<f64>,
}

impl Reduced {
    fn new(point: usize, zones: &Zones, mut bounds: Vec<f64>) -> Self {
        bounds.sort_by(f64::total_cmp);
        bounds.dedup();
        let mut mass = vec![0.0; bounds.len() + 2];
        for (i, m) in zones.cells.iter().enumerate() {
            mass[Self::band(&bounds, zones.grid.edges()[i + 1])] += m;
        }
        mass[bounds.len()] += zones.tail + zones.immune;
        mass[bounds.len() + 1] = zones.present;
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

/// Exact joint posterior of a group; false, and nothing changed, when it has too many states.
#[allow(clippy::cast_precision_loss)]
fn weigh_jointly(zones: &mut [Zones], group: &[&Answer<'_>], joint_states: f64) -> bool {
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
            Reduced::new(p, &zones[p], bounds)
        })
        .collect();
    let states: f64 = reduced.iter().map(|r| r.mass.len() as f64).product();
    if states > joint_states {
        return false;
    }
    // For each answer and linked point: the effect by zone at the outcome and just below it.
    struct Factor {
        place: usize,
        at: Vec<f64>,
        below: Vec<f64>,
    }
    let factors: Vec<(f64, f64, Vec<Factor>)> = group
        .iter()
        .map(|a| {
            let links = a
                .links
                .iter()
                .filter_map(|&(p, l)| {
                    let place = points.binary_search(&p).ok()?;
                    let r = &reduced[place];
                    let by_zone = |g: usize| {
                        let e = Effect::new(a.check, l, g);
                        (0..r.mass.len()).map(|z| r.effect(&e, z)).collect::<Vec<_>>()
                    };
                    Some(Factor { place, at: by_zone(a.outcome), below: by_zone(a.outcome - 1) })
                })
                .collect();
            (up_to(&a.check.leak, a.outcome), up_to(&a.check.leak, a.outcome - 1), links)
        })
        .collect();
    let mut after: Vec<Vec<f64>> = reduced.iter().map(|r| vec![0.0; r.mass.len()]).collect();
    let mut state = vec![0usize; reduced.len()];
    let mut total = 0.0;
    loop {
        let mut weight: f64 = state.iter().zip(&reduced).map(|(&z, r)| r.mass[z]).product();
        if weight > 0.0 {
            for (leak, leak_below, links) in &factors {
                let (mut at, mut below) = (*leak, *leak_below);
                for f in links {
                    at *= f.at[state[f.place]];
                    below *= f.below[state[f.place]];
                }
                weight *= (at - below).max(0.0);
            }
            total += weight;
            for (marginal, &z) in after.iter_mut().zip(&state) {
                marginal[z] += weight;
            }
        }
        // The next state, as an odometer turns.
        let mut i = 0;
        while i < state.len() {
            state[i] += 1;
            if state[i] < reduced[i].mass.len() {
                break;
            }
            state[i] = 0;
            i += 1;
        }
        if i == state.len() {
            break;
        }
    }
    if total > 0.0 {
        for (r, marginal) in reduced.iter().zip(&after) {
            let ratio: Vec<f64> =
                r.mass.iter().zip(marginal).map(|(m, a)| if *m > 0.0 { a / total / m } else { 0.0 }).collect();
            let sound = r.bounds.len();
            zones[r.point].weigh(ratio[sound + 1], ratio[sound], |upper| ratio[Reduced::band(&r.bounds, upper)]);
        }
    }
    true
}

/// Chance of each outcome of a check not yet done, the points it links taken as independent.
#[must_use]
pub fn outlook(check: &Check, links: &[(usize, usize)], zones: &[Zones]) -> Vec<f64> {
    let cumulative: Vec<f64> = (0..check.outcomes.len())
        .map(|g| {
            links.iter().fold(up_to(&check.leak, g), |acc, &(point, link)| {
                let e = Effect::new(check, link, g);
                let z = &zones[point];
                let coming: f64 = z.cells.iter().zip(&z.grid.edges()[1..]).map(|(m, upper)| m * e.within(*upper)).sum();
                acc * (z.present * e.present + coming + z.tail + z.immune)
            })
        })
        .collect();
    cumulative.iter().enumerate().map(|(g, c)| if g == 0 { *c } else { (c - cumulative[g - 1]).max(0.0) }).collect()
}
