//! What a line of talk says.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::Money;
use crate::documents::applies::Applies;
use crate::documents::check::Phase;
use crate::documents::claim::{LifeClock, LifeForm, ShareForm};
use crate::documents::failure_point::{Exposure, System};
use crate::documents::family::AdviceKind;
use crate::documents::job::PartGrade;
use crate::documents::words::{LivedWith, NoticeLength, Price, Telling};

/// What a stretch of a line was taken for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ChipKind {
    /// The part that it is about.
    Part,
    /// When it comes.
    Claim,
    /// How many have it.
    Share,
    /// How one notices.
    Sign,
    /// What it costs.
    Price,
    /// Hours of work.
    Hours,
    /// How long one lives with it.
    LivedWith,
    /// How much warning it gives.
    Notice,
    /// That it ends the engine.
    EndsEngine,
    /// A use that shortens or lengthens its life.
    Exposure,
    /// What is tried first.
    Route,
    /// What it takes along.
    TakesAlong,
    /// What wears faster while it lasts.
    Wears,
    /// A stage of a fault that grows.
    Stage,
    /// How parts and hands are to be had for an old one.
    Supply,
    /// What is done with it.
    WithIt,
    /// Which builds.
    Built,
    /// Which serial numbers.
    Serial,
    /// Which variants.
    Variant,
    /// A revised part.
    Revision,
    /// Scheduled work.
    Interval,
    /// A recall or goodwill.
    Campaign,
    /// How to treat it.
    CareRule,
    /// Something better to fit.
    Upgrade,
    /// Which to buy.
    Advice,
    /// Said to its credit.
    Praise,
    /// Who says it.
    Source,
}

/// A stretch of a line, and what it was taken for.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Chip {
    /// What.
    pub kind: ChipKind,
    /// Where it begins, in characters of the line.
    pub from: usize,
    /// Where it ends.
    pub to: usize,
    /// What was understood, in words.
    pub says: String,
}

/// When something comes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LifeSaid {
    /// Usage or age.
    pub clock: LifeClock,
    /// What is said, in the sheet's clock.
    pub says: LifeForm,
}

/// How one notices.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct SignSaid {
    /// The sign.
    pub label: String,
    /// When one meets it.
    pub phase: Phase,
    /// How telling it is.
    pub says: Telling,
}

/// What is tried first.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RouteSaid {
    /// What is done.
    pub name: String,
    /// What it costs.
    pub price: Option<Price>,
    /// Chance that it suffices.
    pub suffices: Option<f64>,
}

/// Something taken along.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct AlongSaid {
    /// The part.
    pub part: String,
    /// Its name as typed.
    pub name: String,
    /// The chance.
    pub chance: f64,
}

/// Something that wears faster while a fault lasts.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WearsSaid {
    /// The part.
    pub part: String,
    /// Its name as typed.
    pub name: String,
    /// How many times as fast.
    pub times: f64,
}

/// A stage of a fault that grows.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct StageSaid {
    /// How one tells it, as typed.
    pub name: String,
    /// Usage for which it stays so, in the sheet's clock.
    pub tolerable: Option<f64>,
    /// What putting it right costs then.
    pub price: Option<Price>,
}

/// How parts and hands are to be had from an age on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SupplySaid {
    /// Years.
    pub from_age: f64,
    /// What parts cost then, times their price.
    pub parts: Option<f64>,
    /// What work takes then, times its hours.
    pub hours: Option<f64>,
    /// Grades of part that can still be had; none: all.
    pub grades: Vec<PartGrade>,
}

/// Scheduled work.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct IntervalSaid {
    /// Its short name.
    pub work: String,
    /// Usage between one and the next, in the sheet's clock.
    pub usage: Option<f64>,
    /// Years between one and the next.
    pub years: Option<f64>,
}

/// What a use does to the life of a part.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum UseDoes {
    /// Shortens it by much.
    MuchWorse,
    /// Shortens it.
    Worse,
    /// Lengthens it.
    Better,
}

/// Something better to fit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct UpgradeSaid {
    /// What is fitted.
    pub name: String,
    /// How many times as long the part lasts with it; none where it rules the failure out.
    pub times: Option<f64>,
}

