//! The purchase plan: what is renewed at purchase, budgeted for, watched or left, and what is done together.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::buyer::MaintenancePolicy;
use crate::documents::reference::{IntervalRef, PointRef};
use crate::money::distribution::Distribution;

/// What becomes of a point.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PlanAction {
    /// Renewed, or put right, at purchase.
    Renew,
    /// More likely than not within the plan: money is put by for it.
    Budget,
    /// Watched for its sign.
    Watch,
    /// May come, and gives no sign: money is held for it.
    Hold,
    /// Left alone.
    Nothing,
}

/// Why a point is renewed at purchase.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum RenewWhy {
    /// The person decided so.
    Own,
    /// The fault is there now.
    ThereNow,
    /// It can hurt someone and may well be there.
    Safety,
    /// Renewing costs less in expectation than leaving it.
    Cheaper,
    /// Overdue scheduled work renews it.
    Overdue {
        /// The work's name.
        work: String,
    },
    /// Its scheduled work is nearly due.
    NearlyDue {
        /// The work's name.
        work: String,
    },
    /// Likely within the plan.
    Likely,
    /// Renewing costs more in expectation, and spares so much bad luck that it is worth it to this buyer.
    Risk,
    /// While something that must come off anyway is off.
    Together,
}

/// What becomes of one point.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PlannedPoint {
    /// Which.
    pub at: PointRef,
    /// Its name.
    pub name: String,
    /// The job's name.
    pub job: String,
    /// What becomes of it.
    pub action: PlanAction,
    /// Why it is renewed; none where it is not.
    pub why: Option<RenewWhy>,
    /// Whether the person decided so themselves.
    pub own: bool,
    /// Expected money within the plan if it is renewed at purchase, as a job of its own.
    pub renew: f64,
    /// Expected money within the plan if it is left until it must be done.
    pub leave: f64,
    /// Chance that it is there now.
    pub p_now: f64,
    /// Chance within the plan.
    pub p_plan: f64,
    /// What to watch for, where it gives warning.
    pub sign: Option<String>,
}

/// Something to be done at purchase.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum JobAt {
    /// For a failure point.
    Point(PointRef),
    /// Scheduled work that is overdue.
    Work(IntervalRef),
}

/// A job in a bundle.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BundleJob {
    /// What for.
    pub at: JobAt,
    /// Name of the point or work.
    pub name: String,
    /// The job's name.
    pub job: String,
    /// Why it is done now.
    pub why: RenewWhy,
    /// What it costs alone.
    pub alone: f64,
    /// Of that, what is saved because it is off already for the others.
    pub shared: f64,
    /// Whether the person decided so themselves.
    pub own: bool,
}

/// A neighbour that could be done while it is apart, with the sum that speaks for or against it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Neighbour {
    /// Which point.
    pub at: PointRef,
    /// Its name.
    pub name: String,
    /// The job's name.
    pub job: String,
    /// What the job costs alone.
    pub alone: f64,
    /// What is saved of that because it is off already.
    pub shared: f64,
    /// What the fresh part is expected to cost within the plan after that.
    pub fresh: f64,
    /// Expected money within the plan if it is done now: alone − shared + fresh.
    pub now: f64,
    /// Expected money within the plan if it is left.
    pub later: f64,
    /// Whether it is among the jobs of the bundle.
    pub taken: bool,
}

/// Jobs that share what must come off.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct JobBundle {
    /// What comes off for more than one of them, by name; empty for a job that shares nothing.
    pub off: Vec<String>,
    /// The jobs.
    pub jobs: Vec<BundleJob>,
    /// Neighbours that share what is off, taken or not.
    pub neighbours: Vec<Neighbour>,
    /// What the jobs cost as visits of their own.
    pub apart: f64,
    /// What they cost together: each thing comes off once.
    pub together: f64,
}

/// What one policy comes to.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PolicyBill {
    /// Which.
    pub policy: MaintenancePolicy,
    /// Points renewed at purchase.
    pub renewed: usize,
    /// Money at purchase: jobs, together where they share, overdue work included.
    pub at_purchase: f64,
    /// Expected money within the plan, at purchase included, with what is saved by doing jobs together there.
    pub expected: f64,
}

/// What is done at purchase, what later, and what together.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PurchasePlan {
    /// The policy followed.
    pub policy: MaintenancePolicy,
    /// Every point, those renewed first, then by what leaving them costs.
    pub points: Vec<PlannedPoint>,
    /// What is done at purchase, by what must come off; the dearest first.
    pub bundles: Vec<JobBundle>,
    /// The three policies side by side.
    pub policies: Vec<PolicyBill>,
}

/// The answer, with what the futures need of it.
pub(crate) struct DecidedPlan {
    /// For each point: renewed at purchase by a job of its own.
    pub renewed: Vec<bool>,
    /// Expected money within the plan, with what is saved by doing jobs together at purchase.
    pub expected: f64,
    /// What is saved so.
    pub saved: f64,
    /// What the bill may come to, what is saved taken off.
    pub distribution: Distribution,
    pub told: PurchasePlan,
}
