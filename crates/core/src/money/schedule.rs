//! Scheduled work: when it comes due, how surely it was done, and its money.
//!
//! docs/METHOD.md, section 9.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::units::years_between;
use crate::documents::applicability::fit;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::{Candidate, Example};
use crate::documents::claim::LifeClock;
use crate::documents::family::Family;
use crate::documents::job::Interval;
use crate::documents::paper::{Evidence, LedgerEntry};
use crate::documents::reference::PointRef;
use crate::evidence::intervals::{performed, years_on};
use crate::inference::setting::Setting;
use crate::money::job_cost::{self, JobCost};

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
    /// Expected money now: the job's cost times the chance that it is overdue.
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

/// Expected money of scheduled work: at once, and at each usage ahead of now.
#[derive(Debug, Clone, Default)]
pub struct Scheduled {
    /// At once: what is overdue.
    pub now: f64,
    /// Usage ahead of now, and the expected money there.
    pub ahead: Vec<(f64, f64)>,
    /// What all of it is made of.
    pub split: WorkSplit,
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
    /// In all.
    #[must_use]
    pub fn total(&self) -> f64 {
        self.ahead.iter().fold(self.now, |sum, x| sum + x.1)
    }
}

/// Scheduled work that concerns the candidate, with its sheet.
fn concerned<'f>(
    candidate: &Candidate,
    families: &'f [Family],
    a: &Assumptions,
) -> impl Iterator<Item = (&'f Family, &'f Interval)> {
    let all = families.iter().flat_map(|f| f.intervals.iter().map(move |i| (f, i)));
    all.filter(|(f, i)| fit(&i.applies, f, candidate, a).is_some())
}

/// When each scheduled work that concerns the candidate comes due next, the soonest first, and the money
/// that it takes. What was last done is a mixture of all entries by how far each is believed.
#[must_use]
pub fn due(setting: &Setting<'_>, families: &[Family], a: &Assumptions) -> (Vec<Due>, Scheduled) {
    let mut money = Scheduled::default();
    let mut out: Vec<Due> = concerned(setting.candidate, families, a)
        .map(|(family, interval)| one_due(setting, family, interval, a, &mut money))
        .collect();
    out.sort_by(|x, y| x.usage.total_cmp(&y.usage).then(x.interval.cmp(&y.interval)));
    (out, money)
}

/// One piece of scheduled work; its money is added to that of all.
fn one_due(setting: &Setting<'_>, family: &Family, interval: &Interval, a: &Assumptions, money: &mut Scheduled) -> Due {
    let candidate = setting.candidate;
    let entries = performed(candidate, family, interval);
    let last = entries.iter().rev().find(|e| a.credibility(e.evidence) >= a.believed);
    let (usage, date) = last.map_or((0.0, candidate.built), |e| (e.usage.on_clock(), e.date));
    let shown = next(setting, interval, usage, date);
    let cost = work_cost(family, interval, candidate, a);
    let work = Work::of(setting, interval, &entries, cost.mean, a);
    money.add(&work, &cost);
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
        chance_done: (1.0 - work.overdue).clamp(0.0, 1.0),
        said: entries.iter().rev().map(|e| Said::of(e, a)).collect(),
        cost,
        now: work.overdue * cost.mean,
        in_plan: work.ahead.iter().fold(0.0, |sum, x| sum + x.1),
        times_in_plan: work.times,
        renews: interval.renews.iter().map(point).collect(),
    }
}

impl Said {
    fn of(e: &LedgerEntry, a: &Assumptions) -> Self {
        let (usage, credibility) = (e.usage.on_clock(), a.credibility(e.evidence));
        Self { date: e.date, usage, evidence: e.evidence, credibility, proved: credibility >= a.proved }
    }
}

impl Scheduled {
    fn add(&mut self, work: &Work, cost: &JobCost) {
        let times = work.overdue + work.times;
        self.now += work.overdue * cost.mean;
        self.ahead.extend(&work.ahead);
        self.split.parts += times * cost.parts;
        self.split.labour += times * cost.labour;
        self.split.access += times * cost.access;
    }
}

/// Scheduled work of the reference example: nothing of it is on paper, or nothing of it is overdue.
#[must_use]
#[allow(clippy::cast_precision_loss)]
pub fn reference(setting: &Setting<'_>, families: &[Family], example: Example, a: &Assumptions) -> f64 {
    let candidate = setting.candidate;
    concerned(candidate, families, a)
        .map(|(family, interval)| {
            let cost = work_cost(family, interval, candidate, a).mean;
            let times = falls_due(setting, interval, 0.0, candidate.built);
            let counted = times.iter().filter(|t| example == Example::Typical || **t > 0.0).count();
            counted as f64 * cost
        })
        .sum()
}

fn work_cost(family: &Family, interval: &Interval, c: &Candidate, a: &Assumptions) -> JobCost {
    family
        .job(&interval.job)
        .map_or_else(JobCost::nothing, |j| job_cost::cost(family, j, c.buyer.parts, c.buyer.labour, a))
}

/// What an interval comes to over all that may have been done.
#[derive(Default)]
struct Work {
    overdue: f64,
    times: f64,
    ahead: Vec<(f64, f64)>,
}

impl Work {
    /// A mixture over the entries that may be true, the latest first, and over none of them.
    fn of(setting: &Setting<'_>, interval: &Interval, entries: &[&LedgerEntry], cost: f64, a: &Assumptions) -> Self {
        let mut out = Self::default();
        let mut unbelieved = 1.0;
        for e in entries.iter().rev() {
            let c = a.credibility(e.evidence);
            out.add(unbelieved * c, falls_due(setting, interval, e.usage.on_clock(), e.date), cost);
            unbelieved *= 1.0 - c;
        }
        out.add(unbelieved, falls_due(setting, interval, 0.0, setting.candidate.built), cost);
        out
    }

    fn add(&mut self, weight: f64, due: Vec<f64>, cost: f64) {
        if weight < 1e-9 {
            return;
        }
        for ahead in due {
            if ahead > 0.0 {
                self.times += weight;
                self.ahead.push((ahead, weight * cost));
            } else {
                self.overdue += weight;
            }
        }
    }
}
