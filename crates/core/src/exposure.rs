//! Method §2: how use and care stretch or shorten a life.

use std::collections::BTreeMap;

use crate::assumptions::Assumptions;
use crate::family::{Exposure, FailurePoint};
use crate::units::Probability;

/// The life factor of a point under given exposures: `clamp(k_care · Π f^level)`.
///
/// `care` is the factor of the level of care, 1 at ordinary care.
#[must_use]
pub fn kappa(point: &FailurePoint, levels: &BTreeMap<Exposure, Probability>, care: f64, a: &Assumptions) -> f64 {
    let use_ = point
        .exposures
        .iter()
        .filter_map(|(e, factor)| levels.get(e).map(|level| factor.powf(level.get())))
        .product::<f64>();
    (care * use_).clamp(a.kappa_min, a.kappa_max)
}
