//! The whole judgement: from a candidate and its families' sheets to an [`Assessment`].

use crate::assessment::{
    Assessment, BEYOND_BINS, Bill, Limit, NeedsAt, PAST_BINS, PLAN_BINS, PointResult, RenewalMark, SchoolChance,
    SystemResult, Trouble, WhyKind, WhyStep, Worth, YearMark,
};
use crate::assumptions::Assumptions;
use crate::candidate::{Candidate, Example, PointRef};
use crate::claims::{CurveError, PointLives};
use crate::family::{Check, Family, System};
use crate::findings::{Answer, weigh};
use crate::future::{FutureGrid, PLAN_CELLS, Zones, all_failures, fresh_failures};
use crate::grade;
use crate::jobs::{self, JobCost};
use crate::lattice::Parts;
use crate::next;
use crate::sense::{self, Fault};
use crate::standing::PAST_CELLS;
use crate::subject::{self, Counted, Setting, Subject};
use crate::value;
use crate::verdict;

/// Name and version of this computation, as written into every result.
pub const ENGINE: &str = concat!("ticksage-core/", env!("CARGO_PKG_VERSION"));

/// Why a candidate could not be assessed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum AssessError {
    /// The candidate does not make sense with these families; every fault with its path.
    #[error("{} fault(s) in the candidate", .0.len())]
    Faults(Vec<Fault>),
    /// A claim that makes no curve: the sheet was not checked before.
    #[error("a claim makes no curve: {0}")]
    Curve(#[from] CurveError),
}

/// What a point costs, by how it comes.
#[derive(Debug, Clone)]
pub(crate) struct PointMoney {
    /// The job alone.
    pub job: JobCost,
    /// A failure within the plan, warning and escalation counted.
    pub failure: f64,
    /// The worst branch.
    pub worst: f64,
    /// Failures of the part fitted, by plan cell.
    fresh: Vec<f64>,
    /// Failures of the part fitted, summed up to each plan cell edge.
    fresh_sum: Vec<f64>,
}

impl PointMoney {
    fn new(setting: &Setting<'_>, subject: &Subject<'_>, lives: &PointLives, value: f64) -> Self {
        let (a, c) = (setting.assumptions, setting.candidate);
        let (point, family) = (subject.point, subject.family);
        let job_cost = |id: &str| family.job(id).map(|j| jobs::cost(family, j, c.buyer.parts, c.buyer.labour, a));
        let job = job_cost(&point.job).unwrap_or(JobCost {
            low: 0.0,
            likely: 0.0,
            high: 0.0,
            mean: 0.0,
            parts: 0.0,
            labour: 0.0,
            access: 0.0,
        });
        let larger = point.escalation.as_ref().and_then(|e| job_cost(&e.job).map(|j| (e.chance.get(), j.mean)));
        let caught = point.warning.as_ref().map_or(0.0, jobs::caught);
        let failure = jobs::failure_cost(job.mean, caught, larger, value, a.recovery);
        let worst = larger.map_or(job.mean, |(_, cost)| cost.min(value).max(job.mean));
        // A part bought new today is the revised one where there is one.
        let (_, plan) = setting.kappas(point, Counted::ALL);
        let kappa = plan * a.grade(c.buyer.parts);
        let fresh = fresh_failures(setting.horizon, &lives.revised, kappa, setting.usage_a_year);
        let mut fresh_sum = vec![0.0];
        for f in &fresh {
            fresh_sum.push(fresh_sum[fresh_sum.len() - 1] + f);
        }
        Self { job, failure, worst, fresh, fresh_sum }
    }

    /// Expected failures of a part fitted when `left` of the horizon remains (as a share of it).
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    fn later(&self, left: f64) -> f64 {
        let at = (left * PLAN_CELLS as f64).clamp(0.0, PLAN_CELLS as f64);
        let i = (at as usize).min(PLAN_CELLS - 1);
        self.fresh_sum[i] + (self.fresh_sum[i + 1] - self.fresh_sum[i]) * (at - i as f64)
    }

