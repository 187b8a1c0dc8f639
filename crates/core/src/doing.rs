//! Method §8: what is done at purchase, what is budgeted for, watched or left alone; and what is done together
//! because the same things must come off.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::{PointMoney, Priced};
use crate::candidate::{DoingSchool, IntervalRef, PointRef};
use crate::family::Family;
use crate::scene::Scene;
use crate::schedule::Due;
use crate::worlds::Worlds;

/// What becomes of a point.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DoingAction {
    /// Renewed, or put right, at purchase.
    Renew,
    /// More likely than not within the plan: money is put by for it.
    Budget,
    /// Watched for its sign.
    Watch,
    /// Left alone.
    Nothing,
}

/// Why a point is renewed at purchase.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum RenewWhy {
    /// The person decided so.
    Own,
    /// The fault is there now.
    ThereNow,
    /// It can hurt someone and may well be there.
    Safety,
    /// Renewing costs less in expectation than leaving it.
    Cheaper,
    /// Overdue scheduled work renews it.
    Overdue {
        /// The work's name.
        work: String,
    },
    /// Its scheduled work is nearly due.
    NearlyDue {
        /// The work's name.
        work: String,
    },
    /// Likely within the plan.
    Likely,
    /// While something that must come off anyway is off.
    Together,
}

/// What becomes of one point.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PointAction {
    /// Which.
    pub at: PointRef,
    /// Its name.
    pub name: String,
    /// The job's name.
    pub job: String,
    /// What becomes of it.
    pub action: DoingAction,
    /// Why it is renewed; none where it is not.
    pub why: Option<RenewWhy>,
    /// Whether the person decided so themselves.
    pub own: bool,
    /// Expected money within the plan if it is renewed at purchase, as a job of its own.
    pub renew: f64,
    /// Expected money within the plan if it is left until it must be done.
    pub leave: f64,
    /// Chance that it is there now.
    pub p_now: f64,
    /// Chance within the plan.
    pub p_plan: f64,
    /// What to watch for, where it gives warning.
    pub sign: Option<String>,
}

/// Something to be done at purchase.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum JobAt {
    /// For a failure point.
    Point(PointRef),
    /// Scheduled work that is overdue.
    Work(IntervalRef),
}

/// A job in a bundle.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BundleJob {
    /// What for.
    pub at: JobAt,
    /// Name of the point or work.
    pub name: String,
    /// The job's name.
    pub job: String,
    /// Why it is done now.
    pub why: RenewWhy,
    /// What it costs alone.
    pub alone: f64,
    /// Of that, what is saved because it is off already for the others.
    pub shared: f64,
    /// Whether the person decided so themselves.
    pub own: bool,
}

/// A neighbour that could be done while it is apart, with the sum that speaks for or against it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Neighbour {
    /// Which point.
    pub at: PointRef,
    /// Its name.
    pub name: String,
    /// The job's name.
    pub job: String,
    /// What the job costs alone.
    pub alone: f64,
    /// What is saved of that because it is off already.
    pub shared: f64,
    /// What the fresh part is expected to cost within the plan after that.
    pub fresh: f64,
    /// Expected money within the plan if it is done now: alone − shared + fresh.
    pub now: f64,
    /// Expected money within the plan if it is left.
    pub later: f64,
    /// Whether it is among the jobs of the bundle.
    pub taken: bool,
}

/// Jobs that share what must come off.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct DoingBundle {
    /// What comes off for more than one of them, by name; empty for a job that shares nothing.
    pub off: Vec<String>,
    /// The jobs.
    pub jobs: Vec<BundleJob>,
    /// Neighbours that share what is off, taken or not.
    pub neighbours: Vec<Neighbour>,
    /// What the jobs cost as visits of their own.
    pub apart: f64,
    /// What they cost together: each thing comes off once.
    pub together: f64,
}

/// What one school comes to.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SchoolBill {
    /// Which.
    pub school: DoingSchool,
    /// Points renewed at purchase.
    pub renewed: usize,
    /// Money at purchase: jobs, together where they share, overdue work included.
    pub at_purchase: f64,
    /// Expected money within the plan, at purchase included; nothing saved by doing jobs together.
    pub expected: f64,
}

/// What is done at purchase, what later, and what together.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Doing {
    /// The school followed.
    pub school: DoingSchool,
    /// Every point, those renewed first, then by what leaving them costs.
    pub points: Vec<PointAction>,
    /// What is done at purchase, by what must come off; the dearest first.
    pub bundles: Vec<DoingBundle>,
    /// The three schools side by side.
    pub schools: Vec<SchoolBill>,
}

