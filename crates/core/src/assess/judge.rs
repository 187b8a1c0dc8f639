//! The whole judgement: from a candidate and its families' sheets to an assessment.

use std::collections::BTreeMap;

use crate::assess::assessment::{Assessment, CareResult, ExposureUse, Limit, SystemResult, UsageEnd, YearMark};
use crate::base::budget::Budget;
use crate::base::memory::{KeyOf, Memory};
use crate::base::units::{Probability, Usage};
use crate::decision::advice;
use crate::decision::blockers::{self, Blocker, CampaignResult};
use crate::decision::grade::{self, Grade};
use crate::decision::knowledge;
use crate::decision::limit_price::{self, LimitPrice};
use crate::decision::needed;
use crate::decision::offer::{Offer, OfferInputs, offer};
use crate::decision::point_result::{PointInputs, PointResult, point_result};
use crate::decision::resale::resale;
use crate::decision::tuned::tuned;
use crate::decision::value_of_information::{self, ChecksInputs, OpenCheck};
use crate::decision::verdict::{self, DecisionInputs, Verdict};
use crate::decision::walk_round::{self, Walk};
use crate::documents::applicability;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::{Candidate, TrueUsage};
use crate::documents::failure_point::{Exposure, System};
use crate::documents::sheets::Given;
use crate::documents::supplied::supplies;
use crate::evidence::belief;
use crate::evidence::identity::{self, Identity};
use crate::evidence::odometer_result::Odometer;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::care_scenarios::{CareScenarios, mixed_chance};
use crate::inference::context::{AssessError, Context, with_context, with_lasting_context};
use crate::inference::depth::Depth;
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::islands;
use crate::inference::posterior::{Posterior, empty_parts};
use crate::inference::setting::{Setting, View};
use crate::inference::source_views::{SourceChance, by_source};
use crate::money::along::along;
use crate::money::expected_bill::{Bill, BillParts};
use crate::money::point_cost::reference_scenarios;
use crate::money::priced_points::PricedPoints;
use crate::money::purchase_decision::{decide_plan, decide_reference};
use crate::money::purchase_plan::DecidedPlan;
use crate::money::tail::Tail;
use crate::money::upgrades::upgrades;
use crate::reliability::care;
use crate::reliability::remaining_life::RemainingLife;
use crate::reliability::renewal::all_failures;
use crate::reliability::survival_grid::PreparedParts;

/// Name and version of this computation, as written into every result.
pub const ENGINE: &str = concat!("ticksage-core/", env!("CARGO_PKG_VERSION"));

/// The same with a mark of the very code that computes: what is kept of a computation is good for this alone.
pub const COMPUTATION: &str = concat!("ticksage-core/", env!("CARGO_PKG_VERSION"), "+", env!("TICKSAGE_CORE_SOURCES"));

/// Judges a candidate by its families' sheets under a table of assumptions.
///
/// Pure and deterministic: the same three inputs give the same result to the last digit.
///
/// # Errors
/// [`AssessError::Faults`] lists everything in the candidate that makes no sense with the sheets.
pub fn assess<'f>(
    candidate: &Candidate,
    families: impl Into<Given<'f>>,
    a: &Assumptions,
) -> Result<Assessment, AssessError> {
    assess_to(candidate, families, a, Depth::Sources)
}

/// [`assess`] to a chosen depth; figures that both hold are the same.
///
/// # Errors
/// As [`assess`].
pub fn assess_to<'f>(
    candidate: &Candidate,
    families: impl Into<Given<'f>>,
    a: &Assumptions,
    depth: Depth,
) -> Result<Assessment, AssessError> {
    // One question follows some points more than once: as the reference, as the typical example that words speak of.
    let memory = Memory::default();
    assess_within(candidate, families, a, depth, &Budget::default().remembering(&memory))
}

