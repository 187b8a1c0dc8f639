//! The plan of a walk-round: which actions to do in the time there is, in the order of work.
//!
//! Checks of several sheets that are one action (the same [`action`](crate::documents::check::Check::action) in the
//! same phase) are done once. What is chosen is the best that fits, by what it is worth to the decision
//! first and by how far it may move the bill second: an exact choice, not a greedy one, because the worth
//! of the actions is added up.
//!
//! docs/METHOD.md, section 14.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::decision::limit_price::LimitPrice;
use crate::decision::value_of_information::{OpenCheck, OutcomeChance};
use crate::decision::verdict::{Verdict, VerdictKind};
use crate::documents::applicability::{fit, walk_round};
use crate::documents::applies::Applies;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::{BlockerKind, Check, Hazard, Phase};
use crate::documents::family::Family;
use crate::documents::finding::{Finding, FindingResult};

/// Steps of the clock that a plan is filled by: half minutes.
const STEPS_A_MINUTE: f64 = 2.0;

/// A check of a family's sheet, as part of an action.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PlannedCheck {
    /// The family.
    pub family: String,
    /// The check.
    pub check: String,
    /// What each outcome would do; empty once it is done.
    pub outcomes: Vec<OutcomeEffect>,
    /// Whether it is done.
    pub done: bool,
}

/// What an outcome would do.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct OutcomeEffect {
    /// Its chance.
    pub chance: f64,
    /// Limit less asking after it.
    pub surplus: f64,
    /// By how much it would move what the vehicle is worth to the buyer.
    pub by: f64,
    /// The verdict after it, all else being as it is.
    pub verdict: VerdictKind,
}

/// One action of the walk-round: a check, or one check of several sheets.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Action {
    /// Its name in the plan: the first of its checks, as "family/check".
    pub key: String,
    /// Its checks.
    pub checks: Vec<PlannedCheck>,
    /// When.
    pub phase: Phase,
    /// Minutes.
    pub minutes: f64,
    /// What it costs: minutes at the person's hour, and fees.
    pub cost: f64,
    /// What it is worth to the decision.
    pub value_of_information: f64,
    /// How far it moves the expected bill, in expectation.
    pub moves: f64,
    /// Whether somebody charges for it.
    pub fee: bool,
    /// Whether all of it is done.
    pub done: bool,
    /// Whether somebody tried and could not.
    pub could_not: bool,
    /// Whether it is to be asked of the seller.
    pub ask_seller: bool,
    /// Whether it is in the plan.
    pub chosen: bool,
    /// Why it is not, if it is not for want of time or worth.
    pub left_out: Option<LeftOut>,
}

/// Why an action is not in the plan.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LeftOut {
    /// The person dropped it.
    Dropped,
    /// It needs a lift or proper stands.
    NoLift,
    /// It needs the engine hot from a drive that is not in the plan.
    NoDrive,
    /// The engine has been started, and it needs it cold.
    NoLongerCold,
    /// It needs it driven or run, and something dangerous was found.
    Dangerous,
    /// A workshop measures it for a fee that is more than it is worth so far.
    NotItsFee,
    /// More telling ones take the time.
    NoTime,
}

/// The plan of a walk-round.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Walk {
    /// Every action, in the order of work.
    #[serde(default)]
    pub actions: Vec<Action>,
    /// Minutes there are at the vehicle; none means all the time it takes.
    pub budget: Option<f64>,
    /// Minutes of what was done since the time began, at the vehicle.
    pub spent: f64,
    /// Minutes of what is chosen at the vehicle and not done.
    pub left: f64,
    /// Minutes of everything at the vehicle that is not done and could be.
    pub all: f64,
    /// Variant facts that are not known and decide something.
    pub identify: Vec<Identify>,
    /// Hazards whose caution was read.
    pub acknowledged: Vec<Hazard>,
    /// Whether something dangerous was found: it is not driven until that is mended.
    pub dangerous: bool,
    /// The check to do next, by its place among the open ones: the most telling of those that are in the plan. None
    /// where none of them is.
    #[serde(default)]
    pub next: Option<usize>,
}

/// A variant fact to be found out: failure points or checks hang on it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Identify {
    /// The family.
    pub family: String,
    /// The fact; [`SERIAL`](crate::documents::applicability::SERIAL) for the serial or engine number.
    pub fact: String,
    /// Failure points that hang on it, by name.
    pub points: Vec<String>,
    /// Checks that hang on it, by name.
    pub checks: Vec<String>,
}

