//! How often a sign comes from something else, where a sheet says in words how telling it is.
//!
//! What a word means is fixed on the typical example of the family at this usage and age; the chance that the sign
//! comes from anything else follows. It does not depend on what else is known of the vehicle.
//!
//! docs/METHOD.md, section 5.

use std::collections::{BTreeMap, BTreeSet};

use crate::base::units::Probability;
use crate::base::weibull::CurveError;
use crate::documents::assumptions::Assumptions;
use crate::documents::check::{Check, Link};
use crate::documents::family::Family;
use crate::documents::words::Telling;
use crate::inference::applicable_point::{ApplicablePoint, applicable_points};
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::setting::{Setting, View};
use crate::reliability::care;
use crate::reliability::mixture::{PointLives, SourceSelection};
use crate::reliability::remaining_life::RemainingLife;
use crate::reliability::survival_grid::PreparedParts;

/// Whether a check says in words how telling its outcomes are.
fn in_words(c: &Check) -> bool {
    c.leak.is_empty()
}

/// Fills in the leaks of every check that is given in words.
///
/// # Errors
/// [`CurveError`] from a claim that makes no curve.
pub(crate) fn fill_leaks(families: &mut [Family], setting: &Setting<'_>) -> Result<(), CurveError> {
    if !families.iter().flat_map(|f| &f.checks).any(in_words) {
        return Ok(());
    }
    let leaks = leaks(families, setting)?;
    let missing = families.iter_mut().flat_map(|f| &mut f.checks).filter(|c| in_words(c));
    missing.zip(leaks).for_each(|(c, leak)| c.leak = leak);
    Ok(())
}

/// The leaks of the checks in words, in the sheets' order.
fn leaks(families: &[Family], setting: &Setting<'_>) -> Result<Vec<Vec<Probability>>, CurveError> {
    let points = applicable_points(setting.candidate, families, setting.assumptions);
    let checks: Vec<(&Family, &Check)> =
        families.iter().flat_map(|f| f.checks.iter().filter(|c| in_words(c)).map(move |c| (f, c))).collect();
    // Each point is followed once, however many checks ask for it.
    let asked: BTreeSet<usize> = checks
        .iter()
        .flat_map(|(f, c)| (1..c.outcomes.len()).flat_map(move |g| weighed(c, g)).map(move |l| (f, l)))
        .filter_map(|(f, l)| place(&points, f, l))
        .collect();
    let followed = setting.budget.in_pieces(asked.into_iter().collect(), &|budget, places: Vec<usize>| {
        let setting = setting.for_piece(budget);
        places.into_iter().map(|i| Ok((i, remaining(&setting, &points[i])?))).collect()
    });
    let lives = followed.into_iter().collect::<Result<_, CurveError>>()?;
    let typical = Typical { assumptions: setting.assumptions, points: &points, lives };
    Ok(checks.into_iter().map(|(f, c)| typical.leak(f, c)).collect())
}

/// The word that an outcome's links are told by, the strongest.
fn word(check: &Check, outcome: usize) -> Option<Telling> {
    check.links.iter().filter_map(|l| told(l, outcome)).max()
}

fn told(link: &Link, outcome: usize) -> Option<Telling> {
    link.signs.iter().find(|s| s.outcome == outcome).map(|s| s.says)
}

/// The links whose points are weighed for an outcome's leak: those told by the strongest word, but where it is direct.
fn weighed(check: &Check, outcome: usize) -> impl Iterator<Item = &Link> {
    let word = word(check, outcome).filter(|w| *w != Telling::Is);
    check.links.iter().filter(move |l| word.is_some() && told(l, outcome) == word)
}

/// Where a linked point stands among those that concern this variant.
fn place(points: &[ApplicablePoint<'_>], family: &Family, link: &Link) -> Option<usize> {
    points.iter().position(|p| p.family.id == family.id && p.point.id == link.point)
}

/// Remaining life of a point of the typical example under each level of care, all sources heard.
fn remaining(setting: &Setting<'_>, applicable_point: &ApplicablePoint<'_>) -> Result<[RemainingLife; 3], CurveError> {
    let sources = &applicable_point.family.sources;
    let lives = PointLives::pool(applicable_point.point, sources, SourceSelection::All, setting.assumptions)?;
    let curves = setting.curves(applicable_point, &lives);
    let view = View { applicable_point, lives: &lives, curves: &curves };
    let grid = setting.typical_grid(applicable_point);
    Ok(setting.scenarios(&view, &mut PreparedParts::default(), &grid, EvidenceMask::REFERENCE, false).0)
}

/// The typical example's points, as far as they are asked for.
struct Typical<'a> {
    assumptions: &'a Assumptions,
    points: &'a [ApplicablePoint<'a>],
    lives: BTreeMap<usize, [RemainingLife; 3]>,
}

/// One cause of a sign on the typical example.
struct Cause {
    /// Chance that it is there or near.
    there: f64,
    /// Chance that it is, and shows the outcome or a worse one.
    shows: f64,
}

