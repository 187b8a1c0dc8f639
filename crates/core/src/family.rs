//! The family sheet: what is known of a vehicle generation, an engine or a gearbox before any one
//! example of it has been seen.
//!
//! A sheet is a document in the open format `ticksage-family/1` (JSON Schema in
//! `docs/schema/family.schema.json`). Usage figures are in the sheet's own clock: kilometres or
//! engine hours; ages in years. Whether a sheet makes sense is judged in [`crate::sense`].

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::cmp::Ordering;
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::units::{Money, Probability, UsageClock};

/// The format mark of a family sheet.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum FamilyFormat {
    /// The first version.
    #[default]
    #[serde(rename = "ticksage-family/1")]
    V1,
}

/// What kind of thing the family is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FamilyKind {
    /// An engine that serves one or many bodies, or runs bare.
    Engine,
    /// A gearbox.
    Gearbox,
    /// A vehicle generation without its engine.
    Body,
    /// A whole motorcycle.
    Motorcycle,
    /// What every car and van needs looked at; makes way for what a family's own sheet knows.
    BaseVehicle,
    /// The same for motorcycles.
    BaseMotorcycle,
    /// The same for bare engines.
    BaseEngine,
}

impl FamilyKind {
    /// Whether the sheet ships with the application and makes way for the families' own.
    #[must_use]
    pub fn is_base(self) -> bool {
        matches!(self, Self::BaseVehicle | Self::BaseMotorcycle | Self::BaseEngine)
    }
}

/// A family of vehicles or engines sharing known failure points.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Family {
    /// Format and its version.
    pub format: FamilyFormat,
    /// Short name in lower case, unique among families.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// Version of this sheet; raised with every change that is published.
    #[schema(minimum = 1)]
    pub version: u32,
    /// Full name as a person would say it.
    #[schema(min_length = 1, max_length = 120)]
    pub name: String,
    /// What kind of thing it is.
    pub kind: FamilyKind,
    /// The clock its usage is counted on.
    pub clock: UsageClock,
    /// Three-letter code of the currency of its costs.
    #[schema(pattern = "^[A-Z]{3}$")]
    pub currency: String,
    /// A sentence or two on the family.
    #[serde(default)]
    pub summary: String,
    /// When it was built.
    #[serde(default)]
    pub built: Window,
    /// Those whose claims are kept side by side.
    #[schema(min_items = 1)]
    pub schools: Vec<School>,
    /// What splits the family into variants.
    #[serde(default)]
    pub facts: Vec<Fact>,
    /// Facts of other sheets that are settled by being of this family, such as what drives it: fact id to
    /// value id.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub settles: BTreeMap<String, String>,
    /// What goes wrong.
    #[schema(min_items = 1)]
    pub points: Vec<FailurePoint>,
    /// What can be looked at, listened to, measured or asked.
    #[serde(default)]
    pub checks: Vec<Check>,
    /// Repairs.
    pub jobs: Vec<Job>,
    /// What must come off to reach something, shared between jobs.
    #[serde(default)]
    pub access: Vec<AccessGroup>,
    /// Scheduled renewals.
    #[serde(default)]
    pub intervals: Vec<Interval>,
    /// Recalls and campaigns of the maker.
    #[serde(default)]
    pub campaigns: Vec<Campaign>,
}

/// A recall or campaign of the maker.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Campaign {
    /// Short name, unique in the sheet.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// Name as shown.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// What it was for and what was done.
    pub about: String,
    /// What remains exposed where it was not done.
    pub exposes: String,
    /// How it is proved.
    #[serde(default)]
    pub proof: String,
    /// Whether it concerns safety.
    #[serde(default)]
    pub safety: bool,
    /// Failure points whose revised part it fits.
    #[serde(default)]
    pub revises: Vec<String>,
    /// Which variants and builds it concerns.
    #[serde(default)]
    pub applies: Applies,
}

