//! Deciding the purchase plan under a maintenance policy.
//!
//! docs/METHOD.md, section 8.

use crate::base::components::components;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::{Appetite, MaintenancePolicy};
use crate::documents::family::Family;
use crate::documents::reference::{IntervalRef, PointRef};
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::Context;
use crate::money::bill_lattice::BillLattice;
use crate::money::distribution::Distribution;
use crate::money::least_risk::settle;
use crate::money::point_cost::PointCost;
use crate::money::priced_points::PricedPoints;
use crate::money::purchase_plan::{
    BundleJob, DecidedPlan, JobAt, JobBundle, Neighbour, PlanAction, PlannedPoint, PolicyBill, PurchasePlan, RenewWhy,
};
use crate::money::schedule::Due;
use crate::money::tail::Tail;
use crate::money::while_apart::{Weighed, while_apart};
use crate::reliability::care;

/// One point as the decision sees it.
struct Choice<'a> {
    at: PointRef,
    name: &'a str,
    job: &'a str,
    alone: f64,
    renew: f64,
    leave: f64,
    p_now: f64,
    p_plan: f64,
    can_hurt: bool,
    off: Vec<Group<'a>>,
    overdue: Option<&'a Due>,
    near: Option<&'a Due>,
    /// Chance that overdue work renews it, and is paid elsewhere.
    worked: f64,
    own: Option<bool>,
    sign: Option<&'a str>,
}

/// Something that is paid once for all who need it at one visit: what must come off, or a job that puts several points
/// right.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Group<'a> {
    pub(crate) family: &'a str,
    pub(crate) id: &'a str,
    pub(crate) name: &'a str,
    pub(crate) cost: f64,
    /// Whether it is the job itself.
    pub(crate) whole: bool,
}

impl Group<'_> {
    fn is(&self, other: &Self) -> bool {
        self.family == other.family && self.id == other.id && self.whole == other.whole
    }
}

/// What must come off for a job.
fn access<'a>(family: &'a Family, job: &str, rate: f64) -> Vec<Group<'a>> {
    let ids = family.job(job).map_or(&[][..], |j| j.access.as_slice());
    ids.iter()
        .filter_map(|id| family.access.iter().find(|g| &g.id == id))
        .map(|g| Group { family: &family.id, id: &g.id, name: &g.name, cost: rate * g.hours, whole: false })
        .collect()
}

/// What a point's repair shares with others: nothing where it may turn out in several ways.
pub(crate) fn groups<'a>(family: &'a Family, money: &PointCost, rate: f64) -> Vec<Group<'a>> {
    if money.turns.len() != 1 {
        return Vec::new();
    }
    let mut out = access(family, &money.job_id, rate);
    if let Some(j) = family.job(&money.job_id).filter(|j| j.renews.len() > 1) {
        let cost = money.job.mean - out.iter().map(|g| g.cost).sum::<f64>();
        out.push(Group { family: &family.id, id: &j.id, name: &j.name, cost, whole: true });
    }
    out
}

/// Decides for every point, under the chosen policy and the two others.
pub(crate) fn decide_plan(context: &Context<'_>, scenarios: &CareScenarios, priced: &PricedPoints) -> DecidedPlan {
    let candidate = context.setting.candidate;
    let lambda = context.setting.assumptions.risk_margin(candidate.buyer.appetite);
    let inputs = PlanInputs::new(context, scenarios, priced, true);
    let bill = BillLattice::new(context, scenarios, priced);
    let chosen = candidate.purchase_plan.policy;
    let all = [MaintenancePolicy::LeastCost, MaintenancePolicy::UpFront, MaintenancePolicy::WaitForSigns];
    let (mut followed, mut policies) = (None, Vec::with_capacity(all.len()));
    for policy in all {
        let under = inputs.under(policy, Some(&bill), lambda, policy == chosen);
        policies.push(under.bill);
        if policy == chosen {
            followed = Some(under);
        }
    }
    let followed = followed.unwrap_or_else(|| inputs.under(chosen, Some(&bill), lambda, true));
    let distribution = followed.distribution();
    let Followed { whys, renewed, bundles, bill, saved, .. } = followed;
    let points = inputs.points(whys);
    let told = PurchasePlan { policy: chosen, points, bundles, policies };
    DecidedPlan { renewed, expected: bill.expected, saved, distribution, told }
}

