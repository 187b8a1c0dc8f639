//! What the odometer readings say: anomalies, true usage and its range.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::statistics::median;
use crate::base::units::Usage;
use crate::documents::assumptions::Assumptions;

/// Where a reading comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Origin {
    /// A reading of the document.
    Reading {
        /// Index into the readings.
        index: usize,
    },
    /// A ledger entry.
    Entry {
        /// Index into the ledger.
        index: usize,
    },
    /// What the clock shows on the day of judgement.
    Now,
}

/// A reading as it was followed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Seen {
    /// When.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// As stated.
    pub shown: Usage,
    /// True usage at that time by the explanation chosen, on the candidate's clock; none where the
    /// reading is set aside.
    pub usage: Option<f64>,
    /// Where it comes from.
    pub origin: Origin,
    /// In words.
    pub source: String,
}

/// What is wrong with a pair of readings.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AnomalyKind {
    /// The clock shows less than before: set back, or exchanged.
    Fall,
    /// One reading stands out and the next ones go on as if it were not there.
    Misread,
    /// Miles written down as kilometres, or the other way.
    WrongUnit,
    /// A five-digit clock that went round.
    Wrap,
    /// Much more a year than this vehicle is used to.
    Fast,
    /// Much less a year than this vehicle is used to: parked, or the clock stopped.
    Slow,
    /// Too long without a reading.
    Gap,
}

/// Something wrong with the readings.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Anomaly {
    /// What.
    pub kind: AnomalyKind,
    /// The earlier reading, as an index into [`Odometer::readings`].
    pub from: usize,
    /// The later one.
    pub to: usize,
    /// Least true usage today that is consistent with it, on the candidate's clock.
    pub least: f64,
    /// Most true usage today that is consistent with it.
    pub most: f64,
    /// Years between the two.
    pub years: f64,
    /// Usage a year between the two, corrected.
    pub rate: f64,
    /// Whether it is only a note: an ordinary gap or an unusual year, which hides next to no usage.
    pub note: bool,
}

/// A vehicle's usual usage a year, by its own readings.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct UsualRate {
    /// Median of the rates.
    pub median: f64,
    /// Their robust deviation: 1.4826 times the median absolute deviation.
    pub spread: f64,
    /// How many rates there are.
    pub count: usize,
}

/// What the readings say together.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Odometer {
    /// What the clock shows now.
    pub shown: f64,
    /// What the judgement runs on.
    pub usage: f64,
    /// The least that the readings allow.
    pub least: f64,
    /// The most that the readings allow.
    pub most: f64,
    /// The least that is counted with: the person's, or the readings'.
    pub low: f64,
    /// The most that is counted with: the person's, or the readings'.
    pub high: f64,
    /// Whether the person chose.
    pub chosen: bool,
    /// Whether a paper proves the choice.
    pub proved: bool,
    /// Every reading, in order of time; the last is what the clock shows now.
    pub readings: Vec<Seen>,
    /// What is wrong with them.
    pub anomalies: Vec<Anomaly>,
    /// The usual rate, where there are rates.
    pub rate: Option<UsualRate>,
}

impl Odometer {
    /// The anomaly that stands between the buyer and the purchase: one that explains the clock by something
    /// that has yet to be proved, or leaves much of today's usage open. A vehicle that stood for a while is
    /// pointed out and no more.
    #[must_use]
    pub fn blocker(&self, a: &Assumptions) -> Option<&Anomaly> {
        use AnomalyKind as K;
        if self.proved {
            return None;
        }
        self.anomalies
            .iter()
            .filter(|x| matches!(x.kind, K::Fall | K::WrongUnit | K::Wrap) || x.most > x.least * (1.0 + a.open_usage))
            .min_by_key(|x| x.kind)
    }
}

/// Median and robust deviation (1.4826 × the median absolute deviation) of rates; none of none.
#[must_use]
pub fn usual_rate(rates: &[f64]) -> Option<UsualRate> {
    let median_rate = median(&mut rates.to_vec())?;
    let mut off: Vec<f64> = rates.iter().map(|r| (r - median_rate).abs()).collect();
    let spread = 1.4826 * median(&mut off)?;
    Some(UsualRate { median: median_rate, spread, count: rates.len() })
}