/// A stretch of build dates; an open end is unbounded.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Window {
    /// First day, included.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub from: Option<Date>,
    /// Last day, included.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub to: Option<Date>,
}

/// A stretch of serial or engine numbers; an open end is unbounded.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SerialWindow {
    /// First number, included.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(min_length = 1, max_length = 40)]
    pub from: Option<String>,
    /// Last number, included.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(min_length = 1, max_length = 40)]
    pub to: Option<String>,
    /// Share of the family in it, where known: what counts while the number is not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub share: Option<Probability>,
}

impl SerialWindow {
    /// Whether the number lies in the window, by [`serial_order`].
    #[must_use]
    pub fn contains(&self, serial: &str) -> bool {
        self.from.as_deref().is_none_or(|f| serial_order(serial, f) != Ordering::Less)
            && self.to.as_deref().is_none_or(|t| serial_order(serial, t) != Ordering::Greater)
    }
}

/// Orders serial numbers as people read them: runs of letters by the alphabet, runs of digits by their
/// value; case, spaces and punctuation count for nothing. "T22-9850" comes before "t22 10200".
#[must_use]
pub fn serial_order(a: &str, b: &str) -> Ordering {
    let (a, b) = (serial_runs(a), serial_runs(b));
    a.cmp(&b)
}

/// A run of a serial number: digits (without leading noughts, by length first) or letters.
#[derive(PartialEq, Eq, PartialOrd, Ord)]
enum Run {
    Digits(usize, String),
    Letters(String),
}

fn serial_runs(serial: &str) -> Vec<Run> {
    let mut out: Vec<(bool, String)> = Vec::new();
    for c in serial.chars().filter(|c| c.is_alphanumeric()) {
        let digit = c.is_ascii_digit();
        match out.last_mut() {
            Some((kind, run)) if *kind == digit => run.extend(c.to_uppercase()),
            _ => out.push((digit, c.to_uppercase().collect())),
        }
    }
    out.into_iter()
        .map(|(digit, run)| {
            if digit {
                let value = run.trim_start_matches('0').to_owned();
                Run::Digits(value.len(), value)
            } else {
                Run::Letters(run)
            }
        })
        .collect()
}

impl Window {
    /// Whether the day lies in the window.
    #[must_use]
    pub fn contains(&self, day: Date) -> bool {
        self.from.is_none_or(|f| day >= f) && self.to.is_none_or(|t| day <= t)
    }
}

/// A body of opinion whose claims are kept apart from others'.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct School {
    /// Short name; the same id in several sheets is the same school.
    pub id: String,
    /// Name as shown.
    pub name: String,
}

/// Something that splits the family, and how a person tells.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Fact {
    /// Short name.
    pub id: String,
    /// The question it answers.
    pub label: String,
    /// How to tell by eye.
    #[serde(default)]
    pub how: String,
    /// The possible answers.
    #[schema(min_items = 2)]
    pub values: Vec<FactValue>,
}

/// One possible answer to a fact.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FactValue {
    /// Short name.
    pub id: String,
    /// As shown.
    pub label: String,
    /// Share of the family that has it, where known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub share: Option<Probability>,
}

/// Which variants something concerns. All conditions must hold.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Applies {
    /// Build window.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub built: Option<Window>,
    /// Serial or engine numbers.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub serial: Option<SerialWindow>,
    /// For each fact named, the answers that qualify.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub facts: BTreeMap<String, Vec<String>>,
}

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

