//! Scheduled work: when it comes due, how surely it was done, and its money.
//!
//! docs/METHOD.md, section 9.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::{day_after, years_between};
use crate::documents::applicability::{fit, work_concerns};
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::{Candidate, Example};
use crate::documents::claim::LifeClock;
use crate::documents::family::Family;
use crate::documents::job::Interval;
use crate::documents::paper::{Evidence, LedgerEntry};
use crate::documents::quote::Quoted;
use crate::documents::quoting;
use crate::documents::reference::PointRef;
use crate::evidence::intervals::{performed, years_on};
use crate::evidence::kept;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::setting::Setting;
use crate::money::job_cost::{self, JobCost};
use crate::money::point_cost::FirstDue;
use crate::reliability::care::{self, Weights};

/// Scheduled work: where on the strip it comes due, how surely it was done, and what it costs if not.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Due {
    /// The family.
    pub family: String,
    /// The interval.
    pub interval: String,
    /// Its name.
    pub name: String,
    /// Usage between one and the next, where it counts.
    pub every_usage: Option<f64>,
    /// Years between one and the next, where they count.
    pub every_years: Option<f64>,
    /// Usage at which it was last done, so far as that is believed; none means never since build.
    pub last: Option<f64>,
    /// Usage at which it comes due, along past and plan, whichever clock is first.
    pub usage: f64,
    /// The day on which it comes due, along past and plan.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// Which clock is first.
    pub by: LifeClock,
    /// Whether that is past.
    pub overdue: bool,
    /// Chance that it is not overdue: that some entry which says so is true.
    pub chance_done: f64,
    /// Entries that say it was done, the latest first.
    pub said: Vec<Said>,
    /// What the job costs alone.
    pub cost: JobCost,
    /// The workshop's quote that it goes by; none where it is the sheet's estimate.
    pub quoted: Option<Quoted>,
    /// Expected money now: the job's cost times the chance that it is overdue, and that this build needs it.
    pub now: f64,
    /// Expected money of what falls due within the plan after that.
    pub in_plan: f64,
    /// Expected number of times that it falls due within the plan, now not counted.
    pub times_in_plan: f64,
    /// The failure points that it starts afresh.
    pub renews: Vec<PointRef>,
}

/// An entry that says scheduled work was done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Said {
    /// When.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// At what usage.
    pub usage: f64,
    /// What supports it.
    pub evidence: Evidence,
    /// How far it is believed.
    pub credibility: f64,
    /// Whether that is enough to count as proved.
    pub proved: bool,
}

/// Where and when something comes due after it was done, whichever clock is first.
struct Next {
    usage: f64,
    date: Date,
    by: LifeClock,
}

fn next(setting: &Setting<'_>, interval: &Interval, usage: f64, date: Date) -> Next {
    let built = setting.candidate.built;
    let by_usage = interval.usage.map_or(f64::INFINITY, |u| usage + u);
    let on = interval.years.map(|y| years_on(date, y));
    let by_age = on.map_or(f64::INFINITY, |d| setting.usage_at(years_between(built, d)));
    match on {
        Some(d) if by_age < by_usage => Next { usage: by_age, date: d, by: LifeClock::Age },
        _ => Next { usage: by_usage, date: setting.day_at(by_usage), by: LifeClock::Usage },
    }
}

/// Times that an interval falls due, as usage ahead of now (0: overdue), had it last been done then.
fn falls_due(setting: &Setting<'_>, interval: &Interval, mut usage: f64, mut date: Date) -> Vec<f64> {
    let (now, end) = (setting.path.usage_now(), setting.path.usage_now() + setting.horizon);
    let mut out = Vec::new();
    // The shortest interval and the longest plan that validation takes come to fewer.
    while out.len() < 6_000 {
        let due = next(setting, interval, usage, date);
        if due.usage > end {
            break;
        }
        // What is overdue is done on the day of purchase.
        let late = due.usage < now || due.date < setting.candidate.as_of;
        (usage, date) = if late { (now, setting.candidate.as_of) } else { (due.usage, due.date) };
        out.push(if late { 0.0 } else { due.usage - now });
    }
    out
}

/// Expected money of scheduled work under each level of care: at once, and at each usage ahead of now.
#[derive(Debug, Clone, Default)]
pub struct Scheduled {
    /// At once: what is overdue.
    pub now: [f64; 3],
    /// Usage ahead of now, and the expected money there.
    pub ahead: Vec<(f64, [f64; 3])>,
    /// What all of it is made of.
    pub split: [WorkSplit; 3],
}

/// What the money of scheduled work is made of.
#[derive(Debug, Clone, Copy, Default)]
pub struct WorkSplit {
    /// Parts and sundries.
    pub parts: f64,
    /// Hours of the jobs themselves.
    pub labour: f64,
    /// Hours to get at them.
    pub access: f64,
}

