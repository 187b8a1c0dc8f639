//! The whole judgement: from a candidate and its families' sheets to an [`Assessment`].

use std::collections::BTreeMap;

use crate::assessment::{
    Assessment, BEYOND_BINS, Bill, CareResult, ExposureUse, Limit, NeedsAt, PAST_BINS, PLAN_BINS, PointResult,
    RenewalMark, SchoolChance, SystemResult, Trouble, UsageEnd, WhyKind, WhyStep, YearMark,
};
use crate::assumptions::Assumptions;
use crate::bill::Futures;
use crate::candidate::{Candidate, Example, PointRef, TrueUsage};
use crate::care::{self, CareIndex, CareLevel, Weights};
use crate::claims::{CurveError, Heard, PointLives};
use crate::family::{Check, Exposure, Family, System};
use crate::findings::Answer;
use crate::future::{FutureGrid, PLAN_CELLS, Zones, all_failures, fresh_failures};
use crate::grade;
use crate::identity;
use crate::jobs::{self, JobCost};
use crate::lattice::{Parts, PointCurves};
use crate::next;
use crate::odometer::Odometer;
use crate::offer::{OfferCase, offer};
use crate::papers;
use crate::scene::{Scene, with_scene};
use crate::schedule::{self, Scheduled};
use crate::sense::Fault;
use crate::standing::PAST_CELLS;
use crate::subject::{Counted, Setting, Subject, View};
use crate::units::{Probability, Usage};
use crate::value;
use crate::verdict;
use crate::walk;
use crate::worlds::{Worlds, mixed_chance};

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
    pub(crate) fn new(setting: &Setting<'_>, subject: &Subject<'_>, curves: &PointCurves<'_>, value: f64) -> Self {
        let (a, c) = (setting.assumptions, setting.candidate);
        let (point, family) = (subject.point, subject.family);
        let job_cost = |id: &str| family.job(id).map(|j| jobs::cost(family, j, c.buyer.parts, c.buyer.labour, a));
        let job = job_cost(&point.job).unwrap_or_else(JobCost::nothing);
        let larger = point.escalation.as_ref().and_then(|e| job_cost(&e.job).map(|j| (e.chance.get(), j.mean)));
        let caught = point.warning.as_ref().map_or(0.0, jobs::caught);
        let failure = jobs::failure_cost(job.mean, caught, larger, value, a.recovery);
        let worst = larger.map_or(job.mean, |(_, cost)| cost.min(value).max(job.mean));
        // A part bought new today is the revised one where there is one.
        let (_, plan) = setting.kappas(subject, Counted::ALL, CareLevel::Ordinary);
        let kappa = plan * a.grade(c.buyer.parts);
        let fresh = fresh_failures(setting.horizon, curves.revised(), kappa, setting.usage_a_year);
        let mut fresh_sum = vec![0.0];
        for f in &fresh {
            fresh_sum.push(fresh_sum[fresh_sum.len() - 1] + f);
        }
        Self { job, failure, worst, fresh, fresh_sum }
    }

    /// Expected failures of a part fitted when `left` of the horizon remains (as a share of it).
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn later(&self, left: f64) -> f64 {
        let at = (left * PLAN_CELLS as f64).clamp(0.0, PLAN_CELLS as f64);
        let i = (at as usize).min(PLAN_CELLS - 1);
        self.fresh_sum[i] + (self.fresh_sum[i + 1] - self.fresh_sum[i]) * (at - i as f64)
    }

    /// How long after it was fitted, as a share of the horizon, such a failure comes: the usage by which the
    /// share `u` of those expected in `left` of the horizon have come.
    #[allow(clippy::cast_precision_loss)]
    pub(crate) fn later_at(&self, left: f64, u: f64) -> f64 {
        let wanted = u * self.later(left);
        let i = self.fresh_sum.partition_point(|s| *s < wanted).clamp(1, PLAN_CELLS);
        let (from, to) = (self.fresh_sum[i - 1], self.fresh_sum[i]);
        let within = if to > from { (wanted - from) / (to - from) } else { 0.5 };
        ((i - 1) as f64 + within).max(0.0) / PLAN_CELLS as f64
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
    pub(crate) fn expected(&self, zones: &Zones) -> f64 {
        zones.expect(self.at_once(), &self.by_cell(&zones.grid))
    }
}

/// What each state of a point costs within the plan, and its expected money.
#[derive(Debug, Clone)]
pub(crate) struct Priced {
    /// What a fault that is there now costs.
    pub present: f64,
    /// What a first failure in each cell costs.
    pub cells: Vec<f64>,
    /// Expected money in each world, findings weighed.
    pub by_level: [f64; 3],
    /// Expected money, the worlds mixed.
    pub expected: f64,
}

impl Priced {
    pub(crate) fn new(worlds: &Worlds, point: usize, money: &PointMoney) -> Self {
        let cells = money.by_cell(&worlds.zones[0][point].grid);
        let present = money.at_once();
        let by_level = std::array::from_fn(|l| worlds.zones[l][point].expect(present, &cells));
        Self { present, cells, by_level, expected: care::mix(&worlds.weights, |l| by_level[l]) }
    }
}