/// How a part comes to fail; sets the shape of a life known by one figure alone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Mechanism {
    /// Made wrong: early or never.
    Infant,
    /// At any time alike.
    Random,
    /// Rubbed away.
    Wear,
    /// Hardened, corroded, perished.
    Ageing,
    /// Cracked after many cycles.
    Fatigue,
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
    /// The part, by a short name: the base sheet's point of that part makes way for this one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub part: Option<String>,
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
    /// Uses that shorten or lengthen its life.
    #[serde(default)]
    pub exposures: BTreeMap<Exposure, f64>,
    /// Usage for which owners live with the fault before mending it, at ordinary care.
    #[schema(minimum = 0)]
    pub tolerated: f64,
    /// Share of such failures that the vehicle survives as something anyone would still sell.
    #[serde(default = "certain")]
    pub survivable: Probability,
    /// The job that puts it right.
    pub job: String,
    /// What it turns into when it fails unannounced.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub escalation: Option<Escalation>,
    /// How it announces itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub warning: Option<Warning>,
    /// How to prevent it.
    #[serde(default)]
    pub prevention: String,
}

fn certain() -> Probability {
    Probability::ONE
}

fn one() -> f64 {
    1.0
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

/// What one source says of how many have the fault in them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShareClaim {
    /// Whose claim.
    pub school: String,
    /// Weight against others; above 0.
    #[serde(default = "one")]
    #[schema(exclusive_minimum = 0)]
    pub weight: f64,
    /// What is said.
    pub says: ShareForm,
}

/// The ways in which a share is stated.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "form", rename_all = "snake_case", deny_unknown_fields)]
pub enum ShareForm {
    /// A share outright.
    Share {
        /// 0 to 1.
        share: Probability,
    },
    /// "One in n".
    OneIn {
        /// At least 1.
        #[schema(minimum = 1)]
        n: f64,
    },
    /// A word.
    Word {
        /// Which.
        word: ShareWord,
    },
}

/// Words for a share; their numbers stand in [`crate::assumptions`].
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ShareWord {
    /// Seldom heard of.
    Rare,
    /// Now and then.
    Occasional,
    /// Often met.
    Common,
    /// More have it than not.
    Most,
    /// Every one.
    All,
}

/// What one source says of when it comes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LifeClaim {
    /// Whose claim.
    pub school: String,
    /// Weight against others; above 0.
    #[serde(default = "one")]
    #[schema(exclusive_minimum = 0)]
    pub weight: f64,
    /// The clock: usage, or age in years.
    #[serde(default)]
    pub clock: LifeClock,
    /// What is said.
    pub says: LifeForm,
}

/// The clock that a life runs on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LifeClock {
    /// The family's usage.
    #[default]
    Usage,
    /// Years.
    Age,
}

/// The ways in which people state a life.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "form", rename_all = "snake_case", deny_unknown_fields)]
pub enum LifeForm {
    /// "Usually between A and B": the 20th and the 80th percentile.
    Between {
        /// A.
        #[schema(exclusive_minimum = 0)]
        from: f64,
        /// B, above A.
        #[schema(exclusive_minimum = 0)]
        to: f64,
    },
    /// "From about A on": the 10th percentile.
    FromAbout {
        /// A.
        #[schema(exclusive_minimum = 0)]
        at: f64,
    },
    /// "About A": the median.
    About {
        /// A.
        #[schema(exclusive_minimum = 0)]
        at: f64,
    },
    /// "Rarely beyond A": the 90th percentile.
    RarelyBeyond {
        /// A.
        #[schema(exclusive_minimum = 0)]
        at: f64,
    },
    /// "At least A": the 5th percentile.
    AtLeast {
        /// A.
        #[schema(exclusive_minimum = 0)]
        at: f64,
    },
    /// Percentiles outright, two or more.
    Quantiles {
        /// In any order.
        #[schema(min_items = 2)]
        points: Vec<Quantile>,
    },
    /// A Weibull curve outright.
    Weibull {
        /// β.
        #[schema(exclusive_minimum = 0, maximum = 50)]
        shape: f64,
        /// η, in the claim's clock.
        #[schema(exclusive_minimum = 0)]
        scale: f64,
    },
}

/// A percentile of a life.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Quantile {
    /// Share failed, between 0 and 1, both excluded.
    #[schema(exclusive_minimum = 0, exclusive_maximum = 1)]
    pub p: f64,
    /// By this usage or age.
    #[schema(exclusive_minimum = 0)]
    pub x: f64,
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

