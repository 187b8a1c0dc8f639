//! Care as a hidden level of the whole vehicle: life factors, owners' patience with a fault, and the weights
//! of the three levels.
//!
//! docs/METHOD.md, section 2.

use crate::documents::assumptions::Assumptions;
use crate::documents::care_level::CareLevel;
use crate::documents::failure_point::FailurePoint;

/// A weight for each care level; they sum to 1.
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
