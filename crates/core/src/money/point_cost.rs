//! What a failure point is expected to cost within the plan.
//!
//! Who knows a hazard may renew now or run on. Both are given by the state of the point, so that a worse state never
//! costs less. Where scheduled work renews the point, the work is paid elsewhere: in the share in which it is done,
//! now or when it falls due, a new cycle begins.
//!
//! docs/METHOD.md, sections 7 and 9.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::Probability;
use crate::documents::applicability::fit;
use crate::documents::candidate::Example;
use crate::documents::care_level::CareLevel;
use crate::documents::failure_point::{Escalation, FailurePoint, TakesAlong};
use crate::documents::family::Family;
use crate::documents::stage::Stage;
use crate::documents::strands::strands;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::remembered;
use crate::inference::setting::{Setting, View};
use crate::inference::stages;
use crate::money::job_cost::{self, JobCost};
use crate::money::ways::{self, Turn, Way, Ways, choose};
use crate::reliability::care::{self, Weights};
use crate::reliability::plan_grid::{FutureGrid, PLAN_CELLS};
use crate::reliability::remaining_life::{OverdueShares, RemainingLife};
use crate::reliability::renewal::fresh_failures;

/// When scheduled work that is not overdue renews a point for the first time within the plan: by level of care, how
/// far ahead as a share of the horizon, and with which chance.
pub(crate) type FirstDue = [Vec<(f64, f64)>; 3];

/// What a point costs, by how it comes.
#[derive(Debug, Clone)]
pub(crate) struct PointCost {
    /// The job alone; of several ways that it may turn out, what is expected.
    pub job: JobCost,
    /// How it may turn out.
    pub turns: Vec<Turn>,
    /// Every way of doing it that the sheet names.
    pub ways: Vec<Way>,
    /// The job of the way that settles it.
    pub job_id: String,
    /// A failure within the plan, warning, recovery and escalation counted.
    pub failure: f64,
    /// The worst branch.
    pub worst: f64,
    /// Chance that a failure is caught before it happens.
    pub caught: f64,
    /// Money for recovery when it is not.
    pub recovery: f64,
    /// What it may turn into and take along: each with its chance, and what it costs beyond the job.
    pub beyond: Vec<(f64, f64)>,
    /// The same as it is told.
    pub along: Vec<TakenAlong>,
    /// What it may have done already where it is there: its chance, and what that costs.
    pub done: Vec<(f64, f64)>,
    /// The same of the reference example, of which nothing was found.
    pub(crate) done_usual: Vec<(f64, f64)>,
    /// Stages of a fault that grows: its chance where the fault is there, and what it costs then.
    pub stages: Vec<(f64, f64)>,
    /// Where somebody else pays for the job: up to which share of the plan, and the chance that they do.
    pub covered: Option<(f64, f64)>,
    /// Failures of the part fitted, by plan cell.
    pub(crate) fresh: Vec<f64>,
    /// Failures of the part fitted, summed up to each plan cell edge.
    pub(crate) fresh_sum: Vec<f64>,
    /// When paid work renews it within the plan.
    pub(crate) first_due: FirstDue,
}