    /// What a first failure in each cell of the grid costs within the plan, the fresh part's own
    /// failures included; 0 beyond the plan.
    fn by_cell(&self, grid: &FutureGrid) -> Vec<f64> {
        (0..grid.cells())
            .map(|i| {
                if grid.in_plan(i) {
                    self.failure * (1.0 + self.later(1.0 - grid.middle(i) / grid.horizon()))
                } else {
                    0.0
                }
            })
            .collect()
    }

    /// What a fault that is there now costs within the plan.
    pub(crate) fn at_once(&self) -> f64 {
        self.job.mean + self.later(1.0) * self.failure
    }

    /// Expected money within the plan of a point in these zones.
    fn expected(&self, zones: &Zones) -> f64 {
        zones.expect(self.at_once(), &self.by_cell(&zones.grid))
    }
}

/// A point's zones and what each state costs within the plan.
#[derive(Debug, Clone)]
pub(crate) struct Priced<'a> {
    /// The zones, findings weighed.
    pub zones: &'a Zones,
    /// What a fault that is there now costs.
    pub present: f64,
    /// What a first failure in each cell costs.
    pub cells: Vec<f64>,
    /// Expected money.
    pub expected: f64,
}

impl<'a> Priced<'a> {
    fn new(zones: &'a Zones, money: &PointMoney) -> Self {
        let cells = money.by_cell(&zones.grid);
        let present = money.at_once();
        let expected = zones.expect(present, &cells);
        Self { zones, present, cells, expected }
    }
}

/// The outcomes that hold, as answers.
fn answers<'a>(candidate: &'a Candidate, families: &'a [Family], subjects: &[Subject<'_>]) -> Vec<Answer<'a>> {
    families
        .iter()
        .flat_map(|family| family.checks.iter().map(move |check| (family, check)))
        .filter_map(|(family, check)| {
            Some(Answer {
                check,
                outcome: candidate.outcome_of(family, check)?,
                links: links(check, family, subjects),
                key: format!("{}/{}", family.id, check.id),
            })
        })
        .collect()
}

