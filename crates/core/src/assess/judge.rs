//! The whole judgement: from a candidate and its families' sheets to an assessment.

use crate::assess::assessment::Assessment;
use crate::assess::assessment::CareResult;
use crate::assess::assessment::ExposureUse;
use crate::assess::assessment::Limit;
use crate::assess::assessment::SystemResult;
use crate::assess::assessment::UsageEnd;
use crate::assess::assessment::YearMark;
use crate::base::units::Probability;
use crate::base::units::Usage;
use crate::decision::blockers;
use crate::decision::grade;
use crate::decision::knowledge;
use crate::decision::limit_price;
use crate::decision::offer::OfferCase;
use crate::decision::offer::offer;
use crate::decision::point_result::PointResult;
use crate::decision::point_result::Told;
use crate::decision::point_result::point_result;
use crate::decision::value_of_information;
use crate::decision::verdict;
use crate::decision::walk_round;
use crate::documents::applicability;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::candidate::TrueUsage;
use crate::documents::failure_point::Exposure;
use crate::documents::failure_point::System;
use crate::documents::family::Family;
use crate::evidence::belief;
use crate::evidence::care_index::CareIndex;
use crate::evidence::identity;
use crate::evidence::odometer_result::Odometer;
use crate::inference::applicable_point::Subject;
use crate::inference::care_scenarios::Worlds;
use crate::inference::care_scenarios::mixed_chance;
use crate::inference::context::AssessError;
use crate::inference::context::Scene;
use crate::inference::context::with_scene;
use crate::inference::depth::Depth;
use crate::inference::evidence_mask::Counted;
use crate::inference::setting::Setting;
use crate::inference::source_views::by_school;
use crate::inference::strip::PLAN_BINS;
use crate::money::expected_bill::Bill;
use crate::money::expected_bill::plan_years;
use crate::money::expected_bill::spread;
use crate::money::expected_bill::spread_work;
use crate::money::point_cost::PointMoney;
use crate::money::point_cost::Priced;
use crate::money::point_cost::reference_money;
use crate::money::reference_price;
use crate::money::schedule;
use crate::money::simulation::Futures;
use crate::reliability::care;
use crate::reliability::care::Weights;
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::remaining_life::Zones;
use crate::reliability::renewal::all_failures;
use crate::reliability::survival_grid::Parts;
use std::collections::BTreeMap;

/// Name and version of this computation, as written into every result.
pub const ENGINE: &str = concat!("ticksage-core/", env!("CARGO_PKG_VERSION"));

/// Judges a candidate by its families' sheets under a table of assumptions.
///
/// Pure and deterministic: the same three inputs give the same result to the last digit.
///
/// # Errors
/// [`AssessError::Faults`] lists everything in the candidate that makes no sense with the sheets.
pub fn assess(candidate: &Candidate, families: &[Family], a: &Assumptions) -> Result<Assessment, AssessError> {
    assess_to(candidate, families, a, Depth::Schools)
}

/// [`assess`] to a chosen depth; figures that both hold are the same.
///
/// # Errors
/// As [`assess`].
pub fn assess_to(
    candidate: &Candidate,
    families: &[Family],
    a: &Assumptions,
    depth: Depth,
) -> Result<Assessment, AssessError> {
    with_scene(candidate, families, a, |scene| {
        let mut whole = judge(scene, depth)?;
        // What the readings leave open is judged at both ends.
        let Odometer { low, high, .. } = *scene.odometer;
        if depth != Depth::Lean && high > low + 1.0 {
            let unit = whole.odometer.readings.last().map_or(candidate.usage.unit, |r| r.shown.unit);
            let end = |usage: f64| {
                let at = Usage { value: usage / unit.in_clock(), unit };
                let odometer = TrueUsage { usage: at, low: None, high: None, why: String::new(), proved: false };
                let c = Candidate { odometer: Some(odometer), ..candidate.clone() };
                let end = assess_to(&c, families, a, Depth::Lean)?;
                Ok::<_, AssessError>(UsageEnd { usage, bill: end.bill.mean, limit: end.value.limit })
            };
            whole.usage_range = Some([end(low)?, end(high)?]);
        }
        Ok(whole)
    })
}