impl PointCost {
    pub(crate) fn new(
        setting: &Setting<'_>,
        view: &View<'_, '_>,
        value: f64,
        first_due: FirstDue,
        mask: EvidenceMask,
    ) -> Self {
        let (a, c) = (setting.assumptions, setting.candidate);
        let View { applicable_point, lives, .. } = *view;
        let (point, family) = (applicable_point.point, applicable_point.family);
        // Of those susceptible before, some are not with the revised part.
        let still = if !applicable_point.built_revised && lives.revised_share < lives.share {
            lives.revised_share / lives.share
        } else {
            1.0
        };
        let (_, plan) = setting.life_factors(applicable_point, mask, CareLevel::Ordinary);
        let fresh = |lasts: f64| fresh(setting, view, plan * a.grade_of(point, c.buyer.parts) * lasts);
        let ways = choose(setting, view, |lasts| still * fresh(lasts).iter().sum::<f64>());
        let job = ways::expected(&ways.turns);
        // Nobody pays more for a mishap than the whole vehicle is worth, less its scrap.
        let consequences = Consequences { setting, family, most: value * (1.0 - a.scrap) };
        let (along, beyond): (Vec<TakenAlong>, Vec<(f64, f64)>) =
            consequences.beyond(point, job.mean).into_iter().map(|t| (t.clone(), (t.chance, t.cost))).unzip();
        let worst = beyond.iter().map(|b| b.1).fold(0.0, f64::max) + job.mean;
        let told = stages::found(point, family, c, a);
        let (done_usual, _) = consequences.done(point, job.mean, &stages::usual(point));
        let (done, costs) = consequences.done(point, job.mean, &told);
        let stages: Vec<(f64, f64)> = told.into_iter().zip(costs).collect();
        let caught = point.warning.as_ref().map_or(0.0, job_cost::caught);
        let recovery = recovery(family, point, a);
        let failure = job_cost::failure_cost(job.mean, caught, &beyond, recovery);
        let mut sums = vec![0.0; PLAN_CELLS];
        for t in &ways.turns {
            sums.iter_mut().zip(&fresh(t.lasts)).for_each(|(s, f)| *s += t.chance * still * f);
        }
        let fresh_sum = summed(&sums);
        let Ways { turns, told, job: job_id } = ways;
        let covered = covered(setting, family, point);
        Self {
            job,
            turns,
            ways: told,
            job_id,
            failure,
            worst,
            caught,
            recovery,
            beyond,
            along,
            done,
            done_usual,
            stages,
            covered,
            fresh: sums,
            fresh_sum,
            first_due,
        }
    }

    /// Chance that somebody else pays the job of a failure at a share of the plan.
    pub(crate) fn paid(&self, at: f64) -> f64 {
        self.covered.filter(|(until, _)| at <= *until).map_or(0.0, |(_, accepted)| accepted)
    }

    /// What a failure at a share of the plan is expected to cost: nothing for a job that somebody else pays.
    pub(crate) fn failure_at(&self, at: f64) -> f64 {
        self.failure - self.paid(at) * self.job.mean
    }

    /// What is expected beyond the job where the fault is there and may have done its damage already.
    pub(crate) fn done_already(&self) -> f64 {
        self.done.iter().map(|(chance, amount)| chance * amount).sum()
    }

    /// Expected failures of a part fitted when `left` of the horizon remains (as a share of it).
    #[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    pub(crate) fn expected_renewals(&self, left: f64) -> f64 {
        let at = (left * PLAN_CELLS as f64).clamp(0.0, PLAN_CELLS as f64);
        let i = (at as usize).min(PLAN_CELLS - 1);
        self.fresh_sum[i] + (self.fresh_sum[i + 1] - self.fresh_sum[i]) * (at - i as f64)
    }

    /// How long after it was fitted, as a share of the horizon, such a failure comes: the usage by which the
    /// share `u` of those expected in `left` of the horizon have come.
    #[allow(clippy::cast_precision_loss)]
    pub(crate) fn renewal_quantile(&self, left: f64, u: f64) -> f64 {
        let wanted = u * self.expected_renewals(left);
        let i = self.fresh_sum.partition_point(|s| *s < wanted).clamp(1, PLAN_CELLS);
        let (from, to) = (self.fresh_sum[i - 1], self.fresh_sum[i]);
        let within = if to > from { (wanted - from) / (to - from) } else { 0.5 };
        ((i - 1) as f64 + within).max(0.0) / PLAN_CELLS as f64
    }

    /// What a part fitted when `left` of the horizon remains costs in failures of its own.
    fn again(&self, left: f64) -> f64 {
        self.failure * self.expected_renewals(left)
    }

    /// What each state costs when the point is left until it fails or paid work renews it.
    fn run_on(&self, grid: &FutureGrid, overdue: Option<&OverdueShares>, level: usize) -> StateCosts {
        let due = &self.first_due[level];
        let renewed: f64 = due.iter().map(|(at, w)| w * self.again(1.0 - at)).sum();
        let cell = |i: usize| {
            if !grid.in_plan(i) {
                return renewed;
            }
            let at = grid.middle(i) / grid.horizon();
            let before: f64 = due.iter().filter(|(r, _)| *r <= at).map(|(_, w)| w).sum();
            let by_then: f64 = due.iter().filter(|(r, _)| *r <= at).map(|(r, w)| w * self.again(1.0 - r)).sum();
            (1.0 - before) * (self.failure_at(at) + self.again(1.0 - at)) + by_then
        };
        let kept = StateCosts {
            present: self.failure_at(0.0) + self.done_already() + self.again(1.0),
            cells: (0..grid.cells()).map(cell).collect(),
            tail: renewed,
            immune: 0.0,
        };
        kept.where_overdue(overdue, self.again(1.0))
    }

    /// What each state costs when the point is renewed at purchase.
    fn renew(&self, grid: &FutureGrid, overdue: Option<&OverdueShares>) -> StateCosts {
        let (job, again) = (self.job.mean, self.again(1.0));
        let cells = vec![job + again; grid.cells()];
        let present = job * (1.0 - self.paid(0.0)) + self.done_already() + again;
        let kept = StateCosts { present, cells, tail: job + again, immune: job };
        kept.where_overdue(overdue, again)
    }
}

