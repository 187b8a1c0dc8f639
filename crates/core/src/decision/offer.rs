//! What to offer, and what it is argued with.
//!
//! docs/METHOD.md, section 11.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::decision::blockers::Blocker;
use crate::decision::limit_price::{Bound, LimitPrice, PriceMark};
use crate::decision::point_result::PointResult;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::check::BlockerKind;
use crate::documents::family::Family;
use crate::documents::paper::Evidence;
use crate::documents::reference::{IntervalRef, PointRef};
use crate::money::reference_price::ReferenceBasis;
use crate::money::schedule::Due;

/// An offer and what it is argued with. Amounts of the lines are estimates as one says them, to two significant
/// figures; the last takes what rounding leaves, so that they add up to the gap exactly.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Offer {
    /// Where to open; none where a stop is closed, or where it is worth nothing to this buyer.
    pub open: Option<f64>,
    /// Where to stop: the limit price, and no more than is asked.
    pub stop: f64,
    /// Asking price less what it is worth, as one says it; below 0 where it is offered for less than it is worth.
    pub gap: f64,
    /// What adds up to the gap.
    pub lines: Vec<OfferLine>,
    /// Of the lines, what can be shown: faults that are there and work that is overdue.
    pub shown: f64,
}

/// A line of the argument.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct OfferLine {
    /// What it is about.
    pub about: LineAbout,
    /// Money: above 0 speaks for a lower price.
    pub amount: f64,
    /// What supports it.
    pub evidence: Vec<LineEvidence>,
}

/// What a line is about.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum LineAbout {
    /// Asked above, or below, the going price.
    GoingPrice {
        /// The going price.
        price: f64,
        /// How it was found.
        basis: ReferenceBasis,
        /// Comparables behind it.
        count: usize,
    },
    /// A fault that is there.
    Fault {
        /// Which.
        at: PointRef,
        /// Its name.
        name: String,
        /// The job that puts it right.
        job: String,
        /// Chance that it is there.
        chance: f64,
    },
    /// Scheduled work that nothing proves done.
    Overdue {
        /// Which.
        at: IntervalRef,
        /// Its name.
        name: String,
        /// Chance that it was done all the same.
        done: f64,
    },
    /// What else it is expected to need beyond another of its age and usage; below 0 where the market prices in
    /// part of what the lines above name.
    Rest,
    /// Room for bad luck beyond what the market holds back; below 0 where this one has less of it.
    RiskMargin,
    /// What is marked on it.
    Marked {
        /// The marks.
        marks: Vec<PriceMark>,
    },
    /// What nobody asked of the history report.
    NotAsked,
    /// What the bound of the limit price takes back: above 0 where the best of its kind holds it, below 0 where its
    /// scrap does.
    Bound {
        /// Which.
        bound: Bound,
    },
}

/// What supports a line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum LineEvidence {
    /// A finding.
    Finding {
        /// Family of the check.
        family: String,
        /// The check.
        check: String,
        /// Its name.
        name: String,
        /// The outcome's label.
        outcome: String,
        /// The reading, in the check's unit, where it measures.
        reading: Option<f64>,
        /// Its unit; empty where there is none.
        unit: String,
        /// In the person's words.
        note: String,
    },
    /// A paper that says it was done, and is not enough.
    Said {
        /// What supports it.
        evidence: Evidence,
        /// Usage at which.
        usage: f64,
    },
    /// No paper says that it was ever done.
    NoPaper,
    /// It was due at a usage and on a day.
    Due {
        /// Usage.
        usage: f64,
        /// Day.
        #[schema(value_type = String, format = Date)]
        date: jiff::civil::Date,
    },
    /// By usage, age and papers alone; nobody looked.
    Unseen,
}

/// An estimate as one says it across a bonnet: two significant figures, whole units at the least.
#[must_use]
pub fn said(x: f64) -> f64 {
    if x.abs() < 0.5 {
        return 0.0;
    }
    let step = 10.0_f64.powf((x.abs().log10()).floor() - 1.0).max(1.0);
    (x / step).round() * step
}

/// What an offer is made from.
#[derive(Debug, Clone, Copy)]
pub struct OfferInputs<'a> {
    /// The candidate.
    pub candidate: &'a Candidate,
    /// Its families.
    pub families: &'a [Family],
    /// Every point.
    pub points: &'a [PointResult],
    /// Scheduled work.
    pub due: &'a [Due],
    /// The value.
    pub value: &'a LimitPrice,
    /// The blockers.
    pub blockers: &'a [Blocker],
    /// The table of assumptions.
    pub table: &'a Assumptions,
}

