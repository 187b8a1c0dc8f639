//! Blockers: what must be proved, mended or settled before money moves, and what ends the purchase.
//!
//! docs/METHOD.md, section 13.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::decision::grade::Grade;
use crate::decision::point_result::PointResult;
use crate::documents::applicability::fit;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Buyer;
use crate::documents::candidate::Candidate;
use crate::documents::check::BlockerKind;
use crate::documents::family::{Campaign, Family};
use crate::documents::paper::{CampaignState, LedgerEntry, ProvenanceKind, ProvenanceState};
use crate::documents::reference::PointRef;
use crate::evidence::identity::{Identity, IdentityNote};
use crate::evidence::odometer_result::{AnomalyKind, Odometer};

/// Blockers closed by the papers and by findings, the hardest first.
#[must_use]
pub fn blockers(
    candidate: &Candidate,
    families: &[Family],
    odometer: &Odometer,
    identity: &Identity,
    campaigns: &[CampaignResult],
    points: &[PointResult],
    a: &Assumptions,
) -> Vec<Blocker> {
    let mut out = Vec::new();
    for note in identity.notes.iter().filter(|n| n.blockers()) {
        out.push(Blocker { kind: BlockerKind::ProveFirst, cause: BlockerCause::Identity { note: note.clone() } });
    }
    if let Some(x) = odometer.blocker(a) {
        let cause = BlockerCause::Odometer { anomaly: x.kind, least: odometer.low, most: odometer.high };
        out.push(Blocker { kind: BlockerKind::ProveFirst, cause });
    }
    for c in campaigns.iter().filter(|c| c.state != CampaignState::Proved) {
        let CampaignResult { family, campaign, name, exposes, proof, .. } = c.clone();
        let cause = BlockerCause::Campaign { family, campaign, name, exposes, proof };
        out.push(Blocker { kind: BlockerKind::ProveFirst, cause });
    }
    let items = ProvenanceKind::ALL.into_iter().filter_map(|item| candidate.provenance_of(item));
    for p in items.filter(|p| p.state == ProvenanceState::Marked) {
        if let Some(kind) = blocker_of(p.item, &candidate.buyer) {
            out.push(Blocker { kind, cause: BlockerCause::Provenance { item: p.item, note: p.note.clone() } });
        }
    }
    for family in families {
        for check in &family.checks {
            let Some(outcome) = candidate.outcome_of(family, check).and_then(|o| check.outcomes.get(o)) else {
                continue;
            };
            if let Some(blocker) = &outcome.blocker {
                out.push(Blocker {
                    kind: blocker.kind,
                    cause: BlockerCause::Check {
                        family: family.id.clone(),
                        check: check.id.clone(),
                        name: check.name.clone(),
                        outcome: outcome.label.clone(),
                        say: blocker.say.clone(),
                        danger: blocker.danger,
                    },
                });
            }
        }
    }
    for p in points.iter().filter(|p| p.hurts.is_some_and(|h| h >= a.hurts_surely)) {
        let cause = BlockerCause::Danger { at: p.at.clone(), name: p.name.clone(), chance: p.hurts.unwrap_or(1.0) };
        out.push(Blocker { kind: BlockerKind::ProveFirst, cause });
    }
    out.sort_by_key(|g| std::cmp::Reverse(g.kind));
    out
}

/// The blocker that an item of a history report closes when it is marked.
#[must_use]
pub fn blocker_of(item: ProvenanceKind, buyer: &Buyer) -> Option<BlockerKind> {
    use ProvenanceKind as K;
    match item {
        K::Stolen | K::Scrapped | K::Identity => Some(BlockerKind::Stop),
        K::WrittenOffStructural if !buyer.accepts_structural => Some(BlockerKind::Stop),
        K::Finance | K::ThirdParty | K::Mileage => Some(BlockerKind::ProveFirst),
        K::WrittenOffStructural | K::WrittenOff | K::Imported | K::Plate | K::Colour => None,
    }
}