/// Sums up to each edge, from 0.
fn summed(cells: &[f64]) -> Vec<f64> {
    let mut sum = 0.0;
    let add = |x: &f64| {
        sum += x;
        sum
    };
    std::iter::once(0.0).chain(cells.iter().map(add)).collect()
}

/// Failures within the plan of a part fitted now, under a life factor of the plan.
fn fresh(setting: &Setting<'_>, view: &View<'_, '_>, life_factor: f64) -> Vec<f64> {
    setting.budget.remembered_for_all(
        || remembered::fresh(setting, view, life_factor),
        |f: &Vec<f64>| 8 * f.len(),
        || fresh_failures(setting.horizon, view.curves.revised(), life_factor, setting.usage_a_year),
    )
}

/// What an unannounced failure may turn into or take along.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct TakenAlong {
    /// The larger job, or what is damaged as well.
    pub name: String,
    /// Chance that it comes to that.
    pub chance: f64,
    /// What it costs beyond the own job, with what it takes along in its turn.
    pub cost: f64,
    /// Whether it stands in the place of the own job.
    pub instead: bool,
}

/// How far into the plan somebody else pays for a point's job, as a share of it, and the chance that they do.
fn covered(setting: &Setting<'_>, family: &Family, point: &FailurePoint) -> Option<(f64, f64)> {
    let x = point.paid_for.as_ref()?;
    let share = fit(&x.applies, family, setting.candidate, setting.assumptions)?.share;
    let by_usage = x.until_usage.map_or(f64::INFINITY, |u| u - setting.path.usage_now());
    let by_age = x.until_age.map_or(f64::INFINITY, |a| (a - setting.path.age_now()) * setting.usage_a_year);
    let left = by_usage.min(by_age);
    (left > 0.0).then(|| ((left / setting.horizon).min(1.0), share * x.accepted.map_or(1.0, Probability::get)))
}

/// Amounts of which at most one comes, and another that comes or not beside them, as amounts of which at most one does.
fn both(one_of: Vec<(f64, f64)>, beside: Option<(f64, f64)>) -> Vec<(f64, f64)> {
    let Some((chance, amount)) = beside else { return one_of };
    let none = 1.0 - one_of.iter().map(|x| x.0).sum::<f64>();
    let mut out = vec![(none * chance, amount)];
    for (p, x) in one_of {
        out.extend([(p * (1.0 - chance), x), (p * chance, x + amount)]);
    }
    out
}

/// How far a chain of consequences is followed.
const CHAIN: usize = 3;

/// What failures of a sheet's points turn into and take along.
struct Consequences<'a> {
    setting: &'a Setting<'a>,
    family: &'a Family,
    /// The most that anybody pays for a branch.
    most: f64,
}

