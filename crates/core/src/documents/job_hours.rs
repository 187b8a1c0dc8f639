//! How big a job is, in hours of an independent workshop.

use crate::base::pert::pert_mean;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Labour;
use crate::documents::family::Family;
use crate::documents::job::{Job, MoneyRange, PartGrade};

/// The listed parts figure for a grade: its own, else the nearest in the order original, equivalent, used.
#[must_use]
pub fn parts_at(job: &Job, grade: PartGrade) -> Option<&MoneyRange> {
    use PartGrade::{Equivalent, Original, Unknown, Used};
    let order = match grade {
        Original => [Original, Equivalent, Used],
        Equivalent | Unknown => [Equivalent, Original, Used],
        Used => [Used, Equivalent, Original],
    };
    order.iter().find_map(|g| job.parts.get(g))
}

/// Hours of an independent workshop that a job comes to, access, parts and sundries included.
#[must_use]
pub fn job_hours(family: &Family, job: &Job, a: &Assumptions) -> f64 {
    let rate = a.rate(Labour::Independent);
    let money = |r: &MoneyRange| pert_mean(r.low.get(), r.likely.get(), r.high.get());
    let bought = parts_at(job, PartGrade::Equivalent).map_or(0.0, money) + job.sundries.as_ref().map_or(0.0, money);
    let own = job.hours.as_ref().map_or(0.0, |h| pert_mean(h.low, h.likely, h.high));
    let off: f64 = job.access.iter().filter_map(|id| family.access.iter().find(|g| &g.id == id)).map(|g| g.hours).sum();
    own + off + if rate > 0.0 { bought / rate } else { 0.0 }
}
