//! Method §13: gates and the decision, with reasons that are numbers, not words.

use crate::assessment::{
    Bill, CampaignResult, Change, Gate, GateCause, Knowledge, NextCheck, PointResult, Reason, Verdict, VerdictKind,
    WhyKind, Worth,
};
use crate::assumptions::Assumptions;
use crate::candidate::{Buyer, CampaignState, Candidate, IntervalRef, ProvenanceKind, ProvenanceState};
use crate::family::{Family, GateKind};
use crate::grade::Grade;
use crate::identity::Identity;
use crate::odometer::Odometer;
use crate::schedule::Due;
use crate::subject::fit;

/// Gates closed by the papers and by findings, the hardest first.
#[must_use]
pub fn gates(
    candidate: &Candidate,
    families: &[Family],
    odometer: &Odometer,
    identity: &Identity,
    campaigns: &[CampaignResult],
    a: &Assumptions,
) -> Vec<Gate> {
    let mut out = Vec::new();
    for note in identity.notes.iter().filter(|n| n.gates()) {
        out.push(Gate { kind: GateKind::ProveFirst, cause: GateCause::Identity { note: note.clone() } });
    }
    if let Some(x) = odometer.gate(a) {
        let cause = GateCause::Odometer { anomaly: x.kind, least: odometer.low, most: odometer.high };
        out.push(Gate { kind: GateKind::ProveFirst, cause });
    }
    for c in campaigns.iter().filter(|c| c.state != CampaignState::Proved) {
        let CampaignResult { family, campaign, name, exposes, proof, .. } = c.clone();
        let cause = GateCause::Campaign { family, campaign, name, exposes, proof };
        out.push(Gate { kind: GateKind::ProveFirst, cause });
    }
    let items = ProvenanceKind::ALL.into_iter().filter_map(|item| candidate.provenance_of(item));
    for p in items.filter(|p| p.state == ProvenanceState::Marked) {
        if let Some(kind) = gate_of(p.item, &candidate.buyer) {
            out.push(Gate { kind, cause: GateCause::Provenance { item: p.item, note: p.note.clone() } });
        }
    }
    for family in families {
        for check in &family.checks {
            let Some(outcome) = candidate.outcome_of(family, check).and_then(|o| check.outcomes.get(o)) else {
                continue;
            };
            if let Some(gate) = &outcome.gate {
                out.push(Gate {
                    kind: gate.kind,
                    cause: GateCause::Check {
                        family: family.id.clone(),
                        check: check.id.clone(),
                        name: check.name.clone(),
                        outcome: outcome.label.clone(),
                        say: gate.say.clone(),
                        danger: gate.danger,
                    },
                });
            }
        }
    }
    out.sort_by_key(|g| std::cmp::Reverse(g.kind));
    out
}

/// The gate that an item of a history report closes when it is marked.
#[must_use]
pub fn gate_of(item: ProvenanceKind, buyer: &Buyer) -> Option<GateKind> {
    use ProvenanceKind as K;
    match item {
        K::Stolen | K::Scrapped | K::Identity => Some(GateKind::Stop),
        K::WrittenOffStructural if !buyer.accepts_structural => Some(GateKind::Stop),
        K::Finance | K::ThirdParty | K::Mileage => Some(GateKind::ProveFirst),
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
        Some(CampaignResult {
            family: f.id.clone(),
            campaign: c.id.clone(),
            name: c.name.clone(),
            about: c.about.clone(),
            exposes: c.exposes.clone(),
            proof: c.proof.clone(),
            safety: c.safety,
            share,
            state: answer.map_or(CampaignState::Unknown, |x| x.state),
            note: answer.map_or_else(String::new, |x| x.note.clone()),
        })
    })
    .collect()
}

/// The grade that an open gate holds the vehicle at.
#[must_use]
pub fn grade_of(kind: GateKind) -> Grade {
    match kind {
        GateKind::Stop => Grade::Stopper,
        GateKind::ProveFirst => Grade::Worry,
    }
}

/// What a decision is made from.
#[derive(Debug, Clone, Copy)]
pub struct Case<'a> {
    /// Every point.
    pub points: &'a [PointResult],
    /// Scheduled work.
    pub due: &'a [Due],
    /// The bill.
    pub bill: &'a Bill,
    /// The value.
    pub value: &'a Worth,
    /// The gates.
    pub gates: &'a [Gate],
    /// Checks not done.
    pub next: &'a [NextCheck],
    /// Share of the reference price that no bargaining bridges.
    pub bridge: f64,
}

