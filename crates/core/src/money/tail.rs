//! How far the bill may go, without its details.

use crate::money::distribution::Distribution;

/// Spread of the bill, units of the currency.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Tail {
    /// Mean.
    pub mean: f64,
    /// One future in ten is dearer.
    pub p90: f64,
    /// Mean of the dearest tenth.
    pub cvar90: f64,
}

impl Tail {
    /// Of what a bill may come to.
    pub fn of(bill: &Distribution) -> Self {
        Self { mean: bill.mean(), p90: bill.quantile(0.9), cvar90: bill.cvar90() }
    }

    /// How far the mean of the dearest tenth lies above the mean of all.
    pub fn excess(&self) -> f64 {
        self.cvar90 - self.mean
    }
}
