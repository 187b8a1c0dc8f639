//! What a pattern says of a point that a sheet has since made its own.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::fault::Fault;
use crate::documents::assumptions::Assumptions;
use crate::documents::built_as::PatternUse;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Family;
use crate::documents::job::Job;
use crate::patterns::compose::composed_of;
use crate::patterns::library::Library;

/// A point as its pattern has it, with the jobs that it names.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct GivenPoint {
    /// The pattern, with what it gives of these.
    pub pattern: PatternUse,
    /// The point.
    #[schema(value_type = FailurePoint)]
    pub point: FailurePoint,
    /// Its jobs.
    pub jobs: Vec<Job>,
}

/// The point of that short name as a pattern gives it to a thing built as the sheet says; none where no pattern has it.
///
/// # Errors
/// A sheet whose answers are none, or contradict each other, each with its path.
pub fn given_point(
    sheet: &Family,
    point: &str,
    library: &Library,
    a: &Assumptions,
) -> Result<Option<GivenPoint>, Vec<Fault>> {
    let mut without = sheet.clone();
    without.points.retain(|p| p.id != point);
    let whole = composed_of(without, library, a)?;
    let (key, found) = (format!("points/{point}"), whole.points.iter().find(|p| p.id == point));
    let (Some(found), Some(giver)) = (found, whole.patterns.iter().find(|p| p.gives.contains(&key))) else {
        return Ok(None);
    };
    let mut named = vec![found.job.as_str()];
    named.extend(found.escalation.iter().chain(&found.already_done).map(|e| e.job.as_str()));
    named.extend(found.routes.iter().map(|r| r.job.as_str()));
    named.extend(found.takes_along.iter().filter_map(|t| t.job.as_deref()));
    let jobs: Vec<Job> = whole.jobs.iter().filter(|j| named.contains(&j.id.as_str())).cloned().collect();
    let gives = giver.gives.iter().filter(|g| **g == key || jobs.iter().any(|j| **g == format!("jobs/{}", j.id)));
    let pattern = PatternUse { gives: gives.cloned().collect(), ..giver.clone() };
    Ok(Some(GivenPoint { pattern, point: found.clone(), jobs }))
}
