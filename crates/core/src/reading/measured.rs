//! From what a person reads, place by place and in the units at hand, to the one reading that
//! a check's bands judge.
//!
//! docs/METHOD.md, section 12.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::fault::Fault;
use crate::base::units::{KM_PER_MILE, years_between};
use crate::documents::assumptions::Assumptions;
use crate::documents::finding::TypedReading;
use crate::documents::measure::{Calculation, Measure};
use crate::reading::typed;

/// Cranking speed that readings of rotary engines are brought to, rpm.
pub const ROTARY_SPEED: f64 = 250.0;

/// Cranking speeds that can be brought to it.
const ROTARY_SPEEDS: std::ops::RangeInclusive<f64> = 150.0..=350.0;

/// A field to be filled in.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Field {
    /// What is read there.
    pub name: String,
    /// Units that it may be read in, the check's own first; empty for a code.
    pub units: Vec<String>,
    /// Whether it may be left empty.
    pub optional: bool,
}

/// What the fields come to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Measured {
    /// The reading, in the check's unit.
    pub reading: f64,
    /// The outcome that the bands make of it.
    pub outcome: usize,
    /// What each place came to, in the unit it is compared in.
    pub places: Vec<Place>,
}

/// One place, read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Place {
    /// Its name.
    pub name: String,
    /// Its figure.
    pub value: f64,
    /// Its unit.
    pub unit: String,
}

/// Units of one kind, each with what one of it is in the first: `(name, factor, offset)`.
type Scale = &'static [(&'static str, f64, f64)];

/// Exact by definition, or from NIST SP 811 (pound-force, standard atmosphere left out).
const SCALES: [Scale; 5] = [
    &[("kPa", 1.0, 0.0), ("bar", 100.0, 0.0), ("psi", 6.894_757_293_168, 0.0), ("kgf/cm²", 98.066_5, 0.0)],
    &[
        ("mm", 1.0, 0.0),
        ("in", 25.4, 0.0),
        ("1/32 in", 25.4 / 32.0, 0.0),
        ("0.001 in", 0.025_4, 0.0),
        ("µm", 0.001, 0.0),
    ],
    &[("°C", 1.0, 0.0), ("°F", 5.0 / 9.0, -160.0 / 9.0)],
    &[("L", 1.0, 0.0), ("ml", 0.001, 0.0), ("US qt", 0.946_352_946, 0.0), ("imp pt", 0.568_261_25, 0.0)],
    &[("km", 1.0, 0.0), ("mi", KM_PER_MILE, 0.0)],
];

fn scale_of(unit: &str) -> Option<Scale> {
    SCALES.into_iter().find(|s| s.iter().any(|u| u.0 == unit))
}

/// The units that may be read in the place of one, that one first.
#[must_use]
pub fn units_for(unit: &str) -> Vec<String> {
    let mut out = vec![unit.to_owned()];
    let others = scale_of(unit).into_iter().flatten().map(|u| u.0).filter(|u| *u != unit);
    out.extend(others.map(str::to_owned));
    out
}

/// A figure from one unit in another; none where they are not of a kind.
///
/// ```
/// use ticksage_core::reading::measured::convert;
/// assert_eq!(convert(2.0, "1/32 in", "mm"), Some(1.5875));
/// assert_eq!(convert(2.0, "bar", "mm"), None);
/// ```
#[must_use]
pub fn convert(value: f64, from: &str, to: &str) -> Option<f64> {
    if from == to || from.is_empty() {
        return Some(value);
    }
    let scale = scale_of(to)?;
    let unit = |name: &str| scale.iter().find(|u| u.0 == name);
    let ((_, f, o), (_, g, p)) = (unit(from)?, unit(to)?);
    Some((value * f + o - p) / g)
}

/// What a measure's consumption is counted over: its unit, and how much of it.
fn per(unit: &str) -> (&'static str, f64) {
    if unit.ends_with('h') { ("h", 100.0) } else { ("km", 1000.0) }
}

/// The fields of a measure, in order.
#[must_use]
pub fn fields(m: &Measure) -> Vec<Field> {
    let field =
        |name: &str, unit: &str, optional: bool| Field { name: name.to_owned(), units: units_for(unit), optional };
    let each = |places: &[String], unit: &str| places.iter().map(|p| field(p, unit, true)).collect::<Vec<_>>();
    match &m.by {
        Calculation::Single | Calculation::Outside { .. } => vec![field(&m.quantity, &m.unit, false)],
        Calculation::Balance { places, unit } => each(places, unit),
        Calculation::Least { places } | Calculation::Most { places } => each(places, &m.unit),
        Calculation::RotaryFaces { rotors } => (1..=*rotors)
            .flat_map(|r| {
                let mut out: Vec<Field> =
                    (1..=3).map(|f| field(&format!("rotor {r}, face {f}"), &m.unit, false)).collect();
                out.push(field(&format!("rotor {r}, cranking speed"), "rpm", false));
                out
            })
            .collect(),
        Calculation::Use => {
            let (over, _) = per(&m.unit);
            vec![
                field("used, or added to the same mark", "L", false),
                field("first reading", over, false),
                field("second reading", over, false),
            ]
        }
        Calculation::DateCode { places } => {
            places.iter().map(|p| Field { name: p.clone(), units: Vec::new(), optional: true }).collect()
        }
        Calculation::Sums { places } => places
            .iter()
            .flat_map(|p| [field(&format!("{p}, short"), &m.unit, true), field(&format!("{p}, long"), &m.unit, true)])
            .collect(),
    }
}

