//! Quotes in the place of a sheet's estimates.

use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::documents::job::MoneyRange;
use crate::documents::quote::{Quote, Quoted};

/// The quote that holds for a job: of several the last.
#[must_use]
pub fn quote_for<'c>(candidate: &'c Candidate, family: &str, job: &str) -> Option<&'c Quote> {
    candidate.quotes.iter().rev().find(|q| q.family == family && q.job == job)
}

/// The quote of a job as a result tells it.
#[must_use]
pub fn quoted(candidate: &Candidate, family: &str, job: &str) -> Option<Quoted> {
    quote_for(candidate, family, job).map(|q| Quoted { by: q.by.clone(), date: q.date })
}

/// A sheet with the candidate's quotes in the place of its estimates: one price, all in.
#[must_use]
pub fn with_quotes(mut family: Family, candidate: &Candidate) -> Family {
    for job in &mut family.jobs {
        if let Some(q) = quote_for(candidate, &family.id, &job.id) {
            let sure = MoneyRange { low: q.amount, likely: q.amount, high: q.amount };
            job.parts.clear();
            job.hours = None;
            job.access.clear();
            job.sundries = Some(sure);
        }
    }
    family
}
