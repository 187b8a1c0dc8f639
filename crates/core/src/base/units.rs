//! Quantities that must not be mixed: usage, years, chances, money and calendar days.
//!
//! Each wrapper refuses values outside its range when it is read, so the computation never meets a
//! negative age or a chance of 1.4.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Kilometres in one statute mile, exactly (international yard and pound agreement, 1959).
pub const KM_PER_MILE: f64 = 1.609_344;

/// Days in a year of the method.
pub const DAYS_PER_YEAR: f64 = 365.25;

/// A value outside the range of its kind.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum UnitError {
    /// A chance or a level outside 0 to 1, or not a number.
    #[error("{0} is not between 0 and 1")]
    NotAFraction(f64),
    /// An amount of money that is not a whole number of hundredths, or is too large to hold.
    #[error("{0} is not an amount of money: at most two decimals and below 1e12")]
    NotMoney(f64),
    /// A usage that is negative, not a number, or beyond what any vehicle has run.
    #[error("{0} is not a usage: it must lie between 0 and 10 000 000")]
    NotUsage(f64),
}

/// A chance or a share, 0 to 1.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Serialize, Deserialize, ToSchema)]
#[serde(try_from = "f64", into = "f64")]
#[schema(value_type = f64, minimum = 0, maximum = 1)]
pub struct Probability(f64);

impl Probability {
    /// Certain.
    pub const ONE: Self = Self(1.0);
    /// Impossible.
    pub const ZERO: Self = Self(0.0);

    /// Wraps `p`.
    ///
    /// # Errors
    /// [`UnitError::NotAFraction`] when `p` is outside 0 to 1 or not a number.
    pub fn new(p: f64) -> Result<Self, UnitError> {
        if (0.0..=1.0).contains(&p) { Ok(Self(p)) } else { Err(UnitError::NotAFraction(p)) }
    }

    /// The plain number, 0 to 1.
    #[must_use]
    pub fn get(self) -> f64 {
        self.0
    }
}

impl TryFrom<f64> for Probability {
    type Error = UnitError;
    fn try_from(p: f64) -> Result<Self, UnitError> {
        Self::new(p)
    }
}

impl From<Probability> for f64 {
    fn from(p: Probability) -> f64 {
        p.0
    }
}

/// An amount of money as entered: whole hundredths of the currency, written in files as a number
/// with at most two decimals. Expectations computed from such amounts are plain `f64`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default, Serialize, Deserialize, ToSchema)]
#[serde(try_from = "f64", into = "f64")]
#[schema(value_type = f64, minimum = 0)]
pub struct Money(i64);

impl Money {
    /// No money.
    pub const ZERO: Self = Self(0);

    /// An amount from hundredths of the currency; negative amounts do not occur as input.
    #[must_use]
    pub fn from_hundredths(hundredths: u32) -> Self {
        Self(i64::from(hundredths))
    }

    /// The amount in units of the currency.
    #[must_use]
    #[allow(clippy::cast_precision_loss)]
    pub fn get(self) -> f64 {
        self.0 as f64 / 100.0
    }
}

impl TryFrom<f64> for Money {
    type Error = UnitError;
    #[allow(clippy::cast_possible_truncation)]
    fn try_from(amount: f64) -> Result<Self, UnitError> {
        let hundredths = (amount * 100.0).round();
        let exact = (hundredths / 100.0 - amount).abs() < 1e-9 * amount.abs().max(1.0);
        if (0.0..1e12).contains(&amount) && exact {
            Ok(Self(hundredths as i64))
        } else {
            Err(UnitError::NotMoney(amount))
        }
    }
}

impl From<Money> for f64 {
    fn from(m: Money) -> f64 {
        m.get()
    }
}

/// The clock on which a family's usage is counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum UsageClock {
    /// Kilometres driven.
    Km,
    /// Hours the engine has run.
    Hours,
}

/// The unit in which a person states usage.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub enum UsageUnit {
    /// Kilometres.
    #[serde(rename = "km")]
    Km,
    /// Statute miles.
    #[serde(rename = "mi")]
    Miles,
    /// Engine hours.
    #[serde(rename = "h")]
    Hours,
}

impl UsageUnit {
    /// The clock that this unit counts on.
    #[must_use]
    pub fn clock(self) -> UsageClock {
        match self {
            Self::Km | Self::Miles => UsageClock::Km,
            Self::Hours => UsageClock::Hours,
        }
    }

    /// How many of the clock's own unit (kilometres or hours) one of these is.
    #[must_use]
    pub fn in_clock(self) -> f64 {
        match self {
            Self::Miles => KM_PER_MILE,
            Self::Km | Self::Hours => 1.0,
        }
    }
}

/// A usage with the unit it was stated in, 0 to 10 000 000.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Usage {
    /// The number as stated.
    #[schema(minimum = 0, maximum = 10_000_000)]
    pub value: f64,
    /// Its unit.
    pub unit: UsageUnit,
}

impl Usage {
    /// Kilometres or hours, whichever the unit's clock counts.
    #[must_use]
    pub fn on_clock(self) -> f64 {
        self.value * self.unit.in_clock()
    }
}

/// Years of 365.25 days from one day to another; negative when `to` is earlier.
#[must_use]
pub fn years_between(from: Date, to: Date) -> f64 {
    let days = from.until(to).map_or(0, |span| span.get_days());
    f64::from(days) / DAYS_PER_YEAR
}

/// The day so many years of 365.25 days after another, to the nearest; a time before it counts as none.
#[must_use]
#[allow(clippy::cast_possible_truncation)]
pub fn day_after(from: Date, years: f64) -> Date {
    let days = (years * DAYS_PER_YEAR).round().clamp(0.0, 2_000_000.0) as i64;
    from.saturating_add(jiff::Span::new().days(days))
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    #[test]
    fn a_chance_outside_its_range_is_refused() {
        assert_eq!(Probability::new(1.4), Err(UnitError::NotAFraction(1.4)));
        assert!(Probability::new(f64::NAN).is_err());
        assert!(serde_json::from_str::<Probability>("-0.1").is_err());
    }

    #[test]
    fn money_keeps_hundredths_and_refuses_more() {
        let m: Money = serde_json::from_str("1240.55").expect("two decimals are money");
        assert_eq!(serde_json::to_string(&m).expect("writes"), "1240.55");
        assert!(serde_json::from_str::<Money>("0.001").is_err());
        assert!(serde_json::from_str::<Money>("-5").is_err());
    }

    #[test]
    fn a_mile_is_1609_344_metres_exactly() {
        let u = Usage { value: 100_000.0, unit: UsageUnit::Miles };
        assert!((u.on_clock() - 160_934.4).abs() < 1e-9);
        assert_eq!(UsageUnit::Miles.clock(), UsageClock::Km);
    }

    #[test]
    fn four_years_with_a_leap_day_are_four_years() {
        assert!((years_between(date(2020, 2, 1), date(2024, 2, 1)) - 4.0).abs() < 1e-12);
        assert!(years_between(date(2024, 2, 1), date(2020, 2, 1)) < 0.0);
    }
}
