//! How far the bill may go, without its details.

use crate::base::statistics::{cvar90, quantile};

/// Spread of the bill over the futures drawn, units of the currency.
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
    /// Of the totals of all futures, with something that all of them save.
    #[allow(clippy::cast_precision_loss)]
    pub fn of(mut totals: Vec<f64>, saved: f64) -> Self {
        totals.sort_by(f64::total_cmp);
        let mean = totals.iter().sum::<f64>() / totals.len() as f64;
        Self { mean: mean - saved, p90: quantile(&totals, 0.9) - saved, cvar90: cvar90(&totals) - saved }
    }

    /// How far the mean of the dearest tenth lies above the mean of all.
    pub fn excess(&self) -> f64 {
        self.cvar90 - self.mean
    }
}