/// [`assess_to`] within a budget of steps, which further questions may share.
///
/// # Errors
/// As [`assess`], and [`AssessError::Overrun`] where the steps do not suffice or whoever asked has gone.
pub fn assess_within<'f>(
    candidate: &Candidate,
    families: impl Into<Given<'f>>,
    a: &Assumptions,
    depth: Depth,
    budget: &Budget<'_>,
) -> Result<Assessment, AssessError> {
    let families = families.into();
    let ask = |context: &Context<'_>| {
        let mut whole = judge(context, depth)?;
        // What the readings leave open is judged at both ends.
        let Odometer { low, high, .. } = *context.odometer;
        if depth != Depth::Lean && high > low + 1.0 {
            let unit = whole.odometer.readings.last().map_or(candidate.usage.unit, |r| r.shown.unit);
            let end = |budget: &Budget<'_>, usage: f64| {
                let at = Usage { value: usage / unit.in_clock(), unit };
                let odometer = TrueUsage { usage: at, low: None, high: None, why: String::new(), proved: false };
                let c = Candidate { odometer: Some(odometer), ..candidate.clone() };
                let end = assess_within(&c, families, a, Depth::Lean, budget)?;
                Ok::<_, AssessError>(UsageEnd { usage, bill: end.bill.mean, limit: end.value.limit })
            };
            let (low, high) = budget.both(|b| end(b, low), |b| end(b, high));
            whole.usage_range = Some([low?, high?]);
        }
        Ok(whole)
    };
    // What is only tried in passing is not asked again.
    if depth == Depth::Sources {
        with_lasting_context(candidate, families, a, budget, ask)
    } else {
        with_context(candidate, families, a, budget, ask)
    }
}

fn judge(context: &Context<'_>, depth: Depth) -> Result<Assessment, AssessError> {
    let mut parts = empty_parts(context);
    let posterior = Posterior::traced(context, &mut parts, true);
    let (priced, references) = context.setting.budget.both(
        |budget| PricedPoints::new(&context.with(&context.setting.for_piece(budget)), &posterior.after),
        |_| references(context, &posterior, &mut parts),
    );
    let (sources, (plan, ahead, bill)) = context.setting.budget.both(
        |budget| match depth {
            Depth::Lean | Depth::Pooled => Ok(context.views.iter().map(|_| Vec::new()).collect()),
            Depth::Sources => by_source(&context.with(&context.setting.for_piece(budget)), &posterior),
        },
        |budget| {
            let setting = context.setting.for_piece(budget);
            let context = &context.with(&setting);
            let plan = decide_plan(context, &posterior.after, &priced);
            let bill = bill(context, &posterior, &priced, &plan, &references);
            (plan, ahead(&posterior, &priced), bill)
        },
    );
    let sources = sources?;
    let inputs =
        PointsInputs { context, posterior: &posterior, priced: &priced, plan: &plan, ahead, references, sources };
    let points = points(&inputs, &mut parts, depth);
    let decision = Decision::new(context, &posterior, &priced, Figures { points: &points, bill: &bill, plan: &plan });
    let care = care_result(context, &posterior.after, &priced, &plan);
    Ok(assessment(context, &posterior, priced, (points, bill, plan), decision, care))
}

/// A point within the plan, all evidence weighed and the levels of care mixed.
struct Ahead {
    remaining: RemainingLife,
    /// Expected failures by plan cell, later ones included.
    failures: Vec<f64>,
}

fn ahead(posterior: &Posterior<'_>, priced: &PricedPoints) -> Vec<Ahead> {
    let points = priced.costs.iter().enumerate();
    points
        .map(|(i, cost)| {
            let remaining = posterior.after.mixed(i);
            let failures = all_failures(remaining.present, &remaining.first_in_plan(), &cost.fresh);
            Ahead { remaining, failures }
        })
        .collect()
}

