//! What a failure point's own figures mean on its family's clock.

use crate::base::units::UsageClock;
use crate::documents::assumptions::Assumptions;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Family;

/// Whether an unannounced failure leaves one at the roadside: the sheet says so, or nobody drives on with it.
#[must_use]
pub fn strands(family: &Family, point: &FailurePoint, a: &Assumptions) -> bool {
    let least = match family.clock {
        UsageClock::Km => a.strands_km,
        UsageClock::Hours => a.strands_hours,
    };
    point.strands.unwrap_or(point.repair_delay < least)
}