/// A revised part.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RevisionSaid {
    /// From this day on.
    #[schema(value_type = Option<String>, format = Date)]
    pub from: Option<jiff::civil::Date>,
    /// Share still susceptible.
    pub share: Option<ShareForm>,
    /// Life of the revised part.
    pub life: Vec<LifeSaid>,
}

/// What a line says, so far as it was understood.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct Said {
    /// The part, by its short name.
    pub part: Option<String>,
    /// The part as it was named.
    pub name: Option<String>,
    /// Whether the tables know the part.
    pub known: bool,
    /// When it comes.
    pub life: Vec<LifeSaid>,
    /// How many have it.
    pub share: Option<ShareForm>,
    /// How one notices.
    pub signs: Vec<SignSaid>,
    /// What putting it right costs.
    pub price: Option<Price>,
    /// Hours of work.
    pub hours: Option<[f64; 2]>,
    /// How long one lives with it.
    pub lived_with: Option<LivedWith>,
    /// How much warning it gives.
    pub notice: Option<NoticeLength>,
    /// Whether it ends the engine.
    pub ends_engine: bool,
    /// Whether it can end the engine, now and then.
    #[serde(default)]
    pub may_end_engine: bool,
    /// Whether its life hangs on how the thing was looked after.
    #[serde(default)]
    pub upkeep: bool,
    /// Uses that shorten or lengthen its life.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub exposures: BTreeMap<Exposure, UseDoes>,
    /// What is tried first.
    pub routes: Vec<RouteSaid>,
    /// What it takes along.
    pub takes_along: Vec<AlongSaid>,
    /// What wears faster while it lasts.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub wears: Vec<WearsSaid>,
    /// How it grows.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub stages: Vec<StageSaid>,
    /// How parts and hands are to be had for an old one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub supply: Option<SupplySaid>,
    /// Parts that are renewed with it, as named.
    pub with_it: Vec<String>,
    /// Which builds, serials and variants.
    pub applies: Applies,
    /// The revised part.
    pub revision: Option<RevisionSaid>,
    /// Scheduled work.
    pub interval: Option<IntervalSaid>,
    /// A recall or goodwill.
    pub campaign: bool,
    /// Which to buy.
    pub advice: Option<AdviceKind>,
    /// How to treat it.
    pub care_rule: bool,
    /// Something better to fit.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub upgrade: Option<UpgradeSaid>,
    /// The system of a part that no table knows.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub system: Option<System>,
    /// Who says it, by a short name.
    pub source: Option<String>,
}

impl Said {
    /// Whether it says anything that a sheet can hold.
    #[must_use]
    pub fn says_something(&self) -> bool {
        let of_part = !self.life.is_empty()
            || self.share.is_some()
            || self.price.is_some()
            || self.hours.is_some()
            || !self.signs.is_empty()
            || !self.routes.is_empty()
            || !self.takes_along.is_empty()
            || !self.wears.is_empty()
            || !self.stages.is_empty()
            || !self.with_it.is_empty()
            || self.lived_with.is_some()
            || self.notice.is_some()
            || self.ends_engine
            || self.may_end_engine
            || self.upkeep
            || !self.exposures.is_empty()
            || self.revision.is_some()
            || self.upgrade.is_some()
            || self.campaign;
        let of_builds = self.campaign && self.applies != Applies::default();
        (self.part.is_some() && of_part)
            || of_builds
            || self.interval.is_some()
            || self.advice.is_some()
            || self.care_rule
            || self.supply.is_some()
    }
}

/// What a sheet counts in, so far as a line needs it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Voice {
    /// Whether the sheet counts hours.
    pub hours: bool,
    /// Whether figures without a unit are miles.
    pub miles: bool,
}

/// A price as it is shown.
pub(crate) fn price_says(price: Price) -> String {
    match price {
        Price::About(m) => format!("about {}", m.get()),
        Price::Between([low, high]) => format!("{} to {}", low.get(), high.get()),
    }
}

/// A price from one or two figures.
pub(crate) fn price_of(low: f64, high: Option<f64>) -> Option<Price> {
    let money = |x: f64| Money::try_from((x * 100.0).round() / 100.0).ok();
    match high {
        Some(high) if high > low => Some(Price::Between([money(low)?, money(high)?])),
        _ => Some(Price::About(money(low)?)),
    }
}
