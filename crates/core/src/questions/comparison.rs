//! Side by side: what two to four candidates truly cost under one plan.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::assessment::Assessment;
use crate::assess::judge::assess_within;
use crate::base::budget::Budget;
use crate::base::units::UsageClock;
use crate::decision::grade::Grade;
use crate::decision::resale::Resale;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Plan;
use crate::documents::candidate::Candidate;
use crate::documents::failure_point::System;
use crate::documents::family::{Family, FamilyKind};
use crate::documents::sheets::Sheets;
use crate::inference::context::AssessError;
use crate::inference::depth::Depth;
use crate::money::bill_forecast::spread;
use crate::money::bill_spread::BillSpread;
use crate::money::purchase_plan::{PlanAction, PlannedPoint, RenewWhy};

/// Fewest and most candidates that are laid side by side.
pub const COUNT: std::ops::RangeInclusive<usize> = 2..=4;

/// Whether a candidate is a whole vehicle or an engine alone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Whole {
    /// A vehicle.
    Vehicle,
    /// An engine or gearbox by itself.
    Bare,
}

/// Why two candidates are not weighed against each other.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Unlike {
    /// One is an engine alone, the other a whole vehicle: one buys the use of a vehicle, the other a part of one.
    BareAgainstWhole,
    /// They count usage on different clocks.
    Clocks,
    /// They are asked for in different currencies.
    Currencies {
        /// The first's.
        first: String,
        /// This one's.
        this: String,
    },
}

/// Candidates under one plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Comparison {
    /// Years of the plan that all are weighed under: the first's.
    pub years: f64,
    /// Usage a year, on the clock of each that shares the first's.
    pub usage_a_year: f64,
    /// The first's clock.
    pub clock: UsageClock,
    /// The first's currency.
    pub currency: String,
    /// Whether what each is still worth at the end is counted: it is where that is known of all that are weighed.
    pub less_worth: bool,
    /// One for each candidate, in the order asked for.
    pub sides: Vec<Side>,
    /// What two of them say of each other, the plainest first.
    pub turns: Vec<Turn>,
}

/// One candidate among several.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Side {
    /// Its judgement under the common plan; under its own where it is unlike the first.
    pub assessment: Assessment,
    /// Vehicle or bare engine.
    pub whole: Whole,
    /// Why it is not weighed against the first; none where it is.
    pub unlike: Option<Unlike>,
    /// Whether its own plan is another than the common one.
    pub replanned: bool,
    /// What it truly costs.
    pub cost: TrueCost,
    /// What it would need in the first year.
    pub first_year: Vec<Need>,
    /// The worst grade of each system, in a fixed order.
    pub systems: Vec<SystemGrade>,
}

/// What a candidate costs within the plan: the price and the bill, less what it is still worth where
/// [`Comparison::less_worth`] says so.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct TrueCost {
    /// Asking price.
    pub price: f64,
    /// Expected bill.
    pub bill: f64,
    /// Bill that one future in ten goes beyond.
    pub bill_p90: f64,
    /// What it is still worth later; none where nobody said and no line of comparables tells it.
    pub still_worth: Option<Resale>,
    /// Price and expected bill, less what it is still worth.
    pub total: f64,
    /// The same with the bill that one future in ten goes beyond.
    pub total_p90: f64,
    /// A year.
    pub a_year: f64,
    /// For 1 000 km, or for 100 engine hours.
    pub a_thousand: f64,
    /// The same summed up to the end of each year, as if it were sold then.
    pub by_year: Vec<f64>,
}

/// Something needed in the first year.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Need {
    /// Name.
    pub name: String,
    /// Expected money within the plan, or the cost of the work.
    pub amount: f64,
    /// Whether it is scheduled work.
    pub scheduled: bool,
    /// Chance: that it is needed at once or within the plan.
    pub chance: f64,
}

/// A system's worst grade.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SystemGrade {
    /// Which.
    pub system: System,
    /// Worst grade of its points.
    pub grade: Grade,
}

/// What one candidate says of another.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Turn {
    /// The one that is cheaper to buy has cost more by the end of a year of the plan, and to its end.
    CheapTurnsDear {
        /// The cheaper to buy.
        cheap: usize,
        /// The dearer to buy.
        dear: usize,
        /// From this year on, counted from 1.
        year: usize,
        /// By so much at the end.
        by: f64,
    },
    /// The one that is cheaper to buy stays cheaper to the end.
    CheapStays {
        /// The cheaper to buy.
        cheap: usize,
        /// The dearer to buy.
        dear: usize,
        /// By so much at the end.
        by: f64,
    },
}

fn whole(candidate: &Candidate, families: &[Family]) -> Whole {
    let of = |f: &&Family| candidate.families.iter().any(|r| r.id == f.id && r.version == f.version);
    let mut kinds = families.iter().filter(of).map(|f| f.kind);
    let part = |k: FamilyKind| matches!(k, FamilyKind::Engine | FamilyKind::Gearbox | FamilyKind::BaseEngine);
    if kinds.all(part) { Whole::Bare } else { Whole::Vehicle }
}

fn unlike(first: (&Candidate, Whole), this: (&Candidate, Whole)) -> Option<Unlike> {
    let (f, c) = (first.0, this.0);
    if first.1 != this.1 {
        Some(Unlike::BareAgainstWhole)
    } else if f.usage.unit.clock() != c.usage.unit.clock() {
        Some(Unlike::Clocks)
    } else if f.currency != c.currency {
        Some(Unlike::Currencies { first: f.currency.clone(), this: c.currency.clone() })
    } else {
        None
    }
}

