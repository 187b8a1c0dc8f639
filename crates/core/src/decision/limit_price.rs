//! The limit price: the most it is worth to this buyer.
//!
//! docs/METHOD.md, section 11.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::money::reference_price::Reference;

/// What it is worth to this buyer: the reference price, less what it is expected to cost beyond the reference
/// example, less room for bad luck by appetite. `bad_luck` is the mean of the dearest tenth less the mean.
#[must_use]
pub fn limit_price(
    candidate: &Candidate,
    reference: Reference,
    excess: f64,
    tail_excess: f64,
    a: &Assumptions,
) -> LimitPrice {
    let asking = candidate.asking.get();
    let risk_margin = a.risk_margin(candidate.buyer.appetite) * tail_excess;
    let limit = (reference.price - excess - risk_margin).max(0.0);
    LimitPrice { asking, reference, tail_excess, risk_margin, limit, surplus: limit - asking }
}

/// Worth and limit price, units of the currency.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LimitPrice {
    /// Asked.
    pub asking: f64,
    /// The reference price.
    pub reference: Reference,
    /// How far the mean of the dearest tenth of futures lies above the mean of all.
    pub tail_excess: f64,
    /// What is held back for that, by the buyer's appetite for risk.
    pub risk_margin: f64,
    /// The most it is worth to this buyer.
    pub limit: f64,
    /// Limit less asking.
    pub surplus: f64,
}
