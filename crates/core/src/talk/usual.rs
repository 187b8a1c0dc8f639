//! What is usual where a line does not say it.

use std::collections::BTreeMap;

use crate::base::units::Probability;
use crate::documents::applies::Applies;
use crate::documents::check::{Hazard, Phase};
use crate::documents::claim::Mechanism;
use crate::documents::failure_point::{FailurePoint, System};
use crate::documents::words::LivedWith;

/// A point of which nothing is known but its name: what is not said is the usual.
pub(super) fn unknown(id: &str, name: &str) -> FailurePoint {
    FailurePoint {
        id: id.to_owned(),
        name: name.chars().take(80).collect(),
        system: System::Engine,
        part: None,
        shows: String::new(),
        why: String::new(),
        mechanism: Mechanism::Wear,
        ends_engine: false,
        can_hurt: false,
        upkeep: false,
        care: None,
        applies: Applies::default(),
        share: Vec::new(),
        life: Vec::new(),
        revision: None,
        revisions: Vec::new(),
        exposures: BTreeMap::new(),
        repair_delay: None,
        lived_with: Some(LivedWith::Months),
        survivable: Probability::ONE,
        strands: None,
        job: String::new(),
        price: None,
        routes: Vec::new(),
        escalation: None,
        takes_along: Vec::new(),
        already_done: None,
        paid_for: None,
        warning: None,
        notice: None,
        disputed: Vec::new(),
        prevention: String::new(),
    }
}

/// What can injure where a sign is looked for.
pub(super) fn caution(phase: Phase) -> (Option<&'static str>, Vec<Hazard>) {
    match phase {
        Phase::Underneath => (
            Some("Never under a vehicle on a jack alone: a lift, or stands on firm level ground."),
            vec![Hazard::Raised],
        ),
        Phase::Drive => {
            (Some("Insurance, licence and the owner’s consent first; brakes before speed."), vec![Hazard::Road])
        }
        Phase::ColdStart | Phase::Hot => (
            Some("Keep hands, hair and sleeves clear of belts and fans. Outdoors, or with the doors wide open."),
            vec![Hazard::Running, Hazard::Fumes],
        ),
        Phase::BonnetCold => (
            Some("Hot coolant is under pressure: never open the cap before the engine is cold."),
            vec![Hazard::HotCoolant],
        ),
        _ => (None, Vec::new()),
    }
}

/// A name that begins with a capital.
pub(super) fn capital(name: &str) -> String {
    let mut chars = name.trim().chars();
    chars.next().map_or_else(String::new, |c| c.to_uppercase().chain(chars).collect())
}

/// A short name that is not taken.
pub(super) fn free(id: &str, taken: impl Fn(&str) -> bool) -> String {
    if !taken(id) {
        return id.to_owned();
    }
    (2..).map(|n| format!("{id}-{n}")).find(|id| !taken(id)).unwrap_or_default()
}
