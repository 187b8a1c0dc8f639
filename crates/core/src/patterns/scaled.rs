//! A pattern brought to the size and the clock of the thing.

use crate::base::units::{Money, UsageClock};
use crate::documents::assumptions::Assumptions;
use crate::documents::claim::{LifeClaim, LifeClock, LifeForm};
use crate::documents::job::{HoursRange, MoneyRange};
use crate::documents::pattern::{Pattern, Scale};

/// A pattern with its jobs scaled to a size and its usage on a clock.
pub(crate) fn scaled(mut pattern: Pattern, scale: Scale, clock: UsageClock, a: &Assumptions) -> Pattern {
    for job in &mut pattern.jobs {
        job.parts.values_mut().chain(job.sundries.as_mut()).for_each(|m| money(m, scale.parts));
        job.hours.iter_mut().for_each(|h| hours(h, scale.hours));
    }
    pattern.access.iter_mut().for_each(|g| g.hours = tidy(g.hours * scale.hours));
    let times = match (pattern.clock, clock) {
        (UsageClock::Hours, UsageClock::Km) => a.km_an_hour,
        (UsageClock::Km, UsageClock::Hours) => 1.0 / a.km_an_hour,
        _ => return pattern,
    };
    for p in &mut pattern.points {
        let revised = p.revision.iter_mut().chain(&mut p.revisions).flat_map(|r| &mut r.life);
        p.life.iter_mut().chain(revised).for_each(|c| life(c, times));
        p.repair_delay.iter_mut().for_each(|x| *x *= times);
        if let Some(w) = &mut p.warning {
            w.lead *= times;
            w.every *= times;
        }
    }
    let links = pattern.checks.iter_mut().flat_map(|c| &mut c.links);
    links.filter_map(|l| l.lead.as_mut()).for_each(|x| *x *= times);
    pattern.intervals.iter_mut().filter_map(|i| i.usage.as_mut()).for_each(|x| *x *= times);
    pattern.care_rules.iter_mut().filter_map(|r| r.usage.as_mut()).for_each(|x| *x *= times);
    pattern
}

/// Without the tail of digits that a product leaves.
fn tidy(x: f64) -> f64 {
    (x * 1e4).round() / 1e4
}

fn money(range: &mut MoneyRange, times: f64) {
    for m in [&mut range.low, &mut range.likely, &mut range.high] {
        if let Ok(scaled) = Money::try_from(tidy(m.get() * times)) {
            *m = scaled;
        }
    }
}

fn hours(range: &mut HoursRange, times: f64) {
    [&mut range.low, &mut range.likely, &mut range.high].into_iter().for_each(|h| *h = tidy(*h * times));
}

fn life(claim: &mut LifeClaim, times: f64) {
    if claim.clock == LifeClock::Age {
        return;
    }
    match &mut claim.says {
        LifeForm::Between { from, to } => {
            *from *= times;
            *to *= times;
        }
        LifeForm::FromAbout { at }
        | LifeForm::About { at }
        | LifeForm::RarelyBeyond { at }
        | LifeForm::AtLeast { at } => *at *= times,
        LifeForm::Quantiles { points } => points.iter_mut().for_each(|q| q.x *= times),
        LifeForm::Weibull { scale, .. } => *scale *= times,
    }
}