/// When in the order of work a check is done.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Phase {
    /// Before travelling: asked or looked up.
    BeforeTravel,
    /// Papers.
    Papers,
    /// Round the outside, engine cold.
    WalkRound,
    /// Inside.
    Interior,
    /// Under the bonnet, engine cold.
    BonnetCold,
    /// The cold start.
    ColdStart,
    /// Underneath, on a lift or stands.
    Underneath,
    /// The test drive.
    Drive,
    /// Hot, after the drive.
    Hot,
    /// Reading the codes.
    Scan,
    /// Measuring where it is worth it.
    Measure,
}

/// Something a person does, with graded outcomes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Check {
    /// Short name, unique in the sheet.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// Name as shown.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// When.
    pub phase: Phase,
    /// What to do.
    pub how: String,
    /// What it tells.
    #[serde(default)]
    pub tells: String,
    /// Minutes it takes.
    #[schema(exclusive_minimum = 0, maximum = 600)]
    pub minutes: f64,
    /// What somebody charges for it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fee: Option<Money>,
    /// What to have at hand.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 10)]
    pub tools: Vec<String>,
    /// What can hurt.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub caution: Option<String>,
    /// Which variants it concerns.
    #[serde(default)]
    pub applies: Applies,
    /// Outcomes, the quiet one first.
    #[schema(min_items = 2, max_items = 6)]
    pub outcomes: Vec<Outcome>,
    /// Chance of each outcome from every other cause, and from error.
    pub leak: Vec<Probability>,
    /// The failure points it speaks of.
    #[serde(default)]
    pub links: Vec<Link>,
    /// What it says of the care the whole vehicle has had. Under each level its chances stand in the
    /// place of `leak`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub care_sign: Option<CareSign>,
    /// How a reading becomes an outcome.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub measure: Option<Measure>,
    /// What is done, by a short name: checks of several sheets with the same one are done once, and one
    /// of a base sheet makes way for them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub action: Option<String>,
    /// What can injure while it is done: its caution is read and acknowledged once a candidate.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 10)]
    pub hazards: Vec<Hazard>,
    /// Seconds that it runs by the clock; none where it is not timed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 7200)]
    pub timer: Option<u32>,
    /// How what a scan reads becomes its outcome; of several rules the worst outcome holds.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 6)]
    pub scan: Vec<ScanRule>,
}

/// What can injure.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Hazard {
    /// Working under something lifted.
    Raised,
    /// A raised motorcycle that can fall.
    Bike,
    /// Hot coolant under pressure.
    HotCoolant,
    /// Belts, fan and pulleys that turn.
    Running,
    /// Fuel under high pressure.
    FuelPressure,
    /// Orange cables: high voltage.
    HighVoltage,
    /// Airbags and pretensioners.
    Airbag,
    /// Exhaust gas in a closed place.
    Fumes,
    /// Hot exhaust, catalyst or turbo.
    Burns,
    /// Driving on the road.
    Road,
    /// Battery acid and sparks.
    Battery,
}

/// How what a scan reads becomes an outcome; each quiet one is the check's first.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum ScanRule {
    /// By the codes it finds; the worst outcome of those that fit holds.
    Codes {
        /// Which codes lead where.
        find: Vec<CodeOutcome>,
    },
    /// Whether any code is stored, pending or permanent that no other check of the candidate names.
    AnyCode {
        /// Outcome when one is pending alone.
        pending: usize,
        /// Outcome when one is stored or permanent.
        stored: usize,
    },
    /// Whether the lamp is commanded on.
    Lamp {
        /// Outcome when it is.
        on: usize,
    },
    /// Whether the memory was wiped lately.
    Wiped {
        /// Outcome when it was.
        wiped: usize,
    },
    /// Whether the number in the control unit is that of the papers.
    Vin {
        /// Outcome when it is another.
        differs: usize,
    },
    /// The largest fuel trim of any bank, short and long together, as the reading, per cent.
    Trims,
    /// Coolant temperature as the reading, °C.
    Coolant,
    /// Voltage at the control unit as the reading, V.
    Voltage,
}

