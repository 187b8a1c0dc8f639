//! Findings, weighed jointly.
//!
//! Each cause has its own effect on a check's outcome and the worst effect shows (noisy-MAX), over a leak for
//! every other cause and for error: `P(outcome ≤ g) = Leak(≤g) · Π C_i(≤g | zone_i)`. A check that is a sign of
//! care has a leak of its own under each level of care. An outcome of 0 touches each point alone. A higher one
//! couples the points it links; those are weighed together, exactly, by connected groups.
//!
//! docs/METHOD.md, section 5.

use crate::base::budget::Budget;
use crate::documents::care_level::CareLevel;
use crate::documents::check::Check;
use crate::inference::check_effect::{Answer, Effect, IMPOSSIBLE, leak};
use crate::inference::joint_posterior::weigh_jointly;
use crate::reliability::remaining_life::RemainingLife;

/// What weighing findings came to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Weighed {
    /// Logarithm of the chance of all the findings together.
    pub ln_likelihood: f64,
    /// Whether some group had too many joint states and was weighed one finding after another.
    pub approximate: bool,
}

/// Moves the points' remaining lives, computed under a level of care, by every answer.
pub fn weigh(
    remaining: &mut [RemainingLife],
    answers: &[Answer<'_>],
    level: CareLevel,
    joint_states: f64,
    budget: &Budget<'_>,
) -> Weighed {
    let mut answers: Vec<&Answer<'_>> = answers.iter().collect();
    answers.sort_by(|a, b| a.key.cmp(&b.key));
    let (coupling, single): (Vec<&Answer<'_>>, Vec<&Answer<'_>>) =
        answers.into_iter().partition(|a| a.outcome > 0 && a.links.len() > 1);
    let mut ln = 0.0;
    let mut count = |chance: f64| ln += chance.max(IMPOSSIBLE).ln();
    for a in single {
        let l1 = leak(a.check, level, a.outcome);
        if a.outcome == 0 {
            count(l1);
            for &(point, link) in &a.links {
                let at = Effect::new(a.check, link, 0);
                count(remaining[point].weigh(at.present, 1.0, at.lead, at.coming));
            }
        } else {
            let l0 = leak(a.check, level, a.outcome - 1);
            let Some(&(point, link)) = a.links.first() else {
                count(l1 - l0);
                continue;
            };
            let (at, below) = (Effect::new(a.check, link, a.outcome), Effect::new(a.check, link, a.outcome - 1));
            count(remaining[point].weigh(
                l1 * at.present - l0 * below.present,
                l1 - l0,
                at.lead,
                l1 * at.coming - l0 * below.coming,
            ));
        }
    }
    let mut approximate = false;
    for group in connected(&coupling) {
        match weigh_jointly(remaining, &group, level, joint_states, budget) {
            Some(chance) => count(chance),
            None => {
                approximate = true;
                for a in group {
                    count(weigh_jointly(remaining, &[a], level, joint_states, budget).unwrap_or(1.0));
                }
            }
        }
    }
    Weighed { ln_likelihood: ln, approximate }
}

/// Answers that share a point, directly or through others, together.
/// Kept apart from [`components`](crate::base::components::components): its order decides the last digit of a
/// product, and the figures are held to that.
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

/// Chance of each outcome of a check not yet done under a level of care, the points it links taken as
/// independent.
#[must_use]
pub fn outlook(check: &Check, links: &[(usize, usize)], remaining: &[RemainingLife], level: CareLevel) -> Vec<f64> {
    let cumulative: Vec<f64> = (0..check.outcomes.len())
        .map(|g| {
            links.iter().fold(leak(check, level, g), |acc, &(point, link)| {
                let e = Effect::new(check, link, g);
                let z = &remaining[point];
                let coming: f64 = z.cells.iter().zip(&z.grid.edges()[1..]).map(|(m, upper)| m * e.within(*upper)).sum();
                acc * (z.present * e.present + coming + z.tail + z.immune)
            })
        })
        .collect();
    cumulative.iter().enumerate().map(|(g, c)| if g == 0 { *c } else { (c - cumulative[g - 1]).max(0.0) }).collect()
}
