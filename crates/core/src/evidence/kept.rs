//! Which scheduled work was carried out, as far as papers and common practice tell.
//!
//! Each time that a piece of work came due it was kept or not, each time for itself. What a paper says was done is
//! surer than what nobody says; once every paper was seen, what no paper says was not done.
//!
//! docs/METHOD.md, section 11.

use crate::base::units::years_between;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::care_level::LEVELS;
use crate::documents::family::Family;
use crate::documents::job::Interval;
use crate::documents::job_hours::job_hours;
use crate::documents::paper::LedgerEntry;
use crate::evidence::intervals::performed;
use crate::reliability::usage_path::PastPath;

/// A piece of scheduled work that may have been carried out.
#[derive(Debug, Clone, Copy)]
pub struct Kept<'a> {
    /// Usage at which.
    pub usage: f64,
    /// Age at which, years.
    pub age: f64,
    /// Chance that it was, under each level of care.
    pub chance: [f64; 3],
    /// The paper that says so, where one does.
    pub entry: Option<&'a LedgerEntry>,
}

/// Work that came due longer ago than this many times is not followed: what was kept since tells more.
const FOLLOWED: usize = 10;

/// How the chance that a piece of work was done follows from papers and practice.
#[derive(Debug, Clone, Copy)]
pub struct Practice {
    /// Chance by level of care that it was kept where no paper says so.
    unproved: [f64; 3],
}

impl Practice {
    /// Of a candidate's scheduled work; `papers` is false for the reference example, of which no paper is known.
    #[must_use]
    pub fn of(candidate: &Candidate, family: &Family, interval: &Interval, papers: bool, a: &Assumptions) -> Self {
        if papers && candidate.papers_seen {
            return Self { unproved: [0.0; 3] };
        }
        let big = family.job(&interval.job).is_some_and(|j| job_hours(family, j, a) > a.kept_big_hours);
        let kept = if interval.is_engine_oil() {
            a.kept_oil
        } else if big {
            a.kept_big
        } else {
            a.kept_other
        };
        let by = [a.kept_odds_poor, 1.0, a.kept_odds_good];
        Self { unproved: LEVELS.map(|l| at_odds(kept, by[l as usize])) }
    }

    /// Chance by level of care that work was done for which a paper has some credibility.
    #[must_use]
    pub fn with(&self, credibility: f64) -> [f64; 3] {
        self.unproved.map(|d| 1.0 - (1.0 - credibility) * (1.0 - d))
    }
}

/// A chance with its odds multiplied.
fn at_odds(chance: f64, by: f64) -> f64 {
    let odds = chance * by;
    odds / (odds + 1.0 - chance)
}

/// Every time that the work may have been carried out, in order; `papers` as in [`Practice::of`].
#[must_use]
pub fn kept<'a>(
    candidate: &'a Candidate,
    family: &Family,
    interval: &Interval,
    path: &PastPath,
    papers: bool,
    a: &Assumptions,
) -> Vec<Kept<'a>> {
    let practice = Practice::of(candidate, family, interval, papers, a);
    let entries = if papers { performed(candidate, family, interval) } else { Vec::new() };
    let mut out: Vec<Kept<'a>> = Vec::new();
    let mut last = (0.0, 0.0);
    let bare = practice.with(0.0);
    for e in entries {
        let at = (e.usage.on_clock(), years_between(candidate.built, e.date));
        unproved(interval, path, &mut last, at, bare, &mut out);
        // Work that came due shortly before was this.
        let near = |k: &Kept<'_>| k.entry.is_none() && late(interval, (k.usage, k.age), at) <= 0.5;
        if out.last().is_some_and(near) {
            out.pop();
        }
        let chance = practice.with(a.credibility(e.evidence));
        out.push(Kept { usage: at.0, age: at.1, chance, entry: Some(e) });
        last = at;
    }
    unproved(interval, path, &mut last, (path.usage_now(), path.age_now()), bare, &mut out);
    let old = out.len().saturating_sub(FOLLOWED);
    let papers_or_late = |(i, k): (usize, Kept<'a>)| (i >= old || k.entry.is_some()).then_some(k);
    out.into_iter().enumerate().filter_map(papers_or_late).collect()
}

/// The times that the work came due after `last` and up to `end`, with nothing to say that it was done.
fn unproved<'a>(
    interval: &Interval,
    path: &PastPath,
    last: &mut (f64, f64),
    end: (f64, f64),
    chance: [f64; 3],
    out: &mut Vec<Kept<'a>>,
) {
    if chance[2] <= 0.0 {
        return;
    }
    for _ in 0..500 {
        let due = next_due(interval, path, *last);
        if due.0 >= end.0 || due.1 >= end.1 {
            return;
        }
        out.push(Kept { usage: due.0, age: due.1, chance, entry: None });
        *last = due;
    }
}

/// When the work comes due after it was done, as usage and age, so far as that is past; whichever clock is first.
fn next_due(interval: &Interval, path: &PastPath, last: (f64, f64)) -> (f64, f64) {
    let by_usage = interval.usage.map_or(f64::INFINITY, |u| last.0 + u);
    let by_age = interval.years.map_or(f64::INFINITY, |y| last.1 + y);
    let usage_then = if by_age <= path.age_now() { path.usage_at(by_age) } else { f64::INFINITY };
    if by_usage <= usage_then {
        (by_usage, if by_usage <= path.usage_now() { path.age_at(by_usage) } else { f64::INFINITY })
    } else {
        (usage_then, by_age)
    }
}

/// How long after a time something was done, in intervals.
fn late(interval: &Interval, due: (f64, f64), done: (f64, f64)) -> f64 {
    let by_usage = interval.usage.map_or(0.0, |u| (done.0 - due.0) / u);
    by_usage.max(interval.years.map_or(0.0, |y| (done.1 - due.1) / y))
}

/// Whether work last done at a usage and age is overdue now.
#[must_use]
pub fn is_overdue(interval: &Interval, path: &PastPath, last: (f64, f64)) -> bool {
    let due = next_due(interval, path, last);
    due.0 < path.usage_now() && due.1 < path.age_now()
}

/// The chance by level of care that the work is overdue now, from all the times that it may have been done.
#[must_use]
pub fn overdue(interval: &Interval, path: &PastPath, kept: &[Kept<'_>]) -> [f64; 3] {
    let mut left = [1.0; 3];
    let mut out = [0.0; 3];
    for k in kept.iter().rev() {
        let late = is_overdue(interval, path, (k.usage, k.age));
        for l in 0..3 {
            out[l] += if late { left[l] * k.chance[l] } else { 0.0 };
            left[l] *= 1.0 - k.chance[l];
        }
    }
    if is_overdue(interval, path, (0.0, 0.0)) {
        (0..3).for_each(|l| out[l] += left[l]);
    }
    out
}