impl Consequences<'_> {
    fn price(&self, job: &str) -> f64 {
        let (a, buyer) = (self.setting.assumptions, &self.setting.candidate.buyer);
        self.family.job(job).map_or(0.0, |j| job_cost::cost(self.family, j, buyer.parts, buyer.labour, a).mean)
    }

    fn capped(&self, job: &str) -> f64 {
        self.price(job).min(self.most)
    }

    /// What a fault that is there costs beyond its own job, by its stages and by the damage that it may have done
    /// already; and what each stage costs.
    fn done(&self, point: &FailurePoint, own: f64, chances: &[f64]) -> (Vec<(f64, f64)>, Vec<f64>) {
        let already = point.already_done.as_ref().map(|d| (d.chance.get(), self.capped(&d.job)));
        let cost = |s: &Stage| if s.job.is_empty() { own } else { self.capped(&s.job) };
        let costs: Vec<f64> = point.stages.iter().map(cost).collect();
        // Nobody need wait for a stage that comes cheaper.
        let grown = chances.iter().zip(&costs).map(|(w, c)| (*w, (c - own).max(0.0)));
        (both(grown.filter(|(_, extra)| *extra > 0.0).collect(), already), costs)
    }

    /// The branches of an unannounced failure, each with its chance and what it costs beyond the own job.
    fn beyond(&self, point: &FailurePoint, own: f64) -> Vec<TakenAlong> {
        let name = |job: &str| self.family.job(job).map_or_else(String::new, |j| j.name.clone());
        let larger = |e: &Escalation| TakenAlong {
            name: name(&e.job),
            chance: e.chance.get(),
            cost: (self.capped(&e.job) - own).max(0.0),
            instead: true,
        };
        let mut out: Vec<TakenAlong> = point.escalation.iter().map(larger).collect();
        // What nobody catches grows to its last stage.
        out.extend(point.stages.last().filter(|s| !s.job.is_empty()).map(|s| TakenAlong {
            name: s.name.clone(),
            chance: 1.0,
            cost: (self.capped(&s.job) - own).max(0.0),
            instead: true,
        }));
        out.extend(point.takes_along.iter().filter_map(|t| {
            let (chance, amount) = self.branch(t, 1)?;
            let named = t.point.as_deref().and_then(|id| self.family.point(id)).map(|p| p.name.clone());
            let name = named.unwrap_or_else(|| t.job.as_deref().map_or_else(String::new, name));
            Some(TakenAlong { name, chance, cost: amount.min((self.most - own).max(0.0)), instead: false })
        }));
        out
    }

    /// Chance and cost of a branch with all that it takes along in its turn; none where it does not concern this one.
    fn branch(&self, t: &TakesAlong, depth: usize) -> Option<(f64, f64)> {
        let Setting { candidate, assumptions: a, .. } = *self.setting;
        let Some(id) = &t.point else { return Some((t.chance.get(), self.price(t.job.as_deref()?))) };
        let point = self.family.point(id)?;
        let share = fit(&point.applies, self.family, candidate, a)?.share;
        let own = self.price(&point.job);
        let mut amount =
            own + point.escalation.as_ref().map_or(0.0, |e| e.chance.get() * (self.capped(&e.job) - own).max(0.0));
        if depth < CHAIN {
            let further = point.takes_along.iter().filter_map(|t| self.branch(t, depth + 1));
            amount += further.map(|(chance, cost)| chance * cost).sum::<f64>();
        }
        Some((t.chance.get() * share, amount.min(self.most)))
    }
}

/// What a failure on the road costs beyond the repair: nothing for what lets one drive on.
fn recovery(family: &Family, point: &FailurePoint, a: &crate::documents::assumptions::Assumptions) -> f64 {
    if strands(family, point, a) { a.recovery } else { 0.0 }
}

