//! After buying: the bill as a calendar. The baseline service and the jobs of the first day, scheduled work as
//! it falls due, what is budgeted for, what is watched for.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::assessment::Assessment;
use crate::base::units::day_after;
use crate::decision::advice::Rule;
use crate::documents::candidate::Candidate;
use crate::documents::ending::{Ending, LogAbout, LogKind};
use crate::documents::reference::{IntervalRef, PointRef};
use crate::money::purchase_plan::{BundleJob, JobAt, PlanAction, PlannedPoint, PurchasePlan};
use crate::money::schedule::Due;

/// The plan after the purchase.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Calendar {
    /// Day of purchase; of judgement while it is not bought.
    #[schema(value_type = String, format = Date)]
    pub from: Date,
    /// Usage on that day, on the candidate's clock.
    pub usage: f64,
    /// Entries by day.
    pub entries: Vec<CalendarEntry>,
    /// What may come and gives no sign: expected money to hold for all of it.
    pub held: f64,
    /// How many points that is.
    pub held_points: usize,
    /// Money that the log says was paid, to the cent.
    pub spent: f64,
    /// How to treat it, and what the lives suppose.
    pub rules: Vec<Rule>,
    /// Those rules that come round again, each time within the plan, by day.
    pub reminders: Vec<Reminder>,
}

/// A rule of care whose time has come round.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Reminder {
    /// Day, at the plan's pace.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// Usage at which.
    pub usage: f64,
    /// The rule.
    pub rule: String,
    /// What to do.
    pub says: String,
    /// Why.
    pub why: String,
}

/// An entry of the calendar.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CalendarEntry {
    /// Day, at the plan's pace.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// Usage at which.
    pub usage: f64,
    /// What kind.
    pub kind: EntryKind,
    /// What it is about.
    pub about: JobAt,
    /// Name.
    pub name: String,
    /// The job, or the sign to watch for; empty where there is none.
    pub what: String,
    /// Money: the job's cost, its share of what is done together taken off.
    pub cost: f64,
    /// What the log says became of it; none while it is open.
    pub became: Option<LogKind>,
}

/// The kinds of entry.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum EntryKind {
    /// Scheduled work that nothing proves done: part of the baseline service.
    Baseline,
    /// A job of the day of purchase.
    AtPurchase,
    /// Scheduled work that falls due.
    Scheduled,
    /// More likely than not to be needed by about then.
    Budget,
    /// From then on its sign is watched for.
    Watch,
}

/// The calendar of a candidate under its plan, from the day it was bought or, before that, of judgement.
#[must_use]
pub fn calendar(candidate: &Candidate, a: &Assessment, plan: &PurchasePlan) -> Calendar {
    let (from, usage) = match &candidate.ending {
        Some(Ending::Bought { date, usage, .. }) => (*date, usage.on_clock()),
        _ => (candidate.as_of, a.usage_now),
    };
    let pace = Pace { from, usage, a_year: a.usage_a_year, end: usage + a.horizon };
    let mut entries = first_day(plan, &pace);
    for d in &a.due {
        let at = JobAt::Work(IntervalRef { family: d.family.clone(), interval: d.interval.clone() });
        let at_once = entries.iter().any(|e| e.about == at);
        entries.extend(scheduled(d, &at, at_once, &pace));
    }
    entries.extend(plan.points.iter().filter_map(|p| expected(p, a, &pace)));
    entries.sort_by(|x, y| x.date.cmp(&y.date).then(x.kind.cmp(&y.kind)).then(y.cost.total_cmp(&x.cost)));
    settle(candidate, &mut entries);
    let held: Vec<f64> = plan.points.iter().filter(|p| p.action == PlanAction::Hold).map(|p| p.leave).collect();
    Calendar {
        from,
        usage,
        entries,
        held: held.iter().sum(),
        held_points: held.len(),
        spent: spent(candidate),
        rules: a.rules.clone(),
        reminders: reminders(&a.rules, &pace),
    }
}

/// The rules of care that come round again, as often as they do within the plan, by day.
fn reminders(rules: &[Rule], pace: &Pace) -> Vec<Reminder> {
    let mut out: Vec<Reminder> = Vec::new();
    for r in rules {
        let mut next = after(r.every_usage, r.every_years, pace, pace.usage, pace.from);
        let mut times = 0;
        while next.0 <= pace.end && times < 60 {
            let (rule, says, why) = (r.id.clone(), r.says.clone(), r.why.clone());
            out.push(Reminder { date: next.1, usage: next.0, rule, says, why });
            next = after(r.every_usage, r.every_years, pace, next.0, next.1);
            times += 1;
        }
    }
    out.sort_by(|x, y| x.date.cmp(&y.date).then_with(|| x.rule.cmp(&y.rule)));
    out
}

