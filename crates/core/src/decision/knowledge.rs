//! How much of what matters has been looked at.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::decision::point_result::{PointResult, WhyKind, after};
use crate::documents::candidate::Candidate;
use crate::documents::paper::{ProvenanceKind, ProvenanceState};

/// How much of what matters has been looked at.
#[must_use]
pub fn knowledge(candidate: &Candidate, points: &[PointResult]) -> Knowledge {
    let looked = |p: &&PointResult| !p.seen.is_empty() || p.renewals.iter().any(|r| r.proved);
    let money = |p: &PointResult| after(p, WhyKind::Papers) * p.cost.mean;
    let all: f64 = points.iter().map(money).sum();
    let asked =
        |item: &ProvenanceKind| candidate.provenance_of(*item).is_some_and(|p| p.state != ProvenanceState::NotAsked);
    Knowledge {
        money: if all > 0.0 { points.iter().filter(looked).map(money).sum::<f64>() / all } else { 1.0 },
        points: points.iter().filter(looked).count(),
        of_points: points.len(),
        provenance: ProvenanceKind::ALL.iter().filter(|i| asked(i)).count(),
        of_provenance: ProvenanceKind::ALL.len(),
    }
}

/// How much of what matters has been looked at. A point is looked at where a check that speaks of it is done, or
/// where a paper proves its part renewed.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Knowledge {
    /// Of the money that papers, usage and age alone let one expect from failure points, the share that comes from
    /// points looked at.
    pub money: f64,
    /// Points looked at.
    pub points: usize,
    /// Points in all.
    pub of_points: usize,
    /// Items of a history report asked.
    pub provenance: usize,
    /// Items in all.
    pub of_provenance: usize,
}
