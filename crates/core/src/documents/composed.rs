//! Sheets put together: what a family's own sheet knows better of a part takes the place of what a base sheet or a
//! pattern says of it, field by field.
//!
//! docs/FORMATS.md, "Adjusted parts".

use crate::documents::applicability::fit;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::claim::{Citation, LifeClaim, ShareClaim};
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::{Adjustment, Family, Source};
use crate::documents::spelled::{has_job, own_job, spelled_out};

/// The sheets of a candidate with what the families' own know better put into base sheets and what patterns gave. They are spelled out and
/// in the candidate's currency, before and after.
#[must_use]
pub fn composed(mut used: Vec<Family>, candidate: &Candidate, a: &Assumptions) -> Vec<Family> {
    let own = used.iter().filter(|f| !f.kind.is_base());
    let known: Vec<(Adjustment, Vec<Source>, String)> = own
        .flat_map(|f| f.adjusts.iter().map(move |x| (f, x)))
        .filter(|(f, x)| fit(&x.applies, f, candidate, a).is_some_and(|fit| fit.share >= 1.0))
        .map(|(f, x)| (x.clone(), f.sources.clone(), f.name.clone()))
        .collect();
    if known.is_empty() {
        return used;
    }
    for base in used.iter_mut().filter(|f| f.kind.is_base() || !f.patterns.is_empty()) {
        for (x, sources, name) in &known {
            let lower = |p: &FailurePoint| base.kind.is_base() || base.from_pattern("points", &p.id).is_some();
            let of_part = |p: &FailurePoint| p.part.as_ref() == Some(&x.part) && lower(p);
            let at: Vec<usize> = (0..base.points.len()).filter(|i| of_part(&base.points[*i])).collect();
            if at.is_empty() {
                continue;
            }
            at.into_iter().for_each(|i| put(&mut base.points[i], x, name));
            for s in sources.iter().filter(|s| !base.sources.iter().any(|b| b.id == s.id)).cloned().collect::<Vec<_>>()
            {
                base.sources.push(s);
            }
        }
        *base = spelled_out(base.clone(), a);
    }
    used
}

/// Whether a sheet among these has a job of that id, one that an adjusted price makes included.
#[must_use]
pub fn job_among(used: &[&Family], family: &str, job: &str) -> bool {
    let priced = |part: &str| used.iter().flat_map(|f| &f.adjusts).any(|x| x.part == part && x.price.is_some());
    let made = |p: &FailurePoint| p.part.as_deref().is_some_and(priced) && own_job(&p.id, None) == job;
    used.iter().any(|f| f.id == family && (has_job(f, job) || (f.kind.is_base() && f.points.iter().any(made))))
}

/// Puts what is known into a point. Claims say where they stand: in the family's sheet.
fn put(p: &mut FailurePoint, x: &Adjustment, sheet: &str) {
    let stands = |own: &Option<Citation>| {
        own.clone().or_else(|| Some(Citation { title: Some(sheet.to_owned()), ..Citation::default() }))
    };
    if !x.share.is_empty() {
        p.share = x.share.iter().map(|c| ShareClaim { stands: stands(&c.stands), ..c.clone() }).collect();
    }
    if !x.life.is_empty() {
        p.life = x.life.iter().map(|c| LifeClaim { stands: stands(&c.stands), ..c.clone() }).collect();
    }
    if x.lived_with.is_some() {
        (p.repair_delay, p.lived_with) = (None, x.lived_with);
    }
    if x.notice.is_some() {
        p.warning = None;
        p.notice.clone_from(&x.notice);
    }
    if x.price.is_some() {
        p.job.clear();
        p.price = x.price;
    }
    if let Some(shows) = &x.shows {
        p.shows.clone_from(shows);
    }
}
