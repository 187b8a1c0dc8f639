//! Figures as they go over the line: no longer than anybody reads them. What is exported, issued or kept stays whole.

use std::io;

use serde::Serialize;
use serde_json::ser::{Formatter, Serializer};
use serde_json::value::RawValue;
use ticksage_core::Assessment;
use ticksage_core::decision::point_result::PointResult;

use crate::problem::Problem;

/// Digits that count.
const DIGITS: i32 = 6;

/// Writes numbers with [`DIGITS`] digits that count, and whole ones without a point.
struct Short;

impl Formatter for Short {
    fn write_f64<W: ?Sized + io::Write>(&mut self, writer: &mut W, value: f64) -> io::Result<()> {
        let short = shortened(value);
        if short.fract() == 0.0 && short.abs() < 1e15 {
            #[allow(clippy::cast_possible_truncation)]
            let whole = short as i64;
            write!(writer, "{whole}")
        } else {
            write!(writer, "{short}")
        }
    }
}

/// A number to [`DIGITS`] digits that count; next to nothing is nothing.
fn shortened(value: f64) -> f64 {
    if value.abs() < 1e-12 {
        return 0.0;
    }
    #[allow(clippy::cast_possible_truncation)]
    let places = DIGITS - 1 - value.abs().log10().floor() as i32;
    // Powers of ten up to the twenty-second are exact, so that the last digit is the nearest.
    if places >= 0 {
        let scale = 10_f64.powi(places);
        (value * scale).round() / scale
    } else {
        let scale = 10_f64.powi(-places);
        (value / scale).round() * scale
    }
}

/// A value in short figures.
pub(crate) fn short(value: &impl Serialize) -> Result<Box<RawValue>, Problem> {
    let mut out = Vec::with_capacity(1 << 16);
    value.serialize(&mut Serializer::with_formatter(&mut out, Short)).map_err(|e| Problem::internal(&e.to_string()))?;
    let text = String::from_utf8(out).map_err(|e| Problem::internal(&e.to_string()))?;
    RawValue::from_string(text).map_err(|e| Problem::internal(&e.to_string()))
}

/// A judgement in short figures, the densities of trouble in whole ten-thousandths.
pub(crate) fn short_assessment(whole: &Assessment) -> Result<Box<RawValue>, Problem> {
    let mut drawn = whole.clone();
    drawn.points.iter_mut().for_each(coarse);
    short(&drawn)
}

/// Points in short figures, their densities as those of a judgement.
pub(crate) fn short_points(points: &[PointResult]) -> Result<Box<RawValue>, Problem> {
    let mut drawn = points.to_vec();
    drawn.iter_mut().for_each(coarse);
    short(&drawn)
}

/// The densities of a point as they are drawn.
fn coarse(point: &mut PointResult) {
    let t = &mut point.trouble;
    for x in t.past.iter_mut().chain(&mut t.plan).chain(&mut t.beyond) {
        *x = x.round();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn figures_keep_six_digits() {
        for (whole, told) in [
            (0.0, "0"),
            (-0.0, "0"),
            (4912.3482, "4912.35"),
            (1_234_567.8, "1234570"),
            (0.1 + 0.2, "0.3"),
            (1.0 / 3.0, "0.333333"),
            (-2.0 / 3.0, "-0.666667"),
            (1e-20, "0"),
            (0.000_012_345_67, "0.0000123457"),
            (120_500.0, "120500"),
        ] {
            assert_eq!(short(&whole).unwrap().get(), told, "{whole}");
        }
        assert_eq!(short(&vec![Some(1.5), None]).unwrap().get(), "[1.5,null]");
        assert_eq!(short(&f64::NAN).unwrap().get(), "null");
    }
}
