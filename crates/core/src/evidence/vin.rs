//! The vehicle identification number, read by ISO 3779 and, where it was given for North America, by
//! 49 CFR 565.15.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Letters that a VIN may hold, with their values for the check digit: 49 CFR 565.15, table III.
const VALUES: [(char, u32); 23] = [
    ('A', 1),
    ('B', 2),
    ('C', 3),
    ('D', 4),
    ('E', 5),
    ('F', 6),
    ('G', 7),
    ('H', 8),
    ('J', 1),
    ('K', 2),
    ('L', 3),
    ('M', 4),
    ('N', 5),
    ('P', 7),
    ('R', 9),
    ('S', 2),
    ('T', 3),
    ('U', 4),
    ('V', 5),
    ('W', 6),
    ('X', 7),
    ('Y', 8),
    ('Z', 9),
];

/// Weights by position: 49 CFR 565.15, table IV.
const WEIGHTS: [u32; 17] = [8, 7, 6, 5, 4, 3, 2, 10, 0, 9, 8, 7, 6, 5, 4, 3, 2];

/// Letters and digits of the model year, from 1980 on, each again thirty years later: 49 CFR 565.15,
/// table VII.
const YEARS: &str = "ABCDEFGHJKLMNPRSTVWXY123456789";

/// What is wrong with the shape of a VIN.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum VinFault {
    /// Not 17 characters.
    Length {
        /// How many there are.
        characters: usize,
    },
    /// A character that no VIN holds.
    Character {
        /// Which.
        character: String,
        /// Where, from 1 on.
        position: usize,
        /// What it is easily taken for.
        meant: Option<String>,
    },
}

/// What the check digit says.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum CheckDigit {
    /// It agrees.
    Agrees,
    /// It must agree here and does not.
    Disagrees {
        /// What the others make it.
        expected: String,
        /// What stands there.
        found: String,
    },
    /// Not required where this number was given, and it does not agree: says nothing.
    NotUsed,
}

/// A VIN, read.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct VinReading {
    /// Without spaces and hyphens, in capitals.
    pub vin: String,
    /// What is wrong with its shape.
    pub faults: Vec<VinFault>,
    /// What its check digit says; none where the shape is wrong.
    pub check: Option<CheckDigit>,
    /// Whether it was given for North America, where check digit and model year are required.
    pub north_american: bool,
    /// Model years that the tenth character may mean, the likelier first; empty outside North America, where the
    /// character is the maker's own.
    pub model_years: Vec<i16>,
}

/// Reads a VIN as typed; spaces and hyphens count for nothing.
#[must_use]
pub fn vin(text: &str) -> VinReading {
    let vin: Vec<char> =
        text.chars().filter(|c| !c.is_whitespace() && *c != '-').flat_map(char::to_uppercase).collect();
    let mut faults = Vec::new();
    if vin.len() != 17 {
        faults.push(VinFault::Length { characters: vin.len() });
    }
    for (i, c) in vin.iter().enumerate() {
        if value(*c).is_none() {
            let meant = match c {
                'I' => Some("1"),
                'O' | 'Q' => Some("0"),
                _ => None,
            };
            faults.push(VinFault::Character {
                character: c.to_string(),
                position: i + 1,
                meant: meant.map(str::to_owned),
            });
        }
    }
    let north_american = vin.first().is_some_and(|c| ('1'..='5').contains(c));
    let whole = faults.is_empty();
    let check = whole.then(|| {
        let (expected, found) = (check_digit(&vin), vin[8]);
        if expected == found {
            CheckDigit::Agrees
        } else if north_american {
            CheckDigit::Disagrees { expected: expected.to_string(), found: found.to_string() }
        } else {
            CheckDigit::NotUsed
        }
    });
    let model_years = if whole && north_american { model_years(vin[9], vin[6]) } else { Vec::new() };
    VinReading { vin: vin.into_iter().collect(), faults, check, north_american, model_years }
}

fn value(c: char) -> Option<u32> {
    c.to_digit(10).or_else(|| VALUES.iter().find(|v| v.0 == c).map(|v| v.1))
}

/// The check digit that the other sixteen characters make: 49 CFR 565.15(c).
fn check_digit(vin: &[char]) -> char {
    let sum: u32 = vin.iter().zip(WEIGHTS).map(|(c, w)| value(*c).unwrap_or(0) * w).sum();
    match sum % 11 {
        10 => 'X',
        r => char::from_digit(r, 10).unwrap_or('0'),
    }
}

/// Model years that a tenth character may mean in North America. The letters came round again after thirty years;
/// the seventh character of a car or light vehicle tells which round: a digit the first, a letter
/// the second.
fn model_years(tenth: char, seventh: char) -> Vec<i16> {
    let Some(at) = YEARS.chars().position(|c| c == tenth) else { return Vec::new() };
    let first = 1980 + i16::try_from(at).unwrap_or(0);
    if seventh.is_ascii_digit() { vec![first, first + 30] } else { vec![first + 30, first] }
}
