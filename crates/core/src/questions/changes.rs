//! What a paper, or any other change, moved: two judgements compared.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::assessment::Assessment;
use crate::decision::verdict::VerdictKind;
use crate::documents::assumptions::Assumptions;
use crate::documents::reference::PointRef;

/// Points shown at most.
const SHOWN: usize = 6;

/// What changed from one judgement to another.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Moved {
    /// Failure points whose chance within the plan changed by half a percent or more, those that moved
    /// the most money first, at most six.
    pub points: Vec<PointMoved>,
    /// Scheduled work whose state changed, the most money first, at most six.
    pub work: Vec<WorkMoved>,
    /// Expected bill before and after.
    pub bill: Shift,
    /// Limit price before and after.
    pub limit: Shift,
    /// Care index before and after.
    pub care: Shift,
    /// Usage that the judgement runs on, before and after.
    pub usage: Shift,
    /// Blockers closed before and after.
    pub blockers: Shift,
    /// Verdict before.
    pub verdict_before: VerdictKind,
    /// Verdict after.
    pub verdict_after: VerdictKind,
}

/// A figure before and after.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Shift {
    /// Before.
    pub before: f64,
    /// After.
    pub after: f64,
    /// After less before.
    pub by: f64,
}

impl Shift {
    fn new(before: f64, after: f64) -> Self {
        Self { before, after, by: after - before }
    }
}

/// A failure point whose chance changed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PointMoved {
    /// Which.
    pub at: PointRef,
    /// Its name.
    pub name: String,
    /// Chance within the plan.
    pub chance: Shift,
    /// Expected money.
    pub money: Shift,
}

/// Scheduled work whose state changed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WorkMoved {
    /// Its name.
    pub name: String,
    /// Chance that it was done.
    pub done: Shift,
    /// Expected money within the plan.
    pub money: Shift,
}

/// Compares two judgements of one candidate.
#[must_use]
pub fn moved(before: &Assessment, after: &Assessment, a: &Assumptions) -> Moved {
    let mut points: Vec<PointMoved> = after
        .points
        .iter()
        .filter_map(|p| {
            let was = before.points.iter().find(|x| x.at == p.at)?;
            let chance = Shift::new(was.p_plan, p.p_plan);
            let money = Shift::new(was.expected_cost, p.expected_cost);
            (chance.by.abs() >= a.moved_least).then(|| PointMoved {
                at: p.at.clone(),
                name: p.name.clone(),
                chance,
                money,
            })
        })
        .collect();
    points.sort_by(|x, y| y.money.by.abs().total_cmp(&x.money.by.abs()));
    points.truncate(SHOWN);
    let mut work: Vec<WorkMoved> = after
        .due
        .iter()
        .filter_map(|d| {
            let was = before.due.iter().find(|x| x.family == d.family && x.interval == d.interval)?;
            let done = Shift::new(was.chance_done, d.chance_done);
            let money = Shift::new(was.now + was.in_plan, d.now + d.in_plan);
            let told = done.by.abs() >= a.moved_least || money.by.abs() >= 0.5;
            told.then(|| WorkMoved { name: d.name.clone(), done, money })
        })
        .collect();
    work.sort_by(|x, y| y.money.by.abs().total_cmp(&x.money.by.abs()));
    work.truncate(SHOWN);
    #[allow(clippy::cast_precision_loss)]
    let blockers = |judged: &Assessment| judged.blockers.len() as f64;
    Moved {
        points,
        work,
        bill: Shift::new(before.bill.mean, after.bill.mean),
        limit: Shift::new(before.value.limit, after.value.limit),
        care: Shift::new(before.care.index.index, after.care.index.index),
        usage: Shift::new(before.usage_now, after.usage_now),
        blockers: Shift::new(blockers(before), blockers(after)),
        verdict_before: before.verdict.kind,
        verdict_after: after.verdict.kind,
    }
}