impl Typical<'_> {
    fn leak(&self, family: &Family, check: &Check) -> Vec<Probability> {
        let a = self.assumptions;
        let outcomes = check.outcomes.len();
        // Chance of each outcome or a worse one from anything else, the worst first.
        let mut reaches = vec![0.0; outcomes + 2];
        for g in (1..outcomes).rev() {
            let own = match word(check, g) {
                None => a.leak_least,
                Some(Telling::Is) => a.leak_direct,
                Some(word) => {
                    let causes: Vec<Cause> = weighed(check, g).filter_map(|l| self.cause(family, l, g)).collect();
                    from_word(meaning(word, a), &causes, a)
                }
            };
            // Each outcome may come from something else, and a worse one never speaks less for its fault than a lesser.
            let least = if g + 1 < outcomes { least_beside(check, &reaches, g).max(a.leak_least) } else { 0.0 };
            reaches[g] = f64::max(own, reaches[g + 1] + least);
        }
        reaches[0] = 1.0;
        let each = reaches[..=outcomes].windows(2).map(|w| (w[0] - w[1]).clamp(0.0, 1.0));
        each.filter_map(|p| Probability::try_from(p).ok()).collect()
    }

    /// A linked point on the typical example; none where it does not concern this variant.
    fn cause(&self, family: &Family, link: &Link, outcome: usize) -> Option<Cause> {
        let lives = self.lives.get(&place(self.points, family, link)?)?;
        let usual = care::weights(self.assumptions.care_unknown);
        let (present, near) = (
            care::mix(&usual, |l| lives[l].present),
            care::mix(&usual, |l| link.lead.map_or(0.0, |lead| within(&lives[l], lead))),
        );
        let from = |dist: &[Probability]| dist.iter().skip(outcome).map(|p| p.get()).sum::<f64>();
        let coming = link.coming.as_deref().map_or(0.0, from);
        Some(Cause { there: present + near, shows: present * from(&link.present) + near * coming })
    }
}

/// The least chance of an outcome alone from anything else, with which no fault that shows a worse one too is likelier
/// after this one. `reaches` is known for the worse outcomes.
fn least_beside(check: &Check, reaches: &[f64], g: usize) -> f64 {
    let worse = reaches[g + 1] - reaches[g + 2];
    let tail = |dist: &[Probability], g: usize| dist.iter().skip(g).map(|p| p.get()).sum::<f64>();
    let causes = check
        .links
        .iter()
        .filter(|l| !l.signs.is_empty())
        .flat_map(|l| std::iter::once(l.present.as_slice()).chain(l.coming.as_deref()));
    causes
        .filter(|d| tail(d, g + 1) > 0.0 && worse > 0.0)
        .map(|d| {
            // Chances of this outcome or a quieter one, from the fault and from anything else.
            let (quieter, until, beyond) = (1.0 - tail(d, g), 1.0 - tail(d, g + 1), 1.0 - tail(d, g + 2));
            let (leak, leak_beyond) = (1.0 - reaches[g + 1], 1.0 - reaches[g + 2]);
            let ratio = (leak_beyond * beyond - leak * until) / worse;
            let over = ratio - quieter;
            if over > 0.0 { leak * (until - quieter) / over } else { 0.0 }
        })
        .fold(0.0, f64::max)
        .min(0.5)
}

/// Chance of a failure within a lead.
fn within(z: &RemainingLife, lead: f64) -> f64 {
    z.cells.iter().enumerate().filter(|(i, _)| z.grid.edges()[i + 1] <= lead).map(|(_, m)| m).sum()
}

/// What a word means on the typical example.
fn meaning(word: Telling, a: &Assumptions) -> f64 {
    match word {
        Telling::Hint => a.says_hint,
        Telling::Clear => a.says_clear,
        Telling::Sure | Telling::Is => a.says_sure,
    }
}

/// Chance of the sign from anything else, with which it means what the word says: of p, the chance that a cause is
/// there or near, and d, with which it then shows, `c = p(d + l − dl) / (p(d + l − dl) + (1 − p)l)`.
fn from_word(c: f64, causes: &[Cause], a: &Assumptions) -> f64 {
    let p = 1.0 - causes.iter().map(|x| 1.0 - x.there).product::<f64>();
    let all: f64 = causes.iter().map(|x| x.there).sum();
    if p <= 0.0 || all <= 0.0 {
        return a.leak_least;
    }
    let d = causes.iter().map(|x| x.shows).sum::<f64>() / all;
    let below = c * (1.0 - p * d) - p * (1.0 - d);
    if below <= 0.0 {
        return a.leak_most;
    }
    (p * d * (1.0 - c) / below).clamp(a.leak_least, a.leak_most)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_sign_means_what_its_word_says_on_the_typical_example() {
        let a = Assumptions::default();
        for (c, there, shows) in [(0.95, 0.2, 0.9), (0.75, 0.05, 0.6), (0.35, 0.02, 0.3)] {
            let l = from_word(c, &[Cause { there, shows: there * shows }], &a);
            let sign = there * (shows + l - shows * l);
            let means = sign / (sign + (1.0 - there) * l);
            assert!(l > a.leak_least && l < a.leak_most);
            assert!((means - c).abs() < 1e-12, "{c}: {means}");
        }
        // Commoner than the word says: nothing else need be the cause, and the least is kept.
        assert!(from_word(0.35, &[Cause { there: 0.6, shows: 0.54 }], &a) >= a.leak_least);
    }
}
