//! What an assessment says: plain data, in units of the candidate's clock and currency.
//!
//! Nothing here is formatted: chances are 0 to 1, money is in units of the currency, usage in
//! kilometres or engine hours as [`Assessment::clock`] says. Every figure is an estimate from stated
//! assumptions.

use std::collections::BTreeMap;

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::candidate::{CampaignState, Evidence, IntervalRef, PointRef, ProvenanceKind};
use crate::care::{CareIndex, Weights};
use crate::family::{Exposure, GateKind, PartGrade, Phase, System};
use crate::grade::Grade;
use crate::identity::{Identity, IdentityNote};
use crate::jobs::JobCost;
use crate::odometer::{AnomalyKind, Odometer};
use crate::offer::Offer;
use crate::schedule::Due;
use crate::units::UsageClock;
use crate::value::Reference;
use crate::walk::Walk;

/// Bins of the strip from build to now.
pub const PAST_BINS: usize = 48;
/// Bins of the strip over the plan.
pub const PLAN_BINS: usize = 40;

/// Bins beyond the plan.
pub const BEYOND_BINS: usize = 12;

/// The whole judgement of a candidate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Assessment {
    /// Name and version of the computation.
    pub engine: String,
    /// Name of the table of assumptions used.
    pub assumptions: String,
    /// The schools heard, by weight; none named means all alike, pooled.
    pub schools: BTreeMap<String, f64>,
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
    /// Scheduled work and when it comes due, the soonest first.
    pub due: Vec<Due>,
    /// Every failure point that concerns it, the costliest in expectation first.
    pub points: Vec<PointResult>,
    /// Grade and money by system.
    pub systems: Vec<SystemResult>,
    /// Expected money over the plan.
    pub bill: Bill,
    /// Worth and limit price.
    pub value: Worth,
    /// Gates, the hardest first.
    pub gates: Vec<Gate>,
    /// The decision.
    pub verdict: Verdict,
    /// What to offer, and what it is argued with.
    pub offer: Offer,
    /// How much of what matters has been looked at.
    pub knowledge: Knowledge,
    /// Checks not yet done, the most telling for its time first.
    pub next: Vec<NextCheck>,
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
}

/// A part of the method that a result does not hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Limit {
    /// The limit price goes by the bill as it comes: what renewing at purchase would save is not in it.
    AsItComes,
    /// Jobs are costed one by one; nothing is saved by doing neighbours together.
    JobsApart,
    /// Scheduled work is in the bill; that it also prevents failures within the plan is not counted.
    WorkPreventsNothing,
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

/// A recall or campaign that concerns the candidate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CampaignResult {
    /// Family.
    pub family: String,
    /// Campaign.
    pub campaign: String,
    /// Its name.
    pub name: String,
    /// What it was for.
    pub about: String,
    /// What remains exposed where it was not done.
    pub exposes: String,
    /// How it is proved.
    pub proof: String,
    /// Whether it concerns safety.
    pub safety: bool,
    /// Chance that it concerns this one, unknown facts counted.
    pub share: f64,
    /// What is known.
    pub state: CampaignState,
    /// Who said so.
    pub note: String,
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

/// One failure point on this candidate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PointResult {
    /// Which.
    pub at: PointRef,
    /// Name.
    pub name: String,
    /// System.
    pub system: System,
    /// How it shows.
    pub shows: String,
    /// Whether it can end the engine.
    pub ends_engine: bool,
    /// Whether it can hurt someone.
    pub can_hurt: bool,
    /// Facts that would settle whether it concerns this variant.
    pub identify: Vec<String>,
    /// Whether the works fitted the revised part.
    pub revised: bool,
    /// Susceptible share used (π), unknown facts counted.
    pub share: f64,
    /// Chance that it is there now.
    pub p_now: f64,
    /// Chance that it is there now or comes within the plan.
    pub p_plan: f64,
    /// Usage at which it needs doing, given that it ever does.
    pub needs_at: NeedsAt,
    /// Expected number of repairs within the plan.
    pub repairs: f64,
    /// The job that puts it right.
    pub job: String,
    /// What that job costs alone.
    pub cost: JobCost,
    /// Cost at the worst branch.
    pub worst_cost: f64,
    /// Expected money within the plan.
    pub expected_cost: f64,
    /// Severity, 0 to 3.
    pub severity: usize,
    /// Likelihood, 0 to 3.
    pub likelihood: usize,
    /// Grade.
    pub grade: Grade,
    /// Where its trouble lies along the strip.
    pub trouble: Trouble,
    /// Renewals on paper.
    pub renewals: Vec<RenewalMark>,
    /// From the family to this vehicle, one kind of evidence at a time.
    pub why: Vec<WhyStep>,
    /// The chance within the plan under each school that speaks of it.
    pub schools: Vec<SchoolChance>,
    /// Checks done that speak of it.
    pub seen: Vec<String>,
    /// Checks not done that speak of it.
    pub unseen: Vec<String>,
    /// What to watch for, where it gives warning.
    pub sign: Option<String>,
}

