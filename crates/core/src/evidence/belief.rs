//! How complete the papers are, and the readings that the vehicle's path runs through.
//!
//! docs/METHOD.md, section 4.

use crate::base::units::{UsageClock, years_between};
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::paper::Evidence;

/// Chance that a repair left a paper (ρ): the share of the life, by usage, that invoices speak for,
/// scaled; an invoice speaks for the stretch of one service interval before it.
#[must_use]
pub fn completeness(candidate: &Candidate, a: &Assumptions) -> f64 {
    if let Some(own) = &candidate.own.completeness {
        return own.value.get();
    }
    completeness_seen(candidate, a)
}

/// The same as the papers alone give it, whatever the person puts in its place.
#[must_use]
pub fn completeness_seen(candidate: &Candidate, a: &Assumptions) -> f64 {
    let now = candidate.usage.on_clock();
    let reach = match candidate.usage.unit.clock() {
        UsageClock::Km => a.invoice_covers_km,
        UsageClock::Hours => a.invoice_covers_hours,
    };
    let mut stretches: Vec<(f64, f64)> = candidate
        .ledger
        .iter()
        .filter(|e| matches!(e.evidence, Evidence::Invoice | Evidence::InvoiceNamingPart))
        .map(|e| e.usage.on_clock())
        .map(|u| ((u - reach).max(0.0), u.min(now)))
        .collect();
    stretches.sort_by(|x, y| x.0.total_cmp(&y.0));
    let (mut covered, mut upto) = (0.0, 0.0f64);
    for (from, to) in stretches {
        covered += (to - from.max(upto)).max(0.0);
        upto = upto.max(to);
    }
    let share = if now > 0.0 { covered / now } else { 0.0 };
    (a.completeness_full * share).max(a.completeness_least)
}

/// Accepted readings as `(usage, age)` in order, for the vehicle's path.
#[must_use]
pub fn path_readings(candidate: &Candidate) -> Vec<(f64, f64)> {
    let mut readings: Vec<(f64, f64)> =
        candidate.readings.iter().map(|r| (r.usage.on_clock(), years_between(candidate.built, r.date))).collect();
    readings.sort_by(|x, y| x.1.total_cmp(&y.1));
    readings
}
