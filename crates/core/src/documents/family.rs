//! The family sheet: what is known of a vehicle generation, an engine or a gearbox before any one
//! example of it has been seen.
//!
//! A sheet is a document in the open format `ticksage-family/2` (JSON Schema in
//! `docs/schema/family.schema.json`). Usage figures are in the sheet's own clock: kilometres or
//! engine hours; ages in years. Whether a sheet makes sense is judged in [`crate::validation`].

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::{Probability, UsageClock};
use crate::documents::adjustment::{CheckAdjustment, JobAdjustment};
use crate::documents::alteration::Alteration;
use crate::documents::applies::{Applies, Window};
use crate::documents::built_as::{BuiltAs, PatternUse};
use crate::documents::check::Check;
use crate::documents::claim::{Citation, LifeClaim, ShareClaim};
use crate::documents::failure_point::FailurePoint;
use crate::documents::job::{AccessGroup, Interval, Job};
use crate::documents::mark::SheetMark;
use crate::documents::supply::Supply;
use crate::documents::words::{LivedWith, Notice, Price};

/// The format mark of a family sheet.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum FamilyFormat {
    /// The second version.
    #[default]
    #[serde(rename = "ticksage-family/2")]
    V2,
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
    /// What every car and van needs looked at; gives way to what a family's own sheet knows.
    BaseVehicle,
    /// The same for motorcycles.
    BaseMotorcycle,
    /// The same for bare engines.
    BaseEngine,
}

impl FamilyKind {
    /// Whether the sheet ships with the application and gives way to the families' own.
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
    /// How it is built, where patterns say the rest: they are written into the sheet when it is read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub built_as: Option<BuiltAs>,
    /// What came from patterns; it is written anew whenever the answers change. The money of its jobs and checks is
    /// counted in hours of an independent workshop.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 100)]
    pub patterns: Vec<PatternUse>,
    /// Those whose claims are kept side by side.
    #[serde(default)]
    pub sources: Vec<Source>,
    /// What splits the family into variants.
    #[serde(default)]
    pub facts: Vec<Fact>,
    /// Facts of other sheets that are settled by being of this family, such as what drives it: fact id to
    /// value id.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub settles: BTreeMap<String, String>,
    /// What goes wrong.
    #[serde(default)]
    pub points: Vec<FailurePoint>,
    /// What can be looked at, listened to, measured or asked.
    #[serde(default)]
    pub checks: Vec<Check>,
    /// Repairs.
    #[serde(default)]
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
    /// What is known of this family of a part that a base sheet describes: field by field, the rest stays as the base
    /// sheet has it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 100)]
    pub adjusts: Vec<Adjustment>,
    /// The same of checks.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 100)]
    pub adjusts_checks: Vec<CheckAdjustment>,
    /// The same of jobs.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 100)]
    pub adjusts_jobs: Vec<JobAdjustment>,
    /// What may be fitted to cure a point or to make it last.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 60)]
    pub upgrades: Vec<Upgrade>,
    /// What more power than the maker gave it breaks, and from which power on.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 20)]
    pub alterations: Vec<Alteration>,
    /// Which to buy, and which not.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 60)]
    pub advice: Vec<Advice>,
    /// How to treat it after purchase, and what the lives above suppose.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 60)]
    pub care_rules: Vec<CareRule>,
    /// What takes something off the going price.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 30)]
    pub marks: Vec<SheetMark>,
    /// How parts and work are to be had by age.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 30)]
    pub supply: Vec<Supply>,
}

/// What a family's sheet knows better of a base sheet's point. What it leaves out stays.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Adjustment {
    /// The part, by its short name in the base sheet.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub part: String,
    /// How many have it in them.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub share: Vec<ShareClaim>,
    /// When it comes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub life: Vec<LifeClaim>,
    /// How long owners live with it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lived_with: Option<LivedWith>,
    /// How it announces itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub notice: Option<Notice>,
    /// What putting it right costs, in this sheet's currency.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<Price>,
    /// How it shows.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 120)]
    pub shows: Option<String>,
    /// Variants of which that is known; on others, and where the variant is not known, the base sheet stands.
    #[serde(default)]
    pub applies: Applies,
}

/// Something better than what the works fitted.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Upgrade {
    /// Short name, unique in the sheet.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// Name as shown: what is fitted or done.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// The job that fits it; left out where `price` says all that is known of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub job: Option<String>,
    /// What it costs fitted.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<Price>,
    /// Failure points that it rules out from then on.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 30)]
    pub cures: Vec<String>,
    /// Failure points that last so many times as long from then on.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub lengthens: BTreeMap<String, f64>,
    /// Where it may not be allowed, or what it does to the rest.
    #[serde(default)]
    #[schema(max_length = 240)]
    pub caution: String,
    /// Which variants it fits.
    #[serde(default)]
    pub applies: Applies,
}

/// Whether to look for a variant.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AdviceKind {
    /// Leave it.
    Avoid,
    /// Only if something is proved.
    OnlyIf,
    /// The one to look for.
    Prefer,
    /// Said to its credit; no life follows from it.
    Praise,
}

/// What a source says of which to buy.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Advice {
    /// Short name, unique in the sheet.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// What is advised.
    pub kind: AdviceKind,
    /// What is said, in a sentence.
    #[schema(min_length = 1, max_length = 240)]
    pub says: String,
    /// Whose advice.
    pub source: String,
    /// Which variants and builds it concerns.
    #[serde(default)]
    pub applies: Applies,
    /// The failure point that must be proved renewed, of advice that says "only if".
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub proved: Option<String>,
    /// Who should take it to heart.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 80)]
    pub for_whom: Option<String>,
    /// Where it stands.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stands: Option<Citation>,
}

/// How to treat it after purchase.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CareRule {
    /// Short name, unique in the sheet.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// What to do, or never to do.
    #[schema(min_length = 1, max_length = 160)]
    pub says: String,
    /// Why.
    #[serde(default)]
    #[schema(max_length = 240)]
    pub why: String,
    /// Usage between one time and the next; none where it holds always.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0)]
    pub usage: Option<f64>,
    /// Years between one time and the next.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0)]
    pub years: Option<f64>,
    /// The failure points whose lives suppose it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 30)]
    pub points: Vec<String>,
    /// Which variants it concerns.
    #[serde(default)]
    pub applies: Applies,
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

/// A body of opinion whose claims are kept apart from others'.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Source {
    /// Short name; the same id in several sheets is the same source.
    pub id: String,
    /// Name as shown.
    pub name: String,
    /// How much its shares and lives count against the others', where its talk overstates: 0.5 counts half.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(exclusive_minimum = 0, maximum = 1)]
    pub discount: Option<f64>,
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

impl Family {
    /// The point of that id.
    #[must_use]
    pub fn point(&self, id: &str) -> Option<&FailurePoint> {
        self.points.iter().find(|p| p.id == id)
    }

    /// Whether a pattern gave something of it, by list and short name.
    #[must_use]
    pub fn from_pattern(&self, list: &str, id: &str) -> Option<&PatternUse> {
        let is = |g: &String| g.strip_prefix(list).and_then(|r| r.strip_prefix('/')) == Some(id);
        self.patterns.iter().find(|p| p.gives.iter().any(is))
    }

    /// Whether something of it stands in a layer below the families' own knowledge: in a base sheet, or given by a
    /// pattern.
    #[must_use]
    pub fn is_lower(&self, list: &str, id: &str) -> bool {
        self.kind.is_base() || self.from_pattern(list, id).is_some()
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