/// What each state of a point costs within the plan.
#[derive(Debug, Clone)]
pub(crate) struct StateCosts {
    /// There now.
    pub present: f64,
    /// Coming in each cell of the grid.
    pub cells: Vec<f64>,
    /// Coming beyond the grid.
    pub tail: f64,
    /// Never.
    pub immune: f64,
}

impl StateCosts {
    /// The same where in a share of each state overdue work renews the part now, and is paid elsewhere.
    fn where_overdue(mut self, overdue: Option<&OverdueShares>, again: f64) -> Self {
        if let Some(o) = overdue {
            let mix = |kept: f64, share: f64, then: f64| kept + share * (then - kept);
            self.present = mix(self.present, o.present, again);
            self.cells.iter_mut().zip(&o.cells).for_each(|(c, share)| *c = mix(*c, *share, again));
            self.tail = mix(self.tail, o.tail, again);
            self.immune = mix(self.immune, o.immune, 0.0);
        }
        self
    }

    /// Expected money of a point with this remaining life.
    pub(crate) fn expect(&self, z: &RemainingLife) -> f64 {
        let cells: f64 = z.cells.iter().zip(&self.cells).map(|(m, c)| m * c).sum();
        z.present * self.present + cells + z.tail * self.tail + z.immune * self.immune
    }
}

/// What each state of a point costs within the plan, and its expected money, by level of care: left alone, and
/// renewed at purchase.
#[derive(Debug, Clone)]
pub(crate) struct ExpectedCost {
    /// Left until it fails.
    pub run_on: [StateCosts; 3],
    /// Renewed at purchase.
    pub renew: [StateCosts; 3],
    /// Expected money in each care scenario, findings weighed, left alone.
    pub left_by_level: [f64; 3],
    /// The same, renewed at purchase.
    pub renewed_by_level: [f64; 3],
    /// Expected money, the scenarios mixed, left alone.
    pub left: f64,
    /// The same, renewed at purchase.
    pub renewed: f64,
}

impl ExpectedCost {
    pub(crate) fn new(scenarios: &CareScenarios, point: usize, money: &PointCost) -> Self {
        let z = |l: usize| &scenarios.remaining[l][point];
        let run_on = std::array::from_fn(|l| money.run_on(&z(l).grid, z(l).overdue.as_deref(), l));
        let renew = std::array::from_fn(|l| money.renew(&z(l).grid, z(l).overdue.as_deref()));
        let by_level = |of: &[StateCosts; 3]| std::array::from_fn(|l| of[l].expect(z(l)));
        let (left_by_level, renewed_by_level): ([f64; 3], [f64; 3]) = (by_level(&run_on), by_level(&renew));
        let mixed = |of: &[f64; 3]| care::mix(&scenarios.weights, |l| of[l]);
        let (left, renewed) = (mixed(&left_by_level), mixed(&renewed_by_level));
        Self { run_on, renew, left_by_level, renewed_by_level, left, renewed }
    }

    /// Expected money by level of care under a choice.
    pub(crate) fn by_level(&self, renewed: bool) -> &[f64; 3] {
        if renewed { &self.renewed_by_level } else { &self.left_by_level }
    }

    /// Expected money under a choice.
    pub(crate) fn expected(&self, renewed: bool) -> f64 {
        if renewed { self.renewed } else { self.left }
    }
}

/// The remaining lives of the reference example: of a well-sorted one nothing is there and nothing overdue.
pub(crate) fn as_reference(lives: &[RemainingLife; 3], example: Example) -> [RemainingLife; 3] {
    let mut out = lives.clone();
    if example == Example::WellSorted {
        for z in out.iter_mut().filter(|z| z.present < 1.0) {
            z.weigh(0.0, 1.0, 0.0, 1.0);
            z.overdue = None;
        }
    }
    out
}

/// The care scenarios of the reference example.
pub(crate) fn reference_scenarios(lives: &[[RemainingLife; 3]], usual: Weights, example: Example) -> CareScenarios {
    let points: Vec<[RemainingLife; 3]> = lives.iter().map(|z| as_reference(z, example)).collect();
    CareScenarios::before(&points, usual)
}