/// Lays candidates side by side under the first's plan. Each comes with every sheet that it names.
///
/// # Errors
/// As [`crate::assess()`], with the place of the candidate in the list.
pub fn compare(
    list: &[(Candidate, Sheets)],
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<Comparison, (usize, AssessError)> {
    let Some((first, families)) = list.first() else { return Err((0, AssessError::Faults(Vec::new()))) };
    let first_is = whole(first, families);
    let mut sides = Vec::with_capacity(list.len());
    for (i, (candidate, families)) in list.iter().enumerate() {
        let is = whole(candidate, families);
        let unlike = unlike((first, first_is), (candidate, is));
        let plan = Plan {
            years: first.plan.years,
            usage_a_year: first.plan.usage_a_year,
            use_: first.plan.use_.clone(),
            care: first.plan.care,
        };
        let replanned = unlike.is_none() && plan != candidate.plan;
        let mut asked = candidate.clone();
        if unlike.is_none() {
            asked.plan = plan;
        }
        let assessment = assess_within(&asked, families, a, Depth::Sources, budget).map_err(|e| (i, e))?;
        let bill = spread(&asked, families, None, a, budget).map_err(|e| (i, e))?;
        sides.push(side(assessment, &bill, is, unlike, replanned));
    }
    let less_worth = sides.iter().filter(|s| s.unlike.is_none()).all(|s| s.cost.still_worth.is_some());
    if less_worth {
        sides.iter_mut().for_each(count_worth);
    }
    let turns = turns(&sides);
    Ok(Comparison {
        years: first.plan.years,
        usage_a_year: first.plan.usage_a_year.on_clock(),
        clock: first.usage.unit.clock(),
        currency: first.currency.clone(),
        less_worth,
        sides,
        turns,
    })
}

fn side(a: Assessment, bill: &BillSpread, whole: Whole, unlike: Option<Unlike>, replanned: bool) -> Side {
    let price = a.value.asking;
    let total = price + a.bill.mean;
    let mut sum = price;
    let by_year = a.bill.by_year.iter().map(|y| {
        sum += y;
        sum
    });
    let each = match a.clock {
        UsageClock::Km => 1000.0,
        UsageClock::Hours => 100.0,
    };
    let cost = TrueCost {
        price,
        bill: a.bill.mean,
        bill_p90: a.bill.p90,
        still_worth: a.still_worth.clone(),
        total,
        total_p90: price + a.bill.p90,
        a_year: total / a.plan_years,
        a_thousand: total / a.horizon * each,
        by_year: by_year.collect(),
    };
    let due = a.due.iter().filter(|d| d.now >= 1.0);
    let work = due.map(|d| Need { name: d.name.clone(), amount: d.now, scheduled: true, chance: 1.0 - d.chance_done });
    // What overdue work renews is named there.
    let own = |p: &&PlannedPoint| p.action == PlanAction::Renew && !matches!(p.why, Some(RenewWhy::Overdue { .. }));
    let to_do = bill.purchase_plan.points.iter().filter(own);
    let points = to_do.map(|p| Need { name: p.name.clone(), amount: p.leave, scheduled: false, chance: p.p_plan });
    let mut first_year: Vec<Need> = points.chain(work).collect();
    first_year.sort_by(|x, y| y.amount.total_cmp(&x.amount));
    let systems = a.systems.iter().map(|s| SystemGrade { system: s.system, grade: s.grade }).collect();
    Side { assessment: a, whole, unlike, replanned, cost, first_year, systems }
}

/// Takes what it is still worth off what it costs.
fn count_worth(side: &mut Side) {
    let Some(worth) = &side.cost.still_worth else { return };
    let share = 1.0 - worth.at_end / side.cost.total;
    side.cost.a_year *= share;
    side.cost.a_thousand *= share;
    side.cost.total -= worth.at_end;
    side.cost.total_p90 -= worth.at_end;
    side.cost.by_year.iter_mut().zip(&worth.by_year).for_each(|(sum, w)| *sum -= w);
}

/// What each pair says; those that a stop ends are not weighed.
fn turns(sides: &[Side]) -> Vec<Turn> {
    let mut out = Vec::new();
    let weighed = |s: &Side| {
        s.unlike.is_none() && s.assessment.blockers.iter().all(|g| g.kind != crate::documents::check::BlockerKind::Stop)
    };
    for (i, x) in sides.iter().enumerate().filter(|(_, s)| weighed(s)) {
        for (j, y) in sides.iter().enumerate().skip(i + 1).filter(|(_, s)| weighed(s)) {
            let (cheap, dear) = if x.cost.price <= y.cost.price { (i, j) } else { (j, i) };
            let (c, d) = (&sides[cheap].cost, &sides[dear].cost);
            let by = c.total - d.total;
            if by > 0.0 && c.price < d.price {
                let above = |k: usize| c.by_year[k] > d.by_year[k];
                let year = (0..c.by_year.len()).rev().take_while(|k| above(*k)).last().unwrap_or(c.by_year.len() - 1);
                out.push(Turn::CheapTurnsDear { cheap, dear, year: year + 1, by });
            } else if c.price < d.price {
                out.push(Turn::CheapStays { cheap, dear, by: -by });
            }
        }
    }
    out.sort_by(|x, y| weight(y).total_cmp(&weight(x)));
    out
}

fn weight(turn: &Turn) -> f64 {
    match turn {
        Turn::CheapTurnsDear { by, .. } => 1e9 + by,
        Turn::CheapStays { by, .. } => *by,
    }
}