/// The plan under the policy that the buyer follows alone: its expected bill, and what the bill may come to; `searched`
/// says whether a change for the sake of the tail is looked for.
pub(crate) fn decide_followed(
    context: &Context<'_>,
    scenarios: &CareScenarios,
    priced: &PricedPoints,
    searched: bool,
) -> (f64, Vec<bool>, Tail) {
    let candidate = context.setting.candidate;
    let lambda = context.setting.assumptions.risk_margin(candidate.buyer.appetite) * f64::from(u8::from(searched));
    let bill = BillLattice::new(context, scenarios, priced);
    let inputs = PlanInputs::new(context, scenarios, priced, true);
    let followed = inputs.under(candidate.purchase_plan.policy, Some(&bill), lambda, true);
    let tail = Tail::of(&followed.distribution());
    (followed.bill.expected, followed.renewed, tail)
}

/// The plan with the least mean under the policy that the buyer follows: its expected bill alone.
pub(crate) fn decide_mean(context: &Context<'_>, scenarios: &CareScenarios, priced: &PricedPoints) -> (f64, Vec<bool>) {
    let policy = context.setting.candidate.purchase_plan.policy;
    let followed = PlanInputs::new(context, scenarios, priced, true).under(policy, None, 0.0, true);
    (followed.bill.expected, followed.renewed)
}

/// The reference example under the same policy, as the even buyer who makes the market follows it: the expected bill,
/// and how far it may go.
pub(crate) fn decide_reference(
    context: &Context<'_>,
    scenarios: &CareScenarios,
    priced: &PricedPoints,
    searched: bool,
) -> (f64, Tail) {
    let lambda = context.setting.assumptions.risk_margin(Appetite::Even) * f64::from(u8::from(searched));
    let inputs = PlanInputs::new(context, scenarios, priced, false);
    let bill = BillLattice::new(context, scenarios, priced);
    let policy = context.setting.candidate.purchase_plan.policy;
    let followed = inputs.under(policy, Some(&bill), lambda, true);
    (followed.bill.expected, Tail::of(&followed.distribution()))
}

/// Scheduled work that is overdue and to be carried out at purchase.
fn to_do<'d>(due: &'d [Due], a: &Assumptions) -> Vec<&'d Due> {
    due.iter().filter(|d| d.overdue && d.chance_done < a.overdue_done).collect()
}

/// Every point as the decision sees it; `own` says whether the person's own choices count.
fn choices<'a>(
    context: &'a Context<'_>,
    scenarios: &CareScenarios,
    priced: &'a PricedPoints,
    own: bool,
) -> Vec<Choice<'a>> {
    let (setting, a) = (context.setting, context.setting.assumptions);
    let (candidate, rate) = (setting.candidate, a.rate(setting.candidate.buyer.labour));
    let near = a.near(candidate.usage.unit.clock());
    let to_do = to_do(&priced.due, a);
    let points = context.applicable_points.iter().enumerate();
    points
        .map(|(i, s)| {
            let at = PointRef { family: s.family.id.clone(), point: s.point.id.clone() };
            let soon = |d: &&Due| d.renews.contains(&at) && d.usage - setting.path.usage_now() <= near;
            Choice {
                name: &s.point.name,
                job: s.family.job(&priced.costs[i].job_id).map_or("", |j| &j.name),
                alone: priced.costs[i].job.mean * (1.0 - priced.costs[i].paid(0.0) * scenarios.present(i)),
                renew: priced.expected[i].renewed,
                leave: priced.expected[i].left,
                worked: care::mix(&scenarios.weights, |l| scenarios.remaining[l][i].is_overdue()),
                p_now: scenarios.present(i),
                p_plan: scenarios.by_horizon(i),
                can_hurt: s.point.can_hurt,
                off: groups(s.family, &priced.costs[i], rate),
                overdue: to_do.iter().find(|d| d.renews.contains(&at)).copied(),
                near: priced.due.iter().filter(soon).max_by(|x, y| y.usage.total_cmp(&x.usage)),
                own: candidate.purchase_plan.own.iter().rev().find(|o| own && o.at == at).map(|o| o.now),
                sign: s.point.warning.as_ref().map(|w| w.sign.as_str()),
                at,
            }
        })
        .collect()
}

/// A policy, followed.
struct Followed {
    whys: Vec<Option<RenewWhy>>,
    renewed: Vec<bool>,
    bundles: Vec<JobBundle>,
    bill: PolicyBill,
    saved: f64,
    /// What it may cost in all, nothing saved; none where the policy is not settled.
    settled: Option<Distribution>,
}