impl Scheduled {
    /// In all under a level of care.
    #[must_use]
    pub fn total(&self, level: usize) -> f64 {
        self.ahead.iter().fold(self.now[level], |sum, x| sum + x.1[level])
    }

    /// In all, the levels mixed.
    #[must_use]
    pub fn mean(&self, weights: &Weights) -> f64 {
        care::mix(weights, |l| self.total(l))
    }

    fn add(&mut self, work: &Work<'_>, overdue_counts: bool) {
        let cost = work.cost.mean * work.share;
        for case in &work.cases {
            for ahead in &case.due {
                if *ahead > 0.0 {
                    self.ahead.push((*ahead, case.weight.map(|w| w * cost)));
                } else if overdue_counts {
                    (0..3).for_each(|l| self.now[l] += case.weight[l] * cost);
                }
                if *ahead > 0.0 || overdue_counts {
                    for (split, w) in self.split.iter_mut().zip(&case.weight) {
                        split.parts += w * work.share * work.cost.parts;
                        split.labour += w * work.share * work.cost.labour;
                        split.access += w * work.share * work.cost.access;
                    }
                }
            }
        }
    }
}

/// One piece of scheduled work over all that may have been done.
#[derive(Debug)]
pub(crate) struct Work<'f> {
    pub family: &'f Family,
    pub interval: &'f Interval,
    pub cost: JobCost,
    /// Chance that the candidate is of a build that needs it, where that is not known.
    share: f64,
    cases: Vec<Case>,
}

/// When it was last done, as one of several that may be true.
#[derive(Debug)]
struct Case {
    /// Chance under each level of care.
    weight: [f64; 3],
    /// Usage ahead of now at which it falls due; 0 where it is overdue.
    due: Vec<f64>,
}

impl Case {
    fn is_overdue(&self) -> bool {
        self.due.first().is_some_and(|d| *d <= 0.0)
    }
}

impl<'f> Work<'f> {
    /// Of a candidate, or with `papers` false of the reference example.
    fn of(setting: &Setting<'_>, family: &'f Family, interval: &'f Interval, papers: bool) -> Self {
        let (c, a) = (setting.candidate, setting.assumptions);
        let cost = family
            .job(&interval.job)
            .map_or_else(JobCost::nothing, |j| job_cost::cost(family, j, c.buyer.parts, c.buyer.labour, a));
        let kept = kept::kept(c, family, interval, &setting.path, papers, a);
        let mut left = [1.0; 3];
        let mut cases = Vec::with_capacity(kept.len() + 1);
        for k in kept.iter().rev() {
            let date = k.entry.map_or_else(|| day_after(c.built, k.age), |e| e.date);
            let weight = std::array::from_fn(|l| left[l] * k.chance[l]);
            if weight.iter().any(|w| *w >= 1e-9) {
                cases.push(Case { weight, due: falls_due(setting, interval, k.usage, date) });
            }
            (0..3).for_each(|l| left[l] *= 1.0 - k.chance[l]);
        }
        cases.push(Case { weight: left, due: falls_due(setting, interval, 0.0, c.built) });
        let share = fit(&interval.applies, family, c, a).map_or(1.0, |f| f.share);
        Self { family, interval, cost, share, cases }
    }

    /// Chance by level of care that it is overdue.
    pub fn overdue(&self) -> [f64; 3] {
        let late = self.cases.iter().filter(|c| c.is_overdue());
        late.fold([0.0; 3], |sum, c| std::array::from_fn(|l| sum[l] + c.weight[l]))
    }

    /// The same with the chance that it is overdue as the state of the parts tells it.
    fn told(&mut self, overdue: [f64; 3]) {
        let prior = self.overdue();
        for case in &mut self.cases {
            let late = case.is_overdue();
            for l in 0..3 {
                let (from, to) = if late { (prior[l], overdue[l]) } else { (1.0 - prior[l], 1.0 - overdue[l]) };
                case.weight[l] *= if from > 0.0 { to / from } else { 1.0 };
            }
        }
    }

    /// When it falls due first within the plan where it is not overdue, as a share of the horizon.
    fn first_due(&self, horizon: f64) -> FirstDue {
        let overdue = self.overdue();
        let first = |l: usize| {
            let kept = self.cases.iter().filter(|c| !c.is_overdue() && c.weight[l] > 1e-9);
            kept.filter_map(|c| Some((c.due.first()? / horizon, c.weight[l] / (1.0 - overdue[l])))).collect()
        };
        std::array::from_fn(first)
    }
}

/// Every piece of scheduled work that concerns the candidate; with `papers` false as of the reference example.
pub(crate) fn works<'f>(setting: &Setting<'_>, families: &'f [Family], papers: bool) -> Vec<Work<'f>> {
    let all = concerned(setting.candidate, families, setting.assumptions);
    all.map(|(family, interval)| Work::of(setting, family, interval, papers)).collect()
}