/// Codes that lead to an outcome.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CodeOutcome {
    /// Codes, or patterns of five characters with x for any.
    #[schema(min_items = 1, max_items = 100)]
    pub codes: Vec<String>,
    /// The outcome.
    pub outcome: usize,
}

/// One outcome of a check.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Outcome {
    /// As shown.
    #[schema(min_length = 1, max_length = 60)]
    pub label: String,
    /// The gate that it closes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gate: Option<OutcomeGate>,
}

/// A gate that an outcome closes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OutcomeGate {
    /// How hard it closes.
    pub kind: GateKind,
    /// What it means and what to do.
    pub say: String,
    /// Whether it is dangerous to drive or run until it is mended.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub danger: bool,
}

/// How hard a gate closes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum GateKind {
    /// Must be proved or put right before money moves.
    ProveFirst,
    /// Ends the purchase.
    Stop,
}

/// What a check says of one failure point.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Link {
    /// The point's id in this sheet.
    pub point: String,
    /// Chance of each outcome from this cause when the fault is present.
    pub present: Vec<Probability>,
    /// The same when the fault is coming: remaining life within `lead`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub coming: Option<Vec<Probability>>,
    /// Remaining usage within which it shows as coming.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0)]
    pub lead: Option<f64>,
}

/// Outcome chances under each level of care.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CareSign {
    /// Poor care.
    pub poor: Vec<Probability>,
    /// Ordinary care.
    pub ordinary: Vec<Probability>,
    /// Good care.
    pub good: Vec<Probability>,
}

/// Bands that turn a reading into an outcome.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Measure {
    /// What is read.
    pub quantity: String,
    /// Its unit.
    pub unit: String,
    /// Ascending limits between one band and the next: one fewer than the outcomes.
    pub limits: Vec<f64>,
    /// Whether a larger reading is worse.
    pub higher_is_worse: bool,
    /// Where the bands come from: a source, or "common practice".
    pub source: String,
    /// How what is read becomes the one reading that the bands judge.
    #[serde(default, skip_serializing_if = "Calculation::is_single")]
    pub by: Calculation,
}

/// How what is read becomes one reading. Names of places are the sheet's own: cylinders as they are
/// numbered, wheels, corners.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Calculation {
    /// The reading itself.
    #[default]
    Single,
    /// The lowest place as per cent of the highest: compression.
    Balance {
        /// What each is read in.
        unit: String,
        /// The places.
        #[schema(min_items = 2, max_items = 16)]
        places: Vec<String>,
    },
    /// The least of the places.
    Least {
        /// The places.
        #[schema(min_items = 1, max_items = 16)]
        places: Vec<String>,
    },
    /// The most of the places.
    Most {
        /// The places.
        #[schema(min_items = 1, max_items = 16)]
        places: Vec<String>,
    },
    /// The least face of a rotary engine, each brought to a cranking speed of 250 rpm.
    RotaryFaces {
        /// Rotors; three faces each.
        #[schema(minimum = 1, maximum = 4)]
        rotors: u8,
    },
    /// How much was used over a distance between two readings, per 1000 of the clock.
    Use,
    /// The age of the oldest by its date code, years.
    DateCode {
        /// The places.
        #[schema(min_items = 1, max_items = 16)]
        places: Vec<String>,
    },
    /// How far it lies outside a range.
    Outside {
        /// The range begins.
        from: f64,
        /// The range ends.
        to: f64,
    },
    /// The largest of several sums of two, whatever its sign: fuel trims, short and long, by bank.
    Sums {
        /// The places.
        #[schema(min_items = 1, max_items = 16)]
        places: Vec<String>,
    },
}