impl Followed {
    /// What the bill may come to, what is saved taken off.
    fn distribution(&self) -> Distribution {
        self.settled.clone().unwrap_or_else(|| Distribution::new(1.0, vec![1.0])).less(self.saved)
    }
}

struct PlanInputs<'s, 'a> {
    context: &'s Context<'s>,
    choices: Vec<Choice<'a>>,
    to_do: Vec<&'a Due>,
    rate: f64,
    work: f64,
}

impl<'s, 'a> PlanInputs<'s, 'a> {
    fn new(context: &'a Context<'s>, scenarios: &CareScenarios, priced: &'a PricedPoints, own: bool) -> Self
    where
        'a: 's,
    {
        let a = context.setting.assumptions;
        Self {
            context,
            choices: choices(context, scenarios, priced, own),
            to_do: to_do(&priced.due, a),
            rate: a.rate(context.setting.candidate.buyer.labour),
            work: priced.work.mean(&scenarios.weights),
        }
    }
}

impl PlanInputs<'_, '_> {
    /// Follows a policy. One that is chosen, or that looks for the least cost, is settled by how far the bill may go,
    /// where that is asked for.
    fn under(&self, policy: MaintenancePolicy, bill: Option<&BillLattice<'_>>, lambda: f64, chosen: bool) -> Followed {
        let mut whys = self.whys(policy);
        let mut renewed = self.renewed(policy, &whys);
        let least = policy == MaintenancePolicy::LeastCost;
        let settled = if let Some(bill) = bill.filter(|_| chosen || least) {
            let turned = |w: &Option<RenewWhy>| matches!(w, None | Some(RenewWhy::Cheaper | RenewWhy::Overdue { .. }));
            let free: Vec<bool> = self.choices.iter().zip(&whys).map(|(c, w)| c.own.is_none() && turned(w)).collect();
            let lambda = if least { lambda } else { 0.0 };
            let best = settle(bill, &mut renewed, &free, lambda, self.context.setting.budget);
            for (why, renewed) in whys.iter_mut().zip(&renewed) {
                match (&why, renewed) {
                    (None, true) => *why = Some(RenewWhy::Risk),
                    (Some(RenewWhy::Cheaper), false) => *why = None,
                    _ => {}
                }
            }
            Some(best)
        } else {
            None
        };
        let bundles = self.bundles(&whys);
        let saved = self.saved(&renewed);
        let bill = PolicyBill {
            policy,
            renewed: whys.iter().flatten().count(),
            at_purchase: bundles.iter().map(|b| b.together).sum(),
            expected: self.expected(&renewed) - saved,
        };
        Followed { whys, renewed, bundles, bill, saved, settled }
    }

