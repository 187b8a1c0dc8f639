//! From severity and likelihood to five grades.
//!
//! The matrix is rising in both directions, as those of MIL-STD-882E and IEC 60812 are.
//!
//! docs/METHOD.md, section 15.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::assumptions::Assumptions;

/// The five grades, in the product's own words.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Grade {
    /// Not worth a thought.
    Trifle,
    /// A small job some day.
    Chore,
    /// Keep an eye and some money on it.
    Worry,
    /// Would hurt the purse badly.
    Blow,
    /// Ends the purchase unless something changes.
    Stopper,
}

/// Index of the band that `x` falls in, given ascending limits.
fn band(x: f64, limits: [f64; 3]) -> usize {
    limits.iter().filter(|l| x >= **l).count()
}

/// Severity 0 to 3: cost at the worst branch against the going price.
#[must_use]
pub fn severity(worst_cost: f64, value: f64, a: &Assumptions) -> usize {
    let share = if value > 0.0 { worst_cost / value } else { 1.0 };
    band(share, [a.severity_low, a.severity_middle, a.severity_high])
}

/// Likelihood 0 to 3 by the chance within the plan.
#[must_use]
pub fn likelihood(p_horizon: f64, a: &Assumptions) -> usize {
    band(p_horizon, [a.likelihood_low, a.likelihood_middle, a.likelihood_high])
}

const MATRIX: [[Grade; 4]; 4] = {
    use Grade::{Blow, Chore, Trifle, Worry};
    [
        [Trifle, Trifle, Trifle, Chore],
        [Trifle, Chore, Chore, Worry],
        [Chore, Worry, Worry, Blow],
        [Worry, Blow, Blow, Blow],
    ]
};

/// The cell of the matrix; severity and likelihood 0 to 3.
#[must_use]
pub fn grade(severity: usize, likelihood: usize) -> Grade {
    MATRIX[severity.min(3)][likelihood.min(3)]
}

/// The grade of a point: money gives at most the fourth; where it can hurt someone, the chance that it is there or
/// comes unannounced counts as the gravest severity from a twentieth on, and as a dangerous defect from one half.
#[must_use]
pub fn of_point(severity: usize, likelihood: usize, hurts: Option<f64>, a: &Assumptions) -> Grade {
    let money = grade(severity, likelihood);
    match hurts {
        Some(chance) if chance >= a.hurts_surely => Grade::Stopper,
        Some(chance) if chance >= a.hurts_likely => money.max(grade(3, self::likelihood(chance, a))),
        _ => money,
    }
}

/// What a point's grade is made from, and the grade.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Graded {
    /// 0 to 3.
    pub severity: usize,
    /// 0 to 3.
    pub likelihood: usize,
    /// Where it can hurt someone: the chance that it is there, or comes without anybody noticing in time.
    pub hurts: Option<f64>,
    /// The grade.
    pub grade: Grade,
}

impl Graded {
    /// Of a point that can hurt someone or not, there `now` and there or coming within the `plan`, whose signs are
    /// `caught` in so many cases and whose worst branch costs so much of what such a one goes for.
    pub fn of(can_hurt: bool, [now, plan]: [f64; 2], caught: f64, [worst, value]: [f64; 2], a: &Assumptions) -> Self {
        let (severity, likelihood) = (severity(worst, value, a), likelihood(plan, a));
        let hurts = can_hurt.then(|| now + (plan - now).max(0.0) * (1.0 - caught));
        Self { severity, likelihood, hurts, grade: of_point(severity, likelihood, hurts, a) }
    }
}

/// The vehicle's grade by how far its bill may go beyond the reference example's, against the going price: money alone
/// gives at most the fourth.
#[must_use]
pub fn of_excess(excess: f64, value: f64, a: &Assumptions) -> Grade {
    let share = if value > 0.0 { excess / value } else { 1.0 };
    match share {
        s if s < a.severity_low => Grade::Trifle,
        s if s < a.severity_middle => Grade::Chore,
        s if s < a.severity_high => Grade::Worry,
        _ => Grade::Blow,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_matrix_rises_in_both_directions() {
        for s in 0..4 {
            for l in 0..4 {
                assert!(s == 0 || grade(s, l) >= grade(s - 1, l));
                assert!(l == 0 || grade(s, l) >= grade(s, l - 1));
            }
        }
        assert_eq!((grade(0, 0), grade(3, 3)), (Grade::Trifle, Grade::Blow));
    }

    #[test]
    fn bands_begin_at_their_limits() {
        let a = Assumptions::default();
        assert_eq!(likelihood(0.05, &a), 1);
        assert_eq!(likelihood(0.0499, &a), 0);
        assert_eq!(severity(250.0, 1000.0, &a), 3);
        assert_eq!(severity(1.0, 1000.0, &a), 0);
    }

    #[test]
    fn money_alone_never_ends_a_purchase() {
        let a = Assumptions::default();
        assert_eq!(of_point(3, 3, None, &a), Grade::Blow);
        assert_eq!(of_point(0, 3, Some(0.04), &a), Grade::Chore);
        assert_eq!(of_point(0, 3, Some(0.05), &a), Grade::Blow);
        assert_eq!(of_point(0, 0, Some(0.5), &a), Grade::Stopper);
        assert_eq!(of_excess(900.0, 1000.0, &a), Grade::Blow);
    }
}