/// Recalls and campaigns that concern the candidate, and what is known of each.
#[must_use]
pub fn campaigns(candidate: &Candidate, families: &[Family], a: &Assumptions) -> Vec<CampaignResult> {
    let all = families.iter().flat_map(|f| f.campaigns.iter().map(move |c| (f, c)));
    all.filter_map(|(f, c)| {
        let share = fit(&c.applies, f, candidate, a)?.share;
        let answer = candidate.campaign_answer(&f.id, &c.id);
        let state = match answer.map_or(CampaignState::Unknown, |x| x.state) {
            CampaignState::Unknown if renewed_since(candidate, f, c, a) => CampaignState::Proved,
            state => state,
        };
        Some(CampaignResult {
            family: f.id.clone(),
            campaign: c.id.clone(),
            name: c.name.clone(),
            about: c.about.clone(),
            exposes: c.exposes.clone(),
            proof: c.proof.clone(),
            safety: c.safety,
            share,
            state,
            note: answer.map_or_else(String::new, |x| x.note.clone()),
        })
    })
    .collect()
}

/// Whether a credible paper shows everything that a campaign revises renewed.
fn renewed_since(candidate: &Candidate, family: &Family, campaign: &Campaign, a: &Assumptions) -> bool {
    let believed = |e: &&LedgerEntry| a.credibility(e.evidence) >= a.proved && !e.first_design;
    let renewed = |point: &String| {
        let mut entries = candidate.ledger.iter().filter(believed);
        entries.any(|e| e.renews.iter().any(|r| r.family == family.id && &r.point == point))
    };
    !campaign.revises.is_empty() && campaign.revises.iter().all(renewed)
}

/// The grade that an open blocker holds the vehicle at.
#[must_use]
pub fn grade_of(blocker: &Blocker) -> Grade {
    match (blocker.kind, &blocker.cause) {
        (BlockerKind::Stop, _) | (_, BlockerCause::Danger { .. } | BlockerCause::Check { danger: true, .. }) => {
            Grade::Stopper
        }
        (BlockerKind::ProveFirst, _) => Grade::Worry,
    }
}

/// A recall or campaign that concerns the candidate.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CampaignResult {
    /// Family.
    pub family: String,
    /// Campaign.
    pub campaign: String,
    /// Its name.
    pub name: String,
    /// What it was for.
    pub about: String,
    /// What remains exposed where it was not done.
    pub exposes: String,
    /// How it is proved.
    pub proof: String,
    /// Whether it concerns safety.
    pub safety: bool,
    /// Chance that it concerns this one, unknown facts counted.
    pub share: f64,
    /// What is known.
    pub state: CampaignState,
    /// Who said so.
    pub note: String,
}

/// Something that stands between the buyer and the purchase.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Blocker {
    /// How hard it closes.
    pub kind: BlockerKind,
    /// What closes it.
    pub cause: BlockerCause,
}

/// What closes a blocker.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum BlockerCause {
    /// The readings leave the usage open, or are explained by what has yet to be proved.
    Odometer {
        /// What is wrong with them.
        anomaly: AnomalyKind,
        /// Least true usage today.
        least: f64,
        /// Most.
        most: f64,
    },
    /// The identity does not agree.
    Identity {
        /// What does not.
        note: IdentityNote,
    },
    /// A recall or campaign not proved done.
    Campaign {
        /// Family.
        family: String,
        /// Campaign.
        campaign: String,
        /// Its name.
        name: String,
        /// What remains exposed.
        exposes: String,
        /// How it is proved.
        proof: String,
    },
    /// A mark in a history report.
    Provenance {
        /// Which.
        item: ProvenanceKind,
        /// Who said so.
        note: String,
    },
    /// Something that can hurt someone is more likely there, or to come unannounced, than not.
    Danger {
        /// Which.
        at: PointRef,
        /// Its name.
        name: String,
        /// Chance.
        chance: f64,
    },
    /// An outcome of a check.
    Check {
        /// Family.
        family: String,
        /// Check.
        check: String,
        /// Its name.
        name: String,
        /// The outcome's label.
        outcome: String,
        /// What it means and what to do.
        say: String,
        /// Whether it is dangerous to drive or run until it is mended.
        danger: bool,
    },
}