/// Remaining life of the reference example by level of care, point by point.
pub(crate) fn references<'c>(
    context: &Context<'c>,
    posterior: &Posterior<'_>,
    parts: &mut [PreparedParts<'c>],
) -> Vec<[RemainingLife; 3]> {
    let reference =
        |setting: &Setting<'_>, view: &View<'_, 'c>, parts: &mut PreparedParts<'c>, own: &[RemainingLife; 3]| {
            if setting.alike(view.applicable_point, EvidenceMask::ALL, EvidenceMask::REFERENCE) {
                own.clone()
            } else {
                let grid = setting.typical_grid(view.applicable_point);
                setting.scenarios(view, parts, &grid, EvidenceMask::REFERENCE, false).0
            }
        };
    let points = context.views.iter().zip(parts).zip(&posterior.prior.by_point).collect();
    context.setting.budget.in_pieces(points, &|budget, points: Vec<_>| {
        let setting = context.setting.for_piece(budget);
        points.into_iter().map(|((view, parts), own)| reference(&setting, view, parts, own)).collect()
    })
}

/// The bill under the policy that the buyer follows, beside that of the reference example under the same.
fn bill(
    context: &Context<'_>,
    posterior: &Posterior<'_>,
    priced: &PricedPoints,
    plan: &DecidedPlan,
    references: &[[RemainingLife; 3]],
) -> Bill {
    let reference = reference_bill(context, priced, references);
    let weights = &posterior.after.weights;
    Bill::new(BillParts {
        plan,
        reference,
        scheduled: (priced.work.mean(weights), care::mix(weights, |l| priced.work.now[l])),
        along: along(context.setting, &posterior.after, priced, &plan.renewed),
    })
}

/// The bill of the reference example. Findings and the price asked have no say in it: it is remembered while they change.
fn reference_bill(context: &Context<'_>, priced: &PricedPoints, references: &[[RemainingLife; 3]]) -> (f64, Tail) {
    let (setting, example) = (context.setting, priced.reference.example);
    let make = || {
        let usual = care::weights(setting.assumptions.care_unknown);
        let scenarios = islands::worn(context, reference_scenarios(references, usual, example));
        decide_reference(context, &scenarios, &priced.of_reference(context, &scenarios, example), true)
    };
    let Some(sheets) = context.sheets else { return make() };
    let key = || {
        let mut out = KeyOf::kind("reference bill");
        out.add(&(sheets, setting.candidate.buyer.labour as u8, example as u8));
        out.figure(priced.reference.price);
        references.iter().flatten().for_each(|z| z.key(&mut out));
        out.key()
    };
    setting.budget.remembered_for_changes(key, |_| 100, make)
}

/// What the results of the points are made from.
struct PointsInputs<'a, 'c> {
    context: &'a Context<'c>,
    posterior: &'a Posterior<'c>,
    priced: &'a PricedPoints,
    plan: &'a DecidedPlan,
    ahead: Vec<Ahead>,
    references: Vec<[RemainingLife; 3]>,
    sources: Vec<Vec<SourceChance>>,
}

/// The result of every point, the costliest in expectation first.
fn points<'c>(inputs: &PointsInputs<'_, 'c>, parts: &mut [PreparedParts<'c>], depth: Depth) -> Vec<PointResult> {
    let PointsInputs { context, posterior, priced, .. } = *inputs;
    let usual = care::weights(context.setting.assumptions.care_unknown);
    let views = context.views.iter().zip(parts).enumerate().collect();
    let mut out = context.setting.budget.in_pieces(views, &|budget, views: Vec<_>| {
        let setting = context.setting.for_piece(budget);
        let result = |(i, (view, parts)): (usize, (&View<'_, 'c>, &mut PreparedParts<'c>))| {
            let Ahead { remaining, failures } = &inputs.ahead[i];
            let point = PointInputs {
                setting: &setting,
                view: *view,
                past: &posterior.prior.pasts[i],
                remaining,
                money: &priced.costs[i],
                expected: priced.expected[i].expected(inputs.plan.renewed[i]),
                papers: posterior.before.by_horizon(i),
                found: posterior.found.get(i).copied(),
                reference: mixed_chance(&inputs.references[i], &usual),
                survived_alike: mixed_chance(&posterior.prior.by_point[i], &usual),
                usual: &usual,
                failures,
                sources: &inputs.sources[i],
                value: priced.reference.price,
            };
            point_result(&point, point.why(parts, depth))
        };
        views.into_iter().map(result).collect()
    });
    out.sort_by(|x, y| y.expected_cost.total_cmp(&x.expected_cost));
    out
}

/// The figures that a decision goes by.
#[derive(Clone, Copy)]
struct Figures<'a> {
    points: &'a [PointResult],
    bill: &'a Bill,
    plan: &'a DecidedPlan,
}

