//! The limit price: the most it is worth to this buyer.

use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::money::reference_price::Reference;
use serde::Deserialize;
use serde::Serialize;
use utoipa::ToSchema;

/// What it is worth to this buyer: the reference price, less what it is expected to cost beyond the reference
/// example, less room for bad luck by appetite. `bad_luck` is the mean of the dearest tenth less the mean.
#[must_use]
pub fn worth(candidate: &Candidate, reference: Reference, excess: f64, bad_luck: f64, a: &Assumptions) -> Worth {
    let asking = candidate.asking.get();
    let room = a.room(candidate.buyer.appetite) * bad_luck;
    let limit = (reference.price - excess - room).max(0.0);
    Worth { asking, reference, bad_luck, room, limit, surplus: limit - asking }
}

/// Worth and limit price, units of the currency.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Worth {
    /// Asked.
    pub asking: f64,
    /// The reference price.
    pub reference: Reference,
    /// How far the mean of the dearest tenth of futures lies above the mean of all.
    pub bad_luck: f64,
    /// What is held back for that, by the buyer's appetite for risk.
    pub room: f64,
    /// The most it is worth to this buyer.
    pub limit: f64,
    /// Limit less asking.
    pub surplus: f64,
}
