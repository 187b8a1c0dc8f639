//! The buyer: how long and how far it will be used, who does the work, and how much risk is acceptable.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::{Money, Probability, Usage};
use crate::documents::care_level::CareLevel;
use crate::documents::failure_point::Exposure;
use crate::documents::job::PartGrade;
use crate::documents::reference::PointRef;

/// How long, how far and how the buyer means to use it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Plan {
    /// Years of keeping it, up to 40.
    #[schema(exclusive_minimum = 0, maximum = 40)]
    pub years: f64,
    /// Usage in a year, above 0.
    pub usage_a_year: Usage,
    /// Exposures in the plan, level 0 to 1 each.
    #[serde(default, rename = "use")]
    pub use_: BTreeMap<Exposure, Probability>,
    /// How the buyer means to keep it.
    #[serde(default)]
    pub care: CareLevel,
}

/// How much bad luck the buyer can stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Appetite {
    /// Judges by the mean.
    Bold,
    /// Leaves some room.
    #[default]
    Even,
    /// Leaves much room.
    Careful,
}

/// Who does the work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Labour {
    /// The owner.
    #[serde(rename = "self")]
    Own,
    /// An independent workshop.
    #[default]
    Independent,
    /// A dealer.
    Dealer,
    /// A specialist of the family.
    Specialist,
}

impl Labour {
    /// Its name in the open format.
    #[must_use]
    pub fn key(self) -> &'static str {
        match self {
            Self::Own => "self",
            Self::Independent => "independent",
            Self::Dealer => "dealer",
            Self::Specialist => "specialist",
        }
    }
}

/// How the buyer weighs chances and pays for work.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Buyer {
    /// Appetite for risk.
    #[serde(default)]
    pub appetite: Appetite,
    /// Who does the work.
    #[serde(default)]
    pub labour: Labour,
    /// Grade of parts bought.
    #[serde(default)]
    pub parts: PartGrade,
    /// The sources listened to, each with its weight against the others; none named means all alike. One
    /// alone is that source's view.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub sources: BTreeMap<String, f64>,
    /// What an hour costs this buyer where it is another than the table's, in the candidate's currency.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub rates: BTreeMap<Labour, Money>,
    /// What the buyer has put by for it, in the candidate's currency.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reserve: Option<Money>,
    /// Whether a structural write-off is acceptable.
    #[serde(default)]
    pub accepts_structural: bool,
    /// Whether the stamped book or the owner's log is believed more.
    #[serde(default)]
    pub paper_trust: PaperTrust,
}

/// When parts are renewed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum MaintenancePolicy {
    /// Whatever is expected to cost least over the plan.
    #[default]
    LeastCost,
    /// Everything overdue, likely or nearly due is renewed at purchase.
    UpFront,
    /// Nothing but what is there now, or could hurt someone.
    WaitForSigns,
}

/// What is done at purchase: by a source, and by the person's own choice where they made one.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PurchaseChoice {
    /// The policy.
    #[serde(default)]
    pub policy: MaintenancePolicy,
    /// Points decided by the person.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 500)]
    pub own: Vec<OwnChoice>,
    /// Ways of putting a fault right that the person chose; where none is chosen the cheapest over the plan is taken.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 500)]
    pub ways: Vec<WayChoice>,
}

/// A point decided by the person.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnChoice {
    /// Which.
    pub at: PointRef,
    /// Renewed at purchase, or left.
    pub now: bool,
}

/// A way of putting a fault right that the person chose.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WayChoice {
    /// The point.
    pub at: PointRef,
    /// Name of the way, as the sheet has it; the name of the point's own job where that is chosen.
    #[schema(min_length = 1, max_length = 80)]
    pub way: String,
}

/// Which of two kinds of paper is believed more.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PaperTrust {
    /// A stamp is easily had and does not say what was done; an owner's dated log says more.
    #[default]
    Log,
    /// A stamp comes from somebody who signs for it; anybody can write a log.
    Stamp,
}