/// Everything that is decided from the figures.
struct Decision {
    value: LimitPrice,
    identity: Identity,
    campaigns: Vec<CampaignResult>,
    blockers: Vec<Blocker>,
    open_checks: Vec<OpenCheck>,
    verdict: Verdict,
    offer: Offer,
    walk: Walk,
    grade: Grade,
}

impl Decision {
    fn new(context: &Context<'_>, posterior: &Posterior<'_>, priced: &PricedPoints, figures: Figures<'_>) -> Self {
        let Context { families, setting, odometer, applicable_points, .. } = *context;
        let (candidate, a) = (setting.candidate, setting.assumptions);
        let Figures { points, bill, plan } = figures;
        let value = limit_price::limit_price(candidate, families, priced.reference, odometer, bill.beyond(), a);
        let identity = identity::identity(candidate, families);
        let campaigns = blockers::campaigns(candidate, families, a);
        let blockers = blockers::blockers(candidate, families, odometer, &identity, &campaigns, points, a);
        let inputs = ChecksInputs {
            candidate,
            families,
            applicable_points,
            scenarios: &posterior.after,
            priced: &priced.expected,
            costs: &priced.costs,
            renewed: &plan.renewed,
            value: &value,
            budget: setting.budget,
        };
        let open_checks = value_of_information::checks(&inputs, a);
        let needed = needed::needed(candidate, families, points, &open_checks, &value, a);
        let due = &priced.due;
        let decided = DecisionInputs {
            points,
            due,
            bill,
            value: &value,
            blockers: &blockers,
            open_checks: &open_checks,
            needed: &needed,
            table: a,
        };
        let verdict = verdict::decide(&decided);
        let asked = OfferInputs { candidate, families, points, due, value: &value, blockers: &blockers, table: a };
        let offer = offer(&asked);
        let walk = walk_round::plan(candidate, families, &open_checks, &value, &verdict, a);
        let worst = blockers.iter().map(blockers::grade_of).max().unwrap_or(Grade::Trifle);
        let grade = grade::of_excess(bill.p90 - bill.reference_p90, priced.reference.price, a).max(worst);
        Self { value, identity, campaigns, blockers, open_checks, verdict, offer, walk, grade }
    }
}

