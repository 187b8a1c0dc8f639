//! What a job costs, and what a failure costs when it is caught early or not.
//!
//! The chance that an owner's looks catch a failure in time is delay-time inspection (Christer 1982).
//!
//! docs/METHOD.md, section 7.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::pert::pert_mean;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Labour;
use crate::documents::failure_point::Warning;
use crate::documents::family::Family;
use crate::documents::job::{HoursRange, Job, MoneyRange, PartGrade};
use crate::documents::job_hours::parts_at;

pub(crate) fn money(r: &MoneyRange) -> [f64; 3] {
    [r.low.get(), r.likely.get(), r.high.get()]
}

fn hours(r: &HoursRange) -> [f64; 3] {
    [r.low, r.likely, r.high]
}

/// What one job costs as a visit of its own, in units of the currency.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct JobCost {
    /// Everything at its low figure.
    pub low: f64,
    /// Everything at its likely figure.
    pub likely: f64,
    /// Everything at its high figure.
    pub high: f64,
    /// Expected cost.
    pub mean: f64,
    /// Of the mean: parts and sundries.
    pub parts: f64,
    /// Of the mean: own hours.
    pub labour: f64,
    /// Of the mean: what must come off first.
    pub access: f64,
}

impl JobCost {
    /// A job that costs nothing.
    #[must_use]
    pub fn nothing() -> Self {
        Self { low: 0.0, likely: 0.0, high: 0.0, mean: 0.0, parts: 0.0, labour: 0.0, access: 0.0 }
    }
}

/// Cost of a job done alone: parts and sundries, and rate × (own hours + access).
#[must_use]
pub fn cost(family: &Family, job: &Job, grade: PartGrade, labour: Labour, a: &Assumptions) -> JobCost {
    let rate = a.rate(labour);
    let access = rate
        * job.access.iter().filter_map(|id| family.access.iter().find(|g| &g.id == id)).map(|g| g.hours).sum::<f64>();
    let parts = parts_at(job, grade).map_or([0.0; 3], money);
    let sundries = job.sundries.as_ref().map_or([0.0; 3], money);
    let hours = job.hours.as_ref().map_or([0.0; 3], hours);
    let at = |i: usize| parts[i] + sundries[i] + rate * hours[i] + access;
    let mean = |v: [f64; 3]| pert_mean(v[0], v[1], v[2]);
    let (parts_mean, labour_mean) = (mean(parts) + mean(sundries), rate * mean(hours));
    JobCost {
        low: at(0),
        likely: at(1),
        high: at(2),
        mean: parts_mean + labour_mean + access,
        parts: parts_mean,
        labour: labour_mean,
        access,
    }
}

/// Chance that an owner's looks catch a failure before it happens.
#[must_use]
pub fn caught(warning: &Warning) -> f64 {
    let looks = warning.lead / warning.every;
    let s = warning.sensitivity.get();
    if looks <= 1.0 { s * looks } else { 1.0 - (1.0 - s).powf(looks) }
}

/// Expected cost of a failure in the plan: caught in time, or on the road and perhaps into more, each branch given by
/// its chance and what it costs beyond the own job.
#[must_use]
pub fn failure_cost(own: f64, caught: f64, beyond: &[(f64, f64)], recovery: f64) -> f64 {
    let worse: f64 = beyond.iter().map(|(chance, amount)| chance * amount).sum();
    caught * own + (1.0 - caught) * (own + recovery + worse)
}