/// Whether a phase is done before anybody travels.
#[must_use]
pub fn before_travel(phase: Phase) -> bool {
    matches!(phase, Phase::BeforeTravel | Phase::Papers)
}

/// Whether a check needs the engine as it stood overnight.
#[must_use]
pub fn needs_cold(phase: Phase) -> bool {
    matches!(phase, Phase::BonnetCold | Phase::ColdStart)
}

/// Whether a phase leaves the engine warm.
fn warms(phase: Phase) -> bool {
    matches!(phase, Phase::Drive | Phase::Hot)
}

/// What an action is worth in a plan: to the decision, then to the bill. Ordered by the first, then the
/// second; sums of such pairs keep that order.
type Value = (f64, f64);

fn value_of(a: &Action) -> Value {
    ((a.value_of_information - a.cost).max(0.0), a.moves)
}

fn better(x: Value, y: Value) -> bool {
    x.0 > y.0 + 1e-9 || ((x.0 - y.0).abs() <= 1e-9 && x.1 > y.1 + 1e-12)
}

fn add(x: Value, y: Value) -> Value {
    (x.0 + y.0, x.1 + y.1)
}

/// The best set that fits: `(minutes, value)` of each, and the minutes there are. Indices of what is in it.
#[must_use]
#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
pub fn fill(items: &[(f64, (f64, f64))], minutes: f64) -> Vec<usize> {
    let steps = (minutes.max(0.0) * STEPS_A_MINUTE + 1e-9).floor() as usize;
    let weight = |m: f64| (m * STEPS_A_MINUTE - 1e-9).ceil().max(0.0) as usize;
    let mut best: Vec<Value> = vec![(0.0, 0.0); steps + 1];
    let mut taken = vec![vec![false; steps + 1]; items.len()];
    for (i, (m, value)) in items.iter().enumerate() {
        let w = weight(*m);
        for at in (w..=steps).rev() {
            let with = add(best[at - w], *value);
            if better(with, best[at]) {
                best[at] = with;
                taken[i][at] = true;
            }
        }
    }
    let mut at = steps;
    let mut out = Vec::new();
    for i in (0..items.len()).rev() {
        if taken[i][at] {
            out.push(i);
            at -= weight(items[i].0);
        }
    }
    out.reverse();
    out
}

/// Plans the walk-round of a candidate from what its checks are worth.
#[must_use]
pub fn plan(
    candidate: &Candidate,
    families: &[Family],
    next: &[OpenCheck],
    value: &LimitPrice,
    verdict: &Verdict,
    a: &Assumptions,
) -> Walk {
    let plan = &candidate.walk;
    let mut actions = merged(candidate, families, next, value, verdict, a);
    let place = |key: &str| plan.order.iter().position(|k| k == key).unwrap_or(usize::MAX);
    actions.sort_by(|x, y| x.phase.cmp(&y.phase).then(place(&x.key).cmp(&place(&y.key))));
    let warm = actions.iter().any(|x| x.done && warms(x.phase));
    let driven = actions.iter().any(|x| x.done && x.phase == Phase::Drive);
    let dangerous = is_dangerous(candidate, families);
    for x in &mut actions {
        let added = plan.added.contains(&x.key);
        x.left_out = if x.done {
            None
        } else if plan.dropped.contains(&x.key) {
            Some(LeftOut::Dropped)
        } else if plan.no_lift && x.phase == Phase::Underneath && !added {
            Some(LeftOut::NoLift)
        } else if dangerous && warms(x.phase) {
            Some(LeftOut::Dangerous)
        } else if warm && needs_cold(x.phase) {
            Some(LeftOut::NoLongerCold)
        } else if x.phase == Phase::Measure && x.fee && x.value_of_information <= x.cost && !added {
            Some(LeftOut::NotItsFee)
        } else {
            None
        };
        x.chosen = x.done || x.left_out.is_none();
    }
    let since = |x: &&Action| x.done && !before_travel(x.phase) && !plan.before.contains(&x.key);
    let spent = actions.iter().filter(since).map(|x| x.minutes).sum();
    if let Some(minutes) = plan.minutes {
        choose(&mut actions, &plan.added, minutes - spent, driven);
    }
    let open = |x: &&Action| !x.done && !before_travel(x.phase);
    let planned = |x: &Action, n: &OpenCheck| {
        x.chosen && x.checks.iter().any(|c| !c.done && c.family == n.family && c.check == n.check)
    };
    Walk {
        next: next.iter().position(|n| actions.iter().any(|x| planned(x, n))),
        left: actions.iter().filter(open).filter(|x| x.chosen).map(|x| x.minutes).sum(),
        all: actions
            .iter()
            .filter(open)
            .filter(|x| x.chosen || x.left_out == Some(LeftOut::NoTime))
            .map(|x| x.minutes)
            .sum(),
        budget: plan.minutes,
        spent,
        identify: to_identify(candidate, families, a),
        acknowledged: acknowledged(candidate, families),
        dangerous,
        actions,
    }
}

