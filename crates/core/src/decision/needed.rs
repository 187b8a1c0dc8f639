//! What must be looked at before anything is decided: with nothing looked at, nothing is decided.
//!
//! docs/METHOD.md, section 13.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::decision::blockers::blocker_of;
use crate::decision::limit_price::LimitPrice;
use crate::decision::point_result::PointResult;
use crate::decision::value_of_information::{OpenCheck, worth};
use crate::documents::applicability::applicable;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Labour;
use crate::documents::candidate::Candidate;
use crate::documents::check::{BlockerKind, Phase};
use crate::documents::failure_point::System;
use crate::documents::family::Family;
use crate::documents::paper::{ProvenanceKind, ProvenanceState};

/// What is needed before a verdict, and is still missing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Needed {
    /// The history report is not asked, or not for these items.
    Report {
        /// Items not asked.
        items: Vec<ProvenanceKind>,
        /// What asking is worth.
        worth: f64,
        /// What it costs.
        cost: f64,
    },
    /// Nobody saw whether the numbers are those of the papers.
    Identity,
    /// It was not started cold.
    ColdStart {
        /// The most telling check of the cold start, as an index into the open checks.
        open_check: usize,
        /// What it is worth.
        worth: f64,
    },
    /// Nothing telling was looked at in a system that can end the engine or hurt someone.
    Look {
        /// Which system.
        system: System,
        /// Its gravest points, by name.
        points: Vec<String>,
        /// The most telling check, as an index into the open checks.
        open_check: usize,
        /// What it is worth.
        worth: f64,
    },
}

impl Needed {
    /// What it is worth; what cannot be told in money comes first.
    fn rank(&self) -> f64 {
        match self {
            Self::Identity => f64::INFINITY,
            Self::Report { worth, .. } | Self::ColdStart { worth, .. } | Self::Look { worth, .. } => *worth,
        }
    }
}

/// Everything needed and missing, what is worth most first.
#[must_use]
pub fn needed(
    candidate: &Candidate,
    families: &[Family],
    points: &[PointResult],
    open_checks: &[OpenCheck],
    value: &LimitPrice,
    a: &Assumptions,
) -> Vec<Needed> {
    let mut out = Vec::new();
    out.extend(report(candidate, value, a));
    if !identity_seen(candidate) {
        out.push(Needed::Identity);
    }
    // Checks are ranked: the first that fits is the most telling.
    let cold = |n: &&(usize, &OpenCheck)| n.1.phase == Phase::ColdStart;
    let heard = applicable(candidate, families, a)
        .any(|(f, c)| c.phase == Phase::ColdStart && candidate.outcome_of(f, c).is_some());
    let open: Vec<(usize, &OpenCheck)> = open_checks.iter().enumerate().collect();
    if let Some((open_check, n)) = open.iter().find(cold).filter(|_| !heard) {
        out.push(Needed::ColdStart { open_check: *open_check, worth: n.value_of_information });
    }
    let mut systems: Vec<System> = points.iter().filter(|p| grave(p)).map(|p| p.system).collect();
    systems.sort_unstable();
    systems.dedup();
    for system in systems {
        let mine: Vec<&PointResult> = points.iter().filter(|p| p.system == system && grave(p)).collect();
        if mine.iter().any(|p| !p.seen.is_empty() || p.renewals.iter().any(|r| r.proved)) {
            continue;
        }
        let speaks =
            |n: &&(usize, &OpenCheck)| mine.iter().any(|p| p.at.family == n.1.family && p.unseen.contains(&n.1.check));
        if let Some((open_check, n)) = open.iter().find(speaks) {
            let mut gravest = mine.clone();
            gravest.sort_by(|x, y| y.worst_cost.total_cmp(&x.worst_cost));
            let points = gravest.into_iter().take(3).map(|p| p.name.clone()).collect();
            out.push(Needed::Look { system, points, open_check: *open_check, worth: n.value_of_information });
        }
    }
    out.sort_by(|x, y| y.rank().total_cmp(&x.rank()));
    out
}

/// Whether a point can end the engine or hurt someone.
fn grave(p: &PointResult) -> bool {
    p.ends_engine || p.can_hurt
}

/// Whether somebody saw that the numbers on the vehicle are those of its papers.
fn identity_seen(candidate: &Candidate) -> bool {
    candidate.provenance_of(ProvenanceKind::Identity).is_some_and(|p| p.state != ProvenanceState::NotAsked)
        || !candidate.vin.is_empty()
        || candidate.serials.values().any(|s| !s.is_empty())
}

/// The history report, where something of it was not asked.
fn report(candidate: &Candidate, value: &LimitPrice, a: &Assumptions) -> Option<Needed> {
    let items: Vec<ProvenanceKind> = value.unasked.iter().map(|u| u.item).collect();
    if items.is_empty() {
        return None;
    }
    let marked: f64 = value.unasked.iter().map(|u| u.chance).sum();
    let clear = (1.0 - marked, value.with_more(-value.not_asked));
    let answers: Vec<(f64, f64)> = value
        .unasked
        .iter()
        .map(|u| {
            let stops = blocker_of(u.item, &candidate.buyer) == Some(BlockerKind::Stop);
            (u.chance, if stops { 0.0 } else { value.with_more(u.loss - value.not_asked) })
        })
        .chain([clear])
        .collect();
    let cost = a.report_hours * a.rate(Labour::Independent) + a.report_minutes / 60.0 * a.rate_person;
    Some(Needed::Report { items, worth: worth(value, &answers), cost })
}