    /// What is saved at purchase because each thing comes off once: own jobs surely, overdue work by the chance that
    /// it is.
    fn saved(&self, renewed: &[bool]) -> f64 {
        let own = self.choices.iter().zip(renewed).filter(|(_, r)| **r).map(|(c, _)| (1.0 - c.worked, c.off.clone()));
        let work = self.to_do.iter().map(|d| (1.0 - d.chance_done, self.work_off(d)));
        let mut groups: Vec<(Group<'_>, f64, f64)> = Vec::new();
        for (chance, off) in own.chain(work) {
            for g in off {
                match groups.iter_mut().find(|x| x.0.is(&g)) {
                    Some((_, sum, none)) => {
                        *sum += chance;
                        *none *= 1.0 - chance;
                    }
                    None => groups.push((g, chance, 1.0 - chance)),
                }
            }
        }
        groups.iter().map(|(g, sum, none)| g.cost * (sum - (1.0 - none))).sum()
    }

    /// Why each point is renewed at purchase under a policy; none where it is not.
    fn whys(&self, policy: MaintenancePolicy) -> Vec<Option<RenewWhy>> {
        let a = self.context.setting.assumptions;
        let mut out: Vec<Option<RenewWhy>> = self
            .choices
            .iter()
            .map(|c| match c.own {
                Some(now) => now.then_some(RenewWhy::Own),
                None if c.p_now >= a.there_now => Some(RenewWhy::ThereNow),
                None if c.can_hurt && c.p_now >= a.hurts_now => Some(RenewWhy::Safety),
                None if policy == MaintenancePolicy::WaitForSigns => None,
                None => match (c.overdue, c.near) {
                    (Some(d), _) => Some(RenewWhy::Overdue { work: d.name.clone() }),
                    (None, Some(d)) if policy == MaintenancePolicy::UpFront => {
                        Some(RenewWhy::NearlyDue { work: d.name.clone() })
                    }
                    _ if policy == MaintenancePolicy::UpFront && c.p_plan >= a.up_front => Some(RenewWhy::Likely),
                    _ if policy == MaintenancePolicy::LeastCost && c.renew < c.leave => Some(RenewWhy::Cheaper),
                    _ => None,
                },
            })
            .collect();
        if policy != MaintenancePolicy::WaitForSigns {
            let taken = while_apart(&self.as_neighbours(&out), &self.open(&out), self.context.setting.budget);
            for (why, taken) in out.iter_mut().zip(taken) {
                if taken {
                    *why = Some(RenewWhy::Together);
                }
            }
        }
        out
    }

    /// Whether a point is renewed by a job of its own. What overdue work renews is paid there, and beyond that only
    /// where it is cheaper.
    fn renewed(&self, policy: MaintenancePolicy, whys: &[Option<RenewWhy>]) -> Vec<bool> {
        let own = |(c, why): (&Choice<'_>, &Option<RenewWhy>)| match why {
            None => false,
            Some(RenewWhy::Overdue { .. }) => policy == MaintenancePolicy::LeastCost && c.renew < c.leave,
            Some(_) => true,
        };
        self.choices.iter().zip(whys).map(own).collect()
    }

    fn expected(&self, renewed: &[bool]) -> f64 {
        let points = self.choices.iter().zip(renewed).map(|(c, r)| if *r { c.renew } else { c.leave });
        points.sum::<f64>() + self.work
    }

    /// Numbers for what comes off, the same for the same thing.
    fn number(&self, g: &Group<'_>) -> u64 {
        let all = self.choices.iter().flat_map(|c| &c.off);
        all.clone().position(|x| x.is(g)).map_or(u64::MAX, |i| i as u64)
    }

    /// What is off already for the jobs that are done.
    fn open(&self, whys: &[Option<RenewWhy>]) -> Vec<u64> {
        let points = self.choices.iter().zip(whys).filter(|(_, w)| w.is_some()).flat_map(|(c, _)| c.off.clone());
        points.chain(self.to_do.iter().flat_map(|d| self.work_off(d))).map(|g| self.number(&g)).collect()
    }

    fn as_neighbours(&self, whys: &[Option<RenewWhy>]) -> Vec<Weighed> {
        let each = self.choices.iter().zip(whys);
        each.map(|(c, why)| {
            let barred = why.is_some() || c.own == Some(false);
            let off = c.off.iter().map(|g| (self.number(g), g.cost)).collect();
            if barred { (f64::INFINITY, Vec::new()) } else { (c.renew - c.leave, off) }
        })
        .collect()
    }

    fn work_off(&self, due: &Due) -> Vec<Group<'_>> {
        let family = self.context.families.iter().find(|f| f.id == due.family);
        let job = family.and_then(|f| Some((f, f.intervals.iter().find(|i| i.id == due.interval)?)));
        job.map_or_else(Vec::new, |(f, i)| access(f, &i.job, self.rate))
    }

    /// The jobs done at purchase, each with what must come off for it.
    fn jobs(&self, whys: &[Option<RenewWhy>]) -> Vec<(BundleJob, Vec<Group<'_>>)> {
        let points = self.choices.iter().zip(whys).filter_map(|(c, why)| {
            // What overdue work renews is paid for there.
            let why = why.clone().filter(|_| c.overdue.is_none())?;
            let job = BundleJob {
                at: JobAt::Point(c.at.clone()),
                name: c.name.to_owned(),
                job: c.job.to_owned(),
                why,
                alone: c.alone,
                shared: 0.0,
                own: c.own.is_some(),
            };
            Some((job, c.off.clone()))
        });
        let work = self.to_do.iter().map(|d| {
            let job = BundleJob {
                at: JobAt::Work(IntervalRef { family: d.family.clone(), interval: d.interval.clone() }),
                name: d.name.clone(),
                job: d.name.clone(),
                why: RenewWhy::Overdue { work: d.name.clone() },
                alone: d.cost.mean,
                shared: 0.0,
                own: false,
            };
            (job, self.work_off(d))
        });
        points.chain(work).collect()
    }