/// The outcomes that hold, as answers.
pub(crate) fn answers<'a>(
    candidate: &'a Candidate,
    families: &'a [Family],
    subjects: &[Subject<'_>],
) -> Vec<Answer<'a>> {
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

/// The sheets that the candidate names, in its order.
pub(crate) fn named<'f>(candidate: &Candidate, families: &'f [Family]) -> Vec<&'f Family> {
    let find = |r: &crate::candidate::FamilyRef| families.iter().find(|f| f.id == r.id && f.version == r.version);
    candidate.families.iter().filter_map(find).collect()
}

/// Judges a candidate by its families' sheets under a table of assumptions.
///
/// Pure and deterministic: the same three inputs give the same result to the last digit.
///
/// # Errors
/// [`AssessError::Faults`] lists everything in the candidate that makes no sense with the sheets.
pub fn assess(candidate: &Candidate, families: &[Family], a: &Assumptions) -> Result<Assessment, AssessError> {
    assess_to(candidate, families, a, Depth::Schools)
}

/// How much is asked of a judgement.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Depth {
    /// Neither each school's own view nor the steps of the why before the papers: for long lists. A
    /// verdict then has no reason that papers alone give.
    Lean,
    /// Everything but each school's own view.
    Pooled,
    /// Each school's own view of every point as well.
    Schools,
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

    let reference = value::reference(candidate);
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
    let value = value::worth(candidate, reference, bill.excess, tail.cvar90 - tail.mean, a);
    let identity = identity::identity(candidate, used);
    let campaigns = verdict::campaigns(candidate, used, a);
    let gates = verdict::gates(candidate, used, odometer, &identity, &campaigns, a);
    let next = next::checks(candidate, used, subjects, &after, &priced, &value, a);
    let (checks_done, checks_total) = next::progress(candidate, used, a);
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
    let knowledge = verdict::knowledge(candidate, &points);
    let walk = walk::plan(candidate, used, &next, &value, &verdict, a);
    let systems = systems(&points);
    let worst_gate = gates.first().map(|g| verdict::grade_of(g.kind));
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
        completeness_seen: papers::completeness_seen(candidate, a),
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

/// The expected bill alone, as [`assess`] gives it: for questions asked many times over.
pub(crate) fn expected_bill(scene: &Scene<'_>) -> f64 {
    let Scene { setting, views, answers, prior, families, .. } = *scene;
    let all: Vec<[Zones; 3]> = views
        .iter()
        .map(|v| {
            let grid = FutureGrid::full(setting.horizon, &v.subject.leads);
            setting.worlds(v, &mut Parts::default(), &grid, Counted::ALL, false).0
        })
        .collect();
    let worlds = Worlds::before(&all, prior).found(answers, setting.assumptions.joint_states);
    let price = value::reference(setting.candidate).price;
    let money = |v: &View<'_, '_>| PointMoney::new(setting, v.subject, v.curves, price);
    let (_, scheduled) = schedule::due(setting, families, setting.assumptions);
    let points: f64 = views.iter().enumerate().map(|(i, v)| Priced::new(&worlds, i, &money(v)).expected).sum();
    points + scheduled.total()
}

/// Expected money of a point of the reference example.
fn reference_money(zones: &[Zones; 3], money: &PointMoney, usual: &Weights, example: Example) -> f64 {
    care::mix(usual, |l| {
        let z = &zones[l];
        if example == Example::WellSorted && z.present < 1.0 {
            let mut sorted = z.clone();
            sorted.weigh(0.0, 1.0, 0.0, 1.0);
            money.expected(&sorted)
        } else {
            money.expected(z)
        }
    })
}