/// The answer, with what the futures need of it.
pub(crate) struct Decided {
    /// For each point: renewed at purchase, and whether scheduled work pays for it.
    pub renewed: Vec<Option<bool>>,
    /// Expected money within the plan, nothing saved by doing jobs together.
    pub expected: f64,
    pub told: Doing,
}

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
    own: Option<bool>,
    sign: Option<&'a str>,
}

/// Something that must come off.
#[derive(Debug, Clone, Copy)]
struct Group<'a> {
    family: &'a str,
    id: &'a str,
    name: &'a str,
    cost: f64,
}

impl Group<'_> {
    fn is(&self, other: &Self) -> bool {
        self.family == other.family && self.id == other.id
    }
}

fn groups<'a>(family: &'a Family, job: &str, rate: f64) -> Vec<Group<'a>> {
    let ids = family.job(job).map_or(&[][..], |j| j.access.as_slice());
    ids.iter()
        .filter_map(|id| family.access.iter().find(|g| &g.id == id))
        .map(|g| Group { family: &family.id, id: &g.id, name: &g.name, cost: rate * g.hours })
        .collect()
}

/// A job as the choice sees it: what doing it now costs more than leaving it (above 0: not worth it alone), and what
/// must come off for it, each with its cost.
pub type Weighed = (f64, Vec<(u64, f64)>);

/// Jobs among which the best set is found by trying every one.
const TRIED_WHOLE: usize = 12;

/// Which of some jobs are worth doing while other things are off; `open` is off already. Jobs that have to do with
/// each other are weighed together: up to twelve by every set, more of them best first until none is worth it.
#[must_use]
pub fn while_apart(jobs: &[Weighed], open: &[u64]) -> Vec<bool> {
    // A job that costs more than all that could be off for it is never worth it; one that nothing touches neither.
    let mut left: Vec<usize> =
        (0..jobs.len()).filter(|i| jobs[*i].1.iter().map(|g| g.1).sum::<f64>() > jobs[*i].0).collect();
    let mut taken = vec![false; jobs.len()];
    while let Some(first) = left.pop() {
        let mut members = vec![first];
        let mut at = 0;
        while at < members.len() {
            let off = &jobs[members[at]].1;
            // What is off already joins nobody: each has it, whatever the other does.
            let near = |j: &usize| jobs[*j].1.iter().any(|g| !open.contains(&g.0) && off.iter().any(|o| o.0 == g.0));
            let (near, far): (Vec<usize>, Vec<usize>) = left.iter().partition(|j| near(j));
            members.extend(near);
            left = far;
            at += 1;
        }
        let among: Vec<&Weighed> = members.iter().map(|i| &jobs[*i]).collect();
        let chosen = if among.len() <= TRIED_WHOLE { best_set(&among, open) } else { best_first(&among, open) };
        for (i, yes) in members.into_iter().zip(chosen) {
            taken[i] = yes;
        }
    }
    taken
}

/// What a set of jobs saves: each thing comes off once, and what is off already costs nothing.
fn gain(jobs: &[&Weighed], open: &[u64], chosen: impl Fn(usize) -> bool) -> f64 {
    let mut off = open.to_vec();
    let mut sum = 0.0;
    for (more, groups) in jobs.iter().enumerate().filter(|(i, _)| chosen(*i)).map(|(_, j)| *j) {
        sum -= more;
        for (group, cost) in groups {
            if off.contains(group) { sum += cost } else { off.push(*group) }
        }
    }
    sum
}

fn best_set(jobs: &[&Weighed], open: &[u64]) -> Vec<bool> {
    let (mut best, mut most) = (0u32, 1e-9);
    for set in 1..1u32 << jobs.len() {
        let saves = gain(jobs, open, |i| set & (1 << i) != 0);
        if saves > most {
            (best, most) = (set, saves);
        }
    }
    (0..jobs.len()).map(|i| best & (1 << i) != 0).collect()
}

fn best_first(jobs: &[&Weighed], open: &[u64]) -> Vec<bool> {
    let mut taken = vec![false; jobs.len()];
    let mut so_far = 0.0;
    loop {
        let with = |i: usize| gain(jobs, open, |j| j == i || taken[j]) - so_far;
        let best = (0..jobs.len()).filter(|i| !taken[*i]).map(|i| (i, with(i))).max_by(|x, y| x.1.total_cmp(&y.1));
        let Some((i, saves)) = best.filter(|b| b.1 > 1e-9) else { return taken };
        taken[i] = true;
        so_far += saves;
    }
}

