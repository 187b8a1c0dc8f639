//! Every point's remaining life under each level of care, and how likely each level is.
//!
//! docs/METHOD.md, section 2.

use crate::base::budget::Budget;
use crate::documents::care_level::LEVELS;
use crate::inference::check_effect::Answer;
use crate::inference::findings::weigh;
use crate::reliability::care::{self, Weights};
use crate::reliability::remaining_life::RemainingLife;

/// Every point's remaining life in the three care scenarios, and how likely each care scenario is.
#[derive(Debug, Clone)]
pub struct CareScenarios {
    /// Zones by level of care, then by point.
    pub remaining: [Vec<RemainingLife>; 3],
    /// Weights of the levels.
    pub weights: Weights,
    /// Whether some findings were weighed one after another for want of room.
    pub approximate: bool,
}

impl CareScenarios {
    /// Scenarios before findings, from every point's remaining life by level.
    #[must_use]
    pub fn before(points: &[[RemainingLife; 3]], weights: Weights) -> Self {
        let remaining = std::array::from_fn(|l| points.iter().map(|p| p[l].clone()).collect());
        Self { remaining, weights, approximate: false }
    }

    /// The same scenarios after the findings. A care scenario that made them likelier weighs more: so a neglected
    /// detail speaks for what cannot be seen.
    #[must_use]
    pub fn found(mut self, answers: &[Answer<'_>], joint_states: f64, budget: &Budget<'_>) -> Self {
        let mut ln = [0.0; 3];
        for (l, level) in LEVELS.into_iter().enumerate() {
            let weighed = weigh(&mut self.remaining[l], answers, level, joint_states, budget);
            ln[l] = weighed.ln_likelihood;
            self.approximate |= weighed.approximate;
        }
        self.weights = care::after(&self.weights, &ln);
        self
    }

    /// A point's remaining life, the scenarios mixed.
    #[must_use]
    pub fn mixed(&self, point: usize) -> RemainingLife {
        let parts: Vec<(f64, &RemainingLife)> = (0..3).map(|l| (self.weights[l], &self.remaining[l][point])).collect();
        RemainingLife::mixture(&parts)
    }

    /// Chance that the point is there now or comes within the plan, the scenarios mixed.
    #[must_use]
    pub fn by_horizon(&self, point: usize) -> f64 {
        care::mix(&self.weights, |l| self.remaining[l][point].by_horizon())
    }

    /// Chance that it is there now, the scenarios mixed.
    #[must_use]
    pub fn present(&self, point: usize) -> f64 {
        care::mix(&self.weights, |l| self.remaining[l][point].present)
    }
}

/// Chance within the plan of one point seen in the three care scenarios.
#[must_use]
pub fn mixed_chance(remaining: &[RemainingLife; 3], weights: &Weights) -> f64 {
    care::mix(weights, |l| remaining[l].by_horizon())
}