#[allow(clippy::too_many_lines)]
fn judge(scene: &Scene<'_>, depth: Depth) -> Result<Assessment, AssessError> {
    let Scene { families: used, setting, subjects, views, answers, ref index, prior, odometer } = *scene;
    let (candidate, a, horizon) = (setting.candidate, setting.assumptions, setting.horizon);
    let usual = care::weights(a.care_unknown);

    let mut parts: Vec<Parts<'_>> = subjects.iter().map(|_| Parts::default()).collect();
    let mut pasts = Vec::with_capacity(subjects.len());
    let mut all = Vec::with_capacity(subjects.len());
    for (view, parts) in views.iter().zip(&mut parts) {
        let grid = FutureGrid::full(horizon, &view.subject.leads);
        let (zones, past) = setting.worlds(view, parts, &grid, Counted::ALL, true);
        pasts.push(past);
        all.push(zones);
    }
    let before = Worlds::before(&all, prior);
    let after = before.clone().found(answers, a.joint_states);

    let reference = reference_price::reference(candidate);
    let money: Vec<PointMoney> =
        views.iter().map(|v| PointMoney::new(setting, v.subject, v.curves, reference.price)).collect();
    let grid = FutureGrid::reference(horizon);
    let references: Vec<[Zones; 3]> = views
        .iter()
        .zip(&mut parts)
        .zip(&all)
        .map(|((v, p), own)| {
            if setting.alike(v.subject, Counted::ALL, Counted::REFERENCE) {
                own.clone()
            } else {
                setting.worlds(v, p, &grid, Counted::REFERENCE, false).0
            }
        })
        .collect();
    let (due, scheduled) = schedule::due(setting, used, a);
    let reference_bill: f64 =
        references.iter().zip(&money).map(|(z, m)| reference_money(z, m, &usual, reference.example)).sum::<f64>()
            + schedule::reference(setting, used, reference.example, a);

    let by_school = match depth {
        Depth::Lean | Depth::Pooled => subjects.iter().map(|_| Vec::new()).collect(),
        Depth::Schools => by_school(scene, candidate.buyer.schools.is_empty().then_some(&before))?,
    };
    let priced: Vec<Priced> = money.iter().enumerate().map(|(i, m)| Priced::new(&after, i, m)).collect();
    let mut points = Vec::with_capacity(subjects.len());
    let mut bill = Bill {
        mean: 0.0,
        now: 0.0,
        scheduled: scheduled.total(),
        overdue: scheduled.now,
        by_year: vec![0.0; plan_years(candidate)],
        spend: vec![0.0; PLAN_BINS],
        reference: reference_bill,
        excess: 0.0,
        p90: 0.0,
        cvar90: 0.0,
    };
    spread_work(&mut bill, &scheduled, horizon, candidate.plan.years);
    for (i, view) in views.iter().enumerate() {
        let (z, m) = (after.mixed(i), &money[i]);
        let failures = all_failures(z.present, &z.first_in_plan(), &m.fresh);
        spread(&mut bill, &failures, z.present * m.job.mean, m.failure, candidate.plan.years);
        let told = Told {
            setting,
            view: *view,
            past: &pasts[i],
            zones: &z,
            money: m,
            expected: priced[i].expected,
            papers: before.by_horizon(i),
            reference: mixed_chance(&references[i], &usual),
            survived_alike: mixed_chance(&all[i], &usual),
            usual: &usual,
            failures: &failures,
            schools: &by_school[i],
            value: reference.price,
        };
        points.push(point_result(&told, told.why(&mut parts[i], depth)));
    }
    bill.mean = priced.iter().map(|p| p.expected).sum::<f64>() + bill.scheduled;
    bill.excess = bill.mean - bill.reference;
    let tail = Futures::new(scene, &after, reference.price, &money, &scheduled).tail();
    (bill.p90, bill.cvar90) = (tail.p90, tail.cvar90);
    let value = limit_price::worth(candidate, reference, bill.excess, tail.cvar90 - tail.mean, a);
    let identity = identity::identity(candidate, used);
    let campaigns = blockers::campaigns(candidate, used, a);
    let gates = blockers::gates(candidate, used, odometer, &identity, &campaigns, a);
    let next = value_of_information::checks(candidate, used, subjects, &after, &priced, &value, a);
    let (checks_done, checks_total) = applicability::progress(candidate, used, a);
    points.sort_by(|x: &PointResult, y| y.expected_cost.total_cmp(&x.expected_cost));
    let verdict = verdict::decide(&verdict::Case {
        points: &points,
        due: &due,
        bill: &bill,
        value: &value,
        gates: &gates,
        next: &next,
        bridge: a.bridge,
    });
    let offer = offer(&OfferCase {
        candidate,
        families: used,
        points: &points,
        due: &due,
        bill: &bill,
        value: &value,
        gates: &gates,
        table: a,
    });
    let knowledge = knowledge::knowledge(candidate, &points);
    let walk = walk_round::plan(candidate, used, &next, &value, &verdict, a);
    let systems = systems(&points);
    let worst_gate = gates.first().map(|g| blockers::grade_of(g.kind));
    let grade =
        grade::of_excess(bill.p90 - bill.reference, reference.price).max(worst_gate.unwrap_or(grade::Grade::Trifle));
    let care = care_result(index.clone(), prior, &after, &priced, bill.scheduled);
    Ok(Assessment {
        engine: ENGINE.to_owned(),
        assumptions: a.table.clone(),
        schools: candidate.buyer.schools.clone(),
        as_of: candidate.as_of,
        built: candidate.built,
        currency: candidate.currency.clone(),
        clock: candidate.usage.unit.clock(),
        usage_now: setting.path.usage_now(),
        age_now: setting.path.age_now(),
        horizon,
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
        exposures: exposures(candidate, subjects),
        due,
        points,
        systems,
        bill,
        value,
        gates,
        verdict,
        offer,
        knowledge,
        next,
        walk,
        checks_total,
        checks_done,
        grade,
        approximate: after.approximate,
        limits: vec![Limit::AsItComes, Limit::JobsApart, Limit::WorkPreventsNothing],
    })
}

/// The uses that change some point's life, in their order.
fn exposures(candidate: &Candidate, subjects: &[Subject<'_>]) -> Vec<ExposureUse> {
    let mut points: BTreeMap<Exposure, usize> = BTreeMap::new();
    for e in subjects.iter().flat_map(|s| s.point.exposures.keys()) {
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

fn care_result(index: CareIndex, before: Weights, after: &Worlds, priced: &[Priced], scheduled: f64) -> CareResult {
    let bill = std::array::from_fn(|l| priced.iter().map(|p| p.by_level[l]).sum::<f64>() + scheduled);
    CareResult { index, before, after: after.weights, bill }
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
    let (age_now, now) = (setting.path.age_now(), setting.path.usage_now());
    let end = age_now + c.plan.years;
    let mut out = Vec::new();
    let mut year = c.built.year();
    loop {
        let Ok(day) = jiff::civil::Date::new(year, 1, 1) else { break };
        let age = crate::base::units::years_between(c.built, day);
        if age > end {
            break;
        }
        if age >= 0.0 {
            let usage =
                if age <= age_now { setting.path.usage_at(age) } else { now + (age - age_now) * setting.usage_a_year };
            out.push(YearMark { year, usage });
        }
        year += 1;
    }
    out
}
