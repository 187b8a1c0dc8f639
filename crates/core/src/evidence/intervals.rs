//! Scheduled work: when it was carried out and how often it was due.
//!
//! docs/METHOD.md, section 9.

use jiff::civil::Date;

use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::documents::job::Interval;
use crate::documents::paper::LedgerEntry;
use crate::reliability::usage_path::PastPath;

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

/// The day on which an interval of years ends: whole months by the calendar, the last of the month where
/// the day is not in it.
#[must_use]
pub fn years_on(from: Date, years: f64) -> Date {
    #[allow(clippy::cast_possible_truncation)]
    let months = (years * 12.0).round().clamp(0.0, 12_000.0) as i64;
    from.saturating_add(jiff::Span::new().months(months))
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
            applies: crate::documents::applies::Applies::default(),
        };
        let path = PastPath::new(100_000.0, 10.0, &[]);
        assert!((times_due(&interval(Some(15_000.0), None), &path) - 6.0).abs() < 1e-12);
        assert!((times_due(&interval(None, Some(2.0)), &path) - 5.0).abs() < 1e-12);
        assert!((times_due(&interval(Some(15_000.0), Some(1.0)), &path) - 10.0).abs() < 1e-12);
        assert!((times_due(&interval(Some(200_000.0), Some(20.0)), &path)).abs() < 1e-12);
    }
}