/// Decides. A stop, or a price out of bargaining's reach, ends it; then what must be proved, or is
/// worth looking at first; then the price.
#[must_use]
pub fn decide(case: &Case<'_>) -> Verdict {
    let v = case.value;
    let stop = case.gates.iter().any(|g| g.kind == GateKind::Stop);
    let worth_a_look = case.next.iter().filter(|n| n.worth > n.cost).count();
    let kind = if stop || v.asking - v.limit > case.bridge * v.reference.price {
        VerdictKind::WalkAway
    } else if !case.gates.is_empty() || worth_a_look > 0 {
        VerdictKind::NotYet
    } else if v.surplus < 0.0 {
        VerdictKind::Negotiate
    } else {
        VerdictKind::Buy
    };
    let mut change = Vec::new();
    change.extend(case.gates.iter().enumerate().map(|(gate, _)| Change::Prove { gate }));
    if v.surplus < 0.0 && !stop {
        change.push(Change::PriceTo { amount: v.limit, cut: -v.surplus });
        // Proof of the one piece of work that weighs most.
        let unproved = case.due.iter().filter(|d| d.now >= 1.0).max_by(|x, y| x.now.total_cmp(&y.now));
        change.extend(unproved.map(|d| Change::Paper {
            at: IntervalRef { family: d.family.clone(), interval: d.interval.clone() },
            name: d.name.clone(),
            saves: d.now,
            turns: v.surplus + d.now >= 0.0,
        }));
    }
    let worth_it = case.next.iter().enumerate().filter(|(_, n)| n.worth > n.cost).take(3);
    change.extend(worth_it.map(|(next, n)| {
        let other = n.outcomes.iter().filter(|o| (o.surplus >= 0.0) != (v.surplus >= 0.0));
        Change::Check { next, turns: other.map(|o| o.chance).sum() }
    }));
    Verdict {
        kind,
        negotiate_to: (v.surplus < 0.0 && kind == VerdictKind::Negotiate).then_some(v.limit),
        reasons_for: strongest(reasons_for(case)),
        reasons_against: strongest(reasons_against(case, worth_a_look)),
        would_change: change,
    }
}

/// Belief in a renewal at or above which its part needs no look.
const PROVED: f64 = 0.85;

/// How much of what matters has been looked at.
#[must_use]
pub fn knowledge(candidate: &Candidate, points: &[PointResult]) -> Knowledge {
    let looked = |p: &&PointResult| !p.seen.is_empty() || p.renewals.iter().any(|r| r.credibility >= PROVED);
    let money = |p: &PointResult| after(p, WhyKind::Papers) * p.cost.mean;
    let all: f64 = points.iter().map(money).sum();
    let asked =
        |item: &ProvenanceKind| candidate.provenance_of(*item).is_some_and(|p| p.state != ProvenanceState::NotAsked);
    Knowledge {
        money: if all > 0.0 { points.iter().filter(looked).map(money).sum::<f64>() / all } else { 1.0 },
        points: points.iter().filter(looked).count(),
        of_points: points.len(),
        provenance: ProvenanceKind::ALL.iter().filter(|i| asked(i)).count(),
        of_provenance: ProvenanceKind::ALL.len(),
    }
}

fn strongest(mut reasons: Vec<(f64, Reason)>) -> Vec<Reason> {
    reasons.sort_by(|x, y| y.0.total_cmp(&x.0));
    reasons.into_iter().take(3).map(|r| r.1).collect()
}

/// Chance within the plan after a kind of evidence.
fn after(p: &PointResult, kind: WhyKind) -> f64 {
    p.why.iter().find(|w| w.kind == kind).map_or(p.p_plan, |w| w.chance)
}

fn reasons_for(case: &Case<'_>) -> Vec<(f64, Reason)> {
    let v = case.value;
    let mut out = Vec::new();
    if v.surplus > 0.0 {
        out.push((v.surplus, Reason::PriceBelowLimit { amount: v.surplus }));
    }
    if case.bill.excess < 0.0 {
        out.push((-case.bill.excess, Reason::BillBelowReference { amount: -case.bill.excess }));
    }
    for p in case.points {
        let steps = [(WhyKind::Use, WhyKind::Papers), (WhyKind::Papers, WhyKind::Findings)];
        for (from, to) in steps {
            let (before, now) = (after(p, from), after(p, to));
            let amount = (before - now) * p.cost.mean.max(p.worst_cost * 0.5);
            // What later evidence took back again speaks for nothing.
            if before - now < 0.01 || p.p_plan > before - 0.01 {
                continue;
            }
            let (at, name, before, after) = (p.at.clone(), p.name.clone(), before, now);
            let reason = if to == WhyKind::Papers && !p.renewals.is_empty() {
                Reason::Renewed { at, name, before, after, amount }
            } else if to == WhyKind::Findings {
                Reason::LooksSound { at, name, before, after, amount }
            } else {
                continue;
            };
            out.push((amount, reason));
        }
    }
    let quiet = case.points.iter().filter(|p| p.p_plan < 0.05).count();
    out.push((0.0, Reason::QuietPoints { quiet, total: case.points.len() }));
    out
}

fn reasons_against(case: &Case<'_>, worth_a_look: usize) -> Vec<(f64, Reason)> {
    let v = case.value;
    let mut out = Vec::new();
    for (gate, g) in case.gates.iter().enumerate() {
        let weight = if g.kind == GateKind::Stop { f64::MAX } else { v.reference.price.max(1.0) * 10.0 };
        out.push((weight, Reason::Gate { gate }));
    }
    if v.surplus < 0.0 {
        out.push((-v.surplus, Reason::PriceAboveLimit { amount: -v.surplus }));
    }
    if case.bill.excess > 0.0 {
        out.push((case.bill.excess, Reason::BillAboveReference { amount: case.bill.excess }));
    }
    if worth_a_look > 0 {
        let amount = case.next.iter().map(|n| n.worth).fold(0.0, f64::max);
        out.push((amount, Reason::NotLookedAt { checks: worth_a_look, amount }));
    }
    for p in case.points {
        out.push((
            p.expected_cost,
            Reason::FaultLikely {
                at: p.at.clone(),
                name: p.name.clone(),
                now: p.p_now,
                chance: p.p_plan,
                amount: p.expected_cost,
            },
        ));
    }
    out
}