/// The check's links to points that concern the candidate: `(subject, link)`.
pub(crate) fn links(check: &Check, family: &Family, subjects: &[Subject<'_>]) -> Vec<(usize, usize)> {
    check
        .links
        .iter()
        .enumerate()
        .filter_map(|(l, link)| {
            let s = subjects.iter().position(|s| s.family.id == family.id && s.point.id == link.point)?;
            Some((s, l))
        })
        .collect()
}

/// Judges a candidate by its families' sheets under a table of assumptions.
///
/// Pure and deterministic: the same three inputs give the same result to the last digit.
///
/// # Errors
/// [`AssessError::Faults`] lists everything in the candidate that makes no sense with the sheets.
#[allow(clippy::too_many_lines)]
pub fn assess(candidate: &Candidate, families: &[Family], a: &Assumptions) -> Result<Assessment, AssessError> {
    let faults = sense::candidate(candidate, families);
    if !faults.is_empty() {
        return Err(AssessError::Faults(faults));
    }
    let used: Vec<Family> = candidate
        .families
        .iter()
        .filter_map(|r| families.iter().find(|f| f.id == r.id && f.version == r.version).cloned())
        .collect();
    let setting = Setting::new(candidate, a);
    let subjects = subject::subjects(candidate, &used, a);
    let answers = answers(candidate, &used, &subjects);
    let school = candidate.buyer.school.as_deref();
    let lives = subject::lives(&subjects, school, a)?;
    let horizon = setting.horizon;

    let mut parts: Vec<Parts<'_>> = subjects.iter().map(|_| Parts::default()).collect();
    let (pasts, before): (Vec<Vec<f64>>, Vec<Zones>) = subjects
        .iter()
        .zip(&lives)
        .zip(&mut parts)
        .map(|((s, l), p)| setting.zones(s, l, p, FutureGrid::full(horizon, &s.leads), Counted::ALL))
        .unzip();
    let mut zones = before.clone();
    let approximate = weigh(&mut zones, &answers, a.joint_states);

    let reference = value::reference(candidate);
    let money: Vec<PointMoney> =
        subjects.iter().zip(&lives).map(|(s, l)| PointMoney::new(&setting, s, l, reference.price)).collect();
    let references: Vec<Zones> = subjects
        .iter()
        .zip(&lives)
        .zip(&mut parts)
        .map(|((s, l), p)| setting.zones(s, l, p, FutureGrid::full(horizon, &[]), Counted::REFERENCE).1)
        .collect();
    let reference_bill = references
        .iter()
        .zip(&money)
        .map(|(z, m)| {
            let mut z = z.clone();
            if reference.example == Example::WellSorted && z.present < 1.0 {
                z.weigh(0.0, 1.0, |_| 1.0);
            }
            m.expected(&z)
        })
        .sum();

    let by_school = by_school(&setting, &subjects, &used, &answers, school.is_none().then_some(&before))?;
    let priced: Vec<Priced<'_>> = zones.iter().zip(&money).map(|(z, m)| Priced::new(z, m)).collect();
    let mut points = Vec::with_capacity(subjects.len());
    let mut bill = Bill {
        mean: 0.0,
        now: 0.0,
        by_year: vec![0.0; plan_years(candidate)],
        spend: vec![0.0; PLAN_BINS],
        reference: reference_bill,
        excess: 0.0,
    };
    for (i, s) in subjects.iter().enumerate() {
        let (z, m) = (&zones[i], &money[i]);
        let all = all_failures(z.present, &z.first_in_plan(), &m.fresh);
        spread(&mut bill, &all, z.present * m.job.mean, m.failure, candidate.plan.years);
        let told = Told {
            setting: &setting,
            subject: s,
            lives: &lives[i],
            past: &pasts[i],
            priced: &priced[i],
            money: m,
            before_findings: &before[i],
            reference: &references[i],
            failures: &all,
            schools: &by_school[i],
            value: reference.price,
        };
        points.push(point_result(&told, told.why(&lives[i], &mut parts[i])));
    }
    bill.mean = priced.iter().map(|p| p.expected).sum();
    bill.excess = bill.mean - bill.reference;
    let limit = (reference.price - bill.excess).max(0.0);
    let value = Worth { asking: candidate.asking.get(), reference, limit, surplus: limit - candidate.asking.get() };
    let gates = verdict::gates(candidate, &used);
    let next = next::checks(candidate, &used, &subjects, &priced, &value, a);
    let (checks_done, checks_total) = next::progress(candidate, &used, a);
    points.sort_by(|x: &PointResult, y| y.expected_cost.total_cmp(&x.expected_cost));
    let verdict = verdict::decide(&verdict::Case {
        points: &points,
        bill: &bill,
        value: &value,
        gates: &gates,
        next: &next,
        bridge: a.bridge,
    });
    let systems = systems(&points);
    let worst_gate = gates.first().map(|g| verdict::grade_of(g.kind));
    let grade = grade::of_excess(bill.excess, reference.price).max(worst_gate.unwrap_or(grade::Grade::Trifle));
    Ok(Assessment {
        engine: ENGINE.to_owned(),
        assumptions: a.table.clone(),
        school: candidate.buyer.school.clone(),
        as_of: candidate.as_of,
        built: candidate.built,
        currency: candidate.currency.clone(),
        clock: candidate.usage.unit.clock(),
        usage_now: setting.path.usage_now(),
        age_now: setting.path.age_now(),
        horizon,
        plan_years: candidate.plan.years,
        usage_a_year: setting.usage_a_year,
        years: year_marks(&setting),
        completeness: setting.completeness,
        points,
        systems,
        bill,
        value,
        gates,
        verdict,
        next,
        checks_total,
        checks_done,
        grade,
        approximate,
        limits: vec![Limit::OrdinaryCare, Limit::NoRoomForBadLuck, Limit::JobsApart, Limit::NoScheduledWork],
    })
}

#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
fn plan_years(candidate: &Candidate) -> usize {
    (candidate.plan.years.ceil() as usize).max(1)
}

/// Puts a point's expected money where it falls along the plan.
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
fn spread(bill: &mut Bill, all: &[f64], now: f64, failure: f64, years: f64) {
    bill.now += now;
    bill.by_year[0] += now;
    for (j, f) in all.iter().enumerate() {
        let year = ((j as f64 + 0.5) / all.len() as f64 * years) as usize;
        let last = bill.by_year.len() - 1;
        bill.by_year[year.min(last)] += f * failure;
        bill.spend[j * PLAN_BINS / all.len()] += f * failure;
    }
}

/// Whether a school makes a claim on this point.
fn speaks(s: &Subject<'_>, school: &str) -> bool {
    s.point.life.iter().any(|c| c.school == school) || s.point.share.iter().any(|c| c.school == school)
}

/// Whether hearing the school alone changes the point's curves: not where it says nothing, or where
/// nobody else does.
fn differs(s: &Subject<'_>, school: &str) -> bool {
    let revision = s.point.revision.iter();
    let lives = s.point.life.iter().chain(revision.clone().flat_map(|r| &r.life)).map(|c| &c.school);
    let shares = s.point.share.iter().chain(revision.flat_map(|r| &r.share)).map(|c| &c.school);
    let (mut own, mut others) = (false, false);
    for claimed in lives.chain(shares) {
        if claimed == school { own = true } else { others = true }
    }
    own && others
}

/// Each subject's chance within the plan under each school that speaks of it. `pooled` are the zones
/// before findings when all are heard, for the points that the school does not change.
fn by_school(
    setting: &Setting<'_>,
    subjects: &[Subject<'_>],
    families: &[Family],
    answers: &[Answer<'_>],
    pooled: Option<&[Zones]>,
) -> Result<Vec<Vec<SchoolChance>>, CurveError> {
    let mut out: Vec<Vec<SchoolChance>> = subjects.iter().map(|_| Vec::new()).collect();
    let mut done: Vec<&str> = Vec::new();
    for school in families.iter().flat_map(|f| &f.schools) {
        if done.contains(&school.id.as_str()) {
            continue;
        }
        done.push(&school.id);
        let mut zones = Vec::with_capacity(subjects.len());
        for (i, s) in subjects.iter().enumerate() {
            let grid = FutureGrid::coarse(setting.horizon, &s.leads);
            zones.push(match pooled {
                Some(pooled) if !differs(s, &school.id) => pooled[i].on(grid),
                _ => {
                    let lives = PointLives::pool(s.point, Some(&school.id), setting.assumptions)?;
                    setting.zones(s, &lives, &mut Parts::default(), grid, Counted::ALL).1
                }
            });
        }
        weigh(&mut zones, answers, setting.assumptions.joint_states);
        for (i, _) in subjects.iter().enumerate().filter(|(_, s)| speaks(s, &school.id)) {
            let chance = zones[i].by_horizon();
            out[i].push(SchoolChance { school: school.id.clone(), name: school.name.clone(), chance });
        }
    }
    Ok(out)
}

/// What is told of one point.
struct Told<'a> {
    setting: &'a Setting<'a>,
    subject: &'a Subject<'a>,
    lives: &'a PointLives,
    past: &'a [f64],
    priced: &'a Priced<'a>,
    money: &'a PointMoney,
    before_findings: &'a Zones,
    reference: &'a Zones,
    failures: &'a [f64],
    schools: &'a [SchoolChance],
    value: f64,
}

impl Told<'_> {
    /// The waterfall. A step that comes to the same as one already computed is not computed again.
    fn why<'l>(&self, lives: &'l PointLives, parts: &mut Parts<'l>) -> Vec<WhyStep> {
        let (setting, s) = (self.setting, self.subject);
        let papers = self.before_findings.by_horizon();
        let mut chance = |counted: Counted| {
            if setting.alike(s, counted, Counted::ALL) {
                papers
            } else if setting.alike(s, counted, Counted::REFERENCE) {
                self.reference.by_horizon()
            } else {
                setting.chance(s, lives, parts, counted)
            }
        };
        let step = |kind, chance| WhyStep { kind, chance };
        let survived = chance(Counted::SURVIVED);
        let with_use = if setting.alike(s, Counted::USE, Counted::SURVIVED) { survived } else { chance(Counted::USE) };
        vec![
            step(WhyKind::AtBuild, setting.at_build(s, lives)),
            step(WhyKind::Survived, survived),
            step(WhyKind::Use, with_use),
            step(WhyKind::Papers, papers),
            step(WhyKind::Findings, self.priced.zones.by_horizon()),
        ]
    }
}