/// What the inputs come to on the day of judgement.
///
/// # Errors
/// Every fault, with the path to the input, such as `/inputs/2`.
pub fn measure(m: &Measure, inputs: &[TypedReading], as_of: Date, a: &Assumptions) -> Result<Measured, Vec<Fault>> {
    let mut read = Reader { fields: fields(m), inputs, faults: Vec::new() };
    read.count();
    let unit = m.unit.as_str();
    let (reading, places) = match &m.by {
        Calculation::DateCode { .. } => read.ages(as_of),
        Calculation::Use => read.consumption(unit),
        Calculation::RotaryFaces { .. } => read.rotary(a.rotary_slope * convert(1.0, "kPa", unit).unwrap_or(1.0)),
        Calculation::Sums { places } => read.sums(places),
        Calculation::Balance { unit: each, .. } => {
            let values = read.values(each);
            read.at_least(&values, 2);
            read.positive();
            let (low, high) = ends(&values);
            (if high > 0.0 { 100.0 * low / high } else { 0.0 }, values)
        }
        Calculation::Outside { .. } => {
            let values = read.values(unit);
            (values.first().map_or(0.0, |p| of_raw(m, p.value)), values)
        }
        Calculation::Single | Calculation::Least { .. } => {
            let values = read.values(unit);
            read.at_least(&values, 1);
            (ends(&values).0, values)
        }
        Calculation::Most { .. } => {
            let values = read.values(unit);
            read.at_least(&values, 1);
            (ends(&values).1, values)
        }
    };
    if !read.faults.is_empty() {
        return Err(read.faults);
    }
    // Figures are read to a few digits: what the change of units adds in the last place means nothing.
    let reading = (reading * 1e6).round() / 1e6;
    Ok(Measured { reading, outcome: m.outcome(reading), places })
}

/// The reading that a raw figure comes to, where an instrument gave it in the check's unit.
#[must_use]
pub fn of_raw(m: &Measure, raw: f64) -> f64 {
    match &m.by {
        Calculation::Outside { from, to } => (from - raw).max(raw - to).max(0.0),
        _ => raw,
    }
}

fn ends(values: &[Place]) -> (f64, f64) {
    let low = values.iter().map(|p| p.value).fold(f64::INFINITY, f64::min);
    let high = values.iter().map(|p| p.value).fold(f64::NEG_INFINITY, f64::max);
    (low, high)
}

struct Reader<'a> {
    fields: Vec<Field>,
    inputs: &'a [TypedReading],
    faults: Vec<Fault>,
}

