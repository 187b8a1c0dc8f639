//! Method §2 and §4: care as a hidden level of the whole vehicle, and what the papers say of it.
//!
//! Nobody sees how a vehicle was kept; everything is therefore computed in three worlds, one for each
//! level, and the results are mixed. The worlds' weights before findings come from the care index, after
//! them from how likely each world made what was found.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assumptions::Assumptions;
use crate::candidate::{AdvisoryState, Candidate, LedgerEntry};
use crate::family::{FailurePoint, Family, Interval};
use crate::schedule::{performed, times_due};
use crate::standing::PastPath;
use crate::subject::fit;
use crate::units::years_between;

/// How a vehicle is kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CareLevel {
    /// Neglected: late oil, faults left.
    Poor,
    /// As most.
    #[default]
    Ordinary,
    /// Early oil, faults mended at once.
    Good,
}

/// The three levels, in order; weights by level follow it.
pub const LEVELS: [CareLevel; 3] = [CareLevel::Poor, CareLevel::Ordinary, CareLevel::Good];

/// A weight for each of [`LEVELS`]; they sum to 1.
pub type Weights = [f64; 3];

/// Life factor of a point under a level of care: its own, the usual one for what depends on upkeep, or 1.
#[must_use]
pub fn factor(point: &FailurePoint, level: CareLevel, a: &Assumptions) -> f64 {
    let (poor, good) = match (&point.care, point.upkeep) {
        (Some(own), _) => (own.poor, own.good),
        (None, true) => (a.care_poor, a.care_good),
        (None, false) => (1.0, 1.0),
    };
    match level {
        CareLevel::Poor => poor,
        CareLevel::Ordinary => 1.0,
        CareLevel::Good => good,
    }
}

/// How many times as long as at ordinary care owners live with a fault.
#[must_use]
pub fn patience(level: CareLevel, a: &Assumptions) -> f64 {
    match level {
        CareLevel::Poor => a.patience_poor,
        CareLevel::Ordinary => 1.0,
        CareLevel::Good => a.patience_good,
    }
}

/// Weights of the levels by a care index of 0 to 1: `(1−g)²`, `2g(1−g)`, `g²`.
#[must_use]
pub fn weights(index: f64) -> Weights {
    [(1.0 - index) * (1.0 - index), 2.0 * index * (1.0 - index), index * index]
}

/// Sum over the levels of a figure by level.
#[must_use]
pub fn mix(weights: &Weights, by_level: impl Fn(usize) -> f64) -> f64 {
    weights.iter().enumerate().filter(|(_, w)| **w > 0.0).map(|(l, w)| w * by_level(l)).sum()
}

/// Weights after findings: before × likelihood, the likelihoods given as logarithms.
#[must_use]
pub fn after(before: &Weights, ln_likelihood: &[f64; 3]) -> Weights {
    let greatest = ln_likelihood.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let raw: Weights = std::array::from_fn(|l| before[l] * (ln_likelihood[l] - greatest).exp());
    let total: f64 = raw.iter().sum();
    if total > 0.0 { raw.map(|w| w / total) } else { *before }
}

/// What a part of the care index looks at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CareSource {
    /// Services that were due, and how many of them are evidenced.
    Services,
    /// Advisories of past tests put right.
    Advisories,
    /// The service interval kept, against the family's.
    IntervalKept,
    /// Condition of what the owner can see. Never computed, because it is found and not read: the
    /// person's own figure or nothing.
    Condition,
}

impl CareSource {
    /// Every source, in the order in which they are shown.
    pub const ALL: [Self; 4] = [Self::Services, Self::Advisories, Self::IntervalKept, Self::Condition];

    /// Its weight before missing parts are left out.
    #[must_use]
    pub fn weight(self, a: &Assumptions) -> f64 {
        match self {
            Self::Services => a.care_weight_services,
            Self::Advisories => a.care_weight_advisories,
            Self::IntervalKept => a.care_weight_interval,
            Self::Condition => a.care_weight_condition,
        }
    }
}

/// One part of the care index.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CarePart {
    /// What it looks at.
    pub source: CareSource,
    /// 0 to 1: the person's own figure where there is one.
    pub score: f64,
    /// What the papers make it; none where they tell nothing of it.
    pub computed: Option<f64>,
    /// Why the person put a figure of their own in its place.
    pub reason: Option<String>,
    /// What it was counted from: services due, advisories, or pairs of services.
    pub of: f64,
    /// Weight before missing parts are left out.
    pub weight: f64,
}

/// The care index with its parts.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CareIndex {
    /// 0 (neglected) to 1 (well kept); the neutral figure where nothing is known.
    pub index: f64,
    /// What is known.
    pub parts: Vec<CarePart>,
}