/// Facts that are not known and decide something, those that decide most points first.
fn to_identify(candidate: &Candidate, families: &[Family], a: &Assumptions) -> Vec<Identify> {
    let mut out: Vec<Identify> = Vec::new();
    let mut note = |family: &Family, applies: &Applies, name: &str, is_point: bool| {
        for fact in fit(applies, family, candidate, a).map_or_else(Vec::new, |f| f.identify) {
            let at = out.iter().position(|x| x.family == family.id && x.fact == fact).unwrap_or_else(|| {
                let family = family.id.clone();
                out.push(Identify { family, fact, points: Vec::new(), checks: Vec::new() });
                out.len() - 1
            });
            let list = if is_point { &mut out[at].points } else { &mut out[at].checks };
            list.push(name.to_owned());
        }
    };
    for family in families {
        family.points.iter().for_each(|p| note(family, &p.applies, &p.name, true));
        family.checks.iter().for_each(|c| note(family, &c.applies, &c.name, false));
    }
    out.sort_by_key(|x| std::cmp::Reverse((x.points.len(), x.checks.len())));
    out
}

/// Whether an outcome that holds makes it dangerous to drive.
#[must_use]
pub fn is_dangerous(candidate: &Candidate, families: &[Family]) -> bool {
    families.iter().flat_map(|f| f.checks.iter().map(move |c| (f, c))).any(|(f, c)| {
        let outcome = candidate.outcome_of(f, c).and_then(|o| c.outcomes.get(o));
        outcome.and_then(|o| o.blocker.as_ref()).is_some_and(|g| g.danger)
    })
}

/// Hazards whose caution was read on one check or another.
fn acknowledged(candidate: &Candidate, families: &[Family]) -> Vec<Hazard> {
    let read = candidate.findings.iter().filter(|f| !f.undone && f.result == FindingResult::Acknowledged);
    let check = |f: &Finding| families.iter().find(|x| x.id == f.family).and_then(|x| x.check(&f.check));
    let mut out: Vec<Hazard> = read.filter_map(check).flat_map(|c| c.hazards.iter().copied()).collect();
    out.sort_unstable();
    out.dedup();
    out
}

/// Chooses what fits. What needs a drive comes with the cheapest drive there is, or not at all.
fn choose(actions: &mut [Action], added: &[String], minutes: f64, driven: bool) {
    let open: Vec<usize> = (0..actions.len())
        .filter(|&i| actions[i].chosen && !actions[i].done && !before_travel(actions[i].phase))
        .collect();
    let (forced, free): (Vec<usize>, Vec<usize>) = open.iter().partition(|&&i| added.contains(&actions[i].key));
    let is_drive = |i: &usize| actions[*i].phase == Phase::Drive;
    let minutes = minutes - forced.iter().map(|&i| actions[i].minutes).sum::<f64>();
    let chosen = if driven || forced.iter().any(is_drive) {
        best(actions, &[], &free, minutes).1
    } else {
        let cold: Vec<usize> = free.iter().copied().filter(|i| actions[*i].phase != Phase::Hot).collect();
        let without = best(actions, &[], &cold, minutes);
        let drives = free.iter().copied().filter(is_drive);
        let shortest = drives.min_by(|&x, &y| actions[x].minutes.total_cmp(&actions[y].minutes));
        match shortest.filter(|&d| actions[d].minutes <= minutes) {
            Some(d) => {
                let with = best(actions, &[d], &free, minutes);
                if better(with.0, without.0) { with.1 } else { without.1 }
            }
            None => without.1,
        }
    };
    let drives = driven || forced.iter().chain(&chosen).any(is_drive);
    for i in free.into_iter().filter(|i| !chosen.contains(i)) {
        let no_drive = actions[i].phase == Phase::Hot && !drives;
        actions[i].chosen = false;
        actions[i].left_out = Some(if no_drive { LeftOut::NoDrive } else { LeftOut::NoTime });
    }
}

