//! What an assessment says: plain data, in units of the candidate's clock and currency.
//!
//! Nothing here is formatted: chances are 0 to 1, money is in units of the currency, usage in
//! kilometres or engine hours as [`Assessment::clock`] says. Every figure is an estimate from stated
//! assumptions.

use std::collections::BTreeMap;

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::UsageClock;
use crate::decision::advice::{Advised, Rule};
use crate::decision::blockers::{Blocker, CampaignResult};
use crate::decision::grade::Grade;
use crate::decision::knowledge::Knowledge;
use crate::decision::limit_price::LimitPrice;
use crate::decision::offer::Offer;
use crate::decision::point_result::PointResult;
use crate::decision::resale::Resale;
use crate::decision::tuned::Tuned;
use crate::decision::value_of_information::OpenCheck;
use crate::decision::verdict::Verdict;
use crate::decision::walk_round::Walk;
use crate::documents::failure_point::{Exposure, System};
use crate::documents::supplied::SupplyResult;
use crate::evidence::care_index::CareIndex;
use crate::evidence::identity::Identity;
use crate::evidence::odometer_result::Odometer;
use crate::money::expected_bill::Bill;
use crate::money::schedule::Due;
use crate::money::upgrades::UpgradeResult;
use crate::reliability::care::Weights;

/// The whole judgement of a candidate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Assessment {
    /// Name and version of the computation.
    pub engine: String,
    /// Name of the table of assumptions used.
    pub assumptions: String,
    /// The sources heard, by weight; none named means all alike, pooled.
    pub sources: BTreeMap<String, f64>,
    /// Day of judgement.
    #[schema(value_type = String, format = Date)]
    pub as_of: Date,
    /// Day of build.
    #[schema(value_type = String, format = Date)]
    pub built: Date,
    /// Currency of every amount.
    pub currency: String,
    /// Clock of every usage.
    pub clock: UsageClock,
    /// Usage now.
    pub usage_now: f64,
    /// Age now, years.
    pub age_now: f64,
    /// Usage to the end of the plan, from now.
    pub horizon: f64,
    /// Years of the plan.
    pub plan_years: f64,
    /// Usage a year in the plan.
    pub usage_a_year: f64,
    /// The candidate's path: usage at each whole year of age, for the years under the strip.
    pub years: Vec<YearMark>,
    /// Chance that a past repair left a paper (ρ).
    pub completeness: f64,
    /// The same as the papers alone give it.
    pub completeness_seen: f64,
    /// What the readings say, and the usage that all this runs on.
    pub odometer: Odometer,
    /// The bill and the limit price at the least and the most usage, where the readings leave room.
    pub usage_range: Option<[UsageEnd; 2]>,
    /// What is known of the identity.
    pub identity: Identity,
    /// Recalls and campaigns that concern it.
    pub campaigns: Vec<CampaignResult>,
    /// How it was kept, so far as papers and findings tell.
    pub care: CareResult,
    /// The uses that change how long something lasts on this one.
    pub exposures: Vec<ExposureUse>,
    /// Its tune, as each of its sheets sees it; empty where it is as its maker made it or no sheet knows.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tuned: Vec<Tuned>,
    /// Scheduled work and when it comes due, the soonest first.
    pub due: Vec<Due>,
    /// Every failure point that concerns it, the costliest in expectation first.
    #[serde(default)]
    pub points: Vec<PointResult>,
    /// Grade and money by system.
    pub systems: Vec<SystemResult>,
    /// Expected money over the plan.
    pub bill: Bill,
    /// Worth and limit price.
    pub value: LimitPrice,
    /// What it is still worth later in the plan; none where nobody said and no line of comparables tells it.
    pub still_worth: Option<Resale>,
    /// Blockers, the hardest first.
    pub blockers: Vec<Blocker>,
    /// The decision.
    pub verdict: Verdict,
    /// What to offer, and what it is argued with.
    pub offer: Offer,
    /// What the sheets advise on this variant, the hardest first.
    pub advised: Vec<Advised>,
    /// How to treat it after purchase.
    pub rules: Vec<Rule>,
    /// What may be fitted to cure a point or to make it last; none of it is in the bill.
    pub upgrades: Vec<UpgradeResult>,
    /// How much of what matters has been looked at.
    pub knowledge: Knowledge,
    /// Checks not yet done, the most telling for its time first.
    pub open_checks: Vec<OpenCheck>,
    /// The walk-round as planned.
    pub walk: Walk,
    /// Checks that concern it.
    pub checks_total: usize,
    /// Checks done.
    pub checks_done: usize,
    /// Grade of the whole.
    pub grade: Grade,
    /// Whether some findings were weighed one after another because together they have too many
    /// states.
    pub approximate: bool,
    /// What this version leaves out of the method, so that nobody trusts it further than it goes.
    pub limits: Vec<Limit>,
    /// How parts and work are to be had at its age, where its sheets say so.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub supply: Vec<SupplyResult>,
}

impl Assessment {
    /// Chance of a blow within the plan: something that ends the engine, or costs half of what such a one goes for,
    /// weighed by how much of that it costs. Points count as independent.
    #[must_use]
    pub fn blow(&self) -> f64 {
        let worth = self.value.reference.price.max(1.0);
        let blows = self.points.iter().filter(|p| p.ends_engine || p.worst_cost >= worth / 2.0);
        let spared: f64 = blows.map(|p| 1.0 - p.p_plan * (p.worst_cost / worth).min(1.0)).product();
        1.0 - spared
    }
}

/// A part of the method that a result does not hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Limit {
    /// Jobs after the day of purchase are costed one by one; nothing is saved by doing neighbours together then.
    LaterVisitsApart,
}

/// Care as a hidden level of the whole vehicle: poor, ordinary, good, in this order.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CareResult {
    /// The care index with its parts.
    pub index: CareIndex,
    /// Chance of each level by the papers.
    #[schema(value_type = Vec<f64>, min_items = 3, max_items = 3)]
    pub before: Weights,
    /// Chance of each level after the findings.
    #[schema(value_type = Vec<f64>, min_items = 3, max_items = 3)]
    pub after: Weights,
    /// Expected bill within the plan at each level.
    #[schema(value_type = Vec<f64>, min_items = 3, max_items = 3)]
    pub bill: [f64; 3],
}

/// The judgement at one end of what the usage may be.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct UsageEnd {
    /// Usage, on the candidate's clock.
    pub usage: f64,
    /// Expected bill within the plan.
    pub bill: f64,
    /// Limit price.
    pub limit: f64,
}

/// A use that concerns the candidate.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ExposureUse {
    /// Which.
    pub exposure: Exposure,
    /// Points whose life it changes.
    pub points: usize,
    /// Its level so far, 0 to 1.
    pub past: f64,
    /// Its level in the plan, 0 to 1.
    pub plan: f64,
}

/// A whole year of age on the strip.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct YearMark {
    /// Calendar year at whose start it stands.
    pub year: i16,
    /// Usage at that time, of the past or of the plan.
    pub usage: f64,
}

/// Grade and money of a system.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SystemResult {
    /// Which.
    pub system: System,
    /// Worst grade of its points.
    pub grade: Grade,
    /// Expected money within the plan.
    pub expected_cost: f64,
    /// Points in it.
    pub points: usize,
}
