//! A figure, or two, with what it counts.

/// A figure, or two, with a unit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Quantity {
    /// The figure, or the lower of two.
    pub low: f64,
    /// The higher of two.
    pub high: Option<f64>,
    /// What it counts.
    pub unit: Counts,
    /// Month and day of a calendar year, where the date says them.
    pub on: Option<(i8, Option<i8>)>,
}

/// What a figure counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Counts {
    /// Kilometres.
    Km,
    /// Miles.
    Miles,
    /// Hours.
    Hours,
    /// Years.
    Years,
    /// Months.
    Months,
    /// Money.
    Money,
    /// Per cent.
    Percent,
    /// Thousands of nobody says what.
    Thousands,
    /// Nobody says.
    Nothing,
    /// A calendar year.
    Calendar,
    /// Something that no claim is made in: a speed, a pressure, a length, a capacity, a moment.
    Other,
}
