//! Method §7: what a job costs, and what a failure costs when it is caught early or not.
//!
//! Three-point figures have the mean of Beta-PERT, `(l + 4m + h)/6` (Malcolm et al. 1959). The
//! chance that an owner's looks catch a failure in time is delay-time inspection (Christer 1982).

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assumptions::Assumptions;
use crate::candidate::Labour;
use crate::family::{Family, HoursRange, Job, MoneyRange, PartGrade, Warning};
use crate::sense::NO_CURRENCY;
use crate::units::Money;

/// Mean of a three-point figure.
#[must_use]
pub fn pert_mean(low: f64, likely: f64, high: f64) -> f64 {
    (low + 4.0 * likely + high) / 6.0
}

/// A three-point figure as a distribution: Beta-PERT with shape 4, read off by its quantiles.
#[derive(Debug, Clone)]
pub struct Pert {
    low: f64,
    width: f64,
    /// Cumulated density over equal steps of the width; empty where there is none.
    sums: Vec<f64>,
}

/// Steps that a three-point figure is cumulated in.
const PERT_STEPS: usize = 400;

impl Pert {
    /// Of figures that rise.
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn new(low: f64, likely: f64, high: f64) -> Self {
        let width = high - low;
        if width <= 0.0 {
            return Self { low, width: 0.0, sums: Vec::new() };
        }
        let mode = ((likely - low) / width).clamp(0.0, 1.0);
        let (alpha, beta) = (1.0 + 4.0 * mode, 5.0 - 4.0 * mode);
        let mut sum = 0.0;
        let mut sums = vec![0.0];
        for i in 0..PERT_STEPS {
            let x = (i as f64 + 0.5) / PERT_STEPS as f64;
            sum += x.powf(alpha - 1.0) * (1.0 - x).powf(beta - 1.0);
            sums.push(sum);
        }
        sums.iter_mut().for_each(|s| *s /= sum);
        Self { low, width, sums }
    }

    /// The figure that a share `u` of outcomes lies below.
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn at(&self, u: f64) -> f64 {
        if self.sums.is_empty() {
            return self.low;
        }
        let i = self.sums.partition_point(|s| *s < u).clamp(1, PERT_STEPS);
        let (from, to) = (self.sums[i - 1], self.sums[i]);
        let within = if to > from { ((u - from) / (to - from)).clamp(0.0, 1.0) } else { 0.5 };
        self.low + self.width * ((i - 1) as f64 + within) / PERT_STEPS as f64
    }
}

fn money(r: &MoneyRange) -> [f64; 3] {
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

/// The listed parts figure for a grade: its own, else the nearest in the order original,
/// equivalent, used.
fn parts_at(job: &Job, grade: PartGrade) -> Option<&MoneyRange> {
    use PartGrade::{Equivalent, Original, Unknown, Used};
    let order = match grade {
        Original => [Original, Equivalent, Used],
        Equivalent | Unknown => [Equivalent, Original, Used],
        Used => [Used, Equivalent, Original],
    };
    order.iter().find_map(|g| job.parts.get(g))
}

/// A sheet with its money in the candidate's currency: a base sheet counts its own in hours of an
/// independent workshop.
#[must_use]
pub fn priced(mut family: Family, a: &Assumptions) -> Family {
    if family.currency != NO_CURRENCY {
        return family;
    }
    let rate = a.rate_independent;
    let at = |m: &mut Money| {
        // Rounded to hundredths, it is money again.
        if let Ok(money) = Money::try_from((m.get() * rate * 100.0).round() / 100.0) {
            *m = money;
        }
    };
    for range in family.jobs.iter_mut().flat_map(|j| j.parts.values_mut().chain(j.sundries.as_mut())) {
        [&mut range.low, &mut range.likely, &mut range.high].into_iter().for_each(at);
    }
    family.checks.iter_mut().filter_map(|c| c.fee.as_mut()).for_each(at);
    family
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

/// Expected cost of a failure in the plan: caught in time, or on the road and perhaps into the larger
/// job, whose cost is capped at the vehicle's value.
#[must_use]
pub fn failure_cost(own: f64, caught: f64, larger: Option<(f64, f64)>, value: f64, recovery: f64) -> f64 {
    let worse = larger.map_or(0.0, |(chance, cost)| chance * (cost.min(value) - own).max(0.0));
    caught * own + (1.0 - caught) * (own + recovery + worse)
}
