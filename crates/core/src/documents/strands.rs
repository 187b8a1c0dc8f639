//! What a failure point's own figures mean on its family's clock.

use crate::base::units::UsageClock;
use crate::documents::assumptions::Assumptions;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Family;
use crate::documents::words::LivedWith;

/// Whether an unannounced failure leaves one at the roadside: the sheet says so, or nobody drives on with it.
#[must_use]
pub fn strands(family: &Family, point: &FailurePoint, a: &Assumptions) -> bool {
    let least = match family.clock {
        UsageClock::Km => a.strands_km,
        UsageClock::Hours => a.strands_hours,
    };
    point.strands.unwrap_or(lived_with(point, family.clock, a) < least)
}

/// Usage on the family's clock that a figure in kilometres comes to.
#[must_use]
pub(crate) fn on_clock(km: f64, clock: UsageClock, a: &Assumptions) -> f64 {
    match clock {
        UsageClock::Km => km,
        UsageClock::Hours => km / a.km_an_hour,
    }
}

/// Usage for which owners live with the fault before mending it, at ordinary care: as the sheet says it, in a figure or
/// a word; else what is usual for something that is mended when it has failed.
#[must_use]
pub fn lived_with(point: &FailurePoint, clock: UsageClock, a: &Assumptions) -> f64 {
    point.repair_delay.unwrap_or_else(|| {
        // One that grows is lived with to the end of its last stage.
        if point.lived_with.is_none() && !point.stages.is_empty() {
            return point.stages.iter().map(|s| s.tolerable).sum();
        }
        let km = match point.lived_with {
            Some(LivedWith::AtOnce) => 0.0,
            Some(LivedWith::Days) => a.lived_with_days,
            Some(LivedWith::Weeks) => a.lived_with_weeks,
            Some(LivedWith::Months) => a.lived_with_months,
            Some(LivedWith::AYear) => a.lived_with_a_year,
            Some(LivedWith::ForYears) => a.lived_with_for_years,
            None if point.ends_engine => a.lived_with_days,
            None => a.lived_with_weeks,
        };
        on_clock(km, clock, a)
    })
}
