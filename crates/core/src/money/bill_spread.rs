//! The bill as it may turn out: quantiles, exceedance, years, and what makes it dear.
//!
//! docs/METHOD.md, section 10.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::reference::PointRef;
use crate::money::job_cost::JobCost;
use crate::money::purchase_plan::PurchasePlan;

/// The bill as it may turn out, units of the currency.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BillSpread {
    /// Futures drawn.
    pub draws: usize,
    /// Mean of the futures, each visit paid alone.
    pub mean: f64,
    /// Its standard error.
    pub error: f64,
    /// The expected bill worked out without drawing: the two agree within four standard errors.
    pub expected: f64,
    /// Mean with visits grouped.
    pub grouped: f64,
    /// One future in ten is cheaper.
    pub p10: f64,
    /// The middle one.
    pub p50: f64,
    /// One in ten is dearer.
    pub p90: f64,
    /// Mean of the dearest tenth.
    pub cvar90: f64,
    /// Chance that the bill exceeds an amount, from 0 to where hardly any does.
    pub exceed: Vec<Exceed>,
    /// By year of the plan.
    pub years: Vec<YearSpread>,
    /// Chance that the reserve asked about is enough.
    pub reserve_holds: Option<f64>,
    /// What makes the dearest tenth dear: mean money of each point there beyond its mean, the most first.
    pub dear: Vec<DearPoint>,
    /// What the mean is made of.
    pub split: BillSplit,
    /// What is done at purchase, what later, and what together, as the chosen source has it.
    pub purchase_plan: PurchasePlan,
}

/// What the mean bill is made of; the four add up to it.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct BillSplit {
    /// Parts and sundries.
    pub parts: f64,
    /// Hours of the jobs themselves.
    pub labour: f64,
    /// Hours to get at them.
    pub access: f64,
    /// Recovery, and larger jobs that come of a failure on the road.
    pub mishaps: f64,
}

impl BillSplit {
    pub(crate) fn add(&mut self, job: &JobCost, amount: f64) {
        let own = job.parts + job.labour;
        let access = job.access.min(amount);
        let parts = if own > 0.0 { job.parts / own } else { 0.0 };
        self.access += access;
        self.parts += (amount - access) * parts;
        self.labour += (amount - access) * (1.0 - parts);
    }

    /// Takes off what is saved by doing jobs together: what comes off once, and of a job that is done once for several
    /// points its parts and hours as well.
    pub(crate) fn save(&mut self, saved: f64) {
        let off = saved.min(self.access);
        self.access -= off;
        let own = self.parts + self.labour;
        let left = if own > 0.0 { ((own - (saved - off)) / own).max(0.0) } else { 0.0 };
        self.parts *= left;
        self.labour *= left;
    }

    pub(crate) fn each(self, n: f64) -> Self {
        let Self { parts, labour, access, mishaps } = self;
        Self { parts: parts / n, labour: labour / n, access: access / n, mishaps: mishaps / n }
    }
}

/// A point of the exceedance curve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Exceed {
    /// Amount.
    pub amount: f64,
    /// Chance that the bill is above it.
    pub chance: f64,
}

/// A year of the plan.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct YearSpread {
    /// Mean.
    pub mean: f64,
    /// One future in ten is dearer in that year.
    pub p90: f64,
}

/// A point in the dearest tenth of futures.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct DearPoint {
    /// Which.
    pub at: PointRef,
    /// Its name.
    pub name: String,
    /// Its mean money there beyond its mean over all.
    pub beyond: f64,
}
