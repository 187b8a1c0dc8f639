//! The odometer: readings over time, and what the true usage may be.
//!
//! Every dated figure counts as a reading: those of tests and adverts, those on ledger entries, and what the
//! clock shows now. The judgement runs on the least usage that the readings allow unless the person chooses.
//!
//! docs/METHOD.md, section 4.

use jiff::civil::Date;

use crate::base::units::{Usage, years_between};
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::paper::DateKnown;
use crate::evidence::odometer_anomalies::{Point, Work};
use crate::evidence::odometer_result::{Odometer, Origin, Seen};

/// What a candidate's readings say.
#[must_use]
pub fn read(c: &Candidate, a: &Assumptions) -> Odometer {
    let mut points = gather(c);
    let mut work = Work { a, clock: c.usage.unit.clock(), anomalies: Vec::new(), extra: 0.0 };
    work.follow(&mut points);
    let last = points.len() - 1;
    let shown = points[last].raw;
    let least = points[last].value();
    let rate = work.rates(&points);
    let most = least + work.extra;
    let choice = c.odometer.as_ref();
    let usage = choice.map_or(least, |t| t.usage.on_clock());
    let low = choice.and_then(|t| t.low).map_or(least, Usage::on_clock).min(usage);
    let high = choice.and_then(|t| t.high).map_or(most, Usage::on_clock).max(usage);
    work.choose(&mut points, least, usage);
    let anomalies = work.anomalies.into_iter().map(|x| x.today(least, a)).collect();
    let readings = points
        .into_iter()
        .map(|p| Seen {
            date: p.date,
            shown: p.shown,
            usage: (!p.aside).then(|| p.value()),
            origin: p.origin,
            source: p.source,
        })
        .collect();
    Odometer {
        shown,
        usage,
        least,
        most,
        low,
        high,
        chosen: choice.is_some(),
        proved: choice.is_some_and(|t| t.proved),
        readings,
        anomalies,
        rate,
    }
}

/// Every dated figure in order of time; the last is what the clock shows now.
fn gather(c: &Candidate) -> Vec<Point> {
    let point = |date: Date, known: DateKnown, shown: Usage, origin, source: &str| Point {
        date,
        slack: known.slack_days(),
        age: years_between(c.built, date),
        raw: shown.on_clock(),
        unit: shown.unit,
        shown,
        origin,
        source: source.to_owned(),
        factor: 1.0,
        offset: 0.0,
        aside: false,
    };
    let readings = c
        .readings
        .iter()
        .enumerate()
        .map(|(index, r)| point(r.date, r.known, r.usage, Origin::Reading { index }, &r.source));
    let entries =
        c.ledger.iter().enumerate().map(|(index, e)| point(e.date, e.known, e.usage, Origin::Entry { index }, &e.note));
    let mut points: Vec<Point> = readings.chain(entries).collect();
    points.sort_by(|x, y| x.date.cmp(&y.date).then(x.raw.total_cmp(&y.raw)));
    // A month stands for its middle: within what its true day may have been, the clock decides the order.
    if points.iter().any(|p| p.slack > 0) {
        for _ in 0..64 {
            let mut moved = false;
            for i in 1..points.len() {
                let (x, y) = (&points[i - 1], &points[i]);
                let apart = y.date.since(x.date).map_or(i32::MAX, |s| s.get_days());
                if x.raw > y.raw && x.slack + y.slack > 0 && apart <= x.slack + y.slack {
                    points.swap(i - 1, i);
                    moved = true;
                }
            }
            if !moved {
                break;
            }
        }
    }
    points.push(point(c.as_of, DateKnown::Day, c.usage, Origin::Now, ""));
    points
}