/// The care index from the papers. Parts of which nothing is known are left out.
///
/// A service that was due and is not evidenced, or an advisory not proved to be put right, counts as undone
/// once every paper was seen; before that it counts as not known, one half.
#[must_use]
pub fn index(candidate: &Candidate, families: &[Family], path: &PastPath, a: &Assumptions) -> CareIndex {
    let unknown = if candidate.papers_seen { 0.0 } else { 0.5 };
    let (mut due, mut evidenced) = (0.0, 0.0);
    let (mut kept, mut runs) = (0.0, 0.0);
    for family in families {
        for interval in family.intervals.iter().filter(|i| fit(&i.applies, family, candidate, a).is_some()) {
            let times = times_due(interval, path);
            let entries = performed(candidate, family, interval);
            let mut shares: Vec<f64> = entries.iter().map(|e| a.credibility(e.evidence)).collect();
            shares.sort_by(|x, y| y.total_cmp(x));
            due += times;
            let mut left = times;
            for c in shares {
                let counted = left.min(1.0);
                evidenced += counted * (c + (1.0 - c) * unknown);
                left -= counted;
            }
            evidenced += left * unknown;
            for pair in entries.windows(2) {
                kept += kept_score(interval, candidate, pair);
                runs += 1.0;
            }
        }
    }
    let nothing = candidate.ledger.is_empty() && !candidate.papers_seen;
    let (put_right, advised) = advisories(candidate, unknown, a);
    let share = |part: f64, of: f64| (of > 0.0).then(|| part / of);
    let parts: Vec<CarePart> = CareSource::ALL
        .into_iter()
        .filter_map(|source| {
            let (computed, of) = match source {
                CareSource::Services => (share(evidenced, due).filter(|_| !nothing), due),
                CareSource::Advisories => (share(put_right, advised), advised),
                CareSource::IntervalKept => (share(kept, runs), runs),
                CareSource::Condition => (None, 0.0),
            };
            let own = candidate.own.care.get(&source);
            let score = own.map(|o| o.value.get()).or(computed)?;
            let reason = own.map(|o| o.reason.clone());
            Some(CarePart { source, score, computed, reason, of, weight: source.weight(a) })
        })
        .collect();
    let weight: f64 = parts.iter().map(|p| p.weight).sum();
    let index =
        if weight > 0.0 { parts.iter().map(|p| p.weight * p.score).sum::<f64>() / weight } else { a.care_unknown };
    CareIndex { index: index.clamp(0.0, 1.0), parts }
}

/// Advisories put right, each as far as it is believed, and how many there were. One of which nothing is
/// proved counts as not known, one half, until every paper was seen.
fn advisories(candidate: &Candidate, unknown: f64, a: &Assumptions) -> (f64, f64) {
    candidate.advisories.iter().fold((0.0, 0.0), |(right, all), x| {
        let believed = match x.state {
            AdvisoryState::Rectified => 1.0,
            AdvisoryState::SaidRectified => a.credit_sellers_word,
            AdvisoryState::Open => 0.0,
        };
        (right + believed + (1.0 - believed) * unknown, all + 1.0)
    })
}

/// 1 at or below the interval, falling to 0 at twice.
fn kept_score(interval: &Interval, candidate: &Candidate, pair: &[&LedgerEntry]) -> f64 {
    let usage = pair[1].usage.on_clock() - pair[0].usage.on_clock();
    let years = years_between(candidate.built, pair[1].date) - years_between(candidate.built, pair[0].date);
    let over = [interval.usage.map(|u| usage / u), interval.years.map(|y| years / y)];
    let worst = over.into_iter().flatten().fold(0.0, f64::max);
    (2.0 - worst).clamp(0.0, 1.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn weights_sum_to_one_and_follow_the_index() {
        for g in [0.0, 0.1, 0.5, 0.83, 1.0] {
            assert!((weights(g).iter().sum::<f64>() - 1.0).abs() < 1e-15);
        }
        assert_eq!(weights(0.5), [0.25, 0.5, 0.25]);
        assert_eq!(weights(1.0), [0.0, 0.0, 1.0]);
    }

    #[test]
    fn findings_that_no_level_favours_leave_the_weights() {
        let before = weights(0.3);
        let same = after(&before, &[-700.0, -700.0, -700.0]);
        assert!(same.iter().zip(&before).all(|(x, y)| (x - y).abs() < 1e-15));
        let moved = after(&before, &[0.0, -1.0, -2.0]);
        assert!(moved[0] > before[0] && moved[2] < before[2]);
    }
}
