//! Words in the place of chances: how telling a sign is, how often it shows, how long one lives with a fault, how long
//! it gives notice, and one price for a job. What they come to is in [`crate::documents::assumptions`].

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::Money;

/// How telling a sign is: what it means on a typical example of that usage.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Telling {
    /// One of several things that it may be.
    Hint,
    /// Those who know it take it for this.
    Clear,
    /// Its own code, or a sign that nothing else makes.
    Sure,
    /// One looks at the part itself.
    Is,
}

/// How often a fault that is there shows the sign.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum HowOften {
    /// Nearly always.
    #[default]
    Mostly,
    /// As often as not.
    Half,
    /// Now and then.
    Seldom,
}

/// What a worse outcome of a check says of a failure point, in words.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Sign {
    /// The outcome, 1 or above.
    #[schema(minimum = 1)]
    pub outcome: usize,
    /// How telling it is.
    pub says: Telling,
    /// How often it shows where the fault is there.
    #[serde(default)]
    pub shows: HowOften,
}

/// How long owners live with a fault before mending it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LivedWith {
    /// It stops at once.
    AtOnce,
    /// Days.
    Days,
    /// Weeks.
    Weeks,
    /// Months.
    Months,
    /// About a year.
    AYear,
    /// For years.
    ForYears,
}

/// How long before the failure a sign shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum NoticeLength {
    /// It gives none.
    None,
    /// A few weeks of driving.
    Short,
    /// Half a year of driving.
    Long,
    /// Years.
    Years,
}

/// Who notices it in time.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum NoticedBy {
    /// Most owners.
    Most,
    /// Half of them.
    #[default]
    Half,
    /// Those who look for it.
    ThoseWhoLook,
}

/// How a failure announces itself, in words; the sign is how the point shows, unless another is named.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Notice {
    /// How long before.
    pub length: NoticeLength,
    /// Who notices it in time.
    #[serde(default)]
    pub by: NoticedBy,
    /// What to watch for, where it is not how the point shows.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 120)]
    pub sign: Option<String>,
}

/// One price, or a range, for a job done: parts and hours included.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(untagged)]
pub enum Price {
    /// About so much.
    About(Money),
    /// From so much to so much.
    Between([Money; 2]),
}
