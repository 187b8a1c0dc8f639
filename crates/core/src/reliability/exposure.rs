//! How use stretches or shortens a life.
//!
//! docs/METHOD.md, section 2.

use std::collections::BTreeMap;

use crate::base::units::Probability;
use crate::documents::assumptions::Assumptions;
use crate::documents::failure_point::{Exposure, FailurePoint};

/// What use makes of a point's life: `Π f^level` over the exposures; 1 where none concerns it.
#[must_use]
pub fn factor(point: &FailurePoint, levels: &BTreeMap<Exposure, Probability>) -> f64 {
    point.exposures.iter().filter_map(|(e, f)| levels.get(e).map(|level| f.powf(level.get()))).product()
}

/// The life factor κ of use and care together, kept within what they may do.
#[must_use]
pub fn life_factor(use_and_care: f64, a: &Assumptions) -> f64 {
    use_and_care.clamp(a.life_factor_min, a.life_factor_max)
}
