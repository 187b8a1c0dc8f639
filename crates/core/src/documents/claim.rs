//! Claims: what one source says of how many fail and when.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::Probability;

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

fn one() -> f64 {
    1.0
}

/// Where something is said, as text: nothing is fetched.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Citation {
    /// Title.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 200)]
    pub title: Option<String>,
    /// Time in a recording, or the day.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 40)]
    pub time: Option<String>,
    /// Page.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 40)]
    pub page: Option<String>,
    /// Link.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 400)]
    pub link: Option<String>,
    /// The line as it was said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 400)]
    pub line: Option<String>,
}

/// What one source says of how many have the fault in them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShareClaim {
    /// Whose claim.
    pub source: String,
    /// Weight against others; above 0.
    #[serde(default = "one")]
    #[schema(exclusive_minimum = 0)]
    pub weight: f64,
    /// What is said.
    pub says: ShareForm,
    /// Where it stands.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stands: Option<Citation>,
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

/// Words for a share; their numbers are in [`crate::documents::assumptions`].
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
    pub source: String,
    /// Weight against others; above 0.
    #[serde(default = "one")]
    #[schema(exclusive_minimum = 0)]
    pub weight: f64,
    /// The clock: usage, or age in years.
    #[serde(default)]
    pub clock: LifeClock,
    /// What is said.
    pub says: LifeForm,
    /// Where it stands.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stands: Option<Citation>,
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