/// Usage at which a point needs doing: absolute, on the candidate's clock. None: beyond what the
/// strip shows.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct NeedsAt {
    /// One in ten sooner.
    pub p10: Option<f64>,
    /// As likely sooner as later.
    pub p50: Option<f64>,
    /// One in ten later.
    pub p90: Option<f64>,
}

/// Chances along the strip, by equal bins: [`PAST_BINS`] from build to now, [`PLAN_BINS`] over the
/// plan, the rest beyond it by the same width as the plan's.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Trouble {
    /// Expected failures by now, of vehicles built like this one, before anything is known of it.
    pub past: Vec<f64>,
    /// Chance of the first failure ahead, in the plan.
    pub plan: Vec<f64>,
    /// The same beyond the plan.
    pub beyond: Vec<f64>,
}

/// A renewal on paper.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RenewalMark {
    /// At what usage.
    pub usage: f64,
    /// When.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// What stands behind it.
    pub evidence: Evidence,
    /// How far it is believed.
    pub credibility: f64,
    /// Grade of part.
    pub grade: PartGrade,
    /// Whether the revised part.
    pub revised: bool,
}

/// One step of the waterfall.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WhyStep {
    /// The evidence added.
    pub kind: WhyKind,
    /// Chance within the plan with it.
    pub chance: f64,
}

/// The kinds of evidence, in their order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WhyKind {
    /// The family at build: by the end of the plan, as seen from new.
    AtBuild,
    /// It has come to this usage and age.
    Survived,
    /// How it was used and will be.
    Use,
    /// What the papers prove.
    Papers,
    /// What was found.
    Findings,
}

/// A school's view of one point.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SchoolChance {
    /// School id.
    pub school: String,
    /// Its name.
    pub name: String,
    /// Chance within the plan if it alone were heard.
    pub chance: f64,
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

/// Expected money within the plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Bill {
    /// In all.
    pub mean: f64,
    /// Of it, at once: what is there now, and scheduled work that is overdue.
    pub now: f64,
    /// Of it, scheduled work: overdue, and falling due within the plan.
    pub scheduled: f64,
    /// Of that, overdue.
    pub overdue: f64,
    /// By year of the plan; what is there now falls in the first.
    pub by_year: Vec<f64>,
    /// Along the strip, by [`PLAN_BINS`]; what is there now not counted.
    pub spend: Vec<f64>,
    /// The same for the reference example.
    pub reference: f64,
    /// Beyond the reference example: what the market does not price in.
    pub excess: f64,
    /// One future in ten is dearer.
    pub p90: f64,
    /// Mean of the dearest tenth.
    pub cvar90: f64,
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

/// Something that stands between the buyer and the purchase.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Gate {
    /// How hard it closes.
    pub kind: GateKind,
    /// What closes it.
    pub cause: GateCause,
}

/// What closes a gate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum GateCause {
    /// The readings leave the usage open, or are explained by what has yet to be proved.
    Odometer {
        /// What is wrong with them.
        anomaly: AnomalyKind,
        /// Least true usage today.
        least: f64,
        /// Most.
        most: f64,
    },
    /// The identity does not agree.
    Identity {
        /// What does not.
        note: IdentityNote,
    },
    /// A recall or campaign not proved done.
    Campaign {
        /// Family.
        family: String,
        /// Campaign.
        campaign: String,
        /// Its name.
        name: String,
        /// What remains exposed.
        exposes: String,
        /// How it is proved.
        proof: String,
    },
    /// A mark in a history report.
    Provenance {
        /// Which.
        item: ProvenanceKind,
        /// Who said so.
        note: String,
    },
    /// An outcome of a check.
    Check {
        /// Family.
        family: String,
        /// Check.
        check: String,
        /// Its name.
        name: String,
        /// The outcome's label.
        outcome: String,
        /// What it means and what to do.
        say: String,
        /// Whether it is dangerous to drive or run until it is mended.
        danger: bool,
    },
}

