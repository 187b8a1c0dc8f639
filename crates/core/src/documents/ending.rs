//! How the consideration ended, and what happened after the purchase.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::{Money, Usage};

/// How the consideration of a candidate ended.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Ending {
    /// It was bought.
    Bought {
        /// When.
        #[schema(value_type = String, format = Date)]
        date: Date,
        /// For how much.
        price: Money,
        /// At what usage.
        usage: Usage,
    },
    /// It was passed over.
    PassedOver {
        /// When.
        #[schema(value_type = String, format = Date)]
        date: Date,
        /// Why.
        #[schema(min_length = 1, max_length = 400)]
        why: String,
    },
}

/// What happened to a bought one.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LogEntry {
    /// When.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// At what usage.
    pub usage: Usage,
    /// What it was about.
    pub about: LogAbout,
    /// What happened.
    pub what: LogKind,
    /// What it cost, in the candidate's currency.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cost: Option<Money>,
    /// In the person's words.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 4000)]
    pub note: String,
}

/// What a log entry is about.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum LogAbout {
    /// A failure point.
    Point {
        /// The family's id.
        family: String,
        /// The point's id.
        point: String,
    },
    /// Scheduled work.
    Work {
        /// The family's id.
        family: String,
        /// The interval's id.
        interval: String,
    },
    /// Something that no sheet names.
    Other {
        /// Its name.
        #[schema(min_length = 1, max_length = 200)]
        name: String,
    },
}

/// What happened.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LogKind {
    /// It was done as planned.
    Done,
    /// It failed.
    Failed,
    /// It was looked at, and was sound.
    Sound,
}
