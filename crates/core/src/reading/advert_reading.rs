//! What an advert says, so far as it was understood.

use std::collections::BTreeMap;

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::{Money, Usage};
use crate::documents::paper::DateKnown;
use crate::reading::named::AdvertNamed;
use crate::reading::sold_as::SoldAs;

/// What an advert says.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct AdvertReading {
    /// Its first line, as a name to know it by.
    pub title: Option<String>,
    /// What is asked.
    pub asking: Option<Money>,
    /// Three-letter code of the currency, where a sign or code tells it.
    pub currency: Option<String>,
    /// What it has run.
    pub usage: Option<Usage>,
    /// When it was built or first registered; a month or a year stands for its middle.
    #[schema(value_type = Option<String>, format = Date)]
    pub built: Option<Date>,
    /// How exactly that is said.
    pub built_known: Option<DateKnown>,
    /// Where it stands.
    pub place: Option<String>,
    /// Families that it names, by id.
    pub families: Vec<String>,
    /// How it is built, so far as it says: question to answer.
    pub built_as: BTreeMap<String, String>,
    /// Failure points, scheduled work and papers that it names.
    pub named: Vec<AdvertNamed>,
    /// How it says that the whole is sold.
    pub sold_as: SoldAs,
    /// What was not understood, word for word.
    pub rest: String,
}