/// Decides for every point, under the chosen school and the two others.
pub(crate) fn doing(
    scene: &Scene<'_>,
    worlds: &Worlds,
    money: &[PointMoney],
    priced: &[Priced],
    due: &[Due],
    work: f64,
) -> Decided {
    let (setting, a) = (scene.setting, scene.setting.assumptions);
    let (candidate, rate) = (setting.candidate, a.rate(setting.candidate.buyer.labour));
    let near = a.near(candidate.usage.unit.clock());
    let to_do: Vec<&Due> = due.iter().filter(|d| d.overdue && d.chance_done < a.overdue_done).collect();
    let choices: Vec<Choice<'_>> = scene
        .subjects
        .iter()
        .enumerate()
        .map(|(i, s)| {
            let at = PointRef { family: s.family.id.clone(), point: s.point.id.clone() };
            let soon = |d: &&Due| d.renews.contains(&at) && d.usage - setting.path.usage_now() <= near;
            Choice {
                name: &s.point.name,
                job: s.family.job(&s.point.job).map_or("", |j| &j.name),
                alone: money[i].job.mean,
                renew: money[i].at_once(),
                leave: priced[i].expected,
                p_now: worlds.present(i),
                p_plan: worlds.by_horizon(i),
                can_hurt: s.point.can_hurt,
                off: groups(s.family, &s.point.job, rate),
                overdue: to_do.iter().find(|d| d.renews.contains(&at)).copied(),
                near: due.iter().filter(soon).max_by(|x, y| y.usage.total_cmp(&x.usage)),
                own: candidate.doing.own.iter().rev().find(|o| o.at == at).map(|o| o.now),
                sign: s.point.warning.as_ref().map(|w| w.sign.as_str()),
                at,
            }
        })
        .collect();
    let case = Case { scene, choices, to_do, rate, work };
    let chosen = candidate.doing.school;
    let mut answer = None;
    let mut schools = Vec::new();
    for school in [DoingSchool::LeastCost, DoingSchool::UpFront, DoingSchool::WaitForSigns] {
        let whys = case.whys(school);
        let renewed = case.renewed(school, &whys);
        let bundles = case.bundles(&whys);
        let expected = case.expected(&renewed);
        schools.push(SchoolBill {
            school,
            renewed: whys.iter().flatten().count(),
            at_purchase: bundles.iter().map(|b| b.together).sum(),
            expected,
        });
        if school == chosen {
            answer = Some((whys, renewed, bundles, expected));
        }
    }
    // The three schools are all there are.
    let (whys, renewed, bundles, expected) = answer.unwrap_or_default();
    let points = case.points(whys);
    Decided { renewed, expected, told: Doing { school: chosen, points, bundles, schools } }
}

struct Case<'s, 'a> {
    scene: &'s Scene<'s>,
    choices: Vec<Choice<'a>>,
    to_do: Vec<&'a Due>,
    rate: f64,
    work: f64,
}

impl Case<'_, '_> {
    /// Why each point is renewed at purchase under a school; none where it is not.
    fn whys(&self, school: DoingSchool) -> Vec<Option<RenewWhy>> {
        let a = self.scene.setting.assumptions;
        let mut out: Vec<Option<RenewWhy>> = self
            .choices
            .iter()
            .map(|c| match c.own {
                Some(now) => now.then_some(RenewWhy::Own),
                None if c.p_now >= a.there_now => Some(RenewWhy::ThereNow),
                None if c.can_hurt && c.p_now >= a.hurts_now => Some(RenewWhy::Safety),
                None if school == DoingSchool::WaitForSigns => None,
                None => match (c.overdue, c.near) {
                    (Some(d), _) => Some(RenewWhy::Overdue { work: d.name.clone() }),
                    (None, Some(d)) if school == DoingSchool::UpFront => {
                        Some(RenewWhy::NearlyDue { work: d.name.clone() })
                    }
                    _ if school == DoingSchool::UpFront && c.p_plan >= a.up_front => Some(RenewWhy::Likely),
                    _ if school == DoingSchool::LeastCost && c.renew < c.leave => Some(RenewWhy::Cheaper),
                    _ => None,
                },
            })
            .collect();
        if school != DoingSchool::WaitForSigns {
            let taken = while_apart(&self.as_neighbours(&out), &self.open(&out));
            for (why, taken) in out.iter_mut().zip(taken) {
                if taken {
                    *why = Some(RenewWhy::Together);
                }
            }
        }
        out
    }