/// The decision and what stands behind it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Verdict {
    /// The decision.
    pub kind: VerdictKind,
    /// The limit price when it is to be negotiated to.
    pub negotiate_to: Option<f64>,
    /// Up to three, the strongest first.
    pub reasons_for: Vec<Reason>,
    /// Up to three, the strongest first.
    pub reasons_against: Vec<Reason>,
    /// What would change it.
    pub would_change: Vec<Change>,
}

/// How much of what matters has been looked at. A point is looked at where a check that speaks of it is done, or
/// where a paper proves its part renewed.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Knowledge {
    /// Of the money that papers, usage and age alone let one expect from failure points, the share that comes from
    /// points looked at.
    pub money: f64,
    /// Points looked at.
    pub points: usize,
    /// Points in all.
    pub of_points: usize,
    /// Items of a history report asked.
    pub provenance: usize,
    /// Items in all.
    pub of_provenance: usize,
}

/// The decision.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum VerdictKind {
    /// Leave it.
    WalkAway,
    /// Something must be proved or looked at first.
    NotYet,
    /// Worth it at less than is asked.
    Negotiate,
    /// Worth what is asked.
    Buy,
}

/// A reason with its numbers; the wording is the screen's.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Reason {
    /// The limit stands above the asking price.
    PriceBelowLimit {
        /// By so much.
        amount: f64,
    },
    /// The asking price stands above the limit.
    PriceAboveLimit {
        /// By so much.
        amount: f64,
    },
    /// Less to come than on the reference example.
    BillBelowReference {
        /// By so much.
        amount: f64,
    },
    /// More to come than on the reference example.
    BillAboveReference {
        /// By so much.
        amount: f64,
    },
    /// A point likely to cost money.
    FaultLikely {
        /// Which.
        at: PointRef,
        /// Its name.
        name: String,
        /// Chance that it is there now.
        now: f64,
        /// Chance within the plan.
        chance: f64,
        /// Expected money.
        amount: f64,
    },
    /// Papers that take a point's chance down.
    Renewed {
        /// Which.
        at: PointRef,
        /// Its name.
        name: String,
        /// Chance before.
        before: f64,
        /// Chance after.
        after: f64,
        /// Money saved in expectation.
        amount: f64,
    },
    /// Findings that take a point's chance down.
    LooksSound {
        /// Which.
        at: PointRef,
        /// Its name.
        name: String,
        /// Chance before.
        before: f64,
        /// Chance after.
        after: f64,
        /// Money saved in expectation.
        amount: f64,
    },
    /// Most points are quiet.
    QuietPoints {
        /// Points under one in twenty within the plan.
        quiet: usize,
        /// Points in all.
        total: usize,
    },
    /// A closed gate.
    Gate {
        /// Index into the gates.
        gate: usize,
    },
    /// Checks not done that could change the mind.
    NotLookedAt {
        /// Checks worth more than their time.
        checks: usize,
        /// Worth of the best of them.
        amount: f64,
    },
}

/// Something that would change the verdict.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Change {
    /// The asking price falls to this.
    PriceTo {
        /// Limit price.
        amount: f64,
        /// The smallest cut that does it.
        cut: f64,
    },
    /// A paper that proves scheduled work done.
    Paper {
        /// Which work.
        at: IntervalRef,
        /// Its name.
        name: String,
        /// What it would take off the bill.
        saves: f64,
        /// Whether that alone brings the limit to the asking price.
        turns: bool,
    },
    /// A gate is opened by proof.
    Prove {
        /// Index into the gates.
        gate: usize,
    },
    /// A check that could turn it.
    Check {
        /// Index into the next checks.
        next: usize,
        /// Chance that its outcome brings the limit to the other side of the asking price.
        turns: f64,
    },
}

/// A check not yet done, and what it is worth.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct NextCheck {
    /// Family.
    pub family: String,
    /// Check.
    pub check: String,
    /// Its name.
    pub name: String,
    /// Its phase.
    pub phase: Phase,
    /// Minutes.
    pub minutes: f64,
    /// Time and fee, in money.
    pub cost: f64,
    /// Expected gain in surplus from knowing its outcome before deciding.
    pub worth: f64,
    /// Expected absolute change of the bill.
    pub moves: f64,
    /// Chance of each outcome, and the surplus after it.
    pub outcomes: Vec<OutcomeChance>,
}

/// What an outcome would do.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct OutcomeChance {
    /// Chance.
    pub chance: f64,
    /// Limit less asking after it.
    pub surplus: f64,
}
