//! How use stretches or shortens a life.

use crate::base::units::Probability;
use crate::documents::assumptions::Assumptions;
use crate::documents::failure_point::Exposure;
use crate::documents::failure_point::FailurePoint;
use std::collections::BTreeMap;

/// What use makes of a point's life: `Π f^level` over the exposures; 1 where none concerns it.
#[must_use]
pub fn factor(point: &FailurePoint, levels: &BTreeMap<Exposure, Probability>) -> f64 {
    point.exposures.iter().filter_map(|(e, f)| levels.get(e).map(|level| f.powf(level.get()))).product()
}

/// The life factor κ of use and care together, kept within what they may do.
#[must_use]
pub fn kappa(use_and_care: f64, a: &Assumptions) -> f64 {
    use_and_care.clamp(a.kappa_min, a.kappa_max)
}