/// What the log says was paid, added in cents.
#[allow(clippy::cast_precision_loss, clippy::cast_possible_truncation)]
fn spent(candidate: &Candidate) -> f64 {
    let cents = candidate.log.iter().filter_map(|l| l.cost).map(|m| (m.get() * 100.0).round() as i64);
    cents.sum::<i64>() as f64 / 100.0
}

/// The baseline service and the jobs of the day of purchase.
fn first_day(plan: &PurchasePlan, pace: &Pace) -> Vec<CalendarEntry> {
    let entry = |j: &BundleJob| CalendarEntry {
        date: pace.from,
        usage: pace.usage,
        kind: if matches!(j.at, JobAt::Work(_)) { EntryKind::Baseline } else { EntryKind::AtPurchase },
        about: j.at.clone(),
        name: j.name.clone(),
        what: j.job.clone(),
        cost: j.alone - j.shared,
        became: None,
    };
    plan.bundles.iter().flat_map(|b| &b.jobs).map(entry).collect()
}

/// Scheduled work as often as it falls due within the plan.
fn scheduled(d: &Due, about: &JobAt, at_once: bool, pace: &Pace) -> Vec<CalendarEntry> {
    // What is done at purchase comes round again from there.
    let mut next = if at_once || d.usage < pace.usage || d.date < pace.from {
        after(d.every_usage, d.every_years, pace, pace.usage, pace.from)
    } else {
        (d.usage, d.date)
    };
    let mut out = Vec::new();
    while out.len() < 60 && next.0 <= pace.end {
        out.push(CalendarEntry {
            date: next.1,
            usage: next.0,
            kind: EntryKind::Scheduled,
            about: about.clone(),
            name: d.name.clone(),
            what: String::new(),
            cost: d.cost.mean,
            became: None,
        });
        next = after(d.every_usage, d.every_years, pace, next.0, next.1);
    }
    out
}

/// What is budgeted for or watched; none for what is renewed, held money for or left alone.
fn expected(p: &PlannedPoint, a: &Assessment, pace: &Pace) -> Option<CalendarEntry> {
    let result = a.points.iter().find(|x| x.at == p.at)?;
    let (kind, at, what) = match p.action {
        PlanAction::Budget => (EntryKind::Budget, result.needs_at.p50, p.job.clone()),
        PlanAction::Watch => (EntryKind::Watch, result.needs_at.p10, p.sign.clone().unwrap_or_default()),
        PlanAction::Renew | PlanAction::Hold | PlanAction::Nothing => return None,
    };
    // The judgement is of its own day; on a later day an entry is no earlier than that day.
    let usage = at.unwrap_or(pace.usage).clamp(pace.usage, pace.end);
    Some(CalendarEntry {
        date: pace.day(usage),
        usage,
        kind,
        about: JobAt::Point(p.at.clone()),
        name: p.name.clone(),
        what,
        cost: if kind == EntryKind::Budget { result.cost.mean } else { 0.0 },
        became: None,
    })
}

/// Each entry of the log closes the first open entry of the calendar that is about the same; what was sound
/// closes nothing that must be done.
fn settle(candidate: &Candidate, entries: &mut [CalendarEntry]) {
    for log in &candidate.log {
        let about = match &log.about {
            LogAbout::Point { family, point } => {
                JobAt::Point(PointRef { family: family.clone(), point: point.clone() })
            }
            LogAbout::Work { family, interval } => {
                JobAt::Work(IntervalRef { family: family.clone(), interval: interval.clone() })
            }
            LogAbout::Other { .. } => continue,
        };
        let open = |e: &&mut CalendarEntry| {
            e.became.is_none() && e.about == about && (log.what != LogKind::Sound || e.kind == EntryKind::Watch)
        };
        if let Some(e) = entries.iter_mut().find(open) {
            e.became = Some(log.what);
        }
    }
}

struct Pace {
    from: Date,
    usage: f64,
    a_year: f64,
    /// Usage at the end of the plan.
    end: f64,
}

impl Pace {
    fn day(&self, usage: f64) -> Date {
        day_after(self.from, (usage - self.usage) / self.a_year)
    }

    fn usage_on(&self, day: Date) -> f64 {
        self.usage + crate::base::units::years_between(self.from, day) * self.a_year
    }
}

/// When something comes round again after it was done, whichever clock is first.
fn after(every: Option<f64>, years: Option<f64>, pace: &Pace, usage: f64, date: Date) -> (f64, Date) {
    let by_usage = every.map_or(f64::INFINITY, |u| usage + u);
    let on = years.map(|y| crate::evidence::intervals::years_on(date, y));
    match on {
        Some(d) if pace.usage_on(d) < by_usage => (pace.usage_on(d), d),
        _ if by_usage.is_finite() => (by_usage, pace.day(by_usage)),
        _ => (f64::INFINITY, Date::MAX),
    }
}
