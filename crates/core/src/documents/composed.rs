//! Sheets put together: what a family's own sheet knows better of a part takes the place of what a base sheet or a
//! pattern says of it, field by field.
//!
//! docs/FORMATS.md, "Adjusted parts".

use crate::documents::adjustment::{CheckAdjustment, JobAdjustment};
use crate::documents::applicability::fit;
use crate::documents::applies::Applies;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::Check;
use crate::documents::claim::{Citation, LifeClaim, ShareClaim};
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::{Adjustment, Family, Source};
use crate::documents::spelled::{has_job, own_job, spelled_out};

/// The sheets of a candidate with what the families' own know better put into base sheets and what patterns gave. They are spelled out and
/// in the candidate's currency, before and after.
#[must_use]
pub fn composed(used: Vec<Family>, candidate: &Candidate, a: &Assumptions) -> Vec<Family> {
    let known = Known::of(&used, candidate, a);
    if known.is_empty() {
        return used;
    }
    let put_together = |mut sheet: Family| {
        if !sheet.kind.is_base() && sheet.patterns.is_empty() {
            return sheet;
        }
        known.points(&mut sheet);
        known.checks(&mut sheet);
        known.jobs(&mut sheet);
        spelled_out(sheet, a)
    };
    used.into_iter().map(put_together).collect()
}

/// What the families' own sheets know better, of this variant.
struct Known {
    points: Vec<(Adjustment, Vec<Source>, String)>,
    checks: Vec<CheckAdjustment>,
    jobs: Vec<JobAdjustment>,
}

impl Known {
    fn of(used: &[Family], candidate: &Candidate, a: &Assumptions) -> Self {
        let own = || used.iter().filter(|f| !f.kind.is_base());
        let holds = |f: &Family, x: &Applies| fit(x, f, candidate, a).is_some_and(|fit| fit.share >= 1.0);
        let points = own().flat_map(|f| f.adjusts.iter().map(move |x| (f, x))).filter(|(f, x)| holds(f, &x.applies));
        let checks = own().flat_map(|f| f.adjusts_checks.iter().map(move |x| (f, x)));
        let jobs = own().flat_map(|f| f.adjusts_jobs.iter().map(move |x| (f, x)));
        Self {
            points: points.map(|(f, x)| (x.clone(), f.sources.clone(), f.name.clone())).collect(),
            checks: checks.filter(|(f, x)| holds(f, &x.applies)).map(|(_, x)| x.clone()).collect(),
            jobs: jobs.filter(|(f, x)| holds(f, &x.applies)).map(|(_, x)| x.clone()).collect(),
        }
    }

    fn is_empty(&self) -> bool {
        self.points.is_empty() && self.checks.is_empty() && self.jobs.is_empty()
    }

    fn points(&self, base: &mut Family) {
        for (x, sources, name) in &self.points {
            let of_part = |p: &FailurePoint| p.part.as_ref() == Some(&x.part) && base.is_lower("points", &p.id);
            let at: Vec<usize> = (0..base.points.len()).filter(|i| of_part(&base.points[*i])).collect();
            if at.is_empty() {
                continue;
            }
            at.into_iter().for_each(|i| put(&mut base.points[i], x, name));
            let new = |s: &&Source| !base.sources.iter().any(|b| b.id == s.id);
            let further: Vec<Source> = sources.iter().filter(new).cloned().collect();
            base.sources.extend(further);
        }
    }

    fn checks(&self, base: &mut Family) {
        for x in &self.checks {
            let same = |c: &Check| c.does(&x.action) && base.is_lower("checks", &c.id);
            let at: Vec<usize> = (0..base.checks.len()).filter(|i| same(&base.checks[*i])).collect();
            for c in at {
                let c = &mut base.checks[c];
                take(&mut c.how, x.how.as_ref());
                take(&mut c.tells, x.tells.as_ref());
                take(&mut c.minutes, x.minutes.as_ref());
                c.caution = x.caution.clone().or_else(|| c.caution.take());
                // A reading means the same outcomes as before, by other limits.
                if let (Some(own), Some(new)) = (&mut c.measure, &x.measure)
                    && own.limits.len() == new.limits.len()
                {
                    own.clone_from(new);
                }
            }
        }
    }

    fn jobs(&self, base: &mut Family) {
        for x in &self.jobs {
            let lower = base.is_lower("jobs", &x.job);
            let Some(j) = base.jobs.iter_mut().find(|j| lower && j.id == x.job) else { continue };
            if x.price.is_some() {
                (j.price, j.hours, j.sundries) = (x.price, None, None);
                j.parts.clear();
            } else if let Some(hours) = x.hours {
                j.hours = Some(hours);
            }
        }
    }
}

fn take<T: Clone>(of: &mut T, known: Option<&T>) {
    if let Some(x) = known {
        of.clone_from(x);
    }
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
