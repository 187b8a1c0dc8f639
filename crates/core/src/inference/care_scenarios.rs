//! Every point's remaining life under each level of care, and how likely each level is.
//!
//! docs/METHOD.md, section 2.

use std::sync::Arc;

use crate::inference::tied::Block;
use crate::reliability::care::{self, Weights};
use crate::reliability::remaining_life::RemainingLife;

/// Every point's remaining life in the three care scenarios, and how likely each care scenario is.
#[derive(Debug, Clone)]
pub struct CareScenarios {
    /// Zones by level of care, then by point.
    pub remaining: [Vec<RemainingLife>; 3],
    /// Weights of the levels.
    pub weights: Weights,
    /// What the weights come from.
    pub voices: CareVoices,
    /// Whether some findings were weighed one after another for want of room.
    pub approximate: bool,
    /// Points that are not independent within a scenario: faults and what they wear.
    pub blocks: Vec<Arc<Block>>,
}

impl CareScenarios {
    /// Scenarios before findings, from every point's remaining life by level.
    #[must_use]
    pub fn before(points: &[[RemainingLife; 3]], weights: Weights) -> Self {
        let remaining = std::array::from_fn(|l| points.iter().map(|p| p[l].clone()).collect());
        let voices = CareVoices { prior: weights, ln_findings: [0.0; 3], signs: Vec::new() };
        Self { remaining, weights, voices, approximate: false, blocks: Vec::new() }
    }

    /// The same after findings were weighed: a care scenario that made them likelier weighs more. So a neglected detail
    /// speaks for what cannot be seen.
    pub(crate) fn hear(&mut self, voices: CareVoices) {
        self.weights = voices.weights(None);
        self.voices = voices;
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

/// What speaks for each level of care: papers, findings, and of these the signs of care.
///
/// Signs of care go together: who lets one thing go lets others go. On each side the k-th, the strongest first,
/// counts with power `√k − √(k−1)`, so that m equal ones count as √m and a further one never weakens (Kish 1965).
#[derive(Debug, Clone)]
pub struct CareVoices {
    /// Weights by the papers.
    prior: Weights,
    /// Logarithm of the chance of all the findings under each level.
    ln_findings: [f64; 3],
    /// The same of each sign of care alone, the points that it links as papers leave them.
    signs: Vec<[f64; 3]>,
}

impl CareVoices {
    /// The same papers with what findings say: the logarithm of the chance of them all under each level, and that of each
    /// sign of care alone.
    pub(crate) fn with(&self, ln_findings: [f64; 3], signs: Vec<[f64; 3]>) -> Self {
        Self { prior: self.prior, ln_findings, signs }
    }

    /// Weights of the levels, with one more sign of care if there is one, by its logarithms of chance.
    #[must_use]
    pub fn weights(&self, more: Option<[f64; 3]>) -> Weights {
        let mut ln = self.ln_findings;
        let mut signs: Vec<[f64; 3]> = self.signs.clone();
        if let Some(sign) = more {
            (0..3).for_each(|l| ln[l] += sign[l]);
            signs.push(sign);
        }
        // The strongest first; which way each leans is told by good care against poor.
        let lean = |s: &[f64; 3]| s[2] - s[0];
        signs.sort_by(|x, y| lean(y).abs().total_cmp(&lean(x).abs()));
        let mut counted = [0.0f64; 2];
        for sign in &signs {
            let side = &mut counted[usize::from(lean(sign) > 0.0)];
            let power = (*side + 1.0).sqrt() - side.sqrt();
            *side += 1.0;
            (0..3).for_each(|l| ln[l] += (power - 1.0) * sign[l]);
        }
        care::after(&self.prior, &ln)
    }
}

/// Chance within the plan of one point seen in the three care scenarios.
#[must_use]
pub fn mixed_chance(remaining: &[RemainingLife; 3], weights: &Weights) -> f64 {
    care::mix(weights, |l| remaining[l].by_horizon())
}
