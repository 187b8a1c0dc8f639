//! Failure points: one thing known to go wrong, with what it costs and how it shows.

use std::collections::BTreeMap;

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::Probability;
use crate::documents::applies::Applies;
use crate::documents::claim::{LifeClaim, Mechanism, ShareClaim};
use crate::documents::stage::Stage;
use crate::documents::words::{LivedWith, Notice, Price};

/// The part of a vehicle that a failure point belongs to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum System {
    /// Block, head, valve drive, lubrication.
    Engine,
    /// Coolant, radiator, pump, fan.
    Cooling,
    /// Fuel, intake, turbo, exhaust treatment.
    FuelAndAir,
    /// Wiring, sensors, starting and charging.
    Electrics,
    /// Clutch and gearbox.
    Gearbox,
    /// Shafts, axles, joints.
    Driveline,
    /// Brakes.
    Brakes,
    /// Steering, suspension, wheels.
    Chassis,
    /// Structure, panels, doors, glass.
    Body,
    /// Cabin and its equipment.
    Interior,
}

/// One thing known to go wrong.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FailurePoint {
    /// Short name, unique in the sheet.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// Name as shown.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// The system it belongs to.
    pub system: System,
    /// The part, by a short name: the base sheet's point of that part gives way to this one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub part: Option<String>,
    /// Where it sits, where there are several of it: each place is read as a point of its own, with this share, life
    /// and price.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 8)]
    pub places: Vec<String>,
    /// How it shows, in a few words.
    pub shows: String,
    /// Why it fails and what it takes with it.
    #[serde(default)]
    pub why: String,
    /// How it comes to fail.
    pub mechanism: Mechanism,
    /// Whether it can end the engine.
    #[serde(default)]
    pub ends_engine: bool,
    /// Whether it can hurt someone.
    #[serde(default)]
    pub can_hurt: bool,
    /// Whether its life depends on upkeep.
    #[serde(default)]
    pub upkeep: bool,
    /// Life factors for poor and good care, where they differ from the usual.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub care: Option<CareFactors>,
    /// Which variants it concerns.
    #[serde(default)]
    pub applies: Applies,
    /// How many of the family have it in them; none means all.
    #[serde(default)]
    pub share: Vec<ShareClaim>,
    /// When it comes.
    #[schema(min_items = 1)]
    pub life: Vec<LifeClaim>,
    /// The revised part, if there is one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub revision: Option<Revision>,
    /// The revised parts where there were several, each with the builds from which on it was fitted.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 8)]
    pub revisions: Vec<Revision>,
    /// Uses that shorten or lengthen its life.
    #[serde(default)]
    pub exposures: BTreeMap<Exposure, f64>,
    /// Usage for which owners live with the fault before mending it, at ordinary care.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0)]
    pub repair_delay: Option<f64>,
    /// The same in a word.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lived_with: Option<LivedWith>,
    /// Share of such failures that the vehicle survives as something anyone would still sell.
    #[serde(default = "certain")]
    pub survivable: Probability,
    /// Whether a failure leaves one at the roadside; none: where nobody drives on with it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub strands: Option<bool>,
    /// How long a used part lasts against a new one, where it is not as with parts in general.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0, maximum = 1)]
    pub used_lasts: Option<f64>,
    /// The job that puts it right; left out where `price` says all that is known of it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub job: String,
    /// What putting it right costs, parts and hours included, where no job of the sheet does it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<Price>,
    /// The ways of putting it right, where there are several; the job named above is then one more.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 8)]
    pub routes: Vec<Route>,
    /// What it turns into when it fails unannounced.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub escalation: Option<Escalation>,
    /// What else an unannounced failure damages.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 6)]
    pub takes_along: Vec<TakesAlong>,
    /// What it wears faster while it lasts.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 6)]
    pub wears: Vec<Wears>,
    /// The damage that it may have done already where it is found.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub already_done: Option<Escalation>,
    /// How the fault grows, where it is put right otherwise the later: its stages from the first on.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 5)]
    pub stages: Vec<Stage>,
    /// Somebody else who pays for it, and until when.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub paid_for: Option<PaidFor>,
    /// How it announces itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub warning: Option<Warning>,
    /// The same in words.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub notice: Option<Notice>,
    /// Where sources disagree over what causes it: what each says.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 8)]
    pub disputed: Vec<CauseSaid>,
    /// How to prevent it.
    #[serde(default)]
    pub prevention: String,
}

