//! Judging off the threads that answer requests.

use actix_web::web;
use ticksage_core::assess::judge::assess_to;
use ticksage_core::base::fault;
use ticksage_core::inference::depth::Depth;
use ticksage_core::validation::candidate;
use ticksage_core::{Assessment, Assumptions, Candidate, Family, assess};
use ticksage_store::Store;

use crate::problem::Problem;

/// Computes off the threads that answer requests.
pub(crate) async fn compute<T: Send + 'static>(f: impl FnOnce() -> T + Send + 'static) -> Result<T, Problem> {
    web::block(f).await.map_err(|e| Problem::internal(&e.to_string()))
}

pub(crate) async fn judge(candidate: Candidate, families: Vec<Family>) -> Result<Assessment, Problem> {
    Ok(compute(move || assess(&candidate, &families, &Assumptions::default())).await??)
}

/// Refuses a document whose sense or day is wrong; the sheets it names.
pub(crate) async fn sensible(store: &Store, candidate: &Candidate) -> Result<Vec<Family>, Problem> {
    let families = store.families_named(&candidate.families).await?;
    let mut faults = candidate::candidate_faults(candidate, &families);
    let today = jiff::ZonedDateTime::now().date();
    // A day's grace: the buyer's clock may stand in another zone.
    if candidate.as_of > today.saturating_add(jiff::Span::new().days(1)) {
        faults.push(fault::Fault {
            path: "/as_of".to_owned(),
            message: format!("{} lies in the future", candidate.as_of),
        });
    }
    if faults.is_empty() { Ok(families) } else { Err(Problem::faulty(faults)) }
}

pub(crate) fn table() -> Assumptions {
    Assumptions::default()
}

pub(crate) async fn lean(candidate: Candidate, families: Vec<Family>) -> Result<Assessment, Problem> {
    Ok(compute(move || assess_to(&candidate, &families, &table(), Depth::Lean)).await??)
}
