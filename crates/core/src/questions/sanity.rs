//! The sanity of a sheet: what a typical example of it costs to run, against what such things usually cost.
//!
//! Talk remembers failures. A sheet whose typical van needs twice what vans need is wrong, however plausible each line
//! looks; its shares are what to look at first.

use jiff::Span;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::estimate::{Costs, PointEstimate, costs};
use crate::base::budget::Budget;
use crate::base::units::{Money, Usage, UsageClock, UsageUnit, years_between};
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::{Buyer, Plan};
use crate::documents::candidate::{Candidate, FamilyRef};
use crate::documents::care_level::CareLevel;
use crate::documents::family::{Family, FamilyKind};
use crate::inference::context::AssessError;
use crate::questions::lanes::{PointLane, lanes};

/// Points named as those that make the cost.
const NAMED: usize = 5;

/// Cells from build to now in which typical examples are followed while a sheet is written: fewer than a candidate's. A
/// bill stays within 1 % (docs/METHOD.md, section 16), and a sheet of hundreds of points answers while one types.
const CELLS: usize = 40;

/// Years over which a typical example is judged.
const YEARS: f64 = 3.0;

/// What typical examples cost at three usages.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Sanity {
    /// A young, a middling and a much used one.
    pub examples: Vec<TypicalExample>,
    /// What such things usually cost a year at that pace, units of the currency, from and to; common practice, from
    /// memory. None for a part of a vehicle.
    pub usual: Option<[f64; 2]>,
    /// Whether every example is within it.
    pub within: bool,
    /// What stands on each point's lane, in the order of the sheet.
    pub lanes: Vec<PointLane>,
    /// Three-letter code of the currency.
    pub currency: String,
}

/// A typical example.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct TypicalExample {
    /// Its usage.
    pub usage: Usage,
    /// Its age in years.
    pub age: f64,
    /// What it costs a year over three years, units of the currency.
    pub a_year: f64,
    /// Of that, scheduled work.
    pub scheduled: f64,
    /// The failure points that cost most, with what each costs a year.
    pub most: Vec<PointShare>,
}

/// A point and what it costs a year.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PointShare {
    /// The point.
    pub point: String,
    /// Its name.
    pub name: String,
    /// What it costs a year, units of the currency.
    pub a_year: f64,
}

/// Usage a year, middling usage and the usual hours of a workshop a year.
fn class(family: &Family, a: &Assumptions) -> (f64, f64, Option<[f64; 2]>) {
    // A sheet that names its patterns describes a part of the whole.
    let whole = family.built_as.as_ref().is_some_and(|b| b.patterns.is_empty());
    let band = |low, high| whole.then_some([low, high]);
    match (family.kind, family.clock) {
        (FamilyKind::Motorcycle | FamilyKind::BaseMotorcycle, _) => {
            (a.pace_motorcycle_km, a.middling_motorcycle_km, Some([a.usual_motorcycle_low, a.usual_motorcycle_high]))
        }
        (_, UsageClock::Hours) => (a.pace_hours, a.middling_hours, band(a.usual_engine_low, a.usual_engine_high)),
        (FamilyKind::BaseVehicle, _) => (a.pace_km, a.middling_km, Some([a.usual_car_low, a.usual_car_high])),
        _ => (a.pace_km, a.middling_km, band(a.usual_car_low, a.usual_car_high)),
    }
}

/// A typical example of a sheet, estimated over three years: a middling one where `part` is 1; the candidate that it is.
///
/// # Errors
/// A sheet that makes no sense, and too much work.
pub(crate) fn typical(
    family: &Family,
    (currency, today): (&str, Date),
    buyer: &Buyer,
    part: f64,
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<(Costs, Candidate), AssessError> {
    let candidate = typical_candidate(family, currency, buyer, today, part, a);
    let costs = costs(&candidate, std::slice::from_ref(family), a, &budget.fresh().in_cells(CELLS))?;
    Ok((costs, candidate))
}

/// A typical example of a sheet as a candidate of which nothing is known: a middling one where `part` is 1.
#[allow(clippy::cast_possible_truncation)]
pub(crate) fn typical_candidate(
    family: &Family,
    currency: &str,
    buyer: &Buyer,
    today: Date,
    part: f64,
    a: &Assumptions,
) -> Candidate {
    let (pace, middling, _) = class(family, a);
    let unit = if family.clock == UsageClock::Hours { UsageUnit::Hours } else { UsageUnit::Km };
    let usage = Usage { value: middling * part, unit };
    let age = (usage.value / pace).clamp(1.0, 25.0);
    let built = today.saturating_sub(Span::new().days((age * 365.25) as i64));
    let plan = Plan {
        years: YEARS,
        usage_a_year: Usage { value: pace, unit },
        use_: std::collections::BTreeMap::new(),
        care: CareLevel::default(),
    };
    let asking = Money::try_from(a.rate_independent * a.middling_price_hours).unwrap_or_default();
    let of = FamilyRef { id: family.id.clone(), version: family.version };
    Candidate { buyer: buyer.clone(), ..Candidate::unseen(of, (today, built), usage, (asking, currency), plan) }
}

/// What typical examples of a sheet cost.
///
/// # Errors
/// A sheet that makes no sense, and too much work.
pub fn sanity(
    family: &Family,
    currency: &str,
    buyer: &Buyer,
    today: Date,
    a: &Assumptions,
    budget: &Budget<'_>,
) -> Result<Sanity, AssessError> {
    let (_, _, usual) = class(family, a);
    let of = |part: f64| typical(family, (currency, today), buyer, part, a, budget);
    let (young, middling, old) = (of(a.sanity_young)?, of(1.0)?, of(a.sanity_old)?);
    let lanes = lanes(family, &middling.0, a)?;
    let examples = [young, middling, old].map(|(e, c)| example(&e, c.usage, years_between(c.built, c.as_of))).to_vec();
    let rate = a.clone().for_rates(&buyer.rates).rate_independent;
    let usual = usual.map(|band| band.map(|hours| hours * rate));
    let slack = 1.0 + a.sanity_slack;
    let within =
        usual.is_none_or(|[low, high]| examples.iter().all(|e| e.a_year >= low / slack && e.a_year <= high * slack));
    Ok(Sanity { examples, usual, within, lanes, currency: currency.to_owned() })
}

/// What an estimate of an example comes to a year.
fn example(e: &Costs, usage: Usage, age: f64) -> TypicalExample {
    let of =
        |p: &PointEstimate| PointShare { point: p.id.clone(), name: p.name.clone(), a_year: p.expected_cost / YEARS };
    let mut most: Vec<PointShare> = e.points.iter().map(of).collect();
    most.sort_by(|x, y| y.a_year.total_cmp(&x.a_year));
    most.truncate(NAMED);
    TypicalExample { usage, age, a_year: e.mean / YEARS, scheduled: e.scheduled / YEARS, most }
}