/// When paid work first renews each point within the plan.
pub(crate) fn first_due(works: &[Work<'_>], points: &[ApplicablePoint<'_>], horizon: f64) -> Vec<FirstDue> {
    let of = |p: &ApplicablePoint<'_>| {
        let interval = p.schedule?;
        works.iter().find(|w| std::ptr::eq(w.interval, interval)).map(|w| w.first_due(horizon))
    };
    points.iter().map(|p| of(p).unwrap_or_default()).collect()
}

/// Lets the state of the points say how likely the work that renews them is overdue: of several the likeliest.
pub(crate) fn told_by_points(works: &mut [Work<'_>], points: &[ApplicablePoint<'_>], scenarios: &CareScenarios) {
    for work in works {
        let mut overdue: Option<[f64; 3]> = None;
        let mine = |p: &&(usize, &ApplicablePoint<'_>)| p.1.schedule.is_some_and(|i| std::ptr::eq(i, work.interval));
        for (i, _) in points.iter().enumerate().collect::<Vec<_>>().iter().filter(mine) {
            let own: [f64; 3] = std::array::from_fn(|l| scenarios.remaining[l][*i].is_overdue());
            overdue = Some(overdue.map_or(own, |o| std::array::from_fn(|l| o[l].max(own[l]))));
        }
        if let Some(overdue) = overdue {
            work.told(overdue);
        }
    }
}

/// Money of scheduled work; of a well-sorted reference example nothing is overdue.
pub(crate) fn money(works: &[Work<'_>], example: Option<Example>) -> Scheduled {
    let mut out = Scheduled::default();
    works.iter().for_each(|w| out.add(w, example != Some(Example::WellSorted)));
    out
}

/// Scheduled work that concerns the candidate, with its sheet.
fn concerned<'f>(
    candidate: &Candidate,
    families: &'f [Family],
    a: &Assumptions,
) -> impl Iterator<Item = (&'f Family, &'f Interval)> {
    let all = families.iter().flat_map(|f| f.intervals.iter().map(move |i| (f, i)));
    all.filter(move |(f, i)| work_concerns(i, f, families, candidate, a))
}

/// When each scheduled work comes due next, the soonest first. What was last done is a mixture of all that may have
/// been done.
pub(crate) fn due(setting: &Setting<'_>, works: &[Work<'_>], weights: &Weights) -> Vec<Due> {
    let mut out: Vec<Due> = works.iter().map(|w| one_due(setting, w, weights)).collect();
    out.sort_by(|x, y| x.usage.total_cmp(&y.usage).then(x.interval.cmp(&y.interval)));
    out
}

#[allow(clippy::cast_precision_loss)]
fn one_due(setting: &Setting<'_>, work: &Work<'_>, weights: &Weights) -> Due {
    let Work { family, interval, cost, share, .. } = work;
    let (candidate, a) = (setting.candidate, setting.assumptions);
    let entries = performed(candidate, family, interval);
    let last = entries.iter().rev().find(|e| a.credibility(e.evidence) >= a.believed);
    let (usage, date) = last.map_or((0.0, candidate.built), |e| (e.usage.on_clock(), e.date));
    let shown = next(setting, interval, usage, date);
    let overdue = care::mix(weights, |l| work.overdue()[l]);
    let times: f64 = work
        .cases
        .iter()
        .map(|c| c.due.iter().filter(|d| **d > 0.0).count() as f64 * care::mix(weights, |l| c.weight[l]))
        .sum();
    let point = |p: &String| PointRef { family: family.id.clone(), point: p.clone() };
    Due {
        family: family.id.clone(),
        interval: interval.id.clone(),
        name: interval.name.clone(),
        every_usage: interval.usage,
        every_years: interval.years,
        last: last.map(|e| e.usage.on_clock()),
        usage: shown.usage,
        date: shown.date,
        by: shown.by,
        overdue: shown.usage < setting.path.usage_now() || shown.date < candidate.as_of,
        chance_done: (1.0 - overdue * share).clamp(0.0, 1.0),
        said: entries.iter().rev().map(|e| Said::of(e, a)).collect(),
        cost: *cost,
        quoted: quoting::quoted(candidate, &family.id, &interval.job),
        now: overdue * share * cost.mean,
        in_plan: times * share * cost.mean,
        times_in_plan: times,
        renews: interval.renews.iter().map(point).collect(),
    }
}

impl Said {
    fn of(e: &LedgerEntry, a: &Assumptions) -> Self {
        let (usage, credibility) = (e.usage.on_clock(), a.credibility(e.evidence));
        Self { date: e.date, usage, evidence: e.evidence, credibility, proved: credibility >= a.proved }
    }
}