fn care_result(index: CareIndex, before: Weights, after: &Worlds, priced: &[Priced], scheduled: f64) -> CareResult {
    let bill = std::array::from_fn(|l| priced.iter().map(|p| p.by_level[l]).sum::<f64>() + scheduled);
    CareResult { index, before, after: after.weights, bill }
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

/// Puts the money of scheduled work where it falls along the plan.
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
fn spread_work(bill: &mut Bill, work: &Scheduled, horizon: f64, years: f64) {
    bill.now += work.now;
    bill.by_year[0] += work.now;
    let last = bill.by_year.len() - 1;
    for (ahead, money) in &work.ahead {
        let share = ahead / horizon;
        bill.by_year[((share * years) as usize).min(last)] += money;
        bill.spend[((share * PLAN_BINS as f64) as usize).min(PLAN_BINS - 1)] += money;
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

/// Each subject's chance within the plan under each school that speaks of it, findings weighed.
/// `pooled` are the worlds before findings when all are heard, for the points that the school does not
/// change.
fn by_school(scene: &Scene<'_>, pooled: Option<&Worlds>) -> Result<Vec<Vec<SchoolChance>>, CurveError> {
    let Scene { families, setting, subjects, answers, prior, .. } = *scene;
    let mut out: Vec<Vec<SchoolChance>> = subjects.iter().map(|_| Vec::new()).collect();
    let mut done: Vec<&str> = Vec::new();
    for school in families.iter().flat_map(|f| &f.schools) {
        if done.contains(&school.id.as_str()) {
            continue;
        }
        done.push(&school.id);
        let mut zones: Vec<[Zones; 3]> = Vec::with_capacity(subjects.len());
        for (i, subject) in subjects.iter().enumerate() {
            let grid = FutureGrid::coarse(setting.horizon, &subject.leads);
            zones.push(match pooled {
                Some(pooled) if !differs(subject, &school.id) => {
                    std::array::from_fn(|l| pooled.zones[l][i].on(grid.clone()))
                }
                _ => {
                    let lives = PointLives::pool(subject.point, Heard::One(&school.id), setting.assumptions)?;
                    let curves = setting.curves(subject, &lives);
                    let view = View { subject, lives: &lives, curves: &curves };
                    setting.worlds(&view, &mut Parts::default(), &grid, Counted::ALL, false).0
                }
            });
        }
        let worlds = Worlds::before(&zones, prior).found(answers, setting.assumptions.joint_states);
        for (i, _) in subjects.iter().enumerate().filter(|(_, s)| speaks(s, &school.id)) {
            let chance = worlds.by_horizon(i);
            out[i].push(SchoolChance { school: school.id.clone(), name: school.name.clone(), chance });
        }
    }
    Ok(out)
}

/// What is told of one point.
struct Told<'a, 'c> {
    setting: &'a Setting<'a>,
    view: View<'a, 'c>,
    past: &'a [f64],
    zones: &'a Zones,
    money: &'a PointMoney,
    expected: f64,
    /// Chance within the plan by everything but findings.
    papers: f64,
    /// Chance within the plan of the reference example.
    reference: f64,
    /// Chance within the plan of this one, were the care usual: for steps that come to the same.
    survived_alike: f64,
    usual: &'a Weights,
    failures: &'a [f64],
    schools: &'a [SchoolChance],
    value: f64,
}

impl<'c> Told<'_, 'c> {
    /// The waterfall. A step that comes to the same as one already computed is not computed again.
    /// Care is taken as usual until the papers speak.
    fn why(&self, parts: &mut Parts<'c>, depth: Depth) -> Vec<WhyStep> {
        let (setting, s) = (self.setting, self.view.subject);
        let grid = FutureGrid::coarse(setting.horizon, &[]);
        let mut chance = |counted: Counted| {
            if setting.alike(s, counted, Counted::ALL) {
                self.survived_alike
            } else if setting.alike(s, counted, Counted::REFERENCE) {
                self.reference
            } else {
                mixed_chance(&setting.worlds(&self.view, parts, &grid, counted, false).0, self.usual)
            }
        };
        let step = |kind, chance| WhyStep { kind, chance };
        let mut steps = vec![step(WhyKind::AtBuild, setting.at_build(s, self.view.lives))];
        if depth != Depth::Lean {
            let survived = chance(Counted::SURVIVED);
            let same = setting.alike(s, Counted::USE, Counted::SURVIVED);
            steps.push(step(WhyKind::Survived, survived));
            steps.push(step(WhyKind::Use, if same { survived } else { chance(Counted::USE) }));
        }
        steps.push(step(WhyKind::Papers, self.papers));
        steps.push(step(WhyKind::Findings, self.zones.by_horizon()));
        steps
    }
}

fn point_result(told: &Told<'_, '_>, why: Vec<WhyStep>) -> PointResult {
    let Told { setting, view, past, zones, money, schools, .. } = *told;
    let (s, lives) = (view.subject, view.lives);
    let (p, a, candidate) = (s.point, setting.assumptions, setting.candidate);
    let p_plan = zones.by_horizon();
    let severity = grade::severity(money.worst, told.value, p.can_hurt);
    let likelihood = grade::likelihood(p_plan);
    let linked = |c: &&Check| c.links.iter().any(|l| l.point == p.id);
    let (seen, unseen) = s
        .family
        .checks
        .iter()
        .filter(linked)
        .filter(|c| crate::subject::fit(&c.applies, s.family, candidate, a).is_some())
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
        share: if s.built_revised { lives.revised_share } else { lives.share } * s.fit.share,
        p_now: zones.present,
        p_plan,
        needs_at: NeedsAt { p10: needs(0.1), p50: needs(0.5), p90: needs(0.9) },
        repairs: zones.present + told.failures.iter().sum::<f64>(),
        job: s.family.job(&p.job).map_or_else(String::new, |j| j.name.clone()),
        cost: money.job,
        worst_cost: money.worst,
        expected_cost: told.expected,
        severity,
        likelihood,
        grade: grade::grade(severity, likelihood),
        trouble: trouble(past, zones),
        revised: s.built_revised,
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
