//! Measures: the bands that turn a reading into an outcome.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Bands that turn a reading into an outcome.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Measure {
    /// What is read.
    pub quantity: String,
    /// Its unit.
    pub unit: String,
    /// Ascending limits between one band and the next: one fewer than the outcomes.
    pub limits: Vec<f64>,
    /// Whether a larger reading is worse.
    pub higher_is_worse: bool,
    /// Where the bands come from: a source, or "common practice".
    pub source: String,
    /// How what is read becomes the one reading that the bands judge.
    #[serde(default, skip_serializing_if = "Calculation::is_single")]
    pub by: Calculation,
}

/// How what is read becomes one reading. Names of places are the sheet's own: cylinders as they are
/// numbered, wheels, corners.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Calculation {
    /// The reading itself.
    #[default]
    Single,
    /// The lowest place as per cent of the highest: compression.
    Balance {
        /// What each is read in.
        unit: String,
        /// The places.
        #[schema(min_items = 2, max_items = 16)]
        places: Vec<String>,
    },
    /// The least of the places.
    Least {
        /// The places.
        #[schema(min_items = 1, max_items = 16)]
        places: Vec<String>,
    },
    /// The most of the places.
    Most {
        /// The places.
        #[schema(min_items = 1, max_items = 16)]
        places: Vec<String>,
    },
    /// The least face of a rotary engine, each brought to a cranking speed of 250 rpm.
    RotaryFaces {
        /// Rotors; three faces each.
        #[schema(minimum = 1, maximum = 4)]
        rotors: u8,
    },
    /// How much was used over a distance between two readings, per 1000 of the clock.
    Use,
    /// The age of the oldest by its date code, years.
    DateCode {
        /// The places.
        #[schema(min_items = 1, max_items = 16)]
        places: Vec<String>,
    },
    /// How far it lies outside a range.
    Outside {
        /// The range begins.
        from: f64,
        /// The range ends.
        to: f64,
    },
    /// The largest of several sums of two, whatever its sign: fuel trims, short and long, by bank.
    Sums {
        /// The places.
        #[schema(min_items = 1, max_items = 16)]
        places: Vec<String>,
    },
}

impl Calculation {
    fn is_single(&self) -> bool {
        *self == Self::Single
    }
}

impl Measure {
    /// The outcome that a reading falls in; a reading on a limit belongs to the band above it.
    #[must_use]
    pub fn outcome(&self, reading: f64) -> usize {
        let above = self.limits.iter().filter(|l| reading >= **l).count();
        if self.higher_is_worse { above } else { self.limits.len() - above }
    }
}
