//! Trouble codes as SAE J2012 (ISO 15031-6) builds them: five characters that say which system, who
//! defined the code, which part of the system, and in some series which cylinder.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A trouble code, such as P0301.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(try_from = "String", into = "String")]
#[schema(value_type = String, pattern = "^[PCBU][0-3][0-9A-F]{3}$")]
pub struct Code(u16);

/// Why something is no trouble code.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "\"{0}\" is no trouble code: one is a letter of P, C, B, U, a digit 0 to 3, and three of 0 to 9 or A to F, as P0301"
)]
pub struct NotACode(String);

/// The system that a code speaks of: its letter.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CodeSystem {
    /// P: engine and gearbox.
    Powertrain,
    /// C: chassis.
    Chassis,
    /// B: body.
    Body,
    /// U: the network between control units.
    Network,
}

/// Who defined a code.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DefinedBy {
    /// The published scheme: the same for every maker.
    Scheme,
    /// The maker: the same code means another thing elsewhere.
    Maker,
    /// Kept free by the scheme.
    Reserved,
}

/// The part of the powertrain that a code of the published scheme speaks of: its third character.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CodeArea {
    /// Fuel and air metering, and auxiliary emission controls.
    FuelAndAir,
    /// Ignition, or misfire.
    IgnitionOrMisfire,
    /// Auxiliary emission controls.
    Emissions,
    /// Vehicle speed, idle control, auxiliary inputs.
    SpeedAndIdle,
    /// The control unit and its outputs.
    ControlUnit,
    /// Transmission.
    Transmission,
    /// Hybrid or electric propulsion.
    Hybrid,
}

/// What the series of a code says of one cylinder.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CylinderSeries {
    /// P0201 to P0212: the injector's circuit.
    InjectorCircuit,
    /// P0261 to P0296, three a cylinder: the injector's circuit low or high, or the cylinder's
    /// contribution.
    InjectorLowHighOrBalance,
    /// P0301 to P0312: misfire.
    Misfire,
    /// P0351 to P0362: the ignition coil's circuit (coils A to L).
    Coil,
}

/// A code taken apart.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct CodeParts {
    /// The code.
    pub code: Code,
    /// Its system.
    pub system: CodeSystem,
    /// Who defined it.
    pub defined_by: DefinedBy,
    /// The part of the powertrain; none for other systems and for makers' codes.
    pub area: Option<CodeArea>,
    /// The series that names a cylinder, if it is of one.
    pub series: Option<CylinderSeries>,
    /// The cylinder (1 to 12), or the coil, A being 1.
    #[schema(minimum = 1, maximum = 12)]
    pub cylinder: Option<u8>,
}

impl Code {
    /// The code that two bytes of an answer stand for; none for the padding 0000.
    #[must_use]
    pub fn from_bytes(high: u8, low: u8) -> Option<Self> {
        match u16::from_be_bytes([high, low]) {
            0 => None,
            bits => Some(Self(bits)),
        }
    }

    /// The two bytes that stand for it.
    #[must_use]
    pub fn bytes(self) -> [u8; 2] {
        self.0.to_be_bytes()
    }