fn certain() -> Probability {
    Probability::ONE
}

/// Life factors under poor and good care; ordinary care is 1.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CareFactors {
    /// Poor care, usually below 1.
    #[schema(exclusive_minimum = 0, maximum = 4)]
    pub poor: f64,
    /// Good care, usually above 1.
    #[schema(exclusive_minimum = 0, maximum = 4)]
    pub good: f64,
}

/// How a vehicle is used, so far as it changes how long things last.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Exposure {
    /// Trips too short to warm up.
    ShortTrips,
    /// Standing with the engine running.
    Idling,
    /// Pulling trailers.
    Towing,
    /// Off the road.
    OffRoad,
    /// Hot climate.
    Heat,
    /// Cold climate.
    Cold,
    /// Salted roads or sea air.
    Salt,
    /// Long steady runs.
    Motorway,
    /// More power than the maker gave it.
    Tuned,
}

/// A revised part: what is claimed of it, and from which build on it was fitted.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Revision {
    /// What changed.
    pub name: String,
    /// Fitted at the works from this day on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub from: Option<Date>,
    /// Fitted at the works from this serial or engine number on; where it is known it decides, else the day.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(min_length = 1, max_length = 40)]
    pub from_serial: Option<String>,
    /// Share still susceptible; none means as before.
    #[serde(default)]
    pub share: Vec<ShareClaim>,
    /// Life of the revised part; none means as before.
    #[serde(default)]
    pub life: Vec<LifeClaim>,
}

/// What an unannounced failure turns into.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Escalation {
    /// The larger job.
    pub job: String,
    /// Chance that it comes to that.
    pub chance: Probability,
}

/// A way of putting a fault right.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Route {
    /// Name as shown: what is done.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// The job that does it; left out where `price` says all that is known of it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub job: String,
    /// What it costs, parts and hours included.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<Price>,
    /// Chance that it is all that is needed; 1 where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub suffices: Option<Probability>,
    /// Whether it is tried before any of the others.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub first: bool,
    /// How long the result lasts against the part first fitted; 1 where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0, maximum = 4)]
    pub lasts: Option<f64>,
    /// What must hold for it: variants, and the outcome of a check.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub needs: Option<RouteNeeds>,
}

/// What a way of putting a fault right needs first.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RouteNeeds {
    /// Variants on which it can be done.
    #[serde(default)]
    pub applies: Applies,
    /// A check of this sheet that must have been done.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub check: Option<String>,
    /// The worst outcome of that check with which it can be done.
    #[serde(default)]
    pub worst_outcome: usize,
    /// The last year in which the parts are to be had.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1950, maximum = 2200)]
    pub until_year: Option<i16>,
}

/// Something else that an unannounced failure damages: another point of the sheet, with all that this takes along in
/// its turn, or a job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TakesAlong {
    /// The point whose job is needed as well.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub point: Option<String>,
    /// The job that is needed as well.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub job: Option<String>,
    /// Chance that it comes to that.
    pub chance: Probability,
}

/// A point that wears faster while another's fault lasts.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Wears {
    /// Which.
    pub point: String,
    /// How many times as fast.
    #[schema(minimum = 1, maximum = 50)]
    pub times: f64,
}

/// An extended warranty or goodwill: the job is paid for a vehicle that is young enough.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PaidFor {
    /// Who pays.
    #[schema(min_length = 1, max_length = 80)]
    pub by: String,
    /// Until this age, years.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0)]
    pub until_age: Option<f64>,
    /// Until this usage.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0)]
    pub until_usage: Option<f64>,
    /// Chance that they do pay; 1 where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub accepted: Option<Probability>,
    /// What must be shown.
    #[serde(default)]
    #[schema(max_length = 160)]
    pub proof: String,
    /// Which variants and builds it concerns.
    #[serde(default)]
    pub applies: Applies,
}

/// What one source says.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CauseSaid {
    /// Whose words.
    pub source: String,
    /// What is said.
    #[schema(min_length = 1, max_length = 240)]
    pub says: String,
}

/// How a failure announces itself, and how an owner would catch it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Warning {
    /// What to watch for.
    pub sign: String,
    /// Usage between the first sign and the failure.
    #[schema(exclusive_minimum = 0)]
    pub lead: f64,
    /// Usage between one look by the owner and the next.
    #[schema(exclusive_minimum = 0)]
    pub every: f64,
    /// Chance that one look catches it.
    pub sensitivity: Probability,
}