/// The best set of some actions that holds others and fits into the minutes, with its value.
fn best(actions: &[Action], with: &[usize], from: &[usize], minutes: f64) -> (Value, Vec<usize>) {
    let left = minutes - with.iter().map(|&i| actions[i].minutes).sum::<f64>();
    let from: Vec<usize> = from.iter().copied().filter(|i| !with.contains(i)).collect();
    let items: Vec<(f64, Value)> = from.iter().map(|&i| (actions[i].minutes, value_of(&actions[i]))).collect();
    let mut chosen: Vec<usize> = fill(&items, left).into_iter().map(|k| from[k]).collect();
    chosen.extend(with);
    let sum = chosen.iter().map(|&i| value_of(&actions[i])).fold((0.0, 0.0), add);
    (sum, chosen)
}

/// The actions of every check that concerns the candidate, each done once.
fn merged(
    candidate: &Candidate,
    families: &[Family],
    next: &[OpenCheck],
    value: &LimitPrice,
    verdict: &Verdict,
    a: &Assumptions,
) -> Vec<Action> {
    let mut out: Vec<Action> = Vec::new();
    let mut at: BTreeMap<(String, Phase), usize> = BTreeMap::new();
    for (family, check) in walk_round(candidate, families, a) {
        let result = candidate.finding_on(&family.id, &check.id).map(|f| f.result);
        let done = candidate.outcome_of(family, check).is_some();
        let told = next.iter().find(|n| n.family == family.id && n.check == check.id);
        let one = Action {
            key: format!("{}/{}", family.id, check.id),
            checks: vec![PlannedCheck {
                family: family.id.clone(),
                check: check.id.clone(),
                outcomes: told.map_or_else(Vec::new, |n| effects(check, &n.outcomes, value, verdict, a)),
                done,
            }],
            phase: check.phase,
            minutes: check.minutes,
            cost: told.map_or(0.0, |n| n.cost),
            value_of_information: told.map_or(0.0, |n| n.value_of_information),
            moves: told.map_or(0.0, |n| n.moves),
            fee: check.fee.is_some(),
            done,
            could_not: result == Some(FindingResult::CouldNot),
            ask_seller: result == Some(FindingResult::AskSeller),
            chosen: true,
            left_out: None,
        };
        let same = check.action.clone().map(|action| (action, check.phase));
        match same.as_ref().and_then(|k| at.get(k)).map(|&i| &mut out[i]) {
            Some(first) => {
                // One look tells both: its minutes are those of the longer, its worth that of the more telling.
                first.checks.extend(one.checks);
                first.minutes = first.minutes.max(one.minutes);
                first.cost = first.cost.max(one.cost);
                first.value_of_information = first.value_of_information.max(one.value_of_information);
                first.moves += one.moves;
                first.fee |= one.fee;
                first.done &= one.done;
                first.could_not |= one.could_not;
                first.ask_seller |= one.ask_seller;
            }
            None => {
                if let Some(k) = same {
                    at.insert(k, out.len());
                }
                out.push(one);
            }
        }
    }
    out
}

/// What each outcome would do to the verdict.
fn effects(
    check: &Check,
    outcomes: &[OutcomeChance],
    value: &LimitPrice,
    verdict: &Verdict,
    a: &Assumptions,
) -> Vec<OutcomeEffect> {
    // What stands in the way now stands in it afterwards, too; a price may come within reach, or leave it.
    let stopped = verdict.kind == VerdictKind::WalkAway && value.surplus >= -a.bridge * value.reference.price;
    outcomes
        .iter()
        .zip(&check.outcomes)
        .map(|(o, label)| {
            let blocker = label.blocker.as_ref().map(|g| g.kind);
            let verdict =
                if stopped || blocker == Some(BlockerKind::Stop) || -o.surplus > a.bridge * value.reference.price {
                    VerdictKind::WalkAway
                } else if blocker.is_some() || verdict.kind == VerdictKind::NotYet {
                    VerdictKind::NotYet
                } else if o.surplus < 0.0 {
                    VerdictKind::Negotiate
                } else {
                    VerdictKind::Buy
                };
            OutcomeEffect { chance: o.chance, surplus: o.surplus, by: o.surplus - value.surplus, verdict }
        })
        .collect()
}