    /// Whether a point is renewed whatever its state, and whether scheduled work pays for it. A fault that is
    /// put right because it is there now is paid for in the futures in which it is there.
    fn renewed(&self, school: DoingSchool, whys: &[Option<RenewWhy>]) -> Vec<Option<bool>> {
        self.choices
            .iter()
            .zip(whys)
            .map(|(c, why)| match why {
                None => None,
                Some(RenewWhy::ThereNow | RenewWhy::Safety)
                    if school == DoingSchool::WaitForSigns || c.renew >= c.leave =>
                {
                    None
                }
                Some(_) => Some(c.overdue.is_some()),
            })
            .collect()
    }

    fn expected(&self, renewed: &[Option<bool>]) -> f64 {
        let points = self.choices.iter().zip(renewed).map(|(c, r)| match r {
            None => c.leave,
            Some(false) => c.renew,
            Some(true) => c.renew - c.alone,
        });
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
        let family = self.scene.families.iter().find(|f| f.id == due.family);
        let job = family.and_then(|f| Some((f, f.intervals.iter().find(|i| i.id == due.interval)?)));
        job.map_or_else(Vec::new, |(f, i)| groups(f, &i.job, self.rate))
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
    fn bundles(&self, whys: &[Option<RenewWhy>]) -> Vec<DoingBundle> {
        let jobs = self.jobs(whys);
        let mut left: Vec<usize> = (0..jobs.len()).collect();
        let mut out = Vec::new();
        while let Some(first) = left.first().copied() {
            left.remove(0);
            let mut members = vec![first];
            let mut at = 0;
            while at < members.len() {
                let off = &jobs[members[at]].1;
                let (near, far) =
                    left.into_iter().partition(|j| jobs[*j].1.iter().any(|g| off.iter().any(|o| o.is(g))));
                members.extend::<Vec<usize>>(near);
                left = far;
                at += 1;
            }
            out.push(self.bundle(members.into_iter().map(|i| &jobs[i]), whys));
        }
        out.sort_by(|x, y| y.together.total_cmp(&x.together));
        out
    }

    fn bundle<'j>(
        &self,
        members: impl Iterator<Item = &'j (BundleJob, Vec<Group<'j>>)>,
        whys: &[Option<RenewWhy>],
    ) -> DoingBundle {
        let (mut jobs, mut off, mut shared_off): (Vec<BundleJob>, Vec<Group<'_>>, Vec<String>) = Default::default();
        for (job, groups) in members {
            let mut job = job.clone();
            for g in groups {
                if off.iter().any(|o| o.is(g)) {
                    job.shared += g.cost;
                    if !shared_off.iter().any(|n| n == g.name) {
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
        let mut neighbours: Vec<Neighbour> = self
            .choices
            .iter()
            .zip(whys)
            .filter(|(c, why)| matches!(why, None | Some(RenewWhy::Together)) && c.leave >= 1.0)
            .filter_map(|(c, why)| {
                // What it opens itself is not off for it.
                let others = |g: &&Group<'_>| {
                    let by = self.choices.iter().zip(whys).filter(|(o, w)| w.is_some() && o.at != c.at);
                    let work = self.to_do.iter().flat_map(|d| self.work_off(d));
                    by.flat_map(|(o, _)| o.off.clone()).chain(work).any(|o| o.is(g))
                };
                let here = c.off.iter().any(|g| off.iter().any(|o| o.is(g)));
                let shared: f64 = c.off.iter().filter(others).map(|g| g.cost).sum();
                (here && shared > 0.0).then(|| Neighbour {
                    at: c.at.clone(),
                    name: c.name.to_owned(),
                    job: c.job.to_owned(),
                    alone: c.alone,
                    shared,
                    fresh: c.renew - c.alone,
                    now: c.renew - shared,
                    later: c.leave,
                    taken: why.is_some(),
                })
            })
            .collect();
        neighbours.sort_by(|x, y| (y.later - y.now).total_cmp(&(x.later - x.now)));
        DoingBundle { off: shared_off, jobs, neighbours, apart, together: apart - saved }
    }

    fn points(&self, whys: Vec<Option<RenewWhy>>) -> Vec<PointAction> {
        let a = self.scene.setting.assumptions;
        let mut out: Vec<PointAction> = self
            .choices
            .iter()
            .zip(whys)
            .map(|(c, why)| PointAction {
                at: c.at.clone(),
                name: c.name.to_owned(),
                job: c.job.to_owned(),
                action: match why {
                    Some(_) => DoingAction::Renew,
                    None if c.p_plan >= a.budgeted => DoingAction::Budget,
                    None if c.p_plan >= a.watched => DoingAction::Watch,
                    None => DoingAction::Nothing,
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
