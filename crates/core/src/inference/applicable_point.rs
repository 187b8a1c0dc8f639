//! The failure points that concern a candidate.

use std::collections::BTreeMap;

use crate::base::units::Probability;
use crate::base::weibull::CurveError;
use crate::documents::applicability::{self, Fit, fit, makes_way};
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::Check;
use crate::documents::failure_point::{Exposure, FailurePoint};
use crate::documents::family::Family;
use crate::documents::job::Interval;
use crate::documents::job_hours::job_hours;
use crate::documents::paper::LedgerEntry;
use crate::reliability::mixture::{PointLives, SourceSelection};
use crate::reliability::{exposure, tune};

/// A failure point that concerns the candidate.
#[derive(Debug)]
pub struct ApplicablePoint<'a> {
    /// Its family.
    pub family: &'a Family,
    /// The point.
    pub point: &'a FailurePoint,
    /// How far it applies.
    pub fit: Fit,
    /// Ledger entries that renewed it, in order of usage.
    pub entries: Vec<&'a LedgerEntry>,
    /// The scheduled work that renews it.
    pub schedule: Option<&'a Interval>,
    /// Chance that a repair left a paper is raised by this share of what lacks to 1: the dearer the job, the likelier
    /// its paper is shown.
    pub(crate) paper_kept: f64,
    /// Leads at which some check on it changes its voice.
    pub leads: Vec<f64>,
    /// Whether the works fitted the revised part.
    pub built_revised: bool,
    pub(crate) use_factors: UseFactors,
    /// What a tune makes of its life, on top of use.
    pub(crate) tuned: UseFactors,
}

/// What use makes of a point's life, before care.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct UseFactors {
    pub(crate) past: f64,
    pub(crate) plan: f64,
}

/// The points of all families that concern the candidate, in the sheets' order.
#[must_use]
pub fn applicable_points<'a>(
    candidate: &'a Candidate,
    families: &'a [Family],
    a: &Assumptions,
) -> Vec<ApplicablePoint<'a>> {
    let mut out = Vec::new();
    for family in families {
        for point in &family.points {
            if makes_way(point, family, families, candidate, a) {
                continue;
            }
            let Some(fit) = fit(&point.applies, family, candidate, a) else { continue };
            let concerned = |i: &&Interval| {
                i.renews.contains(&point.id) && applicability::fit(&i.applies, family, candidate, a).is_some()
            };
            let renewing: Vec<&str> = family.intervals.iter().filter(concerned).map(|i| i.id.as_str()).collect();
            let schedule = family.intervals.iter().find(concerned);
            let mut entries: Vec<&LedgerEntry> = candidate
                .ledger
                .iter()
                .filter(|e| {
                    e.renews.iter().any(|r| r.family == family.id && r.point == point.id)
                        || e.performs.iter().any(|p| p.family == family.id && renewing.contains(&p.interval.as_str()))
                })
                .collect();
            entries.sort_by(|x, y| x.usage.on_clock().total_cmp(&y.usage.on_clock()).then(x.date.cmp(&y.date)));
            let links = family.checks.iter().flat_map(|c: &Check| &c.links);
            let leads = links.filter(|l| l.point == point.id).filter_map(|l| l.lead).collect();
            let factor = |levels: &BTreeMap<Exposure, Probability>| exposure::factor(point, levels);
            let tuned = tune::factors(point, family, candidate, a);
            out.push(ApplicablePoint {
                family,
                point,
                fit,
                entries,
                schedule,
                paper_kept: paper_kept(family, &point.job, a),
                leads,
                built_revised: built_revised(point, family, candidate),
                use_factors: UseFactors { past: factor(&candidate.past_use), plan: factor(&candidate.plan.use_) },
                tuned: UseFactors { past: tuned.0, plan: tuned.1 },
            });
        }
    }
    out
}

/// How far a big job raises the chance that a repair left a paper: the share of what lacks to 1 that it fills.
fn paper_kept(family: &Family, job: &str, a: &Assumptions) -> f64 {
    let hours = family.job(job).map_or(0.0, |j| job_hours(family, j, a));
    if hours > a.very_big_job_hours {
        a.very_big_job_paper
    } else if hours > a.big_job_hours {
        a.big_job_paper
    } else {
        0.0
    }
}

/// Whether the works fitted the revised part: by the serial number where both are known, else by the day.
fn built_revised(point: &FailurePoint, family: &Family, candidate: &Candidate) -> bool {
    let Some(revision) = &point.revision else { return false };
    match (&revision.from_serial, candidate.serials.get(&family.id)) {
        (Some(from), Some(serial)) => crate::documents::applies::serial_order(serial, from).is_ge(),
        _ => revision.from.is_some_and(|from| candidate.built >= from),
    }
}

/// The lives of every point under the sources heard.
///
/// # Errors
/// [`CurveError`] from a claim that makes no curve.
pub fn lives(
    applicable_points: &[ApplicablePoint<'_>],
    heard: SourceSelection<'_>,
    a: &Assumptions,
) -> Result<Vec<PointLives>, CurveError> {
    applicable_points.iter().map(|s| PointLives::pool(s.point, &s.family.sources, heard, a)).collect()
}
