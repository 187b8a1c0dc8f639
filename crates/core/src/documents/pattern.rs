//! Patterns: common practice of a construction, in the open format `ticksage-pattern/1`, and the questions that settle
//! how a thing is built, in `ticksage-questions/1`.
//!
//! A pattern's money is counted in hours of an independent workshop; its usage in its own clock. What it says holds for
//! the constructions that its conditions name: the answers to questions, and settings of its own.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::{Probability, UsageClock};
use crate::documents::applies::Applies;
use crate::documents::check::Check;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::{CareRule, Fact, Source};
use crate::documents::job::{AccessGroup, Interval, Job};
use crate::documents::words::Sign;

/// The format mark of a pattern.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum PatternFormat {
    /// The first version.
    #[default]
    #[serde(rename = "ticksage-pattern/1")]
    V1,
}

/// What is commonly known of one way to build a part.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Pattern {
    /// Format and its version.
    pub format: PatternFormat,
    /// Short name in lower case, unique among patterns.
    #[schema(pattern = "^[a-z0-9][a-z0-9-]{0,39}$")]
    pub id: String,
    /// Version; raised with every change that is published.
    #[schema(minimum = 1)]
    pub version: u32,
    /// Name as shown.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// A sentence on it.
    #[serde(default)]
    pub summary: String,
    /// The clock that its usage is counted on.
    pub clock: UsageClock,
    /// The constructions that it describes.
    #[serde(default)]
    pub applies: Applies,
    /// Those whose claims it holds.
    #[schema(min_items = 1)]
    pub sources: Vec<Source>,
    /// Settings of its own: what splits it beyond the questions.
    #[serde(default)]
    pub facts: Vec<Fact>,
    /// What goes wrong.
    #[serde(default)]
    pub points: Vec<FailurePoint>,
    /// What can be looked at.
    #[serde(default)]
    pub checks: Vec<Check>,
    /// Repairs, their money in hours.
    #[serde(default)]
    pub jobs: Vec<Job>,
    /// What must come off.
    #[serde(default)]
    pub access: Vec<AccessGroup>,
    /// Scheduled renewals.
    #[serde(default)]
    pub intervals: Vec<Interval>,
    /// How to treat it.
    #[serde(default)]
    pub care_rules: Vec<CareRule>,
    /// What checks of other patterns say of its points.
    #[serde(default)]
    pub tells: Vec<Tell>,
}

/// What a check of another pattern says of a point.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Tell {
    /// The check, by what is done.
    pub action: String,
    /// The point of this pattern.
    pub point: String,
    /// What its worse outcomes say.
    #[schema(min_items = 1, max_items = 6)]
    pub signs: Vec<Sign>,
}

/// The format mark of the questions.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum QuestionsFormat {
    /// The first version.
    #[default]
    #[serde(rename = "ticksage-questions/1")]
    V1,
}

/// The questions that settle how a thing is built, in the order in which one would ask.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Questions {
    /// Format and its version.
    pub format: QuestionsFormat,
    /// The questions.
    #[schema(min_items = 1)]
    pub questions: Vec<Question>,
}

/// One question, answerable by a layman.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Question {
    /// Short name: that of the fact that it settles.
    pub id: String,
    /// As asked.
    pub label: String,
    /// How one tells.
    #[serde(default)]
    pub how: String,
    /// The drawing beside it, by name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drawing: Option<String>,
    /// The earlier answers with which it matters at all.
    #[serde(default)]
    pub applies: Applies,
    /// The answers.
    #[schema(min_items = 2)]
    pub values: Vec<Answer>,
}

/// One answer to a question.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Answer {
    /// Short name.
    pub id: String,
    /// As shown.
    pub label: String,
    /// Share of all that are asked.
    pub share: Probability,
    /// Share where earlier answers change it; the first whose answers are all given holds. 0: it cannot be.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub shares: Vec<ShareWhere>,
    /// What it does to hours and parts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub scale: Option<Scale>,
    /// Words of an advert that give it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub words: Vec<String>,
}

/// A share under earlier answers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShareWhere {
    /// Question to the answers that qualify; all of them.
    pub facts: BTreeMap<String, Vec<String>>,
    /// The share.
    pub share: Probability,
}

/// What size does to a job.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Scale {
    /// Times the hours.
    #[schema(exclusive_minimum = 0, maximum = 10)]
    pub hours: f64,
    /// Times the parts and sundries.
    #[schema(exclusive_minimum = 0, maximum = 10)]
    pub parts: f64,
}