    /// Jobs done at purchase, grouped by what must come off for more than one of them.
    fn bundles(&self, whys: &[Option<RenewWhy>]) -> Vec<JobBundle> {
        let jobs = self.jobs(whys);
        let share = |i: usize, j: usize| jobs[j].1.iter().any(|g| jobs[i].1.iter().any(|o| o.is(g)));
        let bundle = |group: Vec<usize>| self.bundle(group.into_iter().map(|i| &jobs[i]), whys);
        let mut out: Vec<JobBundle> = components(jobs.len(), share).into_iter().map(bundle).collect();
        out.sort_by(|x, y| y.together.total_cmp(&x.together));
        out
    }

    fn bundle<'j>(
        &self,
        members: impl Iterator<Item = &'j (BundleJob, Vec<Group<'j>>)>,
        whys: &[Option<RenewWhy>],
    ) -> JobBundle {
        let (mut jobs, mut off, mut shared_off): (Vec<BundleJob>, Vec<Group<'_>>, Vec<String>) = Default::default();
        for (job, groups) in members {
            let mut job = job.clone();
            for g in groups {
                if off.iter().any(|o| o.is(g)) {
                    job.shared += g.cost;
                    if !g.whole && !shared_off.iter().any(|n| n == g.name) {
                        shared_off.push(g.name.to_owned());
                    }
                } else {
                    off.push(*g);
                }
            }
            jobs.push(job);
        }
        let apart: f64 = jobs.iter().map(|j| j.alone).sum();
        let saved: f64 = jobs.iter().map(|j| j.shared).sum();
        let neighbours = self.neighbours(whys, &off);
        JobBundle { off: shared_off, jobs, neighbours, apart, together: apart - saved }
    }

    /// Neighbours that share what is off for a bundle, those whose sum speaks most for them first.
    fn neighbours(&self, whys: &[Option<RenewWhy>], off: &[Group<'_>]) -> Vec<Neighbour> {
        let open = |why: &Option<RenewWhy>| matches!(why, None | Some(RenewWhy::Together));
        let all = self.choices.iter().zip(whys).filter(|(c, why)| open(why) && c.leave >= 1.0);
        let near = all.filter(|(c, _)| c.off.iter().any(|g| off.iter().any(|o| o.is(g))));
        let mut out: Vec<Neighbour> = near.filter_map(|(c, why)| self.neighbour(c, why.is_some(), whys)).collect();
        out.sort_by(|x, y| (y.later - y.now).total_cmp(&(x.later - x.now)));
        out
    }

    /// One neighbour with its sum; none where nobody else opens anything for it.
    fn neighbour(&self, c: &Choice<'_>, taken: bool, whys: &[Option<RenewWhy>]) -> Option<Neighbour> {
        // What it opens itself is not off for it.
        let others = self.choices.iter().zip(whys).filter(|(o, w)| w.is_some() && o.at != c.at);
        let others = others.flat_map(|(o, _)| o.off.clone());
        let opened: Vec<Group<'_>> = others.chain(self.to_do.iter().flat_map(|d| self.work_off(d))).collect();
        let shared: f64 = c.off.iter().filter(|g| opened.iter().any(|o| o.is(g))).map(|g| g.cost).sum();
        (shared > 0.0).then(|| Neighbour {
            at: c.at.clone(),
            name: c.name.to_owned(),
            job: c.job.to_owned(),
            alone: c.alone,
            shared,
            fresh: c.renew - c.alone,
            now: c.renew - shared,
            later: c.leave,
            taken,
        })
    }

    fn points(&self, whys: Vec<Option<RenewWhy>>) -> Vec<PlannedPoint> {
        let a = self.context.setting.assumptions;
        let mut out: Vec<PlannedPoint> = self
            .choices
            .iter()
            .zip(whys)
            .map(|(c, why)| PlannedPoint {
                at: c.at.clone(),
                name: c.name.to_owned(),
                job: c.job.to_owned(),
                action: match why {
                    Some(_) => PlanAction::Renew,
                    None if c.p_plan >= a.budgeted => PlanAction::Budget,
                    None if c.p_plan >= a.watched && c.sign.is_some() => PlanAction::Watch,
                    None if c.p_plan >= a.watched => PlanAction::Hold,
                    None => PlanAction::Nothing,
                },
                why,
                own: c.own.is_some(),
                renew: c.renew,
                leave: c.leave,
                p_now: c.p_now,
                p_plan: c.p_plan,
                sign: c.sign.map(str::to_owned),
            })
            .collect();
        out.sort_by(|x, y| x.action.cmp(&y.action).then(y.leave.total_cmp(&x.leave)));
        out
    }
}
