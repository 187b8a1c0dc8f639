//! The care index: what the papers say of how the vehicle was kept.
//!
//! docs/METHOD.md, section 4.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::years_between;
use crate::documents::applicability::work_concerns;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::care_level::CareSource;
use crate::documents::family::Family;
use crate::documents::job::Interval;
use crate::documents::paper::{AdvisoryState, LedgerEntry};
use crate::evidence::intervals::{performed, times_due};
use crate::reliability::usage_path::PastPath;

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

impl CareSource {
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

/// The care index from the papers. Parts of which nothing is known are left out.
///
/// A service that was due and is not evidenced, or an advisory not proved to be put right, counts as undone
/// once every paper was seen; before that it counts as not known, one half.
#[must_use]
pub fn index(candidate: &Candidate, families: &[Family], path: &PastPath, a: &Assumptions) -> CareIndex {
    let unknown = if candidate.papers_seen { 0.0 } else { a.service_unseen };
    let (mut due, mut evidenced) = (0.0, 0.0);
    let (mut kept, mut runs) = (0.0, 0.0);
    for family in families {
        for interval in family.intervals.iter().filter(|i| work_concerns(i, family, families, candidate, a)) {
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
                // Between two papers there may have been a service of which the paper is missing.
                let score = kept_score(interval, candidate, pair);
                kept += score + (1.0 - score) * unknown;
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
                CareSource::Services => {
                    let added = a.care_services_added;
                    let shrunk = share(evidenced + added * a.service_unseen, due + added);
                    (shrunk.filter(|_| !nothing && due > 0.0), due)
                }
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