/// What to offer, and what it is argued with.
#[must_use]
pub fn offer(inputs: &OfferInputs<'_>) -> Offer {
    let OfferInputs { value, blockers, table, .. } = *inputs;
    let (asking, limit, r) = (value.asking, value.limit, &value.reference);
    let worth = value.limit;
    let gap = asking - said(worth);
    let mut lines = Vec::new();
    if r.basis != ReferenceBasis::Asking {
        let about = LineAbout::GoingPrice { price: r.price, basis: r.basis, count: r.count };
        lines.push(OfferLine { about, amount: asking - said(r.price), evidence: Vec::new() });
    }
    let overdue: Vec<&Due> = inputs.due.iter().filter(|d| d.overdue && d.chance_done < table.overdue_done).collect();
    let faults = fault_lines(inputs, &overdue);
    lines.extend(faults.into_iter().chain(overdue.into_iter().filter(|d| d.cost.mean >= 0.5).map(overdue_line)));
    let is_shown = |l: &&OfferLine| matches!(l.about, LineAbout::Fault { .. } | LineAbout::Overdue { .. });
    let shown: f64 = lines.iter().filter(is_shown).map(|l| l.amount).sum();
    if value.risk_margin.abs() >= 0.5 {
        lines.push(OfferLine { about: LineAbout::RiskMargin, amount: said(value.risk_margin), evidence: Vec::new() });
    }
    if value.marked_price < r.price {
        let amount = said(r.price - value.marked_price);
        lines.push(OfferLine { about: LineAbout::Marked { marks: value.marks.clone() }, amount, evidence: Vec::new() });
    }
    if value.not_asked >= 0.5 {
        let amount = said(value.not_asked);
        lines.push(OfferLine { about: LineAbout::NotAsked, amount, evidence: Vec::new() });
    }
    if let Some(bound) = value.bound {
        let amount = said(value.unbounded - value.limit);
        lines.push(OfferLine { about: LineAbout::Bound { bound }, amount, evidence: Vec::new() });
    }
    // What rounding leaves goes where the estimate is.
    let rest = gap - lines.iter().map(|l| l.amount).sum::<f64>();
    lines.push(OfferLine { about: LineAbout::Rest, amount: rest, evidence: Vec::new() });
    lines.sort_by_key(|l| match l.about {
        LineAbout::GoingPrice { .. } => 0,
        LineAbout::Marked { .. } => 1,
        LineAbout::Fault { .. } => 2,
        LineAbout::Overdue { .. } => 3,
        LineAbout::Rest => 4,
        LineAbout::RiskMargin => 5,
        LineAbout::NotAsked => 6,
        LineAbout::Bound { .. } => 7,
    });
    let stopped = blockers.iter().any(|b| b.kind == BlockerKind::Stop);
    let stop = asking.min(said(limit));
    let open = (!stopped && limit > 0.0).then(|| {
        // A bargain mostly ends half-way: as far below the limit as the asking price is above it, or, where it is
        // worth what is asked, by what can be shown.
        let below = if asking > stop { asking - stop } else { shown };
        said(stop - below.min(table.opening_margin * stop)).min(stop)
    });
    Offer { open, stop, gap, lines, shown }
}

/// A line for each fault that is there; what overdue work renews is argued there.
fn fault_lines(inputs: &OfferInputs<'_>, overdue: &[&Due]) -> Vec<OfferLine> {
    let renewed = |p: &PointResult| overdue.iter().any(|d| d.renews.contains(&p.at));
    let there = |p: &&PointResult| p.p_now >= inputs.table.there_now && p.cost.mean >= 0.5 && !renewed(p);
    let line = |p: &PointResult| {
        let (at, name, job, chance) = (p.at.clone(), p.name.clone(), p.job.clone(), p.p_now);
        let mut evidence = findings(inputs.candidate, inputs.families, p);
        if evidence.is_empty() {
            evidence.push(LineEvidence::Unseen);
        }
        OfferLine { about: LineAbout::Fault { at, name, job, chance }, amount: said(p.cost.mean), evidence }
    };
    inputs.points.iter().filter(there).map(line).collect()
}

/// A line for scheduled work that nothing proves done.
fn overdue_line(d: &Due) -> OfferLine {
    let at = IntervalRef { family: d.family.clone(), interval: d.interval.clone() };
    let mut evidence = vec![LineEvidence::Due { usage: d.usage, date: d.date }];
    evidence.extend(d.said.iter().take(1).map(|s| LineEvidence::Said { evidence: s.evidence, usage: s.usage }));
    if d.said.is_empty() {
        evidence.push(LineEvidence::NoPaper);
    }
    let about = LineAbout::Overdue { at, name: d.name.clone(), done: d.chance_done };
    OfferLine { about, amount: said(d.cost.mean), evidence }
}

/// Findings amiss that speak of a point.
fn findings(candidate: &Candidate, families: &[Family], p: &PointResult) -> Vec<LineEvidence> {
    let Some(family) = families.iter().find(|f| f.id == p.at.family) else { return Vec::new() };
    let linked = family.checks.iter().filter(|c| c.links.iter().any(|l| l.point == p.at.point));
    linked
        .filter_map(|check| {
            let outcome = candidate.outcome_of(family, check).filter(|o| *o > 0)?;
            let finding = candidate.finding_on(&family.id, &check.id)?;
            Some(LineEvidence::Finding {
                family: family.id.clone(),
                check: check.id.clone(),
                name: check.name.clone(),
                outcome: check.outcomes.get(outcome).map_or_else(String::new, |o| o.label.clone()),
                reading: finding.reading,
                unit: check.measure.as_ref().map_or_else(String::new, |m| m.unit.clone()),
                note: finding.note.clone(),
            })
        })
        .collect()
}
