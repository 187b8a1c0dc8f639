//! In which stage a fault is that is there: by how long each lasts, and by what was found.
//!
//! docs/METHOD.md, section 7, "Stages".

use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::Link;
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
    for check in &family.checks {
        for link in check.links.iter().filter(|l| l.point == point.id) {
            let outcome = candidate.outcome_of(family, check);
            let Some(shown) = outcome.and_then(|o| link.stages.get(o)).filter(|s| **s > 0) else { continue };
            speak(&mut chances, *shown, a);
        }
    }
    let all: f64 = chances.iter().sum();
    if all > 0.0 { chances.iter().map(|c| c / all).collect() } else { usual(point) }
}

/// An outcome that shows a stage, from 1, speaks for it.
fn speak(chances: &mut [f64], shown: usize, a: &Assumptions) {
    #[allow(clippy::cast_precision_loss)]
    let others = (chances.len().max(2) - 1) as f64;
    for (k, chance) in chances.iter_mut().enumerate() {
        *chance *= if k + 1 == shown { a.stage_told } else { (1.0 - a.stage_told) / others };
    }
}

/// By outcome of a check: how far what it would show of a fault's stage moves what a fault that is there costs beyond
/// its own job. On average over the outcomes that the fault brings it moves nothing. Empty where no outcome shows one.
///
/// `now` holds each stage's chance and cost.
#[must_use]
pub fn told(link: &Link, now: &[(f64, f64)], own: f64, a: &Assumptions) -> Vec<f64> {
    if now.is_empty() || link.stages.iter().all(|s| *s == 0) {
        return Vec::new();
    }
    let beyond = |chances: &[f64]| {
        let all: f64 = chances.iter().sum();
        let grown = chances.iter().zip(now).map(|(w, (_, cost))| w * (cost - own).max(0.0));
        if all > 0.0 { grown.sum::<f64>() / all } else { 0.0 }
    };
    let after = |outcome: usize| {
        let mut chances: Vec<f64> = now.iter().map(|x| x.0).collect();
        if let Some(shown) = link.stages.get(outcome).filter(|s| **s > 0) {
            speak(&mut chances, *shown, a);
        }
        beyond(&chances)
    };
    let costs: Vec<f64> = (0..link.present.len()).map(after).collect();
    let mean: f64 = costs.iter().zip(&link.present).map(|(c, p)| c * p.get()).sum();
    costs.iter().map(|c| c - mean).collect()
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;

    #[test]
    fn what_a_check_may_tell_of_the_stage_moves_nothing_on_average() {
        let a = Assumptions::default();
        let whole = json!({"point": "sill", "present": [0.2, 0.5, 0.3], "stages": [0, 2, 3]});
        let link: Link = serde_json::from_value(whole).expect("a link");
        let now = [(0.5, 150.0), (0.375, 900.0), (0.125, 2400.0)];
        let moves = told(&link, &now, 150.0, &a);
        let mean: f64 = moves.iter().zip(&link.present).map(|(m, p)| m * p.get()).sum();
        assert!(mean.abs() < 1e-9 && moves[0] < moves[1] && moves[1] < moves[2], "{moves:?}");
        // Structure shown: by hand, 0.05, 0.0375 and 0.1 of 0.1875.
        let structure = (0.0375 * 750.0 + 0.1 * 2250.0) / 0.1875;
        let nothing = 0.375 * 750.0 + 0.125 * 2250.0;
        assert!((moves[2] - moves[0] - (structure - nothing)).abs() < 1e-9, "{moves:?}");
        assert!(told(&Link { stages: vec![0, 0, 0], ..link.clone() }, &now, 150.0, &a).is_empty());
        assert!(told(&link, &[], 150.0, &a).is_empty());
    }
}