fn point_result(told: &Told<'_>, why: Vec<WhyStep>) -> PointResult {
    let Told { setting, subject: s, lives, past, priced, money, schools, .. } = *told;
    let (p, a, candidate, zones) = (s.point, setting.assumptions, setting.candidate, priced.zones);
    let p_plan = zones.by_horizon();
    let severity = grade::severity(money.worst, told.value, p.can_hurt);
    let likelihood = grade::likelihood(p_plan);
    let linked = |c: &&Check| c.links.iter().any(|l| l.point == p.id);
    let (seen, unseen) = s
        .family
        .checks
        .iter()
        .filter(linked)
        .filter(|c| subject::fit(&c.applies, s.family, candidate, a).is_some())
        .partition::<Vec<&Check>, _>(|c| candidate.outcome_of(s.family, c).is_some());
    let ids = |checks: Vec<&Check>| checks.into_iter().map(|c| c.id.clone()).collect();
    let needs = |q: f64| zones.quantile(q).map(|y| setting.path.usage_now() + y);
    PointResult {
        at: PointRef { family: s.family.id.clone(), point: p.id.clone() },
        name: p.name.clone(),
        system: p.system,
        shows: p.shows.clone(),
        ends_engine: p.ends_engine,
        can_hurt: p.can_hurt,
        identify: s.fit.identify.clone(),
        share: lives.share * s.fit.share,
        p_now: zones.present,
        p_plan,
        needs_at: NeedsAt { p10: needs(0.1), p50: needs(0.5), p90: needs(0.9) },
        repairs: zones.present + told.failures.iter().sum::<f64>(),
        job: s.family.job(&p.job).map_or_else(String::new, |j| j.name.clone()),
        cost: money.job,
        worst_cost: money.worst,
        expected_cost: priced.expected,
        severity,
        likelihood,
        grade: grade::grade(severity, likelihood),
        trouble: trouble(past, zones),
        renewals: s
            .entries
            .iter()
            .map(|e| RenewalMark {
                usage: e.usage.on_clock(),
                date: e.date,
                evidence: e.evidence,
                credibility: a.credibility(e.evidence),
                grade: e.grade,
                revised: e.revised,
            })
            .collect(),
        why,
        schools: schools.to_vec(),
        seen: ids(seen),
        unseen: ids(unseen),
        sign: p.warning.as_ref().map(|w| w.sign.clone()),
    }
}

/// The masses of past, plan and beyond by the strip's bins.
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
fn trouble(past_cells: &[f64], zones: &Zones) -> Trouble {
    let mut past = vec![0.0; PAST_BINS];
    for (i, f) in past_cells.iter().enumerate() {
        past[i * PAST_BINS / PAST_CELLS] += f;
    }
    let mut plan = vec![0.0; PLAN_BINS];
    let mut beyond = vec![0.0; BEYOND_BINS];
    let width = zones.grid.horizon() / PLAN_BINS as f64;
    for (i, m) in zones.cells.iter().enumerate() {
        let bin = (zones.grid.middle(i) / width) as usize;
        if zones.grid.in_plan(i) {
            plan[bin.min(PLAN_BINS - 1)] += m;
        } else if let Some(slot) = beyond.get_mut(bin.saturating_sub(PLAN_BINS)) {
            *slot += m;
        }
    }
    Trouble { past, plan, beyond }
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
        let age = crate::units::years_between(c.built, day);
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