impl Calculation {
    fn is_single(&self) -> bool {
        *self == Self::Single
    }
}

impl Measure {
    /// The outcome that a reading falls in; a reading on a limit belongs to the band above it.
    #[must_use]
    pub fn outcome(&self, reading: f64) -> usize {
        let above = self.limits.iter().filter(|l| reading >= **l).count();
        if self.higher_is_worse { above } else { self.limits.len() - above }
    }
}

/// A figure with its doubt: low, likely, high.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MoneyRange {
    /// Seldom less.
    pub low: Money,
    /// Most often.
    pub likely: Money,
    /// Seldom more.
    pub high: Money,
}

/// Hours of work with their doubt.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HoursRange {
    /// Seldom less.
    #[schema(minimum = 0, maximum = 500)]
    pub low: f64,
    /// Most often.
    #[schema(minimum = 0, maximum = 500)]
    pub likely: f64,
    /// Seldom more.
    #[schema(minimum = 0, maximum = 500)]
    pub high: f64,
}

/// The grade of a part.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PartGrade {
    /// The maker's own.
    Original,
    /// Another maker's, to the same drawing.
    #[default]
    Equivalent,
    /// Taken from another vehicle.
    Used,
    /// Nobody knows.
    Unknown,
}

/// A repair.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Job {
    /// Short name, unique in the sheet.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// Name as shown.
    pub name: String,
    /// Parts by grade; a grade that is not listed is had at the nearest listed one.
    #[serde(default)]
    pub parts: BTreeMap<PartGrade, MoneyRange>,
    /// Own hours, access not counted.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hours: Option<HoursRange>,
    /// What must come off first.
    #[serde(default)]
    pub access: Vec<String>,
    /// Oil, seals, disposal, hire.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sundries: Option<MoneyRange>,
}

/// Something that must come off, counted once a visit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AccessGroup {
    /// Short name.
    pub id: String,
    /// Name as shown.
    pub name: String,
    /// Hours off and on again.
    #[schema(minimum = 0, maximum = 500)]
    pub hours: f64,
}

/// A scheduled renewal: a due point, not a life.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Interval {
    /// Short name.
    pub id: String,
    /// Name as shown.
    pub name: String,
    /// Usage between renewals.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0)]
    pub usage: Option<f64>,
    /// Years between renewals.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0)]
    pub years: Option<f64>,
    /// The job that does it.
    pub job: String,
    /// Failure points that it starts afresh.
    #[serde(default)]
    pub renews: Vec<String>,
    /// Which variants it concerns.
    #[serde(default)]
    pub applies: Applies,
}

impl Family {
    /// The point of that id.
    #[must_use]
    pub fn point(&self, id: &str) -> Option<&FailurePoint> {
        self.points.iter().find(|p| p.id == id)
    }

    /// The check of that id.
    #[must_use]
    pub fn check(&self, id: &str) -> Option<&Check> {
        self.checks.iter().find(|c| c.id == id)
    }

    /// The job of that id.
    #[must_use]
    pub fn job(&self, id: &str) -> Option<&Job> {
        self.jobs.iter().find(|j| j.id == id)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn serials_are_ordered_as_people_read_them() {
        for (less, more) in [("T22-9850", "t22 10200"), ("A 7", "A 12"), ("A12", "B1"), ("0099", "100"), ("99", "A1")] {
            assert_eq!(serial_order(less, more), Ordering::Less, "{less} {more}");
            assert_eq!(serial_order(more, less), Ordering::Greater, "{less} {more}");
        }
        assert_eq!(serial_order("ab-0012", "AB 12"), Ordering::Equal);
    }

    #[test]
    fn a_serial_window_includes_its_ends() {
        let w = SerialWindow { from: Some("K200".to_owned()), to: Some("K1500".to_owned()), share: None };
        assert!(w.contains("K200") && w.contains("k-1500") && w.contains("K 999"));
        assert!(!w.contains("K199") && !w.contains("K1501"));
    }
}
