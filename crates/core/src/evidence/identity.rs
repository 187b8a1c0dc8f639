//! The identity: VIN, build date and the families' build windows compared.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::evidence::vin::{CheckDigit, VinReading, vin};

/// Something about the identity that does not agree.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum IdentityNote {
    /// The VIN is not one: read it again from the vehicle.
    NotAVin,
    /// The check digit must agree and does not.
    CheckDigit,
    /// No model year that the VIN may mean fits the build date.
    ModelYear,
    /// Built outside the time in which the family was built.
    OutsideWindow {
        /// The family.
        family: String,
        /// Its name.
        name: String,
    },
}

impl IdentityNote {
    /// Whether it must be cleared up before money moves.
    #[must_use]
    pub fn blockers(&self) -> bool {
        matches!(self, Self::NotAVin | Self::CheckDigit)
    }
}

/// What is known of the identity.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Identity {
    /// The VIN, read; none while it is not known.
    pub vin: Option<VinReading>,
    /// What does not agree.
    pub notes: Vec<IdentityNote>,
}

/// Compares VIN, build date and the families' windows.
#[must_use]
pub fn identity(c: &Candidate, families: &[Family]) -> Identity {
    let reading = (!c.vin.trim().is_empty()).then(|| vin(&c.vin));
    let mut notes = Vec::new();
    if let Some(v) = &reading {
        if !v.faults.is_empty() {
            notes.push(IdentityNote::NotAVin);
        }
        if matches!(v.check, Some(CheckDigit::Disagrees { .. })) {
            notes.push(IdentityNote::CheckDigit);
        }
        // A model year begins in the calendar year before; a registration may come a year late.
        let near = |y: &i16| (y - 1..=y + 2).contains(&c.built.year());
        if v.faults.is_empty() && !v.model_years.is_empty() && !v.model_years.iter().any(near) {
            notes.push(IdentityNote::ModelYear);
        }
    }
    for f in families.iter().filter(|f| !f.built.contains(c.built)) {
        notes.push(IdentityNote::OutsideWindow { family: f.id.clone(), name: f.name.clone() });
    }
    Identity { vin: reading, notes }
}
