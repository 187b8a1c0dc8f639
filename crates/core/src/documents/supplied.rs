//! A sheet as its parts and hands are to be had at a candidate's age.
//!
//! docs/METHOD.md, section 8.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::{Money, years_between};
use crate::documents::applicability::fit;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Family;
use crate::documents::job::{Job, MoneyRange};
use crate::documents::supply::Supply;

/// A supply that holds for a candidate, as a result tells it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SupplyResult {
    /// The family's name.
    pub family: String,
    /// What is so.
    pub says: String,
    /// Age from which it is so, years.
    pub from_age: f64,
    /// Whether it holds by today; else it begins within the plan, and its prices are counted from now on.
    pub today: bool,
    /// What parts cost, times their price in the sheet.
    pub parts: f64,
    /// What work takes, times its hours in the sheet.
    pub hours: f64,
}

/// The supplies that hold in the middle of the plan, of those on the same points the latest alone.
fn held<'f>(family: &'f Family, candidate: &Candidate, a: &Assumptions) -> Vec<&'f Supply> {
    let age = years_between(candidate.built, candidate.as_of) + candidate.plan.years / 2.0;
    let known = |s: &&Supply| {
        s.from_age <= age && fit(&s.applies, family, candidate, a).is_some_and(|f| f.share >= a.there_now)
    };
    let all: Vec<&Supply> = family.supply.iter().filter(known).collect();
    let later = |s: &&Supply| all.iter().any(|o| o.points == s.points && o.from_age > s.from_age);
    all.iter().copied().filter(|s| !later(s)).collect()
}

/// What holds for a candidate.
#[must_use]
pub fn supplies(families: &[Family], candidate: &Candidate, a: &Assumptions) -> Vec<SupplyResult> {
    let age = years_between(candidate.built, candidate.as_of);
    let each = families.iter().flat_map(|f| held(f, candidate, a).into_iter().map(move |s| (f, s)));
    each.map(|(f, s)| SupplyResult {
        family: f.name.clone(),
        says: s.says.clone(),
        from_age: s.from_age,
        today: s.from_age <= age,
        parts: s.parts.unwrap_or(1.0),
        hours: s.hours.unwrap_or(1.0),
    })
    .collect()
}

/// A sheet, spelled out and priced, with its jobs as they are to be had at the candidate's age.
#[must_use]
pub fn supplied(mut family: Family, candidate: &Candidate, a: &Assumptions) -> Family {
    let held: Vec<Supply> = held(&family, candidate, a).into_iter().cloned().collect();
    for s in held {
        let of_points: Vec<String> = s.points.iter().filter_map(|id| family.point(id)).flat_map(jobs_of).collect();
        let concerned = |j: &&mut Job| s.points.is_empty() || of_points.contains(&j.id);
        family.jobs.iter_mut().filter(concerned).for_each(|j| job(j, &s));
        if s.points.is_empty() {
            family.access.iter_mut().for_each(|g| g.hours *= s.hours.unwrap_or(1.0));
        }
    }
    family
}

/// Every job that a point may come to.
fn jobs_of(p: &FailurePoint) -> Vec<String> {
    let routes = p.routes.iter().map(|r| &r.job);
    let stages = p.stages.iter().map(|s| &s.job);
    [&p.job].into_iter().chain(routes).chain(stages).filter(|id| !id.is_empty()).cloned().collect()
}

fn job(j: &mut Job, s: &Supply) {
    let (parts, hours) = (s.parts.unwrap_or(1.0), s.hours.unwrap_or(1.0));
    // What is given as one price is half parts, half work.
    let whole = j.parts.is_empty() && j.hours.is_none();
    if !s.grades.is_empty() && j.parts.keys().any(|g| s.grades.contains(g)) {
        j.parts.retain(|g, _| s.grades.contains(g));
    }
    j.parts.values_mut().for_each(|m| times(m, parts));
    if let Some(h) = &mut j.hours {
        [&mut h.low, &mut h.likely, &mut h.high].into_iter().for_each(|x| *x *= hours);
    }
    if let Some(m) = j.sundries.as_mut().filter(|_| whole) {
        times(m, f64::midpoint(parts, hours));
    }
}

fn times(range: &mut MoneyRange, by: f64) {
    for m in [&mut range.low, &mut range.likely, &mut range.high] {
        if let Ok(money) = Money::try_from((m.get() * by * 100.0).round() / 100.0) {
            *m = money;
        }
    }
}