    /// Takes it apart.
    ///
    /// ```
    /// use ticksage_core::base::trouble_code::{Code, CylinderSeries};
    /// let misfire: Code = "P0304".parse().unwrap();
    /// assert_eq!(misfire.parts().cylinder, Some(4));
    /// assert_eq!(misfire.parts().series, Some(CylinderSeries::Misfire));
    /// ```
    #[must_use]
    pub fn parts(self) -> CodeParts {
        let system = match self.0 >> 14 {
            0 => CodeSystem::Powertrain,
            1 => CodeSystem::Chassis,
            2 => CodeSystem::Body,
            _ => CodeSystem::Network,
        };
        let (second, third, rest) = ((self.0 >> 12) & 3, (self.0 >> 8) & 0xf, self.0 & 0xff);
        let defined_by = match (system, second) {
            (_, 0) | (CodeSystem::Powertrain, 2) => DefinedBy::Scheme,
            // P30 to P33 are the makers', P34 to P39 and U3 the scheme's.
            (CodeSystem::Powertrain, 3) if third >= 4 => DefinedBy::Scheme,
            (CodeSystem::Network, 3) => DefinedBy::Scheme,
            (CodeSystem::Chassis | CodeSystem::Body, 3) => DefinedBy::Reserved,
            _ => DefinedBy::Maker,
        };
        let powertrain = system == CodeSystem::Powertrain && defined_by == DefinedBy::Scheme && second != 3;
        let area = powertrain
            .then_some(match third {
                0..=2 => Some(CodeArea::FuelAndAir),
                3 => Some(CodeArea::IgnitionOrMisfire),
                4 => Some(CodeArea::Emissions),
                5 => Some(CodeArea::SpeedAndIdle),
                6 => Some(CodeArea::ControlUnit),
                7..=9 => Some(CodeArea::Transmission),
                0xa..=0xc => Some(CodeArea::Hybrid),
                _ => None,
            })
            .flatten();
        let (series, cylinder) = if self.0 >> 12 == 0 { cylinder_series(third, rest) } else { (None, None) };
        CodeParts { code: self, system, defined_by, area, series, cylinder }
    }

    /// Whether a pattern of five characters fits, an `x` or `X` standing for any: `P030x`.
    #[must_use]
    pub fn fits(self, pattern: &str) -> bool {
        let code = self.to_string();
        pattern.len() == 5
            && pattern
                .chars()
                .zip(code.chars())
                .all(|(p, c)| p.eq_ignore_ascii_case(&'x') || p.eq_ignore_ascii_case(&c))
    }
}

/// The cylinder series of P0 codes; their last two characters count in decimal.
#[allow(clippy::cast_possible_truncation)]
fn cylinder_series(third: u16, rest: u16) -> (Option<CylinderSeries>, Option<u8>) {
    let (tens, ones) = (rest >> 4, rest & 0xf);
    if tens > 9 || ones > 9 {
        return (None, None);
    }
    let n = tens * 10 + ones;
    let (series, cylinder) = match (third, n) {
        (2, 1..=12) => (CylinderSeries::InjectorCircuit, n),
        (2, 61..=96) => (CylinderSeries::InjectorLowHighOrBalance, (n - 61) / 3 + 1),
        (3, 1..=12) => (CylinderSeries::Misfire, n),
        (3, 51..=62) => (CylinderSeries::Coil, n - 50),
        _ => return (None, None),
    };
    (Some(series), Some(cylinder as u8))
}

impl fmt::Display for Code {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let letter = ['P', 'C', 'B', 'U'][usize::from(self.0 >> 14)];
        write!(f, "{letter}{}{:03X}", (self.0 >> 12) & 3, self.0 & 0xfff)
    }
}

impl FromStr for Code {
    type Err = NotACode;
    fn from_str(text: &str) -> Result<Self, NotACode> {
        let refused = || NotACode(text.to_owned());
        let typed = text.trim().to_uppercase();
        let mut characters = typed.chars();
        let letter = match characters.next() {
            Some('P') => 0u16,
            Some('C') => 1,
            Some('B') => 2,
            Some('U') => 3,
            _ => return Err(refused()),
        };
        let rest = characters.as_str();
        let plain = rest.len() == 4 && rest.chars().all(|c| c.is_ascii_hexdigit());
        let digits = u16::from_str_radix(rest, 16).map_err(|_| refused())?;
        if !plain || digits > 0x3fff || (letter == 0 && digits == 0) {
            Err(refused())
        } else {
            Ok(Self(letter << 14 | digits))
        }
    }
}

impl TryFrom<String> for Code {
    type Error = NotACode;
    fn try_from(text: String) -> Result<Self, NotACode> {
        text.parse()
    }
}

impl From<Code> for String {
    fn from(code: Code) -> Self {
        code.to_string()
    }
}
