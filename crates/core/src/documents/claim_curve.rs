//! From a claim to the Weibull curve that it means.
//!
//! docs/METHOD.md, section 1.

use crate::base::weibull::{CurveError, Weibull};
use crate::documents::assumptions::Assumptions;
use crate::documents::claim::{LifeForm, Mechanism};

/// The curve that a claim means.
///
/// # Errors
/// [`CurveError`] when the claim's figures do not make a curve.
pub fn curve(says: &LifeForm, mechanism: Mechanism, a: &Assumptions) -> Result<Weibull, CurveError> {
    let shape = a.shape(mechanism);
    match says {
        LifeForm::Between { from, to } => Weibull::fit(&[(a.p_between_low, *from), (a.p_between_high, *to)]),
        LifeForm::FromAbout { at } => Weibull::through(a.p_from_about, *at, shape),
        LifeForm::About { at } => Weibull::through(a.p_about, *at, shape),
        LifeForm::RarelyBeyond { at } => Weibull::through(a.p_rarely_beyond, *at, shape),
        LifeForm::AtLeast { at } => Weibull::through(a.p_at_least, *at, shape),
        LifeForm::Quantiles { points } => Weibull::fit(&points.iter().map(|q| (q.p, q.x)).collect::<Vec<_>>()),
        LifeForm::Weibull { shape, scale } => Weibull::new(*shape, *scale),
    }
}
