//! The verdict, with reasons that are numbers, not words.
//!
//! docs/METHOD.md, section 13.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::decision::blockers::Blocker;
use crate::decision::limit_price::LimitPrice;
use crate::decision::needed::Needed;
use crate::decision::point_result::{PointResult, WhyKind, after};
use crate::decision::value_of_information::OpenCheck;
use crate::documents::assumptions::Assumptions;
use crate::documents::check::BlockerKind;
use crate::documents::reference::{IntervalRef, PointRef};
use crate::money::expected_bill::Bill;
use crate::money::schedule::Due;

/// What a decision is made from.
#[derive(Debug, Clone, Copy)]
pub struct DecisionInputs<'a> {
    /// Every point.
    pub points: &'a [PointResult],
    /// Scheduled work.
    pub due: &'a [Due],
    /// The bill.
    pub bill: &'a Bill,
    /// The value.
    pub value: &'a LimitPrice,
    /// The blockers.
    pub blockers: &'a [Blocker],
    /// Checks not done.
    pub open_checks: &'a [OpenCheck],
    /// What is needed before a verdict, and missing.
    pub needed: &'a [Needed],
    /// The table of assumptions.
    pub table: &'a Assumptions,
}

/// Decides. A stop, or a price out of bargaining's reach, ends it; then what must be looked at, proved, or is worth
/// looking at first; then the price.
#[must_use]
pub fn decide(inputs: &DecisionInputs<'_>) -> Verdict {
    let (v, a) = (inputs.value, inputs.table);
    let stop = inputs.blockers.iter().any(|g| g.kind == BlockerKind::Stop);
    let waits = |n: &&OpenCheck| n.value_of_information > n.cost + a.worth_waiting * v.reference.price;
    let worth_a_look = inputs.open_checks.iter().filter(waits).count();
    let incomplete = !inputs.needed.is_empty();
    // While little is known the price must be out of reach of the best of its kind.
    let most = if incomplete { v.ceiling } else { v.limit };
    let kind = if stop || v.asking - most > a.bridge * v.reference.price {
        VerdictKind::WalkAway
    } else if incomplete || !inputs.blockers.is_empty() || worth_a_look > 0 {
        VerdictKind::NotYet
    } else if v.surplus < 0.0 {
        VerdictKind::Negotiate
    } else {
        VerdictKind::Buy
    };
    let least = a.reason_money * v.reference.price;
    let mut change = Vec::new();
    change.extend(inputs.blockers.iter().enumerate().map(|(blocker, _)| Change::Prove { blocker }));
    if v.surplus < 0.0 && !stop {
        change.push(Change::PriceTo { amount: v.limit, cut: -v.surplus });
        // Proof of the one piece of work that weighs most.
        let unproved = inputs.due.iter().filter(|d| d.now >= 1.0).max_by(|x, y| x.now.total_cmp(&y.now));
        change.extend(unproved.map(|d| Change::Paper {
            at: IntervalRef { family: d.family.clone(), interval: d.interval.clone() },
            name: d.name.clone(),
            saves: d.now,
            turns: v.surplus + d.now >= 0.0,
        }));
    }
    let worth_it = inputs.open_checks.iter().enumerate().filter(|(_, n)| waits(n)).take(3);
    change.extend(worth_it.map(|(open_check, n)| {
        let other = n.outcomes.iter().filter(|o| (o.surplus >= 0.0) != (v.surplus >= 0.0));
        Change::Check { open_check, turns: other.map(|o| o.chance).sum() }
    }));
    Verdict {
        kind,
        negotiate_to: (v.surplus < 0.0 && kind == VerdictKind::Negotiate).then_some(v.limit),
        reasons_for: strongest(reasons_for(inputs), least),
        reasons_against: strongest(reasons_against(inputs, worth_a_look), least),
        would_change: change,
        needed: inputs.needed.to_vec(),
    }
}

/// The three strongest; what is worth next to nothing is no reason.
fn strongest(mut reasons: Vec<(f64, Reason)>, least: f64) -> Vec<Reason> {
    reasons.retain(|r| r.0 >= least);
    reasons.sort_by(|x, y| y.0.total_cmp(&x.0));
    reasons.into_iter().take(3).map(|r| r.1).collect()
}

