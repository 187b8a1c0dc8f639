//! In which stage a fault is that is there: by how long each lasts, and by what was found.
//!
//! docs/METHOD.md, section 7, "Stages".

use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Family;

/// Chance of each stage of a fault that is there, of one that began at a time nobody knows: as long as each lasts.
#[must_use]
pub fn usual(point: &FailurePoint) -> Vec<f64> {
    let all: f64 = point.stages.iter().map(|s| s.tolerable).sum();
    point.stages.iter().map(|s| s.tolerable / all).collect()
}

/// The same after the candidate's findings: an outcome that shows a stage speaks for it.
#[must_use]
pub fn found(point: &FailurePoint, family: &Family, candidate: &Candidate, a: &Assumptions) -> Vec<f64> {
    let mut chances = usual(point);
    #[allow(clippy::cast_precision_loss)]
    let others = (chances.len().max(2) - 1) as f64;
    for check in &family.checks {
        for link in check.links.iter().filter(|l| l.point == point.id) {
            let outcome = candidate.outcome_of(family, check);
            let Some(shown) = outcome.and_then(|o| link.stages.get(o)).filter(|s| **s > 0) else { continue };
            for (k, chance) in chances.iter_mut().enumerate() {
                *chance *= if k + 1 == *shown { a.stage_told } else { (1.0 - a.stage_told) / others };
            }
        }
    }
    let all: f64 = chances.iter().sum();
    if all > 0.0 { chances.iter().map(|c| c / all).collect() } else { usual(point) }
}
