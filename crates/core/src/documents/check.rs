//! Checks: something a person does, with graded outcomes and the failure points it speaks of.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::{Money, Probability};
use crate::documents::applies::Applies;
use crate::documents::measure::Measure;
use crate::documents::words::Sign;

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
    /// Where it is done, each place with a result of its own: places of the points it speaks of.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 8)]
    pub places: Vec<String>,
    /// Outcomes, the quiet one first.
    #[schema(min_items = 2, max_items = 6)]
    pub outcomes: Vec<Outcome>,
    /// Chance of each outcome from every other cause, and from error; left out where words say how telling the
    /// outcomes are.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
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
    /// of a base sheet gives way to them.
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

impl Check {
    /// Whether it does what `action` names: its own, of a check without one its id.
    #[must_use]
    pub fn does(&self, action: &str) -> bool {
        self.action.as_deref().unwrap_or(&self.id) == action
    }
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
    Mil {
        /// Outcome when it is.
        on: usize,
    },
    /// Whether the memory was wiped lately.
    RecentlyCleared {
        /// Outcome when it was.
        outcome: usize,
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
    /// The blocker that it closes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blocker: Option<OutcomeBlocker>,
}

/// A blocker that an outcome closes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OutcomeBlocker {
    /// How hard it closes.
    pub kind: BlockerKind,
    /// What it means and what to do.
    pub say: String,
    /// Whether it is dangerous to drive or run until it is mended.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub danger: bool,
}

/// How hard a blocker closes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BlockerKind {
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
    /// What its worse outcomes say of the point, in words, in the place of the chances below.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 6)]
    pub signs: Vec<Sign>,
    /// Chance of each outcome from this cause when the fault is present.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub present: Vec<Probability>,
    /// The same when the fault is coming: remaining life within `lead`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub coming: Option<Vec<Probability>>,
    /// The stage of the fault that each outcome shows, from 1; 0 for an outcome that shows none.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 12)]
    pub stages: Vec<usize>,
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