fn reasons_for(inputs: &DecisionInputs<'_>) -> Vec<(f64, Reason)> {
    let v = inputs.value;
    let mut out = Vec::new();
    if v.surplus > 0.0 {
        out.push((v.surplus, Reason::PriceBelowLimit { amount: v.surplus }));
    }
    if inputs.bill.excess < 0.0 {
        out.push((-inputs.bill.excess, Reason::BillBelowReference { amount: -inputs.bill.excess }));
    }
    for p in inputs.points {
        let steps = [(WhyKind::Use, WhyKind::Papers), (WhyKind::Papers, WhyKind::Findings)];
        for (from, to) in steps {
            let (before, now) = (after(p, from), after(p, to));
            let amount = (before - now) * p.failure_cost;
            // What later evidence took back again speaks for nothing.
            if before - now < inputs.table.reason_least || p.p_plan > before - inputs.table.reason_least {
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
    out
}

fn reasons_against(inputs: &DecisionInputs<'_>, worth_a_look: usize) -> Vec<(f64, Reason)> {
    let v = inputs.value;
    let mut out = Vec::new();
    for (blocker, g) in inputs.blockers.iter().enumerate() {
        let weight = if g.kind == BlockerKind::Stop { f64::MAX } else { v.reference.price.max(1.0) * 10.0 };
        out.push((weight, Reason::Blocker { blocker }));
    }
    if v.surplus < 0.0 {
        out.push((-v.surplus, Reason::PriceAboveLimit { amount: -v.surplus }));
    }
    if inputs.bill.excess > 0.0 {
        out.push((inputs.bill.excess, Reason::BillAboveReference { amount: inputs.bill.excess }));
    }
    if v.not_asked > 0.0 {
        out.push((v.not_asked, Reason::NotAsked { amount: v.not_asked }));
    }
    if v.marked_price < v.reference.price {
        let amount = v.reference.price - v.marked_price;
        out.push((amount, Reason::Marked { amount }));
    }
    if worth_a_look > 0 {
        let amount = inputs.open_checks.iter().map(|n| n.value_of_information).fold(0.0, f64::max);
        out.push((amount, Reason::NotLookedAt { checks: worth_a_look, amount }));
    }
    for p in inputs.points {
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

/// The decision and what stands behind it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Verdict {
    /// The decision.
    pub kind: VerdictKind,
    /// The limit price when it is to be negotiated to.
    pub negotiate_to: Option<f64>,
    /// Up to three, the strongest first.
    pub reasons_for: Vec<Reason>,
    /// Up to three, the strongest first.
    pub reasons_against: Vec<Reason>,
    /// What would change it.
    pub would_change: Vec<Change>,
    /// What is needed before anything is decided, and missing; what is worth most first.
    pub needed: Vec<Needed>,
}

/// The decision.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum VerdictKind {
    /// Leave it.
    WalkAway,
    /// Something must be proved or looked at first.
    NotYet,
    /// Worth it at less than is asked.
    Negotiate,
    /// Worth what is asked.
    Buy,
}

/// A reason with its numbers; the wording is the screen's.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Reason {
    /// The limit stands above the asking price.
    PriceBelowLimit {
        /// By so much.
        amount: f64,
    },
    /// The asking price stands above the limit.
    PriceAboveLimit {
        /// By so much.
        amount: f64,
    },
    /// Less to come than on the reference example.
    BillBelowReference {
        /// By so much.
        amount: f64,
    },
    /// More to come than on the reference example.
    BillAboveReference {
        /// By so much.
        amount: f64,
    },
    /// A point likely to cost money.
    FaultLikely {
        /// Which.
        at: PointRef,
        /// Its name.
        name: String,
        /// Chance that it is there now.
        now: f64,
        /// Chance within the plan.
        chance: f64,
        /// Expected money.
        amount: f64,
    },
    /// Papers that take a point's chance down.
    Renewed {
        /// Which.
        at: PointRef,
        /// Its name.
        name: String,
        /// Chance before.
        before: f64,
        /// Chance after.
        after: f64,
        /// Money saved in expectation.
        amount: f64,
    },
    /// Findings that take a point's chance down.
    LooksSound {
        /// Which.
        at: PointRef,
        /// Its name.
        name: String,
        /// Chance before.
        before: f64,
        /// Chance after.
        after: f64,
        /// Money saved in expectation.
        amount: f64,
    },
    /// A closed blocker.
    Blocker {
        /// Index into the blockers.
        blocker: usize,
    },
    /// What nobody asked of the history report.
    NotAsked {
        /// Expected loss.
        amount: f64,
    },
    /// Marks that take something off the going price.
    Marked {
        /// By so much.
        amount: f64,
    },
    /// Checks not done that could change the mind.
    NotLookedAt {
        /// Checks worth more than their time.
        checks: usize,
        /// Worth of the best of them.
        amount: f64,
    },
}

/// Something that would change the verdict.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Change {
    /// The asking price falls to this.
    PriceTo {
        /// Limit price.
        amount: f64,
        /// The smallest cut that does it.
        cut: f64,
    },
    /// A paper that proves scheduled work done.
    Paper {
        /// Which work.
        at: IntervalRef,
        /// Its name.
        name: String,
        /// What it would take off the bill.
        saves: f64,
        /// Whether that alone brings the limit to the asking price.
        turns: bool,
    },
    /// A blocker is opened by proof.
    Prove {
        /// Index into the blockers.
        blocker: usize,
    },
    /// A check that could turn it.
    Check {
        /// Index into the open checks.
        open_check: usize,
        /// Chance that its outcome brings the limit to the other side of the asking price.
        turns: f64,
    },
}