/// Everything put together.
fn assessment(
    context: &Context<'_>,
    posterior: &Posterior<'_>,
    priced: PricedPoints,
    (points, bill, plan): (Vec<PointResult>, Bill, DecidedPlan),
    decision: Decision,
    care: CareResult,
) -> Assessment {
    let Context { families, setting, odometer, .. } = *context;
    let (candidate, a) = (setting.candidate, setting.assumptions);
    let Decision { value, identity, campaigns, blockers, open_checks, verdict, offer, walk, grade } = decision;
    let (checks_done, checks_total) = applicability::progress(candidate, families, a);
    let upgrades = upgrades(context, &posterior.after, &priced, &plan.renewed);
    let tuned = tuned(candidate, families, context.applicable_points, a);
    Assessment {
        engine: ENGINE.to_owned(),
        assumptions: a.table.clone(),
        sources: candidate.buyer.sources.clone(),
        as_of: candidate.as_of,
        built: candidate.built,
        currency: candidate.currency.clone(),
        clock: candidate.usage.unit.clock(),
        usage_now: setting.path.usage_now(),
        age_now: setting.path.age_now(),
        horizon: setting.horizon,
        plan_years: candidate.plan.years,
        usage_a_year: setting.usage_a_year,
        years: year_marks(setting),
        completeness: setting.completeness,
        completeness_seen: belief::completeness_seen(candidate, a),
        odometer: odometer.clone(),
        usage_range: None,
        identity,
        campaigns,
        care,
        exposures: exposures(candidate, context.applicable_points),
        due: priced.due,
        systems: systems(&points),
        advised: advice::advised(candidate, families, context.applicable_points, &tuned, a),
        tuned,
        rules: advice::rules(candidate, families, a),
        upgrades,
        knowledge: knowledge::knowledge(candidate, &points),
        still_worth: resale(candidate, &value, setting.usage_a_year, bill.by_year.len(), a),
        points,
        bill,
        value,
        blockers,
        verdict,
        offer,
        open_checks,
        walk,
        checks_total,
        checks_done,
        grade,
        approximate: posterior.after.approximate,
        limits: vec![Limit::LaterVisitsApart],
        supply: supplies(families, candidate, a),
    }
}

/// The uses that change some point's life, in their order.
fn exposures(candidate: &Candidate, applicable_points: &[ApplicablePoint<'_>]) -> Vec<ExposureUse> {
    let mut points: BTreeMap<Exposure, usize> = BTreeMap::new();
    for e in applicable_points.iter().flat_map(|s| s.point.exposures.keys()) {
        *points.entry(*e).or_default() += 1;
    }
    let level = |of: &BTreeMap<Exposure, Probability>, e: Exposure| of.get(&e).map_or(0.0, |l| l.get());
    points
        .into_iter()
        .map(|(exposure, points)| ExposureUse {
            exposure,
            points,
            past: level(&candidate.past_use, exposure),
            plan: level(&candidate.plan.use_, exposure),
        })
        .collect()
}

fn care_result(context: &Context<'_>, after: &CareScenarios, priced: &PricedPoints, plan: &DecidedPlan) -> CareResult {
    let points = priced.expected.iter().zip(&plan.renewed);
    let of = |l: usize| points.clone().map(|(p, r)| p.by_level(*r)[l]).sum::<f64>();
    let bill = std::array::from_fn(|l| of(l) + priced.work.total(l) - plan.saved);
    CareResult { index: context.index.clone(), before: context.prior, after: after.weights, bill }
}

fn systems(points: &[PointResult]) -> Vec<SystemResult> {
    let mut out: Vec<SystemResult> = Vec::new();
    for p in points {
        match out.iter_mut().find(|s| s.system == p.system) {
            Some(s) => {
                s.grade = s.grade.max(p.grade);
                s.expected_cost += p.expected_cost;
                s.points += 1;
            }
            None => {
                out.push(SystemResult { system: p.system, grade: p.grade, expected_cost: p.expected_cost, points: 1 })
            }
        }
    }
    out.sort_by_key(|s: &SystemResult| s.system as System);
    out
}

/// Where each calendar year begins along past and plan.
fn year_marks(setting: &Setting<'_>) -> Vec<YearMark> {
    let c = setting.candidate;
    let end = setting.path.age_now() + c.plan.years;
    let mut out = Vec::new();
    let mut year = c.built.year();
    loop {
        let Ok(day) = jiff::civil::Date::new(year, 1, 1) else { break };
        let age = crate::base::units::years_between(c.built, day);
        if age > end {
            break;
        }
        if age >= 0.0 {
            out.push(YearMark { year, usage: setting.usage_at(age) });
        }
        year += 1;
    }
    out
}
