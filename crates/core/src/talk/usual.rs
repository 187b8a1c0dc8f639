//! What is usual where a line does not say it.

use std::collections::BTreeMap;

use crate::base::units::Probability;
use crate::documents::applies::Applies;
use crate::documents::assumptions::Assumptions;
use crate::documents::check::{Hazard, Phase};
use crate::documents::claim::Mechanism;
use crate::documents::failure_point::{Escalation, FailurePoint, System};
use crate::documents::family::Family;
use crate::documents::job::Job;
use crate::documents::words::LivedWith;
use crate::talk::said::{Said, price_of};

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
        used_lasts: None,
        job: String::new(),
        price: None,
        routes: Vec::new(),
        escalation: None,
        takes_along: Vec::new(),
        wears: Vec::new(),
        places: Vec::new(),
        stages: Vec::new(),
        already_done: None,
        paid_for: None,
        warning: None,
        notice: None,
        disputed: Vec::new(),
        prevention: String::new(),
    }
}

/// What an unannounced failure that ends the engine turns into: the job that the sheet has for it, or a usual one; none
/// where nobody says that it does.
pub(super) fn another_engine(family: &mut Family, said: &Said, a: &Assumptions) -> Option<Escalation> {
    let chance = match (said.ends_engine, said.may_end_engine) {
        (true, _) => a.said_ends_engine,
        (_, true) => a.said_may_end_engine,
        _ => return None,
    };
    let chance = Probability::try_from(chance).ok()?;
    let known = family.jobs.iter().find(|j| j.id.contains("engine-exchange") || j.id.ends_with("used-engine"));
    let job = if let Some(j) = known {
        j.id.clone()
    } else {
        let id = "another-engine".to_owned();
        if family.job(&id).is_none() {
            let price = price_of(a.rate_independent * a.unsaid_engine_hours, None);
            family.jobs.push(Job {
                id: id.clone(),
                name: "Another engine, fitted".to_owned(),
                price,
                ..Job::default()
            });
        }
        id
    };
    Some(Escalation { job, chance })
}

/// A point of which it is said that it ends the engine.
pub(super) fn ends_engine(p: &mut FailurePoint, engine: Option<Escalation>, a: &Assumptions) {
    p.ends_engine = true;
    // What a pattern knows of the job stays; the chance is the one that was said.
    p.escalation = match (p.escalation.take(), engine) {
        (Some(before), Some(said)) => Some(Escalation { chance: said.chance, ..before }),
        (before, said) => before.or(said),
    };
    if p.survivable == Probability::ONE {
        p.survivable = Probability::try_from(a.survives_half).unwrap_or(Probability::ONE);
    }
}

/// The system that a new point is put among, by where its signs are looked for, where its name says nothing.
pub(super) fn system_seen(said: &Said) -> System {
    match said.signs.first().map(|s| s.phase) {
        Some(Phase::Interior) => System::Interior,
        Some(Phase::WalkRound) => System::Body,
        Some(Phase::Underneath) => System::Chassis,
        Some(Phase::Scan) => System::Electrics,
        _ => System::Engine,
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
