//! Method §9, as far as the strip needs it: when scheduled work was last done and when it comes due next.
//! An interval says nothing of when a part would fail.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assumptions::Assumptions;
use crate::candidate::{Candidate, LedgerEntry, PointRef};
use crate::family::{Family, Interval};
use crate::standing::PastPath;
use crate::subject::{Setting, fit};
use crate::units::years_between;

/// An entry believed at least this far counts as done for the mark on the strip.
const BELIEVED: f64 = 0.5;

/// Scheduled work and where on the strip it comes due.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Due {
    /// The family.
    pub family: String,
    /// The interval.
    pub interval: String,
    /// Its name.
    pub name: String,
    /// Usage at which it was last done, so far as that is believed; none means never since build.
    pub last: Option<f64>,
    /// Usage at which it comes due, along past and plan, whichever clock is first.
    pub usage: f64,
    /// Whether that is past.
    pub overdue: bool,
    /// The failure points that it starts afresh.
    pub renews: Vec<PointRef>,
}

/// Ledger entries that carried the interval out, in order of usage.
#[must_use]
pub fn performed<'a>(candidate: &'a Candidate, family: &Family, interval: &Interval) -> Vec<&'a LedgerEntry> {
    let mut out: Vec<&LedgerEntry> = candidate
        .ledger
        .iter()
        .filter(|e| {
            e.performs.iter().any(|p| p.family == family.id && p.interval == interval.id)
                || e.renews.iter().any(|r| r.family == family.id && interval.renews.contains(&r.point))
        })
        .collect();
    out.sort_by(|x, y| x.usage.on_clock().total_cmp(&y.usage.on_clock()).then(x.date.cmp(&y.date)));
    out
}

/// How often the interval came due between build and now, whichever clock came first, had it been kept.
#[must_use]
pub fn times_due(interval: &Interval, path: &PastPath) -> f64 {
    let (mut usage, mut age, mut times) = (0.0, 0.0, 0.0);
    loop {
        let by_usage = interval.usage.map_or(f64::INFINITY, |u| usage + u);
        let by_age = interval.years.map_or(f64::INFINITY, |y| age + y);
        let usage_by_age = if by_age <= path.age_now() { path.usage_at(by_age) } else { f64::INFINITY };
        if by_usage.min(usage_by_age) > path.usage_now() || times >= 500.0 {
            return times;
        }
        if by_usage <= usage_by_age {
            usage = by_usage;
            age = path.age_at(by_usage);
        } else {
            usage = usage_by_age;
            age = by_age;
        }
        times += 1.0;
    }
}

/// When each scheduled work that concerns the candidate comes due next, the soonest first.
#[must_use]
pub fn due(setting: &Setting<'_>, families: &[Family], a: &Assumptions) -> Vec<Due> {
    let candidate = setting.candidate;
    let mut out: Vec<Due> = families
        .iter()
        .flat_map(|f| f.intervals.iter().map(move |i| (f, i)))
        .filter(|(f, i)| fit(&i.applies, f, candidate, a).is_some())
        .map(|(family, interval)| {
            let entries = performed(candidate, family, interval);
            let last = entries.iter().rev().find(|e| a.credibility(e.evidence) >= BELIEVED);
            let (usage, age) =
                last.map_or((0.0, 0.0), |e| (e.usage.on_clock(), years_between(candidate.built, e.date)));
            let by_usage = interval.usage.map_or(f64::INFINITY, |u| usage + u);
            let by_age = interval.years.map_or(f64::INFINITY, |y| usage_along(setting, age + y));
            Due {
                family: family.id.clone(),
                interval: interval.id.clone(),
                name: interval.name.clone(),
                last: last.map(|e| e.usage.on_clock()),
                usage: by_usage.min(by_age),
                overdue: by_usage.min(by_age) < setting.path.usage_now(),
                renews: interval
                    .renews
                    .iter()
                    .map(|p| PointRef { family: family.id.clone(), point: p.clone() })
                    .collect(),
            }
        })
        .collect();
    out.sort_by(|x, y| x.usage.total_cmp(&y.usage).then(x.interval.cmp(&y.interval)));
    out
}

/// Usage at an age, of the past or, at the plan's pace, ahead.
fn usage_along(setting: &Setting<'_>, age: f64) -> f64 {
    let now = setting.path.age_now();
    if age <= now { setting.path.usage_at(age) } else { setting.path.usage_now() + (age - now) * setting.usage_a_year }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_interval_comes_due_on_whichever_clock_is_first() {
        let interval = |usage, years| Interval {
            id: "i".to_owned(),
            name: "i".to_owned(),
            usage,
            years,
            job: String::new(),
            renews: Vec::new(),
            applies: crate::family::Applies::default(),
        };
        let path = PastPath::new(100_000.0, 10.0, &[]);
        assert!((times_due(&interval(Some(15_000.0), None), &path) - 6.0).abs() < 1e-12);
        assert!((times_due(&interval(None, Some(2.0)), &path) - 5.0).abs() < 1e-12);
        assert!((times_due(&interval(Some(15_000.0), Some(1.0)), &path) - 10.0).abs() < 1e-12);
        assert!((times_due(&interval(Some(200_000.0), Some(20.0)), &path)).abs() < 1e-12);
    }
}
