//! What each finding changed.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::budget::Budget;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::care_level::CareLevel;
use crate::documents::reference::PointRef;
use crate::documents::sheets::Given;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::{AssessError, with_context};
use crate::inference::islands;
use crate::inference::posterior::scenarios_before;

/// A finding and what it moved.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct FindingMoves {
    /// The check's family.
    pub family: String,
    /// The check.
    pub check: String,
    /// Its name.
    pub name: String,
    /// The outcome's label.
    pub outcome: String,
    /// Points that it moved, the most moved first.
    pub points: Vec<PointMove>,
    /// Chance of poor care without it and with it.
    #[schema(value_type = Vec<f64>, min_items = 2, max_items = 2)]
    pub poor_care: [f64; 2],
}

/// How far a finding moved a point: everything else known, without it and with it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PointMove {
    /// Which.
    pub at: PointRef,
    /// Its name.
    pub name: String,
    /// Chance that it is there now, without and with.
    #[schema(value_type = Vec<f64>, min_items = 2, max_items = 2)]
    pub now: [f64; 2],
    /// Chance within the plan, without and with.
    #[schema(value_type = Vec<f64>, min_items = 2, max_items = 2)]
    pub plan: [f64; 2],
}

/// What each finding that holds moved, everything else being known: each is left out in turn.
///
/// # Errors
/// As [`crate::assess()`].
pub fn moves<'f>(
    candidate: &Candidate,
    families: impl Into<Given<'f>>,
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<Vec<FindingMoves>, AssessError> {
    with_context(candidate, families, a, budget, |context| {
        let (applicable_points, answers) = (context.applicable_points, context.answers);
        let before = scenarios_before(context, None);
        let with = islands::found(context, before.clone(), answers);
        let poor = |w: &CareScenarios| w.weights[CareLevel::Poor as usize];
        Ok(answers
            .iter()
            .enumerate()
            .map(|(i, answer)| {
                let mut others = answers.to_vec();
                others.remove(i);
                let without = islands::found(context, before.clone(), &others);
                let mut points: Vec<PointMove> = applicable_points
                    .iter()
                    .enumerate()
                    .map(|(p, s)| PointMove {
                        at: PointRef { family: s.family.id.clone(), point: s.point.id.clone() },
                        name: s.point.name.clone(),
                        now: [without.present(p), with.present(p)],
                        plan: [without.by_horizon(p), with.by_horizon(p)],
                    })
                    .filter(|m| {
                        (m.plan[1] - m.plan[0]).abs() >= a.moved_least || (m.now[1] - m.now[0]).abs() >= a.moved_least
                    })
                    .collect();
                points.sort_by(|x, y| moved(y).total_cmp(&moved(x)));
                let family = answer.key.split('/').next().unwrap_or_default().to_owned();
                FindingMoves {
                    family,
                    check: answer.check.id.clone(),
                    name: answer.check.name.clone(),
                    outcome: answer.check.outcomes.get(answer.outcome).map_or_else(String::new, |o| o.label.clone()),
                    points,
                    poor_care: [poor(&without), poor(&with)],
                }
            })
            .collect())
    })
}

fn moved(m: &PointMove) -> f64 {
    (m.plan[1] - m.plan[0]).abs().max((m.now[1] - m.now[0]).abs())
}