impl Reader<'_> {
    fn fault(&mut self, i: usize, message: String) {
        self.faults.push(Fault { path: format!("/inputs/{i}"), message });
    }

    fn count(&mut self) {
        let (given, wanted) = (self.inputs.len(), self.fields.len());
        if given > wanted {
            self.fault(wanted, format!("{given} figures for {wanted} places"));
        }
    }

    /// The figure of a field in a unit; none where it is empty or faulty.
    fn value(&mut self, i: usize, unit: &str) -> Option<Place> {
        let field = self.fields.get(i)?.clone();
        let input = self.inputs.get(i).cloned().unwrap_or_default();
        let typed = input.text.trim().replace('−', "-");
        if typed.is_empty() {
            if !field.optional {
                self.fault(i, format!("{}: the figure is missing", field.name));
            }
            return None;
        }
        let (sign, digits) = typed.strip_prefix('-').map_or((1.0, typed.as_str()), |d| (-1.0, d));
        let digits = digits.strip_prefix('+').unwrap_or(digits);
        let Some(value) = figure(digits).map(|v| sign * v) else {
            self.fault(i, format!("{}: \"{typed}\" is not a number: write it as 20.4", field.name));
            return None;
        };
        match convert(value, &input.unit, unit) {
            Some(value) if value.is_finite() && value.abs() < 1e7 => {
                Some(Place { name: field.name, value, unit: unit.to_owned() })
            }
            Some(_) => {
                self.fault(i, format!("{}: {typed} is beyond anything that is read there", field.name));
                None
            }
            None => {
                self.fault(i, format!("{}: it is not read in \"{}\"", field.name, input.unit));
                None
            }
        }
    }

    fn values(&mut self, unit: &str) -> Vec<Place> {
        (0..self.fields.len()).filter_map(|i| self.value(i, unit)).collect()
    }

    fn at_least(&mut self, values: &[Place], n: usize) {
        if values.len() < n && self.faults.is_empty() {
            let what = if n == 1 { "one place" } else { "two places" };
            self.fault(0, format!("read {what} at least"));
        }
    }

    fn positive(&mut self) {
        for i in 0..self.fields.len() {
            let below = self.inputs.get(i).is_some_and(|x| x.text.trim().starts_with(['-', '−']));
            if below {
                self.fault(i, format!("{}: it cannot be below 0", self.fields[i].name));
            }
        }
    }

    fn consumption(&mut self, unit: &str) -> (f64, Vec<Place>) {
        let (over, many) = per(unit);
        self.positive();
        let places = [self.value(0, "L"), self.value(1, over), self.value(2, over)];
        let [Some(used), Some(from), Some(to)] = &places else { return (0.0, Vec::new()) };
        let distance = to.value - from.value;
        if distance <= 0.0 {
            let message = format!("{}: must be after the first, {}", to.name, from.value);
            self.fault(2, message);
            return (0.0, Vec::new());
        }
        (used.value / distance * many, places.into_iter().flatten().collect())
    }

    fn rotary(&mut self, slope: f64) -> (f64, Vec<Place>) {
        self.positive();
        let mut out = Vec::new();
        for first in (0..self.fields.len()).step_by(4) {
            let unit = self.fields[first].units[0].clone();
            let faces: Vec<Option<Place>> = (first..first + 3).map(|i| self.value(i, &unit)).collect();
            let Some(speed) = self.value(first + 3, "rpm") else { continue };
            if !ROTARY_SPEEDS.contains(&speed.value) {
                let message = format!(
                    "{}: {} rpm is too far from {ROTARY_SPEED} to be brought to it: charge the battery and crank again",
                    speed.name, speed.value
                );
                self.fault(first + 3, message);
                continue;
            }
            let faces = faces.into_iter().flatten();
            out.extend(faces.map(|p| Place { value: p.value + slope * (ROTARY_SPEED - speed.value), ..p }));
        }
        (ends(&out).0, out)
    }

    fn sums(&mut self, places: &[String]) -> (f64, Vec<Place>) {
        let unit = self.fields.first().map_or_else(String::new, |f| f.units[0].clone());
        let mut out = Vec::new();
        for (k, name) in places.iter().enumerate() {
            let pair = [self.value(2 * k, &unit), self.value(2 * k + 1, &unit)];
            if pair.iter().any(Option::is_some) {
                let value = pair.iter().flatten().map(|p| p.value).sum();
                out.push(Place { name: name.clone(), value, unit: unit.clone() });
            }
        }
        self.at_least(&out, 1);
        (out.iter().map(|p| p.value.abs()).fold(0.0, f64::max), out)
    }

    fn ages(&mut self, as_of: Date) -> (f64, Vec<Place>) {
        let mut out = Vec::new();
        for i in 0..self.fields.len() {
            let name = self.fields[i].name.clone();
            let typed = self.inputs.get(i).map_or("", |x| x.text.trim()).to_owned();
            if typed.is_empty() {
                continue;
            }
            match made(&typed) {
                // A week is a week: made in the one that has just begun is no slip.
                Ok(day) if day <= as_of.saturating_add(jiff::Span::new().days(7)) => {
                    let value = years_between(day, as_of).max(0.0);
                    out.push(Place { name, value, unit: "years".to_owned() });
                }
                Ok(day) => {
                    self.fault(i, format!("{name}: \"{typed}\" would be made on {day}, after the day of judgement"))
                }
                Err(why) => self.fault(i, format!("{name}: {why}")),
            }
        }
        self.at_least(&out, 1);
        (ends(&out).1, out)
    }
}

/// A figure as read off an instrument: a comma or a point, never thousands.
fn figure(digits: &str) -> Option<f64> {
    let plain = digits.replace(',', ".");
    let one_point = plain.matches('.').count() <= 1 && plain.chars().all(|c| c.is_ascii_digit() || c == '.');
    if one_point { plain.parse().ok() } else { typed::number(digits) }
}

/// The first day of the week in which a tyre was made, by the last digits of its identification number:
/// week and year (49 CFR 574.5(b)(4)), or week and last digit of the year before 2000.
///
/// # Errors
/// What is wrong with the code, in words.
pub fn made(code: &str) -> Result<Date, String> {
    let compact: String = code.chars().filter(|c| !c.is_whitespace() && *c != '-').collect();
    let tail: String = {
        let mut digits: Vec<char> = compact.chars().rev().take_while(char::is_ascii_digit).take(4).collect();
        digits.reverse();
        digits.into_iter().collect()
    };
    let not_one = || format!("\"{code}\" has no date code: it ends in four digits, week and year, as 3519");
    let number = |s: &str| s.parse::<i16>().map_err(|_| not_one());
    let (week, year) = match tail.len() {
        4 => (number(&tail[..2])?, 2000 + number(&tail[2..])?),
        // Three digits were used until the end of 1999; the latest decade is taken.
        3 => (number(&tail[..2])?, 1990 + number(&tail[2..])?),
        _ => return Err(not_one()),
    };
    if !(1..=53).contains(&week) {
        return Err(format!("\"{code}\" names week {week}: a year has 52 or 53"));
    }
    let first = Date::new(year, 1, 1).map_err(|_| not_one())?;
    Ok(first.saturating_add(jiff::Span::new().days(i64::from(week - 1) * 7)))
}
